# SPDX-License-Identifier: GPL-3.0-or-later
"""The inspector's block of pictures of paper on old stock. Writes to the book through the easel."""

import math
from pathlib import Path

import msgspec
from PyQt6.QtWidgets import QCheckBox, QComboBox, QFileDialog

from drip_pot.book import verbs
from drip_pot.book.values import WEAR
from drip_pot.core.press import PaperTexture, Wear
from drip_pot.desk.parts.modes import ModeBox
from drip_pot.desk.parts.widgets import Block, NumberRow, button
from drip_pot.desk.session.easel import Easel
from drip_pot.files import IMAGE_SUFFIXES
from drip_pot.words import tr

_MM = 25.4


class TextureBlock(Block):
    """The pictures, one of them in hand: how it blends, how strongly, how large, how it is turned, where it lies."""

    def __init__(self, easel: Easel) -> None:
        super().__init__("Pictures of paper")
        self.easel, self.place = easel, 0
        self.which = QComboBox()
        self.which.setAccessibleName(tr("Picture of paper in hand"))
        self.which.activated.connect(self._choose)
        self.add(self.which)
        self.away = button("Take away", self._remove)
        self.row(button("Lay one", self._ask, "A picture of paper from a file, over the worn sheet"), self.away)
        self.mode = ModeBox()
        self.mode.setAccessibleName(tr("How the picture blends with the sheet"))
        self.mode.picked.connect(lambda mode: self._put(mode=mode))
        self.strength = NumberRow("Strength", 0, 100, 1, "%")
        self.strength.done.connect(lambda v: self._put(strength=v / 100))
        self.wide = NumberRow("Width of one", 1, 1000, 1, "mm", 1)
        self.wide.done.connect(self._scale)
        self.turn = NumberRow("Turned by", -180, 180, 1, "°")
        self.turn.done.connect(self._turn)
        self.left = NumberRow("From the left", -500, 500, 1, "mm", 1)
        self.left.done.connect(lambda v: self._move(1, v))
        self.top = NumberRow("From the top", -500, 500, 1, "mm", 1)
        self.top.done.connect(lambda v: self._move(0, v))
        self.seamless, self.on = QCheckBox(tr("Without seams")), QCheckBox(tr("Seen"))
        self.seamless.setToolTip(tr("Its edges are made to meet, where it is laid again and again"))
        self.seamless.clicked.connect(lambda on: self._put(seamless=on))
        self.on.clicked.connect(lambda on: self._put(on=on))
        self.settings = (self.mode, self.strength, self.wide, self.turn, self.left, self.top, self.seamless, self.on)
        for part in self.settings:
            self.add(part)

    def _wear(self) -> Wear | None:
        sources = self.easel.sources()
        return None if sources is None else sources[WEAR]

    def _texture(self) -> PaperTexture | None:
        wear = self._wear()
        return None if wear is None or not wear.textures else wear.textures[min(self.place, len(wear.textures) - 1)]

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
            wear = self._wear()
            self.place = 0 if wear is None else len(wear.textures)
            self.easel.do(lambda book, page: verbs.lay_texture(book, page, original, size))

        self.easel.opening.take_picture(path, laid)

    def _choose(self, place: int) -> None:
        self.place = place
        self.refresh()

    def _put(self, **values: object) -> None:
        texture, place = self._texture(), self.place
        if texture is not None:
            changed = msgspec.structs.replace(texture, **values)
            self.easel.do(lambda book, page: verbs.set_texture(book, page, place, changed))

    def _remove(self) -> None:
        self.easel.do(lambda book, page: verbs.remove_texture(book, page, self.place))

    def _lies(self, texture: PaperTexture) -> tuple[float, float, float, float]:
        """Return how wide it is, in mm, how far it is turned, in degrees, and its corner down and right, in mm."""
        (row, col), (down, right) = texture.placed.grid[0], texture.placed.grid[texture.placed.across]
        sources = self.easel.sources()
        mm = _MM / (300.0 if sources is None else sources.page.dpi)
        angle = math.degrees(math.atan2(down - row, right - col))
        return math.hypot(down - row, right - col) * mm, angle, row * mm, col * mm

    def _turned(self, degrees: float, scale: float, move_mm: tuple[float, float]) -> None:
        sources, place = self.easel.sources(), self.place
        if sources is not None:
            px = sources.page.dpi / _MM
            move = move_mm[0] * px, move_mm[1] * px
            self.easel.do(lambda book, page: verbs.turn_texture(book, page, place, degrees, scale, move))

    def _scale(self, wide_mm: float) -> None:
        texture = self._texture()
        if texture is not None:
            self._turned(0.0, wide_mm / max(self._lies(texture)[0], 1e-6), (0.0, 0.0))

    def _turn(self, degrees: float) -> None:
        texture = self._texture()
        if texture is not None:
            self._turned(degrees - self._lies(texture)[1], 1.0, (0.0, 0.0))

    def _move(self, axis: int, to_mm: float) -> None:
        """Move the picture down (axis 0) or to the right (1)."""
        texture = self._texture()
        if texture is not None:
            far = to_mm - self._lies(texture)[2 + axis]
            self._turned(0.0, 1.0, (far, 0.0) if axis == 0 else (0.0, far))

    def _name_of(self, original: int) -> str:
        found: list[str] = []
        file = self.easel.file
        self.easel.trying(lambda: found.append(file.original(original)[0] if file is not None else ""))
        return found[0] if found else tr("a missing picture")

    def refresh(self) -> None:
        """Show the pictures, and the one in hand."""
        wear = self._wear()
        textures = () if wear is None else wear.textures
        self.place = min(self.place, max(0, len(textures) - 1))
        names = [tr("{0}. {1}", k, self._name_of(one.placed.original)) for k, one in enumerate(textures, 1)]
        if [self.which.itemText(k) for k in range(self.which.count())] != names:
            self.which.clear()
            self.which.addItems(names)
        self.which.setCurrentIndex(self.place)
        texture = self._texture()
        for part in (self.which, self.away, *self.settings):
            part.setVisible(texture is not None)
        self.note.setText("" if texture is not None else tr("none"))
        if texture is None:
            return
        wide, angle, down, right = self._lies(texture)
        self.mode.show_mode(texture.mode)
        for row, value in (
            (self.strength, texture.strength * 100), (self.wide, wide), (self.turn, angle), (self.left, right),
            (self.top, down),
        ):  # fmt: skip
            row.show_value(value)
        self.seamless.setChecked(texture.seamless)
        self.on.setChecked(texture.on)
