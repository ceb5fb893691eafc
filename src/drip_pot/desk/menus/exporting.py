# SPDX-License-Identifier: GPL-3.0-or-later
"""Finished files asked for and written. Knows the easel and delivery."""

import hashlib
import itertools
from pathlib import Path

import msgspec
from PyQt6.QtCore import QObject, QSettings, pyqtSignal
from PyQt6.QtWidgets import QWidget

from drip_pot.core.arrays import Report
from drip_pot.core.errors import DripPotError
from drip_pot.desk.dialogs.asking import ask_replace
from drip_pot.desk.dialogs.export import ExportDialog
from drip_pot.desk.parts.text import counted
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.work import Work
from drip_pot.files import (
    How,
    WebSize,
    deliver,
    delivery_targets,
    derive,
)
from drip_pot.words import tr


def _key(book: Path) -> str:
    return hashlib.sha256(str(book.resolve()).encode("utf-8", "surrogateescape")).hexdigest()[:24]


class Exporting(QObject):
    """Files written in the background, whatever the easel does meanwhile; every end is told.

    Signals
    -------
    written(str, object)
        A sentence, and the folder that files were written into.
    """

    written = pyqtSignal(str, object)

    def __init__(self, window: QWidget, easel: Easel, settings: QSettings) -> None:
        super().__init__(window)
        self.window, self.easel, self._settings = window, easel, settings
        self.errands = Work(self, patience=19)
        self._exports = itertools.count(1)

    def _say(self, sentence: str, problem: bool = False) -> None:
        self.easel.said.emit(sentence, problem)

    def export(self) -> None:
        """Ask what to write and write it in the background."""
        file, book = self.easel.file, self.easel.book
        if file is None or book is None or not self.easel.page:
            return
        folder = self._folder_of(file.path)
        ticked = self._ticked()
        trimmed = any(page.trim_mm is not None for page in book.pages().values())
        asking = ExportDialog(
            self.window, folder, len(book.pages()), self._kept(), ticked, trimmed=trimmed, web=self._web(),
            schemes=tuple(book.schemes()), parts=[part.name for part in book.parts().values()],
        )  # fmt: skip
        if asking.exec():
            self._keep(asking.kept)
            self._remember(file.path, Path(asking.folder.text()).expanduser(), asking.kinds())
            how = asking.how()
            self._settings.setValue("export-web", msgspec.json.encode(how.web).decode())
            pages = list(book.pages()) if asking.all_pages.isChecked() else [self.easel.page]
            folder, kinds = Path(asking.folder.text()).expanduser(), asking.kinds()
            targets = delivery_targets(book, pages, folder, kinds, how)
            if ask_replace(self.window, [path for path in targets if path.exists()]):
                self.write_files(folder, kinds, pages, how)

    def _folder_of(self, book: Path) -> Path:
        """Return where a book was written to last, or a folder beside it."""
        last = str(self._settings.value(f"export/{_key(book)}", "") or "")
        return Path(last) if last and Path(last).parent.is_dir() else book.parent / tr("{0} export", book.stem)

    def _ticked(self) -> tuple[str, ...] | None:
        """Return the kinds that were written last."""
        try:
            return msgspec.json.decode(str(self._settings.value("export-kinds", "null")), type=tuple[str, ...] | None)
        except msgspec.MsgspecError:
            return None

    def _web(self) -> WebSize:
        """Return how large web copies were made last."""
        try:
            return msgspec.json.decode(str(self._settings.value("export-web", "{}")), type=WebSize)
        except (msgspec.MsgspecError, DripPotError):
            return WebSize()

    def _remember(self, book: Path, folder: Path, kinds: tuple[str, ...]) -> None:
        self._settings.setValue(f"export/{_key(book)}", str(folder))
        self._settings.setValue("export-kinds", msgspec.json.encode(kinds).decode())

    def _kept(self) -> dict[str, tuple[str, ...]]:
        """Return what was kept by name."""
        try:
            return msgspec.json.decode(str(self._settings.value("exports", "{}")), type=dict[str, tuple[str, ...]])
        except msgspec.MsgspecError:
            return {}

    def _keep(self, kept: dict[str, tuple[str, ...]]) -> None:
        self._settings.setValue("exports", msgspec.json.encode(kept).decode())

    def write_files(self, folder: Path, kinds: tuple[str, ...], pages: list[int], how: How | None = None) -> None:
        """Write pages as files, from a snapshot of the book; all of them or none."""
        file, book = self.easel.file, self.easel.book
        assert file is not None
        assert book is not None
        snapshot = book.still()
        release = file.hold()

        def work(report: Report) -> int:
            known = {page: derive(file, snapshot, page) for page in pages}
            return len(deliver(snapshot, known.__getitem__, pages, folder, kinds, report, how=how or How()))

        def done(count: int) -> None:
            release()
            self.written.emit(tr("Wrote {0} into {1}.", counted(count, "file"), folder), folder)

        def failed(error: Exception) -> None:
            release()
            self._say(tr("{0} Nothing was written into {1}.", error, folder), True)

        def stopped() -> None:
            release()
            self._say(tr("Export was stopped; nothing was written into {0}.", folder))

        self.errands.start(f"export-{next(self._exports)}", work, done, failed, stopped)
