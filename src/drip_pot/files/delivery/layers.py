# SPDX-License-Identifier: GPL-3.0-or-later
"""A page as OpenRaster: a layer for paper, each part, pass and kind of line. Knows what a page is painted from.

Laid over each other as the standard says they give the page as it is seen. Passes that only correct what lies below
have no layer of their own in that standard; they become what they make of it.
"""

import io
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from xml.etree import ElementTree

import cv2
import numpy as np
from PIL import Image

from drip_pot.book.derive.painted import DRAWN
from drip_pot.book.values import PASSES
from drip_pot.core.arrays import U8
from drip_pot.core.render import (
    EffectSource,
    PaintedColors,
    PictureSource,
    Ramp,
    Wash,
    alpha_of,
    compose,
    drawn_at,
    take_colors,
)
from drip_pot.files.delivery.kinds import Delivered, kind
from drip_pot.files.openraster import OPERATIONS

_THUMB = 256
_NOT_OPENRASTER = ("plus-darker", "linear-light")


@dataclass(frozen=True)
class Layer:
    """A layer: its name, its pixels, (M, N, 4) uint8, its standard mode, and the stack it lies in, if any."""

    name: str
    pixels: U8
    mode: str = "src-over"
    group: str = ""


@kind("layers", "OpenRaster with layers", ".ora", place=25)
def write_layers(path: Path, page: Delivered, part: int = 0) -> None:
    """Write the page in layers, from the paper up, and as it is seen."""
    rows, cols = page.ready.shown.labels.shape
    image = ElementTree.Element("image", w=str(cols), h=str(rows), version="0.0.3",
                                xres=f"{page.sources.page.dpi:.0f}", yres=f"{page.sources.page.dpi:.0f}")  # fmt: skip
    stack = ElementTree.SubElement(image, "stack")
    groups: dict[str, ElementTree.Element] = {}
    with zipfile.ZipFile(path, "w", zipfile.ZIP_STORED) as archive:
        archive.writestr("mimetype", "image/openraster")
        for place, layer in enumerate(layers_of(page)):
            name = f"data/{place:02d}.png"
            archive.writestr(name, _png(layer.pixels))
            entry = ElementTree.Element("layer", name=layer.name, src=name, x="0", y="0", opacity="1.0",
                                        visibility="visible")  # fmt: skip
            entry.set("composite-op", f"svg:{layer.mode}")
            if layer.group and layer.group not in groups:
                groups[layer.group] = ElementTree.Element("stack", name=layer.group)
                stack.insert(0, groups[layer.group])
            groups.get(layer.group, stack).insert(0, entry)
        seen = page.ready.screen()
        archive.writestr("mergedimage.png", _png(seen))
        scale = min(1.0, _THUMB / max(rows, cols))
        size = max(1, round(cols * scale)), max(1, round(rows * scale))
        small = np.asarray(cv2.resize(seen, size, interpolation=cv2.INTER_AREA), np.uint8)
        archive.writestr("Thumbnails/thumbnail.png", _png(small))
        archive.writestr("stack.xml", ElementTree.tostring(image, encoding="utf-8", xml_declaration=True))


def _png(pixels: U8) -> bytes:
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG", compress_level=3)
    return out.getvalue()


def layers_of(page: Delivered) -> Iterator[Layer]:
    """Yield the layers from the lowest up, each a (M, N, 4) picture."""
    ready = page.ready
    piece, tables = ready.piece(), ready.tables
    flat = take_colors(piece.labels, None, tables.screen.flat)
    white = np.full_like(flat, 255)
    yield Layer("Paper", white)
    for name, atoms in page.parts:
        mine = np.zeros(len(tables.is_poured), bool)
        mine[[a for a in atoms if a < len(mine)]] = True
        shown = np.take(mine, piece.labels, mode="clip")
        if shown.any():
            yield Layer(name, _masked(flat, np.where(shown, 255, 0).astype(np.uint8)), group="Flats")
    names = [one.name for one in page.sources[PASSES].values()]
    for place, wash in enumerate(tables.stack):
        alpha = alpha_of(wash, piece.covers[place] if place < len(piece.covers) else None, piece.labels)
        if alpha is not None:
            yield _layer_of(names[place], wash, alpha, page, place)
    if piece.ink.any():
        yield from _lines(page)


def _lines(page: Delivered) -> Iterator[Layer]:
    """Yield the line by what it is; no two of these layers cover one pixel."""
    line = page.ready.line()
    kinds = np.zeros(line.shape[:2], np.uint8) if page.drawn is None else page.drawn()
    for number, name in enumerate(DRAWN):
        alpha = np.where(kinds == number, line[..., 3], 0).astype(np.uint8)
        if alpha.any():
            yield Layer(name, _masked(line, alpha))


def _layer_of(name: str, wash: Wash, alpha: U8, page: Delivered, place: int) -> Layer:
    ready = page.ready
    piece, colors = ready.piece(), ready.tables.screen
    if wash.tone:
        half = np.int32(len(colors.flat) // 2)
        return Layer(name, _masked(take_colors(piece.labels + half, None, colors.flat), alpha))
    if wash.mode in _NOT_OPENRASTER:
        return _result(name, alpha, page, place)
    if isinstance(wash.source, (Ramp, PictureSource, EffectSource)):
        color, share = drawn_at(wash.source, piece)
        cover = np.asarray(cv2.multiply(alpha, share, scale=1 / 255), np.uint8)
        return Layer(name, np.dstack([color, cover]), _op(wash.mode))
    if isinstance(wash.source, PaintedColors):
        painted = wash.source.at(0, 0, (alpha.shape[0], alpha.shape[1]))
        return Layer(name, np.dstack([painted, alpha]), _op(wash.mode))
    if wash.source is None:
        solid = np.empty((*alpha.shape, 4), np.uint8)
        solid[..., :3] = wash.color
        return Layer(name, _masked(solid, alpha), _op(wash.mode))
    return _result(name, alpha, page, place)


def _result(name: str, alpha: U8, page: Delivered, place: int) -> Layer:
    """Return what comes of all passes up to one, where that covers: the form has no word for what it does."""
    ready = page.ready
    so_far = compose(ready.piece(), list(ready.tables.stack[: place + 1]), ready.tables.screen, lines=False)
    return Layer(name, _masked(so_far, np.where(alpha > 0, 255, 0).astype(np.uint8)))


def _op(mode: str) -> str:
    return OPERATIONS.get(mode, mode)


def _masked(pixels: U8, alpha: U8) -> U8:
    out = pixels.copy()
    out[..., 3] = alpha
    out[alpha == 0] = 0
    return out
