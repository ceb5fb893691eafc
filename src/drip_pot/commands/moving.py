# SPDX-License-Identifier: GPL-3.0-or-later
"""Sequences written as files that move, from the command line. Knows files and the book; no window."""

from pathlib import Path
from typing import Annotated

import typer

from drip_pot.core.errors import BadInput
from drip_pot.words import tr


def animate(
    book: Annotated[Path, typer.Argument(metavar="BOOK", help="A .drip file.", show_default=False)],
    out: Annotated[Path, typer.Option(help="A .webp or .png file, or a folder.", show_default=False)],
    sequence: Annotated[int | None, typer.Option(help="Its number; the only one if not given.")] = None,
    kind: Annotated[
        str | None, typer.Option(help="webp, apng, frames (numbered PNGs) or strip; by the name of OUT if not given.")
    ] = None,
    height: Annotated[int, typer.Option(min=16, max=4096, help="Height of a frame in pixels.")] = 720,
    clear: Annotated[bool, typer.Option("--clear", help="On a transparent ground instead of paper.")] = False,
    smooth: Annotated[bool, typer.Option("--smooth", help="With smooth edges of colours, for screens.")] = False,
    force: Annotated[bool, typer.Option("--force", help="Replace files that exist.")] = False,
) -> None:
    """Write a sequence as an animated WebP or PNG, as numbered frames, or as a contact strip.

    Example: drip-pot animate kites.drip --out turning.webp --height 480
    """
    from drip_pot.files import check_outputs, derive, draw_frames, frame_targets, looking_into, write_moving

    chosen = kind or {".webp": "webp", ".png": "apng", "": "frames"}.get(out.suffix.lower())
    if chosen is None:
        raise BadInput("{0} tells no kind. Name it .webp or .png, name a folder, or say --kind.", out.name)
    with looking_into(book) as (file, document):
        known = document.sequences()
        number = next(iter(known), 0) if sequence is None and len(known) < 2 else sequence
        if number not in known:
            has = ", ".join(f"{n} ({s.name})" for n, s in known.items()) or "none"
            raise BadInput("Say which sequence with --sequence. {0} has {1}.", book.name, has)
        movement = known[number]
        targets = frame_targets(out, len(movement.shown())) if chosen == "frames" else [out]
        check_outputs(targets, [book], force=force)
        drawn = draw_frames(
            document, lambda page: derive(file, document, page), movement, height, clear=clear, smooth=smooth
        )
        written = write_moving(out, chosen, movement, drawn)
    high, wide = next(iter(drawn.values())).shape[:2]
    count = tr("{0} files in {1}", len(written), out) if chosen == "frames" else str(out)
    print(
        tr(
            "wrote {0}: {1} frames of {2} × {3} px, {4:g} a second",
            count,
            len(movement.shown()),
            wide,
            high,
            movement.rate_fps,
        )
    )
