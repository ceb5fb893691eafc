# SPDX-License-Identifier: GPL-3.0-or-later
"""Gaps: where bridges are looked for, what stops colour, and how they are judged."""

import cv2
import numpy as np
import pytest
import scipy
from hypothesis import example, given, settings
from hypothesis import strategies as st

from drip_pot.core.near import close_pairs
from drip_pot.core.regions import auto_gap, bridge_verdicts, decide, draw_barrier, find_atoms
from drip_pot.core.regions.atoms import Atoms
from drip_pot.core.regions.barrier import find_outline
from drip_pot.core.regions.clefts import DEPTH_SCALE, find_clefts
from drip_pot.core.regions.company import company
from drip_pot.core.regions.gaps import EVIDENCE, Bridges
from drip_pot.core.regions.graph import Borders
from drip_pot.core.regions.judge import components
from drip_pot.core.regions.rivals import greedy
from drip_pot.core.regions.tips import find_tips
from drip_pot.core.regions.weights import Trees, judges, likeliness


def ring(line: int, gap: int, *, ends: str = "round", size: int = 420) -> np.ndarray:
    """A circle of a line width with a gap in it, whose ends are round or square."""
    ink = np.zeros((size, size), np.uint8)
    center, radius = size // 2, size // 3
    half = np.degrees((gap + (line if ends == "round" else 0)) / 2 / radius)
    angles = np.radians(np.linspace(half, 360 - half, 720))
    points = np.stack([center + radius * np.cos(angles), center + radius * np.sin(angles)], axis=1)
    cv2.polylines(ink, [np.rint(points * 16).astype(np.int32)], False, 255, line, cv2.LINE_AA, 4)
    if ends == "square":
        cut = np.array(
            [[center, center - gap / 2], [size, center - gap / 2], [size, center + gap / 2], [center, center + gap / 2]]
        )
        cv2.fillPoly(ink, [np.rint(cut * 16).astype(np.int32)], 0, cv2.LINE_AA, 4)
    return ink


def parted(ink: np.ndarray, inside: tuple[int, int], outside: tuple[int, int]) -> bool:
    atoms = find_atoms(ink)
    region = decide(atoms, gap_px=auto_gap(atoms)).region
    return bool(region[atoms.labels[inside]] != region[atoms.labels[outside]])


@pytest.mark.parametrize("line", [2, 5, 10, 18])
@pytest.mark.parametrize("gap", [4, 8, 16])
@pytest.mark.parametrize("ends", ["round", "square"])
def test_a_broken_circle_is_closed(line: int, gap: int, ends: str) -> None:
    assert parted(ring(line, gap, ends=ends), (210, 210), (10, 10))


@settings(max_examples=16)
@given(st.integers(6, 19), st.floats(0.5, 3.0), st.floats(0.4, 3.0), st.floats(0, 6), st.integers(120, 300))
@example(11, 3.0, 1.0, 0.5, 120)
@example(13, 2.962, 1.254, 1.94, 141)
def test_two_ends_in_line_are_joined_however_they_run_out(
    line: int, gap_lines: float, profile: float, taper_lines: float, middle: int
) -> None:
    """Three stripes across a frame; the one in the middle is broken, its ends blunt, straight or concave.

    A blunt end of a broad line turns slowly, and a bridge that bends at one end must still part the white.
    """
    ink = np.zeros((420, 420), np.uint8)
    cv2.rectangle(ink, (20, 20), (400, 400), 255, line)
    for row in (120, 210, 300):
        for x in np.arange(20, 400, 0.5):
            away = abs(x - middle) - gap_lines * line / 2 if row == 210 else np.inf
            if away >= 0:
                wide = max(line * min(away / max(taper_lines * line, 0.5), 1.0) ** profile, 1.0)
                at = round(x * 16), round((row + 4 * np.sin(x / 60)) * 16)
                cv2.circle(ink, at, round(wide * 8), 255, -1, cv2.LINE_AA, 4)
    assert parted(ink, (165, 210), (255, 210))


@pytest.mark.parametrize("pale", [90, 127, 160])
@pytest.mark.parametrize("turn", [0, 30, 45])
def test_a_pale_thread_between_full_blacks_stops_colour(pale: int, turn: int) -> None:
    ink = ring(14, 20, size=420)
    thread = np.zeros_like(ink)
    cv2.line(thread, (350, 188), (350, 232), pale, 1, cv2.LINE_AA)
    both = np.maximum(ink, thread)
    spin = cv2.getRotationMatrix2D((210, 210), turn, 1)
    both = cv2.warpAffine(both, spin, (420, 420), flags=cv2.INTER_LINEAR)
    white = (draw_barrier(both) == 0).astype(np.uint8)
    _, pieces = cv2.connectedComponents(white, connectivity=4)
    assert pieces[210, 210] != pieces[5, 5]


def test_soft_edges_of_full_lines_are_no_threads() -> None:
    ink = cv2.GaussianBlur(ring(14, 0), (0, 0), 1.2)
    assert not (draw_barrier(ink).astype(bool) & (ink < 100)).any()


@given(st.integers(0, 10_000))
def test_of_rivals_the_best_is_taken_and_each_loser_lost_to_one_that_is(seed: int) -> None:
    rng = np.random.default_rng(seed)
    count = int(rng.integers(1, 40))
    rank = rng.permutation(count)
    pairs = rng.integers(0, count, (int(rng.integers(0, 80)), 2))
    pairs = pairs[pairs[:, 0] != pairs[:, 1]]
    taken = greedy(pairs, rank)
    assert not (taken[pairs[:, 0]] & taken[pairs[:, 1]]).any()
    for loser in np.flatnonzero(~taken).tolist():
        rivals = np.concatenate([pairs[pairs[:, 0] == loser, 1], pairs[pairs[:, 1] == loser, 0]])
        assert any(taken[r] and rank[r] < rank[loser] for r in rivals.tolist())


@given(st.integers(0, 10_000), st.floats(0.5, 60))
def test_close_pairs_are_those_a_tree_finds_and_joined_numbers_are_the_smallest(seed: int, reach: float) -> None:
    rng = np.random.default_rng(seed)
    points = rng.integers(-50, 150, (int(rng.integers(0, 120)), 2))
    pairs = close_pairs(points, reach)
    wanted = scipy.spatial.cKDTree(points).query_pairs(reach) if len(points) else set()
    assert set(map(tuple, pairs.tolist())) == wanted
    graph = scipy.sparse.coo_array((np.ones(len(pairs), np.int8), pairs.T), shape=(len(points) + 1,) * 2)
    _, group = scipy.sparse.csgraph.connected_components(graph, directed=False)
    smallest = [int(np.flatnonzero(group == g)[0]) for g in group]
    assert components(len(points) + 1, *pairs.T).tolist() == smallest


def test_depth_is_the_distance_to_the_edge_of_the_ink() -> None:
    barrier = draw_barrier(ring(9, 12))
    feet, corners, depth = find_clefts(barrier, find_outline(barrier), 24, 9)
    wanted = cv2.distanceTransform(1 - barrier, cv2.DIST_L2, 5) - cv2.distanceTransform(barrier, cv2.DIST_L2, 5)
    near = np.abs(wanted) < 60
    assert np.abs(depth / DEPTH_SCALE - wanted)[near].max() <= 0.5 / DEPTH_SCALE + 1e-3
    assert len(feet) == len(corners) > 0
    assert barrier[feet[:, 0], feet[:, 1]].all()
    assert barrier[feet[:, 2], feet[:, 3]].all()


def test_a_higher_verdict_is_told_as_likelier_and_what_parts_nothing_as_no_border() -> None:
    told = likeliness(np.linspace(0, 1, 101))
    assert (np.diff(told) >= 0).all()
    assert told[0] < 0.05 < 0.9 < told[-1] <= 1
    atoms = find_atoms(ring(5, 8))
    likely, parting = bridge_verdicts(atoms), np.unique(atoms.edges[:, 2])
    assert likely[parting].max() > 0.9
    assert not np.delete(likely, parting).any()


def test_company_counts_who_is_near_and_all_of_the_page() -> None:
    feet = np.array([[100, 100, 100, 108], [104, 100, 104, 108], [900, 900, 900, 908]])
    from_ends = np.array([[0.0] * len(EVIDENCE), [0, 1.0, *[0] * (len(EVIDENCE) - 2)], [0.0] * len(EVIDENCE)])
    bridges = Bridges(feet, np.full(3, 7.0), np.array([0.2, 0.6, 1.0]), np.ones(3, bool), from_ends, feet[:, :2] / 1.0,
                      np.zeros(3, bool))  # fmt: skip
    seen = company(bridges, 4.0, 12)
    np.testing.assert_allclose(np.expm1(seen[:, [0, 2]]), [[2, 1], [2, 1], [1, 1]])
    np.testing.assert_allclose(seen[:, 1], [0.4, 0.4, 1.0])
    np.testing.assert_allclose(seen[:, 4:], [[np.log(3 / 12), 0.6, 2 / 3, 2 / 3]] * 3)


def test_trees_answer_alike_for_few_rows_and_for_many() -> None:
    rng = np.random.default_rng(3)
    trees = Trees(rng.integers(0, 9, (20, 6)), rng.normal(size=(20, 6)).astype(np.float32),
                  rng.normal(size=(20, 64)).astype(np.float32), 0.25)  # fmt: skip
    known = rng.normal(size=(4000, 9)).astype(np.float32)
    many = trees.logit(known)
    few = np.concatenate([trees.logit(known[k : k + 500]) for k in range(0, 4000, 500)])
    np.testing.assert_allclose(many, few, rtol=1e-4, atol=1e-4)
    assert all(networks and trees for networks, trees in judges().values())


def test_a_stroke_that_runs_out_in_specks_is_bridged_over_them() -> None:
    ink = np.zeros((200, 200), np.uint8)
    cv2.rectangle(ink, (30, 30), (170, 170), 255, 5)
    ink[25:36, 90:110] = 0
    ink[29:32, 98:101] = 255
    atoms = find_atoms(ink)
    region = decide(atoms, gap_px=auto_gap(atoms)).region
    assert region[atoms.labels[100, 100]] != region[atoms.labels[5, 5]]
    outline = find_outline((ink > 0).astype(np.uint8))
    assert not outline.without_specks((ink > 0).astype(np.uint8))[29:32, 98:101].any()


def test_a_frame_torn_into_forked_ends_is_bridged_from_the_outermost_ink() -> None:
    ink = np.zeros((260, 300), np.uint8)
    ink[37:224, 37:264] = 255
    ink[44:217, 44:257] = 0
    for row, (left, right) in enumerate([(18, 26), (17, 28), (16, 30), (15, 30), (18, 28), (17, 27), (13, 28)], 37):
        ink[row, 120 + left : 120 + right] = 0
    barrier = (ink > 0).astype(np.uint8)
    (left_tip,) = [t for t in find_tips(barrier, find_outline(barrier)).at.tolist() if t[1] < 143]
    assert left_tip == [41, 137]
    assert parted(ink, (130, 150), (10, 10))


def test_the_white_between_two_mouths_of_a_break_joins_the_likelier_side() -> None:
    feet = np.array([[0, 0, 0, 9], [20, 0, 20, 9]])
    bridges = Bridges(feet, np.array([8.0, 8.0]), np.ones(2), np.zeros(2, bool), np.zeros((2, 13)), feet[:, :2] + 0.0,
                      np.zeros(2, bool))  # fmt: skip
    borders = Borders(np.array([[1, 2], [1, 3], [2, 3]]), np.array([90, 10, 10]))
    areas, edges = np.array([0, 90_000, 90_000, 600]), np.array([[1, 3, 0], [2, 3, 1]])
    for large, wanted in ((600, [1, 2, 2]), (9000, [1, 2, 3])):
        areas[3] = large
        atoms = Atoms(
            np.zeros((1, 1), np.int32), 3, bridges, edges, 10.0, np.zeros(0, np.int64), areas, borders,
            np.array([0.9, 0.8]),
        )  # fmt: skip
        assert decide(atoms, gap_px=20).region[1:].tolist() == wanted
