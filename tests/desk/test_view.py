# SPDX-License-Identifier: GPL-3.0-or-later
"""What is on the screen is what is delivered; the shelf by mouse and keys."""

from pathlib import Path

import numpy as np
import pytest
import tifffile
from PIL import Image
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLineEdit

from drip_pot.desk.view.render import TILE, Look, plates_at, render_tile
from drip_pot.desk.view.tiles import Tiles
from drip_pot.files import derive, export_page
from tests.desk.conftest import LEFT, Driver, Mods


def pixels(image: QImage) -> np.ndarray:
    image = image.convertToFormat(QImage.Format.Format_RGB888)
    bits = image.bits()
    assert bits is not None
    rows = np.frombuffer(bits.asstring(image.sizeInBytes()), np.uint8).reshape(image.height(), image.bytesPerLine())
    return rows[:, : 3 * image.width()].reshape(image.height(), image.width(), 3)


def test_tiles_at_full_size_are_the_exported_page(demo: Driver, tmp_path: Path) -> None:
    page = demo.easel.page
    written = export_page(demo.book, derive(demo.easel.file, demo.book, page), page, tmp_path, kinds=("page", "plates"))
    whole, plates = np.array(Image.open(written[0])), tifffile.imread(written[1])
    demo.keys("Alt+5")
    demo.settle()
    view = demo.easel.view
    for row, col in ((0, 0), (1, 1), (2, 2), (4, 2)):
        tile = pixels(render_tile(view, Look(), 0, row, col))
        cut = whole[row * TILE :, col * TILE :][: tile.shape[0], : tile.shape[1]]
        assert np.array_equal(tile, cut)
    for name in ("Air", "Coat", "Ember", "Tile"):
        row, col = demo.middle(name, 60)
        assert list(plates_at(view, row, col).values()) == [round(v / 2.55) for v in plates[row, col].tolist()]


@pytest.mark.parametrize(
    "look",
    [
        Look(),
        Look(loud=True),
        Look(kind="press"),
        Look(kind="press", opens=True, paper=True),
        Look(kind="press", load=True),
        Look(kind="press", screens=True, dpi=100),
        Look(kind="press", stand_in=True, dpi=100),
        Look(squint=True),
        Look(kind="line"),
        Look(kind="scan"),
        Look(values=True),
    ],
)
def test_every_look_covers_the_page_at_every_level(demo: Driver, look: Look) -> None:
    view = demo.easel.view
    for level, plane in enumerate(view.drawing.gray):
        size = [0, 0]
        for row in range(-(-plane.shape[0] // TILE)):
            size[0] += render_tile(view, look, level, row, 0).height()
        for col in range(-(-plane.shape[1] // TILE)):
            size[1] += render_tile(view, look, level, 0, col).width()
        assert tuple(size) == plane.shape
    grey = pixels(render_tile(view, Look(values=True), 0, 0, 0))
    assert (grey[..., 0] == grey[..., 1]).all()


def test_the_shelf_is_worked_by_keys_and_double_click(demo: Driver, answer) -> None:
    pots = demo.window.shelf.pots
    pots.setFocus()
    first = demo.easel.pot
    QTest.keyClick(pots, Qt.Key.Key_Right)
    assert demo.easel.pot != first
    QTest.keyClick(pots, Qt.Key.Key_Left)
    assert demo.easel.pot == first
    answer(lambda dialog: dialog.name.setText("Peach"))
    QTest.mouseDClick(pots, LEFT, Mods.NoModifier, pots.place_of(first).toPoint())
    assert demo.book.pots()[first].name == "Peach"
    answer(lambda dialog: dialog._remove() if hasattr(dialog, "_remove") else None)
    demo.window.pots.edit_pot(first)
    assert first not in demo.book.pots()
    assert demo.easel.pot in demo.book.pots()
    demo.keys("Ctrl+Z")
    assert first in demo.book.pots()


def test_book_page_and_part_are_named_in_the_window(demo: Driver, answer) -> None:
    def call_it(name: str):
        return lambda dialog: dialog.findChild(QLineEdit).setText(name)

    answer(call_it("Wren and friends"))
    head = demo.window.shelf.pots._heads[1]
    QTest.mouseDClick(demo.window.shelf.pots, LEFT, Mods.NoModifier, QPointF(head[2] + 10, 8).toPoint())
    assert demo.book.parts()[head[0]].name == "Wren and friends"
    answer(call_it("First page"))
    demo.window.books.name_page()
    assert "First page" in demo.window.topbar._page.text()
    answer(call_it("Kites"))
    demo.window.books.name_book()
    assert demo.window.windowTitle() == "Kites"
    for _ in range(3):
        demo.keys("Ctrl+Z")
    assert demo.window.windowTitle() == "The Kite Infirmary"
    assert demo.book.parts()[head[0]].name == "Wren"


def test_a_colour_called_off_leaves_the_page_as_it_was(demo: Driver, monkeypatch: pytest.MonkeyPatch) -> None:
    from PyQt6.QtWidgets import QDialog

    spot, before = demo.middle("Coat"), demo.book.values()

    def mix_and_cancel(dialog: QDialog) -> int:
        dialog.editor.hex.setText("#ff00ff")  # type: ignore[attr-defined]
        dialog.editor._from_digits()  # type: ignore[attr-defined]
        assert demo.color_at(*spot) == "#ff00ff", "the page shows the colour while it is mixed"
        dialog.reject()
        return 0

    monkeypatch.setattr(QDialog, "exec", mix_and_cancel)
    demo.window.pots.edit_pot(demo.pot("Coat"))
    assert demo.color_at(*spot) == "#3a726d"
    assert demo.book.values() == before


def test_a_tile_being_drawn_when_the_page_changes_is_not_taken_for_fresh(demo: Driver) -> None:
    demo.settle()
    view, tiles = demo.easel.view, Tiles(demo.canvas)
    keys = [(Look(), 0, 0, 0), (Look(), 0, 1, 1)]

    def drawn() -> int:
        demo.qtbot.waitUntil(tiles.settled, timeout=30_000)
        return tiles.drawn_count

    for key in keys:
        tiles.get(key, view)
    tiles.stale([(0, 0, 20, 20)])
    demo.qtbot.waitUntil(tiles.settled, timeout=30_000)
    tiles._pool._pool.waitForDone()
    QTest.qWait(20)
    assert not tiles.has(keys[0]), "what was drawn of the page as it was is dropped"
    assert tiles.has(keys[1]), "what the change does not touch is kept"
    before = drawn()
    for key in keys:
        tiles.get(key, view)
    assert drawn() == before + 1
    tiles.stale(None)
    assert tiles.get(keys[1], view) is not None, "a stale tile is shown until its successor is ready"
    assert drawn() == before + 2
    tiles.close()


def test_the_pointer_means_the_page_that_is_shown(demo: Driver) -> None:
    pages = list(demo.book.pages())
    demo.easel.show_page(pages[2])
    demo.settle()
    labels = demo.easel.view.flat.labels[0]
    row, col = np.unravel_index(int(labels.argmax()), labels.shape)
    demo.canvas.overlay.hover(float(row), float(col), QPointF(300, 300))
    demo.easel.show_page(pages[0])
    demo.settle()
    assert demo.easel.view.flat.atoms.count < labels[row, col], "that number means nothing here"
    demo.canvas.grab()
