# SPDX-License-Identifier: GPL-3.0-or-later
"""All kinds of values that a book holds, one module a subject. Knows core's settings; nothing of edits and windows."""

from collections.abc import Iterable, Mapping
from typing import Any

from drip_pot.book.values.book import (
    DEPTHS,
    HOUSE,
    INFO,
    INK_SETS,
    LOAN,
    LOANS,
    PARTS,
    POTS,
    PROFILES,
    SCHEME_NOW,
    SCHEMES,
    SHARED_HOLDS,
    TONE_RULE,
    BookInfo,
    Depth,
    House,
    HouseColor,
    InkSet,
    Loan,
    Part,
    Pot,
    PotColors,
    Scheme,
    Sent,
)
from drip_pot.book.values.hold import (
    HOLD_COLORS,
    HOLDS,
    LINE_KINDS,
    LINES,
    MARKS,
    USUAL,
    Hold,
    HoldColor,
    LineKind,
    Lines,
    Side,
)
from drip_pot.book.values.kind import BookKind, BookValue, Colored, Feed, Move, PageKind, PageValue, Plane, Whole
from drip_pot.book.values.line_state import ENGINE, FIRST_ENGINE, Beneath, InkState, LineState, OverState, SheetLine
from drip_pot.book.values.movement import (
    DOUBTFUL,
    DOUBTS,
    FIGURES,
    FOLLOWING,
    MOST_HELD,
    REFERENCES,
    SEQUENCES,
    Doubt,
    FigureOffer,
    FollowingMark,
    Found,
    Rate,
    Reference,
    Sequence,
    Share,
)
from drip_pot.book.values.page import BEFORE, BENEATH, CUT, CUT_BY, ENGINE_OF, FLATS, LEFT, PAGES, PINS, Flats, Page
from drip_pot.book.values.press import (
    FIRST_SPOT,
    KEPT_NEW,
    MOST_SPOTS,
    PRESS,
    RUBBED,
    RUBBED_SPOTS,
    TRAPS,
    WEAR,
    EdgeTrap,
    TrapWay,
)
from drip_pot.book.values.region import (
    BALLOON,
    BRIDGES,
    DAMS,
    DOORS,
    JOINS,
    MOST_CORNERS,
    PANELS,
    POURS,
    SEED_CUTS,
    SEEDS,
    SOWN,
    STENCILS,
    PanelByHand,
    Seed,
)
from drip_pot.book.values.shade import (
    BORDERS,
    CALM,
    COVER,
    LAMPS,
    PAINT,
    PASSES,
    PLAN,
    SCOPES,
    SHADE_CUTS,
    TONE,
    UNDER,
    Border,
    Lamp,
    Pass,
    PassKind,
    ShadeCut,
    moved_picture,
    moved_scope,
)
from drip_pot.book.values.sheet import EFFECTS, INKS, REPAIR, ROLES, SHEETS, STROKES, TONES, Role, Sheet

_PAGE = (REPAIR, MARKS, COVER, UNDER, *PAINT, RUBBED, KEPT_NEW)
PAGE_KINDS: Mapping[str, PageKind[Any, Any] | PageValue[Any]] = {
    kind.name: kind
    for kind in (
        FLATS,
        ENGINE_OF,
        CUT,
        CUT_BY,
        BEFORE,
        BENEATH,
        LEFT,
        PINS,
        SHEETS,
        INKS,
        EFFECTS,
        STROKES,
        TONES,
        DAMS,
        STENCILS,
        DOORS,
        JOINS,
        BRIDGES,
        PANELS,
        POURS,
        SEEDS,
        SOWN,
        SEED_CUTS,
        LINES,
        HOLDS,
        PASSES,
        SCOPES,
        SHADE_CUTS,
        BORDERS,
        LAMPS,
        CALM,
        PLAN,
        PRESS,
        WEAR,
        RUBBED_SPOTS,
        TRAPS,
        DOUBTS,
        FOLLOWING,
        FIGURES,
    )
}
"""Every kind of value below a page, by the name it has in keys; what another one is filled from comes before it."""
BOOK_KINDS: Mapping[str, BookKind[Any, Any] | BookValue[Any]] = {
    kind.name: kind
    for kind in (
        PAGES,
        SEQUENCES,
        REFERENCES,
        INFO,
        TONE_RULE,
        SCHEME_NOW,
        PARTS,
        POTS,
        SHARED_HOLDS,
        SCHEMES,
        INK_SETS,
        DEPTHS,
        HOUSE,
        LOAN,
        LOANS,
        PROFILES,
    )
}
"""Every kind of value that lies below no page, by the name it has in keys."""
PLANES: Mapping[str, Plane] = {plane.name: plane for plane in _PAGE}
"""Every kind of painted plane."""

__all__ = [
    "BALLOON",
    "BEFORE",
    "BENEATH",
    "BOOK_KINDS",
    "BORDERS",
    "BRIDGES",
    "CALM",
    "COVER",
    "CUT",
    "CUT_BY",
    "DAMS",
    "DEPTHS",
    "DOORS",
    "DOUBTFUL",
    "DOUBTS",
    "EFFECTS",
    "ENGINE",
    "ENGINE_OF",
    "FIGURES",
    "FIRST_ENGINE",
    "FIRST_SPOT",
    "FLATS",
    "FOLLOWING",
    "HOLDS",
    "HOLD_COLORS",
    "HOUSE",
    "INFO",
    "INKS",
    "INK_SETS",
    "JOINS",
    "KEPT_NEW",
    "LAMPS",
    "LEFT",
    "LINES",
    "LINE_KINDS",
    "LOAN",
    "LOANS",
    "MARKS",
    "MOST_CORNERS",
    "MOST_HELD",
    "MOST_SPOTS",
    "PAGES",
    "PAGE_KINDS",
    "PAINT",
    "PANELS",
    "PARTS",
    "PASSES",
    "PINS",
    "PLAN",
    "PLANES",
    "POTS",
    "POURS",
    "PRESS",
    "PROFILES",
    "REFERENCES",
    "REPAIR",
    "ROLES",
    "RUBBED",
    "RUBBED_SPOTS",
    "SCHEMES",
    "SCHEME_NOW",
    "SCOPES",
    "SEEDS",
    "SEED_CUTS",
    "SEQUENCES",
    "SHADE_CUTS",
    "SHARED_HOLDS",
    "SHEETS",
    "SOWN",
    "STENCILS",
    "STROKES",
    "TONE",
    "TONES",
    "TONE_RULE",
    "TRAPS",
    "UNDER",
    "USUAL",
    "WEAR",
    "Beneath",
    "BookInfo",
    "BookKind",
    "BookValue",
    "Border",
    "Colored",
    "Depth",
    "Doubt",
    "EdgeTrap",
    "Feed",
    "FigureOffer",
    "Flats",
    "FollowingMark",
    "Found",
    "Hold",
    "HoldColor",
    "House",
    "HouseColor",
    "InkSet",
    "InkState",
    "Lamp",
    "LineKind",
    "LineState",
    "Lines",
    "Loan",
    "Move",
    "OverState",
    "Page",
    "PageKind",
    "PageValue",
    "PanelByHand",
    "Part",
    "Pass",
    "PassKind",
    "Plane",
    "Pot",
    "PotColors",
    "Rate",
    "Reference",
    "Role",
    "Scheme",
    "Seed",
    "Sent",
    "Sequence",
    "ShadeCut",
    "Share",
    "Sheet",
    "SheetLine",
    "Side",
    "TrapWay",
    "Whole",
    "fed_by",
    "moved_picture",
    "moved_scope",
    "places_of",
    "word_of",
]


def places_of(kind: str, page: int | None) -> list[str]:
    """Return what the keys of a kind of numbered things begin with, on a page and in the book; none for an unknown."""
    here, whole = PAGE_KINDS.get(kind), BOOK_KINDS.get(kind)
    found = [here.below(page)] if isinstance(here, PageKind) and page is not None else []
    return found + ([whole.below] if isinstance(whole, BookKind) else [])


def fed_by(keys: Iterable[str], page: int) -> set[str]:
    """Return what follows from values at some keys, for a page: what of the whole book, and of that page, is stale."""
    found: set[str] = set()
    for key in keys:
        first, _, rest = key.partition("/")
        number, below, under = rest.partition("/")
        if first == PAGES.name and below:
            kind = PAGE_KINDS.get(under.partition("/")[0])
            found |= kind.feeds if kind is not None and number == str(page) else set()
        elif first in BOOK_KINDS:
            found |= BOOK_KINDS[first].feeds
    return found


def word_of(kind: str) -> str:
    """Return what one thing of a kind is called."""
    known = PAGE_KINDS.get(kind) or BOOK_KINDS.get(kind)
    return known.words[0] if isinstance(known, PageKind | BookKind) else _OTHERS.get(kind, kind)


_OTHERS = {"atom": "region", "drawn panel": "panel", "original": "file"}
"""What has numbers but no value of its own."""
