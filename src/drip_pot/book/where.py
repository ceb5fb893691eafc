# SPDX-License-Identifier: GPL-3.0-or-later
"""Where something applies, as it is kept. Knows numbers only; `scope` tells it in atoms."""

import msgspec

from drip_pot.book.numbers import PanelNumber, PartNumber, PotNumber


class Scope(msgspec.Struct, frozen=True):
    """Where something applies.

    Attributes
    ----------
    parts, pots, panels : tuple of int
        Numbers; panel 0 is the gutter.
    spots : tuple of (row, col)
        A page pixel of each area that was picked. With none of all these it is everywhere, else in any of them.
    inverted : bool
        Everywhere but there.
    """

    parts: tuple[PartNumber, ...] = ()
    pots: tuple[PotNumber, ...] = ()
    inverted: bool = False
    panels: tuple[PanelNumber, ...] = ()
    spots: tuple[tuple[float, float], ...] = ()

    @property
    def is_everywhere(self) -> bool:
        """Whether it names nothing."""
        return not (self.parts or self.pots or self.panels or self.spots)

    def with_more(self, other: "Scope") -> "Scope":
        """Return where this or another one is; what an inverted one leaves out is less then."""
        if self.is_everywhere or other.is_everywhere:
            return other if self.inverted else Scope()
        kinds = ("parts", "pots", "panels", "spots")

        def both(kind: str) -> tuple[object, ...]:
            mine, more = getattr(self, kind), getattr(other, kind)
            fresh = (*mine, *(k for k in more if k not in mine))
            return tuple(k for k in mine if k not in more) if self.inverted else fresh

        return Scope(**{kind: both(kind) for kind in kinds}, inverted=self.inverted)  # type: ignore[arg-type]


class KeptScope(msgspec.Struct, frozen=True):
    """A scope kept by name."""

    name: str
    scope: Scope
