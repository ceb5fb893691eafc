# SPDX-License-Identifier: GPL-3.0-or-later
"""Lamps on a page: suggestions lie away from the light, are kept or dropped, and leave a hand's work alone."""

import cv2
import msgspec
import numpy as np
import pytest

from drip_pot.book import build_tables, verbs
from drip_pot.book.findings import Finding, find, mend, needs_hand
from drip_pot.book.lamps import staged, suggestions
from drip_pot.book.values import COVER, LAMPS, PASSES, SHADE_CUTS, TONE, Lamp
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.shade.light import in_front, neighbors
from tests.book.test_sheets import Shelf, state

ROWS, COLS = 260, 380


def ball() -> Shelf:
    """A ball before a wall with a shelf, in a frame."""
    ink = np.zeros((ROWS, COLS), np.uint8)
    cv2.rectangle(ink, (20, 20), (COLS - 21, ROWS - 21), 255, 4)
    cv2.circle(ink, (130, 140), 60, 0, -1)
    cv2.circle(ink, (130, 140), 60, 255, 4, cv2.LINE_AA)
    cv2.circle(ink, (280, 120), 40, 255, 4, cv2.LINE_AA)
    shelf = Shelf(ink)
    shelf.pour(140, 130, 1)
    shelf.pour(120, 280, 1)
    shelf.pour(30, 30, 2)
    return shelf


def tone(shelf: Shelf) -> np.ndarray:
    return shelf.book.plane(COVER.key(shelf.page, TONE)).whole()


@pytest.mark.parametrize(("row", "col"), [(-200, 130), (140, 900), (600, 130), (140, -900)])
def test_the_shadow_of_a_ball_lies_away_from_the_lamp_and_grounds_have_none(row: float, col: float) -> None:
    shelf = ball()
    verbs.set_lamp(shelf.book, shelf.page, Lamp(row, col))
    assert "suggested" in verbs.suggest_cuts(shelf.hand)
    rows, cols = np.nonzero(tone(shelf)[80:201, 70:191])
    away = np.array([rows.mean() - 60, cols.mean() - 60])
    toward = np.array([row - 140, col - 130], float)
    assert away @ toward / np.linalg.norm(toward) < -12
    share = len(rows) / (np.pi * 58**2)
    assert 0.15 < share < 0.5
    assert not tone(shelf)[30:60, 30:60].any(), "the ground"
    assert all(cut.offered for cut in shelf.sources[SHADE_CUTS].values())
    assert all(len(cut.knots) <= 24 for cut in shelf.sources[SHADE_CUTS].values()), "few-cornered"


def test_a_lower_lamp_leaves_more_in_shadow_and_one_behind_lights_the_rim_alone() -> None:
    shelf = ball()
    number = verbs.set_lamp(shelf.book, shelf.page, Lamp(-200, 600, height=0.9))
    lit = []
    for changed in ({"height": 0.9}, {"height": 0.1}, {"height": 0.5, "back": True}):
        verbs.set_lamp(shelf.book, shelf.page, msgspec.structs.replace(Lamp(-200, 600), **changed), number)
        verbs.suggest_cuts(shelf.hand)
        lit.append(np.count_nonzero(tone(shelf)))
    assert lit[0] < lit[1] < lit[2]


def test_a_bounce_lies_on_the_side_that_faces_it_and_is_laid_anew_when_it_moves() -> None:
    shelf = ball()
    verbs.set_lamp(shelf.book, shelf.page, Lamp(-200, 130))
    verbs.suggest_cuts(shelf.hand)
    key, before = tone(shelf), state(shelf.book)
    number = verbs.set_lamp(shelf.book, shelf.page, Lamp(140, 900, height=0.3, color="#e08040"))
    for col in (900, -900):
        lamp = shelf.sources[LAMPS][number]
        verbs.set_lamp(shelf.book, shelf.page, msgspec.structs.replace(lamp, col=col), number)
        assert "2 regions" in verbs.lay_bounce(shelf.hand, number)
        (into,) = (n for n, one in shelf.sources[PASSES].items() if one.name == "Bounce")
        assert shelf.sources[LAMPS][number].into == into
        laid = shelf.book.plane(COVER.key(shelf.page, into)).whole()
        cols = np.nonzero(laid[80:201, 70:191])[1]
        assert (cols.mean() - 60) * np.sign(col) > 8
        assert not laid[30:60, 30:60].any(), "the ground"
        assert all(not cut.offered for cut in shelf.sources[SHADE_CUTS].values() if cut.into == into)
    verbs.remove_pass(shelf.book, shelf.page, into)
    assert shelf.sources[LAMPS][number].into == 0, "another pass of that number is not the bounce's"
    assert np.array_equal(tone(shelf), key), "key and bounce leave each other alone"
    verbs.suggest_cuts(shelf.hand)
    assert np.array_equal(tone(shelf), key)
    with pytest.raises(BadInput, match="key light"):
        verbs.lay_bounce(shelf.hand, 1)
    with pytest.raises(BadInput, match="no lamp 9"):
        verbs.lay_bounce(shelf.hand, 9)
    while state(shelf.book) != before:
        assert shelf.book.undo()


def test_suggesting_again_renews_what_nobody_kept_and_leaves_a_hands_work_alone() -> None:
    shelf = ball()
    atom = shelf.hand.atom_at(120, 280)
    verbs.cut_shade(shelf.hand, [(90.0, 250.0), (90.0, 300.0), (110.0, 300.0), (110.0, 250.0)], only=atom)
    by_hand = tone(shelf)
    number = verbs.set_lamp(shelf.book, shelf.page, Lamp(-200, 130))
    before = state(shelf.book)
    verbs.suggest_cuts(shelf.hand)
    first = set(shelf.sources[SHADE_CUTS])
    assert np.array_equal(tone(shelf)[:, 240:], by_hand[:, 240:])
    shelf.book.undo()
    assert state(shelf.book) == before
    shelf.book.redo()
    verbs.set_lamp(shelf.book, shelf.page, Lamp(600, 130), number)
    verbs.suggest_cuts(shelf.hand)
    assert {n for n in first if shelf.sources[SHADE_CUTS].get(n) is not None} == {1}
    verbs.keep_cuts(shelf.hand, set(shelf.sources[SHADE_CUTS]))
    kept = tone(shelf)
    verbs.set_lamp(shelf.book, shelf.page, Lamp(-200, 130), number)
    verbs.suggest_cuts(shelf.hand)
    assert np.array_equal(tone(shelf), kept)


def test_parts_are_left_alone_and_wrong_lamps_are_refused() -> None:
    shelf = ball()
    with pytest.raises(NothingDone, match="no key light"):
        verbs.suggest_cuts(shelf.hand)
    with pytest.raises(BadInput, match="height"):
        verbs.set_lamp(shelf.book, shelf.page, Lamp(0, 0, height=2))
    with pytest.raises(BadInput, match="no lamp 7"):
        verbs.set_lamp(shelf.book, shelf.page, None, 7)
    number = verbs.set_lamp(shelf.book, shelf.page, Lamp(-200, 130))
    verbs.leave_calm(shelf.book, shelf.page, 1, calm=True)
    assert "nothing" in verbs.suggest_cuts(shelf.hand)
    verbs.leave_calm(shelf.book, shelf.page, 1, calm=None)
    verbs.suggest_cuts(shelf.hand)
    assert tone(shelf).any()
    verbs.set_lamp(shelf.book, shelf.page, None, number)
    assert not shelf.sources[LAMPS]


def test_the_scene_does_not_depend_on_the_resolution() -> None:
    shelf = ball()
    scene = staged(shelf.hand)
    assert staged(shelf.hand) is scene, "kept"
    made = suggestions(scene, {1: Lamp(-200, 130)})
    assert {scene.scene.part[region] for region, *_ in made} == {1}


def test_a_shape_drawn_over_another_is_in_front() -> None:
    labels = np.ones((160, 240), np.int32)
    cv2.circle(labels, (95, 80), 45, 2, -1)
    cv2.circle(labels, (155, 80), 45, 3, -1)
    fronts = in_front(labels, neighbors(labels, 3), 3.0)
    assert (3, 2) in fronts
    assert (2, 3) not in fronts
    assert (3, 1) in fronts


def told(shelf: Shelf) -> dict[str, Finding]:
    sources = shelf.sources
    tables = build_tables(shelf.book, sources, len(shelf.hand.areas) - 1)
    return {f.title: f for f in find(shelf.book, sources, shelf.derived, tables)["Shade"]}


def mended(shelf: Shelf, title: str) -> None:
    finding = told(shelf)[title]
    assert needs_hand(finding) == (title != "Open border")
    before = state(shelf.book)
    mend(shelf.book, shelf.page, finding, shelf.hand)
    assert title not in told(shelf)
    shelf.book.undo()
    assert state(shelf.book) == before


def test_specks_open_borders_and_shade_toward_the_lamp_are_listed_and_mended() -> None:
    shelf = ball()
    assert not {"Speck of shade", "Open border", "Shade toward the lamp", "Part without shade"} & told(shelf).keys()
    mask = np.ones((3, 3), bool)
    verbs.shade_mask(shelf.book, shelf.page, (140, 130, 143, 133), mask, mask, light=False)
    mended(shelf, "Speck of shade")
    verbs.draw_border(shelf.hand, ((100.0, 120.0), (130.0, 120.0)))
    mended(shelf, "Open border")
    verbs.set_lamp(shelf.book, shelf.page, Lamp(-300, 130))
    verbs.cut_shade(
        shelf.hand, [(84.0, 95.0), (84.0, 165.0), (105.0, 180.0), (105.0, 80.0)], only=shelf.hand.atom_at(140, 130)
    )
    mended(shelf, "Shade toward the lamp")
    verbs.fill_pass(shelf.hand, shelf.hand.in_pot(1))
    assert "Part without shade" in told(shelf)
    verbs.suggest_cuts(shelf.hand)
    verbs.leave_calm(shelf.book, shelf.page, shelf.book.pots()[2].part, calm=True)
    assert "Part without shade" not in told(shelf)


def test_highlights_in_shadow_are_listed_but_not_rims() -> None:
    shelf = ball()
    verbs.cut_shade(shelf.hand, [(80.0, 60.0), (80.0, 130.0), (200.0, 130.0), (200.0, 60.0)])
    spark = verbs.add_pass(shelf.book, shelf.page, "Sparks", "#ffffff", "screen", 0.8)
    verbs.mist_pass(shelf.hand, [(120.0, 150.0, 1.0), (150.0, 165.0, 1.0)], 12, 0.0, 1.0, into=spark)
    assert "Highlight in shadow" not in told(shelf)
    verbs.mist_pass(shelf.hand, [(150.0, 112.0, 1.0)], 10, 0.0, 1.0, into=spark)
    found = told(shelf)["Highlight in shadow"]
    assert "Sparks" in found.sentence
    rim = verbs.add_pass(shelf.book, shelf.page, "Rim", "#ffffff", "screen", 0.8)
    verbs.mist_pass(shelf.hand, [(140.0, 110.0, 1.0)], 10, 0.0, 1.0, into=rim)
    assert "Rim" not in told(shelf)["Highlight in shadow"].sentence
