# SPDX-License-Identifier: GPL-3.0-or-later
"""Fit the networks that judge bridges (src/drip_pot/core/regions/judge.npz) on *fit*; docs/weights.md has the steps.

    python benchmarks/gaps/fit.py [--folder DIR] [--every N] [--out FILE]

`--every 10` fits on a tenth of the cases, to see that all of it runs; give it another file to write.

Needs PyTorch and CatBoost beside what the engine needs; the engine itself runs the weights with NumPy. First the
local judge, on every bridge proposed; then, on what it leaves, the pair judge, on pairs met at several stages of
joining: by chance, and by the judge's own joining. Each drawing is described to the second by a local judge that has
not seen it. An hour and a quarter on two cores. `calibrate.py` comes after.
"""

import argparse
import json
import pickle
import subprocess
import zlib
from concurrent.futures import ProcessPoolExecutor
from functools import partial
from importlib import import_module
from importlib.metadata import version
from itertools import pairwise
from pathlib import Path
from tempfile import TemporaryDirectory

import art
import cv2
import numpy as np
from cases import Spec, divide, drawing_of, fit_specs, owners_of, shares

from drip_pot.book import ENGINE
from drip_pot.core.regions import atoms as atoms_module
from drip_pot.core.regions import weights
from drip_pot.core.regions.company import company
from drip_pot.core.regions.judge import components, pair_features

judge_module = import_module("drip_pot.core.regions.judge")  # the package exports a function of that name
OUT = Path(weights.__file__).with_name("judge.npz")
_FLAT = np.zeros((judge_module.PAIR, 1), np.float32), np.array([9.0], np.float32)
APART = ([weights.Network(_FLAT[0][:, 0], np.ones(judge_module.PAIR, np.float32), (_FLAT,))], [])
"""A pair judge that joins nothing."""
STAGES = (0.0, 0.3, 0.6, 0.85, 0.97)
LEAK = 2.0
FOLDS = 2
WORTH = {"page": 2.5, "demo": 2.0}
"""How much a pair of these sources counts; one of other drawings counts 1. They are fewer, and comic pages."""
TURNS = (6, 2)
"""Of so many cases one is met in each turn: in the first by chance, then by what that turn's judge joined as well."""
LOCAL_HIDDEN, PAIR_HIDDEN = (128, 64), (64, 32)
LOCAL_TREES, PAIR_TREES = 1500, 300


def fold_of(spec: Spec) -> int:
    """Drawings of one name share a fold."""
    return zlib.crc32(f"{spec.source}{spec.name}{spec.seed if spec.source == 'page' else ''}".encode()) % FOLDS


def local_samples(spec: Spec):
    """Evidence of every proposed bridge, whether it parts two things, and its weight.

    Both mouths of a break across a thick stroke part; what is closed there weighs as much as what lies behind it.
    """
    use({"local": APART, "pair": APART})
    drawing = drawing_of(spec)
    proposal = atoms_module.propose(drawing.ink)
    found = atoms_module.divide_by(proposal, proposal.bridges)
    shared, lies = shares(found.labels, found.count, drawing)
    owner, size = owners_of(shared, lies), np.where(lies != 0, np.inf, found.areas)
    one, two, bridge = found.edges.T
    smaller = np.minimum(size[one], size[two])
    order = np.lexsort((-smaller, bridge))
    bridges, first = np.unique(bridge[order], return_index=True)
    best = order[first]
    known = (owner[one[best]] != 0) & (owner[two[best]] != 0)
    parts = owner[one[best]] != owner[two[best]]
    smaller = np.where(~parts & ((lies[one[best]] != 0) | (lies[two[best]] != 0)), 0, smaller[best])
    weight = np.clip(smaller / (30 * max(proposal.line_px, 1) ** 2), 0.15, 1)
    return proposal.evidence[bridges[known]], parts[known], weight[known]


def train(known, answer, weight, hidden, seed, rounds, rate=2e-3, decay=1e-4, drop=0.1):
    """Fit one network (AdamW, cosine rate): mean, spread and layers as float32."""
    import torch

    torch.manual_seed(seed)
    torch.set_num_threads(2)
    mean, spread = known.mean(axis=0), known.std(axis=0) + 1e-4
    x = torch.tensor(np.clip((known - mean) / spread, -5, 5).astype(np.float32))
    y, w = torch.tensor(answer.astype(np.float32)), torch.tensor((weight / weight.mean()).astype(np.float32))
    sizes = [known.shape[1], *hidden]
    layers = []
    for a, b in pairwise(sizes):
        layers += [torch.nn.Linear(a, b), torch.nn.ReLU(), torch.nn.Dropout(drop)]
    net = torch.nn.Sequential(*layers, torch.nn.Linear(sizes[-1], 1))
    optimizer = torch.optim.AdamW(net.parameters(), lr=rate, weight_decay=decay)
    batch = 1024
    steps = rounds * (len(x) // batch + 1)
    schedule = torch.optim.lr_scheduler.OneCycleLR(optimizer, rate, total_steps=steps + 1)
    for _ in range(rounds):
        for k in torch.randperm(len(x)).split(batch):
            loss = torch.nn.functional.binary_cross_entropy_with_logits(net(x[k])[:, 0], y[k], w[k])
            optimizer.zero_grad()
            loss.backward()
            optimizer.step()
            schedule.step()
    linear = [m for m in net if isinstance(m, torch.nn.Linear)]
    layers = tuple((m.weight.detach().numpy().T.copy(), m.bias.detach().numpy().copy()) for m in linear)
    return weights.Network(mean.astype(np.float32), spread.astype(np.float32), layers)


def grow(known, answer, weight, count, rate, share, depth=6, seed=1):
    """Fit boosted oblivious trees."""
    from catboost import CatBoostClassifier

    model = CatBoostClassifier(
        iterations=count, depth=depth, learning_rate=rate, rsm=share, thread_count=2, verbose=False, random_seed=seed,
        allow_writing_files=False,
    )  # fmt: skip
    model.fit(known, answer.astype(int), sample_weight=weight)
    with TemporaryDirectory() as folder:
        model.save_model(f"{folder}/trees.json", format="json")
        told = json.loads(Path(f"{folder}/trees.json").read_text())
    trees = [_padded(tree, depth) for tree in told["oblivious_trees"]]
    scale, (bias,) = told["scale_and_bias"]
    names = told["features_info"]["float_features"]
    index = {f["feature_index"]: f["flat_feature_index"] for f in names}
    return weights.Trees(
        np.array([[index[q["float_feature_index"]] for q in t["splits"]] for t in trees]),
        np.array([[q["border"] for q in t["splits"]] for t in trees], np.float32),
        np.array([t["leaf_values"] for t in trees], np.float32) * np.float32(scale),
        float(bias),
    )


def _padded(tree: dict, depth: int) -> dict:
    """A tree that asks fewer questions, as few cases give them, with more that are always answered no."""
    lacks = depth - len(tree["splits"] or ())
    never = {"float_feature_index": tree["splits"][0]["float_feature_index"] if tree["splits"] else 0, "border": np.inf}
    leaves = [*tree["leaf_values"], *[0.0] * ((1 << depth) - len(tree["leaf_values"]))]
    return {"splits": [*(tree["splits"] or ()), *[never] * lacks], "leaf_values": leaves}


def use(judges: dict) -> None:
    """Let the engine of this process judge by these networks and trees."""
    weights.judges = lambda: judges


def store(judges: dict, out: Path, cases: int) -> None:
    """Write weights as the program ships them; what a verdict is worth is not known yet."""
    kept = {"worth": np.array([[0, 1], [0, 1]], np.float32), "fit": np.array(json.dumps(made_of(cases)))}
    for name, (networks, trees) in judges.items():
        for k, net in enumerate(networks):
            top = f"{name}.network.{k}"
            kept |= {f"{top}.mean": net.mean, f"{top}.spread": net.spread}
            for j, (weight, bias) in enumerate(net.layers):
                kept |= {f"{top}.weight.{j}": weight.astype(np.float16), f"{top}.bias.{j}": bias}
        for k, tree in enumerate(trees):
            top = f"{name}.trees.{k}"
            kept |= {f"{top}.feature": tree.feature.astype(np.uint8), f"{top}.border": tree.border,
                     f"{top}.leaf": tree.leaf.astype(np.float16), f"{top}.bias": np.float32(tree.bias)}  # fmt: skip
    np.savez_compressed(out, **kept)


def made_of(cases: int) -> dict:
    """Return what a fit is made of: engine, state of the code, list of drawings, how many cases, packages."""
    state = subprocess.run(["git", "describe", "--always", "--dirty"], capture_output=True, text=True, check=False)
    return {
        "engine": ENGINE, "code": state.stdout.strip(), "sources": sources_key(), "cases": cases,
        "drawings": f"{zlib.crc32(art.LIST.read_bytes()):08x}",
        "packages": {name: version(name) for name in ("torch", "catboost", "resvg", "numpy", "opencv-python-headless")},
    }  # fmt: skip


def sources_key() -> str:
    """Return a checksum of the code that a step depends on: this folder's, and that which divides."""
    folders = Path(__file__).parent, Path(weights.__file__).parent
    paths = sorted(path for folder in folders for path in folder.rglob("*.py"))
    return f"{zlib.crc32(b''.join(path.read_bytes() for path in paths)):08x}"


def pair_samples(job):
    """Pairs of a case at stages of joining by chance and by the judge itself: what is known, parts, weight."""
    spec, networks, by_judge = job
    use(networks)
    case = divide(spec)
    atoms, count = case.atoms, len(case.atoms.areas)
    rng = np.random.default_rng(zlib.crc32(repr(spec).encode()))
    owner = case.owners(np.arange(count))
    others = company(atoms.bridges, atoms.line_px, count - 1)
    found = []

    def take(region, share=1.0):
        one, two, known, _, _ = pair_features(
            region, atoms.areas, atoms.borders, atoms.bridges, others, atoms.edges, atoms.line_px
        )
        owners, size = case.owners(region), np.bincount(region, weights=atoms.areas, minlength=count)
        parts, mouth = owners[one] != owners[two], case.opened != 0
        size = np.where(mouth, np.inf, size)
        small = np.minimum(size[one], size[two]) / max(atoms.line_px, 1) ** 2
        small = np.where(~parts & (mouth[one] | mouth[two]), 0, small)
        good = (owners[one] != 0) & (owners[two] != 0) & (rng.random(len(one)) < share)
        found.append(
            (
                known[good].astype(np.float32),
                parts[good],
                (np.clip(small / 30, 0.15, 1) * np.where(parts, LEAK, 1))[good],
            )
        )

    if len(atoms.edges):
        same = owner[atoms.edges[:, 0]] == owner[atoms.edges[:, 1]]
        for share in STAGES:
            joined = same & (rng.random(len(atoms.edges)) < share)
            take(components(count, atoms.edges[joined, 0], atoms.edges[joined, 1]))
        if by_judge:
            met: list = []
            judge_module.judge(atoms.areas, atoms.borders, atoms.bridges, atoms.edges, atoms.line_px, met.append)
            for region in met[2::4]:
                take(region)
    return spec, found


def gathered(parts):
    """Join lists of (known, parts, weight)."""
    return tuple(np.concatenate(column) for column in zip(*parts, strict=True))


def kept(folder: Path, name: str, make):
    """What a step gave when it ran before with the same code and the same drawings, else make it."""
    path = folder / f"{name}-{sources_key()}-{zlib.crc32(art.LIST.read_bytes()):08x}.pickle"
    if not path.exists():
        path.write_bytes(pickle.dumps(make()))
    return pickle.loads(path.read_bytes())


def fit_local(samples: list, folds) -> list:
    """Judges for each fold, fitted on the others, and those fitted on all."""
    out = []
    for fold in range(FOLDS):
        seen, unseen = (gathered([s for s, f in zip(samples, folds, strict=True) if (f == fold) == k]) for k in (0, 1))
        out.append(([train(*seen, LOCAL_HIDDEN, k, 12) for k in range(2)], [grow(*seen, LOCAL_TREES, 0.06, 0.15)]))
        use({"local": out[fold]})
        score = auc(judge_module.local_judge(unseen[0]), unseen[1], unseen[2])
        print(f"local judge on the fold it has not seen: area under the curve {score:.4f}", flush=True)
    every = gathered(samples)
    networks = [train(*every, LOCAL_HIDDEN, 10 + k, 12) for k in range(2)]
    return [*out, (networks, [grow(*every, LOCAL_TREES, 0.06, 0.15)])]


def fit_pairs(samples: list, seed: int):
    """Judges fitted on pairs."""
    every = gathered(samples)
    networks = [train(*every, PAIR_HIDDEN, seed + k, 12) for k in range(3)]
    return networks, [grow(*every, PAIR_TREES, 0.06, 0.3, seed=seed + 1)]


def main() -> None:
    """Fit, step by step; what a step gave is kept in the folder given (or the current one)."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--folder", type=Path, default=Path())
    parser.add_argument("--every", type=int, default=1)
    parser.add_argument("--out", type=Path, default=OUT)
    args = parser.parse_args()
    folder: Path = args.folder / f"every-{args.every}"
    folder.mkdir(parents=True, exist_ok=True)
    specs = fit_specs()[:: args.every]
    folds = [fold_of(spec) for spec in specs]
    with ProcessPoolExecutor(2, initializer=cv2.setNumThreads, initargs=(1,)) as pool:

        def spread(work, jobs):
            return lambda: list(pool.map(work, jobs, chunksize=4))

        local = kept(folder, "local", spread(local_samples, specs))
        nets = kept(folder, "local_nets", partial(fit_local, local, folds))
        pair = APART
        for turn, share in enumerate(TURNS):
            judges = [{"local": nets[f], "pair": pair} for f in folds]
            jobs = [(s, judge, turn > 0) for s, judge in zip(specs, judges, strict=True)][::share]
            met = kept(folder, f"pairs_{turn}", spread(pair_samples, jobs))
            samples = [(*known, weight * WORTH.get(s.source, 1)) for s, found in met for *known, weight in found]
            pair = kept(folder, f"pair_nets_{turn}", partial(fit_pairs, samples, 20 * turn))
            print(f"turn {turn}: {sum(len(s[0]) for s in samples)} pairs", flush=True)
        store({"local": nets[-1], "pair": pair}, args.out, len(specs))


def auc(score, answer, weight) -> float:
    """Area under the curve, weighted."""
    order = np.argsort(score)
    w, y = weight[order], answer[order]
    below = np.cumsum(w * ~y)
    return float((below * w * y).sum() / max(below[-1] * (w * y).sum(), 1e-9))


if __name__ == "__main__":
    main()
