"""What the bench taught: for each sort of unit, what is healthy today and how each hypothesis moves it.

The numbers are written by `scripts/calibrate.py` into `calibration_data`; nothing here was fitted by hand.
"""

from __future__ import annotations

import zlib
from base64 import b85decode
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.judgement import calibration_data, calibration_low_stage
from dry_gauge.core.judgement.calibration_data import GROUPS, Packed
from dry_gauge.core.judgement.features import CONDITIONS, FEATURES
from dry_gauge.core.judgement.hypotheses import hypotheses_digest
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import Kind

CALIBRATION_ID = f"{calibration_data.CALIBRATION_ID}-{calibration_low_stage.CALIBRATION_ID}"
_LOW = "_low"

Array = NDArray[np.float64]


class CalibrationMismatch(RuntimeError):
    """The calibration was made for other features, conditions or hypotheses: nothing may be judged by it."""


def check_names(features: Sequence[str], conditions: Sequence[str], digest: str) -> None:
    """Refuse arrays whose rows and columns stand for something else: swapped names would pass for a sick unit.

    Raises
    ------
    CalibrationMismatch
    """
    for what, theirs, ours in (
        ("features", tuple(features), FEATURES),
        ("conditions", tuple(conditions), CONDITIONS),
        ("hypotheses", digest, hypotheses_digest()),
    ):
        if theirs != ours:
            raise CalibrationMismatch(
                f"The calibration's {what} are {theirs}, the judgement's {ours}. Run scripts/calibrate.py and `make accuracy`."
            )


for _data in (calibration_data, calibration_low_stage):
    check_names(_data.FEATURE_NAMES, _data.CONDITION_NAMES, _data.HYPOTHESES_DIGEST)


@dataclass(frozen=True, slots=True)
class Group:
    """One sort of unit.

    Parameters
    ----------
    expectation : ndarray, shape (features, conditions)
        Healthy features are ``expectation @ conditions``.
    unit_spread : ndarray, shape (features, features)
        Covariance of healthy units about that.
    shifts : ndarray, shape (hypotheses, features)
        How far each hypothesis moves each feature, on average.
    spreads : ndarray, shape (hypotheses, features)
        By how much that differs from unit to unit in each feature by itself, one sigma.
    fillings : ndarray, shape (3, features)
        Shift on another filling as a parabola in `features.vapour_step`.
    directions : ndarray, shape (directions, hypotheses, features)
        By how much features differ together, one sigma each: from make to make, and with sizes between those of the row.
    keeps : ndarray, shape (hypotheses, features)
        What share of a unit's own departure from the usual is left: none where a fault ends at a floor.
    usual : ndarray, shape (features,)
        What sound units show on average: `shifts` hold for a unit that shows this.
    leans : ndarray, shape (mechanisms, features, conditions)
        ``leans @ conditions`` is what a fault at full size moves each feature more than on average in these conditions.
    uneven : ndarray, shape (features, conditions)
        ``exp(uneven @ conditions)`` times `unit_spread`'s sigma is how far sound units differ in these conditions.
    """

    expectation: Array
    unit_spread: Array
    shifts: Array
    spreads: Array
    fillings: Array
    directions: Array
    keeps: Array
    usual: Array
    leans: Array
    uneven: Array


def group_names(unit: UnitFacts, *, low_stage: bool = False) -> tuple[str, ...]:
    """The sorts of unit this may be, comfort units also in their lower stage: two where the metering device is not known."""
    if low_stage and not unit.kind.is_walk_in:
        return tuple(f"{name}{_LOW}" for name in group_names(unit))
    if unit.kind.is_walk_in:
        valve = "freezer" if unit.kind is Kind.WALK_IN_FREEZER else "cooler"
        fixed = "box_fixed"
    else:
        mode = "heating" if unit.heating else "comfort"
        valve, fixed = f"{mode}_valve", f"{mode}_fixed"
    if unit.metering is None:
        # A walk-in hardly ever has a fixed orifice.
        return (valve,) if unit.kind.is_walk_in else (valve, fixed)
    return (fixed,) if unit.metering.is_fixed else (valve,)


def _unpacked(arrays: Mapping[str, Packed]) -> dict[str, Array]:
    return {
        name: np.frombuffer(zlib.decompress(b85decode(text)), dtype="<f2").astype(np.float64).reshape(shape)
        for name, (shape, text) in arrays.items()
    }


@cache
def group_of(name: str) -> Group:
    """The calibration of one sort of unit.

    In its lower stage a sound one shows something else, and sound ones differ more; what a fault moves is taken to be the same
    (docs/rules.md, R76).
    """
    if name.endswith(_LOW):
        sort = name.removesuffix(_LOW)
        return replace(group_of(sort), **_unpacked(calibration_low_stage.GROUPS[sort]))
    return Group(**_unpacked(GROUPS[name]))
