"""Work that may harm or hold up whoever does it, in a process of its own, one piece at a time."""

from __future__ import annotations

import multiprocessing
import resource
import threading
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from typing import ParamSpec, TypeVar

_MOST_BYTES = 1_500_000_000
_P = ParamSpec("_P")
_T = TypeVar("_T")


class TooMuch(Exception):
    """A piece of work took more memory or time than it may; its process was ended."""


def _bounded() -> None:
    """The child's memory has an end, so that the machine's has not."""
    resource.setrlimit(resource.RLIMIT_AS, (_MOST_BYTES, _MOST_BYTES))


def can_work_apart() -> bool:
    """Whether a process of its own can be talked to here: that needs a /dev/shm that may be written."""
    try:
        multiprocessing.get_context("spawn").Lock()
    except OSError:
        return False
    return True


class Apart:
    """One process beside ours: started for the first piece of work, and again where one was too much for it."""

    def __init__(self, seconds: float) -> None:
        self._seconds, self._lock = seconds, threading.Lock()
        self._pool: ProcessPoolExecutor | None = None

    def do(self, work: Callable[_P, _T], *given: _P.args, **named: _P.kwargs) -> _T:
        """One piece of work; what it raises is raised here.

        Raises
        ------
        TooMuch
        """
        with self._lock:
            if self._pool is None:
                # Not forked: this process has threads. Renewed now and then, whatever a library may have kept.
                spawn = multiprocessing.get_context("spawn")
                self._pool = ProcessPoolExecutor(1, mp_context=spawn, initializer=_bounded, max_tasks_per_child=50)
            pool = self._pool
        try:
            return pool.submit(work, *given, **named).result(self._seconds)
        except (BrokenProcessPool, MemoryError, TimeoutError):
            self.close()
            raise TooMuch from None

    def close(self) -> None:
        """End its process."""
        with self._lock:
            pool, self._pool = self._pool, None
        if pool is not None:
            for process in list((pool._processes or {}).values()):
                process.kill()
            pool.shutdown(wait=False, cancel_futures=True)
