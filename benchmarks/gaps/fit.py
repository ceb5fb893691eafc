"""Fit the networks that judge bridges (src/drip_pot/core/regions/judge.npz) on *fit*: `python benchmarks/gaps/fit.py`.

Needs PyTorch (any version, CPU) beside what the engine needs; the engine itself runs the weights with NumPy. First the
local judge, on every bridge proposed; then, on what it leaves, the pair judge, on pairs met at several stages of
joining: by chance, and by the judge's own joining. Each drawing is described to the second by a local judge that has
not seen it. An hour on two cores.
"""

import pickle
import sys
import zlib
from concurrent.futures import ProcessPoolExecutor
from functools import partial
from importlib import import_module
from itertools import pairwise
from pathlib import Path

import cv2
import numpy as np
from cases import Spec, divide, drawing_of, fit_specs

from drip_pot.core.regions import atoms as atoms_module
from drip_pot.core.regions.judge import components, pair_features

judge_module = import_module("drip_pot.core.regions.judge")  # the package exports a function of that name
OUT = Path(judge_module.__file__).with_name("judge.npz")
APART = [(np.zeros(judge_module.PAIR, np.float32), np.ones(judge_module.PAIR, np.float32),
          [(np.zeros((judge_module.PAIR, 1), np.float32), np.array([9.0], np.float32))])]  # fmt: skip
"""A pair judge that joins nothing."""
STAGES = (0.0, 0.3, 0.6, 0.85, 0.97)
LEAK = 2.0
FOLDS = 2
TURNS = 1
LOCAL_HIDDEN, PAIR_HIDDEN = (96, 48), (64, 32)


def fold_of(spec: Spec) -> int:
    """Drawings of one name share a fold."""
    return zlib.crc32(f"{spec.source}{spec.name}{spec.seed if spec.source == 'page' else ''}".encode()) % FOLDS


def shares(labels, count, drawing):
    """Pixels of each atom in each true region, on paper."""
    kinds = int(drawing.truth.max()) + 1
    joint = labels[drawing.paper].astype(np.int64) * kinds + drawing.truth[drawing.paper]
    return np.bincount(joint, minlength=(count + 1) * kinds).reshape(count + 1, kinds)


def local_samples(spec: Spec):
    """Evidence of every proposed bridge, whether it parts two things, and its weight."""
    use({"local": [], "pair": APART})
    drawing = drawing_of(spec)
    proposal = atoms_module.propose(drawing.ink)
    found = atoms_module.divide_by(proposal, proposal.bridges)
    shared = shares(found.labels, found.count, drawing)
    owner, size = shared.argmax(axis=1), shared.sum(axis=1)
    one, two, bridge = found.edges.T
    smaller = np.minimum(size[one], size[two])
    order = np.lexsort((-smaller, bridge))
    bridges, first = np.unique(bridge[order], return_index=True)
    best = order[first]
    known = (owner[one[best]] > 0) & (owner[two[best]] > 0) & (smaller[best] > 0)
    parts = owner[one[best]] != owner[two[best]]
    weight = np.clip(smaller[best] / (30 * max(proposal.line_px, 1) ** 2), 0.15, 1)
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
    return (mean.astype(np.float32), spread.astype(np.float32),
            [(m.weight.detach().numpy().T.copy(), m.bias.detach().numpy().copy()) for m in linear])  # fmt: skip


def use(networks: dict) -> None:
    """Let the engine of this process judge by these networks."""
    judge_module._networks.cache_clear()
    judge_module._networks = lambda: networks
    judge_module._networks.cache_clear = lambda: None


def store(networks: dict) -> None:
    """Write the weights the program ships with."""
    kept = {}
    for name, nets in networks.items():
        for k, (mean, spread, layers) in enumerate(nets):
            kept |= {f"{name}.{k}.mean": mean, f"{name}.{k}.spread": spread}
            for j, (weight, bias) in enumerate(layers):
                kept |= {f"{name}.{k}.weight.{j}": weight.astype(np.float16), f"{name}.{k}.bias.{j}": bias}
    np.savez_compressed(OUT, **kept)


def pair_samples(job):
    """Pairs of a case at stages of joining by chance and by the judge itself: what is known, parts, weight."""
    spec, networks, by_judge = job
    use(networks)
    case = divide(spec)
    atoms, count = case.atoms, len(case.atoms.areas)
    rng = np.random.default_rng(zlib.crc32(repr(spec).encode()))
    owner = case.owners(np.arange(count))
    found = []

    def take(region, share=1.0):
        one, two, known, _, _ = pair_features(
            region, atoms.areas, atoms.borders, atoms.bridges, atoms.edges, atoms.line_px
        )
        owners, size = case.owners(region), np.bincount(region, weights=atoms.areas, minlength=count)
        shown = np.bincount(region, weights=case.shared.sum(axis=1), minlength=count)
        small = np.minimum(size[one], size[two]) / max(atoms.line_px, 1) ** 2
        parts = owners[one] != owners[two]
        good = (
            (np.minimum(shown[one], shown[two]) > 0)
            & (owners[one] > 0)
            & (owners[two] > 0)
            & (rng.random(len(one)) < share)
        )
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


def kept(path: Path, make):
    """What a step gave when it ran before, else make it."""
    if not path.exists():
        path.write_bytes(pickle.dumps(make()))
    return pickle.loads(path.read_bytes())


def fit_local(samples: list, folds) -> list:
    """Networks for each fold, fitted on the others, and those fitted on all."""
    out = []
    for fold in range(FOLDS):
        seen, unseen = (gathered([s for s, f in zip(samples, folds, strict=True) if (f == fold) == k]) for k in (0, 1))
        out.append([train(*seen, LOCAL_HIDDEN, k, 14) for k in range(2)])
        use({"local": out[fold]})
        score = auc(judge_module.local_judge(unseen[0]), unseen[1], unseen[2])
        print(f"local judge on the fold it has not seen: area under the curve {score:.4f}", flush=True)
    return [*out, [train(*gathered(samples), LOCAL_HIDDEN, 10 + k, 14) for k in range(3)]]


def fit_pairs(samples: list, seed: int, count: int) -> list:
    """Networks fitted on pairs."""
    return [train(*gathered(samples), PAIR_HIDDEN, seed + k, 12) for k in range(count)]


def main() -> None:
    """Fit, step by step; what a step gave is kept in the folder given (or the current one)."""
    folder = Path(sys.argv[1]) if len(sys.argv) > 1 else Path()
    specs = fit_specs()
    folds = [fold_of(spec) for spec in specs]
    with ProcessPoolExecutor(2, initializer=cv2.setNumThreads, initargs=(1,)) as pool:

        def spread(work, jobs):
            return lambda: list(pool.map(work, jobs, chunksize=4))

        local = kept(folder / "local.pickle", spread(local_samples, specs))
        nets = kept(folder / "local_nets.pickle", partial(fit_local, local, folds))
        pair, samples = [APART], []
        for turn in range(TURNS + 1):
            judges = [{"local": nets[f], "pair": APART if turn == 0 else pair[-1]} for f in folds]
            jobs = [(s, judge, turn > 0) for s, judge in zip(specs, judges, strict=True)]
            met = kept(folder / f"pairs_{turn}.pickle", spread(pair_samples, jobs))
            samples += [part for _, found in met for part in (found[len(STAGES) :] if turn else found)]
            nets_now = kept(folder / f"pair_nets_{turn}.pickle", partial(fit_pairs, samples, 20 * turn, 4))
            pair.append(nets_now)
            print(f"turn {turn}: {sum(len(s[0]) for s in samples)} pairs", flush=True)
            store({"local": nets[-1], "pair": nets_now})


def auc(score, answer, weight) -> float:
    """Area under the curve, weighted."""
    order = np.argsort(score)
    w, y = weight[order], answer[order]
    below = np.cumsum(w * ~y)
    return float((below * w * y).sum() / max(below[-1] * (w * y).sum(), 1e-9))


if __name__ == "__main__":
    main()
