# SPDX-License-Identifier: GPL-3.0-or-later
"""Pictures with a transparent ground: the page where it is coloured, the line alone. Knows what it is painted from."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
from PIL import Image

from drip_pot.core.arrays import U8
from drip_pot.core.strips import strips
from drip_pot.files.delivery.kinds import Delivered, kind


@kind("clear", "Page on a transparent ground, PNG", "-clear.png", place=15)
def write_clear(path: Path, page: Delivered, part: int = 0) -> None:
    """Write what is coloured, and line; nothing is where the paper shows."""
    poured = page.ready.tables.is_poured

    def drawn(rows: slice) -> U8:
        out = page.ready.line(rows)
        inside = np.take(poured, page.ready.shown.labels[rows], mode="clip")
        whole = page.ready.screen(rows)
        out[inside] = whole[inside]
        out[..., 3][inside] = 255
        return out

    _write(path, page, drawn)


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
