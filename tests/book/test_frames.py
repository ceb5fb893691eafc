# SPDX-License-Identifier: GPL-3.0-or-later
"""Sequences and what is carried between their frames: poured, doubted, kept, undone; damaged ones left out."""

from pathlib import Path

import numpy as np
import pytest

from drip_pot.book import Page, verbs
from drip_pot.book.findings import find
from drip_pot.book.orders import run
from drip_pot.book.store import Change, Edit
from drip_pot.book.tables import build_tables
from drip_pot.book.values import COVER, DOUBTS, FIGURES, PASSES, POURS, SHADE_CUTS
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.files import derive, hand_on, open_book
from tests.conftest import PLAIN, make_book, two_rooms


def test_frames_are_named_played_held_and_taken_apart_exactly() -> None:
    book, _, first = make_book(two_rooms())
    pages = [first, *(verbs.add_page(book, Page(f"frame {k}", 200, 300, 300.0, 1), PLAIN) for k in range(2, 5))]
    before = book.values()
    number = verbs.make_sequence(book, [1, 3, 2], "  Turning ")
    assert book.sequences()[number].name == "Turning"
    verbs.hold_frame(book, pages[2], 3)
    verbs.set_sequence(book, number, rate_fps=8)
    known = book.sequences()[number]
    assert known.shown() == [pages[0], pages[2], pages[2], pages[2], pages[1]]
    assert (known.beside(pages[0], 1), known.beside(pages[1], 1)) == (pages[2], None)
    verbs.remove_page(book, pages[2])
    assert book.sequence_of(pages[0])[1].pages == (pages[0], pages[1]), "a page that is gone is no frame"
    book.undo()
    assert len(book.sequence_of(pages[2])[1].pages) == 3
    verbs.remove_sequence(book, number)
    assert not book.sequences()
    for _ in range(4):
        book.undo()
    assert book.values() == before


@pytest.mark.parametrize(
    ("order", "given", "words"),
    [
        ("make-sequence", {"places": [1], "name": "x"}, "two pages"),
        ("make-sequence", {"places": [1, 1], "name": "x"}, "only once"),
        ("make-sequence", {"places": [1, 9], "name": "x"}, "no page 9"),
        ("make-sequence", {"places": [1, 2], "name": "x"}, "already"),
        ("make-sequence", {"places": [3, 4], "name": " "}, "name"),
        ("set-sequence", {"number": 5, "name": "x"}, "no sequence 5"),
        ("set-sequence", {"number": 1, "rate_fps": 600}, "rate_fps"),
    ],
)
def test_sequences_that_cannot_be_are_refused_and_change_nothing(order: str, given: dict, words: str) -> None:
    book, _, _ = make_book(two_rooms())
    for k in range(3):
        verbs.add_page(book, Page(f"frame {k}", 200, 300, 300.0, 1), PLAIN)
    verbs.make_sequence(book, [1, 2], "Walk")
    before = book.position
    with pytest.raises(BadInput, match=words):
        run(book, order, given)
    assert book.position == before
    book.apply(Edit("x", "x", (Change("sequence/9", None, '{"name": 3, "pages": "all"}'),)))
    assert list(book.sequences()) == [1]
    assert "sequence/9" in book.unread_shared()


def test_a_frame_is_poured_like_the_one_before_and_its_doubts_are_kept_or_emptied(demo_book: Path) -> None:
    file, book = open_book(demo_book)
    try:
        _, known = book.sequence_of(next(n for n, p in book.pages().items() if p.name == "Turning, frame 2"))
        one, two, five, six = (known.pages[k] for k in (0, 1, 4, 5))
        names = {n: pot.name for n, pot in book.pots().items()}
        poured = [{names[p] for p in book.sources(n)[POURS].values() if p in names} for n in (one, two)]
        assert poured[0] == poured[1], "the demo's second frame has the colours of the first"
        run(book, "carry-colors", {}, five, lambda n: hand_on(file, book, n))
        before = book.values()
        told = run(book, "carry-colors", {}, six, lambda n: hand_on(file, book, n))
        assert "as on Turning, frame 5" in told
        sources, derived = book.sources(six), derive(file, book, six)
        atoms = derived.regions.atoms(sources.line)
        assert len(sources[POURS]) > 0.5 * atoms.count
        with pytest.raises(NothingDone, match="Nothing here is empty"):
            verbs.carry_colors(hand_on(file, book, six))
        assert sources[DOUBTS]
        found = find(book, sources, derived, build_tables(book, sources, atoms.count, derived.ground(sources)))["Flats"]
        doubts = [f for f in found if f.title == "Carried in doubt"]
        assert len(doubts) == sum(d.is_open for d in sources[DOUBTS].values()) < len(sources[DOUBTS])
        assert [float(f.sentence.split("; ")[1].split(" %")[0].split("%")[0]) for f in doubts] == sorted(
            round(100 * d.sure) for d in sources[DOUBTS].values() if d.is_open
        )
        run(book, doubts[0].asks.order, doubts[0].asks.given, six)
        assert len(book.sources(six)[DOUBTS]) == len(sources[DOUBTS]) - 1
        book.undo()
        run(book, doubts[0].drops.order, doubts[0].drops.given, six)
        spot = next(s for s in sources[DOUBTS] if f"doubt:{s[0]}:{s[1]}" == doubts[0].key)
        assert int(atoms.labels[spot]) not in book.sources(six)[POURS]
        while book.values() != before:
            assert book.undo()
    finally:
        file.close()


def test_what_cannot_be_carried_is_said(demo_book: Path) -> None:
    file, book = open_book(demo_book)
    try:
        pages = list(book.pages())
        hand = hand_on(file, book, pages[9])
        for source, words in ((99, "no page 99"), (10, "this page itself"), (1, "grow or crop"), (None, "")):
            if words:
                with pytest.raises(BadInput, match=words):
                    verbs.carry_colors(hand, source)
        with pytest.raises(NothingDone, match="Nothing is poured on Turning, frame 7"):
            verbs.carry_colors(hand_on(file, book, pages[12]))
        with pytest.raises(BadInput, match="No frame comes before"):
            verbs.carry_colors(hand_on(file, book, pages[5]))
        assert np.array_equal(hand.labels, hand_on(file, book, pages[9]).labels)
    finally:
        file.close()


def test_light_is_carried_and_cuts_follow_the_drawing(demo_book: Path) -> None:
    file, book = open_book(demo_book)
    try:
        _, known = next(iter(book.sequences().items()))
        one, two = known.pages[:2]
        names = {pot.name: n for n, pot in book.pots().items()}

        def middle(page: int) -> np.ndarray:
            hand = hand_on(file, book, page)
            inside = np.isin(hand.labels, [a for a, p in hand.sources[POURS].items() if p == names["Cobalt"]])
            return np.argwhere(inside).mean(axis=0)

        r, c = middle(one)
        number = verbs.add_pass(book, one, "Dark")
        loop = [(r - 30, c - 20), (r - 30, c + 20), (r + 30, c + 20), (r + 30, c - 20)]
        verbs.cut_shade(hand_on(file, book, one), loop, into=number)
        before = book.values()
        told = verbs.carry_light(hand_on(file, book, two))
        assert "a cut that follow" in told
        assert book.sources(two)[PASSES] == book.sources(one)[PASSES]
        (cut,) = book.sources(two)[SHADE_CUTS].values()
        moved = np.array([k[:2] for k in cut.knots]).mean(axis=0) - [r, c]
        wanted = middle(two) - [r, c]
        assert np.hypot(*wanted) > 8, "the kite has moved"
        assert np.hypot(*(moved - wanted)) < 0.5 * np.hypot(*wanted)
        assert book.plane(COVER.key(two, number)).any()
        assert book.undo()
        assert book.values() == before
    finally:
        file.close()


def test_a_figure_of_another_page_is_offered_poured_and_follows_the_light_of_its_panel(demo_book: Path) -> None:
    file, book = open_book(demo_book)
    try:
        page = list(book.pages())[2]
        assert not book.sources(page)[POURS]
        before = book.values()

        def found(*titles: str) -> list:
            sources, derived = book.sources(page), derive(file, book, page)
            count = derived.regions.atoms(sources.line).count
            every = find(book, sources, derived, build_tables(book, sources, count, derived.ground(sources)))["Flats"]
            return [f for f in every if f.title.endswith(titles)]

        told = run(book, "look-for-figures", {"source": 1}, page, lambda n: hand_on(file, book, n))
        assert "of Torn in the wind found" in told
        offers = found("Figure stands here")
        assert offers[0].sentence.startswith("Wren, as on Torn in the wind")
        assert not book.sources(page)[POURS], "nothing is poured unasked"
        run(book, offers[0].asks.order, offers[0].asks.given, page, lambda n: hand_on(file, book, n))
        sources = book.sources(page)
        assert len(sources[FIGURES]) == len(offers) - 1
        grounds = {n for n, pot in book.pots().items() if book.parts()[pot.part].name == "Sky"}
        assert len(sources[POURS]) >= 10
        assert not set(sources[POURS].values()) & grounds
        hair = next(n for n, pot in book.pots().items() if pot.name == "Hair")
        dusk = next(n for n, pot in book.pots().items() if pot.name == "Boots")
        hand, spots = hand_on(file, book, page), sorted(sources[DOUBTS].items(), key=lambda item: -item[1].sure)
        mine = [hand.atom_at(*spot) for spot, doubt in spots if doubt.pot == hair and not doubt.is_open]
        assert not found(" became Boots")
        verbs.pour(book, page, mine[:1], dusk)
        (question,) = found("Hair became Boots")
        run(book, question.asks.order, question.asks.given, page, lambda n: hand_on(file, book, n))
        assert hair not in book.sources(page)[POURS].values()
        assert not found(" became Boots"), "it is asked once"
        while book.values() != before:
            assert book.undo()
        with pytest.raises(NothingDone, match="Nothing is poured on Market day"):
            verbs.look_for_figures(hand_on(file, book, next(iter(book.pages()))), 3)
        for source, words in ((3, "this page itself"), (0, "no page 0")):
            with pytest.raises(BadInput, match=words):
                verbs.look_for_figures(hand_on(file, book, page), source)
        with pytest.raises(BadInput, match="no figure 4"):
            verbs.pour_figures(hand_on(file, book, page), [4])
    finally:
        file.close()
