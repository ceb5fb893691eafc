# SPDX-License-Identifier: GPL-3.0-or-later
"""The one door through which words come that people read: `tr`. Knows catalogues of translations, not what is said.

A catalogue is a compiled gettext file, `drip-pot/LANGUAGE/LC_MESSAGES/drip-pot.mo`, in a data folder of the desktop
standard, or in `languages/` beside this module; `./run words` writes the template of all that can be translated. What
is said in the words of the program itself, British English, needs none.
"""

import gettext
import json
import logging
import os
import re
import struct
from collections.abc import Sequence
from pathlib import Path

log = logging.getLogger(__name__)
DOMAIN = "drip-pot"
_PLACE = re.compile(r"\{[^}]*\}?")
_PLAIN = re.compile(r"\{\d{1,2}(:[+ ]?0?\d{0,2}[,_]?(\.\d{1,2})?[a-z%]?)?\}")
"""What stands for a value in a translation: its number, and at most how many digits it is written with."""
_said: gettext.NullTranslations = gettext.NullTranslations()


def tr(text: str, *values: object) -> str:
    """Return a text in the language of the person, with values in place of {0}, {1}, … where there are any."""
    said = _said.gettext(text) if text else text
    return _filled(said, text, values) if values else said


def tr_many(one: str, many: str, number: int, *values: object) -> str:
    """Return the one text or the other, as the language of the person counts, with values in place of {0}, {1}, …."""
    usual = one if number == 1 else many
    try:
        said = _said.ngettext(one, many, number)
    except Exception:  # noqa: BLE001 - the rule for plurals is a formula in the catalogue, and may be any
        said = usual
    return _filled(said, usual, values)


_WIDE = re.compile(r"\{[^{}]*\d{3}[^{}]*\}")


class Said(str):
    """What was said, kept so that it can be said in another language later; see `say`."""

    __slots__ = ()


def say(text: str, *values: object) -> Said:
    """Keep a text and its values as one string: JSON where there are values; `read_out` says it."""
    return Said(text if not values else json.dumps([text, *map(_kept, values)], ensure_ascii=False))


def say_many(one: str, many: str, number: int, *values: object) -> Said:
    """Keep one text or the other, as the language that it will be read in counts, and its values."""
    return Said(json.dumps([[one, many, number], *map(_kept, values)], ensure_ascii=False))


def _kept(value: object) -> object:
    if isinstance(value, Said):
        return json.loads(value) if value.startswith("[") else [str(value)]
    return value if isinstance(value, int | float) else str(value)


def read_out(kept: str) -> str:
    """Say what `say` kept, in the language of the person; a plain text is said as it is."""
    if not kept.startswith("["):
        return tr(kept)
    if _WIDE.search(kept):  # it would be written wider than anything is
        return kept
    try:
        return _read(json.loads(kept))
    except (ValueError, TypeError, IndexError, KeyError, RecursionError):  # a text that only begins so
        return kept


def _read(told: list[object]) -> str:
    text, values = told[0], [_read(value) if isinstance(value, list) else value for value in told[1:]]
    if isinstance(text, list):
        one, many, number = text
        return tr_many(str(one), str(many), int(number), *values)
    return tr(str(text), *values)


def listed(names: Sequence[str], *, either: bool = False) -> str:
    """Return names one after another as they are said: 'a', 'a and b', 'a, b and c'; or 'a, b or c'."""
    if len(names) < 2:
        return "".join(names)
    text = "{0} or {1}" if either else "{0} and {1}"
    return tr(text, ", ".join(names[:-1]), names[-1])


def grouped(number: int) -> str:
    """Write a whole number with thin spaces between thousands."""
    return f"{number:,}".replace(",", "\u202f")


def _filled(said: str, text: str, values: tuple[object, ...]) -> str:
    if said is text or all(_PLAIN.fullmatch(one) for one in _PLACE.findall(said.replace("{{", "").replace("}}", ""))):
        try:
            return said.format(*values)
        except (IndexError, KeyError, ValueError):  # a translation that asks for values there are not
            pass
    return text.format(*values)


def speak(languages: list[str] | None = None, folders: list[Path] | None = None) -> str:
    """Speak a language from here on.

    Parameters
    ----------
    languages : list of str, optional
        Codes as gettext knows them, the most welcome first; those that the environment names when not given.
    folders : list of Path, optional
        Where catalogues lie; the data folders of the desktop standard, then those that ship, when not given.

    Returns
    -------
    str
        The code that was found, "" for the words of the program itself.
    """
    global _said
    for folder in folders if folders is not None else _data_folders():
        found = gettext.find(DOMAIN, str(folder), languages)
        if not found:
            continue
        try:
            _said = gettext.translation(DOMAIN, str(folder), languages)
        except (OSError, ValueError, LookupError, struct.error) as error:
            log.warning("the translation %s cannot be read: %s", found, error)
            continue
        return Path(found).parents[1].name
    _said = gettext.NullTranslations()
    return ""


def _data_folders() -> list[Path]:
    own = os.environ.get("XDG_DATA_HOME") or str(Path.home() / ".local/share")
    shared = os.environ.get("XDG_DATA_DIRS") or "/usr/local/share:/usr/share"
    theirs = [Path(folder) / place for folder in (own, *shared.split(":")) if folder for place in (DOMAIN, "locale")]
    return [*theirs, Path(__file__).parent / "languages"]
