"""Whether liquid comes back to the compressor: when that is a stop, when it is only asked about.

A valve that holds no superheat floods; an orifice may read little on a hot dry day, an accumulator or an inverter nothing at
all, and a frosted suction line in a freezer says nothing by itself. So the line depends on what feeds the coil.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from dry_gauge.core.circuit import Derived
from dry_gauge.core.quantities import FAHRENHEIT_K, Measured
from dry_gauge.core.refrigerants.compression import discharge_superheat_k
from dry_gauge.core.sheet import CircuitView
from dry_gauge.core.target import Target
from dry_gauge.core.vocabulary import Kind
from dry_gauge.core.words import Phrase

# Superheat below which liquid comes back, and below which it is asked about (docs/rules.md, R26). [K]
_STOP_K = 3 * FAHRENHEIT_K
_ASK_K = 5 * FAHRENHEIT_K
_STOP_COIL_K = {Kind.WALK_IN_COOLER: 3 * FAHRENHEIT_K, Kind.WALK_IN_FREEZER: 2 * FAHRENHEIT_K}
_ASK_COIL_K = {Kind.WALK_IN_COOLER: 4 * FAHRENHEIT_K, Kind.WALK_IN_FREEZER: 3 * FAHRENHEIT_K}
LEAST_INLET_K = 10 * FAHRENHEIT_K
_NO_READING_K = 5 * FAHRENHEIT_K  # colder than bubble by more than that is a clamp or another refrigerant, not wet gas
_SWINGS = 4  # readings of a hunting line from which its mean can be had


@dataclass(frozen=True, slots=True)
class Flooding:
    """What points to liquid coming back: whether it is a stop, in words, and the readings it rests on."""

    stop: bool
    phrase: Phrase
    readings: tuple[str, ...]


def find_flooding(view: CircuitView, derived: Mapping[str, Derived], targets: Mapping[str, Target]) -> Flooding | None:
    """What the readings say of liquid at the compressor; None where nothing does.

    References
    ----------
    .. [1] docs/rules.md, R7 and R26.
    """
    if "suction_saturation" not in derived or _is_no_reading(view, derived):
        return None
    inlet = derived.get("inlet_superheat")
    wet_inlet = inlet is not None and abs(inlet.value) <= inlet.uncertainty
    if wet_inlet and inlet is not None and (view.unit.heating or view.unit.modulates):
        return _said(True, "Superheat at the compressor", inlet.measured)
    found = _walk_in(view, derived, inlet) if view.unit.kind.is_walk_in else _comfort(view, derived, targets)
    if found and found.stop:
        return found
    hot = _wet_discharge(view, derived)
    if hot is None:
        return found
    if wet_inlet and inlet is not None:
        return _said(True, "Superheat at the compressor", inlet.measured)
    return found or hot


def _is_no_reading(view: CircuitView, derived: Mapping[str, Derived]) -> bool:
    """Whether the suction line reads colder than this refrigerant can be."""
    gap = derived.get("superheat")
    if gap is None:
        return False
    glide_k = derived["suction_saturation"].value - derived["suction_bubble"].value
    return gap.value + gap.uncertainty < -glide_k - _NO_READING_K


def _said(stop: bool, what: str, gap: Measured) -> Flooding:
    numbers = {"gap": ("difference", gap.value)}
    if stop:
        words = f"{what} is {{gap}}: liquid reaches the compressor. Off now; find out why it floods before it runs again."
    else:
        words = f"{what} is only {{gap}}: close to flooding. Clamp tight and insulated, then read it again."
    return Flooding(stop, Phrase(words, numbers), gap.sources)


def _comfort(view: CircuitView, derived: Mapping[str, Derived], targets: Mapping[str, Target]) -> Flooding | None:
    gap = derived.get("superheat")
    if gap is None or view.unit.heating or view.unit.modulates:
        return None
    measured = gap.measured
    fixed = view.unit.metering is not None and view.unit.metering.is_fixed
    below = measured.value + measured.uncertainty < _STOP_K
    if view.seen("superheat_hunting") and below:
        mean = _mean_superheat(view)
        if mean is None:
            return _said(False, "Superheat, hunting,", measured)
        measured = Measured(mean, measured.parts)
        below = mean + measured.uncertainty < _STOP_K
    if fixed:
        target = targets.get("superheat")
        if target is not None and measured.value >= target.low_k:
            return None
        return _said(target is not None, "Superheat", measured) if below else None
    if below:
        return _said(True, "Superheat", measured)
    return _said(False, "Superheat", measured) if measured.value < _ASK_K else None


def _mean_superheat(view: CircuitView) -> float | None:
    """Superheat of a hunting line over all its readings; None for too few to hold two swings. [K]"""
    lines, pressures = (view.history.get(name, ()) for name in ("suction_line_temp", "suction_pressure"))
    if len(lines) < _SWINGS or len(pressures) < _SWINGS:
        return None
    line_k, pressure_pa = (sum(one.value_si for one in listed) / len(listed) for listed in (lines, pressures))
    return line_k - view.unit.saturation.dew_temperature_k(pressure_pa)


def _walk_in(view: CircuitView, derived: Mapping[str, Derived], inlet: Derived | None) -> Flooding | None:
    kind, coil = view.unit.kind, derived.get("coil_superheat")
    if coil and coil.value + coil.uncertainty < _STOP_COIL_K[kind]:
        return _said(True, "Coil superheat", coil.measured)
    low_coil = coil is not None and coil.value < _COIL_BAND_K[kind]
    if inlet and inlet.value < LEAST_INLET_K:
        return _said(low_coil, "Superheat at the compressor", inlet.measured)
    if coil and coil.value < _ASK_COIL_K[kind]:
        return _said(False, "Coil superheat", coil.measured)
    line = derived.get("superheat")
    if inlet is None and coil is None and line and line.value + line.uncertainty < _STOP_K:
        return _said(True, "Superheat", line.measured)
    return None


# Low ends of the coil's target (docs/rules.md, R11). [K]
_COIL_BAND_K = {Kind.WALK_IN_COOLER: 6 * FAHRENHEIT_K, Kind.WALK_IN_FREEZER: 4 * FAHRENHEIT_K}


def _wet_discharge(view: CircuitView, derived: Mapping[str, Derived]) -> Flooding | None:
    """Discharge gas no hotter than compression of gas without any superheat would give."""
    hot, suction = derived.get("discharge_superheat"), view.in_table("suction_pressure")
    discharge = view.in_table("discharge_pressure", "liquid_pressure")
    if not (hot and suction and discharge) or discharge.value <= suction.value:
        return None
    wet_k = discharge_superheat_k(view.unit.refrigerant, suction.value, discharge.value)
    if hot.value + hot.uncertainty > wet_k:
        return None
    numbers = {"gap": ("difference", hot.value), "wet": ("difference", wet_k)}
    words = "Discharge superheat is {gap}, and wet suction gas gives {wet} here. Read the suction pipe at the compressor."
    return Flooding(False, Phrase(words, numbers), hot.measured.sources)
