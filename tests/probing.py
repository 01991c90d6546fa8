"""A hub of simulated probes in a thread, for tests that need live readings."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from typing import Any

from dry_gauge.core.dimensions import MICRON_PA
from dry_gauge.core.probes import VACUUM
from dry_gauge.probes.rig import Rig
from dry_gauge.probes.simulated import Hub, Scene, frames, rig_frames


@contextmanager
def _sending(hub: Hub, frames_of: Iterable[list[dict[str, object]]], rig: Rig, pause: float) -> Iterator[Hub]:
    """Sends frames for as long as the block runs, a few a second; the rig does what the visit says."""
    over = threading.Event()
    hub.connect()

    def run() -> None:
        for lines in frames_of:
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


def feeding(server: str, visit: object, token: str, scene: Scene, name: str = "bench", pause: float = 0.25) -> Any:
    """Feeds a visit from a unit that runs."""
    rig = Rig()
    return _sending(Hub(server, str(visit), token, name), frames(scene, rig=rig), rig, pause)


def weighing(server: str, visit: object, token: str, rig: Rig, name: str = "rig", pause: float = 0.25) -> Any:
    """Scale and vacuum gauge alone."""
    return _sending(Hub(server, str(visit), token, name), rig_frames(rig), rig, pause)


def gauge_kept(server: str, visit: object, token: str, pressures_pa: Iterable[float], every_seconds: float, name: str) -> None:
    """What a vacuum gauge showed while its hub had no signal, sent at once; the last is now."""
    hub = Hub(server, str(visit), token, name)
    hub.connect()
    for i, pressure_pa in enumerate(pressures_pa):
        hub.add(
            [
                {
                    "t": i * every_seconds,
                    "probe": "Vacuum",
                    "quantity": VACUUM,
                    "unit": "micron",
                    "value": round(pressure_pa / MICRON_PA),
                }
            ]
        )
    while hub.kept:
        assert hub.send()
