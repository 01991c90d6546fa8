"""Calls that the habits of the trade make up, not the bench: `make accuracy` prints how the judgement does on them.

Each unit stands off its sort's usual gaps by as much as sound units of other makes do (2 to 5 F, chosen), each fault moves the
gaps as `core/judgement/habits.py` says, a quarter more or less from unit to unit, and instruments read with their error. What
reads alike without a drier drop or a glass counts as one answer. The table of habits is the judgement's second teacher; these
units and calls are not.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from dry_gauge.core.circuit import derive
from dry_gauge.core.intake import make_observation, make_reading
from dry_gauge.core.judgement.habits import GAPS, signatures
from dry_gauge.core.judgement.inference import weigh
from dry_gauge.core.sheet import EarlierSet, Reading, Sheet, UnitFacts
from dry_gauge.core.vocabulary import Fault, State
from tests.core.test_habits import AIR, ALIKE, FAULTS, HEALTHY, UNITS
from tests.pictures import Gaps, readings_for

# One sigma of sound units about the usual gap, in F; `line` is what a walk-in's suction line gains.
_OFF: Mapping[str, Mapping[str, float]] = {
    "orifice": {"superheat": 4.0, "subcooling": 3.0, "evaporator_td": 3.0, "condenser_split": 3.0, "air_split": 1.5},
    "valve": {"superheat": 2.5, "subcooling": 3.0, "evaporator_td": 3.0, "condenser_split": 3.0, "air_split": 1.5},
    "cooler": {"superheat": 3.0, "subcooling": 2.5, "evaporator_td": 2.0, "condenser_split": 3.0, "line": 6.0},
    "heating": {"superheat": 3.0, "subcooling": 4.0, "evaporator_td": 2.5, "condenser_split": 4.0, "air_split": 2.5},
}
_SOUND_SHARE = 0.3
_LEAST, _MOST = 0.7, 2.0  # of a medium fault: from 'a good technician would just act' upwards
_REACH = 0.25


@dataclass(frozen=True, slots=True)
class Call:
    """A sheet and what is wrong."""

    fault: Fault
    sheet: Sheet


def _readings(unit: UnitFacts, gaps: Mapping[str, float], chance: np.random.Generator) -> tuple[Reading, ...]:
    """Those gaps on a day of some weather, as instruments show them."""
    box = unit.kind.is_walk_in
    entering, outdoor, wet = (70.0, 42.0, 57.0) if unit.heating else (38.0, 75.0, None) if box else (76.0, 88.0, 62.0)
    warmer = chance.uniform(-3, 3)
    split = gaps["air_split"] if unit.heating else -gaps["air_split"]
    wanted = Gaps(
        outdoor + chance.uniform(-8, 8),
        entering + warmer,
        gaps["evaporator_td"],
        gaps["superheat"] + (22 + gaps["line"] if box else 0),
        gaps["condenser_split"],
        gaps["subcooling"],
        wet_bulb_f=None if wet is None else wet + warmer,
        supply_f=None if box else entering + warmer + split,
        coil_superheat=gaps["superheat"] if box else None,
    )
    found = []
    for body in readings_for(unit, wanted):
        error = 0.5 if body.unit == "F" or body.value < 200 else 0.002 * body.value
        found.append(make_reading(unit, body.quantity, round(body.value + chance.normal(0, error), 1), body.unit))
    return tuple(found)


def calls(n: int, seed: int, sound_days: int) -> Iterator[Call]:
    """Calls to units of other makes, some with days of their own on which they were sound."""
    chance = np.random.default_rng(seed)
    for _ in range(n):
        name = list(UNITS)[int(chance.integers(len(UNITS)))]
        unit, off = UNITS[name], _OFF[name]
        sound = {gap: HEALTHY[name].get(gap, 0.0) + chance.normal(0, off.get(gap, 0.0)) for gap in (*GAPS[:5], "line")}
        sound |= {"superheat": max(sound["superheat"], 3.0), "subcooling": max(sound["subcooling"], 2.0)}
        fault = Fault.NONE if chance.random() < _SOUND_SHARE else FAULTS[int(chance.integers(len(FAULTS)))]
        if unit.heating and fault is Fault.HIGH_EVAPORATOR_LOAD:  # nobody blows too much air through an outdoor coil
            fault = Fault.NONE
        today, size = dict(sound), chance.uniform(_LEAST, _MOST)
        if fault is not Fault.NONE:
            row = signatures(fixed=unit.metering.is_fixed, receiver=unit.receiver, heating=unit.heating)[fault]
            for gap in GAPS[:5]:
                linear, curved = row[gap]
                today[gap] += (size * linear + size**2 * curved) * chance.normal(1, _REACH)
        today |= {gap: max(today[gap], 0.5) for gap in ("superheat", "subcooling")}
        earlier = tuple(EarlierSet(f"2026-{4 + i:02d}-02", True, _readings(unit, sound, chance)) for i in range(sound_days))
        proven = () if fault in AIR else ("evaporator_air_proven", "condenser_air_proven")
        seen = tuple(make_observation(what, State.YES) for what in proven)
        yield Call(fault, Sheet(unit, _readings(unit, today, chance), seen, minutes_running=30, earlier=earlier))


def figures(n: int, seed: int, sound_days: int) -> tuple[float, float, float, float]:
    """Single faults first, among two, sound units called faulty, and right of what is stated at 90 % and more."""
    first, second, alarms, sure = [], [], [], []
    for call in calls(n, seed, sound_days):
        view = call.sheet.circuit(1)
        judgement = weigh(view, derive(view))
        said = {fault: judgement.probability(fault) for fault in Fault}
        ranked = sorted(Fault, key=lambda fault: -said[fault])
        accepted = {call.fault}.union(*(group for group in ALIKE if call.fault in group))
        if call.fault is Fault.NONE:
            alarms.append(ranked[0] is not Fault.NONE)
        else:
            first.append(ranked[0] in accepted)
            second.append(bool(accepted & set(ranked[:2])))
        if said[ranked[0]] >= 0.9:
            sure.append(ranked[0] in accepted)
    return tuple(float(np.mean(one)) for one in (first, second, alarms, sure))  # type: ignore[return-value]
