# SPDX-License-Identifier: GPL-3.0-or-later
"""Old stock: each step is off when its eye is shut, the same from one seed, the same whichever piece is drawn."""

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.core.errors import BadInput
from drip_pot.core.press import (
    INK_WEAR,
    PRESETS,
    WEAR_KINDS,
    WHOLE_SHEET,
    PaperTexture,
    Stock,
    Wear,
    WearStep,
    appearance,
    halo_px,
    seamless,
    steps_of,
    worn,
)
from drip_pot.core.render import PictureSource, Placed, picture_levels

SHAPE = (260, 220)


def sheet() -> np.ndarray:
    """Plates with flats, a tone and a spot ink."""
    inks = np.zeros((*SHAPE, 5), np.uint8)
    inks[30:230, 20:110] = (0, 120, 200, 0, 0)
    inks[30:230, 110:200] = (160, 30, 0, 40, 0)
    inks[200:225, 30:190, 4] = 200
    return inks


def line() -> np.ndarray:
    """A black line."""
    out = np.zeros(SHAPE, np.uint8)
    out[120:126] = 255
    return out


SPOTS = (np.array([230, 60, 40], np.uint8),)


def drawn(wear: Wear, **stock: object) -> np.ndarray:
    return worn(sheet(), wear, _stock(**stock), line())


def _stock(**values: object) -> Stock:
    return Stock("newsprint", 150.0, SHAPE, spots=SPOTS, **values)  # type: ignore[arg-type]


def one(kind: str, value: float = 1.0, **values: object) -> Wear:
    return Wear((WearStep(kind, 45.0 if kind == "screen" else value, number=1, **values),))  # type: ignore[arg-type]


def test_a_new_sheet_is_a_proof_on_paper_and_every_step_has_an_eye_that_keeps_its_value() -> None:
    new = drawn(Wear())
    four = sheet()[..., :4].copy()
    four[120:126, :, 3] = 255
    plain = sheet()[..., 4] == 0
    assert np.array_equal(new[plain], appearance(four, "newsprint", paper=True)[plain])
    for kind in WEAR_KINDS:
        wear = one(kind)
        aged = Wear(steps_of(age=0.5))
        before = drawn(aged) if kind == "white" else new
        after = drawn(Wear((*aged.steps, *wear.steps))) if kind == "white" else drawn(wear)
        assert (after != before).mean() > 0.001, kind
        shut = one(kind, on=False)
        assert shut.is_new
        assert np.array_equal(drawn(shut), new), kind
        rubbed = drawn(wear, kept={1: np.full(SHAPE, 255, np.uint8)})
        assert np.array_equal(rubbed, new), f"{kind} is rubbed out"


@given(st.integers(0, 120), st.integers(0, 100), st.sampled_from(list(PRESETS)), st.integers(1, 5))
def test_a_piece_looks_as_it_does_in_the_whole(top: int, left: int, name: str, seed: int) -> None:
    wear = msgspec.structs.replace(PRESETS[name], seed=seed)
    halo = halo_px(wear, 150.0)
    bottom, right = top + 2 * halo + 40, left + 2 * halo + 40
    whole = drawn(wear)
    cut = (slice(top, bottom), slice(left, right))
    piece = worn(np.ascontiguousarray(sheet()[cut]), wear, _stock(top=top, left=left), line()[cut].copy())
    inner = piece[halo:-halo, halo:-halo]
    same = whole[top + halo : top + halo + len(inner), left + halo : left + halo + inner.shape[1]]
    assert np.abs(inner[: len(same)].astype(int) - same).max() <= 3, "rounding alone"
    assert np.array_equal(whole, drawn(wear))


def test_a_step_works_on_the_inks_it_is_told_alone() -> None:
    new = drawn(Wear())
    on_line = np.zeros(SHAPE, bool)
    on_line[115:131] = True
    for kind in INK_WEAR:
        changed = (drawn(one(kind, inks=("line",))) != new).any(axis=2)
        assert kind == "screen" or changed.any(), kind
        assert not changed[~on_line].any() or kind in ("register", "spread"), kind
        spots = (drawn(one(kind, inks=("spots",))) != new).any(axis=2)
        assert spots.any(), kind
        assert not spots[:180].any(), kind
    dots, pale = one("screen"), Wear((*one("screen").steps, WearStep("fade", 1.0, inks=("line",), number=2)))
    line_alone = slice(121, 125), slice(0, 18)
    assert np.ptp(drawn(dots)[line_alone].astype(int), axis=(0, 1)).max() == 0
    assert np.ptp(drawn(pale)[line_alone].astype(int), axis=(0, 1)).max() < 60, "what fades is paler, not in dots"
    tone = drawn(dots)[60:110, 40:100]
    assert len(np.unique(tone.reshape(-1, 3), axis=0)) > 20
    assert np.abs(tone.mean(axis=(0, 1)) - new[60:110, 40:100].mean(axis=(0, 1))).max() < 26


def test_another_seed_is_another_sheet_and_wrong_wear_is_refused() -> None:
    for kind in ("register", "fade", "mottle", "scratches", "folds", "age", "stains", "grain"):
        assert (drawn(one(kind)) != drawn(msgspec.structs.replace(one(kind), seed=2))).mean() > 0.001, kind
    for values, words in ((("fade", 2.0), "0 to 100 %"), (("screen", 5.0), "20 to 200 lines")):
        with pytest.raises(BadInput, match=words):
            WearStep(*values)  # type: ignore[arg-type]


def test_wear_is_rubbed_out_and_pictures_of_paper_blend_with_the_sheet() -> None:
    kept = np.zeros(SHAPE, np.uint8)
    kept[100:160] = 255
    wear = PRESETS["Read to bits"]
    out = drawn(wear, kept={WHOLE_SHEET: kept})
    assert np.array_equal(out[100:160], drawn(Wear())[100:160])
    assert np.array_equal(out[:100], drawn(wear)[:100])
    paper = np.full((40, 40, 3), 255, np.uint8)
    paper[:20] = 128
    placed = Placed(1, ((-0.5, -0.5), (-0.5, 39.5), (39.5, -0.5), (39.5, 39.5)), repeats=True)
    source = PictureSource(placed, picture_levels(paper))
    plain = drawn(Wear()).astype(float)
    for mode, half in (("multiply", plain[42:58] * 0.75), ("normal", (plain[42:58] + 128) / 2)):
        texture = PaperTexture(placed, 0.5, mode, seamless=False)  # type: ignore[arg-type]
        out = worn(sheet(), Wear(textures=(texture,)), _stock(), line(), ((texture, source),)).astype(float)
        assert np.abs(out[42:58] - half).max() < 2, mode
    with pytest.raises(BadInput, match="at most 4"):
        Wear(textures=(texture,) * 5)


@given(st.integers(0, 9999), st.integers(24, 90), st.integers(24, 90))
def test_a_texture_repeats_without_seams_and_keeps_its_contrast(seed: int, rows: int, cols: int) -> None:
    rng = np.random.default_rng(seed)
    ramp = np.linspace(60, 160, rows)[:, None] + np.linspace(0, 60, cols)[None]
    picture = np.clip(ramp[..., None] + rng.normal(0, 4, (rows, cols, 1)), 0, 255).astype(np.uint8).repeat(3, axis=2)
    corners = ((0.0, 0.0), (0.0, float(cols)), (float(rows), 0.0), (float(rows), float(cols)))
    made = seamless(PictureSource(Placed(1, corners, repeats=True), picture_levels(picture))).levels[0].astype(int)
    for axis in (0, 1):
        seam = np.abs(np.take(made, 0, axis) - np.take(made, -1, axis)).mean()
        within = np.abs(np.diff(made, axis=axis)).mean()
        assert seam < 3 * within + 3
    assert made[..., :3].std() > 0.5 * picture.std()
