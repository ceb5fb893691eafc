# SPDX-License-Identifier: GPL-3.0-or-later
"""Palette files: three open formats there and back, and junk told by line."""

from pathlib import Path

import pytest

from drip_pot.core.errors import BadInput, CannotWrite, Unreadable
from drip_pot.files import PALETTE_SUFFIXES, Ink, read_palette, write_palette

INKS = [Ink("Ember", "#d9482b", "Wren", "#801020"), Ink("Pale, cold", "#a8d4e0", "Sky")]


@pytest.mark.parametrize("suffix", PALETTE_SUFFIXES)
def test_palettes_are_written_and_read_back(tmp_path: Path, suffix: str) -> None:
    path = tmp_path / f"wren{suffix}"
    write_palette(path, INKS)
    found, problems = read_palette(path)
    assert problems == []
    if suffix == ".txt":
        assert [(i.name, i.local) for i in found] == [(i.name, i.local) for i in INKS]
    else:
        assert found == INKS


@pytest.mark.parametrize(
    ("name", "text", "colors", "problem"),
    [
        ("a.txt", "#d9482b Ember\n\nCoat: #112233\njunk here\n#12345\n", ["#d9482b", "#112233"], "Line 4"),
        ("b.csv", "local,name\n#d9482b,Ember\nred,Coat\n,\n", ["#d9482b"], "Line 3: 'red' is not a colour"),
        ("c.csv", "Ember,Wren,#d9482b,\n", ["#d9482b"], ""),
        ("d.json", '[{"name": "Ember", "local": "#d9482b"}, 7, {"local": 3}]', ["#d9482b"], "Line 2"),
        ("e.txt", "\ufeff#D9482B\n", ["#d9482b"], ""),
    ],
)
def test_junk_is_left_out_and_told(tmp_path: Path, name: str, text: str, colors: list[str], problem: str) -> None:
    path = tmp_path / name
    path.write_text(text, encoding="utf-8")
    found, problems = read_palette(path)
    assert [ink.local for ink in found] == colors
    assert bool(problems) == bool(problem)
    assert not problem or problems[0].startswith(problem)


@pytest.mark.parametrize(
    ("name", "data", "wrong"),
    [
        ("a.txt", b"", "no colour in it"),
        ("b.txt", b"\xff\xfe\x00junk", "is not text"),
        ("c.json", b"{", "is not JSON"),
        ("d.json", b'{"a": 1}', "should be a list"),
        ("e.json", b"[" * 50_000, "is not JSON"),
        ("f.csv", b'name,local\n"unfinished', "no colour in it"),
    ],
)
def test_files_without_a_palette_are_refused_in_a_sentence(tmp_path: Path, name: str, data: bytes, wrong: str) -> None:
    path = tmp_path / name
    path.write_bytes(data)
    with pytest.raises(Unreadable, match=wrong):
        read_palette(path)


def test_other_suffixes_and_places_are_refused(tmp_path: Path) -> None:
    with pytest.raises(BadInput, match="A palette is written as"):
        write_palette(tmp_path / "a.png", INKS)
    (tmp_path / "wall").write_text("")
    with pytest.raises(CannotWrite, match="cannot be written"):
        write_palette(tmp_path / "wall" / "a.txt", INKS)
    with pytest.raises(Unreadable, match="cannot be opened"):
        read_palette(tmp_path / "none.txt")
