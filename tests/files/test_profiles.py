# SPDX-License-Identifier: GPL-3.0-or-later
"""Press profiles of others: read, printed by, embedded, refused; held against the profile itself by LittleCMS."""

import io
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import tifffile
from PIL import Image, ImageCms

from drip_pot.book import Book, verbs
from drip_pot.book.values import PRESS
from drip_pot.core.errors import BadInput, DripPotError, Unreadable
from drip_pot.core.press import BUILT_IN, CONDITIONS, PressSettings, icc_profile, learn, separate_colors
from drip_pot.files import deliver, misses, name_of, profiles_found, read_condition
from tests.book.test_sheets import Shelf
from tests.conftest import two_rooms

OTHERS = Path("/usr/share/color/icc/ghostscript/default_cmyk.icc")
SRGB = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB"))


@pytest.fixture(params=["ours", "theirs"])
def profile(request: pytest.FixtureRequest) -> bytes:
    """A profile that is not built in: one of a low limit of ours, and one that came with another program."""
    if request.param == "ours":
        return icc_profile(PressSettings(condition="uncoated", ink_limit=260))
    if not OTHERS.is_file():
        pytest.skip("no CMYK profile of others on this system")
    return OTHERS.read_bytes()


def test_a_profile_becomes_a_condition_that_prints_as_it_says(profile: bytes) -> None:
    condition = read_condition(profile, "press.icc")
    assert misses(condition) < 1.5
    name = name_of(condition)
    assert learn(name, condition)
    rng = np.random.default_rng(4)
    wanted = rng.integers(90, 190, (60, 3)).astype(np.uint8)  # what any press can print
    cmyk, _ = separate_colors(wanted, PressSettings(condition=name))
    theirs = ImageCms.ImageCmsProfile(io.BytesIO(profile))
    seen = ImageCms.profileToProfile(Image.frombytes("CMYK", (60, 1), cmyk.tobytes()), theirs, SRGB,
                                     renderingIntent=1, outputMode="RGB")  # fmt: skip
    off = np.abs(np.asarray(seen)[0].astype(int) - wanted).mean()
    assert off < 6, "of 255, as another program shows our plates"


def test_the_profile_is_kept_in_the_book_named_and_embedded(profile: bytes, tmp_path: Path) -> None:
    shelf = Shelf(two_rooms(rows=240, cols=320))
    shelf.pour(100, 60, 1)
    condition = read_condition(profile, "press.icc")
    name = name_of(condition)
    verbs.use_profile(shelf.book, shelf.page, name, condition)
    assert shelf.book.sources(shelf.page)[PRESS].condition == name
    written = deliver(shelf.book, lambda _: shelf.derived, [shelf.page], tmp_path, ("plates",))
    with tifffile.TiffFile(written[0]) as file:
        assert bytes(file.pages[0].tags[34675].value) == profile
    assert condition.title in written[-1].read_text()
    values = shelf.book.values()
    from drip_pot.book.store import MemoryContents

    again = Book(None, MemoryContents(values, {}))
    assert again.sources(shelf.page)[PRESS].condition == name
    assert CONDITIONS[name] == condition
    assert not again.unread_shared()
    assert not learn(name, replace(condition, ink_limit=200)), "a name never changes its meaning"
    assert CONDITIONS[name] == condition
    shelf.book.undo()
    assert shelf.book.sources(shelf.page)[PRESS].condition in BUILT_IN


@pytest.mark.parametrize(
    ("data", "kind", "words"),
    [
        (b"", Unreadable, "no ICC profile"),
        (b"x" * 400, Unreadable, "no ICC profile"),
        (SRGB.tobytes(), BadInput, "for RGB, not for CMYK"),
        (b"\0" * (9 << 20), BadInput, "up to 8 MB"),
        (icc_profile(PressSettings())[:3000], Unreadable, "damaged"),
        (icc_profile(PressSettings())[:128] + b"\xff" * 3000, Unreadable, "damaged"),
    ],
)
def test_what_is_no_profile_of_a_press_is_refused(data: bytes, kind: type[DripPotError], words: str) -> None:
    with pytest.raises(kind, match=words):
        read_condition(data, "odd.icc")


def test_profiles_on_the_system_are_those_for_four_inks() -> None:
    assert all(path.read_bytes()[16:20] == b"CMYK" for path in profiles_found())
