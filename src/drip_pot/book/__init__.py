"""The document: book, pages, pots, one list of edits, what follows from them. Knows core only."""

from drip_pot.book.book import Book, MemoryStore, Step, Store, Touched
from drip_pot.book.derived import Cache, Derived, Facts, Register
from drip_pot.book.edit import TILE, Change, Edit, TileChange
from drip_pot.book.model import (
    BookInfo,
    Flats,
    Hold,
    InkState,
    Lines,
    Page,
    PageSources,
    Part,
    Pot,
)
from drip_pot.book.palette import Tables, build_tables

__all__ = [
    "TILE",
    "Book",
    "BookInfo",
    "Cache",
    "Change",
    "Derived",
    "Edit",
    "Facts",
    "Flats",
    "Hold",
    "InkState",
    "Lines",
    "MemoryStore",
    "Page",
    "PageSources",
    "Part",
    "Pot",
    "Register",
    "Step",
    "Store",
    "Tables",
    "TileChange",
    "Touched",
    "build_tables",
]
