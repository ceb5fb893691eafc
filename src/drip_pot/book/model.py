"""What a book holds: plain values with names. Knows core's settings; nothing of files, edits or windows."""

from typing import Annotated, Literal

import msgspec

from drip_pot.book.frames import Doubt, FigureOffer
from drip_pot.book.line_state import (
    Beneath,
    InkState,
    LineState,
    OverState,
)
from drip_pot.book.numbers import OriginalNumber, PanelNumber, PartNumber, PassNumber, PotNumber
from drip_pot.book.panels import PanelByHand
from drip_pot.book.value_plan import PanelValues
from drip_pot.book.where import KeptScope, Scope
from drip_pot.core.color import ToneRule
from drip_pot.core.inks import Effect, Place
from drip_pot.core.press import PressSettings, Wear
from drip_pot.core.props import PropView
from drip_pot.core.regions import Path, Stencil
from drip_pot.core.render import Finish, Placed, Ramp, ToneRamp
from drip_pot.core.shade import Knot


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


class Page(msgspec.Struct, frozen=True):
    """A drawing.

    Attributes
    ----------
    rows, cols, dpi
        Its size in pixels and its resolution.
    original, picture : int
        The file its first sheet was read from, and which picture of that file.
    frame : Place
        Where the page as it was brought in lies on the page as it is now: cropped, grown, straightened.
    trim_mm : tuple of float, or None
        Width and height of the trimmed sheet, which lies in the middle of the page; None is the whole page.
    bleed_mm : float
        How far the art goes beyond the trim.
    """

    name: str
    rows: int
    cols: int
    dpi: float
    original: int
    order: int = 0
    picture: int = 0
    frame: Place = Place()
    trim_mm: tuple[float, float] | None = None
    bleed_mm: float = 0.0


Role = Literal["contour", "detail", "lettering", "effect"]
ROLES: dict[Role, str] = {
    "contour": "bounds colour",
    "detail": "drawn on top, bounds nothing",
    "lettering": "balloons and letters on white, hidden while flatting",
    "effect": "in a colour of its own, bounds nothing",
}
"""What a sheet can be for, and what that means."""
BALLOON = 0
"""The pot number of regions kept as paper for lettering: white in print, and never a leftover."""


class Sheet(msgspec.Struct, frozen=True):
    """A line sheet of a page.

    Attributes
    ----------
    role : str
        One of `ROLES`.
    original, picture : int
        The file it was read from, and which picture of that file.
    place : Place
        Where it lies on the page as that was brought in.
    shown : bool
        Hidden sheets are not drawn; a hidden contour bounds colour all the same.
    color : str
        '#rrggbb' of an effect.
    covers : bool
        Whether it hides the line of sheets below it where its picture is not transparent.
    view : PropView, optional
        Of a prop: its original is a mesh, drawn as it is looked at.
    """

    name: str = "Contour"
    role: Role = "contour"
    original: OriginalNumber = 0
    picture: int = 0
    place: Place = Place()
    order: int = 0
    shown: bool = True
    color: str = "#000000"
    covers: bool = False
    view: PropView | None = None


class Seed(msgspec.Struct, frozen=True):
    """A scribble that spreads a pot, or paper (None), until it meets a line or another seed."""

    path: Annotated[Path, msgspec.Meta(min_length=1)]
    pot: PotNumber | None = None


class InkSet(msgspec.Struct, frozen=True):
    """Real inks a person owns: names and '#rrggbb'."""

    name: str
    inks: tuple[tuple[str, str], ...] = ()


class Flats(msgspec.Struct, frozen=True):
    """How a page is divided: bridges up to a width, regions from a size on, in pixels; None is by the page."""

    gap_px: float | None = None
    least_px: int | None = None


class Lines(msgspec.Struct, frozen=True):
    """Colour of every line that no hold changes, and of the inside of balloons, '#rrggbb'. Pure black overprints."""

    color: str = "#000000"
    balloon: str = "#ffffff"


LineKind = Literal["outline", "inner", "stroke", "detail", "string", "frame", "solid", "letters", "balloon", "effect"]
LINE_KINDS: dict[LineKind, str] = {
    "outline": "between two parts, or a part and paper",
    "inner": "within one part",
    "stroke": "free strokes: a crease, a whisker",
    "detail": "on detail sheets, and tone",
    "string": "across a ground, or over it",
    "frame": "round panels",
    "solid": "solid blacks",
    "letters": "letters and sounds",
    "balloon": "outlines of balloons",
    "effect": "effects and their sheets",
}
"""What a line can be, and what that means."""
USUAL: tuple[LineKind, ...] = ("outline", "inner", "stroke", "detail")
HoldColor = Literal["darker", "fixed", "ramp", "beneath", "paper"]
HOLD_COLORS: dict[HoldColor, str] = {
    "darker": "darker than what it outlines",
    "fixed": "one colour",
    "ramp": "a ramp over the page",
    "beneath": "knocked out to the colour beneath",
    "paper": "knocked out to paper",
}
Side = Literal["front", "lighter", "darker"]


class Hold(msgspec.Struct, frozen=True):
    """Line in a colour of its own.

    Attributes
    ----------
    scope : Scope
        Whose lines: what they outline lies there.
    kinds : tuple of str
        Which of them, of `LINE_KINDS`.
    spots : tuple of (row, col)
        A page pixel of each stroke picked by hand; then scope and kinds say nothing.
    brushed : bool
        Whether only what was brushed is held; else what was brushed is what was taken out. Marks lie in the plane
        'hold/<number>'.
    how : str
        One of `HOLD_COLORS`.
    amount : float
        How much darker, 0..1; 1 is black.
    chroma : float
        How colourful that is, against the usual, 0..2.
    side : str
        Which of two sides a line belongs to: the one in front, the lighter or the darker one.
    color : str
        '#rrggbb' of one colour.
    ramp : Ramp or None
        Of a ramp.
    strength : float
        0..1.
    feather_mm : float
        How far it fades in where it meets other line, 0..20.
    shown : bool
        Whether it is seen, and printed.
    order : int
        Later ones lie over earlier ones.
    """

    name: str = "Hold"
    scope: Scope = Scope()
    kinds: tuple[LineKind, ...] = USUAL
    spots: tuple[tuple[float, float], ...] = ()
    brushed: bool = False
    how: HoldColor = "darker"
    amount: float = 0.55
    chroma: float = 1.0
    side: Side = "front"
    color: str = "#3a2418"
    ramp: Ramp | None = None
    strength: float = 1.0
    feather_mm: float = 0.0
    shown: bool = True
    order: int = 0


class PotColors(msgspec.Struct, frozen=True):
    """What a scheme says of a pot: its colours and its own inks, as of `Pot`."""

    local: str
    shadow: str | None = None
    inks: tuple[int, int, int, int] | None = None
    shadow_inks: tuple[int, int, int, int] | None = None
    spot: str = ""


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


PassKind = Literal["tone", "tint", "ramp", "finish", "values", "local", "picture"]


class Pass(msgspec.Struct, frozen=True):
    """A pass over the flats; its coverage is the plane 'pass/<number>'.

    Attributes
    ----------
    kind : str
        'tone' lays every pot's shadow colour, 'tint' one colour, 'ramp' a run of colours, 'finish' corrects what lies
        below, 'values' colours it by its values, 'local' lays the pots' local colours over it, 'picture' a picture.
        The last five cover everything in their scope but what was taken out of them.
    color : str
        '#rrggbb' of a tint.
    mode : str
        A standard blend mode, for a tint or a ramp.
    strength : float
        0..1.
    shown : bool
        Whether it is seen, and printed.
    order : int
        The lowest comes first, right over the flats.
    ramp, finish, values, placed
        Of passes of that kind.
    printed : bool
        Whether it is printed and exported; else it is there to judge by.
    """

    name: str = "Tone"
    kind: PassKind = "tone"
    color: str = "#000000"
    mode: str = "normal"
    strength: float = 1.0
    shown: bool = True
    order: int = 0
    scope: Scope = Scope()
    ramp: Ramp | None = None
    finish: Finish | None = None
    values: ToneRamp | None = None
    placed: Placed | None = None
    printed: bool = True

    @property
    def covers_all(self) -> bool:
        """Whether it is everywhere in its scope, and its coverage says what was taken out."""
        return self.kind in ("ramp", "finish", "values", "local", "picture")


TONE = 1
"""The pass that every page has."""


class ShadeCut(msgspec.Struct, frozen=True):
    """A shape cut into a pass or out of it, that lies over what is painted there; later ones lie over earlier ones.

    Attributes
    ----------
    into : int
        The pass.
    knots : tuple of (row, col, smooth)
        Its outline in page pixels.
    light : bool
        Whether it gives light back.
    softness_px : float
        How far its edge falls off to both sides.
    within : Scope
        Where it stays.
    offered : bool
        Whether it was suggested, and nobody has kept it yet.
    """

    into: PassNumber
    knots: tuple[Knot, ...]
    light: bool = False
    softness_px: float = 0.0
    within: Scope = Scope()
    offered: bool = False


class Lamp(msgspec.Struct, frozen=True):
    """A lamp on a page.

    Attributes
    ----------
    row, col : float
        Where it is, in page pixels; it may lie beyond the page.
    panel : int
        The panel it lights; 0 is every one that has no lamp of its own.
    height : float
        How high it stands over the page, 0..1: a low one leaves more in shadow.
    back : bool
        Whether it stands behind the figures, so that only their rims are lit.
    cast : float
        How long cast shadows are, against the usual length, 0..4.
    softness_px : float
        Of the edges of what it suggests.
    color : str
        '#rrggbb' of a bounce, whose light is laid over what it reaches; empty is a key light, which shadows are cut by.
    into : int
        The pass that a bounce was laid into; 0 is none.
    """

    row: float
    col: float
    panel: PanelNumber = 0
    height: float = 0.5
    back: bool = False
    cast: float = 1.0
    softness_px: float = 0.0
    color: str = ""
    into: PassNumber = 0

    @property
    def share(self) -> float:
        """How much of the figures lies in shadow."""
        return min(0.9, 0.52 - 0.38 * self.height + (0.4 if self.back else 0.0))


class Border(msgspec.Struct, frozen=True):
    """The border of a shadow in a pass: regions end there when that pass is filled."""

    into: PassNumber
    path: Annotated[Path, msgspec.Meta(min_length=2)]


TrapWay = Literal["into", "back", "both", "none"]


class EdgeTrap(msgspec.Struct, frozen=True):
    """Edges between two regions, trapped as a hand says.

    Attributes
    ----------
    one, two : (row, col)
        A page pixel of either region.
    way : str
        Whether the first spreads into the second, the second back into the first, both by half, or none.
    width_mm : float
        How far, 0..1; 0 is as everywhere on the page.
    """

    one: tuple[float, float]
    two: tuple[float, float]
    way: TrapWay = "into"
    width_mm: float = 0.0


class PageSources(msgspec.Struct, frozen=True):
    """Everything a page is derived from, as one unchanging snapshot.

    Attributes
    ----------
    sheets : dict
        Sheets by number in shelf order; the page's first is 0.
    inks : dict
        Ink of each sheet.
    line, over
        What the contour and all above it is made from.
    choices : tuple of (row, col, keep)
        Bridges decided by hand.
    pours : dict
        Pot by atom; atoms are numbered as `cut` numbers them.
    cut : LineState
        The line that the atoms in `pours` were found in.
    effects : dict
        Effect lines by number.
    dams, doors, stencils, joins : dict
        Strokes that part colour without ink, strokes that let it through a line, areas cut out, and pixels whose
        atoms are joined, by number. Dams and stencils share their numbers.
    seeds : dict
        Scribbles that are not settled yet, by number.
    sown : dict
        Seed by atom, for what they took.
    seed_cuts : tuple of int
        Cut-outs that seeds made where they met inside an atom.
    holds : dict
        Coloured line by number, in order; those of the whole book, and those of the page, which replace them.
    passes : dict
        Passes over the flats by number, in order; the first of every page is number 1.
    scopes : dict
        Scopes kept by name, by number.
    shade_cuts, borders : dict
        Shapes cut into passes, and borders of shadows, by number.
    lamps : dict
        Lamps by number.
    calm : dict
        Whether suggestions leave a part alone, by part, where somebody decided it.
    marked : frozenset of int
        Holds with marks on the page.
    beneath : Beneath or None
        What lies under the sheets that hide others.
    before : LineState or None
        The line before the drawing was last replaced.
    traps : dict
        Edges trapped by hand, by number.
    panels : dict
        Panels drawn and taken away by hand, by number.
    doubts, figures, plan
        Colours carried, by a pixel (row, col) of their region; figures of other pages offered here, by number; values
        of every panel as they were kept.
    """

    page: Page
    sheets: dict[int, Sheet]
    inks: dict[int, InkState]
    line: LineState
    over: OverState
    flats: Flats
    choices: tuple[tuple[float, float, bool], ...]
    cut: LineState
    pours: dict[int, int]
    lines: Lines
    holds: dict[int, Hold]
    press: PressSettings
    wear: Wear
    left: frozenset[str]
    effects: dict[int, Effect]
    dams: dict[int, Path]
    doors: dict[int, Path]
    stencils: dict[int, Stencil]
    joins: dict[int, Path]
    seeds: dict[int, Seed]
    sown: dict[int, int]
    seed_cuts: tuple[int, ...]
    passes: dict[int, Pass]
    scopes: dict[int, KeptScope]
    shade_cuts: dict[int, ShadeCut]
    borders: dict[int, Border]
    lamps: dict[int, Lamp]
    calm: dict[int, bool]
    marked: frozenset[int] = frozenset()
    before: LineState | None = None
    beneath: Beneath | None = None
    traps: dict[int, EdgeTrap] = {}
    panels: dict[int, PanelByHand] = {}
    doubts: dict[tuple[int, int], Doubt] = {}
    figures: dict[int, FigureOffer] = {}
    plan: tuple[PanelValues, ...] = ()
