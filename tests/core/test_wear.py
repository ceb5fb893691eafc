# SPDX-License-Identifier: GPL-3.0-or-later
"""Old stock: each step is off at zero, the same from one seed, and the same whichever piece is drawn."""

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.core.errors import BadInput
from drip_pot.core.press import PRESETS, STEPS, Wear, appearance, halo_px, worn
from drip_pot.core.render import PictureSource, Placed, picture_levels

DPI = 150.0
SHAPE = (260, 220)


def sheet() -> np.ndarray:
    """Plates with flats, a tone and a line."""
    inks = np.zeros((*SHAPE, 4), np.uint8)
    inks[30:230, 20:110] = (0, 120, 200, 0)
    inks[30:230, 110:200] = (160, 30, 0, 40)
    inks[120:126] = (0, 0, 0, 255)
    return inks


def drawn(wear: Wear, inks: np.ndarray | None = None) -> np.ndarray:
    return worn(sheet() if inks is None else inks, wear, DPI, "newsprint", 0, 0, SHAPE)


def test_a_new_sheet_is_a_proof_on_paper_and_every_step_alone_changes_it() -> None:
    new = drawn(Wear())
    assert Wear().is_new
    assert np.array_equal(new, appearance(sheet(), "newsprint", paper=True))
    for name in STEPS:
        changed = msgspec.structs.replace(Wear(age=0.5 if name == "white" else 0.0), **{name: 1.0})
        before = drawn(Wear(age=0.5)) if name == "white" else new
        assert not changed.is_new
        assert (drawn(changed) != before).mean() > 0.001, name
    dots = drawn(Wear(screen_lpi=40))
    assert len(np.unique(dots[60:110, 40:100].reshape(-1, 3), axis=0)) > 20
    assert np.abs(dots[60:110, 40:100].mean(axis=(0, 1)) - new[60:110, 40:100].mean(axis=(0, 1))).max() < 26


@given(st.integers(0, 120), st.integers(0, 100), st.sampled_from(list(PRESETS)), st.integers(1, 5))
def test_a_piece_looks_as_it_does_in_the_whole(top: int, left: int, name: str, seed: int) -> None:
    wear = msgspec.structs.replace(PRESETS[name], seed=seed)
    halo = halo_px(wear, DPI)
    bottom, right = top + 2 * halo + 40, left + 2 * halo + 40
    whole = drawn(wear)
    piece = worn(np.ascontiguousarray(sheet()[top:bottom, left:right]), wear, DPI, "newsprint", top, left, SHAPE)
    inner = piece[halo:-halo, halo:-halo]
    same = whole[top + halo : top + halo + len(inner), left + halo : left + halo + inner.shape[1]]
    assert np.abs(inner[: len(same)].astype(int) - same).max() <= 3, "rounding alone"
    assert np.array_equal(whole, drawn(wear))


def test_another_seed_is_another_sheet_and_wrong_wear_is_refused() -> None:
    wear = PRESETS["Attic copy"]
    assert (drawn(wear) != drawn(msgspec.structs.replace(wear, seed=2))).mean() > 0.2
    with pytest.raises(BadInput, match="0 to 100 %"):
        Wear(fade=2)
    with pytest.raises(BadInput, match="20 to 200 lines"):
        Wear(screen_lpi=5)


def test_wear_is_rubbed_out_and_pictures_of_paper_darken_the_sheet() -> None:
    wear = PRESETS["Read to bits"]
    kept = np.zeros(SHAPE, np.uint8)
    kept[100:160] = 255
    out = worn(sheet(), wear, DPI, "newsprint", 0, 0, SHAPE, kept=kept)
    assert np.array_equal(out[100:160], appearance(sheet(), "newsprint", paper=True)[100:160])
    assert np.array_equal(out[:100], drawn(wear)[:100])
    paper = np.full((40, 40, 3), 255, np.uint8)
    paper[:20] = 128
    placed = Placed(1, ((-0.5, -0.5), (-0.5, 39.5), (39.5, -0.5), (39.5, 39.5)), repeats=True)
    source = (PictureSource(placed, picture_levels(paper)),)
    lit = msgspec.structs.replace(Wear(), textures=(placed,), texture=0.5)
    out = worn(sheet(), lit, DPI, "coated", 0, 0, SHAPE, textures=source).astype(float)
    plain = worn(sheet(), Wear(), DPI, "coated", 0, 0, SHAPE).astype(float)
    assert np.abs(out[42:58] - plain[42:58] * 0.75).max() < 2, "half of half the light"
    assert np.abs(out[62:78] - plain[62:78]).max() < 2
    with pytest.raises(BadInput, match="at most 4"):
        Wear(textures=(placed,) * 5)
