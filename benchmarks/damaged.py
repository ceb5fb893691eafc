"""How well gaps are closed: drawings made by script, with planted breaks and known truth.

Run `python benchmarks/damaged.py [DRAWINGS] [FIRST SEED]`. Prints leaks, needless splits and regions found, with
default settings, for whole drawings, breaks of 4, 8 and 16 px on half of all boundaries, scans and half-transparent
ink. Even seeds below 200 are for fitting; judge on odd seeds from 501 on.
"""

import sys
from dataclasses import dataclass
from itertools import pairwise

import cv2
import numpy as np

from drip_pot.core.inks import coverage, estimate_paper, remove_paper, suggest_settings
from drip_pot.core.regions import auto_gap, decide, find_atoms, find_borders, label_areas
from drip_pot.devices import flawed_scan

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
    line = float(np.exp(rng.uniform(np.log(1.2), np.log(9))))
    for _ in range(int(rng.integers(25, 80))):
        radius = float(np.exp(rng.uniform(np.log(25), np.log(320))))
        corners = int(rng.integers(3, 12))
        points = _blob(rng, rng.uniform(0, SIZE, 2), radius, corners, rng.random() < 0.7)
        shape = np.rint(points * 16).astype(np.int32)
        inside = np.zeros_like(ink)
        cv2.fillPoly(inside, [shape], 1, shift=4)
        width = max(1, round(line * rng.uniform(0.7, 1.4)))
        for plane in (plain, ink):
            cv2.fillPoly(plane, [shape], 0, cv2.LINE_AA, shift=4)
            cv2.polylines(plane, [shape], True, 255, width, cv2.LINE_AA, shift=4)
        choice = rng.random()
        if choice < 0.1:
            _letters(rng, (plain, ink), inside > 0, points, line)
        elif choice < 0.5:
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


def _letters(rng, planes, inside, points, line):
    """Two rows of letters in the middle of a shape, where there is room for them; counters of letters are regions."""
    center = points.mean(axis=0)
    spread = np.abs(points - center).mean()
    text = "".join(rng.choice(list("ABDEGHKMNORSTWYaeghknors ,.?"), 8))
    layer = np.zeros_like(planes[0])
    for row in (-1, 1):
        at = (int(center[0] - 0.7 * spread), int(center[1] + row * 0.25 * spread))
        size, thick = max(0.3, spread / 90), max(1, round(line * 0.7))
        cv2.putText(layer, text, at, cv2.FONT_HERSHEY_SIMPLEX, size, 255, thick, cv2.LINE_AA)
    core = cv2.erode(inside.astype(np.uint8), np.ones((2 * round(line) + 13, 2 * round(line) + 13), np.uint8)) > 0
    if layer.any() and core[layer > 0].mean() > 0.98:
        for plane in planes:
            plane[core] = np.maximum(plane, layer)[core]


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


@dataclass
class Case:
    """A drawing divided into atoms: what the engine knows, and how many pixels of each atom lie in each true region."""

    spec: tuple
    areas: np.ndarray
    borders: object
    bridges: object
    edges: np.ndarray
    line_px: float
    solids: np.ndarray
    shared: np.ndarray
    broken: list
    region: np.ndarray

    def owners(self, region: np.ndarray) -> np.ndarray:
        """Return the true region under most of each region."""
        return self._by_region(region).argmax(axis=1)

    def _by_region(self, region: np.ndarray) -> np.ndarray:
        total = np.zeros(self.shared.shape)
        np.add.at(total, region, self.shared)
        return total

    def counts(self, region: np.ndarray) -> np.ndarray:
        """Leaks, breaks, needless splits, regions found (IoU at least 0.75), true regions, crumbs under 12 px.

        Solid blacks are regions of their own kind and are no splits.
        """
        total = self._by_region(region)
        size, true_size = total.sum(axis=1), self.shared.sum(axis=0)
        best = total.argmax(axis=0)
        leaks = sum(best[a] == best[b] for a, b in self.broken)
        with np.errstate(all="ignore"):
            overlap = total / (size[:, None] + true_size[None] - total)
        real = np.flatnonzero(true_size[1:] > 0) + 1
        hits = (overlap[:, real].max(axis=0) >= 0.75).sum()
        owner = total.argmax(axis=1)
        line_only = np.zeros(len(size), bool)
        line_only[np.unique(region[np.setdiff1d(np.arange(len(region)), self.solids)])] = True
        pieces = np.flatnonzero((size >= 12) & (owner > 0) & line_only)
        splits = len(pieces) - len(set(owner[pieces].tolist()))
        return np.array([leaks, len(self.broken), splits, hits, len(real), int(((size > 0) & (size < 12)).sum())])


def draw_case(kind: str, seed: int, gap: int) -> Drawing:
    """Shapes by script, or a page of the demo book at about 1400 px with breaks of its own."""
    if kind == "shapes":
        return make_drawing(seed, gap)
    from drip_pot.demo.works import draw

    ink = draw(kind, 500 if kind.startswith("sequence") else 136).ink.copy()
    truth = _true_regions(ink)
    return Drawing(ink, truth, _break(np.random.default_rng(seed), ink, truth, gap) if gap else [])


def make_case(spec: tuple) -> Case:
    """Draw a case (kind, seed, gap in px, '' or 'scan' or 'soft') and divide it."""
    kind, seed, gap, manner = spec
    drawing = draw_case(kind, seed, gap)
    ink = drawing.ink
    if manner == "scan":
        gray, _ = flawed_scan(ink, 200, seed + 1)
        evened = remove_paper(gray, estimate_paper(gray))
        ink = coverage(evened, suggest_settings(evened, 200))
    elif manner == "soft":
        ink = (ink * 0.55).astype(np.uint8)
    atoms = find_atoms(ink)
    areas, borders = label_areas(atoms.labels, atoms.count), find_borders(atoms.labels)
    part = decide(atoms, gap_px=auto_gap(atoms))
    kinds = int(drawing.truth.max()) + 1
    shared = np.bincount(
        atoms.labels.ravel().astype(np.int64) * kinds + drawing.truth.ravel(), minlength=(atoms.count + 1) * kinds
    ).reshape(atoms.count + 1, kinds)
    return Case(
        spec,
        areas,
        borders,
        atoms.bridges,
        atoms.edges,
        atoms.line_px,
        atoms.solids,
        shared,
        drawing.broken,
        part.region,
    )


def judge_case(spec: tuple) -> tuple[tuple, np.ndarray]:
    """Divide a case with default settings and count."""
    case = make_case(spec)
    return spec, case.counts(case.region)


def told(found: list) -> None:
    """Print counts by kind and damage."""
    groups: dict = {}
    for (kind, _, gap, manner), counts in found:
        for name in ((("shapes" if kind == "shapes" else "demo pages"), manner or f"breaks {gap} px"), ("all", "")):
            groups[name] = groups.get(name, 0) + counts
    for (kind, manner), (leaks, broken, splits, hits, regions, crumbs) in sorted(groups.items()):
        print(
            f"{kind:10s} {manner:12s} leaks {100 * leaks / max(broken, 1):5.1f} % of {broken:4d}, needless splits "
            f"{100 * splits / regions:5.1f} per 100, found {100 * hits / regions:5.1f} % of {regions}, crumbs {crumbs}"
        )


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 8
    start = int(sys.argv[2]) if len(sys.argv) > 2 else 501
    manners = ((0, ""), (4, ""), (8, ""), (16, ""), (0, "scan"), (0, "soft"))
    seeds = range(start, start + 2 * count, 2)
    specs = [("shapes", seed + 10 * k, *manner) for seed in seeds for k, manner in enumerate(manners)]
    told([judge_case(spec) for spec in specs])


if __name__ == "__main__":
    main()
