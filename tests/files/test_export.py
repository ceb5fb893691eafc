# SPDX-License-Identifier: GPL-3.0-or-later
"""Delivery: what is written is what was made, measured on the files themselves."""

import io
import zipfile
from pathlib import Path
from xml.etree import ElementTree

import cv2
import msgspec
import numpy as np
import pytest
import tifffile
from PIL import Image, ImageCms

from drip_pot.book import Book, Derived, build_tables, verbs
from drip_pot.book.values import Hold
from drip_pot.core.errors import BadInput, Cancelled, CannotWrite
from drip_pot.core.inks import Effect
from drip_pot.core.render import Finish
from drip_pot.files import (
    KINDS,
    How,
    deliver,
    delivery_targets,
    derive,
    export_page,
    open_book,
    read_page,
    web_size,
)
from tests.book.test_sheets import Shelf
from tests.conftest import make_book, two_rooms


@pytest.fixture
def colored() -> tuple[Book, Derived, int]:
    """Left room Ember with a shaded corner, right room Sky, outside bare."""
    book, derived, page = make_book(two_rooms(), 300)
    labels = derived.regions.atoms(book.sources(page).line).labels
    verbs.pour(book, page, {int(labels[100, 80])}, 1)
    verbs.pour(book, page, {int(labels[100, 220])}, 2)
    mask = np.ones((40, 40), bool)
    verbs.shade_mask(book, page, (60, 40, 100, 80), mask, mask, light=False)
    return book, derived, page


def read(paths: list[Path], ending: str) -> Image.Image:
    (path,) = [p for p in paths if p.name.endswith(ending)]
    return Image.open(path)


def test_flats_hold_pots_colours_alone_and_bare_paper_is_clear(
    colored: tuple[Book, Derived, int], tmp_path: Path
) -> None:
    book, derived, page = colored
    image = read(export_page(book, derived, page, tmp_path, kinds=("flats",)), "-flats.png")
    assert image.mode == "P"
    pixels = np.array(image.convert("RGBA")).reshape(-1, 4)
    opaque = {tuple(c) for c in np.unique(pixels[pixels[:, 3] == 255], axis=0)[:, :3].tolist()}
    assert opaque == {(0xE2, 0x55, 0x3A), (0xA8, 0xD4, 0xE0)}
    assert set(np.unique(pixels[:, 3]).tolist()) == {0, 255}
    assert image.info["dpi"] == pytest.approx((300, 300), abs=0.1)
    image.close()


def test_the_flattened_page_shows_line_over_two_tones(colored: tuple[Book, Derived, int], tmp_path: Path) -> None:
    book, derived, page = colored
    image = read(export_page(book, derived, page, tmp_path, kinds=("page",)), "one.png")
    pixels = np.array(image)
    shadow = bytes.fromhex(book.tone_pair(book.pots()[1])[1][1:])
    assert bytes(pixels[80, 60].tobytes()) == shadow
    assert pixels[150, 100].tolist() == [0xE2, 0x55, 0x3A]
    assert pixels[100, 150].tolist() == [0, 0, 0]
    assert pixels[5, 5].tolist() == [255, 255, 255]
    image.close()


def test_plates_are_cmyk_at_the_pages_dpi_with_black_line_overprinting(
    colored: tuple[Book, Derived, int], tmp_path: Path
) -> None:
    book, derived, page = colored
    (path,) = export_page(book, derived, page, tmp_path, kinds=("plates",))
    with tifffile.TiffFile(path) as file:
        tags = file.pages[0].tags
        assert tags["PhotometricInterpretation"].value == 5
        assert tags["XResolution"].value[0] / tags["XResolution"].value[1] == 300
        assert tags["InkSet"].value == 1
        plates = file.asarray()
    assert plates.shape == (200, 300, 4)
    sky = build_tables(book, book.sources(page), derived.regions.atoms(book.sources(page).line).count).plates
    inks = sky.colors.flat.view(np.uint8).reshape(-1, 4)[
        int(derived.regions.atoms(book.sources(page).line).labels[100, 220])
    ]
    assert plates[100, 220].tolist() == inks.tolist()
    assert plates[100, 151, 3] == 255
    assert plates[100, 151, :3].tolist() == inks[:3].tolist(), "the colour runs on under the line"
    assert plates[5, 5].tolist() == [0, 0, 0, 0]
    with Image.open(path) as image:
        assert image.mode == "CMYK"
        assert np.array_equal(np.array(image), plates)


def test_the_black_line_is_one_bit_and_the_ink_itself_whatever_holds_there_are(
    colored: tuple[Book, Derived, int], tmp_path: Path
) -> None:
    book, derived, page = colored
    image = read(export_page(book, derived, page, tmp_path / "a", kinds=("line",)), "-line.tif")
    assert image.mode == "1"
    assert image.info["dpi"] == pytest.approx((1200, 1200)), "line is delivered at the resolution of line"
    black = ~np.array(image)
    image.close()
    ink = derived.inks.contour(book.sources(page).line)
    assert black.shape == (4 * ink.shape[0], 4 * ink.shape[1])
    even = cv2.erode(ink, np.ones((3, 3))) == cv2.dilate(ink, np.ones((3, 3)))
    wanted, inner = (np.repeat(np.repeat(plane, 4, axis=0), 4, axis=1) for plane in (ink >= 128, even))
    assert np.array_equal(black[inner], wanted[inner])
    verbs.hold_part(book, page, 1, 0.5)
    held = read(export_page(book, derived, page, tmp_path / "b", kinds=("line",)), "-line.tif")
    assert np.array_equal(~np.array(held), black)
    held.close()


def test_traps_reach_the_plates(tmp_path: Path) -> None:
    ink = two_rooms()
    ink[23:177, 140:160] = 0
    ink[20:180, 150] = 60
    book, derived, page = make_book(ink, 600)
    labels = derived.regions.atoms(book.sources(page).line).labels
    verbs.add_pot(book, "Red", 1, "#e8202a")
    verbs.add_pot(book, "Blue", 1, "#009de0")
    verbs.pour(book, page, {int(labels[100, 80])}, 4)
    verbs.pour(book, page, {int(labels[100, 220])}, 5)
    (path,) = export_page(book, derived, page, tmp_path, kinds=("plates",))
    row = tifffile.imread(path)[100, 140:162].astype(int)
    both = (row[:, 0] > 150) & (row[:, 1] > 150)
    assert 2 <= both.sum() <= 4, "0.12 mm is about three pixels at 600 dpi"


def test_a_stopped_or_failed_export_leaves_no_half_files(colored: tuple[Book, Derived, int], tmp_path: Path) -> None:
    book, derived, page = colored

    def stop(fraction: float, doing: str) -> None:
        if "CMYK" in doing:
            raise Cancelled("Stopped.")

    with pytest.raises(Cancelled):
        export_page(book, derived, page, tmp_path / "out", report=stop)
    assert not [p for p in (tmp_path / "out").iterdir() if p.name.startswith(".") or "cmyk" in p.name]
    (tmp_path / "wall").write_text("a file, not a folder")
    with pytest.raises(CannotWrite, match="Choose another folder"):
        export_page(book, derived, page, tmp_path / "wall")
    with pytest.raises(BadInput, match="nothing called 'poster'"):
        export_page(book, derived, page, tmp_path, kinds=("poster",))


def test_the_demo_page_is_delivered_whole(demo_book: Path, tmp_path: Path) -> None:
    file, book = open_book(demo_book)
    page = next(iter(book.pages()))
    written = export_page(book, derive(file, book, page), page, tmp_path)
    alone = [path for path in written if path.name.endswith("-cut.png")]
    assert len(written) == sum(len(kind.parts) for kind in KINDS.values()) + len(alone)
    assert len(alone) > 5, "its parts"
    flats = read(written, "-flats.png")
    pots = {p.local for p in book.pots().values()}
    rgba = np.array(flats.convert("RGBA")).reshape(-1, 4)
    found = {f"#{r:02x}{g:02x}{b:02x}" for r, g, b, a in np.unique(rgba, axis=0).tolist() if a}
    assert found <= pots
    assert len(found) > 25
    flats.close()
    file.close()


def test_the_layers_laid_over_each_other_are_the_page_as_it_is_seen(tmp_path: Path) -> None:
    shelf = Shelf(two_rooms())
    shelf.pour(100, 60, 1)
    shelf.pour(100, 250, 3)
    book, page = shelf.book, shelf.page
    mask = np.ones((80, 100), bool)
    verbs.shade_mask(book, page, (40, 30, 120, 130), mask, mask, light=False)
    tint = verbs.add_pass(book, page, "Mood", "#6080c0", "multiply", 0.5)
    verbs.fill_pass(shelf.hand, {int(shelf.hand.labels[100, 250])}, into=tint)
    verbs.add_pass(book, page, "Warm", finish=Finish(chroma=1.3), mode="normal", strength=1.0)
    lines = Effect("focus", ((30, 30), (30, 140), (170, 140), (170, 30)), 100, 85, fade=0.5, color="#204080")
    verbs.lay_effect(shelf.hand, lines)
    verbs.hold_part(book, page, 1, 0.5)
    (target,) = export_page(book, shelf.derived, page, tmp_path, kinds=("layers",))
    with zipfile.ZipFile(target) as archive:
        assert archive.namelist()[0] == "mimetype"
        assert archive.read("mimetype") == b"image/openraster"
        root = ElementTree.fromstring(archive.read("stack.xml"))
        layers = list(root.iter("layer"))[::-1]
        names = [layer.get("name") for layer in layers]
        assert names == ["Paper", "Figure", "Ground", "Tone", "Mood", "Warm", "Effect", "Line"]
        out = np.zeros((200, 300, 3))
        for layer in layers:
            pixels = np.asarray(Image.open(archive.open(layer.get("src")))).astype(float) / 255
            over, alpha = pixels[..., :3], pixels[..., 3:]
            mode = layer.get("composite-op")
            blend = over * out if mode == "svg:multiply" else over
            out = out * (1 - alpha) + blend * alpha
        merged = np.asarray(Image.open(archive.open("mergedimage.png")))[..., :3]
    assert np.abs(out * 255 - merged).max() <= 3
    assert read_page(target).shape == (200, 300), "it comes back in"


def test_copies_for_screens_and_clear_grounds_are_the_page_in_every_scheme(tmp_path: Path) -> None:
    shelf = Shelf(two_rooms())
    shelf.pour(100, 60, 1)
    verbs.add_hold(shelf.book, shelf.page, Hold("Blue", how="fixed", color="#2040a0"))
    verbs.add_scheme(shelf.book, "Dusk & dawn")
    verbs.set_pot(shelf.book, 1, msgspec.structs.replace(shelf.book.pots()[1], local="#503070"))
    kinds = ("page", "flats", "web-jpeg", "web-png", "web-webp", "clear", "line-colour", "line-black")
    how = How(web=web_size("height=100"), schemes=(2, 1))
    made = deliver(shelf.book, lambda _: shelf.derived, [shelf.page], tmp_path, kinds, how=how)
    assert made == delivery_targets(shelf.book, [shelf.page], tmp_path, kinds, how)
    assert len({path.name for path in made}) == 2 * len(kinds) + 1
    for mark, color in (("dusk-dawn", (0x50, 0x30, 0x70)), ("first-colours", (0xE2, 0x55, 0x3A))):
        seen = {path.name.split(mark)[1]: Image.open(path) for path in made if mark in path.name}
        whole = np.asarray(seen[".png"])
        assert tuple(whole[100, 60]) == color
        for suffix in ("-web.jpg", "-web.png", "-web.webp"):
            assert seen[suffix].size == (150, 100)
            profile = ImageCms.ImageCmsProfile(io.BytesIO(seen[suffix].info["icc_profile"]))
            assert "sRGB" in ImageCms.getProfileDescription(profile)
            assert np.abs(np.asarray(seen[suffix].convert("RGB"))[50, 30].astype(int) - color).max() <= 4
        clear = seen["-clear.png"]
        assert clear.getpixel((240, 100))[3] == 0, "nothing is poured there"
        assert clear.getpixel((60, 100)) == (*color, 255)
        white = Image.new("RGBA", clear.size, "white")
        on_white = Image.alpha_composite(white, clear).convert("RGB")
        assert np.abs(np.asarray(on_white).astype(int) - whole).max() <= 1
        flats = Image.alpha_composite(white, seen["-flats.png"].convert("RGBA"))
        line = Image.alpha_composite(flats, seen["-line-colour.png"]).convert("RGB")
        assert np.abs(np.asarray(line).astype(int) - whole).max() <= 1
        black = np.asarray(seen["-line-black.png"])
        assert black[..., :3].max() == 0
        assert np.array_equal(black[..., 3] > 127, two_rooms() > 127)
    verbs.cut_shade(shelf.hand, [(40.0, 30.0), (160.0, 60.0), (150.0, 80.0), (40.0, 60.0)], line="straight")
    (hard,), (smooth,) = (
        deliver(shelf.book, lambda _: shelf.derived, [shelf.page], tmp_path / said, ("web-png",),
                how=How(web=web_size(said)))[:1] for said in ("height=200", "height=200,smooth")
    )  # fmt: skip
    one, two = (np.asarray(Image.open(path)).astype(int) for path in (hard, smooth))
    moved = np.abs(one - two).max(axis=2) > 2
    edge = cv2.morphologyEx(one.astype(np.uint8), cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)).max(axis=2) > 5
    assert 20 < moved.sum() < 0.05 * moved.size
    assert not (moved & ~edge).any(), "only pixels at edges of colours"
    for wrong in ("height=5", "depth=3", "height", "megapixels=0", "height=900,rough"):
        with pytest.raises(BadInput, match="web copy"):
            web_size(wrong)
    with pytest.raises(BadInput, match="no scheme 7"):
        delivery_targets(shelf.book, [shelf.page], tmp_path, kinds, How(schemes=(7,)))
