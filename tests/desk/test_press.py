# SPDX-License-Identifier: GPL-3.0-or-later
"""Press in the real window: plates moved, edges trapped by hand, ink eased, wear rubbed out, textures, screens."""

from pathlib import Path

import numpy as np
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QColorSpace, QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QMenu

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
    demo.window.inspector.panels["Press"].stray.plate.chosen.emit("Black")
    QTest.mouseClick(wheel, LEFT, Mods.NoModifier, QPoint(wheel.width() - 4, wheel.height() // 2))
    demo.settle()
    down, right = demo.easel.own(Straying).moves[3]
    assert 0.45 < right <= 0.5
    assert abs(down) < 0.02
    assert demo.color_at(row, col + 2) != beside, "black lies further right now"
    QTest.keyClick(wheel, Qt.Key.Key_Left)
    assert demo.easel.own(Straying).moves[3][1] < right
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
    demo.click((one[0] + two[0]) // 2, (one[1] + two[1]) // 2, mods=Mods.ShiftModifier)
    assert not demo.easel.sources()[TRAPS]
    demo.keys("E")
    pot = demo.pot("Coat")
    demo.click(*two)
    assert demo.book.pots()[pot].inks is not None or "as little ink" in demo.said()


def test_wear_is_rubbed_out_and_paper_is_laid_turned_and_taken_away(demo: Driver, tmp_path: Path) -> None:
    demo.keys("Alt+5")
    demo.window.seen["old"] = True
    block = demo.window.inspector.panels["Press"].wear
    block._choose(3)
    demo.settle()
    row, col = demo.middle("Air")
    worn = demo.color_at(row, col)
    demo.keys("X")
    demo.drag((row, col - 8), (row, col + 8))
    demo.settle()
    assert demo.color_at(row, col) != worn
    before = demo.color_at(*demo.middle("Coat"))
    block.lay(write_png(tmp_path / "paper.png", np.full((30, 20), 150, np.uint8)))
    demo.qtbot.waitUntil(lambda: len(demo.easel.sources()[WEAR].textures) == 1, timeout=20_000)
    demo.settle()
    assert demo.color_at(*demo.middle("Coat")) != before
    assert block.preset.currentText() == "Read to bits", "paper is no other wear"
    menu = QMenu()
    block._list(menu)
    words = [action.text() for action in menu.actions() if action.text()]
    assert words == ["Lay one", "Turn paper.png", "Take paper.png away"]
    grid = demo.easel.sources()[WEAR].textures[0].grid
    menu.actions()[2].trigger()
    assert demo.easel.sources()[WEAR].textures[0].grid != grid
    menu.actions()[3].trigger()
    assert not demo.easel.sources()[WEAR].textures


def test_screens_are_set_per_plate_and_the_screens_profile_is_followed(demo: Driver) -> None:
    demo.keys("Alt+5")
    block = demo.window.inspector.panels["Press"].screens
    block.plate.chosen.emit("Black")
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
