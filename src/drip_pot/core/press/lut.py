# SPDX-License-Identifier: GPL-3.0-or-later
"""Inks of any colour, looked up in a table of the colour cube. Knows the press model; nothing of pages."""

from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np

from drip_pot.core.arrays import F32, U8
from drip_pot.core.press.model import PressSettings, separate_colors

_SIDE, _WIDE, _HIGH = 17, 4096, 512


@dataclass(frozen=True)
class InkTable:
    """Inks at the corners of a grid over red, green and blue, (17, 17, 17, 4) float32 of 0..255, and the ink limit."""

    grid: F32
    limit: float

    @cached_property
    def slices(self) -> F32:
        """The grid by blue, then red, down, and green across, (17 · 17, 17, 4) float32."""
        return np.ascontiguousarray(self.grid.transpose(2, 0, 1, 3).reshape(_SIDE * _SIDE, _SIDE, 4))


def ink_table(press: PressSettings) -> InkTable:
    """Work the table out for a press; raises `BadInput` for settings out of range."""
    steps = np.rint(np.linspace(0, 255, _SIDE)).astype(np.uint8)
    red, green, blue = np.meshgrid(steps, steps, steps, indexing="ij")
    cmyk, _ = separate_colors(np.stack([red, green, blue], axis=-1).reshape(-1, 3), press)
    grid = cmyk.reshape(_SIDE, _SIDE, _SIDE, 4).astype(np.float32)
    grid[-1, -1, -1] = 0  # paper takes no ink
    return InkTable(grid, press.ink_limit * 2.55)


def inks_at(table: InkTable, rgb: U8) -> U8:
    """Return inks of colours, (K, 3) uint8, by trilinear interpolation, (K, 4) uint8; never above the ink limit.

    Places between the corners of the grid count in steps of 1/32.
    """
    count = len(rgb)
    wide = min(count, _WIDE)
    padded = np.zeros((-(-count // wide) * wide if count else 0, 3), np.float32)
    padded[:count] = rgb
    padded *= np.float32((_SIDE - 1) / 255)
    red, green, blue = (padded[:, k].reshape(-1, wide) if count else padded for k in range(3))
    out = np.zeros((count, 4), np.float32)
    slices = table.slices
    for rows in range(0, len(red) if count else 0, _HIGH):
        cut = slice(rows, rows + _HIGH)
        low = np.minimum(np.floor(blue[cut]), _SIDE - 2)
        part = (blue[cut] - low)[..., None]
        down = red[cut] + low * _SIDE
        near = cv2.remap(slices, green[cut], down, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        far = cv2.remap(slices, green[cut], down + np.float32(_SIDE), cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        inks = (near + (far - near) * part).reshape(-1, 4)
        first = rows * wide
        out[first : first + len(inks)] = inks[: count - first]
    total = out.sum(axis=1)
    over = total > table.limit - 2  # rounding may add half a step on each plate
    out[over] *= ((table.limit - 2) / total[over])[:, None]
    return np.rint(out).astype(np.uint8)
