# SPDX-License-Identifier: GPL-3.0-or-later
"""A page in layers, taken into one whose line is in the book: parts with their pots, and passes of one colour.

Knows pages at hand and OpenRaster. Layers in a stack called Flats are flats; where none is called so, those are that
cover hard and have few colours. Layers above them of one colour become passes; anything else is left out and told.
"""

from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np

from drip_pot.book import verbs
from drip_pot.book.hand import Hand
from drip_pot.core.arrays import U8, Bool, Report, no_report
from drip_pot.core.color import to_hex
from drip_pot.core.errors import NothingDone
from drip_pot.core.render import MODES
from drip_pot.files.finished import FinishedFlats, fitted_flats, take_flats
from drip_pot.files.images import decode, read_file
from drip_pot.files.openraster import ArchiveLayer
from drip_pot.files.openraster import read as read_openraster
from drip_pot.words import tr

FLATS_NAMES = ("flats", "colours", "colors")
_HARD, _FEW, _BLACK, _NEAR = 0.98, 64, 40, 6
_LINE_NAMES = ("line", "lines", "line art", "inks", "paper")


@dataclass(frozen=True)
class _SeenLayer:
    """A layer with its pixels, (M, N, 3) and (M, N) uint8."""

    layer: ArchiveLayer
    rgb: U8
    alpha: U8


def take_layers(hand: Hand, path: Path, report: Report = no_report) -> str:
    """Pour the flats of a layered file into a page, a part for each of its layers, and lay its passes; tell of it.

    Raises
    ------
    Unreadable, BadInput
        If the file is none that can be read, or of another shape than the page.
    NothingDone
        If none of its layers is flat colour.
    """
    data = read_file(path)
    archive = read_openraster(data, path.name)
    called = any(layer.group.lower() in FLATS_NAMES for layer in archive.layers)
    rgb, owner = np.full((*hand.shape, 3), 255, np.uint8), np.zeros(hand.shape, np.uint8)
    parts: list[str] = []
    passes: list[_SeenLayer] = []
    left: list[str] = []
    order = [(place, layer) for place, layer in enumerate(archive.layers) if layer.shown][::-1]  # from the lowest up
    for done, (place, layer) in enumerate(order):
        report(0.5 * done / len(order), tr("Reading {0}", layer.name))
        if layer.name.lower() in _LINE_NAMES and layer.group.lower() not in FLATS_NAMES:
            continue
        seen = _seen(data, path.name, place, layer, hand.shape)
        if layer.group.lower() in FLATS_NAMES or (not called and _is_flats(seen)):
            if len(parts) < 255:
                parts.append(layer.name)
                inside = seen.alpha > 127
                rgb[inside], owner[inside] = seen.rgb[inside], len(parts)
        elif seen.alpha.any() and layer.mode in MODES and not _is_line(seen):
            passes.append(seen)
        elif seen.alpha.any() and not _is_line(seen):
            left.append(layer.name)
    if not parts:
        raise NothingDone("{0} has no layer of flat colour. Put them into a group called Flats.", path.name)
    with hand.book.as_one():
        told = take_flats(hand, FinishedFlats(rgb, owner > 0, tuple(parts), owner), report)
        for seen in passes:
            layer = seen.layer
            color = _one_color(seen)
            number = verbs.add_pass(
                hand.book, hand.page, layer.name, color or "#000000", layer.mode, 1.0, paint=color is None
            )
            verbs.lay_cover(hand, number, seen.alpha, seen.rgb if color is None else None)
    told += tr(" Laid {0} passes.", len(passes)) if passes else ""
    return told + (tr(" Left out, as their blend mode is not known here: {0}.", ", ".join(left)) if left else "")


def _seen(data: bytes, name: str, place: int, layer: ArchiveLayer, shape: tuple[int, int]) -> _SeenLayer:
    scan = decode(data, name, place, tinted=True)
    flats = fitted_flats(scan, name, shape, hard=False)
    share = np.maximum(flats.owner, 1)[..., None].astype(np.float32) / np.float32(255)
    bare = 255 - (255 - flats.rgb.astype(np.float32)) / share  # it was read as it looks on white
    return _SeenLayer(layer, np.rint(np.clip(bare, 0, 255)).astype(np.uint8), flats.owner)


def _is_flats(seen: _SeenLayer) -> bool:
    """Whether a layer covers hard, as it lies, in few colours, and is no line."""
    covered = seen.alpha > 0
    hard = np.count_nonzero(seen.alpha == 255) >= _HARD * np.count_nonzero(covered)
    return bool(covered.any() and seen.layer.mode == "normal" and hard and len(_colors(seen, covered)) <= _FEW
                and not _is_line(seen))  # fmt: skip


def _is_line(seen: _SeenLayer) -> bool:
    covered = seen.alpha > 127
    return bool(covered.any() and seen.rgb[covered].max(axis=1).mean() < _BLACK)


def _one_color(seen: _SeenLayer) -> str | None:
    """Return the one colour of a layer, as '#rrggbb'; None where it has several."""
    covered = seen.alpha > 127 if (seen.alpha > 127).any() else seen.alpha > 0
    colors = _colors(seen, covered)
    if not len(colors) or np.ptp(colors.astype(int), axis=0).max() > _NEAR:
        return None
    return to_hex(np.median(seen.rgb[covered], axis=0).astype(np.uint8))


def _colors(seen: _SeenLayer, where: Bool) -> U8:
    """Return the different colours of a layer, (K, 3), of every fourth pixel at most."""
    small = cv2.resize(seen.rgb, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_NEAREST)
    inside = cv2.resize(where.view(np.uint8), small.shape[1::-1], interpolation=cv2.INTER_NEAREST) > 0
    return np.asarray(np.unique(small[inside], axis=0), np.uint8)
