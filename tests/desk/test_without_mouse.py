# SPDX-License-Identifier: GPL-3.0-or-later
"""A page worked on with the keyboard alone: from region to region, poured, picked, shaded, told to a screen reader."""

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from drip_pot.desk.session.regions_by_key import inner_spot, map_of
from tests.desk.conftest import Driver

Mods = Qt.KeyboardModifier


def press(driver: Driver, key: Qt.Key, mods: Mods = Mods.NoModifier) -> None:
    QTest.keyClick(driver.canvas, key, mods)
    driver.settle()


def test_regions_are_gone_to_by_size_poured_and_left_with_keys_alone(demo: Driver) -> None:
    demo.keys("Alt+2", "P")
    demo.canvas.setFocus()
    keys, known = demo.easel.keys, map_of(demo.easel.view.flat)
    press(demo, Qt.Key.Key_Right)
    seen = [keys.region]
    for _ in range(6):
        press(demo, Qt.Key.Key_Tab)
        seen.append(keys.region)
    assert seen == known.numbers[:7].tolist()
    press(demo, Qt.Key.Key_Backtab, Mods.ShiftModifier)
    assert keys.region == seen[-2]
    steps, own = demo.book.position, demo.easel.pot_of(keys.at()[1][0])
    demo.easel.choose_pot(demo.pot("Cobalt"))
    press(demo, Qt.Key.Key_Return)
    assert {demo.easel.pot_of(atom) for atom in keys.at()[1]} == {demo.easel.pot} != {own}
    assert demo.book.position == steps + 1
    assert demo.canvas.accessibleDescription().startswith("Cobalt, region 6 by size")
    press(demo, Qt.Key.Key_Tab)
    there = demo.easel.pot_of(keys.at()[1][0])
    press(demo, Qt.Key.Key_Return, Mods.AltModifier)
    assert demo.easel.pot == there, "Alt takes its pot"
    press(demo, Qt.Key.Key_Escape)
    assert not keys.region
    press(demo, Qt.Key.Key_Left, Mods.ControlModifier)
    assert not keys.region, "with Ctrl the page is moved"


def test_arrows_go_where_they_point_and_a_pick_is_gathered_and_shaded(demo: Driver) -> None:
    demo.keys("Alt+2", "K")
    demo.canvas.setFocus()
    keys = demo.easel.keys
    press(demo, Qt.Key.Key_Down)
    known = map_of(demo.easel.view.flat)
    for key, way in ((Qt.Key.Key_Right, (0, 1)), (Qt.Key.Key_Down, (1, 0)), (Qt.Key.Key_Left, (0, -1))):
        before = known.middles[known.place(keys.region)]
        press(demo, key)
        after = known.middles[known.place(keys.region)]
        assert (after - before) @ np.array(way) >= 0
    press(demo, Qt.Key.Key_Return)
    one = demo.easel.picked
    press(demo, Qt.Key.Key_Tab)
    press(demo, Qt.Key.Key_Return, Mods.ShiftModifier)
    assert one < demo.easel.picked == one | set(keys.at()[1]), "Shift keeps what is picked"
    press(demo, Qt.Key.Key_Escape)
    press(demo, Qt.Key.Key_Escape)
    assert not demo.easel.picked
    demo.keys("Alt+3", "F")
    demo.canvas.setFocus()
    press(demo, Qt.Key.Key_Up)
    steps = demo.book.position
    press(demo, Qt.Key.Key_Return)
    assert demo.book.position == steps + 1, demo.said()


@pytest.mark.parametrize("seed", range(3))
def test_a_spot_in_a_region_lies_in_it(demo: Driver, seed: int) -> None:
    flat = demo.easel.view.flat
    known = map_of(flat)
    for region in (
        np.random.default_rng(seed).choice(known.numbers, min(25, len(known.numbers)), replace=False).tolist()
    ):
        row, col = inner_spot(flat, region)
        assert flat.partition.region[flat.labels[0][int(row), int(col)]] == region


def test_panel_and_region_are_shown_as_large_as_can_be(demo: Driver) -> None:
    demo.keys("Alt+2", "P")
    demo.canvas.setFocus()
    press(demo, Qt.Key.Key_Down)
    demo.keys("Shift+F")
    assert "no panel here" in demo.said(), "the largest region is the gutter"
    press(demo, Qt.Key.Key_Tab)
    flat, atoms, _, spot = demo.easel.keys.at()
    for key, boxes in (("Shift+F", [flat.panels.rects[flat.panels.at(*spot) - 1]]), ("Shift+R", flat.boxes(atoms))):
        demo.keys("Ctrl+0", key)
        rect = [min(b[k] for b in boxes) if k < 2 else max(b[k] for b in boxes) for k in range(4)]
        one, two = demo.canvas.to_widget(*rect[:2]), demo.canvas.to_widget(*rect[2:])
        share = max((two.x() - one.x()) / demo.canvas.width(), (two.y() - one.y()) / demo.canvas.height())
        assert 0.9 < share < 0.96
