"""What to look at next: first what releases a gate that holds, then what best parts the leading causes for its minutes.

Running checks come before those that need the unit off, looking before opening.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import combinations

from dry_gauge.core.judgement.gates import Gate, missing_readings
from dry_gauge.core.judgement.inference import Cause
from dry_gauge.core.sheet import CircuitView
from dry_gauge.core.vocabulary import AIR_FAULT_SIGHTS, QUANTITIES, SIGHTS, Fault

_OFF_PENALTY = 3.0  # stopping a unit costs the wait for it to settle again


@dataclass(frozen=True, slots=True)
class Check:
    """One thing to do: its words, what it asks (names of the contract), minutes, ``running`` or ``off``, what it parts."""

    name: str
    words: str
    asks: tuple[str, ...]
    minutes: int
    unit: str
    separates: tuple[Fault, ...]
    outcome: str = ""
    walk_in_only: bool = False
    needs_receiver: bool = False


_F = Fault
CHECKS: tuple[Check, ...] = (
    Check("indoor_air", "Prove the indoor air: filter, coil face, wheel, belt, dampers, panels", ("evaporator_air_proven",),
          5, "running", (_F.LOW_EVAPORATOR_AIRFLOW, _F.UNDERCHARGE, _F.METERING_UNDERFEEDING, _F.LIQUID_LINE_RESTRICTION,
                         _F.HIGH_EVAPORATOR_LOAD),
          "Proven: look at the refrigerant side. Not proven: mend the air first, then read again."),
    Check("outdoor_air", "Prove the outdoor air: both coil faces, fan turning the right way, nothing blowing back",
          ("condenser_air_proven",), 4, "running",
          (_F.LOW_CONDENSER_AIRFLOW, _F.NON_CONDENSABLES, _F.OVERCHARGE),
          "Proven: head comes from charge or air in the system. Not proven: clean or mend, then read again."),
    Check("condenser_dirt", "Shine a light through the condenser, inner side first", ("condenser_dirty",), 2, "running",
          (_F.LOW_CONDENSER_AIRFLOW, _F.NON_CONDENSABLES, _F.OVERCHARGE), "Dirty: wash before anything is weighed."),
    Check("filter", "Pull the filter and hold it to the light", ("filter_dirty",), 2, "running",
          (_F.LOW_EVAPORATOR_AIRFLOW, _F.UNDERCHARGE, _F.METERING_UNDERFEEDING), "Dirty: change it, wait, read again."),
    Check("static", "External static, supply and return", ("external_static_supply", "external_static_return"), 4,
          "running", (_F.LOW_EVAPORATOR_AIRFLOW, _F.HIGH_EVAPORATOR_LOAD, _F.UNDERCHARGE),
          "High: blocked air. Very low: missing filter, open panel or blocked coil."),
    Check("liquid_line", "Liquid line temperature at the service valve", ("liquid_line_temp",), 2, "running",
          (_F.UNDERCHARGE, _F.LIQUID_LINE_RESTRICTION, _F.METERING_UNDERFEEDING, _F.OVERCHARGE, _F.NON_CONDENSABLES),
          "Little subcooling leans to charge, ordinary or much to a restriction."),
    Check("drier", "The same clamp before and after the drier", ("drier_inlet_temp", "drier_outlet_temp"), 3, "running",
          (_F.LIQUID_LINE_RESTRICTION, _F.METERING_UNDERFEEDING, _F.UNDERCHARGE),
          "A drop of more than 2 °F beyond its error is a restriction; no drop does not clear it."),
    Check("glass", "Look into the sight glass with the unit settled", ("sight_glass_bubbles",), 1, "running",
          (_F.UNDERCHARGE, _F.OVERCHARGE, _F.METERING_UNDERFEEDING, _F.LIQUID_LINE_RESTRICTION),
          "Bubbles: short of liquid here. Clear: look at the valve.", needs_receiver=True),
    Check("discharge", "Discharge line, within 6 in. of the compressor", ("discharge_line_temp",), 2, "running",
          (_F.METERING_OVERFEEDING, _F.INEFFICIENT_COMPRESSOR, _F.UNDERCHARGE, _F.OVERCHARGE),
          "Cool: flooding. Hot: starved, or high head."),
    Check("amps", "Compressor amps on the common conductor", ("compressor_amps",), 2, "running",
          (_F.INEFFICIENT_COMPRESSOR, _F.HIGH_EVAPORATOR_LOAD, _F.METERING_OVERFEEDING),
          "Far below what this lift should draw: unloaded or worn."),
    Check("suction_bulb", "Coil outlet temperature at the bulb", ("coil_outlet_temp",), 3, "running",
          (_F.METERING_OVERFEEDING, _F.METERING_UNDERFEEDING, _F.UNDERCHARGE), "Separates the valve from line gain."),
    Check("wet_bulb", "Return wet bulb", ("return_air_wet_bulb",), 3, "running",
          (_F.HIGH_EVAPORATOR_LOAD, _F.LOW_EVAPORATOR_AIRFLOW), "Says what split and superheat should be today."),
    Check("door", "Door, gasket and what was loaded in", ("door_open",), 2, "running",
          (_F.HIGH_EVAPORATOR_LOAD, _F.LOW_EVAPORATOR_AIRFLOW, _F.INEFFICIENT_COMPRESSOR), "Open or leaking: load, not "
          "refrigeration.", walk_in_only=True),
    Check("standing", "Unit off and equalised, then pressure and ambient", ("standing_pressure", "equalized_ambient_temp"),
          25, "off", (_F.NON_CONDENSABLES, _F.OVERCHARGE, _F.WRONG_REFRIGERANT, _F.LOW_CONDENSER_AIRFLOW),
          "Above bubble at ambient: something in it that does not condense."),
)  # fmt: skip

_GATE_WORDS = {
    "ice_on_coil": ("Thaw the coil, then read again", 45, "off"),
    "air_unproven": ("Prove the air on both coils", 8, "running"),
    "unit_not_as_called": ("Put the unit back as it was called", 5, "running"),
    "not_settled": ("Let it settle; say how long it has been running", 5, "running"),
    "too_few_readings": ("Finish the readings a verdict needs", 2, "running"),
    "box_not_near_design": ("Read again when the box is near its design temperature", 30, "running"),
}
_ONE_COIL = {
    ("evaporator_air_proven",): "Prove the air on the evaporator",
    ("condenser_air_proven",): "Prove the air on the condenser",
}
_WANTED = 3


def next_checks(view: CircuitView, gates: Sequence[Gate], causes: Sequence[Cause]) -> list[Check]:
    """Up to three checks, best first.

    A check is worth the probability it could part (products of the pairs of causes of which it tells one from the
    other), per minute.
    """
    chosen = list(_for_gates(view, gates))
    probability = {cause.fault: cause.probability for cause in causes}

    def worth(check: Check) -> float:
        inside = [fault for fault in Fault if fault in check.separates]
        outside = [fault for fault in Fault if fault not in check.separates]
        parted = sum(probability[a] * probability[b] for a in inside for b in outside)
        parted += 0.5 * sum(probability[a] * probability[b] for a, b in combinations(inside, 2))
        return parted / check.minutes / (_OFF_PENALTY if check.unit == "off" else 1)

    asked = {name for check in chosen for name in check.asks}
    open_checks = [check for check in CHECKS if _fits(check, view) and not asked & set(check.asks)]
    chosen += sorted(open_checks, key=worth, reverse=True)
    return chosen[:_WANTED]


def _for_gates(view: CircuitView, gates: Iterable[Gate]) -> Iterable[Check]:
    holding = {gate.name: gate for gate in gates if gate.holding}
    missing = missing_readings(view)
    if missing:
        labels = ", ".join(QUANTITIES[name].label.lower() for name in missing[:3])
        more = f" and {len(missing) - 3} more" if len(missing) > 3 else ""
        yield Check(
            "too_few_readings",
            f"Read {labels}{more}",
            missing,
            2 * len(missing),
            "running",
            (),
            "Then the gaps can be judged.",
        )
    for name in ("ice_on_coil", "air_unproven", "unit_not_as_called", "not_settled", "box_not_near_design"):
        gate = holding.get(name)
        if gate and gate.asks:
            words, minutes, unit = _GATE_WORDS[name]
            faults = [ask for ask in gate.asks if ask in AIR_FAULT_SIGHTS]
            if faults:
                words = f"Mend the air first: {', '.join(SIGHTS[ask].label.lower() for ask in faults)}"
            if gate.asks in _ONE_COIL:
                words, minutes = _ONE_COIL[gate.asks], minutes // 2
            yield Check(name, words, gate.asks, minutes, unit, ())


def _fits(check: Check, view: CircuitView) -> bool:
    if (check.walk_in_only and not view.unit.kind.is_walk_in) or (check.needs_receiver and not view.unit.receiver):
        return False
    if check.name == "wet_bulb" and (view.unit.kind.is_walk_in or "return_air_rh" in view.measured):
        return False
    return any(name not in view.measured and name not in view.states for name in check.asks)
