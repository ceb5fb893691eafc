"""A pen that draws shapes and strokes with weight into a page of ink coverage. Knows nothing of what is drawn.

Drawing units: the page is 1000 wide and 1518 high, y down. A shape covers what lies under it (it is erased
first), so drawing order is depth. Lines are heavier below and to the right, away from the light.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import cv2
import numpy as np

from drip_pot.core.arrays import F64, U8

WIDE, HIGH = 1000.0, 1518.0
_SHIFT = 6

Points = Sequence[tuple[float, ...]]


@dataclass(frozen=True)
class Gap:
    """A planted break in the line: middle (row, col) in pixels and width in pixels."""

    row: float
    col: float
    width_px: float


@dataclass(frozen=True)
class Frame:
    """Where local drawing coordinates lie on the page: scale, flip and offset."""

    x: float = 0.0
    y: float = 0.0
    scale: float = 1.0
    turn_deg: float = 0.0
    flip: bool = False

    def place(self, points: F64) -> F64:
        """Move (K, 2) local x, y to the page."""
        local = points * [-1.0 if self.flip else 1.0, 1.0]
        angle = math.radians(self.turn_deg)
        turn = np.array([[math.cos(angle), math.sin(angle)], [-math.sin(angle), math.cos(angle)]])
        return np.asarray(local @ turn * self.scale + [self.x, self.y])


class Pen:
    """Draws on one page.

    Parameters
    ----------
    dpi : float
        Resolution; at 600 the page is 4125 × 6262 px.
    seed : int
        For the slight wobble of the hand.
    """

    def __init__(self, dpi: float, seed: int = 7) -> None:
        self.px = 4.125 * dpi / 600
        self.ink: U8 = np.zeros((round(HIGH * self.px), round(WIDE * self.px)), np.uint8)
        self.pots: list[str] = ["Paper"]
        self.pot_plane: U8 = np.zeros_like(self.ink)
        self.shade_plane: U8 = np.zeros_like(self.ink)
        self.frame = Frame()
        self.weight = 1.0
        self.gaps: list[Gap] = []
        self._breaks: list[tuple[F64, F64, float, float]] = []
        self._rng = np.random.default_rng(seed)
        self._pot = 0
        self._depth = 0.0
        self._mask: U8 | None = None
        self._below: tuple[U8, U8, U8] | None = None

    def use(self, pot: str, shade: float = 0.0) -> None:
        """Give the shapes that follow a pot, and a shadow on the side away from the light, so many units deep."""
        if pot not in self.pots:
            self.pots.append(pot)
        self._pot = self.pots.index(pot)
        self._depth = shade

    def begin_panel(self, corners: Points, pot: str) -> None:
        """Draw inside a panel filled with `pot` from now on; nothing shows outside it."""
        self._below = self.ink.copy(), self.pot_plane.copy(), self.shade_plane.copy()
        self._mask = np.zeros_like(self.ink)
        cv2.fillPoly(
            self._mask, [self._fixed(self._path(corners, smooth=False, closed=True))], 255, cv2.LINE_AA, _SHIFT
        )
        self._border = corners
        self.frame = Frame()
        self.use(pot)
        self.pot_plane[self._mask > 0] = self._pot

    def end_panel(self) -> None:
        """Close the panel and draw its border."""
        assert self._mask is not None
        assert self._below is not None
        part = self._mask.astype(np.uint16)
        ink, pots, shade = self._below
        self.ink = ((self.ink * part + ink * (255 - part) + 127) // 255).astype(np.uint8)
        self.pot_plane = np.where(part > 0, self.pot_plane, pots)
        self.shade_plane = np.where(part > 0, self.shade_plane, shade)
        self._mask = self._below = None
        self.frame = Frame()
        closed = [*self._border, self._border[0]]
        for a, b in pairwise(closed):
            self.stroke([a, b], 4.6, taper=(1, 1), wobble=0)

    def shape(
        self,
        points: Points,
        width: float = 2.6,
        *,
        smooth: bool = True,
        fill: bool = True,
        gap: tuple[float, float] | None = None,
    ) -> None:
        """Draw a closed shape; a point (x, y, 1) is a corner. `gap` plants a break: (place 0..1, width in px)."""
        path = self._path(points, smooth=smooth, closed=True)
        if fill:
            cv2.fillPoly(self.ink, [self._fixed(path)], 0, cv2.LINE_AA, _SHIFT)
            self._color(path)
        self._line(path, width, (1.0, 1.0), shaded=True, closed=True)
        if gap:
            self._plant(path, *gap)

    def _color(self, path: F64) -> None:
        whole = np.rint(path).astype(np.int32)
        cv2.fillPoly(self.pot_plane, [whole], self._pot)
        left, top = np.maximum(whole.min(axis=0), 0)
        right, bottom = whole.max(axis=0) + 1
        if right <= left or bottom <= top:
            return
        inside = np.zeros((bottom - top, right - left), np.uint8)
        lit = np.zeros_like(inside)
        cv2.fillPoly(inside, [whole - [left, top]], 1)
        if self._depth:
            step = 1.5 * self._depth * self.frame.scale * self.px
            cv2.fillPoly(lit, [np.rint(path - [left + step, top + 0.55 * step]).astype(np.int32)], 1)
        piece = self.shade_plane[top:bottom, left:right]
        inside = inside[: piece.shape[0], : piece.shape[1]] > 0
        piece[inside] = (1 - lit[: piece.shape[0], : piece.shape[1]])[inside] if self._depth else 0

    def black(self, points: Points, *, smooth: bool = True) -> None:
        """Fill a shape with solid black."""
        path = self._path(points, smooth=smooth, closed=True)
        cv2.fillPoly(self.ink, [self._fixed(path)], 255, cv2.LINE_AA, _SHIFT)

    def white(self, points: Points, *, smooth: bool = True) -> None:
        """Erase inside a shape."""
        path = self._path(points, smooth=smooth, closed=True)
        cv2.fillPoly(self.ink, [self._fixed(path)], 0, cv2.LINE_AA, _SHIFT)

    def stroke(
        self, points: Points, width: float = 2.2, *, taper: tuple[float, float] = (0.25, 0.1), wobble: float = 1.0
    ) -> None:
        """Draw an open stroke through points; `taper` is the relative width at its start and end."""
        path = self._path(points, smooth=True, closed=False, wobble=wobble)
        self._line(path, width, taper, shaded=False, closed=False)

    def dot(self, x: float, y: float, radius: float) -> None:
        """Draw a round dot."""
        (at,) = self.frame.place(np.array([[x, y]])) * self.px
        self._disc(at, max(radius * self.frame.scale * self.px, 0.6))

    def _path(self, points: Points, *, smooth: bool, closed: bool, wobble: float = 1.0) -> F64:
        raw = [(float(p[0]), float(p[1])) for p in points]
        corner = [len(p) > 2 or not smooth for p in points]
        placed = self.frame.place(np.array(raw)) * self.px
        path = _spline(placed, corner, closed)
        return path + self._wobble(len(path)) * wobble * min(self.px, 4.0) * 0.22

    def _wobble(self, count: int) -> F64:
        knots = max(4, count // 24)
        noise = self._rng.normal(0, 1, (knots, 2))
        at = np.linspace(0, knots - 1, count)
        low = np.minimum(at.astype(int), knots - 2)
        part = (1 - np.cos((at - low) * np.pi))[:, None] / 2
        return np.asarray(noise[low] * (1 - part) + noise[low + 1] * part)

    def _line(self, path: F64, width: float, taper: tuple[float, float], *, shaded: bool, closed: bool) -> None:
        if closed:
            path = np.vstack([path, path[:1]])
        step = np.diff(path, axis=0)
        length = np.maximum(np.hypot(*step.T), 1e-9)
        normal = np.stack([-step[:, 1], step[:, 0]], axis=1) / length[:, None]
        normal = np.vstack([normal, normal[-1:]])
        base = width * self.weight * self.px * 0.5 * max(0.55, min(1.0, self.frame.scale) ** 0.5)
        radius = np.full(len(path), base)
        if shaded:
            area = float(np.sum(path[:-1, 0] * path[1:, 1] - path[1:, 0] * path[:-1, 1]))
            outward = -normal * np.sign(area or 1)
            radius *= 0.78 + 0.5 * np.clip(outward @ np.array([0.5, 0.86]), 0, 1)
            radius = _smoothed(radius)
        else:
            place = np.concatenate([[0], np.cumsum(length)]) / length.sum()
            swell = np.sin(np.pi * np.clip(place, 0, 1)) ** 0.6
            ends = taper[0] * (1 - place) + taper[1] * place
            radius *= ends + (1 - ends) * swell
        radius = np.maximum(radius, 0.55)
        left, right = path + normal * radius[:, None], path - normal * radius[:, None]
        quads = np.rint(np.stack([left[:-1], left[1:], right[1:], right[:-1]], axis=1) * (1 << _SHIFT)).astype(np.int32)
        for quad in quads:
            cv2.fillConvexPoly(self.ink, quad, 255, cv2.LINE_AA, _SHIFT)
        for at, r in zip(path, radius, strict=True):
            self._disc(at, r)

    def _disc(self, at: F64, radius: float) -> None:
        scale = 1 << _SHIFT
        center = (round(float(at[0]) * scale), round(float(at[1]) * scale))
        cv2.circle(self.ink, center, round(radius * scale), 255, -1, cv2.LINE_AA, _SHIFT)

    def _fixed(self, path: F64) -> np.ndarray[tuple[int, int], np.dtype[np.int32]]:
        return np.rint(path * (1 << _SHIFT)).astype(np.int32)

    def _plant(self, path: F64, place: float, width_px: float) -> None:
        at = int(place * len(path)) % len(path)
        tangent = path[(at + 2) % len(path)] - path[at - 2]
        tangent = tangent / max(float(np.hypot(*tangent)), 1e-9)
        self._breaks.append((path[at], tangent, width_px, 9.0 * self.px))

    def break_lines(self) -> None:
        """Open every planted gap in the finished drawing."""
        for at, tangent, width_px, half in self._breaks:
            normal = np.array([-tangent[1], tangent[0]])
            corners = [
                at + tangent * width_px / 2 * s + normal * half / 2 * t for s, t in ((-1, -1), (1, -1), (1, 1), (-1, 1))
            ]
            cv2.fillConvexPoly(self.ink, self._fixed(np.array(corners)), 0, cv2.LINE_AA, _SHIFT)
            self.gaps.append(Gap(float(at[1]), float(at[0]), width_px))


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
        out.append(
            a * (2 * t**3 - 3 * t**2 + 1)
            + leave * (t**3 - 2 * t**2 + t)
            + b * (3 * t**2 - 2 * t**3)
            + arrive * (t**3 - t**2)
        )
    if not closed:
        out.append(points[-1:])
    return np.concatenate(out)
