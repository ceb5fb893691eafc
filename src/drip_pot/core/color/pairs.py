"""Shadows of a whole palette, worked out together. Knows the colour spaces and the tone rule only."""

import numpy as np

from drip_pot.core.arrays import F64, U8
from drip_pot.core.color.space import delta_e, oklab_to_srgb8, srgb8_to_oklab
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
    lab = srgb8_to_oklab(local)
    out = np.zeros_like(local)
    done: list[int] = []
    for k in np.argsort(-lab[:, 0], kind="stable").tolist():
        wanted = srgb8_to_oklab(shadow_of(local[k], rules[k]))
        wanted_round, cost = _candidates(wanted)
        made = oklab_to_srgb8(wanted_round)
        tried = srgb8_to_oklab(made)
        others = (local != local[k]).any(axis=1)
        near = delta_e(tried[:, None], lab[None, others]).min(axis=1) if others.any() else np.full(len(made), np.inf)
        lighter = [n for n in done if lab[n, 0] > lab[k, 0] + _SAME_L]
        ceiling = min((float(srgb8_to_oklab(out[n])[0]) for n in lighter), default=1.0)
        fits = (tried[:, 0] <= max(ceiling, 0.0) + 1e-3) & (tried[:, 0] <= max(lab[k, 0] - _LEAST_STEP, 0.02))
        good = fits & (near >= rules[k].apart_de)
        if good.any():
            best = int(np.where(good, cost, np.inf).argmin())
        else:
            best = int(np.where(fits, near, -1.0).argmax()) if fits.any() else int(cost.argmin())
        out[k] = made[best]
        done.append(k)
    return out


def _candidates(wanted: F64) -> tuple[F64, F64]:
    """Return colours round one, (K, 3) OKLab, and what each costs."""
    lighter, turn = (plane.ravel() for plane in np.meshgrid(_LIGHTER, _TURNS))
    a, b = wanted[1], wanted[2]
    made = np.stack([
        np.clip(wanted[0] + lighter, 0.03, 1), a * np.cos(turn) - b * np.sin(turn), a * np.sin(turn) + b * np.cos(turn)
    ], axis=1)  # fmt: skip
    return made, np.abs(lighter) * 100 + np.degrees(np.abs(turn)) * _TURN_COST
