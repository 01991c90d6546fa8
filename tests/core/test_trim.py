"""The next step of charging: by each device's school, damped, stopped by whatever stops it."""

from __future__ import annotations

import pytest

from dry_gauge.core.charge.mass import OUNCE_KG
from dry_gauge.core.charge.trim import Move, missing_share, next_step, school_of
from dry_gauge.core.quantities import FAHRENHEIT_K, PSI_PA, STANDARD_ATMOSPHERE_PA
from dry_gauge.core.visit.run_permit import run_permit
from dry_gauge.core.vocabulary import State
from dry_gauge.core.words import Reader
from tests.builders import AIR_PROVEN, HEALTHY, TXV, judged, sheet

TXV_UNIT = {**TXV, "label_charge_g": 3000}
FIXED = {"metering": "orifice", "seer": 14, "label_charge_g": 3000}
BOX = {"kind": "walk_in_cooler", "refrigerant": "R-448A", "metering": "txv", "receiver": True, "label_charge_g": 3600}


def step(unit, *, to_go_kg=None, head_psig=None, settled=True, seen=None, locked=False, **values):
    assessment = judged(sheet(unit, AIR_PROVEN | (seen or {}), **{**HEALTHY, **values}))
    facts = assessment.sheet.unit
    states = {name: State(state) for name, state in (seen or {}).items()}
    head = None if head_psig is None else head_psig * PSI_PA + STANDARD_ATMOSPHERE_PA
    permit = run_permit(facts, states, (), (), ())
    return next_step(facts, assessment.first, permit, states, to_go_kg, head, settled, locked=locked)


def said(trim) -> str:
    return trim.why.read(Reader())


def test_low_subcooling_adds_by_size_never_above_a_tenth_and_to_half_ounces():
    slight, far = step(TXV_UNIT, liquid_line_temp=104.5), step(TXV_UNIT, liquid_line_temp=109.5)
    assert slight.move is far.move is Move.ADD
    assert OUNCE_KG <= slight.step_kg <= far.step_kg <= 0.10 * 3.0
    for trim in (slight, far):
        halves = trim.step_kg / OUNCE_KG * 2
        assert halves == pytest.approx(round(halves))
    assert "Subcooling is" in said(slight)
    # Never past what belongs in, even if the gauge would have more.
    assert step(TXV_UNIT, liquid_line_temp=109.5, to_go_kg=0.05).step_kg == pytest.approx(0.05)


def test_within_its_band_it_stops_and_above_it_is_recovery():
    right = step(TXV_UNIT)
    assert right.move is Move.STOP
    assert "within its target" in said(right)
    over = step(TXV_UNIT, liquid_line_temp=88)
    assert over.move is Move.REMOVE
    assert 0 < over.step_kg <= 0.05 * 3.0 + OUNCE_KG
    assert "never vent" in said(over)


def test_a_fixed_orifice_goes_by_superheat_and_not_outside_its_weather():
    short = step(FIXED, suction_line_temp=75)
    assert (short.gap, short.move) == ("superheat", Move.ADD)
    cold = step(FIXED, suction_line_temp=75, outdoor_air_temp=45, liquid_pressure=230, liquid_line_temp=60)
    assert cold.move is Move.STOP
    assert "Go by weight" in said(cold)


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"head_psig": 560}, "at the stop line"),
        ({"to_go_kg": 0.0}, "target total is in"),
        ({"suction_line_temp": 43}, "liquid reaches the compressor"),
        ({"discharge_line_temp": 118}, "Discharge superheat"),
    ],
)
def test_what_stops_it_comes_before_what_lacks(change, words):
    trim = step(TXV_UNIT, liquid_line_temp=106, **change)
    assert trim.move is Move.STOP
    assert trim.step_kg == 0
    assert any(words in stop.read(Reader()) for stop in trim.stops)


def test_it_waits_for_settling_for_readings_and_for_a_unit_that_is_locked_out():
    assert step(TXV_UNIT, liquid_line_temp=106, settled=False).move is Move.HOLD
    assert "liquid line" in said(step(TXV_UNIT, liquid_line_temp=106, locked=True))
    facts = judged(sheet(TXV_UNIT, **HEALTHY)).sheet.unit
    assert next_step(facts, None, run_permit(facts, {}, (), (), ()), {}, None, None, True).move is Move.HOLD


@pytest.mark.parametrize(("glass", "move"), [("yes", Move.ADD), ("no", Move.STOP), (None, Move.HOLD)])
def test_a_receiver_is_charged_by_its_glass(glass, move):
    seen = {} if glass is None else {"sight_glass_bubbles": glass}
    box = {"box_air_temp": 38.0, "suction_pressure": 33.0, "suction_line_temp": 46.0, "coil_outlet_temp": 32.0,
           "liquid_pressure": 220.0, "liquid_line_temp": 92.0}  # fmt: skip
    document = sheet(BOX, AIR_PROVEN | seen, outdoor_air_temp=85.0, **box)
    assessment = judged(document)
    facts, states = assessment.sheet.unit, {name: State(state) for name, state in seen.items()}
    trim = next_step(facts, assessment.first, run_permit(facts, states, (), (), ()), states, None, None, True)
    assert trim.move is move
    assert trim.step_kg <= 0.05 * 3.6
    assert school_of(facts)[1] is None


def test_a_larger_gap_never_means_a_smaller_shortage():
    facts = judged(sheet(TXV_UNIT, **HEALTHY)).sheet.unit
    shares = [missing_share(facts, "subcooling", gap * FAHRENHEIT_K) for gap in range(1, 15)]
    assert shares == sorted(shares)
    assert 0 < shares[0] < shares[-1] < 0.6
