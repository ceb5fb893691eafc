# SPDX-License-Identifier: GPL-3.0-or-later
"""A page as a PDF for a press: colour as an image in four inks, the black line as a mask that overprints it.

Shaped after ISO 15930-7 (PDF/X-4): output intent with the profile of the press, trim and bleed, traps declared, marks.
Knows what a page is painted from, and pikepdf, which is read when the first page is written.
"""

from __future__ import annotations

from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING
from uuid import uuid4

import numpy as np

from drip_pot import __version__
from drip_pot.book.tables import inks_for
from drip_pot.book.values import PRESS, Page
from drip_pot.core.color import from_hex
from drip_pot.core.press import is_heavy, under_dots
from drip_pot.core.strips import Strip, each_strip
from drip_pot.files.delivery.flate import Flate, Packed, pack
from drip_pot.files.delivery.kinds import Delivered, kind
from drip_pot.files.delivery.mask import HALO, PRINTS, dots, fineness, has_dots
from drip_pot.files.delivery.plates import profile_of

if TYPE_CHECKING:
    import pikepdf

_POINT_MM, _MARGIN_MM, _MARK_MM = 25.4 / 72, 12.0, 5.0
_STRIP = 256
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
    color, line = _pictures(pdf, page)
    sheet.obj.Resources = Dictionary(
        XObject=Dictionary(Colour=color, Line=line),
        ExtGState=Dictionary(Over=Dictionary(Type=Name.ExtGState, OP=True, op=True, OPM=1)),
        ColorSpace=Dictionary(All=everything),
    )
    place = f"{art[2] - art[0]:.4f} 0 0 {art[3] - art[1]:.4f} {art[0]:.4f} {art[1]:.4f} cm"
    drawn = f"q {place} /Colour Do Q q /Over gs 0 0 0 1 k {place} /Line Do Q {_marks(trim, bleed, media)}"
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
    trapped, now = page.trap is not None and bool(page.trap.any()), datetime.now(UTC).replace(microsecond=0)
    pdf.docinfo[Name.Title], pdf.docinfo[Name.Trapped] = title, Name("/True" if trapped else "/False")
    pdf.docinfo[Name.Creator] = pdf.docinfo[Name.Producer] = f"Drip Pot {__version__}"
    pdf.docinfo[Name.CreationDate] = pdf.docinfo[Name.ModDate] = now.strftime("D:%Y%m%d%H%M%SZ")
    with pdf.open_metadata(set_pikepdf_as_editor=False) as known:
        known["dc:title"] = title
        known["xmp:CreatorTool"] = known["pdf:Producer"] = f"Drip Pot {__version__}"
        known["xmp:CreateDate"] = known["xmp:ModifyDate"] = known["xmp:MetadataDate"] = now.isoformat()
        known["xmpMM:DocumentID"], known["xmpMM:VersionID"] = f"uuid:{uuid4()}", "1"
        known["xmpMM:RenditionClass"] = "default"
        known["pdf:Trapped"] = "True" if trapped else "False"
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


def _pictures(pdf: pikepdf.Pdf, page: Delivered) -> tuple[pikepdf.Stream, pikepdf.Stream]:
    """Return a page's colour, all inks in one image, and its black line as a mask of 600 to 1200 dots an inch.

    The line is drawn anew from its coverage. Where the colour leaves no room for a solid of black within the limit, a
    pixel of it has dots of line all over or none, so that nothing is above the limit and no light rim shows beside.
    """
    rows, cols = page.ready.shown.labels.shape
    factor = fineness(page.sources.page.dpi)
    limit = page.ready.tables.plates.limit

    def both(strip: Strip) -> tuple[Packed, Packed]:
        ink = page.ready.black_line(strip.around)
        fine = dots(ink, strip, factor)
        inks = page.plates(strip.rows, line_apart=True)
        blocks = fine.reshape(inks.shape[0], factor, cols, factor)
        printed = has_dots(fine, factor)
        heavy = is_heavy(inks, limit) & printed
        if factor > 1 and heavy.any():
            whole = ink[strip.inside] >= PRINTS
            blocks[:] = np.where(heavy[:, None, :, None], whole[:, None, :, None], blocks)
            printed = np.asarray(np.where(heavy, whole, printed))
        lowered = under_dots(inks, printed, limit)
        return pack(np.ascontiguousarray(lowered).tobytes()), pack(np.packbits(fine, axis=1).tobytes())

    color, line = Flate(), Flate()
    for inked, dotted in each_strip(both, rows, HALO, _STRIP):
        color.add(inked)
        line.add(dotted)
    return _image(pdf, page, color.whole()), _mask(pdf, line.whole(), rows * factor, cols * factor)


def _image(pdf: pikepdf.Pdf, page: Delivered, data: bytes) -> pikepdf.Stream:
    import pikepdf
    from pikepdf import Dictionary, Name

    rows, cols = page.ready.shown.labels.shape
    image = pikepdf.Stream(pdf, data)
    image.stream_dict = Dictionary(
        Type=Name.XObject, Subtype=Name.Image, Width=cols, Height=rows, BitsPerComponent=8,
        ColorSpace=_inks(pdf, page), Filter=Name.FlateDecode,
    )  # fmt: skip
    return pdf.make_indirect(image)


def _inks(pdf: pikepdf.Pdf, page: Delivered) -> pikepdf.Object:
    """Return the colour space of a page: four inks, or with further ones, which are shown by mixtures of the four."""
    from pikepdf import Array, Dictionary, Name

    spots = page.ready.tables.spots
    if not spots:
        return Name.DeviceCMYK
    solids = [[v / 255 for v in inks_for(tuple(from_hex(s.color).tolist()), page.sources[PRESS])[0]] for s in spots]
    names = [Name(f"/{spot.name}") for spot in spots]
    alone = {f"/{spot.name}": Array([Name.Separation, name, Name.DeviceCMYK, Dictionary(
        FunctionType=2, Domain=[0, 1], C0=[0, 0, 0, 0], C1=solid, N=1)])
        for spot, name, solid in zip(spots, names, solids, strict=True)}  # fmt: skip
    tint = pdf.make_stream(_tint(solids).encode("ascii"))
    tint.FunctionType, tint.Domain, tint.Range = 4, [0, 1] * (4 + len(spots)), [0, 1] * 4
    four = [Name.Cyan, Name.Magenta, Name.Yellow, Name.Black]
    return Array([Name.DeviceN, Array([*four, *names]), Name.DeviceCMYK, pdf.make_indirect(tint),
                  Dictionary(Subtype=Name.DeviceN, Colorants=Dictionary(alone))])  # fmt: skip


def _tint(solids: list[list[float]]) -> str:
    """Write how inks are shown by four: each further one takes as much light from a plate's paper as its solid does."""
    count, told = 4 + len(solids), []
    for plate in range(4):
        told.append(f"{count - 1} index 1 exch sub")  # what was pushed for the plates before keeps the distance
        for place, solid in enumerate(solids):
            told.append(f"{count - 4 - place + plate} index {solid[plate]:.4f} mul 1 exch sub mul")
        told.append("1 exch sub")
    return "{ " + " ".join([*told, f"{count + 4} 4 roll", *["pop"] * count]) + " }"


def _mask(pdf: pikepdf.Pdf, data: bytes, rows: int, cols: int) -> pikepdf.Stream:
    import pikepdf
    from pikepdf import Dictionary, Name

    mask = pikepdf.Stream(pdf, data)
    mask.stream_dict = Dictionary(
        Type=Name.XObject, Subtype=Name.Image, Width=cols, Height=rows, BitsPerComponent=1,
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
