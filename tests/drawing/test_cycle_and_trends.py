"""The cycle on pressure over enthalpy, and the curves of each fault: what they say has to be what was judged."""

from __future__ import annotations

import re

import pytest

from dry_gauge.core.judgement.evidence import GAP_LABELS
from dry_gauge.core.vocabulary import Fault
from dry_gauge.core.words import Reader
from dry_gauge.drawing.ph import cycles, missing, ph_svg
from dry_gauge.drawing.trend import SHOWN, curves, trend_svg
from tests.builders import HEALTHY, TXV, judged, sheet


def circuit(**changed):
    return judged(sheet(TXV, **HEALTHY | changed)).first


def test_the_corners_follow_the_flow():
    suction, discharge, liquid, inlet = cycles(circuit(discharge_line_temp=170.0))[0]
    assert suction.pressure_pa == inlet.pressure_pa < discharge.pressure_pa
    assert inlet.enthalpy == liquid.enthalpy < suction.enthalpy < discharge.enthalpy
    # R-410A, 52 F at 120 psig: 427 kJ/kg from 200 at 0 C; a degree of superheat is about 0.6.
    assert suction.enthalpy / 1e3 == pytest.approx(430, abs=5)


def test_a_healthy_cycle_lies_on_the_one_that_fits():
    measured, fits = cycles(circuit(discharge_line_temp=168.0))
    for one, other in zip(measured, fits, strict=True):
        assert one.pressure_pa == pytest.approx(other.pressure_pa, rel=0.06)
        assert one.enthalpy == pytest.approx(other.enthalpy, abs=12e3)


def test_more_superheat_moves_the_suction_corner_only_to_the_right():
    usual, starved = (cycles(circuit(suction_line_temp=line))[0][0] for line in (52.0, 75.0))
    assert starved.enthalpy > usual.enthalpy + 10e3
    assert starved.pressure_pa == usual.pressure_pa


@pytest.mark.parametrize("name", ["suction_pressure", "suction_line_temp", "liquid_pressure", "liquid_line_temp"])
def test_what_is_missing_is_named_and_no_cycle_invented(name):
    values = {key: value for key, value in HEALTHY.items() if key != name}
    found = judged(sheet(TXV, **values)).first
    assert len(missing(found)) == 1
    drawn = ph_svg(found, Reader())
    assert 'class="cycle"' not in drawn
    assert missing(found)[0] in drawn


def test_without_the_air_there_is_nothing_to_compare_with():
    values = {key: value for key, value in HEALTHY.items() if key != "outdoor_air_temp"}
    measured, fits = cycles(judged(sheet(TXV, **values)).first)
    assert len(measured) == 4
    assert fits == []


@pytest.mark.parametrize(
    ("reader", "units"),
    [(Reader(), ("Btu/lb", "psia")), (Reader("C", "bar"), ("kJ/kg", "bar abs")), (Reader("C", "kPa"), ("kJ/kg", "kPa abs"))],
)
def test_the_cycle_is_read_in_the_readers_units(reader, units):
    drawn = ph_svg(circuit(), reader)
    assert all(unit in drawn for unit in units)
    assert "discharge estimated" in drawn


@pytest.mark.parametrize("refrigerant", ["R-454C", "R-290", "R-744", "R-717"])
def test_any_refrigerant_has_a_dome(refrigerant):
    found = judged(sheet({"refrigerant": refrigerant})).first
    assert 'class="dome"' in ph_svg(found, Reader())


@pytest.mark.parametrize("group", ["comfort_valve", "heating_fixed", "cooler"])
def test_curves_start_at_nothing_and_walk_ins_have_no_split(group):
    found = curves(Fault.UNDERCHARGE, group)
    assert all(trend.points[0] == (0.0, 0.0, 0.0) for trend in found.values())
    assert set(found) == set(SHOWN) - ({"air_split"} if group == "cooler" else set())
    assert found["subcooling"].points[-1][1] < -1.5
    assert found["subcooling"].habit[-1][1] < -1.5  # both teachers agree on what goes first


def test_a_trend_says_its_size_in_the_readers_units():
    trend = curves(Fault.LOW_CONDENSER_AIRFLOW, "comfort_valve")["condenser_split"]
    in_f, in_c = (trend_svg("condenser_split", trend, reader, 15.0, "t") for reader in (Reader(), Reader("C")))
    sizes = [float(re.search(r"([+−][\d.]+) °[FC]</text>", drawn)[1].replace("−", "-")) for drawn in (in_f, in_c)]
    assert sizes[0] == pytest.approx(1.8 * sizes[1], abs=1.5)
    assert GAP_LABELS["condenser_split"] in in_f
