# SPDX-License-Identifier: GPL-3.0-or-later
"""Whose line it is where a person said so: on every page, taken back, forgotten with its pots, asked where unclear."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.book import Hold, build_tables, verbs
from drip_pot.book.findings import find, mend
from drip_pot.book.lines import lines_of
from drip_pot.book.tables import Tables
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.holds import depth_order
from tests.conftest import make_book, two_rooms

POTS = (1, 3)


class Rooms:
    """Two rooms with a wall between them, each of a part of its own."""

    def __init__(self) -> None:
        ink = two_rooms(rows=240, cols=360)
        cv2.circle(ink, (120, 130), 40, 255, 4)
        self.book, self.derived, self.page = make_book(ink)
        labels = self.derived.regions.atoms(self.book.sources(self.page).line).labels
        self.rooms = [int(labels[100, col]) for col in (60, 300)]
        for atom, pot in zip(self.rooms, POTS, strict=True):
            verbs.pour(self.book, self.page, {atom}, pot)
        verbs.add_hold(self.book, self.page, Hold("All"))

    def owner(self) -> int:
        """Return the pot that owns the wall."""
        sources = self.book.sources(self.page)
        told = lines_of(self.book, sources, self.derived.painted.pieces(sources), None)
        regions = told.pieces.region[self.rooms]
        wall = (np.sort(told.pieces.sides, axis=1) == np.sort(regions)).all(axis=1)
        return int(told.pot[np.unique(told.owner[wall])].item())

    def tables(self) -> Tables:
        sources = self.book.sources(self.page)
        count = self.derived.regions.atoms(sources.line).count
        return build_tables(self.book, sources, count, self.derived.ground(sources))


def test_what_was_said_wins_pots_before_parts_and_is_taken_back() -> None:
    rooms = Rooms()
    judged = rooms.owner()
    for front, behind in (POTS, POTS[::-1]):
        verbs.put_in_front(rooms.book, front, behind, parts=True)
        assert rooms.owner() == front
        with pytest.raises(NothingDone):
            verbs.put_in_front(rooms.book, front, behind, parts=True)
    assert len(rooms.book.depths()) == 1, "the later of two answers holds"
    verbs.put_in_front(rooms.book, *POTS)
    assert rooms.owner() == POTS[0]
    foremost = rooms.tables().depth
    assert foremost is not None
    assert foremost[rooms.rooms[0]] > foremost[rooms.rooms[1]]
    rooms.book.undo()
    assert rooms.owner() == POTS[1]
    verbs.forget_depths(rooms.book)
    assert rooms.owner() == judged
    with pytest.raises(BadInput):
        verbs.put_in_front(rooms.book, POTS[0], POTS[0])


def test_a_pot_that_goes_takes_what_was_said_of_it_along() -> None:
    rooms = Rooms()
    verbs.put_in_front(rooms.book, *POTS)
    verbs.remove_pot(rooms.book, POTS[0], POTS[1])
    assert not rooms.book.depths()
    rooms.book.undo()
    assert len(rooms.book.depths()) == 1


def test_an_unclear_line_is_asked_for_and_either_answer_ends_it(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("drip_pot.book.lines.in_front", lambda met, **_: np.full(len(met.pieces.form), 0.1))
    rooms = Rooms()

    def asked() -> list:
        sources = rooms.book.sources(rooms.page)
        found = find(rooms.book, sources, rooms.derived, rooms.tables(), stages=("Holds",))["Holds"]
        return [finding for finding in found if finding.title == "Whose line"]

    (finding,) = asked()
    before = rooms.owner()
    mend(rooms.book, rooms.page, finding, None)
    assert rooms.owner() == before
    assert not asked()
    rooms.book.undo()
    verbs.put_in_front(rooms.book, **finding.drops.given)
    assert rooms.owner() != before
    assert not asked()


@given(st.permutations(range(7)), st.integers(0, 2**32 - 1))
def test_one_order_of_depth_is_found_again(order: list[int], seed: int) -> None:
    rng = np.random.default_rng(seed)
    pairs = np.array([(a, b) for a in range(7) for b in range(a) if a - b == 1 or rng.random() < 0.4])
    depth = np.argsort(order)
    front = np.where(depth[pairs[:, 0]] > depth[pairs[:, 1]], 1.0, -1.0)
    found = depth_order(pairs, front, np.ones(len(pairs)), 9)
    assert (found[7:] == 0.5).all()
    if len(pairs) == 21:
        assert np.array_equal(np.argsort(found[:7]), np.argsort(depth))
    agrees = (found[pairs[:, 0]] - found[pairs[:, 1]]) * front > 0
    assert agrees.mean() > 0.5
