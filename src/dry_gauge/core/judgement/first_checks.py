"""What comes before anything is weighed: may it run, is it called, fans, air, odd readings, and only then the gauges.

A check that stops the unit, or keeps it off, stands first and lets nothing follow that needs it running.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import replace

from dry_gauge.core.judgement.checks import Check
from dry_gauge.core.judgement.gates import Gate, reading_label
from dry_gauge.core.judgement.oddity import Oddity
from dry_gauge.core.judgement.stops import STOPS, Stop
from dry_gauge.core.roles import coil_label, sight_label
from dry_gauge.core.sheet import CircuitView
from dry_gauge.core.visit.thaw import plan_thaw
from dry_gauge.core.vocabulary import AIR_FAULT_SIGHTS, QUANTITIES
from dry_gauge.core.words import Phrase

_THEN_JUDGED = Phrase("Then the gaps can be judged.")
_THAWS_OFF = "Let it thaw with the unit off, drain open; read only when it is clear and dry"
# Stops whose cause is at the other coil in heating: what is looked at then, and what would answer it.
_STOPS_IN_HEATING: Mapping[str, tuple[str, tuple[str, ...]]] = {
    "head_above_stop": ("Unit off: indoor filter and blower, then the indoor coil", ("filter_dirty", "blower_stopped")),
    "discharge_too_hot": (
        "Unit off until the pipe is cool: filter, blower, indoor coil; then what starves the outdoor one",
        ("filter_dirty", "blower_stopped", "condenser_dirty"),
    ),
    "flooding": (
        "Unit off: bulb tight and insulated, then ice on the outdoor coil, its face and its fan",
        ("ice_on_evaporator_even", "evaporator_dirty", "condenser_fan_stopped"),
    ),
}
_OFF_WHEN_DENIED = frozenset({"call_present"})  # nothing runs without a call
_OFF_WHEN_SEEN = frozenset({"jumper_fitted", "panel_off"})

# What clears each oddity: words, minutes. In the order in which they are met.
_CLEARS: Mapping[str, tuple[str, int]] = {
    "low_side_above_high_side": ("Hoses swapped, or the two fields: swap them and read both again", 3),
    "instruments_disagree": ("Both instruments on one place, side by side: keep the one that is right", 5),
    "slipped_decimal": ("Look at the instrument again and type what it shows", 1),
    "looks_like_other_unit": ("Look which unit the instrument shows, and type it again", 1),
    "mixed_air_not_between": ("Mixed air again, across the whole stream behind the damper", 4),
    "wet_bulb_above_dry_bulb": ("Wet and dry probe side by side in the same air, then read both again", 3),
    "supply_warmer_than_return": ("Supply and return probes: swap them, or see whether heat is on", 2),
    "liquid_line_above_saturation": ("Liquid clamp: the right pipe, out of the sun, before any restriction; read it again", 3),
    "suction_line_below_saturation": ("Suction clamp: the right pipe, tight and insulated; gauge to zero; read both again", 3),
    "condensing_below_outdoor": ("High side hose on the liquid port, its valve open, the unit running; read it again", 3),
    "vapour_valve_in_heating": ("Suction at the common suction port: the large valve carries hot gas in heating", 5),
    "outdoor_probe_hot": ("Outdoor probe into the shade, in the air that enters the coil; read it again", 3),
    "approach_not_positive": ("Outdoor probe and liquid clamp: side by side first, then each in its place", 5),
    "liquid_flashes": ("Insulate the liquid line, or lead it out of the hot air; read both ends again once it has settled", 30),
    "static_sign": ("Static of each side against the room, signs as shown; tubes not swapped", 3),
    "other_refrigerant_fits": ("Read the label, and what the gauge used; another refrigerant fits these numbers better", 2),
    "stage_mixed": ("Hold one stage and read both pressures and lines in it", 10),
    "looks_misread": ("Look at how it was read before anything is added or removed", 3),
}


def first_checks(
    view: CircuitView, stops: Sequence[Stop], gates: Sequence[Gate], oddities: Sequence[Oddity], again: Collection[str]
) -> list[Check]:
    """What has to be done first, in its order; `again` is what has to be read again.

    References
    ----------
    .. [1] docs/rules.md, R30.
    """
    if stops:
        return [_stop(view, code) for code in dict.fromkeys(stop.code for stop in stops)]
    holding = {gate.name: gate for gate in gates if gate.holding}
    found: list[Check] = []
    if "ice_on_coil" in holding:
        found += _ice(view)
    if "unit_not_as_called" in holding:
        found.append(_as_called(view, holding["unit_not_as_called"]))
    if "air_unproven" in holding:
        found.append(_air(view, holding["air_unproven"]))
    if "implausible" in holding:
        found += _clearing(holding["implausible"], oddities)
    if "ice_on_coil" not in holding:
        found += _gauges(view)
        found += _waits(holding, again)
    return found


def at_rest(first: Sequence[Check]) -> list[Check]:
    """Those of them that can be done while the whole unit stays off; ice thaws by itself."""
    return [
        replace(check, words=_THAWS_OFF, unit="off") if check.unit == "compressor_off" else check
        for check in first
        if check.unit != "running"
    ]


def _stop(view: CircuitView, code: str) -> Check:
    row = STOPS[code]
    words, asks = row.check, row.asks
    if view.unit.heating:
        words, asks = _STOPS_IN_HEATING.get(code, (words, asks))
    if code == "fan_dead" and not view.seen("blower_stopped"):
        asks = tuple(name for name in ("condenser_fan_stopped", "condenser_fan_reversed") if view.seen(name))
    if asks and all(view.denied(name) for name in asks):  # looked at, and it is not that: what comes next teaches more
        in_order = "; ".join(sight_label(name, view.unit).lower() for name in asks)
        return Check(code, f"It stays off, and it is not: {in_order}. Look on with it off", (), 0, "off")
    return Check(code, words, asks, row.minutes, "off")


def _ice(view: CircuitView) -> Iterator[Check]:
    air = view.entering_evaporator_air
    plan = plan_thaw(view.unit, air.value if air else None)
    asks = ("ice_on_evaporator_even", "ice_on_evaporator_patchy")
    if plan.fan_on:
        yield Check(
            "ice_on_coil",
            "Thaw it first: compressor off, fan on, drain open; read only when it is clear and dry",
            asks,
            plan.minutes,
            "compressor_off",
        )
        return
    yield Check(
        "ice_on_coil",
        "Defrost sensors and board first, while the ice is there; then its own defrost, fans off",
        asks,
        plan.minutes,
        "off",
    )


def _as_called(view: CircuitView, gate: Gate) -> Check:
    words = "Put it back as it was called: " + ", ".join(
        f"{sight_label(name, view.unit).lower()}{'' if view.seen(name) else ' missing'}" for name in gate.asks
    )
    off = any(view.denied(name) for name in _OFF_WHEN_DENIED) or any(view.seen(name) for name in _OFF_WHEN_SEEN)
    if any(view.denied(name) for name in _OFF_WHEN_DENIED):
        words = "No call: find where it is lost, thermostat to board, before any gauge"
    elif gate.asks == ("stage_held",):
        words = "Hold one stage (the maker's test mode), then read"
    return Check(gate.name, words, gate.asks, 5, "off" if off else "running")


def _air(view: CircuitView, gate: Gate) -> Check:
    faults = [name for name in gate.asks if name in AIR_FAULT_SIGHTS]
    if faults:
        words = f"Mend the air first: {', '.join(sight_label(name, view.unit).lower() for name in faults)}"
        return Check(gate.name, words, gate.asks, 15, "off")
    if any(view.denied(name) for name in gate.asks):
        return Check(gate.name, "Mend the air that was not in order, then prove it and read again", gate.asks, 15, "off")
    if gate.asks in (("evaporator_air_proven",), ("condenser_air_proven",)):
        return Check(gate.name, f"Prove the air on {coil_label(gate.asks[0], view.unit)}", gate.asks, 4, "running")
    if "external_static_supply" in gate.asks:
        return Check(
            gate.name, "Static out of range: filter, panels, coil, dampers; then read both sides again", gate.asks, 8, "running"
        )
    there = "every fan, faces, ice" if view.unit.kind.is_walk_in else "fans, filter, faces, panels"
    return Check(gate.name, f"Prove the air on both coils: {there}", gate.asks, 8, "running")


def _clearing(gate: Gate, oddities: Sequence[Oddity]) -> Iterator[Check]:
    order = tuple(_CLEARS)
    about = [oddity for oddity in oddities if oddity.code in _CLEARS and oddity.holds and set(oddity.readings) <= set(gate.asks)]
    done: set[str] = set()
    for oddity in sorted(about, key=lambda oddity: order.index(oddity.code)):
        if oddity.code in done:
            continue
        done.add(oddity.code)
        words, minutes = _CLEARS[oddity.code]
        yield Check(oddity.code, words, oddity.readings, minutes, "running")


def _gauges(view: CircuitView) -> Iterator[Check]:
    missing = view.missing_readings
    if missing:
        yield Check("too_few_readings", f"Read {_some(missing)}", missing, 2 * len(missing), "running", outcome=_THEN_JUDGED)


def _some(names: Sequence[str]) -> str:
    more = f" and {len(names) - 3} more" if len(names) > 3 else ""
    return ", ".join(reading_label(name) for name in names[:3]) + more


_WAITS: Mapping[str, tuple[str, int]] = {
    "not_settled": ("Let it settle; say how long it has been running", 5),
    "box_not_near_design": ("Read again when the box is near its design temperature", 30),
    "low_head": ("Hold the head up: cover part of the coil or set its control, ten minutes, then read", 15),
}


def _waits(holding: Mapping[str, Gate], again: Collection[str]) -> Iterator[Check]:
    for name, (words, minutes) in _WAITS.items():
        gate = holding.get(name)
        if gate and gate.asks and gate.asks[0] in QUANTITIES and name == "not_settled":
            when, minutes = ("", 0) if again else (" in five minutes", 5)
            words = f"Read again{when}: {_some(gate.asks)}"
            yield Check(name, words, gate.asks, minutes + 2 * len(gate.asks), "running", outcome=_THEN_JUDGED)
        elif gate and gate.asks:
            asks_clock = gate.asks[0].startswith("minutes_since")
            yield Check(name, "Let it settle; say how long ago that was" if asks_clock else words, gate.asks, minutes, "running")
