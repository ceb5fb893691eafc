"""Finished files asked for and written. Knows the easel and delivery."""

import itertools
from pathlib import Path

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QWidget

from drip_pot.core.arrays import Report
from drip_pot.desk.dialogs.asking import ask_replace
from drip_pot.desk.dialogs.export import ExportDialog
from drip_pot.desk.parts.text import counted
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.work import Work
from drip_pot.files import (
    derive,
    export_page,
    export_targets,
)


class Exporting(QObject):
    """Files written in the background, whatever the easel does meanwhile; every end is told."""

    def __init__(self, window: QWidget, easel: Easel) -> None:
        super().__init__(window)
        self.window, self.easel = window, easel
        self.errands = Work(self, patience=19)
        self._exports = itertools.count(1)

    def _say(self, sentence: str, problem: bool = False) -> None:
        self.easel.said.emit(sentence, problem)

    def export(self) -> None:
        """Ask what to write and write it in the background."""
        file, book = self.easel.file, self.easel.book
        if file is None or book is None or not self.easel.page:
            return
        asking = ExportDialog(self.window, file.path.parent / f"{file.path.stem} export", len(book.pages()))
        if asking.exec():
            pages = list(book.pages()) if asking.all_pages.isChecked() else [self.easel.page]
            folder, kinds = Path(asking.folder.text()).expanduser(), asking.kinds()
            targets = [path for page in pages for path in export_targets(book, page, folder, kinds)]
            if ask_replace(self.window, [path for path in targets if path.exists()]):
                self.write_files(folder, kinds, pages)

    def write_files(self, folder: Path, kinds: tuple[str, ...], pages: list[int]) -> None:
        """Write pages as files, from a snapshot of the book."""
        file, book = self.easel.file, self.easel.book
        assert file is not None
        assert book is not None
        snapshot = book.still()
        written: list[Path] = []
        release = file.hold()

        def work(report: Report) -> None:
            for place, page in enumerate(pages):

                def part(fraction: float, doing: str, place: int = place) -> None:
                    report((place + fraction) / len(pages), doing)

                written.extend(
                    export_page(snapshot, derive(file, snapshot, page), page, folder, kinds=kinds, report=part)
                )

        def done(_: None) -> None:
            release()
            self._say(f"Wrote {counted(len(written), 'file')} into {folder}.")

        def failed(error: Exception) -> None:
            release()
            self._say(f"{error} {counted(len(written), 'file')} had been written into {folder}.", True)

        def stopped() -> None:
            release()
            self._say(f"Export was stopped; {counted(len(written), 'file')} of {len(pages) * len(kinds)} "
                           f"had been written into {folder}.")  # fmt: skip

        self.errands.start(f"export {next(self._exports)}", work, done, failed, stopped)
