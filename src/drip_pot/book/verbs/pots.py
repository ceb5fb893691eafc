# SPDX-License-Identifier: GPL-3.0-or-later
"""Pots moved, merged, mixed and made anew from what is on the page. Knows the book; no window, no file.

What concerns many pots is one edit, so that it is taken back at once.
"""

from collections.abc import Iterable, Sequence

import msgspec
import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.numbers import AtomNumber, PartNumber, PotNumber, PouredNumber
from drip_pot.book.store import Edit
from drip_pot.book.values import BALLOON, DEPTHS, INK_SETS, PARTS, PASSES, PINS, POTS, POURS, SEEDS, InkSet, Part, Pot
from drip_pot.book.verbs.setting import next_number, put
from drip_pot.core.color import from_hex, mixed, oklab_to_srgb8, shifted, srgb8_to_oklab, to_hex
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.words import say, say_many

_KEYS = 9
_PROCESS, _LONG_INK = {"cyan", "magenta", "yellow", "black", "all", "none"}, 60
_MOST_STEPS, _DARKEST, _LIGHTEST = 7, 0.08, 0.99


class _Changes:
    """Changes to pots and pours gathered into one edit."""

    def __init__(self, book: Book) -> None:
        self.book = book
        self.pots = dict(book.pots())
        self.parts = dict(book.parts())
        self.pairs: dict[str, object] = {}
        self._next_pot, self._next_part = next_number(book, POTS), next_number(book, PARTS)

    def set(self, number: int, pot: Pot | None) -> None:
        self.pairs[POTS.key(number)] = pot
        if pot is None:
            self.pots.pop(number, None)
            self.forget_depths(number, parts=False)
        else:
            self.pots[number] = pot

    def forget_depths(self, number: int, *, parts: bool) -> None:
        """Forget what was said to lie in front of a pot or part that goes, and behind it."""
        said = self.book.depths().items()
        gone = [n for n, depth in said if depth.parts == parts and number in (depth.front, depth.behind)]
        self.pairs |= dict.fromkeys(map(DEPTHS.key, gone))

    def add(self, pot: Pot, after: int | None = None) -> int:
        """Add a pot, right after another of its part or at the end of it."""
        number, self._next_pot = self._next_pot, self._next_pot + 1
        members = [n for n in _members(self.pots, pot.part) if n != number]
        place = members.index(after) + 1 if after in members else len(members)
        self.pots[number] = pot
        self.order([*members[:place], number, *members[place:]])
        return number

    def order(self, members: Sequence[int]) -> None:
        for place, number in enumerate(members):
            pot = msgspec.structs.replace(self.pots[number], order=place)
            if pot != self.pots[number] or number not in self.book.pots():
                self.set(number, pot)

    def part(self, name: str) -> int:
        """Return the part of a name; it is added where there is none."""
        for number, part in self.parts.items():
            if part.name == name:
                return number
        number, self._next_part = self._next_part, self._next_part + 1
        order = max((p.order for p in self.parts.values()), default=-1) + 1
        self.pairs[PARTS.key(number)] = self.parts[number] = Part(name, order)
        return number

    def pour(self, page: int, atoms: Iterable[int], pot: int | None) -> None:
        self.pairs |= {POURS.key(page, atom): pot for atom in atoms}

    def done(self, name: str, title: str) -> None:
        self.book.apply(Edit(name, title, tuple(self.book.change(k, v) for k, v in self.pairs.items())))


def _members(pots: dict[int, Pot], part: int) -> list[int]:
    return sorted((n for n, p in pots.items() if p.part == part), key=lambda n: (pots[n].order, n))


def _fresh_name(pots: dict[int, Pot], name: str) -> str:
    known = {pot.name for pot in pots.values()}
    base = name.rsplit(" ", 1)[0] if name.rsplit(" ", 1)[-1].isdigit() else name
    return next(n for n in (f"{base} {k}" for k in range(2, 10_000)) if n not in known)


@order
def move_pot(book: Book, number: PotNumber, part: PartNumber, place: int) -> None:
    """Move a pot to a place (0 is the first) within a part."""
    changes = _Changes(book)
    pot = changes.pots[number]
    changes.pots[number] = msgspec.structs.replace(pot, part=part)
    members = [n for n in _members(changes.pots, part) if n != number]
    place = min(max(place, 0), len(members))
    changes.set(number, changes.pots[number])
    changes.order([*members[:place], number, *members[place:]])
    to = changes.parts[part].name
    changes.done("move-pot", say("Move {0} to {1}", pot.name, to) if part != pot.part else say("Move {0}", pot.name))


@order
def remove_pot(book: Book, number: PotNumber, into: PotNumber | None) -> None:
    """Remove a pot; on every page its regions go to another pot, or become paper (None)."""
    if into == number:
        raise BadInput("A pot cannot be merged into itself. Choose another one.")
    changes = _Changes(book)
    pot = changes.pots[number]
    changes.set(number, None)
    for page in book.pages():
        changes.pour(page, [atom for atom, in_pot in book.sources(page)[POURS].items() if in_pot == number], into)
    merged = say("Remove pot {0}", pot.name)
    if into is not None:
        merged = say("Merge {0} into {1}", pot.name, changes.pots[into].name)
    changes.done("remove-pot", merged)


@order
def pin_pot(book: Book, page: int, key: int, number: PotNumber | None) -> None:
    """Pin a pot to a number key, 1 to 9, of a page, whichever part is in hand; None frees the key.

    A pot has one key: it loses the one it had. Raises `BadInput` for another key, `NothingDone` where it is so.
    """
    if not 1 <= key <= _KEYS:
        raise BadInput("Pots are pinned to the keys 1 to {0}, not {1}.", _KEYS, key)
    known, pots = book.sources(page)[PINS], book.pots()
    if known.get(key) == number:
        raise NothingDone("It is so already; nothing was changed.")
    gone = {k: None for k, pot in known.items() if pot == number}
    name = pots[known[key]].name if number is None and known[key] in pots else ""
    title = say("Free the key of {0}", name) if number is None else say("Pin {0} to a key", pots[number].name)
    put(book, "pin-pot", title, *((PINS.key(page, k), pot) for k, pot in (gone | {key: number}).items()))


def unused_pots(book: Book) -> list[int]:
    """Return the pots that no region, seed or scope of any page has, in the order of the shelf; it reads every page."""
    used: set[int | None] = set()
    for page in book.pages():
        sources = book.sources(page)
        used.update(sources[POURS].values())
        used.update(seed.pot for seed in sources[SEEDS].values())
        used.update(pot for one in sources[PASSES].values() for pot in one.scope.pots)
    return [number for number in book.pots() if number not in used]


@order
def remove_unused_pots(book: Book) -> int:
    """Remove all pots that colour nothing on any page; return how many."""
    unused = unused_pots(book)
    if not unused:
        raise NothingDone("Every pot is in use on some page.")
    changes = _Changes(book)
    for number in unused:
        changes.set(number, None)
    title = say_many("Remove an unused pot", "Remove {0} unused pots", len(unused), len(unused))
    changes.done("remove-unused-pots", title)
    return len(unused)


@order
def move_part(book: Book, part: PartNumber, step: int) -> None:
    """Move a part along the shelf: -1 is one place to the left."""
    parts = book.parts()
    order = list(parts)
    place = order.index(part)
    target = min(max(place + step, 0), len(order) - 1)
    if target == place:
        return
    order.insert(target, order.pop(place))
    changes = _Changes(book)
    changes.pairs |= {PARTS.key(n): msgspec.structs.replace(parts[n], order=k) for k, n in enumerate(order)}
    changes.done("move-part", say("Move part {0}", parts[part].name))


@order
def remove_part(book: Book, part: PartNumber, into: PartNumber | None) -> None:
    """Remove a part; its pots go to another part. Only an empty part is removed without one."""
    changes = _Changes(book)
    members, name = _members(changes.pots, part), changes.parts[part].name
    if members and (into is None or into == part):
        raise BadInput("{0} has pots in it. Choose the part they go to.", name)
    for place, number in enumerate(members):
        changes.set(number, msgspec.structs.replace(changes.pots[number], part=into or 0, order=10_000 + place))
    if into is not None:
        changes.order(_members(changes.pots, into))
    changes.pairs[PARTS.key(part)] = None
    changes.forget_depths(part, parts=True)
    changes.done("remove-part", say("Remove part {0}", name))


@order
def add_pots(book: Book, part: str, colors: Sequence[tuple[str, str]]) -> list[int]:
    """Add pots of (name, '#rrggbb') to the part of a name, which is added where it is new; return their numbers."""
    name = " ".join(part.split())
    if not name or not colors:
        raise BadInput("Pots need a part, and at least one colour.")
    changes = _Changes(book)
    number = changes.part(name)
    added = []
    for called, color in colors:
        added.append(changes.add(Pot(" ".join(called.split()) or color, number, to_hex(from_hex(color)))))
    title = say_many("Add pot {2}", "Add {0} pots to {1}", len(added), len(added), name, colors[0][0])
    changes.done("add-pots", title)
    return added


@order
def set_pot_inks(
    book: Book, number: PotNumber, inks: tuple[int, int, int, int] | None,
    shadow_inks: tuple[int, int, int, int] | None = None, spot: str = "",
) -> None:  # fmt: skip
    """Fix the inks of a pot in whole per cent, in light and in shadow; None has them worked out.

    With a `spot`, the name of an ink beside the four, it is printed with a solid of that, and with the inks given as
    well.
    """
    pot, name = book.read(POTS.key(number), Pot), " ".join(spot.split())
    for given in (inks, shadow_inks):
        if given is not None and not all(0 <= share <= 100 for share in given):
            raise BadInput("Inks are 0 to 100 % each, in whole per cent.")
    if shadow_inks is not None and inks is None and not name:
        raise BadInput("Fix the inks of the pot in light before those of its shadow.")
    if name.lower() in _PROCESS or not name.isprintable() or len(name) > _LONG_INK:
        raise BadInput("An ink of its own cannot be called '{0}'. Choose another name.", name[:_LONG_INK])
    changed = msgspec.structs.replace(pot, inks=inks, shadow_inks=shadow_inks, spot=name)
    change = book.change(POTS.key(number), changed)
    book.apply(Edit("set-pot-inks", say("Set the inks of {0}", pot.name), (change,)))


@order
def mix_pour(
    book: Book, page: int, atoms: Iterable[AtomNumber], pot: PouredNumber | None, strength: float, regions: int = 1
) -> None:
    """Mix a pot (None is paper) into what atoms have, by 0..1; each mix becomes a pot beside the one it was.

    Mixes made before are used again, so that flats stay countable. What is paper takes the pot mixed with white.
    `regions` is said in the title.
    """
    if not 0 < strength <= 1:
        raise BadInput("Strength goes from 1 to 100 %, not {0:g} %.", strength * 100)
    pot = None if pot == BALLOON else pot
    changes, pours = _Changes(book), book.sources(page)[POURS]
    groups: dict[int | None, list[int]] = {}
    for atom in atoms:
        groups.setdefault(pours.get(atom), []).append(atom)
    over = changes.pots[pot].local if pot is not None else "#ffffff"
    name = changes.pots[pot].name if pot is not None else "Paper"
    for was, members in groups.items():
        known = changes.pots.get(was or BALLOON)
        under = known.local if known is not None else "#ffffff"
        if was in (BALLOON, pot) or under == over:
            continue
        color = to_hex(mixed(from_hex(under), from_hex(over), strength))
        part = known.part if known is not None else changes.pots[pot].part if pot is not None else 0
        called = f"{known.name if known is not None else 'Paper'} + {strength * 100:.0f} % {name}"
        same = [n for n, p in changes.pots.items() if (p.name, p.local, p.part) == (called, color, part)]
        new = same[0] if same else changes.add(Pot(called, part, color), was if known is not None else pot)
        changes.pour(page, members, new)
    if not changes.pairs:
        raise BadInput("There is nothing here to mix into.")
    title = say_many("Mix {0:.0f} % {1} into a region", "Mix {0:.0f} % {1} into {2} regions", regions,
                     strength * 100, name, regions)  # fmt: skip
    changes.done("mix", title)


def _by_pot(book: Book, page: int, atoms: Iterable[int]) -> dict[int, tuple[list[int], bool]]:
    """Group atoms by pot, and say whether they are all that this page has of it."""
    pours = book.sources(page)[POURS]
    chosen = set(atoms)
    groups: dict[int, list[int]] = {}
    for atom in sorted(chosen):
        if pours.get(atom, BALLOON) != BALLOON:
            groups.setdefault(pours[atom], []).append(atom)
    if not groups:
        raise BadInput("Nothing that is picked has a pot. Pour it first.")
    return {pot: (mine, all(a in chosen for a, p in pours.items() if p == pot)) for pot, mine in groups.items()}


@order
def series(book: Book, pot: PotNumber, count: int = 5, *, lighter: bool = False) -> list[int]:
    """Add three to seven even steps of a pot's hue after it, ever darker, or lighter; return their numbers.

    The steps are even in the lightness of OKLab and end short of black, or of white; chroma goes with them as far as
    it can be shown.
    """
    if not 3 <= count <= _MOST_STEPS:
        raise BadInput("A series has 3 to {0} steps, not {1}.", _MOST_STEPS, count)
    changes = _Changes(book)
    one = changes.pots[pot]
    lab = srgb8_to_oklab(from_hex(one.local))
    end = _LIGHTEST if lighter else _DARKEST
    made, last = [], pot
    for step in range(1, count + 1):
        light = lab[0] + (end - lab[0]) * step / (count + 0.5)
        fade = 1 - 0.35 * step / count if lighter else 1 - 0.15 * step / count
        name = _fresh_name(changes.pots, one.name)
        color = to_hex(oklab_to_srgb8(np.array([light, lab[1] * fade, lab[2] * fade])))
        last = changes.add(Pot(name, one.part, color), last)
        made.append(last)
    changes.done(
        "series", say("Series of {0} lighter than {1}" if lighter else "Series of {0} darker than {1}", count, one.name)
    )
    return made


@order
def shift_colors(
    book: Book, page: int, atoms: Iterable[AtomNumber], light: float, chroma: float, hue_deg: float
) -> None:
    """Shift the colours of atoms: lightness -1..1, a factor of chroma, a turn of hue.

    A pot of which all regions on the page are meant is changed itself; of others a new pot is made beside it.
    """
    changes, groups = _Changes(book), _by_pot(book, page, atoms)
    for number, (members, whole) in groups.items():
        pot = changes.pots[number]
        pair = {
            name: None if color is None else to_hex(shifted(from_hex(color), light, chroma, hue_deg))
            for name, color in (("local", pot.local), ("shadow", pot.shadow))
        }
        changed = msgspec.structs.replace(pot, **pair)
        if whole:
            changes.set(number, changed)
        else:
            named = msgspec.structs.replace(changed, name=_fresh_name(changes.pots, pot.name))
            changes.pour(page, members, changes.add(named, number))
    changes.done("shift-colors", "Shift the colours of what is picked")


@order
def own_pot(book: Book, page: int, atoms: Iterable[AtomNumber]) -> int:
    """Give atoms a pot of their own in the colour most of them have; return its number."""
    changes, groups = _Changes(book), _by_pot(book, page, atoms)
    number = max(groups, key=lambda n: len(groups[n][0]))
    pot = msgspec.structs.replace(changes.pots[number], name=_fresh_name(changes.pots, changes.pots[number].name))
    new = changes.add(pot, number)
    changes.pour(page, [a for members, _ in groups.values() for a in members], new)
    changes.done("own-pot", say("Make a pot of its own, {0}", pot.name))
    return new


@order
def to_part(book: Book, page: int, atoms: Iterable[AtomNumber], part: PartNumber) -> None:
    """Move what atoms have to a part: whole pots go over, of others a new pot is made there."""
    changes, groups = _Changes(book), _by_pot(book, page, atoms)
    for number, (members, whole) in groups.items():
        pot = changes.pots[number]
        if pot.part == part:
            continue
        if whole:
            changes.set(number, msgspec.structs.replace(pot, part=part, order=10_000 + number))
        else:
            copy = msgspec.structs.replace(pot, part=part, name=_fresh_name(changes.pots, pot.name))
            changes.pour(page, members, changes.add(copy))
    if not changes.pairs:
        raise BadInput("All that is picked belongs to {0} already.", changes.parts[part].name)
    changes.order(_members(changes.pots, part))
    changes.done("to-part", say("Move what is picked to {0}", changes.parts[part].name))


@order
def keep_ink_set(book: Book, name: str, inks: Sequence[tuple[str, str]]) -> int:
    """Keep a list of real inks under a name, in place of one of the same name; an empty list removes it."""
    name = " ".join(name.split())
    if not name:
        raise BadInput("A set of inks needs a name.")
    known = book.ink_sets()
    number = next((n for n, s in known.items() if s.name == name), next_number(book, INK_SETS))
    kept = InkSet(name, tuple((called, to_hex(from_hex(color))) for called, color in inks)) if inks else None
    title = say("Keep the inks {0}", name) if inks else say("Forget the inks {0}", name)
    book.apply(Edit("ink-set", title, (book.change(INK_SETS.key(number), kept),)))
    return number
