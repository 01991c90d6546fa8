"""What one desk was told counts at every other: a supply, a filter, a belt, the cause of a trip, the weather."""

from __future__ import annotations

from datetime import timedelta

import pytest

from dry_gauge.core.judgement.assess import assess
from dry_gauge.core.vocabulary import State
from dry_gauge.notebook.earlier import earlier_sets
from dry_gauge.notebook.kind import obstacles
from dry_gauge.notebook.sheets import sheet_of
from dry_gauge.notebook.subjects.actions import ActionBody, Actions, ActionSort, indoor_air_changed_at
from dry_gauge.notebook.subjects.agenda import FollowUpBody, FollowUpSort
from dry_gauge.notebook.subjects.electrical import SupplyBody
from dry_gauge.notebook.subjects.findings import findings_in
from dry_gauge.notebook.subjects.ledger import LockoutBody, TripBody
from dry_gauge.notebook.subjects.moving_air import BeltBody, DamperTestBody, FilterBody
from dry_gauge.notebook.subjects.observations import ObservationBody, Observations
from dry_gauge.notebook.subjects.readings import ReadingBody, Readings
from dry_gauge.notebook.subjects.running import Running
from dry_gauge.notebook.subjects.weather import Weather, WeatherBody
from tests.notebook.entries_of import START, UNIT, entry, folded

FINE = {"l1_l2": 231, "l2_l3": 230, "l3_l1": 232}
LOST = {"l1_l2": 231, "l2_l3": 142, "l3_l1": 139}
UNEQUAL = {"l1_l2": 231, "l2_l3": 212, "l3_l1": 232}


def visit(*bodies):
    return folded(*(entry(i, body) for i, body in enumerate(bodies, start=1)))


def supply(pairs, loaded=True):
    return SupplyBody(three_phase=True, loaded=loaded, pairs=pairs)


def stops(state):
    return [stop.code for stop in assess(sheet_of(state, UNIT).sheet).first.stops]


def left_open(state, code):
    return [one.firm for one in obstacles(state) if one.code == code]


RETURN = FollowUpBody(sort=FollowUpSort.RETURN, what="a leg", due=START.date())
MENDED = ActionBody(sort=ActionSort.ELECTRICAL_PART, words="fuse of L3")


@pytest.mark.parametrize(
    ("bodies", "stopped", "firm"),
    [
        ((supply(FINE),), [], []),
        ((supply(LOST),), ["supply_unfit"], [True]),
        ((supply(UNEQUAL),), ["supply_unfit"], [True]),
        ((supply(FINE), supply(LOST, loaded=False)), ["supply_unfit"], [True]),  # it was lost since it ran
        ((supply(LOST), supply(FINE, loaded=False)), ["supply_unfit"], [True]),  # unloaded a lost leg shows its volts
        ((supply(LOST), RETURN), ["supply_unfit"], [True]),
        ((supply(LOST), LockoutBody(disconnect="unit", locked=True)), ["supply_unfit"], [False]),
        ((supply(LOST), LockoutBody(disconnect="unit", locked=True), RETURN), ["supply_unfit"], []),
        ((supply(LOST), MENDED), [], [False]),  # it may run, to be read again
        ((MENDED, supply(LOST)), ["supply_unfit"], [True]),
        ((supply(LOST), MENDED, supply(FINE)), [], []),
        ((supply(LOST), supply(FINE)), [], []),
    ],
)
def test_nothing_runs_on_a_supply_that_lost_a_leg_until_that_is_mended(bodies, stopped, firm):
    state = visit(*bodies)
    assert stops(state) == stopped
    assert left_open(state, "supply") == firm


def seen(state, what):
    one = state[Observations].of(what)
    return None if one is None else one.body.state


def test_a_filter_is_a_finding_where_it_is_plugged_and_done_once_it_is_changed():
    plugged = FilterBody(place="return grille", found="plugged")
    state = visit(plugged)
    assert seen(state, "filter_dirty") is State.YES
    assert [(one.what, one.mended) for one in findings_in(state)] == [("filter_dirty", False)]
    changed = visit(plugged, FilterBody(place="return grille", found="plugged", changed=True))
    assert changed[Actions].has(ActionSort.FILTER_CHANGED)
    assert [(one.what, one.mended) for one in findings_in(changed)] == [("filter_dirty", True)]
    another = visit(FilterBody(place="unit", found="plugged"), FilterBody(place="return grille", found="plugged", changed=True))
    assert seen(another, "filter_dirty") is State.YES
    assert seen(visit(FilterBody(place="unit", found="plugged"), FilterBody(place="return grille")), "filter_dirty") is State.YES
    assert seen(visit(FilterBody(place="unit", found="missing"), FilterBody(place="unit")), "filter_missing") is State.NO
    assert seen(visit(FilterBody(place="unit", found="loaded")), "filter_dirty") is None


SUCTION = ReadingBody(quantity="suction_pressure", value=118, unit="psi")
BY_EYE = ObservationBody(what="evaporator_air_proven", state=State.YES)
PLUGGED = FilterBody(place="unit", found="plugged", changed=True)


@pytest.mark.parametrize("late", [False, True])
def test_a_filter_written_down_after_the_readings_leaves_them_where_they_were_taken_after_it(late):
    state = visit(BY_EYE, SUCTION, BY_EYE, PLUGGED.model_copy(update={"read_since": late}))
    readings = state[Readings]
    stands = readings.latest if late else readings.before
    assert (list(stands), len(readings.latest) + len(readings.before)) == (["suction_pressure/1//"], 1)
    assert seen(state, "evaporator_air_proven") is (State.YES if late else None)  # seen again after the first reading
    assert [(one.what, one.mended) for one in findings_in(state)] == [("filter_dirty", True)]
    just_before = entry(2, SUCTION).written_at - timedelta(microseconds=1)
    assert state[Running].changed_at == (just_before if late else entry(4, PLUGGED).written_at)
    assert indoor_air_changed_at(state) == state[Running].changed_at


def test_what_was_written_down_late_sweeps_nothing_and_answers_only_what_was_seen_before():
    swept = visit(SUCTION, ActionBody(sort=ActionSort.CONDENSER_CLEANED), SUCTION)
    late = ActionBody(sort=ActionSort.FILTER_CHANGED, read_since=True)
    dirty = ObservationBody(what="filter_dirty", state=State.YES)
    state = visit(SUCTION, ActionBody(sort=ActionSort.CONDENSER_CLEANED), SUCTION, dirty, late)
    assert state[Readings] == swept[Readings]
    assert seen(state, "filter_dirty") is State.YES  # found after what was read: another one
    assert state[Actions].last.at < entry(3, SUCTION).written_at
    unread = visit(dirty, late)
    assert (seen(unread, "filter_dirty"), unread[Actions].last.at) == (None, entry(2, late).written_at)


def test_a_belt_and_a_damper_say_what_was_seen_of_the_air():
    slips = BeltBody(machine="blower", motor_rpm=1740, blower_rpm=690, motor_pitch=3.4, blower_pitch=7.4)
    assert seen(visit(slips), "blower_belt_slipping") is State.YES
    assert seen(visit(slips, slips.model_copy(update={"blower_rpm": 780})), "blower_belt_slipping") is State.NO
    assert seen(visit(slips.model_copy(update={"blower_rpm": None})), "blower_belt_slipping") is None
    metric = {name: getattr(slips, name) * 25.4 for name in ("motor_pitch", "blower_pitch")} | {"pitch_unit": "mm"}
    assert seen(visit(slips.model_copy(update=metric)), "blower_belt_slipping") is State.YES
    assert seen(visit(DamperTestBody(damper="east", opens=False, shuts=True)), "damper_closed") is State.YES
    assert seen(visit(DamperTestBody(damper="east", opens=False, shuts=False)), "damper_closed") is None


def trip(event, cause=""):
    return TripBody(event=event, switch="high pressure", cause=cause)


@pytest.mark.parametrize(
    ("bodies", "open_still"),
    [
        ((trip("trip"), trip("reset")), 1),
        ((trip("trip"), trip("reset", "fan seized")), 0),
        ((trip("trip"), trip("reset"), trip("trip", "fan seized")), 0),  # it was that before, too
        ((trip("trip", "fan seized"), trip("reset")), 0),
        ((trip("trip", "fan seized"), trip("reset"), trip("trip"), trip("reset")), 1),  # again, and why is not known
        ((trip("trip"), trip("reset"), TripBody(event="reset", switch="low pressure", cause="cold start")), 1),
    ],
)
def test_a_reset_is_explained_by_whatever_named_the_cause_of_that_switch(bodies, open_still):
    assert len(left_open(visit(*bodies), "reset")) == open_still


def test_what_is_not_said_of_the_weather_stays_as_it_was():
    state = visit(WeatherBody(temp=90, humidity=60), WeatherBody(temp=95))
    assert (state[Weather].air.body.temp, state[Weather].damp.body.humidity) == (95, 60)


def test_a_sound_day_that_shows_nothing_is_no_reference_and_breaks_nothing():
    assert earlier_sets('[{"date": "2026-01-01", "shown": {}, "unit": "AC-2"}]', "R-410A", "cooling") == ()
