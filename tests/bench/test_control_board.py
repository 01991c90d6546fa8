"""A unit's controls over time: waits, trips, lock-outs, and what the board flashes; each thing that may be wrong."""

from __future__ import annotations

import numpy as np
import pytest

from dry_gauge.bench.control_board import CODES, ControlBoard, Wrong
from dry_gauge.core.controls.blinks import count
from dry_gauge.core.controls.chain import TEMPLATES
from dry_gauge.core.controls.walker import How

ROOFTOP, MONITORED = TEMPLATES["Rooftop with gas heat"], TEMPLATES["Three phases with monitor"]


def board(chain=ROOFTOP, **wrong):
    made = ControlBoard(chain, Wrong(**wrong), np.random.default_rng(3))
    made.call(on=True)
    return made


def test_it_waits_out_its_short_cycle_and_its_blower_runs_on():
    sound = board()
    sound.run(170)
    assert not sound.pulled_in
    assert sound.blower
    sound.run(20)
    assert sound.compressor_runs
    sound.call(on=False)
    sound.run(30)
    assert (sound.pulled_in, sound.blower) == (False, True)
    sound.run(40)
    assert not sound.blower
    assert sound.code == ""


def test_a_safety_that_trips_by_itself_locks_it_out_the_third_time_until_the_power_is_off():
    low = board(opens_after_s={"Low-pressure switch": 40.0})
    low.run(240)
    assert low.code == "1-3"
    assert not low.pulled_in
    low.run(60)
    assert low.code == ""  # closed again by itself, and it waits
    low.run(700)
    assert low.locked
    assert low.code == "3-1"
    low.run(600)
    assert not low.pulled_in
    low.cut_power()
    low.run(190)
    assert low.pulled_in


def test_what_opens_by_hand_stays_open_until_it_is_reset():
    high = board(opens_after_s={"High-pressure switch": 30.0})
    high.run(1200)
    assert high.code == "1-2"
    assert high.meter.first_open("Compressor contactor") == "High-pressure switch"
    high.reset("High-pressure switch")
    high.run(200)
    assert high.code == "1-2"  # it starts, and trips again: nothing was mended


@pytest.mark.parametrize(
    ("chain", "wrong", "code", "runs"),
    [
        (MONITORED, {"lost_leg": True}, "2-1", False),
        (ROOFTOP, {"bad_sensor": True}, "2-3", True),
        (ROOFTOP, {"open_links": frozenset({"Thermostat Y1"})}, "", False),
        (ROOFTOP, {}, "", True),
    ],
)
def test_what_is_wrong_shows(chain, wrong, code, runs):
    made = board(chain, **wrong)
    made.run(300)
    assert (made.code, made.compressor_runs) == (code, runs)
    assert made.code in {"", *CODES}


def test_a_shorted_coil_takes_its_fuse_and_leaves_the_board_dark():
    short = board(shorts="Compressor contactor")
    assert short.fed
    short.run(5)
    assert short.meter.first_open("Compressor contactor") == "Control fuse"
    assert short.meter.volts("Board", How.COMMON) == 0
    assert not short.fed
    assert short.lamp_s == ()


def test_a_welded_contactor_runs_without_a_call_and_a_stuck_valve_stays():
    welded = board(welded=True)
    welded.call(on=False)
    welded.run(5)
    assert (welded.compressor_runs, welded.code) == (True, "3-2")
    pump = board(TEMPLATES["Heat pump"], stuck_valve=True)
    pump.call(on=True, heating=True)
    assert not pump.valve_shifted


def test_what_its_lamp_flashes_is_read_as_its_code():
    high = board(opens_after_s={"High-pressure switch": 30.0})
    high.run(400)
    assert count(high.lamp_s).code == high.code == "1-2"
