# SPDX-License-Identifier: GPL-3.0-or-later
"""Every error Drip Pot raises on purpose. Knows nothing else of the program.

DripPotError            one sentence for a person: what, where, what to do
├── BadInput            a value or an array that cannot be used
│   └── NothingDone     a gesture that had nothing to do; no problem, but worth a word
├── Unreadable          a file that is missing, damaged or of an unknown kind
├── NewerBook           a book written by a newer version
├── BookLocked          a book that another window has open
├── CannotWrite         a folder, disk or file that refuses to be written
└── Cancelled           the person asked to stop; not a failure
"""

from drip_pot.words import tr


class DripPotError(Exception):
    """Base of all expected errors: a sentence to be shown, with values in place of {0}, {1}, … where there are any."""

    def __init__(self, text: str = "", *values: object) -> None:
        super().__init__(tr(text, *values))


class BadInput(DripPotError):
    """A value or an array that cannot be used."""


class NothingDone(BadInput):
    """A gesture that had nothing to do."""


class Unreadable(DripPotError):
    """A file that is missing, damaged or of an unknown kind."""


class NewerBook(DripPotError):
    """A book written by a newer version of Drip Pot."""


class BookLocked(DripPotError):
    """A book that another window has open."""


class CannotWrite(DripPotError):
    """A folder, disk or file that refuses to be written."""


class Cancelled(DripPotError):
    """The person asked to stop."""
