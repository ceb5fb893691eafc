# SPDX-License-Identifier: GPL-3.0-or-later
"""Pages that go out and come back: all that either side did is there, what both did is told, and undo gives it up."""

from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.book import Book, verbs
from drip_pot.book.loans import Return, compare, loans_of
from drip_pot.book.values import COVER, LOANS, PASSES, POURS, STENCILS, Hold
from drip_pot.core.errors import BadInput
from drip_pot.files import BookFile, hand_on, import_page, look_into, new_book, open_book, send_out, take_back
from tests.conftest import random_drawing, two_rooms, write_png

Pair = tuple[BookFile, Book]


@pytest.fixture
def home(tmp_path: Path) -> Iterator[Pair]:
    """A book of two pages; the second page is poured."""
    made = new_book(tmp_path / "home.drip", "Home")
    file, book = made
    import_page(file, book, write_png(tmp_path / "one.png", two_rooms()))
    two, _ = import_page(file, book, write_png(tmp_path / "two.png", random_drawing(3)))
    verbs.pour(book, two, range(1, len(hand_on(file, book, two).areas)), 1)
    with closing(file):
        yield made


def sent(home: Pair, pages: list[int], name: str = "Nora") -> Pair:
    """Send pages out and open what went out."""
    target = home[0].path.with_name(f"{name}.drip")
    home[1].apply(send_out(*home, pages, target, name))
    return open_book(target)


def returned(home: Pair, path: Path, there: Callable[[Return], bool] = lambda _: False) -> Return:
    """Take back what went out; clashes are as they are there if that is said."""
    file, theirs = look_into(path)
    with closing(file):
        back = compare(home[1], theirs)
        take_back(*home, (file, theirs), back, [] if there(back) else back.clashes)
    return back


def left(home: Pair, path: Path) -> frozenset[str]:
    """What of a book that went out is not here."""
    file, theirs = look_into(path)
    with closing(file):
        return compare(home[1], theirs).fresh


def of_page(book: Book, page: int) -> dict[str, str]:
    return dict(book.below(f"page/{page}/"))


def test_pages_go_out_alone_and_come_back_with_their_history_new_pots_and_drawings(home: Pair, tmp_path: Path) -> None:
    file, book = home
    one, two = book.pages()
    out, theirs = sent(home, [two])
    with closing(out):
        assert list(theirs.pages()) == [two]
        assert not theirs.history
        assert theirs.pots() == book.pots()
        pot = verbs.add_pot(theirs, "Nora's red", 1, "#cc2233")
        hand = hand_on(out, theirs, two)
        verbs.cut_out(hand, [(20.0, 20.0), (20.0, 60.0), (60.0, 60.0), (60.0, 20.0)], pot)
        number = verbs.add_pass(theirs, two, "Dark")
        verbs.mist_pass(hand_on(out, theirs, two), [(50.0, 50.0), (90.0, 90.0)], 20.0, into=number)
        theirs_hold = verbs.add_hold(theirs, two, Hold("Nora's hold"))
        fresh, _ = import_page(out, theirs, write_png(tmp_path / "new.png", two_rooms(rows=120)))
    mine = verbs.add_pot(book, "Home blue", 1, "#2233cc")
    hold = verbs.add_hold(book, one, Hold("Home hold"))
    assert mine != pot, "what is new on both sides has numbers of its own"
    assert hold != theirs_hold
    verbs.pour(book, one, [1], mine)
    before, position = book.values(), book.position
    back = returned(home, out.path)
    assert not back.clashes
    look, theirs = look_into(out.path)
    with closing(look):
        assert of_page(book, two) == of_page(theirs, two)
        assert book.plane(COVER.key(two, number)).checksum() == theirs.plane(COVER.key(two, number)).checksum() != 0
    assert [pot.name for n, pot in sorted(book.pots().items())][-2:] == ["Home blue", "Nora's red"]
    assert book.sources(one)[POURS][1] == mine
    assert hand_on(file, book, fresh).shape == (120, 300), "the new page's drawing came along"
    assert {"Cut out Nora's red", "Add the pass Dark"} <= {step.title for step in book.history[position:]}
    assert not left(home, out.path)
    assert book.undo()
    assert book.values() == before


def test_what_both_sides_changed_is_told_by_region_and_stays_or_comes_as_is_said(home: Pair) -> None:
    file, book = home
    _, two = book.pages()
    atoms = list(book.sources(two)[POURS])
    out, theirs = sent(home, [two])
    with closing(out):
        verbs.pour(theirs, two, atoms[:2], 2)
        verbs.add_pass(theirs, two, "Theirs")
    verbs.pour(book, two, atoms[1:2], None)
    back = returned(home, out.path)
    assert [(clash.page, clash.what) for clash in back.clashes] == [
        (two, f"paper here, {book.pots()[2].name} there: one region")
    ]
    pours = book.sources(two)[POURS]
    assert pours[atoms[0]] == 2
    assert atoms[1] not in pours
    book.undo()
    returned(home, out.path, lambda _: True)
    assert book.sources(two)[POURS][atoms[1]] == 2
    assert not left(home, out.path)
    verbs.pour(book, two, atoms[:1], 1)
    assert not left(home, out.path), "what was taken back once is not taken for theirs again"


def test_a_scheme_that_is_taken_up_there_comes_back_whole(home: Pair) -> None:
    file, book = home
    _, two = book.pages()
    out, theirs = sent(home, [two])
    with closing(out):
        verbs.add_scheme(theirs, "Dusk")
        verbs.set_pot(theirs, 1, msgspec.structs.replace(theirs.pots()[1], local="#112233"))
        dusk, pots, now = theirs.schemes(), theirs.pots(), theirs.scheme
    before = book.values()
    assert not returned(home, out.path).clashes
    assert (book.schemes(), book.pots(), book.scheme) == (dusk, pots, now)
    book.undo()
    assert book.values() == before


def test_a_page_divided_anew_on_one_side_is_not_mixed_with_pours_of_the_other(home: Pair) -> None:
    file, book = home
    _, two = book.pages()
    out, theirs = sent(home, [two])
    with closing(out):
        verbs.cut_out(hand_on(out, theirs, two), [(20.0, 20.0), (20.0, 60.0), (60.0, 60.0), (60.0, 20.0)], 2)
        verbs.add_pass(theirs, two, "Dark")
    verbs.pour(book, two, [1], None)
    kept = of_page(book, two)
    back = returned(home, out.path)
    assert [clash.what.partition(":")[0] for clash in back.clashes] == ["line, cuts and what is poured"]
    assert {key: text for key, text in of_page(book, two).items() if key != "pass/2"} == kept
    assert 2 in book.sources(two)[PASSES]
    book.undo()
    returned(home, out.path, lambda _: True)
    look, theirs = look_into(out.path)
    with closing(look):
        assert of_page(book, two) == of_page(theirs, two)
    assert book.sources(two)[STENCILS]


DOINGS: dict[str, Callable[[Pair, int, int], object]] = {
    "pour": lambda at, page, n: verbs.pour(at[1], page, [1 + n % 3], 1 + n % 2),
    "gap": lambda at, page, n: verbs.set_gap(at[1], page, 2.0 + n),
    "pass": lambda at, page, n: verbs.add_pass(at[1], page, f"Pass {n}"),
    "pot": lambda at, page, n: verbs.add_pot(at[1], f"Pot {n}", 1, f"#{n:02x}80ff"),
    "part": lambda at, page, n: verbs.rename_part(at[1], 1, f"Part {n}"),
    "cut": lambda at, page, n: verbs.cut_out(
        hand_on(at[0], at[1], page), [(30.0 + n, 30.0), (30.0 + n, 50.0), (50.0, 50.0)], 1
    ),
}
_STEPS = st.lists(st.tuples(st.sampled_from(sorted(DOINGS)), st.integers(0, 9)), max_size=4)


@given(_STEPS, _STEPS, st.booleans())
def test_whatever_both_do_nothing_is_lost_and_one_undo_gives_it_up(
    tmp_path_factory: pytest.TempPathFactory, there: list, here: list, takes: bool
) -> None:
    folder = tmp_path_factory.mktemp("loan")
    home = new_book(folder / "home.drip", "Home")
    with closing(home[0]):
        page, _ = import_page(*home, write_png(folder / "p.png", two_rooms()))
        base = home[1].values()
        out = sent(home, [page])
        with closing(out[0]):
            for name, n in there:
                DOINGS[name](out, page, n)
            theirs = out[1].values()
        for name, n in here:
            DOINGS[name](home, page, n)
        mine = home[1].values()
        back = returned(home, out[0].path, lambda _: takes)
        merged, clashing = home[1].values(), {key for clash in back.clashes for key in clash.keys}
        for key in (base.keys() | mine.keys() | theirs.keys() | merged.keys()) - {"loan"}:
            if key.startswith(LOANS.below):
                continue
            one, two, was = mine.get(key), theirs.get(key), base.get(key)
            wanted = (two if takes else one) if key in clashing else two if one == was else one
            assert merged.get(key) == wanted, key
            assert key in clashing or one == two or was in (one, two), "what both changed is told"
        if back.fresh:
            home[1].undo()
        assert {k: t for k, t in home[1].values().items() if not k.startswith(LOANS.below)} == {
            k: t for k, t in mine.items() if not k.startswith(LOANS.below)
        }


def test_what_did_not_go_out_from_here_or_goes_nowhere_is_refused(home: Pair, tmp_path: Path) -> None:
    file, book = home
    one, two = book.pages()
    out, theirs = sent(home, [two])
    out.close()
    stranger = new_book(tmp_path / "stranger.drip", "Stranger")
    with closing(stranger[0]):
        with pytest.raises(BadInput, match="did not go out from this book"):
            compare(stranger[1], theirs)
        with pytest.raises(BadInput, match="did not go out from another"):
            compare(book, stranger[1])
    for pages, name, target, words in (
        ([], "Nora", "x.drip", "Choose the pages"), ([one], " ", "x.drip", "whom"), ([one], "N", "home.drip", "itself"),
        ([99], "Nora", "x.drip", "no page 99"),
    ):  # fmt: skip
        with pytest.raises(BadInput, match=words):
            send_out(*home, pages, tmp_path / target, name)
        assert not (tmp_path / "x.drip").exists()
    verbs.remove_page(book, two)
    again, theirs = open_book(out.path)
    with closing(again):
        verbs.set_gap(theirs, two, 5.0)
    back = returned(home, out.path)
    assert back.gone_here == ["two"]
    assert list(book.pages()) == [one]
    assert len(loans_of(book)) == 1
