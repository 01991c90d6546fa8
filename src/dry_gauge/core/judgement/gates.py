"""What has to be true before a verdict is earned, and what would release each gate that holds."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from dry_gauge.core.quantities import FAHRENHEIT_K
from dry_gauge.core.settling import FRESH_SIGHTS, SETTLED_AFTER_CHANGE_MINUTES, clock_wait
from dry_gauge.core.sheet import CircuitView
from dry_gauge.core.vocabulary import AIR_FAULT_SIGHTS, ICE_SIGHTS, QUANTITIES, SIGHTS
from dry_gauge.core.words import Phrase

BOX_NEAR_DESIGN_K = 10 * FAHRENHEIT_K


GATE_WORDS = {
    "ice_on_coil": "Ice",
    "air_unproven": "Air",
    "unit_not_as_called": "As called",
    "not_settled": "Settled",
    "too_few_readings": "Readings",
    "implausible": "Plausible",
    "box_not_near_design": "Box",
}


@dataclass(frozen=True, slots=True)
class Gate:
    """One gate: whether it holds, what releases it, and which names of the contract would answer it."""

    name: str
    holding: bool
    released_by: Phrase
    asks: tuple[str, ...] = ()


def find_gates(view: CircuitView, oddity_codes: Iterable[str]) -> list[Gate]:
    """All gates in their order; the last only for walk-ins.

    References
    ----------
    .. [1] docs/rules.md, R15; exact conditions: contract of the assessment.
    """
    gates = [_ice(view), _air(view), _as_called(view), _settled(view), _enough(view), _plausible(oddity_codes)]
    if view.unit.kind.is_walk_in:
        gates.append(_box(view))
    return gates


def _labels(names: Iterable[str]) -> str:
    return ", ".join(SIGHTS[name].label.lower() for name in names)


def _ice(view: CircuitView) -> Gate:
    holding = any(view.seen(name) for name in ICE_SIGHTS)
    words = (
        "Thaw the coil fully, note the pattern first, then read 20 minutes after the restart."
        if holding
        else "No ice on the evaporator."
    )
    return Gate("ice_on_coil", holding, Phrase(words), ICE_SIGHTS)


def _air(view: CircuitView) -> Gate:
    faults = [name for name in AIR_FAULT_SIGHTS if view.seen(name)]
    unproven = [name for name in ("evaporator_air_proven", "condenser_air_proven") if not view.seen(name)]
    if faults and not unproven:
        words = f"Air is marked proven, yet: {_labels(faults)}. Which is it?"
    elif faults:
        words = f"Mend it first: {_labels(faults)}. Then prove the air on both coils."
    elif unproven:
        which = {2: "both coils", 1: "the evaporator" if unproven[0].startswith("evap") else "the condenser"}
        words = (
            f"Prove the air on {which[len(unproven)]}: filter, coil faces, fans and their direction, panels, dampers."
        )
    else:
        words = "Air proven on both coils."
    return Gate("air_unproven", bool(faults or unproven), Phrase(words), tuple(faults or unproven))


def _as_called(view: CircuitView) -> Gate:
    wrong = [name for name in ("call_present", "stage_held") if view.denied(name)]
    wrong += [name for name in ("defrost_active", "jumper_fitted", "panel_off", "coil_wet") if view.seen(name)]
    if wrong:
        names = ", ".join(f"no {SIGHTS[n].label.lower()}" if view.denied(n) else SIGHTS[n].label.lower() for n in wrong)
        words = f"Put right, then read again: {names}."
    else:
        words = "Nothing seen that keeps the unit from running as called."
    return Gate("unit_not_as_called", bool(wrong), Phrase(words), tuple(wrong))


def _settled(view: CircuitView) -> Gate:
    running, since_change = view.sheet.minutes_running, view.sheet.minutes_since_change
    if running is None:
        return Gate("not_settled", True, Phrase("Say how many minutes the unit has been running."), ("minutes_running",))
    left = clock_wait(running, since_change, fresh=any(view.seen(name) for name in FRESH_SIGHTS))
    if left is None:
        return Gate("not_settled", False, Phrase(f"{running:.0f} min running."))
    after_change = left[1] == SETTLED_AFTER_CHANGE_MINUTES
    of = f"{left[1]} after each change" if after_change else f"{left[1]} from start"
    asks = ("minutes_since_change",) if after_change else ("minutes_running",)
    return Gate("not_settled", True, Phrase(f"About {left[0]:.0f} min more: {of}."), asks)


def missing_readings(view: CircuitView) -> tuple[str, ...]:
    """Quantities still wanted before anything may be judged, by the name that would be read first."""
    entering = "outdoor_air_temp" if view.unit.heating else "return_air_temp"
    if view.unit.kind.is_walk_in:
        entering = "box_air_temp"
    wanted = {
        "suction_pressure": view.get("suction_pressure"),
        "suction_line_temp": view.get("suction_line_temp", "coil_outlet_temp", "compressor_suction_temp"),
        "liquid_pressure": view.high_pressure,
        "liquid_line_temp": view.get("liquid_line_temp"),
        "outdoor_air_temp": view.get("outdoor_air_temp"),
        entering: view.entering_evaporator_air,
    }
    return tuple(name for name, read in wanted.items() if read is None)


def _enough(view: CircuitView) -> Gate:
    missing = missing_readings(view)
    words = (
        "Still to read: " + ", ".join(_reading_label(name) for name in missing) + "."
        if missing
        else "All that a verdict needs was read."
    )
    return Gate("too_few_readings", bool(missing), Phrase(words), missing)


def _reading_label(name: str) -> str:
    quantity = QUANTITIES[name]
    return f"{quantity.label.lower()}{' pressure' if quantity.dimension == 'pressure' else ''}"


def _plausible(oddity_codes: Iterable[str]) -> Gate:
    holding = any(code != "discharge_port_used" for code in oddity_codes)
    words = "Clear up what looks odd, above, and read it again." if holding else "The readings fit together."
    return Gate("implausible", holding, Phrase(words))


def _box(view: CircuitView) -> Gate:
    box, target_k = view.get("box_air_temp", "return_air_temp"), view.unit.box_target_k
    holding = box is not None and box.value > target_k + BOX_NEAR_DESIGN_K
    numbers = {"limit": ("temperature", target_k + BOX_NEAR_DESIGN_K)}
    words = "Judge charge once the box is below {limit}." if holding else "The box is within 10 °F of its design."
    if box is None:
        words = "Box air not read."
    return Gate("box_not_near_design", holding, Phrase(words, numbers), ("box_air_temp",) if holding else ())
