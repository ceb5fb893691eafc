# SPDX-License-Identifier: GPL-3.0-or-later
"""Pictures as passes of a page: laid, moved, reduced, kept from the press, gone with their file; undone exactly."""

from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from drip_pot.book import verbs
from drip_pot.book.findings import find
from drip_pot.book.orders import run
from drip_pot.book.tables import build_tables
from drip_pot.book.values import PASSES
from drip_pot.core.errors import BadInput
from drip_pot.files import derive, import_page, new_book, open_book, picture
from tests.conftest import two_rooms, write_png
from tests.test_cli import drip_pot


@pytest.fixture
def laid(tmp_path: Path):
    """A book with one page and a picture of one blue laid on it."""
    file, book = new_book(tmp_path / "book.drip", "Book")
    page, _ = import_page(file, book, write_png(tmp_path / "page.png", two_rooms()))
    Image.new("RGB", (150, 100), (30, 60, 200)).save(tmp_path / "blue.png")
    original = file.add_original("blue.png", (tmp_path / "blue.png").read_bytes())
    number = verbs.place_picture(book, page, original, (100, 150), "Blue")
    yield file, book, page, number
    file.close()


def blue(file, book, page: int, stage: str = "Holds") -> np.ndarray:
    """Where the page is blue."""
    seen = picture(book, derive(file, book, page), page, stage).astype(int)
    return (seen[..., 2] > 150) & (seen[..., 0] < 100)


def test_a_picture_fills_the_page_moves_turns_and_is_undone_exactly(laid) -> None:
    file, book, page, number = laid
    start = book.values()
    assert blue(file, book, page).mean() > 0.8, "also where nothing is poured"
    run(book, "move-picture", {"number": number, "scale": 0.5, "right": 60}, page)
    rows, cols = np.nonzero(blue(file, book, page))
    assert (rows.min() // 10, cols.min() // 10, cols.max() // 10) == (5, 13, 28)
    run(book, "move-picture", {"number": number, "turn_deg": 90}, page)
    rows, cols = np.nonzero(blue(file, book, page))
    assert np.ptp(rows) > np.ptp(cols)
    run(book, "mesh-picture", {"number": number, "across": 2, "down": 2}, page)
    grid = [list(at) for at in book.sources(page)[PASSES][number].placed.grid]
    run(book, "bend-picture", {"number": number, "grid": grid}, page)
    for given, words in (({"scale": 0.0}, "0.01 to 100"), ({"scale": float("inf")}, "must be a number")):
        with pytest.raises(BadInput, match=words):
            verbs.move_picture(book, page, number, **given)
    with pytest.raises(BadInput, match="no picture"):
        run(book, "reduce-placed", {"number": 1, "flats": 4}, page)
    with pytest.raises(BadInput, match="9 points"):
        run(book, "bend-picture", {"number": number, "grid": grid[:4]}, page)
    while book.values() != start:
        assert book.undo()


def test_what_is_only_to_judge_by_is_seen_but_in_no_file_and_on_no_plate(laid, tmp_path: Path) -> None:
    file, book, page, number = laid
    one = book.sources(page)[PASSES][number]
    run(book, "set-pass", {"number": number, "changed": {**_plain(one), "printed": False}}, page)
    assert not blue(file, book, page).any()
    assert not blue(file, book, page, "Press").any()
    tables = build_tables(book, book.sources(page), 2)
    assert tables.stack[-1].strength == 1, "the screen has it"


def _plain(one) -> dict:
    import msgspec

    return msgspec.to_builtins(one)


def test_a_picture_whose_file_is_damaged_is_named_and_the_page_drawn_without(laid) -> None:
    file, book, page, number = laid
    with file._writing() as db:
        db.execute("UPDATE original_chunk SET data = x'00' WHERE number = 2")
    path = file.path
    file.close()
    file, book = open_book(path)
    try:
        assert not blue(file, book, page).any()
        sources, derived = book.sources(page), derive(file, book, page)
        tables = build_tables(book, sources, derived.regions.atoms(sources.line).count, derived.ground(sources))
        (gone,) = [f for f in find(book, sources, derived, tables)["Shade"] if f.title == "Picture missing"]
        run(book, gone.asks.order, gone.asks.given, page)
        assert number not in book.sources(page)[PASSES]
    finally:
        file.close()


def test_pictures_are_laid_over_a_part_from_the_command_line(short_book: Path, tmp_path: Path) -> None:
    Image.new("RGB", (40, 60), (250, 10, 200)).save(tmp_path / "pink.png")
    ran = drip_pot("place", short_book, tmp_path / "pink.png", "--page", 1, "--part", "Sky", "--flats", 4)
    assert ran.returncode == 0, ran.stderr
    out = tmp_path / "page.png"
    assert drip_pot("picture", short_book, "--page", 1, "--out", out).returncode == 0
    seen = np.asarray(Image.open(out)).astype(int)
    share = ((seen[..., 0] > 200) & (seen[..., 1] < 60) & (seen[..., 2] > 150)).mean()
    assert 0.05 < share < 0.6, "the sky alone"
    for words, said in (
        (("--part", "Moon"), "no part Moon"), (("--page", 99), "no page 99"), (("--flats", 1), "2 to 32 flats"),
    ):  # fmt: skip
        ran = drip_pot("place", short_book, tmp_path / "pink.png", *words)
        assert ran.returncode == 1
        assert said in ran.stderr
    ran = drip_pot("place", short_book, short_book)
    assert "not a picture" in ran.stderr
