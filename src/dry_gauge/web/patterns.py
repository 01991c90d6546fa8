"""Made-up visits for the pattern pages: every station's partials with nothing in them, at work, and in trouble."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID

from dry_gauge.core.charge.cylinders import Cylinder, CylinderKind, Held
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import Kind, Metering
from dry_gauge.core.words import Reader
from dry_gauge.notebook.entries import BODY
from dry_gauge.notebook.kind import Entry
from dry_gauge.notebook.state import fold_all
from dry_gauge.present.scene import CardHistory, History, Scene
from dry_gauge.present.visit import VisitRow, judged
from dry_gauge.store.people import Someone
from dry_gauge.web.stations.station import Station
from dry_gauge.web.visit_page import VisitPage

_NOW = datetime(2026, 7, 14, 15, 0, tzinfo=UTC)
_UNIT = UnitFacts(
    Kind.SPLIT_AC,
    find("R-410A"),
    metering=Metering.TXV,
    nominal_capacity_w=10_550.0,
    seer=14.0,
    label_charge_kg=3.2,
    target_subcooling_k=5.6,
)
_CARD = {"kind": "split_ac", "refrigerant": "R-410A", "metering": "txv", "seer": 14, "nominal_tons": 3, "label_charge_lb": 7.05}
_BLUE, _GREY = UUID(int=8), UUID(int=9)
_CYLINDERS = (
    Held(_BLUE, Cylinder("Blue 1", CylinderKind.IN_USE, find("R-410A"), tare_kg=2.8), 9000, "", False),
    Held(
        _GREY, Cylinder("Grey 2", CylinderKind.RECOVERY, find("R-410A"), tare_kg=12.0, water_capacity_kg=21.6), 16_400, "", False
    ),
)
_NOBODY = UUID(int=7)
_SOMEONE = Someone(UUID(int=1), "Pattern shop", "common", _NOBODY, "Nobody", "technician", "F", "psi", "auto")


def _readings(**values: float) -> list[dict[str, Any]]:
    return [
        {"kind": "reading", "quantity": quantity, "value": value, "unit": "psig" if "pressure" in quantity else "F"}
        for quantity, value in values.items()
    ]


def _ident(place: int) -> str:
    """The id of the entry at that place, for entries that point at one."""
    return str(UUID(int=100 + place))


# Places count from 1: entries further down point at those above by them.
_AT_WORK: Sequence[Mapping[str, Any]] = (
    {"kind": "complaint", "sorts": ["not_cold"], "words": "warm since Sunday"},
    {"kind": "claim", "text": "was topped up in spring"},
    {"kind": "sealed_plan", "repair": "leak_low"},
    {"kind": "recovered_to", "appliance": "High pressure, under 200 lb", "value": 0, "unit": "psig"},
    {"kind": "leak_place", "place": "service_cores", "result": "failed", "method": "electronic", "words": "oil at the core"},
    {"kind": "hold", "section": "whole", "limit": 450, "unit": "psig", "vacuum_gauge_off": True},
    {"kind": "hold_reading", "hold": _ident(6), "pressure": 300.0, "pressure_unit": "psig", "temp": 84.0, "temp_unit": "F"},
    {"kind": "hold_reading", "hold": _ident(6), "pressure": 299.1, "pressure_unit": "psig", "temp": 83.0, "temp_unit": "F"},
    {"kind": "evacuation", "gauge_at": "far_end", "cores_out": True, "hoses": "wide_short"},
    {"kind": "vacuum_event", "evacuation": _ident(9), "event": "pump_on"},
    {"kind": "vacuum_point", "evacuation": _ident(9), "micron": 5000},
    {"kind": "vacuum_point", "evacuation": _ident(9), "micron": 1400},
    {"kind": "charge_target", "label_g": 3200},
    {"kind": "pour", "way": "weighed_in", "cylinder": str(_BLUE), "gross_g": 11_800},
    {"kind": "action", "sort": "condenser_cleaned"},
    {"kind": "temporary", "sort": "jumper", "where": "Y at the stat"},
    {"kind": "observation", "what": "filter_dirty", "state": "no"},
    {"kind": "observation", "what": "evaporator_air_proven", "state": "yes"},
    *_readings(outdoor_air_temp=90, return_air_temp=76, return_air_wet_bulb=63, supply_air_temp=55, suction_pressure=112,
               suction_line_temp=62, liquid_pressure=340, liquid_line_temp=98),
)  # fmt: skip
_IN_TROUBLE: Sequence[Mapping[str, Any]] = (
    {"kind": "temporary", "sort": "safety", "where": "high-pressure switch jumpered"},
    {"kind": "red_tag", "danger": "cracked heat exchanger", "told": "the caretaker"},
    {"kind": "trip", "event": "trip", "switch": "high pressure"},
    {"kind": "leak_place", "place": "service_cores", "result": "failed"},
    {"kind": "observation", "what": "oil_stain", "state": "yes"},
    *_readings(outdoor_air_temp=104, return_air_temp=71, supply_air_temp=79, suction_pressure=31, suction_line_temp=20,
               liquid_pressure=610, liquid_line_temp=150),
)  # fmt: skip
STATES: Mapping[str, Sequence[Mapping[str, Any]]] = {"nothing": (), "at-work": _AT_WORK, "in-trouble": _IN_TROUBLE}


class PatternPage(VisitPage):
    """A made-up visit: whatever its station would have asked the database for is made up as well."""

    @property
    def scene(self) -> Scene:
        """A made-up scene."""
        past = History((), None, CardHistory())
        return Scene(self.view, self.reader, _NOW, cylinders=_CYLINDERS, history=past)


def pattern(station: Station, state: str) -> PatternPage:
    """A station's page with one of the made-up visits."""
    entries = [
        Entry(
            id=UUID(_ident(place)),
            sequence=place,
            person_id=_NOBODY,
            written_at=_NOW + timedelta(minutes=place - 60),
            received_at=_NOW + timedelta(minutes=place - 60),
            body=BODY.validate_python(body),
        )
        for place, body in enumerate(STATES[state], 1)
    ]
    row = VisitRow(
        UUID(int=2),
        "open",
        _NOW,
        "warm since Sunday",
        "",
        len(entries),
        {},
        _NOBODY,
        "Nobody",
        UUID(int=3),
        "AC-1",
        "nowhere",
        _CARD,
        "Pattern House",
        UUID(int=4),
        None,
        "",
        0,
        {},
        [],
    )
    view = judged(row, _UNIT, fold_all(entries, _UNIT), "common")
    return PatternPage(None, view, _SOMEONE, Reader(), station)  # type: ignore[arg-type]
