# SPDX-License-Identifier: GPL-3.0-or-later
"""What a hand cut follows a drawing to the next one: laid where it belongs, never twice, never over a hand's work."""

from dataclasses import replace

import cv2
import numpy as np
import pytest

from drip_pot.book import Book, Derived, Page, Picture, verbs
from drip_pot.book.findings import find
from drip_pot.book.hand import Hand, hand_at
from drip_pot.book.orders import run
from drip_pot.book.tables import build_tables
from drip_pot.book.values import COVER, DAMS, DOORS, FOLLOWING, POURS, SHADE_CUTS, STENCILS
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.regions import Stencil
from tests.conftest import PLAIN, make_book
from tests.core.test_carry import SIZE, drawing

SPOT, TURNED = (100.0, 110.0), ((9, -6), 6.0)


def moved(row: float, col: float) -> tuple[float, float]:
    """Where the drawing's second frame has a place of its first one."""
    move = cv2.getRotationMatrix2D((SIZE / 2, SIZE / 2), TURNED[1], 1.0)
    move[:, 2] += TURNED[0]
    x, y = move @ [col, row, 1.0]
    return float(y), float(x)


class Frames:
    """Drawings of one thing as pages of a book in memory."""

    def __init__(self, *inks: np.ndarray) -> None:
        self.book: Book
        self.book, first, one = make_book(inks[0])
        self.derived = {one: first}
        for place, ink in enumerate(inks[1:], 2):
            page = verbs.add_page(self.book, Page(f"frame {place}", *ink.shape, 300.0, 1), PLAIN)
            self.derived[page] = Derived(lambda *_, ink=ink: Picture(255 - ink))
        self.pages = list(self.derived)
        verbs.make_sequence(self.book, range(1, len(inks) + 1), "Turning")

    def hand(self, page: int) -> Hand:
        return replace(hand_at(self.book, page, self.derived[page]), others=lambda _, other: self.hand(other))

    def found(self, page: int, title: str, stage: str = "Flats") -> list:
        sources, derived = self.book.sources(page), self.derived[page]
        count = self.hand(page).divided.atoms.count
        tables = build_tables(self.book, sources, count, derived.ground(sources))
        return [one for one in find(self.book, sources, derived, tables)[stage] if one.title == title]

    def middle(self, page: int, number: int) -> np.ndarray:
        cut = self.book.sources(page)[STENCILS][number]
        return np.argwhere(cut.mask()).mean(axis=0) + np.array([cut.top, cut.left])


def oval(row: float, col: float, high: float, wide: float) -> list[tuple[float, float]]:
    turn = np.linspace(0, 2 * np.pi, 40, endpoint=False)
    return [(row + high * float(np.sin(t)), col + wide * float(np.cos(t))) for t in turn]


@pytest.fixture
def frames() -> Frames:
    """Two frames; the first is poured, with an oval cut into its disc."""
    made = Frames(drawing()[0], drawing(*TURNED)[0])
    one = made.pages[0]
    hand = made.hand(one)
    verbs.pour(made.book, one, range(1, len(hand.areas)), 2)
    verbs.cut_out(hand, oval(*SPOT, 8, 14), 1)
    return made


def test_a_cut_out_goes_where_its_region_went_in_its_pot_and_never_twice(frames: Frames) -> None:
    book, (one, two) = frames.book, frames.pages
    before = book.values()
    told = verbs.carry_colors(frames.hand(two))
    assert "One marking as on one" in told
    (number,) = book.sources(two)[STENCILS]
    assert np.hypot(*(frames.middle(two, number) - moved(*frames.middle(one, 1)))) < 2
    cut = book.sources(two)[STENCILS][number]
    row, col = np.rint(frames.middle(two, number)).astype(int).tolist()
    assert frames.hand(two).pot_of(frames.hand(two).atom_at(row, col)) == 1
    assert 0.9 < cut.mask().sum() / book.sources(one)[STENCILS][1].mask().sum() < 1.1
    after = book.values()
    for again in (verbs.carry_colors, verbs.carry_markings):
        with pytest.raises(NothingDone):
            again(frames.hand(two))
    assert book.values() == after
    assert book.undo(), "colours and markings are one step"
    assert book.values() == before


def test_what_a_hand_changed_or_took_away_stays_so_and_what_is_gone_there_goes(frames: Frames) -> None:
    book, (one, two) = frames.book, frames.pages
    verbs.cut_out(frames.hand(one), oval(100, 240, 6, 12), 3)
    verbs.carry_markings(frames.hand(two))
    origins = list(book.sources(two)[FOLLOWING])
    assert origins == [f"{one}:stencil:1", f"{one}:stencil:2"]
    verbs.drop_markings(frames.hand(two), [origins[0]])
    with pytest.raises(NothingDone):
        verbs.carry_markings(frames.hand(two))
    assert list(book.sources(two)[STENCILS]) == [2], "what was taken away does not come again"
    frames.hand(one).lay({2: None}, "x", "Take it away")
    assert verbs.carry_markings(frames.hand(two)) == "Markings are as on one now."
    assert not book.sources(two)[STENCILS]
    book.undo()
    mine = frames.hand(two).sources[STENCILS][2]
    pulled = Stencil(mine.top + 3, mine.left, mine.rows, mine.cols, mine.bits)
    frames.hand(two).lay({2: pulled}, "x", "Pull it")
    with pytest.raises(NothingDone):
        verbs.carry_markings(frames.hand(two))
    assert book.sources(two)[STENCILS][2] == pulled
    book.undo()
    book.undo()
    frames.hand(two).lay({2: pulled}, "x", "Pull it")
    verbs.carry_markings(frames.hand(two), over=True)
    assert len(book.sources(two)[STENCILS]) == 2, "all of it comes where it is asked for"
    assert np.hypot(*(frames.middle(two, 2) - moved(*frames.middle(one, 2)))) < 2


def test_a_pot_poured_into_it_and_a_marking_drawn_by_hand_already_stay(frames: Frames) -> None:
    book, (one, two) = frames.book, frames.pages
    verbs.carry_colors(frames.hand(two))
    hand = frames.hand(two)
    atom = hand.divided.steps[0].count + 1
    verbs.pour(book, two, [atom], 3)
    frames.hand(one).lay({1: None}, "x", "x")
    verbs.cut_out(frames.hand(one), oval(*SPOT, 12, 8), 1)
    (new,) = book.sources(one)[STENCILS]
    assert new == 1, "it takes the number that was free"
    verbs.carry_colors(frames.hand(two))
    hand = frames.hand(two)
    assert hand.sources[POURS][hand.divided.steps[0].count + 1] == 3
    fresh = Frames(drawing()[0], drawing(*TURNED)[0])
    verbs.cut_out(fresh.hand(fresh.pages[0]), oval(*SPOT, 8, 14), 1)
    verbs.cut_out(fresh.hand(fresh.pages[1]), oval(*moved(*SPOT), 8, 14), 1)
    with pytest.raises(NothingDone):
        verbs.carry_markings(fresh.hand(fresh.pages[1]))
    assert len(fresh.book.sources(fresh.pages[1])[STENCILS]) == 1


def test_dams_and_doors_come_along_onto_the_line() -> None:
    first, second = drawing()[0], drawing(*TURNED)[0]
    frames = Frames(first, second)
    book, (one, two) = frames.book, frames.pages
    verbs.set_dam(frames.hand(one), ((110.0, 66.0), (110.0, 134.0)))
    verbs.set_door(book, one, ((100.0, 190.0), (100.0, 214.0)))
    assert "2 markings" in verbs.carry_markings(frames.hand(two))
    (dam,), (door,) = book.sources(two)[DAMS].values(), book.sources(two)[DOORS].values()
    hand = frames.hand(two)
    sides = {hand.atom_at(*np.rint(moved(row, 100.0)).tolist()) for row in (100.0, 120.0)}
    assert len(sides) == 2, "the dam parts the disc"
    inside, outside = (hand.atom_at(*np.rint(moved(100.0, col)).tolist()) for col in (225.0, 190.0))
    assert outside in hand.region_of(inside), "the door lets through"
    assert np.hypot(*(np.mean(dam, axis=0) - moved(110.0, 100.0))) < 3
    assert np.hypot(*(np.mean(door, axis=0) - moved(100.0, 202.0))) < 2


def test_shade_is_carried_once_and_follows_what_is_pulled(frames: Frames) -> None:
    book, (one, two) = frames.book, frames.pages
    number = verbs.add_pass(book, one, "Dark")
    verbs.cut_shade(frames.hand(one), oval(*SPOT, 12, 12), into=number)
    assert "a cut that follows" in verbs.carry_light(frames.hand(two))
    (cut,) = book.sources(two)[SHADE_CUTS].values()
    spot = np.mean([knot[:2] for knot in cut.knots], axis=0)
    assert np.hypot(*(spot - moved(*SPOT))) < 2
    seen = book.plane(COVER.key(two, number)).whole()
    verbs.carry_light(frames.hand(two))
    ((at, cut),) = book.sources(two)[SHADE_CUTS].items()
    assert at == 1, "carried twice it does not double"
    other = verbs.add_pass(book, one, "Glow")
    verbs.set_cut(frames.hand(one), 1, None)
    verbs.cut_shade(frames.hand(one), oval(*SPOT, 12, 12), into=other)
    verbs.carry_light(frames.hand(two))
    (cut,) = book.sources(two)[SHADE_CUTS].values()
    assert cut.into == other
    assert not book.plane(COVER.key(two, number)).any(), "nothing is left in the pass it was cut into before"
    for _ in range(4):
        book.undo()
    assert np.array_equal(book.plane(COVER.key(two, number)).whole(), seen)


def test_what_may_have_slid_is_asked_for_kept_or_taken_away_and_what_lies_well_is_not() -> None:
    ink, other = drawing()[0], drawing(*TURNED)[0]
    other[60:150, 60:180] = 0  # the disc is not drawn any more
    frames = Frames(ink, other)
    book, (one, two) = frames.book, frames.pages
    verbs.cut_out(frames.hand(one), oval(*SPOT, 8, 14), 1)
    verbs.cut_out(frames.hand(one), oval(250, 250, 8, 8), 1)
    verbs.carry_markings(frames.hand(two))
    (finding,) = frames.found(two, "Carried marking")
    origin = f"{one}:stencil:1"
    assert finding.key == f"following:{origin}"
    run(book, finding.asks.order, finding.asks.given, two, frames.hand)
    assert not frames.found(two, "Carried marking")
    with pytest.raises(NothingDone):
        verbs.carry_markings(frames.hand(two))
    assert not frames.found(two, "Carried marking"), "what was kept is not asked for again"
    book.undo()
    run(book, finding.drops.order, finding.drops.given, two, frames.hand)
    assert list(book.sources(two)[STENCILS]) == [2]
    assert not frames.found(two, "Carried marking")
    for order in ("keep-markings", "drop-markings"):
        with pytest.raises(BadInput, match="no marking 9:stencil:1"):
            run(book, order, {"origins": ["9:stencil:1"]}, two, frames.hand)


def test_frames_between_two_poured_ones_are_poured_from_both_sides_with_their_markings() -> None:
    steps = [((9 * k, -6 * k), 6.0 * k) for k in (0, 0.5, 1)]
    frames = Frames(*(drawing(((round(x)), round(y)), turn)[0] for (x, y), turn in steps))
    book, (one, two, three) = frames.book, frames.pages
    for page in (one, three):
        hand = frames.hand(page)
        verbs.pour(book, page, range(1, len(hand.areas)), 2)
        row, col = SPOT if page == one else moved(*SPOT)
        verbs.pour(book, page, [hand.atom_at(row, col)], 3)
    verbs.cut_out(frames.hand(one), oval(*SPOT, 8, 14), 1)
    before = book.values()
    assert "one frame from both sides" in verbs.carry_between(frames.hand(one))
    hand = frames.hand(two)
    row, col = np.mean([SPOT, moved(*SPOT)], axis=0).tolist()
    assert hand.pot_of(hand.atom_at(row, col)) == 1
    assert hand.pot_of(hand.atom_at(row + 20, col)) == 3
    assert len(hand.sources[STENCILS]) == 1
    assert not book.sources(three)[STENCILS], "poured frames stay as they are"
    book.undo()
    assert book.values() == before
    verbs.carry_between(frames.hand(two))
    with pytest.raises(NothingDone, match="No empty frame"):
        verbs.carry_between(frames.hand(one))
