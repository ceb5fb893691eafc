# SPDX-License-Identifier: GPL-3.0-or-later
"""Pictures laid on a page: where their corners are, pieces alike, meshes without seams; reduced to flats."""

import msgspec
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from drip_pot.core.color import reduce_picture
from drip_pot.core.errors import BadInput
from drip_pot.core.render import PictureSource, Placed, laid_in, meshed, picture_at, picture_levels

PAGE = (120, 90)


def gradient(high: int = 60, wide: int = 80) -> np.ndarray:
    rows, cols = np.mgrid[0:high, 0:wide]
    return np.dstack([rows * 4, cols * 3, np.full((high, wide), 90)]).astype(np.uint8)


def source(placed: Placed, opacity: np.ndarray | None = None) -> PictureSource:
    return PictureSource(placed, picture_levels(gradient(), opacity))


def test_a_picture_lies_where_its_corners_are_pixel_for_pixel() -> None:
    placed = Placed(1, ((9.5, 4.5), (9.5, 84.5), (69.5, 4.5), (69.5, 84.5)))
    color, cover = picture_at(source(placed), 0, 0, PAGE)
    assert np.array_equal(color[10:70, 5:85], gradient())
    assert (cover[10:70, 5:85] == 255).all()
    assert cover.sum() == 255 * 60 * 80, "and nowhere else"


@settings(max_examples=30, deadline=None)
@given(st.lists(st.tuples(st.floats(-40, 160), st.floats(-40, 130)), min_size=4, max_size=4), st.integers(1, 3),
       st.integers(1, 40), st.integers(1, 40))  # fmt: skip
def test_pieces_of_any_size_come_out_as_the_whole(grid, cells: int, row: int, col: int) -> None:
    placed = meshed(Placed(1, tuple(grid)), cells, cells) if cells > 1 else Placed(1, tuple(grid))
    made = source(placed, np.tile(np.arange(0, 240, 3, dtype=np.uint8), (60, 1)))
    color, cover = picture_at(made, 0, 0, PAGE)
    high, wide = PAGE[0] - row, PAGE[1] - col
    piece, part = picture_at(made, row, col, (high, wide))
    assert np.array_equal(piece, color[row:, col:])
    assert np.array_equal(part, cover[row:, col:])


def test_a_mesh_lies_as_the_picture_did_until_a_point_is_pulled_and_has_no_seams() -> None:
    plain = Placed(1, ((10, 5), (10, 85), (110, 5), (110, 85)))
    mesh = meshed(plain, 4, 4)
    (one, a), (two, b) = (picture_at(source(p), 0, 0, PAGE) for p in (plain, mesh))
    assert np.abs(one.astype(int) - two).max() <= 1
    assert np.array_equal(a, b)
    points = list(mesh.grid)
    points[12] = (points[12][0] + 8, points[12][1] - 6)
    pulled, cover = picture_at(source(msgspec.structs.replace(mesh, grid=tuple(points))), 0, 0, PAGE)
    assert np.array_equal(cover, b), "its edge stays"
    assert not np.array_equal(pulled, two)
    steps = np.abs(np.diff(pulled[12:108, 8:82].astype(int), axis=1)).max()
    assert steps < 12, "a run of colour stays one"


def test_a_pattern_repeats_without_end_as_far_as_its_horizon() -> None:
    tile = Placed(1, ((9.5, 4.5), (9.5, 84.5), (69.5, 4.5), (69.5, 84.5)), repeats=True)
    color, cover = picture_at(source(tile), 0, 0, (200, 300))
    assert (cover == 255).all()
    assert np.array_equal(color[10:70, 5:85], gradient()), "one repeat is the picture"
    assert np.array_equal(color[70:130, 85:165], color[10:70, 5:85])
    assert np.array_equal(color[70:130, 165:245], color[10:70, 5:85])
    piece, _ = picture_at(source(tile), 33, 71, (50, 60))
    assert np.array_equal(piece, color[33:83, 71:131])
    leaning = Placed(1, ((80.0, 60.0), (80.0, 90.0), (120.0, 10.0), (120.0, 140.0)), repeats=True)
    _, floor = picture_at(source(leaning), 0, 0, (200, 150))
    assert not floor[:60].any(), "nothing beyond the horizon"
    assert (floor[80:] == 255).all()
    for bad in (((0, 0), (9, 9), (0, 9), (9, 0)), tuple((float(k), 0.0) for k in range(4))):
        with pytest.raises(BadInput):
            Placed(1, bad, repeats=True)
    with pytest.raises(BadInput):
        meshed(tile, 3, 3)


def test_far_off_flat_and_folded_pictures_are_drawn_or_refused_in_words() -> None:
    for grid in (((5, 5),) * 4, ((900, 900), (900, 990), (990, 900), (990, 990)), ((0, 0), (90, 80), (90, 0), (0, 80))):
        color, cover = picture_at(source(Placed(1, grid)), 0, 0, PAGE, 2)
        assert color.shape == (*PAGE, 3)
        assert cover.shape == PAGE
    dot = PictureSource(Placed(1, laid_in((1, 1), PAGE)), picture_levels(np.full((1, 1, 3), 77, np.uint8)))
    assert (picture_at(dot, 0, 0, PAGE)[0][60, 45] == 77).all()
    with pytest.raises(BadInput, match="4 points"):
        Placed(1, ((0, 0), (0, 9)))
    with pytest.raises(BadInput, match="1 to 8 cells"):
        Placed(1, ((0.0, 0.0),) * 20, across=9, down=1)
    with pytest.raises(BadInput, match="on the page"):
        Placed(1, ((0, 0), (0, float("nan")), (9, 0), (9, 9)))


def test_a_photograph_becomes_a_few_flats_with_a_line_round_them() -> None:
    rng = np.random.default_rng(2)
    rows, cols = np.mgrid[0:160, 0:200]
    truth = (np.hypot(rows - 80, cols - 100) < 50).astype(int)
    photo = np.array([[200, 180, 140], [60, 80, 130]])[truth] + rng.normal(0, 9, (160, 200, 3))
    photo = np.clip(photo, 0, 255).astype(np.uint8)
    flat = reduce_picture(photo, 2)
    colors, where = np.unique(flat.reshape(-1, 3), axis=0, return_inverse=True)
    assert len(colors) == 2
    found = where.reshape(160, 200)
    assert max((found == truth).mean(), (found != truth).mean()) > 0.99, "no specks, the edge where it was"
    lined = reduce_picture(photo, 2, 3.0)
    line = (lined == 0).all(axis=2)
    assert abs(line.sum() / (2 * np.pi * 50) - 3) < 1.5, "a line about three pixels wide round the disc"
    assert reduce_picture(photo[:1, :1], 4).shape == (1, 1, 3)
    for wrong in (1, 65):
        with pytest.raises(BadInput, match="2 to 64 flats"):
            reduce_picture(photo, wrong)
