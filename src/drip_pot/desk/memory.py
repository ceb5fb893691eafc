"""Where one was in a book: page, stage, tool, place, switches. Knows settings; nothing of what they mean."""

import hashlib
from pathlib import Path

import msgspec
from PyQt6.QtCore import QSettings

_MOST, _RECENT = 60, 12


class Place(msgspec.Struct, frozen=True):
    """Where one was."""

    page: int = 0
    stage: str = "Flats"
    tool: str = ""
    zoom: float = 0.0
    row: float = 0.0
    col: float = 0.0
    seen: dict[str, bool] = {}


def recall(settings: QSettings, book: Path) -> Place | None:
    """Return where one was in a book; None where that is not known."""
    text = str(settings.value(_key(book), ""))
    try:
        return msgspec.json.decode(text, type=Place) if text else None
    except msgspec.MsgspecError:
        return None


def remember(settings: QSettings, book: Path, place: Place) -> None:
    """Keep where one was in a book, of the last sixty books."""
    key = _key(book)
    kept = [k for k in _listed(settings) if k != key]
    for old in kept[: max(0, len(kept) + 1 - _MOST)]:
        settings.remove(old)
    settings.setValue(key, msgspec.json.encode(place).decode())
    settings.setValue("places", " ".join([*kept[-_MOST + 1 :], key]))


def _listed(settings: QSettings) -> list[str]:
    return str(settings.value("places", "")).split()


def _key(book: Path) -> str:
    return "place/" + hashlib.sha256(str(book.resolve()).encode("utf-8", "surrogateescape")).hexdigest()[:24]


def recent(settings: QSettings) -> list[Path]:
    """Return the books used last, the newest first."""
    try:
        return [Path(text) for text in msgspec.json.decode(str(settings.value("recent", "[]")), type=list[str])]
    except msgspec.MsgspecError:
        return []


def used(settings: QSettings, book: Path) -> None:
    """Keep that a book was used just now."""
    found = [str(book), *(str(path) for path in recent(settings) if path != book)]
    settings.setValue("recent", msgspec.json.encode(found[:_RECENT]).decode())
