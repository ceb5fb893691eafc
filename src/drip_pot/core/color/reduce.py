# SPDX-License-Identifier: GPL-3.0-or-later
"""A picture reduced to a few flats with a line round them, so that it sits with a drawing. Knows colours and planes."""

import cv2
import numpy as np

from drip_pot.core.arrays import U8
from drip_pot.core.color.palette import telling_colors
from drip_pot.core.color.space import srgb8_to_oklab
from drip_pot.core.errors import BadInput

_LEAST_SHARE = 2e-4


def reduce_picture(rgb: U8, flats: int, line_px: float = 0.0) -> U8:
    """Reduce a picture to flat colours.

    It is smoothed along its edges first (bilateral filter: Tomasi and Manduchi, 'Bilateral filtering for gray and color
    images', ICCV 1998), and pieces too small to be flats go to what surrounds them.

    Parameters
    ----------
    rgb : (M, N, 3) ndarray of uint8
        sRGB.
    flats : int
        How many colours, 2..64.
    line_px : float
        Width of a black line between the flats; 0 is none.

    Returns
    -------
    (M, N, 3) ndarray of uint8
        At most so many colours, and black.

    Raises
    ------
    BadInput
        For a number of flats or a width that cannot be.
    """
    if not 2 <= flats <= 64:
        raise BadInput("A picture is reduced to 2 to 64 flats, not {0}.", flats)
    if not 0 <= line_px <= 100:
        raise BadInput("A line round flats is 0 to 100 px wide, not {0:g} px.", line_px)
    smooth = np.ascontiguousarray(rgb)
    for _ in range(3):
        smooth = np.asarray(cv2.bilateralFilter(smooth, 9, 28, 9), np.uint8)
    colors = telling_colors(smooth, flats)
    owner = _nearest(smooth, colors)
    owner = _without_specks(cv2.medianBlur(owner, 5), max(12, round(_LEAST_SHARE * owner.size)))
    out = colors[owner]
    if line_px > 0:
        edge = np.zeros(owner.shape, np.uint8)
        edge[:, 1:] |= (owner[:, 1:] != owner[:, :-1]).view(np.uint8)
        edge[1:] |= (owner[1:] != owner[:-1]).view(np.uint8)
        wide = max(1, round(line_px))
        around = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (wide, wide))
        out[cv2.dilate(edge, around) > 0] = 0
    return np.ascontiguousarray(out)


def _nearest(rgb: U8, colors: U8) -> U8:
    """Return the place of the nearest colour, in OKLab, for every pixel."""
    codes, where = np.unique(rgb.reshape(-1, 3) >> 2, axis=0, return_inverse=True)
    lab = srgb8_to_oklab((codes << 2 | 2).astype(np.uint8))
    known = srgb8_to_oklab(colors)
    apart = ((lab[:, None] - known[None]) ** 2).sum(axis=2)
    owner = apart.argmin(axis=1).astype(np.uint8)[where.reshape(-1)]
    return np.asarray(owner.reshape(rgb.shape[:2]), np.uint8)


def _without_specks(owner: U8, least: int) -> U8:
    """Give pieces of fewer pixels to the flat that lies nearest."""
    small = np.zeros(owner.shape, np.uint8)
    for value in np.unique(owner).tolist():
        _, labels, stats, _ = cv2.connectedComponentsWithStats((owner == value).view(np.uint8), connectivity=4)
        tiny = stats[:, cv2.CC_STAT_AREA] < least
        tiny[0] = False
        small |= tiny[labels].view(np.uint8)
    if not small.any() or small.all():
        return owner
    _, nearest = cv2.distanceTransformWithLabels(small, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    table = np.zeros(int(nearest.max()) + 1, np.uint8)
    table[nearest[small == 0]] = owner[small == 0]
    return np.where(small > 0, table[nearest], owner).astype(np.uint8)
