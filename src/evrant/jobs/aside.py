"""A second process that looks into recipes, on a core that would lie idle.

It is spoken to in pickles, through its own pipes only, and ends when they are closed.
"""

import os
import pickle
import select
import signal
import subprocess
import sys
from collections.abc import Mapping, Sequence
from contextlib import suppress
from threading import Thread
from typing import IO, TYPE_CHECKING, Any

from evrant.core.search.kit.case import Case
from evrant.core.search.kit.check import Checker
from evrant.core.search.kit.crew import Answer, Gone, Lone, Task
from evrant.core.search.kit.market import Market
from evrant.core.search.kit.verdicts import Fail, Report
from evrant.core.studio.studio import Studio

if TYPE_CHECKING:
    from evrant.core.search.kit.alone import Alone


def cores() -> int:
    """Cores this process may use."""
    return len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1


def start(studio: Studio, market: Market, cases: Sequence[Case]) -> "Aside | None":
    """A second process for some cases, where there is a core for it."""
    return Aside(studio, market, cases) if cores() > 1 else None


class Aside:
    """The other process, seen from this one."""

    def __init__(self, studio: Studio, market: Market, cases: Sequence[Case]) -> None:
        alone = {**os.environ, "OPENBLAS_NUM_THREADS": "1"}
        command = [sys.executable, "-c", f"from {__name__} import main; main()"]
        self._process = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, env=alone)
        self._sending = Thread(target=self._send, args=((studio, market, tuple(cases)),), daemon=True)
        self._sending.start()

    @property
    def pid(self) -> int:
        return self._process.pid

    def ask(self, task: Task | Lone) -> None:
        """Give it work; it comes back from `answer`."""
        self._sending.join()
        self._send(task)

    def ready(self, seconds: float = 0.0) -> bool:
        """Whether it has answered, or ended, now or within so long."""
        assert self._process.stdout is not None
        return bool(select.select([self._process.stdout], [], [], seconds)[0])

    def answer(self) -> Answer:
        """What it found, waited for. Raises Gone when the process has ended."""
        assert self._process.stdout is not None
        try:
            found = pickle.load(self._process.stdout)
        except (EOFError, OSError, pickle.UnpicklingError) as error:
            raise Gone from error
        assert isinstance(found, Answer)
        return found

    def close(self) -> None:
        """End it at once: it has nothing to lose, and who is busy does not see that its pipes are closed."""
        self._process.kill()
        self._process.wait()
        self._sending.join()
        for pipe in (self._process.stdin, self._process.stdout):
            if pipe is not None:
                with suppress(OSError):
                    pipe.close()

    def _send(self, what: object) -> None:
        assert self._process.stdin is not None
        try:
            pickle.dump(what, self._process.stdin)
            self._process.stdin.flush()
        except (OSError, ValueError):
            return  # it has ended; `answer` says so


def serve(asked: IO[bytes], told: IO[bytes]) -> None:
    """Do tasks until nobody asks any more: then reading raises EOFError."""
    from evrant.core.search.kit.alone import Alone  # the solver is loaded here, not by who starts this process

    studio, market, cases = pickle.load(asked)
    alone, by_id = Alone(Checker(studio, market)), {case.id: case for case in cases}
    while True:
        task: Any = pickle.load(asked)
        reports = _lone(alone, by_id[task.case], task) if isinstance(task, Lone) else _asked(alone, by_id, task)
        pickle.dump(Answer(reports, alone.checker.counts), told)
        told.flush()


def _lone(alone: "Alone", case: Case, job: Lone) -> dict[str, Report]:
    for _ in alone.looks(case, job.budget, job.free):
        pass
    return {case.id: alone.taken(case)}


def _asked(alone: "Alone", cases: Mapping[str, Case], task: Task) -> dict[str, Report]:
    reports = {}
    for key, recipe in task.recipes.items():
        reports[key] = alone.report(cases[key], recipe, task.level)
        if not task.all and isinstance(reports[key].found, Fail):
            break
    return reports


def main() -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    told = os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)  # what anything prints goes to where errors go
    with suppress(EOFError, BrokenPipeError):
        serve(sys.stdin.buffer, told)
