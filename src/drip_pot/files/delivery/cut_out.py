# SPDX-License-Identifier: GPL-3.0-or-later
"""Parts of a page cut out of it, each alone on a transparent ground. Knows what a page is painted from."""

from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from drip_pot.core.arrays import U8
from drip_pot.core.strips import strips
from drip_pot.files.delivery.kinds import Delivered, kind

_WIDER = 1.0


@kind("cut-out", "Parts cut out, a PNG each", "-cut.png", parts=(), each="parts", place=16)
def write_part(path: Path, page: Delivered, part: int = 0) -> None:
    """Write a part as it is seen, with the line round it; nothing is anywhere else."""
    top, left, bottom, right = page.rect
    out = _alone(page, page.cut_out[part][1])
    dpi = page.sources.page.dpi
    Image.fromarray(out[top:bottom, left:right]).save(path, "PNG", dpi=(dpi, dpi), compress_level=3)


def _alone(page: Delivered, atoms: tuple[int, ...]) -> U8:
    """Draw what is seen of some atoms, and the line as far round them as line is wide, (M, N, 4) uint8."""
    ready = page.ready
    mine = np.zeros(len(ready.tables.is_poured), bool)
    mine[[atom for atom in atoms if atom < len(mine)]] = True
    inside = np.take(mine, ready.shown.labels, mode="clip")
    away = cv2.distanceTransform((~inside).view(np.uint8), cv2.DIST_L2, 5)
    beside = ~inside & (away <= _WIDER * page.line_px)
    out = np.zeros((*inside.shape, 4), np.uint8)
    for strip in strips(len(out)):
        rows, here = strip.rows, inside[strip.rows]
        seen, line = ready.screen(rows), ready.line(rows)
        seen[..., 3] = 255
        out[rows][here] = seen[here]
        out[rows][beside[rows]] = line[beside[rows]]
    out[out[..., 3] == 0] = 0
    return out
