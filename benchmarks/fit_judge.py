"""Fit the weights that judge bridges (src/drip_pot/core/regions/judge.npz) and say how good they are.

Run `python benchmarks/fit_judge.py`. Drawings: shapes by script (even seeds fit, seeds from 301 on judge) and pages of
the demo book at about 1400 px (pages 1, 3, cover and a frame fit; pages 2, 4 and another frame judge), whole and
with breaks of 4 to 24 px on half of all boundaries, some scanned, some in half-transparent ink. Ten minutes.
"""

import sys
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parent))
from damaged import Case, judge_case, make_case, told
from drip_pot.core.regions.judge import components, pair_features

STAGES = (0.0, 0.4, 0.75, 0.95, 0.2, 0.6)
OUT = Path(__file__).parents[1] / "src/drip_pot/core/regions/judge.npz"


def specs(fit: bool) -> list[tuple[str, int, int, str]]:
    found: list[tuple[str, int, int, str]] = []
    if fit:
        kinds = ("", "", "", "scan", "", "soft")
        found += [("shapes", 2 * k, (0, 4, 8, 16, 6, 12, 24, 10)[k % 8], kinds[k % 6]) for k in range(96)]
        for name in ("page-1", "page-3", "cover", "sequence-1"):
            for gap in (0, 4, 8, 16):
                found += [(name, 8, gap, ""), (name, 18, gap, ""), (name, 28, gap, ("scan", "soft")[gap // 8 % 2])]
        return found
    found += [("shapes", 2 * k + 301, (0, 4, 8, 16)[k % 4], "" if k % 3 else ("scan", "soft")[k // 3 % 2])
              for k in range(24)]  # fmt: skip
    for name in ("page-2", "page-4", "sequence-3"):
        found += [(name, 9, gap, "") for gap in (0, 4, 8, 16)] + [(name, 11, 0, "scan")]
    return found


def samples(case: Case, rng: np.random.Generator) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Pairs of regions at several stages of joining what belongs together, whether they are one, and their weight."""
    owner, count = case.owners(np.arange(len(case.areas))), len(case.areas)
    one_thing = owner[case.edges[:, 0]] == owner[case.edges[:, 1]]
    parts = []
    for share in STAGES:
        use = one_thing & (rng.random(len(case.edges)) < share)
        region = components(count, case.edges[use, 0], case.edges[use, 1])
        one, two, known, _, _ = pair_features(region, case.areas, case.borders, case.bridges, case.edges, case.line_px)
        owners = case.owners(region)
        size = np.bincount(region, weights=case.areas, minlength=count)
        small = np.minimum(size[one], size[two]) / max(case.line_px, 1) ** 2
        parts.append((known, (owners[one] == owners[two]).astype(float), np.clip(small / 30, 0.15, 1)))
    known, same, weight = (np.concatenate(p) for p in zip(*parts, strict=True))
    return known, same, weight


@dataclass
class Network:
    """A network of two hidden layers, fitted by Adam (D. P. Kingma, J. Ba, 2015)."""

    seed: int
    hidden: tuple[int, ...] = (64, 32)

    def fit(self, known, same, weight, rounds: int = 60, batch: int = 512, rate: float = 2e-3, decay: float = 1e-3):
        """Fit to pairs: what is known of them, whether they are one, how much each counts."""
        rng = np.random.default_rng(self.seed)
        sizes = [known.shape[1], *self.hidden, 1]
        weights = [rng.normal(0, np.sqrt(2 / a), (a, b)) for a, b in pairwise(sizes)]
        biases = [np.zeros(b) for b in sizes[1:]]
        self.mean, self.spread = known.mean(axis=0), known.std(axis=0) + 1e-6
        known = np.clip((known - self.mean) / self.spread, -5, 5)
        values = weights + biases
        first, second = [np.zeros_like(v) for v in values], [np.zeros_like(v) for v in values]
        step = 0
        for turn in range(rounds):
            order, now = rng.permutation(len(known)), rate * (1 - turn / rounds) + 1e-5
            for start in range(0, len(order), batch):
                k = order[start : start + batch]
                layers = [known[k]]
                for w, b in zip(weights[:-1], biases[:-1], strict=True):
                    layers.append(np.maximum(layers[-1] @ w + b, 0))
                out = 1 / (1 + np.exp(-(layers[-1] @ weights[-1] + biases[-1])[:, 0]))
                slope = ((out - same[k]) * weight[k] / weight[k].mean() / len(k))[:, None]
                up, side = [], []
                for j in range(len(weights) - 1, -1, -1):
                    up.insert(0, layers[j].T @ slope + decay * weights[j])
                    side.insert(0, slope.sum(axis=0))
                    if j:
                        slope = (slope @ weights[j].T) * (layers[j] > 0)
                step += 1
                for value, gradient, m, v in zip(values, up + side, first, second, strict=True):
                    m += 0.1 * (gradient - m)
                    v += 0.001 * (gradient**2 - v)
                    value -= now * (m / (1 - 0.9**step)) / (np.sqrt(v / (1 - 0.999**step)) + 1e-8)
        self.weights, self.biases = weights, biases
        return self


def main() -> None:
    with ProcessPoolExecutor(2) as pool:
        fitting = list(pool.map(make_case, specs(True)))
    rng = np.random.default_rng(0)
    known, same, weight = (np.concatenate(p) for p in zip(*(samples(c, rng) for c in fitting), strict=True))
    print(f"{len(known)} pairs from {len(fitting)} drawings")
    stored: dict[str, np.ndarray] = {"count": np.array(3)}
    for k in range(3):
        network = Network(k + 2).fit(known, same, weight)
        stored |= {f"{k}.mean": network.mean, f"{k}.spread": network.spread}
        for j, (w, b) in enumerate(zip(network.weights, network.biases, strict=True)):
            stored |= {f"{k}.weight.{j}": w, f"{k}.bias.{j}": b}
    np.savez_compressed(OUT, **{name: value.astype(np.float32) for name, value in stored.items()})
    with ProcessPoolExecutor(2) as pool:
        told(list(pool.map(judge_case, specs(False))))


if __name__ == "__main__":
    main()
