# SPDX-License-Identifier: GPL-3.0-or-later
"""A job ticket: what was delivered, for whom it is printed, in plain text. Knows the book; writes nothing."""

import hashlib
from collections.abc import Sequence
from pathlib import Path

from drip_pot.book import Book
from drip_pot.book.own_inks import spots_on
from drip_pot.book.values import PRESS
from drip_pot.files.delivery.cut import CutTo
from drip_pot.words import tr


def ticket(book: Book, pages: Sequence[int], files: Sequence[Path], cut: CutTo = "page") -> str:
    """Return a job ticket of some pages and the files written of them, whose pictures are cut to something."""
    lines = [f"Title: {book.info.title}", f"Pages: {len(pages)}", ""]
    places = list(book.pages())
    for number in pages:
        sources = book.sources(number)
        page, press = sources.page, sources[PRESS]
        wide, high = (n / page.dpi * 25.4 for n in (page.cols, page.rows))
        trim = tr("{0:g} × {1:g} mm", page.trim_mm[0], page.trim_mm[1]) if page.trim_mm else "the whole page"
        inks = ", ".join(["cyan", "magenta", "yellow", "black", *(spot.name for spot in spots_on(book, sources))])
        lines += [
            tr("Page {0}: {1}", places.index(number) + 1, page.name),
            tr("  Size: {0} × {1} px, {2:g} dpi, {3:.1f} × {4:.1f} mm", page.cols, page.rows, page.dpi, wide, high),
            tr("  Trim: {0}; bleed {1:g} mm", trim, page.bleed_mm),
            f"  Press: {press.press.title} ({press.press.source})",
            tr("  Ink limit: {0} %", press.ink_limit),
            tr("  Traps: {0:g} mm, for plates that stray by up to {1:g} mm", press.trap_mm, press.tolerance_mm),
            tr("  Inks: {0}; black line overprints", inks),
            "",
        ]
    if cut != "page":
        lines += [tr("Pictures, plates and line are cut to the {0}.", tr(cut)), ""]
    lines.append("Files:")
    lines += [tr("  {0}  {1} bytes  sha256 {2}", path.name, path.stat().st_size, _sum(path)) for path in files]
    return "\n".join(lines) + "\n"


def _sum(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
