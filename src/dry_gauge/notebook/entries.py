"""What a technician can put into a visit's notebook: typed, validated, never changed afterwards.

An entry's id is made by whoever writes it (UUIDv7), so that sending it again does no harm. A correction voids an
entry and adds another; both stay visible.
"""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Annotated, Literal
from uuid import UUID

from pydantic import BaseModel, Field, TypeAdapter

from dry_gauge.notebook import calling as c
from dry_gauge.notebook import measuring as m
from dry_gauge.notebook import sealed as s
from dry_gauge.notebook.fields import FROZEN, FULL_DAY_MINUTES, FewWords

LONGEST_WAIT_SECONDS = 30 * FULL_DAY_MINUTES * 60


class VoidBody(BaseModel):
    """Takes an earlier entry back; the entry stays in the notebook."""

    model_config = FROZEN
    kind: Literal["void"] = "void"
    voids: UUID
    reason: FewWords = ""


Body = Annotated[
    m.ReadingBody | m.ObservationBody | m.NoteBody | m.ClockBody | m.ModeBody | m.StageBody | m.ConditionBody
    | m.InUseBody | m.OverrideBody | m.AsideBody
    | c.ComplaintBody | c.ClaimBody | c.ClaimCheckBody | c.TimerBody | c.TimerEndBody | c.ActionBody
    | c.FailedTestBody | c.ProofBody | c.TemporaryBody | c.RestoredBody | c.TripBody | c.CautionBody | c.LockoutBody
    | c.RedTagBody | c.FollowUpBody | c.FollowUpDoneBody | c.TaskBody | c.TaskDoneBody | c.PhotoBody | c.ClosingBody
    | s.SealedPlanBody | s.StepBody | s.ChargeTargetBody | s.MovementBody | s.PourBody | s.PourMarkBody | s.PourEndBody
    | s.RecoveredToBody | s.LeakPlaceBody | s.LeakCureBody | s.HoldBody | s.HoldReadingBody | s.HoldEndBody
    | s.EvacuationBody | s.VacuumPointBody | s.VacuumEventBody | s.TraceBody
    | VoidBody,
    Field(discriminator="kind"),
]  # fmt: skip
BODY: TypeAdapter[Body] = TypeAdapter(Body)


class Entry(BaseModel):
    """One line of the notebook: what, by whom, and when it reached the server.

    `sequence` is the server's and decides the order; phone clocks lie, so `device_time` only stands beside it. How
    long an entry waited to be sent is a difference of one clock with itself, which a wrong clock does not spoil.
    """

    model_config = FROZEN
    id: UUID
    sequence: int
    person_id: UUID
    received_at: datetime
    device_time: datetime | None = None
    waited_seconds: Annotated[int, Field(ge=0, le=LONGEST_WAIT_SECONDS)] = 0
    body: Body

    @property
    def written_at(self) -> datetime:
        """When it was written: when it arrived, less what it waited for a connection."""
        return self.received_at - timedelta(seconds=self.waited_seconds)
