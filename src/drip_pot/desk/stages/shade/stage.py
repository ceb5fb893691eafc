"""The record of Shade. Knows no other stage."""

from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.shade.blocks import ShadePanel
from drip_pot.desk.stages.shade.overlay import ShadeOverlay
from drip_pot.desk.stages.stage import Stage
from drip_pot.desk.view.render import Look
from drip_pot.desk.view.seen import Chip, Seen, flag


def _looks(easel: Easel, seen: Seen) -> tuple[Look, Look]:
    lines, values = seen["lines"], seen["values"]
    return Look(lines=lines, tone=seen["tone"], values=values), Look(lines=lines, tone=False, values=values)


def _chips(easel: Easel, seen: Seen) -> list[Chip]:
    return [
        flag(seen, "Lines", "lines", "The line over the colour (I)"),
        flag(seen, "Tone", "tone", "Shadow as well as local colour"),
        flag(seen, "Values", "values", "Lightness alone, in grey (V)"),
    ]


STAGE = Stage("Shade", ShadePanel, _looks, _chips, ShadeOverlay, flags={"lines": True, "tone": True})
