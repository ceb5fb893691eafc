# SPDX-License-Identifier: GPL-3.0-or-later
"""Colours carried between two drawings of the same thing: moved, turned, odd ones refused."""

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from drip_pot.book.values import DOUBTFUL
from drip_pot.core.carry import Scene, carry_kinds, see
from drip_pot.core.errors import BadInput
from drip_pot.core.regions import auto_gap, decide, find_atoms

SIZE = 360
SHAPES = (("disc", (100, 110)), ("box", (240, 100)), ("tall", (110, 250)), ("star", (250, 250)))
KINDS = {name: 10 + place for place, (name, _) in enumerate(SHAPES)} | {"ground": 7}


def drawing(
    shift: tuple[int, int] = (0, 0), turn_deg: float = 0.0, scale: float = 1.0
) -> tuple[np.ndarray, np.ndarray]:
    """Ink and true kinds of four shapes in a frame, moved together."""
    ink, kind = np.zeros((SIZE, SIZE), np.uint8), np.full((SIZE, SIZE), KINDS["ground"])
    move = cv2.getRotationMatrix2D((SIZE / 2, SIZE / 2), turn_deg, scale)
    move[:, 2] += shift
    around = np.linspace(0, 2 * np.pi, 40, endpoint=False)
    for name, (x, y) in SHAPES:
        radius = 34 + 10 * np.cos(5 * around) if name == "star" else np.full(40, 34.0)
        wide, high = {"box": (1.1, 0.8), "tall": (0.6, 1.3)}.get(name, (1, 1))
        flat = {"box": 0.4, "tall": 0.6}.get(name, 1.0)
        points = [
            np.sign(f(around)) * np.abs(f(around)) ** flat * radius * k for f, k in ((np.cos, wide), (np.sin, high))
        ]
        path = np.stack([points[0] + x, points[1] + y, np.ones(40)], axis=1) @ move.T
        spots = [np.rint(path * 16).astype(np.int32)]
        cv2.polylines(ink, spots, True, 255, 4, cv2.LINE_AA, 4)
        inside = cv2.fillPoly(np.zeros_like(ink), spots, 1, cv2.LINE_8, 4)
        kind[inside > 0] = KINDS[name]
    cv2.rectangle(ink, (8, 8), (SIZE - 9, SIZE - 9), 255, 4)
    return ink, kind


def scene(ink: np.ndarray, kind: np.ndarray) -> tuple[Scene, np.ndarray]:
    atoms = find_atoms(ink)
    region = decide(atoms, gap_px=auto_gap(atoms), choices=[], links=np.zeros((0, 2), np.int64)).region
    roots, where = np.unique(region[1:], return_inverse=True)
    labels = np.concatenate([[0], where + 1]).astype(np.int32)[atoms.labels]
    truth = [7, *(int(np.bincount(kind[labels == k]).argmax()) for k in range(1, len(roots) + 1))]
    return see(labels, ink, 4.0, (SIZE, SIZE)), np.array(truth)


@settings(max_examples=12, deadline=None)
@given(st.integers(-14, 14), st.integers(-14, 14), st.floats(-12, 12), st.floats(0.9, 1.08))
def test_what_moves_turns_and_grows_a_little_keeps_its_colours(dx: int, dy: int, turn_deg: float, scale: float) -> None:
    (old, before), (new, truth) = scene(*drawing()), scene(*drawing((dx, dy), turn_deg, scale))
    carried = carry_kinds(old, new, before)
    assert np.array_equal(carried.kind[1:], truth[1:])
    assert np.array_equal(before[carried.source[1:]], carried.kind[1:]), "every region says where it comes from"
    assert ((carried.sure >= 0) & (carried.sure <= 1 + 1e-9)).all()


def test_the_same_drawing_again_is_carried_without_a_doubt() -> None:
    old, before = scene(*drawing())
    carried = carry_kinds(old, old, before)
    assert np.array_equal(carried.kind[1:], before[1:])
    assert (carried.sure > DOUBTFUL).all()


def test_what_was_not_there_before_is_doubted() -> None:
    ink, kind = drawing()
    old, before = scene(ink, kind)
    cv2.ellipse(ink, (180, 180), (26, 14), 30, 0, 360, 255, 4, cv2.LINE_AA)
    kind[cv2.ellipse(np.zeros_like(ink), (180, 180), (26, 14), 30, 0, 360, 1, -1) > 0] = 99
    new, truth = scene(ink, kind)
    carried = carry_kinds(old, new, before)
    (fresh,) = np.flatnonzero(truth == 99)
    assert carried.sure[fresh] < carried.sure[1:][truth[1:] != 99].min()


def test_sparse_and_odd_scenes_are_carried_or_refused_in_words() -> None:
    blank, one = np.zeros((40, 30), np.uint8), np.ones((40, 30), np.int32)
    lone = see(one, blank, 3.0)
    assert carry_kinds(lone, lone, np.array([0, 5])).kind.tolist() == [0, 5]
    labels = np.arange(1, 1201, dtype=np.int32).reshape(40, 30)
    crowded = see(labels, blank, 3.0, (20, 15))
    assert len(crowded.areas) == 1201, "regions smaller than a small pixel are there still"
    with pytest.raises(BadInput, match="one shape"):
        carry_kinds(lone, crowded, np.array([0, 5]))
    with pytest.raises(BadInput, match="3 kinds"):
        carry_kinds(lone, lone, np.array([0, 1, 2, 3]))
    with pytest.raises(BadInput, match="differ in size"):
        see(one, blank[:-1], 3.0)
