# SPDX-License-Identifier: GPL-3.0-or-later
"""What is known of labelled pieces: areas, boxes, and who borders whom. Knows only a label plane."""

from dataclasses import dataclass

import cv2
import numpy as np

from drip_pot.core.arrays import F64, I32, I64, Bool, check_plane
from drip_pot.core.strips import Strip, in_strips


@dataclass(frozen=True)
class Borders:
    """Neighbouring labels: `pairs` (K, 2), smaller first, and the `length_px` (K,) of their shared border."""

    pairs: I64
    length_px: I64


def find_borders(labels: I32) -> Borders:
    """List which labels of an (M, N) int32 plane touch (4-neighbours), and along how many pixel sides.

    Raises `BadInput` for another plane.
    """
    check_plane(labels, np.int32, "labels")

    def work(strip: Strip) -> tuple[I64, I64]:
        rows = labels[strip.rows.start : strip.rows.stop + 1]
        flat, width = rows.ravel(), rows.shape[1]
        inside = (strip.rows.stop - strip.rows.start) * width  # the row below belongs to the next strip
        across = np.flatnonzero(flat[: inside - 1] != flat[1:inside])
        across = across[across % width != width - 1]
        down = np.flatnonzero(flat[:-width] != flat[width:])
        return np.unique(np.concatenate([_keys(flat, across, 1), _keys(flat, down, width)]), return_counts=True)

    found = in_strips(work, len(labels))
    unique, where = np.unique(np.concatenate([keys for keys, _ in found]), return_inverse=True)
    length = np.bincount(where, weights=np.concatenate([n for _, n in found]), minlength=len(unique))
    return Borders(np.stack([unique >> 32, unique & 0xFFFFFFFF], axis=1), length.astype(np.int64))


def label_areas(labels: I32, count: int) -> I64:
    """Return the pixels of every label 0..count of an (M, N) int32 plane, (count + 1,) int64.

    Raises `BadInput` for another plane.
    """
    check_plane(labels, np.int32, "labels")
    parts = in_strips(lambda strip: np.bincount(labels[strip.rows].ravel(), minlength=count + 1), len(labels))
    return np.asarray(np.sum(parts, axis=0), np.int64)


def label_boxes(labels: I32, count: int) -> I64:
    """Return top, left, bottom, right of every label 0..count, (count + 1, 4) int64; the end lies outside.

    `labels` is (M, N) int32; raises `BadInput` for another plane.

    A label that does not occur has its top and left beyond the page and its bottom and right at 0.
    """
    check_plane(labels, np.int32, "labels")
    parts = in_strips(lambda strip: _boxes_in(strip, labels, count), len(labels), height=512)
    return np.concatenate([np.min(parts, axis=0)[:, :2], np.max(parts, axis=0)[:, 2:]], axis=1)


def _boxes_in(strip: Strip, labels: I32, count: int) -> I64:
    """Boxes within a strip, found from the ends of its runs along the rows."""
    piece, top = labels[strip.rows], strip.rows.start
    cols = piece.shape[1]
    box = np.zeros((count + 1, 4), np.int64)
    box[:, :2] = max(labels.shape)
    r, c = np.nonzero(_differ(piece[:, 1:], piece[:, :-1]))
    every = np.arange(piece.shape[0])
    starts = np.concatenate([np.stack([every, 0 * every]), np.stack([r, c + 1])], axis=1)
    ends = np.concatenate([np.stack([r, c]), np.stack([every, 0 * every + cols - 1])], axis=1)
    first, last = piece[starts[0], starts[1]], piece[ends[0], ends[1]]
    np.minimum.at(box[:, 0], first, starts[0] + top)
    np.maximum.at(box[:, 2], first, starts[0] + top + 1)
    np.minimum.at(box[:, 1], first, starts[1])
    np.maximum.at(box[:, 3], last, ends[1] + 1)
    return box


def _differ(one: I32, two: I32) -> np.ndarray[tuple[int, ...], np.dtype[np.uint8]]:
    if min(one.shape) < 2:  # OpenCV takes single rows and pixels for scalars
        return np.asarray((one != two).view(np.uint8))
    found = cv2.compare(np.ascontiguousarray(one), np.ascontiguousarray(two), cv2.CMP_NE)
    return np.asarray(found, np.uint8)


def _keys(flat: I32, at: I64, step: int) -> I64:
    """Both labels, as one number, of pixels and of those so many further on."""
    a, b = flat.take(at).astype(np.int64), flat.take(at + step).astype(np.int64)
    return np.asarray((np.minimum(a, b) << 32) | np.maximum(a, b))


def covered_shares(labels: I32, mask: Bool, areas: I64) -> F64:
    """Return how much of every label a mask covers, (count + 1,) float64 0..1.

    Parameters
    ----------
    labels : (m, n) ndarray of int32
        A piece of the page.
    mask : (m, n) ndarray of bool
        The mask over that piece; nothing beside it is covered.
    areas : (count + 1,) ndarray of int64
        Pixels of every label on the whole page.
    """
    inside = np.bincount(labels[mask], minlength=len(areas))[: len(areas)]
    return np.asarray(inside / np.maximum(areas, 1), np.float64)
