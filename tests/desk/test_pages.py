# SPDX-License-Identifier: GPL-3.0-or-later
"""The contact sheet and schemes in the real window."""

import shutil
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

import msgspec
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QCheckBox, QFileDialog, QLineEdit

from drip_pot.book import verbs
from drip_pot.book.derive.regions import atoms_key
from drip_pot.book.values import FLATS, INKS, POURS
from drip_pot.core.inks import InkSettings
from drip_pot.desk.dialogs.bringing import BringDialog, SameNames
from drip_pot.desk.dialogs.compare import SideBySide
from drip_pot.desk.dialogs.contact import ContactSheet
from drip_pot.desk.dialogs.history import HistoryDialog
from drip_pot.desk.dialogs.loans import ReturnDialog
from drip_pot.files import open_book
from tests.desk.conftest import Driver

Answer = Callable[[Callable[[object], None]], None]


@pytest.fixture
def sheet(demo: Driver):
    found = ContactSheet(demo.window, demo.easel, {})
    found.show()
    yield found
    found.close()


def test_every_page_is_seen_with_how_far_it_is(demo: Driver, sheet: ContactSheet) -> None:
    assert sheet.list.count() == len(demo.book.pages())
    demo.qtbot.waitUntil(lambda: bool(sheet._small), timeout=60_000)
    text = sheet.list.item(0).text()
    assert demo.book.pages()[demo.easel.page].name in text
    assert "poured" in text
    assert not sheet.list.item(0).icon().isNull()


def test_pages_are_ordered_copied_opened_and_removed(demo: Driver, sheet: ContactSheet, answer) -> None:
    count, (first, second) = len(demo.book.pages()), list(demo.book.pages())[:2]
    QTest.keyClick(sheet.list, Qt.Key.Key_Right, Qt.KeyboardModifier.AltModifier)
    assert list(demo.book.pages())[:2] == [second, first]
    assert sheet.chosen() == [first], "what was chosen stays so"
    sheet.buttons[4].click()
    assert len(demo.book.pages()) == count + 1
    answer(lambda dialog: None)
    sheet._remove()
    assert first not in demo.book.pages()
    demo.settle()
    assert demo.easel.page in demo.book.pages()
    demo.easel.undo()
    assert first in demo.book.pages()
    sheet.list.setCurrentRow(0)
    sheet._open()
    demo.settle()
    assert demo.easel.page == second


def test_a_scheme_is_made_used_and_compared_without_changing_the_book(demo: Driver) -> None:
    schemes = demo.window.pots.schemes
    schemes.next()
    assert "one set of colours" in demo.said()
    demo.easel.do(lambda book, _: verbs.add_scheme(book, "Dusk"))
    pot = demo.pot("Coat")
    at = demo.middle("Coat")
    old = demo.book.pots()[pot]
    demo.easel.do(lambda book, _: verbs.set_pot(book, pot, type(old)(old.name, old.part, "#102840")))
    demo.settle()
    dusk = demo.color_at(*at)
    schemes.next()
    demo.settle()
    assert demo.color_at(*at) == old.local != dusk
    position = demo.book.position
    schemes.compare()
    shown = demo.window.findChild(SideBySide)
    demo.qtbot.waitUntil(lambda: len(shown._known) == 3, timeout=60_000)
    one, two, line = shown.views
    assert [view.seen.accessibleName().split(", ")[1:] for view in shown.views] == [
        ["First colours", "In colour"], ["Dusk", "In colour"], ["First colours", "The line alone"]
    ]  # fmt: skip
    across, down = at[1] / demo.easel.view.shape[1], at[0] / demo.easel.view.shape[0]
    seen = [QColor(view.seen._levels[0].pixel(*(round(s * side) for s, side in zip(
        (across, down), (view.seen._levels[0].width(), view.seen._levels[0].height()), strict=True)))).name()
        for view in (one, two)]  # fmt: skip
    assert seen == [old.local, "#102840"]
    QTest.keyClicks(one.seen, "++")
    assert one.seen.box().width() > one.seen.width()
    assert two.seen.box() == one.seen.box() == line.seen.box(), "they move together"
    two.manners.setCurrentIndex(two.manners.findData("plan"))
    two.manners.activated.emit(0)
    assert "No plan of values" in two.seen.words
    two.pages.setCurrentIndex(1)
    two.manners.setCurrentIndex(0)
    two.pages.activated.emit(0)
    demo.qtbot.waitUntil(lambda: two.sight in shown._known, timeout=60_000)
    assert two.sight.page == list(demo.book.pages())[1]
    assert demo.book.position == position
    shown.close()


def test_pages_are_worked_out_ahead_of_being_opened(demo: Driver) -> None:
    ahead, pages = demo.easel.ahead, list(demo.book.pages())
    demo.easel.show_page(pages[5])
    demo.settle()
    ahead.work.drop()
    ahead.done.clear()
    assert ahead.next_page() == pages[6], "the one after it first"
    inks = msgspec.structs.replace(demo.book.sources(pages[6])[INKS][0], settings=InkSettings(weight_px=1.0))
    verbs.set_inks(demo.book, pages[6], inks)
    line = demo.book.sources(pages[6]).line
    assert demo.easel.file.recall(atoms_key(line.uncut)) is None
    demo.qtbot.waitUntil(lambda: not ahead.work.busy(), timeout=60_000)
    ahead.go_on()
    demo.qtbot.waitUntil(lambda: ahead.done.get(pages[6]) == line, timeout=60_000)
    assert demo.easel.file.recall(atoms_key(line.uncut)) is not None, "it is in the book's file"
    demo.easel.show_page(pages[-1])
    ahead.done.clear()
    assert ahead.next_page() == pages[-2]


def test_a_page_is_there_as_it_was_seen_until_it_is_read(demo: Driver) -> None:
    last, page = demo.canvas.last, demo.easel.page
    demo.settle()
    last.keep()
    demo.qtbot.waitUntil(lambda: not last.work.busy(), timeout=20_000)
    seen = demo.canvas.grab().toImage()
    demo.easel.show_page(list(demo.book.pages())[1])
    assert last.picture is not None, "as it came in: nothing is kept of that page yet"
    demo.settle()
    demo.easel.show_page(page)
    assert demo.easel.view is None
    rows, cols = demo.book.pages()[page].rows, demo.book.pages()[page].cols
    assert last.size == (rows, cols)
    at_once = demo.canvas.grab().toImage()
    spots = [
        demo.canvas.to_widget(rows * (k + 1) / 9, cols * (j + 1) / 9).toPoint() for k in range(8) for j in range(8)
    ]
    alike = sum(abs(at_once.pixelColor(p).lightness() - seen.pixelColor(p).lightness()) < 40 for p in spots)
    assert alike > 0.8 * len(spots)
    demo.settle()
    demo.canvas.grab()
    assert last.picture is None, "the page itself is seen now"


def test_history_tells_page_and_place_and_undo_goes_to_the_page_it_undoes(demo: Driver) -> None:
    first, second = list(demo.book.pages())[:2]
    demo.keys("Alt+2", "P")
    demo.easel.choose_pot(demo.pot("Cobalt"))
    demo.click(*demo.middle("Air"))
    demo.settle()
    history = HistoryDialog(demo.window, demo.easel)
    demo.qtbot.waitUntil(lambda: not history._cutting.isActive(), timeout=30_000)
    item = history.list.item(history.list.count() - 1)
    assert item.text() == f"Pour Cobalt into a region · {demo.book.pages()[first].name}"
    assert not item.icon().isNull(), "a small picture of the place"
    history.close()
    demo.easel.show_page(second)
    demo.settle()
    demo.keys("Ctrl+Z")
    assert demo.easel.page == first
    demo.settle()
    assert demo.pot_at(*demo.middle("Air")) == "Air"
    demo.easel.show_page(second)
    demo.keys("Ctrl+Shift+Z")
    assert demo.easel.page == first


def test_a_page_goes_out_and_comes_back_and_what_both_changed_is_asked(
    demo: Driver, monkeypatch: pytest.MonkeyPatch, answer, tmp_path: Path
) -> None:
    easel, book = demo.easel, demo.book
    page = list(book.pages())[2]
    easel.show_page(page)
    demo.settle()
    target = tmp_path / "nora.drip"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(target), ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(target), ""))
    answer(lambda dialog: dialog.findChild(QLineEdit).setText("Nora"))
    demo.window.books.loans.send()
    demo.settle()
    assert "went out to Nora" in demo.said()
    file, theirs = open_book(target)
    with closing(file):
        assert list(theirs.pages()) == [page]
        verbs.pour(theirs, page, [5, 6], 1)
        verbs.set_gap(theirs, page, 9.0)
    verbs.pour(book, page, [6], 2)
    before = book.values()
    seen = []

    def tick(dialog: ReturnDialog) -> None:
        seen.extend(box.text() for box in dialog.findChildren(QCheckBox))
        dialog.findChildren(QCheckBox)[0].setChecked(True)

    answer(tick)
    demo.window.books.loans.take()
    demo.settle()
    names = book.pots()
    assert seen == [f"Market day: {names[2].name} here, {names[1].name} there: one region"]
    assert [book.sources(page)[POURS][atom] for atom in (5, 6)] == [1, 1]
    assert book.sources(page)[FLATS].gap_px == 9.0
    easel.undo()
    assert book.values() == before
    demo.settle()
    target.write_bytes(b"no book")
    demo.window.books.loans.take()
    demo.settle()
    assert "nora.drip" in demo.said()


def test_a_page_and_a_scheme_of_another_book_are_ticked_asked_about_once_and_brought_in(
    demo: Driver, monkeypatch: pytest.MonkeyPatch, answer, tmp_path: Path
) -> None:
    easel, book = demo.easel, demo.book
    other = Path(shutil.copy(easel.file.path, tmp_path / "other.drip"))
    file, theirs = open_book(other)
    with closing(file):
        coat = demo.pot("Coat")
        verbs.set_pot(theirs, coat, msgspec.structs.replace(theirs.pots()[coat], local="#118844", shadow="#0a4422"))
        verbs.add_scheme(theirs, "Dusk")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(other), ""))
    before, pages = book.values(), len(book.pages())

    def choose(dialog: BringDialog) -> None:
        assert not dialog.yes.isEnabled(), "nothing is ticked"
        for name, words in (("pages", "1   Torn in the wind"), ("schemes", "Dusk")):
            next(box for box in dialog.boxes[name].values() if box.text() == words).click()

    def apart(dialog: SameNames) -> None:
        assert [box.text() for box in dialog.boxes.values()] == ["Coat"]
        dialog.boxes[coat].click()

    answer(lambda dialog: (choose if isinstance(dialog, BringDialog) else apart)(dialog))
    demo.window.books.bringing.ask()
    demo.qtbot.waitUntil(lambda: len(book.pages()) > pages, timeout=60_000)
    demo.settle()
    assert easel.page == list(book.pages())[-1], "what came is shown"
    assert demo.color_at(*demo.middle("Coat 2")) == "#118844"
    assert {one.name for one in book.schemes().values()} == {"First colours", "Dusk"}
    easel.undo()
    assert book.values() == before
    other.write_bytes(b"no book")
    demo.window.books.bringing.ask()
    demo.settle()
    assert "other.drip" in demo.said()
