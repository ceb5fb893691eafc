# SPDX-License-Identifier: GPL-3.0-or-later
"""Look here: the findings of the stage as a list with pictures, one verb each. Knows the easel."""

import msgspec
from PyQt6.QtCore import QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QApplication, QHBoxLayout, QVBoxLayout, QWidget

from drip_pot.book.findings import Finding
from drip_pot.desk.parts import theme
from drip_pot.desk.parts.widgets import Block, button, label
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.page_view import PageView
from drip_pot.desk.view.small_cut import cut_of_page
from drip_pot.words import tr

_SHOWN = 6


class _FindingPicture(QWidget):
    """A small cut of the page, or a colour, with a ring."""

    def __init__(self, finding: Finding, view: PageView | None) -> None:
        super().__init__()
        self.setFixedSize(44, 44)
        self._finding, self._view = finding, view
        self._image: QImage | None = None

    def cut(self) -> None:
        """Cut the picture out of the page."""
        rect = self._finding.rect
        self._image = None if rect is None or self._view is None else cut_of_page(rect, self._view)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        box = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        painter.fillRect(box, QColor(self._finding.color or "#ffffff"))
        if self._image is not None:
            painter.drawImage(box, self._image)
            painter.setPen(QPen(theme.color("mark"), 2))
            painter.drawEllipse(box.adjusted(11, 11, -11, -11))
        painter.setPen(theme.color("line"))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)


class FindingEntry(QWidget):
    """A finding: its picture, its words, its verb.

    Signals
    -------
    chosen()
        It was clicked.
    """

    chosen = pyqtSignal()

    def __init__(self, finding: Finding, view: PageView | None, current: bool) -> None:
        super().__init__()
        self._current = current
        self.setAccessibleName(f"{tr(finding.title)}: {tr(finding.sentence)}")
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 6, 8, 6)
        row.setSpacing(10)
        self.picture: _FindingPicture | None = None
        if finding.rect is not None or finding.color is not None:
            self.picture = _FindingPicture(finding, view)
            row.addWidget(self.picture)
        text = QVBoxLayout()
        text.setSpacing(0)
        head = QHBoxLayout()
        head.setSpacing(6)
        title = label(finding.title, "title")
        title.setWordWrap(True)  # so that a long one does not widen the column
        head.addWidget(title, 1)
        self.verb = button(finding.verb or "Show", lambda: None, strong=current)
        self.opposite = button(finding.opposite or "Drop", lambda: None)
        if not finding.opposite:
            self.opposite.hide()
        head.addWidget(self.opposite)
        head.addWidget(self.verb)
        text.addLayout(head)
        words = label(finding.sentence, "smallmuted")
        words.setWordWrap(True)
        text.addWidget(words)
        row.addLayout(text, 1)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(theme.color("text"), 1.4) if self._current else Qt.PenStyle.NoPen)
        painter.setBrush(theme.color("card"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 6, 6)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.chosen.emit()


class LookHere(Block):
    """The list.

    Signals
    -------
    shown(object)
        A finding to bring into view.
    gone()
        The finding in view is no more.
    let_go()
        The button that had the focus is no more, or does something else now.
    listed()
        The findings, or which of them is in view, may have changed.
    """

    shown = pyqtSignal(object)
    gone = pyqtSignal()
    let_go = pyqtSignal()
    listed = pyqtSignal()

    def __init__(self, easel: Easel) -> None:
        super().__init__("Look here", ruled=False)
        self.easel = easel
        self._current: str | None = None
        self._listed: list[tuple[str, str | None, bool]] | None = None
        self._uncut: list[_FindingPicture] = []
        self._cutting = QTimer(self)
        self._cutting.timeout.connect(self._cut_next)
        self._rows = QVBoxLayout()
        self._rows.setSpacing(6)
        self.column.addLayout(self._rows)
        self.all = button("", self.mend_all, "Do the same to every finding of this kind, as one step (Shift+Enter)")
        self.add(self.all)
        self.foot = label("", "smallmuted")
        self.foot.setWordWrap(True)
        self.column.addWidget(self.foot)
        easel.refreshed.connect(self.refresh)
        easel.chosen.connect(self.refresh)

    def current(self) -> Finding | None:
        """Return the finding in view, or the first."""
        found = self.easel.findings[self.easel.stage]
        return next((f for f in found if f.key == self._current), found[0] if found else None)

    def stepped_to(self) -> Finding | None:
        """Return the finding that was gone to, while it is there."""
        found = self.current()
        return found if found is not None and found.key == self._current else None

    def next(self) -> None:
        """Go to the next finding."""
        found = self.easel.findings[self.easel.stage]
        if not found:
            return
        keys = [f.key for f in found]
        place = (keys.index(self._current) + 1) % len(found) if self._current in keys else 0
        self.go(found[place])

    def mend(self) -> None:
        """Do the verb of the finding in view."""
        finding = self.current()
        if finding is not None:
            self.mend_one(finding)

    def drop(self) -> bool:
        """Do the opposite of the verb of the finding in view, where it has one; return whether it has."""
        finding = self.stepped_to()
        return finding is not None and self.drop_one(finding)

    def drop_one(self, finding: Finding) -> bool:
        """Do the opposite of the verb of a finding, where it has one; return whether it has."""
        if finding.drops is None:
            return False
        self.mend_one(msgspec.structs.replace(finding, asks=finding.drops))
        return True

    def alike(self) -> list[Finding]:
        """Return all findings of the kind in view that have a verb."""
        first = self.current()
        found = self.easel.findings[self.easel.stage]
        return [f for f in found if first is not None and f.verb and f.title == first.title]

    def mend_all(self) -> None:
        """Do the verb of every finding of the kind in view, as one step."""
        if len(self.alike()) > 1:
            self.easel.mend_all(self.alike())

    def leave(self) -> None:
        """Leave the finding in view as it is."""
        finding = self.current()
        if finding is not None:
            self.easel.leave(finding)

    def refresh(self) -> None:
        """Show the findings of the stage."""
        found = self.easel.findings[self.easel.stage]
        self.setVisible(bool(found) and bool(self.easel.page))
        if self._current is not None and self._current not in [f.key for f in found]:
            self._current = None
            self.gone.emit()
        self.listed.emit()
        state = [(f.key, self._current, self.easel.view is not None) for f in found]
        if state == self._listed and found:
            return
        self._listed = state
        held = QApplication.focusWidget()
        going, asked = held is not None and self.isAncestorOf(held) and held is not self.all, self.all.text()
        while (item := self._rows.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.hide()
                old.deleteLater()
        self._uncut = []
        self.note.setText(tr("{0} left, next: N", len(found)) if found else "")
        keys = [f.key for f in found]
        first = max(0, min(keys.index(self._current) if self._current in keys else 0, len(found) - _SHOWN))
        for finding in found[first : first + _SHOWN]:
            entry = FindingEntry(finding, self.easel.view, finding.key == self._current)
            entry.chosen.connect(lambda f=finding: self.go(f))
            entry.verb.clicked.connect(lambda _, f=finding: self.mend_one(f))
            entry.opposite.clicked.connect(lambda _, f=finding: self.drop_one(f))
            self._rows.addWidget(entry)
            self._uncut += [] if entry.picture is None else [entry.picture]
        self._cutting.start(0)
        kind = self.alike()
        self.all.setVisible(len(kind) > 1)
        if len(kind) > 1:
            verb = kind[0].verb if len({f.verb for f in kind}) == 1 else "Do"
            self.all.setText(tr("{0} all {1}: {2}", tr(verb), len(kind), tr(kind[0].title).lower()))
        if going or (held is self.all and (len(kind) < 2 or self.all.text() != asked)):
            self.let_go.emit()
        more = tr("{0} more.  ", len(found) - _SHOWN) if len(found) > _SHOWN else ""
        self.foot.setText(tr("{0}Enter does it, Backspace leaves it.", more))

    def _cut_next(self) -> None:
        """Cut one picture at a time, so that a list of them holds nothing up."""
        if self._uncut:
            self._uncut.pop(0).cut()
        else:
            self._cutting.stop()

    def go(self, finding: Finding) -> None:
        """Bring a finding into view."""
        self._current = finding.key
        self.easel.keys.leave()
        if finding.pot is not None:
            self.easel.choose_pot(finding.pot)
        self.refresh()
        self.shown.emit(finding)

    def mend_one(self, finding: Finding) -> None:
        """Do the verb of a finding, or, where it has none, bring it into view."""
        if finding.verb:
            self.easel.mend(finding)
        else:
            self.go(finding)
