"""What a technician can put into a visit's notebook: typed, validated, never changed afterwards.

An entry's id is made by whoever writes it (UUIDv7), so that sending it again does no harm. A correction voids an
entry and adds another; both stay visible.
"""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, TypeAdapter

from dry_gauge.core.vocabulary import Fault, Mode, State

_FROZEN = ConfigDict(extra="forbid", frozen=True)

Words = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=4000)]
FewWords = Annotated[str, StringConstraints(strip_whitespace=True, max_length=200)]
Reason = Annotated[str, StringConstraints(strip_whitespace=True, min_length=3, max_length=400)]
Circuit = Annotated[int, Field(ge=1, le=99)]
FULL_DAY_MINUTES = 24 * 60


class ReadingBody(BaseModel):
    """A number from an instrument, as it was typed: in its own unit."""

    model_config = _FROZEN
    kind: Literal["reading"] = "reading"
    quantity: str
    value: Annotated[float, Field(allow_inf_nan=False)]
    unit: str
    accuracy: Annotated[float, Field(allow_inf_nan=False, ge=0)] | None = None
    circuit: Circuit | None = None
    stage: FewWords | None = None
    place: FewWords | None = None


class ObservationBody(BaseModel):
    """Something looked at, listened to or felt."""

    model_config = _FROZEN
    kind: Literal["observation"] = "observation"
    what: str
    state: State
    circuit: Circuit | None = None


class NoteBody(BaseModel):
    """Plain words."""

    model_config = _FROZEN
    kind: Literal["note"] = "note"
    text: Words


class ClockBody(BaseModel):
    """When the unit started, or was last changed: minutes before this entry arrived."""

    model_config = _FROZEN
    kind: Literal["clock"] = "clock"
    event: Literal["started", "changed"]
    minutes_ago: Annotated[float, Field(allow_inf_nan=False, ge=0, le=30 * FULL_DAY_MINUTES)]


class ModeBody(BaseModel):
    """What the unit is doing from here on: a heat pump's coils swap their roles."""

    model_config = _FROZEN
    kind: Literal["mode"] = "mode"
    mode: Mode


class OverrideBody(BaseModel):
    """The technician's own verdict, in place of the one offered or held back; on the record with its reason."""

    model_config = _FROZEN
    kind: Literal["override"] = "override"
    fault: Fault
    reason: Reason
    rule_set: FewWords = ""
    """What the judgement was made by when it was overruled."""


class AsideBody(BaseModel):
    """A warning put aside with a reason; it comes back when one of the readings it rests on is read again."""

    model_config = _FROZEN
    kind: Literal["aside"] = "aside"
    warning: FewWords
    basis: Annotated[str, StringConstraints(max_length=64)]
    reason: Reason


class VoidBody(BaseModel):
    """Takes an earlier entry back; the entry stays in the notebook."""

    model_config = _FROZEN
    kind: Literal["void"] = "void"
    voids: UUID
    reason: FewWords = ""


Body = Annotated[
    ReadingBody | ObservationBody | NoteBody | ClockBody | ModeBody | OverrideBody | AsideBody | VoidBody,
    Field(discriminator="kind"),
]
BODY: TypeAdapter[Body] = TypeAdapter(Body)


class Entry(BaseModel):
    """One line of the notebook: what, by whom, and when it reached the server.

    `sequence` is the server's and decides the order; phone clocks lie, so `device_time` only stands beside it.
    """

    model_config = _FROZEN
    id: UUID
    sequence: int
    person_id: UUID
    received_at: datetime
    device_time: datetime | None = None
    body: Body
