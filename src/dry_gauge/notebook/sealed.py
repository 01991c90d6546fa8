"""Entries about the sealed system: the plan, weights in and out, leak search, pressure holds, evacuations.

Weights are whole grams, so that a ledger of them comes out even. Pressures of a hold stay in the unit they were typed in.
"""

from __future__ import annotations

from datetime import datetime
from enum import StrEnum
from typing import Annotated, Literal
from uuid import UUID

from pydantic import BaseModel, Field

from dry_gauge.core.opening import Repair
from dry_gauge.notebook.fields import FROZEN, FewWords, SomeWords

_MOST_GRAMS = 2_000_000
Grams = Annotated[int, Field(gt=0, le=_MOST_GRAMS)]
"""An amount that moved."""
Shown = Annotated[int, Field(ge=0, le=_MOST_GRAMS)]
"""What a scale shows."""
_Finite = Annotated[float, Field(allow_inf_nan=False)]
_Micron = Annotated[float, Field(allow_inf_nan=False, gt=0, le=1_000_000)]
MOST_TRACE_POINTS = 240


class SealedPlanBody(BaseModel):
    """What the system is opened for, and what decides the way."""

    model_config = FROZEN
    kind: Literal["sealed_plan"] = "sealed_plan"
    repair: Repair
    compressor_runs: bool = True
    receiver_holds: bool = False


class StepBody(BaseModel):
    """A step of the plan, done or left out; leaving out needs a reason."""

    model_config = FROZEN
    kind: Literal["step"] = "step"
    step: FewWords
    done: bool
    reason: FewWords = ""


class ChargeTargetBody(BaseModel):
    """What belongs in, and how that is made. Lengths in m, weights in g; a maker's figure in g/m."""

    model_config = FROZEN
    kind: Literal["charge_target"] = "charge_target"
    label_g: Grams
    line_length_m: Annotated[float, Field(allow_inf_nan=False, ge=0, le=300)] | None = None
    line: FewWords = "3/8"
    line_included_m: Annotated[float, Field(allow_inf_nan=False, ge=0, le=300)] = 0.0
    maker_g_per_m: Annotated[float, Field(allow_inf_nan=False, ge=0, le=2000)] | None = None
    drier_g: Annotated[int, Field(ge=0, le=5000)] = 0
    change_g: Annotated[int, Field(ge=-50_000, le=50_000)] = 0
    change_words: FewWords = ""


class Way(StrEnum):
    """Which way refrigerant goes, and why."""

    RECOVERED = "recovered"
    REMOVED = "removed"
    WEIGHED_IN = "weighed_in"
    TRIMMED = "trimmed"
    ADDED = "added"
    LOST = "lost"


WAY_LABELS = {
    Way.RECOVERED: "Recovered",
    Way.REMOVED: "Taken out to trim",
    Way.WEIGHED_IN: "Weighed in, unit off",
    Way.TRIMMED: "Trimmed, running",
    Way.ADDED: "Topped up",
    Way.LOST: "Lost from hoses",
}
OUT_OF_UNIT = frozenset({Way.RECOVERED, Way.REMOVED})
INTO_UNIT = frozenset({Way.WEIGHED_IN, Way.TRIMMED, Way.ADDED})


class MovementBody(BaseModel):
    """A weight that went from a cylinder into the unit, back, or from the hoses into the air."""

    model_config = FROZEN
    kind: Literal["movement"] = "movement"
    way: Way
    grams: Grams
    cylinder: UUID
    phase: Literal["liquid", "vapour", ""] = ""
    hose_g: Annotated[int, Field(ge=0, le=5000)] = 0
    """Of it, what stayed in the hoses and is not in the unit."""
    reason: FewWords = ""
    converting: bool = False


class PourBody(BaseModel):
    """A pour begins: the cylinder's weight on the scale before."""

    model_config = FROZEN
    kind: Literal["pour"] = "pour"
    way: Way
    cylinder: UUID
    gross_g: Shown
    phase: Literal["liquid", "vapour", ""] = ""
    reason: FewWords = ""
    converting: bool = False
    source: Literal["typed", "probe"] = "typed"


class PourMarkBody(BaseModel):
    """What the scale shows in the middle of a pour: kept, so that a dead phone or scale loses no more than since."""

    model_config = FROZEN
    kind: Literal["pour_mark"] = "pour_mark"
    pour: UUID
    gross_g: Shown
    source: Literal["typed", "probe"] = "typed"


class PourEndBody(BaseModel):
    """A pour ends: the scale after; or, where the scale lost its zero, the amount with a reason."""

    model_config = FROZEN
    kind: Literal["pour_end"] = "pour_end"
    pour: UUID
    gross_g: Shown | None = None
    grams: Annotated[int, Field(ge=0, le=_MOST_GRAMS)] | None = None
    hose_g: Annotated[int, Field(ge=0, le=5000)] = 0
    reason: FewWords = ""
    source: Literal["typed", "probe"] = "typed"


class RecoveredToBody(BaseModel):
    """The end of a recovery: the vacuum that was reached and stayed, by the shop's table."""

    model_config = FROZEN
    kind: Literal["recovered_to"] = "recovered_to"
    appliance: FewWords
    value: _Finite
    unit: FewWords
    minutes_held: Annotated[float, Field(allow_inf_nan=False, ge=0, le=1440)] = 0.0
    reason: FewWords = ""


class LeakPlaceBody(BaseModel):
    """A place searched: passed, failed or not reached."""

    model_config = FROZEN
    kind: Literal["leak_place"] = "leak_place"
    place: FewWords
    result: Literal["passed", "failed", "not_reached"]
    method: FewWords = ""
    words: FewWords = ""


class LeakCureBody(BaseModel):
    """What was done about a leak. A patch has an expected life and is looked at again."""

    model_config = FROZEN
    kind: Literal["leak_cure"] = "leak_cure"
    leak: UUID
    cure: Literal["patch", "joint", "new_part", "isolated"]
    part: FewWords = ""
    months: Annotated[int, Field(ge=1, le=240)] | None = None


CURE_WORDS = {
    "patch": "Patched for now",
    "joint": "Joint made new",
    "new_part": "New part",
    "isolated": "Shut off, not mended",
}


class HoldBody(BaseModel):
    """A pressure hold of one section begins. `limit` is the label's test pressure for its weaker part, gauge."""

    model_config = FROZEN
    kind: Literal["hold"] = "hold"
    section: SomeWords
    limit: Annotated[float, Field(allow_inf_nan=False, gt=0)] | None = None
    unit: FewWords = "psig"
    gas: Literal["nitrogen", "other"] = "nitrogen"
    vacuum_gauge_off: bool = False


class HoldReadingBody(BaseModel):
    """Gauge and thermometer of one section; `stage` readings are on the way up and do not count as the hold."""

    model_config = FROZEN
    kind: Literal["hold_reading"] = "hold_reading"
    hold: UUID
    pressure: _Finite
    pressure_unit: FewWords
    temp: _Finite
    temp_unit: FewWords
    gauge: FewWords = ""
    pressure_accuracy: Annotated[float, Field(allow_inf_nan=False, ge=0)] | None = None
    thermometer: FewWords = ""
    temp_accuracy: Annotated[float, Field(allow_inf_nan=False, ge=0)] | None = None
    stage: bool = False
    source: Literal["typed", "probe"] = "typed"


class HoldEndBody(BaseModel):
    """The hold is over. The verdict is the arithmetic's; someone's own needs a reason."""

    model_config = FROZEN
    kind: Literal["hold_end"] = "hold_end"
    hold: UUID
    verdict: Literal["tight", "leaking", "too_soon"]
    reason: FewWords = ""


class EvacuationBody(BaseModel):
    """An evacuation, or the proof of the rig before it."""

    model_config = FROZEN
    kind: Literal["evacuation"] = "evacuation"
    what: Literal["rig", "system"] = "system"
    charge_kept: bool = False
    """Only a part is evacuated: the charge stands in the receiver, valved off."""
    gauge: FewWords = ""
    gauge_at: Literal["far_end", "near_pump", "manifold", ""] = ""
    cores_out: bool = False
    hoses: Literal["wide_short", "thin", ""] = ""
    water_suspected: bool = False
    triple: bool = False
    """Pulled three times, swept with dry nitrogen in between."""
    target_micron: Annotated[float, Field(allow_inf_nan=False, ge=50, le=5000)] = 300.0
    school: Literal["strict", "common"] = "strict"
    done_by: datetime | None = None


class VacuumPointBody(BaseModel):
    """What the vacuum gauge shows now."""

    model_config = FROZEN
    kind: Literal["vacuum_point"] = "vacuum_point"
    evacuation: UUID
    micron: _Micron


class VacuumEvent(StrEnum):
    """What happens to an evacuation."""

    PUMP_ON = "pump_on"
    ISOLATED = "isolated"
    OPENED = "opened"
    BALLAST_OPEN = "ballast_open"
    BALLAST_SHUT = "ballast_shut"
    OIL_CHANGED = "oil_changed"
    SWEPT = "swept"
    BROKEN = "broken"


EVENT_WORDS = {
    VacuumEvent.PUMP_ON: "Pump on, open to the system",
    VacuumEvent.ISOLATED: "Valve shut: watching",
    VacuumEvent.OPENED: "Open to the pump again",
    VacuumEvent.BALLAST_OPEN: "Gas ballast open",
    VacuumEvent.BALLAST_SHUT: "Gas ballast shut",
    VacuumEvent.OIL_CHANGED: "Pump oil changed",
    VacuumEvent.SWEPT: "Swept with dry nitrogen",
    VacuumEvent.BROKEN: "Vacuum broken: done",
}


class VacuumEventBody(BaseModel):
    """Something was done at the pump or a valve."""

    model_config = FROZEN
    kind: Literal["vacuum_event"] = "vacuum_event"
    evacuation: UUID
    event: VacuumEvent
    reason: FewWords = ""


class TraceBody(BaseModel):
    """What a live vacuum gauge showed, thinned: seconds before this entry, and microns. The verdict rests on it."""

    model_config = FROZEN
    kind: Literal["trace"] = "trace"
    evacuation: UUID
    seconds_ago: Annotated[tuple[Annotated[float, Field(ge=0, le=1e6)], ...], Field(max_length=MOST_TRACE_POINTS)]
    micron: Annotated[tuple[_Micron, ...], Field(max_length=MOST_TRACE_POINTS)]
