# SPDX-License-Identifier: GPL-3.0-or-later
"""Ink settings that suit a drawing. Knows images; no books."""

import msgspec
import numpy as np

from drip_pot.core.arrays import Gray
from drip_pot.core.inks import (
    InkSettings,
    Pencil,
    coverage,
    estimate_paper,
    find_pencil,
    remove_paper,
    remove_pencil,
    suggest_settings,
)
from drip_pot.files.images import Scan


def suggest_inks(scan: Scan) -> tuple[InkSettings, list[str]]:
    """Find the ink settings that suit a drawing, and what a person should know about them."""
    notes = []
    pencil = None
    gray: Gray = scan.gray
    if scan.rgb is not None and (hue := find_pencil(scan.rgb)) is not None:
        pencil = Pencil(round(hue), 1.0)
        gray = remove_pencil(scan.rgb, pencil)
        notes.append("Coloured pencil was found under the ink and taken out; see Pencil in Inks.")
    evened = remove_paper(gray, estimate_paper(gray))
    settings = msgspec.structs.replace(suggest_settings(evened, scan.dpi), pencil=pencil)
    small = evened[:: max(1, evened.shape[0] // 1200), :: max(1, evened.shape[1] // 1200)]
    ink = coverage(np.ascontiguousarray(small), settings)
    between = float(((ink > 12) & (ink < 243)).mean())
    if between > 0.35:
        notes.append("This looks like a photograph or a painting rather than line art; it was opened all the same.")
    return settings, notes
