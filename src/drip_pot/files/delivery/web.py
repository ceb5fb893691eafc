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
    whole = seen(page, smooth=page.how.web.smooth)
    rows, cols = page.how.web.of(*whole.shape[:2])
    return np.asarray(cv2.resize(whole, (cols, rows), interpolation=cv2.INTER_AREA), np.uint8)


def _saved(form: str, **options: object) -> Callable[[Path, Delivered, int], None]:
    """Return what writes a copy in a form."""

    def write(path: Path, page: Delivered, part: int = 0) -> None:
        Image.fromarray(_small(page)).save(path, form, icc_profile=_SRGB, **options)

    return write


kind("web-jpeg", "Web copy, JPEG", "-web.jpg", place=12)(_saved("JPEG", quality=92, subsampling=0, optimize=True))
kind("web-png", "Web copy, PNG", "-web.png", place=13)(_saved("PNG", compress_level=9))
kind("web-webp", "Web copy, WebP", "-web.webp", place=14)(_saved("WEBP", quality=92, method=4))
