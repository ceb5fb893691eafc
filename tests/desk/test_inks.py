# SPDX-License-Identifier: GPL-3.0-or-later
"""The Inks stage in the real window: sheets, dust, mending, effect lines, page and scanner."""

from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np
import pytest
from PIL import Image
from PyQt6.QtCore import QEvent, QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QImage, QPointingDevice, QTabletEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QMenu

from drip_pot.book.values import EFFECTS, INKS, PASSES, SHEETS
from drip_pot.desk.dialogs.pages import PageDialog, PicturesDialog
from drip_pot.desk.dialogs.scanner import ScannerWindow
from drip_pot.desk.stages.inks.inking import Inking
from drip_pot.desk.stages.shade.shading import Shading
from tests.conftest import two_rooms, write_png
from tests.desk.conftest import Driver, Mods
from tests.files.test_images import GRAY, encoded


@pytest.fixture
def rooms(window: Driver, tmp_path: Path) -> Driver:
    """A page of two rooms with dust and a dot that belongs, in Inks."""
    ink = two_rooms(rows=500, cols=700)
    for row, col in ((100, 100), (120, 130), (300, 560)):
        cv2.circle(ink, (col, row), 3, 255, -1)
    window.easel.opening.open(write_png(tmp_path / "rooms.png", ink))
    window.settle()
    window.keys("Alt+1")
    window.canvas.set_zoom(1.0)
    window.canvas.go_to((0, 0, 500, 700))
    window.settle()
    return window


def ink_at(driver: Driver, row: int, col: int) -> int:
    driver.settle()
    assert driver.easel.view is not None
    return int(driver.easel.view.drawing.ink[0][row, col])


def settings(driver: Driver):
    sources = driver.easel.sources()
    assert sources is not None
    return sources[INKS][driver.easel.sheet]


def test_dust_in_a_loop_goes_at_once_and_a_dot_that_belongs_comes_back(rooms: Driver) -> None:
    rooms.keys("X")
    rooms.drag((85, 80), (85, 150), (140, 150), (140, 80))
    assert ink_at(rooms, 100, 100) == ink_at(rooms, 120, 130) == 0
    assert ink_at(rooms, 300, 560) > 200
    assert rooms.book.history[-2].title == "Remove 2 specks"
    rooms.keys("K")
    rooms.drag((118, 120), (122, 140))
    assert ink_at(rooms, 120, 130) > 200
    assert ink_at(rooms, 100, 100) == 0
    assert settings(rooms).kept == ((120, 130),)
    rooms.drag((400, 400), (410, 400))
    assert "None of the specks" in rooms.said()


def test_isolation_faintness_holes_and_two_levels_are_settings(rooms: Driver) -> None:
    panel = rooms.window.inspector.panels["Inks"]
    rooms.keys("X")
    panel.speck_size.box.setValue(60)
    rooms.settle()
    assert panel.found.text() == "3 specks"
    panel.alone.box.setValue(400)
    assert settings(rooms).settings.alone_px == 400
    rooms.keys("R")
    panel.two.click()
    rooms.settle()
    assert set(np.unique(rooms.easel.view.drawing.ink[0])) <= {0, 255}
    assert panel.threshold.isVisibleTo(panel)
    assert "Losses" in [b.text() for b in rooms.window.chips.findChildren(type(rooms.window.topbar.history))]


def test_the_pen_closes_a_wall_the_scraper_opens_it_and_undo_is_exact(rooms: Driver) -> None:
    rooms.keys("P")
    before = rooms.easel.view.drawing.ink[0].copy()
    rooms.drag((250, 100), (250, 300))
    assert ink_at(rooms, 250, 200) > 200
    assert ink_at(rooms, 259, 200) == 0
    for _ in range(3):
        rooms.keys("]")
    assert rooms.easel.own(Inking).pen_px > 15
    rooms.keys("S")
    rooms.drag((240, 200), (260, 200))
    assert ink_at(rooms, 250, 200) == 0
    rooms.keys("P")
    rooms.drag((300, 100), (340, 150), (300, 300), mods=Mods.ShiftModifier)
    assert ink_at(rooms, 300, 200) > 200, "Shift draws straight"
    rooms.drag((250, 120), (250, 130), release=False)
    QTest.keyClick(rooms.canvas, Qt.Key.Key_Escape)
    for _ in range(3):
        rooms.keys("Ctrl+Z")
    rooms.settle()
    assert np.array_equal(rooms.easel.view.drawing.ink[0], before)


def test_pen_pressure_makes_the_stroke_thin_and_none_at_all_still_draws(rooms: Driver) -> None:
    rooms.easel.own(Inking).smoothing = 0.0

    def pen(kind: QEvent.Type, pressure: float, tilt: float = 0) -> None:
        at = QPointF(200, 200)
        device = QPointingDevice.primaryPointingDevice()
        event = QTabletEvent(kind, device, at, at, pressure, tilt, 0, 0, 0, 0, Mods.NoModifier,
                             Qt.MouseButton.LeftButton, Qt.MouseButton.LeftButton)  # fmt: skip
        QApplication.sendEvent(rooms.canvas, event)

    rooms.keys("P")
    widths = []
    for row, pressure in ((200, 0.3), (240, 1.0), (280, 0.0)):
        pen(QEvent.Type.TabletMove, pressure)
        rooms.drag((row, 100), (row, 300))
        rooms.settle()
        widths.append(int((rooms.easel.view.drawing.ink[0][row - 15 : row + 15, 200] > 127).sum()))
    assert widths[0] < widths[1] == widths[2]
    rooms.keys("Alt+3", "M")
    rooms.easel.own(Shading).put("width_px", 20.0)
    high = []
    for col, tilt in ((120, 0), (300, 60)):
        pen(QEvent.Type.TabletMove, 1.0, tilt)
        rooms.drag((200, col), (200, col + 40))
        rooms.settle()
        high.append(int((rooms.easel.view.covers[0].whole()[:, col + 20] > 0).sum()))
    assert high[1] > 1.6 * high[0], "a pen laid flat draws wide"
    pen(QEvent.Type.TabletRelease, 0.0)
    assert rooms.easel.tilt == 0


def test_a_loop_is_mirrored_about_the_axis_that_is_clicked(rooms: Driver) -> None:
    rooms.keys("M")
    rooms.drag((80, 80), (80, 150), (140, 150), (140, 80))
    assert "mirror axis" in rooms.said()
    rooms.click(110, 200)
    assert ink_at(rooms, 100, 300) > 200
    assert ink_at(rooms, 120, 270) > 200
    rooms.drag((80, 80), (80, 150), (140, 150), (140, 80))
    QTest.keyClick(rooms.canvas, Qt.Key.Key_Escape)
    steps = rooms.book.position
    rooms.click(110, 300)
    assert rooms.book.position == steps


def test_effect_lines_are_made_moved_changed_and_removed(rooms: Driver) -> None:
    rooms.keys("E")
    panel = rooms.window.inspector.panels["Inks"]
    rooms.drag((40, 370), (40, 660), (460, 660), (460, 370))
    rooms.settle()
    sources = rooms.easel.sources()
    effect = sources[EFFECTS][1]
    view = rooms.easel.view
    drawn = view.flat.painted.ink[0][60:440, 400:640] > 128
    assert drawn.any()
    assert not drawn[round(effect.row) - 60, round(effect.col) - 400]
    rooms.drag((effect.row, effect.col), (effect.row + 50, effect.col))
    assert rooms.easel.sources()[EFFECTS][1].row == pytest.approx(effect.row + 50, abs=2)
    panel.effects.rows.kind.setCurrentIndex(panel.effects.rows.kind.findData("burst"))
    panel.effects.rows.kind.activated.emit(panel.effects.rows.kind.currentIndex())
    panel.effects.rows.rows["count"].box.setValue(20)
    changed = rooms.easel.sources()[EFFECTS][1]
    assert (changed.kind, changed.count) == ("burst", 20)
    rooms.keys("Del")
    assert rooms.easel.sources()[EFFECTS] == {}
    rooms.keys("Ctrl+Z")
    assert rooms.easel.sources()[EFFECTS][1] == changed


def test_effect_lines_go_behind_figures_with_one_button_and_are_moved_there(rooms: Driver) -> None:
    rooms.keys("E")
    rooms.drag((40, 370), (40, 660), (460, 660), (460, 370))
    rooms.settle()
    effect = rooms.easel.sources()[EFFECTS][1]
    rooms.window.inspector.panels["Inks"].effects.beneath.click()
    rooms.settle()
    passes = rooms.easel.sources()[PASSES]
    assert rooms.easel.stage == "Shade"
    assert [one.effect for one in passes.values()] == [None, effect]
    rooms.keys("E")
    rooms.window.inspector.panels["Shade"].passes.cards.chosen.emit(max(passes))
    rooms.drag((effect.row, effect.col), (effect.row + 40, effect.col))
    assert rooms.easel.sources()[PASSES][max(passes)].effect.row == pytest.approx(effect.row + 40, abs=2)
    rooms.drag((60, 60), (60, 300), (400, 300), (400, 60))
    rooms.settle()
    assert len(rooms.easel.sources()[PASSES]) == 3
    rooms.keys("Del")
    assert len(rooms.easel.sources()[PASSES]) == 2


def test_corners_pulled_onto_the_paper_lay_it_square_with_enter_and_escape_gives_up(rooms: Driver) -> None:
    rooms.keys("L")
    rows, cols = rooms.easel.view.shape
    steps = rooms.book.position
    rooms.drag((3, 3), (40, 30))
    QTest.keyClick(rooms.canvas, Qt.Key.Key_Escape)
    rooms.keys("Return")
    assert rooms.book.position == steps
    rooms.drag((3, 3), (40, 30))
    rooms.keys("Return")
    rooms.settle()
    square = rooms.easel.sources()[INKS][0].settings.square
    assert square.corners[0] == pytest.approx((40, 30), abs=2)
    assert square.corners[2] == pytest.approx((rows, cols), abs=1)
    assert rooms.easel.view.shape == (square.rows, square.cols)
    rooms.keys("Ctrl+Z")
    rooms.settle()
    assert rooms.easel.view.shape == (rows, cols)


def test_sheets_are_brought_in_taken_in_hand_and_managed(
    rooms: Driver, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, answer: Callable[..., None]
) -> None:
    ink = np.zeros((500, 700), np.uint8)
    ink[200:204, 60:300] = 255
    path = write_png(tmp_path / "hatching.png", ink)
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: ([str(path)], ""))
    rooms.window.books.add_sheet()
    rooms.settle()
    assert [s.role for s in rooms.easel.sources()[SHEETS].values()] == ["contour", "detail"]
    assert rooms.easel.sheet == 1
    cards = rooms.window.cards["Inks"]
    assert [c.name for c in cards._pictures] == ["Contour", "hatching"]
    QTest.mouseClick(cards, Qt.MouseButton.LeftButton, pos=cards._box(0).center().toPoint())
    assert rooms.easel.sheet == 0
    rooms.keys("Shift+Right", "Shift+H")
    rooms.settle()
    assert not rooms.easel.sources()[SHEETS][1].shown
    menu = rooms.window.sheets.fill(QMenu())
    next(a for a in menu.actions() if a.text().startswith("Lettering")).trigger()
    rooms.settle()
    assert rooms.easel.sources()[SHEETS][1].role == "lettering"
    next(a for a in menu.actions() if a.text() == "Remove the sheet").trigger()
    rooms.settle()
    assert list(rooms.easel.sources()[SHEETS]) == [0]
    assert rooms.easel.sheet == 0


def test_a_corrected_drawing_takes_the_place_of_a_sheet(
    rooms: Driver, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    rooms.keys("Alt+2", "1")
    rooms.click(400, 100)
    rooms.settle()
    pot = rooms.easel.pot_of(rooms.easel.atom_at(400, 100))
    assert pot is not None
    ink = two_rooms(rows=500, cols=700)
    cv2.circle(ink, (560, 200), 40, 255, 4)
    moved = np.roll(ink, (6, -9), axis=(0, 1))
    path = write_png(tmp_path / "better.png", moved)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(path), ""))
    rooms.window.books.reink()
    rooms.settle()
    assert rooms.easel.pot_of(rooms.easel.atom_at(400, 100)) == pot
    place = rooms.easel.sources()[SHEETS][0].place
    assert place.down_px == pytest.approx(-6, abs=0.5)
    assert place.right_px == pytest.approx(9, abs=0.5)
    assert "Redrawn" in [f.title for f in rooms.easel.findings["Inks"]]


def test_the_page_is_cropped_by_dragging_and_set_by_numbers(rooms: Driver, answer: Callable[..., None]) -> None:
    rooms.keys("C")
    rooms.drag((50, 60), (450, 640))
    rooms.settle()
    assert rooms.easel.view.shape == pytest.approx((400, 580), abs=3)
    rooms.keys("Ctrl+Z")
    rooms.settle()
    assert rooms.easel.view.shape == (500, 700)

    def fill(dialog: object) -> None:
        assert isinstance(dialog, PageDialog)
        dialog.trims.setChecked(True)
        dialog.wide.setValue(40)
        dialog.high.setValue(30)
        dialog.bleed.setValue(3)
        dialog.edges[0].setValue(2.54)

    answer(fill)
    rooms.window.books.set_page()
    rooms.settle()
    page = rooms.easel.sources().page
    assert (page.trim_mm, page.bleed_mm, page.rows) == ((40.0, 30.0), 3.0, 530)
    assert rooms.easel.view.shape == (530, 700)


def test_pictures_are_pasted_and_their_resolution_is_asked(rooms: Driver, tmp_path: Path) -> None:
    asked = []
    rooms.easel.opening.ask_dpi = lambda name: asked.append(name) or 450.0
    image = QImage(300, 200, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    for col in range(50, 250):
        image.setPixelColor(col, 100, Qt.GlobalColor.black)
    clipboard = QApplication.clipboard()
    clipboard.setImage(image)
    rooms.keys("Ctrl+V")
    rooms.settle()
    assert asked == ["Pasted drawing.png"]
    assert [p.dpi for p in rooms.book.pages().values()] == [300.0, 450.0]
    rooms.easel.opening.ask_dpi = lambda name: None
    rooms.keys("Ctrl+V")
    rooms.settle()
    assert len(rooms.book.pages()) == 2
    assert "was not opened" in rooms.said()
    files = QMimeData()
    files.setUrls([QUrl.fromLocalFile(str(write_png(tmp_path / "third.png", two_rooms())))])
    clipboard.setMimeData(files)
    rooms.keys("Ctrl+V")
    rooms.settle()
    assert len(rooms.book.pages()) == 3
    clipboard.setText("no picture")
    rooms.keys("Ctrl+V")
    assert "no picture on the clipboard" in rooms.said()


def test_a_file_of_several_pictures_is_asked_about(rooms: Driver, tmp_path: Path, answer: Callable[..., None]) -> None:
    path = tmp_path / "many.tif"
    more = [Image.fromarray(255 - GRAY), Image.fromarray(GRAY)]
    path.write_bytes(encoded(Image.fromarray(GRAY), "TIFF", save_all=True, append_images=more, dpi=(300, 300)))

    def fill(dialog: object) -> None:
        assert isinstance(dialog, PicturesDialog)
        dialog.list.item(1).setCheckState(Qt.CheckState.Unchecked)

    answer(fill)
    rooms.canvas.dropped.emit(path)
    rooms.settle()
    assert [p.picture for p in rooms.book.pages().values()] == [0, 0, 2]


def test_the_scanner_previews_scans_and_can_be_stopped(rooms: Driver) -> None:
    scanner = ScannerWindow(rooms.window)
    scanner.scanned.connect(lambda name, data: rooms.easel.opening.add_page(rooms.window.books._beside(name), data))
    scanner.show()
    scanner.tray.setCurrentRow(5)
    scanner.preview()
    rooms.qtbot.waitUntil(lambda: not scanner.work.busy(), timeout=30_000)
    assert scanner.glass.picture is not None
    scanner.dpi.setCurrentIndex(0)
    scanner.scan()
    scanner.stop()
    rooms.qtbot.waitUntil(lambda: scanner.scan_button.isEnabled(), timeout=30_000)
    assert len(rooms.book.pages()) == 1
    scanner.scan()
    rooms.qtbot.waitUntil(lambda: not scanner.work.busy(), timeout=60_000)
    rooms.settle()
    pages = list(rooms.book.pages().values())
    assert (pages[-1].name, pages[-1].dpi) == ("Turning, frame 1", 150.0)
    scanner.close()
