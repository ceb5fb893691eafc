# SPDX-License-Identifier: GPL-3.0-or-later
"""Verbs on a book: its name, parts and pots, the tone rule. Knows no window, no file."""

import msgspec

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.numbers import PartNumber, PotNumber
from drip_pot.book.values import INFO, PARTS, POTS, SCHEMES, TONE_RULE, BookInfo, Part, Pot
from drip_pot.book.verbs.setting import named, next_number, put
from drip_pot.core.color import ToneRule, from_hex
from drip_pot.core.errors import BadInput
from drip_pot.words import say


@order
def name_book(book: Book, title: str) -> None:
    """Give the book a title."""
    put(book, "name-book", say("Name the book {0}", title), (INFO.key, BookInfo(named(title, "book"))))


@order
def add_part(book: Book, name: str) -> int:
    """Add a part at the end of the shelf; return its number."""
    number = next_number(book, PARTS)
    order = max((p.order for p in book.parts().values()), default=-1) + 1
    put(book, "add-part", say("Add part {0}", name), (PARTS.key(number), Part(named(name, "part"), order)))
    return number


@order
def add_pot(book: Book, name: str, part: PartNumber, local: str) -> int:
    """Add a pot at the end of its part; return its number."""
    from_hex(local)
    number = next_number(book, POTS)
    order = max((p.order for p in book.pots().values() if p.part == part), default=-1) + 1
    pot = Pot(named(name, "pot"), part, local, None, order)
    put(book, "add-pot", say("Add pot {0}", pot.name), (POTS.key(number), pot))
    return number


@order
def set_pot(book: Book, number: PotNumber, pot: Pot, *, in_scheme: bool = False) -> None:
    """Change a pot's name, part or colours; a new name holds in every scheme that had the old one, or in the one alone.

    Raises `BadInput` for what is no colour or no name.
    """
    old = book.read(POTS.key(number), Pot)
    for color in (pot.local, pot.shadow):
        if color is not None:
            from_hex(color)
    named(pot.name, "pot")
    text = "Recolour {0}" if (old.local, old.shadow) != (pot.local, pot.shadow) else "Rename a pot {0}"
    kept = old.name if in_scheme else pot.name
    schemes = [] if old.name == pot.name else [
        (SCHEMES.key(n), msgspec.structs.replace(scheme, pots={
            **scheme.pots, number: msgspec.structs.replace(scheme.pots[number], name=kept)}))
        for n, scheme in book.schemes().items()
        if n != book.scheme and number in scheme.pots and scheme.pots[number].name in ("", old.name)
    ]  # fmt: skip
    put(book, "set-pot", say(text, pot.name), (POTS.key(number), pot), *schemes)


@order
def rename_part(book: Book, number: PartNumber, name: str) -> None:
    """Rename a part."""
    part = book.read(PARTS.key(number), Part)
    put(
        book,
        "rename-part",
        say("Rename {0} to {1}", part.name, name),
        (PARTS.key(number), msgspec.structs.replace(part, name=named(name, "part"))),
    )


@order
def set_tone(book: Book, tone: ToneRule) -> None:
    """Change how shadows are worked out, for every pot without a shadow of its own."""
    _check(tone)
    put(book, "set-tone", "Change the tone rule", (TONE_RULE.key, tone))


@order
def set_part_tone(book: Book, number: PartNumber, tone: ToneRule | None) -> None:
    """Give a part its own way of working out shadows, or (None) let it follow the book's."""
    part = book.read(PARTS.key(number), Part)
    if tone is not None:
        _check(tone)
    title = f"{'Follow the book with' if tone is None else 'Change the tone rule of'} {part.name}"
    put(book, "set-part-tone", title, (PARTS.key(number), msgspec.structs.replace(part, tone=tone)))


def _check(tone: ToneRule) -> None:
    from_hex(tone.key)
    fields = (("darker_l", 60, "is darker by 0 to 60 L"), ("hue_deg", 360, "turns toward 0 to 360°"),
              ("turn_deg", 60, "turns by 0 to 60°"), ("tint", 0.1, "mixes in a chroma of 0 to 0.1"),
              ("apart_de", 12, "stays 0 to 12 ΔE from other pots"))  # fmt: skip
    for name, most, says in fields:
        if not 0 <= getattr(tone, name) <= most:
            raise BadInput("A shadow {0}, not {1:g}.", says, getattr(tone, name))


@order
def work_out_shadow(book: Book, number: PotNumber) -> None:
    """Let the tone rule work out the shadow of a pot again."""
    set_pot(book, number, msgspec.structs.replace(book.read(POTS.key(number), Pot), shadow=None))
