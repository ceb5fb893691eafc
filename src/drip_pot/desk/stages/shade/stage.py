# SPDX-License-Identifier: GPL-3.0-or-later
"""The record of Shade. Knows no other stage."""

from dataclasses import replace

from drip_pot.book.values import POURS
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.shade.blocks import ShadePanel
from drip_pot.desk.stages.shade.overlay import ShadeOverlay
from drip_pot.desk.stages.stage import Stage
from drip_pot.desk.view.render import Look
from drip_pot.desk.view.seen import Chip, Seen, flag, lines_chip, values_chips


def _looks(easel: Easel, seen: Seen) -> tuple[Look, Look]:
    look = Look(
        lines=seen["lines"], line_share=seen.line_share,
        tone=seen["tone"], values=seen["values"], steps=seen.steps, squint=seen["squint"],
        alone=_alone(easel) if seen["alone"] else (),
    )  # fmt: skip
    return look, replace(look, tone=False)


def _alone(easel: Easel) -> tuple[int, ...]:
    """Return the atoms of what is picked, or of the part of the pot in hand."""
    ready = easel.ready()
    if ready is None:
        return ()
    if easel.picked:
        return tuple(sorted(easel.picked))
    book, sources = ready
    known, pot = book.pots(), easel.pot
    part = known[pot].part if pot is not None and pot in known else None
    return tuple(sorted(a for a, p in sources[POURS].items() if p in known and known[p].part == part))


def _chips(easel: Easel, seen: Seen) -> list[Chip]:
    return [
        lines_chip(seen),
        flag(seen, "Tone", "tone", "Shadow as well as local colour"),
        *values_chips(seen),
    ]


STAGE = Stage("Shade", ShadePanel, _looks, _chips, ShadeOverlay, flags={"lines": True, "tone": True})
