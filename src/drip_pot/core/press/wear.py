# SPDX-License-Identifier: GPL-3.0-or-later
"""What old stock is made of: steps of wear, pictures of paper, the sheet of the pile. Knows errors and placed pictures.

How they are drawn is `worn`'s.
"""

from typing import Literal

import msgspec

from drip_pot.core.errors import BadInput
from drip_pot.core.render import Mode, Placed

WearKind = Literal[
    "register", "thin", "spread", "screen", "fade", "mottle", "scratches", "folds",
    "warmth", "age", "yellowing", "stains", "grain", "white",
]  # fmt: skip
WornInk = Literal["cyan", "magenta", "yellow", "black", "line", "spots"]
WEAR_KINDS: tuple[WearKind, ...] = (
    "register", "thin", "spread", "screen", "fade", "mottle", "scratches", "folds",
    "warmth", "age", "yellowing", "stains", "grain", "white",
)  # fmt: skip
"""Kinds of wear in the order they are done."""
INK_WEAR = WEAR_KINDS[: WEAR_KINDS.index("warmth")]
"""The kinds that work on inks; the others work on the sheet."""
WORN_INKS: tuple[WornInk, ...] = ("cyan", "magenta", "yellow", "black", "line", "spots")
_USUAL: dict[str, tuple[WornInk, ...]] = {
    "register": ("cyan", "magenta", "yellow", "spots"),
    "thin": ("line",),
    "screen": ("cyan", "magenta", "yellow", "black", "spots"),
}
MOST_TEXTURES, MOST_STEPS = 4, 24
_LEAST_LPI, _MOST_LPI = 20, 200


class WearStep(msgspec.Struct, frozen=True):
    """One step of wear.

    Parameters
    ----------
    kind : str
        One of `WEAR_KINDS`: 'register' lets plates stray, each its own way, by up to 0.8 mm; 'thin' takes up to 0.1 mm
        off every edge; 'spread' lets dots run into the paper; 'screen' draws halftone dots; 'fade' pales ink, yellow
        first, unevenly; 'mottle' lays it unevenly, each plate in its own way; 'scratches' scrape it off along hair
        lines, 'folds' along creases; 'warmth' turns black ink brown; 'age' browns the paper from its edges,
        'yellowing' evenly; 'stains' are blotches; 'grain' is rough paper; 'white' brings the lightest back to white.
    value : float
        How much, 0..1; of a screen its ruling in lines an inch, 20..200.
    on : bool
        Whether it is done; a step that is not keeps its value.
    inks : tuple of str
        Which of `WORN_INKS` it works on, for kinds of `INK_WEAR`; none for those it usually does. 'black' is black in
        colours, 'line' the black line alone.
    number : int
        Its number on the sheet, from 1, by which it is rubbed out in places.
    """

    kind: WearKind
    value: float
    on: bool = True
    inks: tuple[WornInk, ...] = ()
    number: int = 0

    def __post_init__(self) -> None:
        if self.kind == "screen":
            if not _LEAST_LPI <= self.value <= _MOST_LPI:
                raise BadInput("A screen has 20 to 200 lines an inch, not {0:g}.", self.value)
        elif not 0 <= self.value <= 1:
            raise BadInput("A step of wear goes from 0 to 100 %, not {0:g} % ({1}).", self.value * 100, self.kind)

    def wears(self, ink: WornInk) -> bool:
        """Whether the step works on an ink."""
        return ink in (self.inks or _USUAL.get(self.kind, WORN_INKS))

    @property
    def is_done(self) -> bool:
        """Whether the step changes anything."""
        return self.on and self.value > 0


class PaperTexture(msgspec.Struct, frozen=True):
    """A picture of paper on the sheet.

    Parameters
    ----------
    placed : Placed
        The picture and where it lies.
    strength : float
        0..1.
    mode : str
        How it blends with the sheet, one of `MODES`.
    seamless : bool
        Whether its opposite edges are made to meet, so that it repeats without seams.
    on : bool
        Whether it is seen.
    """

    placed: Placed
    strength: float = 1.0
    mode: Mode = "multiply"
    seamless: bool = True
    on: bool = True

    def __post_init__(self) -> None:
        if not 0 <= self.strength <= 1:
            raise BadInput("Textures go from 0 to 100 %, not {0:g} %.", self.strength * 100)


class Wear(msgspec.Struct, frozen=True):
    """How a sheet of old stock is worn.

    Parameters
    ----------
    steps : tuple of WearStep
        They are done in the order of `WEAR_KINDS`, those of one kind as they stand here.
    textures : tuple of PaperTexture
        Pictures of paper, the first at the bottom; at most four.
    seed : int
        Another sheet of the same pile.
    """

    steps: tuple[WearStep, ...] = ()
    textures: tuple[PaperTexture, ...] = ()
    seed: int = 1

    def __post_init__(self) -> None:
        if len(self.textures) > MOST_TEXTURES:
            raise BadInput("A sheet has at most {0} textures. Remove one first.", MOST_TEXTURES)
        if len(self.steps) > MOST_STEPS:
            raise BadInput("A sheet has at most {0} steps of wear. Remove one first.", MOST_STEPS)

    @property
    def is_new(self) -> bool:
        """Whether nothing is worn."""
        return not any(step.is_done for step in self.steps) and not any(one.on for one in self.textures)

    def done(self, kind: WearKind) -> list[WearStep]:
        """Return the steps of a kind that change anything."""
        return [step for step in self.steps if step.kind == kind and step.is_done]

    def most(self, kind: WearKind) -> float:
        """Return the greatest value of the steps of a kind that are done, 0 without one."""
        return max((step.value for step in self.done(kind)), default=0.0)


def steps_of(**values: float) -> tuple[WearStep, ...]:
    """Return one step of each kind that is named, in their order, numbered from 1; raises as `WearStep`."""
    named = [kind for kind in WEAR_KINDS if kind in values]
    return tuple(WearStep(kind, values[kind], number=place) for place, kind in enumerate(named, 1))


PRESETS: dict[str, Wear] = {
    "New": Wear(),
    "Second printing": Wear(
        steps_of(register=0.25, spread=0.3, fade=0.15, mottle=0.3, scratches=0.05, age=0.25, grain=0.2, white=0.4)
    ),
    "Attic copy": Wear(
        steps_of(register=0.45, spread=0.5, screen=65, fade=0.4, mottle=0.5, scratches=0.3, folds=0.4, warmth=0.3,
                 age=0.6, stains=0.35, grain=0.4, white=0.15)
    ),
    "Read to bits": Wear(
        steps_of(register=0.7, thin=0.4, spread=0.7, screen=55, fade=0.6, mottle=0.7, scratches=0.8, folds=0.9,
                 warmth=0.5, age=0.8, yellowing=0.2, stains=0.7, grain=0.6)
    ),
}  # fmt: skip
"""Wear by name."""
STAND_IN = Wear(steps_of(register=0.15, spread=0.2, mottle=0.2, grain=0.15))
"""How the press stand-in prints: plates a little astray, dots a little fat, on the paper of the condition."""
