# SPDX-License-Identifier: GPL-3.0-or-later
"""Shadows of a whole palette, worked out together. Knows the colour spaces and the tone rule only."""

from functools import lru_cache

import numpy as np

from drip_pot.core.arrays import F64, U8
from drip_pot.core.color.space import oklab_to_srgb8, srgb8_to_oklab
from drip_pot.core.color.tone import ToneRule, shadow_of

_LIGHTER = np.arange(-9, 9.5, 0.5) / 100
_TURNS = np.radians([0, 5, -5, 10, -10, 16, -16])
_TURN_COST = 0.12  # of a degree, against a hundredth of lightness
_LEAST_STEP = 0.035
_SAME_L = 0.02


def shadows_together(local: U8, rules: list[ToneRule]) -> U8:
    """Return the shadows of a palette, so that none looks like another colour in the light.

    Parameters
    ----------
    local : (N, 3) ndarray of uint8
        Local colours, sRGB.
    rules : list of ToneRule
        The rule of each; `apart_de` says how far, in OKLab × 100, its shadow stays from every other local colour.

    Returns
    -------
    (N, 3) ndarray of uint8

    Notes
    -----
    From the lightest colour to the darkest, each takes the shadow nearest to what its rule asks for that keeps away
    from the other local colours and is no lighter than the shadows of lighter colours; where none does, the one that
    keeps farthest away.
    """
    if len(local) == 0:
        return np.zeros_like(local)
    lab = srgb8_to_oklab(local)
    wanted = srgb8_to_oklab(np.array([_alone(*color, rule) for color, rule in zip(local.tolist(), rules, strict=True)]))
    asked, cost = _candidates(wanted)
    made = oklab_to_srgb8(asked)
    tried = srgb8_to_oklab(made)
    out = np.zeros_like(local)
    done: list[tuple[float, float]] = []  # lightness in the light and in shadow
    for k in np.argsort(-lab[:, 0], kind="stable").tolist():
        others = (local != local[k]).any(axis=1)
        near = _nearest(tried[k], lab[others]) if others.any() else np.full(len(cost), np.inf)
        ceiling = min((shadow for light, shadow in done if light > lab[k, 0] + _SAME_L), default=1.0)
        fits = (tried[k, :, 0] <= max(ceiling, 0.0) + 1e-3) & (tried[k, :, 0] <= max(lab[k, 0] - _LEAST_STEP, 0.02))
        good = fits & (near >= rules[k].apart_de)
        if good.any():
            best = int(np.where(good, cost, np.inf).argmin())
        else:
            best = int(np.where(fits, near, -1.0).argmax()) if fits.any() else int(cost.argmin())
        out[k] = made[k, best]
        done.append((float(lab[k, 0]), float(tried[k, best, 0])))
    return out


@lru_cache(maxsize=2048)  # a palette changes a colour or two at a time
def _alone(red: int, green: int, blue: int, rule: ToneRule) -> tuple[int, ...]:
    return tuple(shadow_of(np.array([red, green, blue], np.uint8), rule).tolist())


def _nearest(tried: F64, lab: F64) -> F64:
    """Return how far each of (K, 3) is from the nearest of (N, 3), OKLab × 100."""
    squared = (tried**2).sum(axis=1)[:, None] + (lab**2).sum(axis=1) - 2 * tried @ lab.T
    return np.asarray(np.sqrt(np.maximum(squared.min(axis=1), 0)) * 100)


def _candidates(wanted: F64) -> tuple[F64, F64]:
    """Return colours round each of (N, 3) OKLab, (N, K, 3), and what each of the K costs."""
    lighter, turn = (plane.ravel() for plane in np.meshgrid(_LIGHTER, _TURNS))
    a, b = wanted[:, 1:2], wanted[:, 2:]
    made = np.stack([
        np.clip(wanted[:, :1] + lighter, 0.03, 1),
        a * np.cos(turn) - b * np.sin(turn), a * np.sin(turn) + b * np.cos(turn),
    ], axis=2)  # fmt: skip
    return made, np.abs(lighter) * 100 + np.degrees(np.abs(turn)) * _TURN_COST
