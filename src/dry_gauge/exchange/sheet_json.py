"""The reading sheet as JSON: what may stand in it, and what is refused in which words."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from functools import lru_cache
from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationError

from dry_gauge.core.dimensions import UNITS
from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import unknown
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


# -- what is wrong with one, in our words -----------------------------------------------------------

_MODELS: Mapping[str, type[BaseModel]] = {
    "unit": UnitJson,
    "maker_chart": ChartRowJson,
    "more_circuits": MoreCircuitJson,
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


def _model_at(location: Sequence[int | str]) -> type[BaseModel]:
    """The innermost block that a location leads into."""
    named = (_MODELS[step] for step in reversed(location) if isinstance(step, str) and step in _MODELS)
    return next(named, ReadingSheetJson)


def refusal_of(error: ValidationError) -> Refused:
    """The first finding of Pydantic as one sentence, with the field's path and the nearest known names."""
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
            return unknown("field", name, _model_at(location[:-1]).model_fields, path)
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
