# SPDX-License-Identifier: GPL-3.0-or-later
"""Where what is in hand applies: chosen, added to, inverted, kept by name. Knows the easel; no single stage."""

import msgspec

from drip_pot.book import verbs
from drip_pot.book.values import SCOPES
from drip_pot.book.where import Scope
from drip_pot.desk.session.easel import Easel
from drip_pot.words import tr


class Scoping:
    """What has a scope: a stage's own is told by `scope_held` and changed by `put_scope`."""

    what = "pass"

    def __init__(self, easel: Easel) -> None:
        self.easel = easel

    def scope_held(self) -> Scope | None:
        """Return the scope of what is in hand."""
        raise NotImplementedError

    def put_scope(self, scope: Scope) -> None:
        """Give what is in hand a scope."""
        raise NotImplementedError

    def scopes(self) -> dict[str, Scope]:
        """Return what a scope can be set to, by name: from what is in hand, what is picked, panels, what is kept."""
        ready = self.easel.ready()
        if ready is None:
            return {}
        book, sources = ready
        found = {"Everywhere": Scope()}
        pot, known = self.easel.pot, book.pots()
        if pot is not None and pot in known:
            found[tr("The pot {0}", known[pot].name)] = Scope(pots=(pot,))
            found[tr("The part {0}", book.parts()[known[pot].part].name)] = Scope(parts=(known[pot].part,))
        hand = self.easel.hand()
        if hand is not None and self.easel.picked:
            found["What is picked"] = Scope(spots=hand.spots_of(a for a in self.easel.picked if a < len(hand.areas)))
        flat = None if self.easel.view is None else self.easel.view.flat
        if flat is not None and flat.panels is not None and flat.panels.framed:
            found |= {tr("Panel {0}", n): Scope(panels=(n,)) for n in range(1, len(flat.panels.rects) + 1)}
        return found | {kept.name: kept.scope for kept in sources[SCOPES].values()}

    def set_scope(self, scope: Scope, *, more: bool = False) -> None:
        """Let what is in hand apply in a scope, or there as well (`more`)."""
        held = self.scope_held()
        if held is not None:
            self.put_scope(held.with_more(scope) if more else scope)

    def invert_scope(self) -> None:
        """Let what is in hand apply everywhere else."""
        held = self.scope_held()
        if held is None:
            return
        if held.is_everywhere:
            self.easel.said.emit(
                tr("The {0} applies everywhere. Choose where first, then invert it.", self.what), False
            )
        else:
            self.put_scope(msgspec.structs.replace(held, inverted=not held.inverted))

    def keep_scope(self, name: str) -> None:
        """Keep the scope of what is in hand by name."""
        held = self.scope_held()
        if held is not None:
            self.easel.do(lambda book, page: verbs.keep_scope(book, page, name, held))
