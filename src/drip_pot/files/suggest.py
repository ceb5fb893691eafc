# SPDX-License-Identifier: GPL-3.0-or-later
"""Ink settings that suit a drawing. Knows images; no books."""

import msgspec
import numpy as np

from drip_pot.book.picture import laid_square
from drip_pot.core.arrays import Gray
from drip_pot.core.inks import (
    InkSettings,
    Pencil,
    coverage,
    estimate_paper,
    find_beneath,
    find_paper,
    find_pencil,
    is_light_on_dark,
    remove_paper,
    remove_pencil,
    squared_by,
    suggest_settings,
    turned_round,
)
from drip_pot.files.images import Scan

_STAYS, _DARKER = 0.35, 0.2  # where less than that stays without its colour, the colour is the line's own


def _drawn(gray: Gray) -> float:
    """Return how much is drawn: what is clearly darker than most of the sheet, in shares of full ink."""
    thin = gray[:: max(1, gray.shape[0] // 1000), :: max(1, gray.shape[1] // 1000)] / np.iinfo(gray.dtype).max
    darker = float(np.median(thin)) - thin
    return float(darker[darker > _DARKER].sum())


def suggest_inks(scan: Scan, *, squares: bool = True) -> tuple[InkSettings, list[str]]:
    """Find the ink settings that suit a drawing, and what a person should know about them.

    A photograph of paper at a slant is laid square by them, unless it is to keep its place (`squares`).
    """
    notes = []
    pencil, square = None, None
    eight = scan.gray if scan.gray.dtype == np.uint8 else np.asarray(scan.gray >> 8, np.uint8)
    paper = find_paper(eight) if squares else None
    if paper is not None:
        square = squared_by(paper, (scan.gray.shape[0], scan.gray.shape[1]))
        scan = laid_square(scan, square)
        notes.append(
            "The paper was photographed at a slant and laid square; the tool Square in Inks moves its corners."
        )
    gray: Gray = scan.gray
    if scan.rgb is not None and (hue := find_pencil(scan.rgb)) is not None:
        without = remove_pencil(scan.rgb, Pencil(round(hue), 1.0))
        if _drawn(without) >= _STAYS * _drawn(gray):
            pencil, gray = Pencil(round(hue), 1.0), without
            notes.append("Coloured pencil was found under the ink and taken out; see Pencil in Inks.")
    turned = pencil is None and is_light_on_dark(gray)
    if turned:
        gray = turned_round(gray, InkSettings(turned=True))
        notes.append("This is light line on dark; it was turned round. See Paper and ink, in Inks, to turn it back.")
    evened = remove_paper(gray, estimate_paper(gray))
    settings = msgspec.structs.replace(suggest_settings(evened, scan.dpi), pencil=pencil, turned=turned, square=square)
    sketch = find_beneath(evened, settings)
    if sketch is not None and sketch.breaks:
        notes.append("A sketch lies beneath grainy line and was kept; move Paper from, in Inks, down until it goes.")
    elif sketch is not None:
        settings = sketch.without
        notes.append("A sketch beneath the line was left out; move Paper from, in Inks, up to see it.")
    small = evened[:: max(1, evened.shape[0] // 1200), :: max(1, evened.shape[1] // 1200)]
    ink = coverage(np.ascontiguousarray(small), settings)
    between = float(((ink > 12) & (ink < 243)).mean())
    if between > 0.35:
        notes.append("This looks like a photograph or a painting rather than line art; it was opened all the same.")
    return settings, notes
