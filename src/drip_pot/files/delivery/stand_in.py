# SPDX-License-Identifier: GPL-3.0-or-later
"""A proof sheet of the press stand-in, as a PNG: a simulated press with a drift, a gain and a paper of its own.

It prints the page as it is separated, with marks and a bar of ink, at the resolution of a proof. Knows what a page is
painted from; the same page and seed give the same sheet.
"""

from pathlib import Path

import cv2
import msgspec
import numpy as np
from PIL import Image

from drip_pot.book.values import PRESS
from drip_pot.core.arrays import U8
from drip_pot.core.press import STAND_IN, Stock, worn
from drip_pot.core.strips import strips
from drip_pot.files.delivery.kinds import Delivered, kind

_PROOF_DPI, _MARGIN_MM, _MARK_MM, _PATCH_MM, _MM = 150.0, 10.0, 5.0, 5.0, 25.4
_PATCHES = (
    (1, 0, 0, 0), (0, 1, 0, 0), (0, 0, 1, 0), (0, 0, 0, 1), (1, 1, 0, 0), (0, 1, 1, 0), (1, 0, 1, 0),
    (0.5, 0, 0, 0), (0, 0.5, 0, 0), (0, 0, 0.5, 0), (0, 0, 0, 0.5), (0.5, 0.4, 0.4, 0),
)  # fmt: skip


@kind("proof", "Proof of the press stand-in, PNG", "-proof.png", traps=True, place=65)
def write_proof(path: Path, page: Delivered, part: int = 0) -> None:
    """Print a page on the stand-in."""
    dpi = min(_PROOF_DPI, page.sources.page.dpi)
    sheet = _sheet(_small(page, dpi), dpi)
    wear = msgspec.structs.replace(STAND_IN, seed=1 + sum(map(ord, page.sources.page.name)) % 1000)
    condition = page.sources[PRESS].condition
    seen = worn(sheet, wear, Stock(condition, dpi, (sheet.shape[0], sheet.shape[1])))
    Image.fromarray(seen).save(path, "PNG", dpi=(dpi, dpi))


def _small(page: Delivered, dpi: float) -> U8:
    """Return the plates of the page at a lower resolution, (m, n, 4)."""
    rows, cols = page.ready.shown.labels.shape
    scale = dpi / page.sources.page.dpi
    wide, out = max(1, round(cols * scale)), []
    for strip in strips(rows, height=512):
        inks = np.ascontiguousarray(page.plates(strip.rows)[..., :4])
        last = strip.rows.stop == rows
        high = max(1, round(strip.rows.stop * scale)) if last else round(strip.rows.stop * scale)
        high -= round(strip.rows.start * scale)
        if high:
            out.append(cv2.resize(inks, (wide, high), interpolation=cv2.INTER_AREA))
    return np.concatenate(out).astype(np.uint8)


def _sheet(art: U8, dpi: float) -> U8:
    """Lay art on a sheet with crop and register marks and a bar of ink, (M, N, 4)."""
    margin, mark, patch = (round(mm / _MM * dpi) for mm in (_MARGIN_MM, _MARK_MM, _PATCH_MM))
    rows, cols = art.shape[:2]
    out = np.zeros((rows + 2 * margin, cols + 2 * margin + patch, 4), np.uint8)
    out[margin : margin + rows, margin : margin + cols] = art
    gap = margin - mark - max(1, mark // 5)
    for row in (margin, margin + rows - 1):
        for start in (gap, margin + cols + margin - gap - mark):
            out[row, start : start + mark] = 255
    for col in (margin, margin + cols - 1):
        for start in (gap, margin + rows + margin - gap - mark):
            out[start : start + mark, col] = 255
    for row, col in ((margin // 2, margin + cols // 2), (out.shape[0] - margin // 2, margin + cols // 2)):
        cv2.drawMarker(out, (col, row), (255, 255, 255, 255), cv2.MARKER_CROSS, mark)
        cv2.circle(out, (col, row), mark // 3, (255, 255, 255, 255), 1)
    for place, inks in enumerate(_PATCHES):
        top = margin + place * patch
        if top + patch <= margin + rows:
            out[top : top + patch, -patch - margin // 4 : -(margin // 4)] = np.rint(np.array(inks) * 255)
    return out
