# SPDX-License-Identifier: GPL-3.0-or-later
"""What stands beside a book and beside us: other processes in all pairs, file dialogs, programs that write over it."""

import contextlib
import os
import shutil
import signal
import subprocess
import sys
import textwrap
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.book import Book, verbs
from drip_pot.book.values import POURS
from drip_pot.core.errors import BookLocked, CannotWrite
from drip_pot.files import BookFile, check_outputs, import_page, look_into, new_book, open_book
from drip_pot.files.lock import lock_of
from drip_pot.files.outputs import all_in_place
from tests.conftest import two_rooms, write_png
from tests.test_cli import drip_pot

HOLDER = textwrap.dedent(
    """
    import sys
    from pathlib import Path
    from drip_pot.book import verbs
    from drip_pot.files import open_book
    file, book = open_book(Path(sys.argv[1]))
    file.shelter()
    for line in sys.stdin:
        if line.strip() == "look":  # as a file dialog does that learns a file's kind
            Path(sys.argv[1]).open("rb").close()
        else:
            verbs.pour(book, 1, {book.position + 1}, 1)
        print(book.position, flush=True)
    """
)


@pytest.fixture
def path(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A closed book with one page and one pour."""
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    (tmp_path / "books").mkdir()
    file, book = new_book(tmp_path / "books" / "one.drip", "One")
    page, _ = import_page(file, book, write_png(tmp_path / "page.png", two_rooms()))
    verbs.pour(book, page, {1}, 1)
    file.close()
    return file.path


@contextlib.contextmanager
def held(path: Path) -> Iterator[subprocess.Popen]:
    """Another process that has a book open, and was looked at by a file dialog of its own."""
    child = subprocess.Popen(
        [sys.executable, "-c", HOLDER, str(path)], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
    )
    try:
        for word in ("pour", "look", "pour"):
            last = asked(child, word)
        assert last > 0
        yield child
    finally:
        child.kill()
        child.communicate()


def asked(child: subprocess.Popen, word: str) -> int:
    child.stdin.write(word + "\n")
    child.stdin.flush()
    return int(child.stdout.readline())


def beside(path: Path) -> dict[str, bytes]:
    return {one.name: one.read_bytes() for one in sorted(path.parent.iterdir())}


@pytest.mark.parametrize("words", [
    ("tell", "BOOK"), ("thumbnail", "BOOK", "OUT.png"), ("picture", "BOOK", "--out", "OUT.png", "--scale", "0.2"),
    ("deliver", "BOOK", "--to", "OUT", "--kind", "flats"), ("left", "BOOK"), ("export", "BOOK", "--out", "OUT"),
    ("recipe", "keep", "BOOK", "--out", "OUT.json"), ("rescue", "BOOK", "--out", "OUT.drip"),
])  # fmt: skip
def test_who_only_reads_a_book_sees_the_last_gesture_and_leaves_no_trace(path: Path, tmp_path: Path, words) -> None:
    with held(path) as owner:
        before = beside(path)
        ran = drip_pot(*(str(path) if w == "BOOK" else w.replace("OUT", str(tmp_path / "out")) for w in words))
        assert ran.returncode in (0, 1), ran.stderr
        assert "Traceback" not in ran.stderr
        assert ran.returncode == 0 or words[0] == "left", ran.stderr
        assert beside(path) == before
        file, book = look_into(path)
        assert len(book.sources(1)[POURS]) == 3
        file.close()
        done = asked(owner, "pour")
    file, book = open_book(path)
    assert book.position == done, "what was done under the reader is there after a kill"
    file.close()
    assert [p.name for p in path.parent.iterdir()] == [path.name]


@pytest.mark.parametrize("words", [
    ("do", "BOOK", "set-gap", '{"gap_px": 9}'), ("place", "BOOK", "PICTURE"),
    ("bring-flats", "BOOK", "PICTURE", "--page", "1"),
])  # fmt: skip
def test_who_writes_is_told_who_has_the_book(path: Path, tmp_path: Path, words) -> None:
    with held(path) as owner:
        before = beside(path)
        ran = drip_pot(*(w.replace("BOOK", str(path)).replace("PICTURE", str(tmp_path / "page.png")) for w in words))
        assert ran.returncode == 1
        assert f"process {owner.pid}" in ran.stderr
        assert "Close it there first" in ran.stderr
        assert beside(path) == before
        with pytest.raises(BookLocked, match=f"process {owner.pid}"):
            open_book(path)
        assert beside(path) == before


def test_a_lock_left_by_a_killed_program_locks_nothing_and_one_in_this_program_does(path: Path) -> None:
    with held(path):
        pass
    assert lock_of(path).exists()
    file, _ = open_book(path)
    with pytest.raises(BookLocked, match=r"another window\. Close it there"):
        open_book(path)
    path.open("rb").close()
    with pytest.raises(BookLocked):
        open_book(path)
    file.close()
    assert not lock_of(path).exists()


def older(path: Path) -> Path:
    """A copy of the book as it is now, and three pours more in the book itself."""
    copy = Path(shutil.copy(path, path.parent.parent / "older.drip"))
    file, book = open_book(path)
    for atom in (2, 3, 4):
        verbs.pour(book, 1, {atom}, 1)
    file.close()
    return copy


def begun(path: Path, *, sheltered: bool = True) -> tuple[BookFile, Book, list[str]]:
    file, book = open_book(path)
    if sheltered:
        file.shelter()
    told: list[str] = []
    file.moved = told.append
    verbs.pour(book, 1, {5}, 2)
    file.settle()
    verbs.pour(book, 1, {6}, 2)
    return file, book, told


@pytest.mark.parametrize("how", ["cp", "truncate", "in place"])
def test_a_book_written_over_in_place_goes_on_in_a_new_file(path: Path, how: str) -> None:
    backup = older(path)
    file, book, told = begun(path)
    if how == "cp":
        subprocess.run(["cp", backup, path], check=True)
    elif how == "truncate":
        path.write_bytes(b"gone")
    else:  # as a synchronised folder does, piece by piece
        with path.open("r+b") as out:
            out.write(backup.read_bytes())
    theirs = path.read_bytes()
    verbs.pour(book, 1, {7}, 2)
    state = book.values(), len(book.history)
    assert len(told) == 1
    assert "one-2.drip" in told[0]
    assert file.path.name == "one-2.drip"
    file.close()
    assert path.read_bytes() == theirs, "what was put there is not touched"
    file, again = open_book(path.with_name("one-2.drip"))
    assert (again.values(), len(again.history)) == state
    file.close()
    assert sorted(p.name for p in path.parent.iterdir()) == ["one-2.drip", "one.drip"]


def test_a_book_that_is_only_touched_goes_on_and_one_without_a_shelter_is_given_up_in_words(path: Path) -> None:
    backup = older(path)
    file, book, told = begun(path)
    os.utime(path)
    verbs.pour(book, 1, {7}, 2)
    assert told == []
    assert file.path == path
    file.close()
    file, book, told = begun(path, sheltered=False)
    subprocess.run(["cp", backup, path], check=True)
    theirs = path.read_bytes()
    for _ in range(2):
        with pytest.raises(CannotWrite, match="written over from outside"):
            verbs.pour(book, 1, {8}, 2)
    file.close()
    assert path.read_bytes() == theirs


def test_a_killed_window_whose_book_was_written_over_loses_nothing(path: Path) -> None:
    backup = older(path)
    with held(path) as owner:
        done = asked(owner, "pour")
        subprocess.run(["cp", backup, path], check=True)
        owner.send_signal(signal.SIGKILL)
        owner.wait()
    file, book = open_book(path)
    assert len(book.sources(1)[POURS]) == 1, "the book that was put there"
    assert "one-2.drip" in file.notes[0]
    file.close()
    file, book = open_book(path.with_name("one-2.drip"))
    assert book.position == done
    file.close()
    assert sorted(p.name for p in path.parent.iterdir()) == ["one-2.drip", "one.drip"]


def test_a_journal_that_holds_only_what_was_worked_out_is_no_strangers(path: Path) -> None:
    code = "import sys; from pathlib import Path; from drip_pot.files import open_book; import os\n"
    code += "file, _ = open_book(Path(sys.argv[1])); file.keep('look/1', b'x'); os._exit(9)"
    subprocess.run([sys.executable, "-c", code, str(path)], check=False)
    file, _ = open_book(path)
    assert file.notes == []
    assert file.recall("look/1") == b"x"
    file.close()
    assert [p.name for p in path.parent.iterdir()] == [path.name]


def test_outputs_go_through_one_door(path: Path, tmp_path: Path) -> None:
    second, page = Path(shutil.copy(path, path.with_name("two.drip"))), tmp_path / "page.png"
    before = second.read_bytes()
    for words in (
        ("thumbnail", path, second), ("thumbnail", path, path), ("picture", path, "--out", second, "--force"),
        ("line", page, "--out", tmp_path / "missing" / ".." / "page.png", "--force"),
        ("recipe", "run", page, path, "--report", second), ("demo", "--book", second),
        ("palette", path, "--out", tmp_path / "books" / "nowhere" / ".." / "one.drip", "--force"),
    ):  # fmt: skip
        ran = drip_pot(*words)
        assert ran.returncode == 1, words
        assert "Traceback" not in ran.stderr
    assert second.read_bytes() == before == path.read_bytes()
    out = tmp_path / "small.png"
    out.touch()  # desktops give an empty file of theirs
    for _ in range(2):
        assert drip_pot("thumbnail", path, out).returncode == 0
    (tmp_path / "works").mkdir()
    (tmp_path / "works" / "page-1.png").write_text("mine")
    assert "exists already" in drip_pot("demo", "--render", tmp_path / "works", "--dpi", "30").stderr
    assert (tmp_path / "works" / "page-1.png").read_text() == "mine"


@given(st.sets(st.integers(0, 3)), st.sets(st.integers(0, 3)))
def test_files_come_all_or_none_whatever_stands_in_the_way(tmp_path_factory, there, folders) -> None:
    folder = tmp_path_factory.mktemp("out")
    targets = [folder / f"{k}.png" for k in range(4)]
    for k in folders:
        targets[k].mkdir()
    for k in there - folders:
        targets[k].write_text("old")

    def write() -> None:
        with all_in_place(targets) as aside:
            for target in targets:
                (aside / target.name).write_text("new")

    if folders:
        with pytest.raises(CannotWrite, match="stands in the way"):
            write()
        with pytest.raises(CannotWrite, match="is a folder"):
            check_outputs(targets, force=True)
        assert {p.name for p in folder.iterdir()} == {f"{k}.png" for k in there | folders}
        assert all(targets[k].read_text() == "old" for k in there - folders)
    else:
        write()
        assert [t.read_text() for t in targets] == ["new"] * 4
        assert len(list(folder.iterdir())) == 4


KILLED = """
import os, sys
from pathlib import Path
from drip_pot.files.outputs import all_in_place
folder, at = Path(sys.argv[1]), int(sys.argv[2])
targets, moved, real = [folder / f"{k}.txt" for k in range(4)], [], os.replace
def replace(self, target):
    if len(moved) == at:
        os._exit(9)
    moved.append(target)
    real(self, target)
Path.replace = replace
with all_in_place(targets) as aside:
    for target in targets:
        (aside / target.name).write_text("new")
    if at == 9:
        os._exit(9)
"""


@pytest.mark.parametrize("at", [0, 2, 9])
def test_what_a_killed_delivery_left_is_finished_or_taken_away_by_the_next(tmp_path: Path, at: int) -> None:
    (tmp_path / "0.txt").write_text("old")
    subprocess.run([sys.executable, "-c", KILLED, str(tmp_path), str(at)], check=False)
    assert len(list(tmp_path.glob(".drip-pot-*"))) == 1
    with all_in_place([tmp_path / "other.txt"]) as aside:
        (aside / "other.txt").write_text("next")
    found = {p.name: p.read_text() for p in tmp_path.iterdir()}
    assert found.pop("other.txt") == "next"
    assert found == ({"0.txt": "old"} if at == 9 else {f"{k}.txt": "new" for k in range(4)})
