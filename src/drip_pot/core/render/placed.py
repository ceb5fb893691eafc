# SPDX-License-Identifier: GPL-3.0-or-later
"""Pictures laid on the page: moved, turned, pulled by corners or by a mesh. Knows planes; nothing of files."""

import math
from dataclasses import dataclass
from functools import lru_cache

import cv2
import msgspec
import numpy as np

from drip_pot.core.arrays import F32, F64, U8, Bool
from drip_pot.core.errors import BadInput

MOST_CELLS, MOST_FLATS = 8, 32
_FAR, _HORIZON = 200_000.0, 0.02


class Placed(msgspec.Struct, frozen=True):
    """A picture and where it lies.

    Parameters
    ----------
    original, picture : int
        The picture's file in the book, and which picture of it.
    grid : tuple of (row, col)
        Where its corners, or the points of its mesh, lie in page pixels: row by row, `(down + 1) * (across + 1)` of
        them.
    across, down : int
        Cells of the mesh, 1..8; 1 and 1 is a picture pulled by its four corners, in perspective.
    flats : int
        How many flat colours it is reduced to, 2..32; 0 leaves it as it is.
    line : bool
        Whether its flats have a line round them.
    repeats : bool
        Whether it goes on and on over the page, as a pattern; its mesh has one cell then.
    """

    original: int
    grid: tuple[tuple[float, float], ...]
    picture: int = 0
    across: int = 1
    down: int = 1
    flats: int = 0
    line: bool = False
    repeats: bool = False

    def __post_init__(self) -> None:
        if not (1 <= self.across <= MOST_CELLS and 1 <= self.down <= MOST_CELLS):
            raise BadInput("A mesh has 1 to {0} cells a side, not {1} × {2}.", MOST_CELLS, self.across, self.down)
        if self.repeats and (self.across, self.down) != (1, 1):
            raise BadInput("A pattern is pulled by its corners alone. Take its mesh away first.")
        points = np.array(self.grid, np.float64)
        if points.shape != ((self.across + 1) * (self.down + 1), 2):
            raise BadInput(
                "A mesh of {0} × {1} cells has {2} points.", self.across, self.down, (self.across + 1) * (self.down + 1)
            )
        if not np.isfinite(points).all() or np.abs(points).max() > _FAR:
            raise BadInput("The corners of a picture lie on the page or near it.")
        if self.repeats and not _is_convex(points.reshape(2, 2, 2)[[0, 0, 1, 1], [0, 1, 1, 0]]):
            raise BadInput("The corners of a pattern must not cross each other.")
        if self.flats and not 2 <= self.flats <= MOST_FLATS:
            raise BadInput("A picture is reduced to 2 to {0} flats, not {1}.", MOST_FLATS, self.flats)

    def points(self) -> F64:
        """Return the grid, (down + 1, across + 1, 2) float64."""
        return np.array(self.grid, np.float64).reshape(self.down + 1, self.across + 1, 2)


@dataclass(frozen=True, eq=False)
class PictureSource:
    """A placed picture and its pixels.

    Attributes
    ----------
    placed : Placed
        Where it lies.
    levels : tuple of (m, n, 4) ndarray of uint8
        Red, green, blue and opacity, the colours times opacity; each half the size of the one before.
    """

    placed: Placed
    levels: tuple[U8, ...]

    def __eq__(self, other: object) -> bool:
        return isinstance(other, PictureSource) and self.placed == other.placed and self.levels is other.levels

    def __hash__(self) -> int:
        return hash(self.placed)


def picture_levels(rgb: U8, opacity: U8 | None = None) -> tuple[U8, ...]:
    """Return the levels of a picture as it looks on white, (M, N, 3) uint8, with its opacity, (M, N) uint8, if any."""
    alpha = np.full(rgb.shape[:2], 255, np.uint8) if opacity is None else np.ascontiguousarray(opacity)
    colors = np.ascontiguousarray(rgb)
    if opacity is not None:
        colors = np.asarray(cv2.subtract(colors, cv2.merge([cv2.bitwise_not(alpha)] * 3)), np.uint8)
    levels = [np.dstack([colors, alpha])]
    while min(levels[-1].shape[:2]) > 16:
        high, wide = levels[-1].shape[:2]
        levels.append(
            np.asarray(cv2.resize(levels[-1], (wide // 2, high // 2), interpolation=cv2.INTER_AREA), np.uint8)
        )
    return tuple(levels)


def laid_in(size: tuple[int, int], page: tuple[int, int]) -> tuple[tuple[float, float], ...]:
    """Return the corners of a picture (rows, columns) laid in the middle of a page as large as it goes."""
    scale = min(page[0] / size[0], page[1] / size[1])
    high, wide = size[0] * scale, size[1] * scale
    top, left = round((page[0] - high) / 2, 2), round((page[1] - wide) / 2, 2)
    bottom, right = round(top + high, 2), round(left + wide, 2)
    return (top, left), (top, right), (bottom, left), (bottom, right)


def meshed(placed: Placed, across: int, down: int) -> Placed:
    """Return a picture that lies as it did, with a mesh of so many cells (bilinear between its outer corners)."""
    old = placed.points()
    u, v = np.linspace(0, 1, across + 1)[None, :, None], np.linspace(0, 1, down + 1)[:, None, None]
    top, bottom = old[0, 0] * (1 - u) + old[0, -1] * u, old[-1, 0] * (1 - u) + old[-1, -1] * u
    grid = (top * (1 - v) + bottom * v).reshape(-1, 2)
    points = tuple((round(float(r), 2), round(float(c), 2)) for r, c in grid)
    return msgspec.structs.replace(placed, grid=points, across=across, down=down)


def picture_at(source: PictureSource, top: int, left: int, shape: tuple[int, int], step: int = 1) -> tuple[U8, U8]:
    """Draw a piece of a placed picture.

    Parameters
    ----------
    source : PictureSource
        The picture.
    top, left : int
        Where the piece begins, in page pixels.
    shape : tuple of int
        Rows and columns of the piece.
    step : int
        Page pixels for each of its pixels.

    Returns
    -------
    color : (M, N, 3) ndarray of uint8
        sRGB.
    cover : (M, N) ndarray of uint8
        0..255; 0 beside the picture, of a pattern beyond the horizon only.
    """
    pixels = source.levels[min(_level(source.placed, source.levels[0].shape[:2], step), len(source.levels) - 1)]
    high, wide = pixels.shape[:2]
    u, v = np.full(shape, np.nan, np.float32), np.full(shape, np.nan, np.float32)
    rows = top + (np.arange(shape[0], dtype=np.float64) + 0.5) * step - 0.5
    cols = left + (np.arange(shape[1], dtype=np.float64) + 0.5) * step - 0.5
    for corners, way in _ways(source.placed):
        _fill(u, v, rows, cols, None if source.placed.repeats else corners, way)
    inside = np.isfinite(u)
    color, cover = np.zeros((*shape, 3), np.uint8), np.zeros(shape, np.uint8)
    border = cv2.BORDER_WRAP if source.placed.repeats else cv2.BORDER_REPLICATE
    if inside.any():
        at_x = np.where(inside, u * np.float32(wide) - np.float32(0.5), 0).astype(np.float32)
        at_y = np.where(inside, v * np.float32(high) - np.float32(0.5), 0).astype(np.float32)
        found = cv2.remap(pixels, at_x, at_y, cv2.INTER_LINEAR, borderMode=border)
        cover = np.where(inside, found[..., 3], 0).astype(np.uint8)
        color = np.where(inside[..., None], found[..., :3], 0).astype(np.uint8)
        clear = (cover > 0) & (cover < 255)
        if clear.any():
            times = 255 / cover[clear].astype(np.float32)[:, None]
            color[clear] = np.minimum(np.rint(color[clear] * times), 255).astype(np.uint8)
    return color, cover


def _fill(u: F32, v: F32, rows: F64, cols: F64, corners: F64 | None, way: F64) -> None:
    """Say where in the picture (0..1) the pixels of one cell lie; `way` leads there from x, y of the page.

    Without corners the cell goes on and on, as far as its horizon.
    """
    r, c = slice(None), slice(None)
    if corners is not None:
        low, high = corners.min(axis=0), corners.max(axis=0)
        r = slice(*np.searchsorted(rows, (low[0] - 1, high[0] + 1)).tolist())
        c = slice(*np.searchsorted(cols, (low[1] - 1, high[1] + 1)).tolist())
        if r.start >= r.stop or c.start >= c.stop:
            return
    x, y = cols[c][None, :], rows[r][:, None]
    weight = way[2, 0] * x + way[2, 1] * y + way[2, 2]
    inside = weight > _HORIZON if corners is None else _within(x, y, corners)
    with np.errstate(divide="ignore", invalid="ignore"):
        for plane, part in ((u, way[0]), (v, way[1])):
            found = (part[0] * x + part[1] * y + part[2]) / weight
            found = np.mod(found, 1) if corners is None else np.clip(found, 0, 1)
            np.copyto(plane[r, c], found.astype(np.float32), where=inside & np.isfinite(found))


def _within(x: F64, y: F64, corners: F64) -> Bool:
    """Tell which places lie inside a convex cell whose (row, col) corners go round it."""
    sides = []
    for (r0, c0), (r1, c1) in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        sides.append((c1 - c0) * (y - r0) - (r1 - r0) * (x - c0))
    return np.asarray(np.all([s >= 0 for s in sides], axis=0) | np.all([s <= 0 for s in sides], axis=0))


@lru_cache(maxsize=64)
def _ways(placed: Placed) -> tuple[tuple[F64, F64], ...]:
    """Return the corners of every cell, and the way from the page into the picture, as 3 × 3."""
    grid, found = placed.points(), []
    for j in range(placed.down):
        for i in range(placed.across):
            quad = np.array([grid[j, i], grid[j, i + 1], grid[j + 1, i + 1], grid[j + 1, i]])
            there = np.array([[i, j], [i + 1, j], [i + 1, j + 1], [i, j + 1]], float) / (placed.across, placed.down)
            if placed.across == placed.down == 1 and _is_convex(quad):
                way = cv2.getPerspectiveTransform(quad[:, ::-1].astype(np.float32), there.astype(np.float32))
                near = float(way[2] @ np.array([*quad.mean(axis=0)[::-1], 1.0]))  # 1 in the middle, 0 at the horizon
                found.append((quad, np.asarray(way, np.float64) / near))
                continue
            for three in ((0, 1, 2), (0, 2, 3)):  # of a mesh, triangles: they meet without a seam
                corners = quad[list(three)]
                (r1, c1), (r2, c2) = corners[1:] - corners[0]
                if abs(r1 * c2 - r2 * c1) > 1e-3:
                    flat = np.column_stack([corners[:, ::-1], np.ones(3)])
                    way = np.vstack([np.linalg.solve(flat, there[list(three)]).T, [0, 0, 1]])
                    found.append((corners, way))
    return tuple(found)


def _is_convex(quad: F64) -> bool:
    ahead = np.roll(quad, -1, axis=0) - quad
    turns = ahead[:, 0] * np.roll(ahead, -1, axis=0)[:, 1] - ahead[:, 1] * np.roll(ahead, -1, axis=0)[:, 0]
    return bool((turns > 1e-3).all() or (turns < -1e-3).all())


def _level(placed: Placed, size: tuple[int, ...], step: int) -> int:
    """Return the level of the picture that suits its size on the page; one for the whole of it."""
    quad = placed.points()[[0, 0, -1, -1], [0, -1, -1, 0]].astype(np.float32)
    area = max(float(cv2.contourArea(quad)), 1.0) / step**2
    return max(0, math.floor(0.5 * math.log2(max(size[0] * size[1] / area, 1.0)) + 0.25))
