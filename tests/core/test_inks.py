# SPDX-License-Identifier: GPL-3.0-or-later
"""Paper, levels, weight and specks: the line comes out, the paper goes."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.core.errors import BadInput
from drip_pot.core.inks import (
    CROWD,
    InkSettings,
    Speck,
    coverage,
    erase_specks,
    estimate_paper,
    fill_holes,
    find_pieces,
    lone_specks,
    remove_paper,
    suggest_settings,
)
from drip_pot.devices import flawed_scan
from tests.conftest import random_drawing, two_rooms


def find_specks(ink: np.ndarray, largest_px: int) -> list[Speck]:
    return lone_specks(find_pieces(ink, CROWD * largest_px), InkSettings(speck_px=largest_px))


def scanned(seed: int = 3) -> tuple[np.ndarray, np.ndarray]:
    ink = np.zeros((900, 700), np.uint8)
    cv2.rectangle(ink, (60, 60), (640, 840), 255, 6)
    cv2.circle(ink, (350, 450), 180, 255, 5, cv2.LINE_AA)
    return ink, flawed_scan(ink, 300, seed)[0]


def test_uneven_light_and_tint_disappear_but_the_line_stays() -> None:
    ink, scan = scanned()
    assert scan[5:50, 5:50].mean() - scan[850:, 650:].mean() > 8, "the scan must be uneven for this test to mean much"
    evened = remove_paper(scan, estimate_paper(scan))
    found = coverage(evened, suggest_settings(evened, 300))
    clear = cv2.dilate(ink, np.ones((15, 15))) == 0
    assert (found[clear] > 0).mean() < 0.004, "only dust may be left on bare paper"
    assert found[ink > 200].mean() > 240
    corners = [
        np.median(evened[a, b]) for a in (slice(0, 50), slice(-50, None)) for b in (slice(0, 50), slice(-50, None))
    ]
    assert max(corners) - min(corners) <= 6


def test_a_clean_digital_page_passes_untouched() -> None:
    gray = 255 - two_rooms()
    assert estimate_paper(gray) is None
    assert remove_paper(gray, None) is gray


def test_solid_blacks_are_not_taken_for_paper() -> None:
    gray = np.full((600, 600), 236, np.uint8)
    gray[150:450, 100:500] = 22
    evened = remove_paper(gray, estimate_paper(gray))
    assert evened[300, 300] < 40
    assert evened[20, 20] >= 245


@given(st.integers(0, 200), st.integers(0, 255), st.integers(0, 255))
def test_coverage_is_monotone_and_transparent_beyond_white(seed: int, one: int, two: int) -> None:
    black, white = sorted((one, two))
    if black == white:
        white, black = max(white, 1), max(white, 1) - 1
    gray = np.arange(256, dtype=np.uint8)[None]
    ink = coverage(gray, InkSettings(white=white, black=black))[0].astype(int)
    assert (np.diff(ink) <= 0).all()
    assert (ink[white:] == 0).all()
    assert (ink[: black + 1] == 255).all()


@pytest.mark.parametrize(("weight", "more"), [(1.5, True), (0.25, True), (-1.0, False)])
def test_weight_moves_the_edge_both_ways(weight: float, more: bool) -> None:
    gray = 255 - two_rooms()
    plain = coverage(gray, InkSettings(252, 4)).sum(dtype=np.int64)
    weighed = coverage(gray, InkSettings(252, 4, weight_px=weight)).sum(dtype=np.int64)
    assert (weighed > plain) == more


def test_lone_specks_are_found_and_stipple_is_left() -> None:
    ink = np.zeros((400, 400), np.uint8)
    cv2.circle(ink, (60, 60), 3, 255, -1)
    for row in range(250, 330, 10):
        for col in range(250, 330, 10):
            cv2.circle(ink, (col, row), 2, 255, -1)
    cv2.line(ink, (20, 380), (380, 380), 255, 4)
    specks = find_specks(ink, 60)
    assert [(round(s.row), round(s.col)) for s in specks] == [(60, 60)]
    erased = erase_specks(ink, specks)
    assert not erased[50:70, 50:70].any()
    assert np.array_equal(erased[100:], ink[100:])
    assert find_specks(ink, 0) == []


@given(st.integers(0, 500))
def test_erasing_specks_only_ever_removes_whole_pieces(seed: int) -> None:
    ink = random_drawing(seed)
    specks = find_specks(ink, 80)
    out = erase_specks(ink, specks)
    changed = out != ink
    assert (out[changed] == 0).all()
    boxes = np.zeros_like(changed)
    for s in specks:
        boxes[max(0, s.top - 2) : s.bottom + 2, max(0, s.left - 2) : s.right + 2] = True
    assert not (changed & ~boxes).any()


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"white": 50, "black": 60}, "Black must be below white"),
        ({"weight_px": 9}, "Line weight goes from -4 to 4"),
        ({"speck_px": -1}, "Specks and holes"),
    ],
)
def test_impossible_settings_say_what_is_possible(values: dict[str, int], words: str) -> None:
    with pytest.raises(BadInput, match=words):
        InkSettings(**values)


@pytest.mark.parametrize("bad", [np.zeros((0, 4), np.uint8), np.zeros((4, 4), float), np.zeros((4, 4, 3), np.uint8)])
def test_planes_of_the_wrong_kind_are_refused_by_name(bad: np.ndarray) -> None:
    with pytest.raises(BadInput, match="evened must be a non-empty"):
        coverage(bad, InkSettings())


@pytest.mark.parametrize("mirrored", [False, True])
def test_pinpricks_in_strokes_are_filled_as_those_in_solid_black_and_counters_stay(mirrored: bool) -> None:
    rng = np.random.default_rng(1)
    ink = np.zeros((400, 400), np.uint8)
    for k in range(6):
        cv2.line(ink, (20, 40 + 60 * k), (380, 30 + 60 * k), 255, 9, cv2.LINE_AA)
        for x in rng.choice(np.arange(60, 340, 40), 2, replace=False).tolist():
            y = round(40 + 60 * k - 10 * (x - 20) / 360)
            ink[y : y + 1 + k % 2, x : x + 1 + k % 2] = 0
    cv2.circle(ink, (200, 385), 5, 255, 2)  # a letter's counter
    ink = ink[:, ::-1].copy() if mirrored else ink
    bare = [(one < 128).astype(np.uint8) for one in (ink, fill_holes(ink, 9))]
    assert [cv2.connectedComponents(one, connectivity=4)[0] for one in bare] == [15, 3]
