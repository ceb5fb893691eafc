# SPDX-License-Identifier: GPL-3.0-or-later
"""The window itself: seeing, opening, bad files, empty states, keys, history, and manners."""

import subprocess
import sys
from pathlib import Path

import pytest
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractButton, QApplication, QSlider
from pytestqt.qtbot import QtBot

from drip_pot.core.errors import Cancelled, CannotWrite
from drip_pot.demo import build
from drip_pot.demo.works import WORKS
from drip_pot.desk.app import _catch_bugs, what_to_open
from drip_pot.desk.dialogs.export import ExportDialog
from drip_pot.desk.dialogs.history import HistoryDialog
from drip_pot.desk.dialogs.keys import Keys
from drip_pot.desk.parts import theme
from drip_pot.desk.session.work import Work
from drip_pot.desk.stages.flats.flatting import Flatting
from drip_pot.desk.stages.inks.inking import Inking
from drip_pot.desk.window import Window
from drip_pot.files import new_book, open_book
from tests.conftest import two_rooms, write_png
from tests.desk.conftest import LEFT, Driver, Mods


def test_an_empty_window_says_what_to_do_and_offers_nothing_dead(window: Driver) -> None:
    assert window.window.topbar._book.text() == "No book open"
    assert not window.window.film.isVisible(), "no frames without a sequence"
    assert not window.window.topbar.export.isEnabled()
    assert not window.window.topbar.history.isEnabled()
    window.click(10, 10)
    window.keys("Ctrl+Z", "N", "Return", "Backspace", "1", "]", "W", "W", "Ctrl+0")
    window.window.grab()
    assert window.said() == ""


def test_there_is_one_window_and_closing_it_ends_the_program(demo: Driver, tmp_path: Path) -> None:
    tops = [w for w in QApplication.topLevelWidgets() if w.isVisible()]
    assert tops == [demo.window]
    code = """
from PyQt6.QtCore import QSettings, QTimer
from drip_pot.desk.app import make_app
from drip_pot.desk.stages.flats.flatting import Flatting
from drip_pot.desk.stages.inks.inking import Inking
from drip_pot.desk.window import Window
app = make_app(["drip-pot"])
window = Window(QSettings("s.ini", QSettings.Format.IniFormat))
window.show()
QTimer.singleShot(200, window.close)
app.exec()
"""
    subprocess.run([sys.executable, "-c", code], check=True, timeout=60, cwd=tmp_path)


def test_enter_belongs_to_what_has_the_focus(demo: Driver) -> None:
    demo.window.activateWindow()
    steps = demo.book.position
    for widget in (demo.window.topbar.export, demo.window.toolbar, demo.window.shelf.pots):
        widget.setFocus()
        if widget is not demo.window.topbar.export:
            QTest.keyClick(widget, Qt.Key.Key_Backspace)
        assert demo.book.position == steps
    demo.window.look_here.next()
    demo.canvas.setFocus()
    QTest.keyClick(demo.canvas, Qt.Key.Key_Backspace)
    assert demo.book.position == steps + 1


def test_the_first_hint_is_of_flats_and_goes_with_them(demo: Driver) -> None:
    demo.window.settings.setValue("tried", False)
    strip = demo.window.strip
    demo.keys("Alt+1")
    assert not strip.isVisible()
    demo.keys("Alt+2")
    assert strip.isVisible()
    assert "click a region" in strip.text.text()
    demo.keys("Alt+1")
    assert not strip.isVisible()


@pytest.mark.parametrize("then", ["page", "book", "stop"])
def test_an_export_goes_on_whatever_else_is_done_and_its_end_is_told(demo: Driver, tmp_path: Path, then: str) -> None:
    demo.window.exporting.write_files(tmp_path / "out", ("page", "flats"), [demo.easel.page])
    if then == "page":
        demo.easel.show_page(demo.easel.page)
    elif then == "book":
        demo.easel.opening.new_book(tmp_path / "other.drip")
    else:
        demo.window.exporting.errands.drop()
    demo.settle()
    files = list((tmp_path / "out").glob("*.png")) if (tmp_path / "out").exists() else []
    if then == "stop":
        assert "stopped" in demo.said()
        assert not files
    else:
        assert "Wrote 3 files" in demo.said(), "with the job ticket"
        assert len(files) == 2


def test_zooming_keeps_the_page_under_the_pointer(demo: Driver) -> None:
    at = QPointF(300, 200)
    before = demo.canvas.to_page(at)
    event = QWheelEvent(
        at, demo.canvas.mapToGlobal(at), QPointF(0, 0).toPoint(), QPointF(0, 240).toPoint(), Qt.MouseButton.NoButton,
        Mods.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    zoom = demo.canvas.zoom
    QApplication.sendEvent(demo.canvas, event)
    assert demo.canvas.zoom == pytest.approx(zoom * 1.44)
    assert demo.canvas.to_page(at) == pytest.approx(before, abs=0.01)
    demo.keys("Ctrl+1")
    assert demo.canvas.zoom == 1
    demo.keys("+", "-", "Ctrl+0")
    assert demo.canvas.zoom == pytest.approx(zoom)
    touchpad = QWheelEvent(
        at, demo.canvas.mapToGlobal(at), QPointF(12, -30).toPoint(), QPointF(0, 0).toPoint(), Qt.MouseButton.NoButton,
        Mods.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    origin = QPointF(demo.canvas.origin)
    QApplication.sendEvent(demo.canvas, touchpad)
    assert demo.canvas.origin == origin + QPointF(12, -30)


@pytest.mark.parametrize("how", ["middle", "space"])
def test_the_page_is_moved_with_space_or_the_middle_button(demo: Driver, how: str) -> None:
    steps, origin = demo.book.position, QPointF(demo.canvas.origin)
    button = Qt.MouseButton.MiddleButton if how == "middle" else LEFT
    if how == "space":
        QTest.keyPress(demo.canvas, Qt.Key.Key_Space)
    QTest.mousePress(demo.canvas, button, Mods.NoModifier, demo.at(300, 300))
    demo._move(demo.at(300, 300) + QPointF(40, 25).toPoint(), Mods.NoModifier)
    QTest.mouseRelease(demo.canvas, button, Mods.NoModifier, demo.at(300, 300))
    QTest.keyRelease(demo.canvas, Qt.Key.Key_Space)
    assert (demo.canvas.origin - origin).manhattanLength() == pytest.approx(65, abs=2)
    assert demo.book.position == steps


def test_peek_shows_the_line_alone_and_lets_go(demo: Driver) -> None:
    spot = demo.middle("Air")
    QTest.keyPress(demo.canvas, Qt.Key.Key_Q)
    assert demo.color_at(*spot) == "#ffffff"
    QTest.keyRelease(demo.canvas, Qt.Key.Key_Q)
    assert demo.color_at(*spot) == "#a8d4e0"


def test_the_wipe_divides_before_from_now_and_can_be_dragged(demo: Driver) -> None:
    demo.keys("W")
    row, col = demo.middle("Flash")
    right = demo.canvas.width() * 0.95
    handle = QPointF(demo.canvas.wipe_x(), 300).toPoint()
    QTest.mousePress(demo.canvas, LEFT, Mods.NoModifier, handle)
    demo._move(QPointF(right, 300).toPoint(), Mods.NoModifier)
    QTest.mouseRelease(demo.canvas, LEFT, Mods.NoModifier, QPointF(right, 300).toPoint())
    assert demo.canvas.wipe == pytest.approx(0.95, abs=0.01)
    assert demo.color_at(row, col) == "#ffffff"
    demo.keys("W")
    assert demo.color_at(row, col) == "#f3c75c"


def test_panels_go_away_for_a_full_canvas_and_come_back(demo: Driver) -> None:
    width = demo.canvas.width()
    demo.keys("F11")
    QTest.qWait(10)
    assert demo.canvas.width() > width
    assert not demo.window.topbar.isVisible()
    demo.keys("F11")
    QTest.qWait(10)
    assert demo.canvas.width() == width


@pytest.mark.parametrize("bench", [theme.LIGHT, theme.DIM])
def test_chrome_is_strictly_neutral_and_readable(bench: theme.Bench) -> None:
    def grey(name: str) -> int:
        digits = getattr(bench, name)[1:]
        assert digits[:2] == digits[2:4] == digits[4:], f"{name} must be neutral"
        return int(digits[:2], 16)

    for name in ("chrome", "card", "well", "line", "text", "muted", "ink", "on_ink", "surround"):
        grey(name)

    def contrast(one: str, two: str) -> float:
        bright = sorted(((grey(n) / 255) ** 2.2 for n in (one, two)), reverse=True)
        return (bright[0] + 0.05) / (bright[1] + 0.05)

    assert min(contrast("text", "chrome"), contrast("text", "card"), contrast("ink", "on_ink")) > 7
    assert min(contrast("muted", "chrome"), contrast("muted", "card"), contrast("muted", "well")) > 4.5


def test_the_bench_is_switched_and_remembered(demo: Driver) -> None:
    first = theme.bench()
    demo.keys("D")
    assert theme.bench() is not first
    assert demo.window.settings.value("bench") == theme.bench().name
    demo.keys("D")
    assert theme.bench() is first


def test_every_control_can_be_named_and_reached_by_keyboard(demo: Driver) -> None:
    for number in range(1, 6):
        demo.keys(f"Alt+{number}")
        for control in demo.window.findChildren((QAbstractButton, QSlider)):
            if control.isVisible():
                name = control.accessibleName() or (control.text() if isinstance(control, QAbstractButton) else "")
                assert name or control.parent().accessibleName(), control
    shown = [a.shortcut().toString() for a in demo.window.actions()]
    assert len(shown) == len(set(shown)), "no key does two things"


def test_history_is_a_list_one_can_click_in(demo: Driver) -> None:
    demo.easel.choose_pot(demo.pot("Cobalt"))
    for name in ("Air", "Flash", "Wood"):
        demo.click(*demo.middle(name))
    history = HistoryDialog(demo.window, demo.easel)
    position = demo.book.position
    rows = history.list.count()
    history._go(rows - 3)
    assert demo.book.position == position - 2
    assert history.list.currentRow() == rows - 3
    history._go(rows - 1)
    assert demo.book.position == position
    history.close()


def test_the_sheet_of_keys_lists_what_there_is(demo: Driver) -> None:
    sheet = Keys(demo.window, demo.window.helping.sheet)
    text = " ".join(label.text() for label in sheet.findChildren(type(demo.window.status.left)))
    for word in ("Pour", "Undo", "Export", "hold Q", "F11", "1 to 9"):
        assert word in text
    sheet.text.setText("export")
    lit = [labels[1].text() for _, labels in sheet._rows if not labels[1].isHidden()]
    assert lit == ["Export"]
    sheet.close()


def test_export_asks_what_and_where(demo: Driver, tmp_path: Path, answer) -> None:
    def fill(dialog: ExportDialog) -> None:
        for name, box in dialog.boxes.items():
            box.setChecked(name in ("plates", "page"))
        dialog.all_pages.setChecked(True)
        dialog.folder.setText(str(tmp_path / "print"))

    answer(fill)
    demo.keys("Ctrl+E")
    demo.settle()
    assert len(list((tmp_path / "print").iterdir())) == 2 * 17 + 1
    asking = ExportDialog(demo.window, tmp_path, 1, {"Mine": ("flats",)})
    asking.preset.setCurrentText("Mine")
    asking.preset.activated.emit(0)
    assert asking.kinds() == ("flats",)
    asking.boxes["page"].click()
    assert asking.preset.currentIndex() == 0
    for box in (box for box in asking.boxes.values() if box.isChecked()):
        box.click()
    assert not asking.yes.isEnabled()
    (tmp_path / "wall").write_text("")
    demo.window.exporting.write_files(tmp_path / "wall", ("flats",), [demo.easel.page])
    demo.settle()
    assert "Choose another folder" in demo.said()


def test_a_drawing_opens_into_a_book_beside_it(window: Driver, tmp_path: Path) -> None:
    page = write_png(tmp_path / "my page.png", two_rooms(5))
    window.easel.opening.open(page)
    window.settle()
    assert "my page.drip" in window.said()
    assert len(window.book.pots()) == 9
    window.easel.choose_stage("Flats")
    window.click(100, 80)
    assert window.pot_at(100, 80) == "Skin"
    window.easel.opening.open(page)
    window.settle()
    assert sorted(p.name for p in tmp_path.glob("*.drip")) == ["my page-2.drip", "my page.drip"]


def test_files_are_dropped_onto_the_page(demo: Driver, tmp_path: Path) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(write_png(tmp_path / "new.png", two_rooms())))])
    event = QDropEvent(QPointF(50, 50), Qt.DropAction.CopyAction, data, LEFT, Mods.NoModifier)
    demo.canvas.dropEvent(event)
    demo.settle()
    assert [p.name for p in demo.book.pages().values()][-1] == "new"
    assert "page 18 of 18" in demo.window.topbar._page.text()


def test_bad_files_are_explained_and_the_open_book_stays(demo: Driver, tmp_path: Path, demo_book: Path) -> None:
    before = demo.book.values()
    elsewhere, _ = new_book(tmp_path / "elsewhere.drip", "Elsewhere")
    (tmp_path / "bad.png").write_bytes(b"nothing of the kind")
    (tmp_path / "bad.drip").write_bytes(b"nothing of the kind at all" * 50)
    for path, words in (
        (tmp_path / "bad.png", "not a picture"),
        (tmp_path / "bad.drip", "is not a Drip Pot book"),
        (tmp_path / "gone.drip", "There is no book"),
        (elsewhere.path, "open in another window"),
        (demo_book, "open here already"),
    ):
        demo.easel.opening.open(path)
        demo.settle()
        assert words in demo.said()
        assert demo.window.strip._problem or "already" in words
        assert demo.book.values() == before
    elsewhere.close()
    demo.easel.opening.add_page(tmp_path / "bad.png")
    demo.settle()
    assert demo.book.values() == before
    demo.click(*demo.middle("Air"))
    assert demo.book.position > 0


def test_a_full_disk_is_said_and_the_screen_shows_the_truth(demo: Driver, monkeypatch: pytest.MonkeyPatch) -> None:
    def full(*_: object) -> None:
        raise CannotWrite("The disk is full; the last change was not kept.")

    monkeypatch.setattr(demo.easel.file, "append", full)
    spot = demo.middle("Air")
    demo.easel.choose_pot(demo.pot("Ember"))
    demo.click(*spot)
    assert "disk is full" in demo.said()
    assert demo.color_at(*spot) == "#a8d4e0"


def test_a_bug_becomes_a_sentence_and_a_log(demo: Driver, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("platformdirs.user_log_dir", lambda *_: str(tmp_path / "log"))
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    _catch_bugs(demo.window)
    sys.excepthook(ZeroDivisionError, ZeroDivisionError("x"), None)
    assert "Something went wrong inside Drip Pot" in demo.said()
    assert "Traceback" not in demo.said()


def test_the_whole_demo_book_is_made_behind_a_first_look(
    window: Driver, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    whole = build.home(40)
    first = tmp_path / "first.drip"
    build.build_book(first, 40, works=WORKS[:1])
    window.easel.opening.open(first)
    window.settle()
    window.window.demo_making.prepare(whole, 40, first)
    window.easel.opened.emit()
    window.qtbot.waitUntil(lambda: "Making the demo book" in window.window.status.left.text(), timeout=60_000)
    window.qtbot.waitUntil(lambda: window.easel.file.path == whole, timeout=120_000)
    window.settle()
    assert len(window.book.pages()) == len(WORKS)
    assert "Making" not in window.window.status.left.text()
    window.easel.opening.open(first)
    window.settle()
    window.window.demo_making.prepare(whole, 40, first)
    window.easel.opened.emit()
    window.click(*window.middle("Air", 20))
    window.qtbot.waitUntil(lambda: "is ready" in window.said(), timeout=60_000)
    assert window.easel.file.path == first, "work begun is not taken away"


def test_nothing_is_made_beside_a_persons_own_work(
    window: Driver, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    first, making = tmp_path / "first.drip", window.window.demo_making
    build.build_book(first, 40, works=WORKS[:1])
    window.easel.opening.open(first)
    window.settle()
    making.prepare(build.home(300), 300, first)
    window.qtbot.waitUntil(lambda: "Making the demo book" in window.window.status.left.text(), timeout=60_000)
    window.easel.opening.open(write_png(tmp_path / "mine.png", two_rooms()))
    window.qtbot.waitUntil(lambda: window.easel.file.path.name == "mine.drip", timeout=60_000)
    assert not making.errands.busy()
    assert "Making" not in window.window.status.left.text()


def test_the_first_start_is_an_empty_desk_and_later_ones_show_the_last_book(
    window: Driver, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, demo_book: Path
) -> None:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    assert what_to_open(window.window.settings) is None
    assert not build.home(build.READING_DPI).exists(), "nothing is made unasked"
    window.easel.opening.open(demo_book)
    window.settle()
    assert window.window.windowTitle() == "The Kite Infirmary"
    assert what_to_open(window.window.settings) == demo_book
    window.easel.opening.close()
    demo_book.unlink()
    assert what_to_open(window.window.settings) is None


def test_closing_keeps_everything_without_asking(demo: Driver) -> None:
    demo.click(*demo.middle("Air"))
    path, kept = demo.easel.file.path, demo.book.values()
    demo.window.close()
    file, book = open_book(path)
    assert book.values() == kept
    file.close()


def test_work_ends_in_one_way_and_the_newest_wins(qtbot) -> None:
    work, heard = Work(), []
    work.problem.connect(lambda error: heard.append(type(error)))
    work.start("a", lambda report: 1 / 0, lambda _: heard.append("never"))
    qtbot.waitUntil(lambda: heard == [ZeroDivisionError])
    for number in range(5):
        work.start("b", lambda report, n=number: (report(0.5, "on"), n)[1], heard.append)
    qtbot.waitUntil(lambda: not work.busy())
    assert heard[1:] == [4]
    work.start(
        "c", lambda report: (_ for _ in ()).throw(CannotWrite("full")), heard.append, lambda e: heard.append(str(e))
    )
    qtbot.waitUntil(lambda: heard[-1] == "full")
    work.start("d", lambda report: (_ for _ in ()).throw(Cancelled("x")), heard.append)
    with qtbot.waitSignal(work.idle):
        work.start("e", lambda report: "e", heard.append)
        work.cancel("e")
    with qtbot.waitSignal(work.idle, check_params_cb=lambda name: name == "f"):  # as a book that opens does
        work.start("f", lambda report: "f", lambda _: work.close())
    work.close()
    assert "e" not in heard
    assert not work.busy()


def test_a_book_opens_where_one_was(demo: Driver, qtbot: QtBot) -> None:
    book, settings = demo.easel.file.path, demo.window.settings
    second = list(demo.book.pages())[1]
    demo.easel.show_page(second)
    demo.settle()
    demo.keys("Alt+3", "M")
    demo.window.seen.flip("values")
    demo.canvas.set_zoom(0.7)
    demo.canvas.center(300, 200)
    demo.window.close()
    window = Window(settings)
    qtbot.addWidget(window)
    window.resize(1280, 800)
    window.show()
    again = Driver(window, qtbot)
    window.easel.opening.open(book)
    again.settle()
    assert (again.easel.page, again.easel.stage, again.easel.tool) == (second, "Shade", "Mist")
    assert window.seen["values"]
    assert again.canvas.zoom == pytest.approx(0.7)
    assert again.at(300, 200).x() == pytest.approx(again.canvas.width() / 2, abs=2)
    window.close()


@pytest.mark.parametrize("job", ["gesture", "ink", "cut", "press", "export"])
def test_the_page_can_be_changed_in_the_midst_of_any_work(demo: Driver, tmp_path: Path, job: str) -> None:
    first, second = list(demo.book.pages())[:2]
    loop = [(40.0, 40.0), (40.0, 400.0), (400.0, 400.0), (400.0, 40.0)]
    if job == "gesture":
        demo.easel.own(Flatting).corral(loop, only_empty=False)
        demo.easel.own(Flatting).cut_out(loop, back=False, keep=False)
    elif job == "ink":
        demo.easel.own(Inking).stroke([(50.0, 50.0, 1.0), (90.0, 300.0, 1.0)], away=False)
    elif job == "cut":
        demo.easel.own(Flatting).cut_out(loop, back=False, keep=False)
        demo.worked_out()
        demo.easel.undo()
    elif job == "press":
        demo.easel.choose_stage("Press")
    else:
        demo.window.exporting.write_files(tmp_path / "out", ("page", "plates"), [first])
    demo.easel.show_page(second)
    demo.easel.show_page(first)
    demo.easel.show_page(second)
    demo.settle()
    assert demo.easel.page == second
    assert demo.easel.view.flat.line == demo.easel.sources().line
    if job == "export":
        assert len(list((tmp_path / "out").iterdir())) == 3
        assert "Wrote 3 files" in demo.said()
    assert not demo.easel.hands.ghosts
    demo.easel.show_page(first)
    demo.settle()
    assert demo.easel.view.flat.line == demo.easel.sources().line == demo.easel.sources().cut
