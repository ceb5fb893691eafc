# SPDX-License-Identifier: GPL-3.0-or-later
"""Old stock: plates as a worn, badly printed, aged sheet. Knows plates and press conditions; nothing of pages.

Every step is seeded and follows places on the page, so that a piece looks the same whichever piece it is drawn in.
"""

from functools import lru_cache

import cv2
import msgspec
import numpy as np

from drip_pot.core.arrays import F32, U8
from drip_pot.core.errors import BadInput
from drip_pot.core.press.conditions import CONDITIONS
from drip_pot.core.press.model import appearance
from drip_pot.core.press.screens import SCREENS, Screens, dotted
from drip_pot.core.render import PictureSource, Placed, picture_at

_MM = 25.4
_FADES = (1.0, 0.8, 1.5, 0.6)
_BLOCK = 128
MOST_TEXTURES = 4
_AGED = np.array([222, 200, 158], np.float32)
_STAIN = np.array([170, 132, 84], np.float32)


class Wear(msgspec.Struct, frozen=True):
    """Steps of wear, each 0..1 and off at 0, in the order they are done.

    Parameters
    ----------
    register : float
        Plates stray, each its own way, by up to 0.8 mm.
    fade : float
        Ink pales, yellow first, unevenly.
    spread : float
        Dots run into the paper.
    mottle : float
        Ink lies unevenly, each plate in its own way.
    screen_lpi : float
        Ruling of the halftone screen in lines an inch, 0 (none) or 20..200.
    scratches, folds : float
        Ink scraped off along hair lines; creases across the sheet.
    age, stains, grain : float
        The paper goes brown from its edges; blotches; rough paper.
    texture : float
        How strong the pictures of paper are that lie on the sheet.
    textures : tuple of Placed
        Those pictures and where they lie, at most four.
    white : float
        How far the lightest paper is brought back to white at the end.
    seed : int
        Another sheet of the same pile.
    """

    register: float = 0.0
    fade: float = 0.0
    spread: float = 0.0
    mottle: float = 0.0
    screen_lpi: float = 0.0
    scratches: float = 0.0
    folds: float = 0.0
    age: float = 0.0
    stains: float = 0.0
    grain: float = 0.0
    white: float = 0.0
    seed: int = 1
    texture: float = 1.0
    textures: tuple[Placed, ...] = ()

    def __post_init__(self) -> None:
        for name in STEPS:
            if not 0 <= getattr(self, name) <= 1:
                raise BadInput(
                    "A step of wear goes from 0 to 100 %, not {0:g} % ({1}).", getattr(self, name) * 100, name
                )
        if not 0 <= self.texture <= 1:
            raise BadInput("Textures go from 0 to 100 %, not {0:g} %.", self.texture * 100)
        if len(self.textures) > MOST_TEXTURES:
            raise BadInput("A sheet has at most {0} textures. Remove one first.", MOST_TEXTURES)
        if self.screen_lpi and not 20 <= self.screen_lpi <= 200:
            raise BadInput("A screen has 20 to 200 lines an inch, not {0:g}.", self.screen_lpi)

    @property
    def is_new(self) -> bool:
        """Whether nothing is worn."""
        return not self.screen_lpi and not self.textures and not any(getattr(self, name) for name in STEPS)


STEPS = ("register", "fade", "spread", "mottle", "scratches", "folds", "age", "stains", "grain", "white")
"""The steps that go from 0 to 1."""
PRESETS: dict[str, Wear] = {
    "New": Wear(),
    "Second printing": Wear(0.25, 0.15, 0.3, 0.3, 0, 0.05, 0, 0.25, 0, 0.2, 0.4),
    "Attic copy": Wear(0.45, 0.4, 0.5, 0.5, 65, 0.3, 0.4, 0.6, 0.35, 0.4, 0.15),
    "Read to bits": Wear(0.7, 0.6, 0.7, 0.7, 55, 0.8, 0.9, 0.8, 0.7, 0.6, 0.0),
}
"""Wear by name."""


STAND_IN = Wear(register=0.15, spread=0.2, mottle=0.2, grain=0.15)
"""How the press stand-in prints: plates a little astray, dots a little fat, on the paper of the condition."""


def halo_px(wear: Wear, dpi: float) -> int:
    """Return how many pixels about a piece its wear depends on."""
    return int(np.ceil((0.8 * wear.register + 0.3 * wear.spread) / _MM * dpi)) + 2


def worn(
    cmyk: U8, wear: Wear, dpi: float, condition: str, top: int, left: int, page: tuple[int, int], step: int = 1,
    screens: Screens = SCREENS, kept: U8 | None = None, textures: tuple[PictureSource, ...] = (),
) -> U8:  # fmt: skip
    """Draw plates as a worn sheet.

    Parameters
    ----------
    cmyk : (M, N, 4) ndarray of uint8
        Plates of a piece, with `halo_px` of context around what is wanted.
    wear : Wear
        The steps.
    dpi : float
        Of the page.
    condition : str
        One of `CONDITIONS`.
    top, left, page : int, int, (int, int)
        Where the piece begins, in page pixels, and the page's rows and columns.
    step : int
        Page pixels for each pixel of the piece.
    screens : tuple of Screen
        Of each plate; where one has a ruling of its own, it stays as much finer than the press's as it is there.
    kept : (M, N) ndarray of uint8, optional
        How far wear was rubbed out, 0..255: there the sheet is as it was printed.
    textures : tuple of PictureSource
        Pictures of paper that darken the sheet, one over the other.

    Returns
    -------
    (M, N, 3) ndarray of uint8
        sRGB.
    """
    size, px_mm = cmyk.shape[:2], dpi / _MM / step
    area = _Area(top, left, size, page, step, wear.seed)
    inks: F32 = np.asarray(_strayed(cmyk, wear, px_mm) / np.float32(255), np.float32)
    if wear.fade:
        uneven = 0.4 + 0.6 * area.cloud("fade", 24 * dpi / _MM)
        inks *= 1 - 0.55 * wear.fade * uneven[..., None] * np.array(_FADES, np.float32)
    if wear.spread:
        inks = np.asarray(cv2.GaussianBlur(inks, (0, 0), max(0.3, 0.09 * wear.spread * px_mm)), np.float32)
        inks += 0.7 * wear.spread * inks * (1 - inks)
    if wear.mottle:
        for plate in range(4):
            blotch = area.cloud(f"mottle {plate}", 1.4 * dpi / _MM) * 0.6 + area.noise(f"mottle {plate}") * 0.4
            inks[..., plate] *= 1 - 0.6 * wear.mottle * np.clip(blotch - 0.25, 0, 1)
    if wear.screen_lpi:
        ruling = CONDITIONS[condition].ruling_lpi
        every = tuple(wear.screen_lpi * (one.lpi or ruling) / ruling for one in screens)
        inks = dotted(inks, screens, every, dpi, area.rows.astype(np.float64), area.cols.astype(np.float64))
    if wear.scratches:
        inks *= 1 - area.hairs("scratches", int(90 * wear.scratches), dpi, 0.12)[..., None]
    if wear.folds:
        inks *= 1 - 0.8 * wear.folds * area.creases(dpi)[..., None]
    seen = appearance(np.rint(np.clip(inks, 0, 1) * 255).astype(np.uint8), condition, paper=True).astype(np.float32)
    seen *= _sheet(wear, area, dpi)
    if wear.grain:
        seen += 34 * wear.grain * (area.noise("grain") - 0.5)[..., None]
    for texture in textures:
        color, cover = picture_at(texture, top, left, (size[0], size[1]), step)
        share = cover[..., None].astype(np.float32) * np.float32(wear.texture / 255)
        seen *= 1 - share * (1 - color.astype(np.float32) / np.float32(255))
    if wear.white:
        seen *= 1 + wear.white * (255 / max(float(_AGED.mean()), 1) - 1) * max(wear.age, 0.3)
    if kept is not None and kept.any():
        share = kept[..., None].astype(np.float32) / np.float32(255)
        seen = seen * (1 - share) + appearance(cmyk, condition, paper=True) * share
    return np.rint(np.clip(seen, 0, 255)).astype(np.uint8)


class _Area:
    """A piece of a page, and what is random at its places."""

    def __init__(self, top: int, left: int, size: tuple[int, int], page: tuple[int, int], step: int, seed: int) -> None:
        self.rows = top + np.arange(size[0]) * step
        self.cols = left + np.arange(size[1]) * step
        self.page, self.step, self.seed = page, step, seed

    def cloud(self, name: str, grain_px: float) -> F32:
        """Return soft noise, 0..1, of some grain in page pixels."""
        field = _field(self.seed, name, tuple(int(n / grain_px) + 4 for n in self.page))
        shape = len(self.rows), len(self.cols)
        r = np.broadcast_to(np.asarray(self.rows / grain_px + 1, np.float32)[:, None], shape).copy()
        c = np.broadcast_to(np.asarray(self.cols / grain_px + 1, np.float32)[None], shape).copy()
        return np.asarray(cv2.remap(field, c, r, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT), np.float32)

    def noise(self, name: str) -> F32:
        """Return noise of single pixels, 0..1."""
        tile = _field(self.seed, f"noise {name}", (_BLOCK * 4, _BLOCK * 4))
        r, c = (np.abs(k // self.step) % len(tile) for k in (self.rows, self.cols))
        return np.asarray(tile[r[:, None], c[None]], np.float32)

    def hairs(self, name: str, count: int, dpi: float, width_mm: float) -> F32:
        """Return hair lines across the page, 0..1."""
        out = np.zeros((len(self.rows), len(self.cols)), np.uint8)
        rng = np.random.default_rng([self.seed, sum(name.encode())])
        for _ in range(count):
            at, turn = rng.uniform(0, 1, 2) * self.page, rng.uniform(0, np.pi)
            long = rng.uniform(2, 22) / _MM * dpi
            ends = [(at + sign * long / 2 * np.array([np.sin(turn), np.cos(turn)])) for sign in (-1, 1)]
            spots = [((c - self.cols[0]) / self.step, (r - self.rows[0]) / self.step) for r, c in ends]
            a, b = (tuple(round(v * 16) for v in spot) for spot in spots)
            wide = max(1, round(width_mm * rng.uniform(0.4, 1.3) / _MM * dpi / self.step))
            cv2.line(out, a, b, int(rng.integers(90, 255)), wide, cv2.LINE_AA, 4)
        return np.asarray(out / np.float32(255), np.float32)

    def creases(self, dpi: float) -> F32:
        """Return creases that run over the whole sheet, 0..1: one down its middle, one across."""
        rng = np.random.default_rng([self.seed, 5])
        out = np.zeros((len(self.rows), len(self.cols)), np.float32)
        for axis, places in ((0, self.rows), (1, self.cols)):
            middle = self.page[axis] * rng.uniform(0.42, 0.58)
            wander = (self.cloud(f"crease {axis}", 9 * dpi / _MM) - 0.5) * 0.8 / _MM * dpi
            away = np.abs((places[:, None] if axis == 0 else places[None]) - middle + wander)
            out = np.maximum(out, np.clip(1 - away / (0.28 / _MM * dpi), 0, 1))
        return out * (0.35 + 0.65 * self.noise("crease"))


@lru_cache(maxsize=64)
def _field(seed: int, name: str, shape: tuple[int, ...]) -> F32:
    rng = np.random.default_rng([seed, *name.encode()])
    return rng.random(shape, np.float32)


def _strayed(cmyk: U8, wear: Wear, px_mm: float) -> U8:
    if not wear.register:
        return cmyk
    rng, out = np.random.default_rng([wear.seed, 11]), cmyk.copy()
    for plate in range(4):
        turn, far = rng.uniform(0, 2 * np.pi), 0.8 * wear.register * rng.uniform(0.35, 1) * px_mm
        if plate < 3:
            move = np.array([[1, 0, far * np.cos(turn)], [0, 1, far * np.sin(turn)]], np.float32)
            size = cmyk.shape[1], cmyk.shape[0]
            out[..., plate] = cv2.warpAffine(cmyk[..., plate], move, size, borderMode=cv2.BORDER_REPLICATE)
    return out


def _sheet(wear: Wear, area: _Area, dpi: float) -> F32:
    """Return what the paper leaves of the light, (M, N, 3)."""
    out = np.ones((len(area.rows), len(area.cols), 3), np.float32)
    if wear.age:
        edge = np.minimum(
            np.minimum(area.rows, area.page[0] - 1 - area.rows)[:, None],
            np.minimum(area.cols, area.page[1] - 1 - area.cols)[None],
        )
        near = np.exp(-np.maximum(edge, 0) / (16 / _MM * dpi)).astype(np.float32)
        brown = wear.age * (0.55 + 0.25 * area.cloud("age", 30 * dpi / _MM) + 0.45 * near)
        out *= 1 - np.clip(brown, 0, 1)[..., None] * (1 - _AGED / 255)
    if wear.stains:
        blotch = area.cloud("stains", 22 * dpi / _MM)
        ring = np.clip(1 - np.abs(blotch - 0.72) * 16, 0, 1) * 0.6 + np.clip((blotch - 0.72) * 2.2, 0, 1)
        out *= 1 - (wear.stains * 0.6 * np.clip(ring, 0, 1))[..., None] * (1 - _STAIN / 255)
    return out
