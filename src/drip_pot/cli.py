# SPDX-License-Identifier: GPL-3.0-or-later
"""The command line: the same operations without a window. Qt is imported only when a window is asked for."""

import re
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from drip_pot import __version__
from drip_pot.commands import recipes
from drip_pot.commands.batch import deliver_all, kinds_of, names_in, parse_pages, schemes_of
from drip_pot.commands.bringing import bring
from drip_pot.commands.dividing import find_regions
from drip_pot.commands.house import follow
from drip_pot.commands.loans import merge, split
from drip_pot.commands.moving import animate
from drip_pot.commands.pages import add_pages
from drip_pot.commands.placing import bring_flats, place_picture, stand_prop
from drip_pot.core.arrays import Report
from drip_pot.core.errors import BadInput, DripPotError
from drip_pot.words import speak, tr

if TYPE_CHECKING:
    from drip_pot.book import Book

app = typer.Typer(
    name="drip-pot",
    add_completion=True,
    no_args_is_help=False,
    pretty_exceptions_enable=False,
    rich_markup_mode="markdown",
    context_settings={"help_option_names": ["-h", "--help"]},
)
app.add_typer(recipes.app, name="recipe")
app.command()(animate)
app.command("deliver-all")(deliver_all)
app.command("house")(follow)
app.command("pages")(add_pages)
app.command()(split)
app.command()(merge)
app.command()(bring)
app.command("find-regions")(find_regions)
app.command("place")(place_picture)
app.command("prop")(stand_prop)
app.command("bring-flats")(bring_flats)
_FULL_DPI = 600.0
_PNG = b"\x89PNG"
_LIKE = '{"gap_px": 12}'
_GAP = re.compile(r"\s*(\d+(?:\.\d+)?)\s*(px|mm)?\s*")


def parse_gap(text: str, dpi: float) -> float | None:
    """Read a gap width: 'auto' is None, else pixels ('12', '12px') or millimetres ('0.5mm').

    Raises
    ------
    BadInput
        If it is none of these, or beyond 60 px.
    """
    if text.strip().lower() == "auto":
        return None
    found = _GAP.fullmatch(text.lower())
    if not found:
        raise BadInput("--gap '{0}' is not a width. Give auto, pixels (12 or 12px) or millimetres (0.5mm).", text)
    gap = float(found[1]) * (dpi / 25.4 if found[2] == "mm" else 1)
    if not 0 <= gap <= 60:
        raise BadInput("--gap {0} is {1:.0f} px on this page. Gaps are bridged from 0 up to 60 px wide.", text, gap)
    return gap


@contextmanager
def _progress() -> Iterator[Report]:
    """Show a bar on a terminal, one plain line a step elsewhere."""
    if sys.stderr.isatty():
        from rich.console import Console
        from rich.progress import BarColumn, Progress, TextColumn, TimeElapsedColumn

        columns = TextColumn("{task.description}"), BarColumn(), TimeElapsedColumn()
        with Progress(*columns, console=Console(stderr=True), transient=True) as bar:
            task = bar.add_task("Starting", total=1.0)
            yield lambda fraction, doing: bar.update(task, completed=fraction, description=doing)
        return
    said: list[str] = []

    def report(fraction: float, doing: str) -> None:
        if said[-1:] != [doing]:
            said.append(doing)
            print(f"{fraction:4.0%} {doing}", file=sys.stderr, flush=True)

    yield report


@app.callback(invoke_without_command=True)
def _start(
    context: typer.Context,
    version: Annotated[bool, typer.Option("--version", help="Show the version and leave.")] = False,
) -> None:
    """Flat line art into gap-free regions, colour them, and make plates that print.

    Some examples:

    * drip-pot (opens the window)
    * drip-pot open page.png
    * drip-pot line scan.tif --straighten
    * drip-pot flats scan.tif --gap 0.8mm --labels regions.tif
    * drip-pot export kites.drip --out print
    * drip-pot demo --render pages --dpi 300
    """
    if version:
        print("drip-pot", __version__)
        raise typer.Exit
    if context.invoked_subcommand is None:
        _window(None)


@app.command("open")
def open_window(
    file: Annotated[Path | None, typer.Argument(help="A book (.drip) or an image.", show_default=False)] = None,
) -> None:
    """Open the window, with a book or an image if one is named."""
    _window(file)


@app.command()
def flats(
    source: Annotated[
        Path, typer.Argument(metavar="INPUT", help="PNG, TIFF, JPEG, WebP, BMP, OpenRaster or PDF.", show_default=False)
    ],
    gap: Annotated[str, typer.Option(help="Bridge gaps up to so much: 0 to 60 px, or mm, or auto.")] = "auto",
    picture: Annotated[int, typer.Option(min=1, help="Which picture or layer of a file that holds several.")] = 1,
    labels: Annotated[Path | None, typer.Option(help="Write the regions, 1 to N, as a 32-bit TIFF.")] = None,
    png: Annotated[Path | None, typer.Option(help="Write the flats in working colours as PNG.")] = None,
    min_region: Annotated[
        int | None, typer.Option("--min-region", min=0, help="Regions of fewer px go to their neighbour.")
    ] = None,
    bridges: Annotated[Path | None, typer.Option(help="Write the bridges, shut and open, as JSON.")] = None,
    force: Annotated[bool, typer.Option("--force", help="Replace files that exist.")] = False,
) -> None:
    """Divide a drawing into gap-free flats.

    With none of --labels, --png and --bridges, INPUT-flats.png is written beside the input.

    Example: drip-pot flats scan.tif --gap 0.8mm --labels regions.tif --png flats.png
    """
    from drip_pot.files import check_outputs
    from drip_pot.files import flats as work

    if labels is None and png is None and bridges is None:
        png = source.with_name(f"{source.stem}-flats.png")
    check_outputs([path for path in (labels, png, bridges) if path is not None], [source], force=force)
    with _progress() as report:
        report(0.01, tr("Reading {0}", source.name))
        scan = work.read(source, picture - 1)
        found = work.find(scan, parse_gap(gap, scan.dpi), report, least_px=min_region)
        written = work.write(found, labels, png, report, bridges)
    for note in scan.notes:
        print(note, file=sys.stderr)
    rows, cols = found.labels.shape
    print(tr("{0} regions on {1} × {2} px, gaps up to {3:.0f} px bridged", found.count, cols, rows, found.gap_px))
    for path in written:
        print(tr("wrote {0}", path))


@app.command()
def line(
    source: Annotated[
        Path, typer.Argument(metavar="INPUT", help="A scan or line art, as for flats.", show_default=False)
    ],
    out: Annotated[Path | None, typer.Option(help="A .png (transparent) or .tif; INPUT-line.png if not given.")] = None,
    picture: Annotated[int, typer.Option(min=1, help="Which picture or layer of a file that holds several.")] = 1,
    white: Annotated[int | None, typer.Option(help="Grey that becomes paper, 1 to 255.")] = None,
    black: Annotated[int | None, typer.Option(help="Grey that becomes full ink, 0 to 254.")] = None,
    weight: Annotated[float, typer.Option(help="Heavier or lighter line, -4 to 4 px.")] = 0.0,
    specks: Annotated[int | None, typer.Option(help="Take out lone specks of up to so many px.")] = None,
    threshold: Annotated[int | None, typer.Option(help="Two levels: ink from so many per cent, 1 to 100.")] = None,
    straighten: Annotated[
        bool, typer.Option("--straighten", help="Turn the page until its frames are upright.")
    ] = False,
    force: Annotated[bool, typer.Option("--force", help="Replace files that exist.")] = False,
) -> None:
    """Clean a scan into line: paper, coloured pencil, dust and pinholes gone.

    What is not given is worked out from the page.

    Example: drip-pot line scan.tif --straighten --threshold 50 --out line.tif
    """
    import msgspec

    from drip_pot.files import check_outputs, read_image, suggest_inks
    from drip_pot.files import line as work

    target = out or source.with_name(f"{source.stem}-line.png")
    check_outputs([target], [source], force=force)
    with _progress() as report:
        report(0.01, tr("Reading {0}", source.name))
        _, scan = read_image(source, picture - 1)
        settings, notes = suggest_inks(scan)
        given = {"white": white, "black": black, "speck_px": specks,
                 "threshold": None if threshold is None else round(threshold * 2.55)}  # fmt: skip
        wanted = {name: value for name, value in given.items() if value is not None}
        settings = msgspec.structs.replace(settings, weight_px=weight, **wanted)
        found = work.clean(scan, settings, straighten=straighten, report=report)
        report(0.9, tr("Writing {0}", target.name))
        work.write(found, target)
    for note in [*scan.notes, *notes]:
        print(note, file=sys.stderr)
    turned = tr(", turned by {0:.2f} degrees", found.turn_deg) if found.turn_deg else ""
    print(tr("{0} specks taken out{1}", found.specks, turned))
    print(tr("wrote {0}", target))


@app.command()
def export(
    book: Annotated[Path, typer.Argument(metavar="BOOK", help="A .drip file.", show_default=False)],
    out: Annotated[Path, typer.Option(help="Folder for the files; made if missing.", show_default=False)],
    page: Annotated[int | None, typer.Option(help="Only this page, counted from 1.")] = None,
    only: Annotated[
        list[str] | None, typer.Option(help="Only this kind: page, flats, plates or line; may be repeated.")
    ] = None,
    force: Annotated[bool, typer.Option("--force", help="Replace files that exist.")] = False,
) -> None:
    """Write a book's pages: flattened PNG, flats PNG, CMYK TIFF, 1-bit black line TIFF.

    Example: drip-pot export kites.drip --out print --page 2 --only plates --only line
    """
    from drip_pot.files import KINDS, check_outputs, derive, export_page, export_targets, looking_into

    with looking_into(book) as (file, document):
        pages = list(document.pages())
        if not pages:
            raise BadInput("{0} has no pages yet. Open it in the window and bring in a drawing.", book.name)
        if page is not None:
            if not 1 <= page <= len(pages):
                raise BadInput("{0} has {1} pages; there is no page {2}.", book.name, len(pages), page)
            pages = [pages[page - 1]]
        kinds = tuple(dict.fromkeys(only)) if only else tuple(KINDS)
        targets = [path for number in pages for path in export_targets(document, number, out, kinds)]
        check_outputs(targets, [book], force=force)
        with _progress() as report:
            for number in pages:
                for path in export_page(
                    document, derive(file, document, number), number, out, kinds=kinds, report=report
                ):
                    print(tr("wrote {0}", path))


@app.command()
def deliver(
    book: Annotated[Path, typer.Argument(metavar="BOOK", help="A .drip file.", show_default=False)],
    to: Annotated[Path, typer.Option(help="Folder for the files; made if missing.", show_default=False)],
    pages: Annotated[str | None, typer.Option(help="Which pages, as 2, 1-4 or 1-2,5; all if not given.")] = None,
    kind: Annotated[str, typer.Option(help="Kinds, or a preset: printer, press, editor, archive.")] = "printer",
    cut: Annotated[str, typer.Option(help="Cut pictures, plates and line to: page, bleed or trim.")] = "page",
    web: Annotated[
        str, typer.Option(help="Size of web copies: height=…, width=… or megapixels=…; with smooth edges: …,smooth.")
    ] = "height=1600",
    schemes: Annotated[str, typer.Option(help="Schemes by name, as Noon,Dusk, or all; the one in hand else.")] = "",
    parts: Annotated[str, typer.Option(help="Parts that are cut out, as Kite,Coat; all if not given.")] = "",
    force: Annotated[bool, typer.Option("--force", help="Replace files that exist.")] = False,
) -> None:
    """Write what a printer is given, with a job ticket: all of it, or nothing.

    Example: drip-pot deliver kites.drip --to press --pages 1-4 --kind book-pdf,plates,line
    """
    from drip_pot.files import How, check_outputs, cut_of, delivery_targets, derive, looking_into, web_size
    from drip_pot.files import deliver as write

    with looking_into(book) as (file, document):
        numbers = list(document.pages())
        if pages is not None:
            numbers = [numbers[place] for place in parse_pages(pages, len(numbers), book.name)]
        kinds = kinds_of(kind)
        how = How(cut_of(cut), web_size(web), schemes_of(document, schemes), names_in(parts))
        check_outputs(delivery_targets(document, numbers, to, kinds, how), [book], force=force)
        with _progress() as report:
            written = write(document, lambda n: derive(file, document, n), numbers, to, kinds, report, how=how)
    for path in written:
        print(tr("wrote {0}", path))


@app.command()
def left(
    book: Annotated[Path, typer.Argument(metavar="BOOK", help="A .drip file.", show_default=False)],
    stage: Annotated[str, typer.Option(help="Inks, Flats, Shade, Holds or Press.")] = "Flats",
) -> None:
    """List what is left to look at on every page, and prove that no fringe shows.

    Ends with code 1 when anything is left, so that a script can tell.

    Example: drip-pot left kites.drip --stage Flats
    """
    from drip_pot.book import build_tables
    from drip_pot.book.findings import STAGES, find
    from drip_pot.files import derive, looking_into

    stage = stage.capitalize()
    if stage not in STAGES:
        raise BadInput("--stage {0} is none of {1}.", stage, ", ".join(STAGES))
    count = 0
    with looking_into(book) as (file, document):
        for number, page in document.pages().items():
            sources, derived = document.sources(number), derive(file, document, number)
            tables = build_tables(document, sources, derived.regions.atoms(sources.line).count, derived.ground(sources))
            found = find(document, sources, derived, tables, stages=(stage,))[stage]
            fringe = derived.regions.fringe(sources, tables.is_poured).px
            count += len(found)
            print(tr("{0}: {1} left, {2} px of paper between flat and line", page.name, len(found), fringe))
            for finding in found:
                where = tr(" at {0}, {1} px", finding.rect[1], finding.rect[0]) if finding.rect else ""
                print(f"  {finding.title}: {finding.sentence}{where}")
    if count:
        raise typer.Exit(1)


@app.command()
def palette(
    picture: Annotated[
        Path, typer.Argument(metavar="PICTURE", help="A picture, a palette or a book.", show_default=False)
    ],
    out: Annotated[Path, typer.Option(help="A .txt, .csv or .json palette.", show_default=False)],
    count: Annotated[int, typer.Option(min=1, max=64, help="How many colours to take from a picture.")] = 8,
    force: Annotated[bool, typer.Option("--force", help="Replace files that exist.")] = False,
) -> None:
    """Take the most telling colours of a picture, or the pots of a book, as a palette.

    Example: drip-pot palette dusk.png --count 12 --out dusk.json
    """
    import numpy as np

    from drip_pot.core.color import plain_name, telling_colors, to_hex
    from drip_pot.files import (
        PALETTE_SUFFIXES,
        Ink,
        book_palette,
        check_outputs,
        looking_into,
        read_image,
        read_palette,
        write_palette,
    )

    check_outputs([out], [picture], force=force)
    if picture.suffix.lower() == ".drip":
        with looking_into(picture) as (_, document):
            inks = book_palette(document)
    elif picture.suffix.lower() in PALETTE_SUFFIXES:
        inks, problems = read_palette(picture)
        for problem in problems:
            print(problem, file=sys.stderr)
    else:
        scan = read_image(picture)[1]
        gray = scan.gray if scan.gray.dtype == np.uint8 else (scan.gray >> 8).astype(np.uint8)
        rgb = scan.rgb if scan.rgb is not None else np.stack([gray] * 3, axis=-1)
        inks = [Ink(plain_name(color).capitalize(), to_hex(color)) for color in telling_colors(rgb, count)]
    write_palette(out, inks)
    print(tr("wrote {0}: {1} colours", out, len(inks)))


def _page_number(document: "Book", page: int, name: str) -> int:
    pages = list(document.pages())
    if not 1 <= page <= len(pages):
        raise BadInput("{0} has {1} pages; there is no page {2}.", name, len(pages), page)
    return pages[page - 1]


@app.command()
def tell(
    book: Annotated[Path, typer.Argument(metavar="BOOK", help="A .drip file.", show_default=False)],
    as_json: Annotated[bool, typer.Option("--json", help="For programs.")] = False,
    page: Annotated[list[int] | None, typer.Option(help="Tell of this page alone; again for another.")] = None,
) -> None:
    """Say what is in a book: parts, pots, and for each page its regions and what is left to look at.

    Example: drip-pot tell kites.drip --page 3 --json
    """
    import json

    from drip_pot.book.telling import tell as told
    from drip_pot.files import derive, looking_into

    with looking_into(book) as (file, document):
        wanted = None if page is None else [_page_number(document, number, book.name) for number in page]
        found = told(document, lambda number: derive(file, document, number), wanted)
    if as_json:
        print(json.dumps(found, ensure_ascii=False, indent=1))
        return
    print(tr("{0}: {1} parts, {2} pots", found["title"], len(found["parts"]), len(found["pots"])))
    for place, one in zip(page or range(1, len(found["pages"]) + 1), found["pages"], strict=True):
        left = ", ".join(f"{stage} {len(items)}" for stage, items in one["findings"].items() if items)
        print(
            tr(
                "{0}. {1}, {2} × {3} px at {4:g} dpi: {5} regions, {6} unpoured; to look at: {7}",
                place,
                one["name"],
                one["cols"],
                one["rows"],
                one["dpi"],
                one["regions"],
                one["unpoured"],
                left or tr("nothing"),
            )
        )


@app.command("orders")
def list_orders(as_json: Annotated[bool, typer.Option("--json", help="For programs.")] = False) -> None:
    """List the orders that `drip-pot do` takes, with their arguments.

    Example: drip-pot orders --json
    """
    import json
    from dataclasses import asdict

    from drip_pot.book import orders

    found = orders.orders().values()
    if as_json:
        print(json.dumps([asdict(order) for order in found], indent=1))
        return
    for order in found:
        taken = ", ".join(f"{a.name}: {a.kind}" if a.needed else f"[{a.name}: {a.kind}]" for a in order.arguments)
        print(f"{order.name}{' (page)' if order.on_page else ''}: {order.title}\n    {taken or 'no arguments'}")


@app.command("do")
def do_order(
    book: Annotated[Path, typer.Argument(metavar="BOOK", help="A .drip file.", show_default=False)],
    order: Annotated[str, typer.Argument(metavar="ORDER", help="One of drip-pot orders.", show_default=False)],
    arguments: Annotated[str, typer.Argument(metavar="JSON", help="Its arguments.")] = "{}",
    page: Annotated[int, typer.Option(help="The page it is done to, counted from 1.")] = 1,
) -> None:
    """Do an order to a book; it can be undone like any gesture.

    Example: drip-pot do kites.drip set-gap '{"gap_px": 12}' --page 2
    """
    import json

    from drip_pot.book import orders
    from drip_pot.files import hand_on, working_in

    try:
        given = json.loads(arguments)
    except (ValueError, RecursionError) as error:
        raise BadInput(
            'The arguments of {0} are not JSON: {1}. Write them like {{"gap_px": 12}}.', order, error
        ) from error
    if not isinstance(given, dict):
        raise BadInput('The arguments of {0} are not an object. Write them like {{"gap_px": 12}}.', order)
    known = orders.orders().get(order)
    with working_in(book) as (file, document):
        number = _page_number(document, page, book.name) if known is not None and known.on_page else None
        before = document.position
        made = orders.run(document, order, given, number, lambda n: hand_on(file, document, n))
        done = document.history[document.position - 1].title if document.position > before else "Nothing changed"
    print(done if made is None else f"{done}: {made}")


@app.command()
def thumbnail(
    book: Annotated[Path, typer.Argument(metavar="BOOK", help="A .drip file.", show_default=False)],
    out: Annotated[Path, typer.Argument(metavar="OUT", help="A .png file; a PNG is replaced.", show_default=False)],
    size: Annotated[int, typer.Option(min=16, max=2048, help="Longer side in pixels.")] = 256,
) -> None:
    """Write the first page small, as desktops ask for it.

    Example: drip-pot thumbnail kites.drip kites.png --size 256
    """
    from drip_pot.files import check_outputs, derive, looking_into, write_picture
    from drip_pot.files import picture as draw

    check_outputs([out], [book], replaces=_PNG)
    with looking_into(book) as (file, document):
        number = _page_number(document, 1, book.name)
        page = document.pages()[number]
        scale = min(1.0, size / max(page.rows, page.cols))
        write_picture(out, draw(document, derive(file, document, number), number, "Holds", scale), page.dpi * scale)


@app.command()
def picture(
    book: Annotated[Path, typer.Argument(metavar="BOOK", help="A .drip file.", show_default=False)],
    out: Annotated[Path, typer.Option(help="A .png file.", show_default=False)],
    page: Annotated[int, typer.Option(help="The page, counted from 1.")] = 1,
    stage: Annotated[str, typer.Option(help="Inks, Flats, Shade, Holds or Press.")] = "Holds",
    scale: Annotated[float, typer.Option(help="Size over that of the page, up to 1.")] = 1.0,
    force: Annotated[bool, typer.Option("--force", help="Replace a file that exists.")] = False,
) -> None:
    """Write what the screen shows of a page as a PNG.

    Example: drip-pot picture kites.drip --page 2 --stage Flats --scale 0.25 --out flats.png
    """
    from drip_pot.files import check_outputs, derive, looking_into, write_picture
    from drip_pot.files import picture as draw

    check_outputs([out], [book], force=force)
    with looking_into(book) as (file, document):
        number = _page_number(document, page, book.name)
        pixels = draw(document, derive(file, document, number), number, stage.capitalize(), scale)
        write_picture(out, pixels, document.pages()[number].dpi * scale)
    print(tr("wrote {0}: {1} × {2} px", out, pixels.shape[1], pixels.shape[0]))


@app.command()
def rescue(
    book: Annotated[Path, typer.Argument(metavar="BOOK", help="A damaged .drip file.", show_default=False)],
    out: Annotated[Path | None, typer.Option(help="The new book; BOOK-rescued.drip if not given.")] = None,
) -> None:
    """Copy all that can still be read from a damaged book into a new one.

    Example: drip-pot rescue kites.drip
    """
    from drip_pot.files import rescue as save

    target = out or book.with_name(f"{book.stem}-rescued.drip")
    saved = save(book, target)
    print(
        tr(
            "wrote {0}: {1} values, {2} tiles, {3} steps of history",
            target,
            saved["value"],
            saved["tile"],
            saved["edit"],
        )
    )


@app.command()
def demo(
    render: Annotated[Path | None, typer.Option(help="Write the demo's works into this folder instead.")] = None,
    at_dpi: Annotated[
        float | None, typer.Option("--dpi", min=30, max=1200, help="Resolution: 150 to read, 600 at full size.")
    ] = None,
    rebuild: Annotated[bool, typer.Option("--rebuild", help="Make the demo book anew.")] = False,
    prepare: Annotated[bool, typer.Option("--prepare", help="Make the demo book and leave.")] = False,
    to: Annotated[Path | None, typer.Option("--book", help="Make the demo book as this file and leave.")] = None,
    force: Annotated[bool, typer.Option("--force", help="Replace works that exist.")] = False,
) -> None:
    """Open the window with the demo book, or write its works as files.

    The first time, page one opens while the whole book is made in the background.

    Example: drip-pot demo --render pages --dpi 300
    """
    from drip_pot.demo import build

    full = render is not None or to is not None
    dpi = at_dpi or (_FULL_DPI if full else build.READING_DPI)
    if render is not None:
        with _progress() as report:
            written = build.render(render, dpi, report, force=force)
        for path in written:
            print(tr("wrote {0}", path))
        return
    if to is not None:
        from drip_pot.files import check_outputs

        check_outputs([to])
        with _progress() as report:
            build.build_book(to, dpi, report)
        print(tr("wrote {0}", to))
        return
    book = build.home(dpi)
    if prepare or rebuild:
        if rebuild or not book.exists():
            with _progress() as report:
                build.build_book(book, dpi, report)
        if prepare:
            print(book)
            return
    _window(*build.first_look(dpi))


def _window(file: Path | None, prepare: tuple[Path, float] | None = None) -> None:
    from drip_pot.desk.app import run

    raise typer.Exit(run(file, prepare))


def main() -> None:
    """Run the command line; expected errors become one sentence and exit code 1."""
    speak()
    known = {name for one in app.registered_commands if (name := one.name or (one.callback and one.callback.__name__))}
    known |= {one.name for one in app.registered_groups if one.name}
    first = sys.argv[1:2]
    if first and not first[0].startswith("-") and first[0] not in known and Path(first[0]).suffix:
        sys.argv.insert(1, "open")  # a file alone is opened, as a desktop does it
    try:
        app()
    except DripPotError as error:
        print(f"drip-pot: {error}", file=sys.stderr)
        sys.exit(1)
    except KeyboardInterrupt:
        print("drip-pot: stopped", file=sys.stderr)
        sys.exit(130)
