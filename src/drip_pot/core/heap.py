# SPDX-License-Identifier: GPL-3.0-or-later
"""Freed memory given back to the system. Knows nothing of what it held.

The C library keeps freed planes that are no larger than its limit (up to 32 MB), often hundreds of megabytes of them
between those still in use, and for each thread apart; what is done next then comes on top.
"""

import ctypes
from functools import lru_cache

_ARENA_MAX = -8  # mallopt(3)


def give_back() -> None:
    """Give back what was freed: call it between two steps that each need much. Does nothing without glibc."""
    trim = getattr(_library(), "malloc_trim", None)
    if trim is not None:
        trim(0)


@lru_cache(maxsize=1)
def _library() -> ctypes.CDLL:
    """Load the C library, and tell it to keep one heap for all threads from now on."""
    library = ctypes.CDLL(None)
    if hasattr(library, "mallopt"):
        library.mallopt(_ARENA_MAX, 1)
    return library
