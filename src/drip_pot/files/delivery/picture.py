# SPDX-License-Identifier: GPL-3.0-or-later
"""A page as a stage of the window shows it. Knows what a page is painted from."""

from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from drip_pot.book import Book, Derived
from drip_pot.book.findings import STAGES
from drip_pot.book.proof import proof
from drip_pot.book.values import PRESS
from drip_pot.core.arrays import U8
from drip_pot.core.errors import BadInput
from drip_pot.core.strips import strips
from drip_pot.files.delivery.export import prepared
from drip_pot.files.delivery.flattened import whole
from drip_pot.files.delivery.kinds import Delivered
from drip_pot.files.outputs import in_place


def picture(
    book: Book, derived: Derived, page: int, stage: str = "Press", scale: float = 1.0, *, smooth: bool = False
) -> U8:  # fmt: skip
    """Return a page as a stage of the window shows it.

    Parameters
    ----------
    book, derived, page
        The page and what follows from it.
    stage : str
        Inks (line alone), Flats (local colours under black line), Shade (in two tones), Holds (with coloured line) or
        Press (the plates as ink on paper).
    scale : float
        Above 0, at most 1: size of the picture over that of the page.
    smooth : bool
        With smooth edges of colours, for screens, in Holds.

    Returns
    -------
    (M, N, 3) ndarray of uint8
        sRGB.

    Raises
    ------
    BadInput
        For an unknown stage or an unusable scale.
    """
    if stage not in STAGES:
        raise BadInput("There is no stage {0}. Choose from {1}.", stage, ", ".join(STAGES))
    if not 0 < scale <= 1:
        raise BadInput("A picture has 0 to 1 times the size of the page, not {0:g}.", scale)
    made = prepared(book, derived, page, traps=stage == "Press")
    rows, cols = made.ready.shown.labels.shape
    if smooth and stage == "Holds":
        out = whole(made, smooth=True)
    else:
        out = np.empty((rows, cols, 3), np.uint8)
        for strip in strips(rows):
            out[strip.rows] = _seen(made, stage, strip.rows)
    if scale < 1:
        size = max(1, round(cols * scale)), max(1, round(rows * scale))
        return np.asarray(cv2.resize(out, size, interpolation=cv2.INTER_AREA), np.uint8)
    return out


def parted_picture(book: Book, derived: Derived, page: int, scale: float) -> tuple[U8, U8]:
    """Return a page as it is seen in Holds, its colours and its line apart.

    Returns
    -------
    colors : (M, N, 3) ndarray of uint8
        sRGB, without line.
    line : (M, N, 4) ndarray of uint8
        The line that lies over them, colour times coverage, and coverage.
    """
    made = prepared(book, derived, page, traps=False)
    rows, cols = made.ready.shown.labels.shape
    colors, line = np.empty((rows, cols, 3), np.uint8), np.empty((rows, cols, 4), np.uint8)
    for strip in strips(rows):
        colors[strip.rows] = made.ready.screen(strip.rows, lines=False)[..., :3]
        line[strip.rows] = made.ready.line(strip.rows)
    line[..., :3] = cv2.multiply(np.ascontiguousarray(line[..., :3]), cv2.merge([line[..., 3]] * 3), scale=1 / 255)
    if scale >= 1:
        return colors, line
    size = max(1, round(cols * scale)), max(1, round(rows * scale))
    small = [np.asarray(cv2.resize(one, size, interpolation=cv2.INTER_AREA), np.uint8) for one in (colors, line)]
    return small[0], small[1]


def _seen(page: Delivered, stage: str, rows: slice) -> U8:
    if stage == "Inks":
        return np.asarray(cv2.merge([255 - page.ready.shown.ink[rows]] * 3), np.uint8)
    if stage == "Press":
        condition = page.sources[PRESS].condition
        return proof(page.plates(rows), (), condition, spots=page.ready.tables.spots)
    seen = page.ready.screen(rows, tone=stage != "Flats", held=stage == "Holds")
    return np.ascontiguousarray(seen[..., :3])


def write_picture(path: Path, pixels: U8, dpi: float) -> None:
    """Write a picture, (M, N, 3) uint8 sRGB, as a PNG; raises `CannotWrite`."""
    with in_place(path) as work:
        Image.fromarray(pixels).save(work, "PNG", dpi=(dpi, dpi), compress_level=3)
