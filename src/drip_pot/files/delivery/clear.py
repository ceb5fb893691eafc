# SPDX-License-Identifier: GPL-3.0-or-later
"""Pictures with a transparent ground: the page where it is coloured, the line alone. Knows what it is painted from."""

from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from drip_pot.book import Book, Derived
from drip_pot.core.arrays import U8
from drip_pot.core.strips import strips
from drip_pot.files.delivery.export import prepared
from drip_pot.files.delivery.kinds import Delivered, kind


@kind("clear", "Page on a transparent ground, PNG", "-clear.png", place=15)
def write_clear(path: Path, page: Delivered, part: int = 0) -> None:
    """Write what is coloured, and line; nothing is where the paper shows."""
    _write(path, page, lambda rows: _without_paper(page, rows))


def clear_picture(book: Book, derived: Derived, page: int, scale: float) -> U8:
    """Return a page on a transparent ground, (M, N, 4) uint8 sRGB and coverage, at `scale`, above 0 and at most 1."""
    made = prepared(book, derived, page, traps=False)
    rows, cols = made.ready.shown.labels.shape
    out = np.empty((rows, cols, 4), np.uint8)
    for strip in strips(rows):
        out[strip.rows] = _without_paper(made, strip.rows)
    if scale >= 1:
        return out
    size = max(1, round(cols * scale)), max(1, round(rows * scale))
    share = out[..., 3:].astype(np.float32) / 255
    small = cv2.resize(np.dstack([out[..., :3] * share, share]), size, interpolation=cv2.INTER_AREA)
    color = small[..., :3] / np.maximum(small[..., 3:], 1e-6)
    return np.asarray(np.rint(np.dstack([color, 255 * small[..., 3]])).clip(0, 255), np.uint8)


def _without_paper(page: Delivered, rows: slice) -> U8:
    """Draw some rows where they are coloured or line lies, (M, N, 4) uint8."""
    out = page.ready.line(rows)
    inside = np.take(page.ready.tables.is_poured, page.ready.shown.labels[rows], mode="clip")
    whole = page.ready.screen(rows)
    out[inside] = whole[inside]
    out[..., 3][inside] = 255
    return out


@kind("line-colour", "Line in its colours, PNG", "-line-colour.png", place=32)
def write_colored_line(path: Path, page: Delivered, part: int = 0) -> None:
    """Write the line alone in its own colours, as it lies over the flats."""
    _write(path, page, page.ready.line)


@kind("line-black", "Line in black, PNG", "-line-black.png", place=33)
def write_black_line(path: Path, page: Delivered, part: int = 0) -> None:
    """Write all line in black, whatever colour it has."""

    def drawn(rows: slice) -> U8:
        ink = page.ready.shown.ink[rows]
        return np.dstack([np.zeros((*ink.shape, 3), np.uint8), ink])

    _write(path, page, drawn)


def _write(path: Path, page: Delivered, drawn: Callable[[slice], U8]) -> None:
    top, left, bottom, right = page.rect
    out = np.empty((*page.ready.shown.labels.shape, 4), np.uint8)
    for strip in strips(len(out)):
        out[strip.rows] = drawn(strip.rows)
    out[out[..., 3] == 0] = 0
    dpi = page.sources.page.dpi
    Image.fromarray(out[top:bottom, left:right]).save(path, "PNG", dpi=(dpi, dpi), compress_level=3)
