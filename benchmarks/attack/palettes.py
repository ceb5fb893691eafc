# SPDX-License-Identifier: GPL-3.0-or-later
"""Hostile palettes: text, CSV and JSON made wrong, and read."""

import random
from pathlib import Path

from attack.damage import damaged
from drip_pot.files import read_palette

_WHOLE = (
    ("a.txt", b"#d9482b Ember\n#a8d4e0 Sky\nMoss: #5d7a3a\n" * 20),
    ("b.csv", b"name,part,local,shadow\nEmber,Wren,#d9482b,#7a2240\nSky,Air,#a8d4e0,\n" * 9),
    (
        "c.json",
        b'[{"name": "Ember", "part": "Wren", "local": "#d9482b", "shadow": null}, {"name": "Sky", "local": "#a8d4e0"}]',
    ),
)
_ODD = (
    b" " * 2000,
    b"\xff\xfe",
    b"\x00",
    b"#" * 3000,
    b"[" * 5000,
    b"9" * 6000,
    b'"' * 999,
    "é".encode("latin-1"),
    b",\n" * 3000,
)


def case(number: int, folder: Path) -> None:
    """Read one damaged palette."""
    chance = random.Random(number)
    name, data = chance.choice(_WHOLE)
    data = damaged(data, chance.choice(_WHOLE)[1], chance)
    if chance.random() < 0.5:
        at = chance.randint(0, len(data))
        data = data[:at] + chance.choice(_ODD) + data[at:]
    path = folder / name
    path.write_bytes(data)
    read_palette(path)
