"""The reading sheet as JSON: what may stand in it, what is refused and in which words, and its way into SI."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from functools import lru_cache
from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationError

from dry_gauge.core.dimensions import UNITS
from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import make_observation, make_reading, unknown
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
from dry_gauge.core.visit.complaints import Complaint
from dry_gauge.core.vocabulary import (
    QUANTITIES,
    SIGHTS,
    CompressorControl,
    EvaporatorClass,
    HeadPressureControl,
    Kind,
    Metering,
    Mode,
    School,
    State,
)

FORMAT: Literal["dry-gauge/reading-sheet"] = "dry-gauge/reading-sheet"
MOST_READINGS, MOST_EARLIER = 500, 12
MOST_BYTES = 256 * 1024

_STRICT = ConfigDict(extra="forbid", strict=True, frozen=True)

Number = Annotated[float, Field(allow_inf_nan=False)]
Positive = Annotated[float, Field(allow_inf_nan=False, gt=0)]
Minutes = Annotated[float, Field(allow_inf_nan=False, ge=0)]
Elevation = Annotated[float, Field(allow_inf_nan=False, ge=-1500, le=20_000)]
Circuit = Annotated[int, Field(ge=1, le=99)]


def _none_as_empty(value: object) -> object:
    return [] if value is None else value


class ChartRowJson(BaseModel):
    """One line of the maker's chart; `indoor_f` is the air's dry bulb unless it says otherwise."""

    model_config = _STRICT

    outdoor_f: Number
    indoor_f: Number
    indoor_is: Literal["dry_bulb", "wet_bulb"] = "dry_bulb"
    suction_psig: Number | None = None
    head_psig: Number | None = None
    superheat_f: Number | None = None


class MoreCircuitJson(BaseModel):
    """One more circuit of the unit; null is as the first one's, a charge that is null is not known."""

    model_config = _STRICT

    circuit: Annotated[int, Field(ge=2, le=8)]
    refrigerant: str | None = None
    label_charge_g: Positive | None = None


class UnitJson(BaseModel):
    """What is known of the unit. Only `kind` and `refrigerant` are required; null is not known."""

    model_config = _STRICT

    kind: Kind
    mode: Mode | None = None
    refrigerant: str
    metering: Metering | None = None
    receiver: bool | None = None
    nominal_capacity_btuh: Positive | None = None
    seer: Positive | None = None
    label_charge_g: Positive | None = None
    target_subcooling_f: Number | None = None
    target_superheat_f: Number | None = None
    rated_load_amps: Positive | None = None
    design_box_temp_f: Number | None = None
    evaporator_class: EvaporatorClass | None = None
    head_pressure_control: HeadPressureControl | None = None
    elevation_ft: Elevation | None = None
    compressor_control: CompressorControl | None = None
    high_pressure_cutout_psig: Positive | None = None
    low_pressure_cutout_psig: Number | None = None
    discharge_limit_f: Number | None = None
    head_setting_f: Number | None = None
    maker_chart: Annotated[list[ChartRowJson], BeforeValidator(_none_as_empty), Field(max_length=200)] = []
    more_circuits: Annotated[list[MoreCircuitJson], BeforeValidator(_none_as_empty), Field(max_length=7)] = []


class ReadingJson(BaseModel):
    """One reading in its own unit; `accuracy` is its 95 % half-width in that unit."""

    model_config = _STRICT

    quantity: str
    value: Number
    unit: str
    accuracy: Annotated[float, Field(allow_inf_nan=False, ge=0)] | None = None
    minutes: Minutes | None = None
    circuit: Circuit | None = None
    stage: str | int | None = None
    place: str | None = None
    instrument: Annotated[str, Field(max_length=200)] = ""


class ObservationJson(BaseModel):
    """One answer to something looked at."""

    model_config = _STRICT

    what: str
    state: State
    circuit: Circuit | None = None


class SchoolsJson(BaseModel):
    """Which school judges."""

    model_config = _STRICT

    superheat: School | None = None


class EarlierJson(BaseModel):
    """What the same unit showed on another day; or another of its model, under its own name (`unit`)."""

    model_config = _STRICT

    date: Annotated[str, Field(pattern=r"^\d{4}-\d{2}-\d{2}$")]
    unit: Annotated[str, Field(max_length=60)] = ""
    proven: bool = False
    before_change: bool = False
    minutes_running: Minutes | None = None
    readings: Annotated[list[ReadingJson], BeforeValidator(_none_as_empty), Field(max_length=MOST_READINGS)] = []
    observations: Annotated[list[ObservationJson], BeforeValidator(_none_as_empty)] = []


class ReadingSheetJson(BaseModel):
    """A reading sheet, version 1."""

    model_config = _STRICT

    format: Literal["dry-gauge/reading-sheet"] = FORMAT
    version: Literal[1] = 1
    unit: UnitJson
    readings: Annotated[list[ReadingJson], BeforeValidator(_none_as_empty), Field(max_length=MOST_READINGS)] = []
    observations: Annotated[list[ObservationJson], BeforeValidator(_none_as_empty)] = []
    schools: SchoolsJson | None = None
    complaints: Annotated[list[Complaint], BeforeValidator(_none_as_empty)] = []
    minutes_running: Minutes | None = None
    minutes_since_change: Minutes | None = None
    minutes_since_charge: Minutes | None = None
    minutes_since_defrost: Minutes | None = None
    earlier: Annotated[list[EarlierJson], BeforeValidator(_none_as_empty), Field(max_length=MOST_EARLIER)] = []


@lru_cache(maxsize=1)
def json_schema() -> dict[str, Any]:
    """JSON Schema of the reading sheet, with the vocabulary spelled out."""
    schema = ReadingSheetJson.model_json_schema()
    properties = schema["$defs"]
    properties["ReadingJson"]["properties"]["quantity"]["enum"] = list(QUANTITIES)
    properties["ReadingJson"]["properties"]["unit"]["enum"] = list(UNITS)
    properties["ObservationJson"]["properties"]["what"]["enum"] = list(SIGHTS)
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    schema["title"] = FORMAT
    return schema


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
        raise _refusal(error) from None
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


# -- Pydantic's findings in our words -----------------------------------------------------------------


_MODELS: Mapping[str, type[BaseModel]] = {
    "unit": UnitJson,
    "readings": ReadingJson,
    "observations": ObservationJson,
    "schools": SchoolsJson,
    "earlier": EarlierJson,
}


def _path(location: Sequence[int | str]) -> str:
    path = ""
    for step in location:
        path += f"[{step}]" if isinstance(step, int) else f".{step}" if path else str(step)
    return path


def _refusal(error: ValidationError) -> Refused:
    """The first finding as one sentence."""
    finding = error.errors(include_url=False)[0]
    location = [step for step in finding["loc"] if step not in ("str", "int")]
    path, kind = _path(location), finding["type"]
    name = str(location[-1]) if location else ""
    given = finding.get("input")
    context = finding.get("ctx", {})
    match kind:
        case "json_invalid":
            return Refused(f"This is not JSON: {context.get('error', 'it does not parse')}.")
        case "extra_forbidden":
            model = _MODELS.get(str(location[0]), ReadingSheetJson) if len(location) > 1 else ReadingSheetJson
            return unknown("field", name, model.model_fields, path)
        case "missing":
            return Refused(f"{path} is missing; it is required.", path)
        case "enum" | "literal_error":
            known = tuple(re.findall(r"'([^']*)'", str(context.get("expected", ""))))
            if name in ("format", "version"):
                return Refused(f"{path} must be {context['expected']}; got {given!r}.", path, known)
            return unknown(name, str(given), known, path, show_all=True)
        case "finite_number":
            return Refused(f"{path} must be a finite number.", path)
        case "float_type" | "float_parsing" | "int_type" | "int_from_float":
            return Refused(f"{path} must be a number; got {_shown(given)}.", path)
        case "too_long" if name == "earlier":
            return Refused(f"{path} holds over {MOST_EARLIER} sets; send the latest.", path)
        case "too_long":
            return Refused(f"{path} holds over {MOST_READINGS} readings; send the latest of each quantity.", path)
        case "model_type" | "model_attributes_type" | "dict_type":
            return Refused(f"{path or 'The sheet'} must be an object; got {_shown(given)}.", path)
        case "list_type":
            return Refused(f"{path} must be a list; got {_shown(given)}.", path)
        case "string_type":
            return Refused(f"{path} must be text; got {_shown(given)}.", path)
        case _:
            return Refused(f"{path}: {finding['msg'][0].lower()}{finding['msg'][1:]}; got {_shown(given)}.", path)


def _shown(value: object) -> str:
    text = repr(value)
    return text if len(text) <= 40 else f"{text[:37]}..."
