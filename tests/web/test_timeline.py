"""Every kind of entry has words of its own on the timeline, also where what it points at was taken back."""

from __future__ import annotations

from datetime import date
from typing import get_args
from uuid import UUID

import pytest

from dry_gauge.core.complaints import Complaint
from dry_gauge.core.vocabulary import Fault, Mode, State
from dry_gauge.notebook import calling as c
from dry_gauge.notebook import measuring as m
from dry_gauge.notebook.call_state import CallState
from dry_gauge.notebook.entries import Body, VoidBody
from dry_gauge.web.timeline import said

GONE = UUID(int=7)
WORDS = {
    m.ReadingBody(quantity="suction_pressure", value=118, unit="psig", circuit=2, source="probe"):
        ("Suction pressure, circuit 2", "118 psig, live"),
    m.ObservationBody(what="filter_dirty", state=State.NOT_SEEN): ("Filter dirty", "not seen"),
    m.NoteBody(text="two fans"): ("Note", "two fans"),
    m.ClockBody(event="started", minutes_ago=12): ("Unit started", "12 min before"),
    m.ModeBody(mode=Mode.HEATING): ("Mode", "heating"),
    m.StageBody(commanded="full", actual="first", witness="amps"): ("Stage", "called full, runs first, by amps"),
    m.ConditionBody(condition=m.Condition.COIL_WET, on=False): ("Coil wet", "no longer"),
    m.InUseBody(dimension="pressure", instrument="G1", accuracy=0.5, unit="psig"):
        ("Instrument for pressure", "G1, ±0.5 psig"),
    m.OverrideBody(fault=Fault.NONE, reason="seen worse"): ("Own verdict: Nothing wrong", "seen worse"),
    m.AsideBody(warning="x", basis="y", reason="clamp moved"): ("Warning put aside", "clamp moved"),
    c.ComplaintBody(sorts=(Complaint.ICE,), words="frozen", since="May"): ("Complaint", "ice; frozen; since May"),
    c.ClaimBody(text="new filter"): ("They say", "new filter"),
    c.ClaimCheckBody(claim=GONE, true=False, how="looked"): ("Not so", "looked"),
    c.TimerBody(what="thaw", minutes=40): ("Timer", "thaw, 40 min"),
    c.TimerEndBody(timer=GONE): ("Timer ended", ""),
    c.ActionBody(sort=c.ActionSort.FILTER_CHANGED, against=Fault.LOW_EVAPORATOR_AIRFLOW):
        ("Filter changed", "against evaporator short of air"),
    c.FailedTestBody(quantity="supply_air_temp", should="below 58"): ("To prove: Supply air", "below 58"),
    c.ProofBody(failed_test=GONE, passed=True, how="57 F"): ("Repeated and passed", "57 F"),
    c.TemporaryBody(sort=c.ChangeSort.SETPOINT, where="box", was="42"): ("Setpoint changed", "box; was 42"),
    c.RestoredBody(change=GONE, how="by hand"): ("Put back", "by hand"),
    c.TripBody(event="reset", switch="High pressure"): ("High pressure reset", "cause not known"),
    c.CautionBody(code="bypass"): ("Caution read", "A bypassed safety is never left: it is on the ledger now and blocks "
                                   "closing the visit."),
    c.LockoutBody(disconnect="roof", locked=True): ("Locked out, proven dead", "roof"),
    c.RedTagBody(danger="cracked", told="owner"): ("Red tag", "cracked; told owner"),
    c.FollowUpBody(sort=c.FollowUpSort.PART, what="motor", due=date(2026, 12, 1)): ("Follow-up", "motor, 01 Dec 2026"),
    c.FollowUpDoneBody(follow_up=GONE, how="done"): ("Follow-up seen to", "done"),
    c.TaskBody(what="gasket"): ("To do", "gasket"),
    c.TaskDoneBody(task=GONE): ("Done", ""),
    c.PhotoBody(photo=GONE, caption="lug"): ("Photo", "lug"),
    c.ClosingBody(outcome=c.Outcome.WAITING, summary="part ordered"):
        ("Closed: waiting for a part or an answer", "part ordered"),
    VoidBody(voids=GONE, reason="typo"): ("Taken back", "typo"),
}  # fmt: skip


@pytest.mark.parametrize("body", WORDS, ids=lambda body: body.kind)
def test_every_kind_is_said(body):
    assert said(body, CallState()) == WORDS[body]


def test_no_kind_is_missing_here():
    kinds = {kind.model_fields["kind"].default for kind in get_args(get_args(Body)[0])}
    assert kinds == {body.kind for body in WORDS}
