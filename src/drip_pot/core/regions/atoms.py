# SPDX-License-Identifier: GPL-3.0-or-later
"""Atoms: the page labelled with every proposed bridge drawn, and what each bridge parts.

Knows the barrier and the bridges; decides nothing about which bridges count.
"""

from dataclasses import dataclass

import cv2
import numpy as np

from drip_pot.core.arrays import F32, F64, I32, I64, U8, Report, check_plane, no_report
from drip_pot.core.heap import give_back
from drip_pot.core.regions.barrier import draw_barrier, find_outline, line_width
from drip_pot.core.regions.clefts import DEPTH_SCALE
from drip_pot.core.regions.gaps import Bridges, bridge_paths, find_bridges
from drip_pot.core.regions.graph import Borders, find_borders, label_areas
from drip_pot.core.regions.judge import judge, local_judge
from drip_pot.core.regions.local import local_evidence
from drip_pot.core.regions.tips import find_tips
from drip_pot.core.strips import Strip, at_once, each_strip, in_strips, strips

WIDEST_PX = 60.0
_WIDEST_LEAST = 44.0
_WORTH = 0.008
_AROUND = ((-1, -1), (-1, 0), (-1, 1), (0, -1), (0, 1), (1, -1), (1, 0), (1, 1))


@dataclass(frozen=True)
class Atoms:
    """The finest division of a page.

    Attributes
    ----------
    labels : (M, N) ndarray of int32
        Atom of every pixel, 1..count; never 0. The line is absorbed to its middle.
    count : int
        Number of atoms.
    bridges : Bridges
        Every bridge that was drawn.
    edges : (E, 3) ndarray of int64
        Atom, other atom (the smaller first), index of the bridge that parts them.
    line_px : float
        Usual line width in pixels.
    solids : (S,) ndarray of int64
        Atoms that lie inside solid black.
    areas : (A + 1,) ndarray of int64
        Pixels of every atom; index 0 unused.
    borders : Borders
        Which atoms touch.
    verdict : (E,) ndarray of float64
        What `judge` says of each edge, 0..1: the higher, the likelier a border was meant; see `bridge_verdicts`.
    """

    labels: I32
    count: int
    bridges: Bridges
    edges: I64
    line_px: float
    solids: I64
    areas: I64
    borders: Borders
    verdict: F64


def find_atoms(ink: U8, widest_px: float | None = None, report: Report = no_report) -> Atoms:
    """Divide a page into atoms.

    Parameters
    ----------
    ink : (M, N) ndarray of uint8
        Contour coverage.
    widest_px : float, optional
        Longest bridge considered, at most 60; worked out from the line width when not given.
    report : Report
        Progress; may raise `Cancelled`.

    Notes
    -----
    White is labelled 4-connectedly, ink pixels then take the label of the nearest white pixel (exact Euclidean
    nearest within the 5 × 5 chamfer of OpenCV), so the border runs along the middle of the line. A solid black
    more than three line widths thick is an atom of its own. Crumbs of white under a quarter of a line width
    squared (at most 12 pixels) are absorbed with the ink around them.
    """
    check_plane(ink, np.uint8, "ink")
    report(0.05, "Reading the line")
    give_back()
    proposal = propose(ink, widest_px, report)
    give_back()
    likely = local_judge(proposal.evidence)
    bridges = proposal.bridges.judged(likely, (likely >= _WORTH) | proposal.bridges.aligned)
    return divide_by(proposal, bridges, report)


@dataclass(frozen=True)
class Proposal:
    """The line of a page, 1 where solid black is deep, and every bridge with what `local_judge` wants to know of it."""

    barrier: U8
    cores: U8
    bridges: Bridges
    evidence: F32
    line_px: float


def propose(ink: U8, widest_px: float | None = None, report: Report = no_report) -> Proposal:
    """Read the line of a page, (M, N) uint8 coverage, and propose bridges; see `find_atoms`."""
    barrier = draw_barrier(ink)
    line_px, outline = at_once(lambda: line_width(barrier), lambda: find_outline(barrier))
    report(0.2, "Looking for gaps")
    tips = find_tips(barrier, outline)
    widest = min(WIDEST_PX, max(_WIDEST_LEAST, 8 * line_px) if widest_px is None else widest_px)
    bridges, depth = find_bridges(barrier, outline, tips, widest, line_px)
    cores = (depth < -DEPTH_SCALE * _core_depth(line_px)).view(np.uint8)
    return Proposal(barrier, cores, bridges, local_evidence(ink, depth, bridges, line_px), line_px)


def divide_by(proposal: Proposal, bridges: Bridges, report: Report = no_report) -> Atoms:
    """Divide a page by its line and some of the bridges proposed, and judge them; see `find_atoms`."""
    barrier, line_px = proposal.barrier, proposal.line_px
    report(0.45, "Dividing the page")
    spots, owner = bridge_paths(bridges, barrier.shape)
    labels, count, solids = _seed(_white(barrier, spots), proposal.cores, line_px)
    report(0.6, "Taking the line to its middle")
    labels, count, solids = _absorb(labels, count, solids, _core_depth(line_px))
    report(0.8, "Joining pieces")
    edges = find_edges(labels, barrier, spots, owner)
    areas, borders = label_areas(labels, count), find_borders(labels)
    report(0.95, "Judging the gaps")
    verdict = judge(areas, borders, bridges, edges, line_px)
    return Atoms(labels, count, bridges, edges, line_px, solids, areas, borders, verdict)


def _core_depth(line_px: float) -> float:
    """How deep inside ink a pixel must lie to belong to a solid black."""
    return max(6.0, 1.5 * line_px)


def _white(barrier: U8, spots: I64) -> U8:
    """Mark what is neither line nor on a bridge."""
    white = barrier ^ 1
    white[spots[:, 0], spots[:, 1]] = 0
    return np.asarray(white, np.uint8)


def _seed(white: U8, cores: U8, line_px: float) -> tuple[I32, int, I64]:
    """Label the white pieces and the cores of solid blacks; leave ink, bridges and crumbs 0.

    A core lies too deep in ink to touch white, so both are labelled at once, and `white` is written to.
    """
    cv2.bitwise_or(white, cores, dst=white)
    in_strips(lambda strip: _join_corners(white, cores, strip), len(white))
    found, labels, stats, _ = cv2.connectedComponentsWithStats(white, connectivity=4, ltype=cv2.CV_32S)
    solid = np.zeros(found, bool)
    for strip in strips(len(white)):
        solid[labels[strip.rows][cores[strip.rows].view(bool)]] = True
    crumb = int(np.clip(line_px**2 / 4, 3, 12))
    keep = ~solid & (stats[:, cv2.CC_STAT_AREA] > crumb)
    keep[0] = False
    if not keep.any():
        keep[1:] = ~solid[1:]
    count = int(keep.sum())
    solids = np.arange(count + 1, count + 1 + int(solid.sum()), dtype=np.int64)
    if count < found - 1:
        table = np.zeros(found, np.int32)
        table[keep], table[solid] = np.arange(1, count + 1), solids

        def renumber(strip: Strip) -> None:
            labels[strip.rows] = table.take(labels[strip.rows])

        in_strips(renumber, len(labels))
    return labels, count + len(solids), solids


def _join_corners(white: U8, cores: U8, strip: Strip) -> None:
    """Let cores that touch by a corner alone touch by a side as well in `white`."""
    rows = slice(strip.rows.start, strip.rows.stop + 1)
    piece, out = cores[rows].ravel(), white[rows].ravel()
    width = cores.shape[1]
    at = np.flatnonzero(piece[:-width].view(bool))
    col = at % width
    for side, inside in ((1, col < width - 1), (-1, col > 0)):
        some = at[inside]
        some = some[(piece.take(some + width + side) > piece.take(some + side)) & (piece.take(some + width) == 0)]
        out[some + side] = 1


def _absorb(labels: I32, count: int, solids: I64, deep: float) -> tuple[I32, int, I64]:
    """Give every unlabelled pixel the label of the nearest labelled one, which lies little more than `deep` away."""
    if count == 0:
        return np.ones_like(labels), 1, np.ones(1, np.int64)
    halo = int(2 * deep) + 48
    high = max(1024, halo)
    cut = strips(len(labels), height=high)
    filled = each_strip(lambda strip: _filled(labels[strip.around])[strip.inside], len(labels), halo, high)
    before, rows = cut[0], next(filled)
    for strip, following in zip(cut[1:], filled, strict=True):  # what is worked on now reaches back into `strip`
        labels[before.rows] = rows
        before, rows = strip, following
    labels[before.rows] = rows
    if not labels.all():
        labels = _filled(labels)
    return labels, count, solids


def _filled(labels: I32) -> I32:
    empty = labels == 0
    where = np.flatnonzero(empty)
    if where.size in (0, labels.size):
        return labels
    _, nearest = cv2.distanceTransformWithLabels(empty.view(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    seeds = labels[~empty]
    out = labels.copy()
    out.ravel()[where] = seeds.take(nearest.ravel().take(where) - 1)
    return out


def find_edges(labels: I32, barrier: U8, spots: I64, owner: I64) -> I64:
    """List which atoms each bridge parts.

    They are the neighbours of its pixels, in a label plane, that are not ink and belong to another atom.

    Parameters
    ----------
    labels : (M, N) ndarray of int32
        Atom of every pixel.
    barrier : (M, N) ndarray of uint8
        1 where there is line.
    spots, owner : (K, 2) and (K,) ndarrays of int64
        From `bridge_paths`.

    Returns
    -------
    (E, 3) ndarray of int64
        Atom, other atom (the smaller first), bridge; sorted.
    """
    height, width = labels.shape
    flat, ink = labels.ravel(), barrier.ravel()
    white = np.flatnonzero(ink.take(spots @ (width, 1)) == 0)
    (rows, cols), owner = spots[white].T, owner[white]
    one = flat.take(rows * width + cols)
    pairs, bridges = [np.zeros(0, np.int64)], [np.zeros(0, np.int64)]
    for down, right in _AROUND:
        at = np.clip(rows + down, 0, height - 1) * width + np.clip(cols + right, 0, width - 1)
        two = flat.take(at)
        parted = np.flatnonzero((one != two) & (ink.take(at) == 0))
        ends = one[parted].astype(np.int64), two[parted].astype(np.int64)
        pairs.append(np.minimum(*ends) << 32 | np.maximum(*ends))
        bridges.append(owner[parted])
    pair, place = np.unique(np.concatenate(pairs), return_inverse=True)
    wide = np.int64(owner.max(initial=0) + 1)
    place, bridge = np.divmod(np.unique(place * wide + np.concatenate(bridges)), wide)
    return np.stack([pair[place] >> 32, pair[place] & 0xFFFFFFFF, bridge], axis=1)
