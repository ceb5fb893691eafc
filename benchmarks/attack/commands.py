# SPDX-License-Identifier: GPL-3.0-or-later
"""Command lines made of right and wrong words; each must end in a sentence."""

import random
import sys
from pathlib import Path

from attack.made import made_book
from drip_pot.cli import main

_WORDS = (
    "flats",
    "line",
    "export",
    "left",
    "palette",
    "tell",
    "orders",
    "do",
    "picture",
    "rescue",
    "demo",
    "open --help",
    "--version",
    "--help",
    "nothing",
)
_OPTIONS = ("--out", "--page", "--only", "--force", "--gap", "--labels", "--png", "--stage", "--scale", "--json", "--min-region", "--picture",
            "--white", "--black", "--weight", "--specks", "--threshold", "--straighten", "--help")  # fmt: skip
_VALUES = ("1", "0", "-1", "99999999999999999999", "1e400", "nan", "", " ", "auto", "12px", "0.5mm", "page", "plates", "Flats", "flats", "é", "{}", "[]",
           '{"gap_px": 12}', '{"gap_px": "x"}', "set-gap", "pour", "/dev/null", "/dev/zero", "/proc/self/mem", "/", "..", "x" * 300, "\udc80", "--")  # fmt: skip


def case(number: int, folder: Path) -> None:
    """Run one command line."""
    chance = random.Random(number)
    book, picture = made_book(folder), folder / "made.png"
    files = (str(book), str(picture), str(folder / "missing.drip"), str(folder), str(folder / "made.png.png"), "-")
    words = chance.choice(_WORDS).split()
    if words[0] == "demo":
        words += ["--render", str(folder / f"demo{number}"), "--dpi", chance.choice(("0", "-5", "1e9", "nan", "20"))]
    else:
        for _ in range(chance.randint(0, 6)):
            kind = chance.random()
            words.append(
                chance.choice(files)
                if kind < 0.35
                else chance.choice(_OPTIONS)
                if kind < 0.7
                else chance.choice(_VALUES)
            )
        if "--out" not in words and words[0] in ("export", "picture", "line"):
            words += ["--out", str(folder / f"out{number}")]
    sys.argv = ["drip-pot", *words]
    print(words.__repr__().encode("ascii", "backslashreplace").decode())
    main()
