# SPDX-License-Identifier: GPL-3.0-or-later
"""What verdicts are worth: `python benchmarks/gaps/calibrate.py [EVERY]`, after fit.py.

Of the bridges of *choose*, broken and whole, counts how many truly part two things, by verdict, and stores the table
with the weights (judge.npz): by it the program tells how likely a bridge is meant. With `judge` as second argument it
prints the same shares on *judge*, by what the program tells, and stores nothing.
"""

import sys
from concurrent.futures import ProcessPoolExecutor

import cv2
import numpy as np
from cases import Spec, divide, grid_specs
from fit import OUT

from drip_pot.core.regions import bridge_verdicts

KNOTS = np.concatenate([[0, 0.02, 0.05], np.arange(0.1, 1.0, 0.05), [0.98]])


def bridges_of(spec: Spec) -> tuple[str, np.ndarray, np.ndarray, np.ndarray]:
    """Source of a case; of each of its bridges the verdict, what is told of it and whether it parts two things."""
    case = divide(spec)
    atoms = case.atoms
    owner = case.owners(np.arange(len(case.shared)))
    one, two = owner[atoms.edges[:, 0]], owner[atoms.edges[:, 1]]
    known = (one != 0) & (two != 0)
    verdict, parts, seen = np.zeros(len(atoms.bridges)), *np.zeros((2, len(atoms.bridges)), bool)
    np.maximum.at(verdict, atoms.edges[:, 2], atoms.verdict)
    parts[atoms.edges[known & (one != two), 2]] = True
    seen[atoms.edges[known, 2]] = True
    return spec.source, verdict[seen], bridge_verdicts(atoms)[seen], parts[seen]


def main() -> None:
    """Count and store, or count and print."""
    split = sys.argv[2] if len(sys.argv) > 2 else "choose"
    specs = grid_specs(split, int(sys.argv[1]) if len(sys.argv) > 1 else 1)
    with ProcessPoolExecutor(2, initializer=cv2.setNumThreads, initargs=(1,)) as pool:
        found = list(pool.map(bridges_of, specs, chunksize=4))
    if split == "choose":
        verdict, parts = (np.concatenate([one[k] for one in found]) for k in (1, 3))
        place = np.digitize(verdict, KNOTS) - 1
        number = np.maximum(np.bincount(place, minlength=len(KNOTS)), 1)
        at = np.bincount(place, verdict, len(KNOTS)) / number
        share = np.maximum.accumulate(np.bincount(place, parts, len(KNOTS)) / number)
        with np.load(OUT) as stored:
            kept = {name: stored[name] for name in stored.files}
        kept["worth"] = np.stack([at, share])[:, number > 1].astype(np.float32)
        np.savez_compressed(OUT, **kept)
        print(np.round(kept["worth"], 3))
        return
    for source in ("art", "page", "demo"):
        told, parts = (np.concatenate([one[k] for one in found if one[0] == source]) for k in (2, 3))
        place = np.clip((told * 10).astype(int), 0, 9)
        number, true = np.bincount(place, minlength=10), np.bincount(place, parts, 10)
        shares = (f"{k / 10:.1f}: {100 * true[k] / max(number[k], 1):.0f} % of {number[k]}" for k in range(10))
        print(source, ", ".join(shares))


if __name__ == "__main__":
    main()
