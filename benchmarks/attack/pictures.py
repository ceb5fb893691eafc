# SPDX-License-Identifier: GPL-3.0-or-later
"""Hostile pictures: files of every format that can be opened, damaged, and taken in as a page."""

import io
import random
import zipfile
from functools import cache
from pathlib import Path

import numpy as np
import tifffile
from PIL import Image

from attack.damage import damaged
from drip_pot.files import take_in


def _page(rows: int = 180, cols: int = 140) -> np.ndarray:
    page = np.full((rows, cols), 255, np.uint8)
    page[20:160:12, 10:130] = 0
    page[20:160, 10:130:40] = 0
    return page


@cache
def samples() -> list[tuple[str, bytes]]:
    """Return whole files by name."""
    grey = _page()
    found = []
    images = {
        "1": Image.fromarray(grey).convert("1"),
        "L": Image.fromarray(grey),
        "I;16": Image.fromarray(grey.astype(np.uint16) * 257),
        "RGB": Image.fromarray(np.dstack([grey, grey // 2, grey])),
        "P": Image.fromarray(grey).convert("P"),
        "RGBA": Image.fromarray(np.dstack([grey * 0, grey * 0, grey * 0, 255 - grey])),
        "LA": Image.fromarray(grey).convert("LA"),
    }
    for kind, modes in (("PNG", images), ("TIFF", ("1", "L", "I;16", "RGB")), ("JPEG", ("L", "RGB")),
                        ("WEBP", ("RGB", "RGBA")), ("BMP", ("1", "L", "RGB", "P"))):  # fmt: skip
        for mode in modes:
            out = io.BytesIO()
            images[mode].save(out, kind, dpi=(300, 300))
            found.append((f"{mode}.{kind.lower()}".replace(";", ""), out.getvalue()))
    for compression, tile in (("zlib", None), ("lzw", (64, 64)), (None, (32, 32)), ("zlib", (64, 64))):
        out = io.BytesIO()
        tifffile.imwrite(out, np.stack([grey, grey]), compression=compression, tile=tile, photometric="minisblack")
        found.append((f"pages-{compression}-{tile}.tif", out.getvalue()))
    out = io.BytesIO()
    images["1"].save(out, "TIFF", compression="group4")
    found.append(("g4.tif", out.getvalue()))
    out = io.BytesIO()
    images["RGB"].save(out, "JPEG", exif=Image.Exif())
    found.append(("camera.jpg", out.getvalue()))
    found += [("page.pdf", _pdf(images["L"])), ("layers.ora", _layers(images["RGBA"]))]
    return found


def _pdf(image: Image.Image) -> bytes:
    out = io.BytesIO()
    image.save(out, "PDF", resolution=150)
    return out.getvalue()


def _layers(image: Image.Image) -> bytes:
    out, layer = io.BytesIO(), io.BytesIO()
    image.save(layer, "PNG")
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("mimetype", "image/openraster")
        archive.writestr(
            "stack.xml",
            '<image w="140" h="180"><stack>'
            + "".join(f'<layer name="l{k}" src="data/l{k}.png" x="{k}" y="0" opacity="0.5"/>' for k in range(3))
            + "</stack></image>",
        )
        for k in range(3):
            archive.writestr(f"data/l{k}.png", layer.getvalue())
    return out.getvalue()


def case(number: int, folder: Path) -> None:
    """Take in one damaged picture."""
    chance = random.Random(number)
    (name, data), (_, other) = chance.sample(samples(), 2)
    if number % 5 == 0 and name.endswith("ora"):
        name, data = "bent.ora", _bent(data, chance)
    take_in(damaged(data, other, chance), chance.choice((name, "x", f"{name}.png", "no name \udc80.tif")))


def _bent(data: bytes, chance: random.Random) -> bytes:
    """Rewrite the list of layers of an archive, whose checks are right then."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
        for name in old.namelist():
            held = old.read(name)
            new.writestr(name, damaged(held, held, chance) if name == "stack.xml" else held)
    return out.getvalue()
