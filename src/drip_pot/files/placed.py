# SPDX-License-Identifier: GPL-3.0-or-later
"""The pixels of pictures laid on pages, read from the book when they are needed, a few kept. Knows images and core."""

import threading
from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path
from typing import Protocol

import cv2
import numpy as np

from drip_pot.core.arrays import U8
from drip_pot.core.color import reduce_picture
from drip_pot.core.errors import DripPotError
from drip_pot.core.render import Placed, picture_levels
from drip_pot.files.images import Scan, decode, read_image

_KEPT, _MOST_PX, _MOST_REDUCED_PX = 6, 32_000_000, 4_000_000
_LINE_SHARE = 0.0022

Levels = tuple[U8, ...]


class HasOriginals(Protocol):
    """Where originals are kept."""

    def original(self, number: int) -> tuple[str, bytes]:
        """Return name and bytes of an original."""


class PlacedPictures:
    """Reads and keeps pictures.

    Parameters
    ----------
    original : callable
        Returns name and bytes of an original by its number.
    """

    def __init__(self, original: Callable[[int], tuple[str, bytes]]) -> None:
        self._original = original
        self._lock = threading.Lock()
        self._known: OrderedDict[tuple[object, ...], Levels | None] = OrderedDict()

    def __call__(self, placed: Placed) -> Levels | None:
        """Return the levels of a picture; None where its file is damaged or missing."""
        key = placed.original, placed.picture, placed.flats, placed.line
        with self._lock:
            if key not in self._known:
                self._known[key] = self._read(placed)
                while len(self._known) > _KEPT:
                    self._known.popitem(last=False)
            self._known.move_to_end(key)
            return self._known[key]

    def _read(self, placed: Placed) -> Levels | None:
        try:
            name, data = self._original(placed.original)
            return levels_of(data, name, placed)
        except DripPotError:
            return None


def levels_of(data: bytes, name: str, placed: Placed) -> Levels:
    """Decode a picture as it is laid on a page; errors are those of `decode`."""
    scan = decode(data, name, placed.picture, tinted=True)
    rgb = _colors(scan)
    most = _MOST_REDUCED_PX if placed.flats else _MOST_PX
    scale = min(1.0, (most / (rgb.shape[0] * rgb.shape[1])) ** 0.5)
    opacity = scan.opacity
    if scale < 1:
        size = max(1, round(rgb.shape[1] * scale)), max(1, round(rgb.shape[0] * scale))
        rgb = np.asarray(cv2.resize(rgb, size, interpolation=cv2.INTER_AREA), np.uint8)
        if opacity is not None:
            opacity = np.asarray(cv2.resize(opacity, size, interpolation=cv2.INTER_AREA), np.uint8)
    if placed.flats:
        width = max(2.0, _LINE_SHARE * max(rgb.shape[:2])) if placed.line else 0.0
        rgb = reduce_picture(rgb, placed.flats, width)
    return picture_levels(rgb, opacity)


def _colors(scan: Scan) -> U8:
    gray = scan.gray if scan.gray.dtype == np.uint8 else (scan.gray >> 8).astype(np.uint8)
    return scan.rgb if scan.rgb is not None else np.asarray(cv2.merge([gray] * 3), np.uint8)


def pinned_pixels(file: "HasOriginals", original: int, most_px: int) -> U8:
    """Return a pinned picture at most so many pixels a side, (M, N, 3) uint8; errors are those of `decode`."""
    name, data = file.original(original)
    rgb = _colors(decode(data, name, tinted=True))
    scale = min(1.0, most_px / max(rgb.shape[:2]))
    size = max(1, round(rgb.shape[1] * scale)), max(1, round(rgb.shape[0] * scale))
    return np.ascontiguousarray(cv2.resize(rgb, size, interpolation=cv2.INTER_AREA))


def read_placed(path: Path) -> tuple[bytes, tuple[int, int]]:
    """Return the bytes of a picture, and its rows and columns; errors are those of `read_image`."""
    data, scan = read_image(path)
    return data, (scan.gray.shape[0], scan.gray.shape[1])
