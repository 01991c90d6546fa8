"""A unit is called healthy only where every fault that matters is excluded; what rests on one kind of evidence is 'likely'."""

from __future__ import annotations

from dry_gauge.core.judgement.assess import CALLED_FROM
from dry_gauge.core.judgement.remedies import SURE_FROM
from dry_gauge.core.vocabulary import Fault
from dry_gauge.core.words import Reader
from dry_gauge.present.headline import headline
from tests.builders import AIR_PROVEN, HEALTHY, ORIFICE, STARVED, TXV, answer, judged, sheet

# What gauges and clamps give alone: no supply air, no wet bulb, no discharge line.
FEW = {
    name: value
    for name, value in HEALTHY.items()
    if name not in ("supply_air_temp", "return_air_wet_bulb", "discharge_line_temp")
}


def test_a_whole_sheet_excludes_what_matters_and_says_how_surely():
    found = answer(sheet(TXV, AIR_PROVEN, **HEALTHY))
    assert found["verdict"] == "healthy"
    excluded = {one["fault"]: one for one in found["excluded"]}
    assert {"undercharge", "low_evaporator_airflow", "inefficient_compressor"} <= set(excluded)
    assert all(one["probability"] >= 0.9 and one["at_most"] == "slight" for one in excluded.values())


def test_nothing_wrong_that_leaves_a_fault_open_is_not_called_healthy():
    # From sound to sick by subcooling: somewhere on the way nothing stands out, and yet a fault that matters may be there.
    for line_f in range(100, 88, -1):
        found = judged(sheet(ORIFICE, AIR_PROVEN, **FEW | {"liquid_line_temp": float(line_f)})).first
        open_still = found.still_open
        stands_out = found.causes[0].fault is Fault.NONE and found.causes[0].probability >= CALLED_FROM
        if stands_out and open_still and found.verdict == "not_enough" and not found.missed:
            assert "Not excluded" in headline(found, Reader()).detail
            return
        assert not (found.verdict == "healthy" and open_still)
    raise AssertionError("No sheet on the way from sound to sick was left open.")


def test_pressures_alone_make_a_fault_likely_and_a_sight_makes_it_sure():
    gauges = {name: value for name, value in STARVED.items() if name != "supply_air_temp"}
    alone = judged(sheet(TXV, AIR_PROVEN, **gauges)).first
    assert alone.verdict == "fault"
    words = headline(alone, Reader())
    assert alone.causes[0].rests_on_one_kind
    assert words.words.startswith("Likely ")
    assert "next check" in words.detail
    backed_up = gauges | {"liquid_line_temp": 96.0}
    seen = judged(sheet(TXV, AIR_PROVEN | {"frost_after_drier": "yes"}, **backed_up)).first
    assert not seen.causes[0].rests_on_one_kind
    assert not headline(seen, Reader()).words.startswith("Likely ")


def test_below_ninety_in_a_hundred_a_fault_is_likely_and_says_what_comes_first():
    named = set()
    for liquid in range(100, 112):
        found = judged(sheet(TXV, AIR_PROVEN, **HEALTHY | {"liquid_line_temp": float(liquid)})).first
        if found.verdict != "fault":
            continue
        words, sure = headline(found, Reader()), found.causes[0].probability >= SURE_FROM
        named.add(sure)
        assert sure or (words.words.startswith("Likely ") and "next check" in words.detail)
    assert False in named
