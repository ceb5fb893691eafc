# SPDX-License-Identifier: GPL-3.0-or-later
"""The inspector in Holds: the colour of all lines, the hold in hand, all holds. Writes through the easel."""

from functools import partial

from PyQt6.QtWidgets import QComboBox, QLineEdit, QMenu, QPushButton

from drip_pot.book import verbs
from drip_pot.book.presets import PRESETS
from drip_pot.book.scope import said
from drip_pot.book.values import HOLD_COLORS, HOLDS, LINE_KINDS, LINES, PRESS, Hold, LineKind
from drip_pot.core.render import Ramp
from drip_pot.desk.dialogs.color import pick_color
from drip_pot.desk.parts.card_list import CardList, ListCard, ShortList
from drip_pot.desk.parts.widgets import Block, NumberRow, Swatch, button, label
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.holds.holding import WIDTHS, Holding
from drip_pot.desk.stages.panel import Panel
from drip_pot.desk.stages.ramp_rows import RampRows
from drip_pot.desk.stages.scope_row import ScopeRow
from drip_pot.words import tr, tr_many

_HOW = list(HOLD_COLORS)
_SIDES = {"front": "of what lies in front", "lighter": "of the lighter side", "darker": "of the darker side"}
_NAMES: dict[LineKind, str] = {
    "outline": "Outlines", "inner": "Inner lines", "stroke": "Free strokes", "detail": "Detail and tone",
    "string": "Lines over a ground", "frame": "Panel frames", "solid": "Solid blacks", "letters": "Letters",
    "balloon": "Balloon outlines", "effect": "Effects",
}  # fmt: skip


class HoldsPanel(Panel):
    """Colour of all lines; the hold in hand; the list of holds."""

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        every = Block("All lines")
        self.swatch = Swatch("Colour of all lines without a hold", self._pick)
        every.add(self.swatch)
        self.black = button("Black again", lambda: self._set("#000000"), "Pure black overprints on press")
        every.row(self.black)
        self.balloon = Swatch("Inside of balloons", self._pick_balloon, 26)
        every.add(self.balloon)
        self.every = every
        self.holds = HoldBlock(easel)
        self.blocks = [every, self.holds]

    def _pick(self) -> None:
        sources = self.easel.sources()
        if sources is not None:
            chosen = pick_color(self, "All lines", sources[LINES].color, self.easel.book, sources[PRESS])
            if chosen is not None:
                self._set(chosen)

    def _pick_balloon(self) -> None:
        sources = self.easel.sources()
        if sources is not None:
            chosen = pick_color(self, "Inside of balloons", sources[LINES].balloon, self.easel.book, sources[PRESS])
            if chosen is not None:
                self.easel.do(lambda book, page: verbs.set_balloons(book, page, chosen))

    def _set(self, color: str) -> None:
        self.easel.do(lambda book, page: verbs.set_lines(book, page, color))

    def refresh(self) -> None:
        ready = self._ready()
        if ready is None:
            return
        sources = ready[1]
        self.swatch.show_color(sources[LINES].color)
        self.balloon.show_color(sources[LINES].balloon)
        self.balloon.setVisible(bool(sources.over.lettering))
        black = sources[LINES].color == "#000000"
        self.every.note.setText(tr("black, overprints") if black else sources[LINES].color)
        self.black.setEnabled(not black)
        self.holds.refresh()


class HoldBlock(Block):
    """The hold in hand, and all holds of the page."""

    def __init__(self, easel: Easel) -> None:
        super().__init__("Holds")
        self.easel, self._holding = easel, easel.own(Holding)
        holding = self._holding
        self._build_list()
        self.name, self.how = QLineEdit(), QComboBox()
        self.name.setAccessibleName(tr("Name of the hold"))
        self.name.editingFinished.connect(self._rename)
        self.how.setAccessibleName(tr("What colour its lines have"))
        self.how.addItems([tr(words).capitalize() for words in HOLD_COLORS.values()])
        self.how.activated.connect(lambda place: holding.change(how=_HOW[place]))
        self.add(self.name)
        self.add(self.how)
        self.color = Swatch("Colour of the hold", self._pick, 26)
        self.add(self.color)
        self.rows: dict[str, NumberRow] = {}
        for field, words, high, unit, scale in (
            ("amount", "Darker by", 100, "%", 100), ("chroma", "Colourful", 200, "%", 100),
            ("strength", "Strength", 100, "%", 100), ("feather_mm", "Fades in over", 20, "mm", 1),
        ):  # fmt: skip
            row = NumberRow(words, 0, high, 0.1 if unit == "mm" else 1, unit, 1 if unit == "mm" else 0)
            row.done.connect(lambda v, f=field, k=scale: holding.change(**{f: v / k}))
            self.rows[field] = row
            self.add(row)
        self.ramp = RampRows(easel, self._ramp, lambda ramp: holding.change(ramp=ramp))
        self.add(self.ramp)
        self.side = QComboBox()
        self.side.setAccessibleName(tr("Which side a line belongs to"))
        self.side.addItems([tr("Lines {0}", tr(words)) for words in _SIDES.values()])
        self.side.activated.connect(lambda place: holding.change(side=list(_SIDES)[place]))
        self.add(self.side)
        self.kinds = QPushButton()
        self.kinds.setToolTip(tr("Which lines it colours"))
        menu = QMenu(self.kinds)
        for kind, words in _NAMES.items():
            entry = menu.addAction(f"{tr(words)}: {tr(LINE_KINDS[kind])}")
            if entry is not None:
                entry.setCheckable(True)
                entry.triggered.connect(partial(self._turn, kind))
        self.kinds.setMenu(menu)
        self.add(self.kinds)
        self.told = label("", "muted")
        self.told.setWordWrap(True)
        self.add(self.told)
        self.scope = ScopeRow(easel, holding)
        self.add(self.scope)
        self.brush = NumberRow("Brush", *WIDTHS, 1, "px")
        self.brush.done.connect(holding.set_width)
        self.add(self.brush)
        self.share = button("For every page", holding.share, "Give the hold in hand to the whole book")
        self.row(self.share)

    def _build_list(self) -> None:
        """Put the verbs at the top, where they stay, and the cards below them."""
        holding = self._holding
        self.cards = CardList("Holds, the topmost first")
        self.cards.chosen.connect(holding.choose)
        self.cards.eyed.connect(holding.turn_eye)
        self.cards.soloed.connect(holding.solo)
        self.cards.moved.connect(holding.move)
        self.cards.removed.connect(holding.remove)
        self.empty = label("No line has a colour of its own yet. Click a stroke with Hold, or add a hold.", "muted")
        self.empty.setWordWrap(True)
        more = QPushButton(tr("Add"))
        more.setToolTip(tr("Lay another hold over the others"))
        kinds = QMenu(more)
        for words in PRESETS:
            kinds.addAction(tr(words), partial(holding.add, words))
        more.setMenu(kinds)
        self.remove = button("Remove", self._remove, "Remove the hold in hand (Delete)")
        self.copy = button("Copy", holding.copy, "Lay a copy of the hold in hand over the others")
        self.row(more, self.copy, self.remove)
        self.list = ShortList(self.cards)
        self.add(self.list)
        self.add(self.empty)

    def _remove(self) -> None:
        held = self._holding.in_hand()
        if held is not None:
            self._holding.remove(held[0])

    def _ramp(self) -> Ramp | None:
        held = self._holding.in_hand()
        return None if held is None else held[1].ramp

    def _rename(self) -> None:
        held = self._holding.in_hand()
        if held is not None and self.name.text().strip() and self.name.text() != held[1].name:
            self._holding.change(name=self.name.text())

    def _turn(self, kind: LineKind, on: bool) -> None:
        held = self._holding.in_hand()
        if held is not None:
            kinds = tuple(k for k in LINE_KINDS if (k in held[1].kinds and k != kind) or (k == kind and on))
            self._holding.change(kinds=kinds)

    def _pick(self) -> None:
        held, sources = self._holding.in_hand(), self.easel.sources()
        if held is not None and sources is not None:
            chosen = pick_color(self, held[1].name, held[1].color, self.easel.book, sources[PRESS])
            if chosen is not None:
                self._holding.change(color=chosen)

    def refresh(self) -> None:
        """Show the holds of the page."""
        held, ready = self._holding.in_hand(), self.easel.ready()
        if ready is None:
            return
        sources = ready[1]
        settings = (self.name, self.how, self.color, *self.rows.values(), self.ramp, self.side, self.kinds, self.told,
                    self.scope, self.list, self.share)  # fmt: skip
        for widget in settings:
            widget.setVisible(held is not None)
        self.brush.setVisible(self.easel.tool == "Brush hold")
        self.brush.show_value(self._holding.width_px)
        self.empty.setVisible(held is None)
        self.copy.setEnabled(held is not None)
        self.remove.setEnabled(held is not None)
        self.note.setText(tr("{0}, the topmost first", len(sources[HOLDS])) if len(sources[HOLDS]) > 1 else "")
        if held is not None:
            self._show(*held)
            self.cards.show_cards([self._card(n, h) for n, h in reversed(sources[HOLDS].items())], held[0])

    def _show(self, number: int, hold: Hold) -> None:
        if not self.name.hasFocus():
            self.name.setText(hold.name)
        self.how.setCurrentIndex(_HOW.index(hold.how))
        self.color.setVisible(hold.how == "fixed")
        self.color.show_color(hold.color)
        self.ramp.show_ramp(hold.ramp)
        by_hand = bool(hold.spots) or not hold.kinds
        for field, row in self.rows.items():
            row.setVisible(field not in ("amount", "chroma") or hold.how == "darker")
            row.show_value(getattr(hold, field) * (1 if field == "feather_mm" else 100))
        self.side.setVisible(hold.how == "darker" or not (by_hand or hold.scope.is_everywhere))
        self.side.setCurrentIndex(list(_SIDES).index(hold.side))
        self.kinds.setVisible(not (by_hand or hold.brushed))
        chosen = [tr(_NAMES[kind]) for kind in hold.kinds]
        self.kinds.setText(
            ", ".join(chosen)
            if len(chosen) <= 2
            else tr("{0}, {1} and {2} more", chosen[0], chosen[1], len(chosen) - 2)
        )
        menu = self.kinds.menu()
        for entry, kind in zip([] if menu is None else menu.actions(), _NAMES, strict=False):
            entry.setChecked(kind in hold.kinds)
        self.scope.setVisible(not by_hand)
        self.scope.refresh()
        count = len(hold.spots)
        self.told.setVisible(by_hand or hold.brushed)
        self.told.setText(tr("What was brushed by hand, where it applies") if hold.brushed else
                          tr("A stroke picked by hand") if count == 1 else
                          tr("{0} strokes picked by hand", count))  # fmt: skip
        book = self.easel.book
        self.share.setVisible(book is not None and number not in book.holds() and not by_hand)

    def _card(self, number: int, hold: Hold) -> ListCard:
        ready = self.easel.ready()
        where = "" if ready is None else said(*ready, hold.scope)
        if hold.brushed:
            where = "brushed"
        elif hold.spots or not hold.kinds:
            where = tr("{0} picked", len(hold.spots))
        what = {"darker": tr("darker by {0:.0%}", hold.amount), "fixed": hold.color, "ramp": "a ramp",
                "beneath": "knocked out", "paper": "paper"}[hold.how]  # fmt: skip
        line = {"fixed": hold.color, "beneath": "#ffffff", "paper": "#ffffff"}.get(hold.how, "#4a3a30")
        told = [tr(what), tr(where)]
        if ready is not None and number in ready[0].holds():
            told.append(tr("every page"))
        strokes = self._holding.strokes().get(number)
        if strokes is not None and not hold.brushed:
            told.append(tr_many("one stroke", "{0} strokes", strokes, strokes))
        pair = ("#ffffff", line) if hold.ramp is None else (hold.ramp.stops[0].color, hold.ramp.stops[-1].color)
        return ListCard(number, hold.name, ", ".join(told), pair, hold.shown)
