"""Whole visits of accepted entries: readings of ordinary sheets among entries of any kind, in an order that may happen."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import datetime, timedelta
from typing import Any

from hypothesis import strategies as st

from dry_gauge.core.errors import Refused
from dry_gauge.core.judgement.assess import Assessment
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import SIGHTS, Kind, Metering, State
from dry_gauge.notebook.arriving import Arriving, TakenBackAlready
from dry_gauge.notebook.entries import BODY
from dry_gauge.notebook.kind import Entry, VisitState
from dry_gauge.notebook.state import check, completed, fold_all, needs_judgement
from tests.notebook.entries_of import START
from tests.notebook.every_kind import FIELDS, SOMEONE, bodies, ident

UNITS = (
    UnitFacts(Kind.SPLIT_AC, find("R-410A"), metering=Metering.ORIFICE, nominal_capacity_w=7000.0, label_charge_kg=2.2),
    UnitFacts(Kind.PACKAGE_HEAT_PUMP, find("R-454B"), metering=Metering.TXV, label_charge_kg=5.0),
    UnitFacts(Kind.WALK_IN_COOLER, find("R-134a"), metering=Metering.TXV, label_charge_kg=5.0, receiver=True),
)
_SHEETS: Sequence[dict[str, float]] = (
    {"outdoor_air_temp": 90, "return_air_temp": 76, "return_air_wet_bulb": 63, "supply_air_temp": 56, "suction_pressure": 118,
     "suction_line_temp": 52, "liquid_pressure": 340, "liquid_line_temp": 95},
    {"outdoor_air_temp": 91, "return_air_temp": 75, "return_air_wet_bulb": 62.5, "supply_air_temp": 62, "suction_pressure": 60,
     "suction_line_temp": 72, "liquid_pressure": 240, "liquid_line_temp": 92},
    {"outdoor_air_temp": 95, "box_air_temp": 44, "suction_pressure": 20, "suction_line_temp": 40, "liquid_pressure": 620,
     "liquid_line_temp": 150, "discharge_line_temp": 260},
)  # fmt: skip
_CIRCUIT = st.sampled_from([None, None, 1, 2])
_ON_THE_WAY = (
    "lockout",
    "red_tag",
    "pour",
    "hold",
    "evacuation",
    "vacuum_event",
    "sealed_plan",
    "step",
    "charge_target",
    "temporary",
)
_OF_A_KIND = {kind: st.fixed_dictionaries({"kind": st.just(kind), **FIELDS[kind]}) for kind in _ON_THE_WAY}


def _reading(quantity: str, value: float, circuit: int | None) -> dict[str, Any]:
    return {
        "kind": "reading",
        "quantity": quantity,
        "value": value,
        "circuit": circuit,
        "unit": "psig" if "pressure" in quantity else "F",
    }


@st.composite
def _some(draw: st.DrawFn) -> list[dict[str, Any]]:
    """What is entered next: a sheet, a sight, a clock, or an entry of any kind."""
    match draw(st.sampled_from(["sheet", "sight", "sight", "clock", "on the way", "on the way", "any", "any"])):
        case "sheet":
            sheet, circuit = draw(st.sampled_from(_SHEETS)), draw(_CIRCUIT)
            return [_reading(quantity, value, circuit) for quantity, value in sheet.items()]
        case "sight":
            return [
                {
                    "kind": "observation",
                    "what": draw(st.sampled_from(sorted(SIGHTS))),
                    "circuit": draw(_CIRCUIT),
                    "state": draw(st.sampled_from(list(State))),
                }
            ]
        case "clock":
            return [{"kind": "clock", "event": "started", "minutes_ago": draw(st.sampled_from([3, 25]))}]
        case "on the way":
            return [draw(_OF_A_KIND[draw(st.sampled_from(_ON_THE_WAY))])]
    return [draw(bodies()).model_dump()]


@st.composite
def visits(draw: st.DrawFn, judged: Callable[[UnitFacts, VisitState], Assessment | None]) -> tuple[UnitFacts, list[Entry]]:
    """A unit and the entries of one visit to it, each taken as the service takes it."""
    facts, entries = draw(st.sampled_from(UNITS)), []
    at = START
    for body in [one for some in draw(st.lists(_some(), min_size=3, max_size=12)) for one in some]:
        at += timedelta(minutes=draw(st.sampled_from([0, 1, 9])))
        found = _taken(facts, entries, body, at, judged)
        if found is not None:
            entries.append(found)
    return facts, entries


def _taken(
    facts: UnitFacts,
    entries: Sequence[Entry],
    body: dict[str, Any],
    at: datetime,
    judged: Callable[[UnitFacts, VisitState], Assessment | None],
) -> Entry | None:
    before = fold_all(entries, facts)
    if any(one.body.kind == "closing" for one in entries):
        return None
    try:
        entry = Entry(
            id=ident(len(entries) + 1),
            sequence=len(entries) + 1,
            person_id=SOMEONE,
            written_at=at,
            received_at=at,
            body=BODY.validate_python(body),
        )
        arriving = Arriving(before, facts, lambda: list(entries))
        arriving.voids(entry)
        case = completed(arriving.case(entry, judged(facts, before) if needs_judgement(entry.body.kind) else None))
        check(case)
    except (Refused, TakenBackAlready):
        return None
    return case.entry
