"""The weather at the roof: what is known of it, and what it asks for at this moment."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from datetime import timedelta
from typing import Any, TypeVar

from dry_gauge.core.dimensions import UNITS
from dry_gauge.core.local_time import clock
from dry_gauge.core.visit.cautions import Caution
from dry_gauge.core.visit.weather import SKY_WORDS, heat_index_k, heeded
from dry_gauge.core.words import Reader
from dry_gauge.notebook.kind import Kept
from dry_gauge.notebook.subjects.readings import Readings
from dry_gauge.notebook.subjects.remarks import Remarks
from dry_gauge.notebook.subjects.weather import Weather
from dry_gauge.present.scene import Scene

K = TypeVar("K", bound=Kept[Any])
_LASTS = timedelta(hours=6)


@dataclass(frozen=True, slots=True)
class WeatherNow:
    """The weather as it was told: the sky that is marked, and all of it in a line."""

    sky: str
    words: str


def weather_now(scene: Scene) -> WeatherNow:
    """What is known of it."""
    told = _lately(scene.view.state[Weather].sky, scene)
    sky = told.body.sky if told else None
    air_k, humidity, reader = _air_k(scene), _humidity(scene), scene.reader
    dark = scene.dark_at if scene.dark_at and scene.dark_at > scene.now else None
    parts = [
        SKY_WORDS[sky] if sky else "",
        "" if air_k is None else reader.say("temperature", air_k),
        "" if humidity is None else f"{100 * humidity:.0f} % humidity",
        "" if air_k is None or humidity is None else f"feels like {_felt(air_k, humidity, reader)}",
        f"dark by {clock(dark)}" if dark else "",
    ]
    words = ", ".join(filter(None, parts))
    return WeatherNow(sky.value if sky else "", words[:1].upper() + words[1:])


def _felt(air_k: float, humidity: float, reader: Reader) -> str:
    return reader.say("temperature", heat_index_k(air_k, humidity))


def weather_cautions(scene: Scene, now: Collection[str]) -> tuple[list[Caution], list[Caution]]:
    """What the weather asks for, before and after all other cautions; of a walk-in nobody knows whether it is outdoors."""
    if scene.view.facts.kind.is_walk_in or scene.view.visit.status == "closed":
        return [], []
    state = scene.view.state
    told, heard = _lately(state[Weather].sky, scene), state[Weather].thunder_at
    dark = None if scene.dark_at is None else (scene.dark_at - scene.now).total_seconds() / 60
    return heeded(
        now,
        state[Remarks].cautions,
        scene.reader,
        sky=told.body.sky if told else None,
        air_k=_air_k(scene),
        humidity=_humidity(scene),
        thunder_minutes=None if heard is None else (scene.now - heard).total_seconds() / 60,
        thunder_code="" if heard is None else f"{heard:%d%H%M%S%f}",
        dark_in_minutes=dark,
    )


def _lately(one: K | None, scene: Scene) -> K | None:
    """What was told or read, unless the weather has had time to change."""
    return one if one is not None and scene.now - one.at < _LASTS else None


def _air_k(scene: Scene) -> float | None:
    """As it was told last, or as the outdoor probe read it, whichever is younger. [K]"""
    told = _lately(scene.view.state[Weather].air, scene)
    read = _lately(scene.view.state[Readings].shown("outdoor_air_temp"), scene)
    if told is not None and told.body.temp is not None and (read is None or told.at >= read.at):
        return UNITS[told.body.temp_unit].to_si(told.body.temp)
    return None if read is None else UNITS[read.body.unit].to_si(read.body.value)


def _humidity(scene: Scene) -> float | None:
    told = _lately(scene.view.state[Weather].damp, scene)
    return None if told is None or told.body.humidity is None else told.body.humidity / 100
