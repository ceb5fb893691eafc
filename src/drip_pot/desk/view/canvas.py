# SPDX-License-Identifier: GPL-3.0-or-later
"""The canvas: the page seen, moving about, the wipe, marks, and the tool at work.

Knows the easel, the view and the tools. Positions on the widget are logical pixels; the page's are (row, col).
"""

import math
from collections.abc import Mapping
from pathlib import Path

from PyQt6.QtCore import QEvent, QPoint, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QCursor,
    QDragEnterEvent,
    QDropEvent,
    QKeyEvent,
    QMouseEvent,
    QNativeGestureEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QTabletEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QWidget

from drip_pot.core.arrays import Rect
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.view.overlay import Overlay
from drip_pot.desk.view.painting import Painting
from drip_pot.desk.view.senses import Mods
from drip_pot.desk.view.shown import OnScreen
from drip_pot.desk.view.tool import Tool
from drip_pot.words import grouped, tr

_FLAT_DEG = 60.0


class Canvas(OnScreen):
    """The page on its grey surround.

    Signals
    -------
    moved(float, float)
        Page position under the pointer (row, col).
    dropped(object)
        A file was dropped here.
    """

    moved = pyqtSignal(float, float)
    dropped = pyqtSignal(object)

    def __init__(
        self, easel: Easel, tools: Mapping[str, Tool], overlays: Mapping[str, Overlay], parent: QWidget | None = None
    ) -> None:  # fmt: skip
        super().__init__(easel, tools, overlays, parent)
        self.painting = Painting(self)
        self._stage, self._tool_in_hand = easel.stage, easel.tool
        self._busy: Tool | None = None
        self._pan: QPointF | None = None
        self._space = False
        self._wiping = self._opposite = False
        self.setMouseTracking(True)
        self.setAcceptDrops(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Page"))
        self.setMinimumSize(200, 200)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        easel.opened.connect(self._on_opened)
        easel.repaint.connect(self._on_repaint)
        easel.chosen.connect(self._on_chosen)

    # State

    def is_busy(self) -> bool:
        """Whether a gesture is being made."""
        return self._busy is not None

    def _on_opened(self) -> None:
        self.cancel_gesture()
        self.compare_with(None)
        self.turn_deg, self.mirrored = 0.0, False
        self.tiles.clear()
        self.focus_rect = None
        self.last.recall()
        self._fitted = True
        self.fit()
        self.update()

    def _on_repaint(self, rects: list[Rect] | None) -> None:
        if self._fitted:
            self.fit()
        self.tiles.stale(rects)
        self.update()

    def _on_chosen(self) -> None:
        self.cancel_gesture()
        if self.easel.stage != self._stage:
            self._stage, self.focus_rect = self.easel.stage, None
            self.compare_with(None)
        if self.easel.tool != self._tool_in_hand:
            self._tools[self._tool_in_hand].dropped()
            self._tool_in_hand = self.easel.tool
        self.setCursor(self.tool.cursor)
        self.update()

    def cancel_gesture(self) -> bool:
        """Give up what the pointer is doing; return whether it was doing anything."""
        if self._busy is None:
            return False
        self._busy.cancel()
        self._busy = None
        self.update()
        return True

    def paintEvent(self, event: QPaintEvent | None) -> None:
        self.painting.paint(QPainter(self))

    # Pointer and keys

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        self.setFocus()
        self.easel.keys.leave()
        if self.wipe is not None and abs(at.x() - self.wipe_x()) < 12 and event.button() == Qt.MouseButton.LeftButton:
            self._wiping = True
        elif event.button() == Qt.MouseButton.MiddleButton or self._space or self.tool.pans:
            self._pan = at
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
        elif event.button() in (Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton) and self.easel.view is not None:
            self._opposite = event.button() == Qt.MouseButton.RightButton
            if self._opposite and not self.tool.senses.alt:
                return
            self._busy = self.tool
            self._busy.press(*self.to_page(at), self._mods(event))
            self.update()

    def _mods(self, event: QMouseEvent) -> Mods:
        """Return the modifiers held, those that are switched on, and, with the right button, the opposite."""
        return event.modifiers() | self.easel.switched | (Mods.AltModifier if self._opposite else Mods.NoModifier)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if self._wiping:
            self.wipe = min(max(at.x() / self.width(), 0.0), 1.0)
            self.update()
        elif self._pan is not None:
            self.shift(at - self._pan)
            self._pan = at
        elif self._busy is not None:
            self._busy.drag(*self.to_page(at), self._mods(event))
            self.update()
        elif self.overlay.hover(*self.to_page(at), at):
            self.update()
        self.moved.emit(*self.to_page(at))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._wiping:
            self._wiping = False
        elif self._pan is not None:
            self._pan = None
            self.setCursor(Qt.CursorShape.OpenHandCursor if self._space else self.tool.cursor)
        elif self._busy is not None:
            busy, self._busy = self._busy, None
            busy.release(*self.to_page(event.position()), self._mods(event))
            self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        if not event.pixelDelta().isNull() and not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.shift(QPointF(event.pixelDelta()))
        else:
            turn = event.angleDelta().y() or event.pixelDelta().y() * 4
            self.set_zoom(self.zoom * 1.2 ** (turn / 120), event.position())
        self.overlay.leave()  # what it pointed at has moved away
        event.accept()

    def tabletEvent(self, event: QTabletEvent | None) -> None:
        """Note how the pen is held; the mouse event that Qt sends after an unaccepted pen event draws with it."""
        assert event is not None
        down = event.type() != QEvent.Type.TabletRelease
        pressure = event.pressure() ** self.easel.pen_power
        self.easel.pressure = max(pressure, 0.05) if down and event.pressure() > 0 else 1.0
        self.easel.tilt = min(math.hypot(event.xTilt(), event.yTilt()) / _FLAT_DEG, 1.0) if down else 0.0
        event.ignore()

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QNativeGestureEvent) and event.gestureType() == Qt.NativeGestureType.ZoomNativeGesture:
            self.set_zoom(self.zoom * (1 + event.value()), event.position())
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        step = {Qt.Key.Key_Left: (60, 0), Qt.Key.Key_Right: (-60, 0), Qt.Key.Key_Up: (0, 60), Qt.Key.Key_Down: (0, -60)}
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space = True
            self.setCursor(Qt.CursorShape.OpenHandCursor)
        elif event.key() == Qt.Key.Key_Q and not event.isAutoRepeat():
            self.peeking = True
            self.update()
        elif event.key() == Qt.Key.Key_Escape:
            midway = self.cancel_gesture() or self.tool.is_midway or self.easel.keys.leave()
            self.tool.cancel()
            if not midway:  # the gesture goes first, then what is picked
                self.overlay.escape()
            self.focus_rect = None
            self.update()
        elif Qt.Key(event.key()) in step:
            right, down = step[Qt.Key(event.key())]
            panned = self.easel.stage == "Inks" or bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            if not panned and self.easel.keys.go(-(down > 0) + (down < 0), -(right > 0) + (right < 0)):
                self.to_region()
            else:
                self.shift(QPointF(QPoint(right, down)))
        else:
            super().keyPressEvent(event)

    def focusNextPrevChild(self, next: bool) -> bool:
        """Go to a smaller or a larger region, where the keys are at one; else on to the next control."""
        if self.easel.keys.region and self.easel.keys.by_size(1 if next else -1):
            self.to_region()
            return True
        return super().focusNextPrevChild(next)

    def zoom_to(self, what: str) -> None:
        """Show what is picked, or the panel or region that the keys or the pointer are at, as large as can be."""
        view, found = self.easel.view, self.easel.keys.at()
        flat = None if view is None else view.flat
        if flat is None:
            return
        spot = self.to_page(QPointF(self.mapFromGlobal(QCursor.pos()))) if found is None else found[3]
        if what == "panel" and flat.panels is not None:
            number = flat.panels.at(*spot)
            boxes = [flat.panels.rects[number - 1]] if number else []
        else:
            boxes = flat.boxes(list(self.easel.picked) or flat.region(self.easel.atom_at(*spot)))
        if not boxes:
            self.easel.said.emit(
                tr("There is no panel here.") if what == "panel" else tr("There is no region here."), False
            )
        else:
            top, left, bottom, right = zip(*boxes, strict=True)
            self.fill_with((min(top), min(left), max(bottom), max(right)))

    def to_region(self) -> None:
        """Bring the region that the keys are at into sight, and say what it is."""
        found = self.easel.keys.at()
        if found is None:
            return
        flat, atoms, place, spot = found
        if not QRectF(self.rect()).adjusted(40, 40, -40, -40).contains(self.to_widget(*spot)):
            self.center(*spot)
        book, pot = self.easel.book, self.easel.pot_of(atoms[0])
        known = {} if book is None else book.pots()
        name = known[pot].name if pot in known else tr("unpoured")
        area = grouped(int(flat.facts.areas[atoms].sum()))
        self.setAccessibleDescription(tr("{0}, region {1} by size, {2} px", name, place + 1, area))
        self.moved.emit(*spot)
        self.update()

    def press_region(self, mods: Mods) -> bool:
        """Do what a click of the tool in hand does in the region that the keys are at; return whether there is one."""
        found = self.easel.keys.at()
        if found is None:
            return False
        held = mods | self.easel.switched
        self.tool.press(*found[3], held)
        self.tool.release(*found[3], held)
        self.to_region()
        return True

    def keyReleaseEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space = False
            self.setCursor(self.tool.cursor)
        elif event.key() == Qt.Key.Key_Q and not event.isAutoRepeat():
            self.peeking = False
            self.update()
        else:
            super().keyReleaseEvent(event)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        if self._fitted:
            self.fit()

    def leaveEvent(self, event: QEvent | None) -> None:
        self.overlay.leave()
        self.update()

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        assert event is not None
        data = event.mimeData()
        if data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        assert event is not None
        data = event.mimeData()
        for url in data.urls() if data is not None else []:
            if url.isLocalFile():
                self.dropped.emit(Path(url.toLocalFile()))
