# SPDX-License-Identifier: GPL-3.0-or-later
"""What verbs share: values set as one edit, numbers and names, strokes made short. Knows no verb."""

from collections.abc import Iterable
from typing import Any

import numpy as np

from drip_pot.book.book import Book
from drip_pot.book.store import Edit
from drip_pot.book.values import BookKind
from drip_pot.core.errors import BadInput
from drip_pot.core.regions import Path

MOST_POINTS = 400


def put(book: Book, name: str, title: str, *pairs: tuple[str, object]) -> None:
    """Set keys (None removes one) as one edit."""
    book.apply(Edit(name, title, tuple(book.change(key, value) for key, value in pairs)))


def next_number(book: Book, kind: BookKind[int, Any]) -> int:
    """Return the number of the next page, part or pot; in a book that went out one that is free at home, too."""
    numbers = [int(k) for k, _ in book.below(kind.below) if "/" not in k]
    return max(book.floor, *numbers) + 1 if numbers else book.floor + 1


def named(name: str, what: str) -> str:
    """Return a name with its blanks tidied; raises `BadInput` for none."""
    name = " ".join(name.split())
    if not name:
        raise BadInput("A {0} needs a name.", what)
    return name


def thinned(points: Iterable[tuple[float, float]]) -> Path:
    """Return a stroke of at most some 400 points to a tenth of a pixel, its last one kept; raises `BadInput`."""
    stroke = list(points)
    if not stroke or not np.isfinite(np.array(stroke, np.float64)).all():
        raise BadInput("A stroke needs points on the page.")
    kept = stroke[:: max(1, len(stroke) // MOST_POINTS)]
    kept = kept if kept[-1] == stroke[-1] else [*kept, stroke[-1]]
    return tuple((round(float(r), 1), round(float(c), 1)) for r, c in kept)
