# SPDX-License-Identifier: GPL-3.0-or-later
"""Keys that a person gave to actions instead of the usual ones, in sets kept by name. Knows settings; no actions."""

from collections.abc import Mapping

import msgspec
from PyQt6.QtCore import QSettings
from PyQt6.QtGui import QKeySequence

from drip_pot.words import tr

USUAL = "The usual keys"
HELD = {"Q", "Space"}
"""Keys that are held down while something else is done; they stay as they are."""


class OwnKeys:
    """Keys by action, '<group>: <title>'.

    Attributes
    ----------
    name : str
        The set in use; `USUAL` is none.
    """

    def __init__(self, settings: QSettings) -> None:
        self._settings = settings
        try:
            kept = msgspec.json.decode(str(settings.value("keys", "{}")), type=dict[str, dict[str, str]])
        except msgspec.MsgspecError:
            kept = {}
        self._sets = kept
        name = str(settings.value("keys-now", USUAL))
        self.name = name if name in kept else USUAL

    def names(self) -> list[str]:
        """Return the names of all sets, the usual one first."""
        return [USUAL, *sorted(self._sets)]

    def chosen(self) -> dict[str, str]:
        """Return the keys of the set in use that are not the usual ones."""
        return dict(self._sets.get(self.name, {}))

    def use(self, name: str) -> None:
        """Use a set."""
        self.name = name if name in self._sets else USUAL
        self._settings.setValue("keys-now", self.name)

    def keep(self, name: str, keys: Mapping[str, str]) -> None:
        """Keep keys as a set of some name, and use it; the usual ones cannot be kept over."""
        if name != USUAL:
            self._sets[name] = dict(keys)
            self._settings.setValue("keys", msgspec.json.encode(self._sets).decode())
            self.use(name)

    def remove(self, name: str) -> None:
        """Forget a set."""
        self._sets.pop(name, None)
        self._settings.setValue("keys", msgspec.json.encode(self._sets).decode())
        self.use(USUAL)


def plain_key(text: str) -> str:
    """Return a key as it is written everywhere, 'Ctrl+Shift+K'; '' where it is none."""
    return QKeySequence(text).toString(QKeySequence.SequenceFormat.PortableText)


def conflict(keys: Mapping[str, str], action: str, key: str) -> str:
    """Return why an action cannot have a key, as a sentence; '' where it can. `keys` are those of all actions."""
    wanted = plain_key(key)
    if wanted in HELD:
        return tr("{0} is held down for something else while one works. Choose another key.", wanted)
    other = next((name for name, its in keys.items() if name != action and its and plain_key(its) == wanted), None)
    if wanted and other is not None:
        return tr("{0} belongs to {1}. Give that another key first.", wanted, other.split(": ", 1)[1])
    return ""
