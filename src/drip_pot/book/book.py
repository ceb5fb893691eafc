"""The document: values, planes, and the one list of edits. Knows no file format and no window.

Every change goes through `Book.apply`. The list of edits is the undo history and the crash journal: an edit is
handed to the store, which has it on disk before `apply` returns.
"""

import zlib
from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, contextmanager
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Protocol, TypeVar

import msgspec
import numpy as np
from psygnal import Signal

from drip_pot.book.edit import TILE, Change, Edit, pack_tile, tile_shape, unpack_tile
from drip_pot.book.model import (
    ENGINE,
    FIRST_ENGINE,
    BookInfo,
    Flats,
    Hold,
    InkSet,
    InkState,
    Lines,
    LineState,
    OverState,
    Page,
    PageSources,
    Part,
    Pot,
    Seed,
    Sheet,
    SheetLine,
)
from drip_pot.core.arrays import U8, Rect
from drip_pot.core.color import ToneRule, from_hex, shadow_of, to_hex
from drip_pot.core.errors import BadInput, DripPotError
from drip_pot.core.inks import Effect
from drip_pot.core.press import PressSettings
from drip_pot.core.regions import Cut, Path, Stencil

T = TypeVar("T")


@dataclass(frozen=True)
class Step:
    """A line of the history."""

    title: str
    joined: bool


@dataclass(frozen=True)
class Touched:
    """What an edit changed: keys, and a rectangle for each plane."""

    keys: frozenset[str]
    planes: dict[str, Rect]


class Store(Protocol):
    """Where a book lives. Every call is durable when it returns, or raises and has changed nothing."""

    def append(self, number: int, edit: Edit) -> None:
        """Forget edits from `number` on, then apply `edit` and keep it as that number."""

    def move(self, number: int, edit: Edit, position: int) -> None:
        """Apply `edit` (kept edit `number`, or its inverse); `position` edits are done then."""

    def load(self, number: int) -> Edit:
        """Return a kept edit."""

    def transaction(self) -> AbstractContextManager[None]:
        """All calls within are durable together at its end; when something is raised, none is."""


class MemoryStore:
    """A store that lasts as long as the process."""

    def __init__(self) -> None:
        self._edits: list[Edit] = []

    def append(self, number: int, edit: Edit) -> None:
        """Keep an edit."""
        self._edits[number:] = [edit]

    def move(self, number: int, edit: Edit, position: int) -> None:
        """Nothing to do: the book itself is all there is."""

    def load(self, number: int) -> Edit:
        """Return a kept edit."""
        return self._edits[number]

    @contextmanager
    def transaction(self) -> Iterator[None]:
        """Forget what was appended meanwhile when something is raised."""
        before = list(self._edits)
        try:
            yield
        except BaseException:
            self._edits = before
            raise


class Book:
    """A book of pages with shared pots.

    Parameters
    ----------
    store : Store
        Where edits go.
    values : dict
        JSON text by key.
    tiles : dict
        Compressed tiles by (plane, row, column).
    history : list of Step
        What was done, oldest first.
    position : int
        How many steps are done; the rest can be redone.

    Attributes
    ----------
    lost : int
        Tiles that were too damaged to be read.
    """

    changed = Signal(Touched)

    def __init__(
        self,
        store: Store | None = None,
        values: dict[str, str] | None = None,
        tiles: dict[tuple[str, int, int], bytes] | None = None,
        history: list[Step] | None = None,
        position: int = 0,
    ) -> None:
        self._store = store or MemoryStore()
        self._values = dict(values or {})
        self._planes: dict[str, U8] = {}
        self._sums: dict[str, int] = {}
        self._frozen: dict[str, dict[int, U8]] = {}
        self.history = list(history or [])
        self.position = position
        self._memo: dict[str, Any] = {}
        self.lost = 0
        self._gathered: int | None = None
        self._made: list[Edit] = []
        for (plane, row, col), data in (tiles or {}).items():
            try:
                self._put_tile(plane, row, col, data)
            except DripPotError:
                self.lost += 1

    # Reading

    def read(self, key: str, kind: type[T], default: T | None = None) -> T:
        """Return the value at `key`; raises `BadInput` if there is none and no default."""
        text = self._values.get(key)
        if text is not None:
            return msgspec.json.decode(text, type=kind)
        if default is None:
            raise BadInput(f"This book has no {key}.")
        return default

    def below(self, prefix: str) -> Iterator[tuple[str, str]]:
        """Yield (rest of key, JSON text) of all values whose key starts with `prefix`."""
        for key, text in self._values.items():
            if key.startswith(prefix):
                yield key[len(prefix) :], text

    def snapshot(self) -> dict[str, str]:
        """Return a copy of all values."""
        return dict(self._values)

    def tiles(self) -> dict[tuple[str, int, int], bytes]:
        """Return a copy of all painted tiles, compressed, by (plane, row, column)."""
        found = {}
        for name, pixels in self._planes.items():
            for row in range(-(-pixels.shape[0] // TILE)):
                for col in range(-(-pixels.shape[1] // TILE)):
                    data = pack_tile(pixels[row * TILE : (row + 1) * TILE, col * TILE : (col + 1) * TILE])
                    if data is not None:
                        found[name, row, col] = data
        return found

    @property
    def info(self) -> BookInfo:
        """The book's name."""
        return self.read("book", BookInfo, BookInfo())

    @property
    def tone(self) -> ToneRule:
        """How shadows are worked out."""
        return self.read("tone", ToneRule, ToneRule())

    def _once(self, name: str, work: Callable[[], T]) -> T:
        """Work something out once until the next change."""
        if name not in self._memo:
            self._memo[name] = work()
        kept: T = self._memo[name]
        return kept

    def parts(self) -> dict[int, Part]:
        """Return the parts in shelf order."""
        return self._once("parts", self._parts)

    def _parts(self) -> dict[int, Part]:
        found = {int(k): msgspec.json.decode(v, type=Part) for k, v in self.below("part/")}
        return dict(sorted(found.items(), key=lambda item: (item[1].order, item[0])))

    def pots(self) -> dict[int, Pot]:
        """Return the pots in shelf order: by part, then by their own order."""
        return self._once("pots", self._pots)

    def _pots(self) -> dict[int, Pot]:
        rank = {part: place for place, part in enumerate(self.parts())}
        found = {int(k): msgspec.json.decode(v, type=Pot) for k, v in self.below("pot/")}
        return dict(sorted(found.items(), key=lambda i: (rank.get(i[1].part, 1 << 30), i[1].order, i[0])))

    def ink_sets(self) -> dict[int, InkSet]:
        """Return the sets of real inks a person owns, by number."""
        return {int(k): _decoded(v, InkSet) for k, v in sorted(self.below("inkset/"))}

    def pages(self) -> dict[int, Page]:
        """Return the pages in order."""
        found = {int(k): msgspec.json.decode(v, type=Page) for k, v in self.below("page/") if "/" not in k}
        return dict(sorted(found.items(), key=lambda item: (item[1].order, item[0])))

    def tone_pair(self, pot: Pot) -> tuple[str, str]:
        """Return local and shadow colour of a pot, '#rrggbb'."""
        return pot.local, pot.shadow or _shadow(pot.local, self._once("tone", lambda: self.tone))

    def sources(self, page: int) -> PageSources:
        """Return all that page number `page` is derived from."""
        return self._once(f"sources {page}", lambda: self._sources(page))

    def _sources(self, page: int) -> PageSources:
        top = f"page/{page}"
        info = self.read(top, Page)
        found = {int(k): msgspec.json.decode(v, type=Sheet) for k, v in self.below(f"{top}/sheet/")}
        found.setdefault(0, Sheet(original=info.original, picture=info.picture))
        sheets = dict(sorted(found.items(), key=lambda item: (item[1].order, item[0])))
        inks = {n: self.read(f"{top}/inks/{n}" if n else f"{top}/inks", InkState, InkState()) for n in sheets}
        effects = {int(k): msgspec.json.decode(v, type=Effect) for k, v in self.below(f"{top}/effect/")}
        lines = {n: SheetLine(s.original, s.picture, s.place, inks[n]) for n, s in sheets.items()}
        contour = tuple(lines[n] for n, s in sheets.items() if s.role == "contour")
        strokes, tones = (_spots(self.below(f"{top}/{kind}/")) for kind in ("stroke", "tone"))
        repair = self._freeze(f"{top}/repair")
        dams, doors, joins = ({int(k): _decoded(v, Path) for k, v in self.below(f"{top}/{kind}/")}
                              for kind in ("dam", "door", "join"))  # fmt: skip
        stencils = {int(k): _decoded(v, Stencil) for k, v in self.below(f"{top}/stencil/")}
        cuts = tuple(cut for _, cut in sorted((dams | stencils).items()))
        line = LineState(info.rows, info.cols, info.frame, contour, strokes, tones, repair, cuts, ENGINE)
        seen = {n: s for n, s in sheets.items() if s.shown}
        over = OverState(
            tuple(lines[n] for n, s in seen.items() if s.role == "detail"),
            tuple(lines[n] for n, s in seen.items() if s.role == "lettering"),
            tuple((lines[n], s.color) for n, s in seen.items() if s.role == "effect"),
            tuple(effects.values()),
        )
        marks = ((k.split(":"), v) for k, v in self.below(f"{top}/bridge/"))
        return PageSources(
            page=info,
            sheets=sheets,
            inks=inks,
            line=line,
            over=over,
            flats=self.read(f"{top}/flats", Flats, Flats()),
            choices=tuple((float(at[0]), float(at[1]), v == "true") for at, v in marks),
            cut=self._cut(top, line),
            pours={int(k): int(v) for k, v in self.below(f"{top}/pour/")},
            lines=self.read(f"{top}/lines", Lines, Lines()),
            holds={int(k): msgspec.json.decode(v, type=Hold) for k, v in self.below(f"{top}/hold/")},
            press=self.read(f"{top}/press", PressSettings, PressSettings()),
            left=frozenset(k for k, _ in self.below(f"{top}/left/")),
            effects=effects,
            dams=dams,
            doors=doors,
            stencils=stencils,
            joins=joins,
            seeds={int(k): _decoded(v, Seed) for k, v in sorted(self.below(f"{top}/seed/"))},
            sown={int(k): int(v) for k, v in self.below(f"{top}/sown/")},
            seed_cuts=self.read(f"{top}/seed-cuts", tuple[int, ...], ()),
            before=self.read(f"{top}/before", LineState) if f"{top}/before" in self._values else None,
        )

    def _cut(self, top: str, line: LineState) -> LineState:
        """Read the line that pours belong to; books of the first version wrote only its ink settings, or nothing.

        Cuts go with the pours in one edit, so they are the present ones, but after the page was moved.
        """
        try:
            engine = self.read(f"{top}/engine", int, ENGINE)
            cut = self.read(f"{top}/cut", LineState, msgspec.structs.replace(line, engine=engine))
        except msgspec.ValidationError:
            old = self.read(f"{top}/cut", InkState)
            sheets = (msgspec.structs.replace(line.sheets[0], inks=old),)
            cut = msgspec.structs.replace(line, sheets=sheets, engine=FIRST_ENGINE)
        moved = self._values.get(f"{top}/cut-by")
        cuts = line.cuts if moved is None else msgspec.json.decode(moved, type=tuple[Cut, ...])
        return msgspec.structs.replace(cut, cuts=cuts)

    def _freeze(self, name: str) -> int:
        """Keep an unchanging copy of a plane; return its checksum, 0 for a plane without a mark."""
        if name not in self._planes:
            return 0
        if name not in self._sums:
            plane = self._planes[name]
            self._sums[name] = zlib.crc32(plane.tobytes()) if plane.any() else 0
            frozen = self._frozen.setdefault(name, {})
            frozen[self._sums[name]] = plane.copy()
            while len(frozen) > 3:
                del frozen[next(iter(frozen))]
        return self._sums[name]

    def frozen(self, name: str, checksum: int) -> U8:
        """Return a plane, (rows, cols) uint8, as it was when it had a checksum.

        Raises
        ------
        BadInput
            If neither the states kept at hand nor the history hold it; it never gives another state instead.
        """
        known = self._frozen.get(name, {})
        if checksum in known:
            return known[checksum]
        plane = self._planes[name].copy() if name in self._planes else None
        for number in range(self.position - 1, -1, -1):
            if plane is None:
                break
            tiles = [tile for tile in self._store.load(number).inverted().tiles if tile.plane == name]
            for tile in tiles:
                _lay_tile(plane, tile.row, tile.col, tile.after)
            if tiles and zlib.crc32(plane.tobytes()) == checksum:
                return plane
        raise BadInput("That state of the repair sheet is no longer in the book.")

    def plane(self, name: str) -> U8:
        """Return the plane 'page/<n>/<name>', (rows, cols) uint8, not to be written to."""
        if name not in self._planes:
            page = self.read(name.rsplit("/", 1)[0], Page)
            self._planes[name] = np.zeros((page.rows, page.cols), np.uint8)
        view = self._planes[name].view()
        view.flags.writeable = False
        return view

    # Changing

    def change(self, key: str, value: object) -> Change:
        """Prepare to set `key`; None removes it."""
        after = None if value is None else msgspec.json.encode(value).decode()
        return Change(key, self._values.get(key), after)

    def apply(self, edit: Edit) -> None:
        """Do an edit, put it on disk and into the history; steps that were undone are forgotten."""
        if all(c.before == c.after for c in edit.changes) and not edit.tiles:
            return
        if self._gathered is not None:
            edit = msgspec.structs.replace(edit, joined=edit.joined or self._gathered > 0)
            self._gathered += 1
            self._made.append(edit)
        self._store.append(self.position, edit)
        self.history[self.position :] = [Step(edit.title, edit.joined)]
        self.position += 1
        self._do(edit)

    @contextmanager
    def as_one(self) -> Iterator[None]:
        """Write all edits made meanwhile as one gesture; when something is raised, none of them was made."""
        if self._gathered is not None:
            yield
            return
        history, position, made = list(self.history), self.position, self._made
        self._gathered, self._made = 0, []
        try:
            with self._store.transaction():
                yield
        except BaseException:
            undone, self._made = self._made, made
            self.history, self.position = history, position
            for edit in reversed(undone):
                self._do(edit.inverted())
            raise
        finally:
            self._gathered, self._made = None, made

    def undo(self) -> str | None:
        """Take back the last step (and those joined to it), as one; return its title, or None at the beginning."""
        first = self.position
        while first and (first == self.position or self.history[first].joined):
            first -= 1
        steps = [
            (number, self._store.load(number).inverted(), number) for number in range(self.position - 1, first - 1, -1)
        ]
        self._move(steps)
        return self.history[first].title if steps else None

    def redo(self) -> str | None:
        """Do the next undone step again (and those joined to it), as one; return its title, or None at the end."""
        last = self.position
        while last < len(self.history) and (last == self.position or self.history[last].joined):
            last += 1
        steps = [(number, self._store.load(number), number + 1) for number in range(self.position, last)]
        self._move(steps)
        return self.history[steps[0][0]].title if steps else None

    def _move(self, steps: list[tuple[int, Edit, int]]) -> None:
        """Put kept edits, or their inverses, on disk together; then apply them."""
        if not steps:
            return
        with self._store.transaction():
            for step in steps:
                self._store.move(*step)
        for _, edit, position in steps:
            self.position = position
            self._do(edit)

    def go_to(self, position: int) -> None:
        """Undo or redo until `position` steps are done (or the nearest whole gesture)."""
        while self.position > position and self.undo():
            pass
        while self.position < position and self.redo():
            pass

    def at(self, position: int) -> "Book":
        """Return a copy in memory as it was when `position` steps were done; this book is not changed."""
        past = Book(None, self.snapshot())
        past._planes = {name: plane.copy() for name, plane in self._planes.items()}
        for number in range(self.position - 1, position - 1, -1):
            past._do(self._store.load(number).inverted())
        for number in range(self.position, min(position, len(self.history))):
            past._do(self._store.load(number))
        return past

    def _do(self, edit: Edit) -> None:
        self._memo.clear()
        for change in edit.changes:
            if change.after is None:
                self._values.pop(change.key, None)
            else:
                self._values[change.key] = change.after
        changed = {c.key for c in edit.changes if c.after is not None}
        for name in [n for n in self._planes if n.rsplit("/", 1)[0] in changed]:
            page = self.read(name.rsplit("/", 1)[0], Page)
            if self._planes[name].shape != (page.rows, page.cols):
                self._planes[name] = np.zeros((page.rows, page.cols), np.uint8)  # its tiles come with this edit
                self._sums.pop(name, None)
        planes: dict[str, Rect] = {}
        for tile in edit.tiles:
            rect = self._put_tile(tile.plane, tile.row, tile.col, tile.after)
            planes[tile.plane] = _union(planes.get(tile.plane, rect), rect)
        self.changed.emit(Touched(frozenset(c.key for c in edit.changes), planes))

    def _put_tile(self, plane: str, row: int, col: int, data: bytes | None) -> Rect:
        self.plane(plane)
        self._sums.pop(plane, None)
        return _lay_tile(self._planes[plane], row, col, data)


def _lay_tile(pixels: U8, row: int, col: int, data: bytes | None) -> Rect:
    """Put a tile into a plane; return where."""
    shape = tile_shape(pixels.shape, row, col)
    top, left = row * TILE, col * TILE
    if min(shape) <= 0:  # an empty tile beyond the edge of a page that was cropped
        return 0, 0, 0, 0
    pixels[top : top + TILE, left : left + TILE] = unpack_tile(data, shape)
    return top, left, top + shape[0], left + shape[1]


@lru_cache(maxsize=4096)
def _shadow(local: str, tone: ToneRule) -> str:
    return to_hex(shadow_of(from_hex(local), tone))


@lru_cache(maxsize=65_536)
def _decoded(text: str, kind: Any) -> Any:
    """Read an unchanging value; the same text gives the same object, so that unchanged pages compare quickly."""
    return msgspec.json.decode(text, type=kind)


def _spots(pairs: Iterator[tuple[str, str]]) -> tuple[tuple[int, int], ...]:
    """Read keys of the form 'row:col', in order."""
    found = ((int(r), int(c)) for r, _, c in (key.partition(":") for key, _ in pairs))
    return tuple(sorted(found))


def _union(one: Rect, two: Rect) -> Rect:
    return min(one[0], two[0]), min(one[1], two[1]), max(one[2], two[2]), max(one[3], two[3])
