"""Reading sheets for tests: short to write, as JSON like the world outside sends them."""

from __future__ import annotations

import json
from typing import Any

from dry_gauge.core.judgement.assess import Assessment, assess
from dry_gauge.exchange.assessment import to_json
from dry_gauge.exchange.reading_sheet import parse_sheet

UNITS = {
    "pressure": "psig",
    "temp": "F",
    "bulb": "F",
    "rh": "%",
    "amps": "A",
    "supply": "inwc",
    "return": "inwc",
    "airflow": "cfm",
    "power": "W",
}
AIR_PROVEN = {"evaporator_air_proven": "yes", "condenser_air_proven": "yes"}


def sheet(
    unit: dict[str, Any] | None = None,
    seen: dict[str, str] | None = None,
    minutes: float | None = 20,
    change: float | None = None,
    schools: dict[str, str] | None = None,
    clocks: dict[str, float] | None = None,
    **values: float | None,
) -> dict[str, Any]:
    """A sheet of a split unit with R-410A unless `unit` says otherwise; values in psig, F and so on, None left out."""
    return {
        "format": "dry-gauge/reading-sheet",
        "version": 1,
        "unit": {"kind": "split_ac", "refrigerant": "R-410A", **(unit or {})},
        "readings": [reading(quantity, value) for quantity, value in values.items() if value is not None],
        "observations": [{"what": what, "state": state} for what, state in (seen or {}).items()],
        "minutes_running": minutes,
        "minutes_since_change": change,
        **({"schools": schools} if schools else {}),
        **(clocks or {}),
    }


def reading(quantity: str, value: float, **more: Any) -> dict[str, Any]:
    """One reading in its usual unit."""
    unit = "inwc" if "static" in quantity else UNITS[quantity.rsplit("_", 1)[-1]]
    return {"quantity": quantity, "value": value, "unit": unit, **more}


def judged(document: dict[str, Any]) -> Assessment:
    """The core's answer."""
    return assess(parse_sheet(json.dumps(document)))


def answer(document: dict[str, Any]) -> dict[str, Any]:
    """The JSON answer."""
    return to_json(judged(document))


def derived(document: dict[str, Any]) -> dict[str, float]:
    """Derived values by key."""
    return {key: item["value"] for key, item in answer(document)["derived"].items()}


# A healthy TXV split on a warm day: every gap near its aim.
HEALTHY = {
    "suction_pressure": 120.0, "suction_line_temp": 52.0, "liquid_pressure": 365.0, "liquid_line_temp": 100.0,
    "outdoor_air_temp": 90.0, "return_air_temp": 76.0, "return_air_wet_bulb": 63.0, "supply_air_temp": 55.0,
}  # fmt: skip
TXV = {"metering": "txv", "seer": 14, "target_subcooling_f": 10}
ORIFICE = {"metering": "orifice", "seer": 14}
WALK_IN = {
    "suction_pressure": 60.0, "suction_line_temp": 60.0, "coil_outlet_temp": 48.0, "liquid_pressure": 220.0,
    "liquid_line_temp": 88.0, "outdoor_air_temp": 80.0, "box_air_temp": 40.0,
}  # fmt: skip
# The same unit short of charge.
STARVED = HEALTHY | {
    "suction_pressure": 95.0,
    "suction_line_temp": 62.0,
    "liquid_pressure": 330.0,
    "liquid_line_temp": 99.0,
    "outdoor_air_temp": 88.0,
    "supply_air_temp": 60.0,
}
