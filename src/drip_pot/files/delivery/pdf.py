# SPDX-License-Identifier: GPL-3.0-or-later
"""A page as a PDF for a press: colour as an image in four inks, the black line as a mask that overprints it.

Shaped after ISO 15930-7 (PDF/X-4): output intent with the profile of the press, trim and bleed, traps declared, marks.
Knows what a page is painted from, and pikepdf, which is read when the first page is written.
"""

from __future__ import annotations

import zlib
from pathlib import Path
from typing import TYPE_CHECKING

import cv2
import numpy as np

from drip_pot.book.own_inks import Spot
from drip_pot.book.tables import inks_for
from drip_pot.book.values import PRESS, Page
from drip_pot.core.color import from_hex
from drip_pot.core.strips import each_strip, strips
from drip_pot.files.delivery.kinds import Delivered, kind
from drip_pot.files.delivery.plates import profile_of

if TYPE_CHECKING:
    import pikepdf

_POINT_MM, _MARGIN_MM, _MARK_MM = 25.4 / 72, 12.0, 5.0
_LINE_DPI, _STRIP, _HALO = 1200, 256, 4
_PATCHES = ("1 0 0 0", "0 1 0 0", "0 0 1 0", "0 0 0 1", ".5 .4 .4 0", "0 0 0 .5", "1 1 0 0", "0 1 1 0", "1 0 1 0")

Box = tuple[float, float, float, float]
"""Left, bottom, right, top in points."""


@kind("pdf", "PDF for the press", ".pdf", traps=True, place=60)
def write_pdf(path: Path, page: Delivered, part: int = 0) -> None:
    """Write a page as a PDF of its own."""
    import pikepdf

    with pikepdf.new() as pdf:
        add_page(pdf, page)
        finish(pdf, page.sources.page.name, page)
        save(pdf, path)


def save(pdf: pikepdf.Pdf, path: Path) -> None:
    """Write a PDF of version 1.6."""
    import pikepdf

    pdf.save(path, force_version="1.6", object_stream_mode=pikepdf.ObjectStreamMode.generate)


def add_page(pdf: pikepdf.Pdf, page: Delivered) -> None:
    """Add a page with its colour, its line, its boxes and the printer's marks."""
    from pikepdf import Array, Dictionary, Name

    art, trim, bleed, media = boxes(page.sources.page)
    sheet = pdf.add_blank_page(page_size=(media[2], media[3]))
    sheet.obj.TrimBox, sheet.obj.BleedBox = Array(list(trim)), Array(list(bleed))
    everything = Array([Name.Separation, Name.All, Name.DeviceCMYK, Dictionary(
        FunctionType=2, Domain=[0, 1], C0=[0, 0, 0, 0], C1=[1, 1, 1, 1], N=1)])  # fmt: skip
    spots = page.ready.tables.spots
    pictures = Dictionary(Colour=_image(pdf, page), Line=_mask(pdf, page))
    for place_, spot in enumerate(spots):
        pictures[f"/Spot{place_}"] = _spot(pdf, page, place_, spot)
    sheet.obj.Resources = Dictionary(
        XObject=pictures,
        ExtGState=Dictionary(Over=Dictionary(Type=Name.ExtGState, OP=True, op=True, OPM=1)),
        ColorSpace=Dictionary(All=everything),
    )
    place = f"{art[2] - art[0]:.4f} 0 0 {art[3] - art[1]:.4f} {art[0]:.4f} {art[1]:.4f} cm"
    beside = "".join(f"q /Over gs {place} /Spot{k} Do Q " for k in range(len(spots)))
    drawn = f"q {place} /Colour Do Q {beside}q /Over gs 0 0 0 1 k {place} /Line Do Q {_marks(trim, bleed, media)}"
    sheet.obj.Contents = pdf.make_stream(drawn.encode("ascii"))


def finish(pdf: pikepdf.Pdf, title: str, page: Delivered) -> None:
    """Say what the PDF is for: output intent, traps, title."""
    from pikepdf import Array, Dictionary, Name

    press = page.sources[PRESS]
    profile = pdf.make_stream(profile_of(press))
    told = f"{press.press.title}, ink limit {press.ink_limit} %"
    profile.N, profile.Alternate = 4, Name.DeviceCMYK
    pdf.Root.OutputIntents = Array([Dictionary(
        Type=Name.OutputIntent, S=Name.GTS_PDFX, OutputConditionIdentifier="Custom", Info=press.press.source,
        OutputCondition=told, DestOutputProfile=pdf.make_indirect(profile),
    )])  # fmt: skip
    pdf.docinfo[Name.Title], pdf.docinfo[Name.Trapped] = title, Name("/True")
    pdf.docinfo[Name.Creator] = "Drip Pot"
    with pdf.open_metadata() as known:
        known["dc:title"] = title
        known["xmp:CreatorTool"] = "Drip Pot"
        known["pdf:Trapped"] = "True"
        known["pdfxid:GTS_PDFXVersion"] = "PDF/X-4"


def boxes(page: Page) -> tuple[Box, Box, Box, Box]:
    """Return where art, trim, bleed and sheet lie; the art is as large as the page, with room for marks around."""
    scale, margin = 72 / page.dpi, _MARGIN_MM / _POINT_MM
    wide, high = page.cols * scale, page.rows * scale
    art = margin, margin, margin + wide, margin + high
    media = 0.0, 0.0, wide + 2 * margin, high + 2 * margin
    if page.trim_mm is None:
        return art, art, art, media
    left = media[2] / 2 - page.trim_mm[0] / _POINT_MM / 2
    low = media[3] / 2 - page.trim_mm[1] / _POINT_MM / 2
    trim = left, low, media[2] - left, media[3] - low
    grow = page.bleed_mm / _POINT_MM
    bleed = (max(trim[0] - grow, art[0]), max(trim[1] - grow, art[1]), min(trim[2] + grow, art[2]),
             min(trim[3] + grow, art[3]))  # fmt: skip
    return art, trim, bleed, media


def _image(pdf: pikepdf.Pdf, page: Delivered) -> pikepdf.Stream:
    import pikepdf
    from pikepdf import Dictionary, Name

    rows, cols = page.ready.shown.labels.shape
    packer, data = zlib.compressobj(6), bytearray()
    for inks in each_strip(lambda strip: page.plates(strip.rows, line_apart=True), rows, height=_STRIP):
        data += packer.compress(np.ascontiguousarray(inks[..., :4]).tobytes())
    data += packer.flush()
    image = pikepdf.Stream(pdf, bytes(data))
    image.stream_dict = Dictionary(
        Type=Name.XObject, Subtype=Name.Image, Width=cols, Height=rows, BitsPerComponent=8, ColorSpace=Name.DeviceCMYK,
        Filter=Name.FlateDecode,
    )  # fmt: skip
    return pdf.make_indirect(image)


def _spot(pdf: pikepdf.Pdf, page: Delivered, place: int, spot: Spot) -> pikepdf.Stream:
    """Return the plate of an ink beside the four; it is laid over the others, which show through where it is clear."""
    import pikepdf
    from pikepdf import Array, Dictionary, Name

    rows, cols = page.ready.shown.labels.shape
    packer, data = zlib.compressobj(6), bytearray()
    for inks in each_strip(lambda strip: page.plates(strip.rows, line_apart=True), rows, height=_STRIP):
        data += packer.compress(np.ascontiguousarray(inks[..., 4 + place]).tobytes())
    data += packer.flush()
    solid = [v / 255 for v in inks_for(tuple(from_hex(spot.color).tolist()), page.sources[PRESS])[0]]
    tint = Dictionary(FunctionType=2, Domain=[0, 1], C0=[0, 0, 0, 0], C1=solid, N=1)
    image = pikepdf.Stream(pdf, bytes(data))
    image.stream_dict = Dictionary(
        Type=Name.XObject, Subtype=Name.Image, Width=cols, Height=rows, BitsPerComponent=8,
        ColorSpace=Array([Name.Separation, Name(f"/{spot.name}"), Name.DeviceCMYK, tint]), Filter=Name.FlateDecode,
    )  # fmt: skip
    return pdf.make_indirect(image)


def _mask(pdf: pikepdf.Pdf, page: Delivered) -> pikepdf.Stream:
    """Return the black line as a mask of 600 to 1200 dots an inch, drawn anew from its coverage."""
    import pikepdf
    from pikepdf import Dictionary, Name

    rows, cols = page.ready.shown.labels.shape
    factor = max(1, int(_LINE_DPI / page.sources.page.dpi))
    packer, data = zlib.compressobj(6), bytearray()
    for strip in strips(rows, _HALO, _STRIP):
        ink = page.ready.black_line(strip.around)
        wide = cv2.resize(ink, None, fx=factor, fy=factor, interpolation=cv2.INTER_CUBIC) if factor > 1 else ink
        kept = wide[strip.inside.start * factor : strip.inside.stop * factor] >= 128
        data += packer.compress(np.packbits(kept, axis=1).tobytes())
    data += packer.flush()
    mask = pikepdf.Stream(pdf, bytes(data))
    mask.stream_dict = Dictionary(
        Type=Name.XObject, Subtype=Name.Image, Width=cols * factor, Height=rows * factor, BitsPerComponent=1,
        ImageMask=True, Decode=[1, 0], Filter=Name.FlateDecode,
    )  # fmt: skip
    return pdf.make_indirect(mask)


def _marks(trim: Box, bleed: Box, media: Box) -> str:
    """Draw crop and register marks in all plates, and patches of ink, beside the art."""
    long, gap = _MARK_MM / _POINT_MM, 1.0 / _POINT_MM
    lines = []
    for x in (trim[0], trim[2]):
        lines += [(x, bleed[1] - gap, x, bleed[1] - gap - long), (x, bleed[3] + gap, x, bleed[3] + gap + long)]
    for y in (trim[1], trim[3]):
        lines += [(bleed[0] - gap, y, bleed[0] - gap - long, y), (bleed[2] + gap, y, bleed[2] + gap + long, y)]
    middle, size = _MARGIN_MM / _POINT_MM / 2, 1.8 / _POINT_MM
    spots = [
        (media[2] / 2, middle),
        (media[2] / 2, media[3] - middle),
        (middle, media[3] / 2),
        (media[2] - middle, media[3] / 2),
    ]
    drawn = ["q /All CS 1 SCN 0.25 w"]
    drawn += [f"{a:.3f} {b:.3f} m {c:.3f} {d:.3f} l S" for a, b, c, d in lines]
    for x, y in spots:
        drawn.append(
            f"{x - size:.3f} {y:.3f} m {x + size:.3f} {y:.3f} l S {x:.3f} {y - size:.3f} m {x:.3f} {y + size:.3f} l S"
        )
        drawn.append(f"{x - size / 2:.3f} {y - size / 2:.3f} {size:.3f} {size:.3f} re S")
    patch, start = 4.0 / _POINT_MM, 20.0 / _POINT_MM
    for k, inks in enumerate(_PATCHES):
        drawn.append(f"{inks} k {start + k * patch:.3f} {middle - patch / 2:.3f} {patch:.3f} {patch:.3f} re f")
    return " ".join([*drawn, "Q"])
