# SPDX-License-Identifier: GPL-3.0-or-later
"""Copies for screens: the flattened page made smaller, in sRGB, as JPEG, PNG or WebP. Knows what it is painted from."""

from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np
from PIL import Image, ImageCms

from drip_pot.core.arrays import U8
from drip_pot.files.delivery.flattened import seen
from drip_pot.files.delivery.kinds import Delivered, kind

_SRGB = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()


def _small(page: Delivered) -> U8:
    """Return the page as it is seen at the size of its copy, (M, N, 3) uint8."""
    whole = seen(page)
    rows, cols = page.how.web.of(*whole.shape[:2])
    return np.asarray(cv2.resize(whole, (cols, rows), interpolation=cv2.INTER_AREA), np.uint8)


def _offer(name: str, form: str, suffix: str, place: int, **options: object) -> None:
    """Put a form on the list of what can be delivered."""

    def write(path: Path, page: Delivered, part: int = 0) -> None:
        Image.fromarray(_small(page)).save(path, form, icc_profile=_SRGB, **options)

    offer: Callable[[Callable[[Path, Delivered, int], None]], object] = kind(
        name, f"Web copy, {form if form != 'WEBP' else 'WebP'}", suffix, place=place
    )
    offer(write)


_offer("web-jpeg", "JPEG", "-web.jpg", 12, quality=92, subsampling=0, optimize=True)
_offer("web-png", "PNG", "-web.png", 13, compress_level=9)
_offer("web-webp", "WEBP", "-web.webp", 14, quality=92, method=4)
