"""Every kind of entry has words of its own on the timeline, also where what it points at was taken back."""

from __future__ import annotations

from datetime import date
from typing import get_args
from uuid import UUID

import pytest

from dry_gauge.core.complaints import Complaint
from dry_gauge.core.opening import Repair
from dry_gauge.core.vocabulary import Fault, Mode, State
from dry_gauge.notebook import calling as c
from dry_gauge.notebook import measuring as m
from dry_gauge.notebook import sealed as s
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
    s.SealedPlanBody(repair=Repair.LEAK_LOW): ("Opened for", "leak on the low side"),
    s.StepBody(step="close_up", done=False, reason="no drier here"): ("Step: close up", "left out: no drier here"),
    s.ChargeTargetBody(label_g=3000, line_length_m=9): ("Charge target", "label 6 lb 9.8 oz, 3.000 kg, line set 9.0 m of 3/8"),
    s.MovementBody(way=s.Way.ADDED, grams=454, cylinder=GONE, phase="liquid", reason="leak"):
        ("Topped up", "1 lb 0.0 oz, 0.454 kg; liquid; leak"),
    s.PourBody(way=s.Way.RECOVERED, cylinder=GONE, gross_g=12_000, source="probe"):
        ("Recovered: begun", "scale 26 lb 7.3 oz, 12.000 kg, live"),
    s.PourMarkBody(pour=GONE, gross_g=12_500): ("Scale", "27 lb 8.9 oz, 12.500 kg"),
    s.PourEndBody(pour=GONE, grams=500, reason="zero lost"): ("Pour ended", "1 lb 1.6 oz, 0.500 kg by hand; zero lost"),
    s.RecoveredToBody(appliance="High pressure", value=0, unit="psig"): ("Recovered to", "0 psig, high pressure"),
    s.LeakPlaceBody(place="flares", result="not_reached", words="behind the wall"):
        ("Flares and field joints", "not reached, behind the wall"),
    s.LeakCureBody(leak=GONE, cure="patch", part="epoxy", months=6): ("Patched for now", "epoxy, expected to last 6 months"),
    s.HoldBody(section="all", limit=450): ("Hold begun", "all, limit 450 psig"),
    s.HoldReadingBody(hold=GONE, pressure=120, pressure_unit="psig", temp=70, temp_unit="F", stage=True):
        ("Hold", "on the way up, 120 psig at 70 F"),
    s.HoldEndBody(hold=GONE, verdict="too_soon", reason="dark"): ("Hold ended", "too soon; dark"),
    s.EvacuationBody(what="rig", gauge="V2"): ("Rig to be proven", "V2"),
    s.VacuumPointBody(evacuation=GONE, micron=1412): ("Vacuum", "1,412 microns"),
    s.VacuumEventBody(evacuation=GONE, event=s.VacuumEvent.SWEPT): ("Swept with dry nitrogen", ""),
    s.TraceBody(evacuation=GONE, seconds_ago=(9.0, 1.0), micron=(500.0, 480.0)): ("Vacuum, live", "2 points to 480 microns"),
}  # fmt: skip


@pytest.mark.parametrize("body", WORDS, ids=lambda body: body.kind)
def test_every_kind_is_said(body):
    assert said(body, CallState()) == WORDS[body]


def test_no_kind_is_missing_here():
    kinds = {kind.model_fields["kind"].default for kind in get_args(get_args(Body)[0])}
    assert kinds == {body.kind for body in WORDS}
