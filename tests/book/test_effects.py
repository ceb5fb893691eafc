# SPDX-License-Identifier: GPL-3.0-or-later
"""Effect lines over the line and beneath it: behind figures, in layers and on plates, moved with the page, undone."""

from dataclasses import replace

import cv2
import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.book import Hold, verbs
from drip_pot.book.orders import run
from drip_pot.book.values import EFFECTS, PASSES
from drip_pot.core.color import delta_e, srgb8_to_oklab
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.inks import Effect, draw_effect
from drip_pot.core.press import appearance
from drip_pot.core.render import EffectSource
from drip_pot.files.delivery.export import prepared
from tests.book.test_holds import Rooms

RED = Effect("speed", ((30, 30), (30, 410), (290, 410), (290, 30)), 160, 220, count=9, weight_px=12, color="#c80000")


def red_in(rgb: np.ndarray) -> np.ndarray:
    return (rgb[..., 0] > 150) & (rgb[..., 1] < 60)


def test_effect_lines_go_behind_what_is_drawn_before_them_and_back_in_one_undo_each() -> None:
    rooms = Rooms()
    book, page = rooms.book, rooms.page
    plain, start = rooms.ready().screen()[..., :3], book.values()
    number = verbs.set_effect(book, page, None, RED)
    over, before = rooms.ready().screen()[..., :3], book.values()
    labels, ink = rooms.hand.labels, rooms.hand.ink
    ground = labels == labels[30, 220]  # round both rooms, within the frame
    made = verbs.lower_effect(rooms.hand, number)
    assert not rooms.sources[EFFECTS]
    assert rooms.sources[PASSES][made].color == RED.color
    seen = rooms.ready().screen()[..., :3]
    assert np.array_equal(seen[~ground], plain[~ground]), "what lies in front is as it was"
    assert red_in(seen)[ground & (ink == 0)].sum() > 0.9 * red_in(over)[ground & (ink == 0)].sum()
    assert np.array_equal(seen[ink == 255], plain[ink == 255]), "the line lies over them"
    verbs.raise_effect(book, page, made)
    assert np.array_equal(rooms.ready().screen()[..., :3], over)
    for _ in range(2):
        book.undo()
    assert book.values() == before
    book.undo()
    assert book.values() == start


def test_effect_lines_laid_in_a_pick_stay_there_on_the_screen_and_on_plates() -> None:
    rooms = Rooms()
    plain = rooms.ready()
    atom = rooms.hand.atom_at(100, 100)
    picked = rooms.hand.__class__(**{**vars(rooms.hand), "picked": frozenset({atom})})
    verbs.lay_effect(picked, RED)
    ready, mine = rooms.ready(), rooms.hand.labels == atom
    seen, inks = ready.screen()[..., :3], ready.plates()
    assert red_in(seen)[mine].any()
    assert np.array_equal(seen[~mine], plain.screen()[..., :3][~mine])
    assert np.array_equal(inks[~mine], plain.plates()[~mine])
    lab = [srgb8_to_oklab(np.ascontiguousarray(rgb[mine & red_in(seen)])) for rgb in (seen, appearance(inks[..., :4]))]
    assert np.median(delta_e(*lab)) < 6


def test_orders_tell_what_is_not_there() -> None:
    rooms = Rooms()
    with pytest.raises(BadInput, match="no effect 7"):
        verbs.lower_effect(rooms.hand, 7)
    with pytest.raises(BadInput, match="has no effect lines"):
        run(rooms.book, "raise-effect", {"number": 1}, rooms.page)


@given(st.integers(0, 90), st.integers(0, 90), st.sampled_from([1, 2, 3, 4, 8]), st.floats(0, 1))
def test_pieces_of_effect_lines_at_any_place_are_those_of_the_whole(
    top: int, left: int, step: int, fade: float
) -> None:
    effect = Effect("burst", ((9, 20), (15, 150), (110, 170), (120, 30)), 60, 90, 10, count=25, weight_px=9, fade=fade)
    source = EffectSource(effect, (0, 0, 0), (130, 190))
    whole = source.cover(0, 0, (130, 190), 1)
    assert np.array_equal(whole, draw_effect(effect, (130, 190)))
    top, left = top // step * step, left // step * step
    every, piece = source.cover(0, 0, (40, 60), step), source.cover(top, left, (12, 9), step)
    r, c = top // step, left // step
    if r + 12 <= 40 and c + 9 <= 60:
        assert np.abs(every[r : r + 12, c : c + 9].astype(int) - piece).max() <= 1


def test_effect_lines_over_a_spot_ink_give_way_to_it_only_where_they_are_and_traps_do_not_care() -> None:
    rooms = Rooms()
    book, page = rooms.book, rooms.page
    verbs.set_pot_inks(book, 1, None, None, "Ember ink")
    atom = rooms.hand.atom_at(100, 100)
    plain = prepared(book, rooms.derived, page, traps=True).ready.plates()
    verbs.add_hold(book, page, Hold("Red", how="fixed", color="#c80000"))
    picked = rooms.hand.__class__(**{**vars(rooms.hand), "picked": frozenset({atom})})
    verbs.lay_effect(picked, msgspec.structs.replace(RED, color="#f4f4ff"))
    inks = prepared(book, rooms.derived, page, traps=True).ready.plates()
    lines = draw_effect(RED, plain.shape[:2]) == 255
    inside = cv2.erode((rooms.hand.labels == atom).view(np.uint8), np.ones((25, 25))) > 0
    clear = (rooms.hand.ink == 0) & inside
    assert inks[lines & clear, 4].mean() < 0.2 * plain[lines & clear, 4].mean()
    bare = cv2.dilate(draw_effect(RED, plain.shape[:2]), np.ones((5, 5))) == 0
    assert np.array_equal(inks[clear & bare], plain[clear & bare])


def test_a_picture_goes_behind_figures_and_stays_within_what_is_picked() -> None:
    rooms = Rooms()
    book, page = rooms.book, rooms.page
    plain, labels = rooms.ready().screen()[..., :3], rooms.hand.labels
    book.pictures = lambda _: (np.full((80, 80, 4), (200, 0, 0, 255), np.uint8),)
    number = verbs.place_picture(book, page, 1, (80, 80))
    before = book.values()
    ground = labels == labels[30, 220]
    verbs.lay_behind(rooms.hand, number)
    seen = rooms.ready().screen()[..., :3]
    assert np.array_equal(seen[~ground], plain[~ground]), "what lies in front is as it was"
    assert red_in(seen)[ground].mean() > 0.3
    book.undo()
    assert book.values() == before
    atom = rooms.hand.atom_at(100, 100)
    verbs.lay_behind(replace(rooms.hand, picked=frozenset({atom})), number)
    seen = rooms.ready().screen()[..., :3]
    assert red_in(seen).any()
    assert not red_in(seen)[labels != atom].any()
    tiny = verbs.place_picture(book, page, 1, (4, 4))
    verbs.bend_picture(book, page, tiny, [(98.0, 98.0), (98.0, 102.0), (102.0, 98.0), (102.0, 102.0)])
    with pytest.raises(NothingDone, match="no ground"):
        verbs.lay_behind(rooms.hand, tiny)
