"""The simulated units: heat and mass agree, faults move what they should, nothing in the working range is left unsolved."""

from __future__ import annotations

import numpy as np
import pytest

from dry_gauge.bench import field, moist_air, slow
from dry_gauge.bench.cases import Draw, draw_cases, with_more
from dry_gauge.bench.instruments import misread, read, true_readings
from dry_gauge.bench.machine import Machine
from dry_gauge.bench.plant import Faults, Habits, Nameplate, Weather
from dry_gauge.bench.solve import SOLVED, solve
from dry_gauge.bench.trends import SORTS, moved
from dry_gauge.core.air import psychrometrics
from dry_gauge.core.judgement.hypotheses import MECHANISMS, Misreading
from dry_gauge.core.quantities import to_kelvin
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.vocabulary import Fault, Kind, Metering


def at(outdoor_f=90.0, return_f=76.0, wet_f=64.0, n=1):
    return Weather.of([to_kelvin(outdoor_f)] * n, [to_kelvin(return_f)] * n, [to_kelvin(wet_f)] * n)


def split(**more):
    return Nameplate(Kind.SPLIT_AC, find("R-410A"), **more)


@pytest.mark.parametrize("sort", SORTS, ids=lambda sort: sort.name)
def test_every_medium_fault_moves_every_gap_the_way_the_trade_says(sort):
    found = moved(sort)
    for fault, signs in sort.signs.items():
        for name, sign in signs.items():
            assert (found[fault][name] > 0) is (sign == "+"), (fault, name, found[fault])


def test_heat_that_enters_leaves_again():
    machine = Machine([split(), split(metering=Metering.ORIFICE)], Habits.textbook(2))
    turn = solve(machine, at(n=2), Faults.none(2)).turn
    # Evaporator and compressor less shell loss, fans and line gain against the condenser, within the line's share.
    taken = turn.evaporator_heat_w + turn.power_w
    assert turn.condenser_heat_w == pytest.approx(taken, rel=0.05)
    assert turn.evaporator_heat_w == pytest.approx([10_550, 10_550], rel=0.08)


def test_the_working_range_is_solved_and_what_trips_is_said_to_trip():
    chance = np.random.default_rng(5)
    drawn = field.draw(900, chance)
    severity = np.where(chance.random((len(MECHANISMS), 900)) < 0.12, chance.uniform(0.1, 1, (len(MECHANISMS), 900)), 0)
    solution = solve(drawn.built(), drawn.weather, Faults(severity))
    failed = ~solution.solved & ~solution.tripped
    assert failed.mean() <= 0.01
    assert solution.tripped.mean() < 0.05
    assert np.abs(solution.turn.imbalance[0, solution.solved]).max() <= SOLVED
    healthy = solve(drawn.built(), drawn.weather, Faults.none(900))
    assert healthy.solved.mean() > 0.995


def test_one_alone_and_one_of_many_are_the_same_unit():
    plates = [split(), Nameplate(Kind.WALK_IN_COOLER, find("R-448A"), receiver=True, evaporator_td_k=6, capacity_w=5000)]
    together = solve(Machine(plates, Habits.textbook(2)), at(n=2, return_f=40, wet_f=38), Faults.of(2, undercharge=0.49))
    alone = solve(Machine(plates[1:], Habits.textbook(1)), at(return_f=40, wet_f=38), Faults.of(1, undercharge=0.49))
    for name in ("suction_pressure_pa", "liquid_line_k", "supply_air_k"):
        assert getattr(together.turn, name)[1] == pytest.approx(getattr(alone.turn, name)[0], rel=1e-4)


def test_more_of_a_fault_is_more_of_its_picture():
    n = 6
    steps = np.linspace(0, 1, n)
    machine = Machine([split(metering=Metering.ORIFICE)] * n, Habits.textbook(n))
    turn = solve(machine, at(n=n), Faults.of(n, undercharge=steps)).turn
    assert (np.diff(turn.suction_pressure_pa) < 0).all()
    assert (np.diff(turn.coil_outlet_k) > 0).all()


def test_an_added_ounce_answers_as_a_technician_expects():
    machine = Machine([split()], Habits.textbook(1))
    before = solve(machine, at(), Faults.of(1, undercharge=0.52)).turn
    after = solve(machine, at(), Faults.of(1, undercharge=0.41)).turn
    assert after.liquid_pressure_pa[0] > before.liquid_pressure_pa[0]
    assert after.liquid_line_k[0] - before.liquid_line_k[0] < 1.5  # subcooling rises: pressure more than the line


def test_moist_air_agrees_with_the_applications_own():
    dry, wet = np.array([to_kelvin(80.0)]), np.array([to_kelvin(67.0)])
    pressure = np.array([101_325.0])
    humidity = moist_air.humidity_of_wet_bulb(dry, wet, pressure)
    known = psychrometrics.enthalpy_j_kg(float(dry[0]), float(wet[0]), 101_325.0)
    assert float(moist_air.enthalpy(dry, humidity)[0]) == pytest.approx(known, rel=0.005)
    assert float(moist_air.wet_bulb_k(dry, humidity, pressure)[0]) == pytest.approx(float(wet[0]), abs=0.01)


def test_instruments_err_as_they_say_and_mistakes_are_seen():
    n = 400
    machine = Machine([split()] * n, Habits.textbook(n))
    weather = at(n=n)
    true = true_readings(machine, weather, Faults.none(n), solve(machine, weather, Faults.none(n)))
    shown = read(true, weather.atmosphere_pa, np.random.default_rng(1))
    error_f = (shown["suction_line_temp"] - true["suction_line_temp"]) * 1.8
    assert np.std(error_f) == pytest.approx(0.75, rel=0.15)  # half of the clamp's 1.5 F, which is two sigma
    loose = misread(true, Misreading.LOOSE_SUCTION_CLAMP, np.full(n, 0.5), machine, weather)
    assert (loose["suction_line_temp"] > true["suction_line_temp"] + 5).all()
    assert (loose["liquid_line_temp"] == true["liquid_line_temp"]).all()
    assert np.isnan(true["box_air_temp"]).all()


def test_cases_hold_what_was_asked_and_more_can_be_read():
    cases = list(draw_cases(40, np.random.default_rng(2), Draw(), [frozenset({Fault.UNDERCHARGE})] * 40))
    assert len(cases) > 25
    for case in cases:
        assert set(case.truth) == {Fault.UNDERCHARGE}
        had = {reading.quantity for reading in case.sheet.readings}
        more = with_more(case, ("compressor_suction_temp",), case.sheet.unit.atmosphere_pa)
        assert {reading.quantity for reading in more.readings} == had | {"compressor_suction_temp"}


def test_settling_goes_from_rest_to_the_steady_state():
    steady, rest = ({"suction_pressure": 9e5, "suction_line_temp": 284.0}, {"suction_pressure": 15e5, "suction_line_temp": 300.0})
    assert slow.settling(steady, rest, 0.0, valve=False) == rest
    late = slow.settling(steady, rest, 25.0, valve=True)
    assert late["suction_line_temp"] == pytest.approx(284.0, abs=0.1)
    early = [slow.settling(steady, rest, float(t), valve=True)["suction_line_temp"] for t in np.arange(4, 12, 0.25)]
    assert min(np.diff(early)) < 0 < max(np.diff(early))  # a valve hunts on its way


def test_a_warm_box_is_pulled_down_and_held_and_a_sick_one_later_or_never():
    plate = Nameplate(
        Kind.WALK_IN_COOLER,
        find("R-448A"),
        receiver=True,
        evaporator_td_k=6,
        capacity_w=5000,
        design_superheat_k=4,
        design_subcooling_k=3,
        design_box_k=to_kelvin(37),
    )
    machine = Machine([plate], Habits.textbook(1))
    minutes = np.arange(0.0, 361.0, 60.0)
    sound, starved = (
        slow.pull_down(machine, at(return_f=37, wet_f=36), faults, to_kelvin(60), 1500.0, 3e6, minutes)
        for faults in (Faults.none(1), Faults.of(1, undercharge=0.76))
    )
    assert sound[0] == to_kelvin(60)
    assert (np.diff(sound) <= 0.01).all()
    assert sound[-1] == pytest.approx(to_kelvin(37), abs=1.0)
    assert starved[3] > sound[3] + 1
