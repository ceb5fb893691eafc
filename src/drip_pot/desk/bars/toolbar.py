# SPDX-License-Identifier: GPL-3.0-or-later
"""The column of tools. Knows the easel."""

from collections.abc import Mapping
from itertools import groupby

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QEnterEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import (
    QGridLayout,
    QSizePolicy,
    QWidget,
)

from drip_pot.desk.parts import icons, theme
from drip_pot.desk.parts.widgets import rule
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.view.tool import Tool
from drip_pot.words import tr

_WIDE, _LOW, _RULE = 76, 37, 3


class _ToolButton(QWidget):
    clicked = pyqtSignal()

    def __init__(self, name: str, key: str, says: str, bar: QWidget) -> None:
        super().__init__(bar)
        self.name, self.usual, self._key, self._says = name, key, key, says
        self._hover = False
        self.on, self._small, self.group = False, False, ""
        self.setFixedWidth(_WIDE)
        self.setMinimumHeight(_LOW)
        self.setMaximumHeight(66)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)
        self.set_key(key)
        self.setAccessibleName(tr(name))
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def set_small(self, small: bool) -> None:
        """Show the icon alone, half as wide, or with the name."""
        self._small = small
        self.setFixedWidth(_WIDE // 2 if small else _WIDE)
        self.update()

    def set_key(self, key: str) -> None:
        """Show another key."""
        self._key = key
        given = f" ({key})" if key else ""
        self.setToolTip(f"{tr(self.name)}{given}. {tr(self._says).split('. ')[0].rstrip('.')}.")
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.on or self._hover or self.hasFocus():
            painter.setPen(QPen(theme.color("muted"), 1.5) if not self.on or self.hasFocus() else Qt.PenStyle.NoPen)
            painter.setBrush(theme.color("ink") if self.on else Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 8, 8)
        shade = theme.bench().on_ink if self.on else theme.bench().text
        if self._small:
            picture = icons.pixmap(self.name, shade, 24, self.devicePixelRatioF())
            painter.drawPixmap((self.width() - 24) // 2, (self.height() - 24) // 2, picture)
            return
        spare, size = max(0, (self.height() - 44) // 4), 28 if self.height() >= 48 else 24
        picture = icons.pixmap(self.name, shade, size, self.devicePixelRatioF())
        painter.drawPixmap((_WIDE - size) // 2, 1 + spare, picture)
        painter.setPen(QColor(shade))
        painter.setFont(theme.font(14 if self.height() >= 44 else 13, 500))
        if painter.fontMetrics().horizontalAdvance(tr(self.name)) > _WIDE:
            painter.setFont(theme.font(13, 500, theme.FIGURES))
        name = painter.fontMetrics().elidedText(tr(self.name), Qt.TextElideMode.ElideRight, _WIDE)
        painter.drawText(QRectF(0, self.height() - 18 - spare, _WIDE, 18), Qt.AlignmentFlag.AlignCenter, name)
        painter.setPen(theme.color("on_ink" if self.on else "muted"))
        painter.setFont(theme.font(12, 600, theme.FIGURES))
        if len(self._key) == 1:
            painter.drawText(QRectF(56, 4, 16, 14), Qt.AlignmentFlag.AlignCenter, self._key)

    def enterEvent(self, event: QEnterEvent | None) -> None:
        self._hover = True
        self.update()

    def leaveEvent(self, event: object) -> None:
        self._hover = False
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.clicked.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.clicked.emit()
        else:
            super().keyPressEvent(event)


class ToolBar(QWidget):
    """The tools of the present stage, with names and keys; where there is no room for those, in two columns."""

    def __init__(self, easel: Easel, tools: Mapping[str, Mapping[str, type[Tool]]]) -> None:
        super().__init__()
        self.setObjectName("tools")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(92)
        self.easel = easel
        self.buttons: dict[tuple[str, str], _ToolButton] = {}
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(8, 6, 7, 6)
        self._grid.setSpacing(2)
        self._laid = (0, "")
        self._rules: list[QWidget] = []
        for stage, kinds in tools.items():
            for name, kind in kinds.items():
                entry = _ToolButton(name, kind.key, kind.says, self)
                entry.group = kind.group
                entry.clicked.connect(lambda n=name: easel.choose_tool(n))
                self.buttons[stage, name] = entry
        easel.chosen.connect(self.refresh)
        self.refresh()

    def set_keys(self, keys: Mapping[str, str]) -> None:
        """Show the keys that tools have, by their usual ones."""
        for entry in self.buttons.values():
            entry.set_key(keys.get(entry.usual, entry.usual))

    def refresh(self) -> None:
        """Show the stage's tools and which is in use."""
        for (stage, name), entry in self.buttons.items():
            entry.setVisible(stage == self.easel.stage)
            entry.on = name == self.easel.tool
            entry.update()
        self._arrange()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._arrange()

    def _arrange(self) -> None:
        """Lay the stage's tools out in as many columns as their names leave room for, a rule between groups."""
        mine = [entry for (stage, _), entry in self.buttons.items() if stage == self.easel.stage]
        groups = [list(members) for _, members in groupby(mine, key=lambda entry: entry.group)]
        room = self.height() - 12 - (len(groups) - 1) * _RULE
        columns = 1 if room >= len(mine) * (_LOW + 2) or not mine else 2
        if (columns, self.easel.stage) == self._laid:
            return
        self._laid = columns, self.easel.stage
        while self._grid.takeAt(0) is not None:
            pass
        for old in self._rules:
            old.hide()
            old.deleteLater()
        self._rules, row = [], 0
        stretched = set[int]()
        for members in groups:
            if row:
                self._rules.append(rule())
                self._grid.addWidget(self._rules[-1], row, 0, 1, 2)
                row += 1
            for place, entry in enumerate(members):
                entry.set_small(columns == 2)
                self._grid.addWidget(entry, row + place // columns, place % columns)
            rows = -(-len(members) // columns)
            stretched |= set(range(row, row + rows))
            row += rows
        for place in range(max(self._grid.rowCount(), row) + 1):
            self._grid.setRowStretch(place, 66 if place in stretched else 1 if place == row else 0)
