# SPDX-License-Identifier: GPL-3.0-or-later
"""Parts of a page cut out of it, each alone on a transparent ground. Knows what a page is painted from."""

import math
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
    every = np.take(mine, ready.shown.labels, mode="clip")
    out, reach = np.zeros((*every.shape, 4), np.uint8), _WIDER * page.line_px
    if not every.any():
        return out
    down, along = np.flatnonzero(every.any(axis=1)), np.flatnonzero(every.any(axis=0))
    top, bottom, left, right = int(down[0]), int(down[-1]) + 1, int(along[0]), int(along[-1]) + 1
    edge = math.ceil(reach) + 1
    top, left, bottom, right = max(0, top - edge), max(0, left - edge), bottom + edge, right + edge
    box = np.s_[top:bottom, left:right]
    inside = np.ascontiguousarray(every[box])
    away = cv2.distanceTransform((~inside).view(np.uint8), cv2.DIST_L2, 5)
    beside = ~inside & (away <= reach)
    for strip in strips(len(inside)):
        rows = slice(top + strip.rows.start, top + strip.rows.stop)
        seen, line = ready.screen(rows, box[1]), ready.line(rows, box[1])
        seen[..., 3] = 255
        here, near = inside[strip.rows, :, None], beside[strip.rows, :, None]
        out[rows, box[1]] = np.where(here, seen, np.where(near, line, 0))
    out[out[..., 3] == 0] = 0
    return out
