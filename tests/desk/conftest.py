# SPDX-License-Identifier: GPL-3.0-or-later
"""A real window on a fresh demo book, driven with the mouse and the keys, that leaves nothing behind."""

import itertools
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, QSettings, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from drip_pot.book.values import POURS
from drip_pot.desk.app import make_app
from drip_pot.desk.session.work import all_ended
from drip_pot.desk.window import Window

Mods = Qt.KeyboardModifier
LEFT = Qt.MouseButton.LeftButton


class Driver:
    """Does to a window what a person does; positions are page pixels (row, col)."""

    def __init__(self, window: Window, qtbot: QtBot) -> None:
        self.window, self.qtbot = window, qtbot
        self.easel, self.canvas = window.easel, window.canvas

    @property
    def book(self):
        assert self.easel.book is not None
        return self.easel.book

    def settle(self) -> None:
        """Wait until everything that follows is known and drawn."""
        for _ in range(3):
            self.qtbot.waitUntil(self.window.is_settled, timeout=240_000)
            QTest.qWait(20)

    def at(self, row: float, col: float) -> QPoint:
        return self.canvas.to_widget(row, col).toPoint()

    def click(self, row: float, col: float, mods: Mods = Mods.NoModifier) -> None:
        QTest.mouseClick(self.canvas, LEFT, mods, self.at(row, col))
        self.worked_out()

    def worked_out(self) -> None:
        """Wait until the gestures made are worked out."""
        self.qtbot.waitUntil(lambda: not self.easel.hands.busy(), timeout=240_000)

    def drag(self, *spots: tuple[float, float], mods: Mods = Mods.NoModifier, release: bool = True) -> None:
        QTest.mousePress(self.canvas, LEFT, mods, self.at(*spots[0]))
        for a, b in itertools.pairwise(spots):
            for step in range(1, 9):
                spot = self.at(a[0] + (b[0] - a[0]) * step / 8, a[1] + (b[1] - a[1]) * step / 8)
                QTest.mouseMove(self.canvas, spot)
                self._move(spot, mods)
        if release:
            QTest.mouseRelease(self.canvas, LEFT, mods, self.at(*spots[-1]))
            self.worked_out()

    def _move(self, spot: QPoint, mods: Mods) -> None:
        from PyQt6.QtCore import QEvent, QPointF
        from PyQt6.QtGui import QMouseEvent

        event = QMouseEvent(
            QEvent.Type.MouseMove, QPointF(spot), self.canvas.mapToGlobal(QPointF(spot)), LEFT, LEFT, mods
        )
        QApplication.sendEvent(self.canvas, event)

    def keys(self, *names: str) -> None:
        for name in names:
            every = [*self.window.actions(), *self.canvas.actions()]
            action = next(a for a in every if a.shortcut().toString() == name)
            action.trigger()

    def middle(self, pot: str, least: int = 400) -> tuple[int, int]:
        """A page pixel well inside the largest region of a pot."""
        import cv2
        import numpy as np

        number = next(n for n, p in self.book.pots().items() if p.name == pot)
        sources, view = self.easel.sources(), self.easel.view
        assert sources is not None
        assert view is not None
        assert view.flat.labels is not None
        assert view.flat.facts is not None
        atoms = [a for a, p in sources[POURS].items() if p == number]
        atom = max(atoms, key=lambda a: int(view.flat.facts.areas[a]))
        assert view.flat.facts.areas[atom] > least
        depth = cv2.distanceTransform((view.flat.labels[0] == atom).astype(np.uint8), cv2.DIST_L2, 5)
        row, col = np.unravel_index(int(depth.argmax()), depth.shape)
        return int(row), int(col)

    def pot(self, name: str) -> int:
        return next(n for n, p in self.book.pots().items() if p.name == name)

    def pot_at(self, row: int, col: int) -> str | None:
        number = self.easel.pot_of(self.easel.atom_at(row, col))
        return None if number is None else self.book.pots()[number].name

    def color_at(self, row: int, col: int) -> str:
        """The colour on the screen at a page pixel."""
        self.settle()
        return self.canvas.grab().toImage().pixelColor(self.at(row, col)).name()

    def said(self) -> str:
        return self.window.strip.text.text() if self.window.strip.isVisible() else ""


@pytest.fixture
def window(qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Driver]:
    """An empty window with fresh settings."""
    make_app(["drip-pot"])
    monkeypatch.setattr("drip_pot.desk.session.looking.AT_REST_MS", 0)  # hands rest at once
    monkeypatch.setattr("drip_pot.desk.session.deriving.LATER_MS", 20)
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    settings = QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat)
    settings.setValue("tried", True)
    made = Window(settings)
    made.resize(1280, 800)
    made.show()
    driver = Driver(made, qtbot)
    yield driver
    made.close()
    assert not made.easel.deriving.work._jobs, "no job outlives its window"
    made.deleteLater()
    assert all_ended(60_000)
    QTest.qWait(10)


@pytest.fixture
def demo(window: Driver, demo_book: Path) -> Driver:
    """The demo book, page one, settled."""
    window.easel.opening.open(demo_book)
    window.settle()
    return window


@pytest.fixture
def answer(monkeypatch: pytest.MonkeyPatch) -> Callable[[Callable[[object], None]], None]:
    """Answer the next dialog: `answer(lambda dialog: ...)` fills it in, then it is accepted."""
    from PyQt6.QtWidgets import QDialog

    def prepare(fill: Callable[[object], None]) -> None:
        def run(dialog: QDialog) -> int:
            dialog.show()
            fill(dialog)
            if dialog.result() != QDialog.DialogCode.Accepted:
                dialog.accept()
            return int(dialog.result())

        monkeypatch.setattr(QDialog, "exec", run)

    return prepare
