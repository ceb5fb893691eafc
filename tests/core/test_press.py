"""Press: inks that print the colour wanted, black that overprints, traps that close what opens."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.core.color import from_hex
from drip_pot.core.errors import BadInput
from drip_pot.core.press import (
    Plates,
    PressSettings,
    appearance,
    bare_paper,
    color_ids,
    find_traps,
    ink_table,
    overprint,
    plates_of,
    separate,
    separate_colors,
)
from drip_pot.core.press.trap import needs_trap
from drip_pot.core.render import Piece

RED, BLUE, PAPER = (0, 230, 230, 0), (230, 40, 0, 0), (0, 0, 0, 0)
BLACK = (0, 0, 0, 255)


@given(st.lists(st.tuples(*[st.integers(0, 255)] * 3), min_size=1, max_size=6), st.integers(200, 400), st.floats(0, 1))
def test_no_colour_ever_exceeds_the_ink_limit(rgb: list[tuple[int, ...]], limit: int, black: float) -> None:
    cmyk, miss = separate_colors(np.array(rgb, np.uint8), PressSettings(ink_limit=limit, black=black))
    assert (cmyk.sum(axis=1, dtype=int) <= limit / 100 * 255 + 2).all()
    assert (miss >= 0).all()


@pytest.mark.parametrize("color", ["#e2553a", "#f1dfae", "#5d7a3a", "#efbf98", "#6d4a5e", "#808080"])
@pytest.mark.parametrize("black", [0.0, 0.6, 1.0])
def test_printable_colours_print_as_wanted(color: str, black: float) -> None:
    rgb = from_hex(color)
    cmyk, miss = separate_colors(rgb[None], PressSettings(black=black))
    assert miss[0] < 1.0
    assert np.abs(appearance(cmyk)[0].astype(int) - rgb).max() <= 4


def test_more_black_generation_means_more_black_and_less_of_the_others() -> None:
    grey = np.array([[90, 92, 90]], np.uint8)
    little, much = (separate_colors(grey, PressSettings(black=b))[0][0].astype(int) for b in (0.1, 1.0))
    assert much[3] > little[3]
    assert much[:3].sum() < little[:3].sum()


def test_an_unprintable_green_stays_a_green_and_says_so() -> None:
    cmyk, miss = separate_colors(np.array([[0, 255, 0]], np.uint8), PressSettings())
    red, green, blue = appearance(cmyk)[0].astype(int)
    assert green > max(red, blue)
    assert miss[0] > 10


@given(st.tuples(*[st.integers(0, 254)] * 4), st.integers(0, 3))
def test_more_ink_is_never_lighter(inks: tuple[int, ...], plate: int) -> None:
    more = list(inks)
    more[plate] += 1
    light, dark = appearance(np.array([inks, more], np.uint8)).astype(int)
    assert dark.sum() <= light.sum() + 1


def test_paper_and_black_look_like_paper_and_black() -> None:
    assert appearance(np.array([[0, 0, 0, 0]], np.uint8)).tolist() == [[255, 255, 255]]
    assert appearance(np.array([[0, 0, 0, 255]], np.uint8)).max() < 45


def test_black_overprints_and_leaves_the_other_plates_alone() -> None:
    cmyk = np.tile(np.array(RED, np.uint8), (2, 3, 1))
    black = np.array([[0, 128, 255]] * 2, np.uint8)
    out = overprint(cmyk, black)
    assert np.array_equal(out[..., :3], cmyk[..., :3])
    assert out[0, :, 3].tolist() == [0, 128, 255]
    assert not cmyk[..., 3].any(), "input is not changed"


INKS = ink_table(PressSettings())


def tables(*inks: tuple[int, ...], line: tuple[int, ...] = BLACK) -> Plates:
    """Tables for atoms 1..n with these inks, shadow as local, one line colour."""
    table = np.array([(*PAPER, *[0] * (len(line) - 4)), *inks], np.uint8)
    lines = np.tile(np.array(line, np.uint8), (len(inks) + 1, 1))
    return plates_of(np.concatenate([table, table]), lines, np.full(len(inks) + 1, line[:4] == BLACK))


def halves(line_px: int = 0) -> tuple[np.ndarray, np.ndarray]:
    labels = np.ones((60, 80), np.int32)
    labels[:, 40:] = 2
    ink = np.zeros((60, 80), np.uint8)
    if line_px:
        ink[:, 40 - line_px // 2 : 40 + line_px - line_px // 2] = 255
    return labels, ink


def printed(labels: np.ndarray, ink: np.ndarray, plates: Plates, width: float) -> tuple[np.ndarray, int]:
    ids, black = color_ids(labels, None, ink, labels, plates)
    traps = find_traps(ids, black, plates.inks, width)
    piece = Piece(labels, labels, ink)
    return separate(piece, [], plates.colors, plates, lambda: INKS, traps.spread), traps.needed_px


def test_the_register_test_opens_paper_and_a_trap_closes_it() -> None:
    labels, ink = halves()
    plates = tables(RED, BLUE)
    untrapped, needed = printed(labels, ink, plates, 0)
    trapped, _ = printed(labels, ink, plates, 3)
    assert needed == 60
    assert max(bare_paper(untrapped, 2)) == 60 * 2, "cyan strays two pixels away from the edge of 60"
    assert max(bare_paper(trapped, 2)) == 0
    assert max(bare_paper(untrapped, 0)) == 0


def test_lighter_spreads_into_darker_by_the_width_and_no_further() -> None:
    labels, ink = halves()
    light, dark = (0, 20, 200, 0), (220, 120, 0, 60)
    out, _ = printed(labels, ink, tables(light, dark), 3)
    assert (out[:, :40] == np.array(light)).all(), "the lighter side is unchanged"
    assert (out[:, 40:43] == np.maximum(light, dark)).all()
    assert (out[:, 44:] == np.array(dark)).all()


@pytest.mark.parametrize(("line_px", "needed"), [(9, False), (2, True)])
def test_an_edge_under_enough_black_needs_no_trap(line_px: int, needed: bool) -> None:
    labels, ink = halves(line_px)
    out, px = printed(labels, ink, tables(RED, BLUE), 3)
    assert (px > 0) == needed
    if not needed:
        assert max(bare_paper(out, 2)) == 0


@pytest.mark.parametrize(
    ("one", "two", "needed"),
    [
        (RED, BLUE, True),
        (RED, PAPER, False),
        (RED, (0, 120, 120, 0), False),
        ((100, 40, 0, 0), (230, 40, 0, 0), False),
    ],
)
def test_only_colours_that_take_ink_from_each_other_need_traps(one: tuple, two: tuple, needed: bool) -> None:
    table = needs_trap(np.array([one, two], np.uint8))
    assert table.any() == needed
    assert not (table & table.T).any(), "only ever one of two spreads"


def test_a_coloured_line_knocks_out_and_is_trapped() -> None:
    labels, ink = halves(8)
    plates = tables(BLUE, BLUE, line=RED)
    loose, _ = printed(labels, ink, plates, 0)
    assert loose[30, 40].tolist() == list(RED)
    assert max(bare_paper(loose, 2)) > 0
    assert max(bare_paper(printed(labels, ink, plates, 3)[0], 2)) == 0


def test_counting_in_strips_gives_the_same_as_all_at_once() -> None:
    labels, ink = halves()
    whole, _ = printed(labels, ink, tables(RED, BLUE), 0)
    halo = 6
    first, second = whole[: 30 + halo], whole[30 - halo :]
    first = np.pad(first, ((halo, 0), (0, 0), (0, 0)), mode="edge")
    second = np.pad(second, ((0, halo), (0, 0), (0, 0)), mode="edge")
    parts = np.add(bare_paper(first, 2, halo), bare_paper(second, 2, halo))
    assert parts.tolist() == bare_paper(whole, 2)


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"ink_limit": 100}, "200 to 400 %"),
        ({"black": 2}, "0 to 100 %"),
        ({"trap_mm": 3}, "0 to 1 mm"),
        ({"tolerance_mm": -1}, "0 to 0.5 mm"),
    ],
)
def test_impossible_press_settings_say_what_is_possible(values: dict[str, float], words: str) -> None:
    with pytest.raises(BadInput, match=words):
        PressSettings(**values)
    with pytest.raises(BadInput, match="0 to 100 px"):
        bare_paper(np.zeros((4, 4, 4), np.uint8), 101)


def test_a_fifth_plate_is_carried_like_the_others() -> None:
    labels, ink = halves(6)
    spot, blue = (0, 0, 0, 0, 255), (*BLUE, 0)
    plates = tables(spot, blue, line=(*BLACK, 0))
    out, px = printed(labels, ink, plates, 0)
    assert out.shape == (60, 80, 5)
    assert out[0, [0, 79]].tolist() == [list(spot), list(blue)]
    assert out[0, 38, 3:].tolist() == [255, 255], "black prints over it"
    _, needed = printed(labels, ink * 0, plates, 3)
    assert (px, needed) == (0, 60), "a spot ink and a blue have nothing in common"
    assert len(bare_paper(out, 2)) == 16
