# SPDX-License-Identifier: GPL-3.0-or-later
"""Frames between two that are poured, poured from both sides at once. Knows pages at hand; no window, no file."""

from collections.abc import Sequence
from itertools import pairwise

from drip_pot.book.asking import order
from drip_pot.book.hand import Hand
from drip_pot.book.values import POURS, FollowingMark
from drip_pot.book.verbs.carrying import lay_colors
from drip_pot.book.verbs.comparing import check_shapes, seen_of
from drip_pot.book.verbs.markings import follow_markings
from drip_pot.core.carry import kinds_between
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.words import say, tr_many


@order
def carry_between(hand: Hand) -> str:
    """Pour every empty frame of a sequence that lies between two poured ones, from both of them.

    What a hand cut there comes along. A colour that both sides tell is the surer for it; where they differ, the surer
    one is poured and marked.

    Raises
    ------
    BadInput
        If the page is no frame, or frames differ in shape.
    NothingDone
        If no empty frame lies between two poured ones.
    """
    known = hand.book.sequence_of(hand.page)
    if known is None:
        raise BadInput("This page is no frame. Choose pages on the contact sheet and make a sequence.")
    runs = runs_between(known[1].pages, {page for page in known[1].pages if hand.book.sources(page)[POURS]})
    if not runs:
        raise NothingDone("No empty frame lies between two poured ones.")
    hands = {page: hand if page == hand.page else hand.others(hand.book, page) for run in runs for page in run}
    with hand.book.as_one(say("Pour the frames between")):
        told = [_pour_run([hands[page] for page in run]) for run in runs]
    frames = sum(len(run) - 2 for run in runs)
    regions, doubtful = (sum(one[k] for one in told) for k in (0, 1))
    if doubtful:
        return tr_many("Poured one frame from both sides, {1} regions; {2} to look at (N).",
                       "Poured {0} frames from both sides, {1} regions; {2} to look at (N).",
                       frames, frames, regions, doubtful)  # fmt: skip
    return tr_many("Poured one frame from both sides, {1} regions.", "Poured {0} frames from both sides, {1} regions.",
                   frames, frames, regions)  # fmt: skip


def runs_between(pages: Sequence[int], poured: set[int]) -> list[tuple[int, ...]]:
    """Return the runs of frames that are not poured with the two poured ones about them, in order."""
    keys = [place for place, page in enumerate(pages) if page in poured]
    return [tuple(pages[one : two + 1]) for one, two in pairwise(keys) if two > one + 1]


def _pour_run(run: list[Hand]) -> tuple[int, int]:
    """Pour the frames of a run but its two ends; return how many regions, and what of all is to be looked at."""
    for one in run[1:]:
        check_shapes(one, run[0])
    marks: list[FollowingMark] = []
    run = run.copy()
    for places in (range(1, len(run) - 1), range(len(run) - 2, 0, -1)):
        for place in places:
            run[place], laid = follow_markings(run[place], run[place - places.step], over=False)
            marks += laid
    first, kinds = seen_of(run[0], None)
    seen = [seen_of(one, first.labels.shape) for one in run[1:]]
    filled = doubtful = 0
    name = run[0].sources.page.name
    carried = kinds_between([first, *(scene for scene, _ in seen)], kinds, seen[-1][1])
    for one, (_, mine), told in zip(run[1:-1], seen[:-1], carried, strict=True):
        laid_colors = lay_colors(one, told, mine, name, over=False)
        filled += len(laid_colors)
        doubtful += sum(doubt.is_open for doubt in laid_colors)
    return filled, doubtful + sum(mark.is_open for mark in marks)
