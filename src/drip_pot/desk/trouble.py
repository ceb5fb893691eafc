"""What went wrong inside, as a plain text that a person can read and send. Knows the window's easel and the log folder.

It names versions, what was in use and the last kinds of steps; no names of books, pages or files, and no picture.
"""

import platform
import sys
import traceback
from datetime import datetime
from pathlib import Path
from types import TracebackType

import cv2
import numpy as np
import platformdirs
from PyQt6.QtCore import PYQT_VERSION_STR, QT_VERSION_STR, QSettings

from drip_pot import __version__
from drip_pot.desk.session.easel import Easel
from drip_pot.words import tr

_KEPT, _STEPS = 20, 12


def log_folder() -> Path:
    """Return the folder of logs and reports, made if missing."""
    folder = Path(platformdirs.user_log_dir("drip-pot"))
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def report_of(
    kind: type[BaseException], error: BaseException, trace: TracebackType | None, easel: Easel
) -> str:  # fmt: skip
    """Return a report of something that went wrong."""
    page = easel.sources()
    size = "none" if page is None else tr("{0} × {1} px, {2} pours", page.page.cols, page.page.rows, len(page.pours))
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
        _without_home("".join(traceback.format_exception(kind, error, trace))),
    ])  # fmt: skip


def _without_home(text: str) -> str:
    return text.replace(str(Path.home()), "~")


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
