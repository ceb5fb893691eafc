# SPDX-License-Identifier: GPL-3.0-or-later
"""Drawings with breaks, divided by the engine and counted against their truth; see `art` for where they come from."""

import os
import zlib
from dataclasses import dataclass
from pathlib import Path

import art
import cv2
import damage
import numpy as np

from drip_pot.core.inks import coverage, estimate_paper, remove_paper, suggest_settings
from drip_pot.core.regions import auto_gap, decide, find_atoms
from drip_pot.devices import flawed_scan

DEMO_FIT = ("page-1", "page-3", "cover", "sequence-1")
DEMO_JUDGE = ("page-2", "page-4", "sequence-3")
WHOLE = ("clean", "scan", "soft", "hair")


@dataclass(frozen=True)
class Spec:
    """A case: where the drawing comes from, its size, what is done to it, the width of breaks, a seed."""

    source: str
    name: str
    long_px: int
    manner: str
    gap_px: float = 0.0
    seed: int = 0
    share: float = 0.5


def fit_specs() -> list[Spec]:
    """What weights are fitted on: drawings of *fit*, and of *more*, pages of panels, half of the demo's works."""
    rng = np.random.default_rng(11)
    found = []
    for name in art.listed()["fit"]:
        for k in range(4):
            size = int(rng.choice((1000, 1400, 2000), p=(0.3, 0.5, 0.2)))
            manner = (
                "mix" if k else str(rng.choice(("clean", "scan", "soft", "hair", "mix"), p=(0.4, 0.2, 0.15, 0.1, 0.15)))
            )
            gap = float(np.exp(rng.uniform(np.log(2.5), np.log(34 * size / 2000 + 6)))) if manner == "mix" else 0.0
            share = float(rng.choice((0.5, 0.15, 0.0), p=(0.6, 0.25, 0.15)))
            found.append(Spec("art", name, size, manner, gap, int(rng.integers(1 << 30)), share))
    found += [
        Spec("page", "fit", 2000, "mix" if k % 4 else "clean", float(rng.uniform(4, 30)), 100 + k) for k in range(44)
    ]
    for name in DEMO_FIT:
        for k, size in enumerate((1000, 1400, 2000, 1400)):
            found.append(Spec("demo", name, size, ("clean", "mix", "mix", "mix")[k], (0, 5, 14, 9)[k], k + 5))
    for name in art.listed()["fit"]:
        other = int(rng.choice((1000, 2000), p=(0.7, 0.3)))
        for size in (1400, 1400, other, other):
            gap = float(np.exp(rng.uniform(np.log(2.5), np.log(34 * size / 2000 + 6))))
            found.append(Spec("art", name, size, "mix", gap, int(rng.integers(1 << 30)), float(rng.choice((0.6, 0.2)))))
    for name in DEMO_FIT:
        found += [Spec("demo", name, size, "mix", gap, 40 + k) for k, (size, gap) in
                  enumerate(((1000, 3), (1000, 8), (1400, 4), (1400, 7), (2000, 6), (2000, 11)))]  # fmt: skip
    for k, name in enumerate(art.listed()["fit"]):  # a 'mix' has few corners, as few borders have any
        gap = float(np.exp(rng.uniform(np.log(3), np.log(16))))
        found.append(Spec("art", name, 1400, "corner", gap, int(rng.integers(1 << 30)), 0.8))
        if k % 2 == 0:
            found.append(Spec("art", name, 1400, ("clean", "scan", "clean", "soft")[k // 2 % 4], 0.0, 50 + k))
    return found + _more_specs() + _other_specs()


def _more_specs() -> list[Spec]:
    """The same drawings damaged anew, most in the manners that are hardest to tell: each twice the cases is better."""
    rng = np.random.default_rng(23)
    found = [Spec("page", "fit", 2000, ("frame", "mix")[k % 2], float(rng.uniform(4, 24)), 200 + k) for k in range(60)]
    for k, name in enumerate(art.listed()["fit"]):
        ways = (damage.FAMILY,) * 4
        for way in (*ways, str(rng.choice(("corner", "undershot", "dry"))), "mix"):
            size = int(rng.choice((700, 1000, 1400, 2000), p=(0.1, 0.25, 0.45, 0.2)))
            gap = float(np.exp(rng.uniform(np.log(2.5), np.log(24 * size / 1400))))
            share = float(rng.choice((0.8, 0.5, 0.2)))
            found.append(Spec("art", name, size, way, gap, int(rng.integers(1 << 30)), share))
        found.append(Spec("art", name, 1000 if k % 2 else 1400, ("clean", "scan", "soft")[k % 3], 0.0, 500 + k))
    return found


def _other_specs() -> list[Spec]:
    """Drawings of *more*, which nothing is compared on: what is new in a drawing teaches more than damage done anew.

    Those that are akin to one that is compared on are left out.
    """
    rng = np.random.default_rng(31)
    found = [Spec("page", "more", 2000, ("frame", "mix")[k % 2], float(rng.uniform(4, 24)), 300 + k) for k in range(40)]
    akin = art.listed()["akin"]
    for k, name in enumerate(sorted([*art.listed()["more"], *akin])):
        other = ("ragged", "round", "square", "dry", "tapered", "thread")[k // 2 % 6]
        for way in ((damage.FAMILY, damage.FAMILY, other), (damage.FAMILY, "mix"))[k % 2]:
            size = int(rng.choice((700, 1000, 1400, 2000), p=(0.1, 0.25, 0.45, 0.2)))
            gap = float(np.exp(rng.uniform(np.log(2.5), np.log(24 * size / 1400))))
            share = float(rng.choice((0.8, 0.5, 0.2)))
            found.append(Spec("art", name, size, way, gap, int(rng.integers(1 << 30)), share))
        if k % 3:
            found.append(Spec("art", name, 1000 if k % 2 else 1400, WHOLE[k // 6 % 4], 0.0, 700 + k))
    return [spec for spec in found if spec.name not in akin]


def grid_specs(split: str, every: int = 1, sizes: tuple[int, ...] = (1400,)) -> list[Spec]:
    """What is compared on: each drawing of a split whole and in every manner, pages of panels, the demo's works."""
    found = []
    for k, name in enumerate(art.listed()[split][::every]):
        for size in sizes:
            found += [Spec("art", name, size, manner, 0.0, k) for manner in WHOLE]
            every = (*damage.MANNERS, damage.FAMILY, *damage.HELD)
            found += [Spec("art", name, size, manner, 8.0, 7 * k + 1) for manner in every]
            found += [Spec("art", name, size, "round" if k % 2 else "ragged", gap, 7 * k + 2) for gap in (4.0, 16.0)]
    found += [Spec("page", split, 2000, manner, gap, 900 + k) for k in range(8 if every == 1 else 5)
              for manner, gap in (("clean", 0.0), ("frame", 8.0), ("frame", 20.0), ("mix", 10.0))]  # fmt: skip
    works = DEMO_JUDGE if split == "judge" else DEMO_FIT
    found += [Spec("demo", name, 1400, manner, gap, 77) for name in works
              for manner, gap in (("clean", 0.0), ("mix", 4.0), ("mix", 8.0), ("mix", 16.0))]  # fmt: skip
    return found


def drawing_of(spec: Spec) -> art.Drawing:
    """Draw a case; kept in the folder of DRIP_POT_CASES, where that is set."""
    folder = os.environ.get("DRIP_POT_CASES")
    kept = Path(folder) / f"{zlib.crc32(repr(spec).encode()):08x}.npz" if folder else None
    if kept is not None and kept.exists():
        with np.load(kept, allow_pickle=True) as file:
            return art.Drawing(
                file["ink"], file["truth"], file["broken"].tolist(), file["panels"].tolist(), file["paper"]
            )
    made = _draw(spec)
    if kept is not None:
        kept.parent.mkdir(parents=True, exist_ok=True)
        broken, panels = np.array(made.broken, object), np.array(made.panels)
        np.savez_compressed(kept, ink=made.ink, truth=made.truth, broken=broken, panels=panels, paper=made.paper)
    return made


def _draw(spec: Spec) -> art.Drawing:
    rng = np.random.default_rng(spec.seed)
    if spec.source == "art":
        whole = art.drawing(spec.name, spec.long_px)
    elif spec.source == "demo":
        whole = art.demo(spec.name, spec.long_px)
    else:
        names = list(art.listed()[spec.name])
        rng.shuffle(names)
        whole = art.composed(names[:12], spec.seed, spec.long_px)
    if spec.manner == "frame" or (spec.source == "page" and spec.manner == "mix"):
        broken = damage.frame_breaks(whole, spec.gap_px, rng)
        if spec.manner == "mix":
            more = damage.break_up(art.Drawing(broken.ink, whole.truth), spec.gap_px, "mix", rng)
            broken = art.Drawing(more.ink, whole.truth, broken.broken + more.broken, whole.panels, whole.paper)
        return broken
    if spec.gap_px:
        return damage.break_up(whole, spec.gap_px, spec.manner, rng, spec.share, single=spec.share == 0)
    if spec.manner == "scan":
        gray, _ = flawed_scan(whole.ink, 200, spec.seed + 1)
        evened = remove_paper(gray, estimate_paper(gray))
        whole.ink = coverage(evened, suggest_settings(evened, 200))
    elif spec.manner == "soft":
        whole.ink = (whole.ink * 0.55).astype(np.uint8)
    elif spec.manner == "hair":
        whole.ink = np.maximum(_hairlines(whole.truth), 0)
    return whole


def _hairlines(truth):
    """The same regions parted by lines of one to one and a half pixels."""
    edge = np.zeros(truth.shape, np.uint8)
    edge[:, :-1] |= (truth[:, :-1] != truth[:, 1:]).view(np.uint8)
    edge[:-1] |= (truth[:-1] != truth[1:]).view(np.uint8)
    soft = cv2.GaussianBlur(edge * 255.0, (0, 0), 0.55)
    return np.clip(soft * 1.5, 0, 255).astype(np.uint8)


@dataclass
class Case:
    """A divided case: what the engine found, and how many pixels of each atom lie in each true region."""

    spec: Spec
    atoms: object
    shared: np.ndarray
    opened: np.ndarray
    broken: list
    unlabelled: int

    def owners(self, region: np.ndarray) -> np.ndarray:
        """Return what each region belongs to, see `owners_of`."""
        return owners_of(self.by_region(region), self.opened[region])

    def by_region(self, region: np.ndarray) -> np.ndarray:
        """Add up what atoms share with true regions."""
        total = np.zeros(self.shared.shape)
        np.add.at(total, region, self.shared)
        return total

    def counts(self, region: np.ndarray) -> np.ndarray:
        """Leaks, breaks, needless splits, regions found (IoU at least 0.75), true regions.

        Solid blacks are regions of their own kind and are no splits.
        """
        total = self.by_region(region)
        size, true_size = total.sum(axis=1), self.shared.sum(axis=0)
        leaks = int(self.leaked(region).sum())
        with np.errstate(all="ignore"):
            overlap = total / (size[:, None] + true_size[None] - total)
        real = np.flatnonzero(true_size[1:] > 0) + 1
        hits = int((overlap[:, real].max(axis=0) >= 0.75).sum()) if len(real) else 0
        owner = total.argmax(axis=1)
        line_only = np.zeros(len(size), bool)
        line_only[np.unique(region[np.setdiff1d(np.arange(len(region)), self.atoms.solids)])] = True
        pieces = np.flatnonzero((size >= 12) & (owner > 0) & line_only)
        splits = len(pieces) - len(set(owner[pieces].tolist()))
        return np.array([leaks, len(self.broken), splits, hits, len(real)])

    def leaked(self, region: np.ndarray) -> np.ndarray:
        """Whether the two regions of each break have become one."""
        best = self.by_region(region).argmax(axis=0)
        return np.array([best[a] == best[b] for a, b, _ in self.broken], bool)


def shares(labels: np.ndarray, count: int, drawing: art.Drawing) -> tuple[np.ndarray, np.ndarray]:
    """Pixels of each atom in each true region, on paper; and where atoms without paper lie, see `opened`."""
    kinds = int(drawing.truth.max()) + 1

    def counted(where: np.ndarray) -> np.ndarray:
        joint = labels[where].astype(np.int64) * kinds + drawing.truth[where]
        return np.bincount(joint, minlength=(count + 1) * kinds).reshape(count + 1, kinds)

    shared = counted(drawing.paper)
    return shared, opened(shared, counted(drawing.ink < 128))


def opened(shared: np.ndarray, white: np.ndarray) -> np.ndarray:
    """Say of each atom where it lies if all of it was line before the break.

    Returns
    -------
    (A + 1,) ndarray of int64
        0 where it holds paper of old or is no white; the one true region it lies in; or a number less than 0 of its
        own, where it reaches from one region to another: the mouths of a break across a thick stroke.
    """
    total = white.sum(axis=1)
    across = ((white > 2) & (white > 0.12 * total[:, None])).sum(axis=1) >= 2
    lies = np.where(across, -np.arange(1, len(white) + 1), white.argmax(axis=1))
    return np.where((shared.sum(axis=1) == 0) & (total > 0), lies, 0)


def owners_of(shared: np.ndarray, lies: np.ndarray) -> np.ndarray:
    """Return what pieces belong to: the true region under most of their paper, else where they lie (0 unknown)."""
    return np.where(shared.sum(axis=1) > 0, shared.argmax(axis=1), lies)


def divide(spec: Spec) -> Case:
    """Divide a case into atoms."""
    drawing = drawing_of(spec)
    atoms = find_atoms(drawing.ink)
    shared, lies = shares(atoms.labels, atoms.count, drawing)
    unlabelled = int((atoms.labels == 0).sum())
    atoms.__dict__["labels"] = np.zeros((0, 0), np.int32)
    return Case(spec, atoms, shared, lies, drawing.broken, unlabelled)


def score(spec: Spec) -> tuple[Spec, np.ndarray, np.ndarray]:
    """Default settings and, for what no decision could mend, the best that its atoms allow."""
    case = divide(spec)
    part = decide(case.atoms, gap_px=auto_gap(case.atoms))
    _, best = np.unique(case.owners(np.arange(len(case.shared))), return_inverse=True)
    return spec, case.counts(part.region), case.counts(best)


def told(found: list) -> None:
    """Print counts by source and manner."""
    groups: dict = {}
    for spec, counts, best in found:
        manner = spec.manner if not spec.gap_px else f"{spec.manner} {spec.gap_px:g}"
        if manner in ("round 4", "ragged 4", "round 16", "ragged 16"):
            manner = f"breaks {spec.gap_px:g}"
        for key in ((spec.source, manner), (spec.source, "= broken" if spec.gap_px else "= whole")):
            one = np.concatenate([counts, best])
            groups[key] = groups.get(key, 0) + one
    for (source, manner), (leaks, breaks, splits, hits, regions, blind, _, _, best, _) in sorted(groups.items()):
        share = 100 / max(breaks, 1), 100 / max(regions, 1)
        print(
            f"{source:5s} {manner:13s} leaks {leaks * share[0]:5.1f} % of {breaks:5d} (no candidate "
            f"{blind * share[0]:4.1f}), splits {splits * share[1]:5.1f} per 100, found {hits * share[1]:5.1f} % "
            f"of {regions} (possible {best * share[1]:5.1f})"
        )
