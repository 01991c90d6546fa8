"""Scale and vacuum gauge while they are live: what they show now, and what they showed since the notebook last knew."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from uuid import NAMESPACE_OID, UUID, uuid5

from sqlalchemy import Connection

from dry_gauge.core.dimensions import MICRON_PA
from dry_gauge.core.probes import VACUUM
from dry_gauge.core.sealed.vacuum import GAUGE_RANGE_PA
from dry_gauge.notebook.subjects.vacuum import MOST_TRACE_POINTS, KeptEvacuation, TraceBody, Vacuum, VacuumEvent
from dry_gauge.present.visit import VisitView
from dry_gauge.service.append import Sent, append
from dry_gauge.service.notebooks import load
from dry_gauge.store import samples, visits
from dry_gauge.store.people import Someone

Points = tuple[tuple[datetime, float], ...]


def since_kept(connection: Connection, visit_id: UUID, kept: KeptEvacuation) -> Points:
    """What the live gauge showed after the last point in the notebook, thinned; nothing where the pump never ran."""
    started = next((one.at for one in kept.events if one.body.event is VacuumEvent.PUMP_ON), None)
    if started is None:
        return ()
    last = max([at for at, _ in kept.points if at >= started], default=started)
    listed = [
        (at, value / MICRON_PA)
        for at, value in samples.of_one(connection, visit_id, VACUUM, last)
        if GAUGE_RANGE_PA[0] <= value <= 1_000_000 * MICRON_PA
    ]
    return thinned(listed, MOST_TRACE_POINTS)


def thinned(points: Sequence[tuple[datetime, float]], most: int) -> Points:
    """At most that many points, evenly, the first and the last among them."""
    if len(points) <= most:
        return tuple(points)
    step = (len(points) - 1) / (most - 1)
    return tuple(points[round(i * step)] for i in range(most))


def keep_trace(connection: Connection, someone: Someone, visit_id: UUID, event_id: UUID, evacuation: UUID, now: datetime) -> None:
    """Put into the notebook what the live gauge showed before an event, under an id that follows from the event's.

    So the verdict rests on entries, and the event sent twice keeps one trace.
    """
    trace_id = uuid5(NAMESPACE_OID, f"trace before {event_id}")
    if visits.find_entry(connection, trace_id) is not None or visits.find_entry(connection, event_id) is not None:
        return
    view: VisitView = load(connection, someone, visit_id)
    kept = view.state[Vacuum].evacuations.get(str(evacuation))
    points = since_kept(connection, visit_id, kept) if kept is not None and kept.open else ()
    if not points or not someone.may_write or view.visit.status == "closed":
        return
    ago = tuple(round((now - at).total_seconds(), 1) for at, _ in points)
    body = TraceBody(
        evacuation=evacuation,
        seconds_ago=tuple(max(0.0, one) for one in ago),
        micron=tuple(round(micron, 1) for _, micron in points),
    )
    append(connection, someone, visit_id, Sent(trace_id, body), now)
