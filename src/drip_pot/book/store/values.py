# SPDX-License-Identifier: GPL-3.0-or-later
"""Values of a page as typed tables that are decoded once and patched. Knows kinds by name; not what they mean."""

from collections.abc import Callable, Mapping
from typing import Any, NamedTuple

import msgspec

Texts = Mapping[str, str | None]


class ReadAs(NamedTuple):
    """How values of a kind are read: what their key becomes, and the type of the value."""

    key: Callable[[str], Any]
    type: Any


_UNKNOWN = ReadAs(str, Any)


class Table:
    """Values of one kind by key: JSON text, decoded when first asked for. It is never changed.

    Attributes
    ----------
    texts : dict
        JSON text by the last part of the key ('' where a page has one value of the kind).
    """

    __slots__ = ("_kind", "_typed", "_unread", "texts")

    def __init__(self, texts: dict[str, str], kind: ReadAs = _UNKNOWN) -> None:
        self.texts = texts
        self._kind = kind
        self._typed: dict[Any, Any] | None = None
        self._unread: tuple[str, ...] = ()

    def typed(self) -> dict[Any, Any]:
        """Return the values by key, in the order of the keys; not to be changed. What cannot be read is left out."""
        if self._typed is None:
            found, unread = {}, []
            for key, text in self.texts.items():
                try:
                    found[self._kind.key(key)] = msgspec.json.decode(text, type=self._kind.type)
                except (msgspec.MsgspecError, ValueError, RecursionError):
                    unread.append(key)
            self._typed, self._unread = dict(sorted(found.items())), tuple(unread)
        return self._typed

    def unread(self) -> tuple[str, ...]:
        """Return the keys of values that cannot be read."""
        self.typed()
        return self._unread

    def changed(self, changes: Texts) -> "Table":
        """Return the table with some texts changed, or removed (None)."""
        other = Table(_patched(self.texts, changes), self._kind)
        if self._typed is not None and not self._unread:
            fresh = Table({k: t for k, t in changes.items() if t is not None}, self._kind)
            typed = {self._kind.key(k): None for k in changes} | fresh.typed()
            kept = {k: v for k, v in self._typed.items() if k not in typed or fresh.typed().get(k) is not None}
            grown = fresh.typed().keys() - kept.keys()
            kept.update(fresh.typed())
            other._typed = dict(sorted(kept.items())) if grown else kept
            other._unread = fresh.unread()
        return other


def _patched(texts: dict[str, str], changes: Texts) -> dict[str, str]:
    kept = dict(texts)
    for key, text in changes.items():
        if text is None:
            kept.pop(key, None)
        else:
            kept[key] = text
    return kept


class PageValues:
    """All values below a page by kind. It is never changed.

    Parameters
    ----------
    texts : dict
        JSON text by what follows the page in the key: 'flats', 'pour/12', 'inks/1'.
    kinds : dict
        How to read each kind; one that is not listed is kept as it is.
    """

    __slots__ = ("_kinds", "_tables")

    def __init__(self, texts: Mapping[str, str], kinds: Mapping[str, ReadAs]) -> None:
        self._kinds = kinds
        groups: dict[str, dict[str, str]] = {}
        for key, text in texts.items():
            kind, _, rest = key.partition("/")
            groups.setdefault(kind, {})[rest] = text
        self._tables = {kind: Table(group, kinds.get(kind, _UNKNOWN)) for kind, group in groups.items()}

    def table(self, kind: str) -> Table:
        """Return the values of a kind."""
        return self._tables.get(kind) or Table({}, self._kinds.get(kind, _UNKNOWN))

    def one(self, kind: str, default: Any = None) -> Any:
        """Return the only value of a kind; the default where there is none."""
        return self.table(kind).typed().get("", default)

    def get(self, key: str) -> str | None:
        """Return the text at a key."""
        kind, _, rest = key.partition("/")
        return self.table(kind).texts.get(rest)

    def texts(self) -> dict[str, str]:
        """Return everything as text by key."""
        return {f"{kind}/{key}" if key else kind: text
                for kind, table in self._tables.items() for key, text in table.texts.items()}  # fmt: skip

    def unread(self) -> list[str]:
        """Return the keys of values that cannot be read."""
        return [f"{kind}/{key}" if key else kind for kind, table in self._tables.items() for key in table.unread()]

    def changed(self, changes: Texts) -> "PageValues":
        """Return the page with some texts changed, or removed (None); tables that are not concerned stay the same."""
        groups: dict[str, dict[str, str | None]] = {}
        for key, text in changes.items():
            kind, _, rest = key.partition("/")
            groups.setdefault(kind, {})[rest] = text
        other = PageValues({}, self._kinds)
        other._tables = self._tables | {kind: self.table(kind).changed(group) for kind, group in groups.items()}
        return other
