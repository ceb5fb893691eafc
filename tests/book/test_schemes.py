# SPDX-License-Identifier: GPL-3.0-or-later
"""Schemes: sets of colours for the same flats, none destroying another, back and forth exactly."""

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.book import Hold, Sheet, verbs
from drip_pot.book.values import EFFECTS, HOLDS, LINES, PASSES, SHEETS
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.inks import Effect
from drip_pot.core.render import Ramp, Stop
from tests.conftest import PLAIN, make_book, two_rooms


def seen(book, page) -> tuple[object, ...]:
    sources = book.sources(page)
    pots = {n: book.tone_pair(pot) for n, pot in book.pots().items()}
    return pots, sources[LINES], sources[PASSES], sources[HOLDS]


def test_a_scheme_is_made_from_the_colours_in_hand_and_none_destroys_another() -> None:
    book, _, page = make_book(two_rooms())
    number = verbs.add_pass(book, page, "Mood", "#204060")
    verbs.add_hold(book, page, Hold("Red", how="fixed", color="#c80000"))
    noon = seen(book, page)
    dusk = verbs.add_scheme(book, "Dusk")
    assert [s.name for s in book.schemes().values()] == ["First colours", "Dusk"]
    assert book.scheme == dusk
    assert seen(book, page) == noon, "a new one begins as the one it was made from"
    old = book.pots()[1]
    verbs.set_pot(book, 1, type(old)(old.name, old.part, "#803020"))
    verbs.set_lines(book, page, "#301040")
    run = Ramp((0, 0), (9, 0), (Stop(0, "#000000"), Stop(1, "#ffffff")))
    verbs.set_pass(book, page, number, type(book.sources(page)[PASSES][number])("Mood", "tint", "#f08030"))
    evening = seen(book, page)
    verbs.add_pass(book, page, "Late", ramp=run)
    verbs.remove_pass(book, page, max(book.sources(page)[PASSES]))
    verbs.use_scheme(book, 1)
    assert seen(book, page)[:2] == noon[:2]
    assert book.sources(page)[PASSES][number].color == "#204060"
    verbs.use_scheme(book, dusk)
    assert seen(book, page)[:2] == evening[:2]
    assert book.sources(page)[PASSES][number].color == "#f08030"
    book.undo()
    assert book.scheme == 1
    assert seen(book, page)[:2] == noon[:2]


def test_effect_lines_and_sheets_have_their_colours_by_scheme_too() -> None:
    book, _, page = make_book(two_rooms())
    effect = Effect("speed", ((10, 10), (10, 90), (90, 90)), 50, 50, color="#101010")
    number = verbs.set_effect(book, page, None, effect)
    sheet = verbs.add_sheet(book, page, Sheet("Burst", "effect", 1, color="#202020"), PLAIN)
    verbs.add_scheme(book, "Storm")
    verbs.set_effect(book, page, number, msgspec.structs.replace(effect, color="#8080ff"))
    verbs.set_sheet(book, page, sheet, color="#f0f0ff")

    def colors() -> tuple[str, str]:
        sources = book.sources(page)
        return sources[EFFECTS][number].color, sources[SHEETS][sheet].color

    verbs.use_scheme(book, 1)
    assert colors() == ("#101010", "#202020")
    verbs.use_scheme(book, 2)
    assert colors() == ("#8080ff", "#f0f0ff")


def test_parts_of_one_scheme_are_mixed_into_another() -> None:
    book, _, _ = make_book(two_rooms())
    verbs.add_scheme(book, "Dusk")
    for number, pot in book.pots().items():
        verbs.set_pot(book, number, type(pot)(pot.name, pot.part, "#102030"))
    verbs.use_scheme(book, 1)
    before = {n: p.local for n, p in book.pots().items()}
    verbs.use_scheme(book, 2, parts=(1,))
    assert book.scheme == 1
    for number, pot in book.pots().items():
        assert pot.local == ("#102030" if pot.part == 1 else before[number])


def test_colours_are_set_in_a_scheme_that_is_not_in_hand() -> None:
    book, _, _ = make_book(two_rooms())
    verbs.add_scheme(book, "Storm")
    verbs.use_scheme(book, 1)
    verbs.set_scheme_colors(book, 2, {1: ("#001020", "#000010")})
    assert book.pots()[1].local != "#001020"
    verbs.use_scheme(book, 2)
    assert book.tone_pair(book.pots()[1]) == ("#001020", "#000010")


@given(st.lists(st.sampled_from(["add", "use", "paint", "undo", "redo"]), max_size=12), st.integers(0, 99))
def test_whatever_is_done_the_past_comes_back_exactly(steps: list[str], seed: int) -> None:
    book, _, page = make_book(two_rooms())
    start, values = book.position, book.values()
    for place, step in enumerate(steps):
        known = list(book.schemes())
        if step == "add":
            verbs.add_scheme(book, f"Scheme {place}")
        elif step == "use" and len(known) > 1:
            other = [n for n in known if n != book.scheme]
            verbs.use_scheme(book, other[(seed + place) % len(other)])
        elif step == "paint":
            pot = book.pots()[1]
            verbs.set_pot(book, 1, type(pot)(pot.name, pot.part, f"#{(seed * 7 + place) % 256:02x}4030"))
        elif step == "redo":
            book.redo()
        elif step == "undo" and book.position > start:
            book.undo()
    while book.position > start:
        book.undo()
    assert book.values() == values
    assert page in book.pages()


def test_what_cannot_be_done_with_schemes_is_said() -> None:
    book, _, _ = make_book(two_rooms())
    with pytest.raises(BadInput, match="no scheme 3"):
        verbs.use_scheme(book, 3)
    dusk = verbs.add_scheme(book, "Dusk")
    with pytest.raises(BadInput, match="called dusk already"):
        verbs.add_scheme(book, " dusk ")
    with pytest.raises(NothingDone, match="in hand already"):
        verbs.use_scheme(book, dusk)
    with pytest.raises(BadInput, match="is in hand"):
        verbs.remove_scheme(book, dusk)
    verbs.remove_scheme(book, 1)
    assert book.schemes() == {}
    assert book.scheme == 0


def test_pots_take_their_names_along_and_none_takes_the_name_of_another() -> None:
    book, _, _ = make_book(two_rooms())

    def named_(number: int, name: str, **how: bool) -> None:
        verbs.set_pot(book, number, msgspec.structs.replace(book.pots()[number], name=name), **how)

    dusk = verbs.add_scheme(book, "Dusk")
    named_(1, "Embers")
    named_(2, "Deep blue", in_scheme=True)
    verbs.use_scheme(book, 1)
    assert [pot.name for pot in book.pots().values()] == ["Embers", "Sky", "Moss"], "one in all, one in a scheme alone"
    verbs.add_pot(book, "Deep blue", 1, "#123456")
    verbs.use_scheme(book, dusk)
    assert book.pots()[2].name == "Sky"
    book.undo()
    book.undo()
    verbs.use_scheme(book, dusk)
    assert book.pots()[2].name == "Deep blue"
