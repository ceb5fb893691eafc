# SPDX-License-Identifier: GPL-3.0-or-later
"""What nobody meant: any drawing from scan to plates, any order with wrong values; whole, or refused in a sentence."""

import sys
from pathlib import Path

import msgspec
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from drip_pot.book import ENGINE, verbs
from drip_pot.book.hand import hand_at
from drip_pot.book.values import CUT, POURS
from drip_pot.book.verbs.setting import put
from drip_pot.core.errors import BadInput
from drip_pot.core.regions import find_atoms
from drip_pot.files import hand_on, import_page, new_book, open_book
from tests.conftest import make_book, two_rooms, write_png

sys.path.insert(0, str(Path(__file__).parents[1] / "benchmarks"))
from attack.drawings import drawing, from_scan_to_plates
from attack.orders import attacked


@settings(max_examples=150)
@given(st.integers(0, 10**6))
def test_any_drawing_is_divided_and_every_pixel_has_a_region(number: int) -> None:
    ink = drawing(number)
    labels = find_atoms(ink).labels
    assert labels.shape == ink.shape
    assert labels.min() >= 1


@pytest.mark.parametrize("number", [52, 216, 389, 1353, 1725, 2402])
def test_drawings_that_once_ended_the_program_are_divided(number: int) -> None:
    """Bridges whose curve swings beyond the page, and papers of four cells."""
    assert find_atoms(drawing(number)).labels.min() >= 1


@settings(max_examples=12)
@given(st.integers(0, 10**6))
def test_any_drawing_goes_from_scan_to_plates(tmp_path_factory: pytest.TempPathFactory, number: int) -> None:
    from_scan_to_plates(drawing(number), tmp_path_factory.mktemp("any"))


@settings(max_examples=400)
@given(st.integers(0, 10**6))
def test_any_order_with_any_value_is_done_whole_or_refused_in_a_sentence(number: int) -> None:
    attacked(number)


def test_dividing_anew_says_what_changes_carries_colours_and_is_undone() -> None:
    book, derived, page = make_book(two_rooms())
    hand = hand_at(book, page, derived)
    for atom in range(1, len(hand.areas)):
        verbs.pour(book, page, {atom}, 1 + atom % 3)
    old = msgspec.structs.replace(book.sources(page).line.uncut, engine=3)
    put(book, "test", "An earlier version", (CUT.key(page), old))
    assert book.sources(page).line.engine == book.sources(page).cut.engine == 3
    before = book.values()
    hand = hand_at(book, page, derived)
    assert verbs.told_of(hand, verbs.renewal_of(hand)) == "No pixel would have another colour."
    verbs.divide_anew(hand)
    assert book.sources(page).line.engine == ENGINE
    assert book.sources(page)[POURS] == {a: 1 + a % 3 for a in range(1, len(hand.areas))}
    book.undo()
    assert book.values() == before
    with pytest.raises(BadInput, match="by this version already"):
        verbs.divide_anew(hand_at(*make_book(two_rooms())[::2], derived))


def test_a_page_worked_on_stays_as_it_was_when_the_program_is_newer(tmp_path: Path, monkeypatch) -> None:
    file, book = new_book(tmp_path / "book.drip", "Book")
    page, _ = import_page(file, book, write_png(tmp_path / "page.png", two_rooms(gap=9)))
    hand = hand_on(file, book, page)
    for atom in range(1, len(hand.areas)):
        verbs.pour(book, page, {atom}, 1 + atom % 3)
    labels = hand.labels.copy()
    file.keep("atoms/another", b"x")
    file.close()
    monkeypatch.setattr("drip_pot.book.sources.ENGINE", ENGINE + 1)
    monkeypatch.setattr("drip_pot.files.layout.ENGINE", ENGINE + 1)
    monkeypatch.setattr("drip_pot.book.derive.regions.find_atoms", lambda *_, **__: pytest.fail("divided anew"))
    file, book = open_book(file.path)
    assert book.sources(page).cut == book.sources(page).line
    assert np.array_equal(hand_on(file, book, page).labels, labels)
    assert file.recall("kept/atoms/another") == b"x", "what colours hang on is kept for good"
    file.close()
