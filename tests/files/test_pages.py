# SPDX-License-Identifier: GPL-3.0-or-later
"""New books and pages brought into them; one book file used by the window and its worker at once."""

import threading
from pathlib import Path

import numpy as np
import pytest

from drip_pot.book import verbs
from drip_pot.book.values import INKS
from drip_pot.core.errors import Unreadable
from drip_pot.devices import flawed_scan
from drip_pot.files import add_page, derive, import_page, new_book, open_book, read_page
from tests.conftest import two_rooms, write_png


def test_a_new_book_is_ready_to_pour(tmp_path: Path) -> None:
    file, book = new_book(tmp_path / "b.drip", "My book")
    assert book.info.title == "My book"
    assert len(book.pots()) == 9
    assert all(pot.part in book.parts() for pot in book.pots().values())
    file.close()
    file, book = new_book(tmp_path / "bare.drip", "Bare", starter=False)
    assert book.pots() == {}
    file.close()


def test_a_page_remembers_its_size_and_gets_settings_that_suit_it(tmp_path: Path) -> None:
    file, book = new_book(tmp_path / "b.drip", "B")
    scan, _ = flawed_scan(two_rooms(rows=900, cols=1200), 300)
    clean = write_png(tmp_path / "clean_page-one.png", two_rooms(), 450)
    grey = write_png(tmp_path / "scan.png", 255 - scan)
    first, notes = import_page(file, book, clean)
    second, _ = import_page(file, book, grey, "The scan")
    one, two = book.pages()[first], book.pages()[second]
    assert (one.name, one.rows, one.cols, one.dpi) == ("clean page one", 200, 300, 450)
    assert notes == []
    assert (two.name, two.order) == ("The scan", 1)
    assert book.sources(first)[INKS][0].settings.white > book.sources(second)[INKS][0].settings.white
    assert book.sources(second)[INKS][0].settings.speck_px > 0
    ink = derive(file, book, second).inks.contour(book.sources(second).line)
    assert (ink[:15] == 0).mean() > 0.98
    file.close()


def test_a_bad_drawing_leaves_the_book_as_it_was(tmp_path: Path) -> None:
    file, book = new_book(tmp_path / "b.drip", "B")
    before, position = book.values(), book.position
    (tmp_path / "bad.png").write_bytes(b"\x89PNG but not really")
    with pytest.raises(Unreadable):
        import_page(file, book, tmp_path / "bad.png")
    assert (book.values(), book.position) == (before, position)
    file.close()


def test_undoing_an_added_page_takes_it_away_and_redo_brings_it_back(tmp_path: Path) -> None:
    file, book = new_book(tmp_path / "b.drip", "B")
    incoming = read_page(write_png(tmp_path / "p.png", two_rooms()))
    page = add_page(book, incoming, file.add_original(incoming.name, incoming.data), "One")
    assert book.undo() == "Add page One"
    assert book.pages() == {}
    book.redo()
    assert derive(file, book, page).inks.contour(book.sources(page).line).shape == (200, 300)
    file.close()


def test_the_worker_and_the_window_use_one_file_at_once(tmp_path: Path) -> None:
    file, book = new_book(tmp_path / "b.drip", "B")
    page, _ = import_page(file, book, write_png(tmp_path / "p.png", two_rooms()))
    wrong: list[Exception] = []

    def worker() -> None:
        try:
            for number in range(60):
                file.keep(f"atoms/{number}", bytes(1000))
                file.original(1)
                file.recall(f"atoms/{number}")
        except Exception as error:  # noqa: BLE001 - handed to the test
            wrong.append(error)

    thread = threading.Thread(target=worker)
    thread.start()
    for number in range(1, 60):
        verbs.pour(book, page, {number}, 1 + number % 9)
        if number % 7 == 0:
            book.undo()
    thread.join()
    assert wrong == []
    kept = book.values(), book.position
    file.close()
    file, again = open_book(tmp_path / "b.drip")
    assert (again.values(), again.position) == kept
    file.close()


def test_a_book_without_its_cache_comes_to_the_same_regions(tmp_path: Path) -> None:
    file, book = new_book(tmp_path / "b.drip", "B")
    page, _ = import_page(file, book, write_png(tmp_path / "p.png", two_rooms(7)))
    sources = book.sources(page)
    first = derive(file, book, page).regions.atoms(sources.line)
    file._db.execute("DELETE FROM derived")
    second = derive(file, book, page).regions.atoms(sources.line)
    assert np.array_equal(first.labels, second.labels)
    file.close()
