"""A page's sources put together from its values. Knows the model and typed tables; no edits, no pixels."""

from typing import Annotated, Any

import msgspec

from drip_pot.book.frames import Doubt, FigureOffer
from drip_pot.book.line_state import ENGINE, FIRST_ENGINE, Beneath, InkState, LineState, OverState, SheetLine
from drip_pot.book.model import (
    TONE,
    Border,
    EdgeTrap,
    Flats,
    Hold,
    Lamp,
    Lines,
    Page,
    PageSources,
    Pass,
    Seed,
    ShadeCut,
    Sheet,
)
from drip_pot.book.panels import PanelByHand
from drip_pot.book.store import Kind, PageValues
from drip_pot.book.value_plan import PanelValues
from drip_pot.book.where import KeptScope
from drip_pot.core.inks import Effect
from drip_pot.core.press import PressSettings, Wear
from drip_pot.core.regions import Cut, Path, Stencil


def _spot(key: str) -> tuple[int, int]:
    row, _, col = key.partition(":")
    return int(row), int(col)


def _middle(key: str) -> tuple[float, float]:
    row, _, col = key.partition(":")
    return float(row), float(col)


_Stroke = Annotated[Path, msgspec.Meta(min_length=1)]
KINDS: dict[str, Kind] = {
    "sheet": Kind(int, Sheet),
    "inks": Kind(lambda key: int(key or 0), InkState),
    "effect": Kind(int, Effect),
    "stroke": Kind(_spot, bool),
    "tone": Kind(_spot, bool),
    "dam": Kind(int, _Stroke),
    "door": Kind(int, _Stroke),
    "panel": Kind(int, PanelByHand),
    "join": Kind(int, _Stroke),
    "stencil": Kind(int, Stencil),
    "bridge": Kind(_middle, bool),
    "flats": Kind(str, Flats),
    "pour": Kind(int, int),
    "lines": Kind(str, Lines),
    "hold": Kind(int, Hold),
    "press": Kind(str, PressSettings),
    "wear": Kind(str, Wear),
    "left": Kind(str, Any),
    "seed": Kind(int, Seed),
    "sown": Kind(int, int),
    "seed-cuts": Kind(str, tuple[int, ...]),
    "before": Kind(str, LineState),
    "beneath": Kind(str, Beneath),
    "pass": Kind(int, Pass),
    "scope": Kind(int, KeptScope),
    "shade-cut": Kind(int, ShadeCut),
    "border": Kind(int, Border),
    "lamp": Kind(int, Lamp),
    "trap": Kind(int, EdgeTrap),
    "calm": Kind(int, bool),
    "engine": Kind(str, int),
    "doubt": Kind(_spot, Doubt),
    "figure": Kind(int, FigureOffer),
    "plan": Kind(str, tuple[PanelValues, ...]),
    "cut": Kind(str, LineState),
    "cut-by": Kind(str, tuple[Cut, ...]),
}
"""How every kind of value below a page is read."""


def page_sources(info: Page, values: PageValues, repair: int, shared: dict[int, Hold]) -> PageSources:
    """Put together all that a page is derived from; `repair` is the checksum of its repair sheet.

    `shared` are the holds of the whole book.
    """

    def typed(kind: str) -> dict[Any, Any]:
        return values.table(kind).typed()

    sheets: dict[int, Sheet] = {0: Sheet(original=info.original, picture=info.picture)} | typed("sheet")
    sheets = dict(sorted(sheets.items(), key=lambda item: (item[1].order, item[0])))
    inks = {n: typed("inks").get(n) or InkState() for n in sheets}
    lines = {n: SheetLine(s.original, s.picture, s.place, inks[n], s.covers, s.view) for n, s in sheets.items()}
    cuts = tuple(cut for _, cut in sorted((typed("dam") | typed("stencil")).items()))
    line = LineState(
        info.rows, info.cols, info.frame, tuple(lines[n] for n, s in sheets.items() if s.role == "contour"),
        tuple(typed("stroke")), tuple(typed("tone")), repair, cuts, ENGINE,
    )  # fmt: skip
    cut = _cut(values, line)
    as_then = msgspec.structs.replace(line, engine=cut.engine)
    if as_then == cut:  # an earlier version divided the page: that stands until its line is changed, or it is asked for
        line = as_then
    seen = {n: s for n, s in sheets.items() if s.shown}
    over = OverState(
        tuple(lines[n] for n, s in seen.items() if s.role == "detail"),
        tuple(lines[n] for n, s in seen.items() if s.role == "lettering"),
        tuple((lines[n], s.color) for n, s in seen.items() if s.role == "effect"),
        tuple(typed("effect").values()),
    )
    return PageSources(
        page=info,
        sheets=sheets,
        inks=inks,
        line=line,
        over=over,
        flats=values.one("flats", Flats()),
        choices=tuple((row, col, keep) for (row, col), keep in typed("bridge").items()),
        cut=cut,
        pours=typed("pour"),
        lines=values.one("lines", Lines()),
        holds=holds_of(values, shared),
        press=values.one("press", PressSettings()),
        wear=values.one("wear", Wear()),
        left=frozenset(typed("left")),
        effects=typed("effect"),
        dams=typed("dam"),
        doors=typed("door"),
        stencils=typed("stencil"),
        joins=typed("join"),
        seeds=typed("seed"),
        sown=typed("sown"),
        seed_cuts=values.one("seed-cuts", ()),
        passes=passes_of(values),
        scopes=typed("scope"),
        shade_cuts=dict(sorted(typed("shade-cut").items())),
        borders=typed("border"),
        lamps=dict(sorted(typed("lamp").items())),
        traps=dict(sorted(typed("trap").items())),
        calm=typed("calm"),
        before=values.one("before"),
        beneath=values.one("beneath"),
        panels=dict(sorted(typed("panel").items())),
        doubts=typed("doubt"),
        figures=dict(sorted(typed("figure").items())),
        plan=values.one("plan", ()),
    )


def passes_of(values: PageValues) -> dict[int, Pass]:
    """Return the passes of a page in order; the first is there without being kept."""
    found: dict[int, Pass] = {TONE: Pass()} | values.table("pass").typed()
    return dict(sorted(found.items(), key=lambda item: (item[1].order, item[0])))


def holds_of(values: PageValues, shared: dict[int, Hold]) -> dict[int, Hold]:
    """Return the holds of a page in order: its own, and those of the whole book that it does not replace."""
    found: dict[int, Hold] = shared | values.table("hold").typed()
    return dict(sorted(found.items(), key=lambda item: (item[1].order, item[0])))


def _cut(values: PageValues, line: LineState) -> LineState:
    """Read the line that pours belong to; books of the first version wrote only its ink settings, or nothing.

    Cuts go with the pours in one edit, so they are the present ones, but after the page was moved.
    """
    cut = values.one("cut")
    text = values.get("cut")
    if cut is None and text is not None and line.sheets:
        try:
            old = msgspec.json.decode(text, type=InkState)
        except msgspec.MsgspecError:
            old = line.sheets[0].inks
        sheets = (msgspec.structs.replace(line.sheets[0], inks=old),)
        cut = msgspec.structs.replace(line, sheets=sheets, engine=FIRST_ENGINE)
    if cut is None:
        cut = msgspec.structs.replace(line, engine=values.one("engine", ENGINE))
    told: LineState = msgspec.structs.replace(cut, cuts=values.one("cut-by", line.cuts))
    return told
