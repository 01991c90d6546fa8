"""The reading sheet that a visit amounts to, now and before the latest action."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from datetime import datetime

from dry_gauge.core.controls.chain import LinkSort
from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import make_observation, make_reading
from dry_gauge.core.roles import by_role
from dry_gauge.core.sheet import Observation, Reading, Sheet, UnitFacts
from dry_gauge.core.vocabulary import School, State
from dry_gauge.notebook.kind import VisitState, in_time
from dry_gauge.notebook.subjects.call import Call
from dry_gauge.notebook.subjects.control_chain import ControlChain
from dry_gauge.notebook.subjects.controls import Controls
from dry_gauge.notebook.subjects.defrosts import Defrosts
from dry_gauge.notebook.subjects.electrical import must_stay_off
from dry_gauge.notebook.subjects.ledger import ChangeSort, Ledger
from dry_gauge.notebook.subjects.observations import Observations
from dry_gauge.notebook.subjects.reach import Reach
from dry_gauge.notebook.subjects.readings import (
    OF_ANY_MODE,
    KeptReading,
    ReadingBody,
    Readings,
    is_of_other_mode,
    newest,
    newest_of_each_stage,
    tags_of,
)
from dry_gauge.notebook.subjects.running import ClockEvent, Condition, Running


def facts_in(visit: VisitState, facts: UnitFacts) -> UnitFacts:
    """The unit's facts in the mode that this visit found it in."""
    mode = visit[Running].mode
    return facts if mode is None or mode is facts.mode else replace(facts, mode=mode)


@dataclass(frozen=True, slots=True)
class VisitSheet:
    """What is judged, and readings that the unit's card no longer allows (its refrigerant was corrected), with why."""

    sheet: Sheet
    refused: dict[str, str]


def sheet_of(visit: VisitState, facts: UnitFacts, school: School = School.COMMON) -> VisitSheet:
    """The reading sheet that the visit amounts to now.

    Minutes count to the latest reading, not to the moment of asking: the same entries give the same answer years later.
    While a panel is off or a coil wet, what was read so is in it, beside the condition that keeps it from being judged.
    """
    facts, running, kept = facts_in(visit, facts), visit[Running], visit[Readings]
    tags = tags_of(visit)
    under = {key: one for key, one in kept.tagged.items() if set(one.tags) & set(tags)}
    now = {key: one for key, one in (kept.latest | under).items() if not is_of_other_mode(visit, one)}
    readings, refused = _made(visit, newest_of_each_stage(now), facts)
    _, more = _made(visit, newest(kept.tagged).values(), facts)
    started, changed, charged, defrosted = (minutes_between(running.since(event), running.read_at) for event in ClockEvent)
    implied = (*_implied(visit), *(_of_condition(tag, heating=facts.heating) for tag in tags))
    sheet = Sheet(
        facts,
        tuple(readings),
        (*_seen(visit, heating=facts.heating), *implied),
        school,
        started,
        changed,
        charged,
        defrosted,
        visit[Call].sorts,
        out_of_reach=tuple(sorted(visit[Reach].out)),
        part_odds=visit[Controls].metering_odds,
        is_timed=True,
    )
    return VisitSheet(sheet, refused | more)


def _seen(visit: VisitState, *, heating: bool) -> list[Observation]:
    """What was looked at, by role; that air blows back stands against an older proof of it."""
    told = [one.body for one in in_time(visit[Observations].latest.values())]
    told.sort(key=lambda body: body.what == "condenser_air_recirculating")
    found = ((*by_role(body.what, body.state, heating=heating), body.circuit) for body in told)
    return [make_observation(what, state, circuit) for what, state, circuit in found if state is not State.NOT_SEEN]


def sheet_otherwise(visit: VisitState, facts: UnitFacts) -> Sheet | None:
    """What a heat pump was read in its other mode and not since, with the air of any mode; None where nothing was."""
    latest = newest(visit[Readings].latest).values()
    waiting = [one for one in latest if is_of_other_mode(visit, one)]
    return _in_other_mode(visit, facts, waiting, latest) if waiting else None


def sheet_of_other_mode(visit: VisitState, facts: UnitFacts) -> Sheet | None:
    """All that a heat pump was read in its other mode, though it was read in this one since; None where nothing was."""
    kept = visit[Readings]
    latest = newest(kept.latest)
    read = [*newest(kept.otherwise).values(), *(one for one in latest.values() if is_of_other_mode(visit, one))]
    return _in_other_mode(visit, facts, read, (latest | newest(kept.air_otherwise)).values()) if read else None


def _in_other_mode(visit: VisitState, facts: UnitFacts, read: Sequence[KeptReading], air: Iterable[KeptReading]) -> Sheet:
    now = facts_in(visit, facts)
    then = replace(now, mode=now.mode.other)
    readings, _ = _made(visit, (*read, *(one for one in air if one.body.quantity in OF_ANY_MODE)), then)
    running = minutes_between(visit[Running].started_at, visit[Running].read_at)
    return Sheet(then, tuple(readings), minutes_running=running)


def sheet_before(visit: VisitState, facts: UnitFacts) -> Sheet | None:
    """What was read before the latest action, for the ghost on the ladder; None where nothing was."""
    before = {key: one for key, one in visit[Readings].before.items() if not is_of_other_mode(visit, one)}
    if not before:
        return None
    facts = facts_in(visit, facts)
    readings, _ = _made(visit, newest(before).values(), facts)
    return Sheet(facts, tuple(readings))


def _implied(visit: VisitState) -> list[Observation]:
    """What the ledger, the stage, the control chain, the supply and a defrost say without being asked."""
    found = []
    if visit[Ledger].lifted_sorts & {ChangeSort.JUMPER, ChangeSort.SAFETY}:
        found.append(make_observation("jumper_fitted", State.YES, None))
    if visit[Running].stage_not_as_called:
        found.append(make_observation("stage_held", State.NO, None))
    chain = visit[ControlChain]
    if chain.still_open or not all(chain.runs.values()):
        found.append(make_observation("call_present", State.NO, None))
    opened = {chain.sort_of(link) for link in chain.opened}
    found += [make_observation(what, State.YES, None) for sort, what in _TRIPS.items() if sort in opened]
    if must_stay_off(visit):
        found.append(make_observation("supply_unfit", State.YES, None))
    if visit[Defrosts].active:
        found.append(make_observation("defrost_active", State.YES, None))
    return found


_TRIPS = {LinkSort.HIGH_PRESSURE: "high_pressure_trip", LinkSort.LOW_PRESSURE: "low_pressure_trip"}


# What a condition says to the gates.
_CONDITION_SAYS: Mapping[Condition, tuple[str, State]] = {
    Condition.PANEL_OFF: ("panel_off", State.YES),
    Condition.COIL_WET: ("coil_wet", State.YES),
    Condition.FILTER_OUT: ("filter_missing", State.YES),
    Condition.FAN_COVERED: ("condenser_air_proven", State.NO),
    Condition.THAWING: ("ice_on_evaporator_even", State.YES),
}


def _of_condition(tag: Condition, *, heating: bool) -> Observation:
    return make_observation(*by_role(*_CONDITION_SAYS[tag], heating=heating), None)


def _made(visit: VisitState, listed: Iterable[KeptReading], facts: UnitFacts) -> tuple[list[Reading], dict[str, str]]:
    started = visit[Running].started_at
    readings: list[Reading] = []
    refused: dict[str, str] = {}
    for one in in_time(listed):  # the same order, whatever a stored state gives back
        stage, minutes = one.stage.casefold() or None, _minute(started, one.at)
        body = one.body.model_copy(update={"accuracy": one.accuracy})
        try:
            readings.append(_reading(body, facts, minutes, stage, one.instrument))
            if one.beside:
                readings.append(_reading(one.beside, facts, minutes, stage))
        except Refused as refusal:
            refused[body.quantity] = refusal.message
        for was in one.earlier:
            before = _minute(started, was.at)
            if before is not None and minutes is not None and before < minutes:  # else it would be another instrument's
                with suppress(Refused):
                    same = body.model_copy(update={"value": was.value, "unit": was.unit})
                    readings.append(_reading(same, facts, before, stage))
    return readings, refused


def _minute(started: datetime | None, at: datetime) -> float | None:
    """When it was read, from the start on; below zero before that: how old it is counts as well."""
    return None if started is None else (at - started).total_seconds() / 60


def _reading(body: ReadingBody, facts: UnitFacts, minutes: float | None, stage: str | None, instrument: str = "") -> Reading:
    own = facts.of_circuit(body.circuit or 1)
    return make_reading(
        own, body.quantity, body.value, body.unit, body.accuracy, minutes, body.circuit, stage, body.place, instrument
    )


def minutes_between(since: datetime | None, until: datetime | None) -> float | None:
    """Minutes from one moment to another, none before the first; None where either is not known."""
    if since is None or until is None:
        return None
    return max(0.0, (until - since).total_seconds() / 60)
