# SPDX-License-Identifier: GPL-3.0-or-later
"""Flats that were finished elsewhere, taken into a page whose line is in the book. Knows pages at hand and images."""

from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np

from drip_pot.book import verbs
from drip_pot.book.hand import Hand
from drip_pot.book.values import POTS, POURS
from drip_pot.book.verbs.setting import next_number
from drip_pot.core.arrays import I32, U8, Bool, Report, no_report
from drip_pot.core.color import delta_e, flat_colors, from_hex, plain_name, srgb8_to_oklab, to_hex
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.regions import Cut, make_stencil
from drip_pot.files.images import Scan, decode, read_file
from drip_pot.words import say, tr, tr_many

MOST_POTS = 256
_ASPECT, _NAME = 0.02, "Flats"
_WHITE, _SOFT, _NEAR = 250, 0.001, 1.5


@dataclass(frozen=True)
class FinishedFlats:
    """Finished flats, as large as their page.

    Attributes
    ----------
    rgb, there : (M, N, 3) ndarray of uint8, (M, N) ndarray of bool
        Colours, and where there are any.
    parts : tuple of str
        Names of the parts that they belong to.
    owner : (M, N) ndarray of uint8
        The part of every pixel, from 1.
    paper : bool
        White is paper, and no flat.
    """

    rgb: U8
    there: Bool
    parts: tuple[str, ...]
    owner: U8
    paper: bool = False


def read_flats(path: Path, shape: tuple[int, int]) -> FinishedFlats:
    """Read finished flats, as large as a page.

    Raises
    ------
    Unreadable
        If the file is no usable picture.
    BadInput
        If it is of another shape than the page.
    """
    return fitted_flats(decode(read_file(path), path.name, tinted=True), path.name, shape)


def fitted_flats(scan: Scan, name: str, shape: tuple[int, int], *, hard: bool = True) -> FinishedFlats:
    """Return a picture as flats of a page; unless `hard`, `owner` is its opacity, 0..255, and all it covers is there.

    Raises `BadInput` if it is of another shape than the page.
    """
    rows, cols = scan.gray.shape
    if abs(np.log((rows / cols) / (shape[0] / shape[1]))) > _ASPECT:
        raise BadInput("{0} is {1} × {2} px and the page {3} × {4} px; they do not lie on each other. Crop or grow one "
                       "of them first.", name, cols, rows, shape[1], shape[0])  # fmt: skip
    gray = scan.gray if scan.gray.dtype == np.uint8 else (scan.gray >> 8).astype(np.uint8)
    rgb = scan.rgb if scan.rgb is not None else np.asarray(cv2.merge([gray] * 3), np.uint8)
    alpha = np.full(rgb.shape[:2], 255, np.uint8) if scan.opacity is None else scan.opacity
    if (rows, cols) != shape:
        size = (shape[1], shape[0])
        rgb = np.asarray(cv2.resize(rgb, size, interpolation=cv2.INTER_NEAREST), np.uint8)
        alpha = np.asarray(cv2.resize(alpha, size, interpolation=cv2.INTER_NEAREST), np.uint8)
    if not hard:
        return FinishedFlats(rgb, alpha > 0, (), alpha)
    there = alpha > 127
    return FinishedFlats(rgb, there, (_NAME,), there.astype(np.uint8), paper=scan.opacity is None)


def take_flats(hand: Hand, flats: FinishedFlats, report: Report = no_report) -> str:
    """Pour finished flats into a page: a pot for every colour, and cut-outs where its line alone does not part them.

    Parameters
    ----------
    hand : Hand
        At work on the page.
    flats : Flats
        The flats; each part takes a pot of its own for each of its colours.
    report : Report
        Progress.

    Raises
    ------
    BadInput
        If it has more colours than flats have.
    NothingDone
        If it has none.
    """
    report(0.1, "Counting the colours")
    found = flat_colors(flats.rgb, flats.there, MOST_POTS)
    colors, bare = found.colors, (found.colors > _WHITE).all(axis=1) & flats.paper
    owner = np.where(np.concatenate([[True], bare])[found.owner], 0, found.owner)
    count = int(np.count_nonzero(~bare))
    if not count:
        raise NothingDone("This picture has no flat colours on it.")
    near = _NEAR if found.soft > _SOFT else 0.0
    pairs = flats.owner.astype(np.int32) * (len(colors) + 1) + owner
    pairs[owner == 0] = 0
    wanted = np.zeros_like(pairs)
    with hand.book.as_one():
        for pair in np.unique(pairs).tolist():
            if pair:
                part, place = divmod(pair, len(colors) + 1)
                wanted[pairs == pair] = _pot(hand, flats.parts[max(part, 1) - 1], to_hex(colors[place - 1]), near)
        report(0.4, "Pouring")
        _pour(hand, wanted)
        report(0.7, "Cutting out what the line does not part")
        cuts = cut_strays(hand, wanted, hand.ink)
    told = tr_many("Took one colour.", "Took {0} colours.", count, count) if not cuts else tr_many(
        "Took one colour, and cut out {1} places that no line parts.",
        "Took {0} colours, and cut out {1} places that no line parts.", count, count, cuts)  # fmt: skip
    if found.soft <= _SOFT:
        return told
    return told + tr(" Its edges were soft: {0:.1f} % of it went to the flat beside it.", 100 * found.soft)


def _pot(hand: Hand, part: str, color: str, near: float) -> int:
    """Return the pot of a colour, or of one as near in OKLab, in a part of that name; what is missing is added."""
    book = hand.book
    known = {one.name: number for number, one in book.parts().items()}
    mine = {pot.local: number for number, pot in book.pots().items() if part in (_NAME, book.parts()[pot.part].name)}
    if mine:
        seen = srgb8_to_oklab([from_hex(one) for one in (color, *mine)])
        apart = delta_e(seen[:1], seen[1:])
        if apart.min() <= near:
            return list(mine.values())[int(apart.argmin())]
    owner = known[part] if part in known else verbs.add_part(book, part)
    return verbs.add_pot(book, _free(hand, plain_name(from_hex(color))), owner, color)


def _free(hand: Hand, name: str) -> str:
    """Return a name that no pot has."""
    taken = {pot.name for pot in hand.book.pots().values()}
    name = name.capitalize()
    number = next_number(hand.book, POTS)
    return name if name not in taken else f"{name} {number}"


def _pour(hand: Hand, wanted: I32) -> None:
    """Give every atom the pot that most of it has."""
    kinds = int(wanted.max()) + 1
    clear = hand.ink < 128
    keys = hand.labels[clear].astype(np.int64) * kinds + wanted[clear]
    votes = np.bincount(keys, minlength=len(hand.areas) * kinds).reshape(-1, kinds)
    bare = votes.sum(axis=1) == 0
    if bare.any():  # regions all of line
        every = np.bincount(hand.labels.ravel().astype(np.int64) * kinds + wanted.ravel(), minlength=votes.size)
        votes[bare] = every.reshape(-1, kinds)[bare]
    best = votes.argmax(axis=1)
    for pot in np.unique(best[1:]).tolist():
        atoms = [a for a in np.flatnonzero(best == pot).tolist() if a and hand.areas[a]]
        if pot and atoms:
            verbs.pour(hand.book, hand.page, atoms, pot, len(atoms))


def cut_strays(hand: Hand, wanted: I32, ink: U8) -> int:
    """Cut out what should have another pot than the region it lies in, beside the line; return how many places.

    `wanted` (M, N) int32 is the pot that belongs at every pixel, 0 where any may be; `ink` (M, N) uint8 the line.
    """
    table = np.zeros(len(hand.areas), np.int32)
    for atom, pot in hand.sources[POURS].items():
        table[atom] = pot
    line = max(2, round(hand.divided.atoms.line_px))
    wrong = ((wanted > 0) & (wanted != table[hand.labels]) & (ink < 128)).view(np.uint8)
    wrong = cv2.morphologyEx(wrong, cv2.MORPH_OPEN, np.ones((line, line), np.uint8))
    cuts: dict[int, Cut | None] = {}
    pots: dict[int, int | None] = {}
    for pot in np.unique(wanted[wrong > 0]).tolist():
        mine = wrong * (wanted == pot).view(np.uint8)
        count, pieces, stats, _ = cv2.connectedComponentsWithStats(mine, connectivity=4)
        for k in (k for k in range(1, count) if stats[k, cv2.CC_STAT_AREA] > (2 * line) ** 2):
            left, top, wide, high = stats[k, :4].tolist()
            box = slice(max(0, top - line), top + high + line), slice(max(0, left - line), left + wide + line)
            grown = cv2.dilate((pieces[box] == k).view(np.uint8), np.ones((2 * line + 1, 2 * line + 1), np.uint8))
            rect = box[0].start, box[1].start, box[0].start + len(grown), box[1].start + len(grown[0])
            stencil = make_stencil(rect, (grown > 0) & (wanted[box] == pot), back=False)
            if stencil is not None:
                number = hand.next + len(cuts)
                cuts[number], pots[number] = stencil, pot
    if cuts:
        hand.lay(cuts, "cut-out", say("Cut out {0} pieces", len(cuts)), pots=pots)
    return len(cuts)
