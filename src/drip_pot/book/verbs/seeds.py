# SPDX-License-Identifier: GPL-3.0-or-later
"""Seeds on a page: what they take follows them until they are settled. Knows the hand and the book's numbers.

A change of any seed takes back what all of them took and lets them spread anew, in one edit.
"""

from collections.abc import Mapping

import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.derive import links_of, partition_of
from drip_pot.book.hand import Hand
from drip_pot.book.numbers import SeedNumber
from drip_pot.book.sources import PageSources
from drip_pot.book.store import Edit
from drip_pot.book.values import POURS, SEED_CUTS, SEEDS, SOWN, Seed
from drip_pot.core.regions import Cut, Divided, Spread, carry_pots, divide, make_stencil, spread_seeds


@order
def sow(hand: Hand, changes: Mapping[SeedNumber, Seed | None], title: str) -> None:
    """Add, change or take away (None) seeds by number, and let all of them spread anew."""
    page = hand.page
    sources = hand.sources
    known = sources[SEEDS]
    seeds = {n: s for n, s in sorted({**known, **changes}.items()) if s is not None}
    bare, pours, sown = _unsown(hand, sources)
    spread = _spread(hand, sources, bare, pours, seeds)
    numbers = list(seeds)
    taken = {atom: numbers[seed] for atom, seed in enumerate(spread.seed.tolist()) if seed >= 0}
    old = sources[SEED_CUTS]
    cuts: dict[int, Cut | None] = dict.fromkeys(old)
    pots: dict[int, int | None] = {}
    first = max(sources.by_hand, default=0) + 1
    fresh = bare.atoms.count
    for share in spread.shares:
        stencil = make_stencil(share.rect, share.mask)
        if stencil is not None:
            number, fresh = first + len(pots), fresh + 1
            cuts[number], pots[number] = stencil, seeds[numbers[share.seed]].pot
            taken[fresh] = numbers[share.seed]
    made = {number for number in cuts if number >= first}
    more: dict[str, object] = {
        SOWN.key(page, atom): taken.get(atom) for atom in sources[SOWN].keys() | sown | taken.keys()
    }
    for atom in sown | taken.keys():
        if atom <= bare.atoms.count:
            more[POURS.key(page, atom)] = seeds[taken[atom]].pot if atom in taken else pours.get(atom)
    more |= {SEEDS.key(page, number): seed for number, seed in changes.items()}
    more[SEED_CUTS.key(page)] = tuple(sorted(made)) or None
    hand.lay(cuts, "sow", title, pots=pots, more=more.items())


def _unsown(hand: Hand, sources: PageSources) -> tuple[Divided, dict[int, int], set[int]]:
    """Return the page without what seeds cut, its pours without what they took, and the atoms they took there."""
    cuts = [cut for number, cut in sources.by_hand.items() if number not in sources[SEED_CUTS]]
    bare = divide(hand.divided, hand.ink, cuts)
    pours, sown = dict(sources[POURS]), dict(sources[SOWN])
    for kept in (pours, sown):
        for atom, value in carry_pots(hand.divided, bare, kept).items():
            if value is None:
                kept.pop(atom, None)
            else:
                kept[atom] = value
    for atom, number in sown.items():
        seed = sources[SEEDS].get(number)
        if seed is not None and pours.get(atom) == seed.pot:
            pours.pop(atom, None)
    return bare, pours, set(sown)


def _spread(
    hand: Hand, sources: PageSources, bare: Divided, pours: dict[int, int], seeds: Mapping[int, Seed]
) -> Spread:
    free = np.ones(bare.atoms.count + 1, bool)
    free[[atom for atom in pours if atom <= bare.atoms.count]] = False
    if hand.picked or hand.within:
        allowed = hand.confined(set(range(bare.atoms.count + 1)))
        free[[atom for atom in range(len(free)) if atom not in allowed]] = False
    part = partition_of(bare.atoms, sources)
    pairs = [(seed.path, seed.pot) for seed in seeds.values()]
    return spread_seeds(bare.atoms, part, bare.boxes, hand.ink, pairs, free, links_of(bare.atoms, sources))


@order
def settle_seeds(book: Book, page: int) -> None:
    """Make what seeds took plain flats: it stays, and the seeds are gone."""
    sources = book.sources(page)
    keys = [
        *(SEEDS.key(page, n) for n in sources[SEEDS]),
        *(SOWN.key(page, a) for a in sources[SOWN]),
        SEED_CUTS.key(page),
    ]
    book.apply(Edit("settle", "Settle the seeds", tuple(book.change(key, None) for key in keys)))
