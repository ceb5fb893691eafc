# SPDX-License-Identifier: GPL-3.0-or-later
"""What the line says about each bridge, seen in the bridge's own frame. Knows planes and bridges; decides nothing."""

import numpy as np

from drip_pot.core.arrays import F32, F64, I16, U8
from drip_pot.core.near import close_pairs
from drip_pot.core.regions.clefts import DEPTH_SCALE
from drip_pot.core.regions.gaps import EVIDENCE, Bridges
from drip_pot.core.regions.rays import depth_at, looked_up
from drip_pot.core.strips import in_pieces

_BEHIND = (0.0, 0.5, 1.0, 2.0, 4.0)
_ACROSS = (-6.0, -4.0, -2.5, -1.5, -0.75, 0.0, 0.75, 1.5, 2.5, 4.0, 6.0)
_RINGS, _TURNS = (4.0, 10.0), 12
_INK_AT, _INK_ACROSS = (0.1, 0.3, 0.5, 0.7, 0.9), (-1.0, 0.0, 1.0)
_UNDER = (0.3, 0.7, 1.2, 2.0)
_PIECE = 1024
LOCAL = (2 * len(_BEHIND) + 3) * len(_ACROSS) + len(_RINGS) * _TURNS + 2 * len(_INK_AT) + 12 + len(EVIDENCE)


def local_evidence(ink: U8, depth: I16, bridges: Bridges, line_px: float) -> F32:
    """Describe the surroundings of every bridge.

    Parameters
    ----------
    ink : (M, N) ndarray of uint8
        Coverage; what is too pale to be line still tells.
    depth : (M, N) ndarray of int16
        Of the same page, from `find_clefts`.
    bridges : Bridges
        What is described.
    line_px : float
        Usual line width.

    Returns
    -------
    (B, LOCAL) ndarray of float32
        Ratios of gap, thickness of the strokes behind both feet and line width; rivals at the feet; a grid of the
        distance to the edge of the ink behind both feet and between them; the same on two rings around the middle;
        coverage along the bridge; what `find_bridges` knew.

    Notes
    -----
    The frame lies along the feet, the thicker stroke first, the roomier side up. Its unit is the thickness of the
    thinner stroke, at most three line widths, and a quarter of the gap.
    """
    line = max(line_px, 1.0)
    if len(bridges) == 0:
        return np.zeros((0, LOCAL), np.float32)
    rivals = _rivals(bridges, line)

    def describe(some: slice) -> F32:
        feet, known = bridges.feet[some].astype(np.float64), bridges.evidence[some]
        return _described(ink, depth, feet, rivals[some], np.clip(known, -20, 20), line)

    return np.concatenate(in_pieces(describe, len(bridges), _PIECE))


def _described(ink: U8, depth: I16, feet: F64, rivals: F64, known: F64, line: float) -> F32:
    """Evidence of some bridges, from their feet, (B, 4)."""
    count, a, b = len(feet), feet[:, :2], feet[:, 2:]
    gap = np.maximum(np.hypot(*(b - a).T), 1.0)
    way = (b - a) / gap[:, None]
    thick_a, thick_b = _thickness(depth, a, -way, line), _thickness(depth, b, way, line)
    swap = thick_b > thick_a
    a, b = np.where(swap[:, None], b, a), np.where(swap[:, None], a, b)
    way = np.where(swap[:, None], -way, way)
    thick, thin = np.maximum(thick_a, thick_b), np.minimum(thick_a, thick_b)
    unit = np.clip(thin, 0.5, 3 * line) + gap / 4
    middle, across = (a + b) / 2, np.stack([-way[:, 1], way[:, 0]], axis=1)
    out = unit[:, None] * across
    room = [depth_at(depth, middle + 1.5 * side * out) + depth_at(depth, middle + 3 * side * out) for side in (1, -1)]
    across = np.where((room[0] < room[1])[:, None], -across, across)
    along = [-gap[:, None] / 2 - unit[:, None] * np.array(_BEHIND), gap[:, None] * np.array([-0.25, 0.0, 0.25]),
             gap[:, None] / 2 + unit[:, None] * np.array(_BEHIND)]  # fmt: skip
    grid = _grid(depth, middle, way, across, np.concatenate(along, axis=1), unit[:, None] * np.array(_ACROSS))
    parts = [np.clip(grid / unit[:, None], -4, 4)]
    angle = np.arange(_TURNS) * 2 * np.pi / _TURNS
    for reach in _RINGS:
        ring = middle[:, None] + reach * line * (
            np.cos(angle)[None, :, None] * way[:, None] + np.sin(angle)[None, :, None] * across[:, None]
        )
        parts.append(np.clip(depth_at(depth, ring.reshape(-1, 2)).reshape(count, -1) / (reach * line), -2, 2))
    spots = _between(a, b, across)
    seen = _coverage(ink, spots.reshape(-1, 2)).reshape(count, len(_INK_AT), len(_INK_ACROSS))
    parts += [seen.max(axis=2), seen[:, :, len(_INK_ACROSS) // 2]]
    parts += [_ratios(gap, thick, thin, unit, line), rivals, known]
    return np.concatenate(parts, axis=1).astype(np.float32)


def _thickness(depth: I16, foot: F64, inward: F64, line: float) -> F64:
    """Thickness of the stroke behind each foot: twice the greatest depth a little way in."""
    most = np.zeros(len(foot))
    for share in _UNDER:
        most = np.maximum(most, -depth_at(depth, foot + share * line * inward))
    return 2 * most


def _grid(depth: I16, middle: F64, way: F64, across: F64, along: F64, aside: F64) -> F32:
    """Distances at every place along and across each frame, (B, places)."""
    row, col = (
        middle[:, k, None, None].astype(np.float32)
        + (along * way[:, k, None]).astype(np.float32)[:, :, None]
        + (aside * across[:, k, None]).astype(np.float32)[:, None, :]
        for k in (0, 1)
    )
    return looked_up(depth, row, col).reshape(len(middle), -1).astype(np.float32) * np.float32(1 / DEPTH_SCALE)


def _between(a: F64, b: F64, across: F64) -> F64:
    """Positions along each bridge and a pixel to both sides, (B, 5, 3, 2)."""
    t = np.array(_INK_AT)[None, :, None]
    line = a[:, None] * (1 - t) + b[:, None] * t
    return np.asarray(line[:, :, None] + np.array(_INK_ACROSS)[None, None, :, None] * across[:, None, None])


def _coverage(ink: U8, at: F64) -> F64:
    return np.asarray(looked_up(ink, at[:, 0], at[:, 1]) / 255.0, np.float64)


def _ratios(gap: F64, thick: F64, thin: F64, unit: F64, line: float) -> F64:
    columns = [
        gap / line, np.log(gap / line), gap / np.maximum(thin, 1), gap / np.maximum(thick, 1),
        thin / line, thick / line, thin / np.maximum(thick, 0.5), unit / line,
        np.full(len(gap), np.log(line)), np.log(gap),
    ]  # fmt: skip
    return np.asarray(np.clip(np.stack(columns, axis=1), -20, 20), np.float64)


def _rivals(bridges: Bridges, line: float) -> F64:
    """How much shorter the shortest other bridge near either foot is, and how many lie near the middle, (B, 2)."""
    feet, count = bridges.feet.reshape(-1, 2), len(bridges)
    gap = np.maximum(np.hypot(*(bridges.feet[:, 2:] - bridges.feet[:, :2]).T), 1.0)
    middle = (bridges.feet[:, :2] + bridges.feet[:, 2:]) / 2
    near = close_pairs(feet, 2.0 * line + 4)
    one, two = near[:, 0] // 2, near[:, 1] // 2
    other = one != two
    shortest = np.full(count, 4.0)
    np.minimum.at(shortest, one[other], np.log(gap[two[other]] / gap[one[other]]))
    np.minimum.at(shortest, two[other], np.log(gap[one[other]] / gap[two[other]]))
    crowd = 1 + np.bincount(close_pairs(middle, 3 * line + 6).ravel(), minlength=count)
    return np.asarray(np.clip(np.stack([shortest, np.minimum(crowd, 12)], axis=1), -20, 20))
