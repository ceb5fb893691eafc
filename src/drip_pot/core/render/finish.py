# SPDX-License-Identifier: GPL-3.0-or-later
"""Colours corrected as they are: levels, curve, balance, hue and colourfulness, steps. Knows numbers only."""

import cv2
import msgspec
import numpy as np

from drip_pot.core.arrays import F64, U8
from drip_pot.core.color import fast_oklab, fast_srgb8
from drip_pot.core.errors import BadInput

_BAND = 0.25
_SIGMAS = 3.0


class Finish(msgspec.Struct, frozen=True):
    """A correction.

    Parameters
    ----------
    dark, light : int
        The values (0..255) that become black and white; `dark` lies below `light`.
    middle : float
        Exponent of what lies between, 0.2..5: above 1 is lighter.
    curve : tuple of (before, after)
        Points of a curve of 0..1 that the values follow, befores ascending; straight between them and level beyond.
    shadows, mids, lights : float
        Warmer (up to 1) or cooler (down to -1) in the dark, the middle and the light values.
    hue_deg : float
        Hue turned by so much, -180..180.
    chroma : float
        Colourfulness times so much, 0..3.
    steps : int
        Values of each channel left, 2..64; 0 leaves all.
    soften, soften_px : float
        How much of a blurred copy is mixed in, 0..1, and how far it is blurred (standard deviation, 0.5..100 px).
    """

    dark: int = 0
    light: int = 255
    middle: float = 1.0
    curve: tuple[tuple[float, float], ...] = ()
    shadows: float = 0.0
    mids: float = 0.0
    lights: float = 0.0
    hue_deg: float = 0.0
    chroma: float = 1.0
    steps: int = 0
    soften: float = 0.0
    soften_px: float = 12.0

    def __post_init__(self) -> None:
        if not 0 <= self.dark < self.light <= 255:
            raise BadInput(
                "The dark point lies below the light point, within 0 to 255, not {0} and {1}.", self.dark, self.light
            )
        if not 0.2 <= self.middle <= 5:
            raise BadInput("The middle goes from 0.2 to 5, not {0:g}.", self.middle)
        before = [x for x, _ in self.curve]
        if before != sorted(set(before)) or any(not 0 <= v <= 1 for point in self.curve for v in point):
            raise BadInput("The points of a curve go from left to right, within 0 to 100 %.")
        if any(not -1 <= v <= 1 for v in (self.shadows, self.mids, self.lights)):
            raise BadInput("Balance goes from -100 to 100 %.")
        if not -180 <= self.hue_deg <= 180 or not 0 <= self.chroma <= 3:
            raise BadInput("Hue turns by up to 180°, colourfulness goes from 0 to 300 %.")
        if self.steps and not 2 <= self.steps <= 64:
            raise BadInput("Values are reduced to 2 to 64 steps, not {0}.", self.steps)
        if not (0 <= self.soften <= 1 and 0.5 <= self.soften_px <= 100):
            raise BadInput("A finish is softened by 0 to 100 %, over 0.5 to 100 px.")

    def reach(self, step: int) -> int:
        """Return how many pixels about a pixel it looks at, where one stands for `step` pixels of the page."""
        return int(np.ceil(_SIGMAS * self.soften_px / step)) if self.soften else 0


def finish_table(finish: Finish) -> U8:
    """Return what levels, curve and balance make of every value of red, green and blue, (256, 3) uint8."""
    value = np.arange(256.0)
    value = np.clip((value - finish.dark) / (finish.light - finish.dark), 0, 1) ** (1 / finish.middle)
    if finish.curve:
        value = np.interp(value, *np.array(finish.curve).T)
    bands = np.stack([np.clip(1 - 2 * value, 0, 1), 1 - np.abs(2 * value - 1), np.clip(2 * value - 1, 0, 1)])
    warm: F64 = _BAND * (np.array([finish.shadows, finish.mids, finish.lights]) @ bands)
    channels = np.stack([value + warm / 2, value, value - warm], axis=1)
    return np.asarray(np.rint(np.clip(channels, 0, 1) * 255), np.uint8)


def finished(rgb: U8, finish: Finish) -> U8:
    """Correct colours, (..., 3) uint8 sRGB; hue and colourfulness are changed in OKLab, lightness kept."""
    table = finish_table(finish)
    out = np.asarray(cv2.LUT(rgb.reshape(-1, 1, 3), table[:, None]), np.uint8).reshape(rgb.shape)
    if finish.hue_deg or finish.chroma != 1:
        out = _turned(out, finish)
    if finish.steps:
        share = np.rint(np.arange(256) / 255 * (finish.steps - 1)) / (finish.steps - 1)
        out = np.rint(share * 255).astype(np.uint8)[out]
    return np.asarray(out, np.uint8)


def softened(pixels: U8, finish: Finish, step: int) -> U8:
    """Mix a blurred copy into (M, N, 4) uint8, each pixel standing for `step` pixels of the page."""
    reach = finish.reach(step)
    if not reach:
        return pixels
    size = (2 * reach + 1, 2 * reach + 1)
    soft = cv2.GaussianBlur(pixels, size, finish.soften_px / step)
    share = round(finish.soften * 255)
    mixed = pixels.astype(np.uint16) * (255 - share) + soft.astype(np.uint16) * share
    return np.asarray((mixed + 127) // 255, np.uint8)


def _turned(rgb: U8, finish: Finish) -> U8:
    """Turn hue and change colourfulness; what leaves sRGB is cut off at its edge."""
    lab = fast_oklab(rgb.reshape(-1, 3))
    turn = np.deg2rad(finish.hue_deg)
    c, s = np.float32(np.cos(turn) * finish.chroma), np.float32(np.sin(turn) * finish.chroma)
    a, b = lab[:, 1].copy(), lab[:, 2].copy()
    lab[:, 1], lab[:, 2] = a * c - b * s, a * s + b * c
    return fast_srgb8(lab).reshape(rgb.shape)
