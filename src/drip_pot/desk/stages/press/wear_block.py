# SPDX-License-Identifier: GPL-3.0-or-later
"""The inspector's block of old stock. Writes to the book through the easel."""

from functools import partial
from pathlib import Path

import msgspec
from PyQt6.QtWidgets import QComboBox, QFileDialog, QMenu, QPushButton

from drip_pot.book import verbs
from drip_pot.book.values import WEAR
from drip_pot.core.press import PRESETS, Wear
from drip_pot.desk.parts.widgets import Block, NumberRow, button
from drip_pot.desk.session.easel import Easel
from drip_pot.files import IMAGE_SUFFIXES
from drip_pot.words import tr

_ROWS = (
    ("register", "Plates astray"), ("fade", "Faded ink"), ("spread", "Ink spread"), ("mottle", "Uneven ink"),
    ("scratches", "Scratches"), ("folds", "Folds"), ("age", "Brown paper"), ("stains", "Stains"),
    ("grain", "Rough paper"), ("white", "White again"),
)  # fmt: skip


class WearBlock(Block):
    """Presets, and every step of wear."""

    def __init__(self, easel: Easel) -> None:
        super().__init__("Old stock")
        self.easel = easel
        self.preset = QComboBox()
        self.preset.setAccessibleName(tr("Old stock by name"))
        self.preset.addItems([*(tr(name) for name in PRESETS), tr("Own")])
        self.preset.activated.connect(self._choose)
        self.again = button("Another sheet", self._another, "The same wear on another sheet of the pile")
        self.row(self.preset, self.again)
        self.rows: dict[str, NumberRow] = {}
        for name, title in _ROWS:
            row = NumberRow(title, 0, 100, 1, "%")
            row.done.connect(lambda v, n=name: self._put(**{n: v / 100}))
            self.rows[name] = row
            self.add(row)
        self.ruling = NumberRow("Screen (0: none)", 0, 200, 1, "lpi")
        self.ruling.done.connect(lambda v: self._put(screen_lpi=0.0 if v < 20 else v))
        self.add(self.ruling)
        self.texture = NumberRow("Textures", 0, 100, 1, "%")
        self.texture.done.connect(lambda v: self._put(texture=v / 100))
        self.add(self.texture)
        self.textures = QPushButton(tr("Pictures of paper"))
        self.textures.setToolTip(tr("Lay pictures of paper over the sheet, turn them, take them away"))
        listed = QMenu(self.textures)
        listed.aboutToShow.connect(lambda: self._list(listed))
        self.textures.setMenu(listed)
        self.row(self.textures)

    def _list(self, menu: QMenu) -> None:
        menu.clear()
        menu.addAction(tr("Lay one"), self._ask)
        wear = self._wear()
        for place, one in enumerate(() if wear is None else wear.textures):
            name = self._name_of(one.original)
            menu.addSeparator()
            menu.addAction(tr("Turn {0}", name), partial(self._change, place, turn=True))
            menu.addAction(tr("Take {0} away", name), partial(self._change, place, turn=False))

    def _name_of(self, original: int) -> str:
        found: list[str] = []
        file = self.easel.file
        self.easel.trying(lambda: found.append(file.original(original)[0] if file is not None else ""))
        return found[0] if found else "a missing picture"

    def _change(self, place: int, *, turn: bool) -> None:
        self.easel.do(lambda book, page: verbs.change_texture(book, page, place, turn=turn))

    def _ask(self) -> None:
        files = " ".join(f"*{suffix}" for suffix in IMAGE_SUFFIXES)
        found, _ = QFileDialog.getOpenFileName(
            self, tr("A picture of paper"), str(self.easel.folder), tr("Pictures ({0})", files)
        )
        if found:
            self.lay(Path(found))

    def lay(self, path: Path) -> None:
        """Lay a picture of paper over the sheet."""

        def laid(original: int, size: tuple[int, int]) -> None:
            self.easel.do(lambda book, page: verbs.lay_texture(book, page, original, size))

        self.easel.opening.take_picture(path, laid)

    def _wear(self) -> Wear | None:
        sources = self.easel.sources()
        return None if sources is None else sources[WEAR]

    def _put(self, **values: object) -> None:
        wear = self._wear()
        if wear is not None:
            self._keep(msgspec.structs.replace(wear, **values))

    def _keep(self, wear: Wear) -> None:
        self.easel.do(lambda book, page: verbs.set_wear(book, page, wear))

    def _choose(self, place: int) -> None:
        wear = self._wear()
        if wear is not None and place < len(PRESETS):
            kept = {"seed": wear.seed, "texture": wear.texture, "textures": wear.textures}
            self._keep(msgspec.structs.replace(list(PRESETS.values())[place], **kept))

    def _another(self) -> None:
        wear = self._wear()
        if wear is not None:
            self._put(seed=wear.seed % 9999 + 1)

    def refresh(self) -> None:
        """Show the wear of the page."""
        wear = self._wear()
        if wear is None:
            return
        kept = {"seed": wear.seed, "texture": wear.texture, "textures": wear.textures}
        alike = [msgspec.structs.replace(preset, **kept) for preset in PRESETS.values()]
        self.preset.setCurrentIndex(alike.index(wear) if wear in alike else len(PRESETS))
        for name, row in self.rows.items():
            row.show_value(getattr(wear, name) * 100)
        self.ruling.show_value(wear.screen_lpi)
        self.texture.show_value(wear.texture * 100)
        self.texture.setVisible(bool(wear.textures))
        count = len(wear.textures)
        self.textures.setText(tr("Pictures of paper: {0}", count) if count else tr("Pictures of paper"))
        self.note.setText("" if wear.is_new else tr("sheet {0}; see it with the chip Old stock", wear.seed))
