# SPDX-License-Identifier: GPL-3.0-or-later
"""What a printer is given, read by programs that are not ours: plates, limit, boxes, profile, overprint."""

import io
import shutil
import subprocess
from collections.abc import Callable
from pathlib import Path

import msgspec
import numpy as np
import pikepdf
import pytest
import tifffile
from PIL import Image, ImageCms

from drip_pot.book import verbs
from drip_pot.book.tables import build_tables, inks_for
from drip_pot.book.values import PRESS, TRAPS
from drip_pot.core.arrays import no_report
from drip_pot.core.color import delta_e, from_hex, srgb8_to_oklab
from drip_pot.core.errors import BadInput, Cancelled, CannotWrite, NothingDone
from drip_pot.core.press import PressSettings, appearance, separate_colors
from drip_pot.core.render import Ramp, Stop
from drip_pot.files import PRESETS, CutTo, How, deliver, delivery_targets, export_page
from tests.book.test_sheets import Shelf
from tests.conftest import two_rooms
from tests.files.standard import missed_of_the_standard

DPI = 300
LIMIT = 240


def needs(*programs: str) -> pytest.MarkDecorator:
    missing = [name for name in programs if shutil.which(name) is None]
    return pytest.mark.skipif(bool(missing), reason=f"{', '.join(missing)} not installed")


@pytest.fixture(scope="module")
def printed(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Path]:
    """Two rooms with a soft ramp, a large solid black, dark flats, trimmed, under a low ink limit, delivered."""
    ink = two_rooms(rows=360, cols=480)
    ink[240:330, 40:200] = 255
    shelf = Shelf(ink)
    shelf.pour(100, 60, 1)
    shelf.pour(100, 400, 2)
    book, page = shelf.book, shelf.page
    verbs.set_pot(book, 1, msgspec.structs.replace(book.pots()[1], local="#20143c"))
    ramp = Ramp((0, 0), (0, 480), (Stop(0, "#101020", 1.0), Stop(1, "#ffe0a0", 0.2)))
    verbs.add_pass(book, page, "Ramp", "#000000", "multiply", 0.8, ramp=ramp)
    verbs.set_print(book, page, dpi=DPI, trim_mm=(36.0, 26.0), bleed_mm=1.5)
    verbs.set_press(book, page, PressSettings(ink_limit=LIMIT, tolerance_mm=0.15, trap_mm=0.2))
    folder = tmp_path_factory.mktemp("press")
    kinds = ("plates", "colour", "separations", "line", "black", "pdf", "book-pdf")
    written = deliver(book, lambda _: shelf.derived, [page], folder, kinds)
    assert not [path for path in folder.iterdir() if path.name.startswith(".")]
    found = {"ticket": written[-1], "book": written[-2], "shelf": shelf}
    for path in written[:-2]:
        found[path.name.split("-")[-1] if path.suffix == ".tif" else path.suffix] = path
    return found


def test_no_pixel_of_any_file_is_above_the_ink_limit_and_every_plate_is_in_its_own_file(printed: dict) -> None:
    inks = tifffile.imread(printed["cmyk.tif"])
    assert inks.sum(axis=2, dtype=int).max() <= LIMIT * 2.55
    assert inks.sum(axis=2, dtype=int).max() > (LIMIT - 8) * 2.55, "it comes near it, so that this means something"
    for plate, name in enumerate(("cyan", "magenta", "yellow", "black")):
        assert np.array_equal(255 - tifffile.imread(printed[f"{name}.tif"]), inks[..., plate])
    rich = inks[285, 120]
    assert rich[3] == 255
    assert rich[:3].all()
    assert len(np.unique(inks[270:300, 80:160].reshape(-1, 4), axis=0)) == 1, "one mixture"


def test_the_tiff_carries_its_resolution_and_the_profile_that_others_read_as_we_do(printed: dict) -> None:
    with Image.open(printed["cmyk.tif"]) as image:
        assert image.mode == "CMYK"
        assert image.info["dpi"] == (DPI, DPI)
        profile = ImageCms.ImageCmsProfile(io.BytesIO(image.info["icc_profile"]))
    assert "Coated 240 %" in ImageCms.getProfileDescription(profile)
    screen = ImageCms.createProfile("sRGB")
    rng = np.random.default_rng(3)
    inks = rng.integers(0, 256, (500, 4)).astype(np.uint8)
    turn = ImageCms.buildTransform(profile, screen, "CMYK", "RGB", renderingIntent=1)
    told = ImageCms.applyTransform(Image.frombytes("CMYK", (500, 1), inks.tobytes()), turn)
    assert np.abs(np.asarray(told, int)[0] - appearance(inks)).mean() < 1
    colors = rng.integers(30, 226, (500, 3)).astype(np.uint8)
    back = ImageCms.buildTransform(screen, profile, "RGB", "CMYK", renderingIntent=1)
    asked = ImageCms.applyTransform(Image.frombytes("RGB", (500, 1), colors.tobytes()), back)
    ours, _ = separate_colors(colors, PressSettings(ink_limit=LIMIT))
    assert np.abs(np.asarray(asked, int)[0] - ours).mean() < 6


@needs("gs")
def test_a_separating_interpreter_gets_our_plates_out_of_the_pdf(printed: dict, tmp_path: Path) -> None:
    asks = ["gs", "-q", "-dNOPAUSE", "-dBATCH", "-dSAFER", "-sDEVICE=tiffsep", f"-r{DPI}"]
    subprocess.run([*asks, f"-sOutputFile={tmp_path / 'out.tif'}", printed[".pdf"]], check=True, timeout=120)
    inks = tifffile.imread(printed["cmyk.tif"]).astype(int)
    with pikepdf.open(printed[".pdf"]) as pdf:
        left = float(pdf.pages[0].MediaBox[2]) / 72 * DPI
    rows, cols = inks.shape[:2]
    edge = round((left - cols) / 2)
    for plate, name in enumerate(("Cyan", "Magenta", "Yellow", "Black")):
        told = 255 - tifffile.imread(next(tmp_path.glob(f"*({name})*"))).astype(int)
        off = np.abs(told[edge : edge + rows, edge : edge + cols] - inks[..., plate])
        if name != "Black":
            assert (off > 1).mean() < 0.01, name
        else:
            assert (off > 1).mean() < 0.03, "the line is drawn in two levels there"


@needs("qpdf", "pdfinfo")
def test_the_pdf_is_sound_and_its_boxes_are_read(printed: dict) -> None:
    for name in (".pdf", "book"):
        checked = subprocess.run(["qpdf", "--check", printed[name]], check=False, capture_output=True, text=True)
        assert checked.returncode == 0, checked.stdout
    told = subprocess.run(["pdfinfo", "-box", printed[".pdf"]], check=True, capture_output=True, text=True).stdout
    boxes = {line.split(":")[0]: [float(v) for v in line.split(":")[1].split()] for line in told.splitlines()
             if "Box:" in line}  # fmt: skip
    trim, bleed = boxes["TrimBox"], boxes["BleedBox"]
    assert [round((trim[k + 2] - trim[k]) / 72 * 25.4, 1) for k in (0, 1)] == [36.0, 26.0]
    assert round((trim[0] - bleed[0]) / 72 * 25.4, 1) == 1.5
    assert "PDF version:     1.6" in told


def test_the_pdf_says_how_it_is_printed_and_its_line_overprints(printed: dict) -> None:
    with pikepdf.open(printed[".pdf"]) as pdf:
        intent = pdf.Root.OutputIntents[0]
        assert intent.S == pikepdf.Name.GTS_PDFX
        assert len(intent.DestOutputProfile.read_bytes()) > 10_000
        assert pdf.docinfo["/Trapped"] == pikepdf.Name("/True")
        assert not missed_of_the_standard(pdf)
        drawn = pdf.pages[0].Resources
        assert drawn.ExtGState.Over.OPM == 1
        assert drawn.ExtGState.Over.op
        assert drawn.XObject.Line.ImageMask
        assert int(drawn.XObject.Line.Width) == 480 * 4
        image = np.frombuffer(drawn.XObject.Colour.read_bytes(), np.uint8).reshape(360, 480, 4).astype(int)
    with Image.open(printed["line.tif"]) as line:
        assert line.tag_v2[262] == 0, "white is zero, as for line"
        assert [round(float(v)) for v in line.info["dpi"]] == [DPI * 4] * 2
        dots = np.asarray(line.convert("L")) == 0
    assert 0.05 < dots.mean() < 0.5
    mask = dots.reshape(360, 4, 480, 4).any(axis=(1, 3)) & (image[..., :3].sum(axis=2) + 255 <= LIMIT * 2.55)
    image[..., 3] = np.where(mask, 255, image[..., 3])
    assert image.sum(axis=2).max() <= LIMIT * 2.55 + 1, "with the line printed over it"


def test_a_delivery_is_whole_or_not_there_and_its_ticket_names_every_file(
    printed: dict, tmp_path: Path
) -> None:  # fmt: skip
    told = printed["ticket"].read_text(encoding="utf-8")
    assert all(path.name in told for name, path in printed.items() if name not in ("ticket", "shelf"))
    assert f"Ink limit: {LIMIT} %" in told
    shelf = Shelf(two_rooms())
    shelf.pour(100, 60, 1)

    def stopping(at: float) -> Callable[[float, str], None]:
        def report(fraction: float, doing: str) -> None:
            if fraction > at:
                raise Cancelled("Stopped.")

        return report

    old = tmp_path / delivery_targets(shelf.book, [shelf.page], tmp_path, ("page",))[0].name
    old.write_text("what was there")
    for at in (0.0, 0.4, 0.8):
        with pytest.raises(Cancelled):
            deliver(shelf.book, lambda _: shelf.derived, [shelf.page], tmp_path, PRESETS["archive"], stopping(at))
        assert [path.name for path in tmp_path.iterdir()] == [old.name]
        assert old.read_text() == "what was there"
    (tmp_path / "wall").write_text("a file")
    with pytest.raises(CannotWrite, match="Choose another folder"):
        deliver(shelf.book, lambda _: shelf.derived, [shelf.page], tmp_path / "wall", ("page",), no_report)
    with pytest.raises(BadInput, match="no page"):
        deliver(shelf.book, lambda _: shelf.derived, [], tmp_path, ("page",))
    with pytest.raises(BadInput, match="poster"):
        deliver(shelf.book, lambda _: shelf.derived, [shelf.page], tmp_path, ("poster",))


@needs("gs")
def test_an_ink_of_its_own_and_fixed_inks_come_to_the_plate_as_they_were_set(tmp_path: Path) -> None:
    shelf = Shelf(two_rooms(rows=360, cols=480))
    shelf.pour(100, 60, 1)
    shelf.pour(100, 400, 2)
    book, page = shelf.book, shelf.page
    verbs.set_print(book, page, dpi=DPI, trim_mm=None, bleed_mm=0.0)
    verbs.set_pot_inks(book, 1, None, spot="Kite Red")
    verbs.set_pot_inks(book, 2, (37, 2, 71, 13))
    written = deliver(book, lambda _: shelf.derived, [page], tmp_path, ("plates", "separations", "pdf"))
    inks = tifffile.imread(next(p for p in written if p.name.endswith("-cmyk.tif")))
    assert inks.shape[2] == 5
    assert inks[100, 60].tolist() == [0, 0, 0, 0, 255]
    assert [round(v / 2.55) for v in inks[100, 400].tolist()] == [37, 2, 71, 13, 0]
    alone = next(p for p in written if p.name.endswith("-kite-red.tif"))
    assert np.array_equal(255 - tifffile.imread(alone), inks[..., 4])
    pdf = next(p for p in written if p.suffix == ".pdf")
    asks = ["gs", "-q", "-dNOPAUSE", "-dBATCH", "-dSAFER", "-sDEVICE=tiffsep", f"-r{DPI}"]
    subprocess.run([*asks, f"-sOutputFile={tmp_path / 'sep.tif'}", str(pdf)], check=True, timeout=120)
    plate = 255 - np.asarray(Image.open(tmp_path / "sep(Kite Red).tif"))
    edge = round(12.0 / 25.4 * DPI)
    cut = plate[edge : edge + 360, edge : edge + 480].astype(int)
    assert np.abs(cut[60:140, 40:100] - 255).max() <= 1
    assert np.abs(cut[60:140, 380:440]).max() <= 1
    black = 255 - np.asarray(Image.open(tmp_path / "sep(Black).tif"))
    assert black[edge + 100, edge + 60] <= 1, "nothing but the ink of its own"
    assert "Kite Red" in written[-1].read_text()
    verbs.rub_plates(shelf.hand, (), [(100.0, 60.0, 1.0), (100.0, 70.0, 1.0)], 20, 0.0, spots=("Kite Red",))
    rubbed = tifffile.imread(export_page(book, shelf.derived, page, tmp_path / "rubbed", kinds=("plates",))[0])
    assert rubbed[100, 65].tolist() == [0, 0, 0, 0, 0]
    assert np.array_equal(rubbed[..., :4], inks[..., :4])
    verbs.add_wear(book, page, "mottle")
    worn = np.asarray(Image.open(export_page(book, shelf.derived, page, tmp_path / "worn", kinds=("old",))[0]))
    assert worn[150, 60, 0] > worn[150, 60, 2] + 60, "the ink of its own wears as it looks"
    other = verbs.duplicate_page(book, page)
    verbs.age_page(book, other, "Second printing")
    verbs.share_settings(book, page, ("wear",))
    alike = [build_tables(book, book.sources(n), 3).wear for n in (page, other)]
    assert alike[0].steps == alike[1].steps
    assert alike[0].seed != alike[1].seed, "no two pages are worn alike, whatever they are called"
    with pytest.raises(BadInput, match="not printed with an ink"):
        verbs.rub_plates(shelf.hand, (), [(1.0, 1.0, 1.0)], 20, spots=("Blue",))
    for name in ("Cyan", " black "):
        with pytest.raises(BadInput, match="cannot be called"):
            verbs.set_pot_inks(book, 1, None, spot=name)
    with pytest.raises(BadInput, match="0 to 100 %"):
        verbs.set_pot_inks(book, 1, (0, 0, 101, 0))


def test_the_press_stand_in_prints_the_same_sheet_again_with_marks_around(printed: dict, tmp_path: Path) -> None:
    shelf = Shelf(two_rooms(rows=360, cols=480))
    shelf.pour(100, 60, 1)
    verbs.set_print(shelf.book, shelf.page, dpi=DPI, trim_mm=None, bleed_mm=0.0)
    sheets = []
    for place in ("one", "two"):
        written = deliver(shelf.book, lambda _: shelf.derived, [shelf.page], tmp_path / place, ("proof",))
        sheets.append(np.asarray(Image.open(written[0])).astype(int))
    assert np.array_equal(*sheets)
    sheet, margin = sheets[0], round(10 / 25.4 * 150)
    assert sheet.shape[0] == 180 + 2 * margin
    assert np.abs(sheet[margin + 50, margin + 30] - (226, 85, 58)).max() < 40, "the pot, as it comes out"
    assert sheet[:, margin // 2].min() < 120, "crop marks"


def test_ink_is_rubbed_out_of_one_plate_locally_and_comes_back(tmp_path: Path) -> None:
    shelf = Shelf(two_rooms(rows=360, cols=480))
    shelf.pour(100, 60, 1)
    book, page = shelf.book, shelf.page
    before = tifffile.imread(export_page(book, shelf.derived, page, tmp_path, kinds=("plates",))[0])
    verbs.rub_plates(shelf.hand, (1,), [(100.0, 60.0, 1.0), (100.0, 90.0, 1.0)], 30, 0.0)
    after = tifffile.imread(export_page(book, shelf.derived, page, tmp_path, kinds=("plates",))[0])
    assert before[100, 75, 1] > 100
    assert after[100, 75, 1] == 0, "no magenta there"
    assert np.array_equal(np.delete(after, 1, axis=2), np.delete(before, 1, axis=2)), "the other plates stay"
    assert np.array_equal(after[200:], before[200:])
    verbs.rub_plates(shelf.hand, (1,), [(100.0, 60.0, 1.0), (100.0, 90.0, 1.0)], 40, 0.0, away=True)
    again = tifffile.imread(export_page(book, shelf.derived, page, tmp_path, kinds=("plates",))[0])
    assert np.array_equal(again, before)
    with pytest.raises(BadInput, match="cyan"):
        verbs.rub_plates(shelf.hand, (7,), [(1.0, 1.0, 1.0)], 20)


def test_rubbing_stays_where_it_began_and_edges_are_trapped_by_hand_in_the_file(tmp_path: Path) -> None:
    shelf = Shelf(two_rooms(rows=360, cols=480))
    book, page = shelf.book, shelf.page
    shelf.pour(100, 60, 1)
    shelf.pour(100, 400, 2)
    plates = lambda: tifffile.imread(export_page(book, shelf.derived, page, tmp_path, kinds=("plates",))[0])  # noqa: E731
    before = plates()
    left, right = shelf.hand.atom_at(100, 60), shelf.hand.atom_at(100, 400)
    verbs.rub_plates(shelf.hand, (0, 1, 2), [(100.0, 60.0, 1.0), (100.0, 400.0, 1.0)], 30, 0.0, only=left)
    after = plates()
    assert after[100, 60, :3].max() == 0
    assert np.array_equal(after[100, 400], before[100, 400]), "it stays in the region it began in"
    with pytest.raises(NothingDone):
        verbs.rub_plates(shelf.hand, (0,), [(100.0, 60.0, 1.0)], 20, inside={right})
    verbs.set_trap(shelf.hand, (100.0, 60.0), (100.0, 400.0), "none")
    verbs.set_trap(shelf.hand, (100.0, 400.0), (100.0, 60.0), "both", 0.5)
    assert [t.way for t in book.sources(page)[TRAPS].values()] == ["both"], "one for each pair of regions"
    for wrong in (lambda: verbs.set_trap(shelf.hand, (100.0, 60.0), (101.0, 61.0)),
                  lambda: verbs.set_trap(shelf.hand, (100.0, 60.0), (100.0, 400.0), "into", 3.0),
                  lambda: verbs.remove_trap(book, page, 9)):  # fmt: skip
        with pytest.raises((BadInput, NothingDone)):
            wrong()
    verbs.remove_trap(book, page, 1)
    assert not book.sources(page)[TRAPS]


def test_a_dark_pot_is_eased_like_hues_share_an_ink_and_what_no_press_has_is_brought_near() -> None:
    shelf = Shelf(two_rooms())
    book, page = shelf.book, shelf.page
    dark, neon, *reds = verbs.add_pots(book, "Inks", [
        ("Umber", "#3a2a22"), ("Neon", "#00ff40"), ("Red", "#d02030"), ("Next", "#d22636"), ("Wine", "#8a1020"),
    ])  # fmt: skip
    inks, _ = inks_for((0x3A, 0x2A, 0x22), book.sources(page)[PRESS])
    verbs.ease_pot(book, page, dark)
    eased = book.pots()[dark].inks
    assert sum(eased) < sum(inks) / 2.55 - 4
    seen = [appearance(np.array([k], np.uint8))[0] for k in (inks, tuple(round(v * 2.55) for v in eased))]
    assert delta_e(*map(srgb8_to_oklab, seen)) < 3, "it looks the same"
    with pytest.raises(NothingDone):
        verbs.ease_pot(book, page, dark)
    verbs.print_nearest(book, page, neon)
    r, g, b = from_hex(book.pots()[neon].local).tolist()
    assert inks_for((r, g, b), book.sources(page)[PRESS])[1] < 2
    with pytest.raises(BadInput, match="no ink"):
        verbs.gather_spot(book, reds[0])
    verbs.set_pot_inks(book, reds[0], None, None, "Warm red")
    assert verbs.gather_spot(book, reds[0], 4.0) == [reds[1]]
    assert book.pots()[reds[1]].spot == "Warm red"
    with pytest.raises(NothingDone):
        verbs.gather_spot(book, reds[0], 4.0)


def test_colour_without_line_and_what_prints_black_add_up_to_the_plates(printed: dict) -> None:
    whole, color = (tifffile.imread(printed[name]).astype(int) for name in ("cmyk.tif", "colour.tif"))
    with Image.open(printed["overprint.tif"]) as image:
        dots = (np.asarray(image.convert("L")) == 0).reshape(360, 4, 480, 4)
    none, every = ~dots.any(axis=(1, 3)), dots.all(axis=(1, 3))
    assert none.mean() > 0.5
    assert np.abs(whole - color)[none].max() <= 2, "beside the line both are one"
    assert color[every].sum(axis=1).max() + 255 - color[every][:, 3].max() <= LIMIT * 2.55 + 1, "room for the black"
    assert np.abs(np.maximum(color, [0, 0, 0, 255]) - whole)[every].max() <= 2


@pytest.mark.parametrize("cut", ["bleed", "trim"])
def test_pictures_plates_and_line_are_cut_as_asked_and_equal_the_whole_there(
    printed: dict, tmp_path: Path, cut: CutTo
) -> None:
    shelf = printed["shelf"]
    page = shelf.book.pages()[shelf.page]
    kinds = ("page", "plates", "line", "pdf")
    whole = {path.name: path for path in export_page(shelf.book, shelf.derived, shelf.page, tmp_path, kinds=kinds)}
    made = export_page(shelf.book, shelf.derived, shelf.page, tmp_path / cut, kinds=kinds, how=How(cut))
    mm = [n + 2 * page.bleed_mm * (cut == "bleed") for n in page.trim_mm]
    for path in made[:3]:
        small, large = (np.asarray(Image.open(p)).astype(int) for p in (path, whole[path.name]))
        finer = large.shape[0] // page.rows
        size = [min(n, round(m / 25.4 * page.dpi)) * finer for n, m in zip((page.cols, page.rows), mm, strict=True)]
        assert [small.shape[1], small.shape[0]] == size, path.name
        top, left = ((large.shape[k] // finer - small.shape[k] // finer) // 2 * finer for k in (0, 1))
        assert np.array_equal(small, large[top : top + small.shape[0], left : left + small.shape[1]]), path.name
    with pytest.raises(BadInput, match="cut to none"):
        export_page(shelf.book, shelf.derived, shelf.page, tmp_path, how=How("edge"))  # type: ignore[arg-type]


def test_pages_of_two_presses_are_refused_in_one_pdf_and_written_apart(tmp_path: Path) -> None:
    shelf = Shelf(two_rooms())
    book = shelf.book
    other = verbs.duplicate_page(book, shelf.page)
    verbs.set_press(book, other, PressSettings(condition="newsprint", ink_limit=240))
    with pytest.raises(BadInput, match=r"Coated and Newsprint.*a PDF a page"):
        delivery_targets(book, [shelf.page, other], tmp_path, ("book-pdf",))
    assert len(delivery_targets(book, [shelf.page, other], tmp_path, ("pdf",))) == 3
    written = deliver(book, lambda _: shelf.derived, [other], tmp_path, ("book-pdf",))
    assert "Page 2:" in written[-1].read_text(), "pages are numbered by their place"
    with pikepdf.open(written[0]) as pdf:
        assert not missed_of_the_standard(pdf)
        assert str(pdf.docinfo["/Trapped"]) == "/False", "it has no edges to trap"
