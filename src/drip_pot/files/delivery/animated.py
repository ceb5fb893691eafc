# SPDX-License-Identifier: GPL-3.0-or-later
"""A sequence as files that move: animated WebP and PNG, numbered pictures, a contact strip. Knows delivery and frames.

Pillow writes both; lossless, so that a flat stays the one colour it is.
"""

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image
from PIL.PngImagePlugin import Blend, Disposal

from drip_pot.book import Book, Derived
from drip_pot.book.values import Sequence
from drip_pot.core.arrays import U8, Report, no_report
from drip_pot.core.errors import BadInput
from drip_pot.files.delivery.clear import clear_picture
from drip_pot.files.delivery.picture import picture
from drip_pot.files.outputs import all_in_place, in_place
from drip_pot.words import tr

MOVING = {"webp": ".webp", "apng": ".png", "frames": "", "strip": ".png"}
"""What a sequence is written as, with the suffix of the file; 'frames' is a folder of numbered PNGs."""
MOST_HIGH = 4096
_MOST_PX = 600_000_000
_BETWEEN = 12
_APNG: dict[str, Any] = {"format": "PNG", "disposal": Disposal.OP_BACKGROUND, "blend": Blend.OP_SOURCE}
"""Every frame stands alone, so that nothing of the one before shows through a transparent ground."""


def draw_frames(
    book: Book, derived: Callable[[int], Derived], sequence: Sequence, high_px: int, report: Report = no_report,
    stage: str = "Holds", *, clear: bool = False, smooth: bool = False,
) -> dict[int, U8]:  # fmt: skip
    """Draw every page of a sequence, all of one size.

    Parameters
    ----------
    book, derived, sequence
        The book, what follows from a page by its number, and the frames.
    high_px : int
        Height of the pictures, 16..4096; never more than that of the first page.
    report : Report
        Progress; may raise `Cancelled`.
    stage : str
        What is drawn, see `picture`.
    clear : bool
        On a transparent ground instead of paper, in the colours of Holds.
    smooth : bool
        With smooth edges of colours, in those colours.

    Returns
    -------
    dict
        (m, n, 3) uint8 sRGB by page, with a fourth channel of coverage on a `clear` ground; pages of another shape are
        laid on white, or on nothing, in the middle.

    Raises
    ------
    BadInput
        If the height is out of range, or so many pictures of it would not fit into memory.
    """
    if not 16 <= high_px <= MOST_HIGH:
        raise BadInput("A frame is 16 to {0} px high, not {1}.", MOST_HIGH, high_px)
    pages = book.pages()
    first = pages[sequence.pages[0]]
    high = min(high_px, first.rows)
    wide = max(1, round(first.cols * high / first.rows))
    if high * wide * len(sequence.pages) > _MOST_PX:
        raise BadInput(
            "{0} frames of {1} × {2} px are too much at once. Choose a lower one.", len(sequence.pages), wide, high
        )
    drawn = {}
    for place, page in enumerate(sequence.pages):
        report(place / len(sequence.pages), tr("Drawing {0}", pages[page].name))
        scale = min(1.0, high / pages[page].rows, wide / pages[page].cols)
        one = clear_picture(book, derived(page), page, scale, smooth=smooth) if clear else (
            picture(book, derived(page), page, stage, scale, smooth=smooth))  # fmt: skip
        drawn[page] = _centred(one, high, wide)
    return drawn


def _centred(pixels: U8, high: int, wide: int) -> U8:
    rows, cols = min(high, pixels.shape[0]), min(wide, pixels.shape[1])
    if (rows, cols) == (high, wide):
        return np.ascontiguousarray(pixels[:rows, :cols])
    out = np.full((high, wide, pixels.shape[2]), 255 if pixels.shape[2] == 3 else 0, np.uint8)
    top, left = (high - rows) // 2, (wide - cols) // 2
    out[top : top + rows, left : left + cols] = pixels[:rows, :cols]
    return out


def write_moving(path: Path, kind: str, sequence: Sequence, drawn: dict[int, U8]) -> list[Path]:
    """Write a sequence whose pages are drawn, as one of `MOVING`; return the files.

    Raises
    ------
    BadInput
        For an unknown kind.
    CannotWrite
        If the folder or the disk refuses; what was there is then as it was.
    """
    if kind not in MOVING:
        raise BadInput("A sequence is not written as {0}. Choose from {1}.", kind, ", ".join(MOVING))
    if kind == "frames":
        return _numbered(path, [drawn[page] for page in sequence.shown()])
    with in_place(path) as work:
        if kind == "strip":
            Image.fromarray(_strip([drawn[page] for page in sequence.pages])).save(work, "PNG")
        else:
            pictures = [Image.fromarray(drawn[page]) for page in sequence.pages]
            lasting = [round(1000 * sequence.held.get(page, 1) / sequence.rate_fps) for page in sequence.pages]
            how: dict[str, Any] = {"format": "WEBP", "lossless": True, "quality": 60} if kind == "webp" else _APNG
            pictures[0].save(
                work,
                save_all=True,
                append_images=pictures[1:],
                duration=lasting,
                loop=0,
                **how,
            )
    return [path]


def _strip(frames: list[U8]) -> U8:
    """Lay frames side by side on white, or on nothing."""
    deep = frames[0].shape[2]
    bar = np.full((frames[0].shape[0], _BETWEEN, deep), 255 if deep == 3 else 0, np.uint8)
    row = np.concatenate([piece for frame in frames for piece in (bar, frame)] + [bar], axis=1)
    edge = np.full((_BETWEEN, row.shape[1], deep), 255 if deep == 3 else 0, np.uint8)
    return np.concatenate([edge, row, edge])


def _numbered(folder: Path, frames: list[U8]) -> list[Path]:
    """Write frames into a folder as 0001.png and on, all of them or none."""
    targets = frame_targets(folder, len(frames))
    with all_in_place(targets) as aside:
        for target, frame in zip(targets, frames, strict=True):
            Image.fromarray(frame).save(aside / target.name, compress_level=3)
    return targets


def frame_targets(folder: Path, count: int) -> list[Path]:
    """Return the files of `count` numbered frames in a folder."""
    digits = max(4, len(str(count)))
    return [folder / f"{number:0{digits}d}.png" for number in range(1, count + 1)]
