# SPDX-License-Identifier: GPL-3.0-or-later
"""OpenRaster archives: a page as named layers. Knows the open standard's zip and XML; decodes no pixels.

What is missing or odd in an archive is left out and said in a note; nothing is ever unpacked onto the disk.
"""

import io
import zipfile
import zlib
from dataclasses import dataclass, field
from xml.etree import ElementTree

from drip_pot.core.errors import DripPotError, Unreadable
from drip_pot.words import say, tr

_MOST_BYTES, _MOST_LAYERS, _MOST_TOTAL = 256 << 20, 300, 1 << 30


OPERATIONS = {"normal": "src-over", "plus-lighter": "plus"}
"""What blend modes are called in this form where that is another name."""


@dataclass(frozen=True)
class ArchiveLayer:
    """A layer: PNG bytes, where its top left pixel lies, opacity 0..1, whether it is shown, mode, group round it."""

    name: str
    data: bytes
    top: int
    left: int
    opacity: float
    shown: bool
    mode: str = "normal"
    group: str = ""


@dataclass(frozen=True)
class Archive:
    """An archive: size in pixels, dpi (0 unknown), its layers from the top down, and what was left out."""

    rows: int
    cols: int
    dpi: float
    layers: list[ArchiveLayer]
    notes: list[str] = field(default_factory=list)


def read(data: bytes, name: str) -> Archive:
    """Read an archive; raises `Unreadable` if it is none, or no layer of it can be read."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            if "stack.xml" not in archive.namelist():
                raise Unreadable("{0} is an archive without a page in it (no stack.xml). Export it again.", name)
            image = ElementTree.fromstring(_member(archive, "stack.xml"))
            return _archive(archive, image, name)
    except DripPotError:
        raise
    except Exception as error:  # archives that are damaged raise anything
        raise Unreadable("{0} is damaged or cut short. Export it again.", name) from error


def _archive(archive: zipfile.ZipFile, image: ElementTree.Element, name: str) -> Archive:
    cols, rows = _whole(image.get("w")), _whole(image.get("h"))
    layers: list[ArchiveLayer] = []
    notes: list[str] = []
    nodes = _leaves(image, (0, 0), True, "")
    if len(nodes) > _MOST_LAYERS:
        notes.append(tr("{0} has {1} layers; the first {2} were taken.", name, len(nodes), _MOST_LAYERS))
    total = 0
    for node, shift, shown, group in nodes[:_MOST_LAYERS]:
        title = (node.get("name") or "").strip() or say("Layer {0}", len(layers) + 1)
        source = node.get("src") or ""
        try:
            total += archive.getinfo(source).file_size
            if total > _MOST_TOTAL:
                notes.append(
                    tr("{0} holds more than a gigabyte of layers; {1} and what lies below were left out.", name, title)
                )
                break
            png = _member(archive, source)
        except (KeyError, zipfile.BadZipFile, zlib.error, EOFError, OSError, NotImplementedError, RuntimeError):
            notes.append(tr("{0} lacks the picture of its layer {1}; the layer was left out.", name, title))
            continue
        left, top = shift[0] + _whole(node.get("x")), shift[1] + _whole(node.get("y"))
        op = (node.get("composite-op") or "").removeprefix("svg:")
        mode = next((mode for mode, said in OPERATIONS.items() if said == (op or "src-over")), op)
        layers.append(ArchiveLayer(title, png, top, left, _share(node.get("opacity")), shown, mode, group))
    if not layers:
        raise Unreadable("{0} has no layer that can be read. Export it again.", name)
    dpi = _whole(image.get("xres"))
    return Archive(rows, cols, float(dpi) if 30 <= dpi <= 4800 else 0.0, layers, notes)


def _leaves(
    node: ElementTree.Element, shift: tuple[int, int], shown: bool, group: str
) -> list[tuple[ElementTree.Element, tuple[int, int], bool, str]]:
    """List the layers below a node from the top down, with shift and visibility of the stacks round them, and a name.

    The name is that of the outermost stack that has one.
    """
    found = []
    for child in node:
        seen = shown and child.get("visibility", "visible") != "hidden"
        if child.tag == "layer":
            found.append((child, shift, seen, group))
        elif child.tag == "stack":
            inner = shift[0] + _whole(child.get("x")), shift[1] + _whole(child.get("y"))
            found += _leaves(child, inner, seen, group or (child.get("name") or "").strip())
    return found


def _member(archive: zipfile.ZipFile, name: str) -> bytes:
    if archive.getinfo(name).file_size > _MOST_BYTES:
        raise OSError("too large")
    return archive.read(name)


def _whole(text: str | None) -> int:
    try:
        return int(float(text or 0))
    except (ValueError, OverflowError):
        return 0


def _share(text: str | None) -> float:
    try:
        return min(max(float(text or 1), 0.0), 1.0)
    except ValueError:
        return 1.0
