# SPDX-License-Identifier: GPL-3.0-or-later
"""Choosing colours: mosaic, telling colours, harmony, mixing, nearest inks."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.core.color import (
    HARMONIES,
    Lch,
    delta_e,
    from_lch,
    harmony,
    mixed,
    mosaic,
    most_chroma,
    nearest,
    plain_name,
    shifted,
    srgb8_to_oklab,
    telling_colors,
    to_lch,
)
from drip_pot.core.errors import BadInput

rgb = st.tuples(*[st.integers(0, 255)] * 3)


@given(rgb)
def test_lightness_chroma_and_hue_go_there_and_back(color: tuple[int, int, int]) -> None:
    assert np.abs(from_lch(to_lch(color)).astype(int) - color).max() <= 1


@given(st.floats(0.05, 0.95), st.floats(0, 360))
def test_the_edge_of_srgb_is_reached_and_not_passed(light: float, hue: float) -> None:
    edge = float(most_chroma(light, hue))
    inside = to_lch(from_lch(Lch(light, 0.9 * edge, hue)))
    assert inside.chroma == pytest.approx(0.9 * edge, abs=0.01)
    outside = to_lch(from_lch(Lch(light, 1.5 * edge + 0.05, hue)))
    assert outside.chroma == pytest.approx(edge, abs=0.01)


def test_a_mosaic_averages_light_not_numbers() -> None:
    picture = np.zeros((40, 80, 3), np.uint8)
    picture[:, ::2] = 255
    cells = mosaic(picture, 2)
    assert cells.shape == (1, 2, 3)
    assert abs(int(cells[0, 0, 0]) - 188) <= 1, "half the light is 188, not 127"
    assert np.array_equal(mosaic(picture[:3, :3], 64), picture[:3, :3]), "never finer than the picture"
    with pytest.raises(BadInput, match="at least one cell"):
        mosaic(picture, 0)


def test_telling_colours_are_those_that_were_painted_commonest_first() -> None:
    rng = np.random.default_rng(1)
    inks = np.array([[220, 80, 50], [40, 90, 170], [240, 230, 200]])
    picture = np.repeat(inks, [5000, 3000, 1000], axis=0).reshape(90, 100, 3)
    noisy = np.clip(picture + rng.integers(-6, 7, picture.shape), 0, 255).astype(np.uint8)
    chosen = telling_colors(noisy, 3)
    away = [float(delta_e(srgb8_to_oklab(a), srgb8_to_oklab(b))) for a, b in zip(chosen, inks, strict=True)]
    assert max(away) < 1.5
    assert np.array_equal(chosen, telling_colors(noisy, 3)), "the same seed gives the same colours"
    assert len(telling_colors(picture.astype(np.uint8), 8)) == 3, "no more than there are"
    with pytest.raises(BadInput, match="1 to 64"):
        telling_colors(noisy, 0)


def test_harmony_turns_the_hue_and_mixing_goes_from_one_to_the_other() -> None:
    blue = (60, 110, 160)
    for kind, turns in HARMONIES.items():
        for color, turn in zip(harmony(blue, kind), turns, strict=True):
            away = (to_lch(color).hue_deg - to_lch(blue).hue_deg - turn + 180) % 360 - 180
            assert abs(away) < 6, kind
    assert mixed(blue, (255, 255, 255), 0.0).tolist() == list(blue)
    assert mixed(blue, (255, 255, 255), 1.0).tolist() == [255, 255, 255]
    assert to_lch(shifted(blue, 0.1, 1.0, 0.0)).lightness == pytest.approx(to_lch(blue).lightness + 0.1, abs=0.01)
    assert to_lch(shifted(blue, 0.0, 0.0, 90.0)).chroma < 0.01


def test_the_nearest_ink_is_told_with_its_distance() -> None:
    inks = [(255, 0, 0), (0, 0, 255), (250, 10, 10)]
    assert nearest((252, 8, 8), inks)[0] == 2
    assert nearest((0, 0, 255), inks) == (1, pytest.approx(0.0, abs=1e-9))
    with pytest.raises(BadInput, match="no inks"):
        nearest((0, 0, 0), [])


@pytest.mark.parametrize(
    ("color", "name"),
    [((255, 255, 255), "white"), ((0, 0, 0), "black"), ((128, 128, 128), "grey"), ((20, 60, 160), "dark blue"),
     ((250, 235, 120), "pale yellow"), ((110, 70, 40), "brown")],
)  # fmt: skip
def test_colours_are_named_plainly(color: tuple[int, int, int], name: str) -> None:
    assert plain_name(color).removeprefix("deep ").removeprefix("dark ") == name.removeprefix("dark ")
