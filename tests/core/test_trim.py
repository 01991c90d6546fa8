"""The next step of charging: by each device's school, damped, stopped by whatever stops it."""

from __future__ import annotations

import pytest

from dry_gauge.core.charge.mass import OUNCE_KG
from dry_gauge.core.charge.trim import Move, next_step, school_of, share_off
from dry_gauge.core.charge.waits import charge_waits
from dry_gauge.core.judgement.assess import with_put_aside
from dry_gauge.core.quantities import FAHRENHEIT_K
from dry_gauge.core.visit.run_permit import run_permit
from dry_gauge.core.vocabulary import State
from dry_gauge.core.words import Reader
from tests.builders import AIR_PROVEN, HEALTHY, TXV, judged, reading, sheet

TXV_UNIT = {**TXV, "label_charge_g": 3000}
FIXED = {"metering": "orifice", "seer": 14, "label_charge_g": 3000}
BOX = {"kind": "walk_in_cooler", "refrigerant": "R-448A", "metering": "txv", "receiver": True, "label_charge_g": 3600}


def step(unit, *, to_go_kg=None, settled=True, seen=None, locked=False, changed=(), is_open=False, **values):
    seen = AIR_PROVEN | (seen or {})
    assessment = judged(sheet(unit, seen, **{**HEALTHY, **values}))
    facts = assessment.sheet.unit
    states = {name: State(state) for name, state in seen.items()}
    permit = run_permit(facts, states, changed, (), (), is_open)
    return next_step(facts, assessment.first, permit, states, to_go_kg, settled, locked=locked)


def said(trim) -> str:
    return trim.why.read(Reader())


def test_low_subcooling_adds_by_size_never_above_a_tenth_and_to_half_ounces():
    slight, far = step(TXV_UNIT, liquid_line_temp=104.5), step(TXV_UNIT, liquid_line_temp=106.5)
    assert slight.move is far.move is Move.ADD
    assert OUNCE_KG <= slight.step_kg <= far.step_kg <= 0.10 * 3.0
    for trim in (slight, far):
        halves = trim.step_kg / OUNCE_KG * 2
        assert halves == pytest.approx(round(halves))
    assert "Subcooling is" in said(slight)
    # Never past what belongs in, even if the gauge would have more.
    assert step(TXV_UNIT, liquid_line_temp=106.5, to_go_kg=0.03).step_kg == pytest.approx(0.03)


def test_nothing_goes_in_by_the_gauges_while_it_may_not_start():
    # What was read before it was opened, or before a safety was bypassed, still asks for a step.
    assert step(TXV_UNIT, liquid_line_temp=106.5).move is Move.ADD
    opened = step(TXV_UNIT, liquid_line_temp=106.5, is_open=True, settled=False)
    bypassed = step(TXV_UNIT, liquid_line_temp=106.5, changed=["safety"])
    assert opened.move is bypassed.move is Move.HOLD
    assert said(opened).startswith("The system is open")
    assert said(bypassed).startswith("A safety is bypassed")


def test_nothing_goes_into_a_circuit_beside_one_that_must_not_run():
    low = HEALTHY | {"liquid_line_temp": 106.5}
    document = sheet(TXV_UNIT | {"kind": "package_ac"}, AIR_PROVEN, **low)
    document["readings"] += [
        reading(name, value, circuit=2)
        for name, value in (HEALTHY | {"liquid_pressure": 600.0}).items()
        if name.startswith(("suction", "liquid"))
    ]
    assessment = judged(document)
    facts = assessment.sheet.unit
    trim = next_step(facts, assessment.circuits[1], run_permit(facts, {}, (), (), ()), {}, None, settled=True)
    assert step(TXV_UNIT | {"kind": "package_ac"}, liquid_line_temp=106.5).move is Move.ADD
    assert trim.move is Move.HOLD
    assert said(trim) == "Circuit 2 must not run, and this goes in while the unit does: end that first."
    assert assessment.unread(3).stopped_by == 2


def test_within_its_band_it_stops_and_above_it_is_recovery():
    right = step(TXV_UNIT)
    assert right.move is Move.STOP
    assert "within its target" in said(right)
    assert "within its target" in said(step(TXV_UNIT, to_go_kg=0.0))  # all in and on target is done, not in need of a reason
    assert "another fault" in said(step(TXV_UNIT, to_go_kg=-0.4))  # but far past what belongs in is
    over = step(TXV_UNIT, liquid_line_temp=94, liquid_pressure=385)
    assert over.move is Move.REMOVE
    assert 0 < over.step_kg <= 0.05 * 3.0 + OUNCE_KG
    assert "never vent" in said(over)


def test_a_fixed_orifice_goes_by_superheat_and_not_outside_its_weather():
    short = step(FIXED, suction_line_temp=66, suction_pressure=112, liquid_pressure=350, liquid_line_temp=101, supply_air_temp=57)
    assert (short.gap, short.move) == ("superheat", Move.ADD)
    cold = step(FIXED, suction_line_temp=75, outdoor_air_temp=45, liquid_pressure=230, liquid_line_temp=60)
    assert cold.move is Move.HOLD


@pytest.mark.parametrize(
    ("unit", "change", "words"),
    [
        (TXV_UNIT | {"high_pressure_cutout_psig": 400}, {}, "at the stop line"),  # 365 is above 90 % of it, below 95 %
        (TXV_UNIT, {"to_go_kg": 0.0}, "target total is in"),
    ],
)
def test_what_stops_it_comes_before_what_lacks(unit, change, words):
    trim = step(unit, **{"liquid_line_temp": 104.5, **change})
    assert trim.move is Move.STOP
    assert trim.step_kg == 0
    assert any(words in stop.read(Reader()) for stop in trim.stops)


@pytest.mark.parametrize(
    ("unit", "change", "words"),
    [
        (
            TXV_UNIT,
            {"liquid_line_temp": 96.5, "suction_line_temp": 50},
            "Subcooling is 13.2 °F, its target 7.0 °F to 13.0 °F, missed by less than its own error; nothing is wrong. Leave it.",
        ),
        (
            TXV_UNIT | {"target_subcooling_f": None},
            {"liquid_line_temp": 96, "suction_line_temp": 50, "suction_pressure": 112},
            "Subcooling is 13.7 °F, its target 7.0 °F to 13.0 °F, assumed; nothing is wrong. Leave it, or find the label.",
        ),
    ],
)
def test_a_gap_just_beside_its_target_on_a_sound_unit_is_left_alone(unit, change, words):
    trim = step(unit, **change)
    assert (trim.move, trim.step_kg, said(trim)) == (Move.STOP, 0, words)


HEATING = {"kind": "split_heat_pump", "mode": "heating", "metering": "txv", "label_charge_g": 3000}
STARVING = {"suction_pressure": 98, "suction_line_temp": 62, "liquid_line_temp": 96}
STANDING = {"standing_pressure": 275, "equalized_ambient_temp": 89}


@pytest.mark.parametrize(
    ("unit", "change", "move", "words"),
    [  # charge waits for everything that comes before it
        (TXV_UNIT, {"seen": {"ice_on_evaporator_even": "yes", "filter_dirty": "yes"}}, Move.HOLD, "No ice first"),
        (TXV_UNIT, {"seen": {"evaporator_air_proven": "no"}}, Move.HOLD, "Air proven first"),
        (TXV_UNIT, {"seen": {"coil_wet": "yes"}}, Move.HOLD, "Runs as called first"),
        (TXV_UNIT, {"seen": {"panel_off": "yes"}}, Move.HOLD, "Runs as called first"),
        (TXV_UNIT, {"seen": {"condenser_fan_stopped": "yes"}}, Move.STOP, "fan stands still"),
        (TXV_UNIT, {"seen": {"compressor_not_pumping": "yes"}}, Move.STOP, "does not pump"),
        (TXV_UNIT, STARVING | {"drier_inlet_temp": 96, "drier_outlet_temp": 80}, Move.HOLD, "refrigerant does not mend it"),
        (
            BOX | {"refrigerant": "R-410A"},
            {"seen": {"sight_glass_bubbles": "yes"}, "liquid_line_temp": 96, "box_air_temp": 40},
            Move.HOLD,
            "",
        ),
        (HEATING, {"outdoor_air_temp": 42, "suction_pressure": 92, "suction_line_temp": 36}, Move.HOLD, "heating"),
        (TXV_UNIT | {"compressor_control": "inverter"}, {}, Move.HOLD, "modulates"),
        (TXV_UNIT | {"metering": None}, {}, Move.HOLD, "metering device is not on the card"),
        (TXV_UNIT | {"label_charge_g": None}, {}, Move.HOLD, "no step from a guess"),
        (
            TXV_UNIT | {"label_charge_g": 150, "refrigerant": "R-290"},
            {"suction_pressure": 65, "liquid_pressure": 215, "liquid_line_temp": 98},
            Move.HOLD,
            "Critical charge",
        ),
        (TXV_UNIT | {"metering": "capillary"}, {}, Move.HOLD, "Critical charge"),
        (TXV_UNIT, STANDING | {"liquid_pressure": 440, "liquid_line_temp": 97}, Move.RECHARGE, "too far off"),
        (TXV_UNIT, {"liquid_pressure": 640, "liquid_line_temp": 100, "outdoor_air_temp": 100}, Move.STOP, "Off now"),
    ],
)
def test_charge_obeys_what_comes_before_it(unit, change, move, words):
    trim = step(unit, **{"liquid_line_temp": 106.0, **change})
    assert trim.move is move, said(trim)
    assert trim.step_kg == 0
    assert words in said(trim)


def test_too_much_at_the_stop_line_is_recovered_with_the_unit_off():
    trim = step(
        TXV_UNIT | {"high_pressure_cutout_psig": 500},
        liquid_pressure=480,
        liquid_line_temp=103,
        outdoor_air_temp=95,
        suction_pressure=124,
        suction_line_temp=54,
        standing_pressure=297,
        equalized_ambient_temp=95,
    )
    assert trim.move is Move.REMOVE
    assert "unit off" in said(trim)
    assert trim.step_kg > 0


def test_waits_say_what_to_do_in_two_lines():
    assessment = judged(sheet(TXV_UNIT, {"ice_on_evaporator_even": "yes", "panel_off": "yes"}, minutes=3, **HEALTHY))
    waits = charge_waits(assessment.sheet.unit, assessment.first)
    assert len(waits) >= 4
    assert all(len(one.read(Reader())) <= 150 for one in waits)


def test_it_waits_for_settling_for_readings_and_for_a_unit_that_is_locked_out():
    assert step(TXV_UNIT, liquid_line_temp=106, settled=False).move is Move.HOLD
    assert "liquid line" in said(step(TXV_UNIT, liquid_line_temp=106, locked=True))
    facts = judged(sheet(TXV_UNIT, **HEALTHY)).sheet.unit
    assert next_step(facts, None, run_permit(facts, {}, (), (), ()), {}, None, True).move is Move.HOLD


@pytest.mark.parametrize(("glass", "move"), [("yes", Move.ADD), ("no", Move.STOP), (None, Move.HOLD)])
def test_a_receiver_is_charged_by_its_glass(glass, move):
    seen = {} if glass is None else {"sight_glass_bubbles": glass}
    box = {
        "box_air_temp": 38.0,
        "suction_pressure": 45.0,
        "suction_line_temp": 50.0,
        "coil_outlet_temp": 33.0,
        "liquid_pressure": 220.0,
        "liquid_line_temp": 92.0,
    }
    document = sheet(BOX, AIR_PROVEN | seen, outdoor_air_temp=85.0, **box)
    assessment = judged(document)
    facts, states = assessment.sheet.unit, {name: State(state) for name, state in (AIR_PROVEN | seen).items()}
    trim = next_step(facts, assessment.first, run_permit(facts, states, (), (), ()), states, None, True)
    assert trim.move is move
    assert trim.step_kg <= 0.05 * 3.6
    assert school_of(facts)[1] is None


def test_a_larger_gap_never_means_a_smaller_shortage():
    facts = judged(sheet(TXV_UNIT, **HEALTHY)).sheet.unit
    shares = [share_off(facts, "subcooling", gap * FAHRENHEIT_K, 10 * FAHRENHEIT_K) for gap in range(1, 11)]
    assert shares == sorted(shares)
    assert 0 < shares[0] < shares[7] < 1 / 3 < shares[-1] < 0.8  # what has emptied the condenser is not weighed by a gap


def test_who_has_much_subcooling_to_lose_has_lost_less_charge_by_the_same_gap():
    facts = judged(sheet(TXV_UNIT, **HEALTHY)).sheet.unit
    little, usual, much = (share_off(facts, "subcooling", 5 * FAHRENHEIT_K, aim * FAHRENHEIT_K) for aim in (6, 9, 14))
    assert 1.3 * much < usual < little / 1.3


def test_no_weight_is_made_of_a_gap_that_cannot_be_though_its_warning_was_put_aside():
    assessment = judged(sheet(TXV_UNIT, AIR_PROVEN, **HEALTHY | {"liquid_line_temp": 119.0}))
    held = assessment.first
    released = with_put_aside(held, {oddity.code for oddity in held.oddities})
    assert not released.holding
    permit = run_permit(assessment.sheet.unit, {"condenser_air_proven": State.YES}, (), (), ())
    trim = next_step(assessment.sheet.unit, released, permit, {}, None, settled=True)
    assert (trim.move, trim.step_kg) == (Move.HOLD, 0)
    assert "Subcooling cannot be -" in said(trim)


def test_on_target_by_its_gap_while_the_rest_says_otherwise_is_no_end_but_a_question():
    trim = step(FIXED, suction_line_temp=54, suction_pressure=128, liquid_pressure=400, liquid_line_temp=96, supply_air_temp=58)
    assert (trim.move, trim.step_kg) == (Move.HOLD, 0)
    assert "on target, yet too much charge leads" in said(trim)
