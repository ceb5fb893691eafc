# SPDX-License-Identifier: GPL-3.0-or-later
"""The command line: good files, bad files, exit codes, and never a Qt import."""

import json
import os
import re
import shutil
import subprocess
import sys
from pathlib import Path

import cv2
import numpy as np
import pikepdf
import pytest
import tifffile
from PIL import Image

from drip_pot import __version__
from drip_pot.cli import parse_gap
from drip_pot.core.errors import BadInput
from drip_pot.core.regions import LOUD
from drip_pot.demo.works import WORKS
from drip_pot.devices import flawed_scan
from drip_pot.files import looking_into, open_book
from tests.conftest import two_rooms, write_png

_NO_QT = "import sys; sys.modules['PyQt6'] = None; from drip_pot.cli import main; sys.argv[0] = 'drip-pot'; main()"


def drip_pot(*words: object) -> subprocess.CompletedProcess[str]:
    """Run the command line in a process where importing Qt fails."""
    command = [sys.executable, "-c", _NO_QT, *map(str, words)]
    plain = {**os.environ, "NO_COLOR": "1", "COLUMNS": "100", "TERM": "dumb"}
    return subprocess.run(command, capture_output=True, text=True, timeout=120, env=plain, check=False)


def test_flats_of_a_page_with_nothing_asked_are_good(tmp_path: Path) -> None:
    page = write_png(tmp_path / "page.png", two_rooms(7))
    ran = drip_pot("flats", page)
    assert ran.returncode == 0, ran.stderr
    assert "3 regions on 300 × 200 px" in ran.stdout
    pixels = np.array(Image.open(tmp_path / "page-flats.png").convert("RGB"))
    colors = {tuple(c) for c in np.unique(pixels.reshape(-1, 3), axis=0).tolist()}
    assert len(colors) == 3
    assert colors <= {tuple(c) for c in LOUD.tolist()}
    assert "100%" not in ran.stderr or "\r" not in ran.stderr, "plain lines where there is no terminal"


@pytest.mark.parametrize(("gap", "count"), [("0", 2), ("5px", 2), ("20px", 3), ("1mm", 3), ("auto", 3)])
def test_labels_run_from_one_without_holes(tmp_path: Path, gap: str, count: int) -> None:
    page = write_png(tmp_path / "page.png", two_rooms(9))
    ran = drip_pot("flats", page, "--gap", gap, "--labels", tmp_path / "l.tif")
    assert ran.returncode == 0, ran.stderr
    labels = tifffile.imread(tmp_path / "l.tif")
    assert labels.dtype == np.uint32
    assert labels.shape == (200, 300)
    assert np.unique(labels).tolist() == list(range(1, count + 1))
    assert not (tmp_path / "page-flats.png").exists()


@pytest.mark.parametrize(("fill", "regions"), [(255, 1), (0, 1)])
@pytest.mark.parametrize("shape", [(1, 1), (40, 50)])
def test_blank_black_and_tiny_pages_are_one_region(
    tmp_path: Path, fill: int, regions: int, shape: tuple[int, int]
) -> None:
    page = write_png(tmp_path / "page.png", np.full(shape, 255 - fill, np.uint8))
    ran = drip_pot("flats", page, "--labels", tmp_path / "l.tif")
    assert ran.returncode == 0, ran.stderr
    assert (tifffile.imread(tmp_path / "l.tif").reshape(shape) == 1).all()


@pytest.mark.parametrize(
    ("words", "code", "said"),
    [
        (("flats", "{tmp}/gone.png"), 1, "cannot be opened"),
        (("flats", "{tmp}/words.png"), 1, "not a picture"),
        (("flats", "{tmp}/page.png", "--gap", "10000"), 1, "0 up to 60 px"),
        (("flats", "{tmp}/page.png", "--gap", "wide"), 1, "is not a width"),
        (("flats", "{tmp}/page.png", "--png", "{tmp}/words.png/where.png"), 1, "cannot be written"),
        (("flats", "{tmp}/page.png", "--png", "{tmp}/page.png", "--force"), 1, "is what is read here"),
        (("flats", "{tmp}/page.png", "--png", "{tmp}/words.png"), 1, "exists already"),
        (("flats", "{tmp}/page.png", "--png", "{tmp}/a", "--labels", "{tmp}/a"), 1, "named for two outputs"),
        (("line", "{tmp}/page.png", "--out", "{tmp}/words.png"), 1, "exists already"),
        (("palette", "{tmp}/page.png", "--out", "{tmp}/page.png"), 1, "is what is read here"),
        (("do", "{tmp}/gone.drip", "pour", "{{"), 1, "are not JSON"),
        (("export", "{tmp}/gone.drip", "--out", "{tmp}/x"), 1, "There is no book"),
        (("export", "{tmp}/words.png", "--out", "{tmp}/x"), 1, "is not a Drip Pot book"),
        (("export", "{tmp}/words.png"), 2, "--out"),
        (("rescue", "{tmp}/words.png"), 1, "words.png"),
        (("pour",), 2, "No such command"),
        (("demo", "--render", "{tmp}/page.png", "--dpi", "40"), 1, "cannot be written"),
    ],
)
def test_what_cannot_be_done_is_said_in_a_sentence(
    tmp_path: Path, words: tuple[str, ...], code: int, said: str
) -> None:
    write_png(tmp_path / "page.png", two_rooms())
    (tmp_path / "words.png").write_text("no picture")
    ran = drip_pot(*(word.format(tmp=tmp_path) for word in words))
    assert ran.returncode == code
    assert said in ran.stderr.replace("\n", " ")
    assert "Traceback" not in ran.stderr


def values(path: Path) -> dict[str, str]:
    """Everything in a book that is not pixels."""
    file, book = open_book(path)
    try:
        return book.values()
    finally:
        file.close()


def test_a_book_is_looked_into_and_worked_on_without_a_window(short_book: Path, tmp_path: Path) -> None:
    before = json.loads(drip_pot("tell", short_book, "--json", "--page", 1, "--page", 6).stdout)
    kept = values(short_book)
    page = before["pages"][0]
    assert before["title"] == "The Kite Infirmary"
    assert page["regions"] > 100
    assert {"passes", "lamps", "holds", "frame", "findings", "unpoured", "dpi"} <= page.keys()
    names = {order["name"]: order for order in json.loads(drip_pot("orders", "--json").stdout)}
    assert [a["name"] for a in names["set-gap"]["arguments"]] == ["gap_px"]
    for words, said in (
        (("set-gap",), "needs gap_px"),
        (("set-gap", '{"gap_px": "wide"}'), "gap_px of the order set-gap cannot be used"),
        (("set-gap", '{"gap_px": 9, "why": 1}'), "has no argument why"),
        (("set-gap", '{"gap_px": 9}', "--page", "99"), "there is no page 99"),
        (("dance",), "There is no order 'dance'"),
    ):
        assert said in drip_pot("do", short_book, *words).stderr
    assert values(short_book) == kept, "what cannot be done changes nothing"
    assert drip_pot("do", short_book, "add-part", '{"name": "Owl"}').returncode == 0
    assert sum('"Owl"' in text for text in values(short_book).values()) == 1
    picture = tmp_path / "flats.png"
    for stage in ("Flats", "Press"):
        ran = drip_pot("picture", short_book, "--stage", stage, "--scale", "0.5", "--out", picture, "--force")
        assert ran.returncode == 0, ran.stderr
        with Image.open(picture) as image:
            assert image.size == (round(page["cols"] / 2), round(page["rows"] / 2))


def test_a_book_is_exported_page_by_page(short_book: Path, tmp_path: Path) -> None:
    ran = drip_pot("export", short_book, "--out", tmp_path / "print", "--page", 1, "--only", "plates", "--only", "line")
    assert ran.returncode == 0, ran.stderr
    assert sorted(p.name for p in (tmp_path / "print").iterdir()) == [
        "the-kite-infirmary-01-torn-in-the-wind-cmyk.tif",
        "the-kite-infirmary-01-torn-in-the-wind-line.tif",
    ]
    wrong = drip_pot("export", short_book, "--out", tmp_path / "print", "--page", 99)
    assert wrong.returncode == 1
    assert "there is no page 99" in wrong.stderr


def test_a_delivery_of_chosen_pages_is_written_once_and_replaced_only_when_asked(
    short_book: Path, tmp_path: Path
) -> None:  # fmt: skip
    asked = ("deliver", short_book, "--to", tmp_path / "press", "--pages", "1,5-6", "--kind", "line,book-pdf")
    ran = drip_pot(*asked)
    assert ran.returncode == 0, ran.stderr
    names = sorted(p.name for p in (tmp_path / "press").iterdir())
    assert [name for name in names if not name.endswith("-line.tif")] == [
        "the-kite-infirmary-ticket.txt",
        "the-kite-infirmary.pdf",
    ]
    assert [name[:21] for name in names if name.endswith("-line.tif")] == [
        f"the-kite-infirmary-0{k}" for k in (1, 5, 6)
    ]
    with pikepdf.open(tmp_path / "press" / "the-kite-infirmary.pdf") as pdf:
        assert len(pdf.pages) == 3
    again = drip_pot(*asked)
    assert again.returncode == 1
    assert "exists already" in again.stderr
    for pages, said in (("19-22", "no pages 19-22"), ("x", "names no pages"), ("3-2", "no pages 3-2")):
        wrong = drip_pot("deliver", short_book, "--to", tmp_path / "press", "--pages", pages)
        assert wrong.returncode == 1
        assert said in wrong.stderr


def test_lamps_cuts_and_press_are_told_and_set_without_a_window(short_book: Path) -> None:
    lamp = '{"lamp": {"row": -100, "col": 600, "height": 0.7}}'
    assert drip_pot("do", short_book, "set-lamp", lamp, "--page", 1).returncode == 0
    ran = drip_pot("do", short_book, "suggest-cuts", "{}", "--page", 1)
    assert "cuts suggested" in ran.stdout, ran.stderr
    page = json.loads(drip_pot("tell", short_book, "--json", "--page", 1).stdout)["pages"][0]
    assert page["lamps"][0]["height"] == 0.7
    assert page["passes"][0]["cuts"] > 20
    wrong = drip_pot("do", short_book, "set-press", '{"press": {"condition": "stone"}}', "--page", 1)
    assert "coated, uncoated, newsprint" in wrong.stderr


def test_the_demo_pages_are_rendered_as_files(tmp_path: Path) -> None:
    ran = drip_pot("demo", "--render", tmp_path, "--dpi", 40)
    assert ran.returncode == 0, ran.stderr
    names = {p.name for p in tmp_path.iterdir()}
    works = [work.name for work in WORKS]
    assert names >= {f"{w}{end}" for w in works for end in (".png", "-regions.tif", "-truth.json")}
    assert names >= {"page-4-lettering.png", "study-noon.png", "study-dusk.png", "study-storm.png", "schemes.json",
                     "paper.png", "stain.png", "handcart.obj"}  # fmt: skip
    stamps = {p.name: p.stat().st_mtime_ns for p in tmp_path.iterdir()}
    again = drip_pot("demo", "--render", tmp_path, "--dpi", 40)
    assert "All is there already" in again.stderr
    assert {p.name: p.stat().st_mtime_ns for p in tmp_path.iterdir()} == stamps


def test_the_version_is_told() -> None:
    assert f"drip-pot {__version__}" in drip_pot("--version").stdout


@pytest.mark.parametrize(
    "command", ["left", "palette", "", "line", "flats", "export", "deliver", "demo", "rescue", "open"]
)
def test_every_command_explains_itself_with_an_example(command: str) -> None:
    ran = drip_pot(*command.split(), "--help")
    assert ran.returncode == 0
    assert "drip-pot" in ran.stdout or command == "open"


@pytest.mark.parametrize(
    ("text", "dpi", "px"), [("auto", 600, None), ("12", 600, 12), ("12px", 300, 12), (" 0.5 MM ", 508, 10)]
)
def test_gap_widths_are_read_in_every_unit(text: str, dpi: float, px: float | None) -> None:
    assert parse_gap(text, dpi) == (None if px is None else pytest.approx(px))


@pytest.mark.parametrize("text", ["", "-3", "3cm", "1e9", "61", "9mm"])
def test_odd_gap_widths_are_refused(text: str) -> None:
    with pytest.raises(BadInput, match="--gap"):
        parse_gap(text, 600)


def test_a_scan_is_cleaned_into_line(tmp_path: Path) -> None:
    ink = two_rooms(rows=600, cols=600)
    turned = cv2.warpAffine(ink, cv2.getRotationMatrix2D((300, 300), 1.0, 1.0), (600, 600))
    scan, _ = flawed_scan(turned, 300, 2)
    Image.fromarray(scan).save(tmp_path / "scan.png", dpi=(300, 300))
    done = drip_pot("line", str(tmp_path / "scan.png"), "--straighten", "--out", str(tmp_path / "line.png"))
    assert done.returncode == 0
    assert "specks taken out, turned by" in done.stdout
    line = np.asarray(Image.open(tmp_path / "line.png").copy())[..., 1]
    assert (line[30:170, 300] > 200).mean() > 0.9, "the wall stands upright"
    two = drip_pot("line", str(tmp_path / "scan.png"), "--threshold", "50", "--out", str(tmp_path / "line.tif"))
    assert two.returncode == 0
    with Image.open(tmp_path / "line.tif") as image:
        assert image.mode == "1"
    wrong = drip_pot("line", str(tmp_path / "scan.png"), "--out", str(tmp_path / "line.gif"))
    assert "must end in .png" in wrong.stderr


def test_what_is_left_is_listed_and_palettes_are_taken(short_book: Path, tmp_path: Path) -> None:
    ran = drip_pot("left", short_book)
    assert ran.returncode == 1
    assert re.search(r"Torn in the wind: \d left, \d px of paper between flat and line", ran.stdout)
    assert re.search(r"  [A-Z][a-z ]+: .+ at \d+, \d+ px", ran.stdout)
    assert "is none of" in drip_pot("left", short_book, "--stage", "Lunch").stderr
    picture = np.zeros((20, 20, 3), np.uint8)
    picture[:, :8] = (200, 60, 40)
    Image.fromarray(picture).save(tmp_path / "study.png")
    for source, out, text in (
        (tmp_path / "study.png", "a.txt", "#000000 Black\n#c83c28 Red\n"),
        (tmp_path / "a.txt", "b.txt", "#c83c28 Red"),
        (short_book, "c.csv", "Ember,Kites,"),
    ):
        ran = drip_pot("palette", source, "--count", 3, "--out", tmp_path / out)
        assert ran.returncode == 0, ran.stderr
        assert text in (tmp_path / out).read_text()


def test_orders_of_the_hand_colour_a_page_that_is_exported_as_asked(short_book: Path, tmp_path: Path) -> None:
    def do(order: str, **given: object) -> None:
        ran = drip_pot("do", short_book, order, json.dumps(given))
        assert ran.returncode == 0, ran.stderr

    page = json.loads(values(short_book)["page/1"])
    rows, cols = page["rows"], page["cols"]
    do("add-pot", name="Brick", part=1, local="#b04a2c")
    number = next(int(key[4:]) for key, text in values(short_book).items() if '"Brick"' in text and "#b04a2c" in text)
    around = [[1, 1], [1, cols - 2], [rows - 2, cols - 2], [rows - 2, 1]]
    do("corral", points=around, pot=number, strength=1.0, only_empty=False)
    do("cut-shade", points=around, light=True)
    do("mist-pass", points=[[rows / 2, 0, 1], [rows / 2, cols, 1]], width_px=60, softness=0, flow=1)
    out = tmp_path / "out"
    assert (
        drip_pot("export", short_book, "--out", out, "--page", 1, "--only", "flats", "--only", "page").returncode == 0
    )
    flats, whole = (
        np.array(Image.open(next(out.glob(f"*{end}"))).convert("RGB")) for end in ("-flats.png", "wind.png")
    )
    brick = (flats == (0xB0, 0x4A, 0x2C)).all(axis=2)
    assert brick.mean() > 0.75, "the loop went round all but the gutters"
    middle = brick[rows // 2] & (whole[rows // 2] != (0xB0, 0x4A, 0x2C)).any(axis=1)
    assert middle.mean() > 0.7, "the stroke shades the page from edge to edge"
    assert (whole[rows // 4][brick[rows // 4]] == (0xB0, 0x4A, 0x2C)).all(axis=1).mean() > 0.3, "and no more than that"


def test_a_recipe_is_kept_and_done_on_other_books_one_of_which_is_none(short_book: Path, tmp_path: Path) -> None:
    other, broken, recipe = tmp_path / "other.drip", tmp_path / "broken.drip", tmp_path / "night.json"
    shutil.copy(short_book, other)
    broken.write_text("no")
    for order, given in (("add-pass", '{"name": "Night", "color": "#203060"}'), ("set-gap", '{"gap_px": 12}')):
        assert drip_pot("do", short_book, order, given).returncode == 0
    kept = drip_pot("recipe", "keep", short_book, "--last", "2", "--name", "Night", "--out", recipe)
    assert "2 steps, 0 of them with a place" in kept.stdout
    ran = drip_pot("recipe", "run", recipe, other, broken, "--jobs", "2", "--pages", "1-2")
    assert ran.returncode == 1
    assert "1 of 2 books done" in ran.stdout
    assert "broken.drip is not a Drip Pot book" in ran.stdout
    told = json.loads(drip_pot("tell", other, "--json", "--page", 1, "--page", 2, "--page", 3).stdout)
    assert [page["passes"][-1]["name"] for page in told["pages"]].count("Night") == 2


def test_pages_of_a_folder_make_a_book_and_what_is_no_drawing_is_told(tmp_path: Path) -> None:
    folder, book = tmp_path / "scans", tmp_path / "kites.drip"
    folder.mkdir()
    for name in ("page 10", "page 2"):
        write_png(folder / f"{name}.png", two_rooms())
    (folder / "page 3.png").write_bytes(b"no picture")
    told = drip_pot("pages", book, folder)
    assert told.returncode == 1
    assert "page 3.png is not a picture" in told.stderr
    assert "2 pages added, 2 in all" in told.stdout
    with looking_into(book) as (_, document):
        assert [page.name for page in document.pages().values()] == ["page 2", "page 10"]
    told = drip_pot("pages", book, tmp_path / "none.png")
    assert told.returncode == 1
    assert "no drawing" in told.stderr
    assert drip_pot("pages", tmp_path / "book.txt", folder).returncode == 1
