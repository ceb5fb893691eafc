# SPDX-License-Identifier: GPL-3.0-or-later
"""Passes in a book: one edit each, exact undo, old books, and screen, picture and plates that agree."""

from pathlib import Path

import msgspec
import numpy as np
import pytest

from drip_pot.book import verbs
from drip_pot.book.asking import VERBS
from drip_pot.book.findings import mend
from drip_pot.book.orders import run
from drip_pot.book.scope import said, scope_atoms
from drip_pot.book.store import pack_tile, unpack_tile
from drip_pot.book.values import COVER, HOLDS, PASSES, POURS, PRESS, SHADE_CUTS, TONE, Hold, Pass, ShadeCut
from drip_pot.book.verbs.layers import change_cuts
from drip_pot.book.where import Scope
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.press import appearance
from drip_pot.core.render import Finish, Ramp, Stop
from drip_pot.core.shade import streak
from drip_pot.files.delivery import export_page
from drip_pot.files.delivery.export import prepared
from drip_pot.files.delivery.picture import picture
from drip_pot.files.layered import take_layers
from drip_pot.files.layout import as_coverage
from tests.book.test_lamps import ball
from tests.book.test_sheets import Shelf, state
from tests.conftest import two_rooms

RICHER = Finish(dark=30, chroma=1.5, shadows=-0.5)
LOOP = [(40.0, 30.0), (40.0, 270.0), (160.0, 270.0), (160.0, 30.0)]


def shaded() -> Shelf:
    """Two rooms poured, a tint over part of both."""
    shelf = Shelf(two_rooms())
    shelf.pour(100, 60, 1)
    shelf.pour(100, 240, 2)
    number = verbs.add_pass(shelf.book, shelf.page, "Dusk", "#402080", "multiply", 0.5)
    verbs.cut_shade(shelf.hand, LOOP, into=number)
    return shelf


def test_a_tint_shows_where_it_was_cut_and_every_step_is_undone_exactly() -> None:
    shelf = Shelf(two_rooms())
    shelf.pour(100, 60, 1)
    before, look = state(shelf.book), shelf.painted()
    number = verbs.add_pass(shelf.book, shelf.page, "Dusk", "#402080", "multiply", 0.5)
    assert np.array_equal(shelf.painted(), look), "nothing is painted in it yet"
    verbs.cut_shade(shelf.hand, LOOP, into=number)
    local = np.array(look[100, 60], float)
    wanted = local * (1 + np.array([0x40, 0x20, 0x80]) / 255) / 2
    assert np.abs(shelf.painted()[100, 60] - wanted).max() <= 1.5
    assert np.array_equal(shelf.painted()[20, 60], look[20, 60])
    states = [state(shelf.book)]
    changed = msgspec.structs.replace(shelf.sources[PASSES][number], scope=Scope(pots=(2,)), strength=1.0)
    for step in (
        lambda: verbs.set_pass(shelf.book, shelf.page, number, changed),
        lambda: verbs.move_pass(shelf.book, shelf.page, number, -1),
        lambda: verbs.remove_pass(shelf.book, shelf.page, number),
    ):
        step()
        states.append(state(shelf.book))
    assert list(shelf.sources[PASSES]) == [TONE]
    assert np.array_equal(shelf.painted(), look)
    for expected in states[-2::-1]:
        shelf.book.undo()
        assert state(shelf.book) == expected
    for _ in range(2):
        shelf.book.undo()
    assert state(shelf.book) == before


def test_a_scope_keeps_a_pass_off_other_pots() -> None:
    shelf = shaded()
    number = max(shelf.sources[PASSES])
    plain = shelf.painted()
    one = msgspec.structs.replace(shelf.sources[PASSES][number], scope=Scope(pots=(1,), inverted=True))
    verbs.set_pass(shelf.book, shelf.page, number, one)
    out = shelf.painted()
    assert not np.array_equal(out[100, 60], plain[100, 60])
    assert np.array_equal(out[100, 240], plain[100, 240])


def test_names_that_nobody_gave_follow_what_passes_and_holds_became() -> None:
    shelf = Shelf(two_rooms())
    book, page = shelf.book, shelf.page

    def change(set_, kind, number: int, **values: object) -> str:
        set_(book, page, number, msgspec.structs.replace(book.sources(page)[kind][number], **values))
        return str(book.sources(page)[kind][number].name)

    one, two = (verbs.add_pass(book, page, name, "#402080") for name in ("Pass 1", "Dusk"))
    assert change(verbs.set_pass, PASSES, one, scope=Scope(parts=(1,))) == "Pass 1, Figure"
    assert change(verbs.set_pass, PASSES, one, scope=Scope(pots=(2,), panels=(3,))) == "Pass 1, Sky and panel 3"
    assert change(verbs.set_pass, PASSES, two, scope=Scope(parts=(1,))) == "Dusk", "a name that was given stays"
    verbs.free_pass(book, page, one)
    assert book.sources(page)[PASSES][one].name == "Pass 1"
    first, second = (verbs.add_hold(book, page, Hold(name)) for name in ("Darker line, Figure", "Warm line"))
    assert change(verbs.set_hold, HOLDS, second, how="fixed") == "One colour"
    assert change(verbs.set_hold, HOLDS, second, scope=Scope(parts=(2,)), how="paper") == "Knocked out to paper, Ground"
    assert change(verbs.set_hold, HOLDS, first, how="fixed") == "Darker line, Figure", "it was never of that part"
    third = verbs.add_hold(book, page, Hold("One colour"))
    assert change(verbs.set_hold, HOLDS, second, scope=Scope(), how="fixed") == "One colour 2"
    assert change(verbs.set_hold, HOLDS, third, name="Reds") == "Reds"


def test_screen_picture_and_plates_agree() -> None:
    shelf = shaded()
    verbs.cut_shade(shelf.hand, [(60.0, 40.0), (60.0, 100.0), (120.0, 100.0), (120.0, 40.0)])
    made = prepared(shelf.book, shelf.derived, shelf.page, traps=True)
    assert np.array_equal(picture(shelf.book, shelf.derived, shelf.page, "Holds"), made.ready.screen()[..., :3])
    plates = made.ready.plates(trap=made.trap)
    assert np.array_equal(picture(shelf.book, shelf.derived, shelf.page, "Press"), appearance(plates))
    pieces = [made.ready.plates(slice(top, top + 37), trap=made.trap[top : top + 37]) for top in range(0, 200, 37)]
    assert np.array_equal(np.concatenate(pieces), plates), "strips give what the whole gives"
    verbs.add_pass(
        shelf.book, shelf.page, "Soft", mode="normal", strength=1.0, finish=Finish(soften=0.7, soften_px=9.0)
    )
    soft = prepared(shelf.book, shelf.derived, shelf.page, traps=True)
    plates, seen = soft.plates(slice(None)), soft.ready.screen()
    assert not np.array_equal(seen, made.ready.screen())
    rows = [slice(0, 61), slice(61, 64), slice(64, None)]
    assert np.array_equal(np.concatenate([soft.plates(r) for r in rows]), plates)
    across = [soft.ready.screen(slice(None), c) for c in (slice(0, 37), slice(37, None))]
    assert np.array_equal(np.concatenate(across, axis=1), seen), "a blur looks beyond its piece"
    limit = shelf.sources[PRESS].ink_limit * 2.55
    assert plates.sum(axis=2, dtype=int).max() <= limit + 255, "black over all else is counted by the press stage"


@pytest.mark.parametrize(
    ("given", "words"),
    [
        ({"name": " ", "mode": "multiply"}, "needs a name"),
        ({"name": "Dusk", "mode": "glow"}, "no blend mode 'glow'"),
        ({"name": "Dusk", "strength": 2}, "0 to 100 %"),
        ({"name": "Dusk", "color": "violet"}, "not a colour"),
    ],
)
def test_impossible_passes_are_refused(given: dict[str, object], words: str) -> None:
    shelf = Shelf(two_rooms())
    with pytest.raises(BadInput, match=words):
        run(shelf.book, "add-pass", given, shelf.page)
    with pytest.raises(BadInput, match="cannot be removed"):
        verbs.remove_pass(shelf.book, shelf.page, TONE)
    with pytest.raises(BadInput, match="no pass 7"):
        verbs.set_pass(shelf.book, shelf.page, 7, Pass())
    assert shelf.sources[PASSES] == {TONE: Pass()}


def test_orders_run_by_name_leave_what_was_asked_in_the_book(tmp_path: Path) -> None:
    shelf = shaded()
    asked = msgspec.json.decode(shelf.book.asked_at(shelf.book.position - 1) or "{}")
    assert asked["order"] == "cut-shade"
    assert asked["page"] == shelf.page
    again = Shelf(two_rooms())
    again.pour(100, 60, 1)
    again.pour(100, 240, 2)
    run(again.book, "add-pass", {"name": "Dusk", "color": "#402080", "strength": 0.5}, again.page)
    run(again.book, asked["order"], asked["given"], again.page, lambda _: again.hand)
    assert np.array_equal(again.painted(), shelf.painted()), "a step asked again elsewhere does the same"
    assert {"pour", "corral", "cut-shade", "draw-ink", "set-dam", "sow", "add-pass", "straighten-page"} <= VERBS.keys()


def test_shade_of_older_books_becomes_full_coverage() -> None:
    old = pack_tile(np.array([[0, 1], [1, 0]], np.uint8))
    assert unpack_tile(as_coverage(old), (2, 2)).tolist() == [[0, 255], [255, 0]]
    assert as_coverage(None) is None
    assert as_coverage(b"damaged") == b"damaged"


def test_any_part_of_a_page_begins_in_shadow_and_scopes_add_up_and_move_with_the_page() -> None:
    shelf = Shelf(two_rooms())
    shelf.pour(100, 60, 1)
    shelf.pour(100, 240, 2)
    every = set(shelf.sources[POURS])
    verbs.fill_pass(shelf.hand, every)
    assert (shelf.book.plane(f"page/{shelf.page}/pass/1").whole()[np.isin(shelf.hand.labels, list(every))] == 255).all()
    verbs.cut_shade(shelf.hand, [(60.0, 40.0), (60.0, 100.0), (120.0, 100.0), (120.0, 40.0)], light=True)
    lit = shelf.painted()
    assert (lit[100, 60] == [0xE2, 0x55, 0x3A]).all()
    assert not np.array_equal(lit[100, 240], [0xA8, 0xD4, 0xE0])
    left, right = shelf.hand.atom_at(100, 60), shelf.hand.atom_at(100, 240)
    both = Scope(pots=(1,)).with_more(Scope(spots=shelf.hand.spots_of([right])))
    found = scope_atoms(shelf.book, shelf.sources, both, len(shelf.hand.areas) - 1, shelf.hand.ground)
    assert set(np.flatnonzero(found)) == {left, right}
    assert said(shelf.book, shelf.sources, both) == "Ember and a picked place"
    assert Scope().with_more(both).is_everywhere
    number = verbs.add_pass(shelf.book, shelf.page, "Night", "#101030", "multiply", 1.0, Scope(spots=both.spots))
    verbs.fill_pass(shelf.hand, every, into=number)
    dark = shelf.painted()
    assert np.array_equal(dark[100, 60], lit[100, 60])
    assert not np.array_equal(dark[100, 240], lit[100, 240])
    verbs.crop_page(shelf.book, shelf.page, (10, 5, 200, 300))
    shelf.settle()
    assert np.array_equal(shelf.painted()[90, 235], dark[100, 240]), "a picked place moves with the page"
    assert np.array_equal(shelf.painted()[90, 55], dark[100, 60])


def test_strokes_of_bristles_are_the_same_for_the_same_seed_and_thin_with_pressure() -> None:
    line = [(50.0, 20.0 + 4 * k, 1.0) for k in range(40)]
    rect, cover = streak(line, 30, 0.8, 7, (100, 200))
    assert np.array_equal(streak(line, 30, 0.8, 7, (100, 200))[1], cover)
    assert not np.array_equal(streak(line, 30, 0.8, 8, (100, 200))[1], cover)
    light = streak([(r, c, 0.3) for r, c, _ in line], 30, 0.8, 7, (100, 200))[1]
    assert light.astype(int).sum() < 0.5 * cover.astype(int).sum()
    assert (light.any(axis=1).sum(), rect[2] - rect[0]) < (cover.any(axis=1).sum(), 40)
    assert streak([(-500.0, -500.0)], 30, 0.8, 7, (100, 200))[1].size == 0
    for bad in ([], [(float("nan"), 1.0)], [(1.0, 1.0)] * 60_000):
        with pytest.raises(BadInput):
            streak(bad, 30, 0.8, 7, (100, 200))


def test_ramps_and_corrections_are_seen_as_sent_keep_the_ink_limit_and_can_be_wiped_out_in_places() -> None:
    shelf = shaded()
    ramp = Ramp((20.0, 0.0), (180.0, 0.0), (Stop(0, "#402080"), Stop(1, "#ffb84d", 0.2)))
    plain = shelf.painted()
    first = verbs.add_pass(shelf.book, shelf.page, "Evening", mode="overlay", strength=0.9, ramp=ramp)
    second = verbs.add_pass(
        shelf.book, shelf.page, "Richer", strength=1.0, finish=Finish(dark=30, chroma=1.5, shadows=-0.5)
    )
    made = prepared(shelf.book, shelf.derived, shelf.page, traps=False)
    whole = made.ready.screen()
    assert not np.array_equal(whole[..., :3], plain[..., :3])
    for rows, cols in ((slice(0, 70), slice(0, 90)), (slice(70, 200), slice(31, 300))):
        assert np.array_equal(made.ready.screen(rows, cols), whole[rows, cols]), "pieces of any size agree"
    inks = made.ready.plates().astype(int)
    assert inks.sum(axis=2).max() <= shelf.sources[PRESS].ink_limit * 2.55 + 4
    verbs.fill_pass(shelf.hand, set(shelf.sources[POURS]), away=True, into=first)
    verbs.fill_pass(shelf.hand, set(shelf.sources[POURS]), away=True, into=second)
    assert np.array_equal(shelf.painted(), plain), "taken out everywhere, they do nothing"
    verbs.cut_shade(shelf.hand, LOOP, into=first)
    assert not np.array_equal(shelf.painted()[100, 60], plain[100, 60]), "and are cut back in"
    cut_in = shelf.painted()
    stroke = [(34.0, 200.0, 1.0), (34.0, 210.0, 1.0)]
    verbs.mist_pass(shelf.hand, stroke, 8, 0.0, 1.0, into=first)
    assert not np.array_equal(shelf.painted()[34, 205], cut_in[34, 205]), "a brush brings it back too"
    verbs.mist_pass(shelf.hand, stroke, 8, 0.0, 1.0, away=True, into=first)
    assert np.array_equal(shelf.painted()[34, 205], plain[34, 205]), "and wipes it out"
    copy = verbs.copy_pass(shelf.book, shelf.page, first)
    assert shelf.sources[PASSES][copy].ramp == ramp
    name = f"page/{shelf.page}/pass/"
    assert shelf.book.plane(f"{name}{copy}").checksum() == shelf.book.plane(f"{name}{first}").checksum()
    with pytest.raises(BadInput, match="own settings"):
        verbs.set_pass(shelf.book, shelf.page, copy, msgspec.structs.replace(shelf.sources[PASSES][copy], ramp=None))


def test_look_here_finds_shade_that_is_lost_or_mistaken() -> None:
    shelf = Shelf(two_rooms())
    shelf.pour(100, 60, 1)
    verbs.cut_shade(shelf.hand, LOOP)
    verbs.add_pass(shelf.book, shelf.page, "Sky glow", scope=Scope(pots=(2,)))
    found = {f.title: f for f in shelf.findings("Shade")}
    assert set(found) == {"Shade without colour", "Pass applies nowhere"}
    assert "px of Tone" in found["Shade without colour"].sentence
    mend(shelf.book, shelf.page, found["Pass applies nowhere"])
    shelf.pour(100, 240, 2)
    assert not [f for f in shelf.findings("Shade") if f.title in found]
    shadow = shelf.book.tone_pair(shelf.book.pots()[1])[1]
    verbs.set_pot(shelf.book, 2, msgspec.structs.replace(shelf.book.pots()[2], local=shadow))
    assert [f.title for f in shelf.findings("Shade")] == ["Shadow like another pot"]


def test_a_held_line_over_a_shadow_is_darker_than_that_shadow_on_screen_and_plates() -> None:
    shelf = ball()
    verbs.hold_part(shelf.book, shelf.page, 1, 0.4)
    verbs.cut_shade(shelf.hand, [(140.0, 60.0), (140.0, 200.0), (210.0, 200.0), (210.0, 60.0)])
    for stage in ("Holds", "Press"):
        seen = picture(shelf.book, shelf.derived, shelf.page, stage).astype(int).sum(axis=2)
        lit, dark = seen[80:98, 80:95].min(), seen[182:200, 80:95].min()
        assert 60 < dark < lit - 20, "the line follows the shade"
        assert dark < seen[150, 130] - 60, "darker than the shadow it lies on"
        assert lit < seen[120, 130] - 60


def test_a_grey_painting_is_glazed_and_undone_as_one() -> None:
    shelf = Shelf(two_rooms())
    shelf.pour(100, 60, 1)
    before, values = shelf.book.position, shelf.book.values()
    made = verbs.add_glaze(shelf.book, shelf.page, steps=4)
    kinds = [shelf.book.sources(shelf.page)[PASSES][n].kind for n in made]
    assert kinds == ["ramp", "tint", "tint", "tint", "ramp", "local"]
    assert shelf.book.position > before
    shelf.book.undo()
    assert shelf.book.values() == values
    with pytest.raises(BadInput, match="3 to 6 steps"):
        verbs.add_glaze(shelf.book, shelf.page, steps=1)


def test_the_colour_round_a_part_is_laid_over_it() -> None:
    shelf = Shelf(two_rooms())
    shelf.pour(100, 60, 1)
    with pytest.raises(NothingDone, match="has colour yet"):
        verbs.ambient_pass(shelf.hand, 1)
    shelf.pour(100, 250, 3)
    number = verbs.ambient_pass(shelf.hand, 1, "bounce")
    one = shelf.book.sources(shelf.page)[PASSES][number]
    assert one.color == shelf.book.pots()[3].local, "nothing else borders it"
    assert (one.mode, one.scope.parts) == ("screen", (1,))


def test_passes_alike_are_joined_exactly_and_others_refused_by_name() -> None:
    shelf = shaded()
    first = max(shelf.sources[PASSES])
    second = verbs.add_pass(shelf.book, shelf.page, "Later", "#402080", "multiply", 0.5)
    verbs.cut_shade(shelf.hand, [(r - 20, c + 200) for r, c in LOOP], into=second)
    verbs.mist_pass(shelf.hand, [(30.0, 240.0, 1.0)], 40, 0.8, 0.7, into=second)
    before, two = state(shelf.book), shelf.painted()
    cover = [shelf.book.plane(COVER.key(shelf.page, n)).whole() for n in (first, second)]
    verbs.join_pass(shelf.hand, second)
    assert list(shelf.sources[PASSES]) == [TONE, first]
    alone = (cover[0] == 0) | (cover[1] == 0)
    assert np.array_equal(shelf.painted()[alone], two[alone]), "where only one of them was, nothing changes"
    assert (shelf.book.plane(COVER.key(shelf.page, first)).whole() >= np.maximum(*cover)).all()
    shelf.book.undo()
    assert state(shelf.book) == before
    with pytest.raises(BadInput, match="of one colour"):
        verbs.join_pass(shelf.hand, first)  # with the tone
    with pytest.raises(BadInput, match="lowest"):
        verbs.join_pass(shelf.hand, TONE)
    changed = msgspec.structs.replace(shelf.sources[PASSES][second], mode="screen")
    verbs.set_pass(shelf.book, shelf.page, second, changed)
    with pytest.raises(BadInput, match="blend mode"):
        verbs.join_pass(shelf.hand, second)


def test_strokes_too_long_off_the_page_and_hundreds_of_cuts_are_borne() -> None:
    shelf = shaded()
    number = max(shelf.sources[PASSES])
    seeds = np.random.default_rng(3)
    before = state(shelf.book)
    long = np.column_stack([seeds.uniform(-50, 250, (20_000, 2)), np.ones(20_000)])
    verbs.mist_pass(shelf.hand, [tuple(p) for p in long.tolist()], 6, 0.5, 0.6, into=number)
    shelf.book.undo()
    assert state(shelf.book) == before
    with pytest.raises((BadInput, NothingDone)):
        verbs.mist_pass(shelf.hand, [(-900.0, -900.0, 1.0)], 6, 0.5, 0.6, into=number)
    with pytest.raises(BadInput, match="points"):
        verbs.mist_pass(shelf.hand, [(1.0, 1.0, 1.0)] * 50_001, 6, 0.5, 0.6, into=number)
    assert state(shelf.book) == before
    with shelf.book.as_one():
        for row, col in seeds.uniform(20, 150, (500, 2)).tolist():
            verbs.cut_shade(shelf.hand, [(row, col), (row, col + 8), (row + 8, col)], into=number, line="straight")
    assert len(shelf.sources[SHADE_CUTS]) == 501
    shelf.book.undo()
    assert state(shelf.book) == before


def test_many_colours_are_painted_in_one_pass_and_are_the_same_on_screen_plates_copies_and_layers(
    tmp_path: Path,
) -> None:
    shelf = shaded()
    bare, before = shelf.painted(), state(shelf.book)
    number = verbs.add_pass(shelf.book, shelf.page, "Paint", mode="normal", strength=1.0, paint=True)

    def stroke(row: float) -> list[tuple[float, float, float]]:
        return [(row, col, 1.0) for col in (20.0, 100.0)]

    verbs.mist_pass(shelf.hand, stroke(60), 20, 0.0, 1.0, into=number, color="#ff4000")
    first = shelf.painted()
    verbs.mist_pass(shelf.hand, stroke(60), 20, 0.0, 0.5, into=number, color="#0040ff")
    verbs.cut_shade(shelf.hand, [(120, 20), (120, 60), (150, 60), (150, 20)], into=number, color="#20c040")
    verbs.fill_pass(shelf.hand, shelf.hand.in_pot(2), into=number, color="#ffffff")
    seen = shelf.painted()
    assert np.array_equal(first[60, 60, :3], (255, 64, 0))
    assert np.array_equal(first[90, 60], bare[90, 60])
    assert np.abs(seen[60, 60, :3].astype(int) - (128, 64, 127)).max() <= 1, "half and half"
    assert np.array_equal(seen[135, 40, :3], (0x20, 0xC0, 0x40))
    assert seen[60, 240, :3].min() == 255
    inks = prepared(shelf.book, shelf.derived, shelf.page, traps=False).ready.plates()
    assert inks[60, 240].max() == 0
    assert inks[135, 40, 0] > inks[135, 40, 1], "plates have the colours painted"
    copy = verbs.copy_pass(shelf.book, shelf.page, number)
    verbs.remove_pass(shelf.book, shelf.page, number)
    assert np.array_equal(shelf.painted(), seen), "a copy has all of it"
    (out,) = export_page(shelf.book, shelf.derived, shelf.page, tmp_path, kinds=("layers",))
    again = Shelf(two_rooms())
    take_layers(again.hand, out)
    assert np.abs(again.painted()[..., :3].astype(int) - seen[..., :3]).max() <= 2
    corners = ((100.0, 200.0, False), (100.0, 270.0, False), (140.0, 270.0, False), (140.0, 200.0, False))
    change_cuts(shelf.hand, copy, {1: ShadeCut(copy, corners)}, "suggest-cuts", "As a lamp does")
    assert shelf.painted()[120, 240, :3].tolist() == [255, 255, 255], "what is covered already keeps its colour"
    verbs.crop_page(shelf.book, shelf.page, (20, 10, 180, 290))
    assert np.array_equal(shelf.painted()[:60], seen[20:80, 10:290]), "it moves with the page"
    shelf.book.undo()
    shelf.book.undo()
    assert np.array_equal(shelf.painted(), seen)
    verbs.cut_shade(shelf.hand, LOOP, into=copy, light=True)
    assert np.array_equal(shelf.painted()[60, 60], bare[60, 60]), "and what is wiped shows what lies below"
    while state(shelf.book) != before and shelf.book.undo():
        pass
    assert state(shelf.book) == before
