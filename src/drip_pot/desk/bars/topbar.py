# SPDX-License-Identifier: GPL-3.0-or-later
"""The top bar: book and page, stages, undo and redo, Export. Knows the easel."""

from collections.abc import Callable

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QPushButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from drip_pot.book.findings import STAGES
from drip_pot.desk.parts import icons, theme
from drip_pot.desk.parts.lengths import size_text
from drip_pot.desk.parts.widgets import button, label
from drip_pot.desk.session.easel import Easel
from drip_pot.words import tr

_TABS_LEAST, _TITLE_LEAST, _TITLE_MOST = 470, 110, 296
_TAB_WIDE, _BADGE = 112, 26


class StageTabs(QWidget):
    """The five stages in order; the number in vermilion is what is left to look at."""

    def __init__(self, easel: Easel) -> None:
        super().__init__()
        self.easel = easel
        self.setFixedHeight(46)
        self.setMinimumWidth(_TABS_LEAST)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(tr("Stages"))
        easel.chosen.connect(self._tell)
        easel.refreshed.connect(self._tell)

    def _tell(self) -> None:
        """Show the stage in use and what is left, also to those who cannot see it."""
        left = len(self.easel.findings[self.easel.stage])
        self.setAccessibleName(tr("Stage {0}", tr(self.easel.stage)))
        self.setAccessibleDescription(tr("{0} left to look at", left) if left else tr("nothing left to look at"))
        self.update()

    def box(self, stage: str) -> QRectF:
        """Return where a stage's tab is."""
        place = STAGES.index(stage)
        width = self.width() / len(STAGES)
        aside = 6 if width >= _TAB_WIDE else 1
        return QRectF(place * width + aside, 8, width - 2 * aside, 31)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        tight = self.width() / len(STAGES) < _TAB_WIDE
        for place, stage in enumerate(STAGES):
            box, on = self.box(stage), stage == self.easel.stage
            if on:
                painter.setPen(QPen(theme.color("muted"), 2) if self.hasFocus() else Qt.PenStyle.NoPen)
                painter.setBrush(theme.color("ink"))
                painter.drawRoundedRect(box, 15, 15)
            if place and not tight:
                painter.setPen(QPen(theme.color("muted"), 1.4))
                painter.drawLine(int(box.left() - 10), 23, int(box.left() - 2), 23)
            left = len(self.easel.findings[stage])
            painter.setPen(theme.color("on_ink" if on else "text"))
            painter.setFont(theme.font(14 if tight else 15, 600 if on else 500))
            text = f"{place + 1} {tr(stage)}" if tight else f"{place + 1}  {tr(stage)}"
            wide = painter.fontMetrics().horizontalAdvance(text)
            start = box.center().x() - (wide + (_BADGE if left else 0)) / 2
            painter.drawText(QRectF(start, box.top(), wide + 4, box.height()), Qt.AlignmentFlag.AlignVCenter, text)
            if left:
                badge = QRectF(start + wide + 7, box.center().y() - 9, 18 if left < 10 else 25, 18)
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(theme.color("mark"))
                painter.drawRoundedRect(badge, 9, 9)
                painter.setPen(theme.color("on_mark"))
                painter.setFont(theme.font(13, 600, theme.FIGURES))
                painter.drawText(badge, Qt.AlignmentFlag.AlignCenter, str(left))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        for stage in STAGES:
            if self.box(stage).contains(event.position()):
                self.easel.choose_stage(stage)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()), 0)
        place = STAGES.index(self.easel.stage) + step
        if step and 0 <= place < len(STAGES):
            self.easel.choose_stage(STAGES[place])
        else:
            super().keyPressEvent(event)


class TopBar(QWidget):
    """Drop mark, book and page, stages, undo and redo, bench, Export."""

    menu_wanted = pyqtSignal(object)
    help_wanted = pyqtSignal(object)

    def __init__(self, easel: Easel, actions: dict[str, Callable[[], object]]) -> None:
        super().__init__()
        self.setObjectName("topbar")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(48)
        self.easel = easel
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 0, 12, 0)
        row.setSpacing(6)
        self._mark = QToolButton()
        self._mark.setAutoRaise(True)
        self._mark.setIconSize(QSize(26, 26))
        self._mark.setToolTip(tr("Help and settings"))
        self._mark.setAccessibleName(tr("Help and settings"))
        self._mark.clicked.connect(lambda: self.help_wanted.emit(self._mark))
        row.addWidget(self._mark)
        self.title = QPushButton()
        self.title.setProperty("flat", True)
        self.title.setToolTip(tr("Pages of this book, open, new (Ctrl+P)"))
        self.title.setAccessibleName(tr("Book and pages"))
        self.title.setFixedSize(_TITLE_MOST, 44)
        column = QVBoxLayout(self.title)
        column.setContentsMargins(6, 3, 4, 3)
        column.setSpacing(0)
        self._book, self._page = label("", "title"), label("", "smallmuted")
        for part in (self._book, self._page):
            part.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            column.addWidget(part)
        self.title.clicked.connect(lambda: self.menu_wanted.emit(self.title))
        row.addWidget(self.title)
        self.stages = StageTabs(easel)
        row.addWidget(self.stages, 1)
        self._buttons: list[tuple[QToolButton, str]] = []
        for name, tip in (
            ("undo", "Undo (Ctrl+Z)"),
            ("redo", "Redo (Ctrl+Shift+Z)"),
            ("contact", "Contact sheet (Ctrl+Shift+G)"),
            ("bench", "Light or dim bench (D)"),
        ):
            tool = QToolButton()
            tool.setAutoRaise(True)
            tool.setToolTip(tr(tip))
            tool.setAccessibleName(tr(tip).split(" (")[0])
            tool.setIconSize(QSize(22, 22))
            tool.clicked.connect(lambda _, n=name: actions[n]())
            row.addWidget(tool)
            self._buttons.append((tool, name))
        row.addSpacing(6)
        self.history = button("History", actions["history"], "What was done; click to go back (Ctrl+H)")
        row.addWidget(self.history)
        self.export = button("Export", actions["export"], "Write finished files (Ctrl+E)", strong=True)
        row.addWidget(self.export)
        easel.edited.connect(self.refresh)
        easel.opened.connect(self.refresh)
        self.refresh()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Let the title give way where the bar is short."""
        rest = self.sizeHint().width() - self.title.width()
        self.title.setFixedWidth(min(max(self.width() - rest, _TITLE_LEAST), _TITLE_MOST))
        self.refresh()

    def refresh(self) -> None:
        """Show names and what can be undone."""
        book = self.easel.book
        self._mark.setIcon(icons.icon("drop", theme.bench().text, 26))
        for tool, name in self._buttons:
            tool.setIcon(icons.icon(name, theme.bench().text))
        can = {"undo": book is not None and bool(book.past.last()),
               "redo": book is not None and bool(book.past.next())}  # fmt: skip
        for tool, name in self._buttons:
            if name in can:
                on = can[name]
                tool.setEnabled(on)
                tool.setIcon(icons.icon(name, theme.bench().text if on else theme.bench().line))
        if book is not None and bool(book.past.last()):
            self._buttons[0][0].setToolTip(tr("Undo: {0} (Ctrl+Z)", book.history[book.past.last()[0]].title))
        self.history.setEnabled(book is not None)
        self.export.setEnabled(bool(self.easel.page))
        if book is None:
            self._book.setText(tr("No book open"))
            self._page.setText(tr("Click to open or make one"))
            return
        metrics, wide = QFontMetrics(theme.font(15, 600)), self.title.width()
        self._book.setText(metrics.elidedText(book.info.title, Qt.TextElideMode.ElideRight, wide - 26))
        pages = book.pages()
        if self.easel.page in pages:
            page = pages[self.easel.page]
            place = list(pages).index(self.easel.page) + 1
            size = size_text(page.cols / page.dpi * 25.4, page.rows / page.dpi * 25.4, 0)
            text = tr("page {0} of {1}  ·  {2}  ·  {3}  ·  {4:g} dpi", place, len(pages), page.name, size, page.dpi)
            metrics = QFontMetrics(theme.font(14, 400, theme.FIGURES))
            self._page.setText(metrics.elidedText(text, Qt.TextElideMode.ElideRight, wide - 12))
        else:
            self._page.setText(tr("no pages yet"))
