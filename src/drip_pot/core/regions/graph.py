"""The region graph: who borders whom, and for how long. Knows only a label plane."""

from dataclasses import dataclass

import cv2
import numpy as np

from drip_pot.core.arrays import I32, I64, check_plane


@dataclass(frozen=True)
class Borders:
    """Neighbouring labels: `pairs` (K, 2), smaller first, and the `length_px` (K,) of their shared border."""

    pairs: I64
    length_px: I64


def find_borders(labels: I32) -> Borders:
    """List which labels of an (M, N) int32 plane touch (4-neighbours), and along how many pixel sides."""
    check_plane(labels, np.int32, "labels")
    keys = [
        _keys(labels[:, :-1], labels[:, 1:]),
        _keys(labels[:-1], labels[1:]),
    ]
    unique, length = np.unique(np.concatenate(keys), return_counts=True)
    return Borders(np.stack([unique >> 32, unique & 0xFFFFFFFF], axis=1), length.astype(np.int64))


def _keys(one: I32, two: I32) -> I64:
    if one.size == 0:
        return np.zeros(0, np.int64)
    rows, cols = np.nonzero(
        cv2.compare(np.ascontiguousarray(one), np.ascontiguousarray(two), cv2.CMP_NE).reshape(one.shape)
    )
    a, b = one[rows, cols].astype(np.int64), two[rows, cols].astype(np.int64)
    return np.asarray((np.minimum(a, b) << 32) | np.maximum(a, b))
