"""A hub of simulated probes in a thread, for tests that need live readings."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager

from dry_gauge.probes.simulated import Hub, Scene, frames


@contextmanager
def feeding(
    server: str, visit: object, token: str, scene: Scene, name: str = "bench", pause: float = 0.25
) -> Iterator[Hub]:
    """Feeds a visit for as long as the block runs, a few frames a second."""
    hub, over = Hub(server, str(visit), token, name), threading.Event()
    hub.connect()

    def run() -> None:
        for lines in frames(scene):
            if over.is_set():
                return
            hub.add(lines)
            hub.send()
            time.sleep(pause)

    thread = threading.Thread(target=run)
    thread.start()
    try:
        yield hub
    finally:
        over.set()
        thread.join(10)
