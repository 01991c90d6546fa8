"""Power and motors against numbers worked by hand; each bad way to measure has its sentence."""

from __future__ import annotations

import pytest

from dry_gauge.core.electrical.capacitor import judge_capacitor, looks_like_dual, under_load_uf
from dry_gauge.core.electrical.compressor_evidence import GROUND_TWICE, LINES, judge_compressor
from dry_gauge.core.electrical.motor import fits, horsepower, match_lines, to_ground, windings
from dry_gauge.core.electrical.power import odd_factor, power_factor, strip_heat, strip_steps
from dry_gauge.core.electrical.supply import class_of, imbalance, judge_supply

# -- supply ----------------------------------------------------------------------------


def test_imbalance_is_the_greatest_deviation_over_the_mean():
    # NEMA MG 1, 14.36: 220, 215 and 210 V have a mean of 215 and a deviation of 5: 2.3 %.
    assert imbalance([220, 215, 210]) == pytest.approx(5 / 215)
    with pytest.raises(ValueError, match="three pairs"):
        imbalance([230, 230])


@pytest.mark.parametrize(
    ("pair", "ground", "three", "name"),
    [
        (240, [120, 121], False, "120/240 V, single phase"),
        (208, [120, 119, 121], True, "208Y/120 V"),
        (240, [120, 120, 208], True, "240 V delta with a high leg"),
        (478, [277, 276, 278], True, "480Y/277 V"),
        (600, [346], True, "600Y/347 V"),
    ],
)
def test_a_supply_is_named_by_what_it_reads(pair, ground, three, name):
    assert class_of(pair, ground, three).name == name
    assert class_of(150.0, ground, three) is None


@pytest.mark.parametrize(
    ("pairs", "codes", "stops"),
    [
        ((231, 230, 232), [], False),
        ((236, 228, 229), ["unbalanced"], False),
        ((248, 228, 224), ["unbalanced"], True),
        ((231, 142, 139), ["leg_lost"], True),
        ((231, 0, 0), ["leg_lost"], True),
        ((0, 0, 0), ["dead"], False),
    ],
)
def test_what_pairs_say(pairs, codes, stops):
    found = judge_supply(dict(zip(("l1_l2", "l2_l3", "l3_l1"), pairs, strict=True)), {}, three_phase=True)
    assert [one.code for one in found.findings] == codes
    assert any(one.stops for one in found.findings) is stops


def test_a_lost_leg_is_named_and_a_high_leg_is_none():
    lost = judge_supply({"l1_l2": 231, "l2_l3": 142, "l3_l1": 139}, {"l3": 41}, three_phase=True).findings[0]
    assert lost.phrase.template.startswith("L3 is lost")
    assert "winding" in lost.phrase.template
    high = judge_supply({"l1_l2": 240, "l2_l3": 240, "l3_l1": 240}, {"l1": 120, "l2": 208, "l3": 120}, three_phase=True)
    assert high.findings == ()
    assert high.supply_class.name == "240 V delta with a high leg"


def test_load_label_and_contactor_are_compared():
    found = judge_supply({"l1_l2": 205.0}, {}, three_phase=False, label_v=230, open_pairs={"l1_l2": 236}, drops_v={"pole 1": 1.6})
    assert [one.code for one in found.findings] == ["off_label", "sags", "drop"]


# -- capacitors, heat, power -------------------------------------------------------------


def test_a_capacitor_under_load_by_the_formula():
    # 2652 I / V at 60 Hz, 3183 at 50: 8.5 A across 376 V is 59.95 microfarads.
    assert under_load_uf(8.5, 376) == pytest.approx(2652 * 8.5 / 376, rel=5e-4)
    assert under_load_uf(8.5, 376, 50) == pytest.approx(3183 * 8.5 / 376, rel=5e-4)
    with pytest.raises(ValueError, match="Volts"):
        under_load_uf(1, 0)


@pytest.mark.parametrize(
    ("rated", "bench", "amps", "volts", "state"),
    [
        (45, 44.1, None, None, "good"),
        (45, 42.2, None, None, "weak"),
        (45, 38.0, None, None, "failed"),
        (5, 4.9, 0.55, 372, "failed"),
        (45, None, 6.35, 374, "good"),
        (45, None, None, None, "unclear"),
    ],
)
def test_how_a_capacitor_stands(rated, bench, amps, volts, state):
    assert judge_capacitor(rated, bench, amps, volts).state == state


def test_bench_and_load_that_disagree_are_said():
    assert "disagree" in judge_capacitor(5, 4.9, 0.55, 372).phrase.template


def test_a_dual_rating_without_its_stroke_is_known():
    assert looks_like_dual(455) == (45, 5)
    assert looks_like_dual(357.5) == (35, 7.5)
    assert looks_like_dual(45) is None


def test_strip_heat_step_by_step():
    brought, wrong = strip_steps((20.8, 41.7, 62.5), 240)  # three banks of 5 kW
    assert brought == pytest.approx((5.0, 5.0, 5.0), abs=0.02)
    assert wrong is None
    assert strip_steps((24.8, 45.7, 66.5), 240, 4.0)[0] == pytest.approx(brought)  # a blower that runs is no step's
    brought, wrong = strip_steps((20.8, 21.1, 41.9), 240)
    assert brought[1] == pytest.approx(0.07, abs=0.01)
    assert wrong.template.startswith("Step 2 adds hardly any amps")
    assert strip_steps((12.0,), 208, three_phase=True)[0] == pytest.approx((4.32,), abs=0.01)


def test_strip_heat_by_volts_squared():
    # 10 kW at 240 V is 9.18 kW at 230; 39.9 A less none at 230 V are 9.18 kW.
    assert strip_heat(39.9, 0, 230, 10, 240).share == pytest.approx(1.0, abs=0.002)
    half = strip_heat(23, 3, 238, 10, 240)
    assert half.kilowatts == pytest.approx(4.76)
    assert "missing" in half.phrase.template
    with pytest.raises(ValueError, match="blower"):
        strip_heat(3, 5, 240, 10, 240)


def test_a_power_factor_that_cannot_be_asks_about_the_set_up():
    assert power_factor(1500, 230, 8, three_phase=False) == pytest.approx(1500 / 1840)
    assert power_factor(5000, 460, 8, three_phase=True) == pytest.approx(5000 / (460 * 8 * 3**0.5))
    assert odd_factor(0.8) is None
    assert "one leg" in odd_factor(1.7).template
    assert odd_factor(0.3) is not None


# -- motors -----------------------------------------------------------------------------------


@pytest.mark.parametrize(("text", "hp"), [("1/3", 1 / 3), ("1-1/2 hp", 1.5), ("1 1/2", 1.5), ("0.75", 0.75), ("3", 3)])
def test_horsepower_as_plates_write_it(text, hp):
    assert horsepower(text) == pytest.approx(hp)


@pytest.mark.parametrize("text", ["", "a half", "1/0", "3/4/5"])
def test_what_is_no_horsepower(text):
    with pytest.raises(ValueError, match="plate"):
        horsepower(text)


def test_windings_and_ground():
    assert windings({"a": 3.1, "b": 4.2, "c": 7.2}, three_phase=False).speaks == "for"
    assert windings({"a": 3.1, "b": 4.2, "c": 9.0}, three_phase=False).speaks == "against"
    assert windings({"a": 3.1, "b": float("inf"), "c": float("inf")}, three_phase=False).speaks == "against"
    assert windings({"a": 2.0, "b": 2.05, "c": 2.02}, three_phase=True).speaks == "for"
    assert [to_ground(ohms).speaks for ohms in (5e7, 3e6, 4e5, 100)] == ["for", "asks", "asks", "against"]


def test_a_faster_motor_is_wrong_and_a_size_up_is_allowed():
    lines = {
        line.name: line.verdict
        for line in match_lines(
            {"hp": "1/3", "rpm": "1075", "volts": "230", "rotation": "ccw"},
            {"hp": "1/2", "rpm": "1625", "volts": "230", "amps": "2.8"},
        )
    }
    assert lines == {
        "Power": "allowed",
        "Volts": "same",
        "Speed, rpm": "wrong",
        "Full load amps": "asks",
        "Turns, seen from the shaft": "asks",
    }
    assert fits(match_lines({"hp": "1/3"}, {"hp": "1/4"})) == "wrong"
    for odd in ("0", "-5", "nan", "x", "1e999"):
        assert match_lines({"rpm": "1075", "amps": odd, "hp": odd}, {"rpm": odd, "amps": "2", "hp": "1/3"})
        assert match_lines({"rpm": odd}, {"rpm": "1075"})
    assert fits(match_lines({"hp": "1/3", "rpm": "1075"}, {"hp": "1/3", "rpm": "1080"})) == "fits"


# -- what condemns a compressor -----------------------------------------------------------------


def test_no_single_line_but_a_ground_proves_a_compressor():
    for line in LINES:
        for answer in line.answers:
            found = judge_compressor({line.name: answer})
            assert (found.state == "proven") is (answer == GROUND_TWICE), (line.name, answer)


def test_a_ground_keeps_the_power_off():
    once, twice = judge_compressor({"ground": "grounded"}), judge_compressor({"ground": GROUND_TWICE})
    assert (once.state, once.next.name, once.power_stays_off) == ("likely", "ground", True)
    assert (twice.state, twice.power_stays_off) == ("proven", True)


def test_two_kinds_of_evidence_with_look_alikes_ruled_out_prove_it():
    thin = {"amps": "locked"}
    assert judge_compressor(thin).state == "not_proven"
    more = thin | {"windings": "open"}
    assert judge_compressor(more).state == "likely"
    assert judge_compressor(more).missing
    assert judge_compressor(more | {"start_gear": "bad"}).state == "not_proven"
    whole = more | {"terminals": "right", "overload": "closed", "start_gear": "good", "start_aid": "no"}
    assert judge_compressor(whole).state == "proven"


def test_one_that_does_not_pump_waits_for_rotation_and_reversing_valve():
    found = judge_compressor({"pumps": "not", "amps": "normal"}, three_phase=True, heat_pump=True)
    assert {line.name for line in found.missing} == {"rotation", "reversing_valve"}
