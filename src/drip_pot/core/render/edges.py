# SPDX-License-Identifier: GPL-3.0-or-later
"""Hard colour edges made smooth for screens. Knows a picture alone, and not what it shows."""

import numpy as np
from scipy.special import ndtri

from drip_pot.core.arrays import F32, U8, Bool

EDGE_REACH = 2
"""How far a pixel looks, in pixels."""
_STEP = 10  # 8-bit values: less is a soft edge already, or none
_SIGMA, _ASIDE, _THIN, _PIECE = 1.0, 0.5, 3, 1 << 17
_AROUND = [(r, c) for r in range(-EDGE_REACH, EDGE_REACH + 1) for c in range(-EDGE_REACH, EDGE_REACH + 1)]
_NEAR = np.array([max(abs(r), abs(c)) <= 1 for r, c in _AROUND])
_WEIGHTS = np.exp([-(r * r + c * c) / (2 * _SIGMA**2) for r, c in _AROUND]).astype(np.float32)


def smooth_edges(rgb: U8) -> U8:
    """Smooth the steps of hard edges between two colours, (M, N, 3) uint8 sRGB to the same.

    Colours with coverage, (M, N, 4) uint8, are colour times coverage, and then coverage.

    At each pixel beside an edge the share of its own colour about it, weighted by a Gaussian, tells how far off the
    edge is; the pixel is mixed as an edge there would cover it. Level and upright edges, soft ones and things one
    pixel wide stay as they are, and no pixel gives up more than half of its colour.
    """
    rows, cols = np.nonzero(_beside_edges(rgb))
    if not len(rows):
        return rgb
    padded = np.pad(rgb, ((EDGE_REACH, EDGE_REACH), (EDGE_REACH, EDGE_REACH), (0, 0)), mode="edge")
    out = rgb.copy()
    for start in range(0, len(rows), _PIECE):
        piece = slice(start, start + _PIECE)
        down, right = rows[piece] + EDGE_REACH, cols[piece] + EDGE_REACH
        seen = np.stack([padded[down + r, right + c] for r, c in _AROUND], axis=1).astype(np.float32)
        out[rows[piece], cols[piece]] = _mixed(seen)
    return out


def _beside_edges(rgb: U8) -> Bool:
    """Return which pixels have another colour within one pixel, (M, N) bool."""
    found = np.zeros(rgb.shape[:2], bool)
    for one, two in ((np.s_[:, 1:], np.s_[:, :-1]), (np.s_[1:], np.s_[:-1])):
        apart = np.maximum(rgb[one], rgb[two]) - np.minimum(rgb[one], rgb[two])
        edge = apart.max(axis=2) >= _STEP
        found[one] |= edge
        found[two] |= edge
    return found


def _mixed(seen: F32) -> U8:
    """Return the colours of pixels, (K, C), by what is seen about each, (K, 25, C)."""
    own = seen[:, len(_AROUND) // 2]
    toward = seen - own[:, None]
    far = np.where(_NEAR, (toward**2).sum(axis=2), -1).argmax(axis=1)
    axis = toward[np.arange(len(seen)), far]
    length = np.maximum((axis**2).sum(axis=1), 1)
    along = (toward * axis[:, None]).sum(axis=2) / length[:, None]
    aside = ((toward - along[..., None] * axis[:, None]) ** 2).sum(axis=2)
    counts = aside < (_ASIDE**2) * length[:, None]
    mine = counts & (along < 0.5)
    weight = _WEIGHTS * counts
    share = (weight * mine).sum(axis=1) / weight.sum(axis=1)
    cover = np.clip(_SIGMA * ndtri(np.clip(share, 1e-3, 1 - 1e-3)) + 0.5, 0.5, 1)
    cover[(mine & _NEAR).sum(axis=1) <= _THIN] = 1
    return np.asarray(np.rint(own + (1 - cover[:, None]) * axis), np.uint8)
