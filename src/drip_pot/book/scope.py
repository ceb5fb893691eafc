# SPDX-License-Identifier: GPL-3.0-or-later
"""Where something applies, told in atoms of a divided page. Knows the book, regions, pieces; not what is done there."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from drip_pot.book.reading import Reading
from drip_pot.book.sources import PageSources
from drip_pot.book.values import BALLOON, POURS, SCOPES
from drip_pot.book.where import Scope
from drip_pot.core.arrays import I32, Bool
from drip_pot.core.holds import LinePieces
from drip_pot.core.regions import Panels
from drip_pot.words import tr


def no_panels() -> Panels | None:
    """Know no panels."""
    return None


def no_pieces() -> LinePieces | None:
    """Know no stroke pieces."""
    return None


@dataclass(frozen=True)
class Ground:
    """What scopes are laid on.

    Attributes
    ----------
    labels : (M, N) ndarray of int32
        Atom of every pixel.
    panels : callable
        Returns the panels, asked only where a scope names one; None while they are not known.
    pieces : callable
        Returns the stroke pieces, asked only where there are holds; None while they are not known.
    at_once : bool
        Whether it will do for now to know whose line is as it was before the last change.
    """

    labels: I32
    panels: Callable[[], Panels | None] = no_panels
    pieces: Callable[[], LinePieces | None] = no_pieces
    at_once: bool = False


def scope_atoms(book: Reading, sources: PageSources, scope: Scope, count: int, ground: Ground | None) -> Bool | None:
    """Return the atoms that a scope covers on a page, (count + 1,) bool; None is all of them.

    Raises `ValueError` for panels and picked places without a `ground`.
    """
    if scope.is_everywhere:
        return np.zeros(count + 1, bool) if scope.inverted else None
    parts = set(scope.parts)
    wanted = set(scope.pots) | {number for number, pot in book.pots().items() if pot.part in parts}
    found = np.zeros(count + 1, bool)
    found[[a for a, pot in sources[POURS].items() if pot in wanted and a <= count]] = True
    if ground is None and (scope.panels or scope.spots):
        raise ValueError("a scope of panels or places needs the ground it is laid on")
    if ground is not None:
        rows, cols = ground.labels.shape
        spots = [(int(r), int(c)) for r, c in scope.spots if 0 <= r < rows and 0 <= c < cols]
        found[[a for a in (int(ground.labels[spot]) for spot in spots) if a <= count]] = True
        panels = ground.panels() if scope.panels else None
        if panels is not None:
            known = panels.panel[: count + 1]
            found[: len(known)] |= np.isin(known, scope.panels)
    found[0] = False
    return ~found if scope.inverted else found


def colored_atoms(sources: PageSources, count: int) -> Bool:
    """Return the atoms that have colour, (count + 1,) bool; paper kept for lettering has none."""
    found = np.zeros(count + 1, bool)
    found[[a for a, pot in sources[POURS].items() if pot != BALLOON and 0 < a <= count]] = True
    return found


def said(book: Reading, sources: PageSources, scope: Scope) -> str:
    """Say where a scope is: 'Wren, Sky and 3 picked places'."""
    parts, pots = book.parts(), book.pots()
    names = [parts[n].name for n in scope.parts if n in parts] + [pots[n].name for n in scope.pots if n in pots]
    names += [tr("panel {0}", n) if n else tr("the gutter") for n in scope.panels]
    if scope.spots:
        names.append(tr("a picked place") if len(scope.spots) == 1 else tr("{0} picked places", len(scope.spots)))
    if not names:
        return "nowhere" if scope.inverted or not scope.is_everywhere else "everywhere"
    told = names[0] if len(names) == 1 else tr("{0} and {1}", ", ".join(names[:-1]), names[-1])
    kept = next((kept.name for kept in sources[SCOPES].values() if kept.scope == scope), "")
    return kept or (tr("all but {0}", told) if scope.inverted else told)
