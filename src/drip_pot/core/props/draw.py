# SPDX-License-Identifier: GPL-3.0-or-later
"""A mesh drawn as outlines and edges, what is hidden left out, by a depth buffer. Knows meshes and planes."""

import math
from dataclasses import dataclass

import cv2
import numpy as np

from drip_pot.core.arrays import F32, F64, I32, U8, Bool
from drip_pot.core.props.mesh import Mesh, PropView

_FINE, _MOST_SIDE = 2, 5000
_STEP = 0.035
_MARGIN = 1.5
_LIT = 0.12
MOST_WIRES = 4000


@dataclass(frozen=True)
class PropDrawing:
    """A drawn prop; planes are squares of `size_px`.

    Attributes
    ----------
    ink : (S, S) ndarray of uint8
        Coverage of its line.
    solid : (S, S) ndarray of uint8
        255 where it covers what is behind it, its outline with it.
    face : (S, S) ndarray of int32
        The face seen at every pixel; -1 is none.
    """

    ink: U8
    solid: U8
    face: I32


def draw_prop(mesh: Mesh, view: PropView) -> PropDrawing:
    """Draw a mesh as it is seen.

    Edges are those between smooth pieces of surface that the eye sees side by side; where one lies before the other or
    before nothing, they are outline and drawn in full width.
    """
    fine = max(1, min(_FINE, _MOST_SIDE // view.size_px))
    side = view.size_px * fine
    flat, depth = _projected(mesh, view, side, view.line_px * fine)
    face, near = _buffered(flat, depth, mesh, side)
    patch = np.where(face >= 0, mesh.patches[np.maximum(face, 0)], -1).astype(np.int32)
    outline, edge = _edges(patch, near)
    ink = np.maximum(_drawn(outline, view.line_px * fine), _drawn(edge, 0.5 * view.line_px * fine))
    around = cv2.distanceTransform((patch < 0).view(np.uint8), cv2.DIST_L2, 5) <= view.line_px * fine / 2 + fine
    size = (view.size_px, view.size_px)
    solid = cv2.resize(np.where(around, 255, 0).astype(np.uint8), size, interpolation=cv2.INTER_AREA)
    small = cv2.resize(ink, size, interpolation=cv2.INTER_AREA)
    seen = np.ascontiguousarray(face[fine // 2 :: fine, fine // 2 :: fine][: size[0], : size[1]])
    return PropDrawing(np.asarray(small, np.uint8), np.where(solid >= 128, 255, 0).astype(np.uint8), seen)


def _turned(view: PropView) -> F64:
    """Return the turn of a view as 3 × 3."""
    y, x, z = (math.radians(v) for v in (view.turn_deg, view.tilt_deg, view.roll_deg))
    about_y = np.array([[math.cos(y), 0, math.sin(y)], [0, 1, 0], [-math.sin(y), 0, math.cos(y)]])
    about_x = np.array([[1, 0, 0], [0, math.cos(x), -math.sin(x)], [0, math.sin(x), math.cos(x)]])
    about_z = np.array([[math.cos(z), math.sin(z), 0], [-math.sin(z), math.cos(z), 0], [0, 0, 1]])
    return np.asarray(about_z @ about_x @ about_y)


def _projected(mesh: Mesh, view: PropView, side: int, line_px: float) -> tuple[F64, F64]:
    """Return where points lie in the picture, x and y, (V, 2), and their nearness, which is linear there, (V,)."""
    points = mesh.points @ _turned(view).T
    radius = side / 2 - line_px - _MARGIN
    if view.depth <= 0:
        return points[:, :2] * [radius, -radius] + side / 2, points[:, 2]
    eye = 1.0 + 1.2 / view.depth
    away = eye - points[:, 2]
    scale = radius * math.sqrt(eye**2 - 1) / away  # so that the sphere about it just fills the picture
    return points[:, :2] * np.stack([scale, -scale], axis=1) + side / 2, (eye**2 - 1) / away


def wires(mesh: Mesh, view: PropView) -> F64:
    """Return the edges between smooth pieces of a mesh as lines in its picture, hidden ones too.

    They are (E, 2, 2) float64 of x, y in pixels.
    """
    flat, _ = _projected(mesh, view, view.size_px, view.line_px)
    edges = np.sort(np.concatenate([mesh.faces[:, [0, 1]], mesh.faces[:, [1, 2]], mesh.faces[:, [2, 0]]]), axis=1)
    owner = np.tile(mesh.patches, 3)
    unique, where = np.unique(edges, axis=0, return_inverse=True)
    low, high = np.full(len(unique), owner.max() + 1), np.full(len(unique), -1)
    np.minimum.at(low, where.reshape(-1), owner)
    np.maximum.at(high, where.reshape(-1), owner)
    alone = np.bincount(where.reshape(-1), minlength=len(unique)) == 1
    return np.asarray(flat[unique[(low != high) | alone][:MOST_WIRES]])


def _buffered(flat: F64, depth: F64, mesh: Mesh, side: int) -> tuple[I32, F32]:
    """Return the face seen at every pixel and its nearness; what is nearer hides what is behind."""
    face, near = np.full((side, side), -1, np.int32), np.full((side, side), -np.inf, np.float32)
    corners, heights = flat[mesh.faces], depth[mesh.faces]
    low = np.clip(np.floor(corners.min(axis=1)).astype(int), 0, side)
    high = np.clip(np.ceil(corners.max(axis=1)).astype(int) + 1, 0, side)
    area = (corners[:, 1, 0] - corners[:, 0, 0]) * (corners[:, 2, 1] - corners[:, 0, 1]) - (
        corners[:, 2, 0] - corners[:, 0, 0]
    ) * (corners[:, 1, 1] - corners[:, 0, 1])
    for number in np.flatnonzero((np.abs(area) > 1e-9) & (high > low).all(axis=1)).tolist():
        (x0, y0), (x1, y1) = low[number].tolist(), high[number].tolist()
        a, b, c = corners[number]
        x = np.arange(x0, x1)[None, :] + 0.5
        y = np.arange(y0, y1)[:, None] + 0.5
        one = ((b[0] - x) * (c[1] - y) - (c[0] - x) * (b[1] - y)) / area[number]
        two = ((c[0] - x) * (a[1] - y) - (a[0] - x) * (c[1] - y)) / area[number]
        three = 1 - one - two
        z = one * heights[number, 0] + two * heights[number, 1] + three * heights[number, 2]
        piece = near[y0:y1, x0:x1]
        seen = (one >= -1e-9) & (two >= -1e-9) & (three >= -1e-9) & (z > piece)
        piece[seen] = z[seen]
        face[y0:y1, x0:x1][seen] = number
    return face, near


def _edges(patch: I32, near: F32) -> tuple[Bool, Bool]:
    """Tell which pixels lie at an outline, and which at an edge within the surface."""
    outline, edge = np.zeros(patch.shape, bool), np.zeros(patch.shape, bool)
    for one, two in (
        ((slice(None), slice(None, -1)), (slice(None), slice(1, None))),
        ((slice(None, -1), slice(None)), (slice(1, None), slice(None))),
    ):
        differ = patch[one] != patch[two]
        with np.errstate(invalid="ignore"):
            apart = np.abs(near[one] - near[two]) > _STEP
        apart |= (patch[one] < 0) | (patch[two] < 0)
        outline[one] |= differ & apart
        edge[one] |= differ & ~apart
    return outline, edge


def _drawn(where: Bool, width: float) -> U8:
    """Draw a line of some width along pixels, smoothly."""
    if not where.any():
        return np.zeros(where.shape, np.uint8)
    away = cv2.distanceTransform((~where).view(np.uint8), cv2.DIST_L2, 5)
    return np.asarray(np.clip((width / 2 - away + 0.5) * 255, 0, 255), np.uint8)


def lit(mesh: Mesh, view: PropView, drawing: PropDrawing, light: tuple[float, float, float]) -> U8:
    """Tell what of a drawn prop is lit, (S, S) uint8 of 0 and 1; `light` points towards the lamp: right, up, to us."""
    normals = mesh.normals @ _turned(view).T
    normals = normals * np.where(normals[:, 2:] < 0, -1.0, 1.0)  # of a sheet seen from behind, the side we see
    toward = np.array(light, np.float64)
    toward = toward / max(float(np.linalg.norm(toward)), 1e-9)
    table = (normals @ toward > _LIT).astype(np.uint8)
    return np.where(drawing.face >= 0, table[np.maximum(drawing.face, 0)], 0).astype(np.uint8)
