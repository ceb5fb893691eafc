# SPDX-License-Identifier: GPL-3.0-or-later
"""Cut-outs, joins and seeds in a book: one edit each, exact undo, gap-free and hard-edged after anything."""

import contextlib

import cv2
import msgspec
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from drip_pot.book import InkState, Seed, build_tables, verbs
from drip_pot.book.values import DAMS, PANELS, POURS, SEED_CUTS, SEEDS, SOWN, STENCILS
from drip_pot.book.verbs import pots as pots_of
from drip_pot.book.verbs.cutting import cut_mask, give_back
from drip_pot.book.verbs.seeds import settle_seeds, sow
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.render import take_colors
from tests.book.test_sheets import PLAIN, Shelf, state
from tests.conftest import random_drawing, two_rooms


def box(top: int, left: int, bottom: int, right: int) -> tuple[tuple[int, int, int, int], np.ndarray]:
    return (top, left, bottom, right), np.ones((bottom - top, right - left), bool)


def test_a_cut_out_takes_the_pot_in_one_step_and_is_given_back() -> None:
    shelf = Shelf(two_rooms())
    shelf.pour(100, 80, 1)
    before, steps = state(shelf.book), shelf.book.position
    cut_mask(shelf.hand, *box(80, 60, 120, 200), 2)
    assert shelf.book.position == steps + 1
    assert shelf.book.history[-1].title == "Cut out Sky"
    assert shelf.pot_at(100, 80) == shelf.pot_at(100, 190) == 2
    assert shelf.pot_at(60, 80) == 1
    assert set(np.unique(shelf.painted()[80:120, 60:140, 0]).tolist()) == {0xA8}, "the line is not in it, the pot is"
    give_back(shelf.hand, *box(0, 0, 200, 100))
    assert shelf.pot_at(100, 80) == 1
    assert shelf.pot_at(100, 120) == 2
    while state(shelf.book) != before:
        assert shelf.book.undo()
    assert shelf.pot_at(100, 80) == 1
    cut_mask(shelf.hand, *box(0, 0, 200, 300), 3)
    assert shelf.pot_at(100, 80) == 3
    give_back(shelf.hand, *box(0, 0, 200, 300))
    assert shelf.pot_at(60, 80) == 1, "what was covered wholly comes back in its own pot"
    shelf.book.go_to(steps)
    for mask in (np.zeros((5, 5), bool), np.zeros((0, 0), bool)):
        with pytest.raises(BadInput, match="covers nothing"):
            cut_mask(shelf.hand, (0, 0, 5, 5), mask, 1)


@given(st.floats(0, 7), st.floats(0, 7), st.booleans())
def test_a_dam_that_ends_short_of_a_line_parts_all_the_same(short: float, late: float, is_bridge: bool) -> None:
    shelf = Shelf(two_rooms())
    left = np.flatnonzero(shelf.hand.ink[100, :100])[-1] + 1 + short
    right = np.flatnonzero(shelf.hand.ink[100, 100:])[0] + 99 - late
    draw = verbs.draw_bridge if is_bridge else verbs.set_dam
    assert draw(shelf.hand, ((100.5, left), (100.5, right))) is None
    shelf.settle()
    verbs.pour(shelf.book, shelf.page, shelf.hand.region_of(shelf.hand.atom_at(60, 80)), 1)
    assert (shelf.pot_at(60, 80), shelf.pot_at(140, 80)) == (1, None)


def test_a_dam_that_parts_nothing_says_so_and_a_loop_is_closed() -> None:
    shelf = Shelf(two_rooms())
    assert "parts nothing" in str(verbs.set_dam(shelf.hand, ((100.0, 60.0), (100.0, 100.0))))
    assert verbs.set_dam(shelf.hand, ((80.0, 60.0), (80.0, 100.0), (120.0, 100.0), (120.0, 60.0), (84.0, 60.0))) is None


def test_a_sweep_leaves_the_ground_it_strays_onto() -> None:
    shelf = Shelf(two_rooms())
    verbs.cut_out(shelf.hand, [(90.0, 70.0), (110.0, 90.0)], None, "Box")
    verbs.sweep(shelf.hand, [(100.0, 80.0), (100.0, 100.0)], 2, 14)
    assert (shelf.pot_at(100, 80), shelf.pot_at(60, 80)) == (2, None)


def test_cut_outs_outlive_another_line_a_crop_and_a_turn() -> None:
    shelf = Shelf(two_rooms())
    shelf.pour(100, 80, 1)
    before = state(shelf.book)
    cut_mask(shelf.hand, *box(60, 60, 120, 100), 2)
    verbs.set_inks(shelf.book, shelf.page, InkState(msgspec.structs.replace(PLAIN.settings, weight_px=1.0)))
    shelf.settle()
    assert (shelf.pot_at(90, 80), shelf.pot_at(140, 80)) == (2, 1)
    verbs.crop_page(shelf.book, shelf.page, (10, 5, 200, 300))
    shelf.settle()
    assert (shelf.pot_at(80, 75), shelf.pot_at(130, 75)) == (2, 1)
    verbs.straighten_page(shelf.book, shelf.page, 90 - 89.0)
    shelf.settle()
    assert (shelf.pot_at(80, 75), shelf.pot_at(130, 75)) == (2, 1)
    verbs.crop_page(shelf.book, shelf.page, (120, 0, 190, 290))
    shelf.settle()
    assert shelf.sources[STENCILS] == {}, "nothing of it is left on the page"
    while state(shelf.book) != before:
        assert shelf.book.undo()


def test_nothing_is_cut_while_the_regions_are_out_of_date() -> None:
    shelf = Shelf(two_rooms())
    hand = shelf.hand
    verbs.set_inks(shelf.book, shelf.page, InkState(msgspec.structs.replace(PLAIN.settings, weight_px=1.0)))
    with pytest.raises(BadInput, match="still being found"):
        cut_mask(hand, *box(60, 60, 120, 100), 2)


def test_joined_regions_are_one_and_absorbed_ones_take_the_neighbours_pot() -> None:
    shelf = Shelf(two_rooms())
    shelf.pour(100, 80, 1)
    left, right = (int(shelf.labels()[100, c]) for c in (80, 220))
    verbs.absorb(shelf.book, shelf.page, [right], 1, ((100.0, 80.0), (100.0, 220.0)))
    region = shelf.derived.regions.partition(shelf.sources).region
    assert region[left] == region[right]
    assert shelf.pot_at(100, 220) == 1
    shelf.book.undo()
    region = shelf.derived.regions.partition(shelf.sources).region
    assert region[left] != region[right]


def seed(pot: int | None, *spots: tuple[float, float]) -> Seed:
    return Seed(spots, pot)


def test_seeds_are_sown_moved_recoloured_and_settled() -> None:
    shelf = Shelf(two_rooms(40))
    verbs.set_gap(shelf.book, shelf.page, 0)
    before = state(shelf.book)
    sow(shelf.hand, {1: seed(1, (60.0, 60.0))}, "Sow")
    assert shelf.pot_at(60, 240) == shelf.pot_at(60, 60) == 1, "one seed alone takes all that is open"
    sow(shelf.hand, {2: seed(2, (60.0, 240.0))}, "Sow")
    assert (shelf.pot_at(60, 60), shelf.pot_at(60, 240)) == (1, 2)
    assert shelf.pot_at(5, 5) is None
    sow(shelf.hand, {2: seed(3, (60.0, 240.0))}, "Recolour a seed")
    assert (shelf.pot_at(60, 60), shelf.pot_at(60, 240)) == (1, 3)
    sow(shelf.hand, {1: seed(1, (5.0, 5.0))}, "Move a seed")
    assert shelf.pot_at(5, 5) == 1
    assert shelf.pot_at(60, 60) == shelf.pot_at(60, 240) == 3, "the other one has all of the room now"
    settle_seeds(shelf.book, shelf.page)
    assert shelf.sources[SEEDS] == shelf.sources[SOWN] == {}
    assert shelf.pot_at(60, 60) == 3
    sow(shelf.hand, {1: seed(None, (60.0, 60.0))}, "Sow nothing")
    assert shelf.pot_at(60, 60) is None
    while state(shelf.book) != before:
        assert shelf.book.undo()


def test_taking_a_seed_away_leaves_what_was_poured_by_hand() -> None:
    shelf = Shelf(two_rooms(12))
    shelf.pour(100, 220, 2)
    sow(shelf.hand, {1: seed(1, (100.0, 60.0))}, "Sow")
    assert (shelf.pot_at(100, 60), shelf.pot_at(100, 220)) == (1, 2)
    cut_mask(shelf.hand, *box(50, 50, 70, 70), 3)
    sow(shelf.hand, {1: None}, "Remove a seed")
    assert (shelf.pot_at(100, 60), shelf.pot_at(100, 220), shelf.pot_at(60, 60)) == (None, 2, 3)
    assert shelf.sources[SEED_CUTS] == ()


def do_anything(shelf: Shelf, rng: np.random.Generator, first: int) -> None:
    """One random edit of flats, sane or not."""
    side = shelf.labels().shape[0]
    spots = tuple((float(r), float(c)) for r, c in rng.uniform(-20, side + 20, (int(rng.integers(1, 5)), 2)))
    top, left = (int(v) for v in rng.integers(-20, side, 2))
    mask = rng.random((int(rng.integers(1, 60)), int(rng.integers(1, 60)))) < 0.7
    pot = [None, 1, 2, 3][int(rng.integers(4))]
    atoms = {int(a) for a in np.unique(shelf.labels())[:3]}
    number = int(rng.integers(1, 4))
    doing = [
        lambda: cut_mask(shelf.hand, (top, left, 0, 0), mask, pot),
        lambda: give_back(shelf.hand, (top, left, 0, 0), mask),
        lambda: shelf.hand.lay({shelf.hand.next: spots}, "dam", "Draw a dam"),
        lambda: shelf.hand.lay(dict.fromkeys([*shelf.sources[DAMS]][:1]), "dam", "Take away a dam"),
        lambda: shelf.hand.lay(dict.fromkeys([*shelf.sources[STENCILS]][:1]), "cut", "Take away a cut-out"),
        lambda: sow(shelf.hand, {number: Seed(spots, pot)}, "Sow"),
        lambda: sow(shelf.hand, dict.fromkeys(shelf.sources[SEEDS]), "Take seeds away"),
        lambda: settle_seeds(shelf.book, shelf.page),
        lambda: verbs.pour(shelf.book, shelf.page, atoms, pot),
        lambda: verbs.set_door(shelf.book, shelf.page, spots),
        lambda: verbs.join(shelf.book, shelf.page, spots, "Join"),
        lambda: verbs.set_gap(shelf.book, shelf.page, float(rng.integers(0, 60))),
        lambda: pots_of.mix_pour(shelf.book, shelf.page, atoms, pot, 0.5),
        lambda: shelf.book.position > first and shelf.book.undo(),
        lambda: shelf.book.redo(),
    ]
    with contextlib.suppress(BadInput):
        doing[int(rng.integers(len(doing)))]()


@settings(max_examples=20)
@given(st.integers(0, 5000), st.integers(5, 40))
def test_after_any_edits_flats_are_gap_free_hard_edged_and_undone_exactly(seed: int, number: int) -> None:
    rng = np.random.default_rng(seed)
    shelf = Shelf(random_drawing(seed))
    start = state(shelf.book)
    states = {shelf.book.position: start}
    for _ in range(number):
        do_anything(shelf, rng, min(states))
        states[shelf.book.position] = state(shelf.book)
    sources = shelf.sources
    atoms = shelf.derived.regions.atoms(sources.line)
    assert atoms.labels.min() >= 1
    assert atoms.labels.max() <= atoms.count
    region = shelf.derived.regions.partition(sources).region
    assert region.min() >= 0
    assert len(region) == atoms.count + 1
    assert all(0 < atom <= atoms.count for atom in sources[POURS])
    tables = build_tables(shelf.book, sources, atoms.count)
    drawn = take_colors(atoms.labels, None, tables.screen.flat)[..., :3]
    known = {tuple(bytes.fromhex(p.local[1:])) for p in shelf.book.pots().values()} | {(255, 255, 255)}
    assert {tuple(c) for c in np.unique(drawn.reshape(-1, 3), axis=0).tolist()} <= known
    again = Shelf(random_drawing(seed))
    again.book = shelf.book.still()
    assert np.array_equal(again.labels(), atoms.labels), "a reopened book is divided alike"
    for position in range(shelf.book.position, 0, -1):
        if position in states:
            shelf.book.go_to(position)
            assert state(shelf.book) == states[position]


def test_a_panel_drawn_by_hand_closes_its_frame_and_can_be_pulled_and_taken_away() -> None:
    """A frame with a whole corner and half a side missing: one region covers panel and gutter until it is drawn."""
    ink = two_rooms(rows=400, cols=600)
    ink[:70, :90] = 0
    ink[200:380, 570:] = 0
    ink[22:-22, 290:310] = 0
    shelf = Shelf(ink)
    region = shelf.derived.regions.partition(shelf.sources).region
    atoms = shelf.labels()
    assert region[atoms[200, 100]] == region[atoms[5, 5]], "it leaks"
    before = state(shelf.book)
    corners = ((20.0, 20.0), (20.0, 579.0), (379.0, 579.0), (379.0, 20.0))
    verbs.draw_panel(shelf.hand, corners)
    region, atoms = shelf.derived.regions.partition(shelf.sources).region, shelf.labels()
    assert region[atoms[200, 100]] == region[atoms[200, 500]] != region[atoms[5, 5]]
    assert shelf.derived.regions.panels(shelf.sources).corners == (corners,)
    assert shelf.hand.panels.at(200, 300) == 1
    dams = shelf.sources[DAMS]
    assert list(dams.values()) == [((70.0, 20.0), (20.0, 20.0), (20.0, 579.0), (380.0, 579.0))]
    assert shelf.labels().max() == 2, "nothing but the panel is parted"
    verbs.draw_panel(shelf.hand, (*corners[:2], (379.0, 500.0), corners[3]), number=1)
    assert shelf.hand.panels.at(370, 560) == 0
    assert len(shelf.sources[PANELS]) == 1
    verbs.draw_panel(shelf.hand, corners, number=1)
    assert set(shelf.sources[DAMS].values()) == set(dams.values()), "what closed the frame before is gone"
    verbs.remove_panel(shelf.hand, 200, 300)
    assert (shelf.sources[PANELS], shelf.sources[DAMS]) == ({}, {})
    while state(shelf.book) != before:
        assert shelf.book.undo()
    verbs.draw_panel(shelf.hand, corners)
    verbs.pour_panel(shelf.hand, 200, 300, 1)
    assert shelf.pot_at(200, 500) == 1
    assert shelf.pot_at(5, 5) is None
    with pytest.raises(BadInput, match="3 to 40"):
        verbs.draw_panel(shelf.hand, corners[:2])
    with pytest.raises(NothingDone, match="too small"):
        verbs.draw_panel(shelf.hand, ((9.0, 9.0), (9.0, 12.0), (12.0, 12.0)))
    with pytest.raises(NothingDone, match="no panel"):
        verbs.remove_panel(shelf.hand, 5, 5)


def test_a_panel_found_can_be_said_to_be_none() -> None:
    ink = np.zeros((500, 420), np.uint8)
    for top in (20, 260):
        cv2.rectangle(ink, (20, top), (400, top + 210), 255, 5)
    shelf = Shelf(ink)
    assert len(shelf.hand.panels.rects) == 2
    verbs.remove_panel(shelf.hand, 100, 200)
    assert shelf.hand.panels.at(100, 200) == 0
    assert shelf.hand.panels.at(350, 200) == 1
    assert shelf.book.history[-1].title == "Remove a panel"
    assert not shelf.sources[DAMS]


def test_the_eraser_leaves_no_crumbs_of_what_it_takes_back() -> None:
    shelf = Shelf(two_rooms())
    cut_mask(shelf.hand, *box(60, 60, 100, 120), 1)
    cut_mask(shelf.hand, *box(130, 60, 132, 62), 1)
    verbs.cut_out(shelf.hand, [(58.0, 58.0), (58.0, 119.0), (99.0, 119.0), (99.0, 58.0)], None, back=True)
    cut = [a for a, pot in shelf.sources[POURS].items() if pot == 1 and shelf.hand.areas[a]]
    assert [int(shelf.hand.areas[a]) for a in cut] == [4], "a thin rim would be left; what lay apart stays"
