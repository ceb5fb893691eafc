"""The inspector in Holds: lines coloured by part. Writes to the book through the easel."""

from PyQt6.QtWidgets import QCheckBox, QGridLayout

from drip_pot.book import Book, verbs
from drip_pot.desk.dialogs.color import pick_color
from drip_pot.desk.parts.widgets import Block, NumberRow, Swatch, button, label
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.panel import Panel


class HoldsPanel(Panel):
    """Colour of all lines; parts whose lines take a darker version of their colour."""

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        every = Block("All lines")
        self.swatch = Swatch("Colour of all lines without a hold", self._pick)
        every.add(self.swatch)
        self.black = button("Black again", lambda: self._set("#000000"), "Pure black overprints on press")
        every.row(self.black)
        self.every = every
        parts = Block("Lines of parts", "darker than their colour")
        self.grid = QGridLayout()
        self.grid.setVerticalSpacing(8)
        parts.column.addLayout(self.grid)
        self.rows: dict[int, NumberRow] = {}
        self.checks: dict[int, QCheckBox] = {}
        self.empty = label("There are no parts yet. Add pots on the shelf.", "muted")
        self.empty.setWordWrap(True)
        parts.add(self.empty)
        self.blocks = [every, parts]

    def _pick(self) -> None:
        sources = self.easel.sources()
        if sources is not None:
            chosen = pick_color(self, "All lines", sources.lines.color, sources.press)
            if chosen is not None:
                self._set(chosen)

    def _set(self, color: str) -> None:
        self.easel.do(lambda book, page: verbs.set_lines(book, page, color))

    def _hold(self, part: int, amount: float | None) -> None:
        self.easel.do(lambda book, page: verbs.set_hold(book, page, part, amount))

    def refresh(self) -> None:
        ready = self._ready()
        if ready is None:
            return
        book, sources = ready
        self.swatch.show_color(sources.lines.color)
        black = sources.lines.color == "#000000"
        self.every.note.setText("black, overprints" if black else sources.lines.color)
        self.black.setEnabled(not black)
        if list(self.rows) != list(book.parts()):
            self._rebuild(book)
        self.empty.setVisible(not self.rows)
        for number, part in book.parts().items():
            hold = sources.holds.get(number)
            self.checks[number].setText(part.name)
            self.checks[number].setChecked(hold is not None)
            self.rows[number].setVisible(hold is not None)
            self.rows[number].show_value((hold.amount if hold else 0.55) * 100)

    def _rebuild(self, book: Book) -> None:
        while (item := self.grid.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.deleteLater()
        self.rows, self.checks = {}, {}
        for line, number in enumerate(book.parts()):
            check, row = QCheckBox(), NumberRow("", 0, 100, 1, "%")
            for control in (row.box, row.slider):
                control.setAccessibleName(f"Lines of {book.parts()[number].name} darker by")
            check.clicked.connect(lambda on, n=number: self._hold(n, self.rows[n].value() / 100 if on else None))
            row.done.connect(lambda v, n=number: self._hold(n, v / 100))
            self.rows[number], self.checks[number] = row, check
            self.grid.addWidget(check, line, 0)
            self.grid.addWidget(row, line, 1)
