# SPDX-License-Identifier: GPL-3.0-or-later
"""Shade, holds and rendering: hard edges, exact colours, lines that belong to something."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.core.arrays import U8
from drip_pot.core.errors import BadInput
from drip_pot.core.regions import find_atoms
from drip_pot.core.render import (
    Colors,
    LineWash,
    Piece,
    Wash,
    WashForm,
    compose,
    label_pyramid,
    level_for,
    plane_pyramid,
    take_colors,
)
from drip_pot.core.render.paint import mix_line
from drip_pot.core.shade import cut, loop_mask
from tests.conftest import two_rooms

points = st.lists(st.tuples(st.floats(-20, 120), st.floats(-20, 120)), min_size=3, max_size=30)


@given(points)
def test_a_loop_is_hard_edged_and_inside_its_rectangle(loop: list[tuple[float, float]]) -> None:
    rect, mask = loop_mask(loop, (100, 90))
    top, left, bottom, right = rect
    assert 0 <= top <= bottom <= 100
    assert 0 <= left <= right <= 90
    assert mask.shape == (bottom - top, right - left)
    assert mask.dtype == bool


def test_a_square_loop_fills_a_square() -> None:
    (top, left, bottom, right), mask = loop_mask([(10, 20), (10, 40), (30, 40), (30, 20)], (100, 100))
    assert (top, left, bottom, right) == (10, 20, 31, 41)
    assert mask.all()


@pytest.mark.parametrize("loop", [[], [(1, 1), (2, 2)], [(0, 0), (1, float("nan")), (2, 2)]])
def test_too_little_of_a_loop_is_refused(loop: list[tuple[float, float]]) -> None:
    with pytest.raises(BadInput, match="at least three points"):
        loop_mask(loop, (50, 50))


@given(st.integers(0, 1000), st.booleans())
def test_cuts_stay_inside_the_colour_and_undo_each_other(seed: int, light: bool) -> None:
    rng = np.random.default_rng(seed)
    shade, mask, allowed = (rng.integers(0, 2, (20, 20)).astype(k) for k in (np.uint8, bool, bool))
    out = cut(shade, mask, allowed, light=light)
    assert set(np.unique(out)) <= {0, 1, 255}
    assert (out[mask & allowed] == (0 if light else 255)).all()
    assert np.array_equal(out[~(mask & allowed)], shade[~(mask & allowed)])


def colors_of(*rgb: tuple[int, int, int], line: tuple[int, int, int] = (0, 0, 0)) -> Colors:
    local = np.array([(255, 255, 255), *rgb], np.uint8)
    shadow = local // 2
    full = [np.column_stack([t, np.full(len(t), 255, np.uint8)]) for t in (local, shadow)]
    lines = np.tile(np.array([*line, 255], np.uint8), (len(local), 1))
    return Colors(np.concatenate(full), lines)


@given(st.integers(0, 1000))
def test_a_flat_has_exactly_its_pots_colours(seed: int) -> None:
    rng = np.random.default_rng(seed)
    labels = rng.integers(1, 4, (17, 23)).astype(np.int32)
    shade = rng.integers(0, 2, labels.shape).astype(np.uint8)
    colors = colors_of((200, 40, 10), (10, 90, 200), (30, 160, 60))
    table = colors.flat.view(np.uint8).reshape(2, -1, 4)
    flat = take_colors(labels, shade, colors.flat)
    assert np.array_equal(flat, table[shade, labels])
    assert np.array_equal(take_colors(labels, None, colors.flat), table[0, labels])


def test_line_is_laid_over_by_its_coverage() -> None:
    labels = np.ones((1, 3), np.int32)
    ink = np.array([[0, 51, 255]], np.uint8)
    piece, colors = Piece(labels, labels, ink), colors_of((100, 200, 50))
    out = compose(piece, [], colors)
    assert out[0, :, 0].tolist() == [100, 80, 0]
    assert (out[..., 3] == 255).all()
    assert np.array_equal(compose(piece, [], colors, lines=False)[0, 2, :3], [100, 200, 50])


@given(st.integers(0, 255), st.integers(0, 255), st.integers(0, 255))
def test_mixing_rounds_to_the_nearest(flat: int, line: int, ink: int) -> None:
    planes = [np.full((1, 1, 4), v, np.uint8) for v in (flat, line)]
    mixed = int(mix_line(planes[0], np.zeros(1, np.int64), np.array([ink], np.uint16), planes[1][0])[0, 0, 0])
    assert abs(mixed - (flat + (line - flat) * ink / 255)) <= 0.5


def test_pyramids_keep_labels_pure_and_planes_averaged() -> None:
    labels = find_atoms(two_rooms(rows=900, cols=1000)).labels
    for level, small in enumerate(label_pyramid(labels)):
        assert set(np.unique(small)) <= set(np.unique(labels))
        assert small.shape == (-(-900 >> level), -(-1000 >> level)) or level > 0
    checks = np.indices((800, 800)).sum(axis=0) % 2 * 255
    assert plane_pyramid(checks.astype(np.uint8))[1][5, 5] in (127, 128)


@pytest.mark.parametrize(("zoom", "level"), [(4, 0), (1, 0), (0.6, 0), (0.5, 1), (0.25, 2), (0.01, 3)])
def test_a_level_is_never_coarser_than_the_screen(zoom: float, level: int) -> None:
    assert level_for(zoom, 4) == level


def washed(form: WashForm = "color", share: int | None = None, amount: int = 255) -> U8:
    """Return three pixels of black line on grey, the middle one under a wash of blue."""
    labels, ink = np.ones((1, 3), np.int32), np.full((1, 3), 255, np.uint8)
    rows = np.array([[0, 1, 0]], np.int32)
    blue = np.tile(np.array([0, 0, 200, 255], np.uint8), (2, 1))
    wash = LineWash(1, np.array([0, amount], np.uint8), blue, blue, form)
    shares = [None if share is None else np.full((1, 3), share, np.uint8)]
    return compose(Piece(labels, rows, ink, shares=shares), [], colors_of((100, 100, 100)), (wash,))[0, :, :3]


def test_a_wash_colours_its_rows_of_the_line_alone_and_by_its_marks() -> None:
    assert washed().tolist() == [[0, 0, 0], [0, 0, 200], [0, 0, 0]]
    assert washed(share=0).max() == 0, "all of it was taken out"
    assert washed(share=128)[1].tolist() == [0, 0, 100]
    assert washed(amount=51)[1, 2] == 40


def test_a_line_left_out_shows_what_is_beneath_or_paper() -> None:
    assert washed("beneath")[1].tolist() == [100, 100, 100]
    assert washed("paper")[1].tolist() == [255, 255, 255]
    assert washed("beneath", share=128)[1, 0] in (50, 51)


def test_a_line_over_soft_shade_stays_darker_than_it() -> None:
    labels, ink = np.ones((1, 2), np.int32), np.array([[255, 0]], np.uint8)
    colors = colors_of((200, 120, 60), line=(120, 60, 30))
    follows = replace(colors, follows=np.ones(2, bool))
    piece = Piece(labels, labels, ink, [np.full((1, 2), 255, np.uint8)])
    wash = Wash(color=(90, 90, 160), mode="multiply")
    shaded, plain = compose(piece, [wash], follows), compose(piece, [wash], colors)
    assert plain[0, 0, 0] == 120 > shaded[0, 1, 0], "a plain line keeps its colour"
    assert shaded[0, 0, 0] < shaded[0, 1, 0]
