# SPDX-License-Identifier: GPL-3.0-or-later
"""What makes a line perfect: dust, pencil, tone, detail, mending, effect lines, skew, frames, re-inking."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.core.errors import BadInput
from drip_pot.core.inks import (
    CROWD,
    Effect,
    InkSettings,
    Pencil,
    Place,
    align,
    balloon_paper,
    coverage,
    covered,
    draw_effect,
    erase_specks,
    estimate_paper,
    fill_holes,
    find_breaks,
    find_changes,
    find_pencil,
    find_pieces,
    find_skew,
    find_textures,
    find_tones,
    is_balloon,
    lay,
    lay_ink,
    lone_specks,
    matched_to,
    mended,
    mirrored,
    remove_paper,
    remove_pencil,
    scrape,
    smoothed,
    split_strokes,
    stroke_ink,
    stroke_mask,
    suggest_settings,
    tapered,
    turned_about,
    vanishing,
    without_tone,
)
from drip_pot.demo.works import draw
from drip_pot.devices import flawed_scan, scan_drawing
from tests.conftest import random_drawing, two_rooms


def page(rows: int = 900, cols: int = 700) -> np.ndarray:
    """Ink of a page with four panels, a figure and some letters."""
    ink = np.zeros((rows, cols), np.uint8)
    for top, left in ((40, 40), (40, 370), (470, 40), (470, 370)):
        cv2.rectangle(ink, (left, top), (left + 290, top + 390), 255, 5)
    cv2.circle(ink, (180, 220), 90, 255, 4, cv2.LINE_AA)
    cv2.ellipse(ink, (520, 650), (100, 60), 20, 0, 300, 255, 4, cv2.LINE_AA)
    cv2.putText(ink, "Wren", (400, 150), cv2.FONT_HERSHEY_SIMPLEX, 2, 255, 4, cv2.LINE_AA)
    return ink


# Dust


@pytest.mark.parametrize("name", ["page-1", "page-3", "page-4"])
def test_planted_dust_goes_and_no_dot_of_the_drawing_is_lost(name: str) -> None:
    drawing = draw(name, 400)
    scan, dust = flawed_scan(drawing.ink, 400, 5)
    evened = remove_paper(scan, estimate_paper(scan))
    settings = suggest_settings(evened, 400)
    raw = coverage(evened, settings)
    out = erase_specks(raw, lone_specks(find_pieces(raw, CROWD * settings.speck_px, evened), settings))
    near = cv2.dilate(drawing.ink, np.ones((7, 7), np.uint8))
    seen = gone = 0
    for speck in dust:
        r = max(1, round(speck.radius_px)) + 1
        box = (
            slice(round(speck.row) - r, round(speck.row) + r + 1),
            slice(round(speck.col) - r, round(speck.col) + r + 1),
        )
        if not near[box].any():
            seen += 1
            gone += out[box].max() < 40
    assert seen >= 15
    assert gone >= 0.99 * seen
    count, labels, stats, _ = cv2.connectedComponentsWithStats((drawing.ink > 60).astype(np.uint8), connectivity=8)
    dots = [k for k in range(1, count) if stats[k, cv2.CC_STAT_AREA] < 1500]
    assert len(dots) > 40
    for k in dots:
        x, y, w, h = stats[k][:4].tolist()
        own = labels[y : y + h, x : x + w] == k
        assert out[y : y + h, x : x + w][own].max() > 100 or raw[y : y + h, x : x + w][own].max() <= 100


def test_pinholes_are_filled_but_stars_and_eyes_of_white_stay() -> None:
    ink = np.zeros((300, 400), np.uint8)
    ink[40:260, 40:360] = 255
    ink[80:83, 80:83] = 0
    cv2.circle(ink, (300, 90), 12, 0, -1)
    for row in range(180, 240, 12):
        for col in range(180, 300, 12):
            ink[row : row + 3, col : col + 3] = 0
    out = fill_holes(ink, 30)
    assert out[81, 81] == 255
    assert np.array_equal(out[150:], ink[150:]), "many together are stars"
    assert out[90, 300] == 0, "larger than the limit"
    assert fill_holes(ink, 0) is ink


# Paper, levels, pencil


@pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
def test_a_fold_and_a_shadowed_spine_are_paper(dtype: type) -> None:
    unit = np.iinfo(dtype).max / 255
    light = np.full((600, 800), 235.0)
    across = np.arange(800)
    light -= 150 * np.exp(-(((across - 400) / 22.0) ** 2))[None]
    light *= np.clip(0.3 + across / 160, 0.3, 1)[None]
    ink = two_rooms(rows=600, cols=800)
    scan = ((light * (1 - ink / 255.0) + 0.12 * light * (ink / 255.0)) * unit).astype(dtype)
    evened = remove_paper(scan, estimate_paper(scan))
    assert evened.dtype == dtype
    found = coverage(evened, InkSettings(white=210, black=60))
    clear = cv2.dilate(ink, np.ones((9, 9), np.uint8)) == 0
    assert (found[clear] > 20).mean() < 0.01
    assert found[ink > 250].mean() > 200


def test_sixteen_bits_are_used_as_such() -> None:
    fine = np.linspace(20000, 20600, 400, dtype=np.uint16)[None].repeat(3, axis=0)
    ink = coverage(fine, InkSettings(white=81, black=77))
    assert len(np.unique(ink)) > 60, "eight bits would leave three levels here"


def test_two_levels_have_no_soft_edge_and_what_would_be_lost_is_marked() -> None:
    ink = np.zeros((120, 200), np.uint8)
    cv2.line(ink, (10, 30), (190, 34), 255, 5, cv2.LINE_AA)
    ink[80, 20:180] = 90
    settings = InkSettings(white=254, black=1, threshold=128, even_paper=False)
    hard = coverage(255 - ink, settings)
    assert set(np.unique(hard)) == {0, 255}
    lost = vanishing(255 - ink, settings)
    assert lost[80, 40:160].all()
    assert not lost[:60].any()
    assert not vanishing(255 - ink, InkSettings()).any()


@pytest.mark.parametrize(("color", "hue"), [((120, 170, 235), 255), ((235, 130, 130), 20)])
def test_coloured_pencil_goes_by_its_hue_and_ink_over_it_stays(color: tuple[int, int, int], hue: float) -> None:
    rgb = np.full((500, 400, 3), (244, 240, 228), np.uint8)
    cv2.line(rgb, (30, 30), (370, 470), color, 9, cv2.LINE_AA)
    cv2.line(rgb, (30, 470), (370, 30), (25, 22, 30), 7, cv2.LINE_AA)
    found = find_pencil(rgb)
    assert found is not None
    assert abs((found - hue + 180) % 360 - 180) < 25
    gray = remove_pencil(rgb, Pencil(found))
    assert gray[107, 90] > 225, "pencil alone"
    assert gray[250, 200] < 60, "ink over pencil"
    half = remove_pencil(rgb, Pencil(found, 0.5))
    assert gray[107, 90] > half[107, 90] > cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY)[107, 90]


def test_a_page_without_pencil_has_none() -> None:
    rgb = np.repeat((255 - two_rooms())[..., None], 3, axis=2)
    assert find_pencil(rgb) is None


# Tone and detail


@pytest.fixture(scope="module")
def toned() -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Grey page, mask of a dotted disc and of a grey disc, both with outlines."""
    gray = np.full((800, 1000), 250, np.uint8)
    y, x = np.mgrid[0:800, 0:1000]
    u, v = (x + y) / 14.0, (y - x) / 14.0
    dots = (np.cos(2 * np.pi * u) + np.cos(2 * np.pi * v)) > 0.8
    masks = []
    for col in (280, 720):
        mask = np.zeros(gray.shape, np.uint8)
        cv2.circle(mask, (col, 400), 170, 1, -1)
        masks.append(mask)
    gray[(masks[0] > 0) & dots] = 20
    gray[masks[1] > 0] = 150
    for mask in masks:
        cv2.drawContours(gray, cv2.findContours(mask, 0, 1)[0], -1, 15, 7)
    return cv2.GaussianBlur(gray, (3, 3), 0), *masks


def test_dotted_and_grey_tone_become_flat_tints_and_outlines_stay(toned: tuple[np.ndarray, ...]) -> None:
    gray, dotted, grey = toned
    settings = InkSettings(white=240, black=40)
    ink = coverage(gray, settings)
    tones = find_tones(ink, gray, 7.0)
    assert sorted(t.kind for t in tones) == ["dots", "grey"]
    line, tint = without_tone(ink, tones, 7.0)
    for mask in (dotted, grey):
        inner = cv2.erode(mask, np.ones((31, 31), np.uint8)) > 0
        assert (line[inner] > 0).mean() < 0.002
        assert len(np.unique(tint[inner])) == 1
        assert abs(int(tint[inner][0]) - ink[inner].mean()) < 14
        edge = cv2.morphologyEx(mask, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)) > 0
        assert (line[edge] > 128).mean() > 0.9, "the outline stays"
    assert find_tones(page(), 255 - page(), 5.0) == []
    net = np.zeros((400, 400), np.uint8)
    for at in range(0, 400, 16):
        net[at : at + 4] = net[:, at : at + 4] = 255
    assert find_tones(net, 255 - net, 4.0) == [], "a net of line is no tone"


def test_hatching_is_offered_as_detail_and_parts_exactly() -> None:
    ink = page()
    for k in range(9):
        cv2.line(ink, (110 + 12 * k, 560), (150 + 12 * k, 620), 255, 2, cv2.LINE_AA)
    (texture,) = find_textures(ink, 4.0)
    assert len(texture.spots) == 9
    contour, detail = split_strokes(ink, texture.spots)
    assert np.array_equal(contour.astype(int) + detail, ink)
    assert not contour[565:615, 115:250].any()
    assert np.array_equal(split_strokes(ink, ((1, 1),))[0], ink), "a spot without ink moves nothing"


# Mending


@given(st.integers(0, 400), st.floats(1, 30), st.booleans())
def test_mending_touches_only_what_was_drawn_over(seed: int, width: float, away: bool) -> None:
    rng = np.random.default_rng(seed)
    ink = random_drawing(seed)
    points = [(float(r), float(c), float(p)) for r, c, p in rng.uniform([-20, -20, 0], [180, 180, 1], (5, 3))]
    rect, stroke = stroke_ink(points, width, ink.shape)
    cut = slice(rect[0], rect[2]), slice(rect[1], rect[3])
    repair = np.zeros_like(ink)
    repair[cut] = (scrape if away else lay_ink)(repair[cut], ink[cut], stroke)
    out = mended(ink, repair)
    drawn = np.zeros(ink.shape, bool)
    drawn[cut] = stroke > 0
    assert np.array_equal(out[~drawn], ink[~drawn])
    full = np.zeros(ink.shape, bool)
    full[cut] = stroke == 255
    assert (out[full] == (0 if away else 255)).all()
    assert ((out <= ink.astype(int) + 1) if away else (out >= ink.astype(int) - 1)).all(), "a level at most by rounding"


@given(st.floats(0.6, 40), st.floats(0, 180))
def test_a_pen_draws_as_wide_as_it_says(width: float, turn: float) -> None:
    way = np.array([np.sin(np.radians(turn)), np.cos(np.radians(turn))])

    def covered(long: float) -> float:
        ends = [(*(150 + side * long / 2 * way), 1.0) for side in (-1, 1)]
        return float(stroke_ink(ends, width, (300, 300))[1].sum()) / 255

    assert abs((covered(160) - covered(100)) / 60 - width) < 0.7
    _, mask = stroke_mask([tuple(150 + side * 80 * way) for side in (-1, 1)], width, (300, 300))
    assert cv2.connectedComponents(mask.view(np.uint8), connectivity=8)[0] == 2, "a hard edge has no holes in it"


@pytest.mark.parametrize(("dpi", "wide"), [(100, 5), (300, 4), (600, 9)])
def test_what_mends_a_frame_is_as_wide_as_the_frame(dpi: int, wide: int) -> None:
    ink = np.zeros((7 * dpi, 6 * dpi), np.uint8)
    cv2.rectangle(ink, (dpi, dpi), (5 * dpi, 6 * dpi), 255, -1)
    ink[dpi + wide : 6 * dpi + 1 - wide, dpi + wide : 5 * dpi + 1 - wide] = 0
    whole = ink.copy()
    ink[:, 3 * dpi : 3 * dpi + dpi // 12] = 0
    for found in find_breaks(ink, dpi):
        assert abs(found.width_px - wide) < 0.5
        ends = [(found.row, found.col, 1.0), (found.end_row, found.end_col, 1.0)]
        (top, left, bottom, right), stroke = stroke_ink(ends, found.width_px, ink.shape)
        np.maximum(ink[top:bottom, left:right], (stroke > 127) * np.uint8(255), out=ink[top:bottom, left:right])
    assert np.array_equal(ink, whole)


def test_a_steadied_stroke_keeps_its_ends_and_loses_its_shake() -> None:
    rng = np.random.default_rng(2)
    shaky = [(100 + float(rng.normal(0, 3)), 4.0 * k, 0.5) for k in range(60)]
    steady = smoothed(shaky, 0.6)
    assert steady[0] == pytest.approx(shaky[0])
    assert steady[-1] == pytest.approx(shaky[-1])
    assert np.std([r for r, _, _ in steady]) < 0.65 * np.std([r for r, _, _ in shaky])
    assert smoothed(shaky, 0) == shaky
    assert smoothed(shaky[:2], 1.0) == shaky[:2]


@pytest.mark.parametrize("amount", [0.3, 1.0])
def test_corners_and_curves_stay_where_a_shaky_hand_drew_them(amount: float) -> None:
    rng, half = np.random.default_rng(4), np.linspace(0, 150, 75)
    level, rising = np.zeros(75), half[1:]
    corner = np.column_stack([np.concatenate([level, rising]), np.concatenate([half, np.full(74, 150.0)])])
    turn = np.linspace(0, 1.5 * np.pi, 120)
    for drawn in (corner, 100 + 30 * np.column_stack([np.sin(turn), np.cos(turn)])):
        shaky = drawn + rng.normal(0, 1.2, drawn.shape)
        steady = np.array(smoothed([(r, c, 0.5) for r, c in shaky.tolist()], amount))[:, :2]
        away = np.hypot(*(steady[:, None] - drawn[None]).transpose(2, 0, 1))
        assert away.min(axis=1).mean() < 1.3, "it lies on what was meant"
        assert away.min(axis=0).max() < 5, "and comes by all of it, its corner, too"


def test_odd_strokes_are_refused_or_drawn_but_never_crash() -> None:
    with pytest.raises(BadInput, match="beside the page"):
        stroke_ink([(-500.0, 5.0, 1.0)], 4, (100, 100))
    with pytest.raises(BadInput, match="no points"):
        stroke_ink([(float("nan"), 5.0, 1.0)], 4, (100, 100))
    with pytest.raises(BadInput, match="400 px wide"):
        stroke_ink([(5.0, 5.0, 1.0)], 4000, (100, 100))
    _, dot = stroke_ink([(50.0, 50.0, 0.0), (50.0, 50.0, 0.0)], 6, (100, 100))
    assert dot.any(), "a pen that reports no pressure still leaves a hair"


def test_a_stroke_tapers_at_both_ends_and_keeps_its_way() -> None:
    line = [(50.0, float(col), 1.0) for col in range(10, 191, 20)]
    (top, left, _, _), ink = stroke_ink(tapered(line, 0.5), 11.0, (100, 200))
    wide = (ink > 127).sum(axis=0)
    middle = slice(70 - left, 130 - left)
    assert (np.abs(wide[middle] - 11) <= 1).all()
    assert (np.diff(wide[13 - left : 55 - left].astype(int)) >= 0).all(), "it swells from its tip"
    assert wide[12 - left] <= 4
    assert np.array_equal(wide, wide[::-1]) or np.abs(wide.astype(int) - wide[::-1]).max() <= 1
    assert tapered(line, 0.0) == line


def test_a_mended_stroke_takes_the_width_of_the_line_at_its_ends() -> None:
    ink = np.zeros((100, 300), np.uint8)
    ink[46:55, :100], ink[48:53, 200:] = 255, 255
    line = [(50.0, float(col), 1.0) for col in range(98, 205, 4)]
    rect, made = stroke_ink(matched_to(line, ink, 20.0), 20.0, (100, 300))
    wide = (np.maximum(ink[rect[0] : rect[2], rect[1] : rect[3]], made) > 127).sum(axis=0)
    assert abs(int(wide[110 - rect[1]]) - 9) <= 1
    assert abs(int(wide[192 - rect[1]]) - 5) <= 1
    bare = [(10.0, 150.0, 0.7), (10.0, 160.0, 0.7)]
    assert matched_to(bare, ink, 4.0) == bare


def test_a_mirrored_loop_lands_on_the_other_side_of_the_axis() -> None:
    ink = np.zeros((20, 60), np.uint8)
    ink[5:15, 4] = 255
    left, flipped, mask = mirrored(ink[:, :20], np.ones((20, 20), np.uint8), 25.0)
    out = ink.copy()
    cut = slice(left, left + 20)
    out[:, cut] = mended(ink[:, cut], covered(np.zeros((20, 20), np.uint8), flipped, mask))
    assert np.array_equal(np.flatnonzero(out[10]), [4, 46])


# Effect lines


@given(
    st.sampled_from(["burst", "speed", "focus"]), st.integers(1, 60), st.floats(0.02, 1), st.floats(0, 1),
    st.integers(1, 5),
)  # fmt: skip
def test_effect_lines_stay_in_their_shape_and_repeat(
    kind: str, count: int, length: float, jitter: float, seed: int
) -> None:
    corners = ((20.0, 30.0), (30.0, 170.0), (130.0, 160.0), (120.0, 20.0))
    effect = Effect(kind, corners, 75, 95, 20, 15, count, length, 5.0, jitter, seed)  # type: ignore[arg-type]
    ink = draw_effect(effect, (150, 200))
    assert np.array_equal(ink, draw_effect(effect, (150, 200)))
    inside = np.zeros((150, 200), np.uint8)
    cv2.fillPoly(inside, [np.rint(np.array(corners)[:, ::-1]).astype(np.int32)], 1)
    assert not ink[cv2.dilate(inside, np.ones((5, 5), np.uint8)) == 0].any()
    if kind != "speed":
        assert ink[75, 95] == 0, "the middle is clear"


@pytest.mark.parametrize(
    "values", [{"shape": ((0, 0), (1, 1))}, {"count": 0}, {"length": 2.0}, {"weight_px": 0.0}, {"jitter": -1.0}]
)
def test_impossible_effects_say_what_is_possible(values: dict[str, object]) -> None:
    with pytest.raises(BadInput, match="Effect lines"):
        Effect(**{"kind": "focus", "shape": ((0, 0), (9, 0), (9, 9)), "row": 4, "col": 4, **values})  # type: ignore


# Lying straight, frames


@pytest.mark.parametrize("turn", [-3.2, -0.4, 0.0, 0.7, 5.0])
def test_skew_is_found_to_a_twentieth_of_a_degree(turn: float) -> None:
    askew = lay(page(), turned_about(450, 350, -turn), (900, 700), 0, hard=False)
    found = find_skew(askew)
    assert found is not None
    assert abs(found - turn) < 0.05
    assert find_skew(np.zeros((300, 300), np.uint8)) is None
    sword = np.zeros((700, 900), np.uint8)
    cv2.fillPoly(sword, [np.array([[100, 340], [800, 400], [100, 352]])], 255)
    cv2.line(sword, (196, 250), (176, 450), 255, 9)
    assert find_skew(sword) is None, "only frames lie askew"


def test_a_gap_in_a_frame_is_found_but_not_a_gutter_nor_a_crossing() -> None:
    ink = page()
    assert find_breaks(ink, 100) == []
    ink[425:436, 150:160] = 0
    (found,) = find_breaks(ink, 100)
    assert abs(found.row - 430) < 3
    assert 145 <= found.col <= 152
    assert 158 <= found.end_col <= 163
    cv2.line(ink, (155, 380), (155, 480), 255, 3)
    assert find_breaks(ink, 100) == []


# Places and re-inking


@given(
    st.floats(-40, 40), st.floats(0.5, 2), st.floats(-50, 50), st.floats(-50, 50), st.floats(0, 90), st.floats(0, 90)
)
def test_places_compose_and_invert(
    turn: float, scale: float, down: float, right: float, row: float, col: float
) -> None:
    place, other = Place(turn, scale, down, right), Place(-turn / 2, 1 / scale, right, down)
    assert place.inverse().at(*place.at(row, col)) == pytest.approx((row, col), abs=1e-6)
    assert place.then(other).at(row, col) == pytest.approx(other.at(*place.at(row, col)), abs=1e-6)


def test_a_picture_that_is_not_moved_is_not_copied_and_whole_steps_are_exact() -> None:
    ink = page()
    assert lay(ink, Place(), ink.shape, 0, hard=False) is ink
    moved = lay(ink, Place(down_px=7, right_px=-5), ink.shape, 0, hard=False)
    assert np.array_equal(moved[7:, :-5], ink[:-7, 5:])
    with pytest.raises(BadInput, match="scaled between"):
        Place(scale=0)


@pytest.mark.parametrize("place", [Place(1.3, 0.97, 35, -22), Place(178, 1.6, 1040, 690), Place(-6, 1.2, -40, 60)])
def test_a_corrected_drawing_is_laid_over_the_old_and_only_changes_are_listed(place: Place) -> None:
    old = draw("page-2", 100).ink
    back = place.inverse()
    size = round(old.shape[0] / place.scale) + 60, round(old.shape[1] / place.scale) + 60
    new = lay(old, back, size, 0, hard=False).copy()
    spot = back.at(700, 350)
    cv2.circle(new, (round(spot[1]), round(spot[0])), 14, 255, 3)
    found = align(old, new)
    assert found.scale == pytest.approx(place.scale, rel=2e-3)
    laid = lay(new, found, old.shape, 0, hard=False)
    changes = [c for c in find_changes(old, laid, 3, 40) if 10 < c.rect[0] < 1000 and 10 < c.rect[1] < 640]
    assert changes
    assert all(c.rect[0] < 720 and c.rect[2] > 680 for c in changes[:1])


def test_another_drawing_is_not_laid_over() -> None:
    with pytest.raises(BadInput, match="does not match"):
        align(draw("page-2", 100).ink, draw("page-3", 100).ink)
    with pytest.raises(BadInput, match="differ in size"):
        find_changes(np.zeros((5, 5), np.uint8), np.zeros((5, 6), np.uint8), 1, 1)


# Balloons


def test_balloons_cover_with_white_and_are_told_from_faces() -> None:
    ink = np.zeros((300, 500), np.uint8)
    cv2.ellipse(ink, (250, 150), (200, 90), 0, 0, 360, 255, 4)
    paper = balloon_paper(ink)
    assert paper[150, 250] == 1
    assert paper[10, 10] == 0
    opaque = np.zeros_like(ink)
    opaque[40:80, 40:80] = 255
    assert np.array_equal(balloon_paper(ink, opaque) > 0, opaque > 0)
    cv2.ellipse(opaque, (250, 150), (203, 93), 0, 0, 360, 255, -1)
    for found in (balloon_paper(ink, opaque), paper):
        edge = cv2.morphologyEx(found[100:], cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8))
        assert (ink[100:][edge > 0] > 128).all(), "white ends under the outline"
    region = np.zeros_like(ink)
    cv2.ellipse(region, (250, 150), (198, 88), 0, 0, 360, 1, -1)
    assert not is_balloon(ink, region), "an empty bubble may be anything"
    for k, text in enumerate(("THE SPAR IS", "CRACKING!")):
        cv2.putText(ink, text, (120, 140 + 44 * k), cv2.FONT_HERSHEY_SIMPLEX, 1.2, 255, 3)
    assert is_balloon(ink, region)
    face = np.zeros_like(ink)
    cv2.circle(face, (200, 120), 20, 255, 4)
    cv2.circle(face, (300, 120), 20, 255, 4)
    assert not is_balloon(face, region)
    tiles, rain = np.zeros_like(ink), np.zeros_like(ink)
    for row in range(100, 210, 22):
        for col in range(120, 370, 40):
            cv2.ellipse(tiles, (col, row), (14, 5), 0, 0, 180, 255, 2)
            cv2.line(rain, (col + row % 3 * 7, row), (col + row % 3 * 7 - 4, row + 14), 255, 2)
    assert not is_balloon(tiles, region)
    assert not is_balloon(rain, region)


# The scanner stand-in


@pytest.mark.parametrize(("mode", "shape", "levels"), [("grey", 2, 99), ("colour", 3, 99), ("1-bit", 2, 2)])
def test_the_scanner_repeats_itself_and_has_three_modes(mode: str, shape: int, levels: int) -> None:
    ink = page()
    one, two = (scan_drawing(ink, 150, mode, 4) for _ in range(2))
    assert np.array_equal(one, two)
    assert one.ndim == shape
    assert (len(np.unique(one)) <= 2) == (levels == 2)
    assert not np.array_equal(one, scan_drawing(ink, 150, mode, 5))
    with pytest.raises(BadInput, match="The scanner has"):
        scan_drawing(ink, 150, "sepia")
