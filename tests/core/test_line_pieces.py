# SPDX-License-Identifier: GPL-3.0-or-later
"""Line divided into strokes: every bit of ink has one, junctions part them, and what lies in front is told."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.core.errors import BadInput
from drip_pot.core.holds import BORDER, DETAIL, SOLID, STROKE, LinePieces, Outlines, along, find_line_pieces, in_front
from drip_pot.core.regions import auto_gap, decide, find_atoms
from tests.conftest import random_drawing, two_rooms


def pieces_of(ink: np.ndarray, detail: np.ndarray | None = None) -> LinePieces:
    atoms = find_atoms(ink)
    region = decide(atoms, gap_px=auto_gap(atoms)).region
    return find_line_pieces(atoms.labels, region, atoms.areas, ink, atoms.line_px, detail)


@given(st.integers(0, 500))
def test_every_bit_of_ink_has_one_piece_and_nothing_else_has(seed: int) -> None:
    ink = random_drawing(seed)
    found = pieces_of(ink)
    assert ((found.plane > 0) == (ink > 0)).all() or found.count == 0
    assert found.plane.max() <= found.count
    for piece in np.unique(found.plane[found.plane > 0]).tolist():
        rows, cols = np.nonzero(found.plane == piece)
        if found.form[piece] != BORDER:
            box = found.boxes[piece]
            assert (rows.min(), cols.min(), rows.max() + 1, cols.max() + 1) == tuple(box)


def test_a_wall_ends_where_a_third_room_begins() -> None:
    found = pieces_of(two_rooms())
    wall, left, right = (found.at(*at, 4) for at in ((100, 150), (100, 22), (100, 278)))
    assert len({wall, left, right}) == 3
    assert found.at(22, 60, 4) == found.at(178, 60, 4) == left, "round the corner it is the same line"
    assert found.at(60, 80, 4) == 0
    assert abs(found.width_px[wall] - 7) < 1


def test_a_whisker_a_blot_and_detail_are_strokes_of_their_own() -> None:
    ink = two_rooms()
    cv2.line(ink, (150, 60), (90, 60), 255, 3)
    cv2.circle(ink, (80, 120), 18, 255, -1)
    detail = np.zeros_like(ink)
    cv2.line(detail, (200, 60), (260, 90), 255, 2)
    found = pieces_of(ink, detail)
    whisker, blot, mark, wall = (found.at(*at, 3) for at in ((60, 110), (120, 80), (75, 230), (100, 150)))
    assert [int(found.form[p]) for p in (whisker, blot, mark, wall)] == [STROKE, SOLID, DETAIL, BORDER]
    assert found.sides[whisker, 0] == found.sides[whisker, 1]


def test_what_covers_a_line_lies_in_front_of_it() -> None:
    ink = np.zeros((300, 400), np.uint8)
    cv2.rectangle(ink, (10, 10), (389, 289), 255, 4)
    cv2.line(ink, (10, 170), (389, 170), 255, 4)  # the horizon
    cv2.circle(ink, (200, 150), 60, 0, -1)
    cv2.circle(ink, (200, 150), 60, 255, 4)
    found = pieces_of(ink)
    atoms = find_atoms(ink).labels
    ball, sky = int(found.region[atoms[150, 200]]), int(found.region[atoms[60, 60]])
    kinds = np.arange(len(found.region))
    score = in_front(Outlines(found, kinds, kinds, found.edge))
    rim = found.at(91, 200, 4)
    assert set(found.sides[rim].tolist()) == {ball, sky}
    assert found.sides[rim, 0 if score[rim] >= 0 else 1] == ball


def test_a_page_without_line_has_no_pieces_and_wrong_planes_are_refused() -> None:
    empty = np.zeros((40, 50), np.uint8)
    assert pieces_of(empty).count == 0
    labels = np.ones((4, 4), np.int32)
    with pytest.raises(BadInput):
        find_line_pieces(labels, np.arange(2), np.array([0, 16]), labels.astype(np.float32), 3.0)


def test_places_lie_along_a_way_from_its_beginning_to_its_end() -> None:
    rows, cols = np.array([0, 10, 5, 50]), np.array([0, 50, 100, 150])
    assert along([(5, 0), (5, 100)], rows, cols) == pytest.approx([0, 0.5, 1, 1], abs=0.03)
    with pytest.raises(BadInput, match="Drag along"):
        along([(5, 5), (5, 5)], rows, cols)
