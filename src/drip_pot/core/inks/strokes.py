# SPDX-License-Identifier: GPL-3.0-or-later
"""Contour told from detail: strokes that bound nothing. Knows coverage only."""

from dataclasses import dataclass

import cv2
import numpy as np
import scipy

from drip_pot.core.arrays import U8, Rect, check_plane

_FAINT = 40
_NEAR_WIDTHS = 6.0
_ALIKE = np.cos(2 * np.radians(25))


@dataclass(frozen=True)
class Texture:
    """Strokes that belong together: a pixel of each (row, col), and the box round all."""

    spots: tuple[tuple[int, int], ...]
    rect: Rect


def find_textures(ink: U8, line_px: float) -> list[Texture]:
    """Find hatching and texture: loose, slender strokes that stand in groups.

    Parameters
    ----------
    ink : (M, N) ndarray of uint8
        Coverage of the contour.
    line_px : float
        Usual line width.

    Returns
    -------
    list of Texture
        Largest group first. A stroke is a connected piece of ink that encloses nothing, is two line widths long or
        more, at least 2.5 times as long as wide, and thin; three or more of them that run alike, each within six
        line widths of another, are a texture. Strokes that stand near and run otherwise are the features of a face.

    Raises
    ------
    BadInput
        If an array has another shape or type.
    """
    check_plane(ink, np.uint8, "ink")
    contours, tree = cv2.findContours((ink > _FAINT).view(np.uint8), cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
    if tree is None:
        return []
    line_px = max(line_px, 1.0)
    strokes = []
    for outline, (_, _, child, parent) in zip(contours, tree[0].tolist(), strict=True):
        if parent >= 0 or child >= 0 or len(outline) > 400 * line_px:
            continue
        way, area = len(outline) / 2, max(cv2.contourArea(outline), 1.0)
        if way >= 2 * line_px and area / way <= 1.6 * line_px and way**2 / area >= 2.5:
            strokes.append(outline[:, 0, ::-1])
    return _groups(strokes, line_px)


def _groups(strokes: list[np.ndarray], line_px: float) -> list[Texture]:
    if not strokes:
        return []
    points = np.concatenate([s[:: max(1, round(line_px))] for s in strokes])
    owner = np.concatenate([np.full(len(s[:: max(1, round(line_px))]), k) for k, s in enumerate(strokes)])
    pairs = scipy.spatial.cKDTree(points).query_pairs(_NEAR_WIDTHS * line_px, output_type="ndarray")
    root = list(range(len(strokes)))

    def find(k: int) -> int:
        while root[k] != k:
            root[k] = root[root[k]]
            k = root[k]
        return k

    way = np.array([_way(stroke) for stroke in strokes])
    links = owner[pairs]
    links = links[np.cos(2 * (way[links[:, 0]] - way[links[:, 1]])) >= _ALIKE]
    for a, b in np.unique(links[links[:, 0] != links[:, 1]], axis=0).tolist():
        root[find(a)] = find(b)
    members: dict[int, list[int]] = {}
    for k in range(len(strokes)):
        members.setdefault(find(k), []).append(k)
    found = []
    for group in members.values():
        if len(group) < 3:
            continue
        every = np.concatenate([strokes[k] for k in group])
        low, high = every.min(axis=0), every.max(axis=0) + 1
        spots = tuple((int(strokes[k][0, 0]), int(strokes[k][0, 1])) for k in group)
        found.append(Texture(spots, (int(low[0]), int(low[1]), int(high[0]), int(high[1]))))
    return sorted(found, key=lambda t: (-len(t.spots), t.spots))


def _way(stroke: np.ndarray) -> float:
    """Return the angle that a stroke runs at, in radians, by the longest axis of its outline, (N, 2)."""
    away = stroke - stroke.mean(axis=0)
    (rows, both), (_, cols) = away.T @ away
    return float(0.5 * np.arctan2(2 * both, rows - cols))


def split_strokes(ink: U8, spots: tuple[tuple[int, int], ...]) -> tuple[U8, U8]:
    """Part the ink into contour and detail.

    Parameters
    ----------
    ink : (M, N) ndarray of uint8
        Coverage.
    spots : tuple of (row, col)
        A pixel of each piece of ink that is detail; spots without ink are passed over.

    Returns
    -------
    contour, detail : (M, N) ndarrays of uint8
        They add up to `ink`.

    Raises
    ------
    BadInput
        If an array has another shape or type.
    """
    check_plane(ink, np.uint8, "ink")
    contour, detail = ink.copy(), np.zeros_like(ink)
    _, labels = cv2.connectedComponents((ink > _FAINT).view(np.uint8), connectivity=8, ltype=cv2.CV_32S)
    inside = [(r, c) for r, c in spots if 0 <= r < ink.shape[0] and 0 <= c < ink.shape[1] and labels[r, c]]
    chosen = np.zeros(int(labels.max()) + 1, bool)
    chosen[[int(labels[r, c]) for r, c in inside]] = True
    own = chosen[labels].view(np.uint8)
    soft = (cv2.dilate(own, np.ones((3, 3), np.uint8)) > 0) & ((labels == 0) | (own > 0))
    detail[soft] = ink[soft]
    contour[soft] = 0
    return contour, detail
