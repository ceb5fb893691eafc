# SPDX-License-Identifier: GPL-3.0-or-later
"""Shapes as SVG, layers as TIFF, finished flats brought in: read by others, and taken apart and put together again."""

import zipfile
from pathlib import Path
from xml.etree import ElementTree

import cv2
import numpy as np
import pytest
import tifffile
from PIL import Image
from PyQt6.QtCore import QByteArray
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtSvg import QSvgRenderer

from drip_pot.book import verbs
from drip_pot.book.values import PASSES, POURS, SHEETS
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.inks import Effect
from drip_pot.files import (
    FinishedFlats,
    How,
    deliver,
    delivery_targets,
    derive,
    export_page,
    export_targets,
    hand_on,
    looking_into,
    open_book,
    read_flats,
    take_flats,
    take_layers,
)
from tests.book.test_sheets import Shelf
from tests.conftest import two_rooms, write_png
from tests.test_cli import drip_pot


def test_shapes_drawn_by_another_reader_are_the_flats(demo_book: Path, tmp_path: Path) -> None:
    file, book = open_book(demo_book)
    try:
        (svg,) = export_page(book, derive(file, book, 6), 6, tmp_path, kinds=("svg",))
        (flats,) = export_page(book, derive(file, book, 6), 6, tmp_path, kinds=("flats",))
    finally:
        file.close()
    wanted = np.asarray(Image.open(flats).convert("RGBA"))
    high, wide = wanted.shape[:2]
    image = QImage(wide, high, QImage.Format.Format_RGBA8888)
    image.fill(0)
    painter = QPainter(image)
    QSvgRenderer(QByteArray(svg.read_bytes())).render(painter)
    painter.end()
    bits = image.constBits()
    bits.setsize(image.sizeInBytes())
    seen = np.frombuffer(bits, np.uint8).reshape(high, wide, 4)
    inner = cv2.erode((wanted[..., 3] > 0).view(np.uint8), np.ones((5, 5), np.uint8)) > 0
    edge = cv2.morphologyEx(wanted[..., :3].max(axis=2), cv2.MORPH_GRADIENT, np.ones((5, 5), np.uint8)) > 0
    assert np.abs(seen[inner & ~edge].astype(int) - wanted[inner & ~edge]).max() <= 1
    assert (seen[inner][:, 3] == 255).all(), "nothing shows between two shapes"
    groups = [g.get("id") for g in ElementTree.parse(svg).getroot().findall("{http://www.w3.org/2000/svg}g")]
    assert "Kites" in groups


def test_layers_of_a_tiff_laid_over_each_other_are_the_page(demo_book: Path, tmp_path: Path) -> None:
    file, book = open_book(demo_book)
    try:
        box = ((40.0, 40.0), (40.0, 300.0), (200.0, 300.0), (200.0, 40.0))
        verbs.set_effect(book, 1, None, Effect("speed", box, 100.0, 100.0, color="#cc3300"))
        (path,) = export_page(book, derive(file, book, 1), 1, tmp_path, kinds=("tiff-layers",))
    finally:
        file.close()
    with tifffile.TiffFile(path) as tiff:
        names = [page.tags[285].value for page in tiff.pages]
        layers = [page.asarray().astype(float) for page in tiff.pages]
        assert tiff.pages[0].tags["XResolution"].value == (100, 1)
    assert names[:2] == ["As it is seen", "Paper"]
    assert names[-2:] == ["Line", "Effects"], "each kind of line is a layer"
    out = layers[1][..., :3]
    for layer in layers[2:]:
        share = layer[..., 3:] / 255
        out = out * (1 - share) + layer[..., :3] * share
    assert np.abs(out - layers[0][..., :3]).max() <= 3


def test_parts_are_cut_out_as_they_are_seen_with_the_line_round_them(demo_book: Path, tmp_path: Path) -> None:
    with looking_into(demo_book) as (file, book):
        known = derive(file, book, 1)
        kites = next(n for n, part in book.parts().items() if part.name == "Kites")
        mine = {a for a, pot in book.sources(1)[POURS].items() if pot and book.pots()[pot].part == kites}
        inside = np.isin(known.regions.atoms(book.sources(1).line).labels, list(mine))
        ink = known.inks.contour(book.sources(1).line) > 200
        (path, page, ticket) = deliver(
            book, lambda _: known, [1], tmp_path, ("cut-out", "page"), how=How(parts=("kites",))
        )  # fmt: skip
        assert path.name.endswith("-kites-cut.png")
        every = export_targets(book, 1, tmp_path, ("cut-out",))
        assert len(every) == len({target.name for target in every}) > 5
        with pytest.raises(BadInput, match="no part Sea"):
            delivery_targets(book, [1], tmp_path, ("cut-out",), How(parts=("Sea",)))
    out, whole = np.asarray(Image.open(path)), np.asarray(Image.open(page).convert("RGB"))
    assert (out[inside][:, 3] == 255).all()
    assert np.array_equal(out[inside][:, :3], whole[inside])
    near = cv2.dilate(inside.view(np.uint8), np.ones((3, 3), np.uint8)) > 0
    far = cv2.dilate(inside.view(np.uint8), np.ones((25, 25), np.uint8)) == 0
    assert not out[far].any()
    assert (out[near & ~inside & ink][:, 3] > 200).all(), "its outline came whole"
    assert ticket.exists()


@pytest.mark.parametrize("manner", ["hard", "twice as large", "soft edges", "lossy"])
def test_finished_flats_and_their_line_become_the_same_flats_again(
    demo_book: Path, tmp_path: Path, manner: str
) -> None:
    file, book = open_book(demo_book)
    try:
        (flats,) = export_page(book, derive(file, book, 6), 6, tmp_path, kinds=("flats",))
        line = book.sources(6)[SHEETS][0].original
        (tmp_path / "line.png").write_bytes(file.original(line)[1])
    finally:
        file.close()
    wanted = np.asarray(Image.open(flats).convert("RGBA"))
    brought = tmp_path / ("brought.jpg" if manner == "lossy" else "brought.png")
    image, (rows, cols) = Image.fromarray(wanted), wanted.shape[:2]
    if manner == "twice as large":
        image = image.resize((2 * cols, 2 * rows), Image.Resampling.NEAREST)
    elif manner != "hard":
        image = Image.alpha_composite(Image.new("RGBA", image.size, "white"), image).convert("RGB")
        image = image.resize((cols * 2 // 3, rows * 2 // 3), Image.Resampling.LANCZOS)
    image.save(brought, quality=60)
    ran = drip_pot("bring-flats", tmp_path / "new.drip", brought, "--line", tmp_path / "line.png")
    assert ran.returncode == 0, ran.stderr
    assert "colours" in ran.stdout
    assert ("edges were soft" in ran.stdout) == (manner in ("soft edges", "lossy"))
    file, made = open_book(tmp_path / "new.drip")
    try:
        (again,) = export_page(made, derive(file, made, 1), 1, tmp_path / "again", kinds=("flats",))
    finally:
        file.close()
    found = np.asarray(Image.open(again).convert("RGBA"))
    near = 0 if manner != "lossy" else 6
    assert (np.abs(found.astype(int) - wanted).max(axis=2) <= near).mean() > 0.995


def test_a_page_goes_out_in_layers_and_comes_back_with_its_parts_and_passes(tmp_path: Path) -> None:
    shelf = Shelf(two_rooms())
    book, page = shelf.book, shelf.page
    shelf.pour(100, 60, 1)
    other = verbs.add_part(book, "Sky")
    shelf.pour(100, 240, verbs.add_pot(book, "Air", other, "#a0c8f0"))
    number = verbs.add_pass(book, page, "Dusk", "#402080", "multiply", 1.0)
    verbs.mist_pass(shelf.hand, [(60.0, 60.0, 1.0), (150.0, 240.0, 1.0)], 60, 0.8, 0.7, into=number)
    (out,) = export_page(book, shelf.derived, page, tmp_path, kinds=("layers",))
    again = Shelf(two_rooms())
    told = take_layers(again.hand, out)
    assert "passes" in told
    parts = {again.book.parts()[pot.part].name: pot.local for pot in again.book.pots().values()}
    assert parts["Sky"] == "#a0c8f0"
    assert np.abs(again.painted()[..., :3].astype(int) - shelf.painted()[..., :3]).max() <= 2
    assert again.sources[PASSES][max(again.sources[PASSES])].mode == "multiply"
    again.book.undo()
    assert not again.sources[POURS]
    Image.fromarray(np.random.default_rng(2).integers(0, 255, (200, 300, 3), np.uint8)).save(tmp_path / "n.png")
    plain = tmp_path / "plain.ora"
    with zipfile.ZipFile(plain, "w") as archive:
        archive.write(tmp_path / "n.png", "n.png")
        archive.writestr("stack.xml", '<image w="300" h="200"><stack><layer name="Noise" src="n.png"/></stack></image>')
    with pytest.raises(NothingDone, match="group called Flats"):
        take_layers(again.hand, plain)


def test_colours_that_no_line_parts_are_cut_out_and_paintings_refused(tmp_path: Path) -> None:
    page = write_png(tmp_path / "page.png", two_rooms())
    pixels = np.full((200, 300, 3), (250, 220, 10), np.uint8)
    pixels[60:120, 20:60] = (10, 90, 200)
    Image.fromarray(pixels).save(tmp_path / "flats.png")
    ran = drip_pot("bring-flats", tmp_path / "b.drip", tmp_path / "flats.png", "--line", page)
    assert "2 colours, and cut out 1 places" in ran.stdout, ran.stderr
    file, book = open_book(tmp_path / "b.drip")
    try:
        hand = hand_on(file, book, 1)
        pots = {pot.local: n for n, pot in book.pots().items()}
        assert hand.sources[POURS][hand.atom_at(90, 40)] == pots["#0a5ac8"]
        assert hand.sources[POURS][hand.atom_at(150, 40)] == pots["#fadc0a"]
        noise = np.random.default_rng(1).integers(0, 256, (200, 300, 3), np.uint8).repeat(4, 0)[:200]
        Image.fromarray(noise // 24 * 24).save(tmp_path / "noise.png")
        with pytest.raises(BadInput, match="may be a painting"):
            take_flats(hand, read_flats(tmp_path / "noise.png", hand.shape))
        none = np.zeros((200, 300), np.uint8)
        with pytest.raises(NothingDone, match="no flat colours"):
            take_flats(hand, FinishedFlats(np.full((200, 300, 3), 9, np.uint8), none > 0, ("Flats",), none))
        Image.new("RGB", (300, 300)).save(tmp_path / "square.png")
        with pytest.raises(BadInput, match="do not lie on"):
            read_flats(tmp_path / "square.png", hand.shape)
    finally:
        file.close()
    assert "Say either" in drip_pot("bring-flats", tmp_path / "b.drip", tmp_path / "flats.png").stderr
