"""The notebook of a play: a visit in the practice shop, to a unit that exists nowhere, written by what is done on it.

Whoever plays writes into it as into any other; what a step showed is entered as if they had typed it.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from uuid import UUID

import numpy as np
import uuid6
from sqlalchemy import Connection

from dry_gauge.bench.control_board import BOARD, CODES
from dry_gauge.bench.practice import game
from dry_gauge.bench.practice.hidden import RATED_UF, Remedy, Sealing
from dry_gauge.bench.practice.unit import PracticeCall
from dry_gauge.bench.practice.worker import ARRIVED_MINUTES, Logged
from dry_gauge.core.dimensions import unit_for
from dry_gauge.core.sheet import Reading
from dry_gauge.core.visit.complaints import Complaint
from dry_gauge.core.vocabulary import QUANTITIES, Mode
from dry_gauge.core.words import Reader
from dry_gauge.exchange.reading_sheet import unit_json
from dry_gauge.notebook.kind import Body
from dry_gauge.notebook.subjects.actions import ActionBody, ActionSort
from dry_gauge.notebook.subjects.call import ClaimBody, ComplaintBody
from dry_gauge.notebook.subjects.clock import ClockBody
from dry_gauge.notebook.subjects.codes import CodeBody
from dry_gauge.notebook.subjects.control_chain import ChainBody, ChainLink, ChainPointBody, ClosedLinkBody, CoilBody
from dry_gauge.notebook.subjects.electrical import CapacitorBody
from dry_gauge.notebook.subjects.hold import HoldBody, HoldEndBody, HoldReadingBody
from dry_gauge.notebook.subjects.ledger import ChangeSort, TemporaryBody
from dry_gauge.notebook.subjects.mode import ModeBody
from dry_gauge.notebook.subjects.observations import ObservationBody
from dry_gauge.notebook.subjects.readings import ReadingBody
from dry_gauge.notebook.subjects.remarks import NoteBody
from dry_gauge.notebook.subjects.running import ClockEvent, Condition, ConditionBody
from dry_gauge.notebook.subjects.vacuum import EvacuationBody, VacuumEvent, VacuumEventBody, VacuumPointBody
from dry_gauge.service.append import Sent, append_all
from dry_gauge.store import controls, register
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import add_visit

_SITES = (
    "Reed Bakery",
    "Harbour Office",
    "Old Mill School",
    "Ferry Rooms",
    "Salt Street Clinic",
    "Gull Hall",
    "Pier Library",
    "North Quay Store",
)
_BEFORE = (
    "Filter changed, coils rinsed. It ran well.",
    "Season check; nothing found.",
    "Thermostat set lower for the tenant.",
    "Drain cleared, trap filled.",
)
_DONE: dict[Remedy, ActionSort] = {
    Remedy.FILTER: ActionSort.FILTER_CHANGED, Remedy.EVAPORATOR: ActionSort.EVAPORATOR_CLEANED,
    Remedy.CONDENSER: ActionSort.CONDENSER_CLEANED, Remedy.BLOWER: ActionSort.BELT_OR_BLOWER,
    Remedy.OUTDOOR_FAN: ActionSort.OUTDOOR_FAN, Remedy.DAMPER: ActionSort.DAMPER_OPENED, Remedy.DRAIN: ActionSort.DRAIN_CLEARED,
    Remedy.AIR_DOWN: ActionSort.SETTING_CHANGED, Remedy.GAS_IN: ActionSort.CHARGE_ADJUSTED,
    Remedy.GAS_OUT: ActionSort.CHARGE_ADJUSTED, Remedy.LEAK: ActionSort.CHARGE_ADJUSTED, Remedy.DRIER: ActionSort.DRIER_CHANGED,
    Remedy.METERING: ActionSort.METERING_DEVICE, Remedy.RECHARGE: ActionSort.CHARGE_ADJUSTED,
    Remedy.SHORT: ActionSort.ELECTRICAL_PART, Remedy.CAPACITOR: ActionSort.ELECTRICAL_PART,
}  # fmt: skip


def begin_visit(
    connection: Connection, someone: Someone, call: PracticeCall, said: Sequence[str], seed: int, at: datetime
) -> UUID:
    """Put the unit on a card of the practice shop, with a visit of last year, and open a visit to it."""
    chance = np.random.default_rng((seed, 2))
    site_id, unit_id, visit_id = uuid6.uuid7(), uuid6.uuid7(), uuid6.uuid7()
    ours = {"shop_id": someone.shop_id}
    register.add_site(connection, **ours, id=site_id, name=_SITES[int(chance.integers(len(_SITES)))])
    kind = call.facts.kind
    register.add_unit(
        connection,
        **ours,
        id=unit_id,
        site_id=site_id,
        tag="Box 1" if kind.is_walk_in else "Unit 1",
        serves="made up, to practice on",
        facts=unit_json(call.facts),
        made_year=at.year - int(chance.integers(2, 16)),
    )
    before = at - timedelta(days=int(chance.integers(120, 400)))
    add_visit(
        connection,
        **ours,
        id=uuid6.uuid7(),
        unit_id=unit_id,
        technician_id=someone.person_id,
        planned_for=before,
        status="closed",
        closed_at=before + timedelta(hours=1),
        outcome="fixed",
        summary=_BEFORE[int(chance.integers(len(_BEFORE)))],
    )
    add_visit(
        connection,
        **ours,
        id=visit_id,
        unit_id=unit_id,
        technician_id=someone.person_id,
        planned_for=at,
        status="open",
        complaint=said[0],
    )
    if game.lamp_on(call):
        _legend(connection, someone.shop_id, at)
    write(connection, someone, visit_id, [Told(body) for body in _first(call, said)], at)
    return visit_id


def _legend(connection: Connection, shop_id: UUID, at: datetime) -> None:
    """The table of codes inside the board's door, kept once."""
    if any(row.board == BOARD for row in controls.meanings_of(connection)):
        return
    controls.add_board_lines(
        connection,
        [
            {
                "shop_id": shop_id,
                "id": uuid6.uuid7(),
                "board": BOARD,
                "code": code,
                "meaning": meaning,
                "first_test": test,
                "latches": latches,
                "dropped": False,
                "at": at,
            }
            for code, (meaning, test, latches) in CODES.items()
        ],
    )


def _first(call: PracticeCall, said: Sequence[str]) -> Iterator[Body]:
    """What is known on arrival."""
    facts = call.facts
    if facts.heating:
        yield ModeBody(mode=Mode.HEATING)
    weak = Complaint.WARM_BOX if facts.kind.is_walk_in else Complaint.NO_HEAT if facts.heating else Complaint.NOT_COLD
    yield ComplaintBody(sorts=(Complaint.DOES_NOT_RUN if call.dead else weak,), words=said[0])
    yield ClaimBody(text=said[1])
    if call.dead is None:
        yield ClockBody(event=ClockEvent.STARTED, minutes_ago=ARRIVED_MINUTES)
        return
    chain = call.dead.chain
    links = tuple(ChainLink(name=link.name, sort=link.sort, after=link.after, place=link.place) for link in chain.links)
    yield ChainBody(nominal_v=chain.nominal_v, links=links, taken_from="the diagram inside the door")
    yield from (CoilBody(coil=coil.name, runs=False) for coil in chain.coils)


@dataclass(frozen=True, slots=True)
class Told:
    """An entry that a step makes, and how many minutes before its end."""

    body: Body
    minutes_ago: float = 0.0
    id: UUID = field(default_factory=uuid6.uuid7)


def write(connection: Connection, someone: Someone, visit_id: UUID, told: Sequence[Told], at: datetime) -> None:
    """Enter what a step showed, at whose end it is `at`.

    Raises
    ------
    Refused
        Where the notebook takes no more, such as of a visit that was closed.
    """
    sent = [Sent(one.id, one.body, timedelta(minutes=one.minutes_ago)) for one in told]
    for one in append_all(connection, someone, visit_id, sent, at).found:
        if isinstance(one, Exception):
            raise one


def entries_of(call: PracticeCall, step: Logged, before: Logged | None, reader: Reader) -> list[Told]:
    """What a step showed and changed, as entries."""
    if step.shows:
        return list(_held(step) if step.name == Sealing.HOLD else _evacuated(step))
    return [Told(body) for body in _bodies(call, step, before, reader)]


def _bodies(call: PracticeCall, step: Logged, before: Logged | None, reader: Reader) -> Iterator[Body]:
    if step.panel_off != (before is not None and before.panel_off):
        yield ConditionBody(condition=Condition.PANEL_OFF, on=step.panel_off)
    yield from (_reading(one, reader) for one in step.readings)
    yield from (ObservationBody(what=one.what, state=one.state) for one in step.seen)
    yield from (NoteBody(text=f"Heard: {words}") for words in step.sounds)
    yield from (
        CapacitorBody(machine=motor.value, rated_uf=RATED_UF[motor], bench_uf=round(measured, 1), instrument="bench")
        for motor, measured in step.capacitors
    )
    if step.lamp is not None:
        yield (
            CodeBody(board=BOARD, taps_s=step.lamp.flashes_s)
            if step.lamp.flashes_s
            else NoteBody(text=f"The board's lamp: {step.lamp.words}")
        )
    yield from (ChainPointBody(link=one.link, volts=one.volts, how=one.how) for one in step.volts)
    words = game.offers_on(call)[step.name].words
    if step.name in set(Remedy):
        yield ActionBody(sort=_DONE.get(Remedy(step.name), ActionSort.OTHER), words=words)
    elif step.name in (Sealing.JOINT, game.COMEBACK.name):
        yield ActionBody(sort=ActionSort.OTHER, words=words)
    elif step.name == Sealing.WEIGH_IN:
        yield ActionBody(sort=ActionSort.CHARGE_ADJUSTED, words=words)
    elif step.name.startswith("mend_"):
        yield ActionBody(sort=ActionSort.ELECTRICAL_PART, words=words)
    elif step.name == game.BRIDGE.name and any(one.code == "bridged" for one in step.harms):
        yield TemporaryBody(sort=ChangeSort.SAFETY, where="the safeties of the control chain")
    if step.runs and not (call.dead is None if before is None else before.runs):
        yield from _runs_again(call, step)


def _held(step: Logged) -> Iterator[Told]:
    """A hold of half an hour, with the temperature beside it."""
    hold, falls = uuid6.uuid7(), step.shows == "falls"
    yield Told(HoldBody(section="whole system", vacuum_gauge_off=True), step.minutes - 1, hold)
    for ago, psig in ((step.minutes - 2, 150.0), (0.0, 136.0 if falls else 150.0)):
        yield Told(HoldReadingBody(hold=hold, pressure=psig, pressure_unit="psig", temp=75.0, temp_unit="F"), ago)
    yield Told(HoldEndBody(hold=hold, verdict="leaking" if falls else "tight", reason="half an hour with leak detector and soap"))


def _evacuated(step: Logged) -> Iterator[Told]:
    """An evacuation with its rise; broken where it stayed, given up where it did not."""
    pull, rises = uuid6.uuid7(), step.shows == "rises"
    whole = step.minutes
    yield Told(EvacuationBody(gauge_at="far_end", cores_out=True, hoses="wide_short"), whole - 1, pull)
    yield Told(VacuumEventBody(evacuation=pull, event=VacuumEvent.PUMP_ON), whole - 2)
    pulled = ((40, 9000.0), (32, 2400.0), (25, 900.0), (18, 420.0), (16, 280.0))
    watched = zip((14, 10, 5, 1), (900.0, 3200.0, 7000.0, 12_000.0) if rises else (300.0, 330.0, 355.0, 370.0), strict=True)
    for ago, micron in pulled:
        yield Told(VacuumPointBody(evacuation=pull, micron=micron), ago)
    yield Told(VacuumEventBody(evacuation=pull, event=VacuumEvent.ISOLATED), 15)
    for ago, micron in watched:
        yield Told(VacuumPointBody(evacuation=pull, micron=micron), ago)
    reason = "it is not tight: back to the joint" if rises else "ten minutes watched"
    yield Told(VacuumEventBody(evacuation=pull, event=VacuumEvent.BROKEN, reason=reason))


def _runs_again(call: PracticeCall, step: Logged) -> Iterator[Body]:
    if call.dead is not None:
        yield ClosedLinkBody(link=call.dead.link, how=game.offers_on(call)[step.name].words)
        yield from (CoilBody(coil=coil.name, runs=True) for coil in call.dead.chain.coils)
    yield ClockBody(event=ClockEvent.STARTED, minutes_ago=0)


def _reading(reading: Reading, reader: Reader) -> ReadingBody:
    unit = unit_for(QUANTITIES[reading.quantity].dimension, reader.chosen_units)
    value = round(unit.from_si(reading.value_si, reader.atmosphere_pa), unit.decimals)
    return ReadingBody(quantity=reading.quantity, value=value, unit=unit.name, instrument="bench")
