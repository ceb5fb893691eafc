# SPDX-License-Identifier: GPL-3.0-or-later
"""The book file: nothing finished is ever lost, and every kind of bad file is met with a sentence."""

import contextlib
import os
import shutil
import signal
import sqlite3
import subprocess
import sys
import textwrap
from datetime import date
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from drip_pot.book import FIRST_ENGINE, Book, MemoryContents, verbs
from drip_pot.book.values import POURS, WEAR
from drip_pot.core.errors import BookLocked, CannotWrite, DripPotError, NewerBook, Unreadable
from drip_pot.core.press import Wear
from drip_pot.files import derive, export_page, import_page, keep_copy, new_book, open_book, rescue
from drip_pot.files.book_file import BookFile
from drip_pot.files.layout import VERSION
from tests.conftest import two_rooms, write_png


@pytest.fixture
def opened(tmp_path: Path) -> tuple[BookFile, Book, int]:
    """A book on disk with one page and one pour."""
    file, book = new_book(tmp_path / "one.drip", "One")
    page, _ = import_page(file, book, write_png(tmp_path / "page.png", two_rooms()))
    verbs.pour(book, page, {1}, 1)
    return file, book, page


def loop(book: Book, page: int, top: int, *, light: bool = False) -> None:
    mask = np.ones((40, 50), bool)
    verbs.shade_mask(book, page, (top, 30, top + 40, 80), mask, mask, light=light)


def test_everything_comes_back_and_undo_goes_on_after_closing(opened: tuple[BookFile, Book, int]) -> None:
    file, book, page = opened
    loop(book, page, 30)
    states = [(book.values(), book.tiles())]
    loop(book, page, 60)
    verbs.pour(book, page, {2}, 2)
    states.append((book.values(), book.tiles()))
    book.undo()
    book.undo()
    file.close()
    file, again = open_book(file.path)
    assert (again.values(), again.tiles()) == states[0]
    assert [s.title for s in again.history] == [s.title for s in book.history]
    assert again.redo() == "Cut shade"
    assert again.redo() == "Pour Hair into a region"
    assert (again.values(), again.tiles()) == states[1]
    while again.undo():
        pass
    assert again.values() == {}
    assert again.tiles() == {}
    file.close()


@given(st.lists(st.sampled_from(["pour", "shade", "light", "undo", "redo", "reopen"]), max_size=12))
def test_the_file_always_holds_what_the_book_holds(tmp_path_factory: pytest.TempPathFactory, acts: list[str]) -> None:
    folder = tmp_path_factory.mktemp("book")
    file, book = new_book(folder / "b.drip", "B")
    page, _ = import_page(file, book, write_png(folder / "p.png", two_rooms()))
    base = book.position
    for number, act in enumerate(acts):
        if act == "pour":
            verbs.pour(book, page, {number + 1}, 1 + number % 3)
        elif act in ("shade", "light"):
            loop(book, page, 10 * number, light=act == "light")
        elif act == "undo" and book.position > base:
            book.undo()
        elif act == "redo":
            book.redo()
        elif act == "reopen":
            before = book.values(), book.tiles(), book.position
            file.close()
            file, book = open_book(file.path)
            assert (book.values(), book.tiles(), book.position) == before
    file.close()


def test_killed_at_any_moment_nothing_finished_is_lost(tmp_path: Path) -> None:
    """A child pours and loops for ever, saying each gesture once it is finished; it is killed in the middle."""
    file, book = new_book(tmp_path / "k.drip", "K")
    import_page(file, book, write_png(tmp_path / "p.png", two_rooms()))
    file.close()
    script = textwrap.dedent(
        """
        import sys, numpy as np
        from pathlib import Path
        from drip_pot.book import verbs
        from drip_pot.files import open_book
        file, book = open_book(Path(sys.argv[1]))
        mask = np.ones((90, 90), bool)
        for number in range(1, 10**6):
            verbs.pour(book, 1, range(number, number + 40), 1 + number % 9)
            top = number * 7 % 100
            verbs.shade_mask(book, 1, (top, top, top + 90, top + 90), mask, mask, light=number % 2 == 0)
            print(book.position, flush=True)
        """
    )
    for rounds in range(3):
        child = subprocess.Popen([sys.executable, "-c", script, str(file.path)], stdout=subprocess.PIPE, text=True)
        assert child.stdout is not None
        said = [child.stdout.readline() for _ in range(5 + 9 * rounds)]
        child.send_signal(signal.SIGKILL)
        rest = child.stdout.read().split()
        child.stdout.close()
        child.wait()
        finished = int((rest or [line.strip() for line in said])[-1])
        back, book = open_book(file.path)
        assert book.position >= finished
        assert len(book.history) == book.position
        reached = book.values(), book.tiles()
        for _ in range(3):
            book.undo()
        for _ in range(3):
            book.redo()
        assert (book.values(), book.tiles()) == reached
        back.close()


def test_the_original_is_kept_byte_for_byte_and_once(opened: tuple[BookFile, Book, int], tmp_path: Path) -> None:
    file, book, page = opened
    data = (tmp_path / "page.png").read_bytes()
    assert file.original(book.sources(page).page.original) == ("page.png", data)
    second, _ = import_page(file, book, tmp_path / "page.png")
    assert book.sources(second).page.original == book.sources(page).page.original
    assert np.array_equal(
        derive(file, book, page).inks.gray(book.sources(page).line, book.sources(page).line.sheets[0]),
        255 - two_rooms(),
    )
    file._db.execute("UPDATE original_chunk SET data = zeroblob(10)")
    with pytest.raises(Unreadable, match="original drawing"):
        file.original(1)
    file.close()


def test_a_second_window_is_told_the_book_is_open(opened: tuple[BookFile, Book, int]) -> None:
    file, _, _ = opened
    with pytest.raises(BookLocked, match="open in another window"):
        open_book(file.path)
    file.close()
    open_book(file.path)[0].close()


def test_a_full_disk_keeps_the_book_as_it_was(opened: tuple[BookFile, Book, int]) -> None:
    file, book, page = opened
    (pages,) = file._db.execute("PRAGMA page_count").fetchone()
    file._db.execute(f"PRAGMA max_page_count = {pages}")
    before, said = (book.values(), book.tiles(), book.position), ""
    for number in range(1000):
        before = book.values(), book.tiles(), book.position
        try:
            verbs.pour(book, page, range(number * 50, number * 50 + 50), 1)
        except CannotWrite as error:
            said = str(error)
            break
    assert "disk is full" in said
    assert (book.values(), book.tiles(), book.position) == before
    file.close()
    file, again = open_book(file.path)
    assert (again.values(), again.position) == (before[0], before[2])
    file.close()


@pytest.mark.parametrize("what", ["file", "folder"])
def test_write_protected_books_open_for_looking(
    opened: tuple[BookFile, Book, int], what: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    file, book, page = opened
    file.close()
    protected = file.path if what == "file" else file.path.parent
    real = os.access
    monkeypatch.setattr(os, "access", lambda p, mode: Path(p) != protected and real(p, mode))
    file, again = open_book(file.path)
    assert "write-protected" in file.read_only
    assert again.values() == book.values()
    with pytest.raises(CannotWrite, match="write-protected"):
        verbs.pour(again, page, {2}, 1)
    assert again.values() == book.values()
    file.keep("anything", b"is not kept")
    file.close()


def test_a_protected_book_of_a_killed_window_shows_its_last_gesture(
    opened: tuple[BookFile, Book, int], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    file, book, page = opened
    verbs.pour(book, page, {7}, 3)
    folder = tmp_path / "protected"
    folder.mkdir()
    for part in (file.path, file.path.with_name(file.path.name + "-wal")):
        (folder / part.name).write_bytes(part.read_bytes())
    real = os.access
    monkeypatch.setattr(os, "access", lambda p, mode: Path(p) != folder and real(p, mode))
    protected, again = open_book(folder / file.path.name)
    assert again.sources(page)[POURS] == {1: 1, 7: 3}
    assert "write-protected" in protected.read_only
    with pytest.raises(CannotWrite):
        again.undo()
    protected.close()
    assert sorted(p.name for p in folder.iterdir()) == ["one.drip", "one.drip-wal"]
    file.close()


def altered(path: Path, *statements: str) -> None:
    db = sqlite3.connect(path)
    for statement in statements:
        db.execute(statement)
    db.commit()
    db.close()


def test_a_newer_book_opens_for_looking_or_asks_for_an_update(opened: tuple[BookFile, Book, int]) -> None:
    file, book, page = opened
    file.close()
    altered(file.path, f"PRAGMA user_version = {VERSION + 1}")
    newer, again = open_book(file.path)
    assert "newer Drip Pot" in newer.read_only
    assert again.values() == book.values()
    with pytest.raises(CannotWrite, match="newer Drip Pot"):
        again.undo()
    newer.close()
    altered(file.path, "DROP TABLE tile")
    with pytest.raises(NewerBook, match="Update the program"):
        open_book(file.path)


def test_wear_of_an_older_layout_becomes_steps_and_what_was_kept_new_stays(opened: tuple[BookFile, Book, int]) -> None:
    file, book, page = opened
    loop(book, page, 30)
    verbs.set_wear(book, page, Wear(seed=3))
    file.close()
    old = '{"fade":0.4,"screen_lpi":65,"age":0,"seed":3,"texture":0.5,"textures":[]}'
    tile = f"INSERT INTO tile SELECT 'page/{page}/plate/4', row, col, data FROM tile LIMIT 1"
    altered(
        file.path, f"UPDATE value SET json = '{old}' WHERE key = 'page/{page}/wear'", tile, "PRAGMA user_version = 7"
    )
    file, again = open_book(file.path)
    wear = again.sources(page)[WEAR]
    assert [(step.kind, step.value, step.number) for step in wear.steps] == [("screen", 65, 1), ("fade", 0.4, 2)]
    assert wear.seed == 3
    assert again.plane(f"page/{page}/worn/0").any()
    assert again.undo() == "Change the wear"
    file.close()


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (None, "There is no book"),
        (b"", "is not a Drip Pot book"),
        (b"SQLite format 4" + b"x" * 5000, "is not a Drip Pot book"),
    ],
)
def test_what_is_no_book_is_said_so(tmp_path: Path, content: bytes | None, words: str) -> None:
    path = tmp_path / "no.drip"
    if content is not None:
        path.write_bytes(content)
    with pytest.raises(Unreadable, match=words):
        open_book(path)
    other = tmp_path / "other.drip"
    altered(other, "CREATE TABLE notes (x)")
    with pytest.raises(Unreadable, match="is not a Drip Pot book"):
        open_book(other)


def test_a_new_book_never_replaces_a_file(tmp_path: Path) -> None:
    (tmp_path / "there.drip").write_text("precious")
    with pytest.raises(CannotWrite, match="exists already"):
        new_book(tmp_path / "there.drip", "There")
    assert (tmp_path / "there.drip").read_text() == "precious"
    with pytest.raises(DripPotError):
        new_book(tmp_path / "nowhere" / "x.drip", "X")


@pytest.mark.parametrize("seed", range(6))
def test_a_damaged_book_yields_what_can_be_read_and_never_a_traceback(
    opened: tuple[BookFile, Book, int], seed: int, tmp_path: Path
) -> None:
    file, book, page = opened
    for top in range(0, 150, 10):
        loop(book, page, top)
    file.close()
    rng = np.random.default_rng(seed)
    data = bytearray(file.path.read_bytes())
    for _ in range(1 + seed):
        spot = int(rng.integers(4096, len(data) - 700))
        data[spot : spot + 700] = rng.bytes(700)
    file.path.write_bytes(bytes(data))
    damaged = bytes(data)
    with contextlib.suppress(DripPotError):
        open_book(file.path)[0].close()
    file.path.write_bytes(damaged)
    out = tmp_path / "saved.drip"
    try:
        saved = rescue(file.path, out)
    except Unreadable:
        return
    assert file.path.read_bytes() == damaged, "the damaged file is left as it is"
    back, again = open_book(out)
    assert saved["value"] == len(again.values()) > 0
    known = book.values()
    assert all(known.get(key) == text for key, text in again.values().items() if key in known)
    while again.undo():
        pass
    back.close()


def test_an_undamaged_book_is_rescued_whole(opened: tuple[BookFile, Book, int], tmp_path: Path) -> None:
    file, book, page = opened
    loop(book, page, 20)
    file.close()
    rescue(file.path, tmp_path / "copy.drip")
    back, again = open_book(tmp_path / "copy.drip")
    assert (again.values(), again.tiles(), again.position) == (book.values(), book.tiles(), book.position)
    assert back.original(1)[0] == "page.png"
    back.close()
    with pytest.raises(CannotWrite, match="exists already"):
        rescue(file.path, tmp_path / "copy.drip")


def test_undo_tiles_are_kept_within_bounds(opened: tuple[BookFile, Book, int], monkeypatch: pytest.MonkeyPatch) -> None:
    file, book, page = opened
    for top in range(0, 160, 20):
        loop(book, page, top)
    steps, path = len(book.history), file.path
    reached = book.values(), book.tiles()
    file.close()
    monkeypatch.setattr("drip_pot.files.pruning._UNDO_BYTES", 900)
    file, again = open_book(path)
    assert 0 < len(again.history) < steps
    assert (again.values(), again.tiles()) == reached
    while again.undo():
        pass
    while again.redo():
        pass
    assert (again.values(), again.tiles()) == reached
    file.close()


def reread(path: Path) -> Book:
    file, book = open_book(path)
    held = Book(None, MemoryContents(book.values(), book.tiles()), book.history, book.position)
    file.close()
    return held


@pytest.mark.parametrize("how", ["rename", "delete", "replace"])
def test_a_book_moved_away_while_open_goes_on_in_a_new_file(
    opened: tuple[BookFile, Book, int], tmp_path: Path, how: str
) -> None:
    file, book, page = opened
    told: list[str] = []
    file.moved = told.append
    loop(book, page, 30)
    away = tmp_path / "away.drip"
    if how == "rename":
        file.path.rename(away)
    else:
        file.path.unlink()
        if how == "replace":
            file.path.write_bytes(b"somebody else's")
    verbs.pour(book, page, {2}, 2)
    loop(book, page, 60)
    state = book.values(), book.tiles(), len(book.history)
    assert len(told) == 1
    assert str(file.path) in told[0]
    assert file.path.name == "one-2.drip"
    file.close()
    again = reread(file.path)
    assert (again.values(), again.tiles(), len(again.history)) == state
    if how == "rename":
        assert len(reread(away).history) == state[2] - 2
    if how == "replace":
        assert (tmp_path / "one.drip").read_bytes() == b"somebody else's"


def test_a_settled_book_is_whole_without_its_journal(opened: tuple[BookFile, Book, int], tmp_path: Path) -> None:
    file, book, page = opened
    loop(book, page, 30)
    file.settle()
    copy = tmp_path / "copy.drip"
    copy.write_bytes(file.path.read_bytes())
    assert reread(copy).tiles() == book.tiles()
    file.close()


def test_the_journal_of_another_file_is_set_aside(opened: tuple[BookFile, Book, int], tmp_path: Path) -> None:
    file, book, page = opened
    file.settle()
    backup, early = file.path.read_bytes(), book.values()
    verbs.pour(book, page, {2}, 2)
    file.settle()
    verbs.pour(book, page, {3}, 3)
    journal = Path(f"{file.path}-wal").read_bytes()
    late = book.values()
    whole = file.path.read_bytes()
    file.close()
    for content, wanted, aside in ((backup, early, 1), (whole, late, 0)):
        place = tmp_path / f"put-{aside}.drip"
        place.write_bytes(content)
        Path(f"{place}-wal").write_bytes(journal)
        assert reread(place).values() == wanted
        assert len(list(tmp_path.glob(f"{place.name}-other-*"))) == aside


def test_rescue_reads_the_journal_and_survives_garbage(opened: tuple[BookFile, Book, int], tmp_path: Path) -> None:
    file, book, page = opened
    file.settle()
    for number in range(20):
        verbs.pour(book, page, {number + 2}, 1 + number % 3)
    place = tmp_path / "killed.drip"
    place.write_bytes(file.path.read_bytes())
    Path(f"{place}-wal").write_bytes(Path(f"{file.path}-wal").read_bytes())
    known = book.values()
    file.close()
    assert rescue(place, tmp_path / "saved.drip")["edit"] == len(book.history)
    with sqlite3.connect(file.path) as db:
        db.execute("UPDATE change SET key = x'ff00', after = 7 WHERE number = 3")
    db.close()
    assert rescue(file.path, tmp_path / "again.drip")["value"] > 0
    assert reread(tmp_path / "again.drip").values() == known


@pytest.mark.parametrize("undone", [0, 3, 6])
def test_pruning_leaves_whole_gestures_and_what_was_undone(
    opened: tuple[BookFile, Book, int], monkeypatch: pytest.MonkeyPatch, undone: int
) -> None:
    file, book, page = opened
    for number in range(3):
        with book.as_one():
            loop(book, page, 20 * number)
            loop(book, page, 20 * number + 7)
    states = [(book.values(), book.tiles())]
    for _ in range(undone // 2):
        book.undo()
        states.insert(0, (book.values(), book.tiles()))
    file.close()
    monkeypatch.setattr("drip_pot.files.pruning._UNDO_BYTES", 1)
    file, again = open_book(file.path)
    for state in states:
        assert (again.values(), again.tiles()) == state
        again.redo()
    while again.undo():
        assert not again.history[again.position].joined
    file.close()


def test_a_gesture_that_fails_half_way_was_never_made(opened: tuple[BookFile, Book, int]) -> None:
    file, book, page = opened
    verbs.pour(book, page, {2}, 2)
    book.undo()
    before = book.values(), book.tiles(), book.position, list(book.history)

    def fail() -> None:
        with book.as_one():
            loop(book, page, 30)
            verbs.pour(book, page, {3}, 2)
            raise ZeroDivisionError

    with pytest.raises(ZeroDivisionError):
        fail()
    assert (book.values(), book.tiles(), book.position, list(book.history)) == before
    assert book.redo() is not None
    after = book.values()
    file.close()
    assert reread(file.path).values() == after


def test_books_of_the_first_layout_open_with_the_same_picture(tmp_path: Path) -> None:
    old = Path(__file__).parent / "old"
    for protected in (True, False):
        place = tmp_path / f"old-{protected}.drip"
        shutil.copyfile(old / "layout-1.drip", place)
        place.chmod(0o444 if protected else 0o644)
        before = place.read_bytes()
        file, book = open_book(place)
        (page,) = book.pages()
        (written,) = export_page(book, derive(file, book, page), page, tmp_path / str(protected), kinds=("flats",))
        now, then = (np.asarray(Image.open(p).convert("RGB")) for p in (written, old / "layout-1-flats.png"))
        assert (now == then).all(axis=2).mean() > 0.99
        assert book.sources(page).cut.engine == FIRST_ENGINE
        file.close()
        assert protected == (place.read_bytes() == before) or os.geteuid() == 0


def test_branches_outlive_closing_and_forgetting_them_drops_what_only_they_know(
    opened: tuple[BookFile, Book, int], tmp_path: Path
) -> None:
    file, book, page = opened
    start = book.position
    import_page(file, book, write_png(tmp_path / "study.png", two_rooms(rows=90)))
    study = book.position, book.values()
    book.go_to(start)
    loop(book, page, 20)
    tip = book.position, book.values(), book.tiles()
    file.close()
    file, again = open_book(file.path)
    again.go_to(study[0])
    assert again.values() == study[1], "the drawing that was taken back is there"
    again.go_to(tip[0])
    assert (again.values(), again.tiles()) == tip[1:]
    before = file.connection.execute("SELECT count(*) FROM original").fetchone()[0]
    assert again.forget_branches() == study[0] - start
    file.close()
    file, again = open_book(file.path)
    assert file.connection.execute("SELECT count(*) FROM original").fetchone()[0] == before - 1
    assert (again.values(), again.tiles()) == tip[1:]
    while again.undo():
        pass
    while again.redo():
        pass
    assert (again.values(), again.tiles()) == tip[1:]
    file.close()


def test_copies_are_kept_one_a_day_the_last_three_while_the_book_is_in_use(tmp_path: Path) -> None:
    file, book = new_book(tmp_path / "kites.drip", "Kites")
    try:
        folder = tmp_path / "copies"
        days = [date(2026, 3, day) for day in (1, 2, 3, 4)]
        made = [keep_copy(file, folder, day) for day in days]
        assert keep_copy(file, folder, days[-1]) is None, "there is one of today"
        assert sorted(folder.iterdir()) == sorted(made[1:])
        verbs.name_book(book, "Later")
        other, copied = open_book(made[-1])
        assert copied.info.title == "Kites"
        other.close()
        (tmp_path / "file").write_text("")
        with pytest.raises(CannotWrite, match="copies"):
            keep_copy(file, tmp_path / "file" / "copies", days[0])
    finally:
        file.close()
