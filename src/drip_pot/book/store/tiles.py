# SPDX-License-Identifier: GPL-3.0-or-later
"""Tiles of painted planes as compressed bytes. Knows nothing of planes as a whole."""

import numpy as np
import zstandard

from drip_pot.core.arrays import U8
from drip_pot.core.errors import Unreadable

TILE = 256


def pack_tile(pixels: U8) -> bytes | None:
    """Compress a tile, (TILE, TILE) uint8 or less at the page's edge; None if it is all zero."""
    if not pixels.any():
        return None
    return zstandard.ZstdCompressor(level=3).compress(np.ascontiguousarray(pixels).tobytes())


def inflated(data: bytes | memoryview, most: int) -> bytes:
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
