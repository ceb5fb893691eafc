"""How well gaps are closed: drawings made by script, with planted breaks and known truth.

Run `python benchmarks/damaged.py [DRAWINGS]`. Prints leaks, needless splits and regions found, with default
settings, for undamaged drawings and for breaks of 4, 8 and 16 px on half of all boundaries. Even seeds are for
tuning, odd seeds for judging.
"""

import sys
from dataclasses import dataclass
from itertools import pairwise

import cv2
import numpy as np

from drip_pot.core.regions import auto_gap, decide, find_atoms, find_borders, label_areas

SIZE = 1400


@dataclass
class Drawing:
    """A drawing (uint8 coverage), its true regions (int32), and the pairs of regions whose border is broken."""

    ink: np.ndarray
    truth: np.ndarray
    broken: list


def _blob(rng, center, radius, corners, smooth):
    angles = np.sort(rng.uniform(0, 2 * np.pi, corners))
    radii = radius * rng.uniform(0.55, 1.25, corners)
    points = np.stack([center[0] + radii * np.cos(angles), center[1] + radii * np.sin(angles)], axis=1)
    for _ in range(4 if smooth else 0):
        nearer = np.roll(points, -1, axis=0)
        points = np.stack([points * 0.75 + nearer * 0.25, points * 0.25 + nearer * 0.75], axis=1).reshape(-1, 2)
    return points


def make_drawing(seed: int, gap_px: int) -> Drawing:
    rng = np.random.default_rng(seed)
    plain = np.zeros((SIZE, SIZE), np.uint8)
    ink = plain.copy()
    line = float(rng.uniform(3, 8))
    for _ in range(int(rng.integers(25, 80))):
        radius = float(np.exp(rng.uniform(np.log(25), np.log(320))))
        corners = int(rng.integers(3, 12))
        points = _blob(rng, rng.uniform(0, SIZE, 2), radius, corners, rng.random() < 0.7)
        shape = np.rint(points * 16).astype(np.int32)
        inside = np.zeros_like(ink)
        cv2.fillPoly(inside, [shape], 1, shift=4)
        width = max(2, round(line * rng.uniform(0.7, 1.4)))
        for plane in (plain, ink):
            cv2.fillPoly(plane, [shape], 0, cv2.LINE_AA, shift=4)
            cv2.polylines(plane, [shape], True, 255, width, cv2.LINE_AA, shift=4)
        if rng.random() < 0.5:
            _texture(rng, ink, inside > 0, points, line)
    for plane in (plain, ink):
        cv2.rectangle(plane, (8, 8), (SIZE - 9, SIZE - 9), 255, round(line * 1.5))
    truth = _true_regions(plain)
    broken = _break(rng, ink, truth, gap_px) if gap_px else []
    return Drawing(ink, truth, broken)


def _true_regions(plain):
    """Enclosed white of the undamaged drawing, lines taken to the middle; pieces under 150 px are 0."""
    _, pieces, stats, _ = cv2.connectedComponentsWithStats((plain < 128).astype(np.uint8), connectivity=4)
    seeds = np.where(stats[:, 4] > 0, np.arange(len(stats)), 0)[pieces]
    empty = (seeds == 0).astype(np.uint8)
    _, nearest = cv2.distanceTransformWithLabels(empty, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    out = seeds[empty == 0][nearest - 1]
    return np.where(stats[:, 4] >= 150, np.arange(len(stats)), 0)[out].astype(np.int32)


def _texture(rng, ink, inside, points, line):
    center = points.mean(axis=0)
    spread = np.abs(points - center).mean()
    angle = rng.uniform(0, np.pi)
    layer = np.zeros_like(ink)
    for _ in range(int(rng.integers(2, 9))):
        start = center + rng.normal(0, spread * 0.5, 2)
        length = rng.uniform(0.2, 1.0) * spread
        bend = rng.normal(0, 0.15 * length, 2)
        direction = np.array([np.cos(angle), np.sin(angle)]) * length
        steps = np.linspace(0, 1, 24)[:, None]
        curve = start + direction * steps + bend * np.sin(np.pi * steps)
        core = cv2.erode(inside.astype(np.uint8), np.ones((2 * round(line) + 9, 2 * round(line) + 9), np.uint8))
        cells = np.clip(np.rint(curve).astype(int), 0, SIZE - 1)
        run = core[cells[:, 1], cells[:, 0]] > 0
        first = int(np.argmax(run)) if run.any() else len(curve)
        last = first + (int(np.argmin(run[first:])) if not run[first:].all() else len(curve) - first)
        first = max(0, first - 4) if rng.random() < 0.5 else first
        curve = curve[first:last]
        for i, (a, b) in enumerate(pairwise(curve)):
            width = max(1, round(line * 0.8 * min(1.0, (len(curve) - i) / 12)))
            cv2.line(
                layer,
                tuple(np.rint(a).astype(int).tolist()),
                tuple(np.rint(b).astype(int).tolist()),
                255,
                width,
                cv2.LINE_AA,
            )
    keep = cv2.erode(inside.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    ink[keep] = np.maximum(ink, layer)[keep]


def _break(rng, ink, truth, gap_px):
    borders = find_borders(truth)
    broken = []
    barrier = (ink > 127).astype(np.uint8)
    depth = cv2.distanceTransform(barrier, cv2.DIST_L2, 5)
    for (a, b), length in zip(borders.pairs.tolist(), borders.length_px.tolist(), strict=True):
        if a == 0 or length < 6 * gap_px or rng.random() < 0.5:
            continue
        edge = np.zeros_like(barrier)
        right = (truth[:, :-1] == a) & (truth[:, 1:] == b) | (truth[:, :-1] == b) & (truth[:, 1:] == a)
        down = (truth[:-1] == a) & (truth[1:] == b) | (truth[:-1] == b) & (truth[1:] == a)
        edge[:, :-1] |= right
        edge[:-1] |= down
        spots = np.argwhere(edge & (barrier > 0))
        if len(spots) < 4 * gap_px:
            continue
        row, col = spots[len(spots) // 2 + int(rng.integers(-len(spots) // 5, len(spots) // 5))]
        near = spots[np.abs(spots - [row, col]).max(axis=1) <= 12]
        tangent = np.linalg.svd(near - near.mean(axis=0))[2][0]
        normal = np.array([-tangent[1], tangent[0]])
        half = depth[row, col] + 4
        center = np.array([row, col], float)
        corners = [
            center + s * tangent * gap_px / 2 + t * normal * half for s, t in ((-1, -1), (1, -1), (1, 1), (-1, 1))
        ]
        cut = np.zeros_like(ink)
        cv2.fillPoly(cut, [np.rint(np.array(corners)[:, ::-1] * 16).astype(np.int32)], 255, cv2.LINE_AA, shift=4)
        ink[:] = np.minimum(ink, 255 - cut)
        broken.append((a, b))
    return broken


def judge(drawing: Drawing, gap_px: float | None = None):
    """Return counts: leaks, broken, needless splits, regions found (IoU at least 0.75), true regions."""
    atoms = find_atoms(drawing.ink)
    areas = label_areas(atoms.labels, atoms.count)
    gap = auto_gap(atoms.bridges, atoms.line_px) if gap_px is None else gap_px
    part = decide(areas, atoms.bridges, atoms.edges, gap_px=gap, least_px=least_region(atoms.line_px))
    found = part.region[atoms.labels]
    pairs, overlap = np.unique(drawing.truth.ravel().astype(np.int64) << 32 | found.ravel(), return_counts=True)
    truth, region = pairs >> 32, pairs & 0xFFFFFFFF
    size_true, size_found = np.bincount(drawing.truth.ravel()), np.bincount(found.ravel())
    iou = overlap / (size_true[truth] + size_found[region] - overlap)
    real = truth > 0
    best = {}
    for t, r, o in zip(truth[real], region[real], overlap[real], strict=True):
        if o > best.get(t, (0, 0))[0]:
            best[t] = (o, r)
    leaks = sum(best[a][1] == best[b][1] for a, b in drawing.broken)
    hits = len(set(truth[real & (iou >= 0.75)]))
    owner = {}
    for t, r, o in zip(truth, region, overlap, strict=True):
        if o > owner.get(r, (0, 0))[0]:
            owner[r] = (o, t)
    real_regions = [r for r, (_, t) in owner.items() if t > 0 and size_found[r] >= 12]
    splits = len(real_regions) - len({owner[r][1] for r in real_regions})
    return np.array([leaks, len(drawing.broken), splits, hits, len(best)])


def least_region(line_px: float) -> int:
    from drip_pot.core.regions.decide import least_region_px

    return least_region_px(line_px)


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 8
    parity = int(sys.argv[2]) if len(sys.argv) > 2 else 0
    for gap in (0, 4, 8, 16):
        leaks, broken, splits, hits, regions = sum(judge(make_drawing(2 * s + parity, gap)) for s in range(count))
        print(
            f"breaks {gap:2d} px: leaks {100 * leaks / max(broken, 1):5.1f} % of {broken}, "
            f"needless splits {100 * splits / regions:5.1f} per 100, found {100 * hits / regions:5.1f} % of {regions}"
        )


if __name__ == "__main__":
    main()
