# SPDX-License-Identifier: GPL-3.0-or-later
"""Frames in the real window: the strip, colours carried on, ghosts, playing, a sequence made on the contact sheet."""

from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PyQt6.QtWidgets import QLineEdit

from drip_pot.book import Book, Derived, verbs
from drip_pot.book.values import DOUBTS, FIGURES, POURS, SHADE_CUTS, STENCILS
from drip_pot.desk.dialogs.contact import ContactSheet
from drip_pot.desk.dialogs.player import MovingChoice, Player
from drip_pot.desk.session import small_pages
from tests.desk.conftest import Driver


@pytest.fixture
def frames(demo: Driver) -> Driver:
    """The fourth frame of the demo's sequence, in Flats."""
    _, known = demo.book.sequence_of(next(n for n, p in demo.book.pages().items() if p.name == "Turning, frame 4"))
    demo.easel.show_page(known.pages[3])
    demo.easel.choose_stage("Flats")
    demo.settle()
    return demo


def test_the_strip_is_there_for_frames_alone_and_goes_to_them(frames: Driver) -> None:
    film = frames.window.film
    assert film.isVisible()
    assert "frame 4 of 12" in film._place.text()
    film.cards.press(film.cards.made()[1], None)
    frames.settle()
    assert "frame 2 of 12" in film._place.text()
    frames.keys("Alt+Left", "Alt+Left")
    frames.settle()
    assert "frame 12 of 12" in film._place.text(), "round at the ends"
    frames.easel.show_page(next(iter(frames.book.pages())))
    frames.settle()
    assert not film.isVisible()
    frames.keys(".")
    assert "no frame" in frames.said()


def test_carrying_on_pours_the_next_frame_as_one_step_and_marks_the_doubtful(frames: Driver) -> None:
    _, known = frames.book.sequence_of(frames.easel.page)
    after = known.pages[5]
    for page in known.pages[4:6]:
        before = frames.book.position
        frames.window.film.carry.click()
        frames.qtbot.waitUntil(lambda before=before: frames.book.position > before, timeout=60_000)
        frames.settle()
        assert frames.easel.page == page
    assert frames.book.sources(after)[POURS]
    assert "Poured" in frames.said()
    doubts = [f for f in frames.easel.findings["Flats"] if f.title == "Carried in doubt"]
    assert len(doubts) == sum(d.is_open for d in frames.book.sources(after)[DOUBTS].values()) > 0
    frames.easel.undo()
    assert not frames.book.sources(after)[POURS]
    assert not frames.book.sources(after)[DOUBTS]


def test_cards_of_many_frames_are_drawn_once_and_then_only_what_was_touched(
    frames: Driver, monkeypatch: pytest.MonkeyPatch
) -> None:
    drawn: list[int] = []

    def counted(book: Book, derived: Derived, page: int) -> small_pages.SmallPage:
        drawn.append(page)
        return small_page(book, derived, page)

    small_page = small_pages.small_page
    monkeypatch.setattr(small_pages, "_KEPT", 2)
    monkeypatch.setattr(small_pages, "small_page", counted)
    small, (_, known) = frames.window.small, frames.book.sequence_of(frames.easel.page)
    small.forget()
    frames.window.film.refresh()
    frames.settle()
    assert sorted(drawn) == sorted(known.pages), "fewer are kept large than there are, and still it ends"
    assert all(small.thumb(page) is not None for page in known.pages)
    drawn.clear()
    frames.window.film.refresh()
    frames.settle()
    assert not drawn
    other, atoms = known.pages[0], list(frames.book.sources(known.pages[0])[POURS])
    frames.easel.do(lambda book, _: verbs.pour(book, other, atoms[:1], None))
    frames.settle()
    assert drawn == [other]
    frames.easel.do(lambda book, _: verbs.name_page(book, known.pages[1], "Another name"))
    frames.settle()
    assert set(drawn) <= {other, known.pages[1]}


def test_a_cut_out_and_shade_follow_into_the_next_frame_by_button_and_key(frames: Driver) -> None:
    _, known = frames.book.sequence_of(frames.easel.page)
    one, two = known.pages[3:5]
    hand = frames.easel.hand()
    ((row, col),) = hand.spots_of([int(np.argmax(np.where(hand.areas < 0.1 * hand.labels.size, hand.areas, 0)))])
    loop = [(row - 6, col - 6), (row - 6, col + 6), (row + 6, col + 6), (row + 6, col - 6)]
    pot = next(iter(frames.book.pots()))
    frames.easel.hands.start(lambda at: verbs.cut_out(at, loop, pot))
    frames.settle()
    number = verbs.add_pass(frames.book, one, "Dark")
    frames.settle()
    frames.easel.hands.start(lambda at: verbs.cut_shade(at, loop, into=number))
    frames.settle()
    before = frames.book.position
    frames.window.film.carry.click()
    frames.qtbot.waitUntil(lambda: frames.book.position > before, timeout=60_000)
    frames.settle()
    assert frames.easel.page == two
    assert len(frames.book.sources(two)[STENCILS]) == len(frames.book.sources(one)[STENCILS]) == 1
    assert pot in frames.book.sources(two)[POURS].values()
    assert "marking" in frames.said()
    frames.keys("Ctrl+.", "Ctrl+.")
    frames.settle()
    assert len(frames.book.sources(two)[SHADE_CUTS]) == 1, "twice is once"
    for _ in range(3):
        frames.easel.undo()
        frames.settle()
    assert not frames.book.sources(two)[STENCILS]
    assert not frames.book.sources(two)[SHADE_CUTS]
    frames.window.film.between.click()
    frames.settle()
    assert "No empty frame lies between" in frames.said()


def test_ghosts_of_the_frames_beside_are_shown_as_line_then_colour_then_not(frames: Driver) -> None:
    canvas = frames.canvas
    plain = canvas.grab().toImage()
    frames.keys(",")
    frames.qtbot.waitUntil(lambda: len(canvas.ghosts) == 2, timeout=60_000)
    assert "line" in frames.window.film.ghost.text()
    assert canvas.grab().toImage() != plain
    frames.keys(",")
    assert "colour" in frames.window.film.ghost.text()
    frames.keys(",")
    assert canvas.ghosts == []


def test_a_sequence_is_played_and_written(frames: Driver, tmp_path: Path, answer) -> None:
    frames.window.frames.hold(1)
    player = Player(frames.window, frames.easel, frames.window.settings)
    player.show()
    frames.qtbot.waitUntil(lambda: player._timer.isActive(), timeout=60_000)
    assert len(player._pictures) == 13, "a frame that is held is shown twice"
    place = player._place
    frames.qtbot.waitUntil(lambda: player._place != place, timeout=5000)
    player.toggle()
    player.rate.setValue(24)
    player._set_rate()
    assert next(iter(frames.book.sequences().values())).rate_fps == 24
    player.write(tmp_path / "turning.webp", "webp")
    frames.qtbot.waitUntil(lambda: "Wrote" in frames.said(), timeout=60_000)
    with Image.open(tmp_path / "turning.webp") as image:
        assert image.n_frames == 12
    asked: list[tuple[str, int, bool, bool]] = []

    def fill(dialog: MovingChoice) -> None:
        dialog.high.setValue(64)
        dialog.clear.setChecked(True)
        dialog.smooth.setChecked(True)
        dialog.kind.setCurrentIndex(dialog.kind.findData("apng"))

    answer(fill)
    for _ in range(2):  # and as it was chosen last
        asked.append(MovingChoice(player, frames.window.settings).asked())
        answer(lambda dialog: None)
    assert asked == [("apng", 64, True, True)] * 2
    kind, high, clear, smooth = asked[0]
    player.write(tmp_path / "small.png", kind, high, clear=clear, smooth=smooth)
    frames.qtbot.waitUntil(lambda: "small" in frames.said(), timeout=60_000)
    with Image.open(tmp_path / "small.png") as image:
        assert (image.n_frames, image.height, image.convert("RGBA").getpixel((0, 0))[3]) == (12, 64, 0)
    player.close()


def test_pages_chosen_on_the_contact_sheet_become_a_sequence(frames: Driver, answer) -> None:
    number, _ = frames.book.sequence_of(frames.easel.page)
    verbs.remove_sequence(frames.book, number)
    sheet = ContactSheet(frames.window, frames.easel, {})
    for row in range(sheet.list.count()):
        sheet.list.item(row).setSelected(row in (4, 5, 6))
    answer(lambda dialog: dialog.findChild(QLineEdit).setText("Gust"))
    sheet._sequence()
    (made,) = frames.book.sequences().values()
    assert (made.name, made.pages) == ("Gust", tuple(list(frames.book.pages())[4:7]))
    sheet.close()


def test_a_figure_of_another_page_is_shown_in_look_here_and_poured_with_a_key(demo: Driver) -> None:
    demo.easel.show_page(list(demo.book.pages())[2])
    demo.settle()
    demo.keys("Alt+2")
    menu = demo.window.books.figures.menu(demo.window)
    assert menu.actions()[2].text() == "1   Torn in the wind"
    menu.actions()[2].trigger()
    easel = demo.easel
    demo.qtbot.waitUntil(lambda: any(f.title.startswith("Figure") for f in easel.findings["Flats"][:1]), timeout=60_000)
    steps = demo.book.position
    demo.keys("N", "Return")
    demo.worked_out()
    assert demo.book.position == steps + 1
    assert set(demo.easel.sources()[POURS].values()) <= set(demo.book.pots())
    left = len(demo.easel.sources()[FIGURES])
    demo.keys("N")
    assert demo.window.look_here.drop()
    demo.worked_out()
    assert len(demo.easel.sources()[FIGURES]) == left - 1


def test_figures_of_a_page_are_looked_for_on_all_others_and_gone_to_with_a_key(demo: Driver) -> None:
    easel, pages = demo.easel, list(demo.book.pages())
    demo.keys("Shift+N")
    assert "No figure is offered" in demo.said()
    before = demo.book.values()
    sheet = ContactSheet(demo.window, easel, {"figures": demo.window.books.figures.look_everywhere})
    (chosen,) = sheet.chosen()
    assert chosen == pages[0]
    next(b for b in sheet.buttons if b.text() == "Figures").click()
    demo.settle()
    assert "figures on" in demo.said()
    offered = verbs.pages_with_figures(demo.book)
    assert {pages[1], pages[2]} <= set(offered)
    assert pages[0] not in offered
    demo.keys("Shift+N")
    demo.settle()
    assert easel.page == offered[0]
    assert easel.stage == "Flats"
    demo.keys("Shift+N")
    demo.settle()
    assert easel.page == offered[1]
    easel.undo()
    assert demo.book.values() == before, "all of it is one step"
