"""Entries about the call itself: why it was made, what was done, what is still lifted, and how it ended."""

from __future__ import annotations

from datetime import date
from enum import StrEnum
from typing import Annotated, Literal
from uuid import UUID

from pydantic import BaseModel, Field

from dry_gauge.core.complaints import Complaint
from dry_gauge.core.vocabulary import Fault
from dry_gauge.notebook.fields import FROZEN, FULL_DAY_MINUTES, FewWords, SomeWords, Words


class ComplaintBody(BaseModel):
    """Why the call was made, in the customer's words and in ours."""

    model_config = FROZEN
    kind: Literal["complaint"] = "complaint"
    sorts: tuple[Complaint, ...] = ()
    words: FewWords = ""
    since: FewWords = ""
    who_touched_it: FewWords = ""


class ClaimBody(BaseModel):
    """Something the customer says; true or not is another entry."""

    model_config = FROZEN
    kind: Literal["claim"] = "claim"
    text: SomeWords


class ClaimCheckBody(BaseModel):
    """Whether a claim turned out to be so."""

    model_config = FROZEN
    kind: Literal["claim_check"] = "claim_check"
    claim: UUID
    true: bool
    how: FewWords = ""


class TimerBody(BaseModel):
    """Something that takes minutes: a thaw, a dwell, a wait."""

    model_config = FROZEN
    kind: Literal["timer"] = "timer"
    what: SomeWords
    minutes: Annotated[float, Field(allow_inf_nan=False, gt=0, le=3 * FULL_DAY_MINUTES)]
    thaw: bool = False


class TimerEndBody(BaseModel):
    """It is over, or was stopped."""

    model_config = FROZEN
    kind: Literal["timer_end"] = "timer_end"
    timer: UUID


class ActionSort(StrEnum):
    """What can be done to a unit; each clears the observations it answers."""

    FILTER_CHANGED = "filter_changed"
    EVAPORATOR_CLEANED = "evaporator_cleaned"
    CONDENSER_CLEANED = "condenser_cleaned"
    BELT_OR_BLOWER = "belt_or_blower"
    OUTDOOR_FAN = "outdoor_fan"
    DAMPER_OPENED = "damper_opened"
    DRAIN_CLEARED = "drain_cleared"
    THAWED = "thawed"
    CHARGE_ADJUSTED = "charge_adjusted"
    METERING_DEVICE = "metering_device"
    DRIER_CHANGED = "drier_changed"
    ELECTRICAL_PART = "electrical_part"
    SETTING_CHANGED = "setting_changed"
    OTHER = "other"


ACTION_WORDS = {
    ActionSort.FILTER_CHANGED: "Filter changed",
    ActionSort.EVAPORATOR_CLEANED: "Evaporator cleaned",
    ActionSort.CONDENSER_CLEANED: "Condenser cleaned",
    ActionSort.BELT_OR_BLOWER: "Belt or blower mended",
    ActionSort.OUTDOOR_FAN: "Outdoor fan mended",
    ActionSort.DAMPER_OPENED: "Damper opened",
    ActionSort.DRAIN_CLEARED: "Drain cleared",
    ActionSort.THAWED: "Coil thawed",
    ActionSort.CHARGE_ADJUSTED: "Charge adjusted",
    ActionSort.METERING_DEVICE: "Metering device set or changed",
    ActionSort.DRIER_CHANGED: "Drier changed",
    ActionSort.ELECTRICAL_PART: "Electrical part changed",
    ActionSort.SETTING_CHANGED: "Setting changed",
    ActionSort.OTHER: "Something else",
}
_INDOOR = ("evaporator_air_proven",)
_OUTDOOR = ("condenser_air_proven",)
ANSWERED_BY: dict[ActionSort, tuple[str, ...]] = {
    ActionSort.FILTER_CHANGED: ("filter_dirty", "filter_missing", *_INDOOR),
    ActionSort.EVAPORATOR_CLEANED: ("evaporator_dirty", *_INDOOR),
    ActionSort.CONDENSER_CLEANED: ("condenser_dirty", "discharge_air_pulsing", "condenser_air_recirculating", *_OUTDOOR),
    ActionSort.BELT_OR_BLOWER: ("blower_stopped", "blower_belt_slipping", "fan_blade_damaged", "bearing_worn", *_INDOOR),
    ActionSort.OUTDOOR_FAN: ("condenser_fan_stopped", "condenser_fan_reversed", "fan_blade_damaged", "bearing_worn",
                             *_OUTDOOR),
    ActionSort.DAMPER_OPENED: ("damper_closed", *_INDOOR),
    ActionSort.DRAIN_CLEARED: ("drain_blocked", "water_at_electrics"),
    ActionSort.THAWED: ("ice_on_evaporator_even", "ice_on_evaporator_patchy", "frost_at_distributor",
                        "suction_line_frosted_to_compressor", *_INDOOR),
    ActionSort.CHARGE_ADJUSTED: ("sight_glass_bubbles", "sight_glass_streaming", "sight_glass_half_empty"),
    ActionSort.METERING_DEVICE: ("superheat_hunting",),
    ActionSort.DRIER_CHANGED: ("frost_after_drier",),
    ActionSort.ELECTRICAL_PART: ("burnt_parts", "plug_loose", "blower_stopped", "condenser_fan_stopped"),
}  # fmt: skip
"""Which observations an action makes stale: they must be looked at again."""


class ActionBody(BaseModel):
    """What was changed. Readings before it stay as the before of a pair; the unit is read again after it."""

    model_config = FROZEN
    kind: Literal["action"] = "action"
    sort: ActionSort
    words: FewWords = ""
    against: Fault | None = None
    part: FewWords = ""


class FailedTestBody(BaseModel):
    """The measurement that shows the complaint: it is repeated at the end, in the same mode and stage."""

    model_config = FROZEN
    kind: Literal["failed_test"] = "failed_test"
    quantity: str
    circuit: Annotated[int, Field(ge=1, le=99)] = 1
    should: SomeWords


class ProofBody(BaseModel):
    """The failed measurement, repeated after the last change: passed or not."""

    model_config = FROZEN
    kind: Literal["proof"] = "proof"
    failed_test: UUID
    passed: bool
    how: FewWords = ""


class ChangeSort(StrEnum):
    """What can be lifted, bridged or set for a while."""

    JUMPER = "jumper"
    SAFETY = "safety"
    UNPLUGGED = "unplugged"
    SETPOINT = "setpoint"
    VALVE = "valve"
    COVER = "cover"
    FILTER = "filter"
    FAN_COVERED = "fan_covered"
    DISCONNECT = "disconnect"
    OTHER = "other"


CHANGE_WORDS = {
    ChangeSort.JUMPER: "Jumper fitted",
    ChangeSort.SAFETY: "Safety bypassed",
    ChangeSort.UNPLUGGED: "Plug or wire off",
    ChangeSort.SETPOINT: "Setpoint changed",
    ChangeSort.VALVE: "Valve turned",
    ChangeSort.COVER: "Panel or cover off",
    ChangeSort.FILTER: "Filter out",
    ChangeSort.FAN_COVERED: "Fan opening covered",
    ChangeSort.DISCONNECT: "Disconnect off",
    ChangeSort.OTHER: "Something else",
}


class TemporaryBody(BaseModel):
    """Something changed for a while: it is put back before anyone leaves."""

    model_config = FROZEN
    kind: Literal["temporary"] = "temporary"
    sort: ChangeSort
    where: SomeWords
    was: FewWords = ""
    belongs_to: FewWords = ""
    """Whose it is, where it is not this unit's: a fire panel, a building computer, a process."""
    permission: FewWords = ""


class RestoredBody(BaseModel):
    """It is back as it was."""

    model_config = FROZEN
    kind: Literal["restored"] = "restored"
    change: UUID
    how: FewWords = ""


class TripBody(BaseModel):
    """A switch tripped, or was reset. A reset is not a repair: without a cause it stays open until a recheck."""

    model_config = FROZEN
    kind: Literal["trip"] = "trip"
    event: Literal["trip", "reset"]
    switch: SomeWords
    cause: FewWords = ""


class CautionBody(BaseModel):
    """A caution was read and acknowledged."""

    model_config = FROZEN
    kind: Literal["caution"] = "caution"
    code: FewWords


class LockoutBody(BaseModel):
    """A disconnect locked out and proven dead, or unlocked."""

    model_config = FROZEN
    kind: Literal["lockout"] = "lockout"
    disconnect: SomeWords
    locked: bool


class RedTagBody(BaseModel):
    """The unit or its heat is unsafe: off, tagged, and somebody was told."""

    model_config = FROZEN
    kind: Literal["red_tag"] = "red_tag"
    danger: SomeWords
    told: SomeWords


class FollowUpSort(StrEnum):
    """Why someone comes back."""

    RECHECK = "recheck"
    RETURN = "return"
    PART = "part"
    WATCH = "watch"
    SEASON = "season"


class FollowUpBody(BaseModel):
    """Something left for later, with a date, so that it is not lost."""

    model_config = FROZEN
    kind: Literal["follow_up"] = "follow_up"
    sort: FollowUpSort
    what: SomeWords
    due: date


class FollowUpDoneBody(BaseModel):
    """It was seen to."""

    model_config = FROZEN
    kind: Literal["follow_up_done"] = "follow_up_done"
    follow_up: UUID
    how: FewWords = ""


class TaskBody(BaseModel):
    """Something to do on this unit before leaving."""

    model_config = FROZEN
    kind: Literal["task"] = "task"
    what: SomeWords


class TaskDoneBody(BaseModel):
    """Done."""

    model_config = FROZEN
    kind: Literal["task_done"] = "task_done"
    task: UUID


class PhotoBody(BaseModel):
    """A photo kept with the visit, and the entry it belongs to."""

    model_config = FROZEN
    kind: Literal["photo"] = "photo"
    photo: UUID
    caption: FewWords = ""
    about: UUID | None = None


class Outcome(StrEnum):
    """How a visit ended."""

    FIXED = "fixed"
    IMPROVED = "improved"
    NOTHING_WRONG = "nothing_wrong"
    WAITING = "waiting"
    NOT_FIXED = "not_fixed"


OUTCOME_WORDS = {
    Outcome.FIXED: "Fixed and proven",
    Outcome.IMPROVED: "Better, not done",
    Outcome.NOTHING_WRONG: "Nothing wrong found",
    Outcome.WAITING: "Waiting for a part or an answer",
    Outcome.NOT_FIXED: "Not fixed",
}


class ClosingBody(BaseModel):
    """The visit is over. What still stood open was let go with a reason, and is named."""

    model_config = FROZEN
    kind: Literal["closing"] = "closing"
    outcome: Outcome
    summary: Words
    override: Annotated[str, Field(max_length=400)] = ""
    let_go: tuple[FewWords, ...] = ()
