# SPDX-License-Identifier: GPL-3.0-or-later
"""The flat colours of a picture: soft edges and the noise of lossy files go to the flats beside them. Knows colours."""

from dataclasses import dataclass

import cv2
import numpy as np

from drip_pot.core.arrays import F64, I32, I64, U8, Bool
from drip_pot.core.color.space import fast_oklab, srgb8_to_oklab
from drip_pot.core.errors import BadInput

_LEAST_SHARE, _LEAST_PX = 2e-5, 8
_HARD_EDGE = 0.03  # share of pixels at edges whose colour is no flat's; antialiasing leaves a third and more
_NOISE = (0, 2, 4, 8, 12, 18)  # ranges of 8-bit values within 3 × 3 pixels that are taken for one colour, in turn
_LOSSY = 0.03
_FLAT_SHARE = 0.5
_ALIKE, _ALIKE_NOISE, _ECHO = 0.02, 0.0015, 0.05  # OKLab; per 8-bit value of noise; and how much rarer an echo is
_REACH = ((2, 0.05), (2, 0.05), (2, 0.05), (2, 9.0), (4, 9.0), (8, 9.0))  # pixels, and how unlike a flat in OKLab
_CODE = np.array((65536, 256, 1), np.int32)
_COARSE, _MIDDLE = 0xFCFCFC, 0x020202  # colours of lossy files are first told apart by six bits


@dataclass(frozen=True)
class FlatColors:
    """The flat colours of a picture.

    Attributes
    ----------
    colors : (K, 3) ndarray of uint8
        sRGB, the most frequent first where edges were soft.
    owner : (M, N) ndarray of int32
        The place of the colour of every pixel, from 1; 0 is none.
    soft : float
        The share of pixels, 0..1, that had a colour between flats or beside one and were given to a flat.
    """

    colors: U8
    owner: I32
    soft: float


def flat_colors(rgb: U8, there: Bool, most: int) -> FlatColors:
    """Find the flat colours of a picture and give every pixel to one.

    Where edges are hard, every colour counts. Where they are not, a colour is a flat that fills 3 × 3 pixels
    somewhere; a pixel between flats goes to the one beside it that it looks like most, so that an edge stays where it
    covered half.

    Parameters
    ----------
    rgb : (M, N, 3) ndarray of uint8
        sRGB.
    there : (M, N) ndarray of bool
        Where it has colour at all.
    most : int
        How many colours flats may have.

    Raises
    ------
    BadInput
        If it has more, or is no picture of flats.
    """
    codes = rgb.astype(np.int32) @ _CODE
    hard = _hard(rgb, codes, there, most)
    return hard if hard is not None else _soft(rgb, codes, there, most)


def _hard(rgb: U8, codes: I32, there: Bool, most: int) -> FlatColors | None:
    """Return the flats of a picture with hard edges; None if its edges are soft."""
    inner = _even(rgb, there, 0)
    unique, where, size = np.unique(codes[there], return_inverse=True, return_counts=True)
    main = size >= max(_LEAST_PX, _LEAST_SHARE * there.size)
    owner = np.zeros(there.shape, np.int32)
    if not main.any():
        return FlatColors(np.zeros((0, 3), np.uint8), owner, 0.0) if there.sum() < 4 * _LEAST_PX else None
    filled = np.isin(unique, np.unique(codes[inner]))
    edge = np.count_nonzero(there & ~inner)
    if size[~filled].sum() > _HARD_EDGE * edge or (main & ~filled).sum() > most:
        return None
    every = _colors(unique)
    _bounded(int(main.sum()), most)
    owner[there] = _nearest(srgb8_to_oklab(every), srgb8_to_oklab(every[main]))[where] + 1
    return FlatColors(every[main], owner, float(size[~main].sum() / max(1, there.sum())))


def _soft(rgb: U8, codes: I32, there: Bool, most: int) -> FlatColors:
    """Return the flats of a picture whose edges are soft, or that was kept with losses.

    What is wholly even tells its flats first; noisier places belong to one of those, or are another if none is alike.
    """
    whole = max(1, int(there.sum()))
    owner, lab = np.zeros(there.shape, np.int32), np.zeros((0, 3))
    lossy = np.count_nonzero(_even(rgb, there, _NOISE[3]) & ~_even(rgb, there, 0)) > _LOSSY * whole
    for noise in _NOISE:
        even = _even(rgb, there, noise)
        fresh = even & (owner == 0)
        coarse = codes[fresh] & _COARSE | _MIDDLE if noise else codes[fresh]
        unique, where, size = np.unique(coarse, return_inverse=True, return_counts=True)
        seen = srgb8_to_oklab(_colors(unique))
        alike, least = _ALIKE + _ALIKE_NOISE * noise, _LEAST_PX * (2 + noise)
        known = _alike(seen, lab, alike if noise else 0.0)
        peak = _peaks(seen, size, known == 0, alike if noise or not lossy else alike / 2, 1.0 if lossy else _ECHO)
        total = np.bincount(peak, size * (known == 0), minlength=len(size))
        kept = total >= max(least, _LEAST_SHARE * there.size)
        places = np.where(kept, len(lab) + np.cumsum(kept), 0).astype(np.int32)
        owner[fresh] = np.where(known > 0, known, places[peak])[where]
        lab = np.concatenate([lab, seen[kept]])
        _bounded(len(lab), most)
    inner = owner > 0
    if inner.sum() < _FLAT_SHARE * whole:
        _bounded(most + 1, most)
    told = _toned(codes[inner], owner[inner], len(lab))
    for place, code in enumerate((told.astype(np.int32) @ _CODE).tolist(), 1):
        owner[there & (owner == 0) & (codes == code)] = place  # thin things in the very colour of a flat
    owner = _spread(rgb, owner, there, told)
    changed = rgb != np.concatenate([np.zeros((1, 3), np.uint8), told])[owner]
    return FlatColors(told, owner, float(np.count_nonzero(changed.any(axis=2) & there) / whole))


def _bounded(count: int, most: int) -> None:
    if count > most:
        raise BadInput("This picture has more than {0} colours, which flats do not have. It may be a painting: lay it "
                       "on the page as a picture (Shade, Add, A picture).", most)  # fmt: skip


def _even(rgb: U8, there: Bool, noise: int) -> Bool:
    """Return where 3 × 3 pixels are all there, and differ by no more than so many 8-bit values in any channel."""
    square = np.ones((3, 3), np.uint8)
    apart = cv2.dilate(rgb, square) - cv2.erode(rgb, square)
    inside = cv2.erode(there.view(np.uint8), square, borderType=cv2.BORDER_CONSTANT, borderValue=1) > 0
    return np.asarray(inside & (apart.max(axis=2) <= noise))


def _alike(seen: F64, known: F64, alike: float) -> I32:
    """Return the place, from 1, of the nearest known colour within `alike`, for every colour; 0 is none."""
    if not len(known) or not len(seen):
        return np.zeros(len(seen), np.int32)
    place = _nearest(seen, known)
    apart = np.linalg.norm(seen - known[place], axis=1)
    return np.where(apart <= alike, place + 1, 0).astype(np.int32)


def _peaks(lab: F64, size: I64, free: Bool, alike: float, echo: float) -> I32:
    """Return, for every colour that is free, the place of a more frequent one that it is an echo of, or its own."""
    peak = np.arange(len(size), dtype=np.int32)
    open_ = free.copy()
    for place in np.argsort(-size, kind="stable").tolist():
        if not open_[place]:
            continue
        near = open_ & (size <= echo * size[place]) & (((lab - lab[place]) ** 2).sum(axis=1) < alike * alike)
        near[place] = True
        peak[near], open_[near] = place, False
    return peak


def _toned(codes: I32, owner: I32, count: int) -> U8:
    """Return the colour of each flat: the mean of what was taken for it, or the most frequent if it is half of it."""
    pairs, size = np.unique(owner.astype(np.int64) << 24 | codes, return_counts=True)
    place, every = (pairs >> 24).astype(np.int32), _colors((pairs & 0xFFFFFF).astype(np.int32))
    found = np.zeros((count, 3), np.uint8)
    for one in range(1, count + 1):
        mine = slice(*np.searchsorted(place, (one, one + 1)).tolist())
        top = int(size[mine].argmax())
        many = 2 * size[mine][top] >= size[mine].sum()
        found[one - 1] = every[mine][top] if many else np.rint(np.average(every[mine], axis=0, weights=size[mine]))
    return found


def _spread(rgb: U8, owner: I32, there: Bool, colors: U8) -> I32:
    """Give every pixel that has no flat to the flat beside it whose colour is nearest to its own."""
    owner = owner.copy()
    known = np.concatenate([np.zeros((1, 3)), srgb8_to_oklab(colors)]) if len(colors) else np.zeros((1, 3))
    for reach, unlike in _REACH:
        rows, cols = np.nonzero(there & (owner == 0))
        if not len(rows):
            return owner
        lab = fast_oklab(rgb[rows, cols])
        best, chosen = np.full(len(rows), unlike * unlike), np.zeros(len(rows), np.int32)
        padded = np.pad(owner, reach)
        for down in range(2 * reach + 1):
            for right in range(2 * reach + 1):
                beside = padded[rows + down, cols + right]
                apart = ((lab - known[beside]) ** 2).sum(axis=1)
                better = (beside > 0) & (apart < best)
                best[better], chosen[better] = apart[better], beside[better]
        owner[rows, cols] = chosen
    bare = (there & (owner == 0)).view(np.uint8)
    if bare.any() and (owner > 0).any():
        none = (owner == 0).view(np.uint8)
        _, place = cv2.distanceTransformWithLabels(none, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
        table = np.zeros(int(place.max()) + 1, np.int32)
        table[place[none == 0]] = owner[none == 0]
        owner[bare > 0] = table[place[bare > 0]]
    return owner


def _colors(codes: I32) -> U8:
    return np.stack([codes >> 16, codes >> 8 & 255, codes & 255], axis=1).astype(np.uint8)


def _nearest(lab: F64, known: F64) -> I32:
    """Return the place of the nearest colour, in OKLab, for every colour."""
    pieces = (lab[k : k + 4096, None] - known[None] for k in range(0, len(lab), 4096))
    return np.concatenate([(piece**2).sum(axis=2).argmin(axis=1) for piece in pieces]).astype(np.int32)
