# SPDX-License-Identifier: GPL-3.0-or-later
"""Keys go where the hand is, nothing jumps under a click, nothing waits for a job, files from a real dialog."""

import subprocess
import sys
import threading
from datetime import date
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QMouseEvent, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractSlider,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QFileDialog,
    QLineEdit,
    QMenu,
    QScrollBar,
    QWidget,
)

from drip_pot.book import Hold, verbs
from drip_pot.book.values import SHEETS
from drip_pot.book.where import Scope
from drip_pot.desk.parts.card_list import CardList
from drip_pot.desk.session.work import Work
from drip_pot.desk.stages import STAGES
from drip_pot.files import keep_copy, open_book
from tests.conftest import two_rooms, write_png
from tests.desk.conftest import LEFT, Driver, Mods
from tests.test_cli import drip_pot

PARTS = (QAbstractButton, QAbstractSlider, QComboBox)


@pytest.fixture
def active(demo: Driver) -> Driver:
    """The demo with the keys of the desktop."""
    demo.window.activateWindow()
    demo.canvas.setFocus()
    demo.qtbot.waitUntil(demo.canvas.hasFocus, timeout=10_000)
    return demo


def controls(window: QWidget, kind: type) -> list[QWidget]:
    return [w for w in window.findChildren(kind) if w.isVisible() and w.isEnabled() and not isinstance(w, QScrollBar)]


def wheel(widget: QWidget) -> None:
    at = QPointF(widget.rect().center())
    event = QWheelEvent(at, widget.mapToGlobal(at), QPoint(), QPoint(0, 120), Qt.MouseButton.NoButton, Mods.NoModifier,
                        Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
    QApplication.sendEvent(widget, event)


def test_the_wheel_over_a_panel_changes_nothing_in_any_stage(active: Driver) -> None:
    for stage in STAGES:
        active.easel.choose_stage(stage)
        active.settle()
        steps = active.book.position
        for kind in (QAbstractSpinBox, QComboBox, QAbstractSlider):
            for one in controls(active.window.inspector, kind):
                wheel(one)
        assert active.book.position == steps, stage
        assert active.canvas.hasFocus()


def test_a_click_on_any_part_of_any_stage_leaves_the_keys_with_the_page(active: Driver) -> None:
    """Fields excepted, which have them until Enter."""
    for stage in STAGES:
        active.easel.choose_stage(stage)
        active.settle()
        for tool in active.easel.offered[stage]:
            active.easel.choose_tool(tool)
            for part in (active.window.inspector, active.window.toolbar, active.window.shelf):
                for one in [
                    *controls(part, QAbstractButton),
                    *controls(part, QAbstractSlider),
                    *controls(part, QComboBox),
                ]:
                    assert one.focusPolicy() in (Qt.FocusPolicy.NoFocus, Qt.FocusPolicy.TabFocus), (stage, tool, one)
        for field in controls(active.window.inspector, QAbstractSpinBox):
            field.setFocus(Qt.FocusReason.MouseFocusReason)
            assert field.hasFocus()
            QTest.keyClick(field, Qt.Key.Key_Escape)
            active.qtbot.waitUntil(active.canvas.hasFocus, timeout=10_000)
        for field in controls(active.window.inspector, QAbstractSpinBox)[:1]:
            field.setFocus(Qt.FocusReason.MouseFocusReason)
            QTest.keyClick(field, Qt.Key.Key_Return)
            active.qtbot.waitUntil(active.canvas.hasFocus, timeout=10_000)


def test_a_button_that_goes_does_not_hand_the_keys_to_the_number_beside_it(active: Driver) -> None:
    active.keys("E")
    active.drag(*[active.middle("Air")] * 2)
    block = active.window.inspector.panels["Flats"].tool
    active.settle()
    block.settle.setEnabled(True)
    block.settle.setFocus(Qt.FocusReason.TabFocusReason)
    block.settle.setEnabled(False)
    active.qtbot.waitUntil(active.canvas.hasFocus, timeout=10_000)


@pytest.mark.parametrize("stage", ["Shade", "Holds"])
def test_a_click_on_a_card_takes_it_and_moves_nothing(active: Driver, stage: str) -> None:
    for name in ("One", "Two", "Three"):
        verbs.add_pass(active.book, active.easel.page, name, "#203040")
        verbs.add_hold(active.book, active.easel.page, Hold(name, Scope(pots=(1,)), how="fixed"))
    active.easel.choose_stage(stage)
    active.settle()
    cards = next(c for c in active.window.inspector.panels[stage].findChildren(CardList) if c.isVisible())
    order = [card.number for card in cards._cards]
    moved: list[tuple[int, int]] = []
    cards.moved.connect(lambda number, places: moved.append((number, places)))
    for place in range(len(order)):
        at = cards.box(place).center().toPoint()
        QTest.mousePress(cards, LEFT, Mods.NoModifier, at)
        active.settle()  # the settings above the list change their height, and the list slides under the pointer
        QTest.mouseRelease(cards, LEFT, Mods.NoModifier, cards.mapFromGlobal(cards.mapToGlobal(at)) + QPoint(0, 60))
        assert moved == [], "it is the pointer that has to move, not the list"
    base = cards.mapToGlobal(cards.box(0).center())
    press, move, release = QEvent.Type.MouseButtonPress, QEvent.Type.MouseMove, QEvent.Type.MouseButtonRelease
    for kind, down in ((press, 0), (move, 30), (move, 55), (release, 55)):
        spot = base + QPointF(0, down)
        QApplication.sendEvent(cards, QMouseEvent(kind, cards.mapFromGlobal(spot), spot, LEFT, LEFT, Mods.NoModifier))
    assert [places for _, places in moved] == [-1]


def test_paper_in_hand_keeps_the_part_and_a_new_book_begins_at_full_strength(active: Driver, tmp_path: Path) -> None:
    active.easel.choose_pot(active.pot("Ember"))
    part = active.book.pots()[active.easel.pot].part
    active.keys("0", "2")
    assert active.book.pots()[active.easel.pot].part == part
    active.easel.set_strength(0.02)
    active.easel.opening.open(write_png(tmp_path / "mine.png", two_rooms()))
    active.qtbot.waitUntil(lambda: active.easel.file.path.name == "mine.drip", timeout=60_000)
    active.settle()
    assert active.easel.strength == 1.0
    assert (active.easel.stage, active.easel.tool) == ("Inks", active.easel.offered["Inks"][0])


def test_several_drawings_come_one_after_another_and_none_is_lost(active: Driver, tmp_path: Path, monkeypatch) -> None:
    paths = [str(write_png(tmp_path / f"p{k}.png", two_rooms(rows=120 + k))) for k in range(5)]
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: (paths, ""))
    active.window.books.add_page()
    active.settle()
    assert [page.name for page in list(active.book.pages().values())[-5:]] == [f"p{k}" for k in range(5)]
    active.window.books.add_sheet()
    active.settle()
    assert len(active.easel.sources()[SHEETS]) == 6


def test_a_folder_of_pages_comes_in_natural_order_and_its_first_page_is_shown(
    active: Driver, tmp_path: Path, monkeypatch
) -> None:
    folder, asked = tmp_path / "scans", []
    folder.mkdir()
    for name in ("page 10", "page 2", "Page 1", ".hidden"):
        Image.fromarray(255 - two_rooms()).save(folder / f"{name}.png")  # without a resolution
    (folder / "notes.txt").write_text("no drawing")
    active.easel.opening.ask_dpi = lambda name: asked.append(name) or 300.0
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(folder))
    active.window.books.add_folder()
    active.settle()
    assert [page.name for page in list(active.book.pages().values())[-3:]] == ["Page 1", "page 2", "page 10"]
    assert active.book.pages()[active.easel.page].name == "Page 1"
    assert asked == ["Page 1.png"], "what comes together is asked about once"
    (tmp_path / "empty").mkdir()
    active.window.canvas.dropped.emit(tmp_path / "empty")
    assert "no drawing in empty" in active.said()


def test_a_file_dialog_does_not_drop_the_lock(active: Driver, demo_book: Path) -> None:
    asking = QFileDialog(active.window, "Open", str(demo_book.parent))
    asking.setOption(QFileDialog.Option.DontUseNativeDialog)
    asking.show()
    active.qtbot.waitUntil(lambda: bool(asking.findChildren(QLineEdit)), timeout=10_000)
    demo_book.open("rb").close()  # what a dialog does to learn the kind of a file it does not know
    before = sorted(p.name for p in demo_book.parent.iterdir())
    told = drip_pot("do", demo_book, "set-gap", '{"gap_px": 9}')
    assert told.returncode == 1
    assert "open in another window" in told.stderr
    assert drip_pot("tell", demo_book, "--page", 1).returncode == 0
    assert sorted(p.name for p in demo_book.parent.iterdir()) == before
    asking.close()


def test_nothing_waits_for_a_job_that_will_not_stop(active: Driver, tmp_path: Path) -> None:
    """Another book is opened, and dialogs are closed, while work goes on that never looks whether it is to stop."""
    go_on, begun = threading.Event(), threading.Event()

    def stubborn(_: object) -> None:
        begun.set()
        go_on.wait(60)

    works = [active.easel.deriving.work, active.easel.deriving.looking.work, active.easel.hands.work]
    for work in works:
        work.start("stubborn", stubborn, lambda _: None)
    assert begun.wait(30)
    active.easel.opening.open(write_png(tmp_path / "mine.png", two_rooms()))
    active.qtbot.waitUntil(lambda: active.easel.file.path.name == "mine.drip", timeout=60_000)
    active.settle()
    own = Work(active.window)
    own.start("stubborn", stubborn, lambda _: None)
    own.close()
    assert not go_on.is_set(), "nobody waited"
    go_on.set()


def test_a_fast_stroke_keeps_its_corners(active: Driver) -> None:
    active.easel.choose_stage("Shade")
    active.settle()
    active.easel.choose_tool("Cut shade")
    tool = active.canvas.tool
    rows, cols = active.easel.view.shape
    zigzag = [(rows * (0.3 + 0.3 * (k % 2)), cols * (0.2 + 0.6 * k / 20)) for k in range(21)]
    QTest.mousePress(active.canvas, LEFT, Mods.NoModifier, active.at(*zigzag[0]))
    for spot in zigzag:
        active._move(active.at(*spot), Mods.NoModifier)
    drawn = np.array(tool._points)
    for spot in zigzag:
        assert np.hypot(*(drawn - spot).T).min() < 2 / active.canvas.zoom
    active.canvas.cancel_gesture()
    attribute = Qt.ApplicationAttribute.AA_CompressHighFrequencyEvents
    assert not QApplication.testAttribute(attribute)


def test_the_mark_has_help_and_export_remembers(active: Driver, tmp_path: Path, answer, monkeypatch) -> None:
    menus: list[list[str]] = []
    monkeypatch.setattr(QMenu, "popup", lambda menu, _: menus.append([action.text() for action in menu.actions()]))
    active.window.topbar._mark.click()
    assert {"Manual", "Keys", "Settings"} <= set(menus[0])
    to = tmp_path / "out"

    def fill(dialog) -> None:
        for kind, box in dialog.boxes.items():
            box.setChecked(kind == "flats")
        dialog.folder.setText(str(to))

    answer(fill)
    active.window.exporting.export()
    active.settle()
    assert "Wrote 2 files" in active.said()
    assert active.window.strip.act.isVisible()
    assert active.window.strip.act.text() == "Show folder"
    seen: list[object] = []
    answer(lambda dialog: seen.extend([dialog.kinds(), dialog.folder.text()] if hasattr(dialog, "kinds") else []))
    active.window.exporting.export()
    assert seen == [("flats",), str(to)]


def test_a_window_killed_beside_a_reading_command_has_lost_nothing(demo_book: Path, tmp_path: Path) -> None:
    file, book = open_book(demo_book)
    steps = len(book.history)
    verbs.name_book(book, "Renamed")
    keep_copy(file, tmp_path / "copies", date(2026, 3, 1))
    run = [sys.executable, "-m", "drip_pot", "thumbnail", str(demo_book), str(tmp_path / "t.png")]
    assert subprocess.run(run, check=False).returncode == 0
    file.close()
    file, book = open_book(demo_book)
    assert (len(book.history), book.info.title) == (steps + 1, "Renamed")
    file.close()
