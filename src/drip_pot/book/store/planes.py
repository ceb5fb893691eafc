# SPDX-License-Identifier: GPL-3.0-or-later
"""A painted plane as tiles that are read when needed. Knows compressed tiles; nothing of what the plane means.

A plane is never decoded as a whole unless somebody asks for the whole; its copies share tiles, and a tile that is
replaced lives on in the copies made before.
"""

import itertools
import threading
import zlib
from collections import OrderedDict
from collections.abc import Callable, Iterable, Iterator

import numpy as np

from drip_pot.book.store.edit import TileChange
from drip_pot.book.store.tiles import TILE, pack_tile, tile_shape, unpack_tile
from drip_pot.core.arrays import U8, Rect
from drip_pot.core.errors import DripPotError

_DECODED_BYTES = 96 << 20
_STATES_KEPT = 3
_settling = threading.Lock()
_versions = itertools.count(1)
Place = tuple[int, int]


class _Tile:
    """Compressed pixels, read at the first use unless they are given."""

    __slots__ = ("_data", "_load")

    def __init__(self, load: Callable[[], bytes | None] | None = None, data: bytes | None = None) -> None:
        self._load, self._data = load, data

    def data(self) -> bytes | None:
        load = self._load
        if load is None:
            return self._data
        found = load()
        with _settling:
            if self._load is load:  # it was not told meanwhile what it is
                self._data, self._load = found, None
            return self._data

    def keep(self, data: bytes | None) -> None:
        """Hold what it is by itself, as it is about to be replaced where it would be read from."""
        with _settling:
            self._data, self._load = data, None


class _Decoded:
    """The decoded tiles used last, whoever's they are."""

    def __init__(self, most: int) -> None:
        self._lock = threading.Lock()
        self._kept: OrderedDict[_Tile, U8] = OrderedDict()
        self._bytes, self._most = 0, most

    def get(self, tile: _Tile, shape: tuple[int, int]) -> U8:
        with self._lock:
            if tile in self._kept:
                self._kept.move_to_end(tile)
                return self._kept[tile]
        pixels = unpack_tile(tile.data(), shape)
        with self._lock:
            if tile not in self._kept:
                self._kept[tile] = pixels
                self._bytes += pixels.nbytes
            while self._bytes > self._most:
                self._bytes -= self._kept.popitem(last=False)[1].nbytes
        return pixels

    def most(self, most: int) -> None:
        """Keep at most so many bytes."""
        with self._lock:
            self._most = most
            while self._bytes > self._most:
                self._bytes -= self._kept.popitem(last=False)[1].nbytes


_decoded = _Decoded(_DECODED_BYTES)


def keep_decoded(most_bytes: int) -> None:
    """Set how many bytes of decoded tiles are kept for when they are looked at again, 16 MB at least."""
    _decoded.most(max(most_bytes, 16 << 20))


class TilePlane:
    """A painted plane, (rows, cols) uint8, zero where nothing was painted.

    Parameters
    ----------
    shape : tuple of int
        Rows and columns.
    places : iterable of (row, column)
        Tiles that are there.
    load : callable
        Returns the compressed tile at a row and column.

    Attributes
    ----------
    version : int
        Another one after every change; no two states have the same, whichever plane they are of.
    lost : int
        Tiles found damaged so far; they are read as zeros.
    """

    def __init__(
        self,
        shape: tuple[int, int],
        places: Iterable[Place] = (),
        load: Callable[[int, int], bytes | None] | None = None,
    ) -> None:
        self.shape = shape
        self.version = next(_versions)
        self.lost = 0
        self._tiles = {at: _Tile(None if load is None else _bound(load, at)) for at in places if self._holds(at)}

    def _holds(self, at: Place) -> bool:
        return min(tile_shape(self.shape, *at)) > 0 and min(at) >= 0

    def copy(self) -> "TilePlane":
        """Return the plane as it is now; it costs a list of its tiles."""
        other = TilePlane(self.shape)
        other._tiles, other.version = dict(self._tiles), self.version
        return other

    def __iter__(self) -> Iterator[Place]:
        return iter(sorted(self._tiles))

    def any(self) -> bool:
        """Whether anything was painted."""
        return bool(self._tiles)

    def packed(self, row: int, col: int) -> bytes | None:
        """Return a compressed tile, None where nothing was painted."""
        tile = self._tiles.get((row, col))
        return None if tile is None else tile.data()

    def read(self, rect: Rect, step: int = 1) -> U8:
        """Return every `step`-th pixel of a rectangle (top, left, bottom, right), cut off at the plane's edges."""
        top, left = max(0, rect[0]), max(0, rect[1])
        bottom, right = min(self.shape[0], rect[2]), min(self.shape[1], rect[3])
        out = np.zeros((max(0, -(-(bottom - top) // step)), max(0, -(-(right - left) // step))), np.uint8)
        if not self._tiles:
            return out
        for row in range(top // TILE, -(-bottom // TILE)):
            for col in range(left // TILE, -(-right // TILE)):
                if (row, col) in self._tiles:
                    r, c = _first(top, row, step), _first(left, col, step)
                    piece = self._pixels((row, col))[r - row * TILE : bottom - row * TILE : step,
                                                     c - col * TILE : right - col * TILE : step]  # fmt: skip
                    at = (r - top) // step, (c - left) // step
                    out[at[0] : at[0] + piece.shape[0], at[1] : at[1] + piece.shape[1]] = piece
        return out

    def whole(self) -> U8:
        """Return all of it, (rows, cols) uint8."""
        return self.read((0, 0, *self.shape))

    def checksum(self) -> int:
        """Return the CRC-32 of its pixels; 0 where nothing is painted."""
        return zlib.crc32(np.ascontiguousarray(self.whole()).data) if self.any() else 0

    def _pixels(self, at: Place) -> U8:
        shape = tile_shape(self.shape, *at)
        try:
            return _decoded.get(self._tiles[at], shape)
        except DripPotError:
            self.lost += 1
            self._tiles[at].keep(None)
            return np.zeros(shape, np.uint8)

    def replaced(self, name: str, rect: Rect, new: U8) -> tuple[TileChange, ...]:
        """List the tiles of plane `name` that differ when `new`, (M, N) uint8, is put into it at `rect`."""
        top, left, bottom, right = rect
        changes = []
        for row in range(top // TILE, -(-bottom // TILE)):
            for col in range(left // TILE, -(-right // TILE)):
                r0, c0 = row * TILE, col * TILE
                before = self.read((r0, c0, r0 + TILE, c0 + TILE))
                after = before.copy()
                a, b = max(r0, top), min(r0 + before.shape[0], bottom)
                c, d = max(c0, left), min(c0 + before.shape[1], right)
                after[a - r0 : b - r0, c - c0 : d - c0] = new[a - top : b - top, c - left : d - left]
                if not np.array_equal(before, after):
                    changes.append(TileChange(name, row, col, self.packed(row, col), pack_tile(after)))
        return tuple(changes)

    def hold(self, change: TileChange) -> None:
        """Hold a tile that is about to change, in this plane and its copies."""
        tile = self._tiles.get((change.row, change.col))
        if tile is not None:
            tile.keep(change.before)

    def put(self, change: TileChange) -> Rect:
        """Replace a tile; return where. Copies made before keep the old one, which was told to `hold`."""
        at = change.row, change.col
        if not self._holds(at):  # an empty tile beyond the edge of a page that was cropped
            return 0, 0, 0, 0
        self.version = next(_versions)
        self._tiles.pop(at, None)
        if change.after is not None:
            self._tiles[at] = _Tile(data=change.after)
        shape = tile_shape(self.shape, *at)
        top, left = change.row * TILE, change.col * TILE
        return top, left, top + shape[0], left + shape[1]


def _bound(load: Callable[[int, int], bytes | None], at: Place) -> Callable[[], bytes | None]:
    return lambda: load(*at)


def _first(start: int, tile: int, step: int) -> int:
    """Return the first pixel of a tile that is a whole number of steps from a start."""
    edge = max(start, tile * TILE)
    return start + -(-(edge - start) // step) * step


class PlaneStates:
    """States of planes by checksum, the last few of each."""

    def __init__(self) -> None:
        self._sums: dict[str, tuple[int, int]] = {}
        self._planes: dict[str, dict[int, TilePlane]] = {}

    def kept(self, name: str, plane: TilePlane) -> int:
        """Keep a plane as it is now; return its checksum."""
        version, checksum = self._sums.get(name, (0, 0))
        if version != plane.version:
            checksum = plane.checksum()
            self._sums[name] = plane.version, checksum
            states = self._planes.setdefault(name, {})
            states[checksum] = plane.copy()
            while len(states) > _STATES_KEPT:
                del states[next(iter(states))]
        return checksum

    def found(self, name: str, checksum: int) -> TilePlane | None:
        """Return a plane as it was when it had a checksum, where that is kept."""
        return self._planes.get(name, {}).get(checksum)

    def forget(self, top: str) -> None:
        """Forget the planes whose names begin so."""
        for kept in (self._sums, self._planes):
            for name in [n for n in kept if n.startswith(top)]:
                del kept[name]
