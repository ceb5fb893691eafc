# SPDX-License-Identifier: GPL-3.0-or-later
"""What is brought in from another book looks and prints as it did there, whatever either book numbers how."""

from collections.abc import Iterator
from contextlib import closing
from dataclasses import replace
from pathlib import Path

import msgspec
import numpy as np
import pytest
from PIL import Image
from typer.testing import CliRunner

from drip_pot.book import Book, verbs
from drip_pot.book.bringing import ToBring, same_named
from drip_pot.book.derive.atoms_kept import pack_atoms
from drip_pot.book.derive.regions import atoms_key
from drip_pot.book.values import (
    CALM,
    CUT,
    ENGINE_OF,
    FIRST_ENGINE,
    FOLLOWING,
    HOLDS,
    PASSES,
    PINS,
    POURS,
    FollowingMark,
    Hold,
)
from drip_pot.book.verbs import setting
from drip_pot.book.where import Scope
from drip_pot.cli import app
from drip_pot.core.errors import BadInput
from drip_pot.files import (
    BookFile,
    bring_from,
    derive,
    export_page,
    hand_on,
    import_page,
    looking_into,
    new_book,
    send_out,
)
from tests.conftest import random_drawing, two_rooms, write_png

Pair = tuple[BookFile, Book]


@pytest.fixture
def pair(tmp_path: Path) -> Iterator[tuple[Pair, Pair]]:
    """Two books, a page each, that number pots and parts otherwise; a pot called Coat is in both."""
    made = []
    for name, colors in (("mine", ("#aa2211", "#113355", "#225544")), ("theirs", ("#3366cc", "#ffcc22"))):
        file, book = new_book(tmp_path / f"{name}.drip", name.title())
        import_page(file, book, write_png(tmp_path / f"{name}.png", two_rooms(rows=200 + 10 * len(made))))
        part = verbs.add_part(book, "Cast" if name == "theirs" else "Things")
        for place, color in enumerate(colors):
            verbs.add_pot(book, f"{name} {place}", part, color)
        verbs.add_pot(book, "Coat", part, "#884422" if name == "mine" else "#cc8844")
        made.append((file, book))
    with closing(made[0][0]), closing(made[1][0]):
        yield made[0], made[1]


def pot(book: Book, name: str) -> int:
    return next(number for number, one in book.pots().items() if one.name == name)


def work_on(there: Pair) -> int:
    """Pour, shade, hold and mark the page of the other book; return its number."""
    file, book = there
    page = next(iter(book.pages()))
    coat, gold = pot(book, "Coat"), pot(book, "theirs 1")
    verbs.set_pot(book, gold, msgspec.structs.replace(book.pots()[gold], spot="Gold"))
    left, right = rooms(there, page)
    verbs.pour(book, page, [left], coat)
    verbs.pour(book, page, [right], gold)
    number = verbs.add_pass(book, page, "Dusk", scope=Scope(pots=(coat,)))
    verbs.mist_pass(hand_on(file, book, page), [(40.0, 40.0), (60.0, 200.0)], 30.0, into=number)
    data = write_png(file.path.with_name("stars.png"), random_drawing(4)).read_bytes()
    verbs.place_picture(book, page, file.add_original("stars.png", data), (160, 160), "Stars", Scope(pots=(gold,)))
    verbs.add_hold(book, page, Hold("Coat line", Scope(pots=(coat,)), how="fixed", color="#5522aa"))
    return page


def rooms(side: Pair, page: int) -> list[int]:
    """The two rooms, as they are numbered."""
    labels = hand_on(*side, page).labels
    return [int(labels[60, 80]), int(labels[60, 220])]


def looks(side: Pair, page: int, folder: Path) -> list[np.ndarray]:
    """The page as a picture, and all its plates, as they are delivered."""
    file, book = side
    written = export_page(book, derive(file, book, page), page, folder, kinds=("page", "separations"))
    return [np.asarray(Image.open(path)) for path in written]


def same(one: list[np.ndarray], two: list[np.ndarray]) -> bool:
    return len(one) == len(two) and all(np.array_equal(a, b) for a, b in zip(one, two, strict=True))


def test_a_page_looks_and_prints_as_it_did_and_undo_gives_it_up(pair: tuple[Pair, Pair], tmp_path: Path) -> None:
    mine, theirs = pair
    page = work_on(theirs)
    coat = pot(theirs[1], "Coat")
    assert same_named(mine[1], theirs[1], ToBring((page,))) == {coat: pot(mine[1], "Coat")}
    before = mine[1].values()
    (made,) = bring_from(*mine, theirs, ToBring((page,), own=frozenset({coat})))
    assert same(looks(mine, made, tmp_path / "here"), looks(theirs, page, tmp_path / "there"))
    assert {one.name for one in mine[1].pots().values()} >= {"Coat", "Coat 2", "theirs 1"}
    assert mine[1].pots()[mine[1].sources(made)[POURS][rooms(mine, made)[1]]].spot == "Gold"
    after = mine[1].values()
    assert mine[1].undo()
    assert mine[1].values() == before
    assert mine[1].redo()
    assert mine[1].values() == after


def test_the_regions_an_earlier_version_found_come_along_with_a_page(pair: tuple[Pair, Pair], tmp_path: Path) -> None:
    mine, (file, book) = pair
    page = work_on((file, book))
    cut = msgspec.structs.replace(book.sources(page).line, engine=FIRST_ENGINE)
    found = derive(file, book, page).regions.atoms(book.sources(page).line)
    swapped = replace(found, labels=np.where(found.labels > 0, found.count + 1 - found.labels, 0).astype(np.int32))
    setting.put(book, "test", "Test", (CUT.key(page), cut), (ENGINE_OF.key(page), FIRST_ENGINE))
    file.keep(f"kept/{atoms_key(cut.uncut)}", pack_atoms(swapped))  # as no version finds them any more
    assert np.array_equal(derive(file, book, page).regions.atoms(cut).labels, swapped.labels)
    (made,) = bring_from(*mine, (file, book), ToBring((page,)))
    line = mine[1].sources(made).cut
    assert line.engine == FIRST_ENGINE
    assert np.array_equal(derive(*mine, made).regions.atoms(line).labels, swapped.labels)
    send_out(file, book, [page], tmp_path / "out.drip", "Nora")
    with looking_into(tmp_path / "out.drip") as (out, theirs):
        assert np.array_equal(derive(out, theirs, page).regions.atoms(theirs.sources(page).cut).labels, swapped.labels)


def test_a_pot_of_the_same_name_is_the_one_that_is_here(pair: tuple[Pair, Pair]) -> None:
    mine, theirs = pair
    page = work_on(theirs)
    (made,) = bring_from(*mine, theirs, ToBring((page,)))
    sources, coat = mine[1].sources(made), pot(mine[1], "Coat")
    assert sources[POURS][rooms(mine, made)[0]] == coat
    assert [one.scope.pots for one in sources[PASSES].values() if one.name == "Dusk"] == [(coat,)]
    assert [one.scope.pots for one in sources[HOLDS].values()] == [(coat,)]
    assert mine[1].pots()[coat].local == "#884422"
    assert not same_named(mine[1], theirs[1], ToBring(schemes=())), "nothing is asked for what does not come"


def test_everything_that_names_a_pot_part_hold_or_page_names_the_one_here(pair: tuple[Pair, Pair]) -> None:
    mine, theirs = pair
    file, book = theirs
    page = work_on(theirs)
    cast, gold = next(n for n, part in book.parts().items() if part.name == "Cast"), pot(book, "theirs 1")
    second, _ = import_page(file, book, file.path.with_suffix(".png"))
    number = verbs.add_hold(book, page, Hold("Of all", Scope(parts=(cast,)), how="fixed", color="#00aa55"))
    verbs.share_hold(book, page, number)
    verbs.add_hold(mine[1], 1, Hold("Mine"))
    verbs.share_hold(mine[1], 1, next(iter(mine[1].sources(1)[HOLDS])))
    verbs.leave_calm(book, page, cast, calm=True)
    verbs.pin_pot(book, page, 7, gold)
    away = FollowingMark(page, 3, 1, pot=gold)
    setting.put(book, "test", "Test", (FOLLOWING.key(second, "dam:1"), away), (FOLLOWING.key(page, "dam:9"), away))
    verbs.make_sequence(book, (1, 2), "Walk")
    one, two = bring_from(*mine, theirs, ToBring((page, second)))
    here = mine[1].sources(one)
    there = next(n for n, part in mine[1].parts().items() if part.name == "Cast")
    assert list(here[CALM]) == [there]
    assert here[PINS] == {7: pot(mine[1], "theirs 1")}
    names = [hold.name for hold in here[HOLDS].values()]
    assert sorted(names) == ["Coat line", "Mine", "Of all"], "none took the place of another"
    assert [hold.scope.parts for hold in here[HOLDS].values() if hold.name == "Of all"] == [(there,)]
    assert mine[1].sources(two)[FOLLOWING]["dam:1"] == msgspec.structs.replace(away, source=one, pot=here[PINS][7])
    assert [one.pages for one in mine[1].sequences().values()] == [(one, two)]
    (alone,) = bring_from(*mine, theirs, ToBring((second,)))
    assert not mine[1].sources(alone)[FOLLOWING], "the page it follows did not come"


def test_schemes_and_parts_come_alone_or_with_pages(pair: tuple[Pair, Pair], tmp_path: Path) -> None:
    mine, theirs = pair
    page = work_on(theirs)
    book = theirs[1]
    night = verbs.add_scheme(book, "Night")
    coat, gold = pot(book, "Coat"), pot(book, "theirs 1")
    verbs.set_pot(book, coat, msgspec.structs.replace(book.pots()[coat], local="#101830"))
    verbs.set_pot(book, gold, msgspec.structs.replace(book.pots()[gold], local="#303818"))
    there = looks(theirs, page, tmp_path / "night")
    verbs.use_scheme(book, next(n for n in book.schemes() if n != night))
    day = looks(theirs, page, tmp_path / "day")
    (made,) = bring_from(*mine, theirs, ToBring((page,), schemes=(night,), own=frozenset({coat})))
    assert same(looks(mine, made, tmp_path / "here day"), day)
    verbs.use_scheme(mine[1], next(n for n, one in mine[1].schemes().items() if one.name == "Night"))
    assert same(looks(mine, made, tmp_path / "here night"), there)
    assert mine[1].pots()[pot(mine[1], "mine 0")].local == "#aa2211", "what it does not know stays"
    (again,) = bring_from(*mine, theirs, ToBring((page,), own=frozenset({coat})))
    assert same(looks(mine, again, tmp_path / "again"), there), "a scheme of the same name in hand is worn"
    parts = len(mine[1].parts())
    cast = next(n for n, part in book.parts().items() if part.name == "Cast")
    fresh = verbs.add_pot(book, "Late", cast, "#abcdef")
    bring_from(*mine, theirs, ToBring(parts=(cast,)))
    assert len(mine[1].parts()) == parts
    assert mine[1].pots()[pot(mine[1], "Late")].local == book.pots()[fresh].local


@pytest.mark.parametrize("choice", [ToBring(), ToBring((99,)), ToBring(parts=(99,)), ToBring(schemes=(9,))])
def test_what_is_not_there_is_told_and_nothing_comes(pair: tuple[Pair, Pair], choice: ToBring) -> None:
    mine, theirs = pair
    before = mine[1].values()
    with pytest.raises(BadInput):
        bring_from(*mine, theirs, choice)
    assert mine[1].values() == before


def test_a_terminal_asks_for_an_answer_about_pots_of_one_name(pair: tuple[Pair, Pair]) -> None:
    mine, theirs = pair
    work_on(theirs)
    paths = [str(side[0].path) for side in pair]
    for file, _ in pair:
        file.close()
    run = CliRunner()
    asked = run.invoke(app, ["bring", *paths, "--pages", "1", "--parts", "Cast"])
    assert isinstance(asked.exception, BadInput)
    assert "Coat" in asked.output
    strange = run.invoke(app, ["bring", *paths, "--parts", "Sea"])
    assert isinstance(strange.exception, BadInput)
    done = run.invoke(app, ["bring", *paths, "--pages", "1", "--same", "own"])
    assert done.exit_code == 0, done.output
    with looking_into(mine[0].path) as (_, book):
        assert len(book.pages()) == 2
        assert pot(book, "Coat 2")
    with looking_into(theirs[0].path) as (_, book):
        assert len(book.pages()) == 1
