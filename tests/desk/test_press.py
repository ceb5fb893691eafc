# SPDX-License-Identifier: GPL-3.0-or-later
"""Press in the real window: plates moved, edges trapped by hand, ink eased, wear rubbed out, textures, screens."""

from pathlib import Path

import numpy as np
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QColorSpace, QImage
from PyQt6.QtTest import QTest

from drip_pot.book.values import PRESS, TRAPS, WEAR
from drip_pot.desk.stages.press.straying import AT_REST, Straying
from drip_pot.desk.stages.press.trapping import Trapping
from drip_pot.desk.view.screen_profile import SRGB, on_screen, screen_space
from tests.conftest import write_png
from tests.desk.conftest import LEFT, Driver, Mods


def test_a_plate_is_moved_by_the_wheel_seen_and_put_back(demo: Driver) -> None:
    demo.keys("Alt+5")
    demo.settle()
    edge = [demo.color_at(row, col) for row, col in (demo.middle("Air"), demo.middle("Coat"))]
    ink = demo.easel.view.drawing.ink[0]
    row, col = next((int(r), int(c)) for r, c in np.argwhere(ink > 250) if not ink[r, c + 2 : c + 9].any())
    beside, wheel = demo.color_at(row, col + 2), demo.window.inspector.panels["Press"].stray.wheel
    demo.window.inspector.panels["Press"].stray.plate.choose("Black")
    QTest.mouseClick(wheel, LEFT, Mods.NoModifier, QPoint(wheel.width() - 4, wheel.height() // 2))
    demo.settle()
    down, right = demo.easel.own(Straying).at(3)
    assert 0.45 < right <= 0.5
    assert abs(down) < 0.02
    assert demo.color_at(row, col + 2) != beside, "black lies further right now"
    QTest.keyClick(wheel, Qt.Key.Key_Left)
    assert demo.easel.own(Straying).at(3)[1] < right
    demo.window.inspector.panels["Press"].stray.back.click()
    demo.settle()
    assert demo.easel.own(Straying).moves == AT_REST
    assert demo.color_at(row, col + 2) == beside
    assert [demo.color_at(*demo.middle(name)) for name in ("Air", "Coat")] == edge


def test_an_edge_is_trapped_by_a_drag_and_given_back(demo: Driver) -> None:
    demo.keys("Alt+5", "P")
    demo.settle()
    one, two = demo.middle("Air"), demo.middle("Coat")
    demo.easel.own(Trapping).width_mm = 0.3
    demo.drag(one, two)
    (trap,) = demo.easel.sources()[TRAPS].values()
    assert (trap.way, trap.width_mm) == ("into", 0.3)
    demo.drag(one, two, mods=Mods.AltModifier)
    assert [t.way for t in demo.easel.sources()[TRAPS].values()] == ["none"]
    demo.drag(one, (one[0] + 1, one[1] + 1))
    assert "one region" in demo.said()
    demo.click((one[0] + two[0]) // 2, (one[1] + two[1]) // 2, mods=Mods.AltModifier)
    assert not demo.easel.sources()[TRAPS]
    demo.keys("E")
    pot = demo.pot("Coat")
    demo.click(*two)
    assert demo.book.pots()[pot].inks is not None or "as little ink" in demo.said()


def test_wear_is_rubbed_out_and_paper_is_laid_turned_and_taken_away(demo: Driver, tmp_path: Path) -> None:
    demo.keys("Alt+5")
    demo.window.seen["old"] = True
    panel = demo.window.inspector.panels["Press"]
    block, papers = panel.wear, panel.textures
    block._choose(3)
    demo.settle()
    row, col = demo.middle("Air")
    worn = demo.color_at(row, col)
    demo.keys("X")
    demo.drag((row, col - 8), (row, col + 8))
    demo.settle()
    assert demo.color_at(row, col) != worn
    before = demo.color_at(*demo.middle("Coat"))
    papers.lay(write_png(tmp_path / "paper.png", np.full((30, 20), 150, np.uint8)))
    demo.qtbot.waitUntil(lambda: len(demo.easel.sources()[WEAR].textures) == 1, timeout=20_000)
    demo.settle()
    assert demo.color_at(*demo.middle("Coat")) != before
    assert block.preset.currentText() == "Read to bits", "paper is no other wear"
    assert papers.which.currentText() == "1. paper.png"
    papers.turn.done.emit(30.0)
    papers.wide.done.emit(12.0)
    papers.top.done.emit(5.0)
    papers.refresh()
    assert (papers.turn.value(), papers.wide.value(), papers.top.value()) == (30, 12, 5)
    papers.mode.activated.emit(2)
    papers.strength.done.emit(40)
    texture = demo.easel.sources()[WEAR].textures[0]
    assert (texture.mode, texture.strength) == ("screen", 0.4)
    papers.away.click()
    assert not demo.easel.sources()[WEAR].textures


def test_a_step_of_wear_is_shut_rubbed_out_alone_given_inks_and_taken_away(demo: Driver) -> None:
    demo.keys("Alt+5")
    demo.window.seen["old"] = True
    block = demo.window.inspector.panels["Press"].wear
    demo.settle()
    row, col = demo.middle("Air")
    new = demo.color_at(row, col)
    block.add_step("yellowing")
    block.add_step("fade")
    demo.settle()
    aged = demo.color_at(row, col)
    assert aged != new
    fade = block.rows[2]
    fade.eye.click()
    demo.settle()
    yellowed = demo.color_at(row, col)
    assert yellowed not in (new, aged)
    assert demo.easel.sources()[WEAR].steps[1].value == fade.step.value > 0, "its value is kept"
    fade.eye.click()
    block.rows[2].list_menu()
    next(one for one in block.rows[2].menu.actions() if one.text() == "Rub out this step alone").trigger()
    assert demo.easel.tool == "Rub out"
    demo.drag((row, col - 8), (row, col + 8))
    demo.settle()
    assert demo.color_at(row, col) == yellowed, "one step alone"
    next(one for one in block.rows[2].menu.actions() if one.text() == "Cyan").trigger()
    assert demo.easel.sources()[WEAR].steps[1].inks == ("magenta", "yellow", "black", "line", "spots")
    block.rows[2]._remove()
    block.add_step("fade")
    demo.settle()
    assert demo.color_at(row, col) != yellowed, "what was rubbed out went with its step"


def test_screens_are_set_per_plate_and_the_screens_profile_is_followed(demo: Driver) -> None:
    demo.keys("Alt+5")
    block = demo.window.inspector.panels["Press"].screens
    block.plate.choose("Black")
    block.angle.box.setValue(30)
    block.ruling.box.setValue(85)
    block.dot.chosen.emit("Line")
    screens = demo.easel.sources()[PRESS].screens
    assert (screens[3].angle_deg, screens[3].lpi, screens[3].dot) == (30, 85, "line")
    assert screens[0].lpi == 0
    picture = QImage(2, 2, QImage.Format.Format_RGBX8888)
    picture.fill(0xFFFF2010)
    wide = QColorSpace(QColorSpace.NamedColorSpace.DisplayP3)
    shown = on_screen(picture.copy(), wide).pixelColor(0, 0)
    assert shown.red() < 250, "a wider screen is sent less of its red"
    assert on_screen(picture.copy(), None) == picture
    assert screen_space() is None, "this platform tells none"
    assert SRGB.isValid()
