"""The judgement names the pictures that the habits of the trade draw, on every sort of unit, with the air proven.

The habits are its second teacher, beside the bench: agreement here means that neither drowns the other.
"""

from __future__ import annotations

import pytest

from dry_gauge.core.intake import make_observation, make_reading
from dry_gauge.core.judgement.assess import assess
from dry_gauge.core.judgement.habits import GAPS, signatures
from dry_gauge.core.quantities import to_kelvin
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.sheet import Sheet, UnitFacts
from dry_gauge.core.vocabulary import Fault, Kind, Metering, Mode, State
from tests.pictures import Gaps, readings_for

F = Fault
UNITS = {
    "orifice": UnitFacts(Kind.SPLIT_AC, find("R-410A"), metering=Metering.ORIFICE, seer=14),
    "valve": UnitFacts(Kind.PACKAGE_AC, find("R-32"), metering=Metering.TXV, seer=14, target_subcooling_k=10 / 1.8),
    "cooler": UnitFacts(Kind.WALK_IN_COOLER, find("R-448A"), metering=Metering.TXV, receiver=True, design_box_k=to_kelvin(38)),
    "heating": UnitFacts(Kind.SPLIT_HEAT_PUMP, find("R-410A"), Mode.HEATING, Metering.TXV),
}  # fmt: skip
HEALTHY = {
    "orifice": {"superheat": 10, "subcooling": 9, "evaporator_td": 35, "condenser_split": 20, "air_split": 20.3},
    "valve": {"superheat": 12, "subcooling": 10, "evaporator_td": 35, "condenser_split": 20, "air_split": 20.3},
    "cooler": {"superheat": 8, "subcooling": 6, "evaporator_td": 13.5, "condenser_split": 22, "air_split": 0},
    "heating": {"superheat": 7, "subcooling": 9.5, "evaporator_td": 13, "condenser_split": 37.5, "air_split": 26.5},
}
# What reads alike without a drier drop, a glass or the unit-off check: naming any of them is right.
ALIKE = (
    {F.LIQUID_LINE_RESTRICTION, F.METERING_UNDERFEEDING},
    {F.OVERCHARGE, F.NON_CONDENSABLES},
    {F.LOW_CONDENSER_AIRFLOW, F.NON_CONDENSABLES},
)
# On a receiver most of the picture is the glass and the box, which these sheets do not have.
TELLING_ON_A_RECEIVER = {
    F.UNDERCHARGE,
    F.LIQUID_LINE_RESTRICTION,
    F.METERING_UNDERFEEDING,
    F.METERING_OVERFEEDING,
    F.LOW_CONDENSER_AIRFLOW,
}
UNTELLING = {("cooler", fault) for fault in Fault if fault not in TELLING_ON_A_RECEIVER} | {
    ("heating", F.HIGH_EVAPORATOR_LOAD),  # nobody blows too much air through an outdoor coil
    ("heating", F.LOW_EVAPORATOR_AIRFLOW),  # as much as sound outdoor coils differ by, until the frost is seen
}
FAULTS = [fault for fault in Fault if fault not in (F.NONE, F.WRONG_REFRIGERANT)]


AIR = (F.LOW_EVAPORATOR_AIRFLOW, F.LOW_CONDENSER_AIRFLOW)
# How far a fault has to go before temperatures show it: the habits for heating are wide bands, a receiver hides much.
SIZE = {"orifice": 1.3, "valve": 1.3, "cooler": 2.0, "heating": 1.3}


def judged(name, gaps, seen=("evaporator_air_proven", "condenser_air_proven")):
    unit = UNITS[name]
    heating, box = unit.heating, unit.kind.is_walk_in
    entering, outdoor = (70.0, 42.0) if heating else (38.0, 75.0) if box else (76.0, 88.0)
    split = gaps["air_split"] if heating else -gaps["air_split"]
    wanted = Gaps(
        outdoor,
        entering,
        gaps["evaporator_td"],
        gaps["superheat"] + (22 if box else 0),
        gaps["condenser_split"],
        gaps["subcooling"],
        wet_bulb_f=None if box else 62.0 if not heating else 57.0,
        supply_f=None if box else entering + split,
        coil_superheat=gaps["superheat"] if box else None,
    )
    readings = [make_reading(unit, body.quantity, body.value, body.unit) for body in readings_for(unit, wanted)]
    return assess(
        Sheet(unit, tuple(readings), tuple(make_observation(what, State.YES) for what in seen), minutes_running=30)
    ).first


@pytest.mark.parametrize("name", UNITS)
def test_a_healthy_unit_of_every_sort_is_called_healthy(name):
    found = judged(name, HEALTHY[name])
    assert found.oddities == []
    assert (found.verdict, found.causes[0].fault) == ("healthy", F.NONE)


@pytest.mark.parametrize(
    ("name", "fault"), [(name, fault) for name in UNITS for fault in FAULTS if (name, fault) not in UNTELLING], ids=str
)
def test_each_fault_is_named_from_its_own_picture(name, fault):
    unit = UNITS[name]
    table = signatures(fixed=unit.metering.is_fixed, receiver=unit.receiver, heating=unit.heating)
    gaps = dict(HEALTHY[name])
    for gap in GAPS[:5]:
        linear, curved = table[fault][gap]
        gaps[gap] += SIZE[name] * linear + SIZE[name] ** 2 * curved
    gaps["superheat"], gaps["subcooling"] = max(gaps["superheat"], 0.5), max(gaps["subcooling"], 0.5)
    found = judged(name, gaps, seen=()) if fault in AIR else judged(name, gaps)  # short air cannot be proven
    accepted = {fault}.union(*(group for group in ALIKE if fault in group))
    assert found.causes[0].fault in accepted, [(cause.fault, cause.probability) for cause in found.causes[:3]]


@pytest.mark.parametrize("name", ["orifice", "valve"])
def test_more_of_a_fault_is_more_of_its_probability_and_severity(name):
    table = signatures(fixed=UNITS[name].metering.is_fixed, receiver=False, heating=False)
    sizes = {}
    for size in (0.4, 1.0, 2.0):
        gaps = {
            gap: value + size * table[F.UNDERCHARGE][gap][0] + size**2 * table[F.UNDERCHARGE][gap][1]
            for gap, value in HEALTHY[name].items()
        }
        gaps["subcooling"] = max(gaps["subcooling"], 0.3)
        cause = next(item for item in judged(name, gaps).causes if item.fault is F.UNDERCHARGE)
        sizes[size] = (cause.probability, cause.severity)
    assert sizes[0.4][0] < sizes[1.0][0] <= sizes[2.0][0] + 0.02
    assert sizes[2.0][1] in ("moderate", "severe")
    assert sizes[0.4][1] == "slight"


# What charging charts of piston heat pumps have: outdoors, gap to it, superheat, head over the room, subcooling, supply. [F]
PISTON_HEATING = (
    (20, 8, 4, 26, 12, 91), (30, 10, 5, 29, 11, 93), (40, 11.5, 7, 32, 10, 95), (47, 13, 9, 35, 9, 98), (55, 15, 12, 39, 9, 101),
)  # fmt: skip


@pytest.mark.parametrize("shown", PISTON_HEATING, ids=lambda shown: f"{shown[0]} F")
def test_a_sound_piston_in_heating_is_accused_in_no_weather(shown):
    outdoor, td, superheat, split, subcooling, supply = shown
    facts = UnitFacts(Kind.SPLIT_HEAT_PUMP, find("R-410A"), Mode.HEATING, Metering.ORIFICE)
    listed = readings_for(facts, Gaps(outdoor, 70, td, superheat, split, subcooling, supply_f=supply))
    readings = tuple(make_reading(facts, one.quantity, one.value, one.unit) for one in listed)
    proven = tuple(make_observation(what, State.YES) for what in ("evaporator_air_proven", "condenser_air_proven"))
    found = assess(Sheet(facts, readings, proven, minutes_running=25.0)).first
    assert found.causes[0].fault is F.NONE
    # In the hardest cold simulated pistons keep less liquid back than charts say: there it stays open.
    assert found.verdict == ("healthy" if outdoor >= 30 else "not_enough")
