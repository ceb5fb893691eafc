"""Shade, holds and rendering: hard edges, exact colours, lines that belong to something."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.core.errors import BadInput
from drip_pot.core.holds import frame_line, line_atoms
from drip_pot.core.regions import find_atoms
from drip_pot.core.render import (
    Colors,
    Piece,
    compose,
    label_pyramid,
    level_for,
    mix_line,
    plane_pyramid,
    take_colors,
)
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
    mixed = int(mix_line(planes[0], np.array([[ink]], np.uint8), planes[1])[0, 0, 0])
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


def test_a_held_line_belongs_to_its_part_over_its_whole_width() -> None:
    ink = two_rooms()
    atoms = find_atoms(ink)
    left, right = int(atoms.labels[100, 80]), int(atoms.labels[100, 220])
    chosen = np.zeros(atoms.count + 1, bool)
    chosen[left] = True
    found = line_atoms(atoms.labels, ink, chosen, atoms.line_px)
    assert (found[100, 146:154][ink[100, 146:154] > 0] == left).all(), "the wall takes the colour of the left room"
    assert found[100, 275] == right, "a wall that does not border the left room stays"
    assert np.array_equal(found[ink == 0], atoms.labels[ink == 0])


def test_nothing_held_costs_nothing_and_solid_blacks_stay() -> None:
    ink = two_rooms()
    cv2.circle(ink, (80, 100), 34, 255, -1)
    atoms = find_atoms(ink)
    none = np.zeros(atoms.count + 1, bool)
    assert line_atoms(atoms.labels, ink, none, atoms.line_px) is atoms.labels
    none[atoms.labels[40, 40]] = True
    found = line_atoms(atoms.labels, ink, none, atoms.line_px)
    assert found[100, 80] == atoms.labels[100, 80]
    frames = frame_line(atoms.labels, np.arange(atoms.count + 1) == atoms.labels[2, 2], atoms.line_px)
    found = line_atoms(atoms.labels, ink, none, atoms.line_px, 9999, frames)
    assert (found[frames & (ink > 0)] == 9999).all(), "a frame takes no hold"
    assert found[100, 80] == 9999, "nor does solid black"
    assert (found[60:70, 146:154][ink[60:70, 146:154] > 0] == atoms.labels[40, 40]).all(), "the wall within it does"
