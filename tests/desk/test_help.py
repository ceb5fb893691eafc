# SPDX-License-Identifier: GPL-3.0-or-later
"""Help in the real window: the manual, an action found by its name, books used before."""

import re
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage, QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from drip_pot.book.store import planes
from drip_pot.book.values import PRESS
from drip_pot.core.press import CONDITIONS
from drip_pot.desk.dialogs.find_action import FindAction
from drip_pot.desk.dialogs.manual import TEXT, Manual
from drip_pot.desk.dialogs.own_keys import ChangeKeys
from drip_pot.desk.dialogs.settings import Settings, folder_of, pen_power
from drip_pot.desk.dialogs.trouble import Trouble
from drip_pot.desk.memory import copies_folder, picture_file, recent, used
from drip_pot.desk.parts import theme
from drip_pot.desk.parts.lengths import size_text
from drip_pot.desk.parts.own_keys import USUAL, OwnKeys
from drip_pot.desk.parts.widgets import NumberRow
from drip_pot.desk.stages import STAGES
from drip_pot.desk.trouble import began, ended, keep_report, log_folder, report_of, reports
from tests.conftest import two_rooms, write_png
from tests.desk.conftest import Driver


def test_logs_go_elsewhere_where_a_home_cannot_be_written(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_STATE_HOME", "/dev/null/state")
    folder = log_folder()
    (folder / "try").write_text("")
    (folder / "try").unlink()


def test_anything_is_found_by_typing_and_done_by_enter(demo: Driver) -> None:
    dialog = FindAction(demo.window, demo.window.helping.entries)
    dialog.show()
    QTest.keyClicks(dialog.text, "values grey")
    assert dialog.list.count() == 1
    before = demo.window.seen["values"]
    dialog.text.returnPressed.emit()
    assert demo.window.seen["values"] != before
    assert not dialog.isVisible()
    dialog = FindAction(demo.window, demo.window.helping.entries)
    QTest.keyClicks(dialog.text, "scheme")
    titles = [dialog.list.item(row).text() for row in range(dialog.list.count())]
    assert any("Compare pages, schemes" in title for title in titles)
    QTest.keyClick(dialog.text, Qt.Key.Key_Down)
    assert dialog.list.currentRow() == 1
    QTest.keyClicks(dialog.text, "nothing like it")
    assert dialog.list.count() == 0
    dialog._do()


def test_the_manual_has_every_stage_and_opens_at_the_one_in_use(demo: Driver) -> None:
    text = TEXT.read_text(encoding="utf-8")
    pictures = re.findall(r"!\[[^\]]+\]\(([^)]+)\)", text)
    assert len(pictures) == len(STAGES)
    assert all(QImage(str(TEXT.parent / name)).width() > 400 for name in pictures)
    for stage in STAGES:
        assert f"\n## {stage}\n" in text
    for words in ("Ctrl+K", "Ctrl+Shift+G", "Ctrl+Shift+S", "Ctrl+E"):
        keys = {key for _, _, key, _ in demo.window.helping.entries}
        assert words in text
        assert words in keys, "what the manual names is there"
    manual = Manual(demo.window, "Press")
    assert manual.page.textCursor().block().text() == "Press"
    manual.text.setText("trap the untrappable")
    assert not manual.look_for()
    manual.text.setText("job ticket")
    assert manual.look_for()


def test_books_used_before_are_offered_where_nothing_is_open(window: Driver, tmp_path: Path) -> None:
    there, gone = tmp_path / "there.drip", tmp_path / "gone.drip"
    there.write_bytes(b"")
    settings = window.window.settings
    for path in (gone, there, gone):
        used(settings, path)
    assert recent(settings) == [gone, there]
    welcome = window.window.welcome
    welcome.show_books(recent(settings))
    names = [welcome._recent.itemAt(k).widget().text() for k in range(1, welcome._recent.count())]
    assert len(names) == 1
    assert names[0].startswith("there")
    assert not welcome.isHidden()
    settings.setValue("recent", "{")
    assert recent(settings) == []


def test_lengths_are_shown_and_taken_in_the_unit_chosen(window: Driver) -> None:
    row = NumberRow("Lighter spreads by", 0, 1, 0.01, "mm", 2)
    window.qtbot.addWidget(row)
    row.show()
    row.activateWindow()
    row.box.setFocus()
    window.qtbot.waitUntil(row.box.hasFocus)
    heard: list[float] = []
    row.done.connect(heard.append)
    row.show_value(0.1, always=True)
    assert row.box.text() == "0.10 mm"
    dialog = Settings(window.window, window.window.settings, window.window.helping._settle, lambda: None)
    dialog.unit.activated.emit(1)
    assert row.box.text() == "0.0039 in"
    assert row.value() == pytest.approx(0.1), "the value itself stays"
    for typed, mm in (("0.0118", 0.29972), ("0.2 mm", 0.2), ("1pt", 25.4 / 72), ("9", 25.4 / 72), ("wide", 25.4 / 72)):
        row.box.lineEdit().selectAll()
        QTest.keyClicks(row.box.lineEdit(), typed)
        QTest.keyClick(row.box, Qt.Key.Key_Return)
        assert row.value() == pytest.approx(mm, abs=1e-4), typed
    assert heard == pytest.approx([0.29972, 0.2, 25.4 / 72], abs=1e-4)
    assert size_text(257, 168, 0) == "10.12 × 6.61 in"
    dialog.unit.activated.emit(0)
    assert row.box.text() == "0.35 mm"
    assert size_text(257, 168, 0) == "257 × 168 mm"


def test_settings_hold_at_once_and_refuse_what_is_no_folder(window: Driver, tmp_path: Path) -> None:
    settings, helping = window.window.settings, window.window.helping
    dialog = Settings(window.window, settings, helping._settle, lambda: None)
    dialog.pen.setCurrentIndex(2)
    dialog.pen.activated.emit(2)
    assert window.easel.pen_power == pen_power(settings) == 1.6
    dialog.bench.activated.emit(2)
    assert theme.bench() is theme.DIM
    dialog.bench.activated.emit(1)
    assert theme.bench() is theme.LIGHT
    dialog.copies.activated.emit(1)
    dialog.memory.activated.emit(2)
    dialog.press.activated.emit(2)
    assert planes._decoded._most == 512 << 20
    drawing = write_png(tmp_path / "page.png", two_rooms())
    window.easel.opening.open(drawing)
    window.qtbot.waitUntil(lambda: window.easel.page > 0, timeout=30_000)
    assert window.easel.sources()[PRESS].condition == "newsprint"
    assert window.easel.sources()[PRESS].ink_limit == CONDITIONS["newsprint"].ink_limit
    window.settle()
    window.window.whereabouts.keep()
    assert picture_file(tmp_path / "page.drip").is_file(), "a picture to know the book by"
    window.easel.opening.close()
    window.easel.opening.open(tmp_path / "page.drip")
    window.qtbot.waitUntil(lambda: len(list(copies_folder().glob("page-*.drip"))) == 1, timeout=30_000)
    dialog.memory.activated.emit(1)
    dialog.copies.activated.emit(0)
    dialog.folder.setText(str(tmp_path))
    dialog._keep_folder()
    assert folder_of(settings) == tmp_path
    dialog.folder.setText(str(tmp_path / "gone"))
    dialog._keep_folder()
    assert "is no folder" in dialog.told.text()
    assert folder_of(settings) == tmp_path
    for odd in ("much", None, "999"):
        settings.setValue("pen", odd)
        assert 0.2 <= pen_power(settings) <= 5


def test_keys_are_changed_kept_by_name_and_conflicts_refused(demo: Driver) -> None:
    helping = demo.window.helping
    dialog = ChangeKeys(demo.window, helping.own_keys, helping.usual, helping.rekeyed)
    demo.easel.choose_stage("Flats")
    demo.easel.choose_tool("Corral")
    pour = next(name for name in helping.usual if name.startswith("Tools: ") and "Pour" in name)
    dialog.choose(pour)
    dialog.key.setKeySequence(QKeySequence("C"))
    dialog.give_key()
    assert "belongs to" in dialog.told.text()
    dialog.key.setKeySequence(QKeySequence("Q"))
    dialog.give_key()
    assert "held down" in dialog.told.text()
    assert helping.own_keys.name == USUAL
    dialog.key.setKeySequence(QKeySequence("F7"))
    dialog.give_key()
    assert helping.own_keys.name == "My keys"
    assert "P" not in {a.shortcut().toString() for a in demo.window.actions()}, "the usual key is free now"
    demo.keys("F7")
    assert demo.easel.tool == "Pour"
    assert "(F7)" in demo.window.toolbar.buttons["Flats", "Pour"].toolTip()
    assert "F7" in {key for _, _, key, _ in helping.entries}
    again = OwnKeys(demo.window.settings)
    assert (again.name, again.chosen()) == ("My keys", {pour: "F7"})
    dialog.sets.setCurrentText(USUAL)
    dialog._use()
    demo.easel.choose_tool("Corral")
    demo.keys("P")
    assert demo.easel.tool == "Pour"
    demo.window.settings.setValue("keys", "{damaged")
    assert OwnKeys(demo.window.settings).names() == [USUAL]


def test_what_goes_wrong_is_a_report_to_read_and_send_that_names_nothing(
    demo: Driver, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))
    demo.window.helping.trouble()
    assert "Nothing went wrong" in demo.said()
    try:
        _ = {}["a part of the program"]
    except KeyError as error:
        text = report_of(KeyError, error, error.__traceback__, demo.easel)
    known = [demo.easel.file.path.name, demo.book.info.title, *(p.name for p in demo.book.pages().values())]
    try:
        raise OSError(f"{demo.easel.file.path}: {demo.book.info.title}, {known[2]}, /srv/secret/comic.png")
    except OSError as error:
        told = report_of(OSError, error, error.__traceback__, demo.easel)
    assert not [name for name in (*known, "secret", "comic.png") if name in told], "it names nothing of a person's"
    for count in range(25):
        keep_report(f"{text}\n{count}")
    assert len(reports()) == 20
    assert reports()[0].read_text().endswith("24")
    demo.window.helping.trouble()
    (shown,) = [w for w in demo.window.findChildren(Trouble) if w.isVisible()]
    told = shown.text.toPlainText()
    assert "KeyError" in told
    assert "Flats" in told or "Inks" in told
    assert demo.book.info.title not in told
    assert str(demo.easel.file.path) not in told
    shown.copy()
    assert QApplication.clipboard().text() == told
    shown.close()
    settings = demo.window.settings
    assert began(settings)
    assert not began(settings), "it did not end well"
    ended(settings)
    assert began(settings)
    demo.keys("Ctrl+Q")
    assert not demo.window.isVisible()


@pytest.mark.parametrize(
    ("typed", "found", "stage", "named"),
    [
        ("tac", "Ink limit", "Press", "Ink limit"),
        ("misregister", "Register test", "Press", ""),
        ("lighter spreads", "Lighter spreads by", "Press", "Lighter spreads by"),
        ("smallest", "Smallest region", "Flats", "Smallest region"),
    ],
)
def test_settings_and_words_of_the_trade_are_found_and_gone_to(
    demo: Driver, typed: str, found: str, stage: str, named: str
) -> None:
    demo.easel.choose_stage("Shade")
    dialog = FindAction(demo.window, [*demo.window.helping.entries, *demo.window.helping.controls()], "Shade")
    assert "Shade" in dialog.list.item(0).text(), "what belongs to the work in hand"
    dialog.text.setText(typed)
    assert dialog.list.item(0).text().startswith(found)
    dialog._do()
    demo.settle()
    assert demo.easel.stage == stage
    held = demo.window.focusWidget()
    assert held.accessibleName() == named or not named
    row = next((r for r in demo.window.inspector.findChildren(NumberRow) if r.box is held), None)
    assert row is None or row.visibleRegion().boundingRect().height() > 10, "in sight"
