# SPDX-License-Identifier: GPL-3.0-or-later
"""What is said and shown is so: what is unpoured, dams that part, lines in their colour, whom to blame."""

from pathlib import Path

import numpy as np
import pytest

from drip_pot.book import Book, build_tables, verbs
from drip_pot.book.findings import find
from drip_pot.book.findings.inks import find_inks
from drip_pot.book.hand import Hand, hand_at
from drip_pot.book.leftovers import leftovers, regions_left
from drip_pot.book.telling import tell
from drip_pot.core.arrays import no_report
from drip_pot.core.errors import NothingDone
from drip_pot.files import read_palette
from drip_pot.files.delivery.export import prepared
from tests.conftest import make_book, two_rooms


class Page:
    """A page of two rooms with a gap of so many pixels between them."""

    def __init__(self, gap: int = 0) -> None:
        self.book, self.derived, self.page = make_book(two_rooms(gap))

    @property
    def hand(self) -> Hand:
        return hand_at(self.book, self.page, self.derived)

    def together(self) -> bool:
        hand = self.hand
        return hand.atom_at(60, 220) in hand.region_of(hand.atom_at(60, 80))


@pytest.mark.parametrize("shut", [False, True])
def test_a_dam_along_a_found_bridge_shuts_it_for_good_and_says_so(shut: bool) -> None:
    page = Page(gap=14)
    bridges = page.hand.divided.found.bridges
    index = int(np.flatnonzero(page.hand.partition.separates)[0])
    row, col = ((bridges.feet[index, :2] + bridges.feet[index, 2:]) / 2).tolist()
    if not shut:
        verbs.choose_bridge(page.book, page.page, row, col, False)
        assert page.together()
    told = verbs.set_dam(page.hand, ((92.0, 150.0), (108.0, 150.0)))
    assert ("parts this place already" if shut else "is shut for it") in (told or "")
    verbs.set_gap(page.book, page.page, 0.0)
    assert not page.together()
    page.book.undo()
    page.book.undo()
    assert page.together() != shut


def unpoured(book: Book, derived, page: int) -> tuple[int, int, int]:
    """The count, the list and the picture of what nobody poured."""
    sources = book.sources(page)
    atoms, panels = derived.regions.atoms(sources.line), derived.regions.panels(sources)
    tables = build_tables(book, sources, atoms.count, derived.ground(sources))
    left = leftovers(atoms.areas, tables.is_left, panels)
    listed = [f for f in find(book, sources, derived, tables, stages=("Flats",))["Flats"] if f.title == "Unpoured"]
    return tell(book, lambda _: derived, [page])["pages"][0]["unpoured"], len(listed), len(
        regions_left(derived.regions.partition(sources).region, left)
    )  # fmt: skip


def test_count_list_and_picture_of_what_is_unpoured_agree_until_all_is_poured() -> None:
    page = Page()
    hand = page.hand
    atoms = range(1, len(hand.areas))
    verbs.pour(page.book, page.page, {atoms[0]}, 1)
    for atom in atoms[1:]:
        count, listed, shown = unpoured(page.book, page.derived, page.page)
        assert count == listed == shown > 0
        verbs.pour(page.book, page.page, {atom}, 2)
    assert unpoured(page.book, page.derived, page.page) == (0, 0, 0)
    verbs.pour(page.book, page.page, {atoms[1]}, None)
    verbs.keep_balloon(page.book, page.page, {atoms[1]})
    assert unpoured(page.book, page.derived, page.page) == (0, 0, 0), "paper that is meant to be"


def test_all_lines_in_a_colour_are_shown_though_the_page_has_no_hold() -> None:
    page = Page()
    verbs.set_lines(page.book, page.page, "#ff0000")
    made = prepared(page.book, page.derived, page.page, traps=False)
    pieces = page.derived.painted.shown(page.book.sources(page.page), pieces=True)  # as Holds asks for them
    for shown in (made.ready.shown, pieces):
        seen = type(made.ready)(shown, made.ready.covers, made.ready.tables).screen()
        assert tuple(seen[21, 100, :3]) == (255, 0, 0)


def test_a_stroke_outside_what_is_picked_blames_the_pick_and_not_the_pass() -> None:
    page = Page()
    left, right = (page.hand.atom_at(60, col) for col in (80, 220))
    loop = [(50.0, 200.0), (50.0, 240.0), (90.0, 240.0), (90.0, 200.0)]
    with pytest.raises(NothingDone, match="outside what is picked"):
        verbs.cut_shade(page.hand, loop, inside={left})
    with pytest.raises(NothingDone, match="outside what is picked"):
        verbs.mist_pass(page.hand, [(60.0, 215.0, 1.0), (60.0, 225.0, 1.0)], 8.0, inside={left})
    verbs.cut_shade(page.hand, loop, inside={right})
    with pytest.raises(NothingDone, match="less than a fifth"):
        verbs.sweep(page.hand, [(60.0, 80.0), (62.0, 82.0)], 1, 6.0)


def test_solid_black_is_no_grey_tone() -> None:
    ink = two_rooms()
    ink[40:160, 170:260] = 255
    ink[45:150, 40:130] = 130
    book, derived, page = make_book(ink)
    found = [f for f in find_inks(book.sources(page), derived, no_report) if "tone" in f.title.lower()]
    assert len(found) == 1
    assert found[0].rect[1] < 140, "the grey one alone"


@pytest.mark.parametrize("head", ["name,color", "Colour,Name", "hex,name,group", "#name,#color"])
def test_a_palette_is_read_by_what_stands_over_its_columns(tmp_path: Path, head: str) -> None:
    cells = {"name": "Ember", "color": "#d9482b", "colour": "#d9482b", "hex": "#d9482b", "group": "Fire"}
    row = ",".join(cells[word.strip("#").lower()] for word in head.split(","))
    (tmp_path / "p.csv").write_text(f"{head}\n{row}\n")
    inks, problems = read_palette(tmp_path / "p.csv")
    assert (inks[0].name, inks[0].local, problems) == ("Ember", "#d9482b", [])
