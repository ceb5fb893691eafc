"""A job ticket: what was delivered, for whom it is printed, in plain text. Knows the book; writes nothing."""

import hashlib
from collections.abc import Sequence
from pathlib import Path

from drip_pot.book import Book
from drip_pot.book.own_inks import spots_on
from drip_pot.book.values import PRESS


def ticket(book: Book, pages: Sequence[int], files: Sequence[Path]) -> str:
    """Return a job ticket of some pages and the files written of them."""
    lines = [f"Title: {book.info.title}", f"Pages: {len(pages)}", ""]
    for number in pages:
        sources = book.sources(number)
        page, press = sources.page, sources[PRESS]
        wide, high = (n / page.dpi * 25.4 for n in (page.cols, page.rows))
        trim = f"{page.trim_mm[0]:g} × {page.trim_mm[1]:g} mm" if page.trim_mm else "the whole page"
        inks = ", ".join(["cyan", "magenta", "yellow", "black", *(spot.name for spot in spots_on(book, sources))])
        lines += [
            f"Page {number}: {page.name}",
            f"  Size: {page.cols} × {page.rows} px, {page.dpi:g} dpi, {wide:.1f} × {high:.1f} mm",
            f"  Trim: {trim}; bleed {page.bleed_mm:g} mm",
            f"  Press: {press.press.title} ({press.press.source})",
            f"  Ink limit: {press.ink_limit} %",
            f"  Traps: {press.trap_mm:g} mm, for plates that stray by up to {press.tolerance_mm:g} mm",
            f"  Inks: {inks}; black line overprints",
            "",
        ]
    lines.append("Files:")
    lines += [f"  {path.name}  {path.stat().st_size} bytes  sha256 {_sum(path)}" for path in files]
    return "\n".join(lines) + "\n"


def _sum(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
