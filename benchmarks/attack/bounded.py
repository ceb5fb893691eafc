# SPDX-License-Identifier: GPL-3.0-or-later
"""One case in a process of its own, within time and memory. Knows nothing of what a case does."""

import os
import resource
import signal
import sys
import traceback
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from drip_pot.core.errors import DripPotError

SECONDS, GIGABYTES = 20, 4
_TRACEBACK, _REFUSED = 71, 72


@dataclass(frozen=True)
class Outcome:
    """How a case ended: 'ok', 'refused', 'traceback', 'slow', 'large' or 'killed'; what it said; its cost."""

    end: str
    said: str
    megabytes: int


def bounded(case: Callable[[], object], log: Path) -> Outcome:
    """Run a case in a child; errors that have a sentence are refusals, all others are faults."""
    child = os.fork()
    if child == 0:
        _run(case, log)
    _, status, used = os.wait4(child, 0)
    megabytes = used.ru_maxrss // 1024
    said = log.read_text(errors="replace") if log.exists() else ""
    if os.WIFSIGNALED(status):
        return Outcome("slow" if os.WTERMSIG(status) == signal.SIGALRM else "killed", said, megabytes)
    end = {0: "ok", _REFUSED: "refused"}.get(os.WEXITSTATUS(status), "traceback")
    if "Traceback" in said:
        end = "traceback"
    return Outcome("large" if megabytes > GIGABYTES * 1024 else end, said, megabytes)


def _run(case: Callable[[], object], log: Path) -> None:
    out = os.open(log, os.O_WRONLY | os.O_CREAT | os.O_TRUNC)
    os.dup2(out, 1)
    os.dup2(out, 2)
    sys.stdout, sys.stderr = (os.fdopen(k, "w", errors="backslashreplace") for k in (1, 2))
    resource.setrlimit(resource.RLIMIT_AS, (16 << 30, 16 << 30))
    signal.alarm(SECONDS)
    code = 0
    try:
        case()
    except DripPotError as error:
        print(f"{type(error).__name__}: {error}")
        code = _REFUSED
    except SystemExit as leaving:
        code = 0 if leaving.code in (0, 1, 2, None) else _TRACEBACK
    except BaseException:  # noqa: BLE001 - a fault of any kind is what is looked for
        traceback.print_exc()
        code = _TRACEBACK
    finally:
        sys.stdout.flush()
        sys.stderr.flush()
        os._exit(code)
