"""Finished files asked for and written. Knows the easel and delivery."""

import itertools
from pathlib import Path

import msgspec
from PyQt6.QtCore import QObject, QSettings
from PyQt6.QtWidgets import QWidget

from drip_pot.core.arrays import Report
from drip_pot.desk.dialogs.asking import ask_replace
from drip_pot.desk.dialogs.export import ExportDialog
from drip_pot.desk.parts.text import counted
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.work import Work
from drip_pot.files import (
    deliver,
    delivery_targets,
    derive,
)
from drip_pot.words import tr


class Exporting(QObject):
    """Files written in the background, whatever the easel does meanwhile; every end is told."""

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
        folder = file.path.parent / f"{file.path.stem} export"
        asking = ExportDialog(self.window, folder, len(book.pages()), self._kept())
        if asking.exec():
            self._keep(asking.kept)
            pages = list(book.pages()) if asking.all_pages.isChecked() else [self.easel.page]
            folder, kinds = Path(asking.folder.text()).expanduser(), asking.kinds()
            targets = delivery_targets(book, pages, folder, kinds)
            if ask_replace(self.window, [path for path in targets if path.exists()]):
                self.write_files(folder, kinds, pages)

    def _kept(self) -> dict[str, tuple[str, ...]]:
        """Return what was kept by name."""
        try:
            return msgspec.json.decode(str(self._settings.value("exports", "{}")), type=dict[str, tuple[str, ...]])
        except msgspec.MsgspecError:
            return {}

    def _keep(self, kept: dict[str, tuple[str, ...]]) -> None:
        self._settings.setValue("exports", msgspec.json.encode(kept).decode())

    def write_files(self, folder: Path, kinds: tuple[str, ...], pages: list[int]) -> None:
        """Write pages as files, from a snapshot of the book; all of them or none."""
        file, book = self.easel.file, self.easel.book
        assert file is not None
        assert book is not None
        snapshot = book.still()
        release = file.hold()

        def work(report: Report) -> int:
            known = {page: derive(file, snapshot, page) for page in pages}
            return len(deliver(snapshot, known.__getitem__, pages, folder, kinds, report))

        def done(count: int) -> None:
            release()
            self._say(tr("Wrote {0} into {1}.", counted(count, "file"), folder))

        def failed(error: Exception) -> None:
            release()
            self._say(tr("{0} Nothing was written into {1}.", error, folder), True)

        def stopped() -> None:
            release()
            self._say(tr("Export was stopped; nothing was written into {0}.", folder))

        self.errands.start(f"export {next(self._exports)}", work, done, failed, stopped)
