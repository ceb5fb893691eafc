# SPDX-License-Identifier: GPL-3.0-or-later
"""Soft strokes: bounded, softer outwards, laid and wiped off again."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.core.errors import BadInput
from drip_pot.core.shade import laid, mist


def test_a_soft_stroke_falls_off_from_its_middle_and_does_not_build_up() -> None:
    rect, cover = mist([(50, 20), (50, 80), (50, 20)], 40, 1.0, 0.5, (100, 100))
    row = cover[:, 50 - rect[1]]
    middle = 50 - rect[0]
    assert row[middle] == cover.max() == 128
    assert (np.diff(row[middle:].astype(int)) <= 0).all()
    assert row[0] == row[-1] == 0
    hard = mist([(50, 20), (50, 80)], 40, 0.0, 1.0, (100, 100))[1]
    assert set(np.unique(hard[:, 40])) <= {0, 255}
    light = mist([(50, 20, 0.5), (50, 80, 0.5)], 40, 1.0, 1.0, (100, 100))[1]
    assert 0 < light.max() <= 128, "a light hand lays less"


@given(st.lists(st.tuples(st.floats(-90, 190), st.floats(-90, 190)), min_size=1, max_size=5), st.floats(1, 300))
def test_strokes_stay_on_the_page_wherever_the_hand_goes(points: list[tuple[float, float]], width: float) -> None:
    (top, left, bottom, right), cover = mist(points, width, 0.7, 0.8, (100, 90))
    assert 0 <= top <= bottom <= 100
    assert 0 <= left <= right <= 90
    assert cover.shape == (bottom - top, right - left)


@given(st.integers(0, 255), st.integers(0, 255))
def test_laying_never_lightens_and_wiping_never_darkens(before: int, cover: int) -> None:
    a, b = np.full((1, 1), before, np.uint8), np.full((1, 1), cover, np.uint8)
    assert laid(a, b, away=False) >= max(before, cover)
    assert laid(a, b, away=True) <= before
    assert laid(laid(a, np.full_like(b, 255), away=False), np.full_like(b, 255), away=True) == 0


@pytest.mark.parametrize(
    ("points", "width", "flow"),
    [([], 10, 0.5), ([(float("inf"), 1)], 10, 0.5), ([(1, 1)], 0, 0.5), ([(1, 1)], 10, 0.0), ([(1, 1, 1, 1)], 10, 0.5)],
)
def test_impossible_strokes_are_refused(points: list[tuple[float, ...]], width: float, flow: float) -> None:
    with pytest.raises(BadInput):
        mist(points, width, 0.5, flow, (50, 50))
