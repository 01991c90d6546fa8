"""Rules of a call: settling, complaints, cautions, thaw, survey, labels, the run permit."""

from __future__ import annotations

import math
import random
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dry_gauge.core.intake import make_observation
from dry_gauge.core.judgement.assess import assess
from dry_gauge.core.label import dates_in, sizes_in
from dry_gauge.core.quantities import FAHRENHEIT_K, PSI_PA, STANDARD_ATMOSPHERE_PA, to_kelvin
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.settling import LIMITS_K, Clocks, drift_of, settled
from dry_gauge.core.sheet import Sheet, UnitFacts
from dry_gauge.core.visit.cautions import BY_CODE, cautions_at
from dry_gauge.core.visit.complaints import TRIAGE, Complaint, first_checks, odds
from dry_gauge.core.visit.run_permit import run_permit
from dry_gauge.core.visit.survey import places, survey
from dry_gauge.core.visit.thaw import plan_thaw
from dry_gauge.core.vocabulary import QUANTITIES, SIGHTS, Fault, Kind, Metering, Mode, State

SPLIT = UnitFacts(Kind.SPLIT_AC, find("R-410A"), metering=Metering.TXV)
FREEZER = UnitFacts(Kind.WALK_IN_FREEZER, find("R-404A"), receiver=True)
COOLER = UnitFacts(Kind.WALK_IN_COOLER, find("R-448A"), receiver=True)
HEATING = UnitFacts(Kind.SPLIT_HEAT_PUMP, find("R-32"), mode=Mode.HEATING)

# -- settling -----------------------------------------------------------------


@given(slope=st.floats(-3, 3), start=st.floats(-5, 5))
def test_a_straight_drift_is_measured_per_five_minutes(slope, start):
    minutes = [i / 2 for i in range(13)]
    drift = drift_of("superheat", minutes, [start + slope * t for t in minutes])
    assert drift is not None
    assert drift.change_k == pytest.approx(5 * slope, abs=1e-6)
    assert drift.still == (abs(5 * slope) <= 1.5 * FAHRENHEIT_K + 1e-9)


def test_a_hunting_line_is_settled_by_its_mean_and_its_swing_is_told():
    minutes = [i / 12 for i in range(121)]
    swinging = [8 + 2.0 * math.sin(2 * math.pi * t / 2.2) for t in minutes]
    drift = drift_of("superheat", minutes, swinging)
    assert drift is not None
    assert drift.still
    assert drift.swing_k == pytest.approx(2.0, rel=0.15)


def test_noise_is_no_hunting():
    chance = random.Random(4)
    minutes = [i / 12 for i in range(121)]
    drift = drift_of("superheat", minutes, [8 + chance.gauss(0, 0.8) for _ in minutes])
    assert drift is not None
    assert drift.swing_k == 0


@pytest.mark.parametrize("minutes", [[], [3.0], [3.0, 3.4]])
def test_too_few_readings_say_nothing(minutes):
    assert drift_of("superheat", minutes, [5.0] * len(minutes)) is None


def test_ready_needs_the_clock_and_stillness():
    def drift(k):
        return drift_of("suction_saturation", [0, 2.5, 5], [280, 280 + k / 2, 280 + k])

    still, moving = drift(0.1), drift(LIMITS_K["suction_saturation"] * 3)
    assert settled([still], Clocks(20)).ready
    assert settled([still], Clocks(9)).minutes_more == 6
    assert settled([still], Clocks(40, since_change=1)).minutes_more == 4
    # An hour of running says nothing about the minutes after a charge or a thaw; in heating a defrost passes sooner.
    assert settled([still], Clocks(60, since_charge=1)).minutes_more == 19
    assert settled([still], Clocks(60, since_defrost=11)).minutes_more == 9
    assert settled([still], Clocks(60, since_defrost=11, heating=True)).ready
    waits = settled([moving], Clocks(40, since_change=20))
    assert not waits.ready
    assert waits.minutes_more == math.ceil(8 * math.log(3))
    assert settled([still], Clocks(None)).minutes_more is None


def test_a_minute_proves_nothing_and_slow_hunting_is_seen():
    assert drift_of("suction_saturation", [0, 1], [280, 280.1]) is None
    # Two readings of one moment, as an outbox sends them, say nothing of how it moves: the one before does.
    assert drift_of("suction_saturation", [-8, 0, 0], [280, 281, 281]).change_k == pytest.approx(0.625)
    assert drift_of("suction_saturation", [0, 1], [280, 282]).change_k == pytest.approx(2)
    times = [i / 4 for i in range(4 * 16)]
    for period in (2.0, 6.0, 8.0):
        hunting = drift_of("superheat", times, [8 + 3 * math.sin(2 * math.pi * t / period) for t in times])
        assert hunting.swing_k == pytest.approx(3, abs=0.5), period
        assert hunting.still, period


# -- what was called about -----------------------------------------------------------------


def test_every_complaint_asks_for_things_that_exist():
    for complaint in Complaint:
        for check in TRIAGE[complaint].checks:
            assert not check.answers or check.answers in QUANTITIES or check.answers in SIGHTS, check
            assert check.station in ("arrive", "look", "air", "read", "mend", "controls", "electrical")


def test_several_complaints_take_turns_and_nothing_is_asked_twice():
    checks = first_checks([Complaint.ICE, Complaint.WATER])
    assert checks[0].words.startswith("Which coil")
    assert checks[1].words.startswith("Drain")
    assert len(set(checks)) == len(checks)


def test_odds_of_many_complaints_stay_within_a_third_and_three():
    for heating in (False, True):
        assert all(1 / 3 <= factor <= 3 for factor in odds(list(Complaint), heating=heating).values())


def test_a_complaint_about_rooms_is_about_the_indoor_coil_which_condenses_in_heating():
    assert odds([Complaint.ONE_AREA])[Fault.LOW_EVAPORATOR_AIRFLOW] > 1
    assert odds([Complaint.ONE_AREA], heating=True).keys() == {Fault.NONE, Fault.LOW_CONDENSER_AIRFLOW}
    assert odds([Complaint.NO_HEAT], heating=True) == odds([Complaint.NO_HEAT])


def test_a_complaint_moves_the_prior_and_no_further():
    quiet, hot = (
        {cause.fault: cause.probability for cause in assess(Sheet(SPLIT, complaints=complaints)).first.causes}
        for complaints in ((), (Complaint.TRIPS_HOT_AFTERNOONS,))
    )
    assert quiet[Fault.LOW_CONDENSER_AIRFLOW] < hot[Fault.LOW_CONDENSER_AIRFLOW] < 3 * quiet[Fault.LOW_CONDENSER_AIRFLOW]
    assert hot[Fault.NONE] < quiet[Fault.NONE]


# -- cautions, thaw, survey -----------------------------------------------------------------


def test_a_caution_comes_once_and_flammables_bring_their_own():
    flammable = UnitFacts(Kind.SPLIT_AC, find("R-454B"))
    codes = [caution.code for caution in cautions_at({"read"}, flammable, ())]
    assert "flammable" in codes
    assert "flammable" not in [caution.code for caution in cautions_at({"read"}, SPLIT, ())]
    assert cautions_at({"read"}, flammable, codes) == ()
    assert codes[0] == "flammable"  # of several the gravest
    assert cautions_at({"look", "blade", "combustion"}, SPLIT, ())[0].code == "combustion"
    assert {"carbon_dioxide", "ammonia", "combustion", "bypass", "food"} <= set(BY_CODE)


@pytest.mark.parametrize(
    ("facts", "air_f", "method"),
    [
        (SPLIT, 72, "fan only"),
        (SPLIT, 30, "own defrost"),
        (FREEZER, None, "own defrost"),
        (COOLER, 36, "fan only"),
        (COOLER, 34, "own defrost"),
        (HEATING, None, "own defrost"),
        (HEATING, 25, "own defrost"),
        (HEATING, 45, "fan only"),
    ],
)
def test_the_way_to_thaw_follows_the_air(facts, air_f, method):
    plan = plan_thaw(facts, None if air_f is None else to_kelvin(air_f))
    assert plan.method == method
    assert any("electrics" in step for step in plan.steps)
    assert (facts.heating or facts.kind.is_walk_in) == plan.steps[0].startswith("Defrost sensors")
    assert air_f is not None or "too cold" not in plan.why or facts is FREEZER


def test_the_survey_fits_the_unit_and_counts_findings():
    asked = {what for place in places(FREEZER) for what in place.sights}
    assert "door_open" in asked
    assert not asked & {"filter_dirty", "heat_exchanger_cracked"}
    assert all(what in SIGHTS for facts in (SPLIT, FREEZER) for place in places(facts) for what in place.sights)
    found = {one.place.name: one for one in survey(SPLIT, {"condenser_air_proven": State.NO, "condenser_dirty": State.NO})}
    assert found["condenser"].findings == ("Outdoor coil air proven",)
    assert found["condenser"].answered == 2


# -- labels and the permit -----------------------------------------------------------------


def test_a_serial_number_is_never_read_one_way_silently():
    assert [one.btuh for one in sizes_in("NR-060-4A")] == [60_000]
    assert sizes_in("XYZ") == ()
    years = {one.year for one in dates_in("NL1806 22417", 2026)}
    assert {2018, 2006} <= years
    assert all(1975 <= one.year <= 2026 for one in dates_in("4721A3392", 2026))
    assert {one.year for one in dates_in("1984-77", 2026)} >= {1984}


def test_stop_lines_and_what_stands_in_the_way_of_a_start():
    permit = run_permit(SPLIT, {"condenser_air_proven": State.YES}, (), (), ())
    assert permit.granted
    # Domain: condensing mean 140 F is about 545 psig on R-410A; our curve's middle of bubble and dew.
    assert (permit.stop_head_pa - STANDARD_ATMOSPHERE_PA) / PSI_PA == pytest.approx(543, abs=3)
    assert run_permit(UnitFacts(Kind.WALK_IN_COOLER, find("R-744")), {}, (), (), ()).stop_head_pa is None
    by_cutout = run_permit(replace(SPLIT, high_pressure_cutout_pa=610 * PSI_PA + STANDARD_ATMOSPHERE_PA), {}, (), (), ())
    assert (by_cutout.stop_head_pa - STANDARD_ATMOSPHERE_PA) / PSI_PA == pytest.approx(549)
    # A comfort coil freezes over below 28 F, a freezer is at its cut-out or at 0 psig, and in heating the cold decides.
    assert (permit.stop_suction_pa - STANDARD_ATMOSPHERE_PA) / PSI_PA == pytest.approx(93, abs=1)
    assert run_permit(FREEZER, {}, (), (), ()).stop_suction_pa == STANDARD_ATMOSPHERE_PA
    assert run_permit(HEATING, {}, (), (), ()).stop_suction_pa is None
    # The fan that comes before the compressor is the one of the coil that condenses.
    (fan,) = run_permit(HEATING, {"condenser_air_proven": State.YES}, (), (), ()).missing
    assert fan.template.startswith("Prove the indoor fan first")
    assert run_permit(HEATING, {"evaporator_air_proven": State.YES}, (), (), ()).granted
    seen = tuple(make_observation(what, State.YES) for what in ("condenser_fan_reversed", "blade_unsafe"))
    stops = assess(Sheet(SPLIT, observations=seen)).first.stops
    blocked = run_permit(SPLIT, {}, ("safety",), ("roof",), (1, 5, 14), stops=stops)
    assert len(blocked.missing) == 4
    assert blocked.short_cycling
    assert run_permit(SPLIT, {}, (), (), (), fan_is_held=True).granted
    assert not run_permit(SPLIT, {}, (), (), (1, 5, 16)).short_cycling
