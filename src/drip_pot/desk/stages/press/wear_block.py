"""The inspector's block of old stock. Writes to the book through the easel."""

import msgspec
from PyQt6.QtWidgets import QComboBox

from drip_pot.book import verbs
from drip_pot.core.press import PRESETS, Wear
from drip_pot.desk.parts.widgets import Block, NumberRow, button
from drip_pot.desk.session.easel import Easel

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
        self.preset.setAccessibleName("Old stock by name")
        self.preset.addItems([*PRESETS, "Own"])
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

    def _wear(self) -> Wear | None:
        sources = self.easel.sources()
        return None if sources is None else sources.wear

    def _put(self, **values: object) -> None:
        wear = self._wear()
        if wear is not None:
            self._keep(msgspec.structs.replace(wear, **values))

    def _keep(self, wear: Wear) -> None:
        self.easel.do(lambda book, page: verbs.set_wear(book, page, wear))

    def _choose(self, place: int) -> None:
        wear = self._wear()
        if wear is not None and place < len(PRESETS):
            self._keep(msgspec.structs.replace(list(PRESETS.values())[place], seed=wear.seed))

    def _another(self) -> None:
        wear = self._wear()
        if wear is not None:
            self._put(seed=wear.seed % 9999 + 1)

    def refresh(self) -> None:
        """Show the wear of the page."""
        wear = self._wear()
        if wear is None:
            return
        alike = [msgspec.structs.replace(preset, seed=wear.seed) for preset in PRESETS.values()]
        self.preset.setCurrentIndex(alike.index(wear) if wear in alike else len(PRESETS))
        for name, row in self.rows.items():
            row.show_value(getattr(wear, name) * 100)
        self.ruling.show_value(wear.screen_lpi)
        self.note.setText("" if wear.is_new else f"sheet {wear.seed}; see it with the chip Old stock")
