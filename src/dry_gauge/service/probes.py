"""Live probes: tokens, samples in, and the numbers that the open visit shows beside what was typed."""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from uuid import UUID

from sqlalchemy import Connection

from dry_gauge.core.errors import ImpossibleAir
from dry_gauge.core.judgement.assess import Assessment, assess
from dry_gauge.core.probes import LatestProbe, is_fresh
from dry_gauge.core.sheet import Reading
from dry_gauge.core.vocabulary import QUANTITIES, default_half_width_si
from dry_gauge.notebook.sheets import minutes_between
from dry_gauge.notebook.subjects.readings import tags_of
from dry_gauge.notebook.subjects.running import ClockEvent, Running
from dry_gauge.present.visit import VisitView, sheet_today
from dry_gauge.probes.protocol import Batch, read_lines, seconds_ago
from dry_gauge.service import audit
from dry_gauge.service.allowed import NotHere
from dry_gauge.service.notebooks import facts_of
from dry_gauge.store import samples, visits
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import FedVisit

TOKEN_LIFETIME = timedelta(days=2)
HUB_NAME_LENGTH = 40


class NoSuchToken(Exception):
    """The token is unknown, over, or of another visit."""


def token_hash(token: str) -> bytes:
    """What is kept of a token."""
    return hashlib.sha256(token.encode()).digest()


def new_token() -> str:
    """A secret that a command line takes as it is: one that began with a dash would be read as an option."""
    return secrets.token_hex(24)


def make_token(connection: Connection, someone: Someone, visit_id: UUID) -> str:
    """A new token with which a hub may feed this visit for two days.

    Raises
    ------
    NotHere
    """
    if visits.find_visit(connection, visit_id) is None:
        raise NotHere("There is no such visit in your shop.")
    token = new_token()
    samples.make_token(connection, token_hash(token), visit_id, someone.person_id, TOKEN_LIFETIME)
    audit.note(connection, someone, "probe_token_made", str(visit_id))
    return token


def end_token(connection: Connection, someone: Someone, visit_id: UUID, token_id: str) -> None:
    """End a token of a visit; does no harm twice."""
    try:
        ended = samples.end_token(connection, visit_id, UUID(token_id))
    except ValueError:
        ended = False
    if ended:
        audit.note(connection, someone, "probe_token_ended", str(visit_id))


def open_visit(connection: Connection, token: str, visit_id: UUID) -> tuple[UUID, FedVisit]:
    """Shop and visit that a hub may feed.

    Raises
    ------
    NoSuchToken
    """
    opened = samples.open_token(connection, token_hash(token))
    visit = visits.find_fed(connection, visit_id) if opened and opened[1] == visit_id else None
    if opened is None or visit is None:
        raise NoSuchToken("This token does not open this visit. Take a new one from the visit's page.")
    return opened[0], visit


def take_in(connection: Connection, shop_id: UUID, visit: FedVisit, hub: str, body: bytes, now: datetime) -> Batch:
    """Keep what a hub sent; acknowledge it only once the transaction is committed."""
    acknowledged, latest = samples.lock_hub(connection, shop_id, visit.id, hub)
    batch = read_lines(body, acknowledged, facts_of(visit.facts))
    if batch.acknowledged == acknowledged:
        return batch
    at = [now - timedelta(seconds=seconds) for seconds in seconds_ago(batch.samples)]
    for one, moment in zip(batch.samples, at, strict=True):
        latest[one.probe] = {
            "quantity": one.quantity,
            "circuit": one.circuit,
            "value_si": one.value_si,
            "value": one.value,
            "unit": one.unit,
            "state": one.state.value,
            "battery": one.battery,
            "at": moment.isoformat(),
        }
    samples.add(connection, shop_id, visit.id, hub, batch.samples, at, batch.acknowledged, latest)
    return batch


@dataclass(frozen=True, slots=True)
class Live:
    """A visit with its live probes laid over what was typed."""

    probes: Sequence[LatestProbe]
    assessment: Assessment | None


def lay_over(view: VisitView, probes: Sequence[LatestProbe], school: str, now: datetime | None = None) -> Live:
    """What the visit would read if every live probe were taken now.

    Readings taken with a panel off or a coil wet are not compared, live ones no more than typed ones.
    """
    now = now or datetime.now(UTC)
    fresh = [probe for probe in probes if is_fresh(probe, now) and probe.quantity in QUANTITIES]
    if tags_of(view.state) or not fresh:
        return Live(probes, None)
    sheet = sheet_today(view.visit, view.facts, view.state, school).sheet
    running = view.state[Running].as_read_at(now, runs=True)
    minutes, *since = (minutes_between(running.since(event), now) for event in ClockEvent)
    live = {(probe.quantity, probe.circuit): _reading(probe, view, minutes) for probe in fresh}
    kept = tuple(one for one in sheet.readings if (one.quantity, one.circuit or 1) not in live)
    try:
        return Live(
            probes,
            assess(
                replace(
                    sheet,
                    readings=(*kept, *live.values()),
                    minutes_running=minutes,
                    minutes_since_change=since[0],
                    minutes_since_charge=since[1],
                    minutes_since_defrost=since[2],
                )
            ),
        )
    except ImpossibleAir:
        return Live(probes, None)


def _reading(probe: LatestProbe, view: VisitView, minutes: float | None) -> Reading:
    assert probe.value_si is not None
    quantity = QUANTITIES[probe.quantity]
    half = default_half_width_si(quantity, probe.value_si, view.facts.atmosphere_pa)
    stage = view.state[Running].running_stage.casefold() or None  # it is read in the stage that runs now
    return Reading(probe.quantity, probe.value_si, half, minutes, None if quantity.shared else probe.circuit, stage)
