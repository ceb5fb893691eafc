"""Gaps in the line and the bridges that would close them. Knows tips and the barrier, not labels."""

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from drip_pot.core.arrays import F64, I64, U8, Bool, check_plane
from drip_pot.core.regions.passes import find_passes
from drip_pot.core.regions.tips import Tips

_FAN_DEG = np.arange(-75.0, 76.0, 7.5)
PASS_LINES = 3.0
_TIP_CONE = np.cos(np.radians(72))


@dataclass(frozen=True)
class Bridges:
    """Closures that the line suggests, in a fixed order.

    Attributes
    ----------
    feet : (B, 4) ndarray of int64
        Row, column of one foot, row, column of the other; both are ink pixels.
    width_px : (B,) ndarray of float64
        White pixels between the feet.
    confidence : (B,) ndarray of float64
        How likely this is a break that its artist did not mean, 0..1, before the sizes of the pieces are known.
    is_tip_pair : (B,) ndarray of bool
        Whether two free ends meet, rather than one end and a wall.
    """

    feet: I64
    width_px: F64
    confidence: F64
    is_tip_pair: Bool

    def __len__(self) -> int:
        return len(self.feet)


def find_bridges(barrier: U8, tips: Tips, widest_px: float, line_px: float) -> Bridges:
    """Propose bridges from free stroke ends and from narrow passes, shortest first.

    Parameters
    ----------
    barrier : (M, N) ndarray of uint8
        1 where there is line.
    tips : Tips
        The free ends of the same barrier.
    widest_px : float
        Longest bridge proposed.
    line_px : float
        Usual line width; widths are judged against it.

    Notes
    -----
    An end is joined to the end that faces it best, and to the wall it would run into (rays within 75 degrees of
    its direction, cost = length grown by deviation). A wall is left out where the facing end is clearly nearer.
    Passes up to three line widths add the breaks beside a corner, whose stump is too short to be a stroke end.
    """
    check_plane(barrier, np.uint8, "barrier")
    from_tips = _from_tips(barrier, tips, widest_px, line_px)
    feet, corners = find_passes(barrier, min(widest_px, PASS_LINES * line_px + 4))
    width = np.maximum(np.hypot(feet[:, 2] - feet[:, 0], feet[:, 3] - feet[:, 1]) - 1.0, 1.0)
    short = 1 / (1 + (width / max(line_px, 1.0) / 4.0) ** 2)
    passes = Bridges(feet, width, np.where(corners == 2, 0.75, 0.5) * short, np.zeros(len(feet), bool))
    fresh = _apart(passes, from_tips)
    return _joined(from_tips, passes, fresh)


def _apart(passes: Bridges, others: Bridges) -> Bool:
    """Whether a pass is not already bridged: no other bridge has its middle within half a width of its own."""
    if len(others) == 0 or len(passes) == 0:
        return np.ones(len(passes), bool)
    tree = cKDTree((others.feet[:, :2] + others.feet[:, 2:]) / 2)
    away, nearest = tree.query((passes.feet[:, :2] + passes.feet[:, 2:]) / 2)
    return np.asarray((away > 0.6 * passes.width_px + 3) | (others.width_px[nearest] > 1.6 * passes.width_px + 4))


def _joined(one: Bridges, two: Bridges, use: Bool) -> Bridges:
    feet = np.concatenate([one.feet, two.feet[use]])
    width = np.concatenate([one.width_px, two.width_px[use]])
    order = np.lexsort((feet[:, 1], feet[:, 0], width))
    return Bridges(
        feet[order],
        width[order],
        np.concatenate([one.confidence, two.confidence[use]])[order],
        np.concatenate([one.is_tip_pair, two.is_tip_pair[use]])[order],
    )


def _from_tips(barrier: U8, tips: Tips, widest_px: float, line_px: float) -> Bridges:
    if len(tips) == 0:
        return Bridges(np.zeros((0, 4), np.int64), np.zeros(0), np.zeros(0), np.zeros(0, bool))
    one, two, pair_cost, pair_deviation = _facing_pairs(barrier, tips, widest_px)
    best_pair = np.full(len(tips), np.inf)
    np.minimum.at(best_pair, one, pair_cost)
    np.minimum.at(best_pair, two, pair_cost)
    mutual = (pair_cost <= best_pair[one] * 1.0001) | (pair_cost <= best_pair[two] * 1.0001)
    one, two, pair_deviation = one[mutual], two[mutual], pair_deviation[mutual]
    source, wall, wall_cost, wall_deviation = _walls(barrier, tips, widest_px)
    keep = wall_cost * 1.6 < best_pair[source]
    source, wall, wall_deviation = source[keep], wall[keep], wall_deviation[keep]
    feet = np.concatenate([np.hstack([tips.at[one], tips.at[two]]), np.hstack([tips.at[source], wall])]).astype(
        np.int64
    )
    width = np.maximum(np.hypot(feet[:, 2] - feet[:, 0], feet[:, 3] - feet[:, 1]) - 1.0, 1.0)
    is_pair = np.arange(len(feet)) < len(one)
    deviation = np.concatenate([pair_deviation, wall_deviation])
    slender = np.concatenate([np.minimum(tips.slender[one], tips.slender[two]), tips.slender[source]])
    confidence = _confidence(width / max(line_px, 1.0), deviation, slender, is_pair)
    return Bridges(feet, width, confidence, is_pair)


def _confidence(width_in_lines: F64, deviation: F64, slender: F64, is_pair: Bool) -> F64:
    """Score by kind, straightness and length; the constants were fitted on drawings with planted breaks."""
    base = np.where(is_pair, 0.95, 0.6)
    straight = 1 - 0.45 * np.clip(deviation / 75.0, 0, 1) ** 2
    short = 1 / (1 + (width_in_lines / np.where(is_pair, 14.0, 7.0)) ** 2)
    stroke = np.clip(0.55 + 0.3 * slender, 0, 1)
    return np.clip(base * straight * short * stroke, 0, 1)


def _facing_pairs(barrier: U8, tips: Tips, widest_px: float) -> tuple[I64, I64, F64, F64]:
    pairs = cKDTree(tips.at).query_pairs(widest_px + 1, output_type="ndarray")
    one, two = pairs[:, 0], pairs[:, 1]
    across = (tips.at[two] - tips.at[one]).astype(np.float64)
    distance = np.hypot(*across.T)
    across /= np.maximum(distance, 1e-9)[:, None]
    ahead_one = (tips.direction[one] * across).sum(axis=1)
    ahead_two = -(tips.direction[two] * across).sum(axis=1)
    facing = (ahead_one > _TIP_CONE) & (ahead_two > _TIP_CONE) & (distance > 1.5)
    one, two, distance = one[facing], two[facing], distance[facing]
    clear = _is_clear(barrier, tips.at[one], tips.at[two])
    one, two, distance = one[clear], two[clear], distance[clear]
    turn = np.degrees(np.arccos(np.clip(np.stack([ahead_one, ahead_two])[:, facing][:, clear], -1, 1)))
    deviation = turn.max(axis=0) if len(one) else np.zeros(0)
    cost = distance * (1 + (turn / 50.0) ** 2).mean(axis=0) if len(one) else np.zeros(0)
    return one, two, cost, deviation


def _is_clear(barrier: U8, start: I64, end: I64) -> Bool:
    """Whether the straight way between two ink pixels is white but for its ends."""
    clear = np.ones(len(start), bool)
    for part in np.linspace(0.08, 0.92, 25):
        at = np.rint(start + (end - start) * part).astype(np.int64)
        away = np.minimum(np.abs(at - start).max(axis=1), np.abs(at - end).max(axis=1))
        clear &= (barrier[at[:, 0], at[:, 1]] == 0) | (away < 2)
    return clear


def _walls(barrier: U8, tips: Tips, widest_px: float) -> tuple[I64, I64, F64, F64]:
    """Best wall ahead of every tip: tip, foot on the wall, cost, deviation in degrees."""
    angle = np.radians(_FAN_DEG)
    row = tips.direction[:, :1] * np.cos(angle) - tips.direction[:, 1:] * np.sin(angle)
    col = tips.direction[:, :1] * np.sin(angle) + tips.direction[:, 1:] * np.cos(angle)
    height, width = barrier.shape
    hit = np.zeros(row.shape, np.float64)
    going = np.ones(row.shape, bool)
    for step in range(2, int(widest_px) + 2):
        tip, ray = np.nonzero(going)
        if len(tip) == 0:
            break
        r = np.rint(tips.at[tip, 0] + row[tip, ray] * step).astype(np.int64)
        c = np.rint(tips.at[tip, 1] + col[tip, ray] * step).astype(np.int64)
        outside = (r < 0) | (c < 0) | (r >= height) | (c >= width)
        r, c = np.clip(r, 0, height - 1), np.clip(c, 0, width - 1)
        met = (barrier[r, c] != 0) & ~outside
        hit[tip[met], ray[met]] = step
        going[tip[met | outside], ray[met | outside]] = False
    beside = np.abs(_FAN_DEG) > 25
    own_end = (hit <= 0.9 * tips.width[:, None] + 1) & beside
    length = np.where((hit > 0) & ~own_end, hit, np.inf)
    cost = length * (1 + (_FAN_DEG / 55.0) ** 2)
    best = cost.argmin(axis=1)
    every = np.arange(len(tips))
    source = every[np.isfinite(cost[every, best])]
    ray = best[source]
    step = hit[source, ray][:, None]
    foot = np.rint(tips.at[source] + np.stack([row[source, ray], col[source, ray]], axis=1) * step)
    return source, foot.astype(np.int64), cost[source, ray], np.abs(_FAN_DEG[ray])
