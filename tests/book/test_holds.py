# SPDX-License-Identifier: GPL-3.0-or-later
"""Holds end to end without a window: which line takes which colour, on the screen and on the plates, and undo."""

import json
from collections.abc import Callable

import cv2
import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.book import Book, Hold, build_tables, verbs
from drip_pot.book.findings import find, mend
from drip_pot.book.hand import Hand, hand_at
from drip_pot.book.lines import KINDS, lines_of
from drip_pot.book.ready import Ready, marks_of
from drip_pot.book.values import HOLDS, TONE
from drip_pot.book.where import Scope
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.render import Ramp, Stop
from drip_pot.files.delivery.export import prepared
from drip_pot.files.layout import as_hold
from tests.conftest import make_book, two_rooms

RED = Hold("Red", how="fixed", color="#c80000")


class Rooms:
    """Two rooms in a framed panel: the left of the part Figure, the right of the part Ground, the panel bare."""

    def __init__(self) -> None:
        ink = np.pad(two_rooms(rows=240, cols=360), 40)
        cv2.rectangle(ink, (20, 20), (ink.shape[1] - 21, ink.shape[0] - 21), 255, 5)
        cv2.line(ink, (100, 160), (160, 160), 255, 3)
        self.book, self.derived, self.page = make_book(ink)
        labels = self.derived.regions.atoms(self.sources.line).labels
        verbs.pour(self.book, self.page, {int(labels[100, 100])}, 1)
        verbs.pour(self.book, self.page, {int(labels[100, 340])}, 3)

    @property
    def sources(self):
        return self.book.sources(self.page)

    @property
    def hand(self) -> Hand:
        return hand_at(self.book, self.page, self.derived)

    def ready(self) -> Ready:
        return prepared(self.book, self.derived, self.page, traps=False).ready

    def at(self, row: int, col: int) -> list[int]:
        return self.ready().screen()[row, col, :3].tolist()


WALL, LEFT, WHISKER, FRAME = (160, 220), (160, 61), (160, 130), (160, 21)


def test_a_hold_colours_the_lines_of_its_scope_and_kinds_alone() -> None:
    rooms = Rooms()
    assert rooms.at(*WHISKER) == [0, 0, 0]
    number = verbs.add_hold(rooms.book, rooms.page, msgspec.structs.replace(RED, scope=Scope(parts=(1,))))
    assert rooms.at(*WHISKER) == rooms.at(*LEFT) == [200, 0, 0]
    assert rooms.at(*FRAME) == [0, 0, 0], "the frame of a panel takes no hold"
    old = rooms.sources[HOLDS][number]
    verbs.set_hold(rooms.book, rooms.page, number, msgspec.structs.replace(old, kinds=("stroke",)))
    assert rooms.at(*WHISKER) == [200, 0, 0]
    assert rooms.at(*LEFT) == [0, 0, 0]
    verbs.set_hold(rooms.book, rooms.page, number, msgspec.structs.replace(old, shown=False))
    assert rooms.at(*WHISKER) == [0, 0, 0]


def test_later_holds_lie_over_earlier_ones_and_can_be_moved() -> None:
    rooms = Rooms()
    below = verbs.add_hold(rooms.book, rooms.page, RED)
    verbs.add_hold(rooms.book, rooms.page, Hold("Blue", how="fixed", color="#0000c8", strength=0.5))
    assert rooms.at(*WALL) == [100, 0, 100]
    verbs.move_hold(rooms.book, rooms.page, below, 1)
    assert rooms.at(*WALL) == [200, 0, 0]
    rooms.book.undo()
    assert rooms.at(*WALL) == [100, 0, 100]


def test_strokes_are_picked_and_let_go_one_by_one() -> None:
    rooms = Rooms()
    number = verbs.add_hold(rooms.book, rooms.page, msgspec.structs.replace(RED, kinds=()))
    verbs.pick_line(rooms.book, rooms.page, number, [WALL, WHISKER])
    assert rooms.at(*WALL) == rooms.at(*WHISKER) == [200, 0, 0]
    assert rooms.at(*LEFT) == [0, 0, 0]
    verbs.let_go(rooms.hand, number, [WALL])
    assert rooms.at(*WALL) == [0, 0, 0]
    every = verbs.add_hold(rooms.book, rooms.page, RED)
    verbs.let_go(rooms.hand, every, [WALL])
    assert rooms.at(*WALL) == [0, 0, 0]
    assert rooms.at(*LEFT) == [200, 0, 0]
    with pytest.raises(NothingDone, match="no stroke"):
        verbs.let_go(rooms.hand, number, [(100, 100)])


def test_a_brush_colours_ink_alone_and_a_fade_runs_out_along_a_stroke() -> None:
    rooms = Rooms()
    number = verbs.add_hold(rooms.book, rooms.page, msgspec.structs.replace(RED, brushed=True))
    assert rooms.at(*WALL) == [0, 0, 0]
    before = rooms.at(156, 115)
    verbs.brush_hold(rooms.hand, number, [(160, 100, 1.0), (160, 130, 1.0)], 20, 0.0)
    assert rooms.at(160, 115) == [200, 0, 0]
    assert rooms.at(156, 115) == before, "paint keeps to the ink"
    assert rooms.at(160, 155) == [0, 0, 0]
    with pytest.raises(NothingDone, match="no line"):
        verbs.brush_hold(rooms.hand, number, [(100, 340, 1.0)], 8)
    every = verbs.add_hold(rooms.book, rooms.page, RED)
    verbs.fade_hold(rooms.hand, every, [(80.0, 220.0), (240.0, 220.0)])
    reds = [rooms.at(row, 220)[0] for row in (90, 160, 230)]
    assert reds[0] > 170 > 130 > reds[1] > 70 > 30 > reds[2]
    rooms.book.undo()
    assert rooms.at(230, 220) == [200, 0, 0]


def test_a_hold_fades_in_where_it_meets_other_line() -> None:
    rooms = Rooms()
    picked = msgspec.structs.replace(RED, spots=(WALL,), feather_mm=3.0)
    verbs.add_hold(rooms.book, rooms.page, picked)
    assert rooms.at(160, 220)[0] == 200
    assert 0 < rooms.at(70, 220)[0] < 200


@pytest.mark.parametrize(("how", "wanted"), [("paper", [255, 255, 255]), ("beneath", [226, 85, 58])])
def test_a_line_knocked_out_leaves_what_it_says_and_no_ink_of_its_own(how: str, wanted: list[int]) -> None:
    rooms = Rooms()
    verbs.add_hold(rooms.book, rooms.page, Hold("Out", how=how, spots=(WHISKER,)))  # type: ignore[arg-type]
    assert rooms.at(*WHISKER) == wanted
    ready = rooms.ready()
    plates = ready.plates()[WHISKER]
    assert plates.tolist() == ([0, 0, 0, 0] if how == "paper" else ready.plates()[100, 100].tolist())
    assert ready.black_line()[WHISKER] == 0
    assert ready.black_line()[WALL] == 255


def test_a_ramp_runs_through_the_line_on_screen_and_plates() -> None:
    rooms = Rooms()
    run = Ramp((40.0, 0.0), (280.0, 0.0), (Stop(0, "#ff0000"), Stop(1, "#0000ff")))
    verbs.add_hold(rooms.book, rooms.page, Hold("Run", how="ramp", ramp=run))
    top, bottom = rooms.at(70, 220), rooms.at(250, 220)
    assert top[0] > 180 > 80 > top[2]
    assert bottom[2] > 180 > 80 > bottom[0]
    plates = rooms.ready().plates()
    assert plates[70, 220, 2] > plates[250, 220, 2], "yellow makes red"
    assert plates[70, 220, 0] < plates[250, 220, 0], "cyan makes blue"


@given(st.lists(st.sampled_from(["part", "fixed", "knock", "brush", "ramp", "undo"]), max_size=5))
def test_holds_never_change_coverage_and_undo_is_exact(steps: list[str]) -> None:
    rooms = Rooms()
    ink, before = rooms.derived.inks.contour(rooms.sources.line).copy(), rooms.book.values()
    start = rooms.book.position
    run = Ramp((0.0, 0.0), (9.0, 0.0), (Stop(0, "#ff0000"), Stop(1, "#0000ff")))
    done: dict[str, Callable[[], object]] = {
        "part": lambda: verbs.hold_part(rooms.book, rooms.page, 1, 0.5),
        "fixed": lambda: verbs.add_hold(rooms.book, rooms.page, RED),
        "knock": lambda: verbs.add_hold(rooms.book, rooms.page, Hold("Out", how="beneath", spots=(WALL,))),
        "ramp": lambda: verbs.add_hold(rooms.book, rooms.page, Hold("Run", how="ramp", ramp=run)),
        "undo": rooms.book.undo if rooms.book.position > start else lambda: None,
        "brush": lambda: verbs.brush_hold(
            rooms.hand, verbs.add_hold(rooms.book, rooms.page, Hold("B", brushed=True)), [(160, 130, 1.0)], 30
        ),
    }
    for step in steps:
        if step != "undo" or rooms.book.position > start:
            (rooms.book.undo if step == "undo" else done[step])()
    ready = rooms.ready()
    assert np.array_equal(ready.shown.ink, ink)
    assert np.array_equal(ready.screen()[ink == 0], ready.screen(lines=False)[ink == 0])
    while rooms.book.position > start:
        rooms.book.undo()
    assert rooms.book.values() == before
    assert not any(rooms.book.plane(name).any() for name in rooms.book.planes(rooms.page))


def test_a_hold_is_given_to_the_whole_book_and_changed_for_one_page() -> None:
    rooms = Rooms()
    number = verbs.add_hold(rooms.book, rooms.page, msgspec.structs.replace(RED, scope=Scope(parts=(1,))))
    verbs.share_hold(rooms.book, rooms.page, number)
    assert rooms.book.holds()[number] == rooms.sources[HOLDS][number]
    assert rooms.at(*WHISKER) == [200, 0, 0]
    here = msgspec.structs.replace(rooms.sources[HOLDS][number], color="#00c800")
    verbs.set_hold_here(rooms.book, rooms.page, number, here)
    assert rooms.at(*WHISKER) == [0, 200, 0]
    assert rooms.book.holds()[number].color == RED.color
    verbs.set_hold_here(rooms.book, rooms.page, number, None)
    assert rooms.at(*WHISKER) == [200, 0, 0]
    nowhere = verbs.add_hold(rooms.book, rooms.page, Hold("Nowhere", Scope(pots=(2,))))
    every = lambda: find(rooms.book, rooms.sources, rooms.derived, tables)["Holds"]  # noqa: E731
    told = lambda: [f.title for f in every() if f.title == "Hold on nothing"]  # noqa: E731
    tables = build_tables(rooms.book, rooms.sources, rooms.derived.regions.atoms(rooms.sources.line).count)
    assert told() == ["Hold on nothing"]
    verbs.share_hold(rooms.book, rooms.page, nowhere)
    assert not told(), "other pages may have its lines"
    verbs.remove_hold(rooms.book, rooms.page, nowhere)
    verbs.remove_hold(rooms.book, rooms.page, number)
    assert rooms.sources[HOLDS] == {}


@pytest.mark.parametrize(
    ("verb", "words"),
    [
        (lambda b, p: verbs.add_hold(b, p, Hold("  ")), "A hold needs a name"),
        (lambda b, p: verbs.add_hold(b, p, Hold("A", how="ramp")), "needs its stops"),
        (lambda b, p: verbs.add_hold(b, p, Hold("A", feather_mm=99)), "0 to 20 mm"),
        (lambda b, p: verbs.add_hold(b, p, Hold("A", kinds=("hair",))), "no line of the kind 'hair'"),  # type: ignore[arg-type]
        (lambda b, p: verbs.set_hold(b, p, 9, RED), "no hold 9"),
        (lambda b, p: verbs.share_hold(b, p, verbs.add_hold(b, p, Hold("A", spots=((1, 1),)))), "places of this page"),
    ],
)
def test_what_cannot_be_a_hold_is_refused_in_words(verb: Callable[[Book, int], object], words: str) -> None:
    rooms = Rooms()
    with pytest.raises(BadInput, match=words):
        verb(rooms.book, rooms.page)


def test_holds_of_older_books_become_holds_of_a_part() -> None:
    raised = json.loads(as_hold("page/1/hold/3", '{"amount":0.4}', {"3": "Wren"}) or "")
    assert msgspec.convert(raised, Hold) == Hold("Wren", Scope(parts=(3,)), amount=0.4)
    assert as_hold("page/1/hold/3", "{", {}) == "{"


def test_holds_stay_on_their_strokes_when_the_page_is_cropped() -> None:
    rooms = Rooms()
    verbs.add_hold(rooms.book, rooms.page, msgspec.structs.replace(RED, spots=(WALL,)))
    brushed = verbs.add_hold(rooms.book, rooms.page, msgspec.structs.replace(RED, brushed=True))
    verbs.brush_hold(rooms.hand, brushed, [(160, 100, 1.0), (160, 160, 1.0)], 20, 0.0)
    verbs.crop_page(rooms.book, rooms.page, (10, 10, 310, 430))
    assert rooms.at(150, 210) == [200, 0, 0]
    assert rooms.at(150, 120) == [200, 0, 0]
    assert marks_of(rooms.book, rooms.page)[brushed].shape == (300, 420)


def test_a_line_that_looks_black_is_never_separated_into_four_inks() -> None:
    rooms = Rooms()
    verbs.add_hold(rooms.book, rooms.page, Hold("Nearly black", amount=0.97, spots=(WHISKER,)))
    ready = rooms.ready()
    assert ready.black_line()[WHISKER] == 255
    verbs.add_hold(rooms.book, rooms.page, Hold("Half", how="fixed", color="#0a0505", spots=(WALL,), strength=1.0))
    plates = rooms.ready().plates()
    assert plates[WALL][3] == 255
    assert rooms.ready().black_line()[WALL] == 255


def test_a_half_faded_line_keeps_its_black_share_and_carries_what_is_under_it() -> None:
    rooms = Rooms()
    number = verbs.add_hold(rooms.book, rooms.page, RED)
    verbs.fade_hold(rooms.hand, number, [(80.0, 220.0), (240.0, 220.0)])
    ready = rooms.ready()
    black = [int(ready.black_line()[row, 220]) for row in (90, 160, 230)]
    assert black[0] < 40 < 90 < black[1] < 170 < 220 < black[2]
    plates = ready.plates()[160, 220].astype(int)
    beside = ready.plates()[160, 200].astype(int)
    assert plates[3] >= black[1] - 2
    assert (plates[:3] >= beside[:3] * (255 - black[1]) // 255 - 2).all(), "no halo of its own"


def test_what_a_hold_knocks_out_is_an_edge_that_traps_see() -> None:
    rooms = Rooms()
    before = prepared(rooms.book, rooms.derived, rooms.page, traps=True)
    verbs.add_hold(rooms.book, rooms.page, Hold("Out", how="beneath", spots=(WALL,)))
    after = prepared(rooms.book, rooms.derived, rooms.page, traps=True)
    assert before.trap is not None
    assert after.trap is not None
    cut = slice(120, 200), slice(212, 229)
    assert not before.trap[cut].any(), "black hid it"
    assert after.trap[cut].any()


def test_thin_coloured_line_is_told_and_made_black() -> None:
    rooms = Rooms()
    verbs.set_print(rooms.book, rooms.page, dpi=1200.0, trim_mm=None, bleed_mm=0.0)
    verbs.add_hold(rooms.book, rooms.page, msgspec.structs.replace(RED, spots=(WHISKER,)))
    sources = rooms.sources
    tables = build_tables(rooms.book, sources, rooms.derived.regions.atoms(sources.line).count)
    found = find(rooms.book, sources, rooms.derived, tables)["Holds"]
    (thin,) = [f for f in found if f.title == "Hold too thin"]
    assert "mm wide" in thin.sentence
    mend(rooms.book, rooms.page, thin)
    assert rooms.at(*WHISKER) == [0, 0, 0]


def test_a_string_over_two_grounds_is_neither_s_inner_line() -> None:
    ink = np.zeros((300, 400), np.uint8)
    cv2.rectangle(ink, (20, 20), (379, 279), 255, 4)
    cv2.line(ink, (20, 150), (379, 150), 255, 4)  # hill and sky
    cv2.line(ink, (150, 20), (250, 279), 255, 4)  # a string over both
    book, derived, page = make_book(np.pad(ink, 30))
    sources = book.sources(page)
    labels = derived.regions.atoms(sources.line).labels
    for row, pot in ((100, 1), (240, 3)):
        verbs.pour(book, page, {int(labels[row, col]) for col in (90, 370)}, pot)
    pieces = derived.painted.pieces(book.sources(page))
    told = lines_of(book, book.sources(page), pieces, None)
    kinds = {KINDS[told.kind[pieces.at(*at, 4)]] for at in ((100, 199), (240, 253))}
    assert kinds == {"string"}
    assert KINDS[told.kind[pieces.at(180, 100, 4)]] == "outline"


@pytest.mark.parametrize("soft", [0.0, 1.0])
def test_a_stroke_has_the_light_of_what_it_outlines_all_across_its_width(soft: float) -> None:
    rooms = Rooms()
    verbs.put_in_front(rooms.book, 1, 3)
    verbs.add_hold(rooms.book, rooms.page, Hold("All", amount=0.4))
    into = TONE if soft == 0 else verbs.add_pass(rooms.book, rooms.page, "Tint", "#303060", "multiply")
    lit = rooms.ready().screen()[160, 215:226, :3].astype(int)
    labels = rooms.hand.divided.atoms.labels
    verbs.fill_pass(rooms.hand, {int(labels[100, 100])}, into=into)
    seen, plates = rooms.ready().screen()[..., :3].astype(int), rooms.ready().plates().astype(int)
    core = np.flatnonzero(rooms.ready().shown.ink[160] == 255)
    core = core[(core > 212) & (core < 228)]
    assert len(core) >= 5
    for row in range(140, 180):
        assert np.ptp(seen[row, core], axis=0).max() <= 2, "one colour across the wall"
        assert np.ptp(plates[row, core], axis=0).max() <= 4
    assert seen[160, 218:223].sum() < lit[3:8].sum(), "and it is that of the shade"
    cut = slice(150, 171), slice(190, int(core[2]))  # its edge runs along the wall
    assert np.array_equal(rooms.ready().screen(*cut)[..., :3], seen[cut])
    assert np.array_equal(rooms.ready().plates(*cut), plates[cut])
    assert np.array_equal(rooms.ready().line(*cut), rooms.ready().line()[cut])
