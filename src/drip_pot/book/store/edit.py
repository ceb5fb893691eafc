# SPDX-License-Identifier: GPL-3.0-or-later
"""One small, named, reversible change. Knows nothing of what its keys and planes mean."""

from collections.abc import Iterator

import msgspec

from drip_pot.words import read_out


class Change(msgspec.Struct, frozen=True):
    """A value before and after, as JSON text; None where there was or will be none."""

    key: str
    before: str | None
    after: str | None


class TileChange(msgspec.Struct, frozen=True):
    """A tile of a plane before and after, compressed; None is a tile of zeros."""

    plane: str
    row: int
    col: int
    before: bytes | None
    after: bytes | None


class Edit(msgspec.Struct, frozen=True):
    """A finished gesture.

    Attributes
    ----------
    name : str
        What kind of edit, for programs ('pour').
    says : str
        The same for people, a text and its values as `drip_pot.words.say` keeps them.
    joined : bool
        Whether it is undone and redone together with the edit before it.
    asked : str, optional
        The order that asked for it, as JSON text, see `drip_pot.book.asking`.
    back : int
        For a marker of the history, which changes nothing: how many steps it leads back over, see `branches`.
    """

    name: str
    says: str
    changes: tuple[Change, ...] = ()
    tiles: tuple[TileChange, ...] = ()
    joined: bool = False
    asked: str | None = None
    back: int = 0

    @property
    def title(self) -> str:
        """What was done, in the language of the person: 'Pour Ember into 14 regions'."""
        return read_out(self.says)

    def names(self) -> Iterator[str]:
        """Go through the keys and planes that it changes."""
        yield from (change.key for change in self.changes)
        yield from (tile.plane for tile in self.tiles)

    def inverted(self) -> "Edit":
        """Return the edit that takes this one back."""
        return msgspec.structs.replace(
            self,
            changes=tuple(Change(c.key, c.after, c.before) for c in reversed(self.changes)),
            tiles=tuple(TileChange(t.plane, t.row, t.col, t.after, t.before) for t in reversed(self.tiles)),
        )
