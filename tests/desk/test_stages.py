# SPDX-License-Identifier: GPL-3.0-or-later
"""Inks, Shade, Holds and Press in the real window."""

import cv2
import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest

from drip_pot.book import verbs
from drip_pot.book.findings import STAGES
from drip_pot.book.lines import KINDS, lines_of
from drip_pot.book.values import COVER, HOLDS, INKS, LINES, PASSES, POURS, PRESS, TONE, WEAR
from drip_pot.core.render import Finish
from drip_pot.desk.session.page_view import ready_of
from drip_pot.desk.stages.holds.holding import Holding
from drip_pot.desk.stages.holds.stage import STAGE as HOLDS_STAGE
from drip_pot.desk.stages.shade.shading import Shading
from drip_pot.desk.view.render import TILE, render_tile
from drip_pot.desk.view.tool import tools_of
from tests.desk.conftest import LEFT, Driver, Mods


def second_page(demo: Driver) -> Driver:
    demo.easel.show_page(list(demo.book.pages())[1])
    demo.settle()
    return demo


def test_each_stage_shows_its_own_tools_panel_and_shelf(demo: Driver) -> None:
    for place, stage in enumerate(STAGES, 1):
        demo.keys(f"Alt+{place}")
        shown = {name for (s, name), b in demo.window.toolbar.buttons.items() if b.isVisible()}
        assert shown == set(tools_of(stage))
        assert [s for s, p in demo.window.inspector.panels.items() if p.isVisible()] == [stage]
        assert [s for s, c in demo.window.cards.items() if c.isVisible()] == [stage][: stage in ("Inks", "Press")]
        assert demo.window.status.left.text() == tools_of(stage)[demo.easel.tool].says
    tabs = demo.window.topbar.stages
    QTest.mouseClick(tabs, LEFT, Mods.NoModifier, tabs.box("Shade").center().toPoint())
    assert demo.easel.stage == "Shade"


def test_the_line_is_adjusted_live_and_kept_when_let_go(demo: Driver) -> None:
    demo.keys("Alt+1")
    panel, steps = demo.window.inspector.panels["Inks"], demo.book.position
    scan = demo.easel.view.drawing.gray[0].copy()
    panel.weight.slider.setSliderDown(True)
    panel.weight.slider.setValue(panel.weight.slider.maximum())
    assert demo.easel.view.preview.settings.weight_px == 4
    assert demo.book.position == steps
    demo.settle()
    panel.weight.slider.setSliderDown(False)
    demo.settle()
    assert demo.easel.sources()[INKS][0].settings.weight_px == 4
    assert demo.book.history[steps].title == "Adjust the line"
    assert demo.easel.view.preview is None
    line = demo.easel.sources().line
    assert np.array_equal(demo.easel.deriving.derived.inks.gray(line, line.sheets[0]), scan), (
        "the original is never changed"
    )
    panel._suggest()
    demo.settle()
    assert demo.easel.sources()[INKS][0].settings.weight_px == 0


def test_black_can_never_pass_white(demo: Driver) -> None:
    demo.keys("Alt+1")
    panel = demo.window.inspector.panels["Inks"]
    panel.black.box.setValue(254)
    panel.white.box.setValue(40)
    demo.settle()
    settings = demo.easel.sources()[INKS][0].settings
    assert settings.black < settings.white == 40
    stroke = panel.stroke
    QTest.mousePress(stroke, LEFT, Mods.NoModifier, stroke.rect().center())
    QTest.mouseRelease(stroke, LEFT, Mods.NoModifier, stroke.rect().center())
    demo.settle()
    assert max(demo.easel.sources()[INKS][0].settings.black, demo.easel.sources()[INKS][0].settings.white) > 100


def test_a_speck_is_taken_out_by_clicking_it(demo: Driver) -> None:
    second_page(demo)
    demo.keys("Alt+1", "X")
    line = demo.easel.sources().line
    speck = max(demo.easel.deriving.derived.inks.suspects(line, line.sheets[0]), key=lambda s: s.area_px)
    demo.canvas.go_to((int(speck.row) - 30, int(speck.col) - 30, int(speck.row) + 30, int(speck.col) + 30))
    demo.click(speck.row, speck.col)
    demo.settle()
    assert demo.easel.view.drawing.ink[0][round(speck.row), round(speck.col)] == 0
    demo.keys("Ctrl+Z")
    demo.settle()
    assert demo.easel.view.drawing.ink[0][round(speck.row), round(speck.col)] > 0
    demo.canvas.fit()
    demo.click(3, 3)
    assert "no lone speck here" in demo.said()


def corners(row: int, col: int, half: int) -> list[tuple[float, float]]:
    return [(row - half, col - half), (row - half, col + half), (row + half, col + half), (row + half, col - half)]


@pytest.mark.parametrize(
    ("key", "mods", "ends"),
    [
        ("S", Mods.NoModifier, 255),
        ("L", Mods.NoModifier, 0),
        ("S", Mods.AltModifier, 0),
        ("L", Mods.AltModifier, 255),
    ],
)
def test_loops_cut_shade_and_light(demo: Driver, key: str, mods: Mods, ends: int) -> None:
    demo.keys("Alt+3", "S")
    row, col = demo.middle("Air")
    if ends == 0:
        demo.drag(*corners(row, col, 30))
    demo.keys(key)
    demo.drag(*corners(row, col, 15), mods=mods)
    plane = demo.book.plane(f"page/{demo.easel.page}/pass/1").whole()
    assert plane[row, col] == ends
    assert set(np.unique(plane).tolist()) <= {0, 255}


def test_a_loop_stays_in_the_colour_and_with_shift_in_one_region(demo: Driver) -> None:
    demo.keys("Alt+3", "S")
    view, plane = demo.easel.view, f"page/{demo.easel.page}/pass/1"
    before = demo.book.plane(plane).whole()
    row, col = demo.middle("Flash")
    loop = corners(row, col, 70)
    loop[0] = (row, col)
    demo.drag(*loop, mods=Mods.ShiftModifier)
    changed = demo.book.plane(plane).whole() != before
    region = demo.easel.region_atoms(demo.easel.atom_at(row, col))
    assert changed.any()
    assert np.isin(view.flat.labels[0][changed], region).all()
    demo.keys("Ctrl+Z")
    rows, cols = view.shape
    demo.drag((2, 2), (2, cols - 3), (rows - 3, cols - 3), (rows - 3, 2))
    shaded = demo.book.plane(plane).whole() > 0
    assert shaded.mean() > 0.5
    assert demo.color_at(4, 4) == "#ffffff", "bare paper shows no shadow"
    demo.easel.choose_pot(demo.pot("Ember"))
    demo.keys("Alt+2", "P")
    demo.click(4, 4)
    demo.keys("Alt+3")
    assert demo.color_at(4, 4) == demo.book.tone_pair(demo.book.pots()[demo.pot("Ember")])[1], "it was kept"


def test_a_loop_given_up_or_too_short_leaves_nothing(demo: Driver) -> None:
    demo.keys("Alt+3", "S")
    steps, (row, col) = demo.book.position, demo.middle("Air")
    demo.click(row, col)
    demo.drag(*corners(row, col, 20), release=False)
    QTest.keyClick(demo.canvas, Qt.Key.Key_Escape)
    QTest.mouseRelease(demo.canvas, LEFT, Mods.NoModifier, demo.at(row, col))
    assert demo.book.position == steps


def test_the_tone_rule_and_a_shadow_of_its_own(demo: Driver, answer) -> None:
    demo.keys("Alt+3")
    panel = demo.window.inspector.panels["Shade"]
    demo.easel.choose_pot(demo.pot("Ember"))
    before = demo.book.tone_pair(demo.book.pots()[demo.pot("Ember")])[1]
    panel.darker.box.setValue(35)
    assert demo.book.tone.darker_l == 35
    assert demo.book.tone_pair(demo.book.pots()[demo.pot("Ember")])[1] != before
    answer(lambda dialog: None)
    panel._pick("shadow")
    assert demo.book.pots()[demo.pot("Ember")].shadow is not None
    assert panel.own.isEnabled()
    panel.own.click()
    assert demo.book.pots()[demo.pot("Ember")].shadow is None


def stroke_at(demo: Driver, part: str, kind: str) -> tuple[int, int]:
    """A pixel of a wide stroke of a part, of some kind."""
    flat = demo.easel.view.flat
    told = lines_of(demo.book, demo.easel.sources(), flat.painted.pieces, flat.panels)
    number = next(n for n, p in demo.book.parts().items() if p.name == part)
    pots = [n for n, pot in demo.book.pots().items() if pot.part == number]
    mine = [p for p in range(1, told.pieces.count + 1) if KINDS[told.kind[p]] == kind
            and demo.easel.sources()[POURS].get(int(told.owner[p])) in pots]  # fmt: skip
    return inked(demo, max(mine, key=lambda p: (told.pieces.plane == p).sum()))


def inked(demo: Driver, piece: int) -> tuple[int, int]:
    """The pixel deepest in a stroke."""
    painted = demo.easel.view.flat.painted
    ink = (painted.pieces.plane == piece) & (painted.ink[0] > 250)
    row, col = np.unravel_index(np.argmax(cv2.distanceTransform(ink.astype(np.uint8), cv2.DIST_L2, 5)), ink.shape)
    return int(row), int(col)


def color_at(demo: Driver, at: tuple[int, int]) -> list[int]:
    demo.settle()
    cut = slice(at[0], at[0] + 1), slice(at[1], at[1] + 1)
    return ready_of(demo.easel.view, demo.easel.view.flat).screen(*cut)[0, 0, :3].tolist()


def test_strokes_are_held_brushed_faded_and_knocked_out_by_hand(demo: Driver) -> None:
    demo.keys("Alt+4")
    demo.settle()
    at = stroke_at(demo, "Wren", "outline")
    demo.keys("H")
    demo.click(*at)
    (hold,) = [h for h in demo.easel.sources()[HOLDS].values() if h.name == "Strokes"]
    at = inked(demo, demo.easel.view.flat.painted.pieces.at(*hold.spots[0], 1))
    panel = demo.window.inspector.panels["Holds"].holds
    panel.how.setCurrentIndex(1)
    panel.how.activated.emit(1)
    demo.easel.own(Holding).change(color="#c80000")
    assert color_at(demo, at) == [200, 0, 0]
    demo.easel.own(Holding).choose(next(iter(demo.easel.sources()[HOLDS])))
    demo.keys("T")
    demo.click(*at)
    assert demo.easel.own(Holding).in_hand()[1].name == "Strokes"
    demo.settle()
    assert any("one stroke" in card.says for card in panel.cards._cards)
    demo.window.seen["marked"] = True
    look, _ = HOLDS_STAGE.looks(demo.easel, demo.window.seen)
    tile = render_tile(demo.easel.view, look, 0, at[0] // TILE, at[1] // TILE)
    assert tile.pixelColor(at[1] % TILE, at[0] % TILE).name() in ("#d0401a", "#ffffff"), "striped as held"
    demo.window.seen["marked"] = False
    demo.keys("F")
    demo.drag((at[0] - 3, at[1] - 3), (at[0] + 1, at[1] + 1))
    demo.settle()
    assert demo.easel.sources().marked
    demo.keys("Ctrl+Z")
    assert color_at(demo, at) == [200, 0, 0]
    demo.keys("H")
    demo.click(*at, mods=Mods.AltModifier)
    demo.settle()
    assert color_at(demo, at) == [0, 0, 0]
    demo.keys("K")
    demo.click(*at)
    assert max(color_at(demo, at)) > 40, "the colour beneath shows"
    demo.keys("B")
    demo.drag((at[0], at[1] - 4), (at[0], at[1] + 4))
    demo.settle()
    assert [h.brushed for h in demo.easel.sources()[HOLDS].values()].count(True) == 1
    assert color_at(demo, at) == [0x3A, 0x24, 0x18]


def test_the_list_of_holds_is_added_to_ordered_and_shown(demo: Driver) -> None:
    demo.keys("Alt+4")
    demo.settle()
    holding, block = demo.easel.own(Holding), demo.window.inspector.panels["Holds"].holds
    before = set(demo.easel.sources()[HOLDS])
    demo.easel.choose_pot(demo.pot("Coat"))
    holding.add("A warm line, for skin")
    number = holding.number
    assert number not in before
    assert demo.easel.sources()[HOLDS][number].name == "Warm line, Wren"
    block._turn("frame", True)
    assert "frame" in demo.easel.sources()[HOLDS][number].kinds
    block.rows["amount"].box.setValue(80)
    assert demo.easel.sources()[HOLDS][number].amount == pytest.approx(0.8)
    assert next(reversed(demo.easel.sources()[HOLDS])) == number
    holding.move(number, -9)
    assert next(iter(demo.easel.sources()[HOLDS])) == number
    holding.turn_eye(number)
    assert not demo.easel.sources()[HOLDS][number].shown
    holding.share()
    assert number in demo.book.holds()
    block.cards.removed.emit(number)
    assert number not in demo.easel.sources()[HOLDS]


def test_holds_by_click_and_for_all_lines(demo: Driver, answer) -> None:
    demo.keys("Alt+4")
    demo.settle()
    panel = demo.window.inspector.panels["Holds"]
    wren = next(n for n, p in demo.book.parts().items() if p.name == "Wren")
    held = lambda: [h for h in demo.easel.sources()[HOLDS].values() if h.scope.parts == (wren,)]  # noqa: E731
    demo.click(*demo.middle("Coat"))
    assert len(held()) == 1
    demo.click(*demo.middle("Coat"))
    assert "held already" in demo.said()
    demo.click(*demo.middle("Coat"), mods=Mods.AltModifier)
    assert not held()
    answer(lambda dialog: None)
    demo.easel.do(lambda book, page: verbs.set_lines(book, page, "#503018"))
    assert panel.every.note.text() == "#503018"
    panel.black.click()
    assert demo.easel.sources()[LINES].color == "#000000"
    demo.keys("0")
    demo.click(4, 4)
    assert "no pot yet" in demo.said()


def test_press_shows_plates_inks_and_the_register_test(demo: Driver) -> None:
    demo.keys("Alt+5")
    demo.settle()
    panel, cards = demo.window.inspector.panels["Press"], demo.window.cards["Press"]
    assert panel.after.text().endswith("mm")
    untrapped, trapped = demo.easel.view.proved.register.gap_mm
    assert trapped <= untrapped
    demo.window.seen["opens"] = demo.window.seen["paper"] = True
    demo.settle()
    assert demo.canvas.look.opens
    assert demo.canvas.look.paper
    demo.window.seen["opens"] = demo.window.seen["paper"] = False
    row, col = demo.middle("Air")
    demo.canvas.moved.emit(row, col)
    demo.window.pointer.tell()
    assert demo.window.status.right.text().startswith("C ")
    whole = demo.color_at(row, col)
    for place in (1, 2, 3):
        QTest.mouseClick(cards, LEFT, Mods.NoModifier, cards._eye(cards._box(place)).center().toPoint())
    assert demo.canvas.look.plates == (False, False, False, True)
    assert demo.color_at(row, col) != whole
    QTest.mouseClick(cards, LEFT, Mods.NoModifier, cards._box(2).center().toPoint())
    assert demo.canvas.look.plates == (False, True, False, False)
    QTest.mouseClick(cards, LEFT, Mods.NoModifier, cards._box(0).center().toPoint())
    assert demo.color_at(row, col) == whole
    pot = next(n for n, p in demo.book.pots().items() if p.name == "Air")
    verbs.set_pot_inks(demo.book, pot, None, None, "Air ink")
    demo.settle()
    assert cards.made()[-1].name == "Air ink"
    inked = demo.color_at(row, col)
    cards.toggle(5)
    assert demo.color_at(row, col) == "#ffffff", "an ink beside the four is hidden like the others"
    cards.alone(5)
    assert demo.color_at(row, col) == inked, "and shown alone"
    QTest.mouseClick(cards, LEFT, Mods.NoModifier, cards._box(0).center().toPoint())
    assert all(demo.canvas.look.plates)
    assert panel.bars._rows[4][0].text() == "Air ink"
    demo.keys("Ctrl+Z")
    demo.settle()
    panel.width_row.box.setValue(0)
    demo.settle()
    assert demo.easel.findings["Press"][0].title == "Trap too narrow"
    assert len(np.unique(demo.easel.view.proved.traps.spread)) <= 2  # nothing but the mixture of large blacks
    panel.limit.box.setValue(220)
    assert demo.easel.sources()[PRESS].ink_limit == 220


def test_a_pass_is_added_misted_hidden_scoped_and_removed(demo: Driver) -> None:
    demo.keys("Alt+3", "M")
    row, col = demo.middle("Air")
    bare, steps = demo.color_at(row, col), demo.book.position
    block, shading = demo.window.inspector.panels["Shade"].passes, demo.easel.own(Shading)
    demo.easel.choose_pot(demo.pot("Coat"))
    shading.add()
    number = shading.number
    assert block.cards._in_hand == number > TONE
    shading.put("width_px", 60.0)
    demo.drag((row, col - 10), (row, col + 10))
    misted = demo.color_at(row, col)
    assert misted != bare
    QTest.mouseClick(block.cards, LEFT, Mods.NoModifier, (block.cards.box(0).topRight() + QPointF(-15, 20)).toPoint())
    assert demo.color_at(row, col) == bare, "its eye hides it"
    demo.drag((row, col - 10), (row, col + 10))
    assert "is hidden" in demo.said()
    QTest.keyClick(block.cards, Qt.Key.Key_Space)
    assert demo.color_at(row, col) == misted
    shading.set_scope(shading.scopes()["The pot Coat"])
    assert block.scope.told.text() == "Applies in Coat"
    assert demo.color_at(row, col) == bare, "it applies to the pot in hand alone"
    demo.drag((row, col - 10), (row, col + 10))
    assert "outside what the pass" in demo.said()
    demo.keys("Ctrl+Shift+I")
    assert demo.color_at(row, col) == misted, "inverted, it applies here"
    demo.keys("Ctrl+Z", "Ctrl+Z")
    assert demo.color_at(row, col) == misted
    demo.drag((row, col - 10), (row, col + 10), mods=Mods.AltModifier)
    assert demo.color_at(row, col) != misted
    block.cards.moved.emit(number, -1)
    assert list(demo.easel.sources()[PASSES]) == [number, TONE]
    block.cards.setFocus()
    QTest.keyClick(block.cards, Qt.Key.Key_Delete)
    assert list(demo.easel.sources()[PASSES]) == [TONE]
    while demo.book.position > steps:
        demo.keys("Ctrl+Z")
    assert demo.color_at(row, col) == bare


def test_strokes_made_faster_than_they_are_worked_out_are_all_done_in_their_order(demo: Driver) -> None:
    demo.keys("Alt+3", "M")
    row, col = demo.middle("Air")
    shading, steps = demo.easel.own(Shading), demo.book.position
    shading.put("width_px", 12.0)
    for k in range(4):
        shading.brush("Mist", [(row, col - 9 + 6 * k, 1.0), (row + 3, col - 9 + 6 * k, 1.0)], Mods.NoModifier, 12.0)
    shading.brush("Mist", [(row, col - 9, 1.0), (row + 3, col - 9, 1.0)], Mods.AltModifier, 12.0)
    assert demo.easel.hands.busy()
    assert len(demo.easel.hands.ghosts) == 5, "each is shown until it is done"
    demo.worked_out()
    assert demo.book.position == steps + 5
    assert not demo.easel.hands.ghosts
    plane = demo.book.plane(f"page/{demo.easel.page}/pass/1").whole()
    assert (plane[row, [col - 3, col + 3, col + 9]] > 0).all()
    assert plane[row, col - 9] < plane[row, col + 9], "the last one wiped the first"
    for _ in range(5):
        demo.keys("Ctrl+Z")
    assert demo.book.position == steps


def test_undo_gives_up_a_stroke_that_is_not_done_yet(demo: Driver) -> None:
    demo.keys("Alt+3", "M")
    steps, (row, col) = demo.book.position, demo.middle("Air")
    bare = demo.color_at(row, col)
    demo.easel.own(Shading).brush("Mist", [(row, col, 1.0), (row + 3, col, 1.0)], Mods.NoModifier, 12.0)
    demo.keys("Ctrl+Z")
    assert not demo.easel.hands.busy()
    demo.settle()
    assert demo.book.position == steps, "nothing came after all, and nothing that was done before went"
    assert demo.color_at(row, col) == bare


def test_flats_shows_no_passes_and_shade_does(demo: Driver) -> None:
    demo.keys("Alt+3", "S")
    row, col = demo.middle("Air")
    flat = demo.color_at(row, col)
    demo.drag(*corners(row, col, 15))
    shaded = demo.color_at(row, col)
    assert shaded != flat
    demo.keys("Alt+2")
    assert demo.color_at(row, col) == flat
    demo.keys("Alt+3")
    assert demo.color_at(row, col) == shaded


def test_a_pick_confines_strokes_until_escape_and_becomes_a_scope_kept_by_name(demo: Driver) -> None:
    row, col = demo.middle("Air")
    demo.keys("Alt+2", "K")
    demo.click(row, col)
    picked = set(demo.easel.picked)
    demo.keys("Alt+3", "F")
    assert demo.easel.picked == picked, "a pick outlives its tool and its stage"
    other = demo.middle("Coat")
    name = f"page/{demo.easel.page}/pass/1"
    before = demo.book.plane(name).checksum()
    demo.click(*other)
    assert "outside" in demo.said()
    assert demo.book.plane(name).checksum() == before
    demo.click(row, col)
    assert demo.color_at(row, col) == demo.book.tone_pair(demo.book.pots()[demo.pot("Air")])[1]
    demo.click(row, col, mods=Mods.AltModifier)
    assert demo.color_at(row, col) == demo.book.pots()[demo.pot("Air")].local
    shading = demo.easel.own(Shading)
    shading.add()
    shading.set_scope(shading.scopes()["What is picked"])
    shading.keep_scope("The sky")
    assert demo.window.inspector.panels["Shade"].passes.scope.told.text() == "Applies in The sky"
    QTest.keyClick(demo.canvas, Qt.Key.Key_Escape)
    assert not demo.easel.picked
    demo.click(*other)
    assert "outside what the pass" in demo.said()
    shading.set_scope(shading.scopes()["Panel 1"], more=True)
    assert set(shading.in_hand()[1].scope.panels) == {1}
    shading.set_scope(shading.scopes()["The sky"])
    assert len(shading.in_hand()[1].scope.spots) == len(picked)
    demo.easel.choose_tool("Streak")
    shading.put("width_px", 60.0)
    demo.drag((row, col - 10), (row, col + 10))
    plane = demo.book.plane(COVER.key(demo.easel.page, shading.number)).whole()
    assert len(np.unique(plane)) > 8, "bristles are of many densities"
    assert np.isin(demo.easel.view.flat.labels[0][plane > 0], list(picked)).all()


def test_a_ramp_is_drawn_pulled_by_its_handles_and_copied_to_another_page(demo: Driver) -> None:
    demo.keys("Alt+3", "R")
    row, col = demo.middle("Air")
    bare = demo.color_at(row, col)
    demo.drag((row - 60, col), (row + 200, col))
    shading = demo.easel.own(Shading)
    ramp = shading.in_hand()[1].ramp
    assert np.allclose([ramp.start, ramp.end], [(row - 60, col), (row + 200, col)], atol=2)
    assert demo.color_at(row, col) != bare
    demo.drag(ramp.end, (row - 20, col))
    moved = shading.in_hand()[1].ramp
    assert moved.start == ramp.start
    assert moved.end == pytest.approx((row - 20, col), abs=2)
    assert demo.color_at(row, col) == bare, "it has run out here"
    demo.drag((row - 60, col), (row - 20, col + 30), (row + 200, col), mods=Mods.ControlModifier)
    along = shading.in_hand()[1].ramp
    assert along.form == "along"
    assert np.hypot(*(along.line - (row - 20, col + 30)).T).min() < 4
    assert len(along.line) < 8
    rows = demo.window.inspector.panels["Shade"].passes.ramp
    rows.covers[1].box.setValue(100)
    assert demo.color_at(row, col) != bare
    shading.add_finish()
    finish = demo.window.inspector.panels["Shade"].passes.finish
    finish.rows["chroma"][0].box.setValue(0)
    found = demo.color_at(row, col)
    assert max(int(found[k : k + 2], 16) for k in (1, 3, 5)) - min(int(found[k : k + 2], 16) for k in (1, 3, 5)) <= 2
    finish.rows["dark"][0].box.setValue(254)
    finish.rows["light"][0].box.setValue(10)
    assert "dark point" in demo.said().lower()
    other = list(demo.book.pages())[1]
    shading.copy(other)
    assert [p.kind for p in demo.book.sources(other)[PASSES].values()] == ["tone", "finish"]


def test_a_pass_in_a_panel_stays_there_while_the_page_is_cut(demo: Driver) -> None:
    demo.keys("Alt+3")
    row, col = demo.middle("Air")
    shading = demo.easel.own(Shading)
    shading.add_finish()
    shading.change(finish=Finish(chroma=0.0))
    shading.set_scope(shading.scopes()["Panel 1"])
    grey = demo.color_at(row, col)
    demo.easel.hands.start(lambda hand: verbs.set_dam(hand, ((row - 20.0, col - 20.0), (row - 20.0, col + 20.0))))
    demo.worked_out()
    assert demo.color_at(row, col) == grey
    demo.easel.do(lambda book, page: verbs.set_gap(book, page, 3))
    assert demo.color_at(row, col) == grey
    assert demo.easel.view.flat.panels is not None


def test_old_stock_is_chosen_by_name_seen_and_taken_back(demo: Driver) -> None:
    demo.keys("Alt+5")
    demo.settle()
    block = demo.window.inspector.panels["Press"].wear
    row, col = demo.middle("Air")
    demo.window.seen["old"] = True
    new = demo.color_at(row, col)
    block.preset.activated.emit(2)
    assert demo.easel.sources()[WEAR].most("age") > 0
    assert demo.color_at(row, col) != new
    age = next(row for row in block.rows.values() if row.step.kind == "age")
    assert age.value.value() == demo.easel.sources()[WEAR].most("age") * 100
    block.again.click()
    assert demo.easel.sources()[WEAR].seed == 2
    demo.easel.undo()
    demo.easel.undo()
    assert demo.color_at(row, col) == new


def test_what_lies_in_front_is_dragged_onto_what_lies_behind(demo: Driver) -> None:
    demo.keys("Alt+4")
    demo.easel.choose_tool("In front")
    coat, air = demo.middle("Coat"), demo.middle("Air")
    pots = {number: pot.name for number, pot in demo.book.pots().items()}

    def said() -> list[tuple[str, str, bool]]:
        parts = {number: part.name for number, part in demo.book.parts().items()}
        return [((parts if d.parts else pots)[d.front], (parts if d.parts else pots)[d.behind], d.parts)
                for d in demo.book.depths().values()]  # fmt: skip

    demo.drag(coat, air)
    assert said() == [("Coat", "Air", False)]
    demo.drag(coat, air, mods=Mods.AltModifier)
    assert said() == [("Air", "Coat", False)]
    demo.drag(coat, air, mods=Mods.ControlModifier)
    assert said()[1] == ("Wren", "Sky", True)
    demo.window.seen["depth"] = True
    demo.settle()
    look = HOLDS_STAGE.looks(demo.easel, demo.window.seen)[0]
    front, behind = (
        render_tile(demo.easel.view, look, 0, row // TILE, col // TILE).pixelColor(col % TILE, row % TILE)
        for row, col in (coat, air)
    )
    assert front.lightness() > behind.lightness()
    demo.easel.own(Holding).forget_depths()
    demo.settle()
    assert not said()
