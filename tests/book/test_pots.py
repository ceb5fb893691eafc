# SPDX-License-Identifier: GPL-3.0-or-later
"""Pots moved, merged, mixed, shifted and made from what is picked: each one edit."""

import numpy as np
import pytest

from drip_pot.book import BALLOON, verbs
from drip_pot.book.findings import find
from drip_pot.book.orders import run
from drip_pot.book.tables import build_tables
from drip_pot.book.values import POURS, HouseColor
from drip_pot.book.verbs import pots as pots_of
from drip_pot.book.verbs.cutting import cut_mask
from drip_pot.core.color import from_hex, mixed, srgb8_to_oklab, to_hex
from drip_pot.core.errors import BadInput, NothingDone
from tests.book.test_sheets import Shelf, state
from tests.conftest import make_book, two_rooms

EMBER, SKY, MOSS = 1, 2, 3


@pytest.fixture
def shelf() -> Shelf:
    """Two rooms in Ember and Sky; parts 1 (Figure: Ember) and 2 (Ground: Sky, Moss)."""
    made = Shelf(two_rooms())
    made.pour(100, 80, EMBER)
    made.pour(100, 220, SKY)
    return made


def rooms(shelf: Shelf) -> tuple[int, int]:
    return int(shelf.labels()[100, 80]), int(shelf.labels()[100, 220])


def order(shelf: Shelf, part: int) -> list[int]:
    return [n for n, p in shelf.book.pots().items() if p.part == part]


def test_pots_and_parts_are_moved_about(shelf: Shelf) -> None:
    before = state(shelf.book)
    pots_of.move_pot(shelf.book, EMBER, 2, 1)
    assert order(shelf, 2) == [SKY, EMBER, MOSS]
    pots_of.move_pot(shelf.book, MOSS, 2, 0)
    assert order(shelf, 2) == [MOSS, SKY, EMBER]
    pots_of.move_part(shelf.book, 2, -1)
    assert list(shelf.book.parts()) == [2, 1]
    with pytest.raises(BadInput, match="Choose the part"):
        pots_of.remove_part(shelf.book, 2, None)
    pots_of.remove_part(shelf.book, 2, 1)
    assert order(shelf, 1) == [MOSS, SKY, EMBER]
    assert shelf.pot_at(100, 80) == EMBER
    while state(shelf.book) != before:
        assert shelf.book.undo()


def test_a_pot_is_merged_or_removed_on_every_page(shelf: Shelf) -> None:
    steps = shelf.book.position
    pots_of.remove_pot(shelf.book, SKY, MOSS)
    assert shelf.pot_at(100, 220) == MOSS
    assert SKY not in shelf.book.pots()
    assert shelf.book.history[-1].title == "Merge Sky into Moss"
    pots_of.remove_pot(shelf.book, EMBER, None)
    assert shelf.pot_at(100, 80) is None
    assert shelf.book.position == steps + 2
    with pytest.raises(BadInput, match="into itself"):
        pots_of.remove_pot(shelf.book, MOSS, MOSS)


def test_mixing_makes_one_named_pot_beside_its_parent_and_uses_it_again(shelf: Shelf) -> None:
    left, right = rooms(shelf)
    pots_of.mix_pour(shelf.book, shelf.page, [left, right], MOSS, 0.25)
    new = shelf.book.pots()[shelf.pot_at(100, 80)]
    assert (new.name, new.part) == ("Ember + 25 % Moss", 1)
    assert new.local == to_hex(mixed(from_hex("#e2553a"), from_hex("#5d7a3a"), 0.25))
    assert order(shelf, 2)[1] == shelf.pot_at(100, 220), "next to its parent"
    count = len(shelf.book.pots())
    verbs.pour(shelf.book, shelf.page, [left], EMBER)
    pots_of.mix_pour(shelf.book, shelf.page, [left], MOSS, 0.25)
    assert len(shelf.book.pots()) == count, "the same mix is the same pot"
    verbs.keep_balloon(shelf.book, shelf.page, [right])
    for atoms, pot, strength, wrong in ([right], MOSS, 0.5, "nothing here"), ([left], MOSS, 1.5, "1 to 100 %"):
        with pytest.raises(BadInput, match=wrong):
            pots_of.mix_pour(shelf.book, shelf.page, atoms, pot, strength)
    assert shelf.sources[POURS][right] == BALLOON


def test_shifting_all_of_a_pot_changes_it_and_some_of_it_makes_another(shelf: Shelf) -> None:
    left, right = rooms(shelf)
    outside = int(shelf.labels()[5, 5])
    verbs.pour(shelf.book, shelf.page, [outside], SKY)
    pots_of.shift_colors(shelf.book, shelf.page, [left, right], -0.1, 1.0, 0.0)
    assert shelf.pot_at(100, 80) == EMBER
    assert shelf.book.pots()[EMBER].local < "#e2553a"
    part_of_it = shelf.book.pots()[shelf.pot_at(100, 220)]
    assert part_of_it.name == "Sky 2"
    assert shelf.book.pots()[SKY].local == "#a8d4e0"
    assert shelf.pot_at(5, 5) == SKY


def test_what_is_picked_gets_its_own_pot_or_another_part(shelf: Shelf) -> None:
    left, right = rooms(shelf)
    outside = int(shelf.labels()[5, 5])
    verbs.pour(shelf.book, shelf.page, [outside], SKY)
    new = pots_of.own_pot(shelf.book, shelf.page, [right])
    assert shelf.pot_at(100, 220) == new != SKY
    assert shelf.book.pots()[new].local == shelf.book.pots()[SKY].local
    pots_of.to_part(shelf.book, shelf.page, [right, left], 1)
    assert shelf.book.pots()[new].part == 1
    assert shelf.book.pots()[SKY].part == 2
    with pytest.raises(BadInput, match="belongs to Figure already"):
        pots_of.to_part(shelf.book, shelf.page, [right, left], 1)
    verbs.pour(shelf.book, shelf.page, [right], None)
    with pytest.raises(BadInput, match="has a pot"):
        pots_of.own_pot(shelf.book, shelf.page, [right])


def test_many_pots_and_inks_come_in_one_step(shelf: Shelf) -> None:
    steps = shelf.book.position
    made = pots_of.add_pots(shelf.book, "Study", [("Brick", "#a04030"), ("", "#102030")])
    assert shelf.book.position == steps + 1
    assert [shelf.book.pots()[n].name for n in made] == ["Brick", "#102030"]
    assert [p.name for p in shelf.book.parts().values()][-1] == "Study"
    for part, colors in (("", [("a", "#000000")]), ("Study", []), ("Study", [("a", "red")])):
        with pytest.raises(BadInput):
            pots_of.add_pots(shelf.book, part, colors)
    pots_of.keep_ink_set(shelf.book, "My  markers", [("Brick", "#a04030")])
    pots_of.keep_ink_set(shelf.book, "My markers", [("Brick", "#a04030"), ("Slate", "#405060")])
    assert [(s.name, len(s.inks)) for s in shelf.book.ink_sets().values()] == [("My markers", 2)]
    pots_of.keep_ink_set(shelf.book, "My markers", [])
    assert shelf.book.ink_sets() == {}
    with pytest.raises(BadInput, match="needs a name"):
        pots_of.keep_ink_set(shelf.book, " ", [])


def test_several_edits_are_undone_as_one(shelf: Shelf) -> None:
    before, (left, right) = state(shelf.book), rooms(shelf)
    with shelf.book.as_one():
        verbs.pour(shelf.book, shelf.page, [left], MOSS)
        verbs.pour(shelf.book, shelf.page, [right], MOSS)
    verbs.pour(shelf.book, shelf.page, [left], SKY)
    past = shelf.book.at(shelf.book.position - 3)
    assert state(past) == before
    assert shelf.pot_at(100, 80) == SKY, "looking back changes nothing"
    shelf.book.undo()
    shelf.book.undo()
    assert state(shelf.book) == before
    assert state(shelf.book.at(shelf.book.position + 2))[0] != before[0]


def test_look_here_finds_what_was_left_behind_worst_first() -> None:
    ink = two_rooms(rows=400, cols=600)
    ink[195:205, 95:100] = 255
    shelf = Shelf(ink)
    hand = shelf.hand
    island = np.ones((30, 30), bool)
    shelf.pour(300, 80, EMBER)
    shelf.pour(300, 450, SKY)
    cut_mask(hand, (100, 80, 130, 110), island, None)
    cut_mask(shelf.hand, (100, 200, 101, 290), np.ones((1, 90), bool), MOSS)
    found = {f.title: f for f in shelf.findings("Flats")}
    assert list(found) == ["Sliver", "Island"]
    assert found["Island"].sentence == "900 px of paper inside Ember"
    from drip_pot.book.findings import mend

    for finding in found.values():
        mend(shelf.book, shelf.page, finding)
    assert shelf.pot_at(115, 95) == shelf.pot_at(100, 250) == EMBER
    assert shelf.findings("Flats") == []
    verbs.set_pot(shelf.book, SKY, shelf.book.pots()[SKY].__class__("Sky", 2, "#e2553b"))
    assert [f.title for f in shelf.findings("Flats")] == ["No border seen"]
    verbs.choose_bridge(shelf.book, shelf.page, 1.0, 1.0, False)
    assert shelf.findings("Flats")


def test_pots_that_trial_mixes_left_are_removed_in_one_step() -> None:
    shelf = Shelf(two_rooms())
    shelf.pour(100, 80, EMBER)
    verbs.mix_pour(shelf.book, shelf.page, shelf.hand.region_of(shelf.hand.atom_at(100, 80)), SKY, 0.5)
    shelf.pour(100, 80, EMBER)
    before, count = state(shelf.book), len(shelf.book.pots())
    assert verbs.remove_unused_pots(shelf.book) == count - 1
    assert list(shelf.book.pots()) == [EMBER]
    with pytest.raises(BadInput, match="in use"):
        verbs.remove_unused_pots(shelf.book)
    shelf.book.undo()
    assert state(shelf.book) == before


@pytest.mark.parametrize("lighter", [False, True])
def test_a_series_is_even_in_lightness_and_of_one_hue(lighter: bool) -> None:
    shelf = Shelf(two_rooms())
    made = verbs.series(shelf.book, EMBER, 5, lighter=lighter)
    pots = shelf.book.pots()
    order = [n for n, p in pots.items() if p.part == pots[EMBER].part]
    assert order[order.index(EMBER) + 1 :][:5] == made, "they stand behind it"
    lab = np.array([srgb8_to_oklab(from_hex(pots[n].local)) for n in (EMBER, *made)])
    steps = np.diff(lab[:, 0])
    assert (steps > 0).all() == lighter
    assert np.abs(steps - steps.mean()).max() < 0.012
    turn = np.angle((lab[1:, 1] + 1j * lab[1:, 2]) / (lab[0, 1] + 1j * lab[0, 2]), deg=True)
    assert np.abs(turn[:4]).max() < 6
    shelf.book.undo()
    assert made[0] not in shelf.book.pots()
    with pytest.raises(BadInput, match="3 to 7"):
        verbs.series(shelf.book, EMBER, 9)


def test_a_book_follows_the_colours_of_a_house_and_says_where_it_differs() -> None:
    book, derived, page = make_book(two_rooms())
    verbs.pour(book, page, [1], 1)
    verbs.pour(book, page, [2], 3)
    with pytest.raises(BadInput, match="follows no palette"):
        verbs.take_house(book)
    colors = [HouseColor("ember ", "#E2553A"), HouseColor("Sky", "#336699", "Ground", "#112233"),
              HouseColor("Moss", "#101010", "Elsewhere"), HouseColor("Moss", "#5d7a3b", "GROUND")]  # fmt: skip
    before = book.values()
    verbs.follow_house(book, "Kites", colors)
    assert verbs.unlike_house(book) == {2: colors[1], 3: colors[3]}
    sources = book.sources(page)
    tables = build_tables(book, sources, derived.regions.atoms(sources.line).count, derived.ground(sources))
    (finding,) = (one for one in find(book, sources, derived, tables)["Flats"] if one.title == "Unlike the house")
    assert finding.sentence == "Moss is #5d7a3a here and #5d7a3b in Kites", "only what the page uses is shown"
    run(book, finding.asks.order, finding.asks.given, page)
    assert list(verbs.unlike_house(book)) == [2]
    verbs.take_house(book)
    assert (book.pots()[2].local, book.pots()[2].shadow) == ("#336699", "#112233")
    assert book.pots()[1].local == "#e2553a"
    with pytest.raises(NothingDone, match="as Kites has it"):
        verbs.take_house(book)
    with pytest.raises(BadInput, match="no other colour"):
        verbs.take_house(book, [1])
    with pytest.raises(BadInput, match="1 to 2000"):
        verbs.follow_house(book, "Kites", [])
    with pytest.raises(BadInput, match="#12"):
        verbs.follow_house(book, "Kites", [HouseColor("Sky", "#12")])
    verbs.leave_house(book)
    assert not verbs.unlike_house(book)
    while book.values() != before:
        assert book.undo()
