# SPDX-License-Identifier: GPL-3.0-or-later
"""What follows from a page: worked out once, only when needed, and the findings made from it."""

import cv2
import msgspec
import numpy as np
import pytest

from drip_pot.book import Book, Derived, Hold, InkState, Picture, build_tables, verbs
from drip_pot.book.derive import stride
from drip_pot.book.findings import STAGES, Finding, find, mend
from drip_pot.book.ready import Ready
from drip_pot.book.values import POURS
from drip_pot.core.inks import InkSettings
from drip_pot.core.press import PressSettings
from drip_pot.core.render import Finish
from tests.conftest import PLAIN, make_book, plain_line, two_rooms


class Shelved:
    """A cache that counts."""

    def __init__(self) -> None:
        self.kept: dict[str, bytes] = {}
        self.hits = 0

    def recall(self, key: str) -> bytes | None:
        self.hits += key in self.kept
        return self.kept.get(key)

    def keep(self, key: str, data: bytes) -> None:
        self.kept[key] = data


def findings(book: Book, derived: Derived, page: int) -> dict[str, list[Finding]]:
    sources = book.sources(page)
    return find(book, sources, derived, build_tables(book, sources, derived.regions.atoms(sources.line).count))


def test_nothing_is_worked_out_twice() -> None:
    loads = []
    ink = two_rooms(5)

    def load(sheet: object) -> Picture:
        loads.append(1)
        return Picture(255 - ink)

    book, _, page = make_book(ink)
    derived = Derived(load)
    sources = book.sources(page)
    first = derived.regions.atoms(sources.line)
    verbs.set_gap(book, page, 3)
    verbs.pour(book, page, {1}, 1)
    part = derived.regions.partition(book.sources(page))
    assert derived.regions.atoms(book.sources(page).line) is first
    assert derived.regions.partition(book.sources(page)) is part
    assert loads == [1]


def test_atoms_survive_the_cache_bit_for_bit_and_a_damaged_cache_is_made_anew() -> None:
    ink, cache = two_rooms(5), Shelved()
    one = Derived(lambda *_: Picture(255 - ink), cache).regions.atoms(plain_line(ink))
    two = Derived(lambda *_: Picture(255 - ink), cache).regions.atoms(plain_line(ink))
    assert cache.hits == 1
    assert np.array_equal(one.labels, two.labels)
    assert np.array_equal(one.bridges.feet, two.bridges.feet)
    assert np.array_equal(one.edges, two.edges)
    cache.kept = {k: v[: len(v) // 2] for k, v in cache.kept.items()}
    assert np.array_equal(
        Derived(lambda *_: Picture(255 - ink), cache).regions.atoms(plain_line(ink)).labels, one.labels
    )
    Derived(lambda *_: Picture(255 - ink), cache).regions.atoms(plain_line(ink, 2))
    assert len(cache.kept) == 2, "another original has its own entry"


def test_facts_say_where_atoms_are() -> None:
    book, derived, page = make_book(two_rooms())
    atoms, facts = derived.regions.atoms(book.sources(page).line), derived.regions.facts(book.sources(page).line)
    for atom in range(1, atoms.count + 1):
        rows, cols = np.nonzero(atoms.labels == atom)
        assert facts.areas[atom] == len(rows)
        assert facts.boxes[atom].tolist() == [rows.min(), cols.min(), rows.max() + 1, cols.max() + 1]


def test_colours_are_carried_to_a_heavier_line() -> None:
    book, derived, page = make_book(two_rooms())
    labels = derived.regions.atoms(book.sources(page).line).labels
    left, right = int(labels[100, 80]), int(labels[100, 220])
    verbs.pour(book, page, {left}, 1)
    verbs.pour(book, page, {right}, 2)
    heavier = InkState(msgspec.structs.replace(PLAIN.settings, weight_px=2.0))
    verbs.set_inks(book, page, heavier)
    verbs.recut(book, page, *derived.regions.carried(book.sources(page)))
    found = derived.regions.atoms(book.sources(page).line).labels
    pours = book.sources(page)[POURS]
    assert pours[int(found[100, 80])] == 1
    assert pours[int(found[100, 220])] == 2
    assert int(found[5, 5]) not in pours


def test_a_moving_gap_width_keeps_every_colour_in_place() -> None:
    book, derived, page = make_book(two_rooms(9))
    labels = derived.regions.atoms(book.sources(page).line).labels
    verbs.pour(book, page, {int(labels[100, 80])}, 1)
    verbs.pour(book, page, {int(labels[100, 220])}, 2)
    before = build_tables(book, book.sources(page), int(labels.max())).screen.flat
    for gap in (0.0, 60.0, 4.0, None):
        verbs.set_gap(book, page, gap)
        after = build_tables(book, book.sources(page), int(labels.max())).screen.flat
        assert np.array_equal(after[labels], before[labels])


def test_a_likely_leak_is_found_and_bridged_by_its_verb() -> None:
    book, derived, page = make_book(two_rooms(15, rows=700, cols=900))
    verbs.set_gap(book, page, 5)
    (leak,) = [f for f in findings(book, derived, page)["Flats"] if f.title == "Open gap"]
    assert "15 px" in leak.sentence
    assert leak.rect is not None
    assert leak.rect[0] < 350 < leak.rect[2]
    mend(book, page, leak)
    part, labels = derived.regions.partition(book.sources(page)), derived.regions.atoms(book.sources(page).line).labels
    assert part.region[labels[350, 100]] != part.region[labels[350, 800]]
    assert not [f for f in findings(book, derived, page)["Flats"] if f.title == "Open gap"]


def test_dust_is_found_and_removed_by_its_verb() -> None:
    ink = two_rooms()
    cv2.circle(ink, (80, 100), 4, 130, -1)
    cv2.circle(ink, (240, 60), 4, 255, -1)  # as dark as the line: an eye
    book, derived, page = make_book(ink)
    inks = InkState(InkSettings(252, 4, speck_px=20, even_paper=False))
    verbs.set_inks(book, page, inks)
    (dust,) = findings(book, derived, page)["Inks"]
    mend(book, page, dust)
    assert not derived.inks.contour(book.sources(page).line)[90:110, 70:90].any()
    assert findings(book, derived, page)["Inks"] == []


def test_a_faint_line_that_stands_alone_is_named_once_and_can_be_taken_out() -> None:
    ink = two_rooms()
    cv2.line(ink, (60, 60), (110, 90), 75, 2)  # a hair
    cv2.line(ink, (200, 80), (230, 80), 75, 2)
    cv2.line(ink, (229, 60), (229, 110), 255, 5)  # what the second hangs on
    book, derived, page = make_book(ink)
    verbs.set_inks(book, page, InkState(InkSettings(252, 4, speck_px=40, even_paper=False)))
    (hair,) = [f for f in findings(book, derived, page)["Inks"] if f.verb == "Remove"]
    assert hair.title == "Faint line"
    mend(book, page, hair)
    contour = derived.inks.contour(book.sources(page).line)
    assert not contour[55:95, 55:115].any()
    assert contour[80, 205] > 40
    assert [(f.title, f.verb) for f in findings(book, derived, page)["Inks"]] == [("Faint line", "")]


@pytest.mark.parametrize(
    ("stage", "title", "cause"),
    [
        ("Flats", "Unpoured", lambda b, p, a: verbs.pour(b, p, {a[0]}, 1)),
        ("Flats", "Too alike", lambda b, p, a: (verbs.add_pot(b, "Twin", 1, "#e1553b"), verbs.pour(b, p, {a[0]}, 4),
                                                verbs.pour(b, p, {a[1]}, 1))),
        ("Shade", "Tones too close", lambda b, p, a: (
            verbs.set_pot(b, 1, type(b.pots()[1])("Ember", 1, "#e2553a", "#e05038")), verbs.pour(b, p, {a[0]}, 1))),
        ("Holds", "Hold too weak", lambda b, p, a: (
            verbs.pour(b, p, set(a), 1), verbs.add_hold(b, p, Hold("Pale", amount=0.1, kinds=("string",))))),
        ("Holds", "Hold on nothing", lambda b, p, a: verbs.hold_part(b, p, 1, 0.5)),
        ("Holds", "Hold lighter than its fill", lambda b, p, a: (
            verbs.pour(b, p, set(a), 1), verbs.add_hold(b, p, Hold("Chalk", how="fixed", color="#ffffff",
                                                                 kinds=("string",))))),
        ("Press", "Trap too narrow", lambda b, p, a: verbs.set_press(b, p, PressSettings(trap_mm=0.01))),
        ("Press", "Line nearly black", lambda b, p, a: verbs.set_lines(b, p, "#010101")),
        ("Press", "Little bleed", lambda b, p, a: verbs.set_print(b, p, dpi=300.0, trim_mm=(5.0, 5.0), bleed_mm=0.0)),
        ("Press", "Coarse for print", lambda b, p, a: verbs.set_print(b, p, dpi=150.0, trim_mm=None, bleed_mm=0.0)),
        ("Press", "Out of gamut", lambda b, p, a: (verbs.add_pot(b, "Acid", 1, "#00ff00"),
                                                  verbs.pour(b, p, {a[0]}, 4))),
        ("Press", "Black in several inks", lambda b, p, a: (verbs.add_pot(b, "Coal", 1, "#0b0a0e"),
                                                           verbs.pour(b, p, {a[0]}, 4))),
        ("Press", "Pass over an ink of its own", lambda b, p, a: (
            verbs.set_pot_inks(b, 1, None, spot="Kite Red"), verbs.pour(b, p, {a[0]}, 1),
            verbs.add_pass(b, p, "Warmth", finish=Finish(mids=0.3)))),
    ],
)  # fmt: skip
def test_each_kind_of_trouble_is_listed_can_be_mended_or_left(stage: str, title: str, cause: object) -> None:
    book, derived, page = make_book(two_rooms(rows=600, cols=600))
    labels = derived.regions.atoms(book.sources(page).line).labels
    atoms = [int(labels[300, 100]), int(labels[300, 500])]
    assert findings(book, derived, page)[stage] == []
    cause(book, page, atoms)  # type: ignore[operator]
    found = [f for f in findings(book, derived, page)[stage] if f.title == title]
    assert found
    if found[0].verb:
        mend(book, page, found[0])
    else:
        verbs.leave(book, page, found[0].key)
    assert found[0].key not in [f.key for f in findings(book, derived, page)[stage]]
    book.undo()
    assert found[0].key in [f.key for f in findings(book, derived, page)[stage]]
    assert set(findings(book, derived, page)) == set(STAGES)


def test_the_page_register_test_counts_before_and_after() -> None:
    ink = two_rooms(rows=1200, cols=300)
    ink[25:1175, 140:160] = 0
    ink[20:1180, 150] = 60
    book, derived, page = make_book(ink)
    labels = derived.regions.atoms(book.sources(page).line).labels
    verbs.add_pot(book, "Red", 1, "#e8202a")
    verbs.add_pot(book, "Blue", 1, "#009de0")
    verbs.pour(book, page, {int(labels[600, 60])}, 4)
    verbs.pour(book, page, {int(labels[600, 240])}, 5)
    verbs.set_press(book, page, PressSettings(trap_mm=0.3, tolerance_mm=0.2))
    sources = book.sources(page)
    tables = build_tables(book, sources, int(labels.max()))
    ready = Ready(derived.painted.shown(sources), (book.plane(f"page/{page}/pass/1"),), tables)
    traps = derived.press.traps(sources, ready.composing(), 0, derived.regions.partition(sources).region)
    thin = ready.thinned(stride(sources))
    told = derived.press.register(sources, lambda rows, tried: thin.plates_each(tried, rows), tables.plates, traps)
    assert told.gap_mm[0] > 80
    assert told.gap_mm[1] < 2
    assert told.map.shape[0] * told.cell_px >= 1200
    assert told.map[:, 150 // told.cell_px].any() == (told.gap_mm[1] > 0)
