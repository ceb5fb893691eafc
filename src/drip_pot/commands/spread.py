# SPDX-License-Identifier: GPL-3.0-or-later
"""Independent jobs on the cores of this machine, or on several machines, and one report of them. Knows no books.

The cores are reached through `concurrent.futures`, machines through a scheduler of Dask (https://docs.dask.org), which
does a job again where a worker is lost.
"""

import json
import os
import secrets
from collections.abc import Callable, Iterable, Iterator
from itertools import islice
from pathlib import Path
from typing import Annotated, Any

import typer

from drip_pot.core.errors import BadInput, CannotWrite
from drip_pot.words import tr

SchedulerAddress = Annotated[str | None, typer.Option(help="Address of a Dask scheduler, to use several machines.")]
KeyFolder = Annotated[
    Path | None, typer.Option(help="Folder with ca.pem, cert.pem and key.pem, for one on another machine.")
]
ReportFile = Annotated[
    Path | None, typer.Option(help="Note what was done in this file; books it names as done are left out.")
]
Outcome = tuple[bool, list[str]]
"""Whether a job went well, and what is to be said of it."""
Job = tuple[Any, ...]
_AGAIN, _WORKER_S, _AHEAD = 2, 60, 2
_BEGIN = "dask scheduler --host 127.0.0.1"


def spread(
    work: Callable[..., Outcome],
    jobs: Iterable[Job],
    workers: int,
    scheduler: str | None = None,
    keys: Path | None = None,
) -> Iterator[tuple[int, Outcome]]:
    """Do jobs at the same time; yield the place of each, and what came of it, as they end.

    Parameters
    ----------
    work : callable
        Does a job, given as its arguments; it can be pickled, and says what fails instead of raising.
    jobs : iterable of tuple
        The jobs; a few more are taken from it than are done at once.
    workers : int
        How many at once on this machine.
    scheduler : str, optional
        Address of a scheduler, 'tcp://127.0.0.1:8786'; jobs are done by its workers, which see the same files.
    keys : Path, optional
        Folder with ca.pem, cert.pem and key.pem, for a scheduler on another machine, 'tls://host:8786'.

    Raises
    ------
    BadInput
        If the scheduler is not there, is on another machine and not secured, no worker comes within a minute, or what
        talks to it is not installed.
    """
    if scheduler is not None:
        yield from _elsewhere(work, jobs, scheduler, keys)
    elif workers == 1:
        for place, job in enumerate(jobs):
            yield place, work(*job)
    else:
        yield from _at_once(work, jobs, workers)


def _at_once(work: Callable[..., Outcome], jobs: Iterable[Job], workers: int) -> Iterator[tuple[int, Outcome]]:
    """Do jobs in processes; what was under way when one of these was stopped is done again, each job alone."""
    from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
    from concurrent.futures.process import BrokenProcessPool

    todo, ended = enumerate(jobs), False
    while not ended:
        waiting: dict[Future[Outcome], tuple[int, Job]] = {}
        lost: list[tuple[int, Job]] = []
        with ProcessPoolExecutor(workers) as pool:
            while not lost:
                for place, job in islice(todo, _AHEAD * workers - len(waiting)):
                    try:
                        waiting[pool.submit(work, *job)] = place, job
                    except BrokenProcessPool:
                        lost.append((place, job))
                if not waiting:
                    ended = not lost
                    break
                for one in wait(waiting, return_when=FIRST_COMPLETED).done:
                    place, job = waiting.pop(one)
                    try:
                        yield place, one.result()
                    except BrokenProcessPool:
                        lost.append((place, job))
        for place, job in sorted([*lost, *waiting.values()], key=lambda item: item[0]):
            yield place, _alone(work, job)


def _alone(work: Callable[..., Outcome], job: Job) -> Outcome:
    from concurrent.futures import ProcessPoolExecutor
    from concurrent.futures.process import BrokenProcessPool

    with ProcessPoolExecutor(1) as pool:
        try:
            return pool.submit(work, *job).result()
        except BrokenProcessPool:
            return False, [tr("The process that did it was stopped. Run it again.")]


def _elsewhere(
    work: Callable[..., Outcome], jobs: Iterable[Job], scheduler: str, keys: Path | None
) -> Iterator[tuple[int, Outcome]]:  # fmt: skip
    _check_address(scheduler, keys)
    try:
        from distributed import Client, Security
        from distributed import as_completed as ended
    except ImportError as error:
        raise BadInput("Work on several machines needs Dask: pip install 'drip-pot[cluster]'.") from error
    secured = None
    if keys is not None:
        files = {name: keys / f"{name}.pem" for name in ("ca", "cert", "key")}
        lost = next((path for path in files.values() if not path.is_file()), None)
        if lost is not None:
            raise BadInput("{0} is missing. --tls names a folder with ca.pem, cert.pem and key.pem.", lost)
        secured = Security(tls_ca_file=str(files["ca"]), tls_client_cert=str(files["cert"]),
                           tls_client_key=str(files["key"]), require_encryption=True)  # fmt: skip
    try:
        client = Client(scheduler, timeout="10s", security=secured)
    except (OSError, ValueError) as error:
        raise BadInput("No scheduler answers at {0}. Start one with: {1}", scheduler, _BEGIN) from error
    with client:
        try:
            client.wait_for_workers(1, timeout=_WORKER_S)
        except TimeoutError as error:
            raise BadInput(
                "No worker came to {0} within {1} seconds; nothing was done. Start one with: dask worker {0}",
                scheduler, _WORKER_S,
            ) from error  # fmt: skip
        todo = enumerate(jobs)
        width = _AHEAD * max(2, sum(client.ncores().values()))
        waiting = {client.submit(work, *job, pure=False, retries=_AGAIN): k for k, job in islice(todo, width)}
        coming = ended(list(waiting))
        for one in coming:
            if one.status == "finished":
                yield waiting.pop(one), one.result()
            else:
                yield waiting.pop(one), (False, [tr("It was lost with its worker: {0}", one.exception())])
            for place, job in islice(todo, 1):
                fresh = client.submit(work, *job, pure=False, retries=_AGAIN)
                waiting[fresh] = place
                coming.add(fresh)


def _check_address(scheduler: str, keys: Path | None) -> None:
    """Refuse to send work over a network in the open: whoever answers there could run any program as this person."""
    kind, _, place = scheduler.rpartition("://")
    host = place.rsplit(":", 1)[0].strip("[]")
    if not (host == "localhost" or host == "::1" or host.startswith("127.")) and (keys is None or kind != "tls"):
        raise BadInput(
            "{0} is another machine. Work goes there only encrypted and with a key that both have: give its address as "
            "tls://HOST:PORT and --tls a folder with ca.pem, cert.pem and key.pem. Whoever holds that key, and every "
            "worker there, can run any program as you.",
            scheduler,
        )


def _lines(path: Path | None) -> list[str]:
    """Return the lines of a report; none where there is none yet."""
    try:
        return [] if path is None else path.read_text(encoding="utf-8", errors="replace").splitlines()
    except FileNotFoundError:
        return []
    except OSError as error:
        raise BadInput("{0} cannot be read: {1}.", path, error.strerror or error) from error


class Report:
    """What was done, as lines of JSON in a file, so that it can go on where it was stopped; without a file, nothing.

    Parameters
    ----------
    path : Path, optional
        The file; read if it is there, else begun. Raises `CannotWrite` where it cannot be.

    Attributes
    ----------
    run : str
        A mark of all that is done with this report, also when it is begun again; what is done carries it.
    """

    def __init__(self, path: Path | None) -> None:
        self._path = path
        self.done: set[str] = set()
        self.run = ""
        for line in _lines(path):
            try:
                told = json.loads(line)
            except ValueError:
                continue  # the line that was being written as it was stopped
            if isinstance(told, dict) and told.get("done") is True:
                self.done.add(str(told.get("job")))
            if isinstance(told, dict) and isinstance(told.get("run"), str):
                self.run = self.run or told["run"]
        if not self.run:
            self.run = secrets.token_hex(8)
            self._write({"run": self.run})

    def add(self, job: str, said: Outcome) -> None:
        """Note what came of a job; raises `CannotWrite`."""
        self._write({"job": job, "done": said[0], "said": said[1]})

    def _write(self, told: dict[str, object]) -> None:
        if self._path is None:
            return
        try:
            known = self._path.read_bytes() if self._path.exists() else b""
            cut_short = bool(known) and not known.endswith(b"\n")
            with self._path.open("a", encoding="utf-8") as out:
                out.write("\n" if cut_short else "")
                out.write(json.dumps(told, ensure_ascii=False) + "\n")
                out.flush()
                os.fsync(out.fileno())
        except OSError as error:
            raise CannotWrite("{0} cannot be written: {1}.", self._path, error.strerror or error) from error
