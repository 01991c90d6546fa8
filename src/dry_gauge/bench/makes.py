"""Makes: what one maker builds otherwise than another, drawn for whole makes, not unit by unit.

Sound units of two makes differ by more than two units of one, and a fault moves them otherwise: one compressor loses amps when
it leaks, another only gets hot; one coil answers dirt with head, another with subcooling. A make is a set of structural choices
and of constants within what is met in the field, drawn once from its number; `FOLDS` of makes are held out from the
calibration when accuracy is measured. Ranges are habits of the trade unless a source is named.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields
from functools import cache

import numpy as np
from numpy.typing import NDArray

from dry_gauge.bench.plant import Rows

Array = NDArray[np.float64]

MAKES = 36
FOLDS = 3
_SEED = 7_000_000

# Per kind of compressor: lost volume per (ratio^(1/1.1) - 1); isentropic level, the ratio it is best at, loss per ratio off it;
# share of the power lost through the shell; of what leaks back in a worn one, the share that is compressed again; work that
# does not fall with the flow. Pistons lose by clearance, scrolls by leaking flanks and a fixed built-in ratio, rotaries sit in
# discharge gas and shed heat.
_COMPRESSORS = (
    {"clearance": (0.040, 0.070), "isentropic": (0.61, 0.70), "best_ratio": (3.2, 4.5), "off_ratio": (0.006, 0.014),
     "shell_loss": (0.04, 0.10), "recompressed": (0.10, 0.50), "idle_amps": (0.15, 0.35), "worn_loss": (0.40, 0.60)},
    {"clearance": (0.008, 0.022), "isentropic": (0.65, 0.74), "best_ratio": (2.4, 3.2), "off_ratio": (0.015, 0.035),
     "shell_loss": (0.03, 0.08), "recompressed": (0.30, 0.80), "idle_amps": (0.20, 0.45), "worn_loss": (0.35, 0.55)},
    {"clearance": (0.022, 0.040), "isentropic": (0.60, 0.69), "best_ratio": (2.6, 3.6), "off_ratio": (0.010, 0.022),
     "shell_loss": (0.10, 0.20), "recompressed": (0.20, 0.60), "idle_amps": (0.10, 0.30), "worn_loss": (0.35, 0.60)},
)  # fmt: skip
_RANGES = {
    # Condenser.
    "desuperheating": (0.45, 0.80),  # effectiveness where vapour cools
    "condenser_exponent": (0.40, 0.68),  # of its conductance in the air's share that is lost
    "condenser_fouling": (0.00, 0.35),  # of its surface, beside the air, when it is dirty all over
    "condenser_air": (0.75, 1.25),  # of what is usual per ton
    "liquid_area": (0.7, 1.5),  # of the usual share that holds liquid
    "liquid_exponent": (0.45, 0.85),
    "blanket": (0.05, 0.30),  # of the surface, by all the foreign gas
    # Evaporator.
    "bypass": (0.65, 1.5),  # of the usual
    "vapour_area": (0.08, 0.18),  # that only warms vapour
    "evaporator_exponent": (0.33, 0.60),
    "evaporator_air": (0.86, 1.10),
    "load_seen": (0.0, 1.0),  # share of a box's extra load that reaches the probe as warmer air
    # What they hold.
    "liquid_share": (0.13, 0.30),  # of a two-phase zone's volume: void fraction laws differ so
    "condenser_volume": (0.65, 1.45),
    "evaporator_volume": (0.65, 1.45),
    "receiver_volume": (0.75, 1.4),
    # Metering.
    "valve_reserve": (1.15, 1.75),
    "valve_span_k": (3.0, 8.0),
    "flash_chokes": (7.0, 20.0),  # an orifice fed with quality x passes 1/(1 + c x)
    "subcooled_flow": (0.003, 0.009),  # per K
    # Lines.
    "suction_gain": (0.25, 1.8),
    "suction_drop": (0.5, 2.0),
    "liquid_drop": (0.5, 3.5),
}
# By how much less air raises the static between the usual places: a filter or duct outside them, one on a blower that holds its
# flow, and a coil between them or a blower that is itself the fault.
_STATIC = (0.9, 0.9, 1.6, -0.35)
# How makers and installers choose, one sigma of makes; K.
_CHOICES = {
    "td_k": 1.4,
    "split_k": 1.6,
    "superheat_k": 0.9,
    "subcooling_k": 1.3,
    "heating_split_k": 2.2,
    "heating_subcooling_k": 2.0,
}


@dataclass(frozen=True, slots=True)
class Makes(Rows):
    """One make a unit; see the module's tables for what each number is."""

    clearance: Array
    isentropic: Array
    best_ratio: Array
    off_ratio: Array
    shell_loss: Array
    recompressed: Array
    idle_amps: Array
    worn_loss: Array
    desuperheating: Array
    condenser_exponent: Array
    condenser_fouling: Array
    condenser_air: Array
    liquid_area: Array
    liquid_exponent: Array
    blanket: Array
    bypass: Array
    vapour_area: Array
    evaporator_exponent: Array
    evaporator_air: Array
    load_seen: Array
    static: Array
    liquid_share: Array
    condenser_volume: Array
    evaporator_volume: Array
    receiver_volume: Array
    valve_reserve: Array
    valve_span_k: Array
    flash_chokes: Array
    subcooled_flow: Array
    suction_gain: Array
    suction_drop: Array
    liquid_drop: Array
    td_k: Array
    split_k: Array
    superheat_k: Array
    subcooling_k: Array
    heating_split_k: Array
    heating_subcooling_k: Array

    @classmethod
    def textbook(cls, n: int) -> Makes:
        """The make that the demo and the trends of the trade are drawn with, `n` times."""
        return cls(*(np.full(n, _TEXTBOOK.get(field.name, 1.0)) for field in fields(cls)))

    @classmethod
    def of(cls, numbers: Sequence[int]) -> Makes:
        """One make a unit, by number."""
        rows = [_make(number) for number in numbers]
        return cls(*(np.array([row[field.name] for row in rows]) for field in fields(cls)))


_TEXTBOOK = {
    "clearance": 0.045, "isentropic": 0.69, "best_ratio": 3.2, "off_ratio": 0.012, "shell_loss": 0.08, "recompressed": 0.30,
    "idle_amps": 0.0, "worn_loss": 0.50, "desuperheating": 0.62, "condenser_exponent": 0.55, "condenser_fouling": 0.15,
    "liquid_exponent": 0.7, "blanket": 0.18, "vapour_area": 0.12, "evaporator_exponent": 0.45, "load_seen": 0.0, "static": 0.9,
    "liquid_share": 0.20, "valve_reserve": 1.7, "valve_span_k": 5.0, "flash_chokes": 14.0, "subcooled_flow": 0.006,
    **dict.fromkeys(_CHOICES, 0.0),
}  # fmt: skip


@cache
def _make(number: int) -> dict[str, float]:
    chance = np.random.default_rng(_SEED + number)
    drawn = {"static": float(chance.choice(_STATIC))}
    ranges = _COMPRESSORS[number % len(_COMPRESSORS)] | _RANGES
    drawn |= {name: float(chance.uniform(low, high)) for name, (low, high) in ranges.items()}
    return drawn | {name: float(np.clip(chance.normal(), -2, 2)) * sigma for name, sigma in _CHOICES.items()}


def kept(fold: int | None) -> tuple[int, ...]:
    """The makes that a fold calibrates on; all of them for None."""
    return tuple(number for number in range(MAKES) if fold is None or _fold(number) != fold)


def held_out(fold: int) -> tuple[int, ...]:
    """The makes that a fold has never seen."""
    return tuple(number for number in range(MAKES) if _fold(number) == fold)


def _fold(number: int) -> int:
    return number // len(_COMPRESSORS) % FOLDS  # each fold has every kind of compressor
