# SPDX-License-Identifier: GPL-3.0-or-later
"""The file of an open book without its journal: whether it still is the one that was opened. Knows paths and locks.

Only this program writes to it, and only when the journal is brought home; whatever else changes it is a stranger.
"""

import os
from pathlib import Path

from drip_pot.files.lock import BookLock
from drip_pot.files.shelter import pieces_of

_HEADER = 100


class Base:
    """The file at `path`, opened, and locked by `lock`, until `close`."""

    def __init__(self, path: Path, lock: BookLock) -> None:
        self.path, self._lock = path, lock
        self.handle = os.open(path, os.O_RDONLY | os.O_CLOEXEC)
        self._marks: list[bytes] = []
        self._face = self._look()

    def written(self, mark: bytes) -> None:
        """Remember that this program wrote to the file just now, and the mark that it carries since."""
        self._marks = [*self._marks[-1:], mark]
        self._face = self._look()

    def is_away(self) -> bool:
        """Whether the file was renamed or removed, or another one was put in its place."""
        try:
            return not os.path.samestat(self.path.stat(), os.fstat(self.handle))
        except OSError:
            return True

    def is_spoiled(self) -> bool:
        """Whether something else wrote into the file. One that was only touched holds its mark still."""
        face = self._look()
        if face == self._face:
            return False
        if face[0] != self._face[0] or face[2] != self._face[2] or not self._has_mark():
            return True
        self._face = face
        return False

    def close(self) -> None:
        """Let go of the file, and unlock the book."""
        if self.handle >= 0:
            os.close(self.handle)
            self.handle = -1
            self._lock.release()

    def _look(self) -> tuple[int, int, bytes]:
        told = os.fstat(self.handle)
        return told.st_size, told.st_mtime_ns, os.pread(self.handle, _HEADER, 0)

    def _has_mark(self) -> bool:
        tail = b""
        for piece in pieces_of(self.handle):
            if any(mark in tail + piece for mark in self._marks):
                return True
            tail = piece[-64:]
        return False
