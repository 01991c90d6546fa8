"""Electrical: the supply as its legs, machines against their plates, capacitors, heat, off-tests, what a compressor shows."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from dry_gauge.core.electrical.compressor_evidence import CompressorVerdict, Line, fitting_lines, judge_compressor
from dry_gauge.core.electrical.motor import MatchLine, OffTest, fits, match_lines, to_ground, windings
from dry_gauge.core.electrical.power import odd_factor, power_factor, strip_steps
from dry_gauge.core.electrical.supply import Supply, pair_words
from dry_gauge.core.words import Phrase, in_percent
from dry_gauge.notebook.kind import Kept, in_time
from dry_gauge.notebook.subjects.electrical import (
    CapacitorBody,
    Electrical,
    MachineAmpsBody,
    MotorMatchBody,
    MotorTestBody,
    PowerBody,
    StripHeatBody,
    SupplyBody,
    heat_of,
    verdict_of,
)
from dry_gauge.present.metering import WHOLE_UNIT, as_reading, last_meter
from dry_gauge.present.scene import Scene

MATCH_WORDS = {"same": "same", "allowed": "allowed", "wrong": "wrong", "asks": "find out", "fits": "fits"}
_LEGS_APART = 0.10  # of their mean: legs of one machine are compared
_TWO_WIRES = 1.9  # times the next leg: what a clamp round two wires of three shows


@dataclass(frozen=True, slots=True)
class MeasuredItem:
    """Something that was measured, what it comes to, and how it stands: ``ok``, ``asks`` or ``act``."""

    name: str
    read: str
    lines: Sequence[str]
    stands: str
    reading: Mapping[str, object] = field(default_factory=dict)
    """The fields of a reading that it is as well, for the judgement; none where it is none, or was taken over."""


@dataclass(frozen=True, slots=True)
class MatchSheet:
    """A motor's old plate against the new one; `fits` is the worst of its lines."""

    machine: str
    lines: Sequence[MatchLine]
    fits: str


@dataclass(frozen=True, slots=True)
class CompressorSheet:
    """What was found out about a compressor, what that proves, and what is asked next."""

    verdict: CompressorVerdict
    words: str
    answered: Sequence[tuple[Line, str, str]]
    """Each line with its answer, and what that means."""
    asked: Sequence[Line]


@dataclass(frozen=True, slots=True)
class ElectricalView:
    """The desk as it stands. Forms begin with what is known: volts of the last supply, phases, machines by name."""

    supply: Supply | None
    supply_body: SupplyBody | None
    supply_words: Sequence[str]
    measured: Sequence[MeasuredItem]
    matches: Sequence[MatchSheet]
    compressor: CompressorSheet
    three_phase: bool
    machines: Sequence[str]
    last_meter: str


def electrical(scene: Scene) -> ElectricalView:
    """All that was measured, the supply first."""
    state, reader = scene.view.state[Electrical], scene.reader
    shown = state.supply_read
    three_phase = bool(shown and shown.body.three_phase)
    supply = state.supply
    items = [
        *(_amps(one, scene) for one in in_time(state.amps.values())),
        *map(_capacitor, in_time(state.capacitors.values())),
        *(_power(one, scene) for one in in_time(state.powers.values())),
        *([_strips(state.strips)] if state.strips else []),
        *map(_motor, in_time(state.motors.values())),
    ]
    matches = [_match(one) for one in in_time(state.matches.values())]
    words = [one.phrase.read(reader) for one in supply.findings] if supply else []
    machines = ["compressor", "blower", "outdoor fan", WHOLE_UNIT]
    machines += [one.name for one in items if one.name.casefold() not in machines and one.name != _STRIPS]
    return ElectricalView(
        supply,
        shown.body if shown else None,
        words,
        items,
        matches,
        _compressor(state.of_compressor(scene.circuit), scene, three_phase=three_phase),
        three_phase,
        machines,
        last_meter(scene.view.state),
    )


def _amps(one: Kept[MachineAmpsBody], scene: Scene) -> MeasuredItem:
    body = one.body
    legs = list(body.legs.values())
    mean = sum(legs) / len(legs)
    lines, stands = [], "ok"
    if body.rated:
        share = max(legs) / body.rated
        lines.append(f"{in_percent(share)} of its plate's {body.rated:g} A" + (f", at {body.volts:g} V" if body.volts else ""))
        if share > 1.0:
            stands, lines = "act", [*lines, "Above its plate: volts, load, bearings, a dragging wheel or blade."]
    if len(legs) > 1 and mean > 0 and max(abs(leg - mean) for leg in legs) / mean > _LEGS_APART:
        stands = "act" if stands == "act" else "asks"
        lines.append("Legs differ by over 10 %: supply first, then the windings.")
    largest = sorted(legs, reverse=True)  # of a lost leg two carry the load: only one alone is two wires
    if len(legs) > 1 and largest[0] > _TWO_WIRES * largest[1] > 0:
        lines.append("One reads twice another: is the clamp around two wires there? Read it again.")
    read = ", ".join(f"{pair_words(leg)} {amps:g} A" for leg, amps in body.legs.items())
    return MeasuredItem(body.machine, read, lines, stands, as_reading(one, scene.view.state))


def _capacitor(one: Kept[CapacitorBody]) -> MeasuredItem:
    found = verdict_of(one.body)
    stands = {"good": "ok", "failed": "act"}.get(found.state, "asks")
    read = [
        f"bench {found.bench_uf:.1f} µF" if found.bench_uf is not None else "",
        f"under load {found.loaded_uf:.1f} µF" if found.loaded_uf is not None else "",
    ]
    return MeasuredItem(f"Capacitor, {one.body.machine}", ", ".join(filter(None, read)), [_said(found.phrase)], stands)


def _power(one: Kept[PowerBody], scene: Scene) -> MeasuredItem:
    body = one.body
    factor = power_factor(body.watts, body.volts, body.amps, three_phase=body.three_phase)
    odd = odd_factor(factor)
    lines = [f"Power factor {factor:.2f}.", *([_said(odd)] if odd else [])]
    return MeasuredItem(
        f"Power, {body.machine}",
        f"{body.watts / 1000:.2f} kW",
        lines,
        "asks" if odd else "ok",
        {} if odd else as_reading(one, scene.view.state),
    )


_STRIPS = "Strip heat"


def _strips(one: Kept[StripHeatBody]) -> MeasuredItem:
    found = heat_of(one.body)
    stands = "ok" if 0.9 <= found.share <= 1.08 else "asks"
    lines = [_said(found.phrase)]
    if one.body.steps:
        brought, wrong = strip_steps(one.body.steps, one.body.volts, one.body.blower_amps, three_phase=one.body.three_phase)
        lines.append(f"Steps: {', '.join(f'{kilowatts:.1f}' for kilowatts in brought)} kW.")
        lines += [_said(wrong)] if wrong else []
        stands = "act" if wrong else stands
    return MeasuredItem(_STRIPS, f"{found.kilowatts:.1f} kW", lines, stands)


_SPINS = {"stiff": "Stiff by hand: bearing, rub, ice.", "seized": "Seized by hand.", "loose": "Side play: bearings worn."}


def _motor(one: Kept[MotorTestBody]) -> MeasuredItem:
    body = one.body
    tests: list[OffTest] = []
    if body.ohms:
        ohms = {str(i): float("inf") if value is None else value for i, value in enumerate(body.ohms)}
        tests.append(windings(ohms, three_phase=body.three_phase))
    if body.ground_ohm is not None:
        tests.append(to_ground(body.ground_ohm))
    lines = [_said(test.phrase) for test in tests] + ([_SPINS[body.spins]] if _SPINS.get(body.spins) else [])
    bad = body.spins in ("seized", "loose") or any(test.speaks == "against" for test in tests)
    asks = body.spins == "stiff" or any(test.speaks == "asks" for test in tests)
    if not bad and not asks:
        lines.append("Good ohms do not clear a motor that opens a fuse under power.")
    return MeasuredItem(f"Off-test, {body.machine}", "", lines, "act" if bad else "asks" if asks else "ok")


def _match(one: Kept[MotorMatchBody]) -> MatchSheet:
    lines = match_lines(one.body.old, one.body.new)
    return MatchSheet(one.body.machine, lines, fits(lines))


def _compressor(answers: Mapping[str, str], scene: Scene, *, three_phase: bool) -> CompressorSheet:
    kind = scene.view.facts.kind
    found = judge_compressor(answers, three_phase=three_phase, heat_pump=kind.is_heat_pump)
    answered, asked = [], []
    for line in _in_turn(found, three_phase, heat_pump=kind.is_heat_pump):
        if line.name in answers:
            words, means, _ = line.answers[answers[line.name]]
            answered.append((line, words, means))
        else:
            asked.append(line)
    return CompressorSheet(found, _said(found.phrase) if answers else "", answered, asked)


def _in_turn(found: CompressorVerdict, three_phase: bool, *, heat_pump: bool) -> list[Line]:
    """The next test first, then what is missing, then the rest by minutes."""
    rest = sorted(fitting_lines(three_phase=three_phase, heat_pump=heat_pump), key=lambda one: one.minutes)
    order = [found.next, *found.missing, *rest]
    return list(dict.fromkeys(line for line in order if line is not None))


def _said(phrase: Phrase) -> str:
    return phrase.template  # nothing in these sentences depends on a reader's units
