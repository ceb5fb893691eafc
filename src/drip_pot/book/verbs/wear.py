# SPDX-License-Identifier: GPL-3.0-or-later
"""Verbs on old stock, and on what is rubbed out of plates and of wear. Knows no window, no file."""

import math

import msgspec
import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.hand import Hand
from drip_pot.book.numbers import AtomNumber, OriginalNumber
from drip_pot.book.own_inks import spots_on
from drip_pot.book.store import Change, Edit, TileChange
from drip_pot.book.values import FIRST_SPOT, KEPT_NEW, MOST_SPOTS, RUBBED, RUBBED_SPOTS, WEAR
from drip_pot.book.verbs.cutting import Reach, leashed_from
from drip_pot.book.verbs.setting import put
from drip_pot.core.arrays import U8, Rect
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.press import MOST_STEPS, PRESETS, PaperTexture, Wear, WearKind, WearStep
from drip_pot.core.render import Placed, laid_in
from drip_pot.core.shade import laid, mist
from drip_pot.words import listed, say

NOWHERE: set[int] = set()
_NAMES, _COVERS, _USUAL_LPI, _USUAL_SHARE = ("cyan", "magenta", "yellow", "black"), 0.9, 65.0, 0.4
_SMALLEST, _LARGEST = 0.02, 50.0


@order
def rub_plates(
    hand: Hand, plates: tuple[int, ...], points: list[tuple[float, float, float]], width_px: float,
    softness: float = 0.5, flow: float = 1.0, *, spots: tuple[str, ...] = (), away: bool = False, only: AtomNumber = 0,
    reach: Reach = "region", inside: set[AtomNumber] = NOWHERE,
) -> None:  # fmt: skip
    """Rub ink out of some plates (0 is cyan, 3 black, `spots` by name) under a stroke (row, col, pressure).

    What is separated stays as it is; `away` takes back what was rubbed out. It stays in the atoms `inside`, if there
    are any, and, from an atom `only` on, in its region, pot or part (`reach`).
    """
    if not (plates or spots) or not all(0 <= plate < len(_NAMES) for plate in plates):
        raise BadInput("Ink is rubbed out of cyan (0), magenta (1), yellow (2) or black (3), or of inks by name.")
    known, changes = _places_of(hand.book, hand.page, spots)
    rect, cover = _stroked(hand, points, width_px, softness, flow, only, reach, inside)
    names = [RUBBED.key(hand.page, n) for n in (*dict.fromkeys(plates), *known)]
    what = listed([*(_NAMES[plate] for plate in dict.fromkeys(plates)), *spots])
    title = say("Put back {0}", what) if away else say("Rub out {0}", what)
    hand.book.apply(Edit("rub-plates", title, changes, _rubbed(hand.book, names, rect, cover, away=away)))


@order
def rub_wear(
    hand: Hand, points: list[tuple[float, float, float]], width_px: float, step: int = 0, softness: float = 0.5,
    flow: float = 1.0, *, away: bool = False, only: AtomNumber = 0, reach: Reach = "region",
    inside: set[AtomNumber] = NOWHERE,
) -> None:  # fmt: skip
    """Rub a step of wear out under a stroke (row, col, pressure), by its number, or every step (0).

    There the sheet is as it was printed; `away`, `only`, `reach` and `inside` are as for `rub_plates`.
    """
    wear = hand.book.sources(hand.page)[WEAR]
    if step and step not in {one.number for one in wear.steps}:
        raise BadInput("This page has no step of wear number {0}.", step)
    rect, cover = _stroked(hand, points, width_px, softness, flow, only, reach, inside)
    title = "Put wear back" if away else "Rub out wear"
    tiles = _rubbed(hand.book, [KEPT_NEW.key(hand.page, step)], rect, cover, away=away)
    hand.book.apply(Edit("rub-wear", title, (), tiles))


def _places_of(book: Book, page: int, spots: tuple[str, ...]) -> tuple[list[int], tuple[Change, ...]]:
    """Return the places of the planes of inks beside the four, and what that changes; raises `BadInput`."""
    sources = book.sources(page)
    here, before = [spot.name for spot in spots_on(book, sources)], sources[RUBBED_SPOTS]
    kept = list(before)
    strange = next((name for name in spots if name not in here), None)
    if strange is not None:
        raise BadInput("This page is not printed with an ink '{0}'.", strange)
    kept += [name for name in dict.fromkeys(spots) if name not in kept]
    if len(kept) > MOST_SPOTS:
        raise BadInput("Ink is rubbed out of at most {0} inks beside the four on a page.", MOST_SPOTS)
    changes = () if len(kept) == len(before) else (book.change(RUBBED_SPOTS.key(page), tuple(kept)),)
    return [FIRST_SPOT + kept.index(name) for name in dict.fromkeys(spots)], changes


def _stroked(
    hand: Hand, points: list[tuple[float, float, float]], width_px: float, softness: float, flow: float, only: int,
    reach: Reach, inside: set[int],
) -> tuple[Rect, U8]:  # fmt: skip
    """Return where a stroke lies, and its cover where it may work; raises `NothingDone` where that is nowhere."""
    rect, cover = mist(points, width_px, softness, flow, hand.shape)
    wanted = (leashed_from(hand, only, reach) if only else None, inside or None)
    for atoms in (set(found) for found in wanted if found is not None):
        allowed = np.zeros(len(hand.areas), bool)
        allowed[[a for a in atoms if 0 < a < len(allowed)]] = True
        cover = cover * allowed[hand.labels[rect[0] : rect[2], rect[1] : rect[3]]].view(np.uint8)
    if not cover.any():
        raise NothingDone("Nothing of this stroke lies where it may rub; nothing was changed.")
    return rect, cover


def _rubbed(book: Book, names: list[str], rect: Rect, cover: U8, *, away: bool) -> tuple[TileChange, ...]:
    tiles: list[TileChange] = []
    for name in names:
        plane = book.plane(name)
        tiles += plane.replaced(name, rect, laid(plane.read(rect), cover, away=away))
    return tuple(tiles)


@order
def set_wear(book: Book, page: int, wear: Wear) -> None:
    """Change how old stock looks; what was rubbed out of steps that are no more is forgotten with them."""
    book.apply(
        Edit("set-wear", "Change the wear", (book.change(WEAR.key(page), wear),), forgotten_rubs(book, page, wear))
    )


@order
def age_page(book: Book, page: int, preset: str) -> None:
    """Wear a page by the name of a preset; its pictures of paper stay. Raises `BadInput` for an unknown name."""
    if preset not in PRESETS:
        raise BadInput("There is no wear '{0}'. Choose from {1}.", preset, ", ".join(PRESETS))
    wear = msgspec.structs.replace(book.sources(page)[WEAR], steps=PRESETS[preset].steps)
    tiles = forgotten_rubs(book, page, wear)
    book.apply(Edit("age-page", say("Wear: {0}", preset), (book.change(WEAR.key(page), wear),), tiles))


@order
def add_wear(book: Book, page: int, kind: WearKind) -> int:
    """Add a step of wear at a usual strength; return its number."""
    wear = book.sources(page)[WEAR]
    taken = {step.number for step in wear.steps}
    number = next((n for n in range(1, MOST_STEPS + 1) if n not in taken), 0)
    step = WearStep(kind, _USUAL_LPI if kind == "screen" else _USUAL_SHARE, number=number)
    changed = msgspec.structs.replace(wear, steps=(*wear.steps, step))
    put(book, "add-wear", "Add a step of wear", (WEAR.key(page), changed))
    return number


@order
def set_wear_step(book: Book, page: int, step: WearStep) -> None:
    """Change a step of wear: its value, its inks, whether it is done. It is known by its number."""
    wear = book.sources(page)[WEAR]
    if step.number not in {one.number for one in wear.steps}:
        raise BadInput("This page has no step of wear number {0}.", step.number)
    steps = tuple(step if one.number == step.number else one for one in wear.steps)
    set_wear(book, page, msgspec.structs.replace(wear, steps=steps))


@order
def remove_wear(book: Book, page: int, step: int) -> None:
    """Take a step of wear away, by its number."""
    wear = book.sources(page)[WEAR]
    steps = tuple(one for one in wear.steps if one.number != step)
    if len(steps) == len(wear.steps):
        raise BadInput("This page has no step of wear number {0}.", step)
    changed = msgspec.structs.replace(wear, steps=steps)
    tiles = forgotten_rubs(book, page, changed)
    book.apply(Edit("remove-wear", "Remove a step of wear", (book.change(WEAR.key(page), changed),), tiles))


def forgotten_rubs(book: Book, page: int, wear: Wear) -> tuple[TileChange, ...]:
    """Return what clears all that was rubbed out of steps that are no more, or of another kind."""
    kinds, tiles = {step.number: step.kind for step in wear.steps}, list[TileChange]()
    for step in book.sources(page)[WEAR].steps:
        name = KEPT_NEW.key(page, step.number)
        if kinds.get(step.number) != step.kind and book.plane(name).any():
            info = book.pages()[page]
            none = np.zeros((info.rows, info.cols), np.uint8)
            tiles += book.plane(name).replaced(name, (0, 0, info.rows, info.cols), none)
    return tuple(tiles)


@order
def lay_texture(book: Book, page: int, original: OriginalNumber, size: tuple[int, int]) -> None:
    """Lay a picture of paper that the book has, of some rows and columns, over the worn sheet, again and again.

    One as large as the page covers it once. Raises `BadInput` for one without pixels, or where there are four already.
    """
    if min(size) < 1:
        raise BadInput("A picture without pixels cannot be laid on a page.")
    here, wear = book.pages()[page], book.sources(page)[WEAR]
    covers = min(size[0] / here.rows, size[1] / here.cols) > _COVERS
    corners = laid_in(size, (here.rows, here.cols)) if covers else (
        (0.0, 0.0), (0.0, float(size[1])), (float(size[0]), 0.0), (float(size[0]), float(size[1])))  # fmt: skip
    texture = PaperTexture(Placed(original, corners, repeats=True), seamless=not covers)
    changed = msgspec.structs.replace(wear, textures=(*wear.textures, texture))
    put(book, "lay-texture", "Lay a texture", (WEAR.key(page), changed))


@order
def set_texture(book: Book, page: int, place: int, texture: PaperTexture) -> None:
    """Change a picture of paper, counted from 0: how it blends, how strongly, where it lies."""
    _with_texture(book, page, place, texture, "set-texture", "Change a texture")


@order
def turn_texture(
    book: Book, page: int, place: int, degrees: float = 90.0, scale: float = 1.0, move: tuple[float, float] = (0.0, 0.0)
) -> None:  # fmt: skip
    """Turn a picture of paper about its middle, clockwise, make it larger, and move it down and right, in pixels."""
    if not _SMALLEST <= scale <= _LARGEST or not all(map(math.isfinite, (degrees, *move))):
        raise BadInput("A texture is made {0:g} to {1:g} times as large, not {2:g}.", _SMALLEST, _LARGEST, scale)
    texture = _texture(book, page, place)
    grid = np.array(texture.placed.grid)
    middle, turn = grid.mean(axis=0), math.radians(degrees)
    down, right = (grid - middle).T * scale
    turned = np.stack([down * math.cos(turn) + right * math.sin(turn), right * math.cos(turn) - down * math.sin(turn)])
    made = (turned.T + middle + move).round(4).tolist()
    placed = msgspec.structs.replace(texture.placed, grid=tuple((row, col) for row, col in made))
    changed = msgspec.structs.replace(texture, placed=placed)
    _with_texture(book, page, place, changed, "turn-texture", "Turn a texture" if degrees else "Move a texture")


@order
def remove_texture(book: Book, page: int, place: int) -> None:
    """Take a picture of paper away, counted from 0."""
    _with_texture(book, page, place, None, "remove-texture", "Take a texture away")


def _texture(book: Book, page: int, place: int) -> PaperTexture:
    textures = book.sources(page)[WEAR].textures
    if not 0 <= place < len(textures):
        raise BadInput("This page has {0} textures; there is no number {1}.", len(textures), place)
    return textures[place]


def _with_texture(book: Book, page: int, place: int, new: PaperTexture | None, name: str, title: str) -> None:
    _texture(book, page, place)
    wear = book.sources(page)[WEAR]
    textures = (*wear.textures[:place], *([] if new is None else [new]), *wear.textures[place + 1 :])
    put(book, name, title, (WEAR.key(page), msgspec.structs.replace(wear, textures=textures)))
