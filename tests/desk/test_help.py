"""Help in the real window: the manual, an action found by its name, books used before."""

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from drip_pot.desk.dialogs.find_action import FindAction
from drip_pot.desk.dialogs.manual import TEXT, Manual
from drip_pot.desk.dialogs.settings import Settings, folder_of, pen_power
from drip_pot.desk.memory import recent, used
from drip_pot.desk.parts import theme
from drip_pot.desk.stages import STAGES
from tests.desk.conftest import Driver


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
    assert any("Compare schemes" in title for title in titles)
    QTest.keyClick(dialog.text, Qt.Key.Key_Down)
    assert dialog.list.currentRow() == 1
    QTest.keyClicks(dialog.text, "nothing like it")
    assert dialog.list.count() == 0
    dialog._do()


def test_the_manual_has_every_stage_and_opens_at_the_one_in_use(demo: Driver) -> None:
    text = TEXT.read_text(encoding="utf-8")
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


def test_settings_hold_at_once_and_refuse_what_is_no_folder(window: Driver, tmp_path: Path) -> None:
    settings, helping = window.window.settings, window.window.helping
    dialog = Settings(window.window, settings, helping._settle)
    dialog.pen.setCurrentIndex(2)
    dialog.pen.activated.emit(2)
    assert window.easel.pen_power == pen_power(settings) == 1.6
    dialog.bench.activated.emit(2)
    assert theme.bench() is theme.DIM
    dialog.bench.activated.emit(1)
    assert theme.bench() is theme.LIGHT
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
