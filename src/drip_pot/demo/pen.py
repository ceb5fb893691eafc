# SPDX-License-Identifier: GPL-3.0-or-later
"""A pen that draws shapes and strokes with weight onto the sheets of a page. Knows nothing of what is drawn.

Drawing units: a page is 1000 wide and 1518 high, y down (other works say their own size). A shape covers what lies
under it (it is erased first), so drawing order is depth. Lines are heavier below and to the right, away from the light.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path
from typing import Literal

import cv2
import numpy as np
from PIL import Image, ImageDraw, ImageFont

from drip_pot.core.arrays import F64, I32, U8, Bool

WIDE, HIGH = 1000.0, 1518.0
_SHIFT = 6
_LETTERS = Path(__file__).parent / "fonts/ComicNeue-Bold.otf"

Points = Sequence[tuple[float, ...]]
Sheet = Literal["contour", "detail", "effect", "lettering"]


@dataclass(frozen=True)
class Gap:
    """A break in the line: middle (row, col) in pixels, width in pixels, the true things on its two sides."""

    row: float
    col: float
    width_px: float
    sides: tuple[int, int] = (0, 0)


@dataclass(frozen=True)
class Stroke:
    """The centre-line of a drawn line: its sheet, points (x, y) in drawing units, usual width in units."""

    sheet: Sheet
    points: tuple[tuple[float, float], ...]
    width: float


@dataclass(frozen=True)
class Frame:
    """Where local drawing coordinates lie on the page: scale, turn, flip, squash across, and offset."""

    x: float = 0.0
    y: float = 0.0
    scale: float = 1.0
    turn_deg: float = 0.0
    flip: bool = False
    squash: float = 1.0

    def place(self, points: F64) -> F64:
        """Move (K, 2) local x, y to the page."""
        local = points * [-self.squash if self.flip else self.squash, 1.0]
        angle = math.radians(self.turn_deg)
        turn = np.array([[math.cos(angle), math.sin(angle)], [-math.sin(angle), math.cos(angle)]])
        return np.asarray(local @ turn * self.scale + [self.x, self.y])


class Pen:
    """Draws on one page.

    Parameters
    ----------
    dpi : float
        Resolution; at 600 a page of 1000 × 1518 units is 4125 × 6262 px.
    seed : int
        For the slight wobble of the hand and the places where a brush lifts.
    size : tuple of float
        Width and height in units.

    Attributes
    ----------
    sheets : dict
        Ink coverage, (M, N) uint8, of 'contour', 'detail', 'effect' and 'lettering'.
    balloons : (M, N) ndarray of uint8
        Where lettering covers the drawing with white.
    things : (M, N) ndarray of int32
        The true regions: the number of the shape on top, 0 for bare paper.
    swap : dict
        Pots to be used instead of others, for a scene in another light.
    pots, pot_plane, shade_plane
        Names of pots, and for every pixel the place of its pot in that list, and 1 where shadow belongs.
    """

    def __init__(self, dpi: float, seed: int = 7, size: tuple[float, float] = (WIDE, HIGH)) -> None:
        self.dpi = dpi
        self.px = 4.125 * dpi / 600
        shape = round(size[1] * self.px), round(size[0] * self.px)
        self.sheets: dict[Sheet, U8] = {
            "contour": np.zeros(shape, np.uint8),
            "detail": np.zeros(shape, np.uint8),
            "effect": np.zeros(shape, np.uint8),
            "lettering": np.zeros(shape, np.uint8),
        }
        self.balloons: U8 = np.zeros(shape, np.uint8)
        self.things: I32 = np.zeros(shape, np.int32)
        self.pots: list[str] = ["Paper"]
        self.pot_plane: U8 = np.zeros(shape, np.uint8)
        self.shade_plane: U8 = np.zeros(shape, np.uint8)
        self.frame = Frame()
        self.weight = 1.0
        self.brush = 0
        self.swap: dict[str, str] = {}
        self.gaps: list[Gap] = []
        self.strokes: list[Stroke] = []
        self._breaks: list[tuple[F64, F64, float, float]] = []
        self._rng = np.random.default_rng(seed)
        self._pot = 0
        self._depth = 0.0
        self._thing = 0
        self._mask: U8 | None = None
        self._below: dict[str, U8 | I32] = {}

    @property
    def ink(self) -> U8:
        """All line but the lettering."""
        return np.maximum(np.maximum(self.sheets["contour"], self.sheets["detail"]), self.sheets["effect"])

    def use(self, pot: str, shade: float = 0.0) -> None:
        """Give the shapes that follow a pot, and a shadow on the side away from the light, so many units deep."""
        pot = self.swap.get(pot, pot)
        if pot not in self.pots:
            self.pots.append(pot)
        self._pot = self.pots.index(pot)
        self._depth = shade

    def begin_panel(self, corners: Points, pot: str) -> None:
        """Draw inside a panel filled with `pot` from now on; nothing but lettering shows outside it."""
        self._mask = np.zeros_like(self.pot_plane)
        path = self._path(corners, smooth=False, closed=True)
        cv2.fillPoly(self._mask, [_fixed(path)], 255, cv2.LINE_AA, _SHIFT)
        self._below = {name: plane.copy() for name, plane in self._planes().items()}
        self._border = corners
        self.frame = Frame()
        self.use(pot)
        self._thing += 1
        inside = self._mask > 0
        self.pot_plane[inside], self.things[inside] = self._pot, self._thing

    def _planes(self) -> dict[str, U8 | I32]:
        line = {name: self.sheets[name] for name in ("contour", "detail", "effect")}
        return {**line, "pot": self.pot_plane, "shade": self.shade_plane, "things": self.things}

    def end_panel(self, width: float = 4.6) -> None:
        """Close the panel and draw its border."""
        assert self._mask is not None
        outside = self._mask == 0
        edge = (self._mask > 0) & (self._mask < 255)
        for name, plane in self._planes().items():
            plane[outside] = self._below[name][outside]
            if name in self.sheets:
                plane[edge] = np.minimum(plane[edge], self._mask[edge])
        self._mask, self._below = None, {}
        self.frame = Frame()
        closed = [*self._border, self._border[0]]
        for a, b in pairwise(closed):
            self.stroke([a, b], width, taper=(1, 1), wobble=0, sheet="contour")

    def shape(
        self,
        points: Points,
        width: float = 2.6,
        *,
        smooth: bool = True,
        fill: bool = True,
        gap: tuple[float, float] | None = None,
        sheet: Sheet = "contour",
    ) -> None:
        """Draw a closed shape; a point (x, y, 1) is a corner. `gap` plants a break: (place 0..1, width in px).

        While `brush` is not 0, outlines longer than 60 units are drawn as that many strokes with a lift between.
        """
        path = self._path(points, smooth=smooth, closed=True)
        if fill:
            for name in ("contour", "detail", "effect"):
                cv2.fillPoly(self.sheets[name], [_fixed(path)], 0, cv2.LINE_AA, _SHIFT)
            self._color(path)
        self.strokes.append(Stroke(sheet, _units(path, self.px), width))
        around = np.vstack([path, path[:1]])
        long = float(np.hypot(*np.diff(around, axis=0).T).sum()) > 60 * self.px
        if self.brush and long and sheet == "contour":
            self._brushed(path, width)
        else:
            self._line(around, width, (1.0, 1.0), sheet, outward=_turning(path))
        if gap:
            self._plant(path, *gap)

    def black(self, points: Points, *, smooth: bool = True) -> None:
        """Fill a shape with solid black."""
        path = self._path(points, smooth=smooth, closed=True)
        cv2.fillPoly(self.sheets["contour"], [_fixed(path)], 255, cv2.LINE_AA, _SHIFT)

    def white(self, points: Points, *, smooth: bool = True) -> None:
        """Erase line inside a shape."""
        path = self._path(points, smooth=smooth, closed=True)
        for name in ("contour", "detail", "effect"):
            cv2.fillPoly(self.sheets[name], [_fixed(path)], 0, cv2.LINE_AA, _SHIFT)

    def stroke(
        self,
        points: Points,
        width: float = 2.2,
        *,
        taper: tuple[float, float] = (0.25, 0.1),
        wobble: float = 1.0,
        sheet: Sheet = "detail",
    ) -> None:
        """Draw an open stroke through points; `taper` is the relative width at its start and end."""
        path = self._path(points, smooth=True, closed=False, wobble=wobble)
        self.strokes.append(Stroke(sheet, _units(path, self.px), width))
        self._line(path, width, taper, sheet)

    def dot(self, x: float, y: float, radius: float, sheet: Sheet = "detail") -> None:
        """Draw a round dot."""
        (at,) = self.frame.place(np.array([[x, y]])) * self.px
        _disc(self.sheets[sheet], at, max(radius * self.frame.scale * self.px, 0.6))

    def balloon(self, x: float, y: float, lines: Sequence[str], size: float, tail: tuple[float, float] | None) -> None:
        """Write a balloon in the middle of (x, y), its tail towards a point; it covers the drawing."""
        letters = [_letters(text, size * self.px) for text in lines]
        wide = max(a.shape[1] for a in letters) / self.px / 2 + 1.1 * size
        high = len(lines) * 0.6 * size + 0.7 * size
        round_ = [(x + wide * math.cos(a), y + high * math.sin(a)) for a in np.linspace(0, 2 * math.pi, 25)[:-1]]
        self.frame = Frame()
        plane = self.sheets["lettering"]
        body = [self._path(round_, smooth=True, closed=True, wobble=0)]
        if tail:
            side = math.atan2(tail[1] - y, tail[0] - x)
            foot = [(x + 0.9 * wide * math.cos(side + d), y + 0.9 * high * math.sin(side + d)) for d in (-0.16, 0.16)]
            body.append(self._path([foot[0], tail, foot[1]], smooth=False, closed=True, wobble=0))
        for path in body:
            cv2.fillPoly(self.balloons, [_fixed(path)], 255, cv2.LINE_AA, _SHIFT)
            self._line(np.vstack([path, path[:1]]), 2.6, (1, 1), "lettering")
        for path in body:
            inner = path + (path.mean(axis=0) - path) * 0.006
            cv2.fillPoly(plane, [_fixed(inner)], 0, cv2.LINE_AA, _SHIFT)
        top = y - (len(lines) - 1) * 0.6 * size
        for row, glyphs in enumerate(letters):
            self._stamp(plane, glyphs, x, top + 1.2 * size * row)

    def write(self, x: float, y: float, text: str, size: float, turn_deg: float = 0.0) -> None:
        """Write a sound, large and outlined, on the lettering sheet."""
        glyphs = _letters(text, size * self.px, turn_deg)
        thick = max(2, round(0.05 * size * self.px))
        fat = cv2.dilate(glyphs, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * thick + 1, 2 * thick + 1)))
        self._stamp(self.balloons, fat, x, y)
        self._stamp(self.sheets["lettering"], fat - glyphs, x, y)

    def _stamp(self, plane: U8, glyphs: U8, x: float, y: float) -> None:
        top, left = round(y * self.px) - glyphs.shape[0] // 2, round(x * self.px) - glyphs.shape[1] // 2
        r0, c0 = max(0, top), max(0, left)
        piece = plane[r0 : top + glyphs.shape[0], c0 : left + glyphs.shape[1]]
        np.maximum(piece, glyphs[r0 - top :, c0 - left :][: piece.shape[0], : piece.shape[1]], out=piece)

    def finish(self) -> None:
        """Open the planted gaps that can be seen, and forget lifts of the brush that something covers."""
        line = self.ink
        self.gaps = [gap for gap in self.gaps if _is_open(line, gap, 4 * self.px)]
        for at, tangent, width_px, half in self._breaks:
            col, row = np.clip(np.rint(at).astype(int), 0, np.array(line.shape[::-1]) - 1)
            if line[row, col] < 200:
                continue
            normal = np.array([-tangent[1], tangent[0]])
            sides = ((-1, -1), (1, -1), (1, 1), (-1, 1))
            corners = [at + tangent * width_px / 2 * s + normal * half / 2 * t for s, t in sides]
            for name in ("contour", "detail"):
                cv2.fillConvexPoly(self.sheets[name], _fixed(np.array(corners)), 0, cv2.LINE_AA, _SHIFT)
            self.gaps.append(Gap(float(at[1]), float(at[0]), width_px, _beside(self.things, at, normal * 5 * self.px)))
        self._breaks = []

    def _color(self, path: F64) -> None:
        whole = np.rint(path).astype(np.int32)
        self._thing += 1
        cv2.fillPoly(self.pot_plane, [whole], self._pot)
        cv2.fillPoly(self.things, [whole], self._thing)
        left, top = np.maximum(whole.min(axis=0), 0)
        right, bottom = np.minimum(whole.max(axis=0) + 1, self.pot_plane.shape[::-1])
        if right <= left or bottom <= top:
            return
        inside = np.zeros((bottom - top, right - left), np.uint8)
        lit = np.zeros_like(inside)
        cv2.fillPoly(inside, [whole - [left, top]], 1)
        if self._depth:
            step = 1.5 * self._depth * self.frame.scale * self.px
            cv2.fillPoly(lit, [np.rint(path - [left + step, top + 0.55 * step]).astype(np.int32)], 1)
        piece, within = self.shade_plane[top:bottom, left:right], inside > 0
        piece[within] = (1 - lit)[within] if self._depth else 0

    def _path(self, points: Points, *, smooth: bool, closed: bool, wobble: float = 1.0) -> F64:
        raw = [(float(p[0]), float(p[1])) for p in points]
        corner = [len(p) > 2 or not smooth for p in points]
        placed = self.frame.place(np.array(raw))
        path = _spline(placed * self.px, corner, closed)
        around = np.vstack([placed, placed[:1]]) if closed else placed
        long = float(np.hypot(*np.diff(around, axis=0).T).sum())
        return path + self._wobble(path, long) * wobble * self.px * 0.22

    def _wobble(self, path: F64, long: float) -> F64:
        """Slow noise along a path of `long` units; how much chance it takes depends on units alone, not on dpi."""
        knots = max(4, int(long / 18))
        noise = self._rng.normal(0, 1, (knots, 2))
        run = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(path, axis=0).T))])
        at = run / max(float(run[-1]), 1e-9) * (knots - 1)
        low = np.minimum(at.astype(int), knots - 2)
        part = (1 - np.cos((at - low) * np.pi))[:, None] / 2
        return np.asarray(noise[low] * (1 - part) + noise[low + 1] * part)

    def _brushed(self, path: F64, width: float) -> None:
        """Draw an outline as separate brush strokes that swell and lift; the lifts are gaps with known places."""
        starts = (np.sort(self._rng.uniform(0, 1, self.brush)) * len(path)).astype(int)
        for start, stop in zip(starts, np.roll(starts, -1), strict=True):
            lift_px = float(self._rng.uniform(6, 30)) * self.dpi / 600
            length = int((stop - start) % len(path)) or len(path)
            skip = max(1, round(lift_px / 3))
            if length > 4 * skip:
                piece = np.take(path, np.arange(start + skip // 2, start + length - skip // 2), axis=0, mode="wrap")
                self._line(piece, width * 1.25, (0.35, 0.2), "contour", outward=_turning(path))
            at, tangent = path[start], path[(start + 2) % len(path)] - path[start - 2]
            tangent = tangent / max(float(np.hypot(*tangent)), 1e-9)
            sides = _beside(self.things, at, np.array([-tangent[1], tangent[0]]) * 5 * self.px)
            self.gaps.append(Gap(float(at[1]), float(at[0]), lift_px, sides))

    def _line(self, path: F64, width: float, taper: tuple[float, float], sheet: Sheet, outward: float = 0.0) -> None:
        """Draw a line along (K, 2) pixels; `outward` 1 or -1 makes it heavier where it faces away from the light."""
        step = np.diff(path, axis=0)
        length = np.maximum(np.hypot(*step.T), 1e-9)
        normal = np.stack([-step[:, 1], step[:, 0]], axis=1) / length[:, None]
        normal = np.vstack([normal, normal[-1:]])
        radius = np.full(len(path), width * self.weight * self.px * 0.5 * max(0.55, min(1.0, self.frame.scale) ** 0.5))
        if outward:
            radius *= 0.78 + 0.5 * np.clip(-normal * outward @ np.array([0.5, 0.86]), 0, 1)
            radius = _smoothed(radius)
        if taper != (1.0, 1.0):
            place = np.concatenate([[0], np.cumsum(length)]) / length.sum()
            swell = np.sin(np.pi * np.clip(place, 0, 1)) ** 0.6
            ends = taper[0] * (1 - place) + taper[1] * place
            radius *= ends + (1 - ends) * swell
        radius = np.maximum(radius, 0.55)
        _fill_line(self.sheets[sheet], path, radius, normal)

    def _plant(self, path: F64, place: float, width_px: float) -> None:
        at = int(place * len(path)) % len(path)
        tangent = path[(at + 2) % len(path)] - path[at - 2]
        tangent = tangent / max(float(np.hypot(*tangent)), 1e-9)
        self._breaks.append((path[at], tangent, width_px * self.dpi / 600, 9.0 * self.px))


def _is_open(line: U8, gap: Gap, around_px: float) -> bool:
    """Whether a gap can be seen: white in the middle, line near."""
    row, col, reach = round(gap.row), round(gap.col), round(gap.width_px / 2 + around_px)
    around = line[max(0, row - reach) : row + reach + 1, max(0, col - reach) : col + reach + 1]
    inside = 0 <= row < line.shape[0] and 0 <= col < line.shape[1]
    return bool(inside and line[row, col] < 64 and around.size and around.max() > 200)


def _beside(things: I32, at: F64, aside: F64) -> tuple[int, int]:
    """Which shapes lie to both sides of a place (x, y)."""
    found = []
    for side in (-1, 1):
        row, col = np.clip(np.rint(at + side * aside).astype(int)[::-1], 0, np.array(things.shape) - 1)
        found.append(int(things[row, col]))
    return found[0], found[1]


def _fixed(path: F64) -> np.ndarray[tuple[int, int], np.dtype[np.int32]]:
    return np.rint(path * (1 << _SHIFT)).astype(np.int32)


def _fill_line(plane: U8, path: F64, radius: F64, normal: F64) -> None:
    left, right = path + normal * radius[:, None], path - normal * radius[:, None]
    quads = np.stack([left[:-1], left[1:], right[1:], right[:-1]], axis=1)
    for quad in np.rint(quads * (1 << _SHIFT)).astype(np.int32):
        cv2.fillConvexPoly(plane, quad, 255, cv2.LINE_AA, _SHIFT)
    bend: Bool = np.ones(len(path), bool)
    bend[1:-1] = (normal[1:-1] * normal[:-2]).sum(axis=1) < 0.995
    for at, r in zip(path[bend], radius[bend], strict=True):
        _disc(plane, at, r)


def _disc(plane: U8, at: F64, radius: float) -> None:
    scale = 1 << _SHIFT
    center = (round(float(at[0]) * scale), round(float(at[1]) * scale))
    cv2.circle(plane, center, round(radius * scale), 255, -1, cv2.LINE_AA, _SHIFT)


def _units(path: F64, px: float) -> tuple[tuple[float, float], ...]:
    return tuple((round(float(x) / px, 1), round(float(y) / px, 1)) for x, y in path[::6])


def _turning(path: F64) -> float:
    """Return 1 or -1 for the way a closed path goes round."""
    ahead = np.roll(path, -1, axis=0)
    area = float(np.sum(path[:, 0] * ahead[:, 1] - ahead[:, 0] * path[:, 1]))
    return float(np.sign(area or 1))


def _letters(text: str, size_px: float, turn_deg: float = 0.0) -> U8:
    """Set a word as coverage, (M, N) uint8, just large enough."""
    font = ImageFont.truetype(str(_LETTERS), max(4, round(size_px)))
    left, top, right, bottom = font.getbbox(text)
    image = Image.new("L", (int(right - left) + 4, int(bottom - top) + 4), 0)
    ImageDraw.Draw(image).text((2 - left, 2 - top), text, fill=255, font=font)
    if turn_deg:
        image = image.rotate(turn_deg, expand=True, resample=Image.Resampling.BICUBIC)
    return np.asarray(image, np.uint8).copy()


def _smoothed(values: F64) -> F64:
    kernel = np.hanning(11)
    padded = np.concatenate([values[-5:], values, values[:5]])
    return np.asarray(np.convolve(padded, kernel / kernel.sum(), "valid"))


def _spline(points: F64, corner: list[bool], closed: bool) -> F64:
    """Sample a Catmull-Rom curve about every three pixels; tangents vanish at corners."""
    count = len(points)
    spans = count if closed else count - 1
    out = []
    for i in range(spans):
        j = (i + 1) % count
        a, b = points[i], points[j]
        before = points[(i - 1) % count] if closed or i > 0 else a
        after = points[(j + 1) % count] if closed or j < count - 1 else b
        leave = (b - a) if corner[i] else (b - before) / 2
        arrive = (b - a) if corner[j] else (after - a) / 2
        chord = float(np.hypot(*(b - a)))
        for slope in (leave, arrive):
            size = float(np.hypot(*slope))
            if size > 1.2 * chord > 0:
                slope *= 1.2 * chord / size
        t = np.linspace(0, 1, max(2, int(chord / 3)), endpoint=False)[:, None]
        near = a * (2 * t**3 - 3 * t**2 + 1) + leave * (t**3 - 2 * t**2 + t)
        out.append(near + b * (3 * t**2 - 2 * t**3) + arrive * (t**3 - t**2))
    if not closed:
        out.append(points[-1:])
    return np.concatenate(out)
