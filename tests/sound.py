"""Days on which a unit is sound: the entries of a visit that ends so, for whoever needs a history."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

import uuid6
from sqlalchemy import Connection

from dry_gauge.notebook.kind import Body
from dry_gauge.notebook.subjects.clock import ClockBody
from dry_gauge.notebook.subjects.closing import ClosingBody, Outcome
from dry_gauge.notebook.subjects.observations import ObservationBody
from dry_gauge.notebook.subjects.readings import ReadingBody
from dry_gauge.notebook.subjects.running import ClockEvent
from dry_gauge.service.append import Sent, append
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import add_visit
from tests.builders import HEALTHY, reading

PROVEN = [ObservationBody(what=what, state="yes") for what in ("evaporator_air_proven", "condenser_air_proven")]


def readings_of(values: dict[str, float]) -> list[Body]:
    return [ReadingBody(**reading(name, value)) for name, value in values.items()]


def sound_visit(
    connection: Connection,
    someone: Someone,
    unit: UUID,
    at: datetime,
    values: dict[str, float] = HEALTHY,
    *more: Body,
    outcome: Outcome | None = Outcome.NOTHING_WRONG,
) -> UUID:
    """A visit that read those values; closed so, or left open."""
    visit = uuid6.uuid7()
    add_visit(
        connection,
        shop_id=someone.shop_id,
        id=visit,
        unit_id=unit,
        technician_id=someone.person_id,
        planned_for=at,
        status="open",
    )
    bodies: list[Any] = [*more, ClockBody(event=ClockEvent.STARTED, minutes_ago=25), *PROVEN, *readings_of(values)]
    if outcome is not None:
        bodies.append(ClosingBody(outcome=outcome, summary="looked over", override="as it was asked for"))
    for i, body in enumerate(bodies):
        append(connection, someone, visit, Sent(uuid6.uuid7(), body), at + timedelta(seconds=20 * i))
    return visit
