"""Which thing every bit of line belongs to. Knows label planes and coverage only."""

import cv2
import numpy as np

from drip_pot.core.arrays import I32, U8, Bool, check_plane


def frame_line(labels: I32, gutter: Bool, line_px: float) -> Bool:
    """Tell where line runs between gutter and panels: the panel frames.

    Parameters
    ----------
    labels : (M, N) ndarray of int32
        Atom of every pixel.
    gutter : (A + 1,) ndarray of bool
        Atoms of the gutter.
    line_px : float
        Usual line width in pixels.

    Returns
    -------
    (M, N) ndarray of bool
        Within a line width of both, whether there is line or not.
    """
    outside = gutter[labels].view(np.uint8)
    size = 2 * round(line_px + 1) + 1
    kernel = np.ones((size, size), np.uint8)
    return np.asarray(cv2.dilate(outside, kernel) > cv2.erode(outside, kernel))


def line_atoms(
    labels: I32, ink: U8, chosen: Bool, line_px: float, plain: int | None = None, frames: Bool | None = None
) -> I32:
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
    plain : int, optional
        What to put where a line takes no colour of an atom: in solid blacks (more than three line widths thick) and
        in `frames`. Without it they keep their own label.
    frames : (M, N) ndarray of bool, optional
        Where panel frames run.

    Returns
    -------
    (M, N) ndarray of int32
        `labels`, but where a line borders a chosen atom its whole width belongs to that atom, not just the half
        that was absorbed into it. The same array as `labels` is returned, not a copy, when nothing is chosen.
    """
    check_plane(labels, np.int32, "labels")
    check_plane(ink, np.uint8, "ink")
    inside = chosen[labels]
    if not inside.any():
        return labels
    line = ink > 0
    other = line & ~inside
    depth = cv2.distanceTransform((ink > 127).astype(np.uint8), cv2.DIST_L2, 5)
    core = (depth > 1.5 * line_px + 1).astype(np.uint8)
    size = 2 * round(1.5 * line_px + 2) + 1
    solid = cv2.dilate(core, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (size, size))) > 0
    del depth, core
    bare = line & (solid if frames is None else solid | frames)
    away, nearest = cv2.distanceTransformWithLabels(
        (~inside).astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL
    )
    take = other & ~bare & (away <= 0.8 * line_px + 2)
    out = labels.copy()
    seeds = labels[inside]
    out[take] = seeds[nearest[take] - 1]
    if plain is not None:
        out[bare] = plain
    return out
