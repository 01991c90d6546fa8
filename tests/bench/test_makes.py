"""Makes differ as those of the field do; each fold has never seen some, and judges where it is asked for."""

from __future__ import annotations

import subprocess
import sys
from dataclasses import replace

import numpy as np
import pytest

from dry_gauge.bench import field
from dry_gauge.bench.instruments import true_readings
from dry_gauge.bench.machine import Machine
from dry_gauge.bench.makes import FOLDS, MAKES, Makes, held_out, kept
from dry_gauge.bench.plant import Faults, Habits, Nameplate, Weather
from dry_gauge.bench.solve import solve
from dry_gauge.core.quantities import FAHRENHEIT_K, to_kelvin
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.refrigerants.saturation import saturation_of
from dry_gauge.core.vocabulary import Kind, Mode


def test_every_make_is_held_out_once_with_every_kind_of_compressor():
    seen = [make for fold in range(FOLDS) for make in held_out(fold)]
    assert sorted(seen) == list(range(MAKES))
    for fold in range(FOLDS):
        assert set(kept(fold)) | set(held_out(fold)) == set(range(MAKES))
        assert not set(kept(fold)) & set(held_out(fold))
        assert {make % 3 for make in held_out(fold)} == {0, 1, 2}


def shown(makes, faults=None):
    n = len(makes.clearance) if makes else 1
    machine = Machine([Nameplate(Kind.SPLIT_AC, find("R-410A"))] * n, Habits.textbook(n), makes)
    weather = Weather.of(*([to_kelvin(t)] * n for t in (88.0, 76.0, 64.0)))
    faults = faults or Faults.none(n)
    solution = solve(machine, weather, faults)
    assert solution.solved.all()
    return true_readings(machine, weather, faults, solution)


def test_without_a_make_a_unit_is_the_textbook_s():
    plain, textbook, another = shown(None), shown(Makes.textbook(1)), shown(Makes.of([1]))
    assert plain["discharge_line_temp"] == pytest.approx(textbook["discharge_line_temp"])
    assert abs(another["discharge_line_temp"] - plain["discharge_line_temp"])[0] > 0.5


def test_sound_units_of_other_makes_stand_apart_as_those_of_the_field_do():
    chance = np.random.default_rng(9)
    drawn = field.draw(90, chance, field.Style(told=1.0, makes=kept(None)), (Kind.SPLIT_AC,), (Mode.COOLING,), fixed=False)
    machine = drawn.built()
    solution = solve(machine, drawn.weather, Faults.none(90))
    read = true_readings(machine, drawn.weather, Faults.none(90), solution)
    apart = [
        saturation_of(plate.refrigerant).bubble_temperature_k(float(read["liquid_pressure"][i]))
        - read["liquid_line_temp"][i]
        - (fact.target_subcooling_k or np.nan)
        for i, (plate, fact) in enumerate(zip(drawn.nameplates, drawn.facts, strict=True))
        if solution.solved[i]
    ]
    assert 1.5 < np.nanstd(apart) / FAHRENHEIT_K < 5.0


def test_a_unit_with_a_label_was_charged_to_it_and_another_stays_as_it_is():
    chance = np.random.default_rng(10)
    drawn = field.draw(120, chance, field.Style(makes=kept(None)), (Kind.SPLIT_AC,), (Mode.COOLING,), fixed=False)
    ordinary = replace(
        drawn.weather,
        **{name: np.full(120, to_kelvin(f)) for name, f in (("outdoor_k", 86), ("return_k", 76), ("return_wet_bulb_k", 65))},
    )
    machine = drawn.built()
    read = true_readings(machine, ordinary, Faults.none(120), solve(machine, ordinary, Faults.none(120)))
    missed = (
        np.array(
            [
                saturation_of(plate.refrigerant).bubble_temperature_k(float(read["liquid_pressure"][i]))
                - read["liquid_line_temp"][i]
                - label.design_subcooling_k
                for i, (plate, label) in enumerate(zip(drawn.nameplates, drawn.models, strict=True))
            ]
        )
        / FAHRENHEIT_K
    )
    assert abs(missed.mean()) < 1.0
    assert np.mean(abs(missed) < 4.0) > 0.9
    box = field.draw(20, chance, field.Style(makes=kept(None)), (Kind.WALK_IN_COOLER,))
    assert box.nameplates == box.models


def test_makes_disagree_about_what_a_leaking_compressor_does_to_its_amps():
    makes = Makes.of(range(MAKES))
    sick, well = shown(makes, Faults.of(MAKES, inefficient_compressor=0.5)), shown(makes)
    lost = 1 - sick["compressor_amps"] / well["compressor_amps"]
    assert lost.min() < 0.08
    assert lost.max() > 0.18


def test_a_fold_judges_where_it_is_asked_for_and_only_before_anything_else():
    code = (
        "from scripts.fold import use; use(1);"
        "from dry_gauge.core.judgement.assess import CALIBRATION_ID; print(CALIBRATION_ID);"
        "\ntry: use(0)\nexcept RuntimeError as error: print(error)"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=60, check=True)
    first, second = done.stdout.splitlines()
    from dry_gauge.core.judgement.assess import CALIBRATION_ID

    assert first != CALIBRATION_ID
    assert "loaded already" in second
