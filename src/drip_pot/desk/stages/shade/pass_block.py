# SPDX-License-Identifier: GPL-3.0-or-later
"""The inspector's block of passes: verbs, cards, settings of the one in hand. Writes to the book through the easel."""

from functools import partial
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QLineEdit, QMenu, QPushButton

from drip_pot.book.values import PASSES, PRESS, TONE, Pass
from drip_pot.core.render import Ramp, ToneRamp
from drip_pot.desk.dialogs.color import pick_color
from drip_pot.desk.parts.card_list import CardList, ListCard, ShortList
from drip_pot.desk.parts.modes import ModeBox, mode_word
from drip_pot.desk.parts.widgets import Block, NumberRow, Swatch, button
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.ramp_rows import RampRows
from drip_pot.desk.stages.scope_row import ScopeRow
from drip_pot.desk.stages.shade.cut_rows import CutRows
from drip_pot.desk.stages.shade.effecting import PassEffectRows
from drip_pot.desk.stages.shade.pass_pictures import PassPictures
from drip_pot.desk.stages.shade.picture_rows import PictureRows
from drip_pot.desk.stages.shade.shading import WIDTHS, Shading
from drip_pot.desk.stages.shade.source_rows import FinishRows, ToneRampRows
from drip_pot.files import IMAGE_SUFFIXES
from drip_pot.words import tr


class PassBlock(Block):
    """The pass in hand, and all passes of the page."""

    def __init__(self, easel: Easel) -> None:
        super().__init__("Passes")
        self.easel, self._shading = easel, easel.own(Shading)
        shading = self._shading
        self._build_list()
        self.name = QLineEdit()
        self.name.setAccessibleName(tr("Name of the pass"))
        self.name.editingFinished.connect(self._rename)
        self.color = Swatch("Colour of the pass", self._pick, 26)
        self.mode = ModeBox()
        self.mode.picked.connect(lambda mode: shading.change(mode=mode))
        self.row(self.name, self.mode)
        self.add(self.color)
        self.strength = NumberRow("Strength", 0, 100, 1, "%")
        self.strength.done.connect(lambda v: shading.change(strength=v / 100))
        self.add(self.strength)
        self.ramp = RampRows(easel, self._ramp, lambda ramp: shading.change(ramp=ramp))
        self.finish = FinishRows(easel)
        self.add(self.ramp)
        self.values = ToneRampRows(easel, self._values, lambda values: shading.change(values=values))
        self.add(self.finish)
        self.add(self.values)
        self.picture = PictureRows(easel)
        self.add(self.picture)
        self.effect = PassEffectRows(easel)
        self.add(self.effect)
        self.scope = ScopeRow(easel, shading)
        self.add(self.scope)
        self.brush = [NumberRow("Width", *WIDTHS, 1, "px"), NumberRow("Softness", 0, 100, 1, "%"),
                      NumberRow("Flow", 1, 100, 1, "%")]  # fmt: skip
        for row, name, scale in zip(self.brush, ("width_px", "softness", "flow"), (1, 100, 100), strict=True):
            row.done.connect(lambda v, n=name, k=scale: shading.put(n, v / k))
            self.add(row)
        self.cuts = CutRows(easel)
        self.add(self.cuts)
        self.join = button("Join", shading.join, "Join the pass in hand with the one below it, where both are alike")
        self.row(self.join)

    def _build_list(self) -> None:
        """Put the verbs at the top, where they stay, and the cards below them."""
        shading, easel = self._shading, self.easel
        self.pictures = PassPictures(easel)
        self.pictures.fresh.connect(self.refresh)
        self.cards = CardList("Passes, the topmost first")
        self.cards.chosen.connect(shading.choose)
        self.cards.eyed.connect(shading.turn_eye)
        self.cards.soloed.connect(shading.solo)
        self.cards.moved.connect(shading.move)
        self.cards.removed.connect(shading.remove)
        self.remove = button("Remove", lambda: shading.remove(shading.number), "Remove the pass in hand (Delete)")
        more, copies = self._add_button(), QPushButton(tr("Copy"))
        self._pages = QMenu(copies)
        self._pages.aboutToShow.connect(self._list_pages)
        copies.setToolTip(tr("Copy the pass in hand with what is painted in it"))
        copies.setMenu(self._pages)
        self.row(more, copies, self.remove)
        self.add(ShortList(self.cards))

    def _add_button(self) -> QPushButton:
        """Return the button that lays another pass over the others, of a kind its menu asks for."""
        more, shading, easel = QPushButton(tr("Add")), self._shading, self.easel
        more.setToolTip(tr("Lay another pass over the others"))
        kinds = QMenu(more)
        for name, done in (
            ("A colour", shading.add),
            ("Paint in the colours of pots", shading.add_paint),
            ("A ramp", shading.add_ramp),
            ("A correction", shading.add_finish),
            ("A tone ramp: colour by value", shading.add_values),
            ("A grey painting, glazed", shading.add_glaze),
            ("A picture", self._ask_picture),
            ("Effect lines, behind figures", partial(easel.choose_tool, "Effect pass")),
            ("The colour round the part, as shadow", partial(shading.add_ambient, "shadow")),
            ("The colour round the part, as bounce", partial(shading.add_ambient, "bounce")),
        ):
            kinds.addAction(tr(name), done)
        more.setMenu(kinds)
        return more

    def _ramp(self) -> Ramp | None:
        held = self._shading.in_hand()
        return None if held is None else held[1].ramp

    def _values(self) -> ToneRamp | None:
        held = self._shading.in_hand()
        return None if held is None else held[1].values

    def _list_pages(self) -> None:
        self._pages.clear()
        self._pages.addAction(tr("On this page"), self._shading.copy)
        for number, page in ({} if self.easel.book is None else self.easel.book.pages()).items():
            if number != self.easel.page:
                self._pages.addAction(tr("To {0}", page.name), partial(self._shading.copy, number))

    def _ask_picture(self) -> None:
        files = " ".join(f"*{suffix}" for suffix in IMAGE_SUFFIXES)
        found, _ = QFileDialog.getOpenFileName(
            self, tr("A picture over the flats"), str(self.easel.folder), tr("Pictures ({0})", files)
        )
        if found:
            self._shading.add_picture(Path(found))

    def _rename(self) -> None:
        held = self._shading.in_hand()
        if held is not None and self.name.text().strip() and self.name.text() != held[1].name:
            self._shading.change(name=self.name.text())

    def _pick(self) -> None:
        held, sources = self._shading.in_hand(), self.easel.sources()
        if held is not None and sources is not None:
            chosen = pick_color(self, held[1].name, held[1].color, self.easel.book, sources[PRESS])
            if chosen is not None:
                self._shading.change(color=chosen)

    def refresh(self) -> None:
        """Show the passes of the page."""
        held, sources = self._shading.in_hand(), self.easel.sources()
        if held is None or sources is None:
            return
        number, one = held
        self.pictures.look()
        self.ramp.show_ramp(one.ramp)
        self.finish.show_finish(one.finish)
        self.values.show_values(one.values)
        self.picture.show_pass(one)
        self.effect.setVisible(one.effect is not None or self.easel.tool == "Effect pass")
        self.effect.refresh()
        if not self.name.hasFocus():
            self.name.setText(one.name)
        self.mode.setVisible(one.kind in ("tint", "ramp", "values", "local", "picture", "paint", "effect"))
        self.color.setVisible(one.kind in ("tint", "effect"))
        self.color.show_color(one.color)
        self.mode.show_mode(one.mode)
        self.strength.show_value(one.strength * 100)
        self.scope.refresh()
        tool = self.easel.tool
        for row, value in zip(self.brush, (self._shading.width_px, self._shading.softness * 100,
                                           self._shading.flow * 100), strict=True):  # fmt: skip
            row.setVisible(tool in ("Mist", "Crayon") or (tool == "Streak" and row is not self.brush[1]))
            row.show_value(value)
        self.cuts.refresh()
        self.cards.show_cards([self._card(n, p) for n, p in reversed(sources[PASSES].items())], number)
        self.remove.setEnabled(number != TONE)
        self.join.setEnabled(one.kind == "tint" and len(sources[PASSES]) > 1)
        self.note.setText(tr("{0}, the topmost first", len(sources[PASSES])) if len(sources[PASSES]) > 1 else "")

    def _card(self, number: int, one: Pass) -> ListCard:
        pot = None if self.easel.book is None else self.easel.book.pots().get(self.easel.pot or 0)
        pair = ("#ffffff", "#8a8a8a") if pot is None or self.easel.book is None else self.easel.book.tone_pair(pot)
        mode = mode_word(one.mode)
        what = {
            "tone": "shadow of every pot",
            "finish": "corrects what is below",
            "ramp": tr("ramp, {0}", mode),
            "values": "colour by value",
            "local": tr("local colours, {0}", mode),
            "paint": tr("colours of pots, {0}", mode),
            "effect": tr("effect lines, {0}", mode),
            "picture": tr("picture, {0}", mode) if one.printed else "picture to judge by",
        }
        says = f"{what.get(one.kind, mode)}, {one.strength:.0%}"
        if one.ramp is not None:
            pair = one.ramp.stops[0].color, one.ramp.stops[-1].color
        elif one.values is not None:
            pair = one.values.stops[0].color, one.values.stops[-1].color
        elif one.kind != "tone":
            pair = ("#ffffff", one.color) if one.kind in ("tint", "paint", "effect") else ("#9a9a9a", "#dcdcdc")
        picture = None if one.covers_all else self.pictures.picture(number, *pair)
        return ListCard(number, one.name, says, pair, one.shown, picture)
