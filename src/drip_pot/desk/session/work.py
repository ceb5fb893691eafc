# SPDX-License-Identifier: GPL-3.0-or-later
"""Work off the interface thread: newest of a name wins, progress can be watched, all can be cancelled.

Knows Qt and callables; nothing of what they compute.
"""

import itertools
import logging
import os
import sys
import threading
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import QObject, QThreadPool, pyqtSignal

from drip_pot.core.arrays import Report
from drip_pot.core.errors import Cancelled, DripPotError

log = logging.getLogger(__name__)
_numbers = itertools.count(1)
SPARE_CORES = max(1, (os.cpu_count() or 1) - 1)
"""Cores that work may use while the window keeps one: a thread that holds the interpreter is then seldom kept from it
by others that do not need it."""


def step_back(patience: int) -> None:
    """Let others before this thread: 0 is as the window itself, 19 is only when nothing else is to be done."""
    if sys.platform == "linux":
        with suppress(OSError):
            os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), patience)


class _Told(QObject):
    progress = pyqtSignal(int, float, str)
    done = pyqtSignal(int, object)
    failed = pyqtSignal(int, object)
    finished = pyqtSignal(int)


class _Job:
    def __init__(self, number: int, work: Callable[[Report], Any], told: _Told, patience: int) -> None:
        self._patience = patience
        self.number, self._work, self._told = number, work, told
        self.stop = threading.Event()

    def _report(self, fraction: float, doing: str) -> None:
        if self.stop.is_set():
            raise Cancelled("Stopped.")
        self._told.progress.emit(self.number, fraction, doing)

    def run(self) -> None:
        step_back(self._patience)
        try:
            if not self.stop.is_set():
                self._told.done.emit(self.number, self._work(self._report))
        except Cancelled:
            pass
        except Exception as error:  # noqa: BLE001 - handed on to the interface thread, which shows or raises it
            if not self.stop.is_set():
                self._told.failed.emit(self.number, error)
        finally:
            self._told.finished.emit(self.number)


class Pool:
    """Threads that are never waited for: those still at work when it is left are left behind, and end by themselves."""

    def __init__(self, parent: QObject, threads: int) -> None:
        self._parent, self._threads = parent, threads
        self._pool = self._fresh()

    def _fresh(self) -> QThreadPool:
        pool = QThreadPool(self._parent)
        pool.setMaxThreadCount(self._threads)
        return pool

    def start(self, work: Callable[[], None]) -> None:
        """Do something in one of the threads, after what was asked for before."""
        self._pool.start(work)

    def leave(self) -> None:
        """Forget what has not begun; what has is left behind."""
        self._pool.clear()
        if self._pool.activeThreadCount():
            self._pool.setParent(None)
            _LEFT.append(self._pool)
            self._pool = self._fresh()
        _LEFT[:] = [pool for pool in _LEFT if pool.activeThreadCount()]


_LEFT: list[QThreadPool] = []


def all_ended(patience_ms: int) -> bool:
    """Wait for what was left behind, for the end of the program alone; return whether all of it has ended."""
    ended = [pool.waitForDone(patience_ms) for pool in _LEFT]
    return all(ended)


@dataclass(frozen=True)
class _Entry:
    name: str
    job: _Job
    done: Callable[[Any], None]
    failed: Callable[[Exception], None] | None
    stopped: Callable[[], None] | None


class Work(QObject):
    """Runs jobs one after another in a thread that lets the window, and what is more urgent, go before.

    Signals
    -------
    progress(str, float, str)
        Name of a job, fraction, what it does.
    idle(str)
        A job of that name ended, in whatever way.
    problem(object)
        An error nobody asked to handle.
    """

    progress = pyqtSignal(str, float, str)
    idle = pyqtSignal(str)
    problem = pyqtSignal(object)

    def __init__(self, parent: QObject | None = None, threads: int = 1, patience: int = 15) -> None:
        super().__init__(parent)
        self._patience = patience
        self._pool = Pool(self, threads)
        self._told = _Told()
        self._told.progress.connect(self._on_progress)
        self._told.done.connect(self._on_done)
        self._told.failed.connect(self._on_failed)
        self._told.finished.connect(self._on_finished)
        self._jobs: dict[int, _Entry] = {}
        self._newest: dict[str, int] = {}

    def start(
        self,
        name: str,
        work: Callable[[Report], Any],
        done: Callable[[Any], None],
        failed: Callable[[Exception], None] | None = None,
        stopped: Callable[[], None] | None = None,
    ) -> None:
        """Run `work`; an older job of the same name is cancelled and its result dropped.

        It ends in just one of `done` (with what it returned), `failed` (with an error that has a sentence) and
        `stopped`; without a `failed`, and for other errors, `problem` is emitted.
        """
        self.cancel(name)
        number = next(_numbers)
        job = _Job(number, work, self._told, self._patience)
        self._jobs[number] = _Entry(name, job, done, failed, stopped)
        self._newest[name] = number
        self._pool.start(job.run)

    def cancel(self, name: str) -> None:
        """Ask the job of that name to stop; its result will be dropped."""
        number = self._newest.pop(name, None)
        if number in self._jobs:
            self._jobs[number].job.stop.set()

    def busy(self, name: str | None = None) -> bool:
        """Whether a job (of that name) is wanted and not done."""
        return bool(self._newest) if name is None else name in self._newest

    def drop(self) -> None:
        """Cancel everything and wait for nothing; what still runs is forgotten when it ends."""
        for name in list(self._newest):
            self.cancel(name)

    def close(self) -> None:
        """Cancel everything; what does not stop at once is left behind, and what it finds is dropped."""
        for name in list(self._newest):
            self.cancel(name)
        self._pool.leave()
        ended, self._jobs = list(self._jobs.values()), {}
        for entry in ended:
            self._ended(entry)

    def _wanted(self, number: int) -> bool:
        return number in self._jobs and self._newest.get(self._jobs[number].name) == number

    def _on_progress(self, number: int, fraction: float, doing: str) -> None:
        if self._wanted(number):
            self.progress.emit(self._jobs[number].name, fraction, doing)

    def _on_done(self, number: int, result: object) -> None:
        if self._wanted(number):
            entry = self._jobs[number]
            del self._newest[entry.name]
            entry.done(result)

    def _on_failed(self, number: int, error: Exception) -> None:
        if not self._wanted(number):
            return
        entry = self._jobs[number]
        del self._newest[entry.name]
        if entry.failed is not None and isinstance(error, DripPotError):
            entry.failed(error)
        else:
            self.problem.emit(error)

    def _on_finished(self, number: int) -> None:
        entry = self._jobs.pop(number, None)
        if entry is not None:
            if self._newest.get(entry.name) == number:
                del self._newest[entry.name]
            self._ended(entry)

    def _ended(self, entry: _Entry) -> None:
        if entry.job.stop.is_set() and entry.stopped is not None:
            entry.stopped()
        self.idle.emit(entry.name)
