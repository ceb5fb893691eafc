# SPDX-License-Identifier: GPL-3.0-or-later
"""Press: inks that print the colour wanted, black that overprints, traps that close what opens."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image, ImageCms

from drip_pot.core.color import from_hex
from drip_pot.core.errors import BadInput
from drip_pot.core.press import (
    CONDITIONS,
    DOTS,
    OnTop,
    Overrule,
    Plates,
    PressSettings,
    Printing,
    Screen,
    appearance,
    arrangements,
    beat_mm,
    color_ids,
    composed,
    dotted,
    find_traps,
    ink_table,
    large_black,
    lattice_of,
    lightness_of,
    line_under_black,
    on_top,
    overprint,
    plates_of,
    separate,
    separate_colors,
    strayed,
    trap_way,
    within_limit,
)
from drip_pot.core.render import Colors, Piece, Wash

PROFILE = Path("/usr/share/color/icc/ghostscript/default_cmyk.icc")
RED, BLUE, PAPER = (0, 230, 230, 0), (230, 40, 0, 0), (0, 0, 0, 0)
BLACK = (0, 0, 0, 255)


@given(st.lists(st.tuples(*[st.integers(0, 255)] * 3), min_size=1, max_size=6), st.integers(200, 400), st.floats(0, 1))
def test_no_colour_ever_exceeds_the_ink_limit(rgb: list[tuple[int, ...]], limit: int, black: float) -> None:
    cmyk, miss = separate_colors(np.array(rgb, np.uint8), PressSettings(ink_limit=limit, black=black))
    assert (cmyk.sum(axis=1, dtype=int) <= limit / 100 * 255 + 2).all()
    assert (miss >= 0).all()


@pytest.mark.parametrize("color", ["#e2553a", "#f1dfae", "#5d7a3a", "#efbf98", "#6d4a5e", "#808080"])
@pytest.mark.parametrize("black", [0.0, 0.6, 1.0])
def test_printable_colours_print_as_wanted(color: str, black: float) -> None:
    rgb = from_hex(color)
    cmyk, miss = separate_colors(rgb[None], PressSettings(black=black))
    assert miss[0] < (1.0 if black else 1.5), "an olive wants a little black"
    assert np.abs(appearance(cmyk)[0].astype(int) - rgb).max() <= (5 if black else 10)


@given(st.sampled_from(sorted(CONDITIONS)), st.floats(0, 1), st.integers(0, 2), st.integers(0, 99999))
def test_a_step_of_one_colour_value_moves_no_plate_by_more_than_three_per_cent(
    name: str, black: float, channel: int, seed: int
) -> None:
    ramps = np.random.default_rng(seed).integers(0, 256, (4, 1, 3)).repeat(256, axis=1).astype(np.uint8)
    ramps[..., channel] = np.arange(256)
    settings = PressSettings(condition=name, ink_limit=CONDITIONS[name].ink_limit, black=black)
    inks = separate_colors(ramps.reshape(-1, 3), settings)[0].reshape(4, 256, 4).astype(int)
    assert np.abs(np.diff(inks, axis=1)).max() <= 0.03 * 255


def test_more_black_generation_means_more_black_and_less_of_the_others() -> None:
    grey = np.array([[90, 92, 90]], np.uint8)
    little, much = (separate_colors(grey, PressSettings(black=b))[0][0].astype(int) for b in (0.1, 1.0))
    assert much[3] > little[3]
    assert much[:3].sum() < little[:3].sum()


def test_an_unprintable_green_stays_a_green_and_says_so() -> None:
    cmyk, miss = separate_colors(np.array([[0, 255, 0]], np.uint8), PressSettings())
    red, green, blue = appearance(cmyk)[0].astype(int)
    assert green > max(red, blue)
    assert miss[0] > 10


@given(st.tuples(*[st.integers(0, 254)] * 4), st.integers(0, 3))
def test_more_ink_is_never_lighter(inks: tuple[int, ...], plate: int) -> None:
    more = list(inks)
    more[plate] += 1
    light, dark = appearance(np.array([inks, more], np.uint8)).astype(int)
    assert dark.sum() <= light.sum() + 1


def test_paper_and_black_look_like_paper_and_black() -> None:
    assert appearance(np.array([[0, 0, 0, 0]], np.uint8)).tolist() == [[255, 255, 255]]
    assert appearance(np.array([[0, 0, 0, 255]], np.uint8)).max() < 55


def test_black_overprints_and_leaves_the_other_plates_alone() -> None:
    cmyk = np.tile(np.array(RED, np.uint8), (2, 3, 1))
    black = np.array([[0, 128, 255]] * 2, np.uint8)
    out = overprint(cmyk, black)
    assert np.array_equal(out[..., :3], cmyk[..., :3])
    assert out[0, :, 3].tolist() == [0, 128, 255]
    assert not cmyk[..., 3].any(), "input is not changed"


INKS = ink_table(PressSettings())


def tables(*inks: tuple[int, ...], line: tuple[int, ...] = BLACK) -> Plates:
    """Tables for atoms 1..n with these inks, shadow as local, one line colour."""
    table = np.array([(*PAPER, *[0] * (len(line) - 4)), *inks], np.uint8)
    lines = np.tile(np.array(line, np.uint8), (len(inks) + 1, 1))
    return plates_of(np.concatenate([table, table]), lines, np.full(len(inks) + 1, line[:4] == BLACK))


def halves(line_px: int = 0) -> tuple[np.ndarray, np.ndarray]:
    labels = np.ones((60, 80), np.int32)
    labels[:, 40:] = 2
    ink = np.zeros((60, 80), np.uint8)
    if line_px:
        ink[:, 40 - line_px // 2 : 40 + line_px - line_px // 2] = 255
    return labels, ink


def by_inks(plates: Plates) -> Printing:
    return Printing([], plates.colors, plates, lambda: INKS)


def printed(labels: np.ndarray, ink: np.ndarray, plates: Plates, width: float) -> tuple[np.ndarray, int]:
    ids, black = color_ids(Piece(labels, labels, ink), None, plates)
    traps = find_traps(OnTop(ids, black, plates.inks), width)
    piece = Piece(labels, labels, ink)
    return separate(piece, by_inks(plates), traps.spread), traps.needed_px


def gaps(cmyk: np.ndarray, shift: int) -> int:
    return int(strayed(cmyk, shift).gaps.max())


def test_an_edge_is_trapped_as_a_hand_says_and_others_as_before() -> None:
    labels, ink = halves()
    labels[30:, 40:] = 3
    plates = tables((0, 60, 120, 0), BLUE, BLUE)  # two regions of one colour beside a lighter one
    ids, black = color_ids(Piece(labels, labels, ink), None, plates)
    one, two = np.arange(4) == 1, np.arange(4) == 2

    def spread(into: bool, back: bool, width: float) -> np.ndarray:
        rule = Overrule(one, two, into, back, width)
        return find_traps(OnTop(ids, black, plates.inks), 6, labels, [rule]).spread

    usual = find_traps(OnTop(ids, black, plates.inks), 6).spread
    assert (usual[:, 40:46] > 0).all(), "the lighter side spreads"
    for found in (spread(False, False, 6), spread(False, True, 6), spread(True, False, 3)):
        assert np.array_equal(found[38:], usual[38:]), "the other region is trapped as before"
    assert not spread(False, False, 6)[:22].any()
    turned = spread(False, True, 6)[:22]
    assert (turned[:, 34:40] > 0).all()
    assert not turned[:, 40:].any()
    assert (spread(True, False, 3)[:22] > 0).sum(axis=1).max() == 3
    both = spread(True, True, 6)[:22]
    assert (both[:, 37:43] > 0).all()
    assert (both > 0).sum(axis=1).max() <= 8


def test_pastels_are_trapped_without_a_dark_line() -> None:
    labels, ink = halves()
    mint, rose = (60, 0, 30, 0), (0, 50, 0, 0)
    plates = tables(mint, rose)
    out, needed = printed(labels, ink, plates, 6)
    assert needed
    edge = np.unique(out[:, 34:46].reshape(-1, 4), axis=0)
    sides = lightness_of(np.array([mint, rose], np.uint8)).min()
    assert len(edge) > 2, "something is spread"
    assert lightness_of(edge).min() >= sides - 5.5
    strong, _ = printed(labels, ink, tables(RED, BLUE), 6)
    assert (strong.reshape(-1, 4) == np.maximum(RED, BLUE)).all(axis=1).any(), "strong colours meet in full"


@given(st.floats(0.05, 0.95), st.sampled_from(DOTS), st.floats(0, 180), st.floats(20, 60))
def test_dots_keep_the_value_of_a_tone(value: float, dot: str, angle: float, lpi: float) -> None:
    inks = np.full((400, 400, 4), value, np.float32)
    screens = (Screen(angle, 0.0, dot),) * 4
    places = np.arange(400, dtype=np.float64)
    out = dotted(inks, screens, (lpi,) * 4, 600.0, places, places)
    assert abs(float(out[..., 0].mean()) - value) < 0.035
    part = dotted(inks[:50, :60], screens, (lpi,) * 4, 600.0, places[70:120], places[30:90])
    assert np.allclose(part, out[70:120, 30:90], atol=1e-3)


def test_drawn_dots_beat_with_a_screen_of_nearly_their_ruling_and_no_other() -> None:
    places = np.arange(600, dtype=np.float64)
    drawn = dotted(np.full((600, 600, 4), 0.3, np.float32), (Screen(45.0),) * 4, (60.0,) * 4, 600.0, places, places)
    wave = lattice_of((drawn[..., 0] * 255).astype(np.uint8))
    assert np.hypot(*wave) == pytest.approx(60 / 600, rel=0.03)
    near, far = beat_mm(wave, Screen(45.0), 70.0, 600.0), beat_mm(wave, Screen(15.0), 133.0, 600.0)
    assert near == pytest.approx(25.4 / 10, rel=0.25), "60 and 70 lines an inch beat ten times an inch"
    assert far is None
    assert lattice_of(np.random.default_rng(1).integers(0, 255, (300, 300)).astype(np.uint8)) is None
    for bad in ({"angle_deg": 200.0}, {"angle_deg": 0.0, "lpi": 5.0}, {"angle_deg": 0.0, "dot": "star"}):
        with pytest.raises(BadInput):
            Screen(**bad)


def test_plates_that_stray_open_paper_and_a_trap_closes_it() -> None:
    labels, ink = halves()
    plates = tables(RED, BLUE)
    untrapped, needed = printed(labels, ink, plates, 0)
    trapped, _ = printed(labels, ink, plates, 6)
    assert needed == 60
    assert gaps(untrapped, 2) >= 60 * 2 - 8, "cyan strays two pixels away from an edge of 60"
    assert gaps(trapped, 2) == 0
    assert gaps(untrapped, 0) == 0
    assert strayed(untrapped, 2).worst.any()


@pytest.mark.parametrize(
    ("one", "two"), [((204, 153, 0, 0), (0, 0, 230, 102)), ((0, 204, 153, 0), (0, 0, 0, 255))], ids=["blue", "black"]
)
def test_plates_that_stray_together_and_black_itself_are_tried_too(one: tuple, two: tuple) -> None:
    labels, _ = halves()
    flat = np.array([PAPER, one, two], np.uint8)[labels]
    assert gaps(flat, 2) > 60


def test_lighter_spreads_into_darker_by_the_width_and_no_further() -> None:
    labels, ink = halves()
    light, dark = (0, 20, 200, 0), (220, 120, 0, 60)
    out, _ = printed(labels, ink, tables(light, dark), 3)
    assert (out[:, :40] == np.array(light)).all(), "the lighter side is unchanged"
    assert (out[:, 40:43] == np.maximum(light, dark)).all()
    assert (out[:, 44:] == np.array(dark)).all()


def test_colours_equally_dense_are_trapped_to_both_sides() -> None:
    labels, ink = halves()
    one, two = (0, 150, 150, 0), (190, 0, 190, 0)
    assert [bool(way[0]) for way in trap_way(*(np.array([k], np.uint8) for k in (one, two)))] == [True, True]
    out, needed = printed(labels, ink, tables(one, two), 4)
    assert needed == 60
    both = (out[30] == np.maximum(one, two)).all(axis=1)
    assert both[38:42].all()
    assert both.sum() <= 6


def test_a_thin_sliver_keeps_its_colour_in_the_middle() -> None:
    labels = np.ones((60, 80), np.int32)
    labels[:, 37:43] = 2
    ink = np.zeros((60, 80), np.uint8)
    light, dark = (0, 20, 200, 0), (220, 120, 0, 60)
    out, _ = printed(labels, ink, tables(light, dark), 8)
    kept = (out[30, 37:43] == np.array(dark)).all(axis=1)
    assert kept.sum() >= 2
    assert not kept.all()


@pytest.mark.parametrize(("line_px", "needed"), [(9, False), (2, True)])
def test_an_edge_under_enough_black_needs_no_trap(line_px: int, needed: bool) -> None:
    labels, ink = halves(line_px)
    out, px = printed(labels, ink, tables(RED, BLUE), 3)
    assert (px > 0) == needed
    if not needed:
        assert gaps(out, 2) == 0


@pytest.mark.parametrize(
    ("one", "two", "needed"),
    [
        (RED, BLUE, True),
        (RED, PAPER, False),
        (RED, (0, 120, 120, 0), False),
        ((100, 40, 0, 0), (230, 40, 0, 0), False),
    ],
)
def test_only_colours_that_would_show_something_lighter_need_traps(one: tuple, two: tuple, needed: bool) -> None:
    ways = trap_way(np.array([one], np.uint8), np.array([two], np.uint8))
    assert bool(ways[0][0] | ways[1][0]) == needed


def test_a_coloured_line_prints_in_its_own_inks_and_is_trapped_like_any_edge() -> None:
    labels, ink = halves(12)
    plates = tables(BLUE, BLUE, line=RED)
    bare, needed = printed(labels, ink, plates, 0)
    out, _ = printed(labels, ink, plates, 3)
    assert out[30, 40].tolist() == list(RED), "it looks as on the screen"
    assert needed == 2 * 60
    assert gaps(bare, 2) > 0
    assert gaps(out, 2) == 0
    assert (out[30, 34:46] == RED).all(axis=1).sum() >= 4, "a third of it is left on either side, at most"


def test_a_line_that_has_all_inks_beneath_it_needs_no_trap() -> None:
    labels, ink = halves(8)
    out, needed = printed(labels, ink, tables(RED, RED, line=(0, 240, 240, 120)), 3)
    assert needed == 0
    assert out[30, 40].tolist() == [0, 240, 240, 120]


def test_no_trap_shows_through_what_lies_over_the_edge() -> None:
    labels, ink = halves()
    piece = Piece(labels, labels, ink, [np.full(labels.shape, 255, np.uint8)])
    seen = np.array([[255, 255, 255, 255], [230, 20, 20, 255], [20, 20, 230, 255]] * 2, np.uint8)
    plates, screen = tables(RED, BLUE), Colors(seen, np.zeros((3, 4), np.uint8))
    fog, tint = Wash(color=(255, 255, 255)), Wash(color=(90, 90, 90), mode="multiply", strength=0.5)
    for wash, wanted in ((fog, False), (tint, True)):
        printing = Printing([wash], screen, plates, lambda: INKS)
        top = on_top(lambda _, by=printing: composed(piece, by), 60, printing)
        found = find_traps(top, 4, base=len(plates.inks))
        assert found.spread.any() == wanted, "a fog leaves no edge, a tint leaves it"
        known = replace(plates, inks=found.inks)
        out = separate(piece, Printing([wash], screen, known, lambda: INKS), found.spread)
        if not wanted:
            assert not out.any()
        else:
            assert len(np.unique(out.reshape(-1, 4), axis=0)) == 3, "both sides and one trap between them"


def test_a_coloured_line_that_runs_into_a_black_one_is_carried_under_it() -> None:
    pale, brown = (0, 20, 30, 0), (26, 232, 255, 150)
    labels, ink = halves()
    ink[20:40] = 255
    plates = plates_of(
        np.array([PAPER, pale, pale] * 2, np.uint8), np.array([PAPER, BLACK, brown], np.uint8),
        np.array([False, True, False]),
    )  # fmt: skip
    piece = Piece(labels, labels, ink)
    _, black = color_ids(piece, None, plates)
    met = line_under_black(piece, None, plates, black, 3)
    assert np.array_equal(np.argwhere(met > 0)[:, 1].min(), 37)
    assert (plates.inks[met[20:40, 37:40]] == brown).all()
    assert not met[:20].any()
    assert not met[:, 40:].any()
    bare, carried = (separate(piece, by_inks(plates), trap) for trap in (None, met))
    assert gaps(bare, 2) > 0
    assert gaps(carried, 2) == 0


def test_straying_in_strips_gives_the_same_as_all_at_once() -> None:
    labels, ink = halves()
    whole, _ = printed(labels, ink, tables(RED, BLUE), 0)
    halo = 6
    first, second = whole[: 30 + halo], whole[30 - halo :]
    first = np.pad(first, ((halo, 0), (0, 0), (0, 0)), mode="edge")
    second = np.pad(second, ((0, halo), (0, 0), (0, 0)), mode="edge")
    parts = strayed(first, 2, halo=halo).gaps + strayed(second, 2, halo=halo).gaps
    assert parts.tolist() == strayed(whole, 2).gaps.tolist()


@given(st.integers(0, 5000), st.integers(200, 400), st.integers(4, 6))
def test_whatever_lies_over_what_the_limit_comes_last(seed: int, limit: int, count: int) -> None:
    inks = np.random.default_rng(seed).integers(0, 256, (20, 20, count)).astype(np.uint8)
    most = int(limit * 2.55)
    out = within_limit(inks, most)
    assert out.sum(axis=2, dtype=int).max() <= most
    fits = inks.sum(axis=2, dtype=int) <= most
    assert np.array_equal(out[fits], inks[fits])
    assert (out <= inks).all()


def test_large_blacks_are_enriched_by_one_mixture_and_held_back() -> None:
    black = np.zeros((80, 120), np.uint8)
    black[20:60, 20:100] = 255
    black[5:9] = 255
    rich = large_black(black, 12, 4)
    assert rich[40, 60]
    assert rich[20:60, 20:100][4:-4, 4:-4].mean() > 0.9
    assert not rich[:24].any()
    assert not rich[:, :24].any()
    assert not rich[:15].any(), "a line is not large"


@pytest.mark.parametrize("name", CONDITIONS)
def test_greys_are_neutral_and_inks_follow_colours_smoothly(name: str) -> None:
    settings = PressSettings(condition=name, ink_limit=CONDITIONS[name].ink_limit)
    ramp = np.repeat(np.arange(256, dtype=np.uint8)[:, None], 3, axis=1)
    inks, _ = separate_colors(ramp, settings)
    assert np.abs(np.diff(inks.astype(int), axis=0)).max() <= 3 * 2.55
    seen = appearance(inks[60:], name).astype(int)
    assert np.abs(seen - seen.mean(axis=1, keepdims=True)).max() <= 3


@pytest.mark.skipif(not PROFILE.exists(), reason="no CMYK profile of another maker is installed")
def test_the_coated_condition_agrees_with_a_profile_of_another_maker() -> None:
    steps = np.rint(np.linspace(0, 255, 9)).astype(np.uint8)
    grid = np.stack(np.meshgrid(steps, steps, steps, steps, indexing="ij"), axis=-1).reshape(-1, 4)
    lab = ImageCms.createProfile("LAB")
    turn = ImageCms.buildTransform(str(PROFILE), lab, "CMYK", "LAB", renderingIntent=1)
    told = ImageCms.applyTransform(Image.frombytes("CMYK", (len(grid), 1), grid.tobytes()), turn)
    raw = np.frombuffer(told.tobytes(), np.uint8).reshape(-1, 3)
    light = raw[:, 0] / 2.55
    off = np.abs(light - lightness_of(grid))
    assert np.median(off) < 2
    assert np.percentile(off, 95) < 5


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"ink_limit": 100}, "200 to 400 %"),
        ({"black": 2}, "0 to 100 %"),
        ({"trap_mm": 3}, "0 to 1 mm"),
        ({"tolerance_mm": -1}, "0 to 0.5 mm"),
        ({"condition": "stone"}, "coated, uncoated, newsprint"),
    ],
)
def test_impossible_press_settings_say_what_is_possible(values: dict[str, float], words: str) -> None:
    with pytest.raises(BadInput, match=words):
        PressSettings(**values)
    with pytest.raises(BadInput, match="0 to 100 px"):
        strayed(np.zeros((4, 4, 4), np.uint8), 101)


def test_a_fifth_plate_is_carried_like_the_others() -> None:
    labels, ink = halves(6)
    spot, blue = (0, 0, 0, 0, 255), (*BLUE, 0)
    plates = tables(spot, blue, line=(*BLACK, 0))
    out, px = printed(labels, ink, plates, 0)
    assert out.shape == (60, 80, 5)
    assert out[0, [0, 79]].tolist() == [list(spot), list(blue)]
    assert out[0, 38, 3:].tolist() == [255, 255], "black prints over it"
    _, needed = printed(labels, ink * 0, plates, 3)
    assert (px, needed) == (0, 60), "a spot ink and a blue have nothing in common"
    assert len(strayed(out, 2).gaps) == len(arrangements(5)) == (14 + 5) * 8


def test_eight_plates_are_tried_with_little_memory_and_a_spot_has_its_own_lightness() -> None:
    out = np.zeros((60, 80, 8), np.uint8)
    out[:, :40, 5], out[:, 40:, 6] = 255, 255
    assert strayed(out, 2, solids=np.full((4, 3), 0.05)).gaps.max() > 0, "two dark inks part"
    assert strayed(out, 2, solids=np.full((4, 3), 0.97)).gaps.max() == 0, "two that are hardly seen do not"
    pale, deep = np.full((1, 3), 0.8), np.full((1, 3), 0.02)
    spot, grey = np.array([[0, 0, 0, 0, 255]], np.uint8), np.array([[0, 0, 0, 150, 0]], np.uint8)
    assert trap_way(spot, grey, solids=pale)[0][0], "a pale ink spreads into grey"
    assert not trap_way(spot, grey, solids=deep)[0][0], "a dark one does not"


@pytest.mark.parametrize("width", [0.4, 1.4, 2.8, 3.0])
def test_a_trap_is_as_wide_as_it_says_to_parts_of_a_pixel(width: float) -> None:
    labels, ink = halves()
    out, _ = printed(labels, ink, tables((0, 60, 120, 0), BLUE), width)
    row = out[30].astype(float)
    fully, bare = np.maximum((0, 60, 120, 0), BLUE)[2], row[60, 2]
    assert ((row[40:50, 2] - bare) / (fully - bare)).sum() == pytest.approx(width, abs=0.02)
