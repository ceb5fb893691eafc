# SPDX-License-Identifier: GPL-3.0-or-later
"""The inspector in Press: plates, trap, register test. Writes to the book through the easel."""

from functools import partial
from pathlib import Path

import msgspec
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QCheckBox, QFileDialog, QGridLayout, QLabel, QMenu, QPushButton, QWidget

from drip_pot.book import verbs
from drip_pot.book.tables import prints_black
from drip_pot.book.values import LINES, PRESS
from drip_pot.core.color import from_hex
from drip_pot.core.press import BUILT_IN, CONDITIONS, Condition
from drip_pot.desk.parts import theme
from drip_pot.desk.parts.lengths import length_text
from drip_pot.desk.parts.text import counted
from drip_pot.desk.parts.widgets import Block, Choice, NumberRow, button, label
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.panel import Panel
from drip_pot.desk.stages.press.screen_block import ScreenBlock
from drip_pot.desk.stages.press.straying import StrayBlock
from drip_pot.desk.stages.press.texture_block import TextureBlock
from drip_pot.desk.stages.press.trapping import Trapping
from drip_pot.desk.stages.press.wear_block import WearBlock
from drip_pot.desk.view.render import PLATES
from drip_pot.files import name_of, profiles_found, read_condition, read_file
from drip_pot.words import grouped, tr


class PlateBars(QWidget):
    """The plates, inks beside the four among them, with how much of the sheet each covers."""

    def __init__(self) -> None:
        super().__init__()
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setVerticalSpacing(3)
        self._grid.setColumnMinimumWidth(1, 120)
        self._grid.setColumnStretch(1, 1)
        self._rows: list[tuple[QLabel, QLabel]] = []
        self._shares: tuple[float, ...] = ()
        self.show_shares((0.0,) * len(PLATES))

    def show_shares(self, shares: tuple[float, ...], beside: tuple[str, ...] = ()) -> None:
        """Show the mean ink of each plate, 0..1; `beside` are the names of those after the four."""
        self._shares = shares
        while len(self._rows) < len(shares):
            name, figure = label(""), label("", "figure")
            figure.setAlignment(Qt.AlignmentFlag.AlignRight)
            self._grid.addWidget(name, len(self._rows), 0)
            self._grid.addWidget(figure, len(self._rows), 2)
            self._rows.append((name, figure))
        names = (*map(tr, PLATES), *beside)
        for place, (name, figure) in enumerate(self._rows):
            name.setVisible(place < len(shares))
            figure.setVisible(place < len(shares))
            if place < len(shares):
                name.setText(names[place])
                figure.setText(f"{shares[place]:.0%}")
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        for row, share in enumerate(self._shares):
            cell = self._grid.cellRect(row, 1)
            bar = QRectF(cell.left() + 10, cell.center().y(), cell.width() - 20, 5)
            painter.setBrush(theme.color("line"))
            painter.drawRoundedRect(bar, 2, 2)
            painter.setBrush(theme.color("text"))
            painter.drawRoundedRect(QRectF(bar.left(), bar.top(), max(5.0, bar.width() * share), 5), 2, 2)


class PressPanel(Panel):
    """Plates, black and ink limit, trap, register test."""

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        plates = Block("Plates")
        self.plates = plates
        self.condition = Choice("Press condition", [CONDITIONS[name].title for name in BUILT_IN], 3)
        self.condition.chosen.connect(self._choose_condition)
        plates.add(self.condition)
        self.profile = QPushButton(tr("A profile"))
        self.profile.setToolTip(tr("Print by the ICC profile of a press: of this book, of this system, or from a file"))
        self.profiles = QMenu(self.profile)
        self.profiles.aboutToShow.connect(self._list_profiles)
        self.profile.setMenu(self.profiles)
        plates.add(self.profile)
        plates.row(button("For every page", self._share, "Give every page of the book these press settings"))
        self.bars = PlateBars()
        plates.add(self.bars)
        self.black = NumberRow("Black takes over the grey", 0, 100, 1, "%")
        self.limit = NumberRow("Ink limit", 200, 400, 5, "%")
        plates.add(self.black)
        self.black_from = NumberRow("Black begins at", 0, 90, 1, "%")
        plates.add(self.black_from)
        plates.add(self.limit)
        self.enrich = QCheckBox(tr("Enrich large blacks"))
        self.enrich.clicked.connect(lambda on: self._put(enrich=on))
        plates.add(self.enrich)
        trap = Block("Trap")
        self.trap = trap
        self.width_row = NumberRow("Lighter spreads by", 0, 1, 0.01, "mm", 2)
        trap.add(self.width_row)
        self.by_hand = NumberRow("By hand (0: the same)", 0, 1, 0.01, "mm", 2)
        self.by_hand.done.connect(self._widen_by_hand)
        trap.add(self.by_hand)
        self.lines = trap.fact("Black lines")
        register = Block("Register test")
        self.register = register
        self.tolerance = NumberRow("Plates stray up to", 0, 0.5, 0.01, "mm", 2)
        register.add(self.tolerance)
        self.before = register.fact("Opens, untrapped")
        self.after = register.fact("Opens, trapped")
        self.halos = register.fact("Dark rims, trapped")
        self.worst = label("", "muted")
        self.worst.setWordWrap(True)
        register.add(self.worst)
        self.stray, self.screens, self.wear = StrayBlock(easel), ScreenBlock(easel), WearBlock(easel)
        self.textures = TextureBlock(easel)
        self.blocks = [plates, trap, register, self.stray, self.screens, self.wear, self.textures]
        for row, name, scale in (
            (self.black, "black", 100.0), (self.black_from, "black_from", 100.0), (self.limit, "ink_limit", 1.0),
            (self.width_row, "trap_mm", 1.0),
            (self.tolerance, "tolerance_mm", 1.0),
        ):  # fmt: skip
            row.done.connect(lambda v, n=name, k=scale: self._keep(n, v / k))

    def _keep(self, name: str, value: float) -> None:
        self._put(**{name: int(value) if name == "ink_limit" else round(value, 4)})

    def _put(self, **values: object) -> None:
        ready = self._ready()
        if ready is not None:
            press = msgspec.structs.replace(ready[1][PRESS], **values)
            self.easel.do(lambda book, page: verbs.set_press(book, page, press))

    def _widen_by_hand(self, value: float) -> None:
        self.easel.own(Trapping).width_mm = value

    def _share(self) -> None:
        made: list[int] = []
        if self.easel.do(lambda book, page: made.append(verbs.share_settings(book, page, ("press",)))):
            self.easel.said.emit(tr("Changed on {0}.", counted(made[0], "page")), False)

    def _choose_condition(self, title: str) -> None:
        name = next(name for name, one in CONDITIONS.items() if one.title == title)
        self._put(condition=name, ink_limit=CONDITIONS[name].ink_limit)

    def _list_profiles(self) -> None:
        self.profiles.clear()
        for name, one in CONDITIONS.items():
            if name not in BUILT_IN:
                self.profiles.addAction(one.title, partial(self._use, name, one))
        for path in profiles_found():
            self.profiles.addAction(path.name, partial(self._read, path))
        self.profiles.addSeparator()
        self.profiles.addAction(tr("Open a profile"), self._open_profile)

    def _open_profile(self) -> None:
        found, _ = QFileDialog.getOpenFileName(
            self, tr("Profile of a press"), str(self.easel.folder), tr("ICC profiles (*.icc *.icm)")
        )
        if found:
            self._read(Path(found))

    def _read(self, path: Path) -> None:
        found: list[Condition] = []
        if self.easel.trying(lambda: found.append(read_condition(read_file(path), path.name))):
            self._use(name_of(found[0]), found[0])

    def _use(self, name: str, condition: Condition) -> None:
        self.easel.do(lambda book, page: verbs.use_profile(book, page, name, condition))

    def refresh(self) -> None:
        ready, view = self._ready(), self.easel.view
        if ready is None or not self.isVisible():
            return
        self.wear.refresh()
        self.textures.refresh()
        self.screens.refresh()
        self.stray.refresh()
        _, sources = ready
        press, dpi = sources[PRESS], sources.page.dpi
        self.black.show_value(press.black * 100)
        self.black_from.show_value(press.black_from * 100)
        self.limit.show_value(press.ink_limit)
        self.condition.show_choice(press.press.title)
        self.profile.setText(press.press.title if press.condition not in BUILT_IN else tr("A profile"))
        self.plates.setToolTip(tr("Fitted to {0}", press.press.source))
        self.enrich.setChecked(press.enrich)
        self.width_row.show_value(press.trap_mm)
        self.by_hand.setVisible(self.easel.tool == "Trap")
        self.by_hand.show_value(self.easel.own(Trapping).width_mm)
        self.tolerance.show_value(press.tolerance_mm)
        self.lines.setText(tr("overprint") if prints_black(from_hex(sources[LINES].color)[None])[0] else tr("coloured"))
        plates = None if view is None else view.plates
        if plates is not None:
            self.bars.show_shares(plates.shares, plates.beside)
        busy = self.easel.deriving.work.busy("press")
        proved = None if view is None else view.proved
        traps, told = (proved.traps, proved.register) if proved is not None else (None, None)
        width = tr("{0:.0f} px", press.trap_mm / 25.4 * dpi)
        self.trap.note.setText(
            width if traps is None else tr("{0}, {1} px of edge need it", width, grouped(traps.needed_px))
        )
        waiting = "working" if busy or told is None else ""
        shift_mm = 0.0 if told is None else told.shift_px / dpi * 25.4
        self.register.note.setText(waiting or tr("any plates, eight ways, by {0}", length_text(shift_mm, 3)))
        gaps, halos = (told.gap_mm, told.halo_mm) if told is not None else ((0.0, 0.0), (0.0, 0.0))
        for fact, length in ((self.before, gaps[0]), (self.after, gaps[1]), (self.halos, halos[1])):
            fact.setText(waiting or length_text(length, 1))
        self.worst.setText(tr("Worst: {0}", told.worst) if told is not None and told.worst else "")
