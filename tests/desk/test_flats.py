# SPDX-License-Identifier: GPL-3.0-or-later
"""Flats in the real window: pouring, pots, gaps and bridges, seen on the screen."""

from pathlib import Path

import msgspec
import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QMenu

from drip_pot.book import verbs
from drip_pot.book.values import DAMS, FLATS, INKS, POURS, PRESS
from drip_pot.book.verbs import pots as pots_of
from drip_pot.desk.stages.inks.inking import Inking
from drip_pot.desk.view.render import render_tile
from drip_pot.files import open_book
from tests.conftest import two_rooms, write_png
from tests.desk.conftest import LEFT, Driver, Mods


def test_the_whole_way_from_opening_to_files_and_back(demo: Driver, tmp_path: Path) -> None:
    """Open the demo, pour, undo, redo, cut shade, export, close, reopen: all is there."""
    row, col = demo.middle("Air")
    demo.easel.choose_pot(demo.pot("Dusk"))
    demo.click(row, col)
    assert demo.pot_at(row, col) == "Dusk"
    assert demo.color_at(row, col) == "#f2a979"
    demo.keys("Ctrl+Z")
    assert demo.pot_at(row, col) == "Air"
    assert demo.color_at(row, col) == "#a8d4e0"
    demo.keys("Ctrl+Shift+Z", "Alt+3")
    demo.drag((row - 15, col - 15), (row - 15, col + 15), (row + 15, col + 15), (row + 15, col - 15))
    plane = demo.book.plane(f"page/{demo.easel.page}/pass/1").whole()
    assert plane[row, col] == 255
    shadow = demo.book.tone_pair(demo.book.pots()[demo.pot("Dusk")])[1]
    assert demo.color_at(row, col) == shadow
    assert [s.title for s in demo.book.history[-2:]] == ["Pour Dusk into a region", "Cut shade"]
    demo.window.exporting.write_files(tmp_path / "out", ("page", "flats", "plates", "line"), [demo.easel.page])
    demo.settle()
    assert len(list((tmp_path / "out").iterdir())) == 5, "with the job ticket"
    assert "Wrote 5 files" in demo.said()
    path, kept = demo.easel.file.path, (demo.book.values(), demo.book.tiles())
    demo.easel.opening.close()
    file, again = open_book(path)
    assert (again.values(), again.tiles()) == kept
    file.close()


def test_one_drag_pours_across_several_regions_as_one_step(demo: Driver) -> None:
    demo.easel.choose_pot(demo.pot("Cobalt"))
    steps = demo.book.position
    first, second = demo.middle("Air"), demo.middle("Flash")
    demo.drag(first, second, mods=Mods.ControlModifier, release=False)
    assert demo.book.position == steps, "nothing is kept before the gesture is finished"
    assert demo.color_at(*first) == "#2f62a8", "but it is seen at once"
    QTest.mouseRelease(demo.canvas, LEFT, Mods.ControlModifier, demo.at(*second))
    assert demo.pot_at(*first) == demo.pot_at(*second) == "Cobalt"
    assert demo.book.position == steps + 1
    assert "regions" in demo.book.history[-1].title
    demo.keys("Ctrl+Z")
    demo.drag(first, second)
    assert (demo.pot_at(*first), demo.pot_at(*second)) == ("Cobalt", "Flash"), "finished colour beside it is safe"


def test_escape_gives_a_drag_up_without_a_trace(demo: Driver) -> None:
    demo.easel.choose_pot(demo.pot("Cobalt"))
    before, spot = demo.book.values(), demo.middle("Air")
    demo.drag(spot, demo.middle("Flash"), release=False)
    QTest.keyClick(demo.canvas, Qt.Key.Key_Escape)
    QTest.mouseRelease(demo.canvas, LEFT, Mods.NoModifier, demo.at(*spot))
    assert demo.book.values() == before
    assert demo.color_at(*spot) == "#a8d4e0"


def test_ctrl_pours_every_region_of_a_pot_and_alt_or_the_right_button_takes_it(demo: Driver) -> None:
    spot = demo.middle("Tile")
    tiles = demo.easel.atoms_of_pot(demo.pot("Tile"))
    demo.easel.choose_pot(demo.pot("Slate"))
    demo.click(*spot, Mods.ControlModifier)
    assert demo.easel.atoms_of_pot(demo.pot("Tile")) == []
    assert set(tiles) <= set(demo.easel.atoms_of_pot(demo.pot("Slate")))
    demo.click(*demo.middle("Coat"), Mods.AltModifier)
    assert demo.easel.pot == demo.pot("Coat")
    QTest.mouseClick(demo.canvas, Qt.MouseButton.RightButton, Mods.NoModifier, demo.at(*spot))
    assert demo.easel.pot == demo.pot("Slate"), "no desktop takes the right button"
    switch = demo.window.status.switches["alt"]
    switch.click()
    demo.click(*demo.middle("Coat"))
    assert demo.easel.pot == demo.pot("Coat"), "nor a switch"
    demo.keys("T")
    assert demo.easel.switched == Mods.NoModifier, "it does not outlast the tool"
    demo.click(*demo.middle("Ember"))
    assert demo.easel.pot == demo.pot("Ember")


def test_digits_and_brackets_reach_every_pot(demo: Driver) -> None:
    seen = []
    for _ in range(len(demo.book.parts())):
        for digit in "123456789":
            demo.keys(digit)
            seen.append(demo.book.pots()[demo.easel.pot].name)
        demo.keys("]")
    assert set(seen) == {p.name for p in demo.book.pots().values()}
    demo.keys("0")
    spot = demo.middle("Air")
    demo.click(*spot)
    assert demo.pot_at(*spot) is None
    assert demo.color_at(*spot) == "#ffffff"
    place = demo.window.shelf.pots.place_of(demo.pot("Hat")).toPoint()
    QTest.mouseClick(demo.window.shelf.pots, LEFT, Mods.NoModifier, place)
    assert demo.easel.pot == demo.pot("Hat")
    assert demo.window.shelf.in_hand.name.text() == "Hat"


def test_the_tenth_pot_of_a_part_and_those_after_it_have_two_digits(demo: Driver) -> None:
    pots_of.add_pots(demo.book, "Wren", [(f"Scarf {k}", f"#{k:02x}8040") for k in range(1, 9)])
    demo.easel.choose_pot(demo.pot("Skin"))
    members = [n for n, pot in demo.book.pots().items() if pot.part == demo.book.pots()[demo.pot("Skin")].part]
    assert len(members) > 12
    for typed, place in (("1", 1), ("2", 12), ("3", 3), ("1", 1), ("0", 10), ("9", 9)):
        demo.keys(typed)
        assert demo.easel.pot == members[place - 1], typed
    assert [p.key for p in demo.window.shelf.pots._places if p.pot in members][:12] == [str(k) for k in range(1, 13)]
    demo.keys("1")
    demo.click(*demo.middle("Air"))
    demo.keys("2")
    assert demo.easel.pot == members[1], "after a gesture it is a number of its own"
    demo.keys("0")
    assert demo.easel.pot is None
    air = demo.pot("Air")
    pots_of.pin_pot(demo.book, demo.easel.page, 2, air)
    assert {p.key for p in demo.window.shelf.pots._places if p.pot in (air, members[1])} == {"2", ""}
    demo.keys("2")
    assert demo.easel.pot == air, "a key that is pinned is its pot's, whichever part is in hand"
    menu = demo.window.pots.fill(QMenu(), air, 0)
    free = next(a for one in menu.actions() if one.menu() for a in one.menu().actions() if a.text() == "Free the key 2")
    free.trigger()
    demo.easel.choose_pot(members[0])
    demo.keys("2")
    assert demo.easel.pot == members[1]


def test_changing_a_pot_changes_all_of_it_at_once(demo: Driver, answer) -> None:
    spots = [demo.middle("Ember"), demo.middle("Coat")]
    answer(
        lambda dialog: (
            dialog.name.setText("Cherry"),
            dialog.editor.hex.setText("#c02040"),
            dialog.editor._from_digits(),
        )
    )
    demo.window.pots.edit_pot(demo.pot("Ember"))
    assert demo.color_at(*spots[0]) == "#c02040"
    assert demo.book.pots()[demo.easel.pot].name == "Cherry"
    assert demo.book.history[-1].title == "Recolour Cherry"
    answer(lambda dialog: (dialog.name.setText("Fern"), dialog.part.setCurrentText("Garden")))
    demo.window.pots.edit_pot(None)
    assert [p.name for p in demo.book.parts().values()][-1] == "Garden"
    assert demo.book.pots()[demo.easel.pot].name == "Fern"


def test_an_unnamed_pot_is_refused_in_the_dialog(demo: Driver, monkeypatch: pytest.MonkeyPatch) -> None:
    from drip_pot.desk.dialogs.pots import PotEditor

    editor = PotEditor(demo.window, demo.book, None, 1, demo.easel.sources()[PRESS])
    before = demo.book.values()
    editor.accept()
    assert "needs a name" in editor._said.text()
    editor.editor.hex.setText("green")
    editor.editor._from_digits()
    assert "is not a colour" in editor.editor.wrong.text()
    editor.name.setText("Ember")
    assert "already" in editor._said.text()
    assert not editor.yes.isEnabled(), "two pots of one name could not be told apart"
    editor.name.setText("Ember glow")
    editor.part.setEditText("Lanterns")
    assert editor.yes.isEnabled()
    assert editor._said.text() == "Lanterns will be a new part."
    assert demo.book.values() == before
    editor.reject()


def test_a_pot_takes_a_shadow_of_its_own_and_all_of_the_dialog_is_one_step(demo: Driver, answer) -> None:
    coat = demo.pot("Coat")
    by_rule = demo.book.tone_pair(demo.book.pots()[coat])[1]
    steps = demo.book.position

    def work(dialog) -> None:
        dialog.own_shadow.click()
        dialog.name.setText("Great coat")
        dialog.editor.cmyk[0].setValue(80)
        assert dialog.inks.how.currentIndex() == 1, "inks that were typed are kept"

    answer(work)
    demo.window.pots.edit_pot(coat)
    changed = demo.book.pots()[coat]
    assert (changed.name, changed.shadow, changed.inks[0]) == ("Great coat", by_rule, 80)
    demo.keys("Ctrl+Z")
    assert demo.book.pots()[coat].name == "Coat"
    assert demo.book.position == steps
    assert demo.book.pots()[coat].inks is None


def test_loud_and_local_views_switch_and_chips_say_so(demo: Driver) -> None:
    spot = demo.middle("Air")
    demo.keys("U")
    loud = demo.color_at(*spot)
    assert loud != "#a8d4e0"
    on = {c.text() for c in demo.window.chips.children() if hasattr(c, "isChecked") and c.isChecked()}
    assert {"Loud", "Lines"} <= on
    demo.keys("U")
    assert demo.color_at(*spot) == "#a8d4e0"


def test_loud_colours_are_told_by_hatching_as_well(demo: Driver) -> None:
    flat = demo.easel.view.flat
    demo.keys("U")
    demo.settle()
    demo.window.seen["lines"] = False
    demo.window.seen["hatched"] = True
    demo.settle()
    loud, found = demo.easel.view.flat.loud, set[bool]()
    for name in ("Air", "Coat", "Flash", "Tile"):
        row, col = demo.middle(name)
        atom = flat.labels[0][row, col]
        near = [(row + d, col + d) for d in range(-12, 13) if flat.labels[0][row + d, col + d] == atom]
        near += [(row + d, col - d) for d in range(-12, 13) if flat.labels[0][row + d, col - d] == atom]
        tones = {tuple(tile_pixel(demo, *at)) for at in near}
        assert (len(tones) > 1) == (loud[atom] % 4 > 0), name
        found.add(len(tones) > 1)
    assert True in found


def test_the_line_is_shown_as_strongly_as_its_slider_says(demo: Driver) -> None:
    ink = demo.easel.view.drawing.ink[0]
    row, col = next(
        (int(r), int(c)) for r, c in np.argwhere(ink == 255) if ink[r - 1 : r + 2, c - 1 : c + 2].min() == 255
    )
    full = tile_pixel(demo, row, col)
    slider = demo.window.chips._sliders["Lines"]
    slider.setValue(0)
    demo.settle()
    bare = tile_pixel(demo, row, col)
    assert max(bare) > max(full) + 60
    slider.setValue(50)
    demo.settle()
    assert np.abs(np.array(tile_pixel(demo, row, col)) - (np.array(full) + bare) / 2).max() <= 1
    demo.keys("Alt+3")
    demo.settle()
    assert demo.window.chips._sliders["Lines"].value() == 50, "it is the same in Shade"


def tile_pixel(demo: Driver, row: int, col: int) -> list[int]:
    """Return a page pixel as it is drawn at full size."""
    tile = render_tile(demo.easel.view, demo.canvas.look, 0, row // 256, col // 256)
    color = tile.pixelColor(col % 256, row % 256)
    return [color.red(), color.green(), color.blue()]


def test_the_gap_bars_work_live_and_keep_one_step(demo: Driver) -> None:
    bars, steps = demo.window.inspector.panels["Flats"].bars, demo.book.position
    regions = len(np.unique(demo.easel.view.flat.partition.region))

    def spot(px: float):
        return QPointF(bars._x(px), 40).toPoint()

    QTest.mousePress(bars, LEFT, Mods.NoModifier, spot(8))
    QTest.mouseMove(bars, spot(1))
    bars._gap = 0.0
    bars.moved.emit(0.0)
    fewer = len(np.unique(demo.easel.view.flat.partition.region))
    assert fewer < regions
    assert demo.book.position == steps
    QTest.mouseRelease(bars, LEFT, Mods.NoModifier, spot(0))
    assert demo.book.position == steps + 1
    assert demo.easel.sources()[FLATS].gap_px == 0
    assert demo.window.inspector.panels["Flats"].gap.value() == 0
    demo.window.inspector.panels["Flats"].auto.click()
    assert demo.easel.sources()[FLATS].gap_px is None
    assert len(np.unique(demo.easel.view.flat.partition.region)) == regions


def test_a_bridge_is_refused_and_kept_by_clicking_it(window: Driver, tmp_path: Path) -> None:
    window.easel.opening.open(write_png(tmp_path / "rooms.png", two_rooms(9)))
    window.settle()
    demo = window
    assert demo.easel.stage == "Inks", "a drawing begins at its line"
    demo.easel.choose_stage("Flats")
    assert demo.easel.region_atoms(demo.easel.atom_at(100, 80)) != demo.easel.region_atoms(demo.easel.atom_at(100, 220))
    demo.keys("B")
    demo.click(100, 150)
    assert demo.easel.atom_at(100, 220) in demo.easel.region_atoms(demo.easel.atom_at(100, 80))
    assert "1 refused" in demo.window.inspector.panels["Flats"].bridges.text()
    demo.click(100, 150)
    assert demo.easel.atom_at(100, 220) not in demo.easel.region_atoms(demo.easel.atom_at(100, 80))
    demo.click(30, 280)
    assert "no bridge here" in demo.said()


def test_findings_are_walked_mended_and_left_by_keys(demo: Driver) -> None:
    demo.easel.show_page(list(demo.book.pages())[1])
    demo.settle()
    demo.easel.do(lambda book, page: verbs.set_gap(book, page, 2))
    demo.settle()
    assert len(demo.easel.findings["Flats"]) > 2
    demo.keys("N")
    first = demo.window.look_here.current()
    assert demo.canvas.focus_rect == first.rect
    demo.keys("Backspace")
    demo.settle()
    assert first.key not in [f.key for f in demo.easel.findings["Flats"]]
    leak = next(f for f in demo.easel.findings["Flats"] if f.verb == "Bridge")
    demo.window.look_here.go(leak)
    demo.keys("Return")
    demo.settle()
    assert demo.book.history[-1].title == "Keep a bridge"
    assert leak.key not in [f.key for f in demo.easel.findings["Flats"]]


def test_pouring_redraws_only_what_is_seen_of_it(demo: Driver) -> None:
    demo.canvas.set_zoom(1.0)
    demo.settle()
    row, col = demo.middle("Brick", 60)
    demo.canvas.go_to((row - 20, col - 20, row + 20, col + 20))
    demo.settle()
    drawn = demo.canvas.tiles.drawn_count
    atoms = len(demo.easel.region_atoms(demo.easel.atom_at(row, col)))
    demo.easel.choose_pot(demo.pot("Straw"))
    demo.easel.deriving.looking.findings = {stage: [] for stage in demo.easel.findings}
    demo.click(row, col)
    QTest.qWait(100)
    tiles = (demo.canvas.tiles.drawn_count - drawn) / 2
    assert tiles <= 4 * max(atoms, 1), "a pour redraws the tiles of its regions, once before and once after"
    assert demo.color_at(row, col) == "#f1dfae"


def test_colours_stay_when_the_line_is_changed_and_come_back_on_undo(demo: Driver) -> None:
    spots = {name: demo.middle(name) for name in ("Air", "Coat", "Ember", "Flash")}
    before = demo.book.values()
    inks = demo.easel.sources()[INKS][0]
    demo.easel.own(Inking).set_inks(
        msgspec.structs.replace(inks, settings=msgspec.structs.replace(inks.settings, weight_px=0.5))
    )
    demo.click(*spots["Air"])
    assert "still being found" in demo.said()
    demo.settle()
    assert {name: demo.pot_at(*spot) for name, spot in spots.items()} == {name: name for name in spots}
    assert demo.book.history[-1].joined
    demo.keys("Ctrl+Z")
    demo.settle()
    assert demo.book.values() == before
    assert {name: demo.pot_at(*spot) for name, spot in spots.items()} == {name: name for name in spots}


def test_a_dam_is_drawn_moved_by_its_end_and_taken_away(demo: Driver) -> None:
    demo.keys("Alt+2", "A")
    row, col = demo.middle("Air", 4000)
    view = demo.easel.view
    cols = np.flatnonzero(demo.easel.view.flat.labels[0][row] == view.flat.labels[0][row, col])
    left, right = int(cols[0]) - 8, int(cols[-1]) + 8
    count = view.flat.atoms.count
    demo.drag((row, left), (row, right), mods=Mods.ShiftModifier)
    demo.settle()
    assert demo.easel.view.flat.atoms.count > count
    assert demo.pot_at(row - 3, col) == demo.pot_at(row + 3, col) == "Air"
    (dam,) = demo.easel.sources()[DAMS].values()
    demo.drag(dam[-1], (dam[-1][0] + 12, dam[-1][1]))
    demo.settle()
    (moved,) = demo.easel.sources()[DAMS].values()
    assert moved[-1][0] == pytest.approx(dam[-1][0] + 12, abs=4)
    demo.click(*moved[0], mods=Mods.AltModifier)
    demo.settle()
    assert demo.easel.sources()[DAMS] == {}
    assert demo.easel.view.flat.atoms.count == count


def test_a_door_joins_two_regions_at_once(demo: Driver) -> None:
    demo.keys("Alt+2", "O")
    part, view = demo.easel.view.flat.partition, demo.easel.view
    feet = np.argwhere(view.flat.labels[0][:, 1:] != view.flat.labels[0][:, :-1])
    labels = view.flat.labels[0]
    row, col = next(
        (int(r), int(c))
        for r, c in feet[len(feet) // 2 :]
        if 10 < c < labels.shape[1] - 12 and part.region[labels[r, c - 6]] != part.region[labels[r, c + 6]]
    )
    demo.canvas.go_to((row - 40, col - 40, row + 40, col + 40))
    demo.drag((row, col - 6), (row, col + 6), mods=Mods.ShiftModifier)
    region = demo.easel.view.flat.partition.region
    assert region[labels[row, col - 6]] == region[labels[row, col + 6]]
    demo.keys("Ctrl+Z")
    region = demo.easel.view.flat.partition.region
    assert region[labels[row, col - 6]] != region[labels[row, col + 6]]


def test_a_bridge_is_drawn_by_hand_and_a_found_one_is_moved(window: Driver, tmp_path: Path) -> None:
    window.easel.opening.open(write_png(tmp_path / "rooms.png", two_rooms(16, rows=400, cols=500)))
    window.settle()
    window.keys("Alt+2", "B")
    window.canvas.set_zoom(1.0)
    window.canvas.go_to((0, 0, 400, 500))
    window.settle()
    window.drag((300, 20), (300, 250))
    window.settle()
    labels, region = window.easel.view.flat.labels[0], window.easel.view.flat.partition.region
    assert region[labels[250, 100]] != region[labels[350, 100]]
    assert window.book.history[-1].title == "Draw a bridge"
    window.drag((192, 250), (200, 478))
    window.settle()
    assert window.book.history[-1].title == "Move a bridge"
    assert [keep for _, _, keep in window.easel.sources().choices] == [False]
    steps = window.book.position
    window.click(100, 100)
    assert window.book.position == steps
    assert "There is no bridge here" in window.said()


def test_small_regions_are_joined_from_the_inspector_and_come_back(demo: Driver) -> None:
    demo.keys("Alt+2")
    panel = demo.window.inspector.panels["Flats"]
    before = len(np.unique(demo.easel.view.flat.partition.region))
    panel.least.box.setValue(2000)
    assert len(np.unique(demo.easel.view.flat.partition.region)) <= before
    assert demo.book.history[-1].title == "Smallest region 2000 px"
    demo.keys("Ctrl+Z")
    assert len(np.unique(demo.easel.view.flat.partition.region)) == before


def test_regions_are_seen_as_outlines(demo: Driver) -> None:
    demo.keys("Alt+2")
    demo.window.seen.flip("outline")
    demo.settle()
    view, look = demo.easel.view, demo.canvas.look
    tile = render_tile(view, look, 0, 0, 0)
    colors = {tile.pixelColor(x, y).name() for x in range(0, 256, 3) for y in range(0, 256, 3)}
    assert colors <= {"#000000", "#ffffff"}
    assert len(colors) == 2


def test_a_loop_fills_what_lies_wholly_inside_and_only_what_is_empty_on_wish(demo: Driver) -> None:
    demo.keys("Alt+2", "C")
    view, sources = demo.easel.view, demo.easel.sources()
    areas, boxes = view.flat.facts.areas, view.flat.facts.boxes
    region = view.flat.partition.region
    whole = [a for a in sources[POURS] if (region == region[a]).sum() == 1]
    inner = [a for a in whole if 60 < areas[a] < 900 and boxes[a, 0] > 60 and boxes[a, 1] > 60]
    atom = max(inner, key=lambda a: int(areas[a]))
    top, left, bottom, right = (int(v) for v in boxes[atom])
    demo.easel.choose_pot(demo.pot("Ember"))
    loop = ((top - 6, left - 6), (top - 6, right + 6), (bottom + 6, right + 6), (bottom + 6, left - 6))
    demo.drag(*loop)
    after = demo.easel.sources()[POURS]
    assert after[atom] == demo.pot("Ember")
    outside = [a for a in after if boxes[a, 2] <= top - 8 or boxes[a, 0] >= bottom + 8]
    assert all(after[a] == sources[POURS][a] for a in outside)
    demo.keys("Ctrl+Z")
    demo.drag(*loop, mods=Mods.ShiftModifier)
    assert demo.easel.sources()[POURS][atom] == sources[POURS][atom]
    demo.drag((2, 2), (2, 6), (6, 6))
    assert "wholly inside" in demo.said()


def test_a_sweep_fills_only_what_is_empty(demo: Driver) -> None:
    demo.keys("Alt+2", "S")
    row, col = demo.middle("Air")
    verbs.pour(demo.book, demo.easel.page, demo.easel.region_atoms(demo.easel.atom_at(row, col)), None)
    others = dict(demo.easel.sources()[POURS])
    demo.easel.choose_pot(demo.pot("Ember"))
    for _ in range(12):
        demo.keys("[")
    demo.drag((row, col - 4), (row, col + 4))
    assert "less than a fifth" in demo.said(), "a spot of a large region is not all of it"
    row, col = demo.middle("Ember")
    verbs.pour(demo.book, demo.easel.page, demo.easel.region_atoms(demo.easel.atom_at(row, col)), None)
    others = dict(demo.easel.sources()[POURS])
    for _ in range(20):
        demo.keys("]")
    demo.drag((row, col - 40), (row, col + 40))
    assert demo.pot_at(row, col) == "Ember", demo.said()
    assert all(demo.easel.sources()[POURS][a] == p for a, p in others.items())
    for _ in range(30):
        demo.keys("[")
    demo.drag((row, col - 1), (row, col + 1))
    assert "Nothing empty" in demo.said()
