"""Trapping: which edges need it and where the lighter colour spreads. Knows colour numbers and coverage only."""

from dataclasses import dataclass

import cv2
import numpy as np

from drip_pot.core.arrays import I32, U8, U16, Bool, check_plane
from drip_pot.core.press.plates import Plates

_OPPOSED = 26
_COVERS = 230


@dataclass(frozen=True)
class Traps:
    """Where colour is spread.

    Attributes
    ----------
    spread : (M, N) ndarray of uint16
        Number (from 1) of the colour spread into each pixel; 0 for none.
    edge_px : int
        Pixel sides at which two colours meet.
    needed_px : int
        Pixel sides at which they meet without black between them and without enough ink in common.
    """

    spread: U16
    edge_px: int
    needed_px: int


def color_ids(labels: I32, shade: U8 | None, ink: U8, line_labels: I32, plates: Plates) -> tuple[U16, U8]:
    """Give every pixel the number of its inks, and find overprinting black.

    Parameters are those of `separate`.

    Returns
    -------
    ids : (M, N) ndarray of uint16
        Index into `plates.inks`, 1 and up. A coloured line covering at least half of a pixel counts as the
        pixel's colour.
    black : (M, N) ndarray of uint8
        Coverage of black that overprints.
    """
    index = labels if shade is None else labels + shade.astype(np.int32) * (len(plates.flat) // 2)
    ids = np.take(plates.flat, index, mode="clip")
    if plates.is_black.all():
        return ids, ink
    is_black = np.take(plates.is_black, line_labels, mode="clip")
    line = np.take(plates.line, line_labels, mode="clip")
    return np.where(~is_black & (ink >= 128), line, ids), np.where(is_black, ink, 0).astype(np.uint8)


def needs_trap(inks: U8) -> Bool:
    """Tell which colours must spread into which.

    Parameters
    ----------
    inks : (C, P) ndarray of uint8
        Distinct inks, cyan, magenta, yellow, black first.

    Returns
    -------
    (C, C) ndarray of bool
        True at [a, b] where a is the lighter, and each has at least 10 % more of some ink than the other: only
        then can paper show between them.
    """
    wide = inks.astype(np.int32)
    more = (wide[:, None, :] - wide[None, :, :] >= _OPPOSED).any(axis=2)
    density = wide @ np.array([58, 68, 14, 170, *[60] * (wide.shape[1] - 4)])
    lighter = density[:, None] < density[None, :]
    return np.asarray(more & more.T & lighter)


def find_traps(ids: U16, black: U8, inks: U8, width_px: float) -> Traps:
    """Spread lighter colours into darker ones wherever nothing black hides their edge.

    Parameters
    ----------
    ids : (M, N) ndarray of uint16
        Colour numbers from 1, as `color_ids` gives them.
    black : (M, N) ndarray of uint8
        Coverage of overprinting black.
    inks : (C + 1, P) ndarray of uint8
        Inks of each colour; entry 0 unused.
    width_px : float
        How far to spread; 0 only counts edges.

    Notes
    -----
    An edge is hidden where the black over it reaches at least `width_px` (at least 1 px) to both sides. Of
    several colours that could spread into a pixel the nearest wins.
    """
    check_plane(ids, np.uint16, "ids")
    spreads = needs_trap(inks)
    reach = max(width_px, 1.0)
    depth = cv2.distanceTransform((black >= _COVERS).view(np.uint8), cv2.DIST_L2, 5)
    hidden = depth > reach
    edge_px, needed_px, sources = 0, 0, []
    cols = ids.shape[1]
    for one, two, step in (
        ((slice(None), slice(None, -1)), (slice(None), slice(1, None)), 1),
        ((slice(None, -1), slice(None)), (slice(1, None), slice(None)), cols),
    ):
        r, c = np.nonzero(ids[one] != ids[two])
        edge_px += len(r)
        at = r * cols + c
        at = at[~hidden.ravel()[at]]
        a, b = ids.ravel()[at], ids.ravel()[at + step]
        needed_px += int((spreads[a, b] | spreads[b, a]).sum())
        sources += [at[spreads[a, b]], (at + step)[spreads[b, a]]]
    spread = np.zeros_like(ids)
    if width_px > 0:
        _spread(spread, ids, np.unique(np.concatenate(sources)), spreads, width_px)
    return Traps(spread, edge_px, needed_px)


def _spread(
    spread: U16, ids: U16, sources: np.ndarray[tuple[int], np.dtype[np.int64]], spreads: Bool, width_px: float
) -> None:
    reach = int(np.ceil(width_px + 0.5))
    offsets = [(r, c) for r in range(-reach, reach + 1) for c in range(-reach, reach + 1)]
    offsets = [o for o in offsets if 0 < np.hypot(*o) <= width_px + 0.5]
    rows, cols = sources // ids.shape[1], sources % ids.shape[1]
    own = ids.ravel()[sources]
    for dr, dc in sorted(offsets, key=lambda o: -np.hypot(*o)):
        r, c = rows + dr, cols + dc
        inside = (r >= 0) & (c >= 0) & (r < ids.shape[0]) & (c < ids.shape[1])
        r, c, mine = r[inside], c[inside], own[inside]
        darker = spreads[mine, ids[r, c]]
        spread[r[darker], c[darker]] = mine[darker]
