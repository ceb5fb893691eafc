# SPDX-License-Identifier: GPL-3.0-or-later
"""Drawings of any kind and size, strokes off every edge among them, taken from scan to plates; none may raise."""

import shutil
from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from drip_pot.book import build_tables, verbs
from drip_pot.book.findings import STAGES, find
from drip_pot.book.values import Lamp
from drip_pot.core.arrays import U8
from drip_pot.core.errors import DripPotError
from drip_pot.files import KINDS, deliver, derive, export_page, hand_on, import_page, new_book, picture

_SIZES = ((1, 1), (1, 300), (300, 1), (2, 2), (3, 5), (8, 8))


def drawing(number: int) -> U8:
    """Return the ink of a drawing, 1 × 1 to 300 × 300, made of strokes, blobs, noise, frames or grey."""
    rng = np.random.default_rng(number)
    rows, cols = (int(v) for v in rng.integers(1, 301, 2))
    ink = np.zeros((rows, cols), np.uint8)

    def spot(beyond: int) -> list[int]:
        return [int(v) for v in rng.integers(-beyond, [cols + beyond, rows + beyond])]

    kind = rng.choice(["strokes", "strokes", "blobs", "noise", "frames", "grey", "full"])
    if kind == "strokes":
        for _ in range(8):
            cv2.line(ink, spot(30), spot(30), int(rng.integers(60, 256)), int(rng.integers(1, 7)), cv2.LINE_AA)
    elif kind == "blobs":
        for _ in range(int(rng.integers(1, 10))):
            cv2.circle(ink, spot(10), int(rng.integers(1, 40)), 255, int(rng.choice([-1, 1, 3])), cv2.LINE_AA)
    elif kind == "noise":
        ink = (rng.random((rows, cols)) < rng.random()).astype(np.uint8) * 255
        if rng.random() < 0.5:
            ink = cv2.GaussianBlur(ink, (0, 0), float(rng.uniform(0.5, 3)))
    elif kind == "frames":
        for _ in range(3):
            cv2.rectangle(ink, spot(20), spot(20), 255, int(rng.integers(1, 5)))
    elif kind == "grey":
        ink = cv2.GaussianBlur(rng.integers(0, 256, (rows, cols)).astype(np.uint8), (0, 0), float(rng.uniform(1, 8)))
    else:
        ink[:] = int(rng.integers(0, 256))
    if rng.random() < 0.2:
        rows, cols = _SIZES[int(rng.integers(len(_SIZES)))]
    return np.ascontiguousarray(ink.reshape(ink.shape[0], -1)[:rows, :cols])


def from_scan_to_plates(ink: U8, folder: Path) -> None:
    """Bring a drawing in, pour, paint, hold and light it, look for findings, and write every kind of file."""
    Image.fromarray(255 - ink).save(folder / "page.png", dpi=(300, 300))
    file, book = new_book(folder / "book.drip", "Drawing")
    try:
        page, _ = import_page(file, book, folder / "page.png")
        pots = list(book.pots())
        for atom in range(1, min(len(hand_on(file, book, page).areas), 40)):
            verbs.pour(book, page, {atom}, pots[atom % len(pots)])
        verbs.add_pass(book, page, "Fog", "#8090a0")
        verbs.hold_part(book, page, next(iter(book.parts())), 0.4)
        rows, cols = ink.shape
        for verb in (
            lambda hand: verbs.mist_pass(hand, [(0.0, 0.0, 1.0), (float(rows), float(cols), 0.5)], 20.0, into=2),
            lambda hand: verbs.set_lamp(book, page, Lamp(-5.0, 3.0)),
            verbs.suggest_cuts,
        ):
            try:
                verb(hand_on(file, book, page))
            except DripPotError as error:
                print(error)
        derived, sources = derive(file, book, page), book.sources(page)
        tables = build_tables(book, sources, derived.regions.atoms(sources.line).count, derived.ground(sources))
        find(book, sources, derived, tables, stages=tuple(STAGES))
        export_page(book, derived, page, folder / "out", kinds=tuple(KINDS))
        deliver(book, lambda _: derived, [page], folder / "delivered", ("book-pdf",))
        for stage in STAGES:
            picture(book, derived, page, stage, 0.5)
    finally:
        file.close()


def case(number: int, folder: Path) -> None:
    """Take one drawing from scan to plates."""
    own = folder / f"drawing-{number}"
    own.mkdir()
    try:
        from_scan_to_plates(drawing(number), own)
    finally:
        shutil.rmtree(own)
