"""Photos are decoded in a process of their own, one at a time: what a picture does to its decoder harms nobody else."""

from __future__ import annotations

import multiprocessing
import resource
import threading
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool

from dry_gauge.core.errors import Refused
from dry_gauge.exchange.pictures import Picture, made_small

_MOST_BYTES = 1_500_000_000
_MOST_SECONDS = 60
_BROKEN = "This photo could not be read here. Take it again, or in a smaller size."


def _bounded() -> None:
    """The child's memory has an end, so that the machine's has not."""
    resource.setrlimit(resource.RLIMIT_AS, (_MOST_BYTES, _MOST_BYTES))


class PictureWorker:
    """Makes photos small; its process is started for the first and started again where one was too much for it."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._pool: ProcessPoolExecutor | None = None

    def made_small(self, raw: bytes) -> Picture:
        """A photo ready to be kept.

        Raises
        ------
        Refused
            For what is no photo, is broken, has too many pixels, or takes more memory or time than a photo needs.
        """
        if not raw:
            raise Refused("Choose a photo first.", "photo")
        with self._lock:
            if self._pool is None:
                # Not forked: this process has threads. Renewed now and then, whatever a decoder may have kept.
                spawn = multiprocessing.get_context("spawn")
                self._pool = ProcessPoolExecutor(1, mp_context=spawn, initializer=_bounded, max_tasks_per_child=50)
            pool = self._pool
        try:
            return pool.submit(made_small, raw).result(_MOST_SECONDS)
        except (BrokenProcessPool, MemoryError, TimeoutError):
            self.close()
            raise Refused(_BROKEN, "photo") from None

    def close(self) -> None:
        """End its process."""
        with self._lock:
            pool, self._pool = self._pool, None
        if pool is not None:
            for process in list((pool._processes or {}).values()):
                process.kill()
            pool.shutdown(wait=False, cancel_futures=True)
