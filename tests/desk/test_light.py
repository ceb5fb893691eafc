# SPDX-License-Identifier: GPL-3.0-or-later
"""Light in the real window: cuts, divided regions, a lamp that suggests, and ways to judge values."""

import msgspec
import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QToolButton

from drip_pot.book.value_plan import PanelValues, as_planned, values_of
from drip_pot.book.values import PLAN, POURS, SHADE_CUTS
from drip_pot.core.color import lightness
from drip_pot.desk.dialogs.pairs import PairSheet
from drip_pot.desk.stages.shade.curve_edit import CurveEdit
from drip_pot.desk.stages.shade.cut_rows import CutRows
from drip_pot.desk.stages.shade.lighting import Lighting
from drip_pot.desk.stages.shade.shading import Shading
from drip_pot.desk.stages.shade.shaping import Shaping
from drip_pot.desk.view.render import Look, render_tile
from tests.desk.conftest import Driver, Mods


@pytest.fixture
def shade(demo: Driver) -> Driver:
    """The first page in Shade, without its shade."""
    demo.easel.choose_stage("Shade")
    demo.settle()
    demo.canvas.fit()
    demo.easel.own(Shading).fill(set(demo.easel.sources()[POURS]), [], away=True)
    demo.worked_out()
    demo.settle()
    return demo


def cover(driver: Driver) -> np.ndarray:
    return driver.book.plane(f"page/{driver.easel.page}/pass/1").whole()


def key(driver: Driver, name: str) -> None:
    driver.keys(name)
    driver.worked_out()
    driver.settle()


def test_corners_clicked_and_ended_with_enter_cut_a_shape_that_is_pulled_by_a_point(shade: Driver) -> None:
    rows, cols = shade.easel.view.shape
    shade.easel.choose_tool("Cut shade")
    corners = [(0.10, 0.30), (0.10, 0.55), (0.2, 0.55), (0.2, 0.3)]
    for r, c in corners:
        shade.click(r * rows, c * cols)
    assert not shade.easel.sources()[SHADE_CUTS], "not before it is ended"
    key(shade, "Return")
    (cut,) = shade.easel.sources()[SHADE_CUTS].values()
    assert [smooth for *_, smooth in cut.knots] == [False] * 4
    before = np.count_nonzero(cover(shade))
    key(shade, "P")
    shade.click(0.15 * rows, 0.42 * cols)
    print(
        "DBG",
        shade.easel.tool,
        shade.easel.sources()[SHADE_CUTS],
        shade.at(0.15 * rows, 0.42 * cols),
        shade.easel.own(Shaping)._cut,
    )
    assert shade.easel.own(Shaping).cut_in_hand() is not None
    shade.drag((0.2 * rows, 0.55 * cols), (0.27 * rows, 0.7 * cols))
    shade.settle()
    assert np.count_nonzero(cover(shade)) > 1.1 * before
    shade.click(0.27 * rows, 0.7 * cols, Mods.ShiftModifier)
    (cut,) = shade.easel.sources()[SHADE_CUTS].values()
    assert sum(smooth for *_, smooth in cut.knots) == 1, "a curve now"
    key(shade, "Del")
    assert not shade.easel.sources()[SHADE_CUTS]
    assert not cover(shade).any()


@pytest.mark.parametrize(("shape", "share"), [("Box", 1.0), ("Oval", np.pi / 4)])
def test_a_box_and_an_oval_are_drawn_from_corner_to_corner(shade: Driver, shape: str, share: float) -> None:
    rows, cols = shade.easel.view.shape
    shade.easel.choose_tool("Cut shade")
    shade.window.inspector.panels["Shade"].findChild(CutRows).shape.buttons[shape].click()
    before = np.count_nonzero(cover(shade))
    one, two = (0.12 * rows, 0.30 * cols), (0.17 * rows, 0.45 * cols)
    shade.drag(one, ((one[0] + two[0]) / 2, two[1]), two)
    shade.settle()
    (cut,) = shade.easel.sources()[SHADE_CUTS].values()
    assert len(cut.knots) == (4 if shape == "Box" else 8)
    area = (two[0] - one[0]) * (two[1] - one[1])
    assert 0 < np.count_nonzero(cover(shade)) - before <= 1.1 * share * area


def test_a_border_drawn_divides_and_its_dark_side_is_clicked(shade: Driver) -> None:
    rows, cols = shade.easel.view.shape
    shade.easel.choose_tool("Divide")
    shade.drag((0.07 * rows, 0.30 * cols), (0.07 * rows, 0.42 * cols))
    shade.settle()
    assert len(shade.easel.own(Shaping).borders()) == 1
    assert shade.easel.own(Shaping).open_ends()
    said: list[str] = []
    shade.easel.said.connect(lambda text, _: said.append(text))
    shade.click(0.09 * rows, 0.36 * cols)
    assert any("open" in text for text in said)
    assert not cover(shade).any()
    shade.click(0.07 * rows, 0.36 * cols, Mods.AltModifier)
    shade.settle()
    assert not shade.easel.own(Shaping).borders()


def test_a_lamp_is_placed_dragged_and_asked_and_its_cuts_are_kept(shade: Driver) -> None:
    rows, cols = shade.easel.view.shape
    shade.easel.choose_tool("Lamp")
    shade.click(0.05 * rows, 0.8 * cols)
    lighting = shade.easel.own(Lighting)
    assert lighting.in_hand() is not None
    shade.drag((0.05 * rows, 0.8 * cols), (0.06 * rows, 0.2 * cols), release=False)
    print(
        "DBG",
        lighting.moved,
        lighting.number,
        len(lighting.preview),
        shade.easel.deriving.work._newest,
        shade.easel.tool,
        shade.canvas.tool._dragged,
        lighting.lamps(),
    )
    shade.qtbot.waitUntil(lambda: len(lighting.preview) > 5, timeout=60_000)
    QTest.mouseRelease(shade.canvas, Qt.MouseButton.LeftButton, Mods.NoModifier, shade.at(0.06 * rows, 0.2 * cols))
    assert abs(lighting.in_hand().col - 0.2 * cols) < 4
    key(shade, "Return")
    offered = [cut for cut in shade.easel.sources()[SHADE_CUTS].values() if cut.offered]
    assert len(offered) > 20
    first = next(f for f in shade.easel.findings["Shade"] if f.title == "Suggested cut")
    shade.easel.mend(first)
    shade.worked_out()
    kept = [cut for cut in shade.easel.sources()[SHADE_CUTS].values() if not cut.offered]
    assert len(kept) == 1, "kept from Look here"
    assert first.key not in [f.key for f in shade.easel.findings["Shade"]]
    shade.settle()
    count = len(shade.easel.sources()[SHADE_CUTS])
    for name, left in (("Del", count - 1), ("Return", count - 1)):
        shade.keys("N")
        key(shade, name)
        assert len(shade.easel.sources()[SHADE_CUTS]) == left, "the lamp itself stays"
    assert sum(not cut.offered for cut in shade.easel.sources()[SHADE_CUTS].values()) == 2
    assert lighting.in_hand() is not None
    shade.easel.own(Shaping).settle(drop=False, every=True)
    shade.worked_out()
    assert not any(cut.offered for cut in shade.easel.sources()[SHADE_CUTS].values())
    shade.easel.undo()
    assert any(cut.offered for cut in shade.easel.sources()[SHADE_CUTS].values())


def test_values_in_steps_have_just_so_many_greys_and_a_part_alone_keeps_its_colours(shade: Driver) -> None:
    view = shade.easel.view
    for steps in (3, 4, 5):
        shade.window.seen.next_steps()
        look = shade.canvas.look
        assert look.steps == steps
        image = render_tile(view, look, 0, 1, 1)
        greys = {image.pixelColor(x, y).red() for x in range(0, 256, 7) for y in range(0, 256, 7)}
        assert len(greys) <= steps
    shade.window.seen.next_steps()
    assert not shade.window.seen["values"]
    shade.window.seen["alone"] = True
    alone = shade.canvas.look.alone
    book, sources = shade.easel.ready()
    part = book.pots()[shade.easel.pot].part
    assert {book.pots()[sources[POURS][a]].part for a in alone} == {part}
    plain, dim = (np.frombuffer(render_tile(view, look, 0, 1, 0).bits().asstring(4 * 65536), np.uint8)
                  for look in (Look(), Look(alone=alone)))  # fmt: skip
    assert (plain != dim).any()


def test_side_by_side_the_pointer_still_means_the_page_on_the_right(shade: Driver) -> None:
    shade.window.comparing.toggle_beside()
    spot = shade.canvas.to_widget(100, 100)
    assert spot.x() > shade.canvas.width() / 2
    assert shade.canvas.to_page(QPointF(spot)) == pytest.approx((100, 100))
    shade.window.comparing.toggle_beside()
    assert shade.canvas.to_widget(100, 100).x() < spot.x()


def test_the_tone_rule_follows_a_key_light_and_a_part_may_have_its_own(
    shade: Driver, monkeypatch: pytest.MonkeyPatch
) -> None:  # fmt: skip
    panel, book = shade.window.inspector.panels["Shade"], shade.book
    shade.easel.choose_pot(shade.pot("Coat"))
    shade.settle()
    coat = book.pots()[shade.pot("Coat")]
    tile = book.pots()[shade.pot("Tile")]
    before = book.tone_pair(coat)[1], book.tone_pair(tile)[1]
    monkeypatch.setattr("drip_pot.desk.stages.shade.blocks.pick_color", lambda *_: "#ffb040")
    panel.key.click()
    assert book.tone.key == "#ffb040"
    lit = book.tone_pair(coat)[1], book.tone_pair(tile)[1]
    assert lit[0] != before[0]
    assert lit[1] != before[1]
    panel.by_part.click()
    panel.darker.box.setValue(30)
    assert book.parts()[coat.part].tone.darker_l == 30
    assert book.tone.darker_l == 17
    assert book.tone_pair(coat)[1] != lit[0]
    panel.by_part.click()
    assert book.parts()[coat.part].tone is None
    assert book.tone_pair(coat)[1] == lit[0]


def test_the_sheet_of_pairs_shows_every_pot_and_takes_one_in_hand(shade: Driver) -> None:
    taken: list[int | None] = []
    sheet = PairSheet(shade.window, shade.book, taken.append)
    buttons = sheet.findChildren(QToolButton)
    assert len(buttons) == len(shade.book.pots())
    coat = next(button for button in buttons if button.text().startswith("Coat"))
    assert "L darker" in coat.text()
    assert "Nearest other pot" in coat.toolTip()
    coat.click()
    assert taken == [shade.pot("Coat")]


def test_values_of_every_panel_are_shown_and_compared_with_a_plan(demo: Driver) -> None:
    demo.easel.choose_stage("Shade")
    demo.settle()
    block = next(b for b in demo.window.inspector.findChildren(object) if type(b).__name__ == "ValuesBlock")
    demo.qtbot.waitUntil(lambda: block._found is not None, timeout=30_000)
    shares, values = block._found
    assert len(values) == len(demo.easel.view.flat.panels.rects)
    assert np.allclose(shares.sum(axis=1), 1)
    assert all(one.dark <= one.middle <= one.light and one.dark < one.light for one in values)
    block.keep.click()
    assert demo.easel.sources()[PLAN] == tuple(values)
    darkest = [one.middle for one in values]
    demo.easel.own(Shading).fill(set(demo.easel.sources()[POURS]), [], away=False)
    demo.worked_out()
    demo.settle()
    demo.qtbot.waitUntil(lambda: [one.middle for one in block._found[1]] != darkest, timeout=30_000)
    assert sum(one.middle < kept for one, kept in zip(block._found[1], darkest, strict=True)) > len(darkest) / 2
    assert demo.easel.sources()[PLAN] == tuple(values), "the plan stays"
    block.drop.click()
    assert not demo.easel.sources()[PLAN]


def test_a_loop_fills_the_regions_that_lie_wholly_inside_it(demo: Driver) -> None:
    demo.easel.choose_stage("Shade")
    demo.easel.choose_tool("Fill")
    demo.settle()
    rows, cols = demo.easel.view.shape
    kite = demo.middle("Ember", 400)
    loop = [(kite[0] + dr, kite[1] + dc) for dr, dc in ((-90, -90), (-90, 90), (90, 90), (90, -90), (-90, -90))]
    loop = [(min(max(r, 2), rows - 2), min(max(c, 2), cols - 2)) for r, c in loop]
    demo.drag(*loop)
    plane = demo.book.plane(f"page/{demo.easel.page}/pass/1").whole()
    hand = demo.easel.hand()
    inside = hand.labels[kite]
    assert plane[kite] == 255
    air = demo.middle("Air", 400)
    assert hand.labels[air] != inside
    assert plane[air] == 0, "what reaches out of the loop is left alone"
    demo.drag(*loop, mods=Mods.AltModifier)
    assert demo.book.plane(f"page/{demo.easel.page}/pass/1").whole()[kite] == 0


def test_the_curve_of_a_correction_is_pulled_bent_and_straight_again(demo: Driver) -> None:
    demo.easel.choose_stage("Shade")
    shading = demo.easel.own(Shading)
    shading.add_finish()
    demo.settle()
    edit = next(w for w in demo.window.inspector.findChildren(CurveEdit) if w.isVisible())
    edit.resize(240, 120)

    def curve() -> tuple:
        return shading.in_hand()[1].finish.curve

    middle = edit._at((0.5, 0.7)).toPoint()
    QTest.mouseClick(edit, Qt.MouseButton.LeftButton, pos=middle)
    assert len(curve()) == 3
    assert abs(curve()[1][0] - 0.5) < 0.02
    assert abs(curve()[1][1] - 0.7) < 0.02
    before = curve()
    QTest.keyClick(edit, Qt.Key.Key_Up)
    assert curve()[1][1] > before[1][1]
    QTest.keyClick(edit, Qt.Key.Key_Right, Mods.ShiftModifier)
    assert curve()[1][0] > before[1][0]
    for _ in range(60):
        QTest.keyClick(edit, Qt.Key.Key_Right, Mods.ShiftModifier)
    assert curve()[1][0] < curve()[2][0], "points keep their order"
    QTest.keyClick(edit, Qt.Key.Key_Delete)
    assert curve() == (), "straight is no curve"
    demo.keys("Ctrl+Z")
    assert len(curve()) == 3


def test_a_page_as_planned_has_the_values_of_the_plan_and_its_own_plan_changes_nothing() -> None:
    rng = np.random.default_rng(5)
    gray = np.clip(rng.normal(120, 40, (90, 120)), 0, 255).astype(np.uint8)
    rgb = np.dstack([gray] * 3)
    labels = np.ones(gray.shape, np.int32)
    labels[:, 60:], labels[:4] = 2, 0
    panel = np.array([0, 1, 2], np.int64)
    light = lightness(rgb)
    _, values = values_of(rgb, labels, panel)
    same = as_planned(light, labels, panel, values)
    assert np.abs(same.astype(int) - light).max() <= 1
    plan = [PanelValues(20, 60, 90), values[1]]
    planned = as_planned(light, labels, panel, plan)
    _, now = values_of(np.dstack([planned] * 3), labels, panel)
    assert all(abs(a - b) <= 1.5 for a, b in zip(msgspec.structs.astuple(now[0]), (20, 60, 90), strict=True))
    assert np.array_equal(planned[:4], light[:4]), "the gutter stays"
