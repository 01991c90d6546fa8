"""What has to be true before a verdict is earned, and what would release each gate that holds."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import chain
from math import ceil

from dry_gauge.core.circuit import Derived
from dry_gauge.core.judgement.features import BOX_NEAR_DESIGN_K
from dry_gauge.core.judgement.oddity import Oddity
from dry_gauge.core.judgement.settled import clocks_of, moving
from dry_gauge.core.quantities import to_kelvin
from dry_gauge.core.roles import coil_label, sight_label
from dry_gauge.core.settling import clock_wait
from dry_gauge.core.sheet import CircuitView, UnitFacts
from dry_gauge.core.vocabulary import AIR_FAULT_SIGHTS, ICE_SIGHTS, QUANTITIES, HeadPressureControl
from dry_gauge.core.words import Phrase

# Below these an uncontrolled condenser feeds its valve too little (docs/rules.md, R28).
LOW_AMBIENT_K, LOW_HEAD_K = to_kelvin(60), to_kelvin(80)


# What has to be true, as a person says it: a verdict waits for those that are not yet.
GATE_WORDS = {
    "ice_on_coil": "No ice",
    "air_unproven": "Air proven",
    "unit_not_as_called": "Runs as called",
    "not_settled": "Settled",
    "too_few_readings": "Enough read",
    "implausible": "Odd readings cleared",
    "box_not_near_design": "Box near design",
    "low_head": "Head high enough",
}


@dataclass(frozen=True, slots=True)
class Gate:
    """One gate: whether it holds, what releases it, and which names of the contract would answer it."""

    name: str
    holding: bool
    released_by: Phrase
    asks: tuple[str, ...] = ()


def find_gates(
    view: CircuitView,
    derived: Mapping[str, Derived],
    oddities: Sequence[Oddity],
    again: Mapping[str, str],
    fan_is_held: bool = False,
) -> list[Gate]:
    """All gates in their order; the box only for walk-ins, the low head only in cooling.

    Parameters
    ----------
    again : mapping of str to str
        What has to be read again first, and when it was read instead: `settled.outdated`.
    fan_is_held : bool
        Whether a condenser fan that stands still is stopped by its own control: no fault then.

    References
    ----------
    .. [1] docs/rules.md, R15; exact conditions: contract of the assessment.
    """
    codes = {oddity.code for oddity in oddities}
    gates = [
        _ice(view),
        _air(view, codes, fan_is_held),
        _as_called(view),
        _settled(view, again),
        _enough(view),
        _plausible(view, oddities),
    ]
    if view.unit.kind.is_walk_in:
        gates.append(_box(view))
    if not view.unit.heating:
        gates.append(_low_head(view, derived))
    return gates


def _labels(names: Iterable[str], unit: UnitFacts) -> str:
    return ", ".join(sight_label(name, unit).lower() for name in names)


def _ice(view: CircuitView) -> Gate:
    holding = any(view.seen(name) for name in ICE_SIGHTS)
    words = (
        "Thaw the coil fully, note the pattern first, then read 20 minutes after the restart."
        if holding
        else f"No ice on {coil_label('evaporator', view.unit)}."
    )
    return Gate("ice_on_coil", holding, Phrase(words), ICE_SIGHTS)


def _air(view: CircuitView, codes: Collection[str], fan_is_held: bool) -> Gate:
    faults = [name for name in AIR_FAULT_SIGHTS if view.seen(name) and not (fan_is_held and name == "condenser_fan_stopped")]
    unproven = [name for name in ("evaporator_air_proven", "condenser_air_proven") if not view.seen(name)]
    static = [words for code, words in _STATIC_WORDS.items() if code in codes]
    if faults and not unproven:
        words = f"Air is marked proven, yet: {_labels(faults, view.unit)}. Which is it?"
    elif faults:
        words = f"Mend it first: {_labels(faults, view.unit)}. Then prove the air on both coils."
    elif static:
        words = static[0]
    elif unproven:
        which = coil_label(unproven[0], view.unit) if len(unproven) == 1 else "both coils"
        words = f"Prove the air on {which}: {_LOOKED_AT_IN_A_BOX if view.unit.kind.is_walk_in else _LOOKED_AT}."
    else:
        words = "Air proven on both coils."
    asks = faults or unproven or (["external_static_supply", "external_static_return"] if static else [])
    return Gate("air_unproven", bool(faults or unproven or static), Phrase(words), tuple(asks))


_LOOKED_AT = "filter, coil faces, fans and their direction, panels, dampers"
_LOOKED_AT_IN_A_BOX = "coil faces, every fan and its direction, ice, what stands before them"
_STATIC_WORDS = {
    "static_low": "The static is too low: filter in, panels on, nothing blocked before the probe? Then read it again.",
    "static_high": "The static is too high: filter, coil, dampers and registers first. Then read it again.",
}


def _as_called(view: CircuitView) -> Gate:
    wrong = [name for name in ("call_present", "stage_held") if view.denied(name)]
    wrong += [name for name in ("defrost_active", "jumper_fitted", "panel_off", "coil_wet") if view.seen(name)]
    if not wrong and view.unit.modulates and not view.seen("stage_held"):
        words = "Its compressor modulates: hold it in the maker's test mode, then say that the stage is held."
        return Gate("unit_not_as_called", True, Phrase(words), ("stage_held",))
    if wrong:
        names = ", ".join(f"no {_labels([n], view.unit)}" if view.denied(n) else _labels([n], view.unit) for n in wrong)
        words = f"Put right, then read again: {names}."
    else:
        words = "Nothing seen that keeps the unit from running as called."
    return Gate("unit_not_as_called", bool(wrong), Phrase(words), tuple(wrong))


def _settled(view: CircuitView, again: Mapping[str, str]) -> Gate:
    sheet = view.sheet
    if sheet.minutes_running is None:
        return Gate("not_settled", True, Phrase("Say how many minutes the unit has been running."), ("minutes_running",))
    for sight, minutes, asks, what in (
        ("recently_charged", sheet.minutes_since_charge, "minutes_since_charge", "refrigerant went in"),
        ("recently_defrosted", sheet.minutes_since_defrost, "minutes_since_defrost", "the defrost or thaw ended"),
    ):
        if minutes is None and view.seen(sight):
            return Gate("not_settled", True, Phrase(f"Say how many minutes ago {what}: it settles from then."), (asks,))
    wait = clock_wait(clocks_of(sheet))
    if wait is not None:
        return Gate("not_settled", True, Phrase(f"About {ceil(wait.left)} min more: {wait.whole} {wait.after}."), (wait.asks,))
    if again:
        return Gate("not_settled", True, Phrase(read_again_words(again)), tuple(again))
    moves = moving(view)
    if moves:
        return Gate("not_settled", True, Phrase(still_moving_words(moves)), tuple(dict.fromkeys(chain(*moves.values()))))
    return Gate("not_settled", False, Phrase(f"{sheet.minutes_running:.0f} min running."))


def read_again_words(again: Mapping[str, str]) -> str:
    """What has to be read again, and when it was read instead."""
    by_when: dict[str, list[str]] = {}
    for name, when in again.items():
        by_when.setdefault(when, []).append(reading_label(name))
    return " ".join(f"Read again what was read {when}: {', '.join(labels)}." for when, labels in by_when.items())


def still_moving_words(names: Iterable[str]) -> str:
    """What still moves, and what ends that."""
    moves = " and ".join(name.replace("_", " ") for name in names)
    return f"Still moving: {moves}. Read again in five minutes; if it keeps swinging, say that it hunts."


def _enough(view: CircuitView) -> Gate:
    missing = view.missing_readings
    words = (
        "Still to read: " + ", ".join(reading_label(name) for name in missing) + "."
        if missing
        else "All that a verdict needs was read."
    )
    return Gate("too_few_readings", bool(missing), Phrase(words), missing)


def reading_label(name: str) -> str:
    """A reading as a sentence writes it: a pressure is not its line."""
    quantity = QUANTITIES[name]
    return f"{quantity.label.lower()}{' pressure' if quantity.dimension == 'pressure' else ''}"


# Said, and kept as evidence: they do not keep the rest from being judged.
_SAID_ONLY = frozenset({"discharge_port_used", "flooding", "no_liquid", "static_low", "static_high", "pressure_beyond_table"})
_EXPLAINED_BY_NO_LIQUID = frozenset({"condensing_below_outdoor", "liquid_line_above_saturation"})


def _plausible(view: CircuitView, oddities: Sequence[Oddity]) -> Gate:
    empty = any(oddity.code == "no_liquid" for oddity in oddities)
    holding = [
        oddity
        for oddity in oddities
        if oddity.holds and oddity.code not in _SAID_ONLY and not (empty and oddity.code in _EXPLAINED_BY_NO_LIQUID)
    ]
    if not holding:
        return Gate("implausible", False, Phrase("The readings fit together."))
    asks = tuple(dict.fromkeys(name for oddity in holding for name in oddity.readings))
    words = "Clear up what is marked below, and read it again; or put it aside there, with your reason."
    return Gate("implausible", True, Phrase(words), asks)


def _box(view: CircuitView) -> Gate:
    box, target_k = view.entering_indoor_air, view.unit.box_target_k
    holding = box is not None and box.value > target_k + BOX_NEAR_DESIGN_K
    numbers = {"limit": ("temperature", target_k + BOX_NEAR_DESIGN_K), "near": ("margin", BOX_NEAR_DESIGN_K)}
    words = "Judge charge once the box is below {limit}." if holding else "The box is within {near} of its design."
    if box is None:
        words = "Box air not read."
    return Gate("box_not_near_design", holding, Phrase(words, numbers), ("box_air_temp",) if holding else ())


def _low_head(view: CircuitView, derived: Mapping[str, Derived]) -> Gate:
    unit, outdoor, mean = view.unit, view.get("outdoor_air_temp"), derived.get("condensing_mean")
    uncontrolled = unit.head_pressure_control in (None, HeadPressureControl.NONE)
    low = outdoor is not None and outdoor.value < LOW_AMBIENT_K and mean is not None and mean.value < LOW_HEAD_K
    if not (uncontrolled and low) or mean is None:
        return Gate("low_head", False, Phrase("The head is high enough to feed the valve."))
    words = "Low head in the cold: it condenses at {mean} and starves the valve. Hold the head up, then read."
    return Gate("low_head", True, Phrase(words, {"mean": ("temperature", mean.value)}), ("liquid_pressure",))
