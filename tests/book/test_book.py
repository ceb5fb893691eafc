# SPDX-License-Identifier: GPL-3.0-or-later
"""The book: one list of edits, undone exactly, and a page that is gap-free whatever is done to it."""

import random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.book import Book, InkState, build_tables, verbs
from drip_pot.book.store import TILE, TileChange, TilePlane, pack_tile, unpack_tile
from drip_pot.book.values import POURS
from drip_pot.book.verbs import pots as pots_of
from drip_pot.core.arrays import U8
from drip_pot.core.color import ToneRule
from drip_pot.core.errors import BadInput, CannotWrite, Unreadable
from drip_pot.core.press import PressSettings
from drip_pot.core.render import take_colors
from tests.conftest import PLAIN, make_book, random_drawing, two_rooms


def state(book: Book) -> tuple[dict[str, str], dict[tuple[str, int, int], bytes]]:
    return book.values(), book.tiles()


def act(book: Book, derived: object, page: int, rng: np.random.Generator) -> None:
    """Do one random thing a person could do."""
    kind = int(rng.integers(0, 12))
    pots = list(book.pots())
    count = derived.regions.atoms(book.sources(page).line).count  # type: ignore[attr-defined]
    if kind <= 3:
        atoms = rng.integers(1, count + 1, int(rng.integers(1, 4))).tolist()
        verbs.pour(
            book, page, set(atoms), None if rng.random() < 0.2 or not pots else int(rng.choice(pots)), len(atoms)
        )
    elif kind <= 5:
        top, left = (int(v) for v in rng.integers(0, 100, 2))
        mask = rng.random((60, 60)) < 0.5
        verbs.shade_mask(book, page, (top, left, top + 60, left + 60), mask, np.ones_like(mask), light=bool(kind == 5))
    elif kind == 6:
        verbs.set_gap(book, page, float(rng.integers(0, 61)) if rng.random() < 0.8 else None)
    elif kind == 7:
        verbs.hold_part(book, page, 1, None if rng.random() < 0.5 else float(rng.random()))
    elif kind == 8 and len(pots) > 1:
        pots_of.remove_pot(book, int(rng.choice(pots)), None)
    elif kind == 9:
        verbs.add_pot(book, "New", 1, f"#{rng.integers(0, 1 << 24):06x}")
    elif kind == 10:
        verbs.choose_bridge(book, page, float(rng.integers(0, 9)), 4.5, bool(rng.random() < 0.5))
    else:
        verbs.set_tone(book, ToneRule(darker_l=float(rng.integers(0, 60))))


@given(st.integers(0, 10_000), st.integers(1, 14))
def test_undo_and_redo_are_exact_at_every_step(seed: int, steps: int) -> None:
    rng = np.random.default_rng(seed)
    book, derived, page = make_book(random_drawing(seed))
    seen = [state(book)]
    for _ in range(steps):
        before = book.position
        act(book, derived, page, rng)
        if book.position > before:
            seen.append(state(book))
    for expected in seen[-2::-1]:
        assert book.undo()
        assert state(book) == expected
    for expected in seen[1:]:
        assert book.redo()
        assert state(book) == expected
    assert book.redo() is None


@given(st.integers(0, 10_000), st.integers(0, 10))
def test_a_page_stays_gap_free_and_pure_whatever_is_done(seed: int, steps: int) -> None:
    rng = np.random.default_rng(seed)
    ink = random_drawing(seed)
    book, derived, page = make_book(ink)
    line = derived.inks.contour(book.sources(page).line).copy()
    for _ in range(steps):
        act(book, derived, page, rng)
    sources = book.sources(page)
    atoms, part = derived.regions.atoms(sources.line), derived.regions.partition(sources)
    assert (part.region[atoms.labels] >= 1).all(), "every pixel has a region"
    tables = build_tables(book, sources, atoms.count)
    flat = take_colors(atoms.labels, book.plane(f"page/{page}/pass/1").whole() // 255, tables.screen.flat)
    allowed = {"#ffffff"} | {c for p in book.pots().values() for c in book.tone_pair(p)}
    assert {f"#{r:02x}{g:02x}{b:02x}" for r, g, b, _ in np.unique(flat.reshape(-1, 4), axis=0).tolist()} <= allowed
    assert np.array_equal(derived.inks.contour(book.sources(page).line), line), "nothing here changes the line"


def test_joined_edits_go_together() -> None:
    book, _, page = make_book(two_rooms())
    verbs.pour(book, page, {1}, 1)
    before = state(book)
    verbs.set_inks(book, page, InkState(PLAIN.settings, ((3, 4),)))
    verbs.recut(book, page, {2: 1})
    assert book.sources(page)[POURS] == {2: 1}
    assert book.undo() == "Adjust the line"
    assert state(book) == before
    assert book.redo() == "Adjust the line"
    assert book.sources(page)[POURS] == {2: 1}
    assert book.sources(page).cut == book.sources(page).line


@given(st.lists(st.sampled_from(["edit", "edit", "edit", "undo", "redo", "go", "forget"]), max_size=24), st.randoms())
def test_what_was_undone_stays_as_a_branch_until_it_is_forgotten(acts: list[str], chance: random.Random) -> None:
    book, _, page = make_book(two_rooms())
    known = {book.position: state(book)}  # what every step of the list led to
    for act in acts:
        if act == "edit":
            verbs.choose_bridge(book, page, chance.random() * 100, 5.0, keep=True)
            known[book.position] = state(book)
        elif act == "undo":
            now = state(book)
            if book.undo():
                assert book.redo()
                assert state(book) == now, "redo is the way undo came"
                book.undo()
        elif act == "redo":
            assert (book.redo() is not None) or not book.past.next()
        elif act == "go":
            place = chance.choice(list(known))
            before = state(book)
            assert state(book.at(place)) == known[place]
            assert state(book) == before
            book.go_to(place)
            assert state(book) == known[place]
        else:
            before = state(book)
            book.forget_branches()
            assert not any(step.back for step in book.history)
            assert state(book) == before
            known = {book.position: before}
    for place, wanted in known.items():
        book.go_to(place)
        assert state(book) == wanted


def test_history_can_be_walked_by_clicking() -> None:
    book, _, page = make_book(two_rooms())
    start = book.position
    states = [state(book)]
    for atom in (1, 2, 3):
        verbs.pour(book, page, {atom}, 1)
        states.append(state(book))
    for stop in (1, 3, 0, 2):
        book.go_to(start + stop)
        assert state(book) == states[stop]


def test_an_edit_that_changes_nothing_leaves_no_step() -> None:
    book, _, page = make_book(two_rooms())
    verbs.pour(book, page, {1}, 1)
    position = book.position
    verbs.pour(book, page, {1}, 1)
    assert book.position == position


def test_a_store_that_fails_leaves_the_book_as_it_was() -> None:
    class Full:
        def append(self, number: int, edit: object) -> None:
            raise CannotWrite("The disk is full.")

    book, _, page = make_book(two_rooms())
    before = state(book), book.position
    book._store = Full()  # type: ignore[assignment]
    with pytest.raises(CannotWrite):
        verbs.pour(book, page, {1}, 1)
    assert (state(book), book.position) == before


def test_changes_are_announced_with_what_they_touched() -> None:
    book, _, page = make_book(two_rooms())
    heard = []
    book.changed.connect(heard.append)
    verbs.pour(book, page, {2, 1}, 1)
    verbs.shade_mask(book, page, (10, 10, 20, 20), np.ones((10, 10), bool), np.ones((10, 10), bool), light=False)
    assert heard[0].keys == {f"page/{page}/pour/1", f"page/{page}/pour/2"}
    assert heard[1].planes == {f"page/{page}/pass/1": (0, 0, 200, 256)}


def test_recolouring_a_pot_changes_everything_with_it_and_no_pixel_plane() -> None:
    book, derived, page = make_book(two_rooms())
    verbs.pour(book, page, {1, 2}, 1)
    count = derived.regions.atoms(book.sources(page).line).count
    verbs.set_pot(book, 1, type(book.pots()[1])("Ember", 1, "#112233"))
    table = build_tables(book, book.sources(page), count).screen.flat.view(np.uint8).reshape(2, -1, 4)
    assert table[0, 1].tolist() == table[0, 2].tolist() == [0x11, 0x22, 0x33, 255]
    assert book.history[-1].title == "Recolour Ember"


def test_a_shadow_of_its_own_outlives_the_rule() -> None:
    book, _, _ = make_book(two_rooms())
    pot = book.pots()[1]
    by_rule = book.tone_pair(pot)[1]
    verbs.set_tone(book, ToneRule(darker_l=40))
    assert book.tone_pair(pot)[1] != by_rule
    verbs.set_pot(book, 1, type(pot)(pot.name, pot.part, pot.local, "#101010"))
    assert book.tone_pair(book.pots()[1]) == (pot.local, "#101010")


def test_removing_a_pot_empties_what_it_filled_and_comes_back() -> None:
    book, _, page = make_book(two_rooms())
    verbs.pour(book, page, {1, 2}, 1)
    verbs.pour(book, page, {3}, 2)
    pots_of.remove_pot(book, 1, None)
    assert book.sources(page)[POURS] == {3: 2}
    book.undo()
    assert book.sources(page)[POURS] == {1: 1, 2: 1, 3: 2}


@pytest.mark.parametrize(
    ("verb", "words"),
    [
        (lambda b, p: verbs.set_gap(b, p, 10_000), "0 up to 60 px"),
        (lambda b, p: verbs.set_gap(b, p, -1), "0 up to 60 px"),
        (lambda b, p: verbs.add_pot(b, "  ", 1, "#000000"), "A pot needs a name"),
        (lambda b, p: verbs.add_pot(b, "Odd", 1, "blue"), "is not a colour"),
        (lambda b, p: verbs.hold_part(b, p, 1, 2.0), "0 to 100 % darker"),
        (lambda b, p: verbs.pour(b, p, {1}, 99), "no pot 99"),
        (lambda b, p: verbs.set_lines(b, p, "#12"), "is not a colour"),
        (lambda b, p: verbs.set_press(b, p, PressSettings(trap_mm=9)), "0 to 1 mm"),
    ],
)
def test_impossible_wishes_are_refused_and_change_nothing(verb: object, words: str) -> None:
    book, _, page = make_book(two_rooms())
    before = state(book)
    with pytest.raises(BadInput, match=words):
        verb(book, page)  # type: ignore[operator]
    assert state(book) == before


@given(st.integers(0, 10_000), st.integers(1, 5))
def test_a_painted_plane_reads_like_pixels_and_its_copies_stay(seed: int, step: int) -> None:
    rng = np.random.default_rng(seed)
    plane, pixels = TilePlane((300, 530)), np.zeros((300, 530), np.uint8)
    kept: list[tuple[TilePlane, U8]] = []
    for _ in range(4):
        kept.append((plane.copy(), pixels.copy()))
        top, left = (int(v) for v in rng.integers(0, 250, 2))
        piece = (rng.random((50, 60)) < rng.choice((0.0, 0.5))).astype(np.uint8)[: 300 - top]
        rect = (top, left, top + len(piece), left + 60)
        changes = plane.replaced("p", rect, piece)
        assert len(changes) <= 4
        for change in changes:
            plane.hold(change)
            plane.put(change)
        pixels[top : rect[2], left : rect[3]] = piece
        a, b = sorted(rng.integers(0, 300, 2).tolist())
        assert np.array_equal(plane.read((a, left, b, 530), step), pixels[a:b:step, left::step])
    for copy, then in [*kept, (plane, pixels)]:
        assert np.array_equal(copy.whole(), then)
        assert copy.any() == then.any()
    for at in plane:
        shape = pixels[at[0] * TILE :, at[1] * TILE :][:TILE, :TILE].shape
        plane.put(TileChange("p", *at, plane.packed(*at), pack_tile(np.zeros(shape, np.uint8))))
    assert not plane.any()


def test_a_snapshot_stays_as_it_was_page_by_page() -> None:
    book, _, page = make_book(two_rooms())
    verbs.pour(book, page, {1}, 1)
    still, before = book.still(), state(book)
    late = book.still()
    verbs.pour(book, page, {1, 2}, 2)
    verbs.shade_mask(book, page, (10, 10, 20, 20), np.ones((10, 10), bool), np.ones((10, 10), bool), light=False)
    verbs.crop_page(book, page, (0, 0, 50, 60))
    assert state(still) == before
    assert state(late) == before
    verbs.pour(still, page, {3}, 1)
    assert book.sources(page)[POURS] == {1: 2, 2: 2}, "what is done to a snapshot is not done to the book"


def test_a_damaged_tile_is_told_apart_from_a_good_one() -> None:
    assert pack_tile(np.zeros((4, 4), np.uint8)) is None
    with pytest.raises(Unreadable, match="damaged"):
        unpack_tile(b"nonsense", (4, 4))
