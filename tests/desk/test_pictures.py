# SPDX-License-Identifier: GPL-3.0-or-later
"""Pictures in the real window: laid on the page and pulled, pinned on the board and colours taken from them."""

from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest

from drip_pot.book.values import POURS
from drip_pot.demo.studies import handcart
from drip_pot.desk.dialogs.references import ReferenceBoard
from drip_pot.desk.stages.inks.propping import prop_in_hand
from drip_pot.desk.stages.shade.shading import Shading
from tests.desk.conftest import Driver


@pytest.fixture
def plum(tmp_path: Path) -> Path:
    Image.new("RGB", (60, 40), (120, 40, 130)).save(tmp_path / "Plum.png")
    return tmp_path / "Plum.png"


def test_a_picture_is_laid_pulled_by_a_corner_moved_turned_and_reduced(demo: Driver, plum: Path) -> None:
    demo.easel.choose_stage("Shade")
    shading = demo.easel.own(Shading)
    shading.add_picture(plum)
    demo.qtbot.waitUntil(lambda: shading.in_hand()[1].placed is not None, timeout=30_000)
    demo.settle()
    assert demo.easel.tool == "Place"
    grid = shading.in_hand()[1].placed.grid
    rows, cols = demo.easel.view.shape
    middle = (rows / 2, cols / 2)
    plums = sum(demo.color_at(int(rows / 2) + k, int(cols / 2)) == "#782882" for k in range(-30, 30))
    assert plums > 20
    demo.drag(grid[0], (grid[0][0] + 60, grid[0][1] + 40))
    pulled = shading.in_hand()[1].placed.grid
    assert pulled[1:] == grid[1:]
    assert abs(pulled[0][0] - grid[0][0] - 60) < 4
    demo.drag(middle, (middle[0] + 50, middle[1]))
    moved = shading.in_hand()[1].placed.grid
    assert all(abs(a[0] - b[0] - 50) < 4 and abs(a[1] - b[1]) < 4 for a, b in zip(moved, pulled, strict=True))
    beside = middle[0], max(c for _, c in moved) + 30
    demo.drag(beside, (beside[0] + 90, beside[1]))
    turned = np.array(shading.in_hand()[1].placed.grid)
    before = np.array(moved)
    assert np.allclose(turned.mean(axis=0), before.mean(axis=0), atol=0.1), "it turns about its middle"
    assert np.abs(turned - before).max() > 5
    demo.keys("Ctrl+Z")
    assert shading.in_hand()[1].placed.grid == moved
    rows_of = demo.window.inspector.findChildren(object)
    picture = next(r for r in rows_of if type(r).__name__ == "PictureRows")
    assert picture.isVisible()
    picture.flats.done.emit(4)
    demo.worked_out()
    assert shading.in_hand()[1].placed.flats == 4
    picture.mesh.done.emit(3)
    assert len(shading.in_hand()[1].placed.grid) == 16
    picture.printed.click()
    assert not shading.in_hand()[1].printed


def test_a_picture_is_pinned_its_colour_taken_into_pots_and_it_is_unpinned(demo: Driver, plum: Path) -> None:
    board = ReferenceBoard(demo.window, demo.easel)
    board.show()
    board.pin(plum)
    demo.qtbot.waitUntil(lambda: board.picture.pixels is not None, timeout=30_000)
    assert [one.name for one in demo.book.references().values()] == ["Plum"]
    QTest.mouseClick(board.picture, Qt.MouseButton.LeftButton, pos=board.picture.rect().center())
    assert board.color == "#782882"
    before = len(demo.book.pots())
    board.fresh.click()
    assert len(demo.book.pots()) == before + 1
    assert demo.book.pots()[demo.easel.pot].local == "#782882"
    first = next(iter(demo.book.pots()))
    demo.easel.choose_pot(first)
    board.into.click()
    assert demo.book.pots()[first].local == "#782882"
    board.picture._take(QPointF(-5, -5))
    assert board.color == "#782882", "beside the picture there is no colour"
    board._unpin()
    assert not demo.book.references()
    assert board.picture.pixels is None
    board.close()


def test_a_prop_is_stood_turned_moved_and_coloured(demo: Driver, tmp_path: Path) -> None:
    (tmp_path / "Cart.obj").write_text(handcart())
    demo.easel.choose_stage("Inks")
    demo.easel.opening.stand_prop(tmp_path / "Cart.obj")
    demo.qtbot.waitUntil(lambda: prop_in_hand(demo.easel) is not None, timeout=30_000)
    demo.settle()
    assert demo.easel.tool == "Prop"
    rows, cols = demo.easel.view.shape
    before = prop_in_hand(demo.easel).view
    beside = before.size_px / 5
    demo.drag((rows / 2, cols / 2 + beside), (rows / 2, cols / 2 + beside + 120))
    demo.settle()
    turned = prop_in_hand(demo.easel)
    assert turned.view.turn_deg > before.turn_deg
    demo.drag((rows / 2, cols / 2), (rows / 2 + 50, cols / 2))
    demo.settle()
    moved = prop_in_hand(demo.easel)
    assert moved.view == turned.view
    assert moved.place.down_px > turned.place.down_px + 30
    block = next(b for b in demo.window.inspector.findChildren(object) if type(b).__name__ == "PropBlock")
    assert block.isVisible()
    poured = len(demo.book.sources(demo.easel.page)[POURS])
    block.pour.click()
    demo.worked_out()
    assert len(demo.book.sources(demo.easel.page)[POURS]) >= poured
    assert demo.book.history[-1].title.startswith(("Pour", "Light"))
    demo.keys("Ctrl+Z")
    demo.easel.choose_sheet(0)
    assert not block.isVisible()
