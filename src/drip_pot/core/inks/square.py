# SPDX-License-Identifier: GPL-3.0-or-later
"""A drawing photographed at a slant, laid square by the four corners of its paper. Knows pictures alone."""

import math

import cv2
import msgspec
import numpy as np

from drip_pot.core.arrays import F64, U8, Gray
from drip_pot.core.errors import BadInput

_FAR, _LARGEST, _SMALLEST, _MOST_PX = 100_000.0, 30_000, 16, 160_000_000
_FOCAL, _USUAL_FOCAL, _PARALLEL = (0.7, 1.8), 1.0, 1e-3
"""Focal lengths over the longer side of a picture."""
_SIDE, _LEAST, _MOST, _FULL, _DARKER, _SLANT_DEG, _RIM, _OFF_EDGE = 640, 0.25, 0.985, 0.95, 30, 0.7, 2.0, 0.012


class Square(msgspec.Struct, frozen=True):
    """Where the paper lies in a photograph.

    Parameters
    ----------
    corners : tuple of (row, col)
        Its corners in pixels of the photograph: the drawing's top left, top right, bottom right, bottom left.
    rows, cols : int
        How large it becomes, 16..30 000.
    photograph : tuple of int
        Rows and columns of the photograph, whose middle the lens looked at.
    """

    corners: tuple[tuple[float, float], ...]
    rows: int
    cols: int
    photograph: tuple[int, int] = (0, 0)

    def __post_init__(self) -> None:
        points = np.array(self.corners, np.float64)
        if points.shape != (4, 2) or not np.isfinite(points).all() or np.abs(points).max() > _FAR:
            raise BadInput("Paper has four corners, that lie in the photograph or near it.")
        if not (_SMALLEST <= self.rows <= _LARGEST and _SMALLEST <= self.cols <= _LARGEST):
            raise BadInput("A squared drawing has sides of {0} to {1} px.", _SMALLEST, _LARGEST)
        if self.rows * self.cols > _MOST_PX:
            raise BadInput("A squared drawing has up to {0:.0f} megapixels.", _MOST_PX / 1e6)
        ahead = np.roll(points, -1, axis=0) - points
        turns = ahead[:, 0] * np.roll(ahead, -1, axis=0)[:, 1] - ahead[:, 1] * np.roll(ahead, -1, axis=0)[:, 0]
        if not (turns < -1.0).all():
            raise BadInput("The corners of the paper must go round it, clockwise, without crossing.")

    def way(self) -> F64:
        """Return the way from (col, row) of the squared drawing to the photograph, 3 × 3 float64."""
        there = np.array(self.corners, np.float64)[:, ::-1] + 0.5
        here = np.array([(0, 0), (self.cols, 0), (self.cols, self.rows), (0, self.rows)], np.float64)
        return np.asarray(cv2.getPerspectiveTransform(here.astype(np.float32), there.astype(np.float32)), np.float64)

    def in_photograph(self, points: F64) -> F64:
        """Return where places (K, 2), row and col, of the squared drawing lie in the photograph, (K, 2) float64."""
        flat = np.ascontiguousarray(points[:, ::-1] + 0.5, np.float64)[None]
        return np.asarray(cv2.perspectiveTransform(flat, self.way())[0, :, ::-1] - 0.5)


def squared(plane: Gray, square: Square, fill: int) -> Gray:
    """Return a photograph's plane, (M, N) or (M, N, 3) uint8 or uint16, laid square; beyond it lies `fill`."""
    half = np.array([[1, 0, 0.5], [0, 1, 0.5], [0, 0, 1]])
    way = np.linalg.inv(half) @ square.way() @ half
    return np.asarray(
        cv2.warpPerspective(
            plane, way, (square.cols, square.rows), flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
            borderMode=cv2.BORDER_CONSTANT, borderValue=(fill,) * 4,
        ),
        plane.dtype,
    )  # fmt: skip


def squared_by(corners: F64, shape: tuple[int, int]) -> Square:
    """Return how paper with such corners, (4, 2) float64 (row, col), is laid square in its own proportions.

    Parameters
    ----------
    corners : (4, 2) ndarray of float64
        Top left, top right, bottom right, bottom left, in pixels of the photograph.
    shape : tuple of int
        Rows and columns of the photograph, whose middle the lens looked at.

    Raises
    ------
    BadInput
        If they are no corners of paper.

    Notes
    -----
    The proportions are those of Z. Zhang, L. He, "Whiteboard scanning and image enhancement", Digital Signal
    Processing 17, 2007; where the view is too flat to tell how far off the lens was, a usual one is taken. The longer
    side keeps its length.
    """
    high = max(math.dist(corners[0], corners[3]), math.dist(corners[1], corners[2]))
    wide = max(math.dist(corners[0], corners[1]), math.dist(corners[3], corners[2]))
    ratio = _proportion(corners, shape)
    ratio = ratio if 0.7 < ratio * high / max(wide, 1e-6) < 1.43 else wide / max(high, 1e-6)
    rows, cols = (high, high * ratio) if high >= wide else (wide / ratio, wide)
    points = tuple((round(float(r), 2), round(float(c), 2)) for r, c in corners)
    return Square(points, max(_SMALLEST, round(rows)), max(_SMALLEST, round(cols)), shape)


def _proportion(corners: F64, shape: tuple[int, int]) -> float:
    """Return the width of paper over its height, from its corners."""
    middle = np.array([shape[1] / 2, shape[0] / 2])
    a, b, d, c = (np.array([*(corners[k][::-1] + 0.5 - middle), 1.0]) for k in (0, 1, 2, 3))
    over_b = np.dot(np.cross(a, d), c) / (np.dot(np.cross(b, d), c) or 1e-12)
    over_c = np.dot(np.cross(a, d), b) / (np.dot(np.cross(c, d), b) or 1e-12)
    wide, high = over_b * b - a, over_c * c - a
    told = abs(wide[2] * high[2]) > _PARALLEL  # else one pair of sides is as good as parallel
    focal = (_USUAL_FOCAL * max(shape)) ** 2
    focal = -(wide[0] * high[0] + wide[1] * high[1]) / (wide[2] * high[2]) if told else focal
    nearest, farthest = (of * max(shape) for of in _FOCAL)
    focal = min(max(focal, nearest**2), farthest**2)
    scale = np.array([1 / focal, 1 / focal, 1.0])
    return float(math.sqrt((wide**2 * scale).sum() / (high**2 * scale).sum()))


def find_paper(gray: U8) -> F64 | None:
    """Find paper photographed at a slant on something darker.

    Parameters
    ----------
    gray : (M, N) ndarray of uint8
        The photograph.

    Returns
    -------
    (4, 2) ndarray of float64, or None
        Its corners (row, col): top left, top right, bottom right, bottom left; None where the picture is no such
        photograph, or the paper lies square in it already.
    """
    scale = max(1.0, max(gray.shape) / _SIDE)
    size = max(1, round(gray.shape[1] / scale)), max(1, round(gray.shape[0] / scale))
    small = cv2.medianBlur(np.asarray(cv2.resize(gray, size, interpolation=cv2.INTER_AREA), np.uint8), 5)
    _, light = cv2.threshold(small, 0, 1, cv2.THRESH_BINARY + cv2.THRESH_OTSU)
    side = max(3, round(min(size) * 0.04)) | 1
    light = cv2.morphologyEx(light, cv2.MORPH_CLOSE, np.ones((side, side), np.uint8))
    found, _ = cv2.findContours(light, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    if not found:
        return None
    hull = cv2.convexHull(max(found, key=cv2.contourArea))
    area = float(cv2.contourArea(hull))
    if not _LEAST * small.size <= area <= _MOST * small.size:
        return None
    quad = cv2.approxPolyN(hull, 4, ensure_convex=True).reshape(-1, 2).astype(np.float64)
    if len(quad) != 4 or area < _FULL * cv2.contourArea(quad.astype(np.float32)):
        return None
    rim = np.minimum(quad, np.array([small.shape[1], small.shape[0]]) - 1 - quad).min(axis=1)
    if (rim < _OFF_EDGE * min(small.shape)).sum() > 1:  # a shadow over paper that fills the picture
        return None
    inside = np.zeros(small.shape, np.uint8)
    cv2.fillConvexPoly(inside, np.rint(quad).astype(np.int32), 1)
    if not inside.any() or inside.all():
        return None
    if np.median(small[inside > 0]) < np.median(small[inside == 0]) + _DARKER:
        return None
    first = int(np.argmin(quad.sum(axis=1)))
    quad = np.roll(quad, -first, axis=0)
    if quad[1, 1] > quad[3, 1]:  # the other way round
        quad = quad[[0, 3, 2, 1]]
    sides = np.roll(quad, -1, axis=0) - quad
    lean = [abs((math.degrees(math.atan2(y, x)) + 45) % 90 - 45) for x, y in sides.tolist()]
    if max(lean) < _SLANT_DEG:
        return None
    corners = (quad[:, ::-1] + 0.5) * scale - 0.5
    inwards = corners.mean(axis=0) - corners  # a little, so that no rim of what it lies on is left
    return np.asarray(corners + inwards / np.hypot(*inwards.T)[:, None] * (_RIM * scale + 1))
