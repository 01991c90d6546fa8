"""The hub protocol: exactly once, in order, whatever comes."""

from __future__ import annotations

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dry_gauge.core.probes import METER, SCALE, ProbeState
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import Kind
from dry_gauge.probes.meter import Meter
from dry_gauge.probes.protocol import Line, read_lines, sample_of, seconds_ago
from dry_gauge.probes.simulated import COMFORT_PROBES, Hub, Scene, frames

FACTS = UnitFacts(Kind.SPLIT_AC, find("R-410A"))


def line(n, **more):
    return {"n": n, "t": float(n), "probe": "P1", "quantity": "suction_pressure", "value": 120.0, "unit": "psig", **more}


def sent(*lines, after=0):
    return read_lines("\n".join(item if isinstance(item, str) else json.dumps(item) for item in lines).encode(), after, FACTS)


@given(st.integers(1, 40), st.randoms(use_true_random=False))
def test_any_order_with_any_repeats_counts_each_sample_once(count, chance):
    lines = [line(n) for n in range(1, count + 1)]
    lines += [chance.choice(lines) for _ in range(10)]
    chance.shuffle(lines)
    batch = sent(*lines)
    assert batch.acknowledged == count
    assert [one.n for one in batch.samples] == list(range(1, count + 1))
    assert not batch.gap


def test_a_gap_stops_there_and_is_filled_by_sending_again():
    batch = sent(line(1), line(2), line(4))
    assert (batch.acknowledged, batch.gap) == (2, True)
    again = sent(line(3), line(4), line(2), after=2)
    assert (again.acknowledged, again.repeated, [one.n for one in again.samples]) == (4, 1, [3, 4])


def test_what_the_hub_lost_is_skipped_because_it_says_so():
    batch = sent({"n": 57, "lost_through": 57}, line(58), after=12)
    assert (batch.acknowledged, len(batch.samples)) == (58, 1)


@pytest.mark.parametrize(
    "garbage",
    [
        "not json",
        '{"n": "1"}',
        "[1, 2]",
        '{"n": 0}',
        '{"n": 1e400}',
        '{"n": 2, "value": NaN}',
        "\x00\xff",
        '{"n": -3}',
        '{"n": 1, "color": "red"}',
        "[" * 5000,
    ],
)
def test_garbage_is_named_and_holds_nothing_up(garbage):
    batch = sent(garbage, line(1), line(2), line(3))
    assert batch.acknowledged >= 1
    assert batch.refused[0]["line"] == 1


@pytest.mark.parametrize(
    "wrong",
    [
        {"quantity": "moon_phase"},
        {"unit": "F"},
        {"value": 1e9},
        {"quantity": SCALE, "unit": "psig"},
        {"quantity": SCALE, "unit": "kg", "value": 5e6},
    ],
)
def test_a_sample_that_makes_no_sense_is_refused_and_counted_else_it_would_come_for_ever(wrong):
    batch = sent(line(1), line(2, **wrong), line(3))
    assert batch.acknowledged == 3
    assert [one.n for one in batch.samples] == [1, 3]
    assert batch.refused[0]["n"] == 2


def test_out_of_range_and_silent_probes_say_so_without_a_number():
    batch = sent(line(1, state="out_of_range"), line(2, state="weak", battery=0.1), line(3, state="hungry", value=None))
    assert [one.state for one in batch.samples] == [ProbeState.OUT_OF_RANGE, ProbeState.WEAK, ProbeState.OFF]
    assert [one.value_si is None for one in batch.samples] == [True, False, True]


@pytest.mark.parametrize("wrong", [{"n": 2**63}, {"probe": "a\0b"}, {"t": 1e300}, {"lost_through": 2**80}, {"n": -(2**70)}])
def test_what_no_table_holds_is_refused_and_named_and_the_rest_goes_on(wrong):
    batch = sent(line(1) | wrong, line(2), after=1 if "n" in wrong else 0)
    assert len(batch.refused) == 1
    assert batch.acknowledged == 2


def test_a_clock_that_is_set_within_a_batch_moves_nothing_into_another_year():
    clocks = [100.0, 101.0, 1.7e9, 1.7e9 + 1, 5.0, 6.0]
    listed = [sample_of(Line.model_validate(line(n) | {"t": t}), FACTS) for n, t in enumerate(clocks, 1)]
    assert seconds_ago(listed) == [3.0, 2.0, 2.0, 1.0, 1.0, 0.0]


def test_a_wrong_clock_still_places_samples_by_their_distance():
    batch = sent(*(line(n, t=4e9 + n) for n in (1, 2, 5 - 2)))
    assert seconds_ago(batch.samples) == [2.0, 1.0, 0.0]


def test_simulated_probes_settle_to_the_bench_and_repeat_by_seed():
    scene = Scene(FACTS, minutes_running=30)
    first, again = next(frames(scene, 3)), next(frames(scene, 3))
    assert first == again
    names = {one["quantity"] for one in first}
    assert names == {*COMFORT_PROBES, SCALE}
    metered = next(frames(Scene(FACTS, minutes_running=30, meter=Meter(3)), 3))
    assert {one["quantity"] for one in metered} == {*COMFORT_PROBES, SCALE, *METER}
    assert len({one["probe"] for one in metered}) == len(metered)  # the latest of each is kept by its name
    assert not sent(*({"n": i} | one for i, one in enumerate(metered, 1))).refused
    settled = {one["quantity"]: one["value"] for one in first}
    starting = {one["quantity"]: one["value"] for one in next(frames(Scene(FACTS), 3))}
    assert starting["suction_pressure"] > settled["suction_pressure"]
    assert starting["liquid_pressure"] < settled["liquid_pressure"]


class HubOfOneServer(Hub):
    """A hub whose server was away and now takes what it is given."""

    def _ask(self, method, path, body):
        if self.away:
            raise OSError("no route")
        return {"acknowledged": read_lines(body, self.acknowledged, FACTS).acknowledged}


def test_a_hub_that_overflows_says_what_it_lost_and_goes_on(monkeypatch):
    monkeypatch.setattr("dry_gauge.probes.simulated._MOST_KEPT", 30)
    hub = HubOfOneServer("http://nowhere", "v", "t")
    hub.away = True
    sample = {key: value for key, value in line(1).items() if key != "n"}
    for _ in range(5):
        hub.add([dict(sample) for _ in range(10)])
        assert not hub.send()
    assert (len(hub.kept), hub.lost_through) == (30, 20)
    hub.away = False
    assert hub.send()
    assert (hub.acknowledged, len(hub.kept)) == (50, 0)
