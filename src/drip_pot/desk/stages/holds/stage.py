# SPDX-License-Identifier: GPL-3.0-or-later
"""The record of Holds. Knows no other stage."""

from drip_pot.book.values import HOLDS
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.holds.blocks import HoldsPanel
from drip_pot.desk.stages.holds.holding import Holding
from drip_pot.desk.stages.stage import Stage
from drip_pot.desk.view.render import Look
from drip_pot.desk.view.seen import Chip, Seen, flag


def _looks(easel: Easel, seen: Seen) -> tuple[Look, Look]:
    held = easel.own(Holding).in_hand() if seen["marked"] else None
    marked = held[0] if held is not None else 0
    look = Look(tone=seen["tone"], marked=marked, depth=seen["depth"])
    return look, Look(tone=seen["tone"], held=False)


def _chips(easel: Easel, seen: Seen) -> list[Chip]:
    sources = easel.sources()
    held = sources is not None and bool(sources[HOLDS])
    deep = flag(seen, "Depth", "depth", "What lies in front is lighter: it owns the line where two meet")
    return [
        flag(seen, "Tone", "tone", "Shadow as well as local colour"),
        flag(seen, "Marked", "marked", "Stripes on the strokes that the hold in hand has"),
        *([deep] if held else []),
    ]


STAGE = Stage("Holds", HoldsPanel, _looks, _chips, flags={"tone": True, "marked": False, "depth": False})
