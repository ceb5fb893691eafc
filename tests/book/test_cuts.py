# SPDX-License-Identifier: GPL-3.0-or-later
"""Shapes cut into passes: kept, pulled, taken away; what is painted beneath stays, and what is painted over shows."""

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.book import verbs
from drip_pot.book.values import BORDERS, POURS, SHADE_CUTS, TONE, ShadeCut
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.shade import cornered, fitted, loop_mask, shape_cover
from tests.book.test_sheets import Shelf, state
from tests.conftest import two_rooms

SHAPE = (200, 300)
LOOP = [(40.0, 30.0), (40.0, 120.0), (160.0, 120.0), (160.0, 30.0)]
OTHER = [(60.0, 60.0), (60.0, 140.0), (120.0, 140.0), (120.0, 60.0)]


def poured() -> Shelf:
    shelf = Shelf(two_rooms())
    shelf.pour(100, 60, 1)
    shelf.pour(100, 240, 2)
    return shelf


def cover(shelf: Shelf, kind: str = "pass", into: int = TONE) -> np.ndarray:
    return shelf.book.plane(f"page/{shelf.page}/{kind}/{into}").whole()


@given(st.integers(0, 10_000), st.floats(0.5, 3.0))
def test_the_few_points_of_a_loop_stay_close_to_the_hand(seed: int, within: float) -> None:
    rng = np.random.default_rng(seed)
    turn = np.linspace(0, 2 * np.pi, 400, endpoint=False)
    radius = 60 + sum(rng.uniform(-9, 9) * np.sin(k * turn + rng.uniform(0, 6)) for k in (1, 2, 3))
    loop = np.stack([100 + radius * np.sin(turn), 150 + radius * np.cos(turn)], axis=1)
    knots = fitted(loop, within)
    assert len(knots) < 90
    (rect, hand), (_, shape) = loop_mask(loop, SHAPE), shape_cover(knots, 0, SHAPE)
    whole = np.zeros((2, *SHAPE), bool)
    for place, (at, mask) in enumerate(((rect, hand), (shape_cover(knots, 0, SHAPE)[0], shape > 0))):
        whole[place, at[0] : at[2], at[1] : at[3]] = mask
    length = np.hypot(*np.diff(loop, axis=0).T).sum()
    assert np.count_nonzero(whole[0] != whole[1]) <= (within + 1) * length


def test_a_soft_shape_falls_off_to_both_sides_of_its_outline() -> None:
    rect, soft = shape_cover(cornered(LOOP), 10, SHAPE)
    row = soft[100 - rect[0]].astype(int)
    edge = 120 - rect[1]
    assert abs(row[edge] - 128) < 24
    assert row[edge - 11] == 255
    assert row[edge + 11] == 0
    assert (np.diff(row[edge - 11 : edge + 12]) <= 0).all()
    with pytest.raises(BadInput, match="softness"):
        shape_cover(cornered(LOOP), 5000, SHAPE)
    with pytest.raises(BadInput, match="3 to"):
        shape_cover(((1.0, 1.0, False),), 0, SHAPE)


@given(st.lists(st.integers(0, 6), min_size=1, max_size=9), st.integers(0, 1000))
def test_any_order_of_strokes_and_cuts_is_undone_exactly_and_redone(steps: list[int], seed: int) -> None:
    rng, shelf = np.random.default_rng(seed), poured()
    states = [state(shelf.book)]
    for step in steps:
        spot = rng.uniform(30, 150, 2)
        loop = [(float(r), float(c)) for r, c in spot + rng.uniform(-40, 60, (5, 2))]
        known = list(shelf.sources[SHADE_CUTS])
        try:
            if step < 3 or not known:
                verbs.cut_shade(shelf.hand, loop, light=step == 2, softness_px=float(step % 2) * 6)
            elif step == 3:
                verbs.mist_pass(shelf.hand, [(r, c, 1.0) for r, c in loop], 30, away=bool(rng.integers(2)))
            elif step == 4:
                verbs.set_cut(shelf.hand, known[-1], None)
            elif step == 5:
                cut = shelf.sources[SHADE_CUTS][known[0]]
                moved = tuple((r + 9, c - 7, s) for r, c, s in cut.knots)
                verbs.set_cut(shelf.hand, known[0], msgspec.structs.replace(cut, knots=moved))
            else:
                verbs.fill_pass(shelf.hand, set(shelf.sources[POURS]), away=bool(rng.integers(2)))
        except NothingDone:
            continue
        states.append(state(shelf.book))
    for known in reversed(states[:-1]):
        shelf.book.undo()
        assert state(shelf.book) == known
    for known in states[1:]:
        shelf.book.redo()
        assert state(shelf.book) == known


def test_a_cut_pulled_and_taken_away_leaves_what_is_painted_beneath() -> None:
    shelf = poured()
    verbs.mist_pass(shelf.hand, [(100.0, 50.0, 1.0), (100.0, 110.0, 1.0)], 40)
    painted = cover(shelf)
    verbs.cut_shade(shelf.hand, OTHER, line="straight")
    (number,) = shelf.sources[SHADE_CUTS]
    assert cover(shelf)[90, 100] == 255
    cut = shelf.sources[SHADE_CUTS][number]
    verbs.set_cut(
        shelf.hand, number, msgspec.structs.replace(cut, knots=tuple((r - 30, c, s) for r, c, s in cut.knots))
    )
    assert cover(shelf)[40, 100] == 255
    assert np.array_equal(cover(shelf)[100:], painted[100:])
    verbs.set_cut(shelf.hand, number, None)
    assert np.array_equal(cover(shelf), painted)
    with pytest.raises(BadInput, match="no cut"):
        verbs.set_cut(shelf.hand, number, None)


def test_light_cut_later_lies_over_shade_and_a_stroke_over_a_cut_always_shows() -> None:
    shelf = poured()
    verbs.cut_shade(shelf.hand, LOOP, line="straight")
    verbs.cut_shade(shelf.hand, OTHER, light=True, line="straight")
    assert cover(shelf)[90, 100] == 0
    assert cover(shelf)[50, 40] == 255
    told = verbs.mist_pass(shelf.hand, [(150.0, 40.0, 1.0), (150.0, 90.0, 1.0)], 12, 0.0, 1.0, away=True)
    assert told == "A cut under the stroke is paint now."
    assert cover(shelf)[150, 60] == 0
    assert cover(shelf)[50, 40] == 255, "the rest of the cut is paint"
    assert len(shelf.sources[SHADE_CUTS]) == 1
    assert verbs.mist_pass(shelf.hand, [(100.0, 60.0, 1.0), (100.0, 100.0, 1.0)], 12, 0.0, 1.0)
    assert cover(shelf)[100, 80] == 255
    assert not shelf.sources[SHADE_CUTS]


def test_a_cut_stays_in_the_region_it_began_in_when_it_is_pulled_out_of_it() -> None:
    shelf = poured()
    atom = shelf.hand.atom_at(100, 60)
    verbs.cut_shade(shelf.hand, [(40.0, 60.0), (40.0, 260.0), (150.0, 260.0), (150.0, 60.0)], only=atom)
    assert cover(shelf)[100, 100] == 255
    assert cover(shelf)[100, 240] == 0
    (number,) = shelf.sources[SHADE_CUTS]
    cut = shelf.sources[SHADE_CUTS][number]
    verbs.set_cut(
        shelf.hand, number, msgspec.structs.replace(cut, knots=tuple((r, c + 20, s) for r, c, s in cut.knots))
    )
    assert cover(shelf)[100, 240] == 0


def test_cuts_move_with_the_page_and_can_be_pulled_there_too() -> None:
    shelf = poured()
    verbs.mist_pass(shelf.hand, [(100.0, 50.0, 1.0), (100.0, 110.0, 1.0)], 40)
    painted = cover(shelf)
    verbs.cut_shade(shelf.hand, LOOP, line="straight")
    seen = cover(shelf)
    verbs.crop_page(shelf.book, shelf.page, (20, 10, 190, 290))
    assert np.array_equal(cover(shelf), seen[20:190, 10:290])
    (number,) = shelf.sources[SHADE_CUTS]
    verbs.set_cut(shelf.hand, number, None)
    assert np.array_equal(cover(shelf), painted[20:190, 10:290])


def test_a_copied_pass_takes_its_cuts_along_and_a_removed_one_leaves_nothing() -> None:
    shelf = poured()
    number = verbs.add_pass(shelf.book, shelf.page, "Dusk")
    verbs.cut_shade(shelf.hand, LOOP, into=number)
    verbs.draw_border(shelf.hand, ((20.0, 80.0), (180.0, 80.0)), number)
    before = state(shelf.book)
    other = verbs.copy_pass(shelf.book, shelf.page, number)
    mine = next(n for n, cut in shelf.sources[SHADE_CUTS].items() if cut.into == other)
    verbs.set_cut(shelf.hand, mine, None)
    assert not cover(shelf, into=other).any()
    assert cover(shelf, into=number).any()
    verbs.remove_pass(shelf.book, shelf.page, other)
    assert state(shelf.book) == before
    verbs.remove_pass(shelf.book, shelf.page, number)
    assert not shelf.sources[SHADE_CUTS]
    assert not shelf.sources[BORDERS]


def test_a_border_divides_a_region_for_its_pass_alone_and_an_open_one_is_told() -> None:
    shelf = poured()
    assert verbs.draw_border(shelf.hand, ((24.0, 80.0), (100.0, 90.0), (177.0, 80.0))) is None
    region = shelf.hand.region_of(shelf.hand.atom_at(100, 60))
    verbs.fill_pass(shelf.hand, region, at=[(100.0, 50.0)])
    assert cover(shelf)[100, 50] == 255
    assert cover(shelf)[100, 120] == 0
    assert cover(shelf)[60:140, 30:80].all(), "the border goes with the dark side, without a sliver"
    verbs.fill_pass(shelf.hand, region, away=True)
    told = verbs.draw_border(shelf.hand, ((60.0, 110.0), (140.0, 115.0)))
    assert told is not None
    assert "Both ends" in told
    with pytest.raises(NothingDone, match="open"):
        verbs.fill_pass(shelf.hand, region, at=[(100.0, 130.0)])
    verbs.remove_border(shelf.book, shelf.page, 2)
    verbs.fill_pass(shelf.hand, region, at=[(100.0, 130.0)])
    assert cover(shelf)[100, 130] == 255
    other = verbs.add_pass(shelf.book, shelf.page, "Dusk")
    verbs.fill_pass(shelf.hand, region, at=[(100.0, 50.0)], into=other)
    assert cover(shelf, into=other)[100, 120] == 255, "the border is none of the other pass's"


def test_suggested_cuts_are_kept_or_dropped() -> None:
    shelf = poured()
    for loop in (LOOP, OTHER):
        verbs.cut_shade(shelf.hand, loop)
    cuts = {n: msgspec.structs.replace(cut, offered=True) for n, cut in shelf.sources[SHADE_CUTS].items()}
    for number, cut in cuts.items():
        verbs.set_cut(shelf.hand, number, cut)
    first, second = cuts
    verbs.keep_cuts(shelf.hand, {first})
    assert not shelf.sources[SHADE_CUTS][first].offered
    verbs.keep_cuts(shelf.hand, {first, second}, drop=True)
    assert list(shelf.sources[SHADE_CUTS]) == [first]
    assert isinstance(shelf.sources[SHADE_CUTS][first], ShadeCut)
