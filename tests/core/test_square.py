# SPDX-License-Identifier: GPL-3.0-or-later
"""Drawings photographed at a slant: their paper found, laid square in its own proportions, by hand as well."""

from pathlib import Path

import cv2
import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from drip_pot.book import verbs
from drip_pot.book.findings import mend
from drip_pot.book.findings.inks import find_inks
from drip_pot.book.values import INKS
from drip_pot.core.errors import BadInput
from drip_pot.core.inks import Square, find_paper, squared, squared_by
from drip_pot.files import derive, import_page, new_book
from tests.conftest import two_rooms


def photographed(
    ink: np.ndarray, tilt_deg: float, swing_deg: float, turn_deg: float, seed: int = 0
) -> tuple[np.ndarray, np.ndarray]:
    """A drawing on a dark table, looked at through a lens; and where its corners (row, col) went."""
    high, wide = ink.shape
    a, b, c = np.radians([tilt_deg, swing_deg, turn_deg])
    around = [cv2.Rodrigues(np.array(axis) * angle)[0] for axis, angle in
              (((1.0, 0, 0), a), ((0, 1.0, 0), b), ((0, 0, 1.0), c))]  # fmt: skip
    flat = np.array([(-wide, -high, 0), (wide, -high, 0), (wide, high, 0), (-wide, high, 0)]) / 2.0
    seen = flat @ (around[0] @ around[1] @ around[2]).T
    rows, cols = round(high * 1.3), round(wide * 1.4)
    at = seen[:, :2] * (1.4 * high) / (seen[:, 2:] + 1.6 * high) + np.array([cols, rows]) / 2
    here = np.array([(0, 0), (wide, 0), (wide, high), (0, high)], np.float32)
    way = cv2.getPerspectiveTransform(here, at.astype(np.float32))
    paper = cv2.warpPerspective(255 - ink, way, (cols, rows), borderValue=0)
    on = cv2.warpPerspective(np.full_like(ink, 255), way, (cols, rows)) > 127
    rng = np.random.default_rng(seed)
    out = np.where(on, paper * 0.85 + 12, rng.normal(80, 8, (rows, cols))) * np.linspace(0.8, 1.0, cols)
    return np.clip(out + rng.normal(0, 3, out.shape), 0, 255).astype(np.uint8), at[:, ::-1] - 0.5


@given(st.floats(-22, 22), st.floats(-22, 22), st.floats(-12, 12), st.integers(0, 99))
def test_paper_at_a_slant_is_found_and_keeps_its_proportions(
    tilt_deg: float, swing_deg: float, turn_deg: float, seed: int
) -> None:
    ink = two_rooms(rows=420, cols=300)
    photo, corners = photographed(ink, tilt_deg, swing_deg, turn_deg, seed)
    found = find_paper(photo)
    if found is None:
        assert max(abs(tilt_deg), abs(swing_deg), 4 * abs(turn_deg)) < 6, "lies square already"
        return
    assert np.abs(found - corners).max() < 7
    square = squared_by(found, photo.shape)
    assert square.cols / square.rows == pytest.approx(300 / 420, rel=0.05)
    drawn = cv2.resize(squared(photo, square, 255), (300, 420), interpolation=cv2.INTER_AREA)
    assert drawn[ink == 0].mean() - drawn[ink == 255].mean() > 90
    back = square.in_photograph(np.array([(0, 0), (square.rows, square.cols)]) - 0.5)
    assert np.abs(back - found[[0, 2]]).max() < 0.1


def test_scans_and_drawings_are_no_photographs() -> None:
    ink = two_rooms(rows=420, cols=300)
    assert find_paper(255 - ink) is None
    assert find_paper(np.pad(255 - ink, 40)) is None, "square in a dark rim"
    for plain in (0, 255):
        assert find_paper(np.full((90, 60), plain, np.uint8)) is None
        assert find_paper(np.full((1, 1), plain, np.uint8)) is None


@pytest.mark.parametrize(
    ("corners", "words"),
    [
        (((0, 0), (0, 9), (9, 9)), "four corners"),
        (((0, 0), (9, 9), (0, 9), (9, 0)), "without crossing"),
        (((0, 0), (0, np.inf), (9, 9), (9, 0)), "four corners"),
    ],
)
def test_what_is_no_paper_is_told(corners: tuple[tuple[float, float], ...], words: str) -> None:
    with pytest.raises(BadInput, match=words):
        Square(corners, 100, 100)


def test_a_photograph_is_squared_as_it_comes_by_a_button_and_by_hand_and_undone(tmp_path: Path) -> None:
    photo, corners = photographed(two_rooms(rows=630, cols=450), 14, -10, 4)
    Image.fromarray(photo).save(tmp_path / "photo.png", dpi=(300, 300))
    file, book = new_book(tmp_path / "book.drip", "Book")
    page, notes = import_page(file, book, tmp_path / "photo.png")
    assert any("laid square" in note for note in notes)
    came, inks = book.pages()[page], book.sources(page)[INKS][0]
    as_it_was = msgspec.structs.replace(inks.settings, square=None)
    verbs.set_inks(book, page, msgspec.structs.replace(inks, settings=as_it_was))
    verbs.crop_page(book, page, (0, 0, *photo.shape))
    before, derived = book.values(), derive(file, book, page)
    (finding,) = [f for f in find_inks(book.sources(page), derived, lambda *_: None) if f.title == "At a slant"]
    mend(book, page, finding)
    here = book.pages()[page]
    assert (here.rows, here.cols) == (came.rows, came.cols)
    assert here.cols / here.rows == pytest.approx(450 / 630, rel=0.03)
    contour = derive(file, book, page).inks.contour(book.sources(page).line)
    assert (contour[: here.rows // 50] < 128).all(), "nothing of the table is left"
    assert derive(file, book, page).regions.atoms(book.sources(page).line).count == 3
    first = book.sources(page)[INKS][0].settings.square
    sides = [(0.0, 0.0), (0.0, float(here.cols)), (float(here.rows), float(here.cols)), (float(here.rows), 0.0)]
    verbs.square_sheet(book, page, [(5.0, 5.0), *sides[1:]])
    again = book.sources(page)[INKS][0].settings.square
    assert np.abs(np.array(again.corners[0]) - first.corners[0]).max() < 12
    assert np.abs(np.array(again.corners[2]) - corners[2]).max() < 5
    with pytest.raises(BadInput, match="without crossing"):
        verbs.square_sheet(book, page, [sides[0], sides[2], sides[1], sides[3]])
    book.undo()
    book.undo()
    assert book.values() == before
    file.close()
