# SPDX-License-Identifier: GPL-3.0-or-later
"""Images come in whatever they are called, and bad ones are explained in a sentence."""

import io
import struct
import zlib
from pathlib import Path

import numpy as np
import pytest
import tifffile
from PIL import Image

from drip_pot.core.errors import BadInput, Unreadable
from drip_pot.files import decode, read_image
from tests.conftest import two_rooms

INK = two_rooms(rows=60, cols=90)
GRAY = 255 - INK


def encoded(image: Image.Image, kind: str, **options: object) -> bytes:
    out = io.BytesIO()
    image.save(out, kind, **options)
    return out.getvalue()


def tiff(pixels: np.ndarray, **options: object) -> bytes:
    out = io.BytesIO()
    tifffile.imwrite(out, pixels, **options)
    return out.getvalue()


def clear(gray: np.ndarray) -> Image.Image:
    pixels = np.zeros((*gray.shape, 2), np.uint8)
    pixels[..., 1] = 255 - gray
    return Image.fromarray(pixels)


RGB = np.repeat(GRAY[..., None], 3, axis=2)


@pytest.mark.parametrize(
    ("name", "data"),
    [
        ("grey.png", encoded(Image.fromarray(GRAY), "PNG")),
        ("colour.png", encoded(Image.fromarray(RGB), "PNG")),
        ("clear.png", encoded(clear(GRAY), "PNG")),
        ("palette.png", encoded(Image.fromarray(GRAY).convert("P"), "PNG")),
        ("bit.png", encoded(Image.fromarray(GRAY).convert("1"), "PNG")),
        ("deep.png", encoded(Image.fromarray(GRAY.astype(np.uint16) * 257), "PNG")),
        ("grey.webp", encoded(Image.fromarray(RGB), "WEBP", lossless=True)),
        ("grey.bmp", encoded(Image.fromarray(GRAY), "BMP")),
        ("grey.tif", tiff(GRAY)),
        ("deep.tif", tiff(GRAY.astype(np.uint16) * 257)),
        ("colour.tif", tiff(RGB, photometric="rgb")),
        ("planar.tif", tiff(np.moveaxis(RGB, -1, 0), photometric="rgb", planarconfig="separate")),
        ("white-is-0.tif", tiff(INK, photometric="miniswhite")),
        ("clear.tif", tiff(np.dstack([0 * RGB, INK]), photometric="rgb", extrasamples=["unassalpha"])),
        ("bit.tif", encoded(Image.fromarray(GRAY).convert("1"), "TIFF", compression="group4")),
        ("cmyk.tif", encoded(Image.fromarray(RGB).convert("CMYK"), "TIFF")),
    ],
)
def test_every_kind_of_drawing_gives_the_same_grey(name: str, data: bytes) -> None:
    scan = decode(data, name)
    assert scan.gray.dtype == (np.uint16 if name.startswith("deep") else np.uint8)
    unit = 257 if scan.gray.dtype == np.uint16 else 1
    assert np.abs(scan.gray.astype(int) / unit - GRAY).max() <= 2


def test_a_jpeg_is_read_with_its_resolution() -> None:
    scan = decode(encoded(Image.fromarray(GRAY), "JPEG", quality=95, dpi=(400, 400)), "page.jpg")
    assert scan.dpi == 400
    assert np.abs(scan.gray.astype(int) - GRAY).mean() < 4
    assert scan.notes == []


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("page.jpg", encoded(Image.fromarray(GRAY), "PNG", dpi=(300, 300)), "is named .jpg but is a PNG"),
        ("page.png", encoded(Image.fromarray(GRAY), "PNG"), "300 dpi was taken"),
        ("page.tif", encoded(Image.fromarray(RGB).convert("CMYK"), "TIFF"), "is in CMYK"),
    ],
)
def test_what_was_taken_for_granted_is_said(name: str, data: bytes, words: str) -> None:
    scan = decode(data, name)
    assert any(words in note for note in scan.notes)
    assert scan.gray.shape == GRAY.shape


def lying_png(width: int, height: int) -> bytes:
    """A PNG that claims a size in its header."""
    chunk = b"IHDR" + struct.pack(">IIBBBBB", width, height, 8, 0, 0, 0, 0)
    return WHOLE[:12] + chunk + struct.pack(">I", zlib.crc32(chunk)) + WHOLE[33:]


WHOLE = encoded(Image.fromarray(np.random.default_rng(1).integers(0, 255, (80, 80), np.uint8)), "PNG")


@pytest.mark.parametrize(
    ("name", "data", "error", "words"),
    [
        ("empty.png", b"", Unreadable, "is empty"),
        ("words.png", b"this is no picture at all", Unreadable, "not a picture"),
        ("cut.png", WHOLE[: len(WHOLE) // 2], Unreadable, "damaged or cut short"),
        ("cut.tif", tiff(GRAY)[:300], Unreadable, "damaged or cut short"),
        ("huge.png", lying_png(40_000, 50_000), BadInput, "up to 30000 px a side"),
        ("nothing.png", lying_png(0, 0), Unreadable, "nothing.png"),
        ("other.gif", encoded(Image.fromarray(GRAY), "GIF"), Unreadable, "not a picture this program"),
    ],
)
def test_bad_files_get_one_clear_sentence(name: str, data: bytes, error: type[Exception], words: str) -> None:
    with pytest.raises(error, match=words) as caught:
        decode(data, name)
    assert "\n" not in str(caught.value)
    assert str(caught.value).endswith(".")


def test_a_missing_file_and_a_folder_are_explained(tmp_path: Path) -> None:
    for path in (tmp_path / "gone.png", tmp_path):
        with pytest.raises(Unreadable, match="cannot be opened"):
            read_image(path)


def test_a_picture_that_needs_too_much_memory_is_refused_by_its_header() -> None:
    header = struct.pack(">IIBBBBB", 13_000, 13_000, 8, 0, 0, 0, 0)
    chunks = ((b"IHDR", header), (b"IDAT", zlib.compress(b"\0" * 64)), (b"IEND", b""))
    data = b"\x89PNG\r\n\x1a\n" + b"".join(
        struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body)) for kind, body in chunks
    )
    with pytest.raises(BadInput, match=r"169 megapixels\. Pages go up to 160"):
        decode(data, "large.png")
