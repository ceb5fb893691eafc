# SPDX-License-Identifier: GPL-3.0-or-later
"""Colour: conversions that come back, tone pairs that are darker and turn the right way."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.core.color import (
    ToneRule,
    darkened,
    delta_e,
    from_hex,
    linear_to_srgb,
    oklab_to_srgb8,
    shadow_of,
    shadows_together,
    srgb8_to_oklab,
    srgb_to_linear,
    to_hex,
)
from drip_pot.core.errors import BadInput

colors = st.tuples(*[st.integers(0, 255)] * 3).map(lambda c: np.array(c, np.uint8))


@given(colors)
def test_conversions_come_back_exactly(rgb: np.ndarray) -> None:
    assert np.array_equal(oklab_to_srgb8(srgb8_to_oklab(rgb)), rgb)
    assert np.array_equal(from_hex(to_hex(rgb)), rgb)
    unit = rgb / 255
    assert np.allclose(linear_to_srgb(srgb_to_linear(unit)), unit)


@pytest.mark.parametrize(
    ("rgb", "lab"), [((255, 255, 255), (1, 0, 0)), ((255, 0, 0), (0.6280, 0.2249, 0.1258)), ((0, 0, 0), (0, 0, 0))]
)
def test_published_oklab_values(rgb: tuple[int, ...], lab: tuple[float, ...]) -> None:
    assert np.allclose(srgb8_to_oklab(np.array(rgb, np.uint8)), lab, atol=2e-4)


@given(colors, st.floats(5, 40), st.floats(0, 360))
def test_a_shadow_is_darker_by_so_much(rgb: np.ndarray, step: float, hue: float) -> None:
    rule = ToneRule(darker_l=step, hue_deg=hue)
    local, shadow = float(srgb8_to_oklab(rgb)[0]), float(srgb8_to_oklab(shadow_of(rgb, rule))[0])
    wanted = max(min(local, 0.10), local - step / 100)
    assert abs(shadow - wanted) < 0.012


def test_a_shadow_turns_towards_its_hue_by_the_shorter_way() -> None:
    def hue(rgb: np.ndarray) -> float:
        _, a, b = srgb8_to_oklab(rgb)
        return float(np.degrees(np.arctan2(b, a)) % 360)

    straw = from_hex("#f1dfae")
    towards_red = shadow_of(straw, ToneRule(hue_deg=20))
    towards_green = shadow_of(straw, ToneRule(hue_deg=150))
    assert hue(towards_red) < hue(straw) < hue(towards_green)


@given(colors, st.floats(0, 1))
def test_a_held_line_is_never_lighter_than_its_colour(rgb: np.ndarray, amount: float) -> None:
    assert srgb8_to_oklab(darkened(rgb[None], amount)[0])[0] <= srgb8_to_oklab(rgb)[0] + 0.004
    assert not darkened(rgb[None], 1.0).any()


@pytest.mark.parametrize("bad", ["", "red", "#12345", "#1234567", "#12g456"])
def test_bad_digits_are_explained(bad: str) -> None:
    with pytest.raises(BadInput, match="is not a colour"):
        from_hex(bad)


@given(st.integers(0, 5000), st.integers(2, 24))
def test_shadows_worked_out_together_keep_their_distance_and_the_order_of_values(seed: int, count: int) -> None:
    rng = np.random.default_rng(seed)
    local = rng.integers(30, 250, (count, 3)).astype(np.uint8)
    rule = ToneRule(apart_de=2.0)
    shadow = shadows_together(local, [rule] * count)
    lab, dark = srgb8_to_oklab(local), srgb8_to_oklab(shadow)
    assert (dark[:, 0] < lab[:, 0]).all()
    for a in range(count):
        lighter = lab[:, 0] > lab[a, 0] + 0.02
        assert (dark[lighter, 0] >= dark[a, 0] - 0.006).all()
    if count <= 8:
        others = ~np.eye(count, dtype=bool)
        near = delta_e(dark[:, None], lab[None])[others]
        alone = [shadow_of(color, rule) for color in local]
        before = delta_e(srgb8_to_oklab(np.array(alone))[:, None], lab[None])[others]
        assert (near >= 1.9).sum() >= (before >= 1.9).sum()


def test_a_warm_key_light_cools_every_shadow_and_darks_do_not_fall_to_black() -> None:
    grey = np.array([150, 150, 150], np.uint8)
    plain = srgb8_to_oklab(shadow_of(grey, ToneRule(tint=0.0)))
    warm = srgb8_to_oklab(shadow_of(grey, ToneRule(tint=0.0, key="#ffb040")))
    assert warm[2] < plain[2] - 0.005, "bluer"
    coat = np.array([40, 34, 50], np.uint8)
    alone, together = (srgb8_to_oklab(shadow_of(coat, ToneRule(apart_de=d)))[0] for d in (0, 3))
    assert together > alone + 0.02
    assert together < srgb8_to_oklab(coat)[0] - 0.03
