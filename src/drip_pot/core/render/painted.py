# SPDX-License-Identifier: GPL-3.0-or-later
"""Colours that were painted pixel by pixel, as a pass has them. Knows planes that can be read; not where they are."""

from dataclasses import dataclass
from typing import Protocol

import cv2
import numpy as np

from drip_pot.core.arrays import U8, Rect, cut_to

_AROUND = np.ones((5, 5), np.uint8)


class Readable(Protocol):
    """A plane that can be read in pieces; another state of it has another version."""

    version: int

    def read(self, rect: Rect, step: int = 1) -> U8:
        """Return every `step`-th pixel of a rectangle, (M, N) uint8."""
        ...


@dataclass(frozen=True, eq=False)
class PaintedColors:
    """The red, green and blue that were painted; what shows of them is the coverage of their pass.

    Two are the same when their planes are of the same versions.
    """

    planes: tuple[Readable, Readable, Readable]

    def __eq__(self, other: object) -> bool:
        return isinstance(other, PaintedColors) and self._versions == other._versions

    def __hash__(self) -> int:
        return hash(self._versions)

    @property
    def _versions(self) -> tuple[int, ...]:
        return tuple(plane.version for plane in self.planes)

    def at(self, top: int, left: int, shape: tuple[int, int], step: int = 1) -> U8:
        """Return the colours of a piece of `shape` that begins at a pixel of the page, (M, N, 3) uint8."""
        rect = top, left, top + shape[0] * step, left + shape[1] * step
        return np.dstack([cut_to(plane.read(rect, step), shape) for plane in self.planes])


def painted_over(under: U8, before: U8, cover: U8, color: U8) -> U8:
    """Return the colours of a pass after others were laid over them.

    Each colour lies by the share it has in what covers the pixel (source-over with straight colours; Porter and Duff,
    *Compositing digital images*, 1984). Where nothing lay yet the stroke's colour goes a little beyond it, so that
    pixels that are drawn between two never mix with nothing.

    Parameters
    ----------
    under : (M, N, 3) ndarray of uint8
        Colours before.
    before, cover : (M, N) ndarrays of uint8
        Coverage of the pass before, and of the stroke.
    color : (3,) or (M, N, 3) ndarray of uint8
        The one of a stroke, or those of a picture.

    Returns
    -------
    (M, N, 3) ndarray of uint8
    """
    a, b = cover.astype(np.int32), before.astype(np.int32)
    both = a * 255 + b * (255 - a)
    share = np.where(both > 0, a * 255 / np.maximum(both, 1), 0.0)[..., None]
    out = np.rint(under + (color.astype(np.float64) - under) * share).astype(np.uint8)
    fresh = (before == 0) & (cv2.dilate((cover > 0).view(np.uint8), _AROUND) > 0)
    out[fresh] = np.broadcast_to(color, out.shape)[fresh]
    return out
