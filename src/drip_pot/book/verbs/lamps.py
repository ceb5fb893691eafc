# SPDX-License-Identifier: GPL-3.0-or-later
"""Verbs on lamps, and on the cuts they suggest. Knows a page at hand; no window."""

import msgspec
import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.hand import Hand
from drip_pot.book.lamps import Staged, as_cuts, bounced, staged, suggestions
from drip_pot.book.numbers import LampNumber, PanelNumber, PartNumber, PassNumber
from drip_pot.book.values import CALM, LAMPS, PASSES, SHADE_CUTS, TONE, Lamp, ShadeCut
from drip_pot.book.verbs.layers import change_cuts, cuts_in
from drip_pot.book.verbs.passes import add_pass, known_pass, remove_pass
from drip_pot.book.verbs.setting import put
from drip_pot.book.verbs.shades import fill_pass
from drip_pot.core.arrays import Bool
from drip_pot.core.color import from_hex
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.words import say, say_many, tr, tr_many

_FAR = 1e6


@order
def set_lamp(book: Book, page: int, lamp: Lamp | None, number: LampNumber | None = None) -> int | None:
    """Place a lamp, change one of a number, or take it away (None); return its number."""
    known = book.sources(page)[LAMPS]
    if lamp is None or number is not None:
        if number not in known:
            raise BadInput("This page has no lamp {0}.", number)
    else:
        number = max(known, default=0) + 1
    if lamp is not None:
        _check(lamp)
    verb = "Take a lamp away" if lamp is None else "Change a lamp" if number in known else "Place a lamp"
    put(book, "set-lamp", verb, (LAMPS.key(page, number), lamp))
    return None if lamp is None else number


def _check(lamp: Lamp) -> None:
    if not (abs(lamp.row) <= _FAR and abs(lamp.col) <= _FAR):
        raise BadInput("A lamp stands within a million pixels of the page.")
    if not (0 <= lamp.height <= 1 and 0 <= lamp.cast <= 4 and 0 <= lamp.softness_px <= 2000):
        raise BadInput("A lamp has a height of 0 to 100 %, cast shadows of 0 to 400 % and edges soft by 0 to 2000 px.")
    if lamp.color:
        from_hex(lamp.color)


@order
def leave_calm(book: Book, page: int, part: PartNumber, calm: bool | None) -> None:
    """Have suggestions leave a part alone, or not; None lets the page decide, which leaves grounds alone."""
    if part not in book.parts():
        raise BadInput("This book has no part {0}.", part)
    name = book.parts()[part].name
    titles = {False: "Suggest cuts on {0}", True: "Leave {0} alone", None: "Let the page say on {0}"}
    title = say(titles[calm], name)
    put(book, "leave-calm", title, (CALM.key(page, part), calm))


@order
def suggest_cuts(hand: Hand, into: PassNumber = TONE, panel: PanelNumber | None = None) -> str:
    """Suggest cuts by the lamps of the page, in a panel or in all; those suggested before and not kept give way.

    Regions with cuts that were kept or made by hand there are left alone. Return what is to be told.
    """
    one = known_pass(hand.book, hand.page, into)
    if all(lamp.color for lamp in hand.sources[LAMPS].values()):
        raise NothingDone("There is no key light on this page yet. Place a lamp first.")
    found = staged(hand)
    old = cuts_in(hand, into)
    open_ = ~_worked_on(hand, found, [cut for cut in old.values() if not cut.offered])
    if panel is not None:
        open_ &= found.scene.panel == panel
    made = as_cuts(hand, found, suggestions(found, hand.sources[LAMPS], open_), into)
    first = max(hand.sources[SHADE_CUTS], default=0) + 1
    gone = [n for n, cut in old.items() if cut.offered and (panel is None or _lies_in(hand, found, cut, panel))]
    changes: dict[int, ShadeCut | None] = dict.fromkeys(gone)
    changes |= dict(enumerate(made, first))
    if not changes:
        return "The lamp suggests nothing here: what is poured is ground, or too small."
    title = say_many("Suggest a cut in {1}", "Suggest {0} cuts in {1}", len(made), len(made), one.name)
    change_cuts(hand, into, changes, "suggest-cuts", title)
    return tr(
        "{0} cuts suggested. Keep all of them, or step through them with N: Enter keeps, Delete drops.", len(made)
    )


@order
def lay_bounce(hand: Hand, number: LampNumber, strength: float = 0.6) -> str:
    """Lay the light of a bounce over what it reaches, into a pass of its own; what it laid before gives way.

    What turns away from it is cut out of the pass, as shapes whose points can be pulled. Return what is to be told.

    Raises
    ------
    BadInput
        If there is no such lamp, or it is a key light.
    NothingDone
        If it reaches nothing.
    """
    lamp = hand.sources[LAMPS].get(number)
    if lamp is None:
        raise BadInput("This page has no lamp {0}.", number)
    if not lamp.color:
        raise BadInput("That is a key light. Give it a colour, and it is a bounce.")
    found = staged(hand)
    made = bounced(found, lamp)
    away = {k for k, _, light, _ in made if not light}
    if not away:
        raise NothingDone("The bounce reaches nothing: what is poured there is ground, or too small.")
    book, page = hand.book, hand.page
    with book.as_one():
        before = hand.sources[PASSES].get(lamp.into) if lamp.into > TONE else None
        if before is not None:
            strength = before.strength
            remove_pass(book, page, lamp.into)
        into = add_pass(book, page, before.name if before else "Bounce", lamp.color, "screen", strength)
        fill_pass(hand, {a for k in away for a in found.atoms[k]}, into=into)
        cuts = as_cuts(hand, found, [one for one in made if one[0] in away], into)
        first = max(hand.sources[SHADE_CUTS], default=0) + 1
        turned = [msgspec.structs.replace(cut, light=not cut.light, offered=False) for cut in cuts]
        change_cuts(hand, into, dict(enumerate(turned, first)), "lay-bounce", "Lay the bounce")
        put(book, "lay-bounce", "Lay the bounce",
            (LAMPS.key(page, number), msgspec.structs.replace(lamp, into=into)))  # fmt: skip
    return tr_many("The bounce reaches one region.", "The bounce reaches {0} regions.", len(away), len(away))


def _worked_on(hand: Hand, found: Staged, cuts: list[ShadeCut]) -> Bool:
    """Tell the regions of the scene that some cuts stay in."""
    atoms = {hand.atom_at(r, c) for cut in cuts for r, c in cut.within.spots}
    told = np.zeros(found.scene.count + 1, bool)
    told[[k for k, mine in found.atoms.items() if atoms & set(mine)]] = True
    return told


def _lies_in(hand: Hand, found: Staged, cut: ShadeCut, panel: int) -> bool:
    spots = cut.within.spots or tuple((r, c) for r, c, _ in cut.knots[:1])
    row, col = found.to_scene(*spots[0])
    rows, cols = found.scene.labels.shape
    inside = 0 <= row < rows and 0 <= col < cols
    return bool(inside and found.scene.panel[found.scene.labels[int(row), int(col)]] == panel)
