# SPDX-License-Identifier: GPL-3.0-or-later
"""Anything that can be done, found by typing what it is called. Knows widgets and a list of actions."""

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QEvent, QModelIndex, QObject, QSize, Qt
from PyQt6.QtGui import QKeyEvent, QPainter, QPen
from PyQt6.QtWidgets import (
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from drip_pot.desk.parts import theme
from drip_pot.desk.parts.dialog import Dialog
from drip_pot.desk.parts.widgets import label
from drip_pot.words import tr

Entry = tuple[str, str, str, Callable[[], object]]
"""Group, title, key, what it does."""


_SURE, _APART = 4, 40
_PARTS = Qt.ItemDataRole.UserRole + 1
TRADE = {
    "misregister": "register", "registration": "register", "choke": "spreads", "knockout": "knock out",
    "halftone": "dots", "moiré": "dots", "moire": "dots", "tac": "ink limit", "ucr": "black takes over",
    "gcr": "black takes over", "overprint": "black", "spot": "ink", "real ink": "colours from a picture",
    "feather": "soft edge", "opacity": "strength", "colourise": "hold", "trapping": "trap", "despeckle": "speck",
    "levels": "black", "separation": "plates", "aged": "old stock", "vintage": "old stock", "gutter": "panel",
    "flatting": "flats", "proof": "stand-in", "greyscale": "values", "screen reader": "keys", "hotkey": "keys",
    "shortcut": "keys", "language": "settings", "unit": "settings", "memory": "settings",
}  # fmt: skip
"""Words that people of the trade use, and what stands here for them."""


def _also(word: str) -> list[str]:
    """Return what stands here for a word of the trade, or for one that begins so."""
    return [here for said, here in TRADE.items() if said == word or (len(word) > _SURE and said.startswith(word))]


class _Leaders(QStyledItemDelegate):
    """Draws what is found as the index of a book does: its name, dots, and where it is."""

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        assert painter is not None
        title, there = index.data(_PARTS)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        ink, box = theme.color("card" if chosen else "text"), option.rect
        if chosen:
            painter.fillRect(box, theme.color("text"))
        inner = box.adjusted(8, 0, -8, 0)
        metrics = option.fontMetrics
        wide = metrics.horizontalAdvance(there)
        name = metrics.elidedText(title, Qt.TextElideMode.ElideRight, inner.width() - wide - _APART)
        painter.setPen(ink)
        painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, name)
        painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, there)
        left, right = inner.left() + metrics.horizontalAdvance(name) + 8, inner.right() - wide - 8
        painter.setPen(QPen(ink, 1.2, Qt.PenStyle.DotLine))
        if right > left:
            painter.drawLine(left, inner.center().y() + metrics.ascent() // 2 - 1, right,
                             inner.center().y() + metrics.ascent() // 2 - 1)  # fmt: skip

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(super().sizeHint(option, index).width(), option.fontMetrics.height() + 8)


class FindAction(Dialog):
    """Type part of what you want, or a word of the trade for it; Enter does it.

    `likely` is the group that comes first before anything is typed.
    """

    def __init__(self, parent: QWidget | None, entries: Sequence[Entry], likely: str = "") -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Index"))
        self.resize(560, 440)
        self._entries, self._likely = list(entries), likely
        column = QVBoxLayout(self)
        self.text = QLineEdit()
        self.text.setPlaceholderText(tr("What do you want to do?"))
        self.text.setAccessibleName(tr("What you want to do"))
        self.list = QListWidget()
        self.list.setAccessibleName(tr("What can be done"))
        self.list.setItemDelegate(_Leaders(self.list))
        self.list.setFrameShape(QListWidget.Shape.NoFrame)
        column.setContentsMargins(20, 16, 20, 16)
        column.addWidget(label("Index", "title"))
        column.addWidget(self.list)
        column.addWidget(self.text)
        self.text.textChanged.connect(lambda _: self.refresh())
        self.text.returnPressed.connect(self._do)
        self.text.installEventFilter(self)
        self.list.itemActivated.connect(lambda _: self._do())
        self.refresh()

    def refresh(self) -> None:
        """List what has every word that is typed, or one that the trade says for it; what begins with them comes first.

        Before anything is typed, what belongs to the work in hand comes first.
        """
        self.list.clear()
        typed = self.text.text().lower().strip()
        words = [typed] if " " in typed and _also(typed) else typed.split()
        found = []
        for place, (group, title, key, _) in enumerate(self._entries):
            said = f"{tr(title)} {tr(group)} {title} {group}".lower()
            title, group = tr(title), tr(group)
            if all(any(one in said for one in (word, *_also(word))) for word in words):
                by_trade = any(one in said for word in words for one in _also(word))
                first = by_trade or title.lower().startswith(words[0]) if words else group.startswith(tr(self._likely))
                found.append((not first, place, title, tr("{0}  {1}", group, key) if key else group))
        for _, place, title, there in sorted(found):
            item = QListWidgetItem(tr("{0}, {1}", title, there))
            item.setData(Qt.ItemDataRole.UserRole, place)
            item.setData(_PARTS, (title, there))
            self.list.addItem(item)
        self.list.setCurrentRow(0)

    def _do(self) -> None:
        item, taken = self.list.currentItem(), self.result() == self.DialogCode.Accepted
        if item is not None and not taken:
            self.accept()
            self._entries[int(item.data(Qt.ItemDataRole.UserRole))][3]()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Let the arrow keys move in the list while one types."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()), 0)
            if step:
                row = min(max(self.list.currentRow() + step, 0), self.list.count() - 1)
                self.list.setCurrentRow(row)
                return True
        return super().eventFilter(watched, event)
