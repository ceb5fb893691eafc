# SPDX-License-Identifier: GPL-3.0-or-later
"""Working in strips: bounded memory, and exactly the same answers as all at once."""

from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.core import strips as module
from drip_pot.core.heap import give_back
from drip_pot.core.regions import find_atoms, find_borders, label_areas, label_boxes
from drip_pot.core.strips import in_strips, strips
from tests.conftest import random_drawing


@given(st.integers(1, 5000), st.integers(0, 300), st.integers(1, 1500))
def test_strips_cover_every_row_once_with_their_context(rows: int, halo: int, height: int) -> None:
    cut = strips(rows, halo, height)
    assert [r for s in cut for r in range(s.rows.start, s.rows.stop)] == list(range(rows))
    for strip in cut:
        assert strip.around.start == max(0, strip.rows.start - halo)
        assert strip.around.stop == min(rows, strip.rows.stop + halo)
        around = np.arange(strip.around.start, strip.around.stop)
        assert around[strip.inside].tolist() == list(range(strip.rows.start, strip.rows.stop))


def test_results_come_in_order_and_errors_come_out() -> None:
    assert in_strips(lambda strip: strip.rows.start, 3000, height=700) == [0, 700, 1400, 2100, 2800]

    def broken(strip: module.Strip) -> int:
        raise ValueError(f"rows {strip.rows.start}")

    with pytest.raises(ValueError, match="rows 0"):
        in_strips(broken, 3000)


@pytest.mark.parametrize("seed", range(4))
def test_atoms_are_the_same_whatever_the_strips(seed: int, monkeypatch: pytest.MonkeyPatch) -> None:
    ink = np.vstack([random_drawing(seed + k, 260) for k in range(3)])
    whole = find_atoms(ink)
    monkeypatch.setattr(module.strips, "__defaults__", (0, 90))
    monkeypatch.setattr(module.in_strips, "__defaults__", (0, 90))
    cut = find_atoms(ink)
    assert np.array_equal(cut.bridges.feet, whole.bridges.feet)
    assert cut.count == whole.count
    assert (cut.labels != whole.labels).mean() < 0.0005, "only exact ties between two neighbours may fall differently"


@pytest.mark.parametrize("shape", [(1, 1), (1, 7), (7, 1), (2, 2), (1300, 40)])
def test_areas_boxes_and_borders_agree_with_counting_by_hand(shape: tuple[int, int]) -> None:
    rng = np.random.default_rng(shape[0])
    labels = np.kron(rng.integers(1, 9, (-(-shape[0] // 4), -(-shape[1] // 4))), np.ones((4, 4)))
    labels = labels[: shape[0], : shape[1]].astype(np.int32)
    areas, boxes = label_areas(labels, 9), label_boxes(labels, 9)
    for label in range(1, 10):
        rows, cols = np.nonzero(labels == label)
        assert areas[label] == len(rows)
        if len(rows):
            assert boxes[label].tolist() == [rows.min(), cols.min(), rows.max() + 1, cols.max() + 1]
        else:
            assert boxes[label, 2:].tolist() == [0, 0]
    sides: dict[tuple[int, int], int] = {}
    for a, b in ((labels[:, :-1], labels[:, 1:]), (labels[:-1], labels[1:])):
        for p, q in zip(a.ravel().tolist(), b.ravel().tolist(), strict=True):
            if p != q:
                sides[min(p, q), max(p, q)] = sides.get((min(p, q), max(p, q)), 0) + 1
    borders = find_borders(labels)
    assert dict(zip(map(tuple, borders.pairs.tolist()), borders.length_px.tolist(), strict=True)) == sides


def test_freed_planes_are_given_back_to_the_system() -> None:
    def resident() -> int:
        return int(Path("/proc/self/statm").read_text().split()[1]) * 4096

    np.ones(30 << 20, np.uint8)  # from now on the C library keeps what is smaller when it is freed
    give_back()
    before = resident()
    planes = [np.ones(4 << 20, np.uint8) for _ in range(50)]
    assert resident() - before > 150 << 20
    kept = [np.ones(1 << 16, np.uint8), planes.pop()]
    planes.clear()
    give_back()
    assert resident() - before < 30 << 20
    assert len(kept) == 2
