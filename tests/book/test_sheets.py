# SPDX-License-Identifier: GPL-3.0-or-later
"""Sheets, page geometry, mending, effects and re-inking in the book: everything follows, and undo is exact."""

import cv2
import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.book import (
    BALLOON,
    FIRST_ENGINE,
    Book,
    Derived,
    InkState,
    MemoryContents,
    Picture,
    Sheet,
    SheetLine,
    build_tables,
    verbs,
)
from drip_pot.book.findings import find, mend
from drip_pot.book.hand import Hand, hand_at
from drip_pot.book.ready import Ready
from drip_pot.book.values import COVER, CUT, EFFECTS, PASSES, POURS, REPAIR, SHEETS
from drip_pot.core.errors import BadInput
from drip_pot.core.inks import Effect, InkSettings, Place
from tests.book.test_book import state
from tests.conftest import PLAIN, make_book, two_rooms


class Shelf:
    """A book with one page, whose originals are given as ink by number."""

    def __init__(self, *inks: np.ndarray, opacity: np.ndarray | None = None) -> None:
        self.originals = {k + 1: ink for k, ink in enumerate(inks)}
        self.opacity = opacity
        self.book, _, self.page = make_book(inks[0])
        self.derived = Derived(self.load, None, lambda mark: self.book.frozen(REPAIR.key(self.page), mark).whole())

    def load(self, sheet: SheetLine) -> Picture:
        original = sheet.original
        return Picture(255 - self.originals[original], None, self.opacity if original == 2 else None)

    def add(self, role: str, **values: object) -> int:
        sheet = Sheet(role, role, original=2, **values)  # type: ignore[arg-type]
        return verbs.add_sheet(self.book, self.page, sheet, PLAIN)

    @property
    def sources(self):
        return self.book.sources(self.page)

    @property
    def hand(self) -> Hand:
        return hand_at(self.book, self.page, self.derived)

    def settle(self) -> None:
        """Carry colours after a change of the line, as the window does."""
        if self.sources.cut != self.sources.line:
            verbs.recut(self.book, self.page, *self.derived.regions.carried(self.sources))

    def labels(self) -> np.ndarray:
        return self.derived.regions.atoms(self.sources.line).labels

    def pour(self, row: int, col: int, pot: int) -> None:
        verbs.pour(self.book, self.page, {int(self.labels()[row, col])}, pot)

    def painted(self) -> np.ndarray:
        self.settle()
        tables = build_tables(
            self.book,
            self.sources,
            self.derived.regions.atoms(self.sources.line).count,
            self.derived.ground(self.sources),
        )
        covers = tuple(self.book.plane(COVER.key(self.page, n)) for n in self.sources[PASSES])
        return Ready(self.derived.painted.shown(self.sources), covers, tables).screen()[..., :3]

    def pot_at(self, row: int, col: int) -> int | None:
        return self.sources[POURS].get(int(self.labels()[row, col]))

    def findings(self, stage: str = "Inks") -> list:
        tables = build_tables(
            self.book,
            self.sources,
            self.derived.regions.atoms(self.sources.line).count,
            self.derived.ground(self.sources),
        )
        return find(self.book, self.sources, self.derived, tables)[stage]


def cross(rows: int = 200, cols: int = 300) -> np.ndarray:
    ink = np.zeros((rows, cols), np.uint8)
    ink[60:64, 40:110] = 255
    return ink


@pytest.mark.parametrize(("role", "bounds"), [("contour", True), ("detail", False), ("effect", False)])
def test_only_contour_bounds_colour(role: str, bounds: bool) -> None:
    wall = np.zeros((200, 300), np.uint8)
    wall[22:178, 80:84] = 255
    shelf = Shelf(two_rooms(), wall)
    count = shelf.derived.regions.atoms(shelf.sources.line).count
    shelf.add(role)
    assert (shelf.derived.regions.atoms(shelf.sources.line).count > count) == bounds
    assert shelf.painted()[100, 82].tolist() == [0, 0, 0], "it is drawn either way"
    verbs.set_sheet(shelf.book, shelf.page, 1, shown=False)
    assert (shelf.painted()[100, 82].tolist() == [255, 255, 255]) == (role != "contour")
    assert (shelf.derived.regions.atoms(shelf.sources.line).count > count) == bounds, (
        "a hidden contour bounds all the same"
    )


def test_an_effect_has_its_own_colour_and_a_detail_that_of_the_line() -> None:
    shelf = Shelf(two_rooms(), cross())
    number = shelf.add("effect", color="#3060c0")
    assert shelf.painted()[62, 60].tolist() == [0x30, 0x60, 0xC0]
    verbs.set_sheet(shelf.book, shelf.page, number, role="detail")
    assert shelf.painted()[62, 60].tolist() == [0, 0, 0]
    verbs.set_lines(shelf.book, shelf.page, "#402010")
    assert shelf.painted()[62, 60].tolist() == [0x40, 0x20, 0x10]


def test_lettering_covers_the_art_with_white_and_letters_stay_black() -> None:
    letters = np.zeros((200, 300), np.uint8)
    cv2.ellipse(letters, (150, 100), (90, 50), 0, 0, 360, 255, 3)
    letters[98:102, 100:120] = 255
    shelf = Shelf(two_rooms(), letters)
    shelf.pour(100, 80, 1)
    verbs.set_lines(shelf.book, shelf.page, "#ff0000")
    shelf.add("lettering")
    out = shelf.painted()
    assert out[100, 80].tolist() == [255, 255, 255], "white inside the balloon"
    assert out[100, 110].tolist() == [0, 0, 0]
    assert out[100, 150].tolist() == [255, 255, 255], "the wall behind it is covered"
    assert out[30, 40].tolist() == [0xE2, 0x55, 0x3A]
    under = shelf.derived.painted.shown(shelf.sources, lettering=False)
    assert under.labels[100, 80] != 0, "while flatting it is out of the way"


def test_opacity_of_the_file_says_what_a_lettering_sheet_covers() -> None:
    opacity = np.zeros((200, 300), np.uint8)
    opacity[50:90, 40:100] = 255
    shelf = Shelf(two_rooms(), cross(), opacity=opacity)
    shelf.pour(100, 80, 1)
    shelf.add("lettering")
    out = shelf.painted()
    assert out[80, 60].tolist() == [255, 255, 255]
    assert out[120, 60].tolist() == [0xE2, 0x55, 0x3A]


def test_sheets_are_named_moved_and_taken_off_and_the_first_stays() -> None:
    shelf = Shelf(two_rooms(), cross())
    before = state(shelf.book)
    number = shelf.add("detail")
    verbs.set_sheet(shelf.book, shelf.page, number, name="Hatching")
    verbs.move_sheet(shelf.book, shelf.page, number, -1)
    assert [s.name for s in shelf.sources[SHEETS].values()] == ["Hatching", "Contour"]
    verbs.remove_sheet(shelf.book, shelf.page, number)
    with pytest.raises(BadInput, match="first sheet"):
        verbs.remove_sheet(shelf.book, shelf.page, 0)
    with pytest.raises(BadInput, match="needs a name"):
        verbs.set_sheet(shelf.book, shelf.page, 0, name="  ")
    assert [s.title for s in shelf.book.history[-4:]] == [
        "Add sheet detail", "Name a sheet Hatching", "Move sheet Hatching", "Remove sheet Hatching",
    ]  # fmt: skip
    while state(shelf.book) != before:
        assert shelf.book.undo()


def test_mending_closes_a_wall_keeps_the_scan_and_undoes_exactly() -> None:
    shelf = Shelf(two_rooms(40))
    verbs.set_gap(shelf.book, shelf.page, 0)
    shelf.pour(60, 80, 1)
    before, scan = state(shelf.book), shelf.originals[1].copy()
    part = shelf.derived.regions.partition(shelf.sources).region
    assert part[shelf.labels()[60, 80]] == part[shelf.labels()[60, 220]]
    rect = (78, 146, 124, 155)
    verbs.mend_line(shelf.book, shelf.page, rect, np.full((46, 9), 255, np.uint8), "Draw with the pen")
    shelf.settle()
    part = shelf.derived.regions.partition(shelf.sources).region
    assert part[shelf.labels()[60, 80]] != part[shelf.labels()[60, 220]]
    assert shelf.pot_at(60, 60) == 1, "colour stays on its side"
    assert np.array_equal(shelf.originals[1], scan)
    assert shelf.book.undo() == "Draw with the pen"
    assert state(shelf.book) == before


@given(st.integers(-30, 30), st.integers(-30, 30), st.integers(-20, 40), st.integers(-20, 40))
def test_cropping_and_growing_keep_everything_in_place_and_come_back(a: int, b: int, c: int, d: int) -> None:
    shelf = Shelf(two_rooms())
    shelf.pour(100, 80, 1)
    shelf.pour(100, 220, 2)
    mask = np.ones((20, 20), bool)
    verbs.shade_mask(shelf.book, shelf.page, (90, 70, 110, 90), mask, mask, light=False)
    verbs.choose_bridge(shelf.book, shelf.page, 100.5, 150.0, True)
    before, look = state(shelf.book), shelf.painted()
    if (a, b, c, d) == (0, 0, 0, 0):
        return
    verbs.crop_page(shelf.book, shelf.page, (a, b, 200 + c, 300 + d))
    after = shelf.painted()
    assert after.shape == (200 + c - a, 300 + d - b, 3)
    assert np.array_equal(after[40 - a : 160 - a, 50 - b : 250 - b], look[40:160, 50:250])
    assert shelf.sources.choices == ((100.5 - a, 150.0 - b, True),)
    while state(shelf.book) != before:
        assert shelf.book.undo()
    assert np.array_equal(shelf.painted(), look)


def test_straightening_turns_colours_shade_and_marks_with_the_drawing() -> None:
    shelf = Shelf(two_rooms(rows=400, cols=400))
    shelf.pour(200, 80, 1)
    shelf.pour(200, 320, 2)
    verbs.mark_spots(shelf.book, shelf.page, "stroke", [(200, 300)], "Move", on=True)
    verbs.set_effect(shelf.book, shelf.page, None, Effect("focus", ((10, 10), (10, 90), (90, 90)), 40, 60))
    verbs.straighten_page(shelf.book, shelf.page, 10.0)
    shelf.settle()
    assert shelf.pot_at(*(round(v) for v in shelf.sources.page.frame.at(200, 80))) == 1
    assert shelf.pot_at(*(round(v) for v in shelf.sources.page.frame.at(200, 320))) == 2
    (spot,) = shelf.sources.line.strokes
    assert spot == tuple(round(v) for v in shelf.sources.page.frame.at(200, 300))
    assert shelf.sources[EFFECTS][1].turn_deg == 10.0


@pytest.mark.parametrize(
    ("verb", "words"),
    [
        (lambda b, p: verbs.crop_page(b, p, (10, 10, 10, 50)), "1 to 30000 px a side"),
        (lambda b, p: verbs.crop_page(b, p, (0, 0, 40_000, 50)), "1 to 30000 px a side"),
        (lambda b, p: verbs.straighten_page(b, p, 90), "up to 45 degrees"),
        (lambda b, p: verbs.set_print(b, p, dpi=3, trim_mm=None, bleed_mm=0), "30 to 4800 dpi"),
        (lambda b, p: verbs.set_print(b, p, dpi=300, trim_mm=(500, 9), bleed_mm=0), "does not fit"),
        (lambda b, p: verbs.set_print(b, p, dpi=300, trim_mm=None, bleed_mm=-1), "Bleed goes from"),
    ],
)
def test_impossible_pages_are_refused_and_change_nothing(verb: object, words: str) -> None:
    book, _, page = make_book(two_rooms())
    before = state(book)
    with pytest.raises(BadInput, match=words):
        verb(book, page)  # type: ignore[operator]
    assert state(book) == before


def test_reinking_keeps_every_colour_and_lists_only_what_changed() -> None:
    old = two_rooms(rows=600, cols=800)
    new = old.copy()
    cv2.circle(new, (200, 300), 40, 255, 4)
    shelf = Shelf(old, new)
    shelf.pour(100, 80, 1)
    shelf.pour(300, 600, 2)
    sheet = msgspec.structs.replace(shelf.sources[SHEETS][0], original=2)
    verbs.reink(shelf.book, shelf.page, 0, sheet, PLAIN)
    shelf.settle()
    assert shelf.pot_at(100, 80) == 1
    assert shelf.pot_at(300, 600) == 2
    assert shelf.pot_at(300, 200) == 1, "what was drawn inside inherits"
    (change,) = [f for f in shelf.findings() if f.title == "Redrawn"]
    assert change.rect is not None
    assert change.rect[0] <= 300 <= change.rect[2]
    shelf.book.undo()
    assert not [f for f in shelf.findings() if f.title == "Redrawn"]


def test_strokes_become_detail_and_come_back() -> None:
    ink = two_rooms(rows=500, cols=500)
    for k in range(7):
        cv2.line(ink, (60 + 12 * k, 200), (90 + 12 * k, 260), 255, 2)
    shelf = Shelf(ink)
    (found,) = [f for f in shelf.findings() if f.title == "Detail"]
    mend(shelf.book, shelf.page, found)
    shelf.settle()
    assert not shelf.derived.inks.contour(shelf.sources.line)[205:255, 60:170].any()
    assert (shelf.painted()[230, 60:170] == 0).any(), "still drawn"
    assert not [f for f in shelf.findings() if f.title == "Detail"]
    shelf.book.undo()
    assert shelf.derived.inks.contour(shelf.sources.line)[205:255, 60:170].any()


def test_the_page_itself_is_looked_at() -> None:
    ink = np.zeros((900, 900), np.uint8)
    cv2.rectangle(ink, (60, 60), (840, 840), 255, 6)
    askew = cv2.warpAffine(ink, cv2.getRotationMatrix2D((450, 450), 1.5, 1), (900, 900))
    shelf = Shelf(askew)
    verbs.set_print(shelf.book, shelf.page, dpi=100, trim_mm=None, bleed_mm=0)
    titles = {f.title: f for f in shelf.findings()}
    assert "Low resolution" in titles
    mend(shelf.book, shelf.page, titles["Askew"])
    shelf.settle()
    assert "Askew" not in {f.title for f in shelf.findings()}


def test_a_broken_frame_is_mended_by_its_verb() -> None:
    ink = np.zeros((900, 900), np.uint8)
    cv2.rectangle(ink, (60, 60), (840, 840), 255, 6)
    ink[50:70, 400:412] = 0
    shelf = Shelf(ink)
    verbs.set_print(shelf.book, shelf.page, dpi=100, trim_mm=None, bleed_mm=0)
    (gap,) = [f for f in shelf.findings() if f.title == "Broken frame"]
    mend(shelf.book, shelf.page, gap)
    assert shelf.derived.inks.contour(shelf.sources.line)[60, 395:416].min() > 200
    assert not [f for f in shelf.findings() if f.title == "Broken frame"]


def test_a_panel_that_has_run_out_into_the_gutter_is_found_by_its_broken_frame() -> None:
    ink = np.zeros((1600, 1200), np.uint8)
    for rect in ((60, 60, 1140, 760), (60, 820, 580, 1540), (640, 820, 1140, 1540)):
        cv2.rectangle(ink, rect[:2], rect[2:], 255, 5)
    ink[780:860, 850:912] = 0  # a bite too wide to bridge
    cv2.circle(ink, (900, 1200), 150, 255, 5)
    shelf = Shelf(ink)
    verbs.set_print(shelf.book, shelf.page, dpi=300, trim_mm=None, bleed_mm=0)
    assert len(shelf.hand.panels.rects) == 2
    (gap,) = [f for f in shelf.findings() if f.title == "Broken frame"]
    mend(shelf.book, shelf.page, gap)
    shelf.settle()
    assert len(shelf.hand.panels.rects) == 3
    assert not [f for f in shelf.findings() if f.title == "Broken frame"], "and no way across a gutter is one"


def test_a_veil_and_grey_tone_are_found_and_taken_out() -> None:
    ink = two_rooms(rows=600, cols=800)
    ink[ink == 0] = 22
    cv2.circle(ink, (200, 300), 90, 120, -1)
    shelf = Shelf(ink)
    (veil,) = [f for f in shelf.findings() if f.title == "Paper left"]
    mend(shelf.book, shelf.page, veil)
    assert shelf.derived.inks.contour(shelf.sources.line)[500, 100] == 0
    (tone,) = [f for f in shelf.findings() if f.title == "Grey tone"]
    mend(shelf.book, shelf.page, tone)
    shelf.settle()
    assert not shelf.derived.inks.contour(shelf.sources.line)[260:340, 160:240].any()
    assert len(np.unique(shelf.painted()[260:340, 160:240])) == 1, "a flat tint"
    assert 100 < shelf.painted()[300, 200, 0] < 170


def test_balloons_in_the_contour_are_kept_white_and_are_no_leftover() -> None:
    ink = two_rooms(rows=700, cols=1000)
    cv2.ellipse(ink, (250, 200), (170, 90), 0, 0, 360, 255, 4)
    for k, text in enumerate(("THERE, DRY,", "AND WHOLE.")):
        cv2.putText(ink, text, (140, 190 + 44 * k), cv2.FONT_HERSHEY_SIMPLEX, 1.2, 255, 3)
    shelf = Shelf(ink)
    (balloon,) = [f for f in shelf.findings() if f.title == "Balloon"]
    mend(shelf.book, shelf.page, balloon)
    assert shelf.pot_at(240, 120) == BALLOON
    assert shelf.painted()[240, 120].tolist() == [255, 255, 255]
    assert not [f for f in shelf.findings() if f.title == "Balloon"]


def test_specks_kept_by_hand_stay_whatever_the_size_limit() -> None:
    ink = two_rooms()
    cv2.circle(ink, (80, 100), 3, 255, -1)
    shelf = Shelf(ink)
    settings = InkSettings(252, 4, speck_px=80, even_paper=False)
    verbs.set_inks(shelf.book, shelf.page, InkState(settings))
    assert shelf.derived.inks.contour(shelf.sources.line)[100, 80] == 0
    verbs.set_inks(shelf.book, shelf.page, InkState(settings, kept=((100, 80),)))
    assert shelf.derived.inks.contour(shelf.sources.line)[100, 80] == 255


def test_a_sheet_of_another_resolution_lies_where_its_place_says() -> None:
    shelf = Shelf(two_rooms(), cross(100, 150)[30:70])
    shelf.add("detail", place=Place(0.0, 2.0, 50, 10))
    ink = shelf.derived.inks.over(shelf.sources.line, shelf.sources.over).ink
    assert ink.shape == (200, 300)
    assert ink[50 + 2 * 32, 10 + 2 * 60] > 200


def test_a_book_of_the_first_version_opens_with_its_colours() -> None:
    book, derived, page = make_book(two_rooms())
    verbs.pour(book, page, {1, 2}, 1)
    values = book.values()
    values[CUT.key(page)] = msgspec.json.encode(PLAIN).decode()
    old = Book(None, MemoryContents(values))
    assert old.sources(page).cut.engine == FIRST_ENGINE
    assert old.sources(page).cut.sheets == old.sources(page).line.sheets
    assert old.sources(page)[POURS] == {1: 1, 2: 1}


def test_a_dam_parts_colour_keeps_it_and_outlives_a_change_of_the_line() -> None:
    shelf = Shelf(two_rooms())
    shelf.pour(100, 80, 1)
    before = state(shelf.book)
    shelf.hand.lay({1: ((100.0, 10.0), (100.0, 160.0))}, "dam", "Draw a dam")
    shelf.settle()
    assert shelf.pot_at(60, 80) == shelf.pot_at(140, 80) == 1
    shelf.pour(140, 80, 2)
    verbs.set_inks(shelf.book, shelf.page, InkState(msgspec.structs.replace(PLAIN.settings, weight_px=1.0)))
    shelf.settle()
    assert (shelf.pot_at(60, 80), shelf.pot_at(140, 80)) == (1, 2)
    assert shelf.painted()[100, 100].tolist() != [0, 0, 0], "a dam is never drawn"
    shelf.hand.lay({1: ((80.0, 10.0), (120.0, 160.0))}, "dam", "Move a dam")
    shelf.settle()
    assert shelf.pot_at(60, 80) == 1
    while state(shelf.book) != before:
        assert shelf.book.undo()


def test_a_door_lets_colour_through_and_closes_again() -> None:
    shelf = Shelf(two_rooms())
    region = shelf.derived.regions.partition(shelf.sources).region
    assert region[shelf.labels()[100, 80]] != region[shelf.labels()[100, 220]]
    verbs.set_door(shelf.book, shelf.page, ((100.0, 140.0), (100.0, 160.0)))
    region = shelf.derived.regions.partition(shelf.sources).region
    assert region[shelf.labels()[100, 80]] == region[shelf.labels()[100, 220]]
    verbs.set_door(shelf.book, shelf.page, None, 1)
    region = shelf.derived.regions.partition(shelf.sources).region
    assert region[shelf.labels()[100, 80]] != region[shelf.labels()[100, 220]]
    with pytest.raises(BadInput, match="must be numbers"):
        verbs.set_door(shelf.book, shelf.page, ((float("nan"), 1.0),))
