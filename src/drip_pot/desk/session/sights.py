# SPDX-License-Identifier: GPL-3.0-or-later
"""Pages drawn to be compared: which one, in which scheme, in what manner. Knows the book, files and the page shown."""

from dataclasses import dataclass, replace
from typing import Literal

import cv2
import numpy as np

from drip_pot.book import Book, build_tables, verbs
from drip_pot.book.scope import Ground
from drip_pot.book.value_plan import PanelValues, as_planned
from drip_pot.book.values import PLAN
from drip_pot.core.arrays import I32, I64, U8
from drip_pot.core.color import lightness
from drip_pot.desk.session.page_view import Flatted, PageView, ready_of
from drip_pot.files import BookFile, derive, parted_picture

Manner = Literal["colors", "values", "plan", "line"]
_LONG = 2400


@dataclass(frozen=True)
class Sight:
    """What is looked at: a page, a scheme (0 is the one in hand), and how: colours, values, as planned, line alone."""

    page: int
    scheme: int = 0
    manner: Manner = "colors"


@dataclass(frozen=True)
class PageShown:
    """The page that the window shows, worked out already."""

    number: int
    view: PageView
    flat: Flatted


def draw_sight(sight: Sight, book: Book, file: BookFile, shown: PageShown | None) -> U8:
    """Draw what is looked at, (M, N, 3) uint8, at most 2,400 px long; `book` is a snapshot of its own, and is changed.

    Raises `BadInput` for a page or a scheme that is no more, `Unreadable` for a damaged drawing.
    """
    if sight.scheme and sight.scheme != book.scheme:
        verbs.use_scheme(book, sight.scheme)
    drawn = _drawn_shown if shown is not None and shown.number == sight.page else _drawn_apart
    page = drawn(sight, book, file, shown)
    if sight.manner == "line":
        return _gray(255 - page.line[..., 3])
    if sight.manner == "colors":
        return _under(page.colors, page.line)
    light = lightness(page.colors)
    if sight.manner == "plan":
        plan: tuple[PanelValues, ...] = book.sources(sight.page)[PLAN]
        light = as_planned(light, page.labels, page.panel, plan)
    return _under(_gray(light), np.dstack([_gray(lightness(page.line)), page.line[..., 3]]))


@dataclass(frozen=True)
class _Parted:
    """Colours without line, the line (colour times coverage, and coverage), atoms, and the panel of each."""

    colors: U8
    line: U8
    labels: I32
    panel: I64


def _gray(light: U8) -> U8:
    return np.asarray(cv2.merge([np.ascontiguousarray(light)] * 3), np.uint8)


def _under(colors: U8, line: U8) -> U8:
    left = cv2.merge([255 - line[..., 3]] * 3)
    return np.asarray(cv2.add(cv2.multiply(colors, left, scale=1 / 255), np.ascontiguousarray(line[..., :3])), np.uint8)


def _drawn_shown(sight: Sight, book: Book, file: BookFile, shown: PageShown | None) -> _Parted:
    """Draw the page of the window from what it is painted from."""
    assert shown is not None
    view, flat = shown.view, shown.flat
    level = next((k for k, plane in enumerate(flat.labels) if max(plane.shape) <= _LONG), len(flat.labels) - 1)
    ground = Ground(flat.labels[0], lambda: flat.panels, lambda: flat.painted.pieces, at_once=True)
    tables = build_tables(book, book.sources(sight.page), flat.atoms.count, ground)
    panel = np.zeros(1, np.int64) if flat.panels is None else flat.panels.panel
    ready = ready_of(view, replace(flat, tables=tables), level)
    line = ready.line()
    line[..., :3] = cv2.multiply(np.ascontiguousarray(line[..., :3]), cv2.merge([line[..., 3]] * 3), scale=1 / 255)
    colors = np.ascontiguousarray(ready.screen(lines=False)[..., :3])
    return _Parted(colors, line, flat.painted.labels[level], panel)


def _drawn_apart(sight: Sight, book: Book, file: BookFile, _: PageShown | None) -> _Parted:
    """Draw any other page."""
    derived, sources = derive(file, book, sight.page), book.sources(sight.page)
    colors, line = parted_picture(
        book, derived, sight.page, min(1.0, _LONG / max(sources.page.rows, sources.page.cols))
    )
    if sight.manner != "plan":
        return _Parted(colors, line, np.zeros((1, 1), np.int32), np.zeros(1, np.int64))
    labels = derived.regions.atoms(sources.line).labels
    small = cv2.resize(labels, colors.shape[1::-1], interpolation=cv2.INTER_NEAREST)
    return _Parted(colors, line, np.asarray(small, np.int32), derived.regions.panels(sources).panel)
