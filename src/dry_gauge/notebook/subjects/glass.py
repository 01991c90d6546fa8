"""The sight glass after a step of charge: what it showed belongs to that step, and to what was looked at."""

from __future__ import annotations

from typing import Literal
from uuid import UUID

from dry_gauge.core.vocabulary import State
from dry_gauge.notebook.kind import Body, Case, Entry, Kept, Kind, Part, VisitState, kept
from dry_gauge.notebook.subjects.movements import Charge
from dry_gauge.notebook.subjects.observations import ObservationBody, seen

GLASS_WORDS = {"bubbles": "bubbles", "clear": "clear"}


class GlassBody(Body):
    """What the glass shows after that movement."""

    kind: Literal["glass"] = "glass"
    movement: UUID
    shows: Literal["bubbles", "clear"]


class Glass(Part):
    """The latest look after each movement, by the movement."""

    after: dict[str, Kept[GlassBody]] = {}


def _looked(visit: VisitState, entry: Entry, body: GlassBody) -> VisitState:
    state = State.YES if body.shows == "bubbles" else State.NO
    visit = seen(visit, entry, ObservationBody(what="sight_glass_bubbles", state=state))
    return visit.changing(Glass, after=visit[Glass].after | {str(body.movement): Kept[GlassBody](**kept(entry))})


def _movement_of(case: Case[GlassBody]) -> dict[str, object]:
    return {"movement": case.visit[Charge].moved.get(str(case.body.movement))}


KINDS = (Kind(GlassBody, lambda body, _: ("Glass after the step", GLASS_WORDS[body.shows]), _looked, refers=_movement_of),)
