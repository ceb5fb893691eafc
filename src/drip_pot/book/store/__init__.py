# SPDX-License-Identifier: GPL-3.0-or-later
"""What a book is kept in: typed tables of values, painted planes, edits. Knows core; not what keys and planes mean."""

from drip_pot.book.store.branches import History
from drip_pot.book.store.edit import Change, Edit, TileChange
from drip_pot.book.store.planes import PlaneStates, TilePlane, keep_decoded
from drip_pot.book.store.store import Contents, MemoryContents, MemoryStore, Step, Store, Touched, marked_in, one_page
from drip_pot.book.store.tiles import TILE, inflated, pack_tile, tile_shape, unpack_tile
from drip_pot.book.store.values import PageValues, ReadAs, Table

__all__ = [
    "TILE",
    "Change",
    "Contents",
    "Edit",
    "History",
    "MemoryContents",
    "MemoryStore",
    "PageValues",
    "PlaneStates",
    "ReadAs",
    "Step",
    "Store",
    "Table",
    "TileChange",
    "TilePlane",
    "Touched",
    "inflated",
    "keep_decoded",
    "marked_in",
    "one_page",
    "pack_tile",
    "tile_shape",
    "unpack_tile",
]
