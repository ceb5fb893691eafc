# SPDX-License-Identifier: GPL-3.0-or-later
"""Which of two regions a line outlines: the one in front. Knows stroke pieces and what is alike; no colour.

Where three lines meet in a T, the bar of the T is the outline of what lies in front, and its stem goes on behind it
(Guzmán, "Decomposition of a visual scene into three-dimensional bodies", 1968), unless the stem is a line within one
thing, which ends at that thing's own outline. Besides, a line is bent round what it outlines, what lies in front bites
into the form of what lies behind it, and is smaller. How much each tells was fitted by benchmarks/lines/fit.py on
drawings of other people, whose shapes own their lines.
"""

from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files

import numpy as np

from drip_pot.core.arrays import F32, F64, I64, Bool
from drip_pot.core.holds.junctions import Junctions
from drip_pot.core.holds.pieces import BORDER, LinePieces
from drip_pot.core.regions.weights import Trees

_MOST = 40.0


@dataclass(frozen=True)
class Outlines:
    """What is known beside the line when it is asked whose it is.

    Attributes
    ----------
    pieces : LinePieces
        Of the page.
    pot, part : (A + 1,) ndarrays of int64
        Pot and part of every region, 0 for none.
    ground : (A + 1,) ndarray of bool
        Regions that reach the edge of their panel.
    """

    pieces: LinePieces
    pot: I64
    part: I64
    ground: Bool


def describe(met: Outlines) -> tuple[F32, F32]:
    """Return what is known of every piece as seen from its first side, and from its second, (P + 1, F) float32 each."""
    return _described(met, 0), _described(met, 1)


def _described(met: Outlines, first: int) -> F32:
    p, sign = met.pieces, 1.0 - 2.0 * first
    one, two = p.sides[:, first], p.sides[:, 1 - first]
    count, border = len(p.areas), p.form == BORDER
    length = np.where(border, p.length_px, 0.0)
    line = float(np.average(p.width_px[border], weights=length[border] + 1e-9)) if border.any() else 1.0
    _, pair = np.unique(np.minimum(one, two) * np.int64(count) + np.maximum(one, two), return_inverse=True)
    pair = pair.reshape(-1)
    inner = met.part[p.sides[p.junctions.stem, 0]] == met.part[p.sides[p.junctions.stem, 1]]
    votes, within, behind = (_votes(p.sides, p.junctions, w) for w in (np.ones(len(inner), bool), inner, ~inner))

    def by_region(value: F64, turned: float) -> F64:
        """Sum up over the pieces of a region what they say of it; what speaks for one side speaks against the other."""
        sums = [np.bincount(p.sides[:, k], w * value * length, count) for k, w in ((0, 1.0), (1, turned))]
        return np.asarray(sums[0] + sums[1])

    def by_pair(value: F64) -> F64:
        sums = np.bincount(pair, value * length) / np.maximum(np.bincount(pair, length), 1e-9)
        return np.asarray(sums[pair])

    def larger(group: I64) -> F64:
        seen = np.unique(p.sides)
        whole = np.bincount(group[seen], p.areas[seen], int(group.max()) + 1) + 1
        return np.asarray(np.log(whole[group[two]] / whole[group[one]]))

    around = np.maximum(by_region(np.ones(len(length)), 1.0), 1.0)
    ways, _ = np.unique(np.sort(p.sides[border], axis=1), axis=0, return_counts=True)
    neighbors = np.bincount(ways.reshape(-1), minlength=count).astype(np.float64)
    shared = np.bincount(pair, length)[pair]
    convex, tells = by_region(p.bent, -1.0) / around, by_region(np.clip(votes, -2, 2), -1.0) / around
    wide = by_region(p.width_px, 1.0) / around
    thick = 12.57 * p.areas / around**2
    page = max(float(p.plane.size), 1.0)
    forms = p.forms
    (two_hull, two_outline), (one_hull, one_outline) = forms.of(one, two), forms.of(two, one)
    box_one, box_two = forms.boxes[one], forms.boxes[two]
    both = np.clip(np.minimum(box_one[:, 2:], box_two[:, 2:]) - np.maximum(box_one[:, :2], box_two[:, :2]), 0, None)
    common = both.prod(axis=1)
    sizes = [np.maximum((box[:, 2:] - box[:, :2]).prod(axis=1), 1e-9) for box in (box_one, box_two)]
    ends = [np.bincount(at.reshape(-1), minlength=len(length)) for at in (p.junctions.bars, p.junctions.stem)]
    columns = [
        sign * p.bent, sign * by_pair(p.bent), convex[one], convex[two],
        np.log1p(length / line), np.log(np.maximum(p.width_px / line, 0.05)),
        sign * votes, sign * within, sign * behind, sign * by_pair(np.clip(votes, -2, 2)), tells[one], tells[two],
        ends[0].astype(np.float64), ends[1].astype(np.float64),
        np.log(np.maximum(p.areas[two], 1) / np.maximum(p.areas[one], 1)),
        np.log(np.maximum(p.areas[one], 1) / page), np.log(np.maximum(p.areas[two], 1) / page),
        np.log(np.maximum(p.areas[one], 1) / line**2), np.log(np.maximum(p.areas[two], 1) / line**2),
        np.minimum(thick[one], 4), np.minimum(thick[two], 4), shared / around[one], shared / around[two],
        np.log1p(neighbors[one]), np.log1p(neighbors[two]),
        forms.full[one], forms.full[two], two_hull, one_hull, two_outline, one_outline,
        common / sizes[0], common / sizes[1],
        box_one[:, 2] - box_two[:, 2], box_one[:, 0] - box_two[:, 0], forms.middle[one] - forms.middle[two],
        np.log(np.maximum(wide[one], 0.1) / np.maximum(wide[two], 0.1)), np.log(np.maximum(wide[one], 0.1) / line),
        p.edge[one] * 1.0, p.edge[two] * 1.0, met.ground[one] * 1.0, met.ground[two] * 1.0,
        larger(met.pot), larger(met.part), (met.pot[one] == met.pot[two]) * 1.0, (met.part[one] == met.part[two]) * 1.0,
    ]  # fmt: skip
    return np.asarray(np.clip(np.stack(columns, axis=1), -_MOST, _MOST), np.float32)


def in_front(met: Outlines, *, at_once: bool = False) -> F64:
    """Tell which side of border pieces lies in front.

    Parameters
    ----------
    met : Outlines
        The pieces, and what lies on their sides.
    at_once : bool
        Whether what was told last will do where something else lies there now: judging takes a while.

    Returns
    -------
    (P + 1,) ndarray of float64
        -1..1; above 0 for the first side. Half of (1 + it) is how likely that is, as counted in drawings that nothing
        was fitted on. Pieces between the same two pots, all over a page, draw each other half the way.
    """
    p = met.pieces
    given = met.pot, met.part, met.ground
    before = p.asked.get("alike")
    if before is not None:
        same = all(np.array_equal(one, two) for one, two in zip(before[0], given, strict=True))
        if same or at_once:
            return before[1].copy()
    found = _judged(met)
    p.asked["alike"] = given, found.copy()
    return found


def _judged(met: Outlines) -> F64:
    p = met.pieces
    wanted = np.flatnonzero((p.form == BORDER) & (p.sides[:, 0] != p.sides[:, 1]))
    found = np.zeros(len(p.form))
    if not len(wanted):
        return found
    _, at, share = _stored()
    sides, length = p.sides[wanted], p.length_px[wanted]
    said = _said(p, np.stack([rows[wanted] for rows in describe(met)]))
    a, b = met.pot[sides[:, 0]], met.pot[sides[:, 1]]
    turned = np.where(a > b, -1.0, 1.0)
    _, pair = np.unique(np.minimum(a, b) * (int(met.pot.max()) + 1) + np.maximum(a, b), return_inverse=True)
    pair = pair.reshape(-1)
    mean = np.bincount(pair, turned * said * length) / np.maximum(np.bincount(pair, length), 1e-9)
    both = (a != b) & (a > 0) & (b > 0)
    said = np.where(both, (said + mean[pair] * turned) / 2, said)
    found[wanted] = np.sign(said) * np.interp(np.abs(said), at, share)
    return found


def _said(pieces: LinePieces, known: F32) -> F64:
    """Return the logit that the first side is in front, (K,), of what is known from both sides, (2, K, F).

    The trees answer again only for pieces of which something else is known than when they were asked last.
    """
    before, said = pieces.asked.get("whose") or (None, None)
    fresh = np.ones(known.shape[1], bool)
    if before is not None and before.shape == known.shape:
        fresh = (before != known).any(axis=(0, 2))
    found = np.zeros(len(fresh)) if said is None or fresh.all() else said.copy()
    both = _stored()[0].logit(known[:, fresh].reshape(-1, known.shape[2])).astype(np.float64).reshape(2, -1)
    found[fresh] = (both[0] - both[1]) / 2
    pieces.asked["whose"] = known, found
    return found


@lru_cache(maxsize=1)
def _stored() -> tuple[Trees, F64, F64]:
    """Read the weights that ship with the program: trees, and how clear a verdict is (0..1) by what the trees say."""
    with (files("drip_pot.core.holds") / "whose.npz").open("rb") as file, np.load(file) as kept:
        trees = Trees(
            kept["feature"].astype(np.int64), kept["border"], kept["leaf"].astype(np.float32), float(kept["bias"])
        )
        return trees, kept["worth"][0].astype(np.float64), kept["worth"][1].astype(np.float64)


def _votes(sides: I64, junctions: Junctions, chosen: Bool) -> F64:
    """Sum up what some junctions say: the region that both pieces of a bar share is in front."""
    out = np.zeros(len(sides))
    bars, clear = junctions.bars[chosen], junctions.clear[chosen]
    for k in (0, 1):
        mine, other = sides[bars[:, k]], sides[bars[:, 1 - k]]
        shares = [(mine[:, s, None] == other).any(axis=1) for s in (0, 1)]
        way = np.where(shares[0] & ~shares[1], 1.0, np.where(shares[1] & ~shares[0], -1.0, 0.0))
        out += np.bincount(bars[:, k], way * clear, len(sides))
    return out
