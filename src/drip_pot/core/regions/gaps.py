# SPDX-License-Identifier: GPL-3.0-or-later
"""Gaps in the line and the bridges that would close them. Knows tips and the barrier, not labels."""

from dataclasses import dataclass, fields, replace

import numpy as np

from drip_pot.core.arrays import F64, I16, I64, U8, Bool, check_plane
from drip_pot.core.near import close_pairs
from drip_pot.core.regions.barrier import Outline
from drip_pot.core.regions.clefts import find_clefts
from drip_pot.core.regions.rays import cast, turned
from drip_pot.core.regions.tips import Tips

EVIDENCE = (
    "is_wall", "is_cleft", "corners", "deviation", "slender", "tip_width", "rank", "run_least", "run_most",
    "side_least", "side_most", "ends_thin", "ends_thick",
)  # fmt: skip
_FAN_DEG = np.arange(-75.0, 76.0, 7.5)
_CLEFT_LINES, _CLEFT_PX, _CLEFT_LEAST = 3.0, 4.0, 24.0
_ALIGNED, _ALIGNED_LINES = 0.65, 4.0
_TIP_CONE = np.cos(np.radians(78))
_SECTORS = ((-75.0, 75.0),)
_PAIRS = 2
_PIECE = 1024
_WALL_COST = 1.2
_RUN_DEG = (-30, -15, 0, 15, 30)


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
    evidence : (B, len(EVIDENCE)) ndarray of float64
        What the line says about each, for `judge`; lengths in line widths.
    bend : (B, 2) ndarray of float64
        Row, column of the control point of each as a quadratic curve; the middle of the feet where it is straight.
    aligned : (B,) ndarray of bool
        Whether two free ends lie in line, a few line widths apart, with nothing between: good continuation, which no
        judge turns down.
    """

    feet: I64
    width_px: F64
    confidence: F64
    is_tip_pair: Bool
    evidence: F64
    bend: F64
    aligned: Bool

    def __len__(self) -> int:
        return len(self.feet)

    def some(self, which: I64 | Bool) -> "Bridges":
        """Return some of them, by place or by mark."""
        return Bridges(*(getattr(self, field.name)[which] for field in fields(Bridges)))

    def judged(self, confidence: F64, keep: Bool) -> "Bridges":
        """Return those to keep, (B,) bool, with a new confidence, (B,) 0..1."""
        return replace(self, confidence=confidence).some(keep)


def bridge_paths(bridges: Bridges, shape: tuple[int, ...]) -> tuple[I64, I64]:
    """Return the pixels along every bridge, an ink pixel at both ends, and the bridge of each.

    They are (K, 2) int64 rows and columns, and (K,) int64. Consecutive pixels of one bridge touch, at least by a
    corner; one that swings beyond the edge of the page, whose rows and columns `shape` gives, goes along the edge.
    """
    found = [(np.zeros((0, 2), np.int64), np.zeros(0, np.int64))]
    for start in range(0, len(bridges), _PIECE):
        some = slice(start, start + _PIECE)
        spots, owner = _paths(bridges.feet[some].astype(np.float64), bridges.bend[some], shape)
        found.append((spots, owner + start))
    spots, owner = (np.concatenate(parts) for parts in zip(*found, strict=True))
    return spots, owner


def _paths(feet: F64, bend: F64, shape: tuple[int, ...]) -> tuple[I64, I64]:
    """Pixels along curves between feet, and the curve of each."""
    a, b = feet[:, :2], feet[:, 2:]
    halves = np.stack([np.abs(bend - a).max(axis=1), np.abs(b - bend).max(axis=1)])
    most = np.maximum(1.5 * halves.sum(axis=0), 2 * halves.max(axis=0))  # a curve runs fastest along its longer half
    steps = np.ceil(most).astype(np.int64) + 2
    owner = np.repeat(np.arange(len(feet)), steps)
    place = np.arange(len(owner)) - np.repeat(np.cumsum(steps) - steps, steps)
    t = (place / (steps[owner] - 1))[:, None]
    at = (1 - t) ** 2 * a[owner] + 2 * t * (1 - t) * bend[owner] + t**2 * b[owner]
    spots = np.clip(np.rint(at).astype(np.int64), 0, np.array(shape[:2]) - 1)
    fresh = np.ones(len(spots), bool)
    fresh[1:] = (owner[1:] != owner[:-1]) | (spots[1:] != spots[:-1]).any(axis=1)
    return spots[fresh], owner[fresh]


def find_bridges(barrier: U8, outline: Outline, tips: Tips, widest_px: float, line_px: float) -> tuple[Bridges, I16]:
    """Propose bridges from free stroke ends and from clefts, shortest first.

    Parameters
    ----------
    barrier : (M, N) ndarray of uint8
        1 where there is line.
    outline, tips
        Outlines and free ends of the same barrier.
    widest_px : float
        Longest bridge proposed.
    line_px : float
        Usual line width; widths are judged against it.

    Raises
    ------
    BadInput
        If an array has another shape or type.

    Notes
    -----
    An end is joined to the end that faces it best, and to the wall it would run into (rays within 75 degrees of
    its direction, cost = length grown by deviation). A wall is left out where the facing end is clearly nearer.
    Specks stand in no way and are no walls: a stroke that runs out often leaves some.
    Clefts up to three line widths, at least 24 pixels, add the breaks whose stumps are too short or too round to be
    stroke ends.
    """
    check_plane(barrier, np.uint8, "barrier")
    from_tips = _from_tips(outline.without_specks(barrier), tips, widest_px, line_px)
    limit = min(widest_px, max(_CLEFT_LEAST, _CLEFT_LINES * line_px + _CLEFT_PX))
    feet, corners, depth = find_clefts(barrier, outline, limit, line_px)
    width = np.maximum(np.hypot(feet[:, 2] - feet[:, 0], feet[:, 3] - feet[:, 1]) - 1.0, 1.0)
    short = 1 / (1 + (width / max(line_px, 1.0) / 4.0) ** 2)
    known = np.zeros((len(feet), len(EVIDENCE)))
    known[:, 1], known[:, 2] = 1, corners
    middle = (feet[:, :2] + feet[:, 2:]) / 2
    none = np.zeros(len(feet), bool)
    clefts = Bridges(feet, width, np.where(corners == 2, 0.75, 0.5) * short, none, known, middle, none)
    found = _joined(from_tips, clefts, _apart(clefts, from_tips))
    found.evidence[:, 7:] = _surroundings(depth, found.feet, max(line_px, 1.0))
    return found, depth


def _surroundings(depth: I16, feet: I64, line_px: float) -> F64:
    """How far ink goes on behind the feet (least, most), white to the sides (least, most), thickness at the feet.

    Ink goes on as far as the longest ray within 30 degrees of the bridge's own direction.
    """
    count = len(feet)
    if count == 0:
        return np.zeros((0, 6))
    a, b = feet[:, :2].astype(np.float64), feet[:, 2:].astype(np.float64)
    way = (b - a) / np.maximum(np.hypot(*(b - a).T), 1e-9)[:, None]
    across = np.stack([-way[:, 1], way[:, 0]], axis=1)
    most = 8 * line_px
    rays = [(foot, turned(back, turn)) for foot, back in ((a, -way), (b, way)) for turn in _RUN_DEG]
    rays += [(foot, side * across) for foot in (a - 1.5 * way, b + 1.5 * way) for side in (1, -1)]
    ink = cast(depth, rays, most, ink=True)
    turns = len(_RUN_DEG)
    runs = ink[: 2 * turns].reshape(2, turns, count).max(axis=1)
    thick = ink[2 * turns :].reshape(2, 2, count).sum(axis=1)
    sides = cast(depth, [((a + b) / 2, side * across) for side in (1, -1)], 2 * most, ink=False)
    out = [f(group, axis=0) for group in (runs, sides, thick) for f in (np.min, np.max)]
    return np.stack(out, axis=1) / line_px


def _apart(clefts: Bridges, others: Bridges) -> Bool:
    """Whether a cleft is not already bridged: no other bridge has its middle within half a width of its own."""
    if len(others) == 0 or len(clefts) == 0:
        return np.ones(len(clefts), bool)
    reach = 0.6 * clefts.width_px + 3
    middle = np.concatenate([(some.feet[:, :2] + some.feet[:, 2:]) / 2 for some in (clefts, others)])
    pairs = close_pairs(middle, float(reach.max()))
    pairs = pairs[(pairs[:, 0] < len(clefts)) & (pairs[:, 1] >= len(clefts))]
    away = np.hypot(*(middle[pairs[:, 0]] - middle[pairs[:, 1]]).T)
    order = np.lexsort((away, pairs[:, 0]))
    owner, nearest = pairs[order[away[order] <= reach[pairs[order, 0]]]].T
    owner, first = np.unique(owner, return_index=True)
    nearest = nearest[first] - len(clefts)
    apart = np.ones(len(clefts), bool)
    apart[owner] = others.width_px[nearest] > 1.6 * clefts.width_px[owner] + 4
    return apart


def _joined(one: Bridges, two: Bridges, use: Bool) -> Bridges:
    feet = np.concatenate([one.feet, two.feet[use]])
    width = np.concatenate([one.width_px, two.width_px[use]])
    order = np.lexsort((feet[:, 1], feet[:, 0], width))
    return Bridges(
        feet[order],
        width[order],
        np.concatenate([one.confidence, two.confidence[use]])[order],
        np.concatenate([one.is_tip_pair, two.is_tip_pair[use]])[order],
        np.concatenate([one.evidence, two.evidence[use]])[order],
        np.concatenate([one.bend, two.bend[use]])[order],
        np.concatenate([one.aligned, two.aligned[use]])[order],
    )


def _from_tips(barrier: U8, tips: Tips, widest_px: float, line_px: float) -> Bridges:
    if len(tips) == 0:
        return Bridges(
            np.zeros((0, 4), np.int64),
            np.zeros(0),
            np.zeros(0),
            np.zeros(0, bool),
            np.zeros((0, len(EVIDENCE))),
            np.zeros((0, 2)),
            np.zeros(0, bool),
        )
    one, two, pair_cost, pair_deviation = _facing_pairs(barrier, tips, widest_px)
    pair_rank = np.minimum(_rank(one, pair_cost), _rank(two, pair_cost))
    use = pair_rank < _PAIRS
    one, two, pair_deviation, pair_rank = one[use], two[use], pair_deviation[use], pair_rank[use]
    source, wall, wall_cost, wall_deviation = _walls(barrier, tips, widest_px)
    best_pair = np.full(len(tips), np.inf)
    np.minimum.at(best_pair, one, pair_cost[use])
    np.minimum.at(best_pair, two, pair_cost[use])
    keep = wall_cost * _WALL_COST < best_pair[source]
    source, wall, wall_cost, wall_deviation = source[keep], wall[keep], wall_cost[keep], wall_deviation[keep]
    feet = np.concatenate([np.hstack([tips.at[one], tips.at[two]]), np.hstack([tips.at[source], wall])]).astype(
        np.int64
    )
    width = np.maximum(np.hypot(feet[:, 2] - feet[:, 0], feet[:, 3] - feet[:, 1]) - 1.0, 1.0)
    is_pair = np.arange(len(feet)) < len(one)
    deviation = np.concatenate([pair_deviation, wall_deviation])
    slender = np.concatenate([np.minimum(tips.slender[one], tips.slender[two]), tips.slender[source]])
    confidence = _confidence(width / max(line_px, 1.0), deviation, slender, is_pair)
    known = np.zeros((len(feet), len(EVIDENCE)))
    known[:, 0], known[:, 3], known[:, 4] = ~is_pair, deviation / 90, np.minimum(slender, 6)
    known[:, 5] = np.concatenate([np.minimum(tips.width[one], tips.width[two]), tips.width[source]]) / max(line_px, 1)
    known[:, 6] = np.concatenate([pair_rank, _rank(source, wall_cost)])
    bend = (feet[:, :2] + feet[:, 2:]) / 2
    bend[: len(one)] = _control(barrier, tips, one, two)
    aligned = is_pair & (confidence >= _ALIGNED) & (width <= _ALIGNED_LINES * max(line_px, 1.0))
    return Bridges(feet, width, confidence, is_pair, known, bend, aligned)


def _control(barrier: U8, tips: Tips, one: I64, two: I64) -> F64:
    """Where the tangents of two facing ends meet; the middle between them where that is not between them.

    A curve that would touch other ink stays straight.
    """
    a, b = tips.at[one].astype(np.float64), tips.at[two].astype(np.float64)
    u, v, way = tips.direction[one], tips.direction[two], b - a
    middle, long = (a + b) / 2, np.hypot(*way.T)
    cross = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]
    safe = np.where(np.abs(cross) < 1e-3, 1.0, cross)
    s = (way[:, 0] * v[:, 1] - way[:, 1] * v[:, 0]) / safe
    t = (way[:, 0] * u[:, 1] - way[:, 1] * u[:, 0]) / safe
    fits = (np.abs(cross) >= 1e-3) & (s > 0.1 * long) & (t > 0.1 * long) & (s < long) & (t < long)
    meets = a + u * s[:, None]
    for part in (0.25, 0.5, 0.75):
        at = (1 - part) ** 2 * a + 2 * part * (1 - part) * meets + part**2 * b
        cell = np.clip(np.rint(at).astype(np.int64), 0, np.array(barrier.shape) - 1)
        fits &= barrier[cell[:, 0], cell[:, 1]] == 0
    return np.where(fits[:, None], meets, middle)


def _rank(owner: I64, cost: F64) -> I64:
    """Place of each candidate among those of its owner, the cheapest being 0."""
    order = np.lexsort((cost, owner))
    first = np.searchsorted(owner[order], owner[order])
    rank = np.empty(len(owner), np.int64)
    rank[order] = np.arange(len(owner)) - first
    return rank


def _confidence(width_in_lines: F64, deviation: F64, slender: F64, is_pair: Bool) -> F64:
    """Score by kind, straightness and length; the constants were fitted on drawings with planted breaks."""
    base = np.where(is_pair, 0.95, 0.6)
    straight = 1 - 0.45 * np.clip(deviation / 75.0, 0, 1) ** 2
    short = 1 / (1 + (width_in_lines / np.where(is_pair, 14.0, 7.0)) ** 2)
    stroke = np.clip(0.55 + 0.3 * slender, 0, 1)
    return np.clip(base * straight * short * stroke, 0, 1)


def _facing_pairs(barrier: U8, tips: Tips, widest_px: float) -> tuple[I64, I64, F64, F64]:
    pairs = close_pairs(tips.at, widest_px + 1)
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
    """Best wall of every tip ahead and to either side: tip, foot on the wall, cost, deviation in degrees."""
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
    found = []
    for sector in _SECTORS:
        part = np.where((sector[0] <= _FAN_DEG) & (sector[1] >= _FAN_DEG), cost, np.inf)
        best = part.argmin(axis=1)
        source = np.flatnonzero(np.isfinite(part.min(axis=1)))
        ray = best[source]
        step = hit[source, ray][:, None]
        foot = np.rint(tips.at[source] + np.stack([row[source, ray], col[source, ray]], axis=1) * step)
        found.append((source, foot.astype(np.int64), cost[source, ray], np.abs(_FAN_DEG[ray])))
    source, foot, price, deviation = (np.concatenate(parts) for parts in zip(*found, strict=True))
    _, first = np.unique(np.hstack([source[:, None], foot]), axis=0, return_index=True)
    return source[first], foot[first], price[first], deviation[first]
