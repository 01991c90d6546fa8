"""From a reading sheet to what is judged, in SI, and back to the sheet's own unit block."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from pydantic import ValidationError

from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import make_observation, make_reading
from dry_gauge.core.quantities import (
    BTU_PER_HOUR_W,
    FAHRENHEIT_K,
    FOOT_M,
    PSI_PA,
    atmospheric_pressure_pa,
    to_fahrenheit,
    to_kelvin,
)
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.sheet import ChartRow, CircuitFacts, EarlierSet, Observation, Reading, Sheet, UnitFacts
from dry_gauge.core.vocabulary import Mode, School
from dry_gauge.exchange.sheet_json import MoreCircuitJson, ObservationJson, ReadingJson, ReadingSheetJson, UnitJson, refusal_of


def parse_sheet(raw: bytes | str) -> Sheet:
    """A reading sheet from JSON text.

    Raises
    ------
    Refused
        One sentence, the field's path, and the nearest known names.
    """
    try:
        return sheet_from(ReadingSheetJson.model_validate_json(raw))
    except ValidationError as error:
        raise refusal_of(error) from None
    except UnicodeDecodeError:
        raise Refused("This is not UTF-8 text, so it cannot be JSON.") from None


def sheet_from(parsed: ReadingSheetJson) -> Sheet:
    """A validated sheet in SI.

    Raises
    ------
    Refused
    """
    unit = unit_from(parsed.unit)
    earlier = tuple(
        EarlierSet(
            one.date,
            one.proven,
            _readings(unit, one.readings, f"earlier[{i}]."),
            _observations(one.observations, f"earlier[{i}]."),
            one.before_change,
            one.unit.strip(),
        )
        for i, one in enumerate(parsed.earlier)
    )
    readings, observations = _readings(unit, parsed.readings), _observations(parsed.observations)
    school = parsed.schools.superheat if parsed.schools else None
    return Sheet(
        unit,
        readings,
        observations,
        school or School.COMMON,
        parsed.minutes_running,
        parsed.minutes_since_change,
        parsed.minutes_since_charge,
        parsed.minutes_since_defrost,
        tuple(parsed.complaints),
        earlier,
    )


def _readings(unit: UnitFacts, listed: Sequence[ReadingJson], inside: str = "") -> tuple[Reading, ...]:
    return tuple(
        _at(f"{inside}readings[{i}]", lambda reading=reading: make_reading(unit, **reading.model_dump()))
        for i, reading in enumerate(listed)
    )


def _observations(listed: Sequence[ObservationJson], inside: str = "") -> tuple[Observation, ...]:
    return tuple(
        _at(f"{inside}observations[{i}]", lambda seen=seen: make_observation(**seen.model_dump()))
        for i, seen in enumerate(listed)
    )


def _at(path: str, build: Any) -> Any:
    try:
        return build()
    except Refused as refusal:
        refusal.path = f"{path}.{refusal.path}" if refusal.path else path
        raise


def unit_from(parsed: UnitJson) -> UnitFacts:
    """The unit in SI.

    Raises
    ------
    Refused
        For an unknown refrigerant, or heating on a unit that is no heat pump.
    """
    try:
        refrigerant = find(parsed.refrigerant)
    except Refused as refusal:
        raise Refused(refusal.message, "unit.refrigerant", refusal.nearest) from None
    mode = parsed.mode or Mode.COOLING
    if mode is Mode.HEATING and not parsed.kind.is_heat_pump:
        raise Refused(f"A {parsed.kind.value} has no heating mode; only heat pumps do.", "unit.mode", (Mode.COOLING,))
    if parsed.design_box_temp_f is not None and not -100 <= parsed.design_box_temp_f <= 100:
        raise Refused("A design box temperature lies between -100 and 100 F.", "unit.design_box_temp_f")
    atmosphere_pa = atmospheric_pressure_pa(_scaled(parsed.elevation_ft, FOOT_M) or 0.0)

    def absolute(psig: float | None) -> float | None:
        return None if psig is None else psig * PSI_PA + atmosphere_pa

    return UnitFacts(
        kind=parsed.kind,
        refrigerant=refrigerant,
        mode=mode,
        metering=parsed.metering,
        receiver=parsed.kind.is_walk_in if parsed.receiver is None else parsed.receiver,
        nominal_capacity_w=_scaled(parsed.nominal_capacity_btuh, BTU_PER_HOUR_W),
        seer=parsed.seer,
        label_charge_kg=_scaled(parsed.label_charge_g, 1e-3),
        target_subcooling_k=_scaled(parsed.target_subcooling_f, FAHRENHEIT_K),
        target_superheat_k=_scaled(parsed.target_superheat_f, FAHRENHEIT_K),
        rated_load_amps=parsed.rated_load_amps,
        design_box_k=_kelvin(parsed.design_box_temp_f),
        evaporator_class=parsed.evaporator_class,
        head_pressure_control=parsed.head_pressure_control,
        elevation_m=_scaled(parsed.elevation_ft, FOOT_M),
        compressor_control=parsed.compressor_control,
        high_pressure_cutout_pa=absolute(parsed.high_pressure_cutout_psig),
        low_pressure_cutout_pa=absolute(parsed.low_pressure_cutout_psig),
        discharge_limit_k=_kelvin(parsed.discharge_limit_f),
        head_setting_k=_kelvin(parsed.head_setting_f),
        maker_chart=tuple(
            ChartRow(
                to_kelvin(row.outdoor_f),
                to_kelvin(row.indoor_f),
                absolute(row.suction_psig),
                absolute(row.head_psig),
                _scaled(row.superheat_f, FAHRENHEIT_K),
                row.indoor_is == "wet_bulb",
            )
            for row in parsed.maker_chart
        ),
        more_circuits=tuple(_more_circuit(i, row) for i, row in enumerate(parsed.more_circuits)),
    )


def _more_circuit(i: int, row: MoreCircuitJson) -> CircuitFacts:
    try:
        refrigerant = None if row.refrigerant is None else find(row.refrigerant)
    except Refused as refusal:
        raise Refused(refusal.message, f"unit.more_circuits.{i}.refrigerant", refusal.nearest) from None
    return CircuitFacts(row.circuit, refrigerant, _scaled(row.label_charge_g, 1e-3))


def unit_json(unit: UnitFacts) -> dict[str, Any]:
    """The `unit` block of a reading sheet for that unit, without what is not known. The inverse of `unit_from`."""

    def gauge(pressure_pa: float | None) -> float | None:
        return None if pressure_pa is None else (pressure_pa - unit.atmosphere_pa) / PSI_PA

    def fahrenheit(temperature_k: float | None) -> float | None:
        return None if temperature_k is None else to_fahrenheit(temperature_k)

    found = {
        "kind": unit.kind.value,
        "mode": unit.mode.value if unit.kind.is_heat_pump else None,
        "refrigerant": unit.refrigerant.name,
        "metering": unit.metering,
        "receiver": unit.receiver,
        "nominal_capacity_btuh": _scaled(unit.nominal_capacity_w, 1 / BTU_PER_HOUR_W),
        "seer": unit.seer,
        "label_charge_g": _scaled(unit.label_charge_kg, 1e3),
        "target_subcooling_f": _scaled(unit.target_subcooling_k, 1 / FAHRENHEIT_K),
        "target_superheat_f": _scaled(unit.target_superheat_k, 1 / FAHRENHEIT_K),
        "rated_load_amps": unit.rated_load_amps,
        "design_box_temp_f": fahrenheit(unit.design_box_k),
        "evaporator_class": unit.evaporator_class,
        "head_pressure_control": unit.head_pressure_control,
        "elevation_ft": _scaled(unit.elevation_m, 1 / FOOT_M),
        "compressor_control": unit.compressor_control,
        "high_pressure_cutout_psig": gauge(unit.high_pressure_cutout_pa),
        "low_pressure_cutout_psig": gauge(unit.low_pressure_cutout_pa),
        "discharge_limit_f": fahrenheit(unit.discharge_limit_k),
        "head_setting_f": fahrenheit(unit.head_setting_k),
        "maker_chart": [
            {
                "outdoor_f": to_fahrenheit(row.outdoor_k),
                "indoor_f": to_fahrenheit(row.indoor_k),
                "indoor_is": "wet_bulb" if row.by_wet_bulb else "dry_bulb",
                "suction_psig": gauge(row.suction_pa),
                "head_psig": gauge(row.head_pa),
                "superheat_f": _scaled(row.superheat_k, 1 / FAHRENHEIT_K),
            }
            for row in unit.maker_chart
        ],
        "more_circuits": [
            {
                "circuit": one.number,
                "refrigerant": one.refrigerant.name if one.refrigerant else None,
                "label_charge_g": _scaled(one.label_charge_kg, 1e3),
            }
            for one in unit.more_circuits
        ],
    }
    return {
        name: round(value, 4) if isinstance(value, float) else value
        for name, value in found.items()
        if value is not None and value != []
    }


def _kelvin(temperature_f: float | None) -> float | None:
    return None if temperature_f is None else to_kelvin(temperature_f)


def _scaled(value: float | None, factor: float) -> float | None:
    return None if value is None else value * factor
