# SPDX-License-Identifier: GPL-3.0-or-later
"""Figures that stand on another page too: looked for, offered, poured. Knows pages at hand; no window, no file."""

from collections.abc import Iterable

import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.hand import Hand
from drip_pot.book.numbers import FigureNumber, PanelNumber, PotNumber
from drip_pot.book.store import Change, Edit
from drip_pot.book.values import BALLOON, DOUBTS, FIGURES, POURS, Doubt, FigureOffer, Found
from drip_pot.book.verbs.comparing import NO_POT, places_of, seen_of
from drip_pot.book.verbs.setting import put
from drip_pot.core.arrays import I32, I64, Bool
from drip_pot.core.carry import Figure, find_figures
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.words import say, say_many, tr, tr_many


@order
def look_for_figures(hand: Hand, source: int) -> str:
    """Look for figures of another page, by its place from 1, that stand here again, and offer to pour each.

    What is found may be moved, turned, scaled and mirrored, but must be drawn stroke for stroke. Grounds are never
    offered. Offers of that page that were there before are gone.

    Raises
    ------
    BadInput
        If there is no such page, it is the page itself, or its regions are out of date.
    NothingDone
        If nothing of it is poured, or none of its figures stands here.
    """
    pages = list(hand.book.pages())
    if not 1 <= source <= len(pages):
        raise BadInput("There is no page {0}; this book has {1} pages.", source, len(pages))
    number = pages[source - 1]
    if number == hand.page:
        raise BadInput("That is this page itself. Name the page whose figures stand here again.")
    name = hand.book.pages()[number].name
    before, kinds = seen_of(hand.others(hand.book, number), None)
    if not (kinds != NO_POT).any():
        raise NothingDone("Nothing is poured on {0} yet, so there is nothing to look for.", name)
    now, mine = seen_of(hand, None)
    places = places_of(hand)
    known = hand.sources[FIGURES]
    free = max(known, default=0) + 1
    changes = [
        hand.book.change(FIGURES.key(hand.page, n), None) for n, offer in known.items() if offer.source == number
    ]
    fresh = []
    for figure in find_figures(before, now, np.where(kinds == BALLOON, NO_POT, kinds)):
        empty = mine[figure.new] == NO_POT
        if empty.any():
            fresh.append(_offer(hand, figure, kinds, empty, places, number))
    changes += [hand.book.change(FIGURES.key(hand.page, free + k), offer) for k, offer in enumerate(fresh)]
    if not changes:
        raise NothingDone("No figure of {0} stands here again as it is drawn there.", name)
    hand.book.apply(Edit("look-for-figures", say("Look for figures of {0}", name), tuple(changes)))
    if not fresh:
        return tr("No figure of {0} that is not poured yet stands here.", name)
    return tr_many("A figure of {1} found. Look here shows it (N): Enter pours, Delete drops.",
                   "{0} figures of {1} found. Look here goes through them (N): Enter pours, Delete drops.",
                   len(fresh), len(fresh), name)  # fmt: skip


def _offer(hand: Hand, figure: Figure, kinds: I64, empty: Bool, places: I32, source: int) -> FigureOffer:
    """Write down what pouring a figure into its regions that are still empty would do."""
    regions = []
    for new, old, sure in zip(figure.new[empty], figure.old[empty], figure.sure[empty], strict=True):
        atoms = np.flatnonzero((places == new) & (hand.areas > 0))
        row, col = hand.spots_of([int(atoms[hand.areas[atoms].argmax()])])[0]
        regions.append(Found(int(row), int(col), int(kinds[old]), round(float(sure), 3)))
    pots, parts = hand.book.pots(), hand.book.parts()
    weight: dict[int, float] = {}
    for new, old in zip(figure.new.tolist(), figure.old.tolist(), strict=True):
        pot = pots.get(int(kinds[old]))
        if pot is not None:
            weight[pot.part] = weight.get(pot.part, 0.0) + float(hand.areas[places == new].sum())
    part = parts.get(max(weight, key=lambda n: weight[n])) if weight else None
    return FigureOffer(part.name if part is not None else "Figure", source, tuple(regions), figure.mirrored)


@order
def pour_figures(hand: Hand, numbers: Iterable[FigureNumber]) -> str:
    """Pour figures that were offered, by their numbers, into what of them is still empty.

    Raises
    ------
    BadInput
        If there is no such offer.
    NothingDone
        If all of it is poured already.
    """
    sources = hand.sources
    changes: list[Change] = []
    names, filled = [], 0
    for number in numbers:
        offer = sources[FIGURES].get(number)
        if offer is None:
            raise BadInput("There is no figure {0} offered on this page.", number)
        names.append(offer.name)
        changes.append(hand.book.change(FIGURES.key(hand.page, number), None))
        for one in offer.regions:
            atoms = sorted(hand.region_of(hand.atom_at(one.row, one.col)))
            if not atoms or one.pot not in hand.book.pots() or any(a in sources[POURS] for a in atoms):
                continue
            filled += 1
            changes += [hand.book.change(POURS.key(hand.page, atom), one.pot) for atom in atoms]
            changes.append(hand.book.change(DOUBTS.key(hand.page, (one.row, one.col)), Doubt(one.pot, one.sure)))
    if not filled:
        raise NothingDone("All of it is poured already, so that nothing was poured.")
    title = say_many("Pour the figure {0}", "Pour {1} figures", len(names), names[0], len(names))
    hand.book.apply(Edit("pour-figures", title, tuple(changes)))
    if len(names) == 1:
        return tr_many("Poured {0}: one region.", "Poured {0}: {1} regions.", filled, names[0], filled)
    return tr_many("Poured {0} figures: one region.", "Poured {0} figures: {1} regions.", filled, len(names), filled)


@order
def drop_figures(book: Book, page: int, numbers: Iterable[FigureNumber]) -> None:
    """Take offers of figures off a page, by their numbers."""
    put(book, "drop-figures", "Drop a figure", *((FIGURES.key(page, number), None) for number in numbers))


@order
def pour_alike(hand: Hand, carried: PotNumber, pot: PotNumber, panel: PanelNumber) -> str:
    """Pour a pot wherever in a panel another one was carried and still stands: what changes with the light of a panel.

    Raises
    ------
    BadInput
        If there is no such pot.
    NothingDone
        If there is no such region.
    """
    pots = hand.book.pots()
    if pot not in pots:
        raise BadInput("There is no pot {0}.", pot)
    sources = hand.sources
    changes: list[Change] = []
    filled = 0
    for (row, col), doubt in sources[DOUBTS].items():
        atom = hand.atom_at(row, col)
        if doubt.pot != carried or not atom or int(hand.panels.panel[atom]) != panel:
            continue
        changes.append(hand.book.change(DOUBTS.key(hand.page, (row, col)), None))
        if sources[POURS].get(atom) == carried:
            filled += 1
            changes += [hand.book.change(POURS.key(hand.page, a), pot) for a in sorted(hand.region_of(atom))]
    if not filled:
        raise NothingDone("Nothing in this panel has that colour by carrying any more.")
    hand.book.apply(Edit("pour-alike", say("Pour {0} in the panel", pots[pot].name), tuple(changes)))
    return tr_many("Poured {0} into one region of the panel.", "Poured {0} into {1} regions of the panel.", filled,
                   pots[pot].name, filled)  # fmt: skip
