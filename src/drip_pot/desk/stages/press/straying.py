# SPDX-License-Identifier: GPL-3.0-or-later
"""Plates moved by hand, to see what shows when they stray. Knows the easel; nothing is kept in the book."""

import math

from PyQt6.QtCore import QPointF, QSize, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from drip_pot.desk.parts import theme
from drip_pot.desk.parts.lengths import length_text
from drip_pot.desk.parts.widgets import Block, button
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.press.plate_choice import PlateChoice
from drip_pot.words import tr

_MOST_MM, _STEP_MM, _SIZE = 0.5, 0.02, 132
Moves = tuple[tuple[float, float], ...]
AT_REST: Moves = ()


class Straying:
    """How far each plate is moved, in mm down and to the right."""

    def __init__(self, easel: Easel) -> None:
        self.easel = easel
        self.moves: Moves = AT_REST
        easel.opened.connect(self.put_back)

    def move(self, plate: int, down: float, right: float) -> None:
        """Move a plate, at most half a millimetre."""
        far = math.hypot(down, right)
        share = min(1.0, _MOST_MM / far) if far else 1.0
        moves = [*self.moves, *[(0.0, 0.0)] * (plate + 1 - len(self.moves))]
        moves[plate] = round(down * share, 3), round(right * share, 3)
        self.moves = tuple(moves)
        self.easel.chosen.emit()

    def at(self, plate: int) -> tuple[float, float]:
        """Return how far a plate is moved, in mm down and to the right."""
        return self.moves[plate] if plate < len(self.moves) else (0.0, 0.0)

    def put_back(self) -> None:
        """Put all plates in register."""
        if self.moves != AT_REST:
            self.moves = AT_REST
            self.easel.chosen.emit()


class Wheel(QWidget):
    """A disc on which a dot is dragged: which way a plate strays, and how far."""

    def __init__(self, straying: Straying) -> None:
        super().__init__()
        self._straying, self.plate = straying, 1
        self.setFixedSize(_SIZE, _SIZE)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("How far the plate is moved"))
        self.setToolTip(tr("Drag to move the plate, up to half a millimetre; arrow keys move it a little"))

    def sizeHint(self) -> QSize:
        return QSize(_SIZE, _SIZE)

    def spot(self) -> QPointF:
        """Return where the dot is."""
        down, right = self._straying.at(self.plate)
        return QPointF(_SIZE / 2 + right * self._scale(), _SIZE / 2 + down * self._scale())

    @staticmethod
    def _scale() -> float:
        return (_SIZE / 2 - 8) / _MOST_MM

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = QPointF(_SIZE / 2, _SIZE / 2)
        painter.setBrush(theme.color("card"))
        for share in (1.0, 0.5):
            painter.setPen(
                QPen(theme.color("text" if self.hasFocus() and share == 1 else "edge"), 2 if share == 1 else 1)
            )
            painter.drawEllipse(middle, (_SIZE / 2 - 3) * share, (_SIZE / 2 - 3) * share)
        painter.setPen(QPen(theme.color("edge"), 1))
        painter.drawLine(QPointF(6, middle.y()), QPointF(_SIZE - 6, middle.y()))
        painter.drawLine(QPointF(middle.x(), 6), QPointF(middle.x(), _SIZE - 6))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color("text"))
        painter.drawEllipse(self.spot(), 5, 5)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        self._straying.move(self.plate, (at.y() - _SIZE / 2) / self._scale(), (at.x() - _SIZE / 2) / self._scale())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        steps = {Qt.Key.Key_Up: (-1, 0), Qt.Key.Key_Down: (1, 0), Qt.Key.Key_Left: (0, -1), Qt.Key.Key_Right: (0, 1)}
        step = steps.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        down, right = self._straying.at(self.plate)
        self._straying.move(self.plate, down + step[0] * _STEP_MM, right + step[1] * _STEP_MM)


class StrayBlock(Block):
    """A plate is chosen and moved."""

    def __init__(self, easel: Easel) -> None:
        super().__init__("Move a plate")
        self._straying = easel.own(Straying)
        self.wheel = Wheel(self._straying)
        self.plate = PlateChoice(easel, "Plate to move", self.wheel.plate)
        self.plate.chosen.connect(lambda place: self.refresh())
        self.back = button("Put back", self._straying.put_back, "All plates in register again")
        self.add(self.plate)
        self.row(self.wheel, self.back)

    def refresh(self) -> None:
        """Show where the plate is."""
        self.plate.refresh()
        self.wheel.plate = self.plate.place
        self.back.setEnabled(self._straying.moves != AT_REST)
        down, right = self._straying.at(self.wheel.plate)
        said = length_text(math.hypot(down, right), 2) if down or right else tr("in register")
        self.note.setText(said)
        self.wheel.setAccessibleDescription(f"{tr(self.plate.word())}: {said}")
        self.wheel.update()
