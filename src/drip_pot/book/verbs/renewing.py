# SPDX-License-Identifier: GPL-3.0-or-later
"""A page of an earlier version divided as this one would, when the person asks for it. Knows pages at hand."""

from dataclasses import dataclass

import cv2
import msgspec
import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.hand import Hand
from drip_pot.book.store import Edit
from drip_pot.book.values import ENGINE, POURS, SOWN
from drip_pot.book.verbs.pages import recut_changes
from drip_pot.core.arrays import Rect
from drip_pot.core.errors import NothingDone
from drip_pot.core.regions import carry_identity, divide, find_atoms, undivided
from drip_pot.words import grouped, tr, tr_many

_MOST_PLACES = 2000


@dataclass(frozen=True)
class Renewal:
    """What a new division would change.

    Attributes
    ----------
    pours, sown : dict
        Of the new atoms.
    places : list of Rect
        Where another colour would stand, the largest first.
    px : int
        How many pixels those are in all.
    """

    pours: dict[int, int]
    sown: dict[int, int]
    places: list[Rect]
    px: int


def renewal_of(hand: Hand) -> Renewal:
    """Work out what a page would look like, divided as this version divides; raises `NothingDone` where it is already.

    Every new atom takes the pot of the old one that most of it lies on.
    """
    sources = hand.sources
    if sources.line.engine == ENGINE:
        raise NothingDone("This page is divided by this version already.")
    new = divide(undivided(find_atoms(hand.ink)), hand.ink, sources.line.cuts).atoms.labels
    _, parents = carry_identity(new, hand.labels, int(hand.labels.max()) + 1)
    pours, sown = (
        {label: of[was] for label, was in enumerate(parents.tolist()) if label and was in of}
        for of in (sources[POURS], sources[SOWN])
    )
    before = np.full(int(hand.labels.max()) + 1, -1, np.int32)
    after = np.full(len(parents), -1, np.int32)
    for table, poured in ((before, sources[POURS]), (after, pours)):
        table[[atom for atom in poured if atom < len(table)]] = [p for a, p in poured.items() if a < len(table)]
    other = (before[hand.labels] != after[new]).astype(np.uint8)
    _, _, stats, _ = cv2.connectedComponentsWithStats(other, connectivity=8)
    largest = np.argsort(-stats[1:, cv2.CC_STAT_AREA], kind="stable")[:_MOST_PLACES] + 1
    places: list[Rect] = [(int(t), int(c), int(t + h), int(c + w)) for c, t, w, h, _ in stats[largest]]
    return Renewal(pours, sown, places, int(stats[1:, cv2.CC_STAT_AREA].sum()))


def told_of(hand: Hand, found: Renewal) -> str:
    """Say what a new division would change."""
    if not found.places:
        return tr("No pixel would have another colour.")
    share = 100 * found.px / hand.labels.size
    return tr_many(
        "In one place, {1} px ({2:.2f} % of the page), another colour would stand.",
        "In {0} places, {1} px in all ({2:.2f} % of the page), another colour would stand.",
        len(found.places), grouped(len(found.places)), grouped(found.px), share,
    )  # fmt: skip


@order
def divide_anew(hand: Hand) -> str:
    """Divide a page that an earlier version divided as this one does; colours are carried over."""
    found = renewal_of(hand)
    line = msgspec.structs.replace(hand.sources.line.uncut, engine=ENGINE)
    changes = recut_changes(hand.book, hand.page, line, found.pours, found.sown)
    hand.book.apply(Edit("divide-anew", "Divide the page anew", changes))
    return told_of(hand, found)
