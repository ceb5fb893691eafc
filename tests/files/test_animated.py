# SPDX-License-Identifier: GPL-3.0-or-later
"""Sequences as files that move, read back by others: frames, how long they last, exact colours."""

from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageSequence

from drip_pot.book.values import Sequence
from drip_pot.core.errors import BadInput, CannotWrite
from drip_pot.files import derive, draw_frames, open_book, write_moving
from tests.test_cli import drip_pot

WALK = Sequence("Walk", (1, 2, 3), 10.0, {2: 4})


def drawn() -> dict[int, np.ndarray]:
    rng = np.random.default_rng(3)
    return {page: rng.integers(0, 256, (24, 30, 3), np.uint8) for page in WALK.pages}


@pytest.mark.parametrize(("kind", "name"), [("webp", "walk.webp"), ("apng", "walk.png")])
def test_moving_pictures_have_every_frame_exactly_as_long_as_held(tmp_path: Path, kind: str, name: str) -> None:
    frames = drawn()
    write_moving(tmp_path / name, kind, WALK, frames)
    with Image.open(tmp_path / name) as image:
        assert image.n_frames == 3
        assert image.info["loop"] == 0
        seen, lasting = [], []
        for frame in ImageSequence.Iterator(image):
            seen.append(np.asarray(frame.convert("RGB")))
            lasting.append(frame.info["duration"])
    for page, pixels in zip(WALK.pages, seen, strict=True):
        assert np.array_equal(pixels, frames[page])
    if kind == "apng":  # of WebP Pillow tells the end of a frame, of PNG how long it lasts
        assert lasting == [100, 400, 100]


def test_numbered_frames_repeat_what_is_held_and_a_strip_has_each_once(tmp_path: Path) -> None:
    frames = drawn()
    written = write_moving(tmp_path / "walk", "frames", WALK, frames)
    assert [path.name for path in written] == [f"{n:04d}.png" for n in range(1, 7)]
    for path, page in zip(written, WALK.shown(), strict=True):
        assert np.array_equal(np.asarray(Image.open(path)), frames[page])
    write_moving(tmp_path / "strip.png", "strip", WALK, frames)
    strip = np.asarray(Image.open(tmp_path / "strip.png"))
    assert np.array_equal(strip[12:36, 12:42], frames[1])
    assert np.array_equal(strip[12:36, -42:-12], frames[3])
    assert (strip[:12] == 255).all()


def test_what_cannot_be_written_leaves_what_was_there(tmp_path: Path) -> None:
    (tmp_path / "walk").write_text("mine")
    with pytest.raises(CannotWrite, match="Choose another folder"):
        write_moving(tmp_path / "walk", "frames", WALK, drawn())
    assert (tmp_path / "walk").read_text() == "mine"
    with pytest.raises(BadInput, match="not written as gif"):
        write_moving(tmp_path / "walk.gif", "gif", WALK, drawn())


def test_a_sequence_of_the_demo_is_drawn_and_written_from_the_command_line(demo_book: Path, tmp_path: Path) -> None:
    file, book = open_book(demo_book)
    try:
        _, known = next(iter(book.sequences().items()))
        short = Sequence("Two", known.pages[:2])
        frames = draw_frames(book, lambda page: derive(file, book, page), short, 90)
        assert [f.shape for f in frames.values()] == [(90, 90, 3)] * 2
        bare = draw_frames(book, lambda page: derive(file, book, page), short, 90, clear=True)
        for page, frame in frames.items():
            solid = bare[page][..., 3] == 255
            assert solid.any()
            assert (bare[page][..., 3] == 0).any(), "where the paper shows"
            assert np.abs(bare[page][solid][:, :3].astype(int) - frame[solid]).max() <= 2
        smooth = draw_frames(book, lambda page: derive(file, book, page), short, 360, clear=True, smooth=True)
        whole = draw_frames(book, lambda page: derive(file, book, page), short, 360, smooth=True)
        for page, frame in smooth.items():
            laid = Image.alpha_composite(Image.new("RGBA", frame.shape[1::-1], "white"), Image.fromarray(frame))
            apart = np.abs(np.asarray(laid)[..., :3].astype(int) - whole[page])
            assert (apart.max(axis=2) > 3).mean() < 0.002, "the same page, whatever lies below"
        with pytest.raises(BadInput, match="16 to 4096 px"):
            draw_frames(book, lambda page: derive(file, book, page), short, 9)
    finally:
        file.close()
    out = tmp_path / "turning.webp"
    ran = drip_pot("animate", demo_book, "--out", out, "--height", 64)
    assert ran.returncode == 0, ran.stderr
    assert "12 frames of 64 × 64 px, 12 a second" in ran.stdout
    with Image.open(out) as image:
        assert (image.format, image.n_frames) == ("WEBP", 12)
    clear = tmp_path / "turning.png"
    assert drip_pot("animate", demo_book, "--out", clear, "--height", 48, "--clear").returncode == 0
    with Image.open(clear) as image:
        for frame in range(image.n_frames):
            image.seek(frame)
            least, most = image.convert("RGBA").getchannel("A").getextrema()
            assert least == 0
            assert most > 150, "a thin thing at 48 px"
    again = drip_pot("animate", demo_book, "--out", out)
    assert again.returncode == 1
    assert "exists already" in again.stderr
    odd = drip_pot("animate", demo_book, "--out", tmp_path / "turning.mov")
    assert "tells no kind" in odd.stderr
