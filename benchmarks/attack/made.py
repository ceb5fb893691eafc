# SPDX-License-Identifier: GPL-3.0-or-later
"""A small book with a bit of everything, made once."""

from pathlib import Path

import numpy as np
from PIL import Image

from drip_pot.book import verbs
from drip_pot.book.hand import hand_at
from drip_pot.files import derive, import_page, new_book


def made_book(folder: Path) -> Path:
    """Return a book of one page, made if it is not there."""
    path = folder / "made.drip"
    if path.exists():
        return path
    page = np.full((300, 240), 255, np.uint8)
    for box in ((20, 20, 280, 118), (20, 124, 140, 220), (146, 124, 280, 220)):
        page[box[0] : box[2], box[1] : box[1] + 4] = page[box[0] : box[2], box[3] - 4 : box[3]] = 0
        page[box[0] : box[0] + 4, box[1] : box[3]] = page[box[2] - 4 : box[2], box[1] : box[3]] = 0
    picture = folder / "made.png"
    Image.fromarray(page).save(picture, dpi=(100, 100))
    work = folder / "making.drip"
    file, book = new_book(work, "Made")
    number, _ = import_page(file, book, picture)
    hand = hand_at(book, number, derive(file, book, number))
    verbs.fill(hand, hand.region_of(hand.atom_at(60, 60)), 1)
    verbs.set_dam(hand_at(book, number, derive(file, book, number)), ((100.0, 24.0), (100.0, 114.0)))
    mask = np.ones((60, 60), bool)
    verbs.shade_mask(book, number, (30, 30, 90, 90), mask, mask, light=False)
    book.undo()
    verbs.shade_mask(book, number, (120, 30, 180, 90), mask, mask, light=False)
    file.close()
    work.rename(path)
    return path
