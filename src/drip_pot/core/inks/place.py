# SPDX-License-Identifier: GPL-3.0-or-later
"""How a picture lies on a page: turned, scaled, moved. Knows nothing of what the picture shows."""

import math
from typing import Any

import cv2
import msgspec
import numpy as np
import numpy.typing as npt

from drip_pot.core.arrays import F64
from drip_pot.core.errors import BadInput


class Place(msgspec.Struct, frozen=True):
    """A similarity from picture pixels to page pixels, about the picture's top left pixel.

    Parameters
    ----------
    turn_deg : float
        Clockwise as seen, in degrees.
    scale : float
        Page pixels for each picture pixel, above 0.
    down_px, right_px : float
        Where the picture's top left pixel comes to lie.
    """

    turn_deg: float = 0.0
    scale: float = 1.0
    down_px: float = 0.0
    right_px: float = 0.0

    def __post_init__(self) -> None:
        values = (self.turn_deg, self.scale, self.down_px, self.right_px)
        if not all(math.isfinite(v) for v in values) or not 0.01 <= self.scale <= 100:
            raise BadInput("A picture is scaled between 1 % and 10 000 %, not {0:g} times.", self.scale)

    def matrix(self) -> F64:
        """Return the (2, 3) matrix for (col, row, 1), as OpenCV wants it."""
        angle = math.radians(self.turn_deg)
        c, s = self.scale * math.cos(angle), self.scale * math.sin(angle)
        return np.array([[c, -s, self.right_px], [s, c, self.down_px]])

    def then(self, outer: "Place") -> "Place":
        """Return the place that puts a picture here and then all of it at `outer`."""
        col, row = outer.matrix() @ [self.right_px, self.down_px, 1.0]
        turn = (self.turn_deg + outer.turn_deg + 180) % 360 - 180
        return Place(turn, self.scale * outer.scale, float(row), float(col))

    def inverse(self) -> "Place":
        """Return the place that undoes this one."""
        back = Place(-self.turn_deg, 1 / self.scale)
        col, row = back.matrix() @ [self.right_px, self.down_px, 1.0]
        return Place(back.turn_deg, back.scale, -float(row), -float(col))

    def at(self, row: float, col: float) -> tuple[float, float]:
        """Return where a picture position (row, col) lies on the page."""
        x, y = self.matrix() @ [col, row, 1.0]
        return float(y), float(x)


def turned_about(row: float, col: float, turn_deg: float) -> Place:
    """Return the place that turns by some degrees about a point that stays where it is."""
    turn = Place(turn_deg)
    r, c = turn.at(row, col)
    return Place(turn_deg, 1.0, row - r, col - c)


def lay(plane: npt.NDArray[Any], place: Place, shape: tuple[int, int], fill: int, *, hard: bool) -> npt.NDArray[Any]:
    """Lay a picture on a page.

    Parameters
    ----------
    plane : (M, N) or (M, N, C) ndarray of uint8 or uint16, or (M, N) int32 with `hard`
        The picture.
    place : Place
        Where it lies.
    shape : tuple of int
        Rows and columns of the page.
    fill : int
        What lies beside the picture.
    hard : bool
        Whether values are taken as they are (labels, masks) rather than mixed.

    Returns
    -------
    ndarray
        `shape`, dtype of `plane`; `plane` itself where nothing changes.
    """
    if place == Place() and plane.shape[:2] == shape:
        return plane
    whole = place.turn_deg == 0 and place.scale == 1
    if whole and float(place.down_px).is_integer() and float(place.right_px).is_integer():
        return _moved(plane, int(place.down_px), int(place.right_px), shape, fill)
    source = plane.astype(np.float32) if plane.dtype == np.int32 else plane
    smooth = cv2.INTER_AREA if place.scale < 0.5 else cv2.INTER_CUBIC
    out = cv2.warpAffine(
        source, place.matrix(), (shape[1], shape[0]), flags=cv2.INTER_NEAREST if hard else smooth,
        borderMode=cv2.BORDER_CONSTANT, borderValue=(fill,) * 4,
    )  # fmt: skip
    return np.asarray(out.astype(plane.dtype, copy=False))


def _moved(plane: npt.NDArray[Any], down: int, right: int, shape: tuple[int, int], fill: int) -> npt.NDArray[Any]:
    out = np.full((*shape, *plane.shape[2:]), fill, plane.dtype)
    top, left = max(down, 0), max(right, 0)
    bottom, edge = min(down + plane.shape[0], shape[0]), min(right + plane.shape[1], shape[1])
    if bottom > top and edge > left:
        out[top:bottom, left:edge] = plane[top - down : bottom - down, left - right : edge - right]
    return out
