# SPDX-License-Identifier: GPL-3.0-or-later
"""A mesh of triangles and how it is looked at. Knows numbers only."""

import math
from dataclasses import dataclass
from functools import cached_property

import msgspec
import numpy as np
import scipy

from drip_pot.core.arrays import F64, I64
from drip_pot.core.errors import BadInput

MOST_FACES = 60_000
SMALLEST_PX, LARGEST_PX = 24, 8000
_SMOOTH_DEG = 32.0


class PropView(msgspec.Struct, frozen=True):
    """How a mesh is looked at.

    Parameters
    ----------
    turn_deg, tilt_deg, roll_deg : float
        Turned about its upright, then tipped towards the eye, then turned in the picture, in degrees.
    depth : float
        Perspective: 0 is none, 1 is from very near.
    size_px : int
        Side of the square picture that it fills however it is turned, 24..8000.
    line_px : float
        Width of its outline; edges within it are half as wide. 0.5..60.
    """

    turn_deg: float = 30.0
    tilt_deg: float = 20.0
    roll_deg: float = 0.0
    depth: float = 0.4
    size_px: int = 600
    line_px: float = 4.0

    def __post_init__(self) -> None:
        if not all(math.isfinite(v) for v in (self.turn_deg, self.tilt_deg, self.roll_deg)):
            raise BadInput("A prop is turned by degrees.")
        if not 0 <= self.depth <= 1:
            raise BadInput("Perspective goes from 0 to 100 %, not {0:g} %.", self.depth * 100)
        if not SMALLEST_PX <= self.size_px <= LARGEST_PX:
            raise BadInput("A prop is {0} to {1} px large, not {2}.", SMALLEST_PX, LARGEST_PX, self.size_px)
        if not 0.5 <= self.line_px <= 60:
            raise BadInput("The line of a prop is 0.5 to 60 px wide, not {0:g}.", self.line_px)


@dataclass(frozen=True, eq=False)
class Mesh:
    """Triangles.

    Attributes
    ----------
    points : (V, 3) ndarray of float64
        Corners, y up; points at one place are one.
    faces : (F, 3) ndarray of int64
        Places in `points`.
    """

    points: F64
    faces: I64

    @cached_property
    def patches(self) -> I64:
        """The smooth piece of surface that every face belongs to, (F,)."""
        return patches_of(self)

    @cached_property
    def normals(self) -> F64:
        """The direction every face looks in, (F, 3), of length 1."""
        a, b, c = (self.points[self.faces[:, k]] for k in range(3))
        cross = np.cross(b - a, c - a)
        return np.asarray(cross / np.maximum(np.linalg.norm(cross, axis=1, keepdims=True), 1e-12))


def make_mesh(points: F64, faces: I64) -> Mesh:
    """Return a mesh with its points merged, in the middle and of radius 1.

    `points` are (N, 3) float64 x, y, z, `faces` (F, 3) int64 numbers of points.

    Raises
    ------
    BadInput
        If it has no faces, more than 60 000, or points that are no numbers.
    """
    if not len(faces) or not len(points):
        raise BadInput("The mesh has no faces; there is nothing to draw. Export it with its surfaces.")
    if len(faces) > MOST_FACES:
        raise BadInput("The mesh has {0} triangles; props have up to {1}. Reduce it first.", len(faces), MOST_FACES)
    points = np.asarray(points, np.float64)
    if not np.isfinite(points).all() or faces.min() < 0 or faces.max() >= len(points):
        raise BadInput("The mesh is damaged: it has points that are no numbers, or faces without points.")
    low, high = points.min(axis=0), points.max(axis=0)
    points = points - (low + high) / 2
    radius = float(np.linalg.norm(points, axis=1).max())
    if radius <= 0:
        raise BadInput("The mesh has no size; there is nothing to draw.")
    merged, where = np.unique(np.round(points / radius, 6), axis=0, return_inverse=True)
    faces = where.reshape(-1)[faces]
    sound = (faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 0] != faces[:, 2])
    if not sound.any():
        raise BadInput("The mesh has no faces; there is nothing to draw. Export it with its surfaces.")
    return Mesh(merged, faces[sound].astype(np.int64))


def patches_of(mesh: Mesh) -> I64:
    """Join faces that meet at a blunt edge; return the number of its piece for every face, (F,) int64."""
    edges = np.concatenate([mesh.faces[:, [0, 1]], mesh.faces[:, [1, 2]], mesh.faces[:, [2, 0]]])
    owner = np.tile(np.arange(len(mesh.faces)), 3)
    edges = np.sort(edges, axis=1)
    order = np.lexsort(edges.T[::-1])
    edges, owner = edges[order], owner[order]
    same = (edges[1:] == edges[:-1]).all(axis=1)
    one, two = owner[:-1][same], owner[1:][same]
    blunt = np.abs((mesh.normals[one] * mesh.normals[two]).sum(axis=1)) > math.cos(math.radians(_SMOOTH_DEG))
    one, two = one[blunt], two[blunt]
    graph = scipy.sparse.coo_array((np.ones(len(one)), (one, two)), (len(mesh.faces),) * 2)
    return np.asarray(scipy.sparse.csgraph.connected_components(graph, directed=False)[1], np.int64)
