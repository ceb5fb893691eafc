"""The bars round the canvas: top bar with the stages, the tools, the chips, messages, progress, status line.

Knows the easel and the theme.
"""

from collections.abc import Callable

from PyQt6.QtCore import QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QEnterEvent, QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QProgressBar,
    QPushButton,
    QSizePolicy,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from drip_pot.book.look_here import STAGES
from drip_pot.desk import icons, theme
from drip_pot.desk.easel import TOOLS, Easel
from drip_pot.desk.tools import TOOL_CLASSES
from drip_pot.desk.widgets import button, label
from drip_pot.desk.work import Work


class StageTabs(QWidget):
    """The five stages in order; the number in vermilion is what is left to look at."""

    def __init__(self, easel: Easel) -> None:
        super().__init__()
        self.easel = easel
        self.setFixedHeight(46)
        self.setMinimumWidth(580)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName("Stages")
        easel.chosen.connect(self.update)
        easel.refreshed.connect(self.update)

    def box(self, stage: str) -> QRectF:
        """Return where a stage's tab is."""
        place = STAGES.index(stage)
        width = self.width() / len(STAGES)
        return QRectF(place * width + 6, 8, width - 12, 31)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for place, stage in enumerate(STAGES):
            box, on = self.box(stage), stage == self.easel.stage
            if on:
                painter.setPen(QPen(theme.color("muted"), 2) if self.hasFocus() else Qt.PenStyle.NoPen)
                painter.setBrush(theme.color("ink"))
                painter.drawRoundedRect(box, 15, 15)
            if place:
                painter.setPen(QPen(theme.color("muted"), 1.4))
                painter.drawLine(int(box.left() - 10), 23, int(box.left() - 2), 23)
            left = len(self.easel.findings[stage])
            painter.setPen(theme.color("on_ink" if on else "text"))
            painter.setFont(theme.font(15, 600 if on else 500))
            text = f"{place + 1}  {stage}"
            wide = painter.fontMetrics().horizontalAdvance(text)
            start = box.center().x() - (wide + (26 if left else 0)) / 2
            painter.drawText(QRectF(start, box.top(), wide + 4, box.height()), Qt.AlignmentFlag.AlignVCenter, text)
            if left:
                badge = QRectF(start + wide + 7, box.center().y() - 9, 18 if left < 10 else 25, 18)
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(theme.color("mark"))
                painter.drawRoundedRect(badge, 9, 9)
                painter.setPen(QColor("#ffffff"))
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

    def __init__(self, easel: Easel, actions: dict[str, Callable[[], object]]) -> None:
        super().__init__()
        self.setObjectName("topbar")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(48)
        self.easel = easel
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 0, 12, 0)
        row.setSpacing(6)
        self._mark = QLabel()
        row.addWidget(self._mark)
        self.title = QPushButton()
        self.title.setProperty("flat", True)
        self.title.setToolTip("Pages of this book, open, new (Ctrl+P)")
        self.title.setAccessibleName("Book and pages")
        self.title.setFixedSize(296, 44)
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
            ("bench", "Light or dim bench (D)"),
        ):
            tool = QToolButton()
            tool.setAutoRaise(True)
            tool.setToolTip(tip)
            tool.setAccessibleName(tip.split(" (")[0])
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

    def refresh(self) -> None:
        """Show names and what can be undone."""
        book = self.easel.book
        self._mark.setPixmap(icons.pixmap("drop", theme.bench().text, 26, self.devicePixelRatioF()))
        for tool, name in self._buttons:
            tool.setIcon(icons.icon(name, theme.bench().text))
        can = {"undo": book is not None and book.position > 0,
               "redo": book is not None and book.position < len(book.history)}  # fmt: skip
        for tool, name in self._buttons:
            if name in can:
                on = can[name]
                tool.setEnabled(on)
                tool.setIcon(icons.icon(name, theme.bench().text if on else theme.bench().line))
        if book is not None and book.position:
            self._buttons[0][0].setToolTip(f"Undo: {book.history[book.position - 1].title} (Ctrl+Z)")
        self.history.setEnabled(book is not None)
        self.export.setEnabled(bool(self.easel.page))
        if book is None:
            self._book.setText("No book open")
            self._page.setText("Click to open or make one")
            return
        self._book.setText(
            QFontMetrics(theme.font(15, 600)).elidedText(book.info.title, Qt.TextElideMode.ElideRight, 270)
        )
        pages = book.pages()
        if self.easel.page in pages:
            page = pages[self.easel.page]
            place = list(pages).index(self.easel.page) + 1
            size = f"{page.cols / page.dpi * 25.4:.0f} × {page.rows / page.dpi * 25.4:.0f} mm"
            text = f"page {place} of {len(pages)}  ·  {page.name}  ·  {size}  ·  {page.dpi:g} dpi"
            metrics = QFontMetrics(theme.font(14, 400, theme.FIGURES))
            self._page.setText(metrics.elidedText(text, Qt.TextElideMode.ElideRight, 284))
        else:
            self._page.setText("no pages yet")


class _ToolButton(QWidget):
    clicked = pyqtSignal()

    def __init__(self, name: str, key: str, says: str) -> None:
        super().__init__()
        self.name, self._key = name, key
        self._hover = False
        self.on = False
        self.setFixedWidth(76)
        self.setMinimumHeight(37)
        self.setMaximumHeight(66)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)
        self.setToolTip(f"{name} ({key}). {says.split('. ')[0].rstrip('.')}.")
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.on or self._hover or self.hasFocus():
            painter.setPen(QPen(theme.color("muted"), 1.5) if not self.on or self.hasFocus() else Qt.PenStyle.NoPen)
            painter.setBrush(theme.color("ink") if self.on else Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 8, 8)
        shade = theme.bench().on_ink if self.on else theme.bench().text
        spare, size = max(0, (self.height() - 44) // 4), 28 if self.height() >= 44 else 21
        picture = icons.pixmap(self.name, shade, size, self.devicePixelRatioF())
        painter.drawPixmap((76 - size) // 2, 1 + spare, picture)
        painter.setPen(QColor(shade))
        painter.setFont(theme.font(14 if self.height() >= 44 else 13, 500))
        painter.drawText(QRectF(0, self.height() - 18 - spare, 76, 18), Qt.AlignmentFlag.AlignCenter, self.name)
        painter.setPen(theme.color("on_ink" if self.on else "muted"))
        painter.setFont(theme.font(12, 600, theme.FIGURES))
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
    """The tools of the present stage, with names and keys."""

    def __init__(self, easel: Easel) -> None:
        super().__init__()
        self.setObjectName("tools")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(92)
        self.easel = easel
        self.buttons: dict[tuple[str, str], _ToolButton] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 6, 7, 6)
        column.setSpacing(2)
        for stage, tools in TOOLS.items():
            for name in tools:
                kind = TOOL_CLASSES[name]
                entry = _ToolButton(name, kind.key, kind.says)
                entry.clicked.connect(lambda n=name: easel.choose_tool(n))
                column.addWidget(entry, 66)
                self.buttons[stage, name] = entry
        column.addStretch(1)
        easel.chosen.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the stage's tools and which is in use."""
        for (stage, name), entry in self.buttons.items():
            entry.setVisible(stage == self.easel.stage)
            entry.on = name == self.easel.tool
            entry.update()


class Chips(QWidget):
    """What is seen: small switches at the top left of the canvas."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.row = QHBoxLayout(self)
        self.row.setContentsMargins(4, 4, 4, 4)
        self.row.setSpacing(1)

    def fill(self, chips: list[tuple[str, bool, str, Callable[[], object]]]) -> None:
        """Show chips: name, whether on, tooltip, what a click does."""
        while (item := self.row.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.hide()
                old.deleteLater()
        for name, on, tip, done in chips:
            chip = QPushButton(name)
            chip.setProperty("chip", True)
            chip.setCheckable(True)
            chip.setChecked(on)
            chip.setToolTip(tip)
            chip.setAccessibleName(f"See {name}")
            chip.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            chip.clicked.connect(lambda _, d=done: d())
            self.row.addWidget(chip)
            chip.show()
        self.row.activate()
        self.resize(self.sizeHint())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color("chrome"))
        painter.drawRoundedRect(QRectF(self.rect()), self.height() / 2, self.height() / 2)


class _Plate(QWidget):
    """A rounded plate that lies over the canvas."""

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color("card"))
        painter.drawRoundedRect(QRectF(self.rect()), 8, 8)


class Strip(_Plate):
    """A sentence over the canvas with a way to close it; problems carry a vermilion edge and stay."""

    closed = pyqtSignal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self._problem = False
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 7, 8, 7)
        self.text = label()
        self.text.setWordWrap(True)
        row.addWidget(self.text, 1)
        self._close = QToolButton()
        self._close.setAutoRaise(True)
        self._close.setToolTip("Close")
        self._close.setAccessibleName("Close this message")
        self._close.clicked.connect(self._shut)
        row.addWidget(self._close)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        self.hide()

    def say(self, sentence: str, problem: bool = False, *, lasting: bool = False) -> None:
        """Show a sentence; without a problem it goes away after a while unless it is lasting."""
        if not sentence:
            return
        self._problem = problem
        self.text.setText(sentence)
        self._close.setIcon(icons.icon("close", theme.bench().text, 16))
        self.place()
        self.show()
        self.raise_()
        self._timer.stop()
        if not problem and not lasting:
            self._timer.start(4000 + 60 * len(sentence))

    def place(self) -> None:
        """Fit into the canvas."""
        parent = self.parentWidget()
        assert parent is not None
        width = min(720, parent.width() - 40)
        self.setFixedWidth(width)
        self.setFixedHeight(max(40, self.text.heightForWidth(width - 76) + 18))
        self.move((parent.width() - width) // 2, parent.height() - self.height() - 14)

    def _shut(self) -> None:
        self.hide()
        self.closed.emit()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        if self._problem:
            painter = QPainter(self)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.color("mark"))
            painter.drawRoundedRect(QRectF(0, 0, 6, self.height()), 3, 3)


class Progress(_Plate):
    """What is being worked out, how far it is, and a way to stop it; `top` is how far below the canvas's top it hangs.

    Only work of the `shown` names is shown, all of it where none is given; that of `may_stop` can be stopped.
    """

    def __init__(
        self, parent: QWidget, work: Work, may_stop: tuple[str, ...], shown: tuple[str, ...] = (), top: int = 14
    ) -> None:
        super().__init__(parent)
        self.work, self._may_stop, self._shown, self._top = work, may_stop, shown, top
        self._name = ""
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(200)
        self._timer.timeout.connect(self._show)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 6, 8, 6)
        self.text = label("", "small")
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setTextVisible(False)
        self.bar.setFixedSize(120, 6)
        row.addWidget(self.text, 1)
        row.addWidget(self.bar)
        self.stop = button("Stop", self._stop, "Stop this (the page stays as it is)")
        row.addWidget(self.stop)
        self.setFixedSize(380, 42)
        self.hide()
        work.progress.connect(self._on_progress)
        work.idle.connect(self._on_idle)

    def _on_progress(self, name: str, fraction: float, doing: str) -> None:
        if self._shown and not name.startswith(self._shown):
            return
        self._name = name
        self.text.setText(doing)
        self.bar.setValue(round(1000 * fraction))
        self.stop.setVisible(name.startswith(self._may_stop))
        if not self.isVisible() and not self._timer.isActive():
            self._timer.start()

    def _on_idle(self, name: str) -> None:
        if name == self._name or not self.work.busy():
            self._timer.stop()
            self.hide()

    def _show(self) -> None:
        parent = self.parentWidget()
        if parent is not None and self.work.busy(self._name):
            self.move((parent.width() - self.width()) // 2, self._top)
            self.show()
            self.raise_()

    def _stop(self) -> None:
        self.work.cancel(self._name)
        self.hide()


class StatusLine(QWidget):
    """Left: what the tool does now. Right: what is under the pointer."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("status")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(24)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 0, 14, 1)
        self.left, self.right = label("", "small"), label("", "smallmuted")
        row.addWidget(self.left, 1)
        row.addWidget(self.right)
