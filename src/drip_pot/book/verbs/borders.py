# SPDX-License-Identifier: GPL-3.0-or-later
"""Borders of shadows, along which regions are divided for one pass. Knows a page at hand; no window."""

import cv2
import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.hand import Hand, Points
from drip_pot.book.numbers import BorderNumber, PassNumber
from drip_pot.book.values import BORDERS, TONE, Border
from drip_pot.book.verbs.passes import known_pass
from drip_pot.book.verbs.setting import put, thinned
from drip_pot.core.arrays import I32, U8, Bool, Rect
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.regions import Path, snapped
from drip_pot.words import say, tr_many

_REACH_LINES, _REACH_PX, _FAINT = 1.5, 6.0, 40


@order
def draw_border(hand: Hand, path: Path, into: PassNumber = TONE) -> str | None:
    """Draw the border of a shadow: regions end there when the pass is filled. Ends go on to a line or a border near by.

    What is to be told is returned.
    """
    one = known_pass(hand.book, hand.page, into)
    walls = walls_of(hand, into)
    reach = max(_REACH_PX, _REACH_LINES * hand.divided.atoms.line_px)
    if len(path) < 2:
        raise BadInput("A border is drawn from one place to another.")
    made = Border(into, snapped(thinned(path), walls, hand.labels, reach))
    number = max(hand.sources[BORDERS], default=0) + 1
    put(hand.book, "draw-border", say("Draw a border in {0}", one.name), (BORDERS.key(hand.page, number), made))
    ends = len(open_ends(hand.ink, hand.labels, {number: made} | hand.sources[BORDERS], only=number))
    if not ends:
        return None
    return tr_many(
        "An end of this border stays open (ringed): draw on from it to a line.",
        "Both ends of this border stay open (ringed): draw on from them to a line.", ends,
    )  # fmt: skip


@order
def remove_border(book: Book, page: int, number: BorderNumber) -> None:
    """Remove the border of a shadow; what was filled stays."""
    if number not in book.sources(page)[BORDERS]:
        raise BadInput("This page has no border {0}.", number)
    put(book, "remove-border", "Remove a border", (BORDERS.key(page, number), None))


def open_ends(
    ink: U8, labels: I32, borders: dict[int, Border], *, only: int | None = None
) -> list[tuple[int, float, float]]:
    """Return number, row and column of every end of a border that meets no line, other border or change of region."""
    found = []
    for number, border in borders.items():
        if only is not None and number != only:
            continue
        others = [b for n, b in borders.items() if n != number and b.into == border.into]
        found += [(number, *end) for end in (border.path[0], border.path[-1])
                  if not _meets(end, border.path, ink, labels, others)]  # fmt: skip
    return found


def _meets(end: tuple[float, float], path: Path, ink: U8, labels: I32, others: list[Border]) -> bool:
    rows, cols = ink.shape
    row, col = round(end[0]), round(end[1])
    if not (1 < row < rows - 2 and 1 < col < cols - 2):
        return True
    near = slice(row - 2, row + 3), slice(col - 2, col + 3)
    if (ink[near] >= 128).any() or (labels[near] != labels[row, col]).any():
        return True
    closed = len(path) > 3 and np.hypot(path[0][0] - path[-1][0], path[0][1] - path[-1][1]) < 2
    return closed or any(_away(end, other.path) <= 2.5 for other in others)


def _away(spot: tuple[float, float], path: Path) -> float:
    """Return how far a place is from a stroke."""
    line, at = np.array(path, np.float64), np.array(spot)
    start, step = line[:-1], np.diff(line, axis=0)
    share = np.clip(((at - start) * step).sum(axis=1) / np.maximum((step**2).sum(axis=1), 1e-9), 0, 1)
    return float(np.hypot(*(start + step * share[:, None] - at).T).min())


def walls_of(hand: Hand, into: int) -> U8:
    """Return the line with the borders of a pass drawn into it."""
    mine = [b for b in hand.sources[BORDERS].values() if b.into == into]
    if not mine:
        return hand.ink
    walls = hand.ink.copy()
    for border in mine:
        _draw(walls, border.path, (0, 0))
    return walls


def _beyond(before: tuple[float, float], end: tuple[float, float], by_px: float) -> tuple[float, float]:
    """Return the place that lies farther on beyond the end of a stroke."""
    down, right = end[0] - before[0], end[1] - before[1]
    share = by_px / max(float(np.hypot(down, right)), 1e-6)
    return end[0] + down * share, end[1] + right * share


def _draw(plane: U8, path: Path, at: tuple[int, int]) -> None:
    spots = np.rint(np.array(path)[:, ::-1] - (at[1], at[0])).astype(np.int32)
    cv2.polylines(plane, [spots.reshape(-1, 1, 2)], False, 255, 2, cv2.LINE_8)


def sides(hand: Hand, into: int, atoms: Bool, rect: Rect, at: Points) -> Bool | None:
    """Return the sides of borders that some places lie on, within some atoms, in a rectangle; None without borders.

    The border itself goes with the side. Raises `NothingDone` where a border in the way has an open end.
    """
    known = {n: b for n, b in hand.sources[BORDERS].items() if b.into == into}
    labels = hand.labels[rect[0] : rect[2], rect[1] : rect[3]]
    walls, inside = np.zeros(labels.shape, np.uint8), np.asarray(atoms[labels])
    ink = hand.ink[rect[0] : rect[2], rect[1] : rect[3]] >= _FAINT
    for border in known.values():
        _draw(walls, border.path, (rect[0], rect[1]))
        for end, before in ((border.path[0], border.path[1]), (border.path[-1], border.path[-2])):
            through = np.zeros_like(walls)  # through the line, to where the region ends beneath it
            _draw(through, (end, _beyond(before, end, 2 * hand.divided.atoms.line_px)), (rect[0], rect[1]))
            walls[(through > 0) & ink] = 255
    if not (walls[inside] > 0).any():
        return None
    for number, row, col in open_ends(hand.ink, hand.labels, known):
        r, c = int(row), int(col)
        if 0 <= r < hand.shape[0] and 0 <= c < hand.shape[1] and atoms[hand.labels[r, c]]:
            raise NothingDone(
                "Border {0} ends open here (ringed), so that the shadow would run out. Draw on from its end to a line, "
                "or take the border away.",
                number,
            )
    _, part = cv2.connectedComponents((inside & (walls == 0)).view(np.uint8), connectivity=4)
    spots = [(int(r) - rect[0], int(c) - rect[1]) for r, c in at]
    wanted = {int(part[s]) for s in spots if 0 <= s[0] < part.shape[0] and 0 <= s[1] < part.shape[1]} - {0}
    chosen = np.isin(part, list(wanted)).view(np.uint8)
    grown = cv2.dilate(chosen, np.ones((5, 5), np.uint8)) > 0
    return np.asarray((chosen > 0) | (grown & (walls > 0) & inside))
