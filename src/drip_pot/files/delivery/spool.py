# SPDX-License-Identifier: GPL-3.0-or-later
"""The inks of a page, laid once and kept in a file for all that is written of it. Knows rows of bytes only."""

import os
import tempfile
from pathlib import Path

import numpy as np

from drip_pot.core.arrays import U8


class Spool:
    """Planes of a page in a file without a name, written and read by rows, several at a time.

    Parameters
    ----------
    folder : Path
        On the disk that is written to; nothing of it is left there.
    shape : tuple of int
        Rows, columns and planes.

    Raises
    ------
    OSError
        If the folder or the disk refuses; `write` does as well.
    """

    def __init__(self, folder: Path, shape: tuple[int, int, int]) -> None:
        self.shape = shape
        self._file = tempfile.TemporaryFile(dir=folder)  # noqa: SIM115 - it lives as long as this
        self._row = shape[1] * shape[2]
        self._kept: set[tuple[int, int]] = set()

    def has(self, rows: slice) -> bool:
        """Whether these rows were written, at one go."""
        return rows.indices(self.shape[0])[:2] in self._kept

    def write(self, rows: slice, planes: U8) -> None:
        """Keep the planes of some rows, (m, N, P) uint8."""
        data, at = memoryview(np.ascontiguousarray(planes).data).cast("B"), rows.start * self._row
        while data:  # a disk may take less than all at once
            done = os.pwrite(self._file.fileno(), data, at)
            data, at = data[done:], at + done
        self._kept.add(rows.indices(self.shape[0])[:2])

    def read(self, rows: slice) -> U8:
        """Return the planes of some rows, (m, N, P) uint8, to be changed at will."""
        top, bottom, _ = rows.indices(self.shape[0])
        out = np.empty((bottom - top, *self.shape[1:]), np.uint8)
        data, at = memoryview(out.data).cast("B"), top * self._row
        while data:
            done = os.preadv(self._file.fileno(), [data], at)
            if not done:
                raise OSError("the file of inks was cut short")
            data, at = data[done:], at + done
        return out

    def close(self) -> None:
        """Give the room back."""
        self._file.close()
