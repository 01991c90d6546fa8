"""Look: the survey of the whole unit, place by place, and what the loop shows of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dry_gauge.core.visit.survey import PlaceState, survey
from dry_gauge.core.vocabulary import SIGHTS
from dry_gauge.notebook.subjects.observations import Observations
from dry_gauge.notebook.subjects.readings import Readings, is_of_other_mode
from dry_gauge.present.rows import SightRow, shown_value, sight_row
from dry_gauge.present.scene import Scene

_MARKED = (("suction", "suction_line_temp"), ("compressor", "discharge_line_temp"), ("liquid", "liquid_line_temp"))


@dataclass(frozen=True, slots=True)
class SurveyPlace:
    """A place of the survey with its questions as switches."""

    name: str
    label: str
    answered: int
    findings: tuple[str, ...]
    rows: Sequence[SightRow]


@dataclass(frozen=True, slots=True)
class Look:
    """The survey; what the loop is drawn from: places as they stand, and temperatures beside them by spot."""

    places: Sequence[SurveyPlace]
    found: Sequence[PlaceState]
    marks: Sequence[tuple[str, str]]


def look(scene: Scene) -> Look:
    """The survey as it stands."""
    view, unit = scene.view, scene.reader.temperature_unit
    found = survey(view.facts, view.state[Observations].states())
    marks = [
        (spot, f"{shown_value(kept, view.facts, unit)} °{unit}")
        for spot, quantity in _MARKED
        if (kept := view.state[Readings].shown(quantity)) and not is_of_other_mode(view.state, kept)
    ]
    places = [
        SurveyPlace(
            state.place.name,
            state.place.label,
            state.answered,
            state.findings,
            [sight_row(SIGHTS[what], view, scene.circuit) for what in state.place.sights],
        )
        for state in found
    ]
    return Look(places, found, marks)
