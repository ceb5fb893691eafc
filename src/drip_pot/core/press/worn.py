# SPDX-License-Identifier: GPL-3.0-or-later
"""Old stock: plates as a worn, badly printed, aged sheet. Knows wear, plates and press conditions; nothing of pages.

Every step is seeded and follows places on the page, so that a piece looks the same whichever piece it is drawn in.
"""

from collections.abc import Callable, Collection, Iterator, Mapping
from dataclasses import dataclass, field
from functools import lru_cache

import cv2
import numpy as np

from drip_pot.core.arrays import F32, U8
from drip_pot.core.press.conditions import CONDITIONS
from drip_pot.core.press.model import appearance, with_spot
from drip_pot.core.press.screens import SCREENS, SPOT_SCREEN, Screen, dotted
from drip_pot.core.press.wear import WEAR_KINDS, WORN_INKS, PaperTexture, Wear, WearStep, WornInk
from drip_pot.core.render import PictureSource, blended, picture_at, picture_levels

_MM = 25.4
_FADES: dict[WornInk, float] = {"cyan": 1.0, "magenta": 0.8, "yellow": 1.5, "black": 0.6, "line": 0.6, "spots": 1.0}
_BLOCK, _EDGE = 512, 0.25
_STRAY_MM, _SPREAD_MM, _THIN_MM = 0.8, 0.3, 0.1
_AGED = np.array([222, 200, 158], np.float32)
_YELLOWED = np.array([246, 232, 190], np.float32)
_STAIN = np.array([170, 132, 84], np.float32)
_BROWN = np.array([30, 8, -16], np.float32)  # what warm black has more
WHOLE_SHEET = 0
"""By what `Stock.kept` tells where no step is done."""


@dataclass(frozen=True)
class Stock:
    """What a sheet is printed on, and which piece of it is drawn.

    Attributes
    ----------
    condition : str
        One of `CONDITIONS`.
    dpi : float
        Of the page.
    page : (int, int)
        Its rows and columns.
    top, left : int
        Where the piece begins, in page pixels.
    step : int
        Page pixels for each pixel of the piece.
    screens : tuple of Screen
        Of cyan, magenta, yellow, black and each spot ink. Where one has a ruling of its own, it stays as much finer
        than the press's as it is there.
    spots : tuple of (3,) ndarrays of uint8
        Solids of the spot inks, sRGB.
    kept : mapping of int to (M, N) ndarray of uint8
        How far a step was rubbed out, 0..255, by its number; by `WHOLE_SHEET` how far all were: there the sheet is as
        it was printed.
    """

    condition: str
    dpi: float
    page: tuple[int, int]
    top: int = 0
    left: int = 0
    step: int = 1
    screens: tuple[Screen, ...] = SCREENS
    spots: tuple[U8, ...] = ()
    kept: Mapping[int, U8] = field(default_factory=dict)


def halo_px(wear: Wear, dpi: float) -> int:
    """Return how many pixels about a piece its wear depends on."""
    far = sum(
        step.value * mm
        for kind, mm in (("register", _STRAY_MM), ("spread", _SPREAD_MM), ("thin", _THIN_MM))
        for step in wear.steps if step.kind == kind and step.is_done
    )  # fmt: skip
    return int(np.ceil(far / _MM * dpi)) + 3


def worn(
    inks: U8, wear: Wear, stock: Stock, line: U8 | None = None,
    pictures: tuple[tuple[PaperTexture, PictureSource], ...] = (),
) -> U8:  # fmt: skip
    """Draw plates as a worn sheet.

    Parameters
    ----------
    inks : (M, N, P) ndarray of uint8
        Cyan, magenta, yellow, black and spot inks of a piece, with `halo_px` of context around what is wanted.
    wear : Wear
        The steps.
    stock : Stock
        The sheet, and where the piece lies.
    line : (M, N) ndarray of uint8, optional
        Coverage of black line, if it is not among the inks: it wears by itself.
    pictures : tuple of (PaperTexture, PictureSource)
        Pictures of paper that lie on the sheet, one over the other; they are taken as seamless where they should be.

    Returns
    -------
    (M, N, 3) ndarray of uint8
        sRGB.
    """
    area = _Area(stock, (inks.shape[0], inks.shape[1]), wear.seed)
    given = inks if line is None else np.dstack([inks, line])
    names = _names(inks.shape[2], apart=line is not None)
    planes = [_share(given[..., k]) for k in range(given.shape[2])]
    for step, nth in _in_order(wear, _ON_INKS):
        for place, name in enumerate(names):
            if step.wears(name):
                made = _ON_INKS[step.kind](planes[place], step, nth, _WornPlate(place, name, area))
                planes[place] = _left(planes[place], made, step, stock)
    seen = _seen(planes, names, stock).astype(np.float32)
    sheet = _Sheet(area, planes[-1] if line is not None else planes[3], wear)
    for step, nth in _in_order(wear, _ON_SHEET):
        seen = _left(seen, _ON_SHEET[step.kind](seen, step, nth, sheet), step, stock)
    seen = _with_pictures(seen, pictures, area)
    for step, _ in _in_order(wear, ("white",)):
        seen = _left(seen, _whitened(seen, step, sheet), step, stock)
    whole = stock.kept.get(WHOLE_SHEET)
    if whole is not None and whole.any():
        share = whole[..., None].astype(np.float32) / np.float32(255)
        new = _seen([_share(given[..., k]) for k in range(given.shape[2])], names, stock)
        seen = seen * (1 - share) + new * share
    return np.rint(np.clip(seen, 0, 255)).astype(np.uint8)


@lru_cache(maxsize=8)
def seamless(source: PictureSource) -> PictureSource:
    """Return a picture whose opposite edges meet: each quarter at an edge is mixed with what lies half a picture away.

    The mixture keeps the contrast of the picture (Heitz and Neyret, "High-Performance By-Example Noise using a
    Histogram-Preserving Blending Operator", 2018, section 3: weights are divided by the root of their squares' sum).
    """
    picture = source.levels[0].astype(np.float32)
    for axis in (0, 1):
        size = picture.shape[axis]
        away = np.minimum(np.arange(size), np.arange(size)[::-1]) / max(size * _EDGE, 1)
        own = np.clip(away, 0, 1).astype(np.float32)
        own = own.reshape((-1, 1, 1) if axis == 0 else (1, -1, 1))
        mean = picture.mean(axis=(0, 1), keepdims=True)
        other = np.roll(picture, size // 2, axis=axis)
        picture = mean + ((picture - mean) * own + (other - mean) * (1 - own)) / np.sqrt(own**2 + (1 - own) ** 2)
    pixels = np.rint(np.clip(picture, 0, 255)).astype(np.uint8)
    on_white = pixels[..., :3] + np.minimum(255 - pixels[..., :3], 255 - pixels[..., 3:])
    return PictureSource(source.placed, picture_levels(on_white, np.ascontiguousarray(pixels[..., 3])))


def _share(plane: U8) -> F32:
    return np.asarray(plane / np.float32(255), np.float32)


def _names(count: int, *, apart: bool) -> tuple[WornInk, ...]:
    """Return which ink each plane is."""
    found: list[WornInk] = [*WORN_INKS[:4], *["spots"] * (count - 4)]  # type: ignore[list-item]
    return (*found, "line") if apart else tuple(found)


def _in_order(wear: Wear, kinds: Collection[str]) -> Iterator[tuple[WearStep, int]]:
    """Return the steps of some kinds in the order they are done, each with its place in its kind."""
    for kind in WEAR_KINDS:
        if kind in kinds:
            yield from ((step, nth) for nth, step in enumerate(wear.done(kind)))


def _left(before: F32, after: F32, step: WearStep, stock: Stock) -> F32:
    """Return what a step makes, (M, N) or (M, N, 3), but where it was rubbed out."""
    kept = stock.kept.get(step.number) if step.number != WHOLE_SHEET else None
    if kept is None or not kept.any():
        return after
    share = np.asarray(kept, np.float32) / np.float32(255)
    share = share if before.ndim == share.ndim else share[..., None]
    return np.asarray(before * share + after * (1 - share), np.float32)


def _seen(planes: list[F32], names: tuple[WornInk, ...], stock: Stock) -> U8:
    """Return how planes of 0..1 look on the sheet, (M, N, 3) uint8."""
    eight = [np.rint(np.clip(plane, 0, 1) * 255).astype(np.uint8) for plane in planes]
    if names[-1] == "line":
        eight[3] = 255 - cv2.multiply(255 - eight[3], 255 - eight[-1], scale=1 / 255).astype(np.uint8)
    seen = appearance(np.dstack(eight[:4]), stock.condition, paper=True)
    for solid, cover in zip(stock.spots, eight[4:], strict=False):
        seen = with_spot(seen, cover, solid)
    return seen


class _Area:
    """A piece of a page, and what is random at its places."""

    def __init__(self, stock: Stock, size: tuple[int, int], seed: int) -> None:
        self.stock, self.size, self.seed = stock, size, seed
        self.rows = stock.top + np.arange(size[0]) * stock.step
        self.cols = stock.left + np.arange(size[1]) * stock.step
        self.px = stock.dpi / _MM  # pixels of the page for a millimetre
        self.page, self.step = stock.page, stock.step
        self._clouds: dict[str, F32] = {}

    def cloud(self, name: str, grain_px: float) -> F32:
        """Return soft noise, 0..1, of some grain in page pixels."""
        if name not in self._clouds:
            self._clouds[name] = self._cloud(name, grain_px)
        return self._clouds[name]

    def _cloud(self, name: str, grain_px: float) -> F32:
        noise = _noise(self.seed, name, tuple(int(n / grain_px) + 4 for n in self.page))
        shape = len(self.rows), len(self.cols)
        r = np.broadcast_to(np.asarray(self.rows / grain_px + 1, np.float32)[:, None], shape).copy()
        c = np.broadcast_to(np.asarray(self.cols / grain_px + 1, np.float32)[None], shape).copy()
        return np.asarray(cv2.remap(noise, c, r, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT), np.float32)

    def noise(self, name: str) -> F32:
        """Return noise of single pixels, 0..1."""
        tile = _noise(self.seed, f"noise {name}", (_BLOCK, _BLOCK))
        r, c = (np.abs(k // self.step) % len(tile) for k in (self.rows, self.cols))
        return np.asarray(tile[r[:, None], c[None]], np.float32)

    def rng(self, name: str) -> np.random.Generator:
        """Return random numbers of the sheet."""
        return np.random.default_rng([self.seed, *name.encode()])

    def hairs(self, name: str, count: int, width_mm: float) -> F32:
        """Return hair lines across the page, 0..1."""
        out = np.zeros(self.size, np.uint8)
        rng = self.rng(name)
        for _ in range(count):
            at, turn = rng.uniform(0, 1, 2) * self.page, rng.uniform(0, np.pi)
            long = rng.uniform(2, 22) * self.px
            ends = [(at + sign * long / 2 * np.array([np.sin(turn), np.cos(turn)])) for sign in (-1, 1)]
            spots = [((c - self.cols[0]) / self.step, (r - self.rows[0]) / self.step) for r, c in ends]
            a, b = (tuple(round(v * 16) for v in spot) for spot in spots)
            wide = max(1, round(width_mm * rng.uniform(0.4, 1.3) * self.px / self.step))
            cv2.line(out, a, b, int(rng.integers(90, 255)), wide, cv2.LINE_AA, 4)
        return np.asarray(out / np.float32(255), np.float32)

    def creases(self, nth: int) -> F32:
        """Return creases that run over the whole sheet, 0..1: one down its middle, one across."""
        rng = self.rng(f"creases {nth}")
        out = np.zeros(self.size, np.float32)
        for axis, places in ((0, self.rows), (1, self.cols)):
            middle = self.page[axis] * rng.uniform(0.42, 0.58)
            wander = (self.cloud(f"crease {nth} {axis}", 9 * self.px) - 0.5) * 0.8 * self.px
            away = np.abs((places[:, None] if axis == 0 else places[None]) - middle + wander)
            out = np.maximum(out, np.clip(1 - away / (0.28 * self.px), 0, 1))
        return out * (0.35 + 0.65 * self.noise("crease"))


@lru_cache(maxsize=128)
def _noise(seed: int, name: str, shape: tuple[int, ...]) -> F32:
    rng = np.random.default_rng([seed, *name.encode()])
    return rng.random(shape, np.float32)


@dataclass(frozen=True)
class _WornPlate:
    place: int
    name: WornInk
    area: _Area


def _strayed(ink: F32, step: WearStep, nth: int, plate: _WornPlate) -> F32:
    rng = plate.area.rng(f"stray {nth} {plate.place} {plate.name}")
    turn, share = rng.uniform(0, 2 * np.pi), rng.uniform(0.35, 1)
    far = _STRAY_MM * step.value * share * plate.area.px / plate.area.step
    move = np.array([[1, 0, far * np.cos(turn)], [0, 1, far * np.sin(turn)]], np.float32)
    size = ink.shape[1], ink.shape[0]
    return np.asarray(cv2.warpAffine(ink, move, size, borderMode=cv2.BORDER_REPLICATE), np.float32)


def _thinned(ink: F32, step: WearStep, nth: int, plate: _WornPlate) -> F32:
    far = _THIN_MM * step.value * plate.area.px / plate.area.step
    whole = int(far)
    inner, outer = _eroded(ink, whole), _eroded(ink, whole + 1)
    return np.asarray(inner + (outer - inner) * np.float32(far - whole), np.float32)


def _eroded(ink: F32, radius: int) -> F32:
    if not radius:
        return ink
    ring = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * radius + 1, 2 * radius + 1))
    return np.asarray(cv2.erode(ink, ring), np.float32)


def _spread(ink: F32, step: WearStep, nth: int, plate: _WornPlate) -> F32:
    wide = max(0.3, 0.09 * step.value * plate.area.px / plate.area.step)
    ink = np.asarray(cv2.GaussianBlur(ink, (0, 0), wide), np.float32)
    return ink + np.float32(0.7 * step.value) * ink * (1 - ink)


def _screened(ink: F32, step: WearStep, nth: int, plate: _WornPlate) -> F32:
    stock, place = plate.area.stock, 3 if plate.name == "line" else plate.place
    screen = stock.screens[place] if place < len(stock.screens) else SPOT_SCREEN
    ruling = CONDITIONS[stock.condition].ruling_lpi
    lpi = step.value * (screen.lpi or ruling) / ruling
    rows, cols = plate.area.rows.astype(np.float64), plate.area.cols.astype(np.float64)
    return np.asarray(dotted(ink[..., None], (screen,), (lpi,), stock.dpi, rows, cols)[..., 0], np.float32)


def _faded(ink: F32, step: WearStep, nth: int, plate: _WornPlate) -> F32:
    uneven = 0.4 + 0.6 * plate.area.cloud(f"fade {nth}", 24 * plate.area.px)
    return np.asarray(ink * (1 - np.minimum(0.55 * step.value * _FADES[plate.name] * uneven, 1)), np.float32)


def _mottled(ink: F32, step: WearStep, nth: int, plate: _WornPlate) -> F32:
    name = f"mottle {nth} {plate.place} {plate.name}"
    blotch = plate.area.cloud(name, 1.4 * plate.area.px) * 0.6 + plate.area.noise(name) * 0.4
    return np.asarray(ink * (1 - 0.6 * step.value * np.clip(blotch - 0.25, 0, 1)), np.float32)


def _scratched(ink: F32, step: WearStep, nth: int, plate: _WornPlate) -> F32:
    return np.asarray(ink * (1 - plate.area.hairs(f"scratches {nth}", int(90 * step.value), 0.12)), np.float32)


def _folded(ink: F32, step: WearStep, nth: int, plate: _WornPlate) -> F32:
    return np.asarray(ink * (1 - 0.8 * step.value * plate.area.creases(nth)), np.float32)


_ON_INKS: dict[str, Callable[[F32, WearStep, int, _WornPlate], F32]] = {
    "register": _strayed, "thin": _thinned, "spread": _spread, "screen": _screened, "fade": _faded,
    "mottle": _mottled, "scratches": _scratched, "folds": _folded,
}  # fmt: skip


@dataclass(frozen=True)
class _Sheet:
    area: _Area
    black: F32
    wear: Wear


def _warmed(seen: F32, step: WearStep, nth: int, sheet: _Sheet) -> F32:
    share = np.float32(step.value) * np.clip(sheet.black, 0, 1)[..., None]
    return np.asarray(seen + share * _BROWN, np.float32)


def _aged(seen: F32, step: WearStep, nth: int, sheet: _Sheet) -> F32:
    edge = np.minimum(
        np.minimum(sheet.area.rows, sheet.area.page[0] - 1 - sheet.area.rows)[:, None],
        np.minimum(sheet.area.cols, sheet.area.page[1] - 1 - sheet.area.cols)[None],
    )
    near = np.exp(-np.maximum(edge, 0) / (16 * sheet.area.px)).astype(np.float32)
    brown = step.value * (0.55 + 0.25 * sheet.area.cloud(f"age {nth}", 30 * sheet.area.px) + 0.45 * near)
    return np.asarray(seen * (1 - np.clip(brown, 0, 1)[..., None] * (1 - _AGED / 255)), np.float32)


def _yellowed(seen: F32, step: WearStep, nth: int, sheet: _Sheet) -> F32:
    return np.asarray(seen * (1 - np.float32(step.value) * (1 - _YELLOWED / 255)), np.float32)


def _stained(seen: F32, step: WearStep, nth: int, sheet: _Sheet) -> F32:
    blotch = sheet.area.cloud(f"stains {nth}", 22 * sheet.area.px)
    ring = np.clip(1 - np.abs(blotch - 0.72) * 16, 0, 1) * 0.6 + np.clip((blotch - 0.72) * 2.2, 0, 1)
    return np.asarray(seen * (1 - (step.value * 0.6 * np.clip(ring, 0, 1))[..., None] * (1 - _STAIN / 255)), np.float32)


def _grained(seen: F32, step: WearStep, nth: int, sheet: _Sheet) -> F32:
    return np.asarray(seen + 34 * step.value * (sheet.area.noise(f"grain {nth}") - 0.5)[..., None], np.float32)


def _whitened(seen: F32, step: WearStep, sheet: _Sheet) -> F32:
    lost = 255 / float(_AGED.mean()) - 1
    browned = max(sheet.wear.most("age"), sheet.wear.most("yellowing"), 0.3)
    return np.asarray(seen * np.float32(1 + step.value * lost * browned), np.float32)


_ON_SHEET: dict[str, Callable[[F32, WearStep, int, _Sheet], F32]] = {
    "warmth": _warmed, "age": _aged, "yellowing": _yellowed, "stains": _stained, "grain": _grained,
}  # fmt: skip


def _with_pictures(seen: F32, pictures: tuple[tuple[PaperTexture, PictureSource], ...], area: _Area) -> F32:
    """Lay pictures of paper over what is seen, (M, N, 3) of 0..255."""
    for texture, source in pictures:
        if not texture.on or not texture.strength:
            continue
        laid = seamless(source) if texture.seamless and texture.placed.repeats else source
        color, cover = picture_at(laid, area.stock.top, area.stock.left, area.size, area.step)
        share = cover[..., None].astype(np.float32) * np.float32(texture.strength / 255)
        under = np.clip(seen, 0, 255).astype(np.float64) / 255
        mixed = blended(texture.mode, under, color / 255.0)
        seen = np.asarray(seen + share * (mixed * 255 - under * 255), np.float32)
    return seen
