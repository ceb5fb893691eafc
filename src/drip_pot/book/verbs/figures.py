# SPDX-License-Identifier: GPL-3.0-or-later
"""Figures that stand on another page too: looked for, offered, poured. Knows pages at hand; no window, no file."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass

import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.hand import Hand
from drip_pot.book.numbers import FigureNumber, PanelNumber, PotNumber
from drip_pot.book.store import Change, Edit
from drip_pot.book.values import BALLOON, DOUBTS, FIGURES, POURS, Doubt, FigureOffer, Found
from drip_pot.book.verbs.comparing import NO_POT, places_of, seen_of
from drip_pot.book.verbs.setting import put
from drip_pot.core.arrays import I32, I64, Bool, Report, no_report
from drip_pot.core.carry import Figure, Scene, find_figures
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.words import say, say_many, tr, tr_many


@dataclass(frozen=True)
class Known:
    """A page whose figures are looked for elsewhere: its number, how it is compared, and the pots of its regions."""

    page: int
    scene: Scene
    kinds: I64


def known_figures(hand: Hand) -> Known:
    """Return a page as its figures are looked for; raises `BadInput` if its regions are out of date."""
    scene, kinds = seen_of(hand, None)
    return Known(hand.page, scene, np.where(kinds == BALLOON, NO_POT, kinds))


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
    number = _page_at(hand.book, source)
    if number == hand.page:
        raise BadInput("That is this page itself. Name the page whose figures stand here again.")
    name = hand.book.pages()[number].name
    known = known_figures(hand.others(hand.book, number))
    if not (known.kinds != NO_POT).any():
        raise NothingDone("Nothing is poured on {0} yet, so there is nothing to look for.", name)
    fresh = offers_on(hand, [known])
    if not offer_figures(hand.book, {hand.page: fresh}, [number], say("Look for figures of {0}", name)):
        raise NothingDone("No figure of {0} stands here again as it is drawn there.", name)
    if not fresh:
        return tr("No figure of {0} that is not poured yet stands here.", name)
    return tr_many("A figure of {1} found. Look here shows it (N): Enter pours, Delete drops.",
                   "{0} figures of {1} found. Look here goes through them (N): Enter pours, Delete drops.",
                   len(fresh), len(fresh), name)  # fmt: skip


@order
def look_on_all_pages(hand: Hand, places: Iterable[int] = ()) -> str:
    """Look on every other page for figures of some pages, by their places from 1, or of this one, and offer them there.

    Pages whose regions are out of date are left out, and told.

    Raises
    ------
    BadInput
        If there is no such page.
    NothingDone
        If nothing of them is poured, or none of their figures stands elsewhere.
    """
    numbers = [_page_at(hand.book, place) for place in places] or [hand.page]
    hands = lambda page: hand if page == hand.page else hand.others(hand.book, page)  # noqa: E731
    found: dict[int, list[FigureOffer]] = {}
    left = look_over(hand.book, numbers, hands, found)
    if not offer_figures(hand.book, found, numbers, say("Look for figures on all pages")):
        raise NothingDone("None of those figures stands on another page as it is drawn there.")
    return told_offers(found, left)


def look_over(
    book: Book, numbers: list[int], hands: Callable[[int], Hand], found: dict[int, list[FigureOffer]],
    report: Report = no_report,
) -> int:  # fmt: skip
    """Look for figures of some pages on all others; return how many were left out, as their regions are out of date.

    `hands` returns a hand at work on a page; what is offered on every page goes to `found` by its number, page by page.

    Raises
    ------
    NothingDone
        If nothing of them is poured.
    """
    known = [one for one in map(known_figures, map(hands, numbers)) if (one.kinds != NO_POT).any()]
    if not known:
        raise NothingDone("Nothing is poured there yet, so there is nothing to look for.")
    others, left = [page for page in book.pages() if page not in numbers], 0
    for place, page in enumerate(others):
        report(place / len(others), tr("Looking on page {0} of {1}", place + 1, len(others)))
        try:
            found[page] = offers_on(hands(page), known)
        except BadInput:
            left += 1
    return left


def offers_on(hand: Hand, known: Iterable[Known]) -> list[FigureOffer]:
    """Return the figures of other pages that stand on a page, the largest of every page first; no region is in two.

    Raises
    ------
    BadInput
        If the regions of the page are out of date.
    """
    places, pours = places_of(hand), hand.sources[POURS]
    if all(atom in pours for atom in np.flatnonzero(places).tolist()):
        return []
    now, mine = seen_of(hand, None)
    offered = np.zeros(now.count + 1, bool)
    fresh = []
    for one in known:
        for figure in find_figures(one.scene, now, one.kinds):
            empty = (mine[figure.new] == NO_POT) & ~offered[figure.new]
            if empty.any():
                fresh.append(_offer(hand, figure, one.kinds, empty, places, one.page))
                offered[figure.new] = True
    return fresh


def offer_figures(book: Book, found: Mapping[int, list[FigureOffer]], sources: Iterable[int], title: str) -> bool:
    """Offer figures on pages instead of those offered there from the same pages; return whether anything changes."""
    changes: list[Change] = []
    for page, fresh in found.items():
        before = book.sources(page)[FIGURES]
        free = max(before, default=0) + 1
        gone = [number for number, offer in before.items() if offer.source in sources]
        changes += [book.change(FIGURES.key(page, number), None) for number in gone]
        changes += [book.change(FIGURES.key(page, free + k), offer) for k, offer in enumerate(fresh)]
    if changes:
        book.apply(Edit("look-for-figures", title, tuple(changes)))
    return bool(changes)


def told_offers(found: Mapping[int, list[FigureOffer]], left: int) -> str:
    """Say how many figures were found on how many pages, and how many pages were left out."""
    figures, pages = sum(map(len, found.values())), sum(map(bool, found.values()))
    if not figures:
        return tr("No figure that is not poured yet stands on another page.")
    if left:
        return tr_many("A figure found; {2} pages are out of date and were left. Shift+N goes there.",
                       "{0} figures on {1} pages; {2} are out of date and were left. Shift+N goes there.",
                       figures, figures, pages, left)  # fmt: skip
    return tr_many("A figure found. Shift+N goes there: Enter pours, Delete drops.",
                   "{0} figures on {1} pages. Shift+N goes to the surest: Enter pours, Delete drops.",
                   figures, figures, pages)  # fmt: skip


def pages_with_figures(book: Book) -> list[int]:
    """Return the pages that figures are offered on, the surest first."""
    sure: dict[int, float] = {}
    for page in book.pages():
        if any(book.below(FIGURES.below(page))):
            told = [one.sure for offer in book.sources(page)[FIGURES].values() for one in offer.regions]
            sure[page] = float(np.mean(told)) if told else 0.0
    return sorted(sure, key=lambda page: -sure[page])


def _page_at(book: Book, place: int) -> int:
    pages = list(book.pages())
    if not 1 <= place <= len(pages):
        raise BadInput("There is no page {0}; this book has {1} pages.", place, len(pages))
    return pages[place - 1]


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
