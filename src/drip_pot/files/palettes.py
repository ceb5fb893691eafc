# SPDX-License-Identifier: GPL-3.0-or-later
"""Palettes as plain text, CSV and JSON. Knows the book; nothing of the window.

Text has a colour and its name on each line, '#d9482b Ember'; CSV has the columns name, part, local, shadow; JSON is a
list of objects with the same keys. What cannot be read is told by line and left out.
"""

import csv
import io
import json
import re
from pathlib import Path

import msgspec

from drip_pot.book import Book
from drip_pot.book.values import HouseColor
from drip_pot.core.color import from_hex, to_hex
from drip_pot.core.errors import BadInput, Unreadable
from drip_pot.files.images import read_file
from drip_pot.files.outputs import in_place
from drip_pot.words import tr

PALETTE_SUFFIXES = (".txt", ".csv", ".json")
_HEADS = {
    "local": ("local", "color", "colour", "hex", "rgb", "value"), "name": ("name", "pot", "title", "label"),
    "part": ("part", "group", "folder"), "shadow": ("shadow",),
}  # fmt: skip
"""Columns, and what is written over them."""
_MOST = 2000
_LONGEST = 400
_LINE = re.compile(r"^\s*(#[0-9a-fA-F]{6})\b[\s,;:=-]*(.*)$|^\s*(.*?)[\s,;:=-]+(#[0-9a-fA-F]{6})\s*$")


class Ink(msgspec.Struct, frozen=True):
    """A colour of a palette: its name and '#rrggbb'; part and shadow where the file says them."""

    name: str
    local: str
    part: str = ""
    shadow: str | None = None


def read_palette(path: Path) -> tuple[list[Ink], list[str]]:
    """Read a palette file; return its colours, and a sentence for each line that was left out.

    Raises
    ------
    Unreadable
        If the file cannot be read, or has no colour in it.
    """
    try:
        text = read_file(path).decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise Unreadable("{0} is not text. A palette is a .txt, .csv or .json file.", path.name) from error
    if path.suffix.lower() == ".json":
        rows = _from_json(text, path.name)
    elif path.suffix.lower() == ".csv":
        rows = _from_csv(text)
    else:
        rows = _from_text(text)
    inks: list[Ink] = []
    problems: list[str] = []
    for place, row in rows:
        try:
            shadow = to_hex(from_hex(row["shadow"])) if row.get("shadow") else None
            color = to_hex(from_hex(row.get("local", "")))
        except BadInput as error:
            problems.append(tr("Line {0}: {1}", place, error))
            continue
        inks.append(Ink(row.get("name", "").strip()[:80] or color, color, row.get("part", "").strip()[:80], shadow))
    if not inks:
        more = f" {problems[0]}" if problems else ""
        raise Unreadable("{0} has no colour in it.{1} Write one on each line, such as #d9482b Ember.", path.name, more)
    if len(inks) > _MOST:
        problems.append(tr("Only the first {0} colours were taken.", _MOST))
    return inks[:_MOST], problems


def house_colors(path: Path) -> tuple[list[HouseColor], list[str]]:
    """Read a palette file as the colours of a house; see `read_palette`."""
    inks, problems = read_palette(path)
    return [HouseColor(ink.name, ink.local, ink.part, ink.shadow) for ink in inks], problems


def _from_text(text: str) -> list[tuple[int, dict[str, str]]]:
    rows = []
    for place, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        found = _LINE.match(" ".join(line[:_LONGEST].split()))
        if found is None:
            rows.append((place, {"local": line.strip()[:40]}))
        else:
            rows.append((place, {"local": found[1] or found[4], "name": (found[2] or found[3] or "").strip()}))
    return rows


def _from_csv(text: str) -> list[tuple[int, dict[str, str]]]:
    reader = csv.reader(io.StringIO(text))
    rows: list[tuple[int, dict[str, str]]] = []
    columns = ["name", "part", "local", "shadow"]
    try:
        for place, cells in enumerate(reader, 1):
            heads = [_column(cell) for cell in cells]
            if place == 1 and "local" in heads:
                columns = heads
            elif any(c.strip() for c in cells):
                rows.append((place, dict(zip(columns, cells, strict=False))))
    except csv.Error as error:
        rows.append((reader.line_num, {"local": str(error)}))
    return rows


def _column(head: str) -> str:
    """Return what a column holds, by what other programs write over it."""
    word = head.strip().lower().lstrip("#")
    return next((ours for ours, known in _HEADS.items() if word in known), word)


def _from_json(text: str, name: str) -> list[tuple[int, dict[str, str]]]:
    try:
        found = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise Unreadable("{0} is not JSON. It should be a list of objects with name and local.", name) from error
    if not isinstance(found, list):
        raise Unreadable("{0} should be a list of objects with name and local.", name)
    return [(place, {_column(k): v for k, v in row.items() if isinstance(v, str)} if isinstance(row, dict) else {})
            for place, row in enumerate(found, 1)]  # fmt: skip


def write_palette(path: Path, inks: list[Ink]) -> None:
    """Write colours as the kind of file its suffix says; raises `BadInput` for another suffix, `CannotWrite`."""
    suffix = path.suffix.lower()
    if suffix == ".txt":
        text = "".join(f"{ink.local} {ink.name}\n" for ink in inks)
    elif suffix == ".csv":
        out = io.StringIO()
        rows = csv.writer(out, lineterminator="\n")
        rows.writerow(["name", "part", "local", "shadow"])
        rows.writerows([ink.name, ink.part, ink.local, ink.shadow or ""] for ink in inks)
        text = out.getvalue()
    elif suffix == ".json":
        text = json.dumps([msgspec.to_builtins(ink) for ink in inks], ensure_ascii=False, indent=1) + "\n"
    else:
        raise BadInput("A palette is written as .txt, .csv or .json, not {0}.", suffix or "without a suffix")
    with in_place(path) as work:
        work.write_text(text, encoding="utf-8")


def book_palette(book: Book) -> list[Ink]:
    """Return all pots of a book as a palette, in shelf order."""
    parts = book.parts()
    return [
        Ink(pot.name, pot.local, parts[pot.part].name if pot.part in parts else "", pot.shadow)
        for pot in book.pots().values()
    ]
