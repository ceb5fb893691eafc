# SPDX-License-Identifier: GPL-3.0-or-later
"""Files that hold more than one drawing, deep and coloured scans, and drawings that are none."""

import io
import zipfile
from pathlib import Path

import cv2
import numpy as np
import pytest
from PIL import Image

from drip_pot.book.values import SHEETS
from drip_pot.core.errors import BadInput, DripPotError, Unreadable
from drip_pot.files import (
    add_page,
    add_sheets,
    decode,
    derive,
    new_book,
    pictures_in,
    read_page,
    reink_sheet,
    take_in,
    with_dpi,
)
from tests.conftest import two_rooms, write_png
from tests.core.test_line import page as drawn_page
from tests.files.test_images import GRAY, INK, RGB, clear, encoded, tiff

STACK = '<image version="0.0.3" w="90" h="60" xres="400" yres="400"><stack>{}</stack></image>'


def ora(layers: list[tuple[str, str]], files: dict[str, bytes], stack: str = STACK) -> bytes:
    """An OpenRaster archive of (name, further attributes) layers; pictures are found by 'data/<name>.png'."""
    inner = "".join(f'<layer name="{n}" src="data/{n}.png" {more}/>' for n, more in layers)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("mimetype", "image/openraster")
        archive.writestr("stack.xml", stack.format(inner))
        for name, data in files.items():
            archive.writestr(f"data/{name}.png", data)
    return out.getvalue()


LINE, WHITE = encoded(clear(GRAY), "PNG"), encoded(Image.new("RGB", (90, 60), "white"), "PNG")
LAYERS = ora(
    [("Lettering", ""), ("Hatching", 'x="5" y="3"'), ("Inks", ""), ("Sketch", 'visibility="hidden"'), ("Paper", "")],
    {"Lettering": LINE, "Hatching": LINE, "Inks": LINE, "Sketch": LINE, "Paper": WHITE},
)


def pdf() -> bytes:
    return encoded(Image.fromarray(GRAY), "PDF", resolution=90, save_all=True, append_images=[Image.fromarray(INK)])


def test_layers_become_sheets_with_roles_by_their_names(tmp_path: Path) -> None:
    path = tmp_path / "page.ora"
    path.write_bytes(LAYERS)
    incoming = read_page(path)
    assert [(s.name, s.role, s.shown) for s, _ in incoming.sheets] == [
        ("Inks", "contour", True), ("Sketch", "detail", False), ("Hatching", "detail", True),
        ("Lettering", "lettering", True),
    ]  # fmt: skip
    assert (incoming.dpi, incoming.knows_dpi) == (400, True)
    file, book = new_book(tmp_path / "b.drip", "B")
    number = add_page(book, incoming, file.add_original(incoming.name, incoming.data))
    sources = book.sources(number)
    assert [s.name for s in sources[SHEETS].values()] == ["Inks", "Sketch", "Hatching", "Lettering"]
    derived = derive(file, book, number)
    assert np.abs(derived.inks.contour(sources.line).astype(int) - INK).max() <= 12
    over = derived.inks.over(sources.line, sources.over)
    assert over is not None
    assert over.ink[20 + 3, 20 + 5 + 30] > 200, "a layer lies where the archive says"
    file.close()


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (LAYERS[: len(LAYERS) // 2], "damaged or cut short"),
        (ora([("A", "")], {}), "no layer that can be read"),
        (ora([("A", "")], {"A": LINE}, "<image>"), "damaged or cut short"),
        (ora([("A", "")], {"A": LINE}, STACK.replace('w="90"', 'w="90000"')), "up to 30000 px"),
        (ora([("A", "")], {"A": LINE}, STACK.replace('w="90"', 'w="none"')), "has no pixels"),
        (ora([("A", "")], {"A": LINE[: len(LINE) // 2]}), "damaged or cut short"),
        (b"PK\x03\x04" + bytes(200), "damaged or cut short"),
    ],
)
def test_broken_archives_are_explained(data: bytes, words: str) -> None:
    with pytest.raises(DripPotError, match=words):
        take_in(data, "page.ora")


def test_an_archive_with_odd_paths_and_a_missing_layer_opens_as_far_as_it_can(tmp_path: Path) -> None:
    data = ora([("Gone", ""), ("../../up", ""), ("Inks", 'opacity="lots" x="far"')], {"../../up": LINE, "Inks": LINE})
    incoming = take_in(data, "odd.ora")
    assert [s.name for s, _ in incoming.sheets][-1] == "../../up"
    assert any("lacks the picture of its layer Gone" in note for note in incoming.notes)
    assert not (tmp_path.parent / "up.png").exists()


def test_pages_of_a_tiff_and_of_a_pdf_are_read_one_by_one() -> None:
    two = encoded(Image.fromarray(GRAY), "TIFF", save_all=True, append_images=[Image.fromarray(INK)])
    assert [p.name for p in pictures_in(two, "two.tif")] == ["Picture 1", "Picture 2"]
    assert np.array_equal(decode(two, "two.tif", 1).gray, INK)
    assert any("holds 2 pictures" in note for note in take_in(two, "two.tif").notes)
    with pytest.raises(BadInput, match="no picture 3"):
        decode(two, "two.tif", 2)
    document = pdf()
    assert len(pictures_in(document, "two.pdf")) == 2
    first, second = decode(document, "two.pdf", 0), decode(document, "two.pdf", 1)
    assert first.dpi == 600
    small = cv2.resize(first.gray, (90, 60), interpolation=cv2.INTER_AREA)
    assert np.abs(small.astype(int) - GRAY).mean() < 12
    assert second.gray.mean() < 128 < first.gray.mean()
    with pytest.raises(BadInput, match="no page 9"):
        decode(document, "two.pdf", 8)
    with pytest.raises(Unreadable, match="damaged or locked"):
        pictures_in(document[:200], "cut.pdf")


@pytest.mark.parametrize(
    "data",
    [
        tiff(GRAY.astype(np.uint16) * 257),
        tiff(RGB.astype(np.uint16) * 257, photometric="rgb"),
        cv2.imencode(".png", RGB.astype(np.uint16) * 257)[1].tobytes(),
    ],
)
def test_deep_scans_stay_deep(data: bytes) -> None:
    scan = decode(data, "deep")
    assert scan.gray.dtype == np.uint16
    assert np.abs(scan.gray.astype(int) - GRAY.astype(int) * 257).max() <= 257


def test_colour_is_kept_only_where_there_is_colour() -> None:
    blue = RGB.copy()
    blue[30:34, 10:80] = (120, 170, 235)
    assert decode(encoded(Image.fromarray(blue), "PNG"), "blue.png").rgb is not None
    tinted = np.clip(RGB.astype(int) - [0, 6, 24], 0, 255).astype(np.uint8)
    assert decode(encoded(Image.fromarray(tinted), "PNG"), "tinted.png").rgb is None


def test_blue_pencil_is_taken_out_by_itself_and_said(tmp_path: Path) -> None:
    rgb = np.repeat((255 - two_rooms(rows=600, cols=600))[..., None], 3, axis=2).copy()
    cv2.line(rgb, (60, 60), (560, 540), (130, 175, 235), 6, cv2.LINE_AA)
    rgb[two_rooms(rows=600, cols=600) > 0] = 0
    path = tmp_path / "pencil.png"
    Image.fromarray(rgb).save(path, dpi=(300, 300))
    incoming = read_page(path)
    assert any("pencil" in note for note in incoming.notes)
    file, book = new_book(tmp_path / "b.drip", "B")
    number = add_page(book, incoming, file.add_original(incoming.name, incoming.data))
    sources = book.sources(number)
    ink = derive(file, book, number).inks.contour(sources.line)
    assert ink[140:150, 140:150].max() < 40
    assert ink[300, 300] == 255
    file.close()


@pytest.mark.parametrize("scale", [1, 4])
def test_a_sketch_beneath_the_line_is_left_out_and_said(tmp_path: Path, scale: int) -> None:
    share = two_rooms(rows=600, cols=600) / 255
    sketch = np.zeros((600, 600), np.uint8)
    for at in range(40, 600, 90):
        cv2.line(sketch, (at, 0), (600 - at, 599), 255, 3, cv2.LINE_AA)
    notes = {}
    for name, beneath in (("sketched", sketch / 255 * 0.22), ("clean", np.zeros((600, 600)))):
        pixels = np.rint(252 - 230 * np.maximum(share, beneath)).astype(np.uint8)
        pixels = cv2.resize(pixels, None, fx=scale, fy=scale, interpolation=cv2.INTER_CUBIC)
        path = tmp_path / f"{name}.png"
        Image.fromarray(pixels).save(path, dpi=(300, 300))
        incoming = read_page(path)
        notes[name] = [note for note in incoming.notes if "sketch" in note]
        file, book = new_book(tmp_path / f"{name}.drip", "B")
        number = add_page(book, incoming, file.add_original(incoming.name, incoming.data))
        ink = derive(file, book, number).inks.contour(book.sources(number).line)[::scale, ::scale]
        assert (ink[(share < 0.1) & (cv2.dilate(share, np.ones((7, 7))) < 0.1)] < 20).all()
        assert (ink[cv2.erode(share, np.ones((3, 3))) == 1] > 200).all()
        file.close()
    assert (len(notes["sketched"]), len(notes["clean"])) == (1, 0)


WAYS = [((255, 255, 255), (0, 0, 0)), ((12, 12, 12), (245, 245, 245)), ((252, 246, 226), (52, 70, 190)),
        ((250, 250, 250), (190, 40, 40))]  # fmt: skip


@pytest.mark.parametrize(("paper", "line"), WAYS)
def test_line_of_any_colour_and_light_line_on_dark_are_the_line(tmp_path: Path, paper: tuple, line: tuple) -> None:
    share = two_rooms(rows=600, cols=600)[..., None] / 255
    pixels = np.rint(np.array(paper) * (1 - share) + np.array(line) * share).astype(np.uint8)
    path = tmp_path / "drawn.png"
    Image.fromarray(pixels).save(path, dpi=(300, 300))
    incoming = read_page(path)
    assert any("turned round" in note for note in incoming.notes) == (paper[0] < 128)
    assert not any("pencil" in note for note in incoming.notes)
    file, book = new_book(tmp_path / "b.drip", "B")
    number = add_page(book, incoming, file.add_original(incoming.name, incoming.data))
    ink = derive(file, book, number).inks.contour(book.sources(number).line)
    assert np.array_equal(ink > 127, share[..., 0] > 0.5)
    file.close()


def test_a_photograph_is_taken_with_a_plain_warning() -> None:
    rng = np.random.default_rng(1)
    soft = cv2.GaussianBlur(rng.integers(0, 255, (400, 400), np.uint8), (0, 0), 25)
    photo = cv2.normalize(soft, None, 0, 255, cv2.NORM_MINMAX)
    incoming = take_in(encoded(Image.fromarray(photo), "PNG", dpi=(300, 300)), "photo.png")
    assert any("photograph" in note for note in incoming.notes)
    assert not any("photograph" in note for note in take_in(encoded(Image.fromarray(GRAY), "PNG"), "l.png").notes)


def test_a_resolution_given_by_hand_scales_the_specks() -> None:
    noisy = np.clip(drawn_page().astype(int) * -0.8 + 235 + np.random.default_rng(2).normal(0, 3, (900, 700)), 0, 255)
    incoming = take_in(encoded(Image.fromarray(noisy.astype(np.uint8)), "PNG"), "scan.png")
    assert not incoming.knows_dpi
    fixed = with_dpi(incoming, 600)
    assert (fixed.dpi, fixed.knows_dpi) == (600, True)
    assert fixed.sheets[0][1].settings.speck_px == pytest.approx(4 * incoming.sheets[0][1].settings.speck_px, abs=3)


def test_a_corrected_scan_replaces_a_sheet_and_a_sheet_of_other_dpi_is_scaled(tmp_path: Path) -> None:
    ink = drawn_page()
    file, book = new_book(tmp_path / "b.drip", "B")
    first = read_page(write_png(tmp_path / "one.png", ink))
    number = add_page(book, first, file.add_original(first.name, first.data))
    turned = cv2.warpAffine(ink, cv2.getRotationMatrix2D((350, 450), 2.0, 1.0), (700, 900))
    cv2.circle(turned, (200, 650), 30, 255, 4)
    again = read_page(write_png(tmp_path / "two.png", turned))
    sheet, _ = reink_sheet(file, book, number, 0, again)
    assert sheet.place.turn_deg == pytest.approx(2.0, abs=0.05)
    assert sheet.original == 2
    small = read_page(write_png(tmp_path / "hatching.png", ink[::2, ::2], dpi=150))
    (added,) = add_sheets(book, number, small, file.add_original(small.name, small.data))
    laid = book.sources(number)[SHEETS][added]
    assert (laid.place.scale, laid.role, laid.name) == (2.0, "detail", "hatching")
    file.close()


def test_a_tiff_cut_anywhere_is_explained() -> None:
    whole = tiff(GRAY)
    for cut in (20, len(whole) // 2):
        with pytest.raises(DripPotError):
            decode(whole[:cut], "cut.tif")
