# SPDX-License-Identifier: GPL-3.0-or-later
"""Where line meets colour, passes meet inks, and masks meet pixels: read in delivered files by programs not ours."""

import shutil
import subprocess
from pathlib import Path

import msgspec
import numpy as np
import pikepdf
import pytest
import tifffile
from PIL import Image

from drip_pot.book import verbs
from drip_pot.book.values import PRESS, Hold
from drip_pot.book.where import Scope
from drip_pot.core.color import delta_e, from_hex, srgb8_to_oklab
from drip_pot.core.press import PressSettings, appearance, lightness_of, with_spot
from drip_pot.core.render import Ramp, Stop
from drip_pot.files import deliver
from tests.book.test_sheets import Shelf
from tests.conftest import two_rooms
from tests.files.standard import missed_of_the_standard

DPI, ROWS, COLS = 300, 240, 320
SPOT, LIGHT = "#e8501e", "#fff4c8"


def lab_of(rgb: np.ndarray) -> np.ndarray:
    return srgb8_to_oklab(np.ascontiguousarray(rgb, np.uint8).reshape(-1, 3))


def proof_of(inks: np.ndarray, condition: str) -> np.ndarray:
    """What plates look like, the one beside the four printed over them."""
    return with_spot(appearance(np.ascontiguousarray(inks[..., :4]), condition), inks[..., 4], from_hex(SPOT))


@pytest.fixture(scope="module", params=("coated", "newsprint"))
def hostile(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> tuple[Shelf, Path]:
    """A spot under white fog, dark rich flats under thin black line, light line over dark, delivered."""
    ink = two_rooms(rows=ROWS, cols=COLS)
    for place, wide in enumerate((1, 2, 3, 5)):  # thin black strokes over a rich dark
        ink[60 + 30 * place : 60 + 30 * place + wide, 180:290] = 255
    ink[40:44, 30:120] = 255  # a stroke that becomes light
    ink[np.arange(150, 200), np.arange(180, 230)] = 200  # a slanting hairline
    shelf = Shelf(ink)
    shelf.pour(100, 60, 1)
    shelf.pour(100, 250, 2)
    book, page = shelf.book, shelf.page
    pots = book.pots()
    verbs.set_pot(book, 1, msgspec.structs.replace(pots[1], local=SPOT, shadow="#7a2408"))
    verbs.set_pot_inks(book, 1, None, None, "Ember ink")
    verbs.set_pot(book, 2, msgspec.structs.replace(pots[2], local="#101a30"))
    fog = Ramp((60, 0), (200, 0), (Stop(0, "#ffffff", 0.0), Stop(1, "#ffffff", 1.0)))
    verbs.add_pass(book, page, "Fog", "#000000", "normal", 1.0, Scope(pots=(1,)), ramp=fog)
    verbs.add_hold(book, page, Hold("Light", how="fixed", color=LIGHT, spots=((41.0, 60.0),)))
    limit = {"coated": 300, "newsprint": 240}[request.param]
    verbs.set_press(book, page, PressSettings(ink_limit=limit, condition=request.param))
    folder = tmp_path_factory.mktemp("meetings")
    deliver(book, lambda _: shelf.derived, [page], folder, ("plates", "pdf", "separations"))
    return shelf, folder


def plates(folder: Path) -> np.ndarray:
    return tifffile.imread(next(folder.glob("*-cmyk.tif")))


def drawn(program: str, pdf: Path, folder: Path) -> np.ndarray:
    """The art of the PDF as a viewer shows it, at the page's resolution."""
    out = folder / f"{program}.png"
    if program == "gs":
        asks = [
            "gs",
            "-q",
            "-dNOPAUSE",
            "-dBATCH",
            "-dSAFER",
            "-sDEVICE=png16m",
            f"-r{DPI}",
            f"-sOutputFile={out}",
            pdf,
        ]
        subprocess.run(asks, check=True, timeout=120)
    elif program == "pdftoppm":
        subprocess.run(
            ["pdftoppm", "-r", str(DPI), "-png", "-singlefile", pdf, out.with_suffix("")], check=True, timeout=120
        )
    else:
        import pypdfium2

        pypdfium2.PdfDocument(str(pdf))[0].render(scale=DPI / 72).to_pil().save(out)
    whole = np.asarray(Image.open(out).convert("RGB"))
    top, left = (whole.shape[0] - ROWS) // 2, (whole.shape[1] - COLS) // 2
    return whole[top : top + ROWS, left : left + COLS]


def test_light_line_over_colour_prints_as_it_is_seen(hostile: tuple[Shelf, Path]) -> None:
    shelf, folder = hostile
    seen = proof_of(plates(folder)[41:43, 40:110], shelf.sources[PRESS].condition)
    assert np.median(delta_e(lab_of(seen), lab_of(from_hex(LIGHT)))) < 3


def test_paint_far_from_the_ink_below_takes_it_away_and_what_lies_beside_keeps_it(tmp_path: Path) -> None:
    shelf = Shelf(two_rooms(rows=ROWS, cols=COLS))
    shelf.pour(100, 60, 1)
    verbs.set_pot(shelf.book, 1, msgspec.structs.replace(shelf.book.pots()[1], local=SPOT, shadow="#7a2408"))
    verbs.set_pot_inks(shelf.book, 1, None, None, "Ember ink")
    number = verbs.add_pass(shelf.book, shelf.page, "Paint", mode="normal", strength=1.0, paint=True)
    for row, color in ((90.0, "#3060c0"), (150.0, "#ffffff")):
        verbs.mist_pass(shelf.hand, [(row, 50.0, 1.0), (row, 120.0, 1.0)], 20, 0.0, 1.0, into=number, color=color)
    deliver(shelf.book, lambda _: shelf.derived, [shelf.page], tmp_path, ("plates",))
    inks, screen = plates(tmp_path), shelf.painted()
    assert inks[60, 90].tolist() == [0, 0, 0, 0, 255]
    assert inks[150, 90].max() <= 2
    assert inks[90, 90, 4] < 100, "the four print the blue"
    told = proof_of(inks[90:91, 90:91], "coated")
    assert delta_e(lab_of(told), lab_of(screen[90:91, 90:91, :3]))[0] < 9


def test_a_fog_takes_a_spot_away_little_by_little(hostile: tuple[Shelf, Path]) -> None:
    shelf, folder = hostile
    inks = plates(folder)[58:205, 70].astype(int)
    assert inks[0, 4] == 255
    assert not inks[0, :4].any()
    steps = 255 / 140  # of the fog, from row to row
    assert np.abs(np.diff(inks, axis=0)).max() <= 0.035 * 255 * steps, "no plate jumps where the fog begins, or later"
    assert inks[-1].max() <= 2, "where it is white, nothing prints"
    screen = shelf.painted()[58:205, 70]
    told = proof_of(plates(folder)[58:205, 70][None], shelf.sources[PRESS].condition)[0]
    assert np.median(delta_e(lab_of(told), lab_of(screen))) < 3


@pytest.mark.skipif(shutil.which("gs") is None, reason="no Ghostscript")
def test_at_the_masks_own_resolution_nothing_is_above_the_limit_and_no_rim_shows(
    hostile: tuple[Shelf, Path], tmp_path: Path
) -> None:
    shelf, folder = hostile
    press = shelf.sources[PRESS]
    pdf = next(folder.glob("*.pdf"))
    with pikepdf.open(pdf) as file:
        factor = int(file.pages[0].Resources.XObject.Line.Width) // COLS
    asks = ["gs", "-q", "-dNOPAUSE", "-dBATCH", "-dSAFER", "-sDEVICE=tiffsep", f"-r{DPI * factor}"]
    subprocess.run([*asks, f"-sOutputFile={tmp_path / 'out.tif'}", pdf], check=True, timeout=240)
    names = ("Cyan", "Magenta", "Yellow", "Black", "Ember ink")
    planes = [255 - tifffile.imread(next(tmp_path.glob(f"*({name})*"))) for name in names]
    inks = np.stack(planes, axis=-1)
    top, left = ((inks.shape[k] - side * factor) // 2 for k, side in enumerate((ROWS, COLS)))
    inks = inks[top : top + ROWS * factor, left : left + COLS * factor]
    assert inks.sum(axis=2, dtype=int).max() <= press.ink_limit * 2.55 + 1
    dark = inks[55 * factor : 145 * factor, 185 * factor : 285 * factor]
    light = lightness_of(dark.reshape(-1, 5), press.condition).reshape(dark.shape[:2])
    open_ = light[0, 0]
    assert light.max() - open_ < 1, "nothing beside a black stroke is lighter than the flat it lies on"
    small = inks.reshape(ROWS, factor, COLS, factor, 5).mean(axis=(1, 3))
    tiff = plates(folder).astype(float)
    flat = (tiff[..., 3] == tiff[0, 0, 3]) | (np.abs(tiff[..., 3] - tiff[100, 240, 3]) < 1)
    inner = np.abs(small - tiff)[flat]
    assert (inner.max(axis=1) > 1.01).mean() < 0.02, "outside anti-aliased line both files hold the same plates"


@pytest.mark.parametrize("program", ["gs", "pdftoppm", "pdfium"])
def test_a_page_with_an_ink_of_its_own_is_shown_by_every_viewer(
    hostile: tuple[Shelf, Path], program: str, tmp_path: Path
) -> None:
    if program != "pdfium" and shutil.which(program) is None:
        pytest.skip(f"no {program}")
    _, folder = hostile
    with pikepdf.open(next(folder.glob("*.pdf"))) as file:
        assert not missed_of_the_standard(file)
    seen = drawn(program, next(folder.glob("*.pdf")), tmp_path)
    spot, dark = (
        np.median(seen[45:58, 70:110].reshape(-1, 3), axis=0),
        np.median(seen[140:150, 290:296].reshape(-1, 3), axis=0),
    )
    assert delta_e(lab_of(spot), lab_of(from_hex(SPOT))).max() < 20, "by the four inks of the viewer"
    assert srgb8_to_oklab(dark.astype(np.uint8))[0] < 0.45
    assert seen[205:215, 60:110].min() > 240, "white fog"
