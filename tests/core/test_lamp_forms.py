# SPDX-License-Identifier: GPL-3.0-or-later
"""Forms that flat shapes stand for, and the shadows a beam leaves on them, on shapes whose truth is known."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.core.shade.light import Beam, LitScene, forms_of, in_front, neighbors, shadows

LINE = 3.5


def scene(labels: np.ndarray, parts: list[int], calm: tuple[int, ...] = ()) -> LitScene:
    """A scene in one panel; label 0 is the margin, part -1 is nothing."""
    count = int(labels.max())
    part = np.array([-1, *parts], np.int32)
    panel = np.array([0, *[1] * count], np.int32)
    quiet = np.zeros(count + 1, bool)
    quiet[list(calm)] = True
    return LitScene(labels.astype(np.int32), part, panel, quiet, LINE)


def disc(radius: int = 50, size: int = 160) -> np.ndarray:
    labels = np.zeros((size, size), np.int32)
    labels[6:-6, 6:-6] = 1
    cv2.circle(labels, (size // 2, size // 2), radius, 2, -1)
    return labels


def test_neighbours_share_sides_and_know_their_whole_outline() -> None:
    labels = np.ones((40, 60), np.int32)
    labels[:, 30:] = 2
    labels[10:20, 5:15] = 3
    known = neighbors(labels, 3)
    assert known.sides[1, 2] == known.sides[2, 1] == 40
    assert known.of(3) == {1: 40}
    assert known.total[1] == 80


def test_what_is_enclosed_lies_in_front_and_shares_the_form_of_its_host() -> None:
    labels = disc()
    labels[70:80, 70:80] = 3
    found = scene(labels, [-1, 0, 0])
    assert (3, 2) in in_front(found.labels, found.neighbors, LINE)
    assert found.hosts[3] == 2
    assert found.hosts[2] == 0, "too large beside what is around it"
    assert found.bodies[2] == found.bodies[3]


def test_a_form_goes_on_behind_what_covers_it() -> None:
    labels = disc()
    labels[95:150, 60:100] = 3  # stands before the disc
    found = scene(labels, [-1, 0, 1])
    assert (3, 2) in found.fronts
    (form,) = forms_of(found, [[2]])
    top, left = form.reach[:2]
    assert form.inside[115 - top, 80 - left], "behind the front"
    assert not form.inside[140 - top, 80 - left], "not all of the front"
    assert 40 < form.radius < 56
    assert np.hypot(form.middle[0] - 80, form.middle[1] - 80) < 6


@given(st.floats(0, 2 * np.pi), st.floats(0.15, 0.6))
def test_the_shadow_of_a_disc_turns_with_the_lamp_and_keeps_to_its_share(turn: float, share: float) -> None:
    found = scene(disc(), [-1, 0])
    (form,) = forms_of(found, [[2]])
    beam = Beam(80 + 900 * np.sin(turn), 80 + 900 * np.cos(turn), share)
    made = shadows(found, {2: form}, {}, {1: beam})
    mask = np.zeros(found.labels.shape, np.uint8)
    for one in made:
        cv2.fillPoly(mask, [np.rint(one.loop[:, ::-1]).astype(np.int32)], 0 if one.light else 1)
    dark = (mask > 0) & (found.labels == 2)
    assert abs(dark.sum() / (found.labels == 2).sum() - share) < 0.12
    away = np.argwhere(dark).mean(axis=0) - 80
    assert away @ np.array([np.sin(turn), np.cos(turn)]) < -10


@pytest.mark.parametrize(("col", "side"), [(900, "left"), (-900, "right")])
def test_a_wall_has_a_straight_strip_on_its_far_side(col: float, side: str) -> None:
    labels = np.zeros((120, 200), np.int32)
    labels[5:-5, 5:-5] = 1
    labels[20:100, 40:160] = 2
    found = scene(labels, [-1, 0])
    (form,) = forms_of(found, [[2]])
    (made,) = shadows(found, {2: form}, {}, {1: Beam(60, col)})
    left, right = made.loop[:, 1].min(), made.loop[:, 1].max()
    assert (right < 80) if side == "left" else (left > 120)
    assert right - left < 45
    assert made.loop[:, 0].max() - made.loop[:, 0].min() > 70


def test_facets_of_one_body_are_dark_or_light_as_a_whole() -> None:
    labels = np.zeros((160, 160), np.int32)
    labels[4:-4, 4:-4] = 1
    corners = [(80, 10), (150, 80), (80, 150), (10, 80)]
    for k, (a, b) in enumerate(zip(corners, [*corners[1:], corners[0]], strict=True)):
        cv2.fillPoly(labels, [np.array([(80, 80), a, b], np.int32)], 2 + k)
    found = scene(labels, [-1, 0, 0, 0, 0])
    regions = [2, 3, 4, 5]
    forms = dict(zip(regions, forms_of(found, [[k] for k in regions]), strict=True))
    (body,) = forms_of(found, [regions])
    made = shadows(found, forms, {int(found.bodies[2]): body}, {1: Beam(-800, 80)})
    dark = {one.region for one in made}
    lit = {k for k in regions if np.argwhere(labels == k).mean(axis=0)[0] < 78}
    assert dark
    assert not dark & lit
    for one in made:
        mask = np.zeros(labels.shape, np.uint8)
        cv2.fillPoly(mask, [np.rint(one.loop[:, ::-1]).astype(np.int32)], 1)
        assert mask[labels == one.region].mean() > 0.97, "the whole facet"
