# SPDX-License-Identifier: GPL-3.0-or-later
"""Regions: gap-free, hard-edged, closed where the line is broken, and with lasting numbers."""

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from drip_pot.core.arrays import no_report
from drip_pot.core.errors import BadInput, Cancelled
from drip_pot.core.regions import (
    LOUD,
    BridgeChoice,
    Stencil,
    absorb_small,
    auto_gap,
    bridge_paths,
    carry_identity,
    carry_pots,
    changed_rect,
    decide,
    divide,
    door_links,
    draw_barrier,
    find_atoms,
    find_borders,
    label_areas,
    loud_colors,
    make_stencil,
    undivided,
)
from drip_pot.core.regions.barrier import find_outline
from drip_pot.core.regions.clefts import DEPTH_SCALE, find_clefts
from tests.conftest import random_drawing, two_rooms


def regions(ink: np.ndarray, gap: float | None = None, choices: tuple[BridgeChoice, ...] = ()) -> np.ndarray:
    atoms = find_atoms(ink)
    part = decide(atoms, gap_px=auto_gap(atoms) if gap is None else gap, choices=choices)
    return part.region[atoms.labels]


@given(st.integers(0, 5000))
def test_every_pixel_has_a_region_and_no_border_strays_from_the_line(seed: int) -> None:
    ink = random_drawing(seed)
    atoms = find_atoms(ink)
    assert atoms.labels.dtype == np.int32
    assert atoms.labels.shape == ink.shape
    assert set(np.unique(atoms.labels).tolist()) == set(range(1, atoms.count + 1)), "numbers run from 1 without holes"
    allowed = draw_barrier(ink)
    spots, owner = bridge_paths(atoms.bridges, ink.shape)
    allowed[spots[:, 0], spots[:, 1]] = 1
    steps = np.abs(np.diff(spots, axis=0)).max(axis=1)[np.diff(owner) == 0]
    assert (steps == 1).all(), "a bridge has no hole"
    near = cv2.dilate(allowed, np.ones((3, 3), np.uint8)) > 0
    edge = np.zeros(ink.shape, bool)
    edge[:, 1:] |= atoms.labels[:, 1:] != atoms.labels[:, :-1]
    edge[1:] |= atoms.labels[1:] != atoms.labels[:-1]
    assert not (edge & ~near).any(), "regions may only meet under line or bridge"


@given(st.integers(0, 5000), st.floats(0, 60), st.floats(0, 60))
def test_a_wider_gap_setting_never_joins_what_a_narrower_one_parts(seed: int, one: float, two: float) -> None:
    atoms = find_atoms(random_drawing(seed))
    few, many = (decide(atoms, gap_px=g, least_px=0).region for g in sorted((one, two)))
    for region in np.unique(many[1:]):
        assert len(np.unique(few[1:][many[1:] == region])) == 1


@pytest.mark.parametrize("gap", [2, 5, 9, 14, 19])
def test_a_break_is_bridged_and_the_border_follows_the_wall(gap: int) -> None:
    found = regions(two_rooms(gap))
    assert found[100, 80] != found[100, 220]
    row = found[100]
    steps = np.flatnonzero(row[40:260] != row[41:261]) + 40
    assert len(steps) == 1
    assert abs(int(steps[0]) - 150) <= 3


def test_a_gap_width_of_nothing_lets_colour_through_unless_kept_by_hand() -> None:
    ink = two_rooms(9)
    open_page = regions(ink, 0)
    assert open_page[100, 80] == open_page[100, 220]
    kept = regions(ink, 0, (BridgeChoice(100, 150, keep=True),))
    assert kept[100, 80] != kept[100, 220]
    refused = regions(ink, 40, (BridgeChoice(100, 150, keep=False),))
    assert refused[100, 80] == refused[100, 220]


def test_the_line_is_shared_at_its_middle() -> None:
    found = regions(two_rooms(), 0)
    assert found[100, 148] == found[100, 80]
    assert found[100, 152] == found[100, 220]


@pytest.mark.parametrize(("fill", "solids"), [(0, 0), (255, 1)])
def test_blank_and_black_pages_are_one_region(fill: int, solids: int) -> None:
    atoms = find_atoms(np.full((80, 120), fill, np.uint8))
    assert atoms.count == 1
    assert (atoms.labels == 1).all()
    assert len(atoms.solids) == solids


@pytest.mark.parametrize("shape", [(1, 1), (1, 40), (40, 1), (3, 3)])
def test_tiny_pages_are_pages(shape: tuple[int, int]) -> None:
    ink = np.zeros(shape, np.uint8)
    ink[-1, -1] = 255
    assert (find_atoms(ink).labels >= 1).all()


def test_a_solid_black_is_a_region_of_its_own() -> None:
    ink = two_rooms()
    cv2.circle(ink, (80, 100), 30, 255, -1)
    found = find_atoms(ink)
    assert len(found.solids) == 1
    assert found.labels[100, 80] == found.solids[0]


@given(st.lists(st.tuples(st.integers(20, 180), st.integers(20, 280), st.integers(3, 34)), max_size=9))
def test_there_are_as_many_solids_as_pieces_of_deep_ink(blots: list[tuple[int, int, int]]) -> None:
    ink = two_rooms(9)
    for row, col, radius in blots:
        cv2.rectangle(ink, (col - radius, row - radius), (col + radius, row + radius), 255, -1)
    atoms, barrier = find_atoms(ink), draw_barrier(ink)
    _, _, depth = find_clefts(barrier, find_outline(barrier), 20, atoms.line_px)
    deep = (depth < -DEPTH_SCALE * max(6.0, 1.5 * atoms.line_px)).astype(np.uint8)
    pieces, where = cv2.connectedComponents(deep, connectivity=8)
    assert len(atoms.solids) == pieces - 1
    assert {len(np.unique(atoms.labels[where == k])) for k in range(1, pieces)} <= {1}
    assert set(atoms.labels[deep > 0].tolist()) == set(atoms.solids.tolist())


def test_a_pale_hairline_bounds_as_well_as_a_full_line() -> None:
    ink = np.zeros((120, 120), np.uint8)
    ink[:, 60] = 70
    assert regions(ink, 0)[60, 20] != regions(ink, 0)[60, 100]


def test_cancelling_stops_the_search() -> None:
    def stop(fraction: float, doing: str) -> None:
        if fraction > 0.3:
            raise Cancelled("Stopped.")

    with pytest.raises(Cancelled):
        find_atoms(two_rooms(), report=stop)
    no_report(0.5, "ignored")


@pytest.mark.parametrize("bad", [-1.0, float("nan")])
def test_impossible_gap_widths_are_refused(bad: float) -> None:
    atoms = find_atoms(two_rooms())
    with pytest.raises(BadInput, match="cannot be negative"):
        decide(atoms, gap_px=bad)


@given(st.integers(0, 2000), st.integers(0, 2000))
def test_numbers_last_when_the_line_changes(one: int, two: int) -> None:
    old, new = find_atoms(random_drawing(one)), find_atoms(random_drawing(two))
    ids, parents = carry_identity(new.labels, old.labels, old.count + 1)
    assert len(set(ids[1:].tolist())) == new.count, "no number is given twice"
    for label in range(1, new.count + 1):
        under = np.bincount(old.labels[new.labels == label])
        assert under[parents[label]] == under.max(), "a pot comes from the old region below most of the new one"
        assert ids[label] == parents[label] or ids[label] > old.count or under[ids[label]] > 0


def test_the_same_page_keeps_every_number() -> None:
    labels = find_atoms(random_drawing(5)).labels
    ids, parents = carry_identity(labels, labels, 1000)
    assert np.array_equal(ids, np.arange(len(ids)))
    assert np.array_equal(parents, ids)


@given(st.integers(0, 5000))
def test_neighbours_are_loud_in_different_colours_and_keep_them(seed: int) -> None:
    atoms = find_atoms(random_drawing(seed))
    labels = atoms.labels
    borders = find_borders(labels)
    every = np.unique(labels).astype(np.int64)
    chosen = loud_colors(every, borders.pairs)
    assert all(chosen[a] != chosen[b] for a, b in borders.pairs.tolist())
    assert loud_colors(every, borders.pairs, chosen) == chosen
    cut = divide(undivided(atoms), random_drawing(seed), some_cuts(np.random.default_rng(seed), 3)).atoms
    region = decide(cut, gap_px=20).region
    pairs, now = region[cut.borders.pairs], np.unique(region[cut.areas > 0])
    later = loud_colors(now, pairs, chosen)
    assert set(later) == set(now.tolist())
    assert all(later[a] != later[b] for a, b in pairs.tolist() if a != b)


def test_loud_colours_can_be_told_apart() -> None:
    from drip_pot.core.color import delta_e, srgb8_to_oklab

    lab = srgb8_to_oklab(LOUD)
    apart = [float(delta_e(a, b)) for i, a in enumerate(lab) for b in lab[:i]]
    assert min(apart) >= 22


def test_borders_count_pixel_sides() -> None:
    labels = np.array([[1, 1, 2], [1, 3, 2]], np.int32)
    borders = find_borders(labels)
    found = dict(zip(map(tuple, borders.pairs.tolist()), borders.length_px.tolist(), strict=True))
    assert found == {(1, 2): 1, (1, 3): 2, (2, 3): 1}


def some_cuts(rng: np.random.Generator, number: int) -> list:
    """Dams, cut-outs and pieces given back, anywhere on and beside a drawing of 160 pixels a side."""
    cuts: list = []
    while len(cuts) < number:
        spots = rng.uniform(-20, 180, (int(rng.integers(1, 5)), 2))
        if rng.random() < 0.4:
            cuts.append(tuple((float(r), float(c)) for r, c in spots))
            continue
        top, left = (int(v) for v in rng.integers(-30, 150, 2))
        mask = rng.random((int(rng.integers(3, 60)), int(rng.integers(3, 60)))) < rng.choice([0.5, 1.0])
        cut = make_stencil((top, left, 0, 0), mask, back=bool(rng.random() < 0.3))
        cuts += [] if cut is None else [cut]
    return cuts


@settings(max_examples=40)
@given(st.integers(0, 3000), st.integers(1, 7))
def test_cuts_change_only_what_they_cover_and_the_way_there_does_not_matter(seed: int, number: int) -> None:
    rng = np.random.default_rng(seed)
    ink = random_drawing(seed)
    plain = undivided(find_atoms(ink))
    cuts = some_cuts(rng, number)
    states = [plain]
    for end in range(1, number + 1):
        states.append(divide(states[-1], ink, cuts[:end]))
        before, after = states[-2], states[-1]
        rect = changed_rect(before, after) or (0, 0, 0, 0)
        outside = np.ones(ink.shape, bool)
        outside[rect[0] : rect[2], rect[1] : rect[3]] = False
        assert np.array_equal(before.atoms.labels[outside], after.atoms.labels[outside])
        for fresh in range(before.atoms.count + 1, after.atoms.count + 1):
            rows, cols = np.nonzero(after.atoms.labels == fresh)
            if len(rows):
                box = after.boxes[fresh]
                assert box[0] <= rows.min() < rows.max() + 1 <= box[2]
                assert box[1] <= cols.min() < cols.max() + 1 <= box[3]
    whole, found = divide(plain, ink, cuts), states[-1]
    atoms = found.atoms
    assert np.array_equal(atoms.labels, whole.atoms.labels), "one by one is as all at once"
    assert atoms.edges.tolist() == whole.atoms.edges.tolist()
    assert atoms.verdict.tolist() == whole.atoms.verdict.tolist()
    assert np.array_equal(atoms.areas, label_areas(atoms.labels, atoms.count))
    borders = find_borders(atoms.labels)
    assert np.array_equal(atoms.borders.pairs, borders.pairs)
    assert np.array_equal(atoms.borders.length_px, borders.length_px)
    assert plain.atoms.labels.min() >= 1
    assert (found.roots[atoms.edges[:, :2]] <= plain.atoms.count).all(), "no gap joins what was cut out"
    back = divide(found, ink, cuts[: number // 2])
    assert np.array_equal(back.atoms.labels, states[number // 2].atoms.labels), "cuts are taken back exactly"
    assert back.atoms.edges.tolist() == states[number // 2].atoms.edges.tolist()
    less = [cut for place, cut in enumerate(cuts) if place != number // 2]
    assert np.array_equal(divide(found, ink, less).atoms.labels, divide(plain, ink, less).atoms.labels)


def test_a_dam_parts_a_room_to_the_middle_of_its_walls_and_half_a_dam_does_not() -> None:
    ink = two_rooms()
    plain = undivided(find_atoms(ink))
    labels, cut = plain.atoms.labels, divide(plain, ink, [((100.0, 15.0), (100.0, 155.0))]).atoms
    assert cut.labels[60, 80] != cut.labels[140, 80]
    assert cut.labels[60, 220] == cut.labels[140, 220] == labels[60, 220]
    assert cut.count == plain.atoms.count + 1
    for nothing in (((100.0, 40.0), (100.0, 120.0)), ((-50.0, -50.0),)):
        assert np.array_equal(divide(plain, ink, [nothing]).atoms.labels, labels)


def test_a_cut_out_is_one_region_over_what_it_covers_and_is_given_back_in_layers() -> None:
    ink = two_rooms()
    plain = undivided(find_atoms(ink))
    labels = plain.atoms.labels
    wide = make_stencil((90, 60, 110, 240), np.ones((20, 180), bool))
    tall = make_stencil((50, 70, 150, 90), np.ones((100, 20), bool))
    both = divide(plain, ink, [wide, tall])
    assert both.atoms.labels[100, 80] == plain.atoms.count + 2
    assert both.atoms.labels[100, 200] == both.atoms.labels[100, 62] == plain.atoms.count + 1
    assert decide(both.atoms, gap_px=0).region[plain.atoms.count + 1] == plain.atoms.count + 1, "no gap joins it"
    back = make_stencil((0, 0, 200, 300), np.ones((200, 300), bool), back=True)
    assert np.array_equal(divide(both, ink, [wide, tall, back]).atoms.labels, labels)
    pots = {int(labels[60, 80]): 1, int(labels[100, 220]): 2}
    assert carry_pots(plain, both, pots) == {plain.atoms.count + 1: 2, plain.atoms.count + 2: 1}
    kept = pots | {plain.atoms.count + 1: 7, plain.atoms.count + 2: 8}
    alone = divide(both, ink, [tall])
    assert carry_pots(both, alone, kept) == {plain.atoms.count + 1: 8, plain.atoms.count + 2: None}
    with pytest.raises(BadInput, match="damaged"):
        divide(plain, ink, [Stencil(0, 0, 5, 5, b"junk")])


def test_a_door_joins_what_lies_along_it() -> None:
    atoms = find_atoms(two_rooms())
    links = door_links(atoms.labels, [(100, 120), (100, 180)])
    assert links.tolist() == [sorted((int(atoms.labels[100, 80]), int(atoms.labels[100, 220])))]
    part = decide(atoms, gap_px=40, links=links)
    assert part.region[atoms.labels[100, 80]] == part.region[atoms.labels[100, 220]]
    assert len(door_links(atoms.labels, [(-9, -9)])) == 0


@given(st.integers(0, 3000), st.integers(2, 400))
def test_small_regions_go_to_a_neighbour_and_none_is_lost(seed: int, least: int) -> None:
    atoms = find_atoms(random_drawing(seed))
    region = absorb_small(np.arange(atoms.count + 1), atoms.areas, atoms.borders, least)
    size = np.bincount(region[1:], weights=atoms.areas[1:])
    assert size.sum() == atoms.areas[1:].sum()
    assert (size[size > 0] >= min(least, atoms.areas[1:].sum())).all()


@pytest.mark.parametrize("gap", [4, 5, 6])
@pytest.mark.parametrize("turn", [0.0, 20.0, 45.0, 70.0])
def test_a_narrow_break_in_a_thick_line_is_bridged_at_every_angle(gap: int, turn: float) -> None:
    ink = np.zeros((400, 400), np.uint8)
    cv2.circle(ink, (200, 200), 150, 255, 8, cv2.LINE_AA)
    way = np.array([np.cos(np.radians(turn)), np.sin(np.radians(turn))])
    a, b = (200 - 150 * way), (200 + 150 * way)
    cv2.line(ink, [round(float(v)) for v in a], [round(float(v)) for v in b], 255, 8, cv2.LINE_AA)
    across = np.array([-way[1], way[0]])
    cut = np.array([200 + s * way * gap / 2 + t * across * 9 for s, t in ((-1, -1), (1, -1), (1, 1), (-1, 1))])
    cv2.fillPoly(ink, [np.rint(cut * 16).astype(np.int32)], 0, cv2.LINE_AA, 4)
    found = regions(ink)
    above, below = (200 + 60 * across).astype(int), (200 - 60 * across).astype(int)
    assert found[above[1], above[0]] != found[below[1], below[0]]


def test_hatching_and_tapering_hair_part_nothing() -> None:
    ink = np.zeros((400, 400), np.uint8)
    cv2.circle(ink, (200, 200), 150, 255, 6, cv2.LINE_AA)
    for k in range(9):
        start = np.array([150 + 12 * k, 120])
        for step in range(24):
            spot = start + np.array([1.2, 4.0]) * step
            cv2.circle(ink, [round(float(v)) for v in spot], max(1, 3 - step // 8), 255, -1, cv2.LINE_AA)
    found = regions(ink)
    assert len(np.unique(found[(np.hypot(*(np.mgrid[:400, :400] - 200)) < 140) & (ink == 0)])) <= 2


def test_a_bridge_bends_as_the_stroke_does() -> None:
    ink = np.zeros((300, 300), np.uint8)
    cv2.circle(ink, (150, 150), 60, 255, 5, cv2.LINE_AA)
    cv2.ellipse(ink, (150, 150), (60, 60), 0, -18, 18, 0, 9)
    found = regions(ink)
    inside = found == found[150, 150]
    assert found[150, 150] != found[20, 20]
    reach = int(np.flatnonzero(inside[150, 150:]).max())
    assert reach >= 57, "a straight bridge would cut the bulge off at 57 or less"
