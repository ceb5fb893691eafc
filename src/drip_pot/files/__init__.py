# SPDX-License-Identifier: GPL-3.0-or-later
"""Files in and out: images, the book file, delivery. Knows the book and core; nothing of windows."""

import lazy_loader

__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
