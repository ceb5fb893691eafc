# SPDX-License-Identifier: GPL-3.0-or-later
"""Props on pages: line that hides what is behind, turned and moved, coloured by the light; files read and refused."""

from pathlib import Path

import cv2
import numpy as np
import pytest

from drip_pot.book import verbs
from drip_pot.book.orders import run
from drip_pot.book.values import POURS, SHADE_CUTS, SHEETS
from drip_pot.core.errors import BadInput, DripPotError
from drip_pot.core.holds import BORDER
from drip_pot.demo.studies import handcart
from drip_pot.files import derive, hand_on, import_page, new_book, open_book, read_mesh
from tests.conftest import two_rooms, write_png
from tests.test_cli import drip_pot


@pytest.fixture
def cart(tmp_path: Path) -> Path:
    (tmp_path / "cart.obj").write_text(handcart())
    return tmp_path / "cart.obj"


@pytest.fixture
def stood(tmp_path: Path, cart: Path):
    """A book with a page of two rooms and a cart across their wall."""
    file, book = new_book(tmp_path / "book.drip", "Book")
    page, _ = import_page(file, book, write_png(tmp_path / "page.png", two_rooms(0, 400, 600)))
    original = file.add_original(cart.name, cart.read_bytes())
    number = verbs.stand_prop(book, page, original, "Cart", 200, 300, 240, 3.0)
    yield file, book, page, number
    file.close()


def contour(file, book, page: int) -> np.ndarray:
    return derive(file, book, page).inks.contour(book.sources(page).line)


def test_a_prop_hides_the_line_behind_it_turns_and_moves_and_is_undone(stood) -> None:
    file, book, page, number = stood
    with_cart = contour(file, book, page)
    verbs.set_sheet(book, page, number, covers=False)
    through = contour(file, book, page)
    assert (through[150:250, 290:310] > 127).sum() > (with_cart[150:250, 290:310] > 127).sum()
    book.undo()
    before = book.values()
    run(book, "turn-prop", {"number": number, "turn_deg": 110}, page)
    assert not np.array_equal(contour(file, book, page), with_cart)
    run(book, "turn-prop", {"number": number, "size_px": 120}, page)
    sheet = book.sources(page)[SHEETS][number]
    assert (sheet.place.down_px + 60, sheet.place.right_px + 60) == (200, 300), "its middle stays"
    run(book, "move-prop", {"number": number, "row": 100, "col": 100}, page)
    assert (contour(file, book, page)[60:140, 60:140] > 127).any()
    for given, words in (({"depth": 3}, "0 to 100 %"), ({"size_px": 2}, "24 to 8000")):
        with pytest.raises(BadInput, match=words):
            run(book, "turn-prop", {"number": number, **given}, page)
    with pytest.raises(BadInput, match="no prop"):
        run(book, "turn-prop", {"number": 0, "turn_deg": 3}, page)
    while book.values() != before:
        assert book.undo()
    assert np.array_equal(contour(file, book, page), with_cart)


def test_the_light_colours_it_in_two_tones_and_nothing_beside_it(stood) -> None:
    file, book, page, number = stood
    sources = book.sources(page)
    verbs.recut(book, page, *derive(file, book, page).regions.carried(sources))
    pot = next(iter(book.pots()))
    hand = hand_on(file, book, page)
    verbs.light_prop(hand, number, pot)
    poured = set(book.sources(page)[POURS])
    assert len(poured) > 5
    mine = np.isin(hand.labels, list(poured))
    assert not mine[:60].any()
    assert not mine[:, :150].any()
    tone = book.plane(f"page/{page}/pass/1").whole() > 0
    assert 0.1 < tone[mine].mean() < 0.9
    assert not tone[~mine].any()


def test_a_book_whose_mesh_is_damaged_opens_without_the_prop(stood) -> None:
    file, book, page, number = stood
    with file._writing() as db:
        db.execute("UPDATE original_chunk SET data = x'00' WHERE number = 2")
    path = file.path
    file.close()
    file, book = open_book(path)
    try:
        assert (contour(file, book, page)[180:220, 290:310] > 127).any(), "the wall is seen again"
    finally:
        file.close()


def test_meshes_are_read_and_refused_and_stood_from_the_command_line(
    tmp_path: Path, cart: Path, demo_book: Path
) -> None:
    assert len(read_mesh(cart)[1].faces) > 300
    for name, text, words in (
        ("none.obj", "# nothing\nv 0 0 0\n", "no faces|damaged"), ("noise.glb", "noise", "damaged"),
        ("page.png", "x", "no mesh that this program reads"),
    ):  # fmt: skip
        (tmp_path / name).write_text(text)
        with pytest.raises(DripPotError, match=words):
            read_mesh(tmp_path / name)
    ran = drip_pot("prop", demo_book, cart, "--page", 3, "--at", "600,300", "--size", 160)
    assert ran.returncode == 0, ran.stderr
    file, book = open_book(demo_book)
    try:
        sheets = book.sources(list(book.pages())[2])[SHEETS]
        assert [s.view.turn_deg for s in sheets.values() if s.view is not None] == [30.0]
    finally:
        file.close()
    ran = drip_pot("prop", demo_book, cart, "--at", "here")
    assert ran.returncode == 1
    assert "is no place" in ran.stderr


def pot_plane(file, book, page: int) -> np.ndarray:
    """The pot of every pixel; -1 is none."""
    derived, sources = derive(file, book, page), book.sources(page)
    if sources.cut != sources.line:
        verbs.recut(book, page, *derived.regions.carried(sources))
        sources = book.sources(page)
    labels = derived.regions.atoms(sources.line).labels
    table = np.full(int(labels.max()) + 1, -1)
    for atom, pot in sources[POURS].items():
        table[atom] = pot
    return table[labels]


def test_what_a_prop_hides_keeps_its_colours_and_gets_them_back(tmp_path: Path, cart: Path) -> None:
    file, book = new_book(tmp_path / "book.drip", "Book")
    page, _ = import_page(file, book, write_png(tmp_path / "page.png", two_rooms(0, 400, 600)))
    hand = hand_on(file, book, page)
    for row, col, pot in ((200, 150, 1), (200, 450, 2), (5, 5, 3)):
        verbs.pour(book, page, hand.region_of(hand.atom_at(row, col)), pot)
    before = pot_plane(file, book, page)
    number = verbs.stand_prop(book, page, file.add_original(cart.name, cart.read_bytes()), "Cart", 200, 300, 240, 3.0)
    pot_plane(file, book, page)
    verbs.light_prop(hand_on(file, book, page), number, 4)
    assert (pot_plane(file, book, page) == 4).sum() > 2000
    hand = hand_on(file, book, page)
    verbs.pour(book, page, hand.region_of(hand.atom_at(60, 60)), 5)  # while it stands there
    verbs.move_prop(book, page, number, 300, 470)
    moved = pot_plane(file, book, page)
    away = (moved == 4).nonzero()
    assert away[1].min() > 330, "its colour went along"
    assert (moved[150:250, 200:290] == 5).mean() > 0.95, "poured beside it since"
    assert (moved[130:200, 310:340] == 2).mean() > 0.9, "as it was beneath"
    verbs.remove_sheet(book, page, number)
    after = pot_plane(file, book, page)
    assert ((after == before) | (before == 1) & (after == 5)).mean() > 0.995
    while book.undo():
        pass
    file.close()


def test_light_on_a_prop_leaves_cuts_that_can_be_pulled(stood) -> None:
    file, book, page, number = stood
    pot_plane(file, book, page)
    loop = [(120.0, 200.0), (120.0, 400.0), (300.0, 400.0), (300.0, 200.0)]
    verbs.cut_shade(hand_on(file, book, page), loop)
    verbs.light_prop(hand_on(file, book, page), number, 1)
    whole = book.plane(f"page/{page}/pass/1").whole()
    for cut in list(book.sources(page)[SHADE_CUTS]):
        verbs.set_cut(hand_on(file, book, page), cut, None)
    lit = book.plane(f"page/{page}/pass/1").whole()
    prop = np.isin(pot_plane(file, book, page), [1])
    assert np.array_equal(lit[prop], whole[prop]), "what lies on the prop does not go with a cut"


def test_a_props_fine_line_makes_no_thick_joint_a_solid_black(tmp_path: Path, cart: Path) -> None:
    file, book = new_book(tmp_path / "book.drip", "Book")
    ink = two_rooms(0, 400, 600)
    cv2.circle(ink, (300, 20), 8, 255, -1)  # where the wall meets the frame
    page, _ = import_page(file, book, write_png(tmp_path / "page.png", ink))
    original = file.add_original(cart.name, cart.read_bytes())
    for col in (160, 440):
        verbs.stand_prop(book, page, original, "Cart", 200, col, 260, 0.8)
    derived = derive(file, book, page)
    sources = book.sources(page)
    assert derived.inks.line_px(sources.line) < 4, "most line on the page is fine now"
    pieces = derived.painted.pieces(sources)
    assert pieces.form[pieces.plane[20, 300]] == BORDER
    file.close()
