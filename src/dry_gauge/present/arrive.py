"""Arrive: what is known before anything is touched, and this visit's gaps beside those of the visit before."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dry_gauge.core.judgement.evidence import GAP_LABELS
from dry_gauge.core.words import Reader
from dry_gauge.present.scene import History, Scene
from dry_gauge.present.visit import VisitView, circuit_of
from dry_gauge.present.weather import WeatherNow, weather_now

_COMPARED = ("superheat", "subcooling", "evaporator_td", "condenser_split", "air_split", "coil_superheat")


@dataclass(frozen=True, slots=True)
class Comparison:
    """One gap now and on the visit before."""

    label: str
    then: str
    now: str


@dataclass(frozen=True, slots=True)
class Arrive:
    """The unit's past and the comparison."""

    history: History | None
    comparison: Sequence[Comparison]
    weather: WeatherNow


def arrive(scene: Scene) -> Arrive:
    """What is known before anything is touched."""
    last = scene.history.last if scene.history else None
    return Arrive(scene.history, compared(scene.view, last, scene.reader), weather_now(scene))


def compared(view: VisitView, last: VisitView | None, reader: Reader) -> list[Comparison]:
    """This visit's gaps beside those of the visit before."""
    now, then = (circuit_of(one, 1) if one else None for one in (view, last))
    if then is None:
        return []
    rows = []
    for name, label in GAP_LABELS.items():
        before = then.derived.get(name)
        if name not in _COMPARED or before is None or not before.measured.sources:
            continue
        value = now.derived.get(name) if now else None
        rows.append(
            Comparison(label, reader.say("difference", before.value), reader.say("difference", value.value) if value else "")
        )
    return rows
