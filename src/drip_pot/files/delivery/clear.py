# SPDX-License-Identifier: GPL-3.0-or-later
"""Pictures with a transparent ground: the page where it is coloured, the line alone. Knows what it is painted from."""

from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from drip_pot.book import Book, Derived
from drip_pot.core.arrays import F32, U8
from drip_pot.core.render import EDGE_REACH, smooth_edges
from drip_pot.core.strips import strips
from drip_pot.files.delivery.export import prepared
from drip_pot.files.delivery.kinds import Delivered, kind


@kind("clear", "Page on a transparent ground, PNG", "-clear.png", place=15)
def write_clear(path: Path, page: Delivered, part: int = 0) -> None:
    """Write what is coloured, and line; nothing is where the paper shows."""
    _write(path, page, _without_paper(page, smooth=page.how.web.smooth))


def clear_picture(book: Book, derived: Derived, page: int, scale: float, *, smooth: bool = False) -> U8:
    """Return a page on a transparent ground, (M, N, 4) uint8 sRGB and coverage, at `scale`, above 0 and at most 1.

    Edges of colours, and those to the ground, can be smooth.
    """
    out = _without_paper(prepared(book, derived, page, traps=False), smooth=smooth)
    if scale >= 1:
        return out
    rows, cols = out.shape[:2]
    size = max(1, round(cols * scale)), max(1, round(rows * scale))
    share = out[..., 3:].astype(np.float32) / 255
    small = cv2.resize(np.dstack([out[..., :3] * share, share]), size, interpolation=cv2.INTER_AREA)
    return _parted(np.asarray(small[..., :3], np.float32), np.asarray(small[..., 3:], np.float32))


def _parted(color: F32, share: F32) -> U8:
    """Return colour and coverage, (M, N, 4) uint8, from colour times coverage, 0..255, and coverage, 0..1."""
    return np.asarray(np.rint(np.dstack([color / np.maximum(share, 1e-6), 255 * share])).clip(0, 255), np.uint8)


def _without_paper(page: Delivered, *, smooth: bool) -> U8:
    """Draw a page where it is coloured or line lies, (M, N, 4) uint8."""
    ready = page.ready
    out = np.empty((*ready.shown.labels.shape, 4), np.uint8)
    for strip in strips(len(out), EDGE_REACH if smooth else 0):
        inside = np.take(ready.tables.is_poured, ready.shown.labels[strip.around], mode="clip")
        line = ready.line(strip.rows)
        if smooth:
            colors = ready.screen(strip.around, lines=False)
            colors[..., 3] = 255
            colors[~inside] = 0
            out[strip.rows] = _over(line, smooth_edges(np.ascontiguousarray(colors))[strip.inside])
        else:
            seen = ready.screen(strip.rows)
            seen[..., 3] = 255
            out[strip.rows] = np.where(inside[..., None], seen, line)
    return out


def _over(line: U8, colors: U8) -> U8:
    """Lay line, (M, N, 4) uint8, over colour times coverage and coverage, (M, N, 4) uint8."""
    share = line[..., 3:].astype(np.float32) / 255
    left = (1 - share) * colors.astype(np.float32)
    color, cover = line[..., :3] * share + left[..., :3], share + left[..., 3:] / 255
    return _parted(np.asarray(color, np.float32), np.asarray(cover, np.float32))


@kind("line-colour", "Line in its colours, PNG", "-line-colour.png", place=32)
def write_colored_line(path: Path, page: Delivered, part: int = 0) -> None:
    """Write the line alone in its own colours, as it lies over the flats."""
    out = np.empty((*page.ready.shown.labels.shape, 4), np.uint8)
    for strip in strips(len(out)):
        out[strip.rows] = page.ready.line(strip.rows)
    _write(path, page, out)


@kind("line-black", "Line in black, PNG", "-line-black.png", place=33)
def write_black_line(path: Path, page: Delivered, part: int = 0) -> None:
    """Write all line in black, whatever colour it has."""
    ink = page.ready.shown.ink
    _write(path, page, np.dstack([np.zeros((*ink.shape, 3), np.uint8), ink]))


def _write(path: Path, page: Delivered, out: U8) -> None:
    top, left, bottom, right = page.rect
    out[out[..., 3] == 0] = 0
    dpi = page.sources.page.dpi
    Image.fromarray(out[top:bottom, left:right]).save(path, "PNG", dpi=(dpi, dpi), compress_level=3)
