"""Entries about numbers and what is seen: readings, observations, and what they were taken under."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import BaseModel, Field, StringConstraints

from dry_gauge.core.vocabulary import Fault, Mode, State
from dry_gauge.notebook.fields import FROZEN, FULL_DAY_MINUTES, Circuit, FewWords, Reason, SomeWords, Words


class Condition(StrEnum):
    """What makes a reading a thing of its own: it is kept, and not compared with a normal target."""

    PANEL_OFF = "panel_off"
    FILTER_OUT = "filter_out"
    COIL_WET = "coil_wet"
    FAN_COVERED = "fan_covered"
    THAWING = "thawing"


CONDITION_WORDS = {
    Condition.PANEL_OFF: "panel off",
    Condition.FILTER_OUT: "filter out",
    Condition.COIL_WET: "coil wet",
    Condition.FAN_COVERED: "fan covered",
    Condition.THAWING: "thawing",
}


class ReadingBody(BaseModel):
    """A number from an instrument, as it was typed: in its own unit."""

    model_config = FROZEN
    kind: Literal["reading"] = "reading"
    quantity: str
    value: Annotated[float, Field(allow_inf_nan=False)]
    unit: str
    accuracy: Annotated[float, Field(allow_inf_nan=False, ge=0)] | None = None
    circuit: Circuit | None = None
    stage: FewWords | None = None
    place: FewWords | None = None
    instrument: FewWords | None = None
    source: Literal["typed", "probe"] = "typed"


class ObservationBody(BaseModel):
    """Something looked at, listened to or felt."""

    model_config = FROZEN
    kind: Literal["observation"] = "observation"
    what: str
    state: State
    circuit: Circuit | None = None


class NoteBody(BaseModel):
    """Plain words."""

    model_config = FROZEN
    kind: Literal["note"] = "note"
    text: Words


class ClockBody(BaseModel):
    """When the unit started, or was last changed: minutes before this entry was written."""

    model_config = FROZEN
    kind: Literal["clock"] = "clock"
    event: Literal["started", "changed"]
    minutes_ago: Annotated[float, Field(allow_inf_nan=False, ge=0, le=30 * FULL_DAY_MINUTES)]


class ModeBody(BaseModel):
    """What the unit is doing from here on: a heat pump's coils swap their roles."""

    model_config = FROZEN
    kind: Literal["mode"] = "mode"
    mode: Mode


class StageBody(BaseModel):
    """The stage that was called for, the stage it really runs in, and how that is known."""

    model_config = FROZEN
    kind: Literal["stage"] = "stage"
    commanded: SomeWords
    actual: SomeWords
    witness: FewWords = ""


class ConditionBody(BaseModel):
    """From here on, readings are taken with a panel off, the coil wet and so on; or no longer."""

    model_config = FROZEN
    kind: Literal["condition"] = "condition"
    condition: Condition
    on: bool


class InUseBody(BaseModel):
    """Which instrument reads a sort of quantity from here on, and how well: accuracy (95 %) and range in `unit`."""

    model_config = FROZEN
    kind: Literal["in_use"] = "in_use"
    dimension: FewWords
    instrument: SomeWords
    accuracy: Annotated[float, Field(allow_inf_nan=False, ge=0)] | None = None
    unit: FewWords = ""
    low: Annotated[float, Field(allow_inf_nan=False)] | None = None
    high: Annotated[float, Field(allow_inf_nan=False)] | None = None

    def holds(self, value: float, unit: str) -> bool:
        """Whether a value in `unit` is within its range, as far as that is known."""
        if unit != self.unit:
            return True
        return (self.low is None or value >= self.low) and (self.high is None or value <= self.high)


class OverrideBody(BaseModel):
    """The technician's own verdict, in place of the one offered or held back; on the record with its reason."""

    model_config = FROZEN
    kind: Literal["override"] = "override"
    fault: Fault
    reason: Reason
    rule_set: FewWords = ""
    """What the judgement was made by when it was overruled."""


class AsideBody(BaseModel):
    """A warning put aside with a reason; it comes back when one of the readings it rests on is read again."""

    model_config = FROZEN
    kind: Literal["aside"] = "aside"
    warning: FewWords
    basis: Annotated[str, StringConstraints(max_length=64)]
    reason: Reason
