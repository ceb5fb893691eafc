# SPDX-License-Identifier: GPL-3.0-or-later
"""The demo book: the same every time, and its truth is what can be measured on its pixels."""

import json
from pathlib import Path

import cv2
import numpy as np
import pytest

from drip_pot.book.values import HOLDS, PASSES, POURS, SHADE_CUTS
from drip_pot.core.color import from_hex, srgb8_to_oklab
from drip_pot.core.errors import BadInput
from drip_pot.core.regions import find_atoms
from drip_pot.demo.build import build_book, majority
from drip_pot.demo.pen import Gap
from drip_pot.demo.scheme import LIGHTS, SCHEME, schemes
from drip_pot.demo.sequence import FRAMES
from drip_pot.demo.studies import handcart, paper, stain, study
from drip_pot.demo.works import WORKS, DemoDrawing, draw, work_named
from drip_pot.devices import flawed_scan
from drip_pot.files import derive, open_book, picture

NAMES = [work.name for work in WORKS if not work.name.startswith("sequence") or work.name.endswith("1")]


@pytest.fixture(scope="module", params=NAMES)
def drawing(request: pytest.FixtureRequest) -> DemoDrawing:
    return draw(request.param, 200)


def test_the_same_seed_gives_the_same_bytes(drawing: DemoDrawing) -> None:
    draw.cache_clear()
    again = draw(drawing.work.name, 200)
    for plane in ("ink", "broken", "lettering", "things", "pot", "shade", "scan"):
        assert np.array_equal(getattr(again, plane), getattr(drawing, plane)), plane
    assert (again.gaps, again.dust, again.strokes) == (drawing.gaps, drawing.dust, drawing.strokes)


def test_a_higher_resolution_is_the_same_drawing() -> None:
    small, large = draw("cover", 200), draw("cover", 400)
    halved = cv2.resize(large.ink, small.ink.shape[::-1], interpolation=cv2.INTER_AREA)
    assert np.abs(halved.astype(int) - small.ink).mean() < 8
    assert len(small.strokes) == len(large.strokes)


def test_planted_gaps_are_open_by_their_width(drawing: DemoDrawing) -> None:
    if drawing.work.scanned:
        assert len([g for g in drawing.gaps if 2 <= g.width_px * 600 / drawing.dpi <= 30]) >= 14
    for gap in drawing.gaps:
        row, col = round(gap.row), round(gap.col)
        assert drawing.broken[row, col] < 100, "nothing is drawn in the middle of a gap"
        reach = round(gap.width_px / 2 + 5)
        around = drawing.ink[max(0, row - reach) : row + reach + 1, max(0, col - reach) : col + reach + 1]
        assert around.max() > 150, "there is line on its sides"
        assert (np.array(gap.sides) >= 0).all()
        if drawing.work.name != "cover":
            assert abs(opened_width(drawing, gap, reach) - gap.width_px) <= 3.0


def opened_width(drawing: DemoDrawing, gap: Gap, reach: int) -> float:
    """Measure a planted gap on the pixels: the extent, nearest to its width, of the line lost around its middle."""
    row, col = round(gap.row), round(gap.col)
    top, left = max(0, row - 3 * reach), max(0, col - 3 * reach)
    cut = slice(top, row + 3 * reach), slice(left, col + 3 * reach)
    lost = ((drawing.ink[cut] > 128) & (drawing.broken[cut] < 128)).astype(np.uint8)
    _, pieces = cv2.connectedComponents(lost)
    spots = np.argwhere(pieces == pieces[row - top, col - left]).astype(float)
    _, sides = cv2.minAreaRect(spots.astype(np.float32))[:2]
    return float(min(sides, key=lambda side: abs(side + 1 - gap.width_px))) + 1


def test_every_pot_is_in_the_scheme_and_covers_its_things(drawing: DemoDrawing) -> None:
    named = {name for pots in SCHEME.values() for name in pots}
    assert set(drawing.pots) - {"Paper"} <= named
    assert ((drawing.pot == 0) == (drawing.things == 0)).mean() > 0.999, "every true region has its pot"


def test_true_regions_lie_between_lines(drawing: DemoDrawing) -> None:
    edge = np.zeros(drawing.things.shape, np.uint8)
    edge[:, 1:] |= drawing.things[:, 1:] != drawing.things[:, :-1]
    edge[1:] |= drawing.things[1:] != drawing.things[:-1]
    lined = cv2.dilate(drawing.ink, np.ones((7, 7), np.uint8)) > 60
    for gap in drawing.gaps:
        cv2.circle(lined.view(np.uint8), (round(gap.col), round(gap.row)), round(gap.width_px) + 4, 1, -1)
    assert (edge.astype(bool) & ~lined).sum() / edge.sum() < 0.03


def test_dust_lies_where_the_truth_says() -> None:
    scan, dust = flawed_scan(np.zeros((900, 700), np.uint8), 300)
    assert len(dust) >= 30
    for speck in dust:
        row, col = round(speck.row), round(speck.col)
        around = scan[max(0, row - 30) : row + 30, max(0, col - 30) : col + 30]
        assert int(scan[row, col]) < np.median(around) - 60


def test_the_dense_page_is_dense_and_the_night_has_its_sheets() -> None:
    assert find_atoms(draw("page-3", 300).ink).count >= 1500
    night = draw("page-4", 200)
    assert night.lettering.any()
    assert ((night.balloons > 0) & (night.lettering == 0)).any(), "balloons cover with white"
    assert {s.sheet for s in night.strokes} >= {"contour", "detail", "effect"}
    assert (night.ink > 250).mean() > 0.06, "solid blacks"
    with pytest.raises(BadInput, match="no work called 'page-9'"):
        work_named("page-9")


def test_markings_stay_on_the_kite_as_it_turns() -> None:
    frames = [draw(f"sequence-{k + 1}", 100) for k in range(FRAMES)]
    assert len({f.pots for f in frames}) == 1
    for pot in ("Ember", "Straw", "Cobalt", "Saffron"):
        shares = [float((f.pot == f.pots.index(pot)).mean()) for f in frames]
        assert min(shares) > 0.001
    assert not np.array_equal(frames[0].ink, frames[1].ink)


def test_every_light_has_a_tone_pair_for_every_pot_darker_in_shadow() -> None:
    lights = schemes()
    assert set(lights) == set(LIGHTS) == {"noon", "dusk", "storm"}
    for parts in lights.values():
        assert {p: set(pots) for p, pots in parts.items()} == {p: set(pots) for p, pots in SCHEME.items()}
        for local, shadow in (pair for pots in parts.values() for pair in pots.values()):
            bright, dark = (float(srgb8_to_oklab(from_hex(c))[0]) for c in (local, shadow))
            assert dark <= bright
    bright = {
        n: [srgb8_to_oklab(from_hex(a))[0] for p in parts.values() for a, _ in p.values()]
        for n, parts in lights.items()
    }
    assert np.mean(bright["storm"]) < np.mean(bright["noon"]) - 0.1


def test_studies_textures_and_the_mesh_are_repeatable_and_sound() -> None:
    picture = np.zeros((80, 60, 3), np.uint8)
    picture[:, 30:] = (220, 90, 40)
    painted = study(picture, 1, 900)
    assert np.array_equal(painted, study(picture, 1, 900))
    assert painted[:, 40:, 0].mean() > painted[:, :20, 0].mean() + 60
    assert 225 < paper(200, 150, 2).mean() < 245
    ring = stain(120, 1)
    assert ring[60, 60] < 60 < ring.max()
    lines = [line.split() for line in handcart().splitlines()]
    points = sum(line[0] == "v" for line in lines)
    used = [int(v) for line in lines if line[0] == "f" for v in line[1:]]
    assert min(used) == 1
    assert max(used) == points


def test_the_demo_book_opens_as_work_half_done(demo_book: Path) -> None:
    file, book = open_book(demo_book)
    pages = {page.name: number for number, page in book.pages().items()}
    assert list(pages) == [work.title for work in WORKS]
    shares = {}
    for name, page in pages.items():
        sources, derived = book.sources(page), derive(file, book, page)
        atoms, facts = derived.regions.atoms(sources.line), derived.regions.facts(sources.line)
        inside = [a for a in range(1, atoms.count + 1) if facts.boxes[a].min(axis=0) > 0]
        shares[name] = sum(a in sources[POURS] for a in inside) / len(inside)
    assert shares["Torn in the wind"] > 0.97
    assert 0.02 < shares["The patient"] < 0.9
    assert shares["Market day"] == 0
    assert shares["The storm"] > 0.97
    assert book.plane(f"page/{pages['Torn in the wind']}/pass/1").any()
    assert book.sources(pages["Torn in the wind"])[HOLDS]
    assert [s.title for s in book.history if s.title.startswith("Pour Coat into")]
    file.close()


def test_the_written_truth_can_be_read_back(tmp_path: Path) -> None:
    from drip_pot.demo import build

    drawing = draw("page-2", 60)
    _, told = build._write_truth(tmp_path, drawing)
    truth = json.loads(told.read_text())
    assert len(truth["gaps"]) == len(drawing.gaps)
    assert truth["gaps"][0]["width_px"] == pytest.approx(drawing.gaps[0].width_px)
    assert {s[0] for s in truth["strokes"]} <= {"contour", "detail", "effect", "lettering"}


def test_majority_takes_the_commonest() -> None:
    labels = np.array([[1, 1, 1, 2]], np.int32)
    assert majority(labels, 2, np.array([[3, 3, 0, 1]], np.uint8), 4)[1:] == [3, 1]


def test_a_finished_work_has_light_over_its_flats_and_nothing_left_to_decide(tmp_path: Path) -> None:
    works = tuple(work for work in WORKS if work.name == "cover")
    build_book(tmp_path / "kites.drip", 60, works=works)
    file, book = open_book(tmp_path / "kites.drip")
    sources = book.sources(1)
    names = [one.name for one in sources[PASSES].values()]
    assert names[0] == "Tone"
    assert {"Sunrise", "Bounce", "Finish"} <= set(names)
    assert len(sources[SHADE_CUTS]) > 30
    assert not any(cut.offered for cut in sources[SHADE_CUTS].values())
    derived = derive(file, book, 1)
    lit, flat = (picture(book, derived, 1, stage).astype(int) for stage in ("Shade", "Flats"))
    assert (np.abs(lit - flat).max(axis=2) > 8).mean() > 0.3
    file.close()
