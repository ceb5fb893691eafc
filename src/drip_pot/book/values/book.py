# SPDX-License-Identifier: GPL-3.0-or-later
"""Values of the whole book: its name, parts, pots, schemes, own inks. Knows core's settings."""

from typing import Annotated

import msgspec

from drip_pot.book.numbers import PartNumber
from drip_pot.book.values.hold import Hold, Lines
from drip_pot.book.values.kind import BookKind, BookValue
from drip_pot.core.color import ToneRule
from drip_pot.core.press import Condition
from drip_pot.core.render import Ramp


class BookInfo(msgspec.Struct, frozen=True):
    """The book's own name."""

    title: str = "Untitled book"


class Part(msgspec.Struct, frozen=True):
    """A named group of pots; `order` sorts parts on the shelf, `tone` is its own rule for shadows, if it has one."""

    name: str
    order: int = 0
    tone: ToneRule | None = None


class Pot(msgspec.Struct, frozen=True):
    """A named colour.

    Attributes
    ----------
    part : int
        Number of its part.
    local, shadow : str
        '#rrggbb'; a shadow of None is worked out from the local colour by the book's tone rule.
    order : int
        Sorts pots within their part.
    inks, shadow_inks : tuple of int, or None
        Cyan, magenta, yellow and black in whole per cent, fixed by hand; None is worked out.
    spot : str
        The name of an ink beside the four that it is printed with, solid; empty is none.
    """

    name: str
    part: PartNumber
    local: str
    shadow: str | None = None
    order: int = 0
    inks: tuple[int, int, int, int] | None = None
    shadow_inks: tuple[int, int, int, int] | None = None
    spot: str = ""


class InkSet(msgspec.Struct, frozen=True):
    """Real inks a person owns: names and '#rrggbb'."""

    name: str
    inks: tuple[tuple[str, str], ...] = ()


class PotColors(msgspec.Struct, frozen=True):
    """What a scheme says of a pot: its colours, its own inks, its name there, as of `Pot`; '' is the one it has."""

    local: str
    shadow: str | None = None
    inks: tuple[int, int, int, int] | None = None
    shadow_inks: tuple[int, int, int, int] | None = None
    spot: str = ""
    name: str = ""


class Depth(msgspec.Struct, frozen=True):
    """That a pot, by number, lies in front of another one wherever they meet: the line between them is its outline.

    With `parts` they are numbers of parts, all of whose pots lie so, but where something else was said of two pots.
    """

    front: int
    behind: int
    parts: bool = False


class Scheme(msgspec.Struct, frozen=True):
    """A set of colours for the flats of a book.

    Attributes
    ----------
    tone : ToneRule
        How shadows are worked out.
    pots, parts, lines : dict
        Colours of pots and own rules of parts, by number; lines by page, where they are not the usual ones.
    passes, holds, shared_holds : dict
        Colour and ramp by page and number; by number those of the whole book.
    effects, sheets : dict
        Colour of effect lines and of effect sheets, by page and number.
    """

    name: str
    pots: dict[int, PotColors] = {}
    tone: ToneRule = ToneRule()
    parts: dict[int, ToneRule] = {}
    lines: dict[int, Lines] = {}
    passes: dict[int, dict[int, tuple[str, Ramp | None]]] = {}
    holds: dict[int, dict[int, tuple[str, Ramp | None]]] = {}
    shared_holds: dict[int, tuple[str, Ramp | None]] = {}
    effects: dict[int, dict[int, str]] = {}
    sheets: dict[int, dict[int, str]] = {}


class HouseColor(msgspec.Struct, frozen=True):
    """A colour of a house: '#rrggbb', its name and part there, and its shadow where the house says one."""

    name: str
    local: str
    part: str = ""
    shadow: str | None = None


class House(msgspec.Struct, frozen=True):
    """A palette that the books of a house follow: its name, its colours, and the file they were read from."""

    name: str
    colors: tuple[HouseColor, ...]
    path: str = ""


class Loan(msgspec.Struct, frozen=True):
    """What a book that went out of another one, and comes back, says of itself.

    Attributes
    ----------
    key : str
        What tells it apart.
    name : str
        Whom it went to, or what for.
    floor : int
        What is new in it is numbered from here on, so that it is not taken for what is new in the other one.
    base : bytes
        How all of it was when it went out, see `drip_pot.book.loans`.
    """

    key: str
    name: str
    floor: Annotated[int, msgspec.Meta(ge=0, le=1_000_000)]
    base: bytes


class Sent(msgspec.Struct, frozen=True):
    """Pages that are out: whom they went to, their numbers, and how they were when they were last taken back."""

    name: str
    pages: tuple[int, ...]
    taken: bytes = b""


INFO: BookValue[BookInfo] = BookValue("book", BookInfo, "name of the book")
TONE_RULE: BookValue[ToneRule] = BookValue("tone", ToneRule, "rule for shadows", frozenset({"tone", "pairs", "colors"}))
SCHEME_NOW: BookValue[int] = BookValue("scheme-now", int, "scheme in hand")
PARTS: BookKind[int, Part] = BookKind(
    "part", int, Part, ("part", "parts"), frozenset({"parts", "pots", "pairs", "colors"})
)
POTS: BookKind[int, Pot] = BookKind("pot", int, Pot, ("pot", "pots"), frozenset({"pots", "pairs", "colors"}))
SHARED_HOLDS: BookKind[int, Hold] = BookKind("hold", int, Hold, ("hold", "holds"), frozenset({"hold", "colors"}))
SCHEMES: BookKind[int, Scheme] = BookKind("scheme", int, Scheme, ("scheme", "schemes"), frozenset({"scheme"}))
INK_SETS: BookKind[int, InkSet] = BookKind("inkset", int, InkSet, ("set of inks", "sets of inks"))
DEPTHS: BookKind[int, Depth] = BookKind(
    "depth", int, Depth, ("order of depth", "orders of depth"), frozenset({"depth", "colors"})
)
HOUSE: BookValue[House] = BookValue("house", House, "palette of the house", frozenset({"house", "colors"}))
LOAN: BookValue[Loan] = BookValue("loan", Loan, "what it went out as")
LOANS: BookKind[str, Sent] = BookKind("loans", str, Sent, ("set of pages sent out", "sets of pages sent out"))
PROFILES: BookKind[str, Condition] = BookKind(
    "condition", str, Condition, ("press condition", "press conditions"), frozenset({"conditions"})
)
