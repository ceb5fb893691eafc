# SPDX-License-Identifier: GPL-3.0-or-later
"""Black printed over inks, and the most ink on one spot. Knows plates of pixels; no page, no tables."""

import cv2
import numpy as np

from drip_pot.core.arrays import U8, U32, Bool

COVERS = 230
"""Coverage of black that hides what is under it."""


def overprint(cmyk: U8, black: U8) -> U8:
    """Print (M, N) uint8 coverage of black over (M, N, P) uint8 plates; the other inks stay as they are."""
    out = cmyk.copy()
    where = np.flatnonzero(black)
    count = cmyk.shape[2]
    under = cmyk.reshape(-1, count)[where, 3].astype(np.int32)
    out.reshape(-1, count)[where, 3] = under + ((255 - under) * black.reshape(-1)[where].astype(np.int32) + 127) // 255
    return out


def is_heavy(cmyk: U8, limit: int) -> Bool:
    """Tell where (M, N, P) uint8 plates leave no room for a solid of black within a limit (255 is one solid)."""
    return np.asarray(_total(cmyk) - cmyk[..., 3] + 255 > limit)


def under_dots(cmyk: U8, dots: Bool, limit: int) -> U8:
    """Return (M, N, P) uint8 plates lowered to leave room within a limit for dots of solid black, (M, N) bool."""
    where = np.flatnonzero(dots)
    if not len(where):
        return cmyk
    out = cmyk.copy()
    flat = out.reshape(-1, out.shape[2])
    inks = flat[where]
    full = inks.copy()
    full[:, 3] = 255
    room = within_limit(full[None], limit)[0]
    room[:, 3] = np.minimum(inks[:, 3], room[:, 3])
    flat[where] = room
    return out


def within_limit(cmyk: U8, limit: int) -> U8:
    """Take ink away where (M, N, P) uint8 plates come to more than a limit (255 is one solid).

    Cyan, magenta and yellow go first; black stays longest, and inks beside the four as long as it leaves room for them.
    """
    over = np.flatnonzero(_total(cmyk) > limit)
    if not len(over):
        return cmyk
    out = cmyk.copy()
    flat = out.reshape(-1, cmyk.shape[2])
    inks = flat[over].astype(np.int32)
    room = np.maximum(limit - inks[:, 3], 0)
    inks[:, 3] = np.minimum(inks[:, 3], limit)
    for cut in (slice(4, None), slice(0, 3)):
        total = inks[:, cut].sum(axis=1)
        kept = np.minimum(total, room)
        inks[:, cut] = inks[:, cut] * kept[:, None] // np.maximum(total, 1)[:, None]
        room = room - inks[:, cut].sum(axis=1)
    flat[over] = inks.astype(np.uint8)
    return out


def _total(cmyk: U8) -> U32:
    """Return the ink of all plates on every spot, (M, N)."""
    if cmyk.shape[2] != 4:
        return np.asarray(cmyk.sum(axis=2, dtype=np.uint32))
    four = np.ascontiguousarray(cmyk).view(np.uint32)[..., 0]  # four bytes at once
    pairs = (four & np.uint32(0xFF00FF)) + ((four >> np.uint32(8)) & np.uint32(0xFF00FF))
    return np.asarray((pairs & np.uint32(0xFFFF)) + (pairs >> np.uint32(16)))


def large_black(black: U8, depth_px: float, back_px: float) -> Bool:
    """Return where blacks that are deeper than some pixels are enriched: all of them but so many pixels at their edge.

    Parameters
    ----------
    black : (M, N) ndarray of uint8
        Coverage of overprinting black.
    depth_px, back_px : float
        How far the middle of a large black is from its edge, and how far what lies under it is held back.
    """
    depth = cv2.distanceTransform((black >= COVERS).view(np.uint8), cv2.DIST_L2, 5)
    deep = (depth >= depth_px).view(np.uint8)
    if not deep.any():
        return np.zeros(black.shape, bool)
    away = cv2.distanceTransform(1 - deep, cv2.DIST_L2, 5)
    return np.asarray((depth > back_px) & (away <= depth_px - back_px + 1))
