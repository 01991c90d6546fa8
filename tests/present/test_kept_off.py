"""What keeps a unit off, and units of several circuits: each is judged by what was read of it, and the worst speaks for all."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta
from uuid import UUID

import pytest

from dry_gauge.core.charge.trim import Move
from dry_gauge.core.errors import Refused
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import Kind, Metering
from dry_gauge.core.words import Reader
from dry_gauge.notebook.arriving import Arriving
from dry_gauge.notebook.kind import Entry
from dry_gauge.notebook.state import check, completed
from dry_gauge.notebook.subjects.actions import ActionBody
from dry_gauge.notebook.subjects.agenda import FollowUpBody
from dry_gauge.notebook.subjects.clock import ClockBody
from dry_gauge.notebook.subjects.closing import ClosingBody, before_leaving
from dry_gauge.notebook.subjects.findings import FindingEndBody
from dry_gauge.notebook.subjects.hold import HoldBody
from dry_gauge.notebook.subjects.ledger import LockoutBody, RedTagBody, TemporaryBody
from dry_gauge.notebook.subjects.movements import PourBody, PourMarkBody
from dry_gauge.notebook.subjects.observations import ObservationBody
from dry_gauge.notebook.subjects.opening import SealedPlanBody, StepBody
from dry_gauge.notebook.subjects.readings import ReadingBody
from dry_gauge.notebook.subjects.vacuum import EvacuationBody
from dry_gauge.notebook.subjects.verdicts import OverrideBody
from dry_gauge.present.headline import Headline
from dry_gauge.present.judge import judge
from dry_gauge.present.owner_report import owner_report
from dry_gauge.present.permit import permit_of
from dry_gauge.present.plan import next_step
from dry_gauge.present.proof import finals
from dry_gauge.present.scene import Scene
from dry_gauge.present.underway import in_short
from dry_gauge.present.weigh import trim_of
from tests.present.test_views import BLUE, CYLINDERS, NOW, visit_of

SHORT = {
    "outdoor_air_temp": 91,
    "return_air_temp": 75,
    "return_air_wet_bulb": 62.5,
    "supply_air_temp": 62,
    "suction_pressure": 95,
    "suction_line_temp": 72,
    "liquid_pressure": 300,
    "liquid_line_temp": 97,
}
SOUND = SHORT | {
    "supply_air_temp": 56,
    "suction_pressure": 122,
    "suction_line_temp": 54,
    "liquid_pressure": 335,
    "liquid_line_temp": 93,
}
PROVEN = [ObservationBody(what=f"{side}_air_proven", state="yes") for side in ("evaporator", "condenser")]
RUNS = ClockBody(event="started", minutes_ago=90)


def read(values, circuit=None, **more):
    return [
        ReadingBody(quantity=quantity, value=value, unit="psig" if "pressure" in quantity else "F", circuit=circuit)
        for quantity, value in (values | more).items()
    ]


def arriving(view, body):
    """An entry as it would be looked at now, and what is kept of it."""
    entry = Entry(
        id=UUID(int=999),
        sequence=view.state.entries + 1,
        person_id=UUID(int=7),
        written_at=NOW + timedelta(minutes=1),
        received_at=NOW + timedelta(minutes=1),
        body=body,
    )
    case = completed(Arriving(view.state, view.facts, list).case(entry, view.assessment))
    check(case)
    return case.body


def refused(view, body):
    with pytest.raises(Refused) as refusal:
        arriving(view, body)
    return refusal.value.message


LOCKED, TAGGED = LockoutBody(disconnect="{roof}", locked=True), RedTagBody(danger="cracked heat exchanger", told="the owner")


@pytest.mark.parametrize(("kept_off", "words"), [(LOCKED, "Locked out: {roof}"), (TAGGED, "Red tag: cracked heat exchanger")])
def test_what_is_locked_out_or_tagged_is_asked_for_nothing_that_makes_it_run(kept_off, words):
    view = visit_of(RUNS, *read(SOUND), kept_off)
    assert visit_of(RUNS, *read(SOUND)).assessment.first.next_checks[0].unit == "running"
    now = judge(view, Reader(), 1)
    assert now.first.said.words == words
    assert now.headline.detail == f"{words}."
    assert all(check.unit == "off" for check in now.judged.next_checks)
    assert any(words in one.read(Reader()) for one in permit_of(view, NOW).missing)
    # What can be looked at with the unit off is still proposed.
    iced = judge(visit_of(RUNS, *read(SOUND), ObservationBody(what="filter_dirty", state="yes"), kept_off), Reader(), 1)
    assert iced.first is None
    assert {check.unit for check in iced.judged.next_checks} == {"off"}
    # So is the first step of the remedy: for that it was locked out. What has to run is not.
    named = visit_of(RUNS, *PROVEN, *read(SHORT), kept_off)
    proposed = named.assessment.first.next_checks
    assert proposed[0].name == "remedy_undercharge"
    assert "running" in {check.unit for check in proposed}
    now = judge(named, Reader(), 1)
    assert (now.first, [(check.name, check.unit) for check in now.judged.next_checks]) == (None, [("remedy_undercharge", "off")])


def test_a_circuit_beside_one_that_must_not_run_waits_for_it():
    view = visit_of(RUNS, *read(SOUND, 2), *read(SOUND, 1, discharge_line_temp=250))
    assert judge(view, Reader(), 1).first is None  # its own stop says what to do
    beside = judge(view, Reader(), 2)
    assert (beside.first.said.words, beside.first.circuit) == ("Stop, circuit 1: discharge", 1)
    assert all(check.unit == "off" for check in view.assessment.circuits[2].next_checks)  # in whatever format


def test_a_circuit_that_was_not_read_has_no_number_of_another():
    view = visit_of(RUNS, *PROVEN, *read(SHORT, 1))
    assert "short of charge" in judge(view, Reader(), 1).headline.words.lower()
    other = judge(view, Reader(), 2)
    assert other.judged.view.number == 2
    assert other.headline.detail.startswith("Still to read: suction pressure")
    assert {one.name for one in finals(view, Reader(), 2)} <= {"Air split"}  # the air is everyone's
    scene = Scene(view, Reader(), NOW, cylinders=CYLINDERS)
    assert trim_of(scene).move is not Move.HOLD
    assert trim_of(replace(scene, circuit=2)).move is Move.HOLD
    # And refrigerant goes into it by the gauges only with a reason.
    pour = PourBody(way="trimmed", cylinder=BLUE, gross_g=9000, circuit=2)
    assert "say why" in refused(view, pour)
    arriving(view, pour.model_copy(update={"reason": "maker on the phone"}))


def test_the_worst_circuit_speaks_for_the_unit():
    view = visit_of(RUNS, *PROVEN, *read(SHORT, 2), *read(SOUND, 1))
    worst, words = in_short(view, Reader())
    assert worst.view.number == 2
    assert words.words.startswith("Circuit 2: ")
    assert "short of charge" in words.words


@pytest.mark.parametrize(
    ("outcome", "mark", "words"),
    [
        ("fixed", "done", "Closed: looked at"),
        ("improved", "open", "Better, not done: looked at"),
        ("not_fixed", "act", "Not fixed: looked at"),
        ("", "done", "Closed: looked at"),
    ],
)
def test_what_was_not_set_right_never_looks_as_if_it_were(outcome, mark, words):
    view = visit_of(RUNS, *PROVEN, *read(SHORT))
    ended = replace(view, visit=replace(view.visit, status="closed", outcome=outcome, summary="looked at"))
    assert in_short(ended, Reader())[1] == Headline(words, mark, "")


@pytest.mark.parametrize(("after", "told"), [(SOUND, "was-undercharge"), (SHORT, "cause-undercharge"), ({}, "was-undercharge")])
def test_the_owner_reads_of_a_cause_as_past_once_it_no_longer_shows(after, told):
    added = ActionBody(sort="charge_adjusted", words="14 oz")
    view = visit_of(RUNS, *PROVEN, *read(SHORT), added, *read(after), RUNS)
    assert [one.what.key for one in owner_report(view).found] == [told]


def closing(outcome, override=""):
    return ClosingBody(outcome=outcome, summary="looked at", override=override)


def test_above_a_stop_line_nothing_is_closed_until_it_is_mended_or_locked_out():
    bad = [RUNS, *read(SOUND, discharge_line_temp=250)]
    view = visit_of(*bad)
    assert [(one.code, one.firm) for one in before_leaving(view.state, view.assessment)] == [("stop", True)]
    assert "Stop, discharge" in refused(view, closing("waiting", "the owner said it may run"))
    # What was seen beside it and booked does not end it; a fan that stands still is a stop as well.
    booked = [FollowUpBody(sort="return", what="mend it", due=date(2026, 4, 1))]
    for seen in ("condenser_dirty", "condenser_fan_stopped"):
        left = FindingEndBody(what=seen, way="booked", reason="soon")
        view = visit_of(*bad, ObservationBody(what=seen, state="yes"), *booked, left)
        assert refused(view, closing("waiting", "the part comes tomorrow")).startswith("Stop, ")
    locked = visit_of(*bad, LOCKED)
    assert "stop" not in [one.code for one in before_leaving(locked.state, locked.assessment)]
    arriving(visit_of(*bad, ActionBody(sort="condenser_cleaned")), closing("waiting", "the part comes tomorrow"))


def test_what_the_readings_name_is_not_closed_as_sound_without_a_word():
    named = [RUNS, *PROVEN, *read(SHORT)]
    view = visit_of(*named)
    assert view.assessment.first.verdict == "fault"
    assert "The readings name: short of charge" in refused(view, closing("nothing_wrong"))
    assert arriving(view, closing("nothing_wrong", "the clamp was loose")).let_go == ("The readings name: short of charge.",)
    arriving(view, closing("improved"))
    arriving(visit_of(*named, OverrideBody(fault="none", reason="gauge was off")), closing("nothing_wrong", "as I said"))


@pytest.mark.parametrize(
    ("kept_off", "words"),
    [
        ((TAGGED,), "red tag: it stays off"),
        ((LOCKED,), "locked out: unlock it first"),
        ((HoldBody(section="all", vacuum_gauge_off=True),), "under nitrogen or in a vacuum: end that first"),
        ((), "about 30 min"),
    ],
)
def test_a_step_in_which_it_runs_says_what_has_to_end_first(kept_off, words):
    planned = visit_of(SealedPlanBody(repair="top_up"), StepBody(step="search", done=True), *kept_off)
    assert next_step(planned) == ("Next: Trim and prove", words)


def test_what_comes_out_is_not_said_to_go_in():
    view = visit_of(PourBody(way="recovered", cylinder=BLUE, gross_g=16_000), PourMarkBody(pour=UUID(int=101), gross_g=17_000))
    said = in_short(view, Reader())[1]
    assert (said.words, said.detail) == ("A pour is on: recovered", "2 lb 3.3 oz out by the last mark.")


BYPASSED = TemporaryBody(sort="safety", where="high-pressure switch")
NITROGEN, PULLED = HoldBody(section="all", vacuum_gauge_off=True), EvacuationBody()


@pytest.mark.parametrize(
    ("standing", "way", "words", "ends"),
    [
        (NITROGEN, "recovered", "would go into the cylinder", True),
        (NITROGEN, "weighed_in", "stands under nitrogen", False),
        (PULLED, "weighed_in", "still being evacuated", False),
        (LOCKED, "trimmed", "goes in while it runs", True),
        (TAGGED, "trimmed", "red-tagged, and this goes in", True),
        (BYPASSED, "trimmed", "safety is bypassed, and this goes in", True),
    ],
)
def test_refrigerant_does_not_move_against_what_stands_in_the_way(standing, way, words, ends):
    """Where it may still be so, a reason is asked for; where it cannot, none helps."""
    view, pour = visit_of(standing), PourBody(way=way, cylinder=BLUE, gross_g=9000)
    assert words in refused(view, pour)
    told = pour.model_copy(update={"reason": "the other section, valved off"})
    if ends:
        arriving(view, told)
    else:
        assert words in refused(view, told)


@pytest.mark.parametrize("kept_off", [LOCKED, TAGGED])
def test_a_box_at_risk_is_not_topped_up_while_it_is_kept_off(kept_off):
    cooler = UnitFacts(Kind.WALK_IN_COOLER, find("R-134a"), metering=Metering.TXV, label_charge_kg=5.0, receiver=True)
    starved = [
        RUNS,
        *PROVEN,
        ObservationBody(what="sight_glass_bubbles", state="yes"),
        *read(
            {
                "outdoor_air_temp": 90,
                "box_air_temp": 52,
                "suction_pressure": 14,
                "suction_line_temp": 46,
                "liquid_pressure": 130,
                "liquid_line_temp": 101,
            }
        ),
    ]
    assert judge(visit_of(*starved, unit=cooler), Reader(), 1).product_at_risk
    assert not judge(visit_of(*starved, kept_off, unit=cooler), Reader(), 1).product_at_risk
