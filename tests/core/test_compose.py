# SPDX-License-Identifier: GPL-3.0-or-later
"""The one compositor: blend modes by the standard's formulas, passes by coverage, screen and plates that agree."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.core.color import srgb8_to_oklab
from drip_pot.core.errors import BadInput
from drip_pot.core.press import PressSettings, Printing, appearance, ink_table, inks_at, separate, separate_colors
from drip_pot.core.render import (
    MODES,
    Colors,
    Finish,
    Local,
    Piece,
    Ramp,
    Stop,
    ToneRamp,
    Wash,
    blended,
    compose,
    finished,
    flats_of,
    path_of,
    ramp_at,
)
from drip_pot.core.render.blend import QUICK, SUMS, blended8, summed
from drip_pot.core.render.edges import smooth_edges
from drip_pot.core.render.finish import softened
from tests.core.test_draw import colors_of
from tests.core.test_press import tables

PLAIN = PressSettings()


def by_the_book(mode: str, b: float, s: float) -> float:
    """One channel, as the standard writes it down."""
    if mode == "hard-light":
        return 2 * b * s if s <= 0.5 else b + (2 * s - 1) - b * (2 * s - 1)
    if mode == "overlay":
        return by_the_book("hard-light", s, b)
    if mode == "color-dodge":
        return 0 if b == 0 else 1 if s == 1 else min(1, b / (1 - s))
    if mode == "color-burn":
        return 1 if b == 1 else 0 if s == 0 else 1 - min(1, (1 - b) / s)
    if mode == "soft-light":
        if s <= 0.5:
            return b - (1 - 2 * s) * b * (1 - b)
        d = ((16 * b - 12) * b + 4) * b if b <= 0.25 else b**0.5
        return b + (2 * s - 1) * (d - b)
    return {
        "normal": s, "multiply": b * s, "screen": b + s - b * s, "darken": min(b, s), "lighten": max(b, s),
        "difference": abs(b - s), "exclusion": b + s - 2 * b * s,
    }[mode]  # fmt: skip


@pytest.mark.parametrize("mode", MODES[:12])
def test_separable_modes_follow_the_standard(mode: str) -> None:
    steps = np.linspace(0, 1, 18)
    b, s = (v.ravel() for v in np.meshgrid(steps, steps))
    found = blended(mode, np.stack([b] * 3, axis=1), np.stack([s] * 3, axis=1))[:, 0]
    assert np.abs(found - [by_the_book(mode, *pair) for pair in zip(b, s, strict=True)]).max() < 1e-9


@pytest.mark.parametrize(
    ("mode", "expected"),
    [  # worked by hand from SetLum and SetSat for backdrop (.8, .4, .2) and source (.1, .5, .9)
        ("luminosity", (0.734, 0.334, 0.134)),
        ("color", (0.098, 0.498, 0.898)),
        ("hue", (0.1685, 0.4685, 0.7685)),
        ("saturation", (0.855, 0.3217, 0.055)),
    ],
)
def test_other_modes_keep_what_they_are_named_for(mode: str, expected: tuple[float, ...]) -> None:
    b, s = np.array([[0.8, 0.4, 0.2]]), np.array([[0.1, 0.5, 0.9]])
    out = blended(mode, b, s)[0]
    weights = np.array([0.3, 0.59, 0.11])
    keeps = s if mode == "luminosity" else b
    assert out @ weights == pytest.approx(float(keeps[0] @ weights), abs=1e-6)
    assert np.ptp(out) == pytest.approx(np.ptp(expected), abs=0.02)
    assert np.argsort(out).tolist() == np.argsort(expected).tolist()


@given(st.integers(0, 10_000))
def test_passes_are_laid_by_coverage_strength_and_scope(seed: int) -> None:
    rng = np.random.default_rng(seed)
    labels = rng.integers(1, 4, (9, 11)).astype(np.int32)
    colors = colors_of((200, 40, 10), (10, 90, 200), (30, 160, 60))
    covers = [rng.choice([0, 255, 97], (9, 11)).astype(np.uint8) if rng.random() < 0.8 else None for _ in range(3)]
    within = np.array([False, True, False, True])
    stack = [Wash(tone=True), Wash(color=(90, 20, 140), mode="multiply", strength=0.5),
             Wash(color=(250, 240, 90), mode="screen", within=within)]  # fmt: skip
    out = compose(Piece(labels, labels, np.zeros((9, 11), np.uint8), covers), stack, colors)
    table = colors.flat.view(np.uint8).reshape(2, -1, 4)[..., :3].astype(float)
    expected = table[0][labels]
    for wash, cover in zip(stack, covers, strict=True):
        if cover is None:
            continue
        alpha = cover / 255 * wash.strength
        alpha = alpha if wash.within is None else alpha * within[labels]
        source = np.broadcast_to(np.array(wash.color) / 255, expected.shape)
        over = table[1][labels] if wash.tone else blended(wash.mode, expected / 255, source) * 255
        expected = expected * (1 - alpha[..., None]) + over * alpha[..., None]
    assert np.abs(out[..., :3] - expected).max() <= 2.5


def test_washes_are_told_apart_by_what_they_are_made_of() -> None:
    one, two = (Wash(within=np.array([False, True])) for _ in range(2))
    assert one.key == two.key != Wash(within=np.array([True, True])).key


def test_flats_and_hard_shadows_keep_their_exact_inks_and_soft_colour_follows_the_screen() -> None:
    labels = np.ones((4, 6), np.int32)
    plates = tables((10, 200, 30, 0))
    screen = colors_of((200, 40, 10))
    cover = np.zeros((4, 6), np.uint8)
    cover[:, 2:4], cover[:, 4:] = 255, 128
    ink = np.zeros((4, 6), np.uint8)
    stack = [Wash(tone=True)]
    out = separate(Piece(labels, labels, ink, [cover]), Printing(stack, screen, plates, lambda: ink_table(PLAIN)))
    assert (out[:, :4] == (10, 200, 30, 0)).all(), "the table of inks, whatever the screen shows"
    seen = compose(Piece(labels, labels, ink, [cover]), stack, screen)[0, 5, :3]
    wanted = separate_colors(seen[None], PLAIN)[0]
    looks = [appearance(inks.reshape(1, 1, 4)).astype(int) for inks in (out[0, 5], wanted)]
    assert np.abs(looks[0] - looks[1]).max() <= 8, "the table of the colour cube prints what is seen"
    assert np.array_equal(out[:, 4], out[:, 5])


@pytest.mark.parametrize("limit", [240, 320])
def test_inks_of_any_colour_keep_the_limit_and_paper_takes_none(limit: int) -> None:
    rng = np.random.default_rng(1)
    press = PressSettings(ink_limit=limit)
    inks = inks_at(ink_table(press), rng.integers(0, 256, (40_000, 3)).astype(np.uint8))
    assert inks.sum(axis=1, dtype=int).max() <= limit * 2.55
    assert inks_at(ink_table(press), np.full((1, 3), 255, np.uint8)).max() == 0


def test_inks_of_mixed_colour_are_worked_out_only_where_colour_is_mixed() -> None:
    asked: list[str] = []

    def table():
        asked.append("inks")
        return ink_table(PLAIN)

    labels, ink = np.ones((3, 4), np.int32), np.zeros((3, 4), np.uint8)
    hard = np.array([[0, 0, 255, 255]] * 3, np.uint8)
    given = colors_of((200, 40, 10)), tables((10, 200, 30, 0)), table
    separate(Piece(labels, labels, ink, []), Printing([], *given))
    separate(Piece(labels, labels, ink, [hard]), Printing([Wash(tone=True)], *given))
    separate(Piece(labels, labels, ink, [hard]), Printing([Wash(color=(9, 9, 90), strength=0.0)], *given))
    assert not asked, "flats, hard shadows and hidden passes need none"
    separate(Piece(labels, labels, ink, [hard]), Printing([Wash(color=(9, 9, 90))], *given))
    assert asked == ["inks"]


def test_a_ramp_runs_along_what_a_hand_drew_and_does_not_care_how_it_is_cut_up() -> None:
    stops = Stop(0, "#000000"), Stop(1, "#ffffff")
    angle = np.linspace(0, np.pi, 400)
    drawn = np.column_stack([60 - 40 * np.sin(angle), 60 - 40 * np.cos(angle)])
    line = path_of(drawn)
    assert 5 < len(line) <= 32
    ramp = Ramp(line[0], line[-1], stops, "along", line[1:-1])
    color, cover = ramp_at(ramp, 0, 0, (100, 120))
    for share in (0.1, 0.25, 0.5, 0.75, 0.9):
        row, col = drawn[round(share * 399)].round().astype(int)
        for out in (0.6, 1.0, 1.25):  # also beside the line
            r, c = round(60 + (row - 60) * out), round(60 + (col - 60) * out)
            assert abs(int(color[r, c, 0]) - 255 * share) < 8, (share, out)
    part, _ = ramp_at(ramp, 17, 31, (40, 50))
    assert np.array_equal(part, color[17:57, 31:81])
    coarse, _ = ramp_at(ramp, 0, 0, (50, 60), 2)
    assert np.abs(coarse[10:20, 10:50, 0].astype(int) - color[20:40:2, 20:100:2, 0]).max() <= 12
    assert (cover == 255).all()
    for bad in (tuple((float(k), 0.0) for k in range(40)), ((np.nan, 0.0),)):
        with pytest.raises(BadInput):
            Ramp((0.0, 0.0), (9.0, 9.0), stops, "along", bad)


def test_a_ramp_runs_from_stop_to_stop_and_does_not_care_how_it_is_cut_up() -> None:
    ramp = Ramp((10.0, 0.0), (110.0, 0.0), (Stop(0, "#000000"), Stop(0.5, "#c80000", 0.5), Stop(1, "#ffffff", 0.0)))
    color, cover = ramp_at(ramp, 0, 0, (140, 3))
    assert color[10].tolist() == [[0, 0, 0]] * 3
    assert np.abs(color[35, 0].astype(int) - [100, 0, 0]).max() <= 1
    assert np.abs(color[60, 0].astype(int) - [200, 0, 0]).max() <= 1
    assert np.abs(cover[[0, 60, 139], 1].astype(int) - [255, 128, 0]).max() <= 1
    assert color[139, 0].tolist() == [255, 255, 255]
    part, share = ramp_at(ramp, 30, 1, (50, 2))
    assert np.array_equal(part, color[30:80, 1:])
    assert np.array_equal(share, cover[30:80, 1:])
    ring, _ = ramp_at(Ramp((50.0, 50.0), (50.0, 90.0), ramp.stops, "radial"), 0, 0, (101, 101))
    assert (
        np.abs(ring[50, 90].astype(int) - ring[50, 10]).max()
        == np.abs(ring[90, 50].astype(int) - ring[50, 10]).max()
        == 0
    )
    assert (ramp_at(Ramp((5.0, 5.0), (5.0, 5.0), ramp.stops), 0, 0, (4, 4))[0] == 255).all(), "one of no length"
    for bad in (ramp.stops[:1], ramp.stops[::-1], (Stop(0, "red"), Stop(1, "#ffffff"))):
        with pytest.raises(BadInput):
            Ramp((0.0, 0.0), (1.0, 1.0), bad)


def test_a_finish_does_what_its_numbers_say() -> None:
    grey = np.repeat(np.arange(256, dtype=np.uint8)[:, None], 3, axis=1)
    assert np.array_equal(finished(grey, Finish()), grey), "nothing set changes nothing"
    levels = finished(grey, Finish(dark=51, light=204))
    assert (levels[[51, 204, 128], 0] == [0, 255, 128]).all()
    curved = finished(grey, Finish(curve=((0.0, 0.0), (0.5, 0.75), (1.0, 1.0))))
    assert np.abs(curved[[64, 128, 191], 0].astype(int) - [96, 191, 223]).max() <= 1
    warm = finished(grey, Finish(lights=1.0)).astype(int)
    assert (warm[20] == 20).all()
    assert warm[220, 0] > 220 > warm[220, 2]
    assert len(np.unique(finished(grey, Finish(steps=5)))) == 5
    red = np.array([[200, 60, 50]], np.uint8)
    assert np.ptp(finished(red, Finish(chroma=0.0)).astype(int)) <= 1, "no colour is left"
    turned = finished(red, Finish(hue_deg=120)).astype(int)[0]
    assert turned[1] > turned[0]
    lightness = [float(srgb8_to_oklab(c)[0, 0]) for c in (red, finished(red, Finish(hue_deg=20)))]
    assert lightness[0] == pytest.approx(lightness[1], abs=0.02)
    for bad in ({"dark": 9, "light": 9}, {"steps": 1}, {"curve": ((0.5, 0.1), (0.2, 0.3))}, {"chroma": 9.0}):
        with pytest.raises(BadInput):
            Finish(**bad)


def test_values_take_colours_and_local_colours_are_glazed_over() -> None:
    labels = np.array([[1, 2]], np.int32)
    colors = colors_of((30, 30, 30), (240, 240, 240))
    piece = Piece(labels, labels, np.zeros((1, 2), np.uint8), [None])
    ramp = ToneRamp((Stop(0, "#200060"), Stop(1, "#fff0c0")))
    out = compose(piece, [Wash(source=ramp)], colors)
    assert out[0, 0, 2] > out[0, 0, 1], "darks go blue"
    assert out[0, 1, 0] > out[0, 1, 2], "lights go warm"
    same = ToneRamp((Stop(0, "#200060", 0.0), Stop(1, "#fff0c0", 0.0)))
    assert np.array_equal(compose(piece, [Wash(source=same)], colors), compose(piece, [], colors))
    grey = Ramp((0, 0), (1, 0), (Stop(0, "#808080"), Stop(1, "#808080")))
    piece = Piece(labels, labels, np.zeros((1, 2), np.uint8), [None, None])
    out = compose(piece, [Wash(source=grey), Wash(mode="multiply", source=Local())], colors)
    assert out[0, :, 0].tolist() == [round(30 * 128 / 255), round(240 * 128 / 255)]


@given(st.integers(0, 40), st.integers(0, 40), st.sampled_from([1, 2]))
def test_a_softened_finish_is_alike_in_pieces_and_keeps_what_is_even(row: int, col: int, step: int) -> None:
    rng = np.random.default_rng(7)
    pixels = np.repeat(np.repeat(rng.integers(0, 256, (12, 12, 4), np.uint8), 6, 0), 6, 1)
    finish = Finish(soften=0.6, soften_px=3.0)
    reach = finish.reach(step)
    whole = softened(pixels, finish, step)
    top, left = max(0, row - reach), max(0, col - reach)
    piece = softened(pixels[top:, left:], finish, step)[row - top :, col - left :]
    assert np.array_equal(piece, whole[row:, col:])
    assert not np.array_equal(whole, pixels)
    even = np.full((20, 20, 4), 90, np.uint8)
    assert np.array_equal(softened(even, finish, step), even)
    assert np.array_equal(softened(pixels, Finish(), step), pixels)


@pytest.mark.parametrize("mode", sorted(QUICK))
def test_quick_modes_blend_every_pair_of_values_as_the_others_do(mode: str) -> None:
    under, over = (np.repeat(plane.reshape(-1, 1), 3, axis=1).astype(np.uint8) for plane in np.indices((256, 256)))
    assert np.array_equal(QUICK[mode](under, over), blended8(mode, under, over))


@pytest.mark.parametrize("mode", SUMS)
def test_modes_that_add_are_cut_off_only_after_they_were_mixed(mode: str) -> None:
    rng = np.random.default_rng(4)
    under, over = (rng.integers(0, 256, (40, 50, 4), np.uint8) for _ in range(2))
    cover = rng.integers(0, 256, (40, 50), np.uint8)
    b, s, a = under[..., :3] / 255, over[..., :3] / 255, cover[..., None] / 255
    change = {"plus-lighter": s, "plus-darker": s - 1, "linear-light": 2 * s - 1}[mode]
    wanted = np.clip(b + a * change, 0, 1) * 255
    assert np.abs(summed(mode, under, np.ascontiguousarray(over[..., :3]), cover)[..., :3] - wanted).max() <= 1
    piece = Piece(np.ones((40, 50), np.int32), np.ones((40, 50), np.int32), np.zeros((40, 50), np.uint8), [cover])
    colors = Colors(np.array([[255] * 4, [90, 180, 30, 255]] * 2, np.uint8), np.zeros((2, 4), np.uint8))
    flat, _ = flats_of(piece, [Wash(color=(200, 100, 60), mode=mode)], colors)
    lone = summed(mode, np.full((40, 50, 4), (90, 180, 30, 255), np.uint8), np.array((200, 100, 60), np.uint8), cover)
    assert np.array_equal(flat, lone)


def test_stairs_of_hard_edges_become_the_cover_they_stand_for() -> None:
    far = np.zeros((8 * 120, 8 * 160, 3), np.uint8) + np.array([240, 230, 200], np.uint8)
    cv2.circle(far, (320, 480), 270, (200, 60, 40), -1)
    cv2.fillPoly(far, [np.array([[700, 900], [1240, 170], [1250, 920]])], (40, 80, 160))
    far[40:80, 8:1000] = (30, 140, 60)
    true = cv2.resize(far, (160, 120), interpolation=cv2.INTER_AREA).astype(int)
    hard = np.ascontiguousarray(far[4::8, 4::8])
    smooth = smooth_edges(hard).astype(int)
    edge = np.abs(true - hard).max(axis=2) > 0
    one, two = (np.sqrt(((seen - true)[edge] ** 2).mean()) for seen in (hard.astype(int), smooth))
    assert two < 0.75 * one
    assert np.array_equal(smooth[:14, 5:110], hard[:14, 5:110]), "upright and level edges stay"
    soft = cv2.GaussianBlur(hard, (0, 0), 6)
    assert np.array_equal(smooth_edges(soft), soft), "what is soft stays"
