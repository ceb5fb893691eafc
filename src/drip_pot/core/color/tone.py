# SPDX-License-Identifier: GPL-3.0-or-later
"""The tone pair: a shadow worked out from a local colour. Knows only the colour spaces."""

import math

import msgspec
import numpy as np

from drip_pot.core.arrays import F64, U8
from drip_pot.core.color.space import from_hex, oklab_to_srgb8, srgb8_to_oklab

_DARK, _LEAST, _STRONG = 0.42, 0.35, 0.12


class ToneRule(msgspec.Struct, frozen=True):
    """How a shadow is made from a local colour.

    Parameters
    ----------
    darker_l : float
        How much lightness is taken away, in OKLab L × 100 (0..60).
    hue_deg : float
        Hue the shadow turns towards, in degrees of OKLab (0..360); 320 is a plum.
    turn_deg : float
        At most so many degrees of turn (0..60).
    tint : float
        Chroma of the shadow hue mixed in, so that greys turn too (0..0.1).
    key : str
        Colour of the key light, '#rrggbb': shadows turn away from it as well; white and greys change nothing.
    apart_de : float
        How far a shadow stays from the local colour of every other pot, in OKLab × 100 (0..12); 0 works every pair out
        by itself, and else dark colours are darkened in proportion, so that they do not fall to black.
    """

    darker_l: float = 17.0
    hue_deg: float = 320.0
    turn_deg: float = 10.0
    tint: float = 0.018
    key: str = "#ffffff"
    apart_de: float = 0.0


def shadow_of(rgb: U8, rule: ToneRule) -> U8:
    """Return the shadow colour of `rgb`, both (3,) uint8 sRGB.

    The colour is darkened in OKLab, its hue turned by the shorter way towards the rule's hue,
    and a little of that hue is mixed in. The lightness stops at 0.10 rather than falling to black,
    unless the local colour is darker than that already.
    """
    rule = _lit(rule)
    lightness, a, b = (float(v) for v in srgb8_to_oklab(rgb))
    chroma, hue = math.hypot(a, b), math.degrees(math.atan2(b, a))
    away = (rule.hue_deg - hue + 180) % 360 - 180
    hue += max(-rule.turn_deg, min(rule.turn_deg, away))
    target = math.radians(rule.hue_deg)
    step = rule.darker_l / 100
    if rule.apart_de:
        step *= min(1.0, max(_LEAST, lightness / _DARK))
    shadow = _polar(max(min(lightness, 0.10), lightness - step), chroma * 0.88, hue)
    shadow[1:] += rule.tint * np.array([math.cos(target), math.sin(target)])
    return oklab_to_srgb8(shadow)


def _lit(rule: ToneRule) -> ToneRule:
    """Return a rule with the key light in it: shadows turn to the other side of its hue."""
    _, a, b = (float(v) for v in srgb8_to_oklab(from_hex(rule.key)))
    share = min(1.0, math.hypot(a, b) / _STRONG)
    if share < 0.02:
        return rule
    away = (math.degrees(math.atan2(-b, -a)) - rule.hue_deg + 180) % 360 - 180
    return msgspec.structs.replace(
        rule,
        hue_deg=(rule.hue_deg + share * away) % 360,
        turn_deg=min(60.0, rule.turn_deg + 14 * share),
        tint=min(0.1, rule.tint + 0.03 * share),
        key="#ffffff",
    )


def darkened(rgb: U8, amount: float, chroma: float = 1.0) -> U8:
    """Return colours darker than they are.

    Parameters
    ----------
    rgb : (N, 3) ndarray of uint8
        sRGB.
    amount : float
        0..1: the OKLab lightness is multiplied by 1 - `amount`; 1 is black.
    chroma : float
        How colourful they stay, against the usual; 0 is grey.

    Returns
    -------
    (N, 3) ndarray of uint8
    """
    keep = chroma * (1 - amount**3)
    return oklab_to_srgb8(srgb8_to_oklab(rgb) * np.array([1 - amount, keep, keep]))


def _polar(lightness: float, chroma: float, hue_deg: float) -> F64:
    angle = math.radians(hue_deg)
    return np.array([lightness, chroma * math.cos(angle), chroma * math.sin(angle)])
