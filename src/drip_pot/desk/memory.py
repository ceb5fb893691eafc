# SPDX-License-Identifier: GPL-3.0-or-later
"""Where one was in a book: page, stage, tool, place, switches. Knows settings; nothing of what they mean."""

import hashlib
from contextlib import suppress
from pathlib import Path

import msgspec
import platformdirs
from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtGui import QImage

_MOST, _RECENT = 60, 12


class WindowPlace(msgspec.Struct, frozen=True):
    """Where one was."""

    page: int = 0
    stage: str = "Flats"
    tool: str = ""
    zoom: float = 0.0
    row: float = 0.0
    col: float = 0.0
    seen: dict[str, bool] = {}


def recall(settings: QSettings, book: Path) -> WindowPlace | None:
    """Return where one was in a book; None where that is not known."""
    text = str(settings.value(_key(book), ""))
    try:
        return msgspec.json.decode(text, type=WindowPlace) if text else None
    except msgspec.MsgspecError:
        return None


def remember(settings: QSettings, book: Path, place: WindowPlace) -> None:
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


def copies_folder() -> Path:
    """Return where copies of books are kept."""
    return Path(platformdirs.user_data_dir("drip-pot")) / "copies"


def recipes_folder() -> Path:
    """Return where recipes are kept."""
    return Path(platformdirs.user_data_dir("drip-pot")) / "recipes"


def picture_file(book: Path) -> Path:
    """Return where a small picture of a book is kept."""
    return Path(platformdirs.user_cache_dir("drip-pot")) / "books" / f"{_key(book).removeprefix('place/')}.png"


def keep_picture(book: Path, picture: QImage) -> None:
    """Keep a small picture of a book, to know it by; where that fails there is none."""
    target = picture_file(book)
    with suppress(OSError):
        target.parent.mkdir(parents=True, exist_ok=True)
        small = picture.scaled(192, 128, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation)
        small.save(str(target), "PNG")
        for old in sorted(target.parent.glob("*.png"), key=lambda path: path.stat().st_mtime)[:-_MOST]:
            old.unlink()
