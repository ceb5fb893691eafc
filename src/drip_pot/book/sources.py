# SPDX-License-Identifier: GPL-3.0-or-later
"""A page's sources put together from its values. Knows the kinds of values and typed tables; no edits, no pixels."""

from typing import Any, TypeVar, overload

import msgspec

from drip_pot.book.store import PageValues
from drip_pot.book.values import (
    BRIDGES,
    CUT,
    CUT_BY,
    DAMS,
    EFFECTS,
    ENGINE,
    ENGINE_OF,
    FIRST_ENGINE,
    INKS,
    PAGE_KINDS,
    PLANES,
    SHEETS,
    STENCILS,
    STROKES,
    TONES,
    Hold,
    InkState,
    LineState,
    OverState,
    Page,
    PageKind,
    PageValue,
    Sheet,
    SheetLine,
)
from drip_pot.book.values.kind import Whole
from drip_pot.core.regions import Cut

K = TypeVar("K")
V = TypeVar("V")
TYPED = {name: kind.read for name, kind in PAGE_KINDS.items()}
"""How typed tables read every kind of value below a page."""


class PageSources(msgspec.Struct, frozen=True):
    """Everything a page is derived from, as one unchanging snapshot: `sources[LAMPS]` are its lamps by number.

    Attributes
    ----------
    page : Page
        Its size.
    held : dict
        Values of every kind, by its name; read them by their kind.
    line, over
        What the contour and all above it is made from.
    cut : LineState
        The line that the atoms in pours were found in.
    marked : frozenset of int
        Holds with marks on the page.
    number : int
        Its number in the book.
    """

    page: Page
    held: dict[str, Any]
    line: LineState
    over: OverState
    cut: LineState
    marked: frozenset[int] = frozenset()
    number: int = 0

    @overload
    def __getitem__(self, kind: PageKind[K, V]) -> dict[K, V]: ...
    @overload
    def __getitem__(self, kind: PageValue[V]) -> V: ...
    def __getitem__(self, kind: PageKind[K, V] | PageValue[V]) -> dict[K, V] | V:
        """Return the values of a kind by what they are kept by, in order, or its one value; not to be changed."""
        found: dict[K, V] | V = self.held[kind.name]
        return found

    @property
    def by_hand(self) -> dict[int, Cut]:
        """Dams and cut-outs by number, in the order they were made; they share their numbers."""
        every: dict[int, Cut] = dict(self[DAMS].items())
        every |= self[STENCILS].items()
        return dict(sorted(every.items()))

    @property
    def choices(self) -> tuple[tuple[float, float, bool], ...]:
        """Bridges decided by hand: (row, col, keep)."""
        return tuple((row, col, keep) for (row, col), keep in self[BRIDGES].items())


def page_sources(info: Page, values: PageValues, repair: int, shared: dict[int, Hold]) -> PageSources:
    """Put together all that a page is derived from; `repair` is the checksum of its repair sheet.

    `shared` are the holds of the whole book.
    """
    held = held_in(info, values, shared)
    sheets: dict[int, Sheet] = held[SHEETS.name]
    inks: dict[int, InkState] = held[INKS.name]
    lines = {n: SheetLine(s.original, s.picture, s.place, inks[n], s.covers, s.view) for n, s in sheets.items()}
    cuts = tuple(cut for _, cut in sorted((held[DAMS.name] | held[STENCILS.name]).items()))
    line = LineState(
        info.rows, info.cols, info.frame, tuple(lines[n] for n, s in sheets.items() if s.role == "contour"),
        tuple(held[STROKES.name]), tuple(held[TONES.name]), repair, cuts, ENGINE,
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
        tuple(held[EFFECTS.name].values()),
    )
    return PageSources(info, held, line, over, cut)


def held_in(info: Page, values: PageValues, shared: dict[int, Hold]) -> dict[str, Any]:
    """Return all values of a page by the name of their kind, those that need not be kept among them."""
    held: dict[str, Any] = {}
    whole = Whole(info, shared, held)
    for name, kind in PAGE_KINDS.items():
        if isinstance(kind, PageValue):
            held[name] = values.one(name, kind.default)
        else:
            held[name] = filled(kind, values, whole)
    return held


def filled(kind: PageKind[K, V], values: PageValues, whole: Whole) -> dict[K, V]:
    """Return all values of one kind, those that need not be kept among them."""
    found: dict[K, V] = values.table(kind.name).typed()
    return found if kind.filled is None else kind.filled(found, whole)


def plane_names(page: int, values: PageValues, whole: Whole) -> list[str]:
    """Return the names of all planes that can be painted on a page, by its number."""
    found: list[str] = []
    for plane in PLANES.values():
        numbers = (None,) if plane.numbers is None else plane.numbers(lambda kind: filled(kind, values, whole))
        found += [plane.key(page, number) for number in numbers]
    return found


def _cut(values: PageValues, line: LineState) -> LineState:
    """Read the line that pours belong to; books of the first version wrote only its ink settings, or nothing.

    Cuts go with the pours in one edit, so they are the present ones, but after the page was moved.
    """
    cut = values.one(CUT.name)
    text = values.get(CUT.name)
    if cut is None and text is not None and line.sheets:
        try:
            old = msgspec.json.decode(text, type=InkState)
        except msgspec.MsgspecError:
            old = line.sheets[0].inks
        sheets = (msgspec.structs.replace(line.sheets[0], inks=old),)
        cut = msgspec.structs.replace(line, sheets=sheets, engine=FIRST_ENGINE)
    if cut is None:
        cut = msgspec.structs.replace(line, engine=values.one(ENGINE_OF.name, ENGINE))
    told: LineState = msgspec.structs.replace(cut, cuts=values.one(CUT_BY.name, line.cuts))
    return told
