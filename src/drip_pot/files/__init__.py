"""Files in and out: images, the book file, delivery. Knows the book and core; nothing of windows."""

from drip_pot.files.book_file import BookFile, open_book
from drip_pot.files.delivery import KINDS, export_page, export_targets, picture, write_picture
from drip_pot.files.images import (
    IMAGE_SUFFIXES,
    KINDS_READ,
    Inside,
    Scan,
    decode,
    pictures_in,
    read_file,
    read_image,
    without_dpi,
)
from drip_pot.files.outputs import check_outputs
from drip_pot.files.pages import (
    Incoming,
    add_page,
    add_sheets,
    derive,
    import_page,
    new_book,
    read_page,
    reink_sheet,
    suggest_inks,
    take_in,
    with_dpi,
)
from drip_pot.files.palettes import PALETTE_SUFFIXES, Ink, book_palette, read_palette, write_palette
from drip_pot.files.rescue import rescue

__all__ = [
    "IMAGE_SUFFIXES",
    "KINDS",
    "KINDS_READ",
    "PALETTE_SUFFIXES",
    "BookFile",
    "Incoming",
    "Ink",
    "Inside",
    "Scan",
    "add_page",
    "add_sheets",
    "book_palette",
    "check_outputs",
    "decode",
    "derive",
    "export_page",
    "export_targets",
    "import_page",
    "new_book",
    "open_book",
    "picture",
    "pictures_in",
    "read_file",
    "read_image",
    "read_page",
    "read_palette",
    "reink_sheet",
    "rescue",
    "suggest_inks",
    "take_in",
    "with_dpi",
    "without_dpi",
    "write_palette",
    "write_picture",
]
