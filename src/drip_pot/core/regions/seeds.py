# SPDX-License-Identifier: GPL-3.0-or-later
"""Seeds: scribbles that spread until they meet a line or each other. Knows atoms and which bridges are shut."""

import heapq
import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from drip_pot.core.arrays import I32, I64, U8, Bool, Rect
from drip_pot.core.regions.atoms import Atoms
from drip_pot.core.regions.barrier import barrier_floor, draw_barrier
from drip_pot.core.regions.decide import Partition
from drip_pot.core.regions.hand import Path, stroke_pixels

_MOST_PX = 1_000_000
_LEVELS = 28


@dataclass(frozen=True)
class Share:
    """Part of an atom that one of several seeds in it takes: the seed, where, and its mask there."""

    seed: int
    rect: Rect
    mask: Bool


@dataclass(frozen=True)
class Spread:
    """What seeds take.

    Attributes
    ----------
    seed : (A + 1,) ndarray of int64
        Seed of every atom; -1 for none, and for atoms that are shared.
    shares : tuple of Share
        Parts of atoms that several kinds of seed lie in.
    """

    seed: I64
    shares: tuple[Share, ...]


def spread_seeds(
    atoms: Atoms, part: Partition, boxes: I64, ink: U8, seeds: Sequence[tuple[Path, int | None]], free: Bool,
    links: I64 | None = None, *, share: bool = True,
) -> Spread:  # fmt: skip
    """Spread seeds over the atoms of a page.

    Parameters
    ----------
    atoms, part
        The page and which of its bridges are shut.
    boxes : (A + 1, 4) ndarray of int64
        Where every atom lies.
    ink : (M, N) ndarray of uint8
        Its contour.
    seeds : sequence of (path, pot)
        Scribbles and what they carry; None carries nothing, which keeps others out. Later ones outrank earlier ones
        only where both lie on the same pixels.
    free : (A + 1,) ndarray of bool
        Atoms that may be taken; those under a scribble always are.
    links : (L, 2) ndarray of int64, optional
        Atoms joined by doors.
    share : bool
        Whether atoms with several kinds of seed are shared out; a look while a stroke is drawn can do without.

    Returns
    -------
    Spread
        From the atoms under them seeds go through open gaps and doors, the widest passage first, and stop at lines and
        shut bridges. An atom with several kinds of seed is shared out where they would meet, deep places first.
    """
    spots = [stroke_pixels(path, atoms.labels.shape) for path, _ in seeds]
    pots = [pot for _, pot in seeds]
    owners: dict[int, list[int]] = {}
    for number, at in enumerate(spots):
        for atom in np.unique(atoms.labels[at[:, 0], at[:, 1]]).tolist() if len(at) else ():
            owners.setdefault(atom, []).append(number)
    taken = np.full(atoms.count + 1, -1, np.int64)
    shares: list[Share] = []
    shared: set[int] = set()
    for atom, numbers in owners.items():
        if len({pots[n] for n in numbers}) == 1:
            taken[atom] = numbers[-1]
        else:
            shared.add(atom)
            if share:
                shares += _shared_out(atoms.labels, ink, atom, boxes[atom], [(n, spots[n]) for n in numbers])
    ways = _ways(atoms, part, links)
    heap: list[tuple[float, int, int, int]] = []
    order = itertools.count()

    def onward(atom: int, width: float) -> None:
        for other, wide, at in ways.get(atom, ()):
            if taken[other] < 0 and other not in shared and free[other]:
                seed = int(taken[atom]) if atom not in shared else _nearest_seed(owners[atom], spots, at)
                heapq.heappush(heap, (-min(width, wide), next(order), other, seed))

    for atom in owners:
        onward(atom, np.inf)
    while heap:
        width, _, atom, seed = heapq.heappop(heap)
        if taken[atom] < 0:
            taken[atom] = seed
            onward(atom, -width)
    return Spread(taken, tuple(shares))


def _ways(atoms: Atoms, part: Partition, links: I64 | None) -> dict[int, list[tuple[int, float, tuple[float, float]]]]:
    """For every atom the atoms it opens into, how widely, and where."""
    ways: dict[int, list[tuple[int, float, tuple[float, float]]]] = {}
    feet = atoms.bridges.feet
    middle = (feet[:, :2] + feet[:, 2:]) / 2
    for a, b, bridge in atoms.edges.tolist():
        if part.region[a] == part.region[b]:
            wide, at = float(atoms.bridges.width_px[bridge]), (float(middle[bridge, 0]), float(middle[bridge, 1]))
            ways.setdefault(a, []).append((b, wide, at))
            ways.setdefault(b, []).append((a, wide, at))
    for a, b in links.tolist() if links is not None else ():
        ways.setdefault(a, []).append((b, np.inf, (0.0, 0.0)))
        ways.setdefault(b, []).append((a, np.inf, (0.0, 0.0)))
    return ways


def _nearest_seed(numbers: list[int], spots: list[I64], at: tuple[float, float]) -> int:
    return min(numbers, key=lambda n: float(np.hypot(spots[n][:, 0] - at[0], spots[n][:, 1] - at[1]).min()))


def _shared_out(labels: I32, ink: U8, atom: int, box: I64, seeds: list[tuple[int, I64]]) -> list[Share]:
    """Share an atom out among seeds, on a smaller copy where it is large."""
    top, left, bottom, right = (int(v) for v in box)
    cut = slice(top, bottom), slice(left, right)
    own = labels[cut] == atom
    step = max(1, int(np.ceil(np.sqrt(own.size / _MOST_PX))))
    small = own[::step, ::step]
    white = small & (draw_barrier(np.ascontiguousarray(ink[cut]), barrier_floor(ink))[::step, ::step] == 0)
    marks = np.zeros(small.shape, np.int32)
    for place, (_, at) in enumerate(seeds, 1):
        inside = (at[:, 0] >= top) & (at[:, 0] < bottom) & (at[:, 1] >= left) & (at[:, 1] < right)
        spots = at[inside][labels[at[inside, 0], at[inside, 1]] == atom]
        marks[(spots[:, 0] - top) // step, (spots[:, 1] - left) // step] = place
    filled = _flooded(white, marks * small)
    shares = []
    for place, (number, _) in enumerate(seeds, 1):
        mine = filled == place
        if step > 1:
            soft = cv2.resize(mine.astype(np.float32), (own.shape[1], own.shape[0]), interpolation=cv2.INTER_LINEAR)
            mine = soft >= 0.5
        shares.append(Share(number, (top, left, bottom, right), own & mine))
    return [s for s in shares if s.mask.any()]


def _flooded(white: Bool, marks: I32) -> I32:
    """Flood from marks, deepest places first; every pixel ends with a mark."""
    depth = cv2.distanceTransform(np.pad(white.view(np.uint8), 1), cv2.DIST_L2, 5)[1:-1, 1:-1]
    levels = np.quantile(depth[white], np.linspace(1, 0, _LEVELS)) if white.any() else np.zeros(1)
    out = marks.copy()
    for level in dict.fromkeys(levels.tolist()):
        here = ((depth >= level) & white) | (out > 0)
        _, pieces = cv2.connectedComponents(here.view(np.uint8), connectivity=4, ltype=cv2.CV_32S)
        reached = np.zeros(int(pieces.max()) + 1, bool)
        reached[pieces[out > 0]] = True
        reached[0] = False
        fresh = reached[pieces] & (out == 0)
        if fresh.any():
            out = np.where(fresh, _nearest(out), out)
    return _nearest(out)


def _nearest(marks: I32) -> I32:
    _, nearest = cv2.distanceTransformWithLabels((marks == 0).view(np.uint8), cv2.DIST_L2, 5,
                                                 labelType=cv2.DIST_LABEL_PIXEL)  # fmt: skip
    return np.asarray(marks[marks > 0][nearest - 1], np.int32)
