# SPDX-License-Identifier: GPL-3.0-or-later
"""Many books at once: on this machine, on a scheduler one of whose workers is killed, begun again."""

import json
import shutil
import signal
import subprocess
import sys
import time
from contextlib import closing
from pathlib import Path

import cv2
import numpy as np
import pytest

from drip_pot.book import verbs
from drip_pot.book.derive.atoms_kept import unpack_atoms
from drip_pot.book.derive.regions import atoms_key
from drip_pot.book.recipes import recipe_of
from drip_pot.book.values import FLATS, PINS
from drip_pot.commands.spread import Report, spread
from drip_pot.files import derive, import_page, keep_recipe, looking_into, new_book, open_book
from tests.conftest import random_drawing, write_png
from tests.test_cli import _NO_QT, drip_pot


@pytest.fixture
def studio(short_book: Path, tmp_path: Path) -> tuple[Path, list[Path]]:
    """A recipe, and four books it suits."""
    file, book = open_book(short_book)
    verbs.set_gap(book, 1, 7.0)
    keep_recipe(tmp_path / "gap.json", recipe_of(book, "Gap", [len(book.history) - 1]))
    file.close()
    books = [Path(shutil.copy(short_book, tmp_path / f"book-{k}.drip")) for k in range(4)]
    return tmp_path / "gap.json", books


def gaps(book: Path) -> list[float | None]:
    file, document = open_book(book)
    try:
        return [document.sources(n)[FLATS].gap_px for n in document.pages()]
    finally:
        file.close()


def _start(*words: str) -> subprocess.Popen:
    return subprocess.Popen(
        [sys.executable, "-m", "dask", *words], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
    )


def test_a_scheduler_does_all_books_though_a_worker_is_killed(studio, tmp_path: Path) -> None:
    recipe, books = studio
    address = tmp_path / "scheduler.json"
    running = [_start("scheduler", "--host", "127.0.0.1", "--port", "0", "--scheduler-file", str(address))]
    try:
        running += [_start("worker", "--scheduler-file", str(address), "--nthreads", "1", "--no-nanny",
                           "--local-directory", str(tmp_path)) for _ in range(2)]  # fmt: skip
        end = time.monotonic() + 60
        while not address.exists() and time.monotonic() < end:
            time.sleep(0.1)
        where = json.loads(address.read_text())["address"]
        command = [sys.executable, "-c", _NO_QT, "recipe", "run", recipe, *books, "--scheduler", where]
        batch = subprocess.Popen([str(w) for w in command], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
        first = batch.stdout.readline()
        running[1].send_signal(signal.SIGKILL)
        rest, problem = batch.communicate(timeout=120)
        assert batch.returncode == 0, first + rest + problem
        assert "4 of 4 books done" in rest
        assert all(set(gaps(book)) == {7.0} for book in books)
    finally:
        for one in running:
            one.kill()
            one.wait()


def test_what_was_done_is_left_out_when_it_is_begun_again_and_failures_are_told(studio, tmp_path: Path) -> None:
    recipe, books = studio
    broken = tmp_path / "broken.drip"
    broken.write_text("no book")
    report = tmp_path / "report.jsonl"
    ran = drip_pot("recipe", "run", recipe, books[0], broken, "--report", report)
    assert ran.returncode == 1
    assert "1 of 2 books done" in ran.stdout
    with report.open("a") as out:
        out.write('{"job": "half a li')
    ran = drip_pot("recipe", "run", recipe, *books[:2], "--report", report, "--jobs", 2)
    assert ran.returncode == 0, ran.stdout
    assert "1 of 1 books done, 1 were done before" in ran.stdout
    assert len(Report(report).done) == 2
    ran = drip_pot("recipe", "run", recipe, books[0], "--scheduler", "tcp://127.0.0.1:9")
    assert ran.returncode == 1
    assert "No scheduler answers" in ran.stderr


def test_parts_and_pots_that_a_book_does_not_have_are_named_or_added(tmp_path: Path) -> None:
    books = []
    for name, pots in (("one", ("Coat", "Sky")), ("two", ("Jacket",))):
        file, book = new_book(tmp_path / f"{name}.drip", name)
        page, _ = import_page(file, book, write_png(tmp_path / "page.png", random_drawing(2)))
        numbers = [verbs.add_pot(book, pot, 1, "#335577") for pot in pots]
        if name == "one":
            verbs.pin_pot(book, page, 4, numbers[0])
            verbs.pin_pot(book, page, 5, numbers[1])
            keep_recipe(tmp_path / "pins.json", recipe_of(book, "Pins", range(len(book.history) - 2, 99)[:2]))
        file.close()
        books.append(file.path)
    recipe = tmp_path / "pins.json"
    refused = drip_pot("recipe", "run", recipe, books[1])
    assert refused.returncode == 1
    assert "which this book does not have" in refused.stdout
    strange = drip_pot("recipe", "run", recipe, books[1], "--called", "Hat=Jacket")
    assert "It speaks of Coat, Sky" in strange.stderr
    done = drip_pot("recipe", "run", recipe, books[1], "--called", "Coat=Jacket", "--add")
    assert done.returncode == 0, done.stdout + done.stderr
    with looking_into(books[1]) as (_, book):
        names = {key: book.pots()[pot].name for key, pot in book.sources(1)[PINS].items()}
    assert names == {4: "Jacket", 5: "Sky"}


def test_what_a_killed_run_did_is_known_from_the_books_whatever_the_report_says(studio, tmp_path: Path) -> None:
    recipe, books = studio
    report = tmp_path / "report.jsonl"
    assert drip_pot("recipe", "run", recipe, books[0], "--pages", "1-3", "--report", report).returncode == 0
    begun, *_ = report.read_text().splitlines()
    report.write_text(begun + "\n")  # it was killed before anything more was noted
    before = steps(books[0])
    ran = drip_pot("recipe", "run", recipe, books[0], "--report", report)
    assert ran.returncode == 0, ran.stderr
    assert ran.stdout.count("done before") == 2, "on page one there was nothing to change"
    assert steps(books[0]) == before + 4, "four pages were left"
    assert drip_pot("recipe", "run", recipe, books[0]).returncode == 0
    assert steps(books[0]) == before + 4, "they are so already"


def steps(book: Path) -> int:
    file, document = open_book(book)
    try:
        return len(document.history)
    finally:
        file.close()


def test_work_goes_to_another_machine_only_encrypted_and_with_a_key(studio, tmp_path: Path) -> None:
    recipe, books = studio
    for address in ("tcp://10.1.2.3:8786", "10.1.2.3:8786", "tls://10.1.2.3:8786"):
        ran = drip_pot("recipe", "run", recipe, books[0], "--scheduler", address)
        assert ran.returncode == 1
        assert "can run any program as you" in ran.stderr
    ran = drip_pot("recipe", "run", recipe, books[0], "--scheduler", "tls://10.1.2.3:8786", "--tls", tmp_path)
    assert "ca.pem is missing" in ran.stderr


def test_books_are_delivered_side_by_side_each_in_a_folder_of_its_own(studio, tmp_path: Path) -> None:
    _, books = studio
    to = tmp_path / "press"
    ran = drip_pot("deliver-all", *books[:2], "--to", to, "--kind", "flats", "--jobs", 2)
    assert ran.returncode == 0, ran.stdout
    for book in books[:2]:
        assert len(list((to / book.stem).glob("*-flats.png"))) == 7
        assert len(list((to / book.stem).glob("*-ticket.txt"))) == 1
    again = drip_pot("deliver-all", books[0], "--to", to, "--kind", "flats")
    assert again.returncode == 1
    assert "exists already" in again.stdout
    wrong = drip_pot("deliver-all", books[0], "--to", to, "--kind", "web-jpeg", "--web", "wide")
    assert wrong.returncode == 1
    assert "exists" not in wrong.stderr
    file, book = open_book(books[0])
    verbs.add_scheme(book, "Dusk")
    file.close()
    copies = drip_pot(
        "deliver-all",
        books[0],
        "--to",
        to,
        "--kind",
        "web-jpeg",
        "--web",
        "width=120",
        "--schemes",
        "all",
        "--force",
    )
    assert copies.returncode == 0, copies.stdout
    pictures = list((to / books[0].stem).glob("*.jpg"))
    assert len(pictures) == 2 * 7
    assert {cv2.imread(str(path)).shape[1] for path in pictures} == {120}
    same = drip_pot("deliver-all", books[0], books[0], "--to", to)
    assert "names of their own" in same.stderr


def _dies(number: int) -> tuple[bool, list[str]]:
    if number == 4:
        import os

        os._exit(3)
    return True, [str(number)]


def test_one_that_kills_its_process_is_told_and_all_others_are_done() -> None:
    jobs = ((place,) for place in range(9))
    came = list(spread(_dies, jobs, 2))
    assert sorted(place for place, _ in came) == list(range(9)), "each is told once"
    assert [place for place, said in came if not said[0]] == [4]
    assert next(jobs, None) is None


def test_regions_of_a_book_are_found_ahead_by_several_processes_and_begun_again(tmp_path: Path) -> None:
    path = tmp_path / "scans.drip"
    file, book = new_book(path, "Scans")
    for seed in range(5):
        import_page(file, book, write_png(tmp_path / f"{seed}.png", random_drawing(seed)))
    pages = list(book.pages())
    with closing(file):
        verbs.mend_line(book, pages[1], (40, 40, 60, 44), np.full((20, 4), 255, np.uint8), "Mend")
        file.connection.execute("UPDATE original_chunk SET data = x'00' WHERE number = 3")
        first = derive(file, book, pages[0]).regions.atoms(book.sources(pages[0]).line.uncut).labels.copy()
        file.connection.execute("DELETE FROM derived")
        file.connection.commit()
    ran = drip_pot("find-regions", path, "--jobs", 2)
    assert ran.returncode == 1
    assert ran.stdout.count("regions before bridges") == 4
    assert "regions of 4 of 5 pages found" in ran.stdout
    again = drip_pot("find-regions", path)
    assert again.stdout.count("[1 of 1]") == 1, "what was found is kept; what failed is tried again"
    with looking_into(path) as (file, book):
        known = [file.recall(atoms_key(book.sources(page).line.uncut)) for page in pages]
        assert [one is not None for one in known] == [True, True, False, True, True]
        assert np.array_equal(unpack_atoms(known[0]).labels, first)
    assert not [left for left in tmp_path.iterdir() if "regions" in left.name]
