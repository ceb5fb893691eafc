"""One small, named, reversible change. Knows nothing of what its keys and planes mean."""

import msgspec
import numpy as np
import zstandard

from drip_pot.core.arrays import U8, Rect
from drip_pot.core.errors import Unreadable

TILE = 256


class Change(msgspec.Struct, frozen=True):
    """A value before and after, as JSON text; None where there was or will be none."""

    key: str
    before: str | None
    after: str | None


class TileChange(msgspec.Struct, frozen=True):
    """A tile of a plane before and after, compressed; None is a tile of zeros."""

    plane: str
    row: int
    col: int
    before: bytes | None
    after: bytes | None


class Edit(msgspec.Struct, frozen=True):
    """A finished gesture.

    Attributes
    ----------
    name : str
        What kind of edit, for programs ('pour').
    title : str
        The same for people ('Pour Ember into 14 regions').
    joined : bool
        Whether it is undone and redone together with the edit before it.
    """

    name: str
    title: str
    changes: tuple[Change, ...] = ()
    tiles: tuple[TileChange, ...] = ()
    joined: bool = False

    def inverted(self) -> "Edit":
        """Return the edit that takes this one back."""
        return msgspec.structs.replace(
            self,
            changes=tuple(Change(c.key, c.after, c.before) for c in reversed(self.changes)),
            tiles=tuple(TileChange(t.plane, t.row, t.col, t.after, t.before) for t in reversed(self.tiles)),
        )


def pack_tile(pixels: U8) -> bytes | None:
    """Compress a tile, (TILE, TILE) uint8 or less at the page's edge; None if it is all zero."""
    if not pixels.any():
        return None
    return zstandard.ZstdCompressor(level=3).compress(np.ascontiguousarray(pixels).tobytes())


def inflated(data: bytes, most: int) -> bytes:
    """Decompress Zstandard data of at most so many bytes; raises `zstandard.ZstdError` for more, or damage."""
    if zstandard.frame_content_size(data) > most:
        raise zstandard.ZstdError("more than can be")
    return zstandard.ZstdDecompressor().decompress(data, max_output_size=most)


def unpack_tile(data: bytes | None, shape: tuple[int, int]) -> U8:
    """Undo `pack_tile` for a tile of `shape`; raises `Unreadable` for anything else."""
    if data is None:
        return np.zeros(shape, np.uint8)
    try:
        raw = inflated(data, TILE * TILE)
        return np.frombuffer(raw, np.uint8).reshape(shape)
    except (zstandard.ZstdError, ValueError) as error:
        raise Unreadable("A tile of painted shade is damaged and was left out.") from error


def tile_shape(page: tuple[int, int], row: int, col: int) -> tuple[int, int]:
    """Return rows and columns of one tile of a plane of `page` rows and columns."""
    return min(TILE, page[0] - row * TILE), min(TILE, page[1] - col * TILE)


def tile_changes(plane: str, old: U8, rect: Rect, new: U8) -> tuple[TileChange, ...]:
    """List the tiles that differ when `new` is put into `old`, (M, N) uint8, at `rect`."""
    top, left, bottom, right = rect
    changes = []
    for row in range(top // TILE, -(-bottom // TILE)):
        for col in range(left // TILE, -(-right // TILE)):
            r0, c0 = row * TILE, col * TILE
            before = old[r0 : r0 + TILE, c0 : c0 + TILE]
            after = before.copy()
            a, b = max(r0, top), min(r0 + before.shape[0], bottom)
            c, d = max(c0, left), min(c0 + before.shape[1], right)
            after[a - r0 : b - r0, c - c0 : d - c0] = new[a - top : b - top, c - left : d - left]
            if not np.array_equal(before, after):
                changes.append(TileChange(plane, row, col, pack_tile(before), pack_tile(after)))
    return tuple(changes)
