"""Scans and digital line art, read into grey. Knows image files only; the original bytes are never changed."""

import io
from dataclasses import dataclass, field
from pathlib import Path

import cv2
import numpy as np
import tifffile
from PIL import Image, ImageOps, UnidentifiedImageError

from drip_pot.core.arrays import U8
from drip_pot.core.errors import BadInput, Unreadable

LARGEST_PX = 30_000
_SUFFIXES = {
    "PNG": {".png"}, "JPEG": {".jpg", ".jpeg", ".jpe"}, "TIFF": {".tif", ".tiff"}, "WEBP": {".webp"}, "BMP": {".bmp"},
}  # fmt: skip
Image.MAX_IMAGE_PIXELS = None


@dataclass(frozen=True)
class Scan:
    """A drawing as it was read.

    Attributes
    ----------
    gray : (M, N) ndarray of uint8
        0 black, 255 white; transparent pixels lie on white.
    dpi : float
        From the file, or 300 where it says nothing usable.
    notes : list of str
        Sentences a person should see: what was taken for granted.
    """

    gray: U8
    dpi: float
    notes: list[str] = field(default_factory=list)


def read_image(path: Path) -> tuple[bytes, Scan]:
    """Read an image file.

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
        If it is larger than 30 000 pixels to a side.
    """
    try:
        data = path.read_bytes()
    except OSError as error:
        raise Unreadable(f"{path.name} cannot be opened: {error.strerror}.") from error
    return data, decode(data, path.name)


def decode(data: bytes, name: str) -> Scan:
    """Decode the bytes of a PNG, TIFF, JPEG, WebP or BMP file; errors are those of `read_image`."""
    if not data:
        raise Unreadable(f"{name} is empty (0 bytes). Scan or export it again.")
    try:
        with Image.open(io.BytesIO(data)) as image:
            if image.format not in _SUFFIXES:
                raise Unreadable(f"{name} is a {image.format} file. Open PNG, TIFF, JPEG, WebP or BMP.")
            _check_size(image.size, name)
            notes = _notes(image, name)
            dpi = _dpi(image, notes, name)
            gray = _tiff(data) if image.format == "TIFF" and image.mode not in ("1", "P", "CMYK") else None
            return Scan(gray if gray is not None else _gray(image), dpi, notes)
    except UnidentifiedImageError as error:
        raise Unreadable(
            f"{name} is not a picture this program can read. Open PNG, TIFF, JPEG, WebP or BMP."
        ) from error
    except MemoryError as error:
        raise BadInput(f"{name} is too large for this machine's memory. Open it at a lower resolution.") from error
    except (OSError, ValueError, SyntaxError, EOFError, tifffile.TiffFileError) as error:
        raise Unreadable(f"{name} is damaged or cut short. Scan or export it again.") from error


def _check_size(size: tuple[int, int], name: str) -> None:
    if max(size) > LARGEST_PX:
        raise BadInput(
            f"{name} is {size[0]} × {size[1]} px. Pages go up to {LARGEST_PX} px a side; scan at a lower resolution."
        )
    if min(size) < 1:
        raise Unreadable(f"{name} has no pixels ({size[0]} × {size[1]}).")


def _notes(image: Image.Image, name: str) -> list[str]:
    notes = []
    suffix = Path(name).suffix.lower()
    if suffix and suffix not in _SUFFIXES[image.format or ""]:
        notes.append(f"{name} is named {suffix} but is a {image.format} file; it was read as that.")
    if getattr(image, "n_frames", 1) > 1:
        notes.append(f"{name} holds {getattr(image, 'n_frames', 1)} pictures; the first was taken.")
    if image.mode == "CMYK":
        notes.append(f"{name} is in CMYK; its lightness was taken.")
    return notes


def _dpi(image: Image.Image, notes: list[str], name: str) -> float:
    found = image.info.get("dpi", (0, 0))
    try:
        dpi = float(found[0])
    except (TypeError, IndexError, ZeroDivisionError, ValueError):
        dpi = 0.0
    if 30 <= dpi <= 4800:
        whole = round(dpi)  # PNG counts pixels per metre, so 450 comes as 450.01
        return float(whole) if abs(dpi - whole) < 0.03 else round(dpi, 2)
    notes.append(f"{name} does not say its resolution; 300 dpi was taken.")
    return 300.0


def _tiff(data: bytes) -> U8 | None:
    """Grey of a TIFF's first page, for the depths and layouts Pillow does not know; None to leave it to Pillow."""
    with tifffile.TiffFile(io.BytesIO(data)) as file:
        page = file.pages[0]
        if page.dtype not in (np.uint8, np.uint16) or page.photometric not in (0, 1, 2):
            return None
        pixels = page.asarray()
        inverted = page.photometric == 0
    if pixels.dtype == np.uint16:
        pixels = (pixels >> 8).astype(np.uint8)
    if pixels.ndim == 3 and pixels.shape[0] in (3, 4) and pixels.shape[2] not in (3, 4):
        pixels = np.moveaxis(pixels, 0, -1)
    if pixels.ndim == 2:
        return np.ascontiguousarray(255 - pixels if inverted else pixels)
    if pixels.ndim == 3 and pixels.shape[2] in (3, 4):
        return _on_white(np.ascontiguousarray(pixels))
    return None


def _gray(image: Image.Image) -> U8:
    image.seek(0)
    if image.mode.startswith("I;16"):
        return np.ascontiguousarray((np.asarray(image) >> 8).astype(np.uint8))
    if image.mode in ("I", "F"):
        pixels = np.asarray(image).astype(np.float32)
        most = 65535.0 if image.mode == "I" else max(1.0, float(pixels.max()))
        return np.asarray(np.clip(pixels / most * 255, 0, 255).astype(np.uint8), np.uint8)
    image = ImageOps.exif_transpose(image)
    if image.mode == "CMYK":
        inks = 255 - np.asarray(image).astype(np.uint16)
        rgb = (inks[..., :3] * inks[..., 3:] // 255).astype(np.uint8)
        return np.asarray(cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY), np.uint8)
    if image.mode in ("1", "L"):
        return np.array(image.convert("L"))
    if image.has_transparency_data:
        return _on_white(np.array(image.convert("RGBA")))
    return np.asarray(cv2.cvtColor(np.array(image.convert("RGB")), cv2.COLOR_RGB2GRAY), np.uint8)


def _on_white(pixels: U8) -> U8:
    gray = cv2.cvtColor(np.ascontiguousarray(pixels[..., :3]), cv2.COLOR_RGB2GRAY)
    if pixels.shape[2] == 3:
        return np.asarray(gray, np.uint8)
    alpha = np.ascontiguousarray(pixels[..., 3])
    dark = cv2.multiply(cv2.bitwise_not(gray), alpha, scale=1 / 255)
    return np.asarray(cv2.bitwise_not(dark), np.uint8)
