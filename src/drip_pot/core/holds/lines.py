"""Which thing every bit of line belongs to. Knows label planes and coverage only."""

import cv2
import numpy as np

from drip_pot.core.arrays import I32, U8, Bool, check_plane


def line_atoms(labels: I32, ink: U8, chosen: Bool, line_px: float) -> I32:
    """Tell which atom each line pixel takes its colour from.

    Parameters
    ----------
    labels : (M, N) ndarray of int32
        Atom of every pixel; the line is absorbed to its middle.
    ink : (M, N) ndarray of uint8
        Line coverage.
    chosen : (A + 1,) ndarray of bool
        Atoms whose lines take a colour of their own.
    line_px : float
        Usual line width in pixels.

    Returns
    -------
    (M, N) ndarray of int32
        `labels`, but where a line borders a chosen atom its whole width belongs to that atom, not just the half
        that was absorbed into it. Solid blacks (more than three line widths thick) keep their own label. The
        same array as `labels` is returned, not a copy, when nothing differs.
    """
    check_plane(labels, np.int32, "labels")
    check_plane(ink, np.uint8, "ink")
    inside = chosen[labels]
    if not inside.any() or inside.all():
        return labels
    line = ink > 0
    other = line & ~inside
    depth = cv2.distanceTransform((ink > 127).astype(np.uint8), cv2.DIST_L2, 5)
    core = (depth > 1.5 * line_px + 1).astype(np.uint8)
    size = 2 * round(1.5 * line_px + 2) + 1
    solid = cv2.dilate(core, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (size, size))) > 0
    del depth, core
    away, nearest = cv2.distanceTransformWithLabels(
        (~inside).astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL
    )
    take = other & ~solid & (away <= 0.8 * line_px + 2)
    out = labels.copy()
    seeds = labels[inside]
    out[take] = seeds[nearest[take] - 1]
    return out
