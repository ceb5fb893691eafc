"""Files in and out: images, the book file, delivery. Knows the book and core; nothing of windows."""

from drip_pot.files.book_file import BookFile, open_book, rescue
from drip_pot.files.export import KINDS, export_page
from drip_pot.files.images import Scan, decode, read_image
from drip_pot.files.pages import Incoming, add_page, derive, import_page, new_book, read_page

__all__ = [
    "KINDS",
    "BookFile",
    "Incoming",
    "Scan",
    "add_page",
    "decode",
    "derive",
    "export_page",
    "import_page",
    "new_book",
    "open_book",
    "read_image",
    "read_page",
    "rescue",
]
