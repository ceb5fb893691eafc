# SPDX-License-Identifier: GPL-3.0-or-later
"""The hand tools of Flats in the real window, used well and badly."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest

from drip_pot.book import verbs
from drip_pot.book.values import DAMS, PANELS, SEEDS
from drip_pot.book.verbs import pots as pots_of
from drip_pot.book.verbs.cutting import cut_mask
from drip_pot.core.color import from_hex, mixed, to_hex
from drip_pot.desk.dialogs.color_taking import color_seen
from drip_pot.desk.stages.flats.flatting import Flatting
from tests.conftest import two_rooms, write_png
from tests.desk.conftest import LEFT, Driver, Mods


@pytest.fixture
def rooms(window: Driver, tmp_path: Path) -> Driver:
    """Two rooms on a page of 400 × 600 px at 100 %, the left one poured Ember, and a pot Sky in another part."""
    window.easel.opening.open(write_png(tmp_path / "rooms.png", two_rooms(rows=400, cols=600)))
    window.settle()
    pots_of.add_pots(window.book, "Figure", [("Ember", "#e2553a")])
    pots_of.add_pots(window.book, "Ground", [("Sky", "#a8d4e0"), ("Moss", "#5d7a3a")])
    window.keys("Alt+2")
    window.canvas.set_zoom(1.0)
    window.canvas.center(200, 300)
    window.easel.choose_pot(window.pot("Ember"))
    window.settle()
    window.click(200, 80)
    window.easel.choose_pot(window.pot("Sky"))
    window.settle()
    return window


def block(rooms: Driver):
    return rooms.window.inspector.panels["Flats"].tool


def test_strength_mixes_the_pot_into_what_is_there(rooms: Driver) -> None:
    block(rooms).strength.box.setValue(50)
    rooms.click(200, 80)
    assert rooms.pot_at(200, 80) == "Ember + 50 % Sky"
    assert rooms.color_at(200, 80) == to_hex(mixed(from_hex("#e2553a"), from_hex("#a8d4e0"), 0.5))
    rooms.keys("Ctrl+Z")
    assert rooms.pot_at(200, 80) == "Ember"
    assert rooms.color_at(200, 80) == "#e2553a"


@pytest.mark.parametrize(
    ("shape", "spots", "inside", "outside"),
    [
        ("Freehand", [(100, 100), (100, 200), (200, 200), (200, 100)], (150, 150), (250, 150)),
        ("Box", [(100, 100), (200, 220)], (198, 218), (205, 218)),
        ("Oval", [(100, 100), (200, 220)], (150, 160), (104, 104)),
        ("Pencil", [(150, 60), (150, 240)], (150, 240), (160, 150)),
    ],
)
def test_every_shape_cuts_out_hard_edged_across_the_line_or_not(
    rooms: Driver, shape: str, spots: list, inside: tuple, outside: tuple
) -> None:
    rooms.keys("X")
    block(rooms).shape.buttons[shape].click()
    steps = rooms.book.position
    rooms.drag(*spots)
    rooms.settle()
    assert rooms.book.position == steps + 1
    assert (rooms.pot_at(*inside), rooms.pot_at(*outside)) == ("Sky", "Ember")
    rooms.window.seen["lines"] = False
    assert rooms.color_at(*inside) == "#a8d4e0"
    image = rooms.canvas.grab().toImage()
    spot = rooms.at(100, 60)
    seen = {image.pixelColor(spot.x() + dx, spot.y() + dy).name() for dx in range(180) for dy in range(0, 120, 3)}
    assert seen <= {"#e2553a", "#a8d4e0", "#161616", "#ffffff"}, "never a colour in between, at any edge"
    rooms.drag(*spots, mods=Mods.AltModifier)
    rooms.settle()
    assert rooms.pot_at(*inside) == "Ember", "Alt gives it back"
    rooms.keys("Ctrl+Z", "Ctrl+Z")
    assert rooms.pot_at(*inside) == "Ember"


def test_a_straight_shape_is_clicked_corner_by_corner_and_given_up_by_another_tool(rooms: Driver) -> None:
    rooms.keys("X")
    block(rooms).shape.buttons["Straight"].click()
    steps = rooms.book.position
    for corner in ((100, 100), (100, 200), (200, 200)):
        rooms.click(*corner)
    rooms.keys("P", "X")
    rooms.click(102, 101)
    assert rooms.book.position == steps, "the corners were forgotten"
    for corner in ((100, 200), (200, 200), (103, 102)):
        rooms.click(*corner)
    rooms.settle()
    assert rooms.book.position == steps + 1
    assert (rooms.pot_at(120, 180), rooms.pot_at(190, 110)) == ("Sky", "Ember")
    rooms.drag((60, 60), (60, 90), mods=Mods.ShiftModifier)
    QTest.keyClick(rooms.canvas, Qt.Key.Key_Escape)
    assert rooms.book.position == steps + 1


def test_shift_cuts_out_in_the_colour_it_lies_on(rooms: Driver) -> None:
    rooms.keys("X")
    before = rooms.easel.atom_at(150, 150)
    rooms.drag((100, 100), (100, 200), (200, 200), (200, 100), mods=Mods.ShiftModifier)
    rooms.settle()
    assert rooms.pot_at(150, 150) == "Ember"
    assert rooms.easel.atom_at(150, 150) != before


def test_the_leash_cannot_leave_the_region_it_began_in(rooms: Driver) -> None:
    rooms.keys("L", "]")
    assert rooms.easel.own(Flatting).widths["Leash"] == 75
    rooms.drag((200, 250), (200, 400), (30, 400), (-40, 700), release=False)
    assert rooms.canvas.grab().toImage().pixelColor(rooms.at(200, 270)).name() == "#a8d4e0", "seen at once"
    assert rooms.canvas.grab().toImage().pixelColor(rooms.at(200, 400)).name() == "#ffffff"
    QTest.mouseRelease(rooms.canvas, LEFT, Mods.NoModifier, rooms.at(-40, 700))
    rooms.settle()
    assert rooms.pot_at(200, 270) == "Sky"
    assert rooms.pot_at(200, 400) is None
    assert rooms.pot_at(60, 60) == "Ember"
    rooms.easel.choose_pot(rooms.pot("Moss"))
    rooms.drag((60, 60), (200, 270), mods=Mods.ControlModifier | Mods.ShiftModifier)
    assert (rooms.pot_at(100, 107), rooms.pot_at(200, 270)) == ("Moss", "Sky"), "within the part it is not Sky's"


def test_picked_regions_are_outlined_and_changed_together(rooms: Driver) -> None:
    rooms.keys("K")
    rooms.click(200, 80)
    rooms.click(200, 450, Mods.ShiftModifier)
    assert block(rooms).note.text() == "2 regions"
    spot = rooms.at(200, 20)
    image = rooms.canvas.grab().toImage()
    strip = [image.pixelColor(spot.x() + d, spot.y()).name() for d in range(-4, 5)]
    rooms.click(200, 450, Mods.AltModifier)
    assert block(rooms).note.text() == "1 region"
    rooms.easel.own(Flatting).pick_more("neighbours")
    assert len(rooms.easel.picked) == 3
    rooms.easel.own(Flatting).pour(set(rooms.easel.picked))
    assert rooms.pot_at(200, 450) == rooms.pot_at(5, 5) == "Sky"
    rooms.click(200, 450)
    rooms.easel.own(Flatting).own_pot()
    assert rooms.pot_at(200, 450) == "Sky 2"
    hue = block(rooms).shifts[2]
    hue.slider.setSliderDown(True)
    hue.slider.setValue(hue.slider.value() + 60)
    assert rooms.color_at(200, 450) != "#a8d4e0", "seen while it moves"
    assert rooms.book.pots()[rooms.pot("Sky 2")].local == "#a8d4e0"
    hue.slider.setSliderDown(False)
    hue.slider.sliderReleased.emit()
    assert rooms.book.pots()[rooms.pot("Sky 2")].local == rooms.color_at(200, 450) != "#a8d4e0"
    assert hue.value() == 0
    rooms.easel.own(Flatting).pick_more("part")
    block(rooms).part.activated.emit(1)
    assert rooms.book.parts()[rooms.book.pots()[rooms.pot("Sky")].part].name == "Figure"
    QTest.keyClick(rooms.canvas, Qt.Key.Key_Escape)
    assert not rooms.easel.picked
    image = rooms.canvas.grab().toImage()
    assert strip != [image.pixelColor(spot.x() + d, spot.y()).name() for d in range(-4, 5)], "it was outlined"


def test_joined_regions_pour_as_one_and_split_ones_do_not(rooms: Driver) -> None:
    rooms.keys("K")
    rooms.click(200, 80)
    rooms.easel.own(Flatting).join()
    assert "two regions or more" in rooms.said()
    rooms.click(200, 450, Mods.ShiftModifier)
    rooms.easel.own(Flatting).join()
    rooms.keys("P")
    rooms.click(200, 80)
    assert rooms.pot_at(200, 450) == "Sky"
    rooms.keys("K")
    rooms.click(200, 80)
    rooms.easel.own(Flatting).split()
    rooms.settle()
    rooms.easel.choose_pot(rooms.pot("Moss"))
    rooms.keys("P")
    rooms.click(200, 80)
    assert {rooms.pot_at(200, 80), rooms.pot_at(200, 450)} == {"Moss", "Sky"}
    rooms.easel.pick(set(rooms.easel.region_atoms(rooms.easel.atom_at(200, 450))))
    rooms.easel.own(Flatting).split()
    rooms.worked_out()
    assert "all one piece" in rooms.said()
    rooms.easel.do(lambda book, page: verbs.set_door(book, page, ((200.0, 290.0), (200.0, 310.0))))
    rooms.easel.pick(set(rooms.easel.region_atoms(rooms.easel.atom_at(200, 450))))
    rooms.easel.own(Flatting).split()
    rooms.worked_out()
    region = rooms.easel.view.flat.partition.region
    assert region[rooms.easel.atom_at(200, 80)] != region[rooms.easel.atom_at(200, 450)]


def test_silhouette_fills_what_the_ground_encloses(rooms: Driver) -> None:
    rooms.keys("H")
    rooms.click(5, 5)
    assert rooms.pot_at(200, 80) == rooms.pot_at(200, 450) == "Sky"
    rooms.click(200, 80)
    assert "encloses nothing" in rooms.said()
    rooms.easel.choose_pot(rooms.pot("Ember"))
    rooms.click(5, 5, Mods.AltModifier)
    assert len(rooms.easel.picked) == 2, "Alt only shows what is not of the part in hand"


def test_panels_are_poured_and_tools_confined_to_one(demo: Driver) -> None:
    demo.keys("F")
    panels = demo.easel.view.flat.panels
    assert len(panels.rects) == 5
    assert block(demo).note.text() == "5 found"
    top, left, bottom, right = panels.rects[1]
    spot = (top + bottom) // 2, (left + right) // 2
    demo.click(*spot, Mods.ShiftModifier)
    assert "panel 2 alone" in demo.said()
    demo.easel.choose_pot(demo.pot("Moss") if "Moss" in {p.name for p in demo.book.pots().values()} else 1)
    name = demo.book.pots()[demo.easel.pot].name
    demo.keys("C")
    rows, cols = demo.easel.view.shape
    demo.drag((2, 2), (2, cols - 3), (rows - 3, cols - 3), (rows - 3, 2))
    inside = {demo.easel.view.flat.panels.panel[a] for a in demo.easel.atoms_of_pot(demo.easel.pot)}
    assert inside >= {2}
    demo.keys("Ctrl+Z", "P")
    other = panels.rects[0]
    demo.click((other[0] + other[2]) // 2, (other[1] + other[3]) // 2)
    assert "confined to panel 2" in demo.said()
    QTest.keyClick(demo.canvas, Qt.Key.Key_Escape)
    assert demo.easel.within == 0
    demo.keys("F")
    demo.click(*spot, Mods.ControlModifier)
    assert demo.pot_at(*spot) == name


def test_seeds_are_scribbled_moved_and_settled_in_the_window(rooms: Driver) -> None:
    rooms.keys("E")
    rooms.drag((200, 400), (220, 450), release=False)
    assert rooms.color_at(100, 500) == "#a8d4e0", "seen while it is drawn"
    assert rooms.pot_at(100, 500) is None
    QTest.mouseRelease(rooms.canvas, LEFT, Mods.NoModifier, rooms.at(220, 450))
    rooms.settle()
    assert rooms.pot_at(100, 500) == "Sky"
    assert block(rooms).note.text() == "1 sown"
    rooms.easel.choose_pot(rooms.pot("Moss"))
    rooms.click(200, 400, Mods.ShiftModifier)
    assert rooms.pot_at(100, 500) == "Moss"
    rooms.drag((200, 400), (100, 100))
    rooms.settle()
    assert (rooms.pot_at(100, 500), rooms.pot_at(300, 80)) == (None, "Moss"), "under a scribble it takes what was there"
    block(rooms).settle.click()
    assert rooms.easel.sources()[SEEDS] == {}
    rooms.keys("Ctrl+Z")
    seed = rooms.easel.sources()[SEEDS][1]
    rooms.click(*seed.path[0], Mods.AltModifier)
    assert rooms.pot_at(300, 80) is None


def test_odd_hands_change_nothing_they_should_not(rooms: Driver) -> None:
    rooms.settle()
    before, steps = rooms.book.values(), rooms.book.position
    for key in "CXLSEAO":
        rooms.keys(key)
        if key != "E":
            rooms.click(-30, -30)
        if key == "X":
            rooms.click(100, 100)
            rooms.drag((100, 100), (100, 160), (100, 100))
            assert rooms.book.position == steps, "what has no area cuts nothing out"
        rooms.drag((-80, -80), (-20, -60), (-40, -90))
        rooms.settle()
        while rooms.book.position > steps:
            rooms.easel.undo()
        assert rooms.book.values() == before, key
    rooms.keys("X")
    rooms.drag((100, 100), (100, 200), (200, 200), release=False)
    rooms.keys("Ctrl+Z")
    assert rooms.book.position == steps, "undo in mid-stroke gives the stroke up and nothing else"
    QTest.mouseRelease(rooms.canvas, LEFT, Mods.NoModifier, rooms.at(200, 200))
    rooms.drag((100, 100), (100, 200), (200, 200), release=False)
    rooms.keys("P")
    QTest.mouseRelease(rooms.canvas, LEFT, Mods.NoModifier, rooms.at(200, 200))
    assert rooms.book.values() == before, "another tool in mid-stroke gives it up as well"
    rooms.keys("L")
    rooms.drag((100, 100), (100, 200), release=False)
    pots_of.remove_pot(rooms.book, rooms.pot("Sky"), None)
    QTest.mouseRelease(rooms.canvas, LEFT, Mods.NoModifier, rooms.at(100, 200))
    assert rooms.pot_at(100, 150) == "Ember", "the pot went away, and the stroke with it"
    rooms.keys("X")
    turn = np.linspace(0, 12 * np.pi, 3000)
    points = [(200 + 90 * np.sin(3 * t), 150 + 60 * np.cos(2 * t + 0.3)) for t in turn.tolist()]
    rooms.easel.own(Flatting).shape = "Freehand"
    rooms.easel.own(Flatting).cut_out(points, back=False, keep=False)
    rooms.easel.own(Flatting).cut_out([(float("nan"), 1.0), (2.0, 3.0), (5.0, 9.0)], back=False, keep=False)
    rooms.worked_out()
    labels = rooms.easel.view.flat.labels[0]
    assert labels.min() >= 1
    rooms.easel.own(Flatting).widths["Cut-out"] = 1.0
    rooms.easel.own(Flatting).shape = "Pencil"
    rooms.easel.pressure = 0.0
    rooms.easel.own(Flatting).cut_out([(50.0, 50.0), (50.0, 90.0)], back=False, keep=False)
    rooms.worked_out()
    assert rooms.pot_at(50, 70) == rooms.book.pots()[rooms.easel.pot].name


def test_the_view_is_turned_mirrored_and_seen_whole(rooms: Driver) -> None:
    rooms.keys("Y", "Ctrl+Right", "Ctrl+2")
    assert rooms.canvas.mirrored
    row, col = rooms.canvas.to_page(QPointF(rooms.at(200, 80)))
    assert abs(row - 200) <= 1
    assert abs(col - 80) <= 1
    assert rooms.color_at(200, 80) == "#e2553a"
    rooms.keys("P")
    rooms.click(200, 450)
    assert rooms.pot_at(200, 450) == "Sky"
    overview = rooms.window.overview
    assert overview.isVisible()
    QTest.mouseClick(overview, LEFT, Mods.NoModifier, QPointF(3, 3).toPoint())
    middle = rooms.canvas.to_page(QPointF(rooms.canvas.width() / 2, rooms.canvas.height() / 2))
    assert max(middle) < 20
    rooms.canvas.set_zoom(12.0)
    rooms.settle()
    rooms.keys("Ctrl+Up", "Ctrl+0")
    assert (rooms.canvas.turn_deg, rooms.canvas.mirrored) == (0, False)


def test_leftovers_are_striped_and_only_they(rooms: Driver) -> None:
    def seen(row: int, col: int) -> set[str]:
        rooms.settle()
        image, spot = rooms.canvas.grab().toImage(), rooms.at(row, col)
        return {image.pixelColor(spot.x() + d, spot.y()).name() for d in range(0, 40, 3)}

    rooms.keys("J")
    assert seen(200, 400) == {"#ffffff", "#d0401a"}
    assert seen(200, 80) == {"#e2553a"}
    rooms.keys("J")
    assert seen(200, 400) == {"#ffffff"}


def test_any_earlier_step_is_compared_under_the_wipe(rooms: Driver) -> None:
    rooms.keys("X")
    steps = rooms.book.position
    rooms.drag((100, 40), (100, 280), (300, 280), (300, 40))
    rooms.settle()
    rooms.window.comparing.compare_with(steps)
    rooms.canvas.wipe = (rooms.at(200, 150).x() + 0.5) / rooms.canvas.width()
    rooms.window.overview.hide()

    def color(row: float, col: float) -> str:
        rooms.qtbot.waitUntil(rooms.canvas.past.settled)
        return rooms.color_at(row, col)

    rooms.canvas.repaint()
    assert (color(200, 100), color(200, 200)) == ("#e2553a", "#a8d4e0")
    assert rooms.book.position == steps + 1
    rooms.keys("W")
    assert rooms.color_at(200, 100) == "#a8d4e0"
    rooms.window.comparing.compare_with(0)
    assert "another one then" in rooms.said()


def test_pots_are_dragged_folded_found_and_merged_on_the_shelf(rooms: Driver, answer) -> None:
    shelf = rooms.window.shelf.pots
    sky, ember = rooms.pot("Sky"), rooms.pot("Ember")
    start, end = shelf.place_of(sky).toPoint(), shelf.place_of(ember).toPoint()
    QTest.mousePress(shelf, LEFT, Mods.NoModifier, start)
    QTest.mouseMove(shelf, end)
    shelf._drag = (sky, QPointF(start), QPointF(end))
    QTest.mouseRelease(shelf, LEFT, Mods.NoModifier, end)
    assert rooms.book.pots()[sky].part == rooms.book.pots()[ember].part
    rooms.easel.choose_pot(rooms.pot("Moss"))
    part = rooms.book.pots()[ember].part
    shelf.fold(part)
    assert ember not in [p.pot for p in shelf._places]
    shelf.fold(part)
    answer(lambda dialog: dialog.text.setText("figure emb"))
    rooms.keys("Ctrl+F")
    assert rooms.easel.pot == ember
    answer(lambda dialog: dialog.choice.setCurrentIndex(dialog.choice.findData(sky)))
    rooms.window.pots.remove_pot(ember)
    assert rooms.pot_at(200, 80) == "Sky"
    menu = rooms.window.pots.fill(__import__("PyQt6.QtWidgets").QtWidgets.QMenu(), sky, part)
    texts = [a.text() for a in menu.actions()]
    assert {"Edit Sky", "Find a pot", "Add a part"} <= set(texts)


def test_colours_are_taken_from_a_picture_a_palette_and_harmony(rooms: Driver, tmp_path: Path, answer) -> None:
    from PIL import Image

    picture = np.zeros((40, 60, 3), np.uint8)
    picture[:, :30], picture[:, 30:] = (200, 60, 40), (40, 90, 160)
    Image.fromarray(picture).save(tmp_path / "study.png")
    (tmp_path / "inks.txt").write_text("#c83c28 Brick\nnot a colour\n")

    def fill(dialog) -> None:
        dialog.open_picture(tmp_path / "none.png")
        assert "cannot be opened" in dialog.said.text()
        dialog.open_picture(tmp_path / "study.png")
        dialog.grain._on_slider(2)
        box = dialog.view.box()
        QTest.mouseClick(dialog.view, LEFT, Mods.NoModifier, (box.topLeft() + QPointF(4, 4)).toPoint())
        assert dialog.colors() == [("Red", "#c83c28")]
        dialog.take_telling()
        assert {c for _, c in dialog.colors()} == {"#c83c28", "#285aa0"}
        dialog.read_palette(tmp_path / "inks.txt")
        assert "Line 2" in dialog.said.text()
        dialog.set_name.setText("Markers")
        dialog._keep_set()
        dialog._harmonize(1)
        assert dialog.list.count() == 3
        dialog._match(1)
        assert {c for _, c in dialog.colors()} <= {"#c83c28", "#285aa0"}
        dialog.write_palette(tmp_path / "out.csv")
        dialog.part.setText("Study")

    answer(fill)
    rooms.window.pots.show_palette()
    names = {p.name for p in rooms.book.pots().values() if rooms.book.parts()[p.part].name == "Study"}
    assert "Red" in names
    assert (tmp_path / "out.csv").read_text().startswith("name,part,local,shadow")


@pytest.mark.qt_log_ignore("does not support grabbing")
def test_a_colour_is_edited_by_chart_number_and_digits_among_its_neighbours(rooms: Driver, answer) -> None:
    seen = {}

    def fill(dialog) -> None:
        editor = dialog.editor
        seen["around"] = editor.around.neighbors
        QTest.mouseClick(editor.hue, LEFT, Mods.NoModifier, QPointF(editor.hue.width() / 2, 17).toPoint())
        assert editor.shade.color.hue_deg == pytest.approx(180, abs=4)
        seen["live"] = editor.color
        QTest.keyClick(editor.shade, Qt.Key.Key_Up)
        assert editor.color != seen["live"]
        editor.rgb[0].setValue(255)
        assert editor.color.startswith("#ff")
        editor.lch[0].setValue(0)
        assert editor.color == "#000000"
        editor.hex.setText("#123456")
        editor._from_digits()
        worked_out = [box.value() for box in editor.cmyk]
        assert worked_out[0] > worked_out[2], "a blue is more cyan than yellow"
        editor.pots.itemClicked.emit(editor.pots.item(0))
        assert editor.color == editor.pots.item(0).data(Qt.ItemDataRole.UserRole)
        editor.cmyk[3].setValue(100)
        assert dialog.inks.how.currentIndex() == 1
        dialog.inks.how.setCurrentIndex(0)
        editor.dropper.click()
        place = rooms.window.canvas.mapToGlobal(QPoint(5, 5))
        QTest.mouseClick(editor.dropper, LEFT, Mods.NoModifier, editor.dropper.mapFromGlobal(place))
        assert editor.color == color_seen(place) != "#123456"
        editor.hex.setText("123456")
        editor._from_digits()

    answer(fill)
    rooms.window.pots.edit_pot(rooms.pot("Ember"))
    assert rooms.book.pots()[rooms.pot("Ember")].local == "#123456"
    assert seen["around"] == [("#ffffff", pytest.approx(seen["around"][0][1]))]


def test_all_findings_of_a_kind_are_mended_as_one_step(rooms: Driver) -> None:
    page = rooms.easel.page
    for k in range(3):
        rect, mask = (100 + 20 * k, 60, 0, 0), np.ones((1, 60), bool)
        rooms.easel.hands.start(lambda hand, r=rect, m=mask: cut_mask(hand, r, m, rooms.pot("Moss")))
    rooms.settle()
    found = rooms.easel.findings["Flats"]
    assert [f.title for f in found].count("Sliver") == 3
    steps = rooms.book.position
    rooms.window.look_here.go(next(f for f in found if f.title == "Sliver"))
    assert rooms.window.look_here.all.text() == "Absorb all 3: sliver"
    rooms.keys("Shift+Return")
    rooms.settle()
    assert "Sliver" not in [f.title for f in rooms.easel.findings["Flats"]]
    assert rooms.pot_at(100, 80) == "Ember"
    rooms.keys("Ctrl+Z")
    assert rooms.book.position == steps
    assert rooms.easel.page == page
    rooms.settle()
    rooms.window.look_here.go(next(f for f in rooms.easel.findings["Flats"] if f.title == "Sliver"))
    rooms.window.look_here.all.setFocus()
    QTest.mouseClick(rooms.window.look_here.all, Qt.MouseButton.LeftButton)
    rooms.settle()
    assert rooms.window.focusWidget() is rooms.canvas, "the button is gone, so the hand is at the page"


def test_a_bridge_drawn_by_hand_is_seen_counted_moved_and_removed(rooms: Driver) -> None:
    rooms.keys("B")
    bare = rooms.canvas.grab().toImage()
    rooms.drag((200, 60), (200, 200))
    rooms.settle()
    (path,) = rooms.easel.sources()[DAMS].values()
    assert "parts nothing" in rooms.said()
    assert "1 by hand" in rooms.window.inspector.panels["Flats"].bridges.text()
    seen = rooms.canvas.grab().toImage()
    at = rooms.at(200, 130)
    assert seen.pixelColor(at) != bare.pixelColor(at)
    rooms.keys("P")
    rooms.window.seen.flip("bridges")
    assert rooms.canvas.grab().toImage().pixelColor(at) == seen.pixelColor(at), "the chip shows it in every tool"
    rooms.keys("B")
    rooms.drag(path[-1], (300, 200))
    (moved,) = rooms.easel.sources()[DAMS].values()
    assert (moved[0], round(moved[-1][0])) == (path[0], 300)
    rooms.click(*moved[-1], mods=Mods.AltModifier)
    assert not rooms.easel.sources()[DAMS]


def test_a_region_over_two_panels_asks_by_its_outline_first(window: Driver, tmp_path: Path) -> None:
    ink = np.zeros((400, 640), np.uint8)
    for left in (20, 330):
        ink[20:380, left : left + 290] = 255
        ink[24:376, left + 4 : left + 286] = 0
    window.easel.opening.open(write_png(tmp_path / "leak.png", ink))
    window.settle()
    pots_of.add_pots(window.book, "Figure", [("Ember", "#e2553a")])
    window.keys("Alt+2", "P")
    window.easel.choose_pot(window.pot("Ember"))
    window.settle()
    window.easel.do_here(lambda h: verbs.join_regions(h, {h.atom_at(200, 100), h.atom_at(200, 500)}))
    window.settle()
    window.click(200, 100)
    assert "panel 1 and panel 2" in window.said()
    assert window.pot_at(200, 100) is None
    window.click(60, 10)
    assert window.pot_at(60, 10) == "Ember", "the gutter itself is poured without a question"
    window.click(200, 500)
    window.click(200, 100)
    assert window.pot_at(200, 500) == window.pot_at(200, 100) == "Ember"


def test_panels_are_drawn_pulled_at_a_corner_and_taken_away(rooms: Driver) -> None:
    rooms.keys("F")
    rooms.drag((30, 320), (360, 560))
    rooms.settle()
    panels = rooms.easel.view.flat.panels
    assert [p.at(200, 80) for p in (panels,)] != [panels.at(200, 400)]
    number = panels.at(200, 400)
    assert panels.corners[number - 1] == ((30.0, 320.0), (30.0, 560.0), (360.0, 560.0), (360.0, 320.0))
    rooms.drag((360, 560), (300, 500))
    rooms.settle()
    panels = rooms.easel.view.flat.panels
    assert panels.corners[panels.at(200, 400) - 1][2] == (300.0, 500.0)
    assert rooms.book.history[-1].title == "Move a panel's corner"
    rooms.drag((200, 400), (203, 403))
    assert rooms.pot_at(200, 400) == "Sky", "a hand that trembles pours"
    rooms.keys("Ctrl+Z")
    rooms.click(200, 400, Mods.AltModifier)
    rooms.settle()
    assert rooms.easel.sources()[PANELS] == {}
    rooms.drag((30, 320), (40, 323), (300, 500), release=False)
    QTest.keyClick(rooms.canvas, Qt.Key.Key_Escape)
    rooms.settle()
    assert rooms.easel.sources()[PANELS] == {}
    rooms.drag((30, 320), (36, 320), (30, 330))
    assert "too small" in rooms.said()


def chips(rooms: Driver) -> list[str]:
    row = rooms.window.chips.row
    return [found.text() for k in range(row.count()) if hasattr(found := row.itemAt(k).widget(), "text")]


def test_a_pick_holds_in_every_tool_and_stage_until_it_is_let_go(rooms: Driver) -> None:
    rooms.keys("K")
    rooms.click(200, 80)
    assert chips(rooms)[0] == "in one region  ×"
    rooms.keys("P")
    rooms.click(200, 450)
    assert rooms.pot_at(200, 450) is None
    assert "outside what is picked" in rooms.said()
    rooms.easel.own(Flatting).put("shape", "Box")
    rooms.keys("X")
    rooms.drag((150, 200), (250, 400))  # across the wall
    rooms.settle()
    assert rooms.pot_at(200, 250) == "Sky", "what lies inside is cut out"
    assert rooms.pot_at(200, 380) is None, "and nothing beyond"
    rooms.keys("P")
    rooms.easel.choose_pot(rooms.pot("Moss"))
    rooms.click(200, 250)
    assert rooms.pot_at(200, 250) == "Moss", "what was cut out of the pick is in it"
    rooms.drag((350, 80), (350, 500))
    assert rooms.pot_at(350, 80) == "Moss"
    assert rooms.pot_at(350, 500) is None
    for stage in ("Inks", "Shade", "Holds", "Press", "Flats"):
        rooms.easel.choose_stage(stage)
        rooms.settle()
        assert chips(rooms)[0].startswith("in "), stage
    rooms.keys("X")
    rooms.drag((100, 60), (120, 90), release=False)
    QTest.keyClick(rooms.canvas, Qt.Key.Key_Escape)
    assert rooms.easel.picked, "the gesture goes first"
    rooms.keys("Alt+4")
    QTest.keyClick(rooms.canvas, Qt.Key.Key_Escape)
    assert not rooms.easel.picked
    assert not chips(rooms)[0].startswith("in ")
