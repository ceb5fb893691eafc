# SPDX-License-Identifier: GPL-3.0-or-later
"""Meshes in open formats, OBJ and glTF, read as triangles. Knows files and meshes; trimesh reads them."""

import io
from collections.abc import Callable
from functools import lru_cache
from pathlib import Path

import numpy as np

from drip_pot.book import Picture
from drip_pot.core.errors import BadInput, DripPotError, Unreadable
from drip_pot.core.props import Mesh, PropView, draw_prop, make_mesh
from drip_pot.files.images import read_file

MESH_SUFFIXES = (".obj", ".glb", ".gltf")
_MOST_BYTES = 200 << 20


def read_mesh(path: Path) -> tuple[bytes, Mesh]:
    """Return a mesh file as it is, and what is in it; errors are those of `decode_mesh` and `read_file`."""
    data = read_file(path)
    return data, decode_mesh(data, path.name)


def decode_mesh(data: bytes, name: str) -> Mesh:
    """Read the triangles of a mesh.

    Raises
    ------
    Unreadable
        If it is no mesh that can be read.
    BadInput
        If it is too large, has no faces, or too many.
    """
    import trimesh  # takes a while to load, and is seldom needed

    suffix = Path(name).suffix.lower()
    if suffix not in MESH_SUFFIXES:
        raise Unreadable("{0} is no mesh that this program reads. Open {1}.", name, ", ".join(MESH_SUFFIXES))
    if len(data) > _MOST_BYTES:
        raise BadInput(
            "{0} has {1:.0f} MB; meshes up to 200 MB are read. Reduce it first.", name, len(data) / (1 << 20)
        )
    try:
        scene = trimesh.load_scene(io.BytesIO(data), file_type=suffix[1:], skip_materials=True)
        parts = [(np.asarray(g.vertices), np.asarray(g.faces)) for g in scene.dump() if isinstance(g, trimesh.Trimesh)]
    except Exception as error:
        raise Unreadable("{0} is damaged or no mesh. Export it again.", name) from error
    points = [p for p, _ in parts] or [np.zeros((0, 3))]
    starts = np.cumsum([0, *(len(p) for p in points)])
    faces = [f + start for (_, f), start in zip(parts, starts, strict=False)] or [np.zeros((0, 3), np.int64)]
    return make_mesh(np.concatenate(points), np.concatenate(faces).astype(np.int64))


class Meshes:
    """Reads and keeps the meshes of a book."""

    def __init__(self, original: Callable[[int], tuple[str, bytes]]) -> None:
        self._read = lru_cache(maxsize=4)(lambda number: _decoded(original, number))

    def __call__(self, original: int) -> Mesh | None:
        """Return a mesh; None where its file is damaged or missing."""
        found: Mesh | None = self._read(original)
        return found


def _decoded(original: Callable[[int], tuple[str, bytes]], number: int) -> Mesh | None:
    try:
        name, data = original(number)
        return decode_mesh(data, name)
    except DripPotError:
        return None


def prop_picture(mesh: Mesh | None, view: PropView) -> Picture:
    """Return a prop as a drawing with transparency; an empty one where its mesh is missing."""
    if mesh is None:
        blank = np.zeros((view.size_px, view.size_px), np.uint8)
        return Picture(255 - blank, None, blank)
    drawn = draw_prop(mesh, view)
    return Picture(255 - drawn.ink, None, drawn.solid)
