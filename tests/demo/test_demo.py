"""The demo page: the same every time, and its truth is what can be measured on its pixels."""

from pathlib import Path

import cv2
import numpy as np
import pytest

from drip_pot.demo.build import SCHEME, Drawing, draw, majority
from drip_pot.devices import flawed_scan
from drip_pot.files import derive, open_book


@pytest.fixture(scope="module")
def drawing() -> Drawing:
    return draw(300)


def test_the_same_seed_gives_the_same_bytes(drawing: Drawing) -> None:
    again = Drawing(300)
    assert np.array_equal(again.ink, drawing.ink)
    assert np.array_equal(again.broken, drawing.broken)
    small = drawing.ink[:400, :400]
    one, two, other = (flawed_scan(small, 300, seed)[0] for seed in (1, 1, 2))
    assert np.array_equal(one, two)
    assert not np.array_equal(one, other)


def test_planted_gaps_are_open_by_their_width(drawing: Drawing) -> None:
    open_gaps = 0
    for gap in drawing.gaps:
        row, col = round(gap.row), round(gap.col)
        cut = slice(max(0, row - 12), row + 13), slice(max(0, col - 12), col + 13)
        lost = drawing.ink[cut].astype(int) - drawing.broken[cut]
        assert (lost >= 0).all()
        if lost.max() > 200 and drawing.ink[row, col] > 200:
            open_gaps += 1
            assert drawing.broken[row, col] == 0
            wide = np.count_nonzero(lost[lost > 128])
            assert wide >= 0.6 * gap.width_px * 2, "at least the line's own width is gone"
    assert open_gaps >= 12, "most gaps are on lines that can be seen"


def test_every_pot_of_the_drawing_is_in_the_scheme(drawing: Drawing) -> None:
    named = {name for pots in SCHEME.values() for name in pots}
    assert set(drawing.pots) - {"Paper"} == named


def test_true_regions_lie_between_lines(drawing: Drawing) -> None:
    edge = np.zeros(drawing.pot.shape, np.uint8)
    edge[:, 1:] |= drawing.pot[:, 1:] != drawing.pot[:, :-1]
    edge[1:] |= drawing.pot[1:] != drawing.pot[:-1]
    lined = cv2.dilate(drawing.ink, np.ones((7, 7), np.uint8)) > 60
    assert (edge.astype(bool) & ~lined).sum() / edge.sum() < 0.02


def test_dust_lies_where_the_truth_says(drawing: Drawing) -> None:
    blank = np.zeros_like(drawing.ink)
    scan, dust = flawed_scan(blank, 300)
    assert len(dust) >= 30
    for speck in dust:
        row, col = round(speck.row), round(speck.col)
        around = scan[max(0, row - 30) : row + 30, max(0, col - 30) : col + 30]
        assert int(scan[row, col]) < np.median(around) - 60


def test_the_demo_book_opens_as_work_half_done(demo_book: Path) -> None:
    file, book = open_book(demo_book)
    first, second = book.pages()
    for page, least, most in ((first, 0.97, 1.0), (second, 0.02, 0.9)):
        sources = book.sources(page)
        derived = derive(file, book, page)
        atoms, facts = derived.atoms(sources.inks), derived.facts(sources.inks)
        inside = [a for a in range(1, atoms.count + 1) if facts.boxes[a].min(axis=0) > 0]
        share = sum(a in sources.pours for a in inside) / len(inside)
        assert least <= share <= most
    assert book.plane(f"page/{first}/shade").any()
    assert book.sources(first).holds
    assert [s.title for s in book.history if s.title.startswith("Pour Coat into")]
    file.close()


def test_majority_takes_the_commonest() -> None:
    labels = np.array([[1, 1, 1, 2]], np.int32)
    assert majority(labels, 2, np.array([[3, 3, 0, 1]], np.uint8), 4)[1:] == [3, 1]
