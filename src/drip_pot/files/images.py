# SPDX-License-Identifier: GPL-3.0-or-later
"""Scans and digital line art, read into grey. Knows image files only; the original bytes are never changed."""

import io
import warnings
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, Any

import cv2
import numpy as np
import numpy.typing as npt
from PIL import Image, ImageOps, UnidentifiedImageError

from drip_pot.book.picture import Picture
from drip_pot.core.arrays import U8, Gray
from drip_pot.core.errors import BadInput, DripPotError, Unreadable
from drip_pot.files.openraster import read as read_openraster
from drip_pot.words import tr

if TYPE_CHECKING:
    import pypdfium2

LARGEST_PX = 30_000
MOST_PX = 160_000_000
"""Some twenty bytes a pixel are needed to take a picture in: 3.2 GB; a larger one is refused by its header."""
MOST_BYTES = 4 << 30
PDF_DPI = 600
KINDS_READ = "PNG, TIFF, JPEG, WebP, BMP, OpenRaster or PDF"
_SUFFIXES = {
    "PNG": {".png"}, "JPEG": {".jpg", ".jpeg", ".jpe"}, "TIFF": {".tif", ".tiff"}, "WEBP": {".webp"}, "BMP": {".bmp"},
    "OpenRaster": {".ora"}, "PDF": {".pdf"},
}  # fmt: skip
_PILLOW = ("PNG", "JPEG", "TIFF", "WEBP", "BMP")
IMAGE_SUFFIXES = tuple(sorted(s for group in _SUFFIXES.values() for s in group))
_VIVID, _PART_ROWS = 24, 512
_ORIENTATION, _X_RESOLUTION = 274, 282  # as the TIFF standard numbers them
Image.MAX_IMAGE_PIXELS = None
warnings.filterwarnings("ignore", category=UserWarning, module="PIL")  # damage is told in our own words


@dataclass(frozen=True)
class Scan(Picture):
    """A drawing as it was read.

    Attributes
    ----------
    dpi : float
        From the file; 300 where it says nothing usable.
    knows_dpi : bool
        Whether the file said it.
    notes : list of str
        Sentences a person should see: what was taken for granted.
    """

    dpi: float = 300.0
    knows_dpi: bool = False
    notes: list[str] = field(default_factory=list)


@dataclass(frozen=True)
class Inside:
    """A picture in a file that holds several: its number, its name, and whether it is a layer of one page."""

    number: int
    name: str
    is_layer: bool
    shown: bool = True


def read_file(path: Path) -> bytes:
    """Return the bytes of a file; raises `Unreadable` with the reason, `BadInput` if it has more than 4 GB."""
    try:
        size = path.stat().st_size
        if path.exists() and not path.is_file():
            raise Unreadable("{0} cannot be opened: it is no file. Choose a drawing or a book.", path.name)
        if size > MOST_BYTES:
            raise BadInput(
                "{0} has {1:.1f} GB; files up to 4 GB are read. Scan it smaller.", path.name, size / (1 << 30)
            )
        return path.read_bytes()
    except OSError as error:
        raise Unreadable("{0} cannot be opened: {1}.", path.name, error.strerror) from error


def read_image(path: Path, picture: int = 0) -> tuple[bytes, Scan]:
    """Read an image file.

    Parameters
    ----------
    path : Path
        The file.
    picture : int
        Which of its pictures, from 0: a page of a TIFF or PDF, a layer of an OpenRaster file (the topmost is 0).

    Returns
    -------
    data : bytes
        The file as it is.
    scan : Scan
        What is in it.

    Raises
    ------
    Unreadable
        If the file is missing, empty, truncated or no picture.
    BadInput
        If it is larger than 30 000 pixels to a side, or has no such picture.
    """
    data = read_file(path)
    return data, decode(data, path.name, picture)


def pictures_in(data: bytes, name: str) -> list[Inside]:
    """List the pictures of a file; errors are those of `read_image`."""
    kind = _kind(data)
    if kind == "OpenRaster":
        return [Inside(k, layer.name, True, layer.shown) for k, layer in enumerate(read_openraster(data, name).layers)]
    if kind == "PDF":
        with _pdf(data, name) as document:
            return [Inside(k, tr("Page {0}", k + 1), False) for k in range(len(document))]
    count = 1
    try:
        with _opened(data) as image:
            count = getattr(image, "n_frames", 1) if image.format == "TIFF" else 1
    except Exception:  # noqa: BLE001 - decoders raise anything; `decode` says what is wrong with it
        return [Inside(0, "Picture 1", False)]
    return [Inside(k, tr("Picture {0}", k + 1), False) for k in range(count)]


def pages_of(data: bytes, name: str) -> list[int | None]:
    """Return which pictures of a file are a page each; its layers are one page (None). Errors as of `read_image`."""
    inside = pictures_in(data, name)
    return [None] if len(inside) < 2 or inside[0].is_layer else list(range(len(inside)))


def decode(data: bytes, name: str, picture: int = 0, *, tinted: bool = False) -> Scan:
    """Decode the bytes of an image file; parameters and errors are those of `read_image`.

    The colours of a picture that has but one tint, as scans of black ink have, are left out unless it is `tinted`.
    """
    if not data:
        raise Unreadable("{0} is empty (0 bytes). Scan or export it again.", name)
    try:
        kind = _kind(data)
        if kind == "OpenRaster":
            return _layer(data, name, picture, tinted)
        if kind == "PDF":
            return _pdf_page(data, name, picture, tinted)
        return _picture(data, name, picture, tinted)
    except UnidentifiedImageError as error:
        raise Unreadable("{0} is not a picture this program can read. Open {1}.", name, KINDS_READ) from error
    except MemoryError as error:
        raise BadInput("{0} is too large for this machine's memory. Open it at a lower resolution.", name) from error
    except DripPotError:
        raise
    except Exception as error:
        raise Unreadable("{0} is damaged or cut short. Scan or export it again.", name) from error


def _opened(data: bytes, formats: tuple[str, ...] = _PILLOW) -> Image.Image:
    """Open a picture in memory, of the kinds we name and no others."""
    return Image.open(io.BytesIO(data), formats=formats)


def without_dpi(png: bytes) -> bytes:
    """Return a PNG without its resolution: what the clipboard says of it belongs to the screen, not to the drawing."""
    out = io.BytesIO()
    with _opened(png, ("PNG",)) as image:
        image.save(out, "PNG", compress_level=1)
    return out.getvalue()


def _kind(data: bytes) -> str:
    if data[:4] == b"PK\x03\x04":
        return "OpenRaster"
    return "PDF" if b"%PDF-" in data[:1024] else ""


def _picture(data: bytes, name: str, picture: int, tinted: bool) -> Scan:
    with _opened(data) as image:
        if image.format == "MPO":  # a camera's JPEG with previews behind it
            image.format = "JPEG"
        frames = getattr(image, "n_frames", 1) if image.format == "TIFF" else 1
        if not 0 <= picture < frames:
            raise BadInput("{0} holds {1} pictures; there is no picture {2}.", name, frames, picture + 1)
        if picture:
            image.seek(picture)
        check_size(image.size, name)
        notes = _notes(image, name)
        dpi, known = _dpi(image, notes, name)
        pixels: npt.NDArray[Any] | None = None
        if image.format == "TIFF" and image.mode not in ("1", "P", "CMYK"):
            pixels = _turned(_tiff(data, picture), image.getexif().get(_ORIENTATION, 1))
        elif image.format == "PNG" and data[24:25] == b"\x10" and data[25:26] in (b"\x02", b"\x06"):
            pixels = _deep_png(data)
        found = _told(pixels, tinted) if pixels is not None else _from_pillow(image, tinted)
        return Scan(found.gray, found.rgb, found.opacity, dpi, known, notes)


def _layer(data: bytes, name: str, picture: int, tinted: bool) -> Scan:
    book = read_openraster(data, name)
    if not 0 <= picture < len(book.layers):
        raise BadInput("{0} has {1} layers; there is no layer {2}.", name, len(book.layers), picture + 1)
    check_size((book.cols, book.rows), name)
    layer = book.layers[picture]
    out = np.zeros((book.rows, book.cols, 4), np.uint8)
    with _opened(layer.data, ("PNG",)) as image:
        check_size(image.size, f"{name}, {layer.name}")
        pixels = np.asarray(image.convert("RGBA"))
    top, left = max(layer.top, 0), max(layer.left, 0)
    bottom, right = min(layer.top + pixels.shape[0], book.rows), min(layer.left + pixels.shape[1], book.cols)
    if bottom > top and right > left:
        out[top:bottom, left:right] = pixels[
            top - layer.top : bottom - layer.top, left - layer.left : right - layer.left
        ]
        if layer.opacity < 1:
            out[..., 3] = np.rint(out[..., 3] * np.float32(layer.opacity))
    found = _told(out, tinted)
    notes = list(book.notes)
    if not book.dpi:
        notes.append(tr("{0} does not say its resolution; 300 dpi was taken.", name))
    return Scan(found.gray, found.rgb, found.opacity, book.dpi or 300.0, bool(book.dpi), notes)


def _pdf(data: bytes, name: str) -> "pypdfium2.PdfDocument":
    import pypdfium2  # read when the first PDF is opened

    try:
        return pypdfium2.PdfDocument(data)
    except pypdfium2.PdfiumError as error:
        raise Unreadable("{0} is damaged or locked with a password. Export it again.", name) from error


def _pdf_page(data: bytes, name: str, picture: int, tinted: bool) -> Scan:
    with _pdf(data, name) as document:
        if not 0 <= picture < len(document):
            raise BadInput("{0} has {1} pages; there is no page {2}.", name, len(document), picture + 1)
        page = document[picture]
        size = tuple(round(side * PDF_DPI / 72) for side in page.get_size())
        check_size((size[0], size[1]), name)
        pixels = page.render(scale=PDF_DPI / 72, rev_byteorder=True).to_numpy()
    found = _told(np.ascontiguousarray(pixels[..., :3]) if pixels.ndim == 3 else pixels, tinted)
    return Scan(found.gray, found.rgb, None, float(PDF_DPI), True, [tr("{0} was drawn at {1} dpi.", name, PDF_DPI)])


def check_size(size: tuple[int, int], name: str) -> None:
    """Raise `BadInput` or `Unreadable` for pictures (columns, rows) that are too large or have no pixels."""
    if max(size) > LARGEST_PX:
        raise BadInput(
            "{0} is {1} × {2} px. Pages go up to {3} px a side; scan at a lower resolution.",
            name,
            size[0],
            size[1],
            LARGEST_PX,
        )
    if size[0] * size[1] > MOST_PX:
        raise BadInput(
            "{0} has {1:.0f} megapixels. Pages go up to {2:.0f}; scan at a lower resolution.",
            name,
            size[0] * size[1] / 1000000.0,
            MOST_PX / 1000000.0,
        )
    if min(size) < 1:
        raise Unreadable("{0} has no pixels ({1} × {2}).", name, size[0], size[1])


def _notes(image: Image.Image, name: str) -> list[str]:
    notes = []
    suffix = Path(name).suffix.lower()
    if suffix and suffix not in _SUFFIXES[image.format or ""]:
        notes.append(tr("{0} is named {1} but is a {2} file; it was read as that.", name, suffix, image.format))
    if image.mode == "CMYK":
        notes.append(tr("{0} is in CMYK; its lightness was taken.", name))
    return notes


def _dpi(image: Image.Image, notes: list[str], name: str) -> tuple[float, bool]:
    found = image.info.get("dpi", (0, 0))
    if image.format == "JPEG" and "jfif_density" not in image.info and _X_RESOLUTION not in image.getexif():
        found = (0, 0)  # Pillow says 72 where the file says nothing
    try:
        dpi = float(found[0])
    except (TypeError, IndexError, ZeroDivisionError, ValueError):
        dpi = 0.0
    if 30 <= dpi <= 4800:
        whole = round(dpi)  # PNG counts pixels per metre, so 450 comes as 450.01
        return (float(whole) if abs(dpi - whole) < 0.03 else round(dpi, 2)), True
    notes.append(tr("{0} does not say its resolution; 300 dpi was taken.", name))
    return 300.0, False


def _tiff(data: bytes, picture: int) -> npt.NDArray[Any] | None:
    """Pixels of a TIFF, for the depths and layouts Pillow does not know; None to leave it to Pillow."""
    import tifffile

    with tifffile.TiffFile(io.BytesIO(data)) as file:
        page = file.pages[picture]
        if page.dtype not in (np.uint8, np.uint16) or page.photometric not in (0, 1, 2):
            return None
        pixels: npt.NDArray[Any] = page.asarray()
        inverted = page.photometric == 0
    if pixels.ndim == 3 and pixels.shape[0] in (3, 4) and pixels.shape[2] not in (3, 4):
        pixels = np.moveaxis(pixels, 0, -1)
    if pixels.ndim == 2:
        return np.ascontiguousarray(~pixels if inverted else pixels)
    return np.ascontiguousarray(pixels) if pixels.ndim == 3 and pixels.shape[2] in (3, 4) else None


def _turned(pixels: npt.NDArray[Any] | None, orientation: int) -> npt.NDArray[Any] | None:
    """Turn and mirror pixels as a file's orientation tag (1..8) says they are to be seen."""
    if pixels is None or orientation not in range(2, 9):
        return pixels
    if orientation >= 5:
        pixels = np.swapaxes(pixels, 0, 1)
    if orientation in (3, 4, 7, 8):
        pixels = pixels[::-1]
    if orientation in (2, 3, 6, 7):
        pixels = pixels[:, ::-1]
    return np.ascontiguousarray(pixels)


def _deep_png(data: bytes) -> npt.NDArray[Any] | None:
    """Pixels of a PNG with 16 bits a channel in colour, which Pillow would cut to 8."""
    pixels = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
    if pixels is None:
        raise ValueError("no pixels")
    if pixels.ndim == 3:
        pixels = cv2.cvtColor(pixels, cv2.COLOR_BGR2RGB if pixels.shape[2] == 3 else cv2.COLOR_BGRA2RGBA)
    return np.asarray(pixels)


def _from_pillow(image: Image.Image, tinted: bool) -> Picture:
    if image.mode.startswith("I;16"):
        return Picture(np.ascontiguousarray(np.asarray(image).astype(np.uint16)))
    if image.mode in ("I", "F"):
        deep = np.asarray(image).astype(np.float32)
        most = 65535.0 if image.mode == "I" else max(1.0, float(deep.max()))
        return Picture(np.asarray(np.rint(np.clip(deep / most, 0, 1) * 65535), np.uint16))
    image = ImageOps.exif_transpose(image)
    if image.mode == "CMYK":
        inks = 255 - np.asarray(image).astype(np.uint16)
        return _told(np.asarray(inks[..., :3] * inks[..., 3:] // 255, np.uint8), tinted)
    if image.mode in ("1", "L"):
        return Picture(_pixels_of(image.convert("L")))
    return _told(_pixels_of(image.convert("RGBA" if image.has_transparency_data else "RGB")), tinted)


def _pixels_of(image: Image.Image) -> U8:
    """Return a picture's pixels, in parts: a large one copied whole keeps the interpreter from all other threads."""
    wide, high = image.size
    parts = (image.crop((0, top, wide, min(top + _PART_ROWS, high))) for top in range(0, high, _PART_ROWS))
    return np.concatenate([np.asarray(part) for part in parts])


def _told(pixels: npt.NDArray[Any], tinted: bool) -> Picture:
    """Tell grey, colour and opacity of (M, N), (M, N, 3) or (M, N, 4) pixels, 8 or 16 bits deep."""
    if pixels.ndim == 2:
        return Picture(pixels)
    gray: Gray = np.asarray(cv2.cvtColor(np.ascontiguousarray(pixels[..., :3]), cv2.COLOR_RGB2GRAY))
    rgb = np.ascontiguousarray(pixels[..., :3] if pixels.dtype == np.uint8 else pixels[..., :3] >> 8, np.uint8)
    if pixels.shape[2] == 3:
        return Picture(gray, rgb if tinted or _is_colored(rgb, None) else None)
    alpha = np.ascontiguousarray(pixels[..., 3])
    dark = cv2.multiply(cv2.bitwise_not(gray), alpha, scale=1 / np.iinfo(pixels.dtype).max)
    opacity = np.asarray(alpha if alpha.dtype == np.uint8 else alpha >> 8, np.uint8)
    white = cv2.bitwise_not(opacity)[..., None]
    on_white = cv2.add(cv2.multiply(rgb, cv2.merge([opacity] * 3), scale=1 / 255), cv2.merge([white] * 3))
    colored = tinted or _is_colored(rgb, opacity)
    return Picture(np.asarray(cv2.bitwise_not(dark)), np.asarray(on_white, np.uint8) if colored else None, opacity)


def _is_colored(rgb: U8, opacity: U8 | None) -> bool:
    """Whether a picture is more than tinted: some of it differs in colour from its own paper."""
    step = max(1, rgb.shape[0] // 700), max(1, rgb.shape[1] // 700)
    sample = rgb[:: step[0], :: step[1]].astype(np.int16)
    spread = sample - sample[..., 1:2]
    if opacity is not None:
        spread = spread[opacity[:: step[0], :: step[1]] > 127]
    flat = spread.reshape(-1, 3)
    return bool(len(flat) and (np.abs(flat - np.median(flat, axis=0)).max(axis=1) > _VIVID).mean() > 2e-4)
