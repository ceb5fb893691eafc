# SPDX-License-Identifier: GPL-3.0-or-later
"""Starting the window: application, fonts, bench, and what happens when something inside goes wrong."""

import faulthandler
import logging
import os
import sys
import threading
import traceback
from pathlib import Path
from types import TracebackType

import cv2
from PyQt6 import sip
from PyQt6.QtCore import QSettings, Qt, QTimer
from PyQt6.QtWidgets import QApplication

from drip_pot.core.strips import work_on
from drip_pot.desk.dialogs.settings import LANGUAGES, one_of
from drip_pot.desk.parts import theme
from drip_pot.desk.session.work import SPARE_CORES, all_ended
from drip_pot.desk.trouble import began, ended, keep_report, log_folder, report_of
from drip_pot.desk.window import Window
from drip_pot.words import speak, tr

log = logging.getLogger("drip_pot")
_Attribute = Qt.ApplicationAttribute
_PATIENCE_MS = 3000


def make_app(argv: list[str]) -> QApplication:
    """Return the application, dressed; one there is already is dressed again."""
    sys.setswitchinterval(0.001)  # so that work in other threads does not keep the window waiting
    cv2.setNumThreads(SPARE_CORES)
    work_on(min(2, SPARE_CORES))
    for compressed in (_Attribute.AA_CompressHighFrequencyEvents, _Attribute.AA_CompressTabletEvents):
        QApplication.setAttribute(compressed, False)  # a fast stroke keeps its corners
    app = QApplication.instance() or QApplication(argv)
    assert isinstance(app, QApplication)
    app.setApplicationName("drip-pot")
    app.setApplicationDisplayName("Drip Pot")
    app.setStyle("Fusion")
    theme.load_fonts()
    wanted = str(QSettings("drip-pot", "drip-pot").value("bench", ""))
    dim = wanted == "dim" or (not wanted and theme.desktop_is_dark())
    theme.apply(app, theme.DIM if dim else theme.LIGHT)
    return app


def run(file: Path | None, prepare: tuple[Path, float] | None = None) -> int:
    """Open the window, with a book or drawing if one is named; return the exit code.

    `prepare` names the demo book, and its dpi, to be made in the background and opened when it is there.
    """
    app = make_app(sys.argv[:1])
    language = one_of(QSettings("drip-pot", "drip-pot").value("language", ""), LANGUAGES)
    if language:
        speak([language])
    window = Window()
    _catch_bugs(window)
    window.show()
    if file is None:
        file = what_to_open(window.settings)
    if file is not None:
        QTimer.singleShot(0, lambda: window.easel.opening.open(file))
    if prepare is not None and file is not None:
        QTimer.singleShot(0, lambda: window.demo_making.prepare(*prepare, file))
    code = app.exec()
    ended(window.settings)
    if not all_ended(_PATIENCE_MS):
        os._exit(code)  # everything finished is on disk; what still runs is dropped
    sys.excepthook = sys.__excepthook__
    sip.delete(window)  # in our order; at the interpreter's end it would be in any
    return code


def what_to_open(settings: QSettings) -> Path | None:
    """Return the book used last, if it is still there; at the very first start the desk is empty."""
    last = str(settings.value("last", ""))
    return Path(last) if last and Path(last).is_file() else None


def _catch_bugs(window: Window) -> None:
    """Log what nobody expected and say it in a sentence; every finished gesture is on disk already."""
    place = log_folder() / "drip-pot.log"
    logging.basicConfig(filename=place, level=logging.INFO, format="%(asctime)s %(levelname)s %(message)s")
    if not began(window.settings):
        window.strip.say("Drip Pot did not end well the last time. Your book is as you left it, up to the last "
                         "finished gesture.", lasting=True)  # fmt: skip

    def hook(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        text = report_of(kind, error, trace, window.easel)
        log.error(text)
        keep_report(text)
        window.strip.say(
            tr(
                "Something went wrong inside Drip Pot ({0}). Everything up to your last finished gesture is in "
                "the book. If it happens again, close the window and open it anew. Ctrl+K, 'trouble' shows a "
                "report that you can send.",
                kind.__name__,
            ),
            True,
        )

    sys.excepthook = hook

    def thread_hook(told: threading.ExceptHookArgs) -> None:
        if told.exc_value is not None:
            log.error("".join(traceback.format_exception(told.exc_type, told.exc_value, told.exc_traceback)))

    threading.excepthook = thread_hook
    faulthandler.enable(os.open(log_folder() / "crash.log", os.O_APPEND | os.O_CREAT | os.O_WRONLY))
