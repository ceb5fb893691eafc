"""Levels and line weight: evened grey to ink coverage. Knows nothing of paper or specks."""

import cv2
import msgspec
import numpy as np

from drip_pot.core.arrays import U8, check_plane
from drip_pot.core.errors import BadInput


class InkSettings(msgspec.Struct, frozen=True):
    """How a scan becomes line; every value can be changed later.

    Parameters
    ----------
    white : int
        Evened grey that becomes no ink (1..255).
    black : int
        Evened grey that becomes full ink (0..white - 1).
    weight_px : float
        Line made heavier (above 0) or lighter (below 0), in pixels each side (-4..4).
    speck_px : int
        Isolated specks of up to so many pixels are removed (0 keeps all).
    even_paper : bool
        Whether uneven paper light is removed first.
    """

    white: int = 225
    black: int = 60
    weight_px: float = 0.0
    speck_px: int = 0
    even_paper: bool = True

    def __post_init__(self) -> None:
        if not 0 <= self.black < self.white <= 255:
            raise BadInput(f"Black must be below white, both 0 to 255; black is {self.black}, white is {self.white}.")
        if not -4 <= self.weight_px <= 4:
            raise BadInput(f"Line weight goes from -4 to 4 px, not {self.weight_px:g}.")
        if not 0 <= self.speck_px <= 10_000:
            raise BadInput(f"Speck size goes from 0 to 10 000 px, not {self.speck_px}.")


def suggest_settings(evened: U8, dpi: float) -> InkSettings:
    """Choose white, black and speck size from the histogram of an evened page.

    Parameters
    ----------
    evened : (M, N) ndarray of uint8
        The page after `remove_paper`.
    dpi : float
        Resolution, for the speck size: about 0.25 mm square at most.

    Notes
    -----
    White lies below the paper's own spread, black at the middle of the dark class (Otsu's split), so that
    scanner noise disappears and the edges stay anti-aliased. A page of one tone gets the defaults.
    """
    check_plane(evened, np.uint8, "evened")
    sample = evened[:: max(1, evened.shape[0] // 2000), :: max(1, evened.shape[1] // 2000)]
    split, _ = cv2.threshold(np.ascontiguousarray(sample), 0, 255, cv2.THRESH_BINARY | cv2.THRESH_OTSU)
    light, dark = sample[sample > split], sample[sample <= split]
    if light.size == 0 or dark.size == 0 or float(light.mean()) - float(dark.mean()) < 40:
        return InkSettings()
    paper = float(np.median(light))
    spread = float(np.median(np.abs(light.astype(np.float32) - paper))) * 1.48
    white = int(np.clip(paper - max(4.0 * spread, 3.0), 1, 255))
    black = int(np.clip(np.median(dark) + 8, 0, 0.6 * white))
    speck = 0 if spread < 0.5 else round((dpi / 25.4 * 0.25) ** 2)
    return InkSettings(white=white, black=black, speck_px=speck)


def coverage(evened: U8, settings: InkSettings) -> U8:
    """Turn an evened page, or a piece of one, into anti-aliased ink coverage.

    Parameters
    ----------
    evened : (M, N) ndarray of uint8
        The page after `remove_paper`.
    settings : InkSettings
        White, black and weight are used; specks are a matter for the whole page (`erase_specks`).

    Returns
    -------
    (M, N) ndarray of uint8
        0 is bare, truly transparent paper; 255 is full ink.
    """
    check_plane(evened, np.uint8, "evened")
    ramp = (settings.white - np.arange(256, dtype=np.float32)) / (settings.white - settings.black)
    ink: U8 = cv2.LUT(evened, np.rint(np.clip(ramp, 0, 1) * 255).astype(np.uint8))
    return ink if settings.weight_px == 0 else _weigh(ink, settings.weight_px)


def _weigh(ink: U8, weight_px: float) -> U8:
    step = cv2.dilate if weight_px > 0 else cv2.erode
    disc = cv2.getStructuringElement(cv2.MORPH_CROSS, (3, 3))
    whole, part = divmod(abs(weight_px), 1.0)
    if whole:
        ink = step(ink, disc, iterations=int(whole))
    if part:
        ink = cv2.addWeighted(ink, 1 - part, step(ink, disc), part, 0)
    return ink
