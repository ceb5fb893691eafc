# SPDX-License-Identifier: GPL-3.0-or-later
"""Fit the trees that tell whose a line is (src/drip_pot/core/holds/whose.npz), and report what they are worth.

Run `python benchmarks/lines/fit.py FOLDER [--out FILE]` on what `truth.py` kept in FOLDER. Fitted on
*fit* and *more*, what a verdict is worth is counted on *choose*; *judge* is only reported. Every drawing is met without
colours, and with the colours of its fills as pots. Needs CatBoost. Some minutes on two cores.
"""

import argparse
import sys
import zlib
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from functools import partial
from pathlib import Path

import cv2
import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1] / "gaps"))
from drip_pot.core.holds import BORDER, Outlines, find_line_pieces, whose

OUT = Path(whose.__file__).with_name("whose.npz")
TREES, DEPTH = 1500, 6
_OWN, _LEAST_TOLD = 0.6, 0.2


@dataclass
class Told:
    """A drawing: what is known of its pieces from both sides, pixels told for either, and what is alike."""

    name: str
    one: np.ndarray
    two: np.ndarray
    first: np.ndarray
    second: np.ndarray
    pots: np.ndarray
    share: float


def told_by(path: Path, cut: bool = False) -> list[Told]:
    """Return a drawing without colours, and with them; nothing where its shapes tell too little.

    With `cut` it is met once more as a panel shows it: a window of it, whose edge cuts shapes off.
    """
    with np.load(path, allow_pickle=True) as kept:
        labels, region, areas, ink, of, fills = (kept[k] for k in ("labels", "region", "areas", "ink", "of", "fills"))
        line_px, name = float(kept["line_px"]), str(kept["name"])
    found = _told(labels, region, areas, ink, of, fills, line_px, name)
    if not cut:
        return found
    rng = np.random.default_rng(zlib.crc32(name.encode()))
    starts = [int(rng.uniform(0, 0.4) * size) for size in ink.shape]
    ends = [start + int(rng.uniform(0.45, 0.8) * size) for start, size in zip(starts, ink.shape, strict=True)]
    window = tuple(slice(start, end) for start, end in zip(starts, ends, strict=True))
    labels, ink, of = (np.ascontiguousarray(plane[window]) for plane in (labels, ink, of))
    areas = np.bincount(labels.reshape(-1), minlength=len(areas))
    return found + _told(labels, region, areas, ink, of, fills, line_px, name)


def _told(labels, region, areas, ink, of, fills, line_px, name) -> list[Told]:
    pieces = find_line_pieces(labels, region, areas, ink, line_px)
    plane, count = region[labels], len(areas)
    filled = (of > 0) & (of % 2 == 0)
    kinds = int(of.max()) // 2 + 1
    joint = np.bincount(plane[filled].astype(np.int64) * kinds + of[filled] // 2, minlength=count * kinds)
    joint = joint.reshape(count, kinds)
    free = np.bincount(plane[of % 2 == 0], minlength=count)
    shape = np.where(joint.max(axis=1) > _OWN * np.maximum(free, 1), joint.argmax(axis=1), 0)
    stroke = (of % 2 == 1) & (of > 1) & (pieces.plane > 0)
    piece, owner = pieces.plane[stroke], of[stroke] // 2
    counts = [np.bincount(piece, owner == shape[pieces.sides[piece, k]], pieces.count + 1) for k in (0, 1)]
    apart = (pieces.form == BORDER) & (shape[pieces.sides[:, 0]] != shape[pieces.sides[:, 1]])
    first, second = (np.where(apart, c, 0.0) for c in counts)
    border = pieces.form[piece] == BORDER
    share = (first.sum() + second.sum()) / max(border.sum(), 1)
    if share < _LEAST_TOLD or (first + second > 0).sum() < 8:
        return []
    _, pot = np.unique(fills[shape], return_inverse=True)
    none = np.zeros(count, np.int64)
    found = []
    for pots in (none, np.where(shape > 0, pot + 1, 0)):
        one, two = whose.describe(Outlines(pieces, pots, pots, pieces.edge))
        keep = first + second > 0
        found.append(Told(name, one[keep], two[keep], first[keep], second[keep], pots[pieces.sides[keep]], share))
    return found


def gathered(folder: Path, split: str, *, cut: bool = False) -> list[list[Told]]:
    """Return the drawings of a split."""
    paths = sorted(folder.glob(f"{split}-*.npz"))
    with ProcessPoolExecutor(2, initializer=cv2.setNumThreads, initargs=(1,)) as pool:
        return [some for some in pool.map(partial(told_by, cut=cut), paths, chunksize=8) if some]


def rows_of(drawings: list[list[Told]]) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return what is known, the answer and the weight of every piece from both sides; drawings weigh alike."""
    known, answer, weight = [], [], []
    for some in drawings:
        for told in some:
            whole = (told.first + told.second).sum() * (1 + 1 / np.sqrt(len(told.first)))
            for rows, right, wrong in ((told.one, told.first, told.second), (told.two, told.second, told.first)):
                known += [rows, rows]
                answer += [np.ones(len(rows)), np.zeros(len(rows))]
                weight += [right / whole, wrong / whole]
    x, y, w = np.concatenate(known), np.concatenate(answer), np.concatenate(weight)
    keep = w > 0
    return x[keep], y[keep], w[keep] / w[keep].mean()


def grow(known, answer, weight, trees=TREES, seed=0):
    """Fit boosted oblivious trees."""
    import json
    from tempfile import TemporaryDirectory

    from catboost import CatBoostClassifier

    model = CatBoostClassifier(
        iterations=trees, depth=DEPTH, learning_rate=0.05, rsm=0.4, l2_leaf_reg=6, thread_count=2, verbose=False,
        random_seed=seed, allow_writing_files=False,
    )  # fmt: skip
    model.fit(known, answer.astype(int), sample_weight=weight)
    with TemporaryDirectory() as folder:
        model.save_model(f"{folder}/t.json", format="json")
        told = json.loads(Path(f"{folder}/t.json").read_text())
    scale, (bias,) = told["scale_and_bias"]
    index = {f["feature_index"]: f["flat_feature_index"] for f in told["features_info"]["float_features"]}
    trees = [t for t in told["oblivious_trees"] if len(t["splits"] or ()) == DEPTH]
    return whose.Trees(
        np.array([[index[q["float_feature_index"]] for q in t["splits"]] for t in trees]),
        np.array([[q["border"] for q in t["splits"]] for t in trees], np.float32),
        np.array([t["leaf_values"] for t in trees], np.float32) * np.float32(scale),
        float(bias),
    )


def logit(models: list, told: Told) -> np.ndarray:
    """Return what models say for the first side of pieces."""
    return np.mean([m.logit(told.one) - m.logit(told.two) for m in models], axis=0) / 2


def alike(score: np.ndarray, told: Told, share: float) -> np.ndarray:
    """Let pieces between the same two pots agree by a share."""
    a, b = told.pots.T
    turned = np.where(a > b, -1.0, 1.0)
    _, which = np.unique(np.minimum(a, b) * 100_000 + np.maximum(a, b), return_inverse=True)
    which = which.reshape(-1)
    size = (told.first + told.second) * (a != b)
    mean = np.bincount(which, turned * score * size) / np.maximum(np.bincount(which, size), 1e-9)
    return np.where((a == b) | (a == 0) | (b == 0), score, (1 - share) * score + share * mean[which] * turned)


def said_of(models: list, told: Told) -> np.ndarray:
    """Return what the program makes of a drawing: logits, pieces between the same two pots half alike."""
    return alike(logit(models, told), told, 0.5)


def worth(models: list, drawings: list[list[Told]]) -> np.ndarray:
    """Count how clear verdicts are: what trees say, and twice the share that was right, less one; both rise."""
    said = np.concatenate([said_of(models, told) for some in drawings for told in some])
    first, second = (np.concatenate([getattr(told, k) / (told.first + told.second).sum() for some in drawings
                                     for told in some]) for k in ("first", "second"))  # fmt: skip
    right, whole, size = np.where(said >= 0, first, second), first + second, np.abs(said)
    at = np.array([0, 0.15, 0.4, 0.7, 1.0, 1.4, 1.8, 2.3, 2.9, 3.6, 4.5, 6.0])
    near = np.exp(-(((size[:, None] - at) / (0.12 + 0.15 * at)) ** 2) / 2)
    share = (near * right[:, None]).sum(axis=0) / (near * whole[:, None]).sum(axis=0)
    return np.array([at, np.maximum.accumulate(np.clip(2 * share - 1, 0, 0.998)) * (at > 0)])


def report(models: list, counted: np.ndarray, drawings: list[list[Told]], title: str) -> None:
    """Print what is right, and how much of it is sure."""
    for k, kind in enumerate(("without colours", "with colours")):
        right, whole, sure, sure_right, by = 0.0, 0.0, 0.0, 0.0, []
        for some in drawings:
            score = said_of(models, some[k])
            r = np.where(score >= 0, some[k].first, some[k].second)
            n = some[k].first + some[k].second
            firm = np.interp(np.abs(score), *counted) >= 0.8
            by.append(r.sum() / n.sum())
            right, whole = right + r.sum(), whole + n.sum()
            sure, sure_right = sure + n[firm].sum(), sure_right + r[firm].sum()
        print(f"{title}, {len(drawings)} drawings {kind}: {np.mean(by):.1%} right by drawing, {right / whole:.1%} of "
              f"line; sure of {sure / whole:.0%}, "
              f"of that {sure_right / max(sure, 1):.1%} right", flush=True)  # fmt: skip


def main() -> None:
    """Fit, count, store and report."""
    asks = argparse.ArgumentParser(description=__doc__)
    asks.add_argument("folder", type=Path)
    asks.add_argument("--out", type=Path, default=OUT)
    asks.add_argument("--trees", type=int, default=TREES)
    asked = asks.parse_args()
    splits = ("fit", "more", "choose", "judge")
    sets = {split: gathered(asked.folder, split, cut=split in splits[:2]) for split in splits}
    print({split: len(some) for split, some in sets.items()}, "drawings", flush=True)
    model = grow(*rows_of(sets["fit"] + sets["more"]), asked.trees)
    counted = worth([model], sets["choose"])
    print(counted.round(3).tolist())
    np.savez_compressed(asked.out, feature=model.feature.astype(np.uint8), border=model.border,
                        leaf=model.leaf.astype(np.float16), bias=np.float32(model.bias),
                        worth=counted.astype(np.float32), drawings=len(sets["fit"]) + len(sets["more"]))  # fmt: skip
    for split in ("fit", "choose", "judge"):
        report([model], counted, sets[split], split)


if __name__ == "__main__":
    main()
