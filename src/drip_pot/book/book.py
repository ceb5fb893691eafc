# SPDX-License-Identifier: GPL-3.0-or-later
"""The document: apply, undo, snapshot; nothing else. Knows no file format and no window.

Every change goes through `Book.apply`. The list of edits is the undo history and the crash journal: an edit is
handed to the store, which has it on disk before `apply` returns. Pages are read when they are first asked for.
"""

import threading
import weakref
from collections import OrderedDict
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from typing import Any, TypeVar

import msgspec
from psygnal import Signal

from drip_pot.book.reading import know_condition, split_key
from drip_pot.book.sources import TYPED, PageSources, page_sources, plane_names
from drip_pot.book.stepping import Stepping
from drip_pot.book.store import (
    Change,
    Contents,
    Edit,
    History,
    MemoryContents,
    MemoryStore,
    PageValues,
    PlaneStates,
    Step,
    Store,
    TilePlane,
    Touched,
)
from drip_pot.book.values import BOOK_KINDS, HOLDS, MARKS, PAGES, PROFILES, REPAIR, SHARED_HOLDS, Page, Whole
from drip_pot.core.arrays import U8, Rect
from drip_pot.core.errors import BadInput
from drip_pot.core.props import Mesh
from drip_pot.core.render import Placed
from drip_pot.words import tr

T = TypeVar("T")
_PAGES_KEPT = 120


class Book(Stepping):
    """A book of pages with shared pots.

    Parameters
    ----------
    store : Store
        Where edits go.
    contents : Contents
        What it is read from. Without a store it may be given up at any time; with one, pages that were not used for
        a while are read from it again.
    history : list of Step
        What was done, oldest first.
    position : int
        How many steps are done; the rest can be redone.
    """

    changed = Signal(Touched)

    def __init__(
        self,
        store: Store | None = None,
        contents: Contents | None = None,
        history: list[Step] | None = None,
        position: int = 0,
    ) -> None:
        self._store = store or MemoryStore()
        self._contents = contents or MemoryContents()
        self._forgets = store is not None
        self.past = History(history or (), position)
        self.asked: str | None = None
        self.run = ""
        self.pictures: Callable[[Placed], tuple[U8, ...] | None] = lambda _: None
        self.meshes: Callable[[int], Mesh | None] = lambda _: None
        self._lock = threading.RLock()
        super().__init__(dict(self._contents.shared()))
        self._pages: OrderedDict[int, PageValues] = OrderedDict()
        self._planes: dict[str, TilePlane] = {}
        self._states = PlaneStates()
        self._changes = 0
        self._stills: weakref.WeakSet[_Moment] = weakref.WeakSet()
        self._gathered: int | None = None
        self._made, self._says = list[Edit](), ""

    # Reading

    def _page(self, number: int) -> PageValues:
        """Return the values below a page. The store is read without the lock, which who writes to it may wait for."""
        while True:
            with self._lock:
                before = self._changes
                if number in self._pages:
                    self._pages.move_to_end(number)
                    return self._pages[number]
            found = self._contents.page(number)
            values = found if isinstance(found, PageValues) else PageValues(found, TYPED)
            with self._lock:
                if self._changes == before:
                    kept = self._pages.setdefault(number, values)
                    if self._forgets and len(self._pages) > _PAGES_KEPT:
                        self._forget(next(iter(self._pages)))
                    return kept

    def _forget(self, number: int) -> None:
        """Let go of a page that the store can give again."""
        del self._pages[number]
        top = f"page/{number}/"
        for name in [n for n in self._planes if n.startswith(top)]:
            del self._planes[name]
        self._states.forget(top)
        self._memo.pop(f"sources/{number}", None)

    def unread(self, page: int) -> list[str]:
        """Return the keys of values of a page that are damaged and left out."""
        self.sources(page)
        return self._page(page).unread()

    def values(self) -> dict[str, str]:
        """Return JSON text by key of everything there is; it reads every page."""
        found = dict(self._shared)
        for number in self.pages():
            found |= {f"page/{number}/{key}": text for key, text in self._page(number).texts().items()}
        return found

    def tiles(self) -> dict[tuple[str, int, int], bytes]:
        """Return all painted tiles, compressed, by (plane, row, column); it reads every page."""
        found: dict[tuple[str, int, int], bytes] = {}
        for name in (name for number in self.pages() for name in self.planes(number)):
            plane = self.plane(name)
            found |= {(name, *at): data for at in plane if (data := plane.packed(*at)) is not None}
        return found

    def still(self) -> "Book":
        """Return the book as it is now, for other threads: it never changes with this one, and changes to it are lost.

        Nothing is copied; pages are read when they are needed, as they were.
        """
        with self._lock:
            moment = _Moment(self)
            self._stills.add(moment)
            still = Book(None, moment, self.history, self.position)
            still.pictures, still.meshes = self.pictures, self.meshes
            return still

    def made(self) -> list[Edit]:
        """Return the edits done to a snapshot."""
        return self._store.edits if isinstance(self._store, MemoryStore) else []

    def damage(self, page: int) -> str:
        """Say what of a page is damaged and left out; empty where all of it is whole. It reads the page's planes."""
        lost = self.unread(page)
        tiles = 0
        for name in self.planes(page):
            plane = self.plane(name)
            plane.whole()
            tiles += plane.lost
        told = [
            f"{n} {what}{'' if n == 1 else 's'}" for n, what in ((len(lost), "value"), (tiles, "painted tile")) if n
        ]
        if not told:
            return ""
        first = f" (first: {lost[0].replace('/', ' ')})" if lost else ""
        return tr(
            "On {0}, {1} could not be read and are left out{2}.", self.pages()[page].name, " and ".join(told), first
        )

    def sources(self, page: int) -> PageSources:
        """Return all that page number `page` is derived from; raises `BadInput` if there is no such page."""
        if page not in self.pages():
            raise BadInput("This book has no page {0}.", page)
        return self._once(f"sources/{page}", lambda: self._sources(page))

    def _sources(self, page: int) -> PageSources:
        repair = REPAIR.key(page)
        checksum = self._states.kept(repair, self.plane(repair))
        found = page_sources(self.pages()[page], self._page(page), checksum, self.holds())
        marked = frozenset(n for n in found[HOLDS] if self.plane(MARKS.key(page, n)).any())
        return msgspec.structs.replace(found, marked=marked, number=page)

    def planes(self, page: int) -> list[str]:
        """Return the names of what can be painted on a page.

        They are the repair sheet, the coverage of every pass, what lies under the shapes cut into it, the marks of
        every hold, and what was rubbed out of plates and of wear.
        """
        return plane_names(page, self._page(page), Whole(self.pages()[page], self.holds(), {}))

    def plane(self, name: str) -> TilePlane:
        """Return one of `planes`; `copy` it to keep it as it is now."""
        while True:
            with self._lock:
                before = self._changes
                if name in self._planes:
                    return self._planes[name]
                page = self.read("/".join(name.split("/")[:2]), Page)
            plane = _as_plane(name, (page.rows, page.cols), self._contents)
            with self._lock:
                if self._changes == before:
                    return self._planes.setdefault(name, plane)

    def frozen(self, name: str, checksum: int) -> TilePlane:
        """Return a plane as it was when it had a checksum.

        Raises
        ------
        BadInput
            If neither the states kept at hand nor the history hold it; it never gives another state instead.
        """
        return self._states.found(name, checksum) or self._from_history(name, checksum)

    def _from_history(self, name: str, checksum: int) -> TilePlane:
        plane = self.plane(name).copy()
        for number in self.past.way(0)[0]:
            tiles = [tile for tile in self._store.load(number).inverted().tiles if tile.plane == name]
            for tile in tiles:
                plane.put(tile)
            if tiles and plane.checksum() == checksum:
                return plane
        raise BadInput("That state of the repair sheet is no longer in the book.")

    # Changing

    def change(self, key: str, value: object) -> Change:
        """Prepare to set `key`; None removes it."""
        after = None if value is None else msgspec.json.encode(value).decode()
        return Change(key, self.get(key), after)

    def apply(self, edit: Edit) -> None:
        """Do an edit, put it on disk and into the history; steps that were undone stay there, as a branch."""
        if all(c.before == c.after for c in edit.changes) and not edit.tiles:
            return
        if not edit.says.strip():
            edit = msgspec.structs.replace(edit, says=edit.name.replace("-", " ").capitalize())
        if edit.asked is None and self.asked is not None:
            edit = msgspec.structs.replace(edit, asked=self.asked)
        if self._gathered is not None:
            says = self._says if self._says and not self._gathered else edit.says
            edit = msgspec.structs.replace(edit, says=says, joined=edit.joined or self._gathered > 0)
            self._gathered += 1
            self._made.append(edit)
        self._brace(edit)
        count, fresh = len(self.history), [Step(edit.says, edit.joined)]
        if self.past.is_at_end:
            self._store.append(count, edit)
        else:  # the steps that were undone stay as a branch
            mark = Edit("back", "Back", back=count - self.past.now)
            with self._store.transaction():
                self._store.append(count, mark)
                self._store.append(count + 1, edit)
            fresh.insert(0, Step(mark.says, joined=False, back=mark.back))
        self.past.add(*fresh)
        self._do(edit)

    @contextmanager
    def as_one(self, says: str = "") -> Iterator[None]:
        """Write all edits made meanwhile as one gesture, told as it `says` or as the first; if one raises, none is."""
        if self._gathered is not None:
            yield
            return
        past, made = self.past.copy(), self._made
        self._gathered, self._made, self._says = 0, [], says
        try:
            with self._store.transaction():
                yield
        except BaseException:
            undone, self._made = self._made, made
            self.past = past
            for edit in reversed(undone):
                self._do(edit.inverted())
            raise
        finally:
            self._gathered, self._made = None, made

    @contextmanager
    def marked(self, run: str) -> Iterator[None]:
        """Have all orders done meanwhile carry a mark, see `done_in`."""
        self.run, before = run, self.run
        try:
            yield
        finally:
            self.run = before

    def _brace(self, edit: Edit) -> None:
        """Before the store changes: hold what would be read from it, and give it to those who keep it as it is."""
        numbers = {number for c in edit.changes if (number := _concerned(c.key)) is not None}
        numbers |= {number for tile in edit.tiles if (number := _concerned(tile.plane)) is not None}
        known = self.pages()
        for number in (n for n in numbers if n in known):
            values = self._page(number)
            planes = {name: self.plane(name) for name in self.planes(number)}
            with self._lock:
                for still in list(self._stills):
                    still.pin(number, values, planes)
        for tile in edit.tiles:
            if _concerned(tile.plane) in known:
                self.plane(tile.plane).hold(tile)

    def _do(self, edit: Edit) -> None:
        below: dict[int, dict[str, str | None]] = {}
        planes: dict[str, Rect] = {}
        with self._lock:
            self._changes += 1
            for change in edit.changes:
                page, rest = split_key(change.key)
                if page is None:
                    self._set_shared(change.key, change.after)
                else:
                    below.setdefault(page, {})[rest] = change.after
        for number, changes in below.items():
            values = self._page(number).changed(changes)
            with self._lock:
                self._pages[number] = values
        for tile in (t for t in edit.tiles if _concerned(t.plane) in self.pages()):
            rect = self.plane(tile.plane).put(tile)
            planes[tile.plane] = _union(planes.get(tile.plane, rect), rect)
        for concerned in {*below, *map(_concerned, planes)}:
            self._memo.pop(f"sources/{concerned}", None)
        self.changed.emit(Touched(frozenset(c.key for c in edit.changes), planes))

    def _set_shared(self, key: str, text: str | None) -> None:
        if text is None:
            self._shared.pop(key, None)
        else:
            self._shared[key] = text
        kind, _, number = key.partition("/")
        if kind == PROFILES.name and text is not None:
            know_condition(key, text)
        if kind == SHARED_HOLDS.name:  # every page has it
            for name in [n for n in self._memo if n.startswith("sources/")]:
                self._memo.pop(name, None)
        feeds = BOOK_KINDS[kind].feeds if kind in BOOK_KINDS else ()
        for name in (*feeds, f"sources/{number}"):
            self._memo.pop(name, None)
        if kind == PAGES.name and text is None:  # its number may be given to another one
            for name in [n for n in self._planes if n.startswith(f"{key}/")]:
                del self._planes[name]
        if kind == PAGES.name and text is not None:
            page = msgspec.json.decode(text, type=Page)
            for name in [n for n in self._planes if n.startswith(f"{key}/")]:
                if self._planes[name].shape != (page.rows, page.cols):
                    self._planes[name] = TilePlane((page.rows, page.cols))  # its tiles come with this edit


class _Moment:
    """Contents of a book at one moment: what changed since is kept here, all else is read through."""

    def __init__(self, book: Book) -> None:
        self._book = book
        self._shared = dict(book._shared)
        self._pages: dict[int, PageValues] = {}
        self._planes: dict[str, TilePlane] = {}

    def pin(self, number: int, values: PageValues, planes: Mapping[str, TilePlane]) -> None:
        """Keep a page as it is, unless it is kept already."""
        if number not in self._pages:
            self._pages[number] = values
            self._planes |= {name: plane.copy() for name, plane in planes.items()}

    def shared(self) -> Mapping[str, str]:
        """Return what lay below no page."""
        return self._shared

    def page(self, number: int) -> Any:
        """Return the values of a page as they were."""
        values = self._book._page(number)
        return self._pages.get(number, values)

    def tiles(self, plane: str) -> Any:
        """Return a plane as it was."""
        found: Any = self._planes.get(plane)
        if found is None:
            here = _concerned(plane) in self._book.pages()
            found = self._book.plane(plane).copy() if here else ()  # a page that came later has none yet
        return self._planes.get(plane, found)

    def tile(self, plane: str, row: int, col: int) -> bytes | None:
        """Return a tile as it was."""
        plane_now = self.tiles(plane)
        found: bytes | None = plane_now.packed(row, col) if isinstance(plane_now, TilePlane) else None
        return found


def _as_plane(name: str, shape: tuple[int, int], contents: Contents) -> TilePlane:
    found = contents.tiles(name)
    if isinstance(found, TilePlane):
        return found.copy()
    return TilePlane(shape, found, lambda row, col: contents.tile(name, row, col))


def _concerned(key: str) -> int | None:
    """Return the page that a key belongs to, or is."""
    parts = key.split("/", 2)
    return int(parts[1]) if len(parts) > 1 and parts[0] == "page" and parts[1].isdecimal() else None


def _union(one: Rect, two: Rect) -> Rect:
    return min(one[0], two[0]), min(one[1], two[1]), max(one[2], two[2]), max(one[3], two[3])
