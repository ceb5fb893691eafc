# SPDX-License-Identifier: GPL-3.0-or-later
"""Where the regions of a drawing lie in another one, by dense optical flow between nearness-to-line pictures.

Knows scenes; nothing of shapes or colour. The flow is inverse search with patches (Kroeger, Timofte, Dai and Van Gool,
'Fast optical flow using dense inverse search', ECCV 2016), as OpenCV has it.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
import scipy

from drip_pot.core.arrays import F32, F64, I32
from drip_pot.core.carry.scene import Scene


@dataclass(frozen=True)
class Flow:
    """Where every small pixel of a drawing lies in the other one.

    Attributes
    ----------
    x, y : (m, n) ndarrays of float32
        Places in the other drawing.
    trust : (m, n) ndarray of float32
        1 where flowing there and back ends where it began, falling to 0.
    """

    x: F32
    y: F32
    trust: F32


def flow_between(old: Scene, new: Scene) -> tuple[Flow, Flow]:
    """Find where the pixels of `new` were in `old`, and where those of `old` are in `new`; both of one size."""
    there, back = _dense(new, old), _dense(old, new)
    return _checked(there, back), _checked(back, there)


def _checked(there: F32, back: F32) -> Flow:
    rows, cols = np.indices(there.shape[:2], np.float32)
    x, y = cols + there[..., 0], rows + there[..., 1]
    returned = cv2.remap(back, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    apart = np.hypot(there[..., 0] + returned[..., 0], there[..., 1] + returned[..., 1])
    return Flow(x, y, np.asarray(np.exp(-apart / 6.0), np.float32))


def _dense(one: Scene, other: Scene) -> F32:
    if min(one.line.shape) < 16:  # patches need room
        return np.zeros((*one.line.shape, 2), np.float32)
    finder = cv2.DISOpticalFlow.create(cv2.DISOPTICAL_FLOW_PRESET_MEDIUM)
    finder.setFinestScale(1)
    return np.asarray(finder.calc(one.line, other.line, None), np.float32)


def votes(new: Scene, old: Scene, x: F32, y: F32) -> scipy.sparse.csr_array:
    """Return which share of every new region falls on which old one, (R + 1, S + 1) float64 0..1.

    `x`, `y`, (m, n) float32, are the places in the old drawing of the pixels of the new one.
    """
    high, wide = old.labels.shape
    cols = np.clip(np.rint(x), 0, wide - 1).astype(np.int64)
    rows = np.clip(np.rint(y), 0, high - 1).astype(np.int64)
    hit = old.labels[rows, cols]
    return shares(new.labels, hit, new.count, old.count)


def shares(labels: I32, hit: I32, count: int, others: int) -> scipy.sparse.csr_array:
    """Return the share of every label that falls on each of others, a sparse (count + 1, others + 1) of 0..1.

    `labels` and `hit` are (m, n) int32.
    """
    ones = np.ones(labels.size)
    table = scipy.sparse.coo_array((ones, (labels.ravel(), hit.ravel())), (count + 1, others + 1)).tocsr()
    whole = np.asarray(table.sum(axis=1)).ravel()
    return scipy.sparse.csr_array(scipy.sparse.diags_array(1 / np.maximum(whole, 1)) @ table)


def flowed(new: Scene, flow: Flow) -> tuple[F64, F64]:
    """Return the mean place of every region in the old drawing, and how far it is trusted.

    They are (R + 1, 2) float64 pixels and (R + 1,) float64 0..1.
    """
    flat = new.labels.ravel()
    seen = np.maximum(np.bincount(flat, minlength=new.count + 1), 1)
    sums = [np.bincount(flat, plane.ravel(), new.count + 1) / seen for plane in (flow.x, flow.y, flow.trust)]
    return np.stack(sums[:2], axis=1), sums[2]


def follow(old: Scene, new: Scene, points: F64) -> F64:
    """Return where places x, y, (K, 2) float64, of an old drawing are in the new one; both scenes of one size."""
    if not len(points):
        return points
    _, ahead = flow_between(old, new)
    x, y = (np.ascontiguousarray(points[None, :, k], np.float32) for k in range(2))
    edge = cv2.BORDER_REPLICATE
    found = [cv2.remap(plane, x, y, cv2.INTER_LINEAR, borderMode=edge)[0] for plane in (ahead.x, ahead.y)]
    high, wide = old.labels.shape
    inside = (points[:, 0] >= 0) & (points[:, 0] < wide) & (points[:, 1] >= 0) & (points[:, 1] < high)
    return np.where(inside[:, None], np.stack(found, axis=1), points).astype(np.float64)
