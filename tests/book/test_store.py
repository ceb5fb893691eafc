# SPDX-License-Identifier: GPL-3.0-or-later
"""Typed tables: patched they equal those read anew; what cannot be read is left out and named; pages are read late."""

from pathlib import Path

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.book import Book, MemoryContents, verbs
from drip_pot.book.sources import TYPED as KINDS
from drip_pot.book.store import Edit, PageValues, PlaneStates, ReadAs, Table, TilePlane
from drip_pot.book.values import FLATS, HOLDS, POURS, REPAIR
from drip_pot.core.errors import BadInput
from drip_pot.files import import_page, new_book, open_book
from tests.conftest import PLAIN, make_book, two_rooms, write_png

keys = st.integers(0, 12).map(str)
texts = st.one_of(st.none(), st.integers(-3, 99).map(str), st.just('"odd"'))


@given(st.dictionaries(keys, st.integers(0, 9).map(str)), st.lists(st.dictionaries(keys, texts), max_size=6))
def test_a_patched_table_equals_one_read_anew(first: dict[str, str], steps: list[dict[str, str | None]]) -> None:
    table, plain = Table(dict(first), ReadAs(int, int)), dict(first)
    for step in steps:
        before = dict(table.typed())
        older, table = table, table.changed(step)
        plain = {k: v for k, v in (plain | step).items() if v is not None}
        fresh = Table(dict(plain), ReadAs(int, int))
        assert table.texts == plain
        assert list(table.typed().items()) == list(fresh.typed().items())
        assert sorted(table.unread()) == sorted(fresh.unread())
        assert older.typed() == before, "a table is never changed"


def test_tables_that_are_not_concerned_stay_the_same() -> None:
    page = PageValues({"pour/3": "1", "pour/10": "2", "hold/1": '{"amount":0.5}', "flats": "{}"}, KINDS)
    changed = page.changed({"pour/3": None, "unheard-of/x": "[1]"})
    assert changed.table("hold") is page.table("hold")
    assert changed.table("pour").typed() == {10: 2}
    assert changed.get("unheard-of/x") == "[1]", "what a newer version wrote is kept as it is"
    assert changed.texts() == {"pour/10": "2", "hold/1": '{"amount":0.5}', "flats": "{}", "unheard-of/x": "[1]"}


def test_a_damaged_value_costs_itself_alone_and_is_named() -> None:
    book, _, page = make_book(two_rooms())
    verbs.pour(book, page, {1, 2}, 1)
    verbs.hold_part(book, page, 1, 0.4)
    values = book.values() | {f"page/{page}/pour/2": '"blue"', f"page/{page}/hold/1": "{", "pot/77": "[]"}
    again = Book(None, MemoryContents(values, {(f"page/{page}/pass/1", 0, 0): b"damaged"}))
    assert again.sources(page)[POURS] == {1: 1}
    assert again.sources(page)[HOLDS] == {}
    assert 77 not in again.pots()
    said = again.damage(page)
    assert "2 values and 1 painted tile" in said
    assert again.pages()[page].name in said
    assert not book.damage(page)


def test_pages_and_planes_are_read_when_they_are_needed(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("drip_pot.book.book._PAGES_KEPT", 12)
    file, book = new_book(tmp_path / "many.drip", "Many")
    drawing = write_png(tmp_path / "page.png", two_rooms())
    pages = [import_page(file, book, drawing)[0] for _ in range(20)]
    mask = np.ones((20, 20), bool)
    for page in pages:
        verbs.shade_mask(book, page, (10, 10, 30, 30), mask, mask, light=False)
    whole = book.values(), book.tiles()
    file.close()
    file, book = open_book(tmp_path / "many.drip")
    assert len(book.pages()) == 20
    assert not book._pages
    still = book.still()
    for page in pages:
        verbs.set_gap(book, page, 7.0)
        verbs.shade_mask(book, page, (0, 0, 20, 20), mask, mask, light=page % 2 == 0)
    assert len(book._pages) < 20, "pages not used for a while are let go"
    assert (still.values(), still.tiles()) == whole, "a snapshot stays, also of pages that nobody had read"
    assert all(book.sources(page)[FLATS].gap_px == 7.0 for page in pages)
    file.close()


def test_every_kind_of_value_can_be_written_and_read(tmp_path: Path) -> None:
    book, _, page = make_book(two_rooms())
    verbs.set_inks(book, page, PLAIN, "Adjust")
    told = msgspec.json.encode(book.sources(page))
    assert msgspec.json.decode(told)["page"]["rows"] == 200


def test_states_of_a_plane_are_kept_by_their_pixels_and_a_few_of_each() -> None:
    plane, states, seen = TilePlane((300, 300)), PlaneStates(), []
    for value in range(1, 6):
        new = np.full((40, 40), value, np.uint8)
        for change in plane.replaced("repair", (250, 250, 290, 290), new):
            plane.put(change)
        seen.append((states.kept("repair", plane), plane.whole()))
        assert states.kept("repair", plane) == seen[-1][0] == plane.checksum()
    assert len({checksum for checksum, _ in seen}) == 5
    for checksum, pixels in seen[-3:]:
        found = states.found("repair", checksum)
        assert found is not None
        assert np.array_equal(found.whole(), pixels), "as it was, whatever was painted since"
    assert states.found("repair", seen[0][0]) is None
    assert states.found("pass/1", seen[-1][0]) is None
    states.forget("rep")
    assert states.found("repair", seen[-1][0]) is None
    assert TilePlane((300, 300)).checksum() == 0


def test_no_two_states_of_any_planes_have_the_same_version() -> None:
    one, two = TilePlane((20, 20)), TilePlane((20, 20))
    versions = [one.version, two.version]
    for plane in (one, two, one.copy()):
        (change,) = plane.replaced("pass/1", (0, 0, 5, 5), np.full((5, 5), 9 + len(versions), np.uint8))
        plane.put(change)
        versions.append(plane.version)
    assert len(set(versions)) == len(versions)
    assert one.copy().version == one.version


def test_a_state_of_the_repair_sheet_comes_back_from_the_history_or_is_refused() -> None:
    book, _, page = make_book(two_rooms())
    plane, marks = REPAIR.key(page), []
    for value in range(1, 8):
        tiles = book.plane(plane).replaced(plane, (30, 30, 60, 60), np.full((30, 30), value, np.uint8))
        book.apply(Edit("ink", "Pen", (), tiles))
        marks.append((book.sources(page).line.repair, value))
    for checksum, value in marks:
        assert book.frozen(plane, checksum).whole()[40, 40] == value
    with pytest.raises(BadInput, match="no longer in the book"):
        book.frozen(plane, 12345)
