# SPDX-License-Identifier: GPL-3.0-or-later
"""The record of Flats. Knows no other stage."""

from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.page_view import PageView
from drip_pot.desk.stages.flats.blocks import FlatsPanel
from drip_pot.desk.stages.flats.overlay import FlatsOverlay
from drip_pot.desk.stages.stage import Stage
from drip_pot.desk.view.render import Look
from drip_pot.desk.view.seen import Chip, Seen, flag, lines_chip
from drip_pot.words import grouped, tr


def _looks(easel: Easel, seen: Seen) -> tuple[Look, Look]:
    look = Look(
        lines=seen["lines"], line_share=seen.line_share,
        loud=seen["loud"], hatched=seen["hatched"], tone=False, lettering=seen["lettering"],
        outline=seen["outline"], values=seen["values"], leftovers=seen["leftovers"],
    )  # fmt: skip
    return look, Look(kind="line")


def _chips(easel: Easel, seen: Seen) -> list[Chip]:
    sources = easel.sources()
    lettered = sources is not None and bool(sources.over.lettering)
    return [
        lines_chip(seen),
        flag(seen, "Loud", "loud", "Working colours that merely differ, instead of the real ones (U)"),
        *(
            [flag(seen, "Hatched", "hatched", "Hatching and lightness tell them, not hue alone")]
            if seen["loud"]
            else []
        ),
        flag(seen, "Bridges", "bridges", "Bridges solid and black, open gaps dashed in vermilion"),
        flag(seen, "Outlines", "outline", "Where regions meet, without line or colour"),
        flag(seen, "Leftovers", "leftovers", "What nobody poured, striped in vermilion (J)"),
        flag(seen, "Values", "values", "Lightness alone, in grey (V)"),
        flag(seen, "Names", "names", "The pot under the pointer"),
        *([flag(seen, "Lettering", "lettering", "Balloons and letters")] if lettered else []),
    ]


def reads_region(easel: Easel, view: PageView, row: int, col: int) -> str:
    """Read the pot and the size of the region under the pointer."""
    atom = easel.atom_at(row, col)
    if not atom or view.flat is None or easel.book is None:
        return ""
    pot = easel.book.pots().get(easel.pot_of(atom) or 0)
    area = int(view.flat.atoms.areas[view.flat.region(atom)].sum())
    return tr("{0}, region of {1} px", pot.name if pot is not None else "paper", grouped(area))


STAGE = Stage(
    "Flats", FlatsPanel, _looks, _chips, FlatsOverlay, reads_region, {"lines": True, "names": True}
)  # fmt: skip
