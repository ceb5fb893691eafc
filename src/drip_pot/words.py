"""The one door through which words come that people read: `tr`. Knows catalogues of translations, not what is said.

A catalogue is a compiled gettext file, `drip-pot/LANGUAGE/LC_MESSAGES/drip-pot.mo`, in a data folder of the desktop
standard; `./run words` writes the template of all that can be translated. What is said in the words of the program
itself, British English, needs none.
"""

import gettext
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


def listed(names: Sequence[str]) -> str:
    """Return names one after another as they are said: 'a', 'a and b', 'a, b and c'."""
    return tr("{0} and {1}", ", ".join(names[:-1]), names[-1]) if len(names) > 1 else "".join(names)


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
        Where catalogues lie; the data folders of the desktop standard when not given.

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
    return [Path(folder) / place for folder in (own, *shared.split(":")) if folder for place in (DOMAIN, "locale")]
