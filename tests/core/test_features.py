"""What the judgement looks at: features with shared errors counted once, conditions with their doubts, other fillings."""

from __future__ import annotations

import subprocess
import sys

import numpy as np
import pytest

from dry_gauge.core.circuit import derive
from dry_gauge.core.judgement.calibration import CalibrationMismatch, check_names
from dry_gauge.core.judgement.features import CONDITIONS, FEATURES, conditions, observe, refilled, vapour_step
from dry_gauge.core.judgement.hypotheses import OTHER_FILLINGS, hypotheses_digest
from dry_gauge.core.refrigerants.catalogue import find
from tests.builders import HEALTHY, TXV, judged, sheet


def view(unit=TXV, **values):
    return judged(sheet(unit, **values)).first.view


def seen(unit=TXV, **values):
    made = view(unit, **values)
    return observe(made, derive(made))


def feature(found, name):
    return dict(zip((FEATURES[i] for i in found.at), found.values, strict=True))[name]


def test_features_are_the_gaps_of_the_sheet():
    found = seen(**HEALTHY)
    assert [FEATURES[i] for i in found.at] == ["superheat", "subcooling", "evaporator_td", "condenser_split", "air_split"]
    assert feature(found, "subcooling") * 1.8 == pytest.approx(9.7, abs=0.1)


def test_one_instruments_error_moves_all_its_features_together():
    errors = seen(**HEALTHY).errors
    superheat, td = errors["suction_pressure"][[0, 2]]
    assert superheat < 0  # a gauge that reads high narrows both gaps to the coil
    assert td < 0
    assert set(errors) >= {"suction_pressure", "suction_line_temp", "outdoor_air_temp"}


@pytest.mark.parametrize(("line", "kept"), [(99.0, True), (110.0, True), (125.0, False)])
def test_liquid_above_saturation_is_impossible_and_no_evidence(line, kept):
    found = seen(**HEALTHY | {"liquid_line_temp": line})
    position = FEATURES.index("subcooling")
    assert (position in found.at) is kept
    assert [i for i, _, _ in found.impossible] == ([] if kept else [position])
    if kept:
        assert feature(found, "subcooling") >= 0


def test_amps_need_a_nameplate_and_absurd_ones_say_nothing():
    rated = TXV | {"rated_load_amps": 10.0}
    assert feature(seen(rated, **HEALTHY, compressor_amps=10.0), "amps") == 0.0
    for unit, amps in ((TXV, 10.0), (rated, 0.0), (rated, 4000.0)):
        assert FEATURES.index("amps") not in seen(unit, **HEALTHY, compressor_amps=amps).at


def test_what_is_not_known_stands_at_its_usual_value_with_its_doubt():
    known, blank = conditions(view(**HEALTHY)), conditions(view({"metering": "txv"}))
    assert known.doubts == {}
    named = {CONDITIONS[i] for i in blank.doubts}
    assert named == {"outdoor", "entering", "wet_bulb", "split_class", "label_subcooling"}
    assert blank.values[0] == 1
    assert np.isfinite(blank.values).all()


def test_a_reading_behind_a_condition_carries_its_error_into_it():
    slopes = conditions(view(**HEALTHY)).slopes
    assert slopes["outdoor_air_temp"][CONDITIONS.index("outdoor")] > 0
    assert slopes["return_air_wet_bulb"][CONDITIONS.index("wet_bulb")] > 0


def test_head_control_counts_in_the_cold_only():
    box = {"kind": "walk_in_cooler", "refrigerant": "R-448A", "metering": "txv", "head_pressure_control": "flooded"}
    cold, warm = (conditions(view(box, outdoor_air_temp=t)).values[CONDITIONS.index("head_held")] for t in (30.0, 90.0))
    assert cold > 1
    assert warm == 0


def test_another_filling_reads_the_same_gauges_differently():
    found = refilled(view(**HEALTHY), OTHER_FILLINGS)
    label, thin = OTHER_FILLINGS.index("R-410A"), OTHER_FILLINGS.index("R-134a")
    assert np.isnan(found[label]).all()
    assert found[thin, FEATURES.index("superheat")] * 1.8 < -40  # 120 psig is a far warmer coil of R-134a
    assert vapour_step(find("R-410A"), find("R-134a")) < -0.9 < 0.9 < vapour_step(find("R-134a"), find("R-410A"))


def test_a_calibration_for_other_names_is_refused():
    swapped = ["coil_superheat", "superheat", *FEATURES[2:]]
    with pytest.raises(CalibrationMismatch, match="coil_superheat"):
        check_names(swapped, CONDITIONS, hypotheses_digest())
    with pytest.raises(CalibrationMismatch, match="hypotheses"):
        check_names(FEATURES, CONDITIONS, "0" * 16)


def test_what_teaches_the_judgement_does_not_need_it_taught():
    """Else a row more in `FEATURE_ROWS` could never be calibrated."""
    code = "import sys, scripts.calibrate; sys.exit('dry_gauge.core.judgement.calibration' in sys.modules)"
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0
