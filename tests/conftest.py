# SPDX-License-Identifier: GPL-3.0-or-later
"""What tests share: small drawings with known truth, books, the demo book, and a window that cleans up."""

import fcntl
import hashlib
import os
import shutil
import tempfile
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import cv2
import numpy as np
import pytest
from hypothesis import HealthCheck, settings
from PIL import Image

import drip_pot
from drip_pot.book import Book, Derived, InkState, LineState, Page, Picture, SheetLine, verbs
from drip_pot.core.inks import InkSettings, Place
from drip_pot.files import open_book

settings.register_profile(
    "house", deadline=None, max_examples=25, derandomize=True, suppress_health_check=list(HealthCheck)
)
settings.load_profile("house")

PLAIN = InkState(InkSettings(white=252, black=4, even_paper=False))


def plain_line(ink: np.ndarray, original: int = 1, inks: InkState = PLAIN) -> LineState:
    """The line of a page of one sheet."""
    return LineState(*ink.shape, Place(), (SheetLine(original, 0, Place(), inks),))


def two_rooms(gap: int = 0, rows: int = 200, cols: int = 300) -> np.ndarray:
    """Ink of two rooms side by side in a frame; the wall between them, at the middle column, has a gap."""
    ink = np.zeros((rows, cols), np.uint8)
    cv2.rectangle(ink, (20, 20), (cols - 21, rows - 21), 255, 5)
    cv2.line(ink, (cols // 2, 20), (cols // 2, rows - 21), 255, 5)
    if gap:
        middle = rows // 2
        ink[middle - gap // 2 : middle - gap // 2 + gap, cols // 2 - 6 : cols // 2 + 7] = 0
    return ink


def random_drawing(seed: int, size: int = 160) -> np.ndarray:
    """Ink of a few overlapping shapes and loose strokes, anti-aliased."""
    rng = np.random.default_rng(seed)
    ink = np.zeros((size, size), np.uint8)
    for _ in range(int(rng.integers(1, 6))):
        center, radius = rng.integers(20, size - 20, 2), int(rng.integers(8, 50))
        thick = int(rng.integers(1, 6))
        cv2.circle(ink, [int(v) for v in center], radius, 0, -1, cv2.LINE_AA)
        cv2.circle(ink, [int(v) for v in center], radius, 255, thick, cv2.LINE_AA)
    for _ in range(int(rng.integers(0, 5))):
        a, b = rng.integers(0, size, (2, 2)).tolist()
        cv2.line(ink, a, b, int(rng.integers(60, 256)), int(rng.integers(1, 5)), cv2.LINE_AA)
    return ink


def make_book(ink: np.ndarray, dpi: float = 300.0) -> tuple[Book, Derived, int]:
    """A book in memory with one page of this ink, two parts and three pots (numbers 1 to 3)."""
    book = Book()
    figure, ground = verbs.add_part(book, "Figure"), verbs.add_part(book, "Ground")
    verbs.add_pot(book, "Ember", figure, "#e2553a")
    verbs.add_pot(book, "Sky", ground, "#a8d4e0")
    verbs.add_pot(book, "Moss", ground, "#5d7a3a")
    page = verbs.add_page(book, Page("one", *ink.shape, dpi, 1), PLAIN)
    return book, Derived(lambda *_: Picture(255 - ink)), page


def write_png(path: Path, ink: np.ndarray, dpi: float = 300.0) -> Path:
    Image.fromarray(255 - ink).save(path, dpi=(dpi, dpi))
    return path


@pytest.fixture(scope="session")
def demo_master(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo book at 100 dpi, built once for all workers, and once for the same code."""
    from drip_pot.demo.build import build_book

    source = Path(drip_pot.__file__).parent
    code = [path for part in ("core", "book", "files", "demo") for path in sorted((source / part).rglob("*.*"))
            if path.suffix in (".py", ".npz", ".ttf")]  # fmt: skip
    key = hashlib.sha256(b"".join(path.read_bytes() for path in code)).hexdigest()[:16]
    folder = Path(tempfile.gettempdir()) / f"drip-pot-tests-{os.getuid()}"
    folder.mkdir(mode=0o700, exist_ok=True)
    made = folder / f"demo-{key}.drip"
    with (folder / "lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not made.exists():
            for old in folder.glob("demo-*"):
                old.unlink()
            fresh = tmp_path_factory.mktemp("fresh") / "kites.drip"
            build_book(fresh, 100, finished=False)
            shutil.copy(fresh, made.with_suffix(".part"))
            made.with_suffix(".part").rename(made)
        return Path(shutil.copy(made, tmp_path_factory.mktemp("demo") / "kites.drip"))


@pytest.fixture
def demo_book(demo_master: Path, tmp_path: Path) -> Path:
    """A fresh copy of the demo book."""
    return Path(shutil.copy(demo_master, tmp_path / "kites.drip"))


@pytest.fixture(scope="session")
def short_master(demo_master: Path) -> Path:
    """The demo book without most of its frames."""
    path = Path(shutil.copy(demo_master, demo_master.with_name("short.drip")))
    file, book = open_book(path)
    for page in list(book.pages())[7:]:
        verbs.remove_page(book, page)
    file.close()
    return path


@pytest.fixture
def short_book(short_master: Path, tmp_path: Path) -> Path:
    """A fresh copy of it."""
    return Path(shutil.copy(short_master, tmp_path / "kites.drip"))
