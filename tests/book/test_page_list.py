# SPDX-License-Identifier: GPL-3.0-or-later
"""Pages ordered, copied and removed; what was on them comes back exactly."""

import numpy as np
import pytest

from drip_pot.book import Book, Hold, Page, verbs
from drip_pot.book.values import HOLDS, POURS, PRESS
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.press import PressSettings
from drip_pot.files import new_book, open_book
from tests.conftest import PLAIN, make_book, two_rooms


def painted() -> tuple[Book, int]:
    book, _, page = make_book(two_rooms())
    verbs.pour(book, page, {1, 2}, 1)
    mask = np.ones((60, 60), bool)
    verbs.shade_mask(book, page, (20, 20, 80, 80), mask, mask, light=False)
    verbs.add_hold(book, page, Hold("Red", how="fixed"))
    return book, page


def state(book: Book) -> tuple[object, object]:
    return book.values(), book.tiles()


def test_a_copy_has_all_that_is_on_the_page_and_stands_after_it() -> None:
    book, page = painted()
    before = state(book)
    copy = verbs.duplicate_page(book, page)
    assert list(book.pages()) == [page, copy]
    assert book.pages()[copy].name.endswith("copy")
    assert book.sources(copy)[POURS] == book.sources(page)[POURS]
    assert book.sources(copy)[HOLDS] == book.sources(page)[HOLDS]
    planes = [book.plane(f"page/{n}/pass/1").whole() for n in (page, copy)]
    assert planes[0].any()
    assert np.array_equal(*planes)
    verbs.pour(book, copy, {1}, 2)
    assert book.sources(page)[POURS][1] == 1
    verbs.move_page(book, copy, -1)
    assert list(book.pages()) == [copy, page]
    for _ in range(3):
        book.undo()
    assert state(book) == before


def test_a_removed_page_comes_back_whole_and_its_number_is_clean() -> None:
    book, page = painted()
    copy = verbs.duplicate_page(book, page)
    before = state(book)
    verbs.remove_page(book, copy)
    assert list(book.pages()) == [page]
    again = verbs.duplicate_page(book, page)
    verbs.remove_pass(book, again, verbs.add_pass(book, again, "Gone"))
    for _ in range(4):
        book.undo()
    assert state(book) == before
    with pytest.raises(BadInput):
        verbs.remove_page(book, 99)


def test_a_removed_page_comes_back_from_the_file(tmp_path) -> None:
    file, book = new_book(tmp_path / "b.drip", "B")
    source, page = painted()
    number = 1
    book.apply(
        type(source.made()[0])(
            "seed",
            "Seed",
            tuple(  # a page as a file has it
                type(source.made()[0].changes[0])(k, None, v)
                for k, v in source.values().items()
                if k.startswith("page/")
            ),
        )
    )
    mask = np.ones((60, 60), bool)
    verbs.shade_mask(book, number, (20, 20, 80, 80), mask, mask, light=False)
    before = state(book)
    verbs.remove_page(book, number)
    file.close()
    file, book = open_book(tmp_path / "b.drip")
    assert not book.pages()
    book.undo()
    assert state(book) == before
    assert book.plane(f"page/{page}/pass/1").whole()[30, 30] == 255
    file.close()


def test_settings_of_a_page_are_given_to_all_and_differences_told() -> None:
    book, page = painted()
    others = [verbs.duplicate_page(book, page) for _ in range(3)]
    verbs.set_press(book, page, PressSettings(ink_limit=240))
    assert verbs.differs(book, page) == ["press settings"]
    assert verbs.differs(book, others[0]) == []
    assert verbs.share_settings(book, page, ("press", "lines")) == 3
    assert {book.sources(n)[PRESS].ink_limit for n in book.pages()} == {240}
    assert verbs.differs(book, page) == []
    with pytest.raises(NothingDone, match="already"):
        verbs.share_settings(book, page)
    with pytest.raises(BadInput, match="no settings 'shade'"):
        verbs.share_settings(book, page, ("shade",))
    fresh = verbs.add_page(book, Page("new", 200, 300, 300.0, 1), PLAIN)
    assert book.sources(fresh)[PRESS].ink_limit == 240, "a new page is set as all the others are"
    while book.sources(others[0])[PRESS].ink_limit == 240:
        book.undo()
    assert {book.sources(n)[PRESS].ink_limit for n in others} == {PressSettings().ink_limit}
