"""The shop's view over all its units: which to look at first, and why."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

from sqlalchemy import Connection

from dry_gauge.core.judgement.evidence import GAP_LABELS
from dry_gauge.core.judgement.faults import FAULT_WORDS
from dry_gauge.core.local_time import day_of
from dry_gauge.core.office.replacement import USUAL_LIFE, age_years
from dry_gauge.core.office.watch import (
    LEAST_DRIFT_K,
    LEAST_POINTS,
    LEAST_R2,
    OVERDUE_AFTER_DAYS,
    REPEATS_FROM,
    REPEATS_WITHIN_DAYS,
    Concern,
    Drift,
    UnitSums,
    Urgency,
    concerns,
)
from dry_gauge.core.shop import ShopSettings
from dry_gauge.core.vocabulary import SIGHTS, Fault, Kind
from dry_gauge.core.words import Reader, in_percent
from dry_gauge.service.leak_rates import all_losing
from dry_gauge.service.settings import shop_settings
from dry_gauge.store import watch as store
from dry_gauge.store.parts import waiting_parts
from dry_gauge.store.proposals import undecided

Lines = Mapping[tuple[str, int], Any]
"""What drifts of one unit: rows of `store.drifts_since` by gap and circuit."""

_GAPS = ("superheat", "subcooling", "condenser_split", "evaporator_td", "air_split")
_YEAR, _DRIFT_OVER = timedelta(days=365), timedelta(days=3 * 365)


@dataclass(frozen=True, slots=True)
class Drawn:
    """A gap that drifts, with the visits it was seen on."""

    label: str
    words: str
    days: Sequence[float]
    own_k: Sequence[float]
    line_k: tuple[float, float]


@dataclass(frozen=True, slots=True)
class Watched:
    """One unit with what speaks for looking at it, in words, the most urgent first."""

    unit_id: UUID
    site_name: str
    tag: str
    serves: str
    urgency: Urgency
    words: Sequence[str]
    drift: Drawn | None


def watched(connection: Connection, reader: Reader, now: datetime) -> list[Watched]:
    """Every unit that something speaks for, the most urgent first."""
    drifts: dict[UUID, dict[tuple[str, int], Any]] = {}
    since = now - _DRIFT_OVER
    for row in store.drifts_since(connection, since, _GAPS, least=LEAST_POINTS, straight=LEAST_R2, far_k=LEAST_DRIFT_K):
        drifts.setdefault(row.unit_id, {})[row.gap, row.circuit] = row
    sums_of = _sums(connection, shop_settings(connection), drifts, now)
    found = []
    waits = _waits(connection)
    for unit in store.units(connection):
        listed = concerns(sums_of(unit))
        if listed:
            words = [_words(one, reader, waits.get(unit.id), several=unit.circuits > 1) for one in listed]
            drawn = next((_drawn(one, drifts[unit.id], reader) for one in listed if one.urgency is Urgency.DRIFTS), None)
            found.append(Watched(unit.id, unit.site_name, unit.tag, unit.serves, listed[0].urgency, words, drawn))
    return sorted(found, key=lambda one: (one.urgency, -len(one.words)))


def _sums(
    connection: Connection, settings: ShopSettings, drifts: Mapping[UUID, Lines], now: datetime
) -> Callable[[Any], UnitSums]:
    came_back = store.came_back_since(connection, now - _YEAR)
    losing = {unit.id: loss for unit, loss in all_losing(connection, settings, day_of(now - _YEAR))}
    outcomes = store.last_outcomes(connection)
    overdue = store.overdue(connection, day_of(now) - timedelta(days=OVERDUE_AFTER_DAYS))
    causes: dict[UUID, dict[str, int]] = {}
    for row in store.causes_since(connection, now - timedelta(days=REPEATS_WITHIN_DAYS), REPEATS_FROM):
        causes.setdefault(row.unit_id, {})[row.cause] = row.times

    def of(unit: Any) -> UnitSums:
        age, loss = age_years(unit.made_year, now.year) or 0.0, losing.get(unit.id)
        lines, late = drifts.get(unit.id, {}).values(), overdue.get(unit.id)
        return UnitSums(
            loss.rates[-1].yearly if loss else None,
            loss is not None and loss.over,
            causes.get(unit.id, {}),
            tuple(Drift(row.gap, row.first_k, row.last_k, row.visits, row.straight, row.circuit) for row in lines),
            late.times if late else 0,
            came_back.get(unit.id, 0),
            outcomes.get(unit.id, ""),
            age > USUAL_LIFE[Kind(unit.kind)][1],
            f"{late.what}, due {late.due:%d %b %Y}" if late else "",
        )

    return of


def _waits(connection: Connection) -> Mapping[UUID, str]:
    """What units wait for: an owner's answer, or the part that is nearest."""
    answers = {row.unit_id: "the owner's answer" for row in undecided(connection)}
    ordered = {part.unit_id: f"{part.what}, {part.stage}" for part in reversed(waiting_parts(connection))}
    return answers | ordered


def _drawn(one: Concern, of_unit: Lines, reader: Reader) -> Drawn:
    row = of_unit[one.name, one.circuit]
    label = GAP_LABELS[one.name]
    told = ", ".join(reader.shift(value) for value in row.own_k)
    return Drawn(label, f"Against like units: {told} °{reader.temperature_unit}", row.days, row.own_k, (row.first_k, row.last_k))


def _words(one: Concern, reader: Reader, waits_for: str | None, *, several: bool) -> str:
    """One concern in words; of a unit with several circuits it says whose gap drifts."""
    percent = f"loses {in_percent(one.value)} of its charge a year"
    match one.urgency:
        case Urgency.LEAKS_OVER:
            return f"{percent}: over the shop's line"
        case Urgency.LEAKS:
            return percent
        case Urgency.CAME_BACK:
            return "a repair of the last year came back" if one.count == 1 else f"{one.count} repairs of the last year came back"
        case Urgency.NOT_FIXED:
            return f"waits for {waits_for or 'a part or an answer'}" if one.name == "waiting" else "not fixed at the last visit"
        case Urgency.REPEATS:
            return f"{_cause(one.name)}: {one.count} times in two years"
        case Urgency.DRIFTS:
            change = f"{reader.shift(one.value)} °{reader.temperature_unit}"
            whose = f"circuit {one.circuit}: " if several else ""
            return f"{whose}{GAP_LABELS[one.name].lower()} drifts away from like units: {change} over {one.count} visits"
        case Urgency.OVERDUE:
            return f"overdue: {one.name}" + (f"; and {one.count - 1} more" if one.count > 1 else "")
        case _:
            return "past the life such units usually have"


def _cause(name: str) -> str:
    if name in set(Fault):
        return FAULT_WORDS[Fault(name)].lower()
    return SIGHTS[name].label.lower() if name in SIGHTS else name
