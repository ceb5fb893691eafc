# SPDX-License-Identifier: GPL-3.0-or-later
"""The document: book, pages, pots, one list of edits, what follows from them. Knows core only."""

import lazy_loader

__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
