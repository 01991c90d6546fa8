"""The weather where one stands, as it is tapped; thunder starts a wait of its own."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from pydantic import Field

from dry_gauge.core.errors import Refused
from dry_gauge.core.visit.weather import SKY_WORDS, THUNDER_MINUTES, Sky
from dry_gauge.notebook.kind import Body, Case, Entry, Kept, Kind, Part, VisitState, kept
from dry_gauge.notebook.subjects.agenda import TimerBody, time_set

_THUNDER = UUID("6a1f5c0e-3d0b-5b57-9d0c-2f6f0a4c7b31")  # of a visit the one wait: heard again, it begins again


class WeatherBody(Body):
    """What comes from above, or how warm and damp it is where one stands; what is not said stays as it was. `humidity` in %."""

    kind: Literal["weather"] = "weather"
    sky: Sky | None = None
    temp: Annotated[float, Field(allow_inf_nan=False, ge=-60, le=150)] | None = None
    temp_unit: Literal["F", "C"] = "F"
    humidity: Annotated[float, Field(allow_inf_nan=False, ge=0, le=100)] | None = None


class Weather(Part):
    """What was told last of the sky, the air and its damp, each by itself, and when thunder was heard last."""

    sky: Kept[WeatherBody] | None = None
    air: Kept[WeatherBody] | None = None
    damp: Kept[WeatherBody] | None = None
    thunder_at: datetime | None = None


def _checked(case: Case[WeatherBody]) -> None:
    body = case.body
    if body.sky is None and body.temp is None and body.humidity is None:
        raise Refused("Type how warm it is in the shade, or how damp.", "temp")
    if body.temp is not None and body.temp > (140 if body.temp_unit == "F" else 60):
        raise Refused(f"{body.temp:g} °{body.temp_unit} is no weather: in the shade, away from the unit.", "temp")


def _told(visit: VisitState, entry: Entry, body: WeatherBody) -> VisitState:
    told = Kept[WeatherBody](**kept(entry))
    if body.sky is not None:
        visit = visit.changing(Weather, sky=told)
    if body.temp is not None:
        visit = visit.changing(Weather, air=told)
    if body.humidity is not None:
        visit = visit.changing(Weather, damp=told)
    if body.sky is not Sky.THUNDER:
        return visit
    visit = visit.changing(Weather, thunder_at=entry.written_at)
    return time_set(visit, entry, _THUNDER, TimerBody(what="Off the roof: since the last thunder", minutes=THUNDER_MINUTES))


def _said(body: WeatherBody, _: VisitState) -> tuple[str, str]:
    warm = f"{body.temp:g} °{body.temp_unit}" if body.temp is not None else ""
    damp = f"{body.humidity:g} % humidity" if body.humidity is not None else ""
    return "Weather", ", ".join(filter(None, (SKY_WORDS[body.sky] if body.sky else "", warm, damp)))


KINDS = (Kind(WeatherBody, _said, _told, _checked),)
