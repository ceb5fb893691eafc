# SPDX-License-Identifier: GPL-3.0-or-later
"""The record of Press. Knows no other stage."""

from drip_pot.book import PageSources
from drip_pot.book.values import PRESS
from drip_pot.desk.parts.lengths import length_text
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.page_view import PageView
from drip_pot.desk.shelf.in_hand import Tells
from drip_pot.desk.stages.press.blocks import PressPanel
from drip_pot.desk.stages.press.cards import PlateCards
from drip_pot.desk.stages.press.rubbing import Rubbing
from drip_pot.desk.stages.press.straying import Straying
from drip_pot.desk.stages.stage import Stage
from drip_pot.desk.view.render import PLATES, Look, plates_at
from drip_pot.desk.view.seen import Chip, Seen, flag
from drip_pot.words import tr


def _looks(easel: Easel, seen: Seen) -> tuple[Look, Look]:
    sources = easel.sources()
    rubbing = easel.own(Rubbing)
    rubbing.plates, rubbing.wear = seen.plates, seen["old"]
    look = Look(
        kind="press", moved=easel.own(Straying).moves,
        plates=seen.plates, trap=seen["trap"], paper=seen["paper"], opens=seen["opens"], old=seen["old"],
        load=seen["load"], stand_in=seen["stand-in"], screens=seen["screens"],
        dpi=300.0 if sources is None else sources.page.dpi,
    )  # fmt: skip
    printed = look.moved or look.old or look.stand_in or look.screens  # beside the sheet as it is meant to come out
    return look, Look(kind="press", paper=True) if printed else Look()


def _chips(easel: Easel, seen: Seen) -> list[Chip]:
    return [
        flag(seen, "Traps", "trap", "Where the lighter colour spreads, in black"),
        flag(seen, "Opens", "opens", "Where something lighter shows when plates stray, in vermilion"),
        flag(seen, "Load", "load", "How much ink lies where; in vermilion from 95 % of the limit on"),
        flag(seen, "Dots", "screens", "In halftone dots at the ruling of the press, each plate at its angle"),
        flag(seen, "Stand-in", "stand-in", "As a simulated press prints it, with its own drift and gain"),
        flag(seen, "Old stock", "old", "As a worn, aged sheet: set it at the right"),
        flag(seen, "Paper", "paper", "On the colour of the sheet"),
    ]


def _reads(easel: Easel, view: PageView, row: int, col: int) -> str:
    inks = plates_at(view, row, col)
    if inks is None:
        return ""
    told = [f"{name[0] if name in PLATES[:3] else 'K' if name == PLATES[3] else name} {v}" for name, v in inks.items()]
    return f"{' '.join(told)} = {sum(inks.values())} %"


def _tells(easel: Easel, sources: PageSources) -> tuple[str, str, str, str]:
    page, press, here = sources.page, sources[PRESS], len(easel.findings["Press"])
    before = sum(map(len, easel.findings.values())) - here
    looking = not easel.deriving.looking.done
    told = (
        "Looking" if looking else tr("{0} left", here) if here else tr("{0} left before", before) if before else "Ready"
    )
    what = tr("PDF, CMYK TIFF, 1-bit black line, {0} × {1} px, {2:g} dpi", page.cols, page.rows, page.dpi)
    return "Delivery", told, what, tr("Ink limit {0} %, trap {1}", press.ink_limit, length_text(press.trap_mm, 2))


STAGE = Stage("Press", PressPanel, _looks, _chips, reads=_reads, cards=PlateCards, tells=Tells(_tells))
