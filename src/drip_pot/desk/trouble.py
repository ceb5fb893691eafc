# SPDX-License-Identifier: GPL-3.0-or-later
"""What went wrong inside, as a plain text that a person can read and send. Knows the window's easel and the log folder.

It names versions, what was in use and the last kinds of steps; no names of books, pages or files, and no picture.
"""

import os
import platform
import re
import sys
import traceback
from datetime import datetime
from pathlib import Path
from tempfile import gettempdir
from types import TracebackType

import cv2
import numpy as np
import platformdirs
from PyQt6.QtCore import PYQT_VERSION_STR, QT_VERSION_STR, QSettings

from drip_pot import __version__
from drip_pot.book.values import POURS
from drip_pot.desk.session.easel import Easel
from drip_pot.words import tr

_KEPT, _STEPS = 20, 12


def log_folder() -> Path:
    """Return the folder of logs and reports, made if missing."""
    folder = Path(platformdirs.user_log_dir("drip-pot"))
    try:
        folder.mkdir(parents=True, exist_ok=True)
        (folder / ".try").touch()
        (folder / ".try").unlink()
    except OSError:  # a home that cannot be written to: then they last as long as the machine runs
        folder = Path(gettempdir()) / f"drip-pot-{os.getuid()}"
        folder.mkdir(mode=0o700, exist_ok=True)
    return folder


def report_of(
    kind: type[BaseException], error: BaseException, trace: TracebackType | None, easel: Easel
) -> str:  # fmt: skip
    """Return a report of something that went wrong."""
    page = easel.sources()
    size = "none" if page is None else tr("{0} × {1} px, {2} pours", page.page.cols, page.page.rows, len(page[POURS]))
    steps = [] if easel.book is None else [step.title.split()[0] for step in easel.book.history[-_STEPS:] if step.title]
    versions = tr(
        "Qt {0}, PyQt {1}, NumPy {2}, OpenCV {3}", QT_VERSION_STR, PYQT_VERSION_STR, np.__version__, cv2.__version__
    )
    return "\n".join([
        tr("Drip Pot {0}: something went wrong ({1})", __version__, kind.__name__),
        tr("Python {0}, {1}", sys.version.split()[0], versions),
        f"System: {platform.platform()}",
        tr("In use: {0}, {1}; page: {2}", easel.stage, easel.tool, size),
        tr("Last steps: {0}", ', '.join(steps) or 'none'),
        "",
        _without_names("".join(traceback.format_exception(kind, error, trace)), easel),
    ])  # fmt: skip


def _without_names(text: str, easel: Easel) -> str:
    """Leave out what a person named: books, pages, pots, parts, and the files and folders they work in."""
    names = set() if easel.file is None else {str(easel.file.path), easel.file.path.name, easel.file.path.stem}
    if easel.book is not None:
        book = easel.book
        for known in (book.pages(), book.pots(), book.parts(), book.schemes()):
            names |= {one.name for one in known.values()}
        names.add(book.info.title)
    text = re.sub(r"(?<![\w.])(/[^\s:'\",)]+)", lambda found: _own(found[1]), text.replace(str(Path.home()), "~"))
    for name in sorted((name for name in names if len(name) > 2), key=len, reverse=True):
        text = text.replace(name, "(a name)")
    return text


def _own(path: str) -> str:
    """Return a path of the program or of its libraries, and for any other only that it is one."""
    parts = Path(path).parts
    for kept in ("drip_pot", "site-packages", "lib"):
        if kept in parts:
            return "/".join(parts[parts.index(kept) :])
    return "(a file)"


def keep_report(text: str) -> Path:
    """Keep a report, of the last twenty, and return its file."""
    folder = log_folder()
    for old in reports()[_KEPT - 1 :]:
        old.unlink(missing_ok=True)
    path = folder / f"trouble-{datetime.now():%Y%m%d-%H%M%S-%f}.txt"
    path.write_text(text, encoding="utf-8")
    return path


def reports() -> list[Path]:
    """Return the reports that are kept, the newest first."""
    return sorted(log_folder().glob("trouble-*.txt"), reverse=True)


def began(settings: QSettings) -> bool:
    """Note that the program runs; return whether it ended well the last time."""
    well = not settings.value("running", False, bool)
    settings.setValue("running", True)
    settings.sync()
    return well


def ended(settings: QSettings) -> None:
    """Note that the program ended well."""
    settings.setValue("running", False)
