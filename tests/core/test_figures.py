# SPDX-License-Identifier: GPL-3.0-or-later
"""Figures that another drawing has again: found wherever they stand, grounds and strangers left alone."""

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from drip_pot.core.carry import Scene, find_figures, see
from drip_pot.core.errors import BadInput
from drip_pot.core.regions import auto_gap, decide, find_atoms
from drip_pot.demo.cast import cloud, wren_standing
from drip_pot.demo.folk import bram_bust
from drip_pot.demo.pen import Frame, Pen
from tests.core.test_carry import KINDS, drawing
from tests.core.test_carry import scene as of_shapes


def drawn(frame: Frame | None, ground: str = "Air", stranger: bool = False) -> tuple[Scene, np.ndarray, list[str]]:
    """A panel with a cloud and perhaps a figure, its true pots by region."""
    pen = Pen(150, 7, (600.0, 500.0))
    pen.weight = 1.2
    pen.begin_panel([(16, 16), (584, 16), (584, 484), (16, 484)], ground)
    cloud(pen, Frame(100 + 40 * stranger, 80, 0.8), 1.7)
    if frame is not None:
        wren_standing(pen, frame)
    if stranger:
        bram_bust(pen, Frame(330, 120, 0.8))
    pen.end_panel()
    pen.finish()
    atoms = find_atoms(pen.ink)
    region = decide(atoms, gap_px=auto_gap(atoms), choices=[], links=np.zeros((0, 2), np.int64)).region
    roots, where = np.unique(region[1:], return_inverse=True)
    labels = np.concatenate([[0], where + 1]).astype(np.int32)[atoms.labels]
    pots = [*pen.pots]
    votes = np.zeros((len(roots) + 1, len(pots)), np.int64)
    np.add.at(votes, (labels.ravel(), pen.pot_plane.ravel()), 1)
    return see(labels, pen.ink, atoms.line_px), votes.argmax(axis=1), pots


@settings(max_examples=5, deadline=None)
@given(st.floats(200, 380), st.floats(0.8, 1.3), st.floats(-12, 12), st.booleans())
def test_a_figure_is_found_moved_scaled_turned_and_mirrored(x: float, scale: float, turn: float, flip: bool) -> None:
    old, kinds, names = drawn(Frame(280, 440, 3.4))
    new, truth, others = drawn(Frame(x, 440, 3.4 * scale, turn, flip), "Dusk")
    figures = find_figures(old, new, kinds)
    assert len(figures) == 1
    (figure,) = figures
    assert figure.mirrored == flip
    pots = [(names[kinds[o]], others[truth[n]]) for o, n in zip(figure.old, figure.new, strict=True)]
    right = [a == b for a, b in pots if b != "Dusk"]
    assert len(right) >= 15
    assert np.mean(right) >= 0.97
    assert len(pots) - len(right) <= 1, "a ground is no figure, but for a bit of it between limbs"
    assert len(set(figure.new.tolist())) == len(figure.new)


def test_strangers_bare_pages_and_wrong_lengths_are_no_figures() -> None:
    old, kinds, _ = drawn(Frame(280, 440, 3.4))
    for other in (drawn(None)[0], drawn(None, stranger=True)[0]):
        assert not find_figures(old, other, kinds)
        assert not find_figures(other, old, np.zeros(other.count + 1, np.int64))
    assert not find_figures(old, old, np.full(old.count + 1, -1)), "nothing is poured there"
    with pytest.raises(BadInput, match="kinds"):
        find_figures(old, old, kinds[:-1])


def test_four_plain_shapes_that_lie_well_are_a_figure_and_other_shapes_are_none() -> None:
    old, _ = of_shapes(*drawing())
    new, truth = of_shapes(*drawing((12, -9), 8.0, 0.9))
    (figure,) = find_figures(old, new, np.arange(old.count + 1))
    assert set(truth[figure.new]) == {kind for name, kind in KINDS.items() if name != "ground"}
    assert figure.sure.mean() > 0.8
    ink, kind = drawing()
    ink[:], kind[:] = 0, 7
    for row, col, high, wide in ((100, 110, 50, 12), (100, 240, 14, 40), (250, 110, 22, 48), (250, 250, 46, 30)):
        ink = cv2.rectangle(ink, (col - wide, row - high), (col + wide, row + high), 255, 4)
    other, _ = of_shapes(cv2.rectangle(ink, (8, 8), (351, 351), 255, 4), kind)
    assert not find_figures(old, other, np.arange(old.count + 1))
