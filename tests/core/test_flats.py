# SPDX-License-Identifier: GPL-3.0-or-later
"""What Flats stands on: panels, seeds, the fringe proof, region graphs."""

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from drip_pot.core.regions import (
    auto_gap,
    close_frame,
    decide,
    divide,
    find_atoms,
    find_fringe,
    find_panels,
    islands,
    make_stencil,
    region_graph,
    spread_seeds,
    undivided,
)
from drip_pot.core.render import label_pyramid, patched_pyramid
from tests.conftest import random_drawing, two_rooms


def page_of_panels(rects: list[tuple[int, int, int, int]], shape: tuple[int, int] = (900, 640)) -> np.ndarray:
    ink = np.zeros(shape, np.uint8)
    for top, left, bottom, right in rects:
        cv2.rectangle(ink, (left, top), (right, bottom), 255, 5)
        cv2.circle(ink, ((left + right) // 2, (top + bottom) // 2), 30, 255, 3)
    return ink


def found(ink: np.ndarray):
    plain = undivided(find_atoms(ink))
    return plain, decide(plain.atoms, gap_px=auto_gap(plain.atoms))


def test_panels_are_found_in_reading_order_and_the_gutter_is_none_of_them() -> None:
    rects = [(30, 30, 300, 300), (20, 330, 290, 610), (330, 30, 560, 610), (600, 320, 870, 610), (590, 30, 860, 290)]
    plain, part = found(page_of_panels(rects))
    panels = find_panels(plain.atoms.labels, part.region, plain.boxes)
    assert panels.framed
    order = [rects[0], rects[1], rects[2], rects[4], rects[3]]
    assert len(panels.rects) == len(order)
    for got, wanted in zip(panels.rects, order, strict=True):
        assert np.abs(np.array(got) - wanted).max() <= 8
    for number, (top, left, bottom, right) in enumerate(order, 1):
        assert panels.at((top + bottom) / 2, (left + right) / 2) == number
        circle = plain.atoms.labels[(top + bottom) // 2, (left + right) // 2]
        assert panels.panel[circle] == number
    assert panels.at(5, 5) == panels.panel[plain.atoms.labels[5, 5]] == panels.at(-3, 9999) == 0


def test_figures_across_the_gutter_do_not_make_one_panel_of_two() -> None:
    ink = page_of_panels([(30, 30, 870, 300), (30, 330, 870, 610)])
    cv2.circle(ink, (315, 450), 40, 0, -1)
    cv2.circle(ink, (315, 450), 40, 255, 5)
    plain, part = found(ink)
    assert len(find_panels(plain.atoms.labels, part.region, plain.boxes).rects) == 2


def test_panels_that_run_off_the_page_are_panels() -> None:
    ink = page_of_panels([(30, -20, 300, 660), (330, -20, 600, 310), (330, 340, 600, 660), (630, -20, 860, 660)])
    cv2.line(ink, (100, 30), (300, 300), 255, 5)  # what parts the ground of a panel, at the page's edge too
    cv2.line(ink, (0, 480), (310, 450), 255, 5)
    plain, part = found(ink)
    panels = find_panels(plain.atoms.labels, part.region, plain.boxes)
    assert [panels.at(*spot) for spot in ((60, 20), (280, 600), (400, 20), (590, 20), (400, 620), (840, 620))] == [
        1, 1, 2, 2, 3, 4,
    ]  # fmt: skip
    assert [panels.at(*spot) for spot in ((10, 10), (315, 10), (315, 630), (450, 325), (615, 320))] == [0] * 5


def test_a_panel_of_another_shape_is_one_beside_those_that_are_full() -> None:
    ink = page_of_panels([(30, 30, 300, 610), (330, 30, 600, 300)])
    cv2.polylines(ink, [np.array([(330, 860), (610, 860), (610, 330)])], True, 255, 5)
    plain, part = found(ink)
    panels = find_panels(plain.atoms.labels, part.region, plain.boxes)
    assert len(panels.rects) == 3
    assert panels.at(800, 540) == 3
    assert panels.at(400, 400) == 0


def crossed(rows: int, cols: int) -> np.ndarray:
    """A picture in four that runs off the page on all sides."""
    ink = np.zeros((rows, cols), np.uint8)
    cv2.line(ink, (0, 0), (cols, rows), 255, 4)
    return np.maximum(ink, ink[::-1])


@pytest.mark.parametrize("ink", [np.zeros((60, 80), np.uint8), random_drawing(3), crossed(400, 600)])
def test_a_page_without_gutter_is_one_panel(ink: np.ndarray) -> None:
    plain, part = found(ink)
    panels = find_panels(plain.atoms.labels, part.region, plain.boxes)
    assert not panels.framed
    assert panels.rects == ((0, 0, *ink.shape),)
    assert panels.at(ink.shape[0] / 2, 1) == 1


def spread(ink: np.ndarray, seeds: list, free: np.ndarray | None = None, gap: float | None = None):
    plain = undivided(find_atoms(ink))
    part = decide(plain.atoms, gap_px=auto_gap(plain.atoms) if gap is None else gap)
    free = np.ones(plain.atoms.count + 1, bool) if free is None else free
    return plain, spread_seeds(plain.atoms, part, plain.boxes, ink, seeds, free)


def test_a_seed_fills_its_room_and_stops_at_the_wall_and_at_shut_bridges() -> None:
    for ink, gap in ((two_rooms(), None), (two_rooms(12), 30)):
        plain, result = spread(ink, [(((100.0, 60.0), (110.0, 70.0)), 1)], gap=gap)
        labels = plain.atoms.labels
        assert result.seed[labels[60, 60]] == 0
        assert result.seed[labels[60, 220]] == result.seed[labels[5, 5]] == -1
        assert result.shares == ()
    plain, result = spread(two_rooms(12), [(((100.0, 60.0),), 1)], gap=0)
    assert result.seed[plain.atoms.labels[60, 220]] == 0, "through an open gap it goes on"


def test_two_seeds_share_an_open_drawing_where_it_is_narrow() -> None:
    ink = two_rooms(40)
    plain, result = spread(ink, [(((60.0, 60.0),), 1), (((60.0, 240.0),), 2)], gap=0)
    owner = np.full(ink.shape, -1)
    for share in result.shares:
        top, left, bottom, right = share.rect
        owner[top:bottom, left:right][share.mask] = share.seed
    owner = np.where(owner < 0, result.seed[plain.atoms.labels], owner)
    inside = owner[25:175, 25:275]
    assert set(np.unique(inside)) == {0, 1}
    left, right = owner[25:175, 25:140], owner[25:175, 160:275]
    assert (left == 0).mean() > 0.97
    assert (right == 1).mean() > 0.97


def test_nothing_keeps_others_out_and_what_is_taken_already_is_left() -> None:
    ink = two_rooms(40)
    plain, result = spread(ink, [(((60.0, 60.0),), 1), (((60.0, 240.0),), None)], gap=0)
    taken = {share.seed for share in result.shares} | set(result.seed[result.seed >= 0].tolist())
    assert taken == {0, 1}
    labels = plain.atoms.labels
    free = np.ones(plain.atoms.count + 1, bool)
    free[labels[60, 220]] = False
    plain, result = spread(two_rooms(12), [(((100.0, 60.0),), 1)], free, gap=0)
    far = plain.atoms.labels[60, 220]
    assert far == plain.atoms.labels[60, 60] or result.seed[far] == -1


@settings(max_examples=15)
@given(st.integers(0, 2000), st.integers(1, 5))
def test_shares_of_seeds_part_an_atom_wholly_and_never_overlap(seed: int, number: int) -> None:
    rng = np.random.default_rng(seed)
    seeds = [(tuple((float(r), float(c)) for r, c in rng.uniform(-20, 180, (3, 2))), int(k)) for k in range(number)]
    plain, result = spread(random_drawing(seed), seeds)
    covered = np.zeros(plain.atoms.labels.shape, int)
    atoms = set()
    for share in result.shares:
        top, left, bottom, right = share.rect
        covered[top:bottom, left:right] += share.mask
        atoms |= set(np.unique(plain.atoms.labels[top:bottom, left:right][share.mask]).tolist())
    assert covered.max(initial=0) <= 1
    assert np.array_equal(covered > 0, np.isin(plain.atoms.labels, list(atoms)))
    assert (result.seed[list(atoms)] == -1).all()


def test_no_fringe_where_flats_meet_under_the_line_and_every_pixel_of_it_where_they_do_not() -> None:
    ink = cv2.GaussianBlur(two_rooms(), (5, 5), 0)
    plain = undivided(find_atoms(ink))
    labels, count = plain.atoms.labels, plain.atoms.count
    left, right, outside = (int(labels[100, c]) for c in (80, 220, 3))
    for filled in ([left], [left, right], [left, right, outside], []):
        table = np.isin(np.arange(count + 1), filled)
        assert find_fringe(labels, ink, table, plain.atoms.line_px).px == 0
    thread = np.zeros(ink.shape, bool)
    thread[30:170, 150:156] = True
    cut = divide(plain, ink, [make_stencil((0, 0, *ink.shape), thread)]).atoms
    filled = np.isin(np.arange(cut.count + 1), [left, right])
    fringe = find_fringe(cut.labels, ink, filled, cut.line_px)
    soft = thread & (ink > 0) & (ink < 255)
    assert fringe.px == soft.sum() > 0
    top, at, bottom, end = fringe.rects[0]
    assert top <= 100 < bottom
    assert at <= 152 < end
    assert find_fringe(cut.labels, ink, filled, cut.line_px, 0.5).px == (thread & (ink > 0)).sum()


def test_the_region_graph_measures_thickness_and_finds_islands() -> None:
    ink = two_rooms()
    cv2.circle(ink, (80, 100), 20, 255, 3)
    plain, part = found(ink)
    graph = region_graph(part.region, plain.atoms.areas, plain.atoms.borders)
    assert graph.areas.sum() == ink.size
    labels = part.region[plain.atoms.labels]
    inner, room = (int(np.searchsorted(graph.ids, labels[100, c])) for c in (80, 40))
    assert (inner, room) in islands(graph)
    assert 14 < graph.thickness[inner] < 24, "a disc is as thick as its radius"


@given(st.integers(0, 500), st.integers(0, 900), st.integers(0, 900), st.integers(1, 300))
@settings(max_examples=15)
def test_a_patched_pyramid_is_the_pyramid_of_what_it_shows(seed: int, top: int, left: int, side: int) -> None:
    rng = np.random.default_rng(seed)
    before = rng.integers(1, 9, (1650, 1213), dtype=np.int32)
    after = before.copy()
    rect = (top, left, min(top + side, 1650), min(left + side, 1213))
    after[rect[0] : rect[2], rect[1] : rect[3]] = 77
    for got, wanted in zip(patched_pyramid(label_pyramid(before), after, rect), label_pyramid(after), strict=True):
        assert np.array_equal(got, wanted)


@given(st.integers(0, 10_000), st.integers(0, 5))
@settings(max_examples=25, deadline=None)
def test_a_frame_with_what_is_laid_into_its_openings_holds_water(seed: int, breaks: int) -> None:
    rng = np.random.default_rng(seed)
    turn = np.radians(rng.uniform(-20, 20) + np.array([225, 315, 45, 135]))
    corners = np.stack([150 + 100 * np.sin(turn), 150 + 100 * np.cos(turn)], axis=1)
    ink = np.zeros((300, 300), np.uint8)
    cv2.polylines(ink, [np.rint(corners[:, ::-1] + rng.uniform(-1.5, 1.5, (4, 2))).astype(np.int32)], True, 255, 3)
    side, share = rng.integers(4, size=breaks), rng.choice((0.0, *rng.random(2)), (breaks, 1))
    for spot in corners[side] * (1 - share) + corners[(side + 1) % 4] * share:
        cv2.circle(ink, np.rint(spot[::-1]).astype(int).tolist(), int(rng.integers(3, 20)), 0, -1)
    closed = ink.copy()
    dam = close_frame(ink, tuple(map(tuple, corners.tolist())), 5)
    cv2.polylines(closed, [np.rint(np.array(dam).reshape(-1, 2)[:, ::-1]).astype(np.int32)], False, 255, 2)
    _, pieces = cv2.connectedComponents((closed < 128).astype(np.uint8), connectivity=4)
    assert pieces[150, 150] != pieces[2, 2]
    assert len(dam) < 60
    assert dam or not breaks


def test_panels_drawn_and_taken_away_by_hand_stand_before_those_found() -> None:
    plain, part = found(page_of_panels([(30, 30, 300, 300), (30, 330, 300, 610), (330, 30, 870, 610)]))
    asked = plain.atoms.labels, part.region, plain.boxes
    panels = find_panels(*asked)
    assert [np.abs(np.array(c) - b).max() < 12 for c, b in zip(panels.corners[0], [(30, 30), (30, 300)], strict=False)]
    drawn = ((330.0, 30.0), (330.0, 300.0), (870.0, 300.0), (870.0, 30.0))
    wide = ((20.0, 20.0), (20.0, 620.0), (310.0, 620.0), (310.0, 20.0))
    gone = ((320.0, 20.0), (320.0, 620.0), (880.0, 620.0), (880.0, 20.0))
    panels = find_panels(*asked, [(wide, True), (drawn, True)])
    assert panels.corners[0] == wide
    assert panels.at(150, 150) == panels.at(150, 450) == 1
    assert len(panels.rects) == 3, "half of the third panel is left"
    panels = find_panels(*asked, [(gone, False)])
    assert len(panels.rects) == 2
    assert panels.at(600, 300) == 0
    bare = np.zeros((200, 160), np.uint8), np.zeros(2, np.int64), np.array([[0, 0, 0, 0], [0, 0, 200, 160]])
    alone = find_panels(bare[0].astype(np.int32), *bare[1:], [(((20, 20), (20, 140), (100, 140)), True)])
    assert (alone.framed, len(alone.rects), alone.at(150, 20)) == (True, 1, 0)
