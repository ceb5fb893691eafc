# SPDX-License-Identifier: GPL-3.0-or-later
"""Effect lines: bursts, speed lines and focus lines made from a few numbers. Knows nothing of pages or panels."""

import math
from typing import Literal

import cv2
import msgspec
import numpy as np

from drip_pot.core.arrays import F64, I64, U8
from drip_pot.core.errors import BadInput

KINDS = ("burst", "speed", "focus")


class Effect(msgspec.Struct, frozen=True):
    """A set of effect lines.

    Parameters
    ----------
    kind : str
        'burst' (from the middle outwards), 'speed' (side by side) or 'focus' (from the edge inwards).
    shape : tuple of (row, col)
        Corners of what they fill, in page pixels, at least three.
    row, col : float
        The middle of a burst or focus; for speed lines, where they are longest.
    clear_px : float
        Radius kept clear about the middle (burst, focus), 0 or more.
    turn_deg : float
        Direction of speed lines, clockwise from rightwards; of the first line otherwise.
    count : int
        Lines, 1..2000.
    length : float
        Share of the way they cover, 0.02..1.
    weight_px : float
        Width at the thick end, 0.5..200.
    jitter : float
        Unevenness of place, length and weight, 0..1.
    seed : int
        Another number, another throw of the same lines.
    color : str
        '#rrggbb'.
    fade : float
        How much they fade out towards their thin ends, 0..1; 1 is wholly.
    """

    kind: Literal["burst", "speed", "focus"]
    shape: tuple[tuple[float, float], ...]
    row: float
    col: float
    clear_px: float = 0.0
    turn_deg: float = 0.0
    count: int = 80
    length: float = 0.7
    weight_px: float = 8.0
    jitter: float = 0.4
    seed: int = 1
    color: str = "#000000"
    fade: float = 0.0

    def __post_init__(self) -> None:
        if len(self.shape) < 3:
            raise BadInput("Effect lines need a shape of at least three corners to fill.")
        if not (1 <= self.count <= 2000 and 0.02 <= self.length <= 1 and 0.5 <= self.weight_px <= 200):
            raise BadInput("Effect lines: 1 to 2000 of them, 2 to 100 % long, 0.5 to 200 px wide.")
        if not (0 <= self.jitter <= 1 and 0 <= self.fade <= 1 and self.clear_px >= 0):
            raise BadInput("Effect lines: jitter and fade go from 0 to 100 %, the clear middle from 0 px.")


def draw_effect(effect: Effect, shape: tuple[int, int]) -> U8:
    """Draw effect lines.

    Parameters
    ----------
    effect : Effect
        What to draw.
    shape : tuple of int
        Rows and columns of the page.

    Returns
    -------
    (M, N) ndarray of uint8
        Anti-aliased coverage, 0 outside the effect's own shape. The same effect gives the same bytes.
    """
    top, left, pixels = effect_box(effect, shape)
    ink = np.zeros(shape, np.uint8)
    ink[top : top + pixels.shape[0], left : left + pixels.shape[1]] = pixels
    return ink


def effect_box(effect: Effect, shape: tuple[int, int]) -> tuple[int, int, U8]:
    """Draw effect lines as `draw_effect` does, on the smallest piece of a page of `shape` that holds them.

    Returns its top and left, and its coverage, (M, N) uint8 of 0..255; beside the page one empty pixel of it.
    """
    corners = np.array(effect.shape, np.float64)
    low = np.clip(np.floor(corners.min(axis=0)) - 1, 0, (shape[0] - 1, shape[1] - 1)).astype(int)
    high = np.clip(np.ceil(corners.max(axis=0)) + 2, low + 1, shape).astype(int)
    size = high[0] - low[0], high[1] - low[1]
    ink, inside = np.zeros(size, np.uint8), np.zeros(size, np.uint8)
    cv2.fillPoly(inside, [np.rint((corners - low)[:, ::-1] * 16).astype(np.int32)], 255, cv2.LINE_AA, 4)
    rng = np.random.default_rng(effect.seed)
    wedges = _parallel(effect, corners, rng) if effect.kind == "speed" else _radial(effect, corners, rng)
    for start, end, thick in wedges:
        side = end - start
        length = float(np.hypot(*side))
        if length < 1:
            continue
        normal = np.array([-side[1], side[0]]) / length * thick / 2
        wedge = (np.array([start + normal, end, start - normal]) - low)[:, ::-1]
        cv2.fillConvexPoly(ink, np.rint(wedge * 16).astype(np.int32), 255, cv2.LINE_AA, 4)
    ink = np.asarray(cv2.min(ink, inside), np.uint8)
    return int(low[0]), int(low[1]), _faded(ink, effect, corners, low) if effect.fade > 0 else ink


def _faded(ink: U8, effect: Effect, corners: F64, low: I64) -> U8:
    """Return coverage, (M, N) uint8 from page pixel `low` on, that is lost towards the thin ends."""
    row = np.arange(ink.shape[0], dtype=np.float32)[:, None] + np.float32(low[0])
    col = np.arange(ink.shape[1], dtype=np.float32)[None, :] + np.float32(low[1])
    if effect.kind == "speed":
        angle = math.radians(effect.turn_deg)
        far = corners @ np.array([math.sin(angle), math.cos(angle)])
        way = (row * math.sin(angle) + col * math.cos(angle) - far.min()) / max(float(np.ptp(far)), 1.0)
    else:
        away = np.hypot(row - effect.row, col - effect.col) - effect.clear_px
        far = np.hypot(*(corners - (effect.row, effect.col)).T) - effect.clear_px
        way = away / max(float(far.max()), 1.0)
        way = 1 - way if effect.kind == "focus" else way
    share = 1 - effect.fade * np.clip(way / effect.length, 0, 1)
    return np.asarray(np.rint(ink * share), np.uint8)


def _radial(effect: Effect, corners: F64, rng: np.random.Generator) -> list[tuple[F64, F64, float]]:
    """Thick end, thin end and thickness of lines about the middle."""
    middle = np.array([effect.row, effect.col])
    far = float(np.hypot(*(corners - middle).T).max()) + effect.weight_px
    wedges = []
    for k in range(effect.count):
        stray, short, thin = rng.normal(0, 0.5), rng.random(), rng.random()
        angle = math.radians(effect.turn_deg) + 2 * math.pi * (k + stray * effect.jitter) / effect.count
        way = np.array([math.sin(angle), math.cos(angle)])
        edge = _to_edge(corners, middle, way) or far
        room = max(edge - effect.clear_px, 0.0)
        reach = room * effect.length * (1 - 0.6 * effect.jitter * short)
        thick = effect.weight_px * (1 - 0.7 * effect.jitter * thin)
        inner, outer = middle + way * effect.clear_px, middle + way * (edge + effect.weight_px)
        if effect.kind == "burst":
            wedges.append((inner, middle + way * (effect.clear_px + reach), thick))
        else:
            wedges.append((outer, middle + way * (edge - reach), thick))
    return wedges


def _parallel(effect: Effect, corners: F64, rng: np.random.Generator) -> list[tuple[F64, F64, float]]:
    angle = math.radians(effect.turn_deg)
    along, across = np.array([math.sin(angle), math.cos(angle)]), np.array([math.cos(angle), -math.sin(angle)])
    u, v = corners @ along, corners @ across
    wedges = []
    for k in range(effect.count):
        stray, late, short, thin = rng.normal(0, 0.5), rng.random(), rng.random(), rng.random()
        at = v.min() + (k + 0.5 + stray * effect.jitter) / effect.count * (v.max() - v.min())
        reach = (u.max() - u.min()) * effect.length * (1 - 0.7 * effect.jitter * short)
        start = u.min() + effect.jitter * late * (u.max() - u.min() - reach) - effect.weight_px * (1 - effect.jitter)
        thick = effect.weight_px * (1 - 0.7 * effect.jitter * thin)
        wedges.append((along * start + across * at, along * (start + reach) + across * at, thick))
    return wedges


def _to_edge(corners: F64, start: F64, way: F64) -> float | None:
    """Distance from a point to the edge of a polygon in a direction, the farthest crossing; None if it misses."""
    a, b = corners, np.roll(corners, -1, axis=0)
    side, gap = b - a, a - start
    cross = way[0] * side[:, 1] - way[1] * side[:, 0]
    safe = np.where(np.abs(cross) < 1e-9, 1.0, cross)
    t = (gap[:, 0] * side[:, 1] - gap[:, 1] * side[:, 0]) / safe
    s = (gap[:, 0] * way[1] - gap[:, 1] * way[0]) / safe
    hit = (np.abs(cross) >= 1e-9) & (t > 0) & (s >= 0) & (s <= 1)
    return float(t[hit].max()) if hit.any() else None
