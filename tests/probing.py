"""A hub of simulated probes in a thread, for tests that need live readings."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterable, Iterator
from contextlib import contextmanager

from dry_gauge.core.vacuum import MICRON_PA
from dry_gauge.probes.protocol import VACUUM
from dry_gauge.probes.rig import Rig
from dry_gauge.probes.simulated import Hub, Scene, frames, rig_frames


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


@contextmanager
def weighing(server: str, visit: object, token: str, rig: Rig, name: str = "rig", pause: float = 0.25) -> Iterator[Hub]:
    """Scale and vacuum gauge alone, a few frames a second, following what the visit says."""
    hub, over = Hub(server, str(visit), token, name), threading.Event()
    hub.connect()

    def run() -> None:
        for lines in rig_frames(rig):
            if over.is_set():
                return
            hub.add(lines)
            hub.send()
            rig.follow(*hub.said)
            time.sleep(pause)

    thread = threading.Thread(target=run)
    thread.start()
    try:
        yield hub
    finally:
        over.set()
        thread.join(10)


def gauge_kept(
    server: str, visit: object, token: str, pressures_pa: Iterable[float], every_seconds: float, name: str
) -> None:
    """What a vacuum gauge showed while its hub had no signal, sent at once; the last is now."""
    hub = Hub(server, str(visit), token, name)
    hub.connect()
    for i, pressure_pa in enumerate(pressures_pa):
        hub.add([{"t": i * every_seconds, "probe": "Vacuum", "quantity": VACUUM, "unit": "micron",
                  "value": round(pressure_pa / MICRON_PA)}])  # fmt: skip
    while hub.kept:
        assert hub.send()
