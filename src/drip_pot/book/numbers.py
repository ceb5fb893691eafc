"""What the numbers in orders and values are numbers of, so that another book or page can be told what is meant.

A number is annotated with its kind; to all else it is an int. Knows nothing of books.
"""

from dataclasses import dataclass
from typing import Annotated


@dataclass(frozen=True)
class Numbered:
    """The kind of thing that a number stands for.

    Attributes
    ----------
    kind : str
        As in the book's keys: 'pot', 'pass', …
    at_home : tuple of int
        Numbers that mean the same everywhere: paper, the tone of every pot, the first sheet, the gutter.
    """

    kind: str
    at_home: tuple[int, ...] = ()


PotNumber = Annotated[int, Numbered("pot", (0,))]
PartNumber = Annotated[int, Numbered("part")]
PassNumber = Annotated[int, Numbered("pass", (0, 1))]
HoldNumber = Annotated[int, Numbered("hold")]
SheetNumber = Annotated[int, Numbered("sheet", (0,))]
SchemeNumber = Annotated[int, Numbered("scheme")]
ScopeNumber = Annotated[int, Numbered("scope")]
SequenceNumber = Annotated[int, Numbered("sequence")]
PageNumber = Annotated[int, Numbered("page")]
PanelNumber = Annotated[int, Numbered("panel", (0,))]
LampNumber = Annotated[int, Numbered("lamp")]
CutNumber = Annotated[int, Numbered("shade-cut")]
BorderNumber = Annotated[int, Numbered("border")]
DamNumber = Annotated[int, Numbered("dam")]
DoorNumber = Annotated[int, Numbered("door")]
SeedNumber = Annotated[int, Numbered("seed")]
TrapNumber = Annotated[int, Numbered("trap")]
EffectNumber = Annotated[int, Numbered("effect")]
FigureNumber = Annotated[int, Numbered("figure")]
DrawnPanelNumber = Annotated[int, Numbered("drawn panel")]
ReferenceNumber = Annotated[int, Numbered("reference")]
OriginalNumber = Annotated[int, Numbered("original", (0,))]
