# SPDX-License-Identifier: GPL-3.0-or-later
"""Values of shade: passes, shapes cut into them, lamps, borders, scopes kept by name. Knows core's settings."""

from typing import Annotated, Literal, Protocol, TypeVar

import msgspec

from drip_pot.book.numbers import PanelNumber, PassNumber
from drip_pot.book.value_plan import PanelValues
from drip_pot.book.values.kind import Colored, Move, PageKind, PageValue, Plane, Whole, moved_effect, moved_path
from drip_pot.book.where import KeptScope, Scope
from drip_pot.core.inks import Effect, Place
from drip_pot.core.regions import Path
from drip_pot.core.render import Finish, Placed, Ramp, ToneRamp
from drip_pot.core.shade import Knot

PassKind = Literal["tone", "tint", "ramp", "finish", "values", "local", "picture", "paint", "effect"]


class Pass(msgspec.Struct, frozen=True):
    """A pass over the flats; its coverage is the plane 'pass/<number>'.

    Attributes
    ----------
    kind : str
        'tone' lays every pot's shadow colour, 'tint' one colour, 'ramp' a run of colours, 'finish' corrects what lies
        below, 'values' colours it by its values, 'local' lays the pots' local colours over it, 'picture' a picture,
        'effect' effect lines, beneath the line. These last six cover everything in their scope but what was taken out
        of them. 'paint' has a colour of its own at every pixel, in the planes `PAINT`.
    color : str
        '#rrggbb' of a tint, of effect lines, and of what is painted without saying a colour.
    mode : str
        A standard blend mode, for a tint or a ramp.
    strength : float
        0..1.
    shown : bool
        Whether it is seen, and printed.
    order : int
        The lowest comes first, right over the flats.
    ramp, finish, values, placed, effect
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
    effect: Effect | None = None
    printed: bool = True

    @property
    def covers_all(self) -> bool:
        """Whether it is everywhere in its scope, and its coverage says what was taken out."""
        return self.kind in ("ramp", "finish", "values", "local", "picture", "effect")


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


def _passes(found: dict[int, Pass], _: Whole) -> dict[int, Pass]:
    every = {TONE: Pass()} | found
    return dict(sorted(every.items(), key=lambda item: (item[1].order, item[0])))


def moved_scope(scope: Scope, move: Move) -> Scope:
    """Return a scope where what was picked lies now."""
    return msgspec.structs.replace(scope, spots=moved_path(scope.spots, move))


def moved_picture(placed: Placed, move: Move) -> Placed:
    """Return a placed picture where it lies now."""
    return msgspec.structs.replace(placed, grid=moved_path(placed.grid, move))


def _moved_pass(one: Pass, move: Move) -> Pass:
    ramp, placed = one.ramp, one.placed
    if ramp is not None:
        start, end, *path = moved_path((ramp.start, ramp.end, *ramp.path), move)
        ramp = msgspec.structs.replace(ramp, start=start, end=end, path=tuple(path))
    if placed is not None:
        placed = moved_picture(placed, move)
    effect = one.effect if one.effect is None else moved_effect(one.effect, move)
    return msgspec.structs.replace(one, scope=moved_scope(one.scope, move), ramp=ramp, placed=placed, effect=effect)


def _moved_cut(cut: ShadeCut, move: Move) -> ShadeCut:
    def at(row: float, col: float, place: Place) -> tuple[float, float]:
        row, col = place.at(row, col)
        return round(row, 2), round(col, 2)

    knots = tuple((*at(row, col, move.place), smooth) for row, col, smooth in cut.knots)
    return msgspec.structs.replace(cut, knots=knots, within=moved_scope(cut.within, move))


def _moved_kept(kept: KeptScope, move: Move) -> KeptScope:
    return msgspec.structs.replace(kept, scope=moved_scope(kept.scope, move))


def _moved_lamp(lamp: Lamp, move: Move) -> Lamp:
    row, col = move.place.at(lamp.row, lamp.col)
    return msgspec.structs.replace(lamp, row=row, col=col)


def _moved_border(border: Border, move: Move) -> Border:
    return msgspec.structs.replace(border, path=moved_path(border.path, move))


class _Ramped(Protocol):
    @property
    def ramp(self) -> Ramp | None: ...


R = TypeVar("R", bound=_Ramped)


def worn(one: R, colors: tuple[str, Ramp | None]) -> R:
    """Return a pass or a hold in colours of a scheme; what was made something else meanwhile keeps its ramp."""
    color, ramp = colors
    same = (ramp is None) == (one.ramp is None)
    return msgspec.structs.replace(one, color=color, ramp=ramp if same else one.ramp)  # type: ignore[type-var]


def _worn_colors(one: Pass) -> tuple[str, Ramp | None] | None:
    return (one.color, one.ramp) if one.kind in ("tint", "ramp", "effect") else None


_MARKS = frozenset[Literal["marks"]]({"marks"})
PASSES: PageKind[int, Pass] = PageKind(
    "pass", int, Pass, ("pass", "passes"), frozenset({"passes"}),
    moved=_moved_pass,
    filled=_passes,
    goes_with_light=True,
    colored=Colored("passes", _worn_colors, worn),
)  # fmt: skip
SCOPES: PageKind[int, KeptScope] = PageKind("scope", int, KeptScope, ("scope", "scopes"), moved=_moved_kept)
SHADE_CUTS: PageKind[int, ShadeCut] = PageKind(
    "shade-cut", int, ShadeCut, ("cut", "cuts"), _MARKS,
    moved=_moved_cut,
    filled=lambda found, _: dict(sorted(found.items())),
)  # fmt: skip
BORDERS: PageKind[int, Border] = PageKind("border", int, Border, ("border", "borders"), _MARKS, moved=_moved_border)
LAMPS: PageKind[int, Lamp] = PageKind(
    "lamp", int, Lamp, ("lamp", "lamps"), _MARKS,
    moved=_moved_lamp,
    filled=lambda found, _: dict(sorted(found.items())),
    goes_with_light=True,
)  # fmt: skip
CALM: PageKind[int, bool] = PageKind("calm", int, bool, ("part left calm", "parts left calm"), _MARKS, number_of="part")
PLAN: PageValue[tuple[PanelValues, ...]] = PageValue("plan", tuple[PanelValues, ...], (), "kept value plan")
COVER = Plane("pass", lambda values: tuple(values(PASSES)))
"""The coverage of a pass, by its number."""
PAINT = tuple(Plane(name, lambda values: tuple(values(PASSES))) for name in ("red", "green", "blue"))
"""The red, green and blue painted in a pass, by its number."""
UNDER = Plane("under", lambda values: tuple(values(PASSES)))
"""What lies under the shapes cut into a pass, by its number."""
