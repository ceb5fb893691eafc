# SPDX-License-Identifier: GPL-3.0-or-later
"""Solid things drawn as line: hidden lines left out, edges inside, light on faces, bad meshes refused."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from drip_pot.core.errors import BadInput
from drip_pot.core.props import PropView, draw_prop, lit, make_mesh, wires

CORNERS = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], float)
CUBE = np.array([[0, 1, 3], [0, 3, 2], [4, 6, 7], [4, 7, 5], [0, 4, 5], [0, 5, 1], [2, 3, 7], [2, 7, 6],
                 [0, 2, 6], [0, 6, 4], [1, 5, 7], [1, 7, 3]])  # fmt: skip


def cube():
    return make_mesh(CORNERS, CUBE)


def test_a_cube_has_six_pieces_of_surface_and_twelve_edges() -> None:
    mesh = cube()
    assert mesh.patches.max() + 1 == 6
    assert len(wires(mesh, PropView())) == 12


def test_a_cube_seen_over_a_corner_shows_three_faces_and_nine_edges() -> None:
    drawing = draw_prop(cube(), PropView(45, 35, 0, 0.0, 300, 3.0))
    seen = {int(cube().patches[f]) for f in np.unique(drawing.face) if f >= 0}
    assert len(seen) == 3
    line, solid = drawing.ink > 127, drawing.solid > 0
    assert not (line & ~solid).any(), "its line lies on it"
    edge_px = 300 / 2 / (np.sqrt(3) / 2)
    around = 6 * edge_px * np.sqrt(2 / 3)
    assert abs(line.sum() - (3.0 * around + 1.5 * 3 * edge_px * np.sqrt(2 / 3))) < 0.15 * line.sum()


@settings(max_examples=15, deadline=None)
@given(st.floats(-180, 180), st.floats(-90, 90), st.floats(-180, 180), st.floats(0, 1))
def test_however_it_is_turned_it_fills_its_picture_and_is_whole(
    turn: float, tilt: float, roll: float, depth: float
) -> None:
    drawing = draw_prop(cube(), PropView(turn, tilt, roll, depth, 120, 3.0))
    assert drawing.ink.shape == drawing.solid.shape == drawing.face.shape == (120, 120)
    assert not drawing.solid[[0, -1]].any()
    assert not drawing.solid[:, [0, -1]].any()
    assert 0.15 < (drawing.face >= 0).mean() < 0.8
    assert (drawing.solid[drawing.face >= 0] > 0).all()


def test_what_is_nearer_hides_what_is_behind() -> None:
    behind = CORNERS * 0.4 + [0.3, 0.3, -2.0]
    mesh = make_mesh(np.concatenate([CORNERS, behind]), np.concatenate([CUBE, CUBE + 8]))
    drawing = draw_prop(mesh, PropView(0, 0, 0, 0.0, 200, 2.0))
    faces = np.unique(drawing.face)
    assert faces.max() < 12, "the small cube behind the large one is not seen"
    turned = draw_prop(mesh, PropView(90, 0, 0, 0.0, 200, 2.0))
    assert np.unique(turned.face).max() >= 12


def test_light_falls_on_the_faces_that_look_at_it() -> None:
    mesh, view = cube(), PropView(0, 0, 0, 0.0, 100, 2.0)
    drawing = draw_prop(mesh, view)
    assert lit(mesh, view, drawing, (0, 0, 1))[50, 50] == 1
    assert lit(mesh, view, drawing, (1, 0, -0.2))[50, 50] == 0
    assert not lit(mesh, view, drawing, (0, 0, 1))[0].any()


def test_meshes_and_views_that_cannot_be_are_refused_in_words() -> None:
    for points, faces, words in (
        (CORNERS, np.zeros((0, 3), int), "no faces"), (CORNERS * 0, CUBE, "no size"),
        (CORNERS * np.nan, CUBE, "damaged"), (CORNERS, CUBE + 5, "damaged"),
        (CORNERS, np.repeat(CUBE, 6000, axis=0), "Reduce it"), (CORNERS, np.array([[1, 1, 1]]), "no faces"),
    ):  # fmt: skip
        with pytest.raises(BadInput, match=words):
            make_mesh(points, faces)
    for wrong in ({"size_px": 4}, {"depth": 2.0}, {"line_px": 0.0}, {"turn_deg": float("nan")}):
        with pytest.raises(BadInput):
            PropView(**wrong)
