"""Dams and cut-outs, each one edit with the colours it carries. Knows the book and the divided page; no window or file.

The caller gives the page as it is divided now and gets it back as it will be, so that the window, a test and a script
all cut alike and the page is not found again for a stroke.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass

import msgspec
import numpy as np

from drip_pot.book.book import Book
from drip_pot.book.edit import Edit
from drip_pot.book.model import LineState, Pot
from drip_pot.core.arrays import U8, Bool, Rect
from drip_pot.core.errors import BadInput
from drip_pot.core.regions import Cut, Divided, Path, Stencil, carry_pots, divide, make_stencil

MOST_POINTS = 400


def _told(line: LineState, divided: Divided) -> None:
    """Do nothing with the outcome."""


@dataclass(frozen=True)
class Hand:
    """A hand at work on a page.

    Attributes
    ----------
    divided : Divided
        The page as it is now.
    ink : (M, N) ndarray of uint8
        Its contour.
    adopt : callable
        Told the line and the division that an edit leads to, just before the edit is made.
    """

    book: Book
    page: int
    divided: Divided
    ink: U8
    adopt: Callable[[LineState, Divided], object] = _told

    @property
    def next(self) -> int:
        """The number of the next dam or cut-out."""
        sources = self.book.sources(self.page)
        return max((*sources.dams, *sources.stencils), default=0) + 1

    def lay(
        self, changes: Mapping[int, Cut | None], name: str, title: str, *,
        pots: Mapping[int, int | None] | None = None, more: Iterable[tuple[str, object]] = (),
    ) -> Divided:  # fmt: skip
        """Add, change or take away (None) dams and cut-outs by number.

        Parameters
        ----------
        changes : dict
            Dam or cut-out by number.
        name, title : str
            Of the edit.
        pots : dict, optional
            Pot (None for paper) of cut-outs by number; others take the pot they lie on most.
        more : pairs of key and value
            What else the edit changes; pours here win over those that are carried.

        Raises
        ------
        BadInput
            If the regions are out of date, or a cut-out is damaged.
        """
        sources = self.book.sources(self.page)
        if sources.cut != sources.line:
            raise BadInput("The regions are still being found; nothing was changed. Try again in a moment.")
        top = f"page/{self.page}"
        every: dict[int, Cut | None] = {**sources.dams, **sources.stencils}
        pairs: dict[str, object] = {}
        for number, cut in changes.items():
            kind = "stencil" if isinstance(cut or every.get(number), Stencil) else "dam"
            pairs[f"{top}/{kind}/{number}"] = every[number] = cut
        laid = {number: cut for number, cut in sorted(every.items()) if cut is not None}
        cuts, order = tuple(laid.values()), list(laid)
        after = divide(self.divided, self.ink, cuts)
        carried = carry_pots(self.divided, after, sources.pours)
        for number, pot in (pots or {}).items():
            step = after.steps[order.index(number)]
            if step.rect[2] > step.rect[0]:
                carried[step.count + 1] = pot
        pairs |= {f"{top}/pour/{atom}": pot for atom, pot in carried.items()}
        sown = carry_pots(self.divided, after, sources.sown)
        pairs |= {f"{top}/sown/{atom}": seed for atom, seed in sown.items()}
        pairs |= dict(more)
        self.adopt(msgspec.structs.replace(sources.line, cuts=cuts), after)
        self.book.apply(Edit(name, title, tuple(self.book.change(key, value) for key, value in pairs.items())))
        return after

    def cut_out(self, rect: Rect, mask: Bool, pot: int | None, title: str = "") -> Divided:
        """Make what a mask over `rect` covers a region of its own in a pot, or paper (None)."""
        number, name = self.next, self.book.read(f"pot/{pot}", Pot).name if pot is not None else "paper"
        stencil = _stencil(rect, mask, back=False)
        return self.lay({number: stencil}, "cut-out", title or f"Cut out {name}", pots={number: pot})

    def cut_apart(self, masks: Sequence[tuple[Rect, Bool]]) -> Divided:
        """Make what each mask covers a region of its own, in the colour it lies on."""
        first = self.next
        cuts = {first + k: _stencil(rect, mask, back=False) for k, (rect, mask) in enumerate(masks)}
        return self.lay(cuts, "cut-apart", f"Split off {len(cuts)} pieces" if len(cuts) > 1 else "Split off a piece")

    def give_back(self, rect: Rect, mask: Bool) -> Divided:
        """Give what was cut out under a mask over `rect` back to the regions it was taken from."""
        stencil = _stencil(rect, mask, back=True)
        return self.lay({self.next: stencil}, "give-back", "Give back what was cut out")


def _stencil(rect: Rect, mask: Bool, *, back: bool) -> Stencil:
    stencil = make_stencil(rect, mask, back=back)
    if stencil is None:
        raise BadInput("The shape covers nothing here. Draw it over the page.")
    return stencil


def thinned(points: Iterable[tuple[float, float]]) -> Path:
    """Return a stroke of at most some 400 points to a tenth of a pixel, its last one kept; raises `BadInput`."""
    stroke = list(points)
    if not stroke or not np.isfinite(np.array(stroke, np.float64)).all():
        raise BadInput("A stroke needs points on the page.")
    kept = stroke[:: max(1, len(stroke) // MOST_POINTS)]
    kept = kept if kept[-1] == stroke[-1] else [*kept, stroke[-1]]
    return tuple((round(float(r), 1), round(float(c), 1)) for r, c in kept)
