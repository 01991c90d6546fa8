"""What stations show: weights at which to stop, forecasts, which probes serve, how far each stop of the rail is."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from uuid import UUID, uuid4

import pytest

from dry_gauge.core.air.airflow import check_fan_table
from dry_gauge.core.charge.cylinders import Cylinder, CylinderKind, Held, limit_kg
from dry_gauge.core.charge.mass import GRAM_KG
from dry_gauge.core.errors import Refused
from dry_gauge.core.probes import LatestProbe
from dry_gauge.core.quantities import CFM_M3_S, PSI_PA, TON_W
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.visit.findings import COMBUSTION_FINDINGS
from dry_gauge.core.vocabulary import Kind, Metering, State
from dry_gauge.core.words import Reader
from dry_gauge.notebook.kind import Entry
from dry_gauge.notebook.state import fold_all
from dry_gauge.notebook.subjects.actions import ActionBody, ActionSort
from dry_gauge.notebook.subjects.air_tables import DropTableBody, FanSpeedBody, FanTableBody
from dry_gauge.notebook.subjects.call import ComplaintBody
from dry_gauge.notebook.subjects.charge_target import ChargeTargetBody
from dry_gauge.notebook.subjects.clock import ClockBody
from dry_gauge.notebook.subjects.electrical import MachineAmpsBody
from dry_gauge.notebook.subjects.failed_tests import Comparator, FailedTestBody, RepeatBody
from dry_gauge.notebook.subjects.hold import HoldBody, HoldReadingBody, Holds, hold_of
from dry_gauge.notebook.subjects.ledger import LockoutBody
from dry_gauge.notebook.subjects.movements import PourBody, PourMarkBody, RecoveredToBody
from dry_gauge.notebook.subjects.observations import ObservationBody
from dry_gauge.notebook.subjects.opening import SealedPlanBody, StepBody
from dry_gauge.notebook.subjects.readings import ReadingBody, Readings
from dry_gauge.notebook.subjects.vacuum import EvacuationBody, Vacuum, VacuumEventBody, VacuumPointBody, evacuation_of
from dry_gauge.notebook.subjects.weather import WeatherBody
from dry_gauge.present import rail
from dry_gauge.present.account import account_of
from dry_gauge.present.air import air
from dry_gauge.present.airflow import Flow, WorkDone, work_done
from dry_gauge.present.closing import outline_of
from dry_gauge.present.electrical import electrical
from dry_gauge.present.hold import rate_words, served_by
from dry_gauge.present.lists import lists_of
from dry_gauge.present.mend import mend
from dry_gauge.present.permit import permit_of
from dry_gauge.present.proving import MET_AT, open_in, repeats_in
from dry_gauge.present.read import fans
from dry_gauge.present.rows import sheet_rows
from dry_gauge.present.scene import Scene
from dry_gauge.present.settling import settling_of
from dry_gauge.present.vacuum import forecast
from dry_gauge.present.visit import VisitRow, judged
from dry_gauge.present.weather import weather_cautions, weather_now
from dry_gauge.web.stations import STATIONS
from tests.notebook.every_kind import OBSTACLES

NOW = datetime(2026, 3, 4, 12, 0, tzinfo=UTC)
UNIT = UnitFacts(Kind.SPLIT_AC, find("R-410A"), metering=Metering.TXV, label_charge_kg=3.0)
BLUE, GREY = UUID(int=8), UUID(int=9)
CYLINDERS = (
    Held(BLUE, Cylinder("Blue", CylinderKind.IN_USE, find("R-410A"), tare_kg=2.8), 9000, "", False),
    Held(GREY, Cylinder("Grey", CylinderKind.RECOVERY, find("R-410A"), tare_kg=12.0, water_capacity_kg=21.6), 4000, "", False),
)


def visit_of(*bodies, unit=UNIT):
    entries = [
        Entry(
            id=UUID(int=100 + i),
            sequence=i,
            person_id=UUID(int=7),
            written_at=NOW + timedelta(minutes=i - 60),
            received_at=NOW + timedelta(minutes=i - 60),
            body=body,
        )
        for i, body in enumerate(bodies, 1)
    ]
    row = VisitRow(
        uuid4(),
        "open",
        NOW,
        "",
        "",
        len(entries),
        {},
        uuid4(),
        "Ida",
        uuid4(),
        "U-1",
        "",
        {},
        "Here",
        uuid4(),
        None,
        "",
        0,
        {},
        [],
    )
    return judged(row, unit, fold_all(entries, unit), "common")


def test_a_unit_that_is_pumped_down_or_locked_out_neither_settles_nor_may_start():
    down = (SealedPlanBody(repair="drier"), ClockBody(event="started", minutes_ago=40), StepBody(step="pump_down", done=True))
    for bodies, words in ((down, "Pumped down"), ((LockoutBody(disconnect="roof", locked=True),), "Locked out")):
        view = visit_of(*bodies)
        assert words in settling_of(view).reason
        assert any(words in one.read(Reader()) for one in permit_of(view, NOW).missing)


@pytest.mark.parametrize(("later", "words"), [(0.1, "Fell 10.0 ±3.4 psi in 6 min"), (3.0, "Loses about 3.")])
def test_no_rate_an_hour_is_made_of_minutes(later, words):
    hold = HoldBody(section="all", limit=150, vacuum_gauge_off=True)
    units = {"pressure_unit": "psig", "temp_unit": "F"}
    readings = [HoldReadingBody(hold=UUID(int=101), pressure=psig, temp=70, **units) for psig in (160, 150)]
    entries = [
        Entry(id=UUID(int=100 + i), sequence=i, person_id=UUID(int=7), written_at=at, received_at=at, body=body)
        for i, (body, at) in enumerate([(hold, NOW), (readings[0], NOW), (readings[1], NOW + timedelta(hours=later))], 1)
    ]
    kept = fold_all(entries, UNIT)[Holds].holds[str(UUID(int=101))]
    found = hold_of("h", kept, UNIT, 0.25 * PSI_PA)
    assert rate_words(found, Reader()).startswith(words)


def scene_of(*bodies, probes=()):
    return Scene(visit_of(*bodies), Reader(), NOW, cylinders=CYLINDERS, probes=probes)


def probe(quantity, value_si, seconds_ago=1.0):
    at = NOW - timedelta(seconds=seconds_ago)
    return LatestProbe("hub", f"P-{quantity}", quantity, 1, value_si, value_si, "", "ok", None, at)


EMPTY = (RecoveredToBody(appliance="any", value=0, unit="psig"), ChargeTargetBody(label_g=3000))


def test_the_scale_reading_at_which_to_stop_is_the_start_less_what_is_to_go():
    account = account_of(scene_of(*EMPTY, PourBody(way="weighed_in", cylinder=BLUE, gross_g=14_000)))
    assert account.stop_kg == pytest.approx(11.000)
    # It stays there while the pour goes on, and is not moved by what has gone already.
    marked = account_of(
        scene_of(
            *EMPTY, PourBody(way="weighed_in", cylinder=BLUE, gross_g=14_000), PourMarkBody(pour=UUID(int=103), gross_g=12_500)
        )
    )
    assert (marked.stop_kg, marked.pour_far) == (pytest.approx(11.000), 1500)


def test_a_recovery_stops_at_eighty_per_cent_of_the_cylinder():
    account = account_of(scene_of(PourBody(way="recovered", cylinder=GREY, gross_g=16_000)))
    room_g = round(limit_kg(CYLINDERS[1].cylinder) / GRAM_KG) - 4000
    assert account.stop_kg == pytest.approx((16_000 + room_g) * GRAM_KG)


def test_a_live_scale_counts_and_a_silent_one_is_said():
    pour = PourBody(way="weighed_in", cylinder=BLUE, gross_g=14_000, source="probe")
    heard = account_of(scene_of(*EMPTY, pour, probes=[probe("scale_weight", 13.2)]))
    assert (heard.pour_far, heard.scale_silent, heard.standing.to_go_kg) == (800, False, pytest.approx(2.2))
    silent = account_of(scene_of(*EMPTY, pour, probes=[probe("scale_weight", 13.2, seconds_ago=13)]))
    assert (silent.pour_far, silent.scale_silent) == (0, True)


def test_the_head_is_read_at_the_liquid_port_first_and_flagged_at_the_stop_line():
    both = [probe("discharge_pressure", 700 * PSI_PA), probe("liquid_pressure", 400 * PSI_PA)]
    assert account_of(scene_of(probes=both)).head_now == ("385.3 psig", False)
    assert account_of(scene_of(probes=both[:1])).head_now[1] is True


def test_a_hold_is_served_by_the_first_gauge_and_pipe_that_speak():
    probes = [probe("suction_pressure", 2e6), probe("standing_pressure", 2e6, seconds_ago=60), probe("outdoor_air_temp", 290)]
    assert [one.quantity for one in served_by(probes, NOW)] == ["suction_pressure", "outdoor_air_temp"]
    assert served_by(probes[:2], NOW) is None


def test_the_forecast_counts_the_watch_and_says_whether_it_is_in_time():
    start = EvacuationBody(done_by=NOW + timedelta(minutes=500))
    points = [VacuumPointBody(evacuation=UUID(int=101), micron=20_000 * 0.9**i) for i in range(20)]
    on = visit_of(start, VacuumEventBody(evacuation=UUID(int=101), event="pump_on"), *points).state[Vacuum].on
    view = evacuation_of(str(UUID(int=101)), on, now=NOW)
    left = view.pull.minutes_to_target
    said = forecast(view, NOW)
    assert said.startswith(f"At this pace done in about {round(left + 10)} min")
    assert said.endswith("in time.")
    assert "480 min too late" in forecast(view, NOW + timedelta(minutes=980 - round(left + 10)))


def test_the_rail_says_how_far_each_station_is():
    view = visit_of(ComplaintBody(words="warm"), ObservationBody(what="evaporator_air_proven", state=State.YES))
    assert [rail.arrive(view).progress, rail.air(view).progress, rail.read(view).progress] == ["done", "begun", "open"]
    assert rail.air(view).note == "1 of 2 coils"
    assert rail.sealed(visit_of(*EMPTY)).progress == "begun"


def worked(watts: float, seer: float | None = 14.0) -> dict[str, WorkDone]:
    """A sheet of a three-ton unit with 1,200 cfm, by what it says of the work done."""
    airs = {
        "return_air_temp": 80,
        "return_air_wet_bulb": 67,
        "supply_air_temp": 60,
        "supply_air_wet_bulb": 58,
        "outdoor_air_temp": 95,
    }
    typed = (("airflow", 1200, "cfm"), ("input_power", watts, "W"), *((name, value, "F") for name, value in airs.items()))
    view = visit_of(*(ReadingBody(quantity=name, value=value, unit=unit) for name, value, unit in typed))
    facts = replace(UNIT, nominal_capacity_w=3 * TON_W, seer=seer)
    return {one.name: one for one in work_done(Scene(replace(view, facts=facts), Reader(), NOW))}


def test_the_work_done_is_said_with_its_error_and_what_cannot_be_asks():
    found = worked(3100)
    heat, eer = found["Capacity delivered"], found["Efficiency, EER"]
    # 31.46 and 25.07 Btu/lb at 80/67 and 58 wet (ASHRAE chart), 4.5 lb/h a cfm: 34,500 Btu/h.
    assert float(heat.value.split()[0]) == pytest.approx(34_500 / 12_000, rel=0.02)
    assert "% of its nominal size" in heat.words
    assert float(eer.value) == pytest.approx(34_500 / 3100, rel=0.02)
    assert (eer.asks, float(eer.error) > 0.3) == (False, True)
    assert float(found["Sensible share"].value.split()[0]) == pytest.approx(75, abs=3)
    assert worked(1400)["Efficiency, EER"].asks
    assert not worked(2300)["Efficiency, EER"].asks  # within the error of its wet bulbs it can be
    assert worked(1400, None)["Efficiency, EER"].asks
    assert work_done(Scene(visit_of(), Reader(), NOW)) == []


def ways_by(*bodies, known=()) -> dict[str, Flow | str]:
    """What a visit says of its airflow whose static is 0.62 in. w.c. in all, 0.25 over the coil."""
    points = {
        "external_static_return": -0.30,
        "static_after_filter": -0.42,
        "static_after_coil": -0.67,
        "external_static_supply": 0.32,
    }
    read = (ReadingBody(quantity=name, value=value, unit="inwc") for name, value in points.items())
    shown = air(Scene(visit_of(*read, *bodies), Reader(), NOW, model_tables=known))
    return {one.name: one for one in shown.ways} | {"words": " ".join(shown.ways_words)}


def test_a_table_of_the_blower_and_of_the_coil_tell_the_airflow():
    high = FanTableBody(speed="High", statics=(0.1, 0.5, 0.8), flows=(1400, 1200, 900))
    low = FanTableBody(speed="Low", statics=(0.1, 0.5, 0.8), flows=(1000, 850, 600))
    coil = DropTableBody(part="coil", drop=0.25, flow=1100)
    found = ways_by(high, coil)
    assert found["Fan table"].flow.value / CFM_M3_S == pytest.approx(1080)  # 1200 less 300 x 0.12 / 0.3
    assert found["Fan table"].flow.uncertainty / CFM_M3_S > 0.08 * 1080
    assert found["Coil drop"].flow.value / CFM_M3_S == pytest.approx(1100, rel=0.01)
    both = ways_by(high, low)
    assert "Fan table" not in both
    assert "Say on which speed" in both["words"]
    assert ways_by(high, low, FanSpeedBody(speed="low"))["Fan table"].flow.value / CFM_M3_S == pytest.approx(750)
    assert ways_by(known=(high, coil)).keys() == found.keys()  # of another unit of its model
    small = FanTableBody(speed="High", statics=(0.1, 0.3), flows=(1400, 1300))
    outside = ways_by(small)
    assert "Fan table" not in outside
    assert "outside of the table of High" in outside["words"]


@pytest.mark.parametrize(
    ("statics", "flows"), [((0.1,), (900,)), ((0.1, 0.5), (900,)), ((0.5, 0.1), (900, 800)), ((0.1, 0.5), (900, 900))]
)
def test_what_is_no_table_of_a_blower_is_refused(statics, flows):
    with pytest.raises(Refused):
        check_fan_table(statics, flows)


def test_weather_of_this_morning_asks_for_nothing_any_more_and_none_on_a_closed_visit():
    scene = scene_of(WeatherBody(sky="rain", temp=95, humidity=60))  # told an hour ago
    first, last = weather_cautions(scene, ["look"])
    assert ([one.code for one in first], [one.code for one in last]) == (["weather_rain"], ["weather_high_heat"])
    assert weather_now(scene).words == "Rain, 95.0 °F, 60 % humidity, feels like 113.1 °F"
    assert weather_cautions(replace(scene, now=NOW + timedelta(hours=6)), ["look"]) == ([], [])
    closed = replace(scene.view, visit=replace(scene.view.visit, status="closed"))
    assert weather_cautions(replace(scene, view=closed), ["look"]) == ([], [])


def test_amps_become_a_reading_once_and_of_their_own_circuit():
    amps = MachineAmpsBody(machine="Compressor 2", legs={"l1": 9.0, "l2": 9.4}, instrument="clamp 7")
    (item,) = electrical(scene_of(amps)).measured
    assert item.reading == {
        "quantity": "compressor_amps",
        "value": "9.4",
        "unit": "A",
        "source": "typed",
        "circuit": 2,
        "instrument": "clamp 7",
    }
    taken = ReadingBody(quantity="compressor_amps", value=9.4, unit="A", circuit=2)
    assert not electrical(scene_of(amps, taken)).measured[0].reading
    assert not electrical(scene_of(MachineAmpsBody(machine="pump", legs={"l1": 2.0}))).measured[0].reading
    assert electrical(scene_of(amps)).last_meter == "clamp 7"


def test_like_fans_are_compared():
    def amps(place, value, rated=2.4):
        return ReadingBody(quantity="condenser_fan_amps", value=value, unit="A", place=place, rated=rated)

    rows = fans(visit_of(amps("left", 2.0), amps("middle", 2.1), amps("right", 1.4), amps("other", 1.0, 1.2)).state[Readings])
    said = {fan.words.rpartition(", ")[2]: fan.beside for fan in rows}
    assert said["right"].startswith("32 % less than its like")
    assert (said["left"], said["other"]) == ("", "")  # of another plate there is no like


ENDED_BY_A_TAP = {"temporary", "task", "timer"}


def test_whatever_stands_open_at_closing_has_a_way_to_where_it_is_met():
    assert MET_AT.keys() == OBSTACLES - ENDED_BY_A_TAP
    assert {place for place, _ in MET_AT.values()} <= {station.name for station in STATIONS}


def test_carbon_monoxide_brings_the_caution_of_combustion():
    for what in COMBUSTION_FINDINGS:
        told = lists_of(scene_of(ObservationBody(what=what, state="yes")), ())
        assert "combustion" in [one.code for one in told.cautions]


@pytest.mark.parametrize(
    ("unit", "before", "after", "limit"),
    [("F", "10.0 °F ±1.4", "18.0 °F ±1.4", "16.0 °F"), ("C", "5.6 °C ±0.8", "10.0 °C ±0.8", "8.9 °C")],
)
def test_a_gap_that_proves_is_shown_as_the_gap_before_and_after(unit, before, after, limit):
    def air(supply):
        return (
            ReadingBody(quantity="return_air_temp", value=76, unit="F"),
            ReadingBody(quantity="supply_air_temp", value=supply, unit="F"),
        )

    asked = FailedTestBody(quantity="air_split", comparator=Comparator.ABOVE, value=16, unit="F", should="filter in")
    reader, named = Reader(temperature_unit=unit), visit_of(asked)
    [stands] = repeats_in(named, reader).values()
    assert (stands.before, stands.to_do) == ("", "Read air split.")  # nothing was done and nothing read: no before, no again
    [stands] = repeats_in(visit_of(asked, *air(66)), reader).values()
    assert (stands.before, stands.found, stands.meets) == ("", before, False)  # only 'fails' is offered
    bodies = (asked, *air(66), ActionBody(sort=ActionSort.FILTER_CHANGED), *air(58))
    [(key, stands)] = repeats_in(visit_of(*bodies), reader).items()
    assert (stands.before, stands.found, stands.meets) == (before, after, True)
    assert any(
        f"repeat after the last change: air split above {limit}" in one.words for one in open_in(visit_of(*bodies), reader)
    )
    proven = visit_of(*bodies, RepeatBody(failed_test=UUID(key), passed=True, how=stands.found))
    assert outline_of(proven, reader).proven == [f"air split {before} before, {after} after (to be above {limit}, filter in)"]


def test_a_box_is_asked_for_what_a_box_has_and_a_unit_in_ducts_for_what_that_has():
    box = UnitFacts(Kind.WALK_IN_COOLER, find("R-448A"), metering=Metering.TXV, receiver=True)
    read_at = {}
    for facts in (UNIT, box):
        view = visit_of(unit=facts)
        rows = [row.quantity.name for side in sheet_rows(view, Reader(), 1).rest.values() for row in side]
        scene = Scene(view, Reader(), NOW, cylinders=CYLINDERS)
        shown = mend(scene)
        assert not {"filter_dirty" in shown.sights, ActionSort.FILTER_CHANGED in shown.actions} ^ {facts is UNIT}
        read_at[facts.kind] = {*rows, *(quantity.name for quantity in shown.quantities)}
    assert read_at[Kind.SPLIT_AC] - read_at[Kind.WALK_IN_COOLER] >= {"external_static_supply", "return_air_rh", "airflow"}
    assert read_at[Kind.WALK_IN_COOLER] - read_at[Kind.SPLIT_AC] == {"box_air_temp", "box_rh", "product_temp"}
    # What was read all the same is never out of sight.
    odd = visit_of(ReadingBody(quantity="space_temp", value=70, unit="F"), unit=box)
    assert "space_temp" in [row.quantity.name for side in sheet_rows(odd, Reader(), 1).rest.values() for row in side]
