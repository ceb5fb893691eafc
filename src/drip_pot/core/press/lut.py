"""Inks of any colour, looked up in a table of the colour cube. Knows the press model; nothing of pages."""

from dataclasses import dataclass

import numpy as np

from drip_pot.core.arrays import F32, U8
from drip_pot.core.press.model import PressSettings, separate_colors

_SIDE = 17


@dataclass(frozen=True)
class InkTable:
    """Inks at the corners of a grid over red, green and blue, (17, 17, 17, 4) float32 of 0..255, and the ink limit."""

    grid: F32
    limit: float


def ink_table(press: PressSettings) -> InkTable:
    """Work the table out for a press; raises `BadInput` for settings out of range."""
    steps = np.rint(np.linspace(0, 255, _SIDE)).astype(np.uint8)
    red, green, blue = np.meshgrid(steps, steps, steps, indexing="ij")
    cmyk, _ = separate_colors(np.stack([red, green, blue], axis=-1).reshape(-1, 3), press)
    grid = cmyk.reshape(_SIDE, _SIDE, _SIDE, 4).astype(np.float32)
    grid[-1, -1, -1] = 0  # paper takes no ink
    return InkTable(grid, press.ink_limit * 2.55)


def inks_at(table: InkTable, rgb: U8) -> U8:
    """Return inks of colours, (K, 3) uint8, by trilinear interpolation, (K, 4) uint8; never above the ink limit."""
    place = rgb.astype(np.float32) * np.float32((_SIDE - 1) / 255)
    low = np.minimum(place.astype(np.int64), _SIDE - 2)
    part = (place - low)[..., None]
    flat, out = table.grid.reshape(-1, 4), np.zeros((len(rgb), 4), np.float32)
    for corner in range(8):
        step = np.array([corner >> 2 & 1, corner >> 1 & 1, corner & 1])
        index = ((low + step) @ np.array([_SIDE * _SIDE, _SIDE, 1])).astype(np.int64)
        weight = np.where(step[None, :, None] > 0, part, 1 - part).prod(axis=1)
        out += flat[index] * weight
    total = out.sum(axis=1, keepdims=True)
    out *= np.minimum(1, (table.limit - 2) / np.maximum(total, 1e-6))  # rounding may add half a step on each plate
    return np.rint(out).astype(np.uint8)
