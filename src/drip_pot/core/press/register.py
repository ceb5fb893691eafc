"""The register test: plates moved against each other, and the paper that opens up. Knows plates only."""

import cv2
import numpy as np

from drip_pot.core.arrays import U8
from drip_pot.core.errors import BadInput

BARE = 51
"""A pixel is bare paper when its four inks together come to 20 % or less (51 of 255)."""

_BLACK = 3
_DIRECTIONS = ((0, 1), (0, -1), (1, 0), (-1, 0))


def bare_paper(cmyk: U8, shift_px: int, halo: int = 0) -> list[int]:
    """Count the bare paper that shows when plates stray.

    Parameters
    ----------
    cmyk : (M, N, P) ndarray of uint8
        Plates in register.
    shift_px : int
        How far a plate strays, in whole pixels (0..100).
    halo : int
        Rows at the top and bottom that only give context, for counting a page in strips; at least
        2 × `shift_px` + 2 there, 0 at a page's own edge.

    Returns
    -------
    list of int
        Bare pixels for four arrangements of every plate but black: it strays by `shift_px` one way along or
        across the sheet, the other plates stay. Paper that is bare in register, and a margin of twice the shift
        around it, is not counted.

    Raises
    ------
    BadInput
        If the shift is out of range.
    """
    if not 0 <= shift_px <= 100:
        raise BadInput(f"The register test moves plates by 0 to 100 px, not {shift_px}.")
    inks = [np.ascontiguousarray(cmyk[..., plate]) for plate in range(cmyk.shape[2])]
    total = _sum(inks)
    size = 4 * shift_px + 3
    meant = cv2.dilate((total <= BARE).view(np.uint8), np.ones((size, size), np.uint8))
    counts = []
    for plate in (k for k in range(len(inks)) if k != _BLACK):
        rest = _sum([ink for k, ink in enumerate(inks) if k != plate])
        for dr, dc in _DIRECTIONS:
            strayed = _moved(inks[plate], dr * shift_px, dc * shift_px)
            bare = (cv2.add(rest, strayed) <= BARE) & (meant == 0)
            counts.append(int(np.count_nonzero(bare[halo : bare.shape[0] - halo])))
    return counts


def _sum(inks: list[U8]) -> U8:
    total = inks[0]
    for ink in inks[1:]:
        total = cv2.add(total, ink)
    return total


def _moved(ink: U8, rows: int, cols: int) -> U8:
    """Shift a plate; what lies beyond the edge is taken to go on as the edge does."""
    pad = max(abs(rows), abs(cols))
    if pad == 0:
        return ink
    wide = cv2.copyMakeBorder(ink, pad, pad, pad, pad, cv2.BORDER_REPLICATE)
    height, width = ink.shape
    return np.ascontiguousarray(wide[pad - rows : pad - rows + height, pad - cols : pad - cols + width])
