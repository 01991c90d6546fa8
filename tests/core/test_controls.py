"""Chains, the walk along them, codes, fuses, defrosts and sensors against cases worked by hand and simulated dead units."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dry_gauge.bench.control_chain import DeadUnit, blinks, chance_chain, chance_open, dead_coils
from dry_gauge.core.controls.blinks import count
from dry_gauge.core.controls.chain import TEMPLATES, Chain, Link, LinkSort
from dry_gauge.core.controls.defrost import Mark, judge_defrost, out_of_order
from dry_gauge.core.controls.economiser import free_cooling
from dry_gauge.core.controls.fuse_hunt import WIRING, Try, check_substitute, hunt
from dry_gauge.core.controls.metering import metering_odds, orifice_size, same_orifice
from dry_gauge.core.controls.thermistor import CURVES, judge_sensor, through
from dry_gauge.core.controls.walker import How, Volts, walk
from dry_gauge.core.errors import Refused
from dry_gauge.core.quantities import to_kelvin
from dry_gauge.core.vocabulary import Fault

S = LinkSort
ROOFTOP = TEMPLATES["Rooftop with gas heat"]

# -- chains -----------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("links", "words"),
    [
        ([Link("T", S.SOURCE)], "at least one link"),
        ([Link("T", S.SOURCE), Link("A", S.FLOAT, "B"), Link("B", S.LIMIT, "A")], "a loop"),
        ([Link("T", S.SOURCE), Link("A", S.FLOAT, "nowhere")], "not in the chain"),
        ([Link("T", S.SOURCE), Link("A", S.FLOAT, "T"), Link("A", S.LIMIT, "T")], "Two links are called 'A'"),
        ([Link("A", S.FLOAT), Link("T", S.SOURCE, "A")], "first link is where the volts come from"),
        ([Link("T", S.SOURCE), Link("C", S.COIL, "T"), Link("F", S.FLOAT, "C")], "only its common wire"),
        ([Link("T", S.SOURCE), Link("F", S.FLOAT, "T"), Link("W", S.COMMON, "F")], "leads back from a coil"),
    ],
)
def test_a_chain_that_cannot_be_is_refused_in_words(links, words):
    with pytest.raises(Refused, match=words):
        Chain(tuple(links))


def test_every_template_leads_to_coils_and_knows_its_branches():
    for chain in TEMPLATES.values():
        assert chain.coils
        assert chain.behind(chain.source.name) == set(chain.by_name)
    assert ROOFTOP.way_to("Gas valve")[:3] == ("Transformer", "Control fuse", "Building interlock")
    assert [ROOFTOP.branch_of(name) for name in ("Float switch", "High limit", "Blower contactor")] == [0, 1, 2]


# -- the walk ------------------------------------------------------------------------------


def test_what_several_dead_coils_share_is_suspected_and_a_running_one_clears_its_way():
    dead = walk(ROOFTOP, [], {"Compressor contactor": False, "Gas valve": False, "Blower contactor": False})
    assert sum(dead.belief[name] for name in ROOFTOP.way_to("Building interlock")) > 0.85
    blown = walk(ROOFTOP, [], {"Compressor contactor": False, "Blower contactor": True})
    assert sum(blown.belief[name] for name in ROOFTOP.way_to("Blower contactor")) < 0.05
    assert blown.shows["Building interlock"] == "live"
    assert walk(ROOFTOP, [], {coil.name: True for coil in ROOFTOP.coils}).all_run


def test_volts_across_a_link_name_it_and_mending_it_starts_anew():
    runs = {"Compressor contactor": False, "Blower contactor": True}
    read = [Volts("Board", 25.8), Volts("High-pressure switch", 0.0), Volts("Float switch", 0.0)]
    before = walk(ROOFTOP, read, runs)
    assert before.lead.name == "Float switch"
    after = walk(ROOFTOP, [*read, Volts("Float switch", 25.7, How.ACROSS)], runs)
    assert after.named is not None
    assert after.named.name == "Float switch"
    assert walk(ROOFTOP, read[:1], runs, ["Float switch"]).belief["Float switch"] < 0.05


def test_what_a_code_names_leads_until_volts_say_otherwise():
    told = walk(ROOFTOP, [], {"Compressor contactor": False}, told=["Low-pressure switch"])
    assert told.belief["Low-pressure switch"] > 0.5
    old = [Volts("Board", 0.0, How.COMMON), Volts("Thermostat Y1", 26.0, How.COMMON)]  # a code of yesterday
    assert walk(ROOFTOP, old, {"Compressor contactor": False}, told=["Low-pressure switch"]).lead.name == "Board"


def test_two_numbers_of_one_orifice():
    assert same_orifice(".059", "59")
    assert not same_orifice("59", "63")
    assert same_orifice("plug A", " Plug a")
    assert not same_orifice("plug A", "59")


def test_history_moves_the_odds_and_more_so_on_the_same_unit():
    usual = walk(ROOFTOP, []).belief["Rollout switch"]
    like = walk(ROOFTOP, [], opened_on_like={"Rollout switch": 2}).belief["Rollout switch"]
    own = walk(ROOFTOP, [], opened_here={"Rollout switch": 2}).belief["Rollout switch"]
    assert usual < like < own


@pytest.mark.parametrize(
    ("read", "words"),
    [
        ([Volts("Board", 0.0), Volts("Float switch", 25.0)], "live behind Board, which is dead"),
        ([Volts("Board", 2.6)], "is it 26"),
        ([Volts("Board", 118.0)], "not this circuit's 24 V"),
        ([Volts("Board", 9.0)], "ghost volts"),
        ([Volts("Board", 17.5)], "pulls the transformer below 20 V"),
    ],
)
def test_odd_volts_are_said_and_name_nothing(read, words):
    stands = walk(ROOFTOP, read)
    assert any(words in note for note in stands.notes)
    assert stands.named is None


def test_an_open_way_back_is_live_on_the_coils_own_common():
    read = [Volts("Compressor contactor", 25.0), Volts("Common back", 25.0), Volts("Common back", 25.0)]
    stands = walk(ROOFTOP, read, {"Compressor contactor": False, "Blower contactor": True})
    assert stands.lead.name == "Common back"


@settings(deadline=None, max_examples=25)
@given(st.integers(0, 10_000))
def test_a_sound_meter_always_leads_to_the_open_link(seed):
    chance = np.random.default_rng(seed)
    chain = chance_chain(int(chance.integers(6, 21)), chance)
    unit = DeadUnit(chain, chance_open(chain, 1, chance), chance)
    measured: list[Volts] = []
    stands = walk(chain, measured, unit.runs)
    while stands.next is not None and len(measured) < 16:
        point = stands.next
        measured.append(Volts(point.link.name, unit.read(point.link.name, point.how), point.how))
        stands = walk(chain, measured, unit.runs)
    assert stands.named is not None
    assert stands.named.name == unit.first_open(next(iter(dead_coils(unit))))
    assert sum(stands.belief.values()) == pytest.approx(1)


# -- codes -----------------------------------------------------------------------------------


@given(st.lists(st.integers(2, 9), min_size=1, max_size=3), st.integers(2, 4), st.floats(0.25, 0.75), st.integers(0, 1000))
def test_two_even_rounds_are_sure_whatever_the_pace(digits, rounds, pace, seed):
    chance = np.random.default_rng(seed)
    taps = np.array(blinks(digits, rounds, pace))
    taps += chance.uniform(-0.08, 0.08, len(taps)) * pace  # a thumb's own
    counted = count(list(taps - taps[0]))
    assert (counted.code, counted.sure, counted.slow) == ("-".join(map(str, digits)), True, False)


@pytest.mark.parametrize(
    ("taps", "words"),
    [
        ([], "Tap once"),
        ([0.0], "second round"),
        ([0, 0.5, 1.0], "without a pause"),
        ([0, 0.5, 2.5, 3.0, 3.5], "Tap a second round"),
        ([0, 0.5, 3.0, 3.5, 6.0, 6.5, 7.0, 9.5, 10.0], "rounds differ"),
        ([0, 0.35, 0.95, 1.7, 5.0, 5.35, 5.95, 6.7], "uneven"),
        ([i * 0.05 for i in range(20)], "faster than a thumb"),
        ([0, 2, 1], "no order"),
    ],
)
def test_a_count_that_is_not_sure_says_what_to_do(taps, words):
    counted = count(taps)
    assert not counted.sure
    assert words in counted.words


def test_a_slow_flash_is_told_apart():
    assert count(blinks([2], 3, 1.2, round_gap=3.0)).slow


# -- fuses -----------------------------------------------------------------------------------

LOADS = ["contactor", "reversing valve", "gas valve", "economiser"]


def test_nothing_stands_in_for_a_line_fuse_and_no_bigger_breaker_for_any():
    check_substitute(24, 5, 5)
    with pytest.raises(Refused, match="line voltage"):
        check_substitute(230, 5, 5)
    with pytest.raises(Refused, match="lets more through"):
        check_substitute(24, 3, 5)


@pytest.mark.parametrize("bad", LOADS)
def test_halving_finds_the_load_although_its_ohms_are_good(bad):
    tries: list[Try] = []
    ohms = dict.fromkeys(LOADS, 12.0)
    stands = hunt(LOADS, tries, ohms, 24, 5)
    while not stands.named and len(tries) < 8:
        assert bad in stands.belief
        tries.append(Try(frozenset(stands.connect), bad not in stands.connect))
        stands = hunt(LOADS, tries, ohms, 24, 5)
    assert stands.named == bad
    assert "good ohms or not" in stands.words
    assert len(tries) <= 5


def test_a_shorted_load_leads_and_what_opens_with_all_lifted_is_wiring():
    assert next(iter(hunt(LOADS, [], {"gas valve": 1.1}, 24, 5).belief)) == "gas valve"
    lifted = Try(frozenset(), False)
    assert hunt(LOADS, [lifted, lifted], {}, 24, 5).named == WIRING


# -- defrost -----------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("marks", "state", "words"),
    [
        ([(Mark.CALLED, 0), (Mark.VALVE, 0.2), (Mark.ENDED_BY_TIME, 10), (Mark.ICE_LEFT, 11)], "short", "too little heat"),
        ([(Mark.CALLED, 0), (Mark.VALVE, 0.2), (Mark.ENDED_BY_TEMPERATURE, 4), (Mark.CLEAR, 5)], "good", "as it should"),
        ([(Mark.CALLED, 0), (Mark.VALVE, 0.2), (Mark.ENDED_BY_TEMPERATURE, 4), (Mark.ICE_LEFT, 5)], "short", "sensor is warm"),
        ([(Mark.CALLED, 0), (Mark.ENDED_BY_TEMPERATURE, 4)], "asks", "Ended by temperature"),
        ([(Mark.CALLED, 0), (Mark.VALVE, 0.1), (Mark.ENDED_BY_TIME, 10), (Mark.CLEAR, 11)], "asks", "does its sensor open"),
        ([(Mark.CALLED, 0)], "running", "longest is about 10"),
    ],
)
def test_a_defrost_is_judged_by_how_it_ended(marks, state, words):
    found = judge_defrost(marks, walk_in=False)
    assert found.state == state
    assert words in found.words


def test_charge_comes_first_where_a_defrost_had_too_little_heat_and_a_fan_that_runs_on_before_it():
    marks = [(Mark.CALLED, 0.0), (Mark.VALVE, 0.2), (Mark.FAN_RUNS_ON, 0.5), (Mark.ENDED_BY_TIME, 10.0), (Mark.ICE_LEFT, 11.0)]
    then = judge_defrost(marks, walk_in=False).then
    assert "fan ran on" in then[0]
    assert then[1].startswith("Charge")


def test_marks_have_an_order():
    assert out_of_order([], Mark.VALVE)
    assert out_of_order([Mark.CALLED], Mark.CLEAR)
    assert out_of_order([Mark.CALLED, Mark.ENDED_BY_TIME], Mark.VALVE)
    assert not out_of_order([Mark.CALLED, Mark.ENDED_BY_TIME], Mark.ICE_LEFT)


# -- sensors, economiser, metering device ------------------------------------------------------


def test_a_sensor_is_held_against_a_thermometer():
    type_ii = CURVES["10k type II"]
    assert judge_sensor(type_ii, 10_000, to_kelvin(77)).state == "good"
    assert judge_sensor(type_ii, 10_000, to_kelvin(60)).state == "wrong"
    assert judge_sensor(None, 29_490, to_kelvin(32)).state == "good"  # type III fits best
    other = judge_sensor(type_ii, 29_490, to_kelvin(32))
    assert other.state == "asks"
    assert "type III" in other.words
    assert judge_sensor(type_ii, 10_000, to_kelvin(77), unplugged=False).state == "asks"
    assert judge_sensor(type_ii, 5e6, None).words.startswith("Open")
    own = through([(273.15, 32_650), (298.15, 10_000), (323.15, 3_603)])
    assert judge_sensor(own, 10_000, to_kelvin(77)).off_k == pytest.approx(0, abs=0.01)


def test_free_cooling_by_its_letter_with_the_plug_before_the_sensor():
    due = free_cooling(to_kelvin(58), 0.5, "B", damper_open=False)
    assert due.expected == "yes"
    assert "plug first" in due.then[0]
    assert "plug" not in free_cooling(to_kelvin(58), 0.5, "B", damper_open=False, plug="sound").then[0]
    assert free_cooling(to_kelvin(80), 0.5, "A").expected == "no"
    assert free_cooling(to_kelvin(68), 0.95, "B").expected == "no"  # damp air
    assert "assumed" in free_cooling(to_kelvin(58), None, "B").then[-1]


def test_a_metering_device_speaks_for_its_own_faults():
    assert orifice_size(".059") == orifice_size("59") == orifice_size("0.059")
    assert metering_odds("61", "59", "", "") == {Fault.METERING_OVERFEEDING: 5.0}
    assert metering_odds("57", "59", "sound", "blocked")[Fault.METERING_UNDERFEEDING] == 30.0
    assert metering_odds("59", ".059", "sound", "clean") == {}
    assert metering_odds("", "", "loose", "") == {Fault.METERING_OVERFEEDING: 4.0}
