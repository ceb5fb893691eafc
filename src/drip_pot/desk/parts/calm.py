# SPDX-License-Identifier: GPL-3.0-or-later
"""Keys and the wheel go where the hand is: panels never take them by themselves. Knows widgets only.

A number or text field has the keys from a click into it until Enter or Escape; then, and after any other part of a
panel, the page has them. The wheel scrolls panels, and changes only a field that was clicked into.
"""

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer
from PyQt6.QtGui import QFocusEvent, QKeyEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractSlider,
    QAbstractSpinBox,
    QComboBox,
    QLineEdit,
    QScrollBar,
    QWidget,
)

_ENDS = (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Escape)
_MEANT = (Qt.FocusReason.MouseFocusReason, Qt.FocusReason.PopupFocusReason, Qt.FocusReason.ActiveWindowFocusReason,
          Qt.FocusReason.ShortcutFocusReason)  # fmt: skip


class Calm(QObject):
    """Watches over the fields of panels; `home` is given the keys when they are done with."""

    def __init__(self, parent: QObject, home: Callable[[], object] | None = None) -> None:
        super().__init__(parent)
        self._home = home
        self._tabbed = False

    def watch(self, root: QWidget) -> None:
        """Watch over everything in a panel or a dialog that is there now; what is watched already stays so."""
        for one in root.findChildren(QWidget):
            if one.property("calm"):
                continue
            field = isinstance(one, QAbstractSpinBox | QComboBox | QLineEdit)
            moved = isinstance(one, QAbstractSlider) and not isinstance(one, QScrollBar)
            if not field and not moved and not isinstance(one, QAbstractButton):
                continue
            one.setProperty("calm", True)
            one.installEventFilter(self)
            if one.focusPolicy() != Qt.FocusPolicy.NoFocus and self._home is not None:
                typed = isinstance(one, QAbstractSpinBox | QLineEdit)
                one.setFocusPolicy(Qt.FocusPolicy.StrongFocus if typed else Qt.FocusPolicy.TabFocus)
            elif one.focusPolicy() == Qt.FocusPolicy.WheelFocus:
                one.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Let the wheel pass, and the keys go home."""
        if not isinstance(watched, QWidget) or event is None:
            return False
        kind = event.type()
        if kind == QEvent.Type.Wheel and not isinstance(watched, QAbstractButton):
            if not watched.hasFocus():
                event.ignore()
                return True
        elif self._home is None:
            return False
        elif kind == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            self._tabbed = event.key() in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab)
            if event.key() in _ENDS and isinstance(watched, QAbstractSpinBox | QLineEdit):
                if event.key() == Qt.Key.Key_Escape:
                    _give_up(watched)
                QTimer.singleShot(0, self._home)
                return event.key() == Qt.Key.Key_Escape
        elif kind == QEvent.Type.FocusIn and isinstance(event, QFocusEvent):
            mine = isinstance(watched, QAbstractSpinBox | QLineEdit)
            if mine and event.reason() not in _MEANT and not self._by_tab(event.reason()):
                QTimer.singleShot(0, self._home)  # what had the keys went away
        elif kind in (QEvent.Type.EnabledChange, QEvent.Type.Hide) and watched.hasFocus():
            QTimer.singleShot(0, self._home)
        return False

    def _by_tab(self, reason: Qt.FocusReason) -> bool:
        """Whether the Tab key was pressed, not a part disabled or hidden that had the keys; asked once a press."""
        tabbed, self._tabbed = self._tabbed, False
        return tabbed and reason in (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)


def _give_up(field: QWidget) -> None:
    """Show what a field held before it was typed into."""
    if isinstance(field, QAbstractSpinBox):
        line = field.lineEdit()
        if line is not None and hasattr(field, "textFromValue"):
            line.setText(f"{field.prefix()}{field.textFromValue(field.value())}{field.suffix()}")  # type: ignore[attr-defined]
    elif isinstance(field, QLineEdit):
        field.undo()
