# SPDX-License-Identifier: GPL-3.0-or-later
"""Markings that were taken along from another drawing: where each is on a page, and whether it lies as it was laid.

Each is told by where it comes from first, 'page:kind:number'. Knows a page's sources; makes no edit.
"""

import zlib
from collections.abc import Mapping
from typing import Any

import msgspec

from drip_pot.book.sources import PageSources
from drip_pot.book.values import DAMS, DOORS, FOLLOWING, SHADE_CUTS, STENCILS, FollowingMark, PageKind, ShadeCut
from drip_pot.core.arrays import Rect
from drip_pot.core.errors import BadInput
from drip_pot.core.regions import Path, Stencil

CUTS: tuple[PageKind[int, Any], ...] = (DAMS, STENCILS, DOORS)
"""What parts and joins regions, in the order it is laid."""
_KINDS: Mapping[str, PageKind[int, Any]] = {kind.name: kind for kind in (*CUTS, SHADE_CUTS)}
Marking = Path | Stencil | ShadeCut


def kind_of(origin: str) -> PageKind[int, Any]:
    """Return the kind of a marking by where it comes from; raises `BadInput` for none."""
    if not is_known(origin):
        raise BadInput("There is no marking {0}.", origin)
    return _KINDS[origin.split(":")[1]]


def marking(sources: PageSources, origin: str) -> Marking | None:
    """Return what was taken along to a page as it is there now; None if it is gone. Raises `BadInput` for none."""
    found: Marking | None = sources[kind_of(origin)].get(sources[FOLLOWING][origin].number)
    return found


def sum_of(value: Marking) -> int:
    """Return a checksum of a marking, CRC-32 of its JSON."""
    return zlib.crc32(msgspec.json.encode(value))


def is_as_laid(sources: PageSources, origin: str) -> bool:
    """Whether what was taken along lies as it was laid; raises `BadInput` for no marking."""
    value = marking(sources, origin)
    return value is not None and sum_of(value) == sources[FOLLOWING][origin].laid


def to_look_at(sources: PageSources, *kinds: PageKind[int, Any]) -> dict[str, FollowingMark]:
    """Return the markings of some kinds that may have slid and that no hand touched since, by where they come from."""
    return {
        origin: mark for origin, mark in sources[FOLLOWING].items()
        if mark.is_open and is_known(origin) and kind_of(origin) in kinds and is_as_laid(sources, origin)
    }  # fmt: skip


def is_known(origin: str) -> bool:
    """Whether that tells of a kind of marking."""
    return origin.count(":") == 2 and origin.split(":")[1] in _KINDS


def rect_of(value: Marking) -> Rect:
    """Return where a marking lies, in whole pixels."""
    if isinstance(value, Stencil):
        return value.rect
    spots = value.knots if isinstance(value, ShadeCut) else value
    rows, cols = [spot[0] for spot in spots], [spot[1] for spot in spots]
    return int(min(rows)), int(min(cols)), int(max(rows)) + 1, int(max(cols)) + 1
