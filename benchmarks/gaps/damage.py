# SPDX-License-Identifier: GPL-3.0-or-later
"""Breaks of many manners cut into drawings of known regions, each checked to join its two regions and only them."""

import cv2
import numpy as np
from art import Drawing

MANNERS = ("square", "round", "ragged", "tapered", "shifted", "undershot", "corner", "thread", "dry")
"""Ways a border is opened; 'frame' is added where a drawing has panels, and is any of the first five or a corner."""
FAMILY = "family"
"""A break whose every measure is drawn anew, from ranges without gaps but those of `HELD`; a border has several."""
HELD = ("hollow", "solid", "bitten")
"""Parts of that family that nothing is fitted on: long hollow tapers, strokes that stop short of a solid black, corners
bitten out by a slanting oval."""
_PLACES = {"along": 0.55, "undershot": 0.3, "corner": 0.15}
_SOLID = 2.2  # widths of a wall over that of the line before it


class Spot:
    """A place on a border: its middle, the way along it, its half width, the two regions and those near."""

    def __init__(self, at, tangent, half, pair):
        self.at, self.tangent, self.half, self.pair = np.asarray(at, float), tangent, half, pair
        self.free = [np.inf, np.inf]  # how far the border runs straight from there, back and forth


def break_up(drawing: Drawing, gap_px: float, manner: str, rng, share: float = 0.5, single: bool = False) -> Drawing:
    """Open half of all borders (or one) by breaks of a width in pixels, in one manner or in a 'mix' of all."""
    ink, truth = drawing.ink.copy(), drawing.truth
    barrier = (drawing.ink > 127).astype(np.uint8)
    depth = cv2.distanceTransform(barrier, cv2.DIST_L2, 5)
    room = _room(truth, barrier)
    spots = _border_spots(truth, barrier)
    junctions = _junctions(truth)
    broken: list = []
    keys = [
        k for k, at in spots.items() if len(at) >= max(8, 2 * gap_px) and min(room[k[0]], room[k[1]]) >= 1.25 * gap_px
    ]
    rng.shuffle(keys)
    if single:
        keys, share = keys[:6], 1.0
    for pair in keys:
        if rng.random() > share:
            continue
        way = manner if manner != "mix" else str(rng.choice(MANNERS, p=_ODDS))
        if way == FAMILY or way in HELD:
            times = 1 if single else int(rng.choice((1, 2, 3, 5), p=(0.6, 0.2, 0.12, 0.08)))
            cut = [_cut_family(ink, drawing.ink, truth, spots[pair], pair, depth, junctions, gap_px, way, rng)
                   for _ in range(times)]  # fmt: skip
            broken += [(*pair, way)] * any(cut)  # a border counts once, however often it is broken
            if single and broken:
                break
            continue
        for _ in range(3):
            spot = _choose(spots[pair], pair, truth, depth, junctions, way, gap_px, rng)
            if (
                spot is not None
                and spot.half <= 3 * gap_px + 12
                and _cut(ink, drawing.ink, truth, spot, gap_px, way, rng)
            ):
                broken.append((*pair, way))
                break
        if single and broken:
            break
    return Drawing(ink, truth, broken, drawing.panels, drawing.paper)


_ODDS = np.array([0.08, 0.16, 0.12, 0.14, 0.1, 0.14, 0.08, 0.1, 0.08])


def _cut_family(ink, whole, truth, at, pair, depth, junctions, gap, way, rng) -> bool:
    """Open a border once by a break of the family, or of a held part of it; say whether that was done."""
    place = str(rng.choice(list(_PLACES), p=list(_PLACES.values())))
    place = {"hollow": "along", "solid": "undershot", "bitten": "corner"}.get(way, place)
    gap = gap * float(rng.uniform(0.7, 1.3)) if way == FAMILY else gap
    for _ in range(4):
        spot = _choose(at, pair, truth, depth, junctions, place, gap, rng)
        if spot is None or spot.half > 3 * gap + 12:
            continue
        if place == "undershot" and (_wall(depth, spot) > _SOLID * spot.half) != (way == "solid"):
            continue
        spot.free = _straight(at, spot)
        if place == "undershot":
            spot.free[0] = gap / 2 + 0.4 * spot.half  # the wall stays as it is
        held = way in ("hollow", "bitten")
        if _cut(ink, whole, truth, spot, gap, "oval" if place == "corner" else "ends", rng, held=held):
            return True
    return False


def _straight(at, spot):
    """Return how far a border runs straight from a spot, in pixels, backwards and forwards."""
    away = at - spot.at
    along = away @ np.asarray(spot.tangent)
    aside = np.abs(away @ np.array([-spot.tangent[1], spot.tangent[0]])) > 0.35 * spot.half + 1.5
    return [float(np.min(np.abs(along[aside & (side * along > 0)]), initial=np.abs(along).max()))
            for side in (-1, 1)]  # fmt: skip


def _wall(depth, spot) -> float:
    """Return how far into ink the deepest pixel before a spot lies, on the way back to the wall it comes from."""
    steps = np.arange(0, 6 * spot.half + 30)
    path = np.rint(spot.at[None] - steps[:, None] * np.asarray(spot.tangent)[None]).astype(int)
    inside = (path >= 0).all(axis=1) & (path < depth.shape).all(axis=1)
    return float(depth[tuple(path[inside].T)].max(initial=0.0))


def frame_breaks(drawing: Drawing, gap_px: float, rng) -> Drawing:
    """Open the borders of panels: along their lines, at their corners and where a drawing meets them."""
    truth = drawing.truth
    gutter = int(np.bincount(truth[:, 2:6].ravel()).argmax())
    whole = Drawing(drawing.ink.copy(), truth, [], drawing.panels, drawing.paper)
    barrier = (drawing.ink > 127).astype(np.uint8)
    depth = cv2.distanceTransform(barrier, cv2.DIST_L2, 5)
    spots, junctions, room = _border_spots(truth, barrier), _junctions(truth), _room(truth, barrier)
    for pair, at in spots.items():
        if gutter not in pair or len(at) < 4 * gap_px or min(room[pair[0]], room[pair[1]]) < 1.25 * gap_px:
            continue
        if rng.random() < 0.3:
            continue
        way = str(rng.choice(("square", "round", "ragged", "tapered", "corner")))
        for _ in range(3):
            spot = _choose(at, pair, truth, depth, junctions, way, gap_px, rng)
            if spot is not None and _cut(whole.ink, drawing.ink, truth, spot, gap_px, way, rng):
                whole.broken.append((*pair, "frame"))
                break
    return whole


def _room(truth, barrier):
    """Widest disc, in pixels across, that fits the white of every region."""
    distance = cv2.distanceTransform(1 - barrier, cv2.DIST_L2, 5)
    room = np.zeros(int(truth.max()) + 1)
    np.maximum.at(room, truth.ravel(), 2 * distance.ravel())
    return room


def _border_spots(truth, barrier):
    """For every pair of regions the pixels of their border that lie in ink."""
    found: dict = {}
    for a, b in ((truth[:, :-1], truth[:, 1:]), (truth[:-1], truth[1:])):
        r, c = np.nonzero(a != b)
        one, two = a[r, c], b[r, c]
        use = (one > 0) & (two > 0) & (barrier[r, c] > 0)
        r, c, one, two = r[use], c[use], one[use], two[use]
        key = np.minimum(one, two).astype(np.int64) << 32 | np.maximum(one, two)
        order = np.argsort(key, kind="stable")
        cuts = np.flatnonzero(np.diff(key[order])) + 1
        for part in np.split(order, cuts):
            if len(part):
                pair = int(key[part[0]] >> 32), int(key[part[0]] & 0xFFFFFFFF)
                found.setdefault(pair, []).append(np.stack([r[part], c[part]], axis=1))
    return {pair: np.unique(np.concatenate(at), axis=0) for pair, at in found.items()}


def _junctions(truth):
    corners = np.stack([truth[:-1, :-1], truth[:-1, 1:], truth[1:, :-1], truth[1:, 1:]])
    ordered = np.sort(corners, axis=0)
    kinds = 1 + (ordered[1:] != ordered[:-1]).sum(axis=0)
    return np.argwhere((kinds >= 3) & (ordered[0] > 0))


def _choose(at, pair, truth, depth, junctions, way, gap, rng):
    """A place on the border that suits a manner; None where the border has none."""
    reach = max(8.0, 1.2 * gap)
    if way == "undershot":
        if len(junctions) == 0:
            return None
        near = (
            at[np.abs(at[:, None] - junctions[None]).max(axis=2).min(axis=1) <= 2]
            if len(at) * len(junctions) < 4e6
            else at[:0]
        )
        if len(near) == 0:
            return None
        start = near[rng.integers(len(near))].astype(float)
        wall = depth[tuple(start.astype(int))]
        away = np.hypot(*(at - start).T)
        lead = at[(away < 4 * wall + 2 * gap + 12)]
        far = lead[np.hypot(*(lead - start).T) > wall + 4]
        if len(far) < 6:
            return None
        half = float(np.median(depth[far[:, 0], far[:, 1]]))
        stub = rng.uniform(0, 0.8) * 2 * half
        spot = far[np.argmin(np.abs(np.hypot(*(far - start).T) - (wall + stub + gap / 2)))]
        along = spot - start
        tangent = along / max(np.hypot(*along), 1e-6)
        return Spot(spot, tangent, half + 1, pair)
    if way == "corner":
        pick = at[rng.integers(len(at), size=min(60, len(at)))]
        best, most = None, 0.35
        for p in pick:
            near = at[np.abs(at - p).max(axis=1) <= 14] - p
            if len(near) < 12:
                continue
            values = np.linalg.svd(near - near.mean(axis=0), compute_uv=False)
            bend = values[1] / max(values[0], 1e-6)
            if bend > most:
                best, most = p, bend
        if best is None:
            return None
        return Spot(best, _tangent(at, best, 12), float(depth[tuple(best)]) + 1, pair)
    p = at[rng.integers(len(at))]
    if len(junctions) and np.hypot(*(junctions - p).T).min() < 0.7 * gap + depth[tuple(p)]:
        return None
    return Spot(p, _tangent(at, p, reach), float(depth[tuple(p)]) + 1, pair)


def _tangent(at, p, reach):
    near = at[np.abs(at - p).max(axis=1) <= reach]
    return np.linalg.svd(near - near.mean(axis=0))[2][0] if len(near) > 2 else np.array([0.0, 1.0])


def _cut(ink, whole, truth, spot, gap, way, rng, *, held=False) -> bool:
    """Open a border in `ink` if that joins just its two regions; say whether it was done."""
    reach = int(gap * 2.5 + 6 * spot.half + 26)
    r, c = np.rint(spot.at).astype(int)
    box = slice(max(0, r - reach), r + reach + 1), slice(max(0, c - reach), c + reach + 1)
    before = ink[box]
    y, x = np.mgrid[box[0].start : box[0].start + before.shape[0], box[1].start : box[1].start + before.shape[1]]
    t = (y - spot.at[0]) * spot.tangent[0] + (x - spot.at[1]) * spot.tangent[1]
    n = -(y - spot.at[0]) * spot.tangent[1] + (x - spot.at[1]) * spot.tangent[0]
    if way in ("ends", "oval"):
        shifted = _shift(before, whole[box], t, n, spot, gap, rng) if way == "ends" and rng.random() < 0.15 else None
        open_ = _oval(t, n, spot.half, gap, rng, held) if way == "oval" else _ends(t, n, spot, gap, rng, held)
        before = before if shifted is None else shifted
    else:
        open_, line = _shape(t, n, spot.half, gap, way, rng)
    if way == "shifted":
        after = _shift(before, whole[box], t, n, spot, gap, rng)
        if after is None:
            return False
    else:
        after = np.minimum(before, np.rint(255 * np.clip(1 - open_, 0, 1)).astype(np.uint8))
    if not _joins_only(after, truth[box], spot.pair, (r - box[0].start, c - box[1].start)):
        return False
    if way == "thread":
        after = np.maximum(after, np.rint(line * np.minimum(before, 255)).astype(np.uint8))
    ink[box] = after
    return True


def _ends(t, n, spot, gap, rng, held):
    """How far each pixel is opened, 0..1, by a break of two ends, each of a profile of its own."""
    half = spot.half
    beside = np.clip(half + 3.5 - np.abs(n), 0, 1)
    rough, alike = rng.uniform(0, 0.35) * half * (rng.random() < 0.6), rng.random() < 0.5
    noise = cv2.GaussianBlur(rng.normal(0, 1, t.shape), (0, 0), float(rng.uniform(0.8, 0.5 * half + 1.5)))
    noise *= rough / max(float(noise.std()), 1e-6)
    open_, first = np.clip(gap / 2 - np.abs(t) + 0.5, 0, 1), None
    for side, free in zip((-1, 1), spot.free, strict=True):
        shape = first if alike and first is not None else _profile(half, rng, held)
        first = shape
        long, power, slant, bend, thin, thinned = shape
        long, thinned = (min(far, max(free - gap / 2, 0.3 * half)) for far in (long, thinned))
        away = np.maximum(side * t + slant * n - gap / 2 + 0.3 * noise, 0)
        share = np.clip(away / max(long, 0.5), 0, 1)
        left = half * share**power + noise * (share < 1)
        middle = bend * half * (1 - share) ** 2
        taken = np.where(share < 1, np.clip(np.abs(n - middle) - left + 0.5, 0, 1), 0)
        pale = (1 - thin) * np.clip(1 - away / max(thinned, 0.5), 0, 1) if thinned else 0.0
        open_ = np.maximum(open_, np.where(side * t > 0, np.maximum(taken, pale), 0))
    return open_ * beside


def _profile(half, rng, held):
    """Draw an end: how long it tapers, by which power, its slant, how far its tip lies aside, how pale it grows."""
    if held:
        slant, bend = rng.uniform(-0.3, 0.3), rng.uniform(-0.4, 0.4)
        return 2 * half * rng.uniform(2, 6), rng.uniform(1.6, 4.0), slant, bend, 1.0, 0.0
    long = 2 * half * (rng.uniform(0, 0.6) if rng.random() < 0.45 else rng.uniform(0.6, 6))
    power = float(np.exp(rng.uniform(np.log(0.3), np.log(1.5 if long > 3 * half else 3.0))))
    pale = rng.random() < 0.25
    return (long, power, rng.uniform(-0.6, 0.6), rng.uniform(-0.7, 0.7), rng.uniform(0.25, 1.0) if pale else 1.0,
            2 * half * rng.uniform(0, 3) if pale else 0.0)  # fmt: skip


def _oval(t, n, half, gap, rng, held):
    """How far each pixel is opened, 0..1, by an oval bite round a corner."""
    turn = rng.uniform(0, np.pi) if held else 0.0
    ratio = rng.uniform(1.5, 2.5) if held else rng.uniform(0.8, 1.3)
    radius = gap * rng.uniform(0.45, 0.8) + half
    a, b = t - rng.uniform(-0.5, 0.5) * half, n - rng.uniform(-0.5, 0.5) * half
    u, v = a * np.cos(turn) + b * np.sin(turn), -a * np.sin(turn) + b * np.cos(turn)
    return np.clip(radius - np.hypot(u / np.sqrt(ratio), v * np.sqrt(ratio)) + 0.5, 0, 1)


def _shape(t, n, half, gap, way, rng):
    """How far each pixel is opened, 0..1, and (for a thread) the coverage that stays."""
    band = half + 3
    beside = np.clip(band - np.abs(n) + 0.5, 0, 1)
    line = np.zeros_like(t)
    if way in ("square", "undershot", "shifted") and (way != "undershot" or rng.random() < 0.35):
        slant = rng.uniform(-0.35, 0.35)
        return np.clip(gap / 2 - np.abs(t + slant * n) + 0.5, 0, 1) * beside, line
    if way in ("round", "undershot", "thread"):
        bulge = half * rng.uniform(0.6, 1.1)
        edge = gap / 2 + bulge - bulge * np.sqrt(np.clip(1 - (n / max(half, 0.5)) ** 2, 0, 1))
        if way == "thread":
            wide = rng.uniform(0.9, 1.8)
            off = rng.uniform(-0.3, 0.3) * half
            line = np.clip(wide / 2 - np.abs(n - off) + 0.5, 0, 1) * rng.uniform(0.38, 0.62)
        return np.clip(edge - np.abs(t) + 0.5, 0, 1) * beside, line
    if way == "ragged":
        knots = np.linspace(-band, band, max(4, int(band)) + 3)
        rough = min(0.45 * gap, 1.0 + 0.5 * half)
        edges = [np.interp(n, knots, rng.normal(0, 0.5, len(knots)) * rough) for _ in (0, 1)]
        return np.clip(gap / 2 + edges[0] - t + 0.5, 0, 1) * np.clip(t + gap / 2 + edges[1] + 0.5, 0, 1) * beside, line
    if way == "tapered":
        long = rng.uniform(1.0, 4.0) * 2 * half
        other = long if rng.random() < 0.6 else 0.3 * half
        ahead = np.where(t > 0, long, other)
        left = half * np.clip((np.abs(t) - gap / 2) / ahead, 0, 1) ** rng.uniform(0.6, 1.3)
        left = np.where(np.abs(t) < gap / 2, 0, left)
        past = np.abs(t) > gap / 2 + ahead
        return np.where(past, 0, np.clip(np.abs(n) - left + 0.5, 0, 1)) * beside, line
    if way == "corner":
        radius = gap * rng.uniform(0.5, 0.8) + half
        return np.clip(radius - np.hypot(t, n) + 0.5, 0, 1), line
    if way == "dry":
        long = gap * rng.uniform(1.5, 2.5)
        streak = np.interp(n, np.linspace(-band, band, 12), rng.uniform(0, 1, 12))
        grain = rng.uniform(0, 1, t.shape)
        rough = cv2.GaussianBlur(grain, (0, 0), 1.0)
        rough = (rough - rough.mean()) / max(rough.std(), 1e-6)
        worn = np.clip(0.8 * rough + 3 * (streak - 0.55), 0, 1) * (np.abs(t) < long / 2)
        through = np.clip(gap / 2 - np.abs(t + 0.3 * n) + 0.5 + 0.8 * rough, 0, 1)
        return np.maximum(worn, through) * beside, line
    return np.zeros_like(t), line


def _shift(before, whole, t, n, spot, gap, rng):
    """Move what follows the gap to the side, coming back to the border further on; None where others are near."""
    long = 3.0 * gap + 6 * spot.half
    clear = (np.abs(n) > spot.half + 2) & (np.abs(n) < 2.4 * spot.half + 4) & (np.abs(t) < long / 2 + gap)
    if (whole[clear] > 64).mean() > 0.02:
        return None
    aside = rng.choice((-1, 1)) * rng.uniform(0.5, 1.3) * 2 * spot.half
    ahead = np.clip((t - gap / 2) / long, 0, 1)
    move = aside * (1 - ahead) ** 2 * (t > gap / 2)
    y, x = np.mgrid[: before.shape[0], : before.shape[1]].astype(np.float32)
    normal = np.array([-spot.tangent[1], spot.tangent[0]])
    moved = cv2.remap(before, (x - move * normal[1]).astype(np.float32), (y - move * normal[0]).astype(np.float32),
                      cv2.INTER_LINEAR)  # fmt: skip
    here = (np.abs(n) < 3.2 * spot.half + 4) & (t > gap / 2) & (ahead < 1)
    after = np.where(here, moved, before)
    hole = np.clip(gap / 2 - np.abs(t) + 0.5, 0, 1) * np.clip(spot.half + 3 - np.abs(n) + 0.5, 0, 1)
    return np.minimum(after, np.rint(255 * (1 - hole)).astype(np.uint8))


def _joins_only(after, truth, pair, middle) -> bool:
    """Whether the white at the middle of a cut touches its two regions and no third."""
    white = (after < 128).astype(np.uint8)
    _, pieces = cv2.connectedComponents(white, connectivity=4)
    near = np.argwhere(white)
    if len(near) == 0:
        return False
    r, c = near[np.argmin(np.hypot(*(near - middle).T))]
    inside = truth[(pieces == pieces[r, c]) & (cv2.erode(white, np.ones((3, 3), np.uint8)) > 0)]
    if len(inside) == 0:
        inside = truth[pieces == pieces[r, c]]
    count = np.bincount(inside)
    kinds = set(np.flatnonzero(count > max(8, 0.01 * count.sum())).tolist()) - {0}
    return kinds == set(pair)
