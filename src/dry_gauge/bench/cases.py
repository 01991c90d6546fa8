"""Service calls made up by the bench: a sheet as a technician would fill it, and the truth behind it.

A fault that moves no number by more than the instruments' accuracy is no case: nobody could see it. With two faults
each has to show against the same unit without it.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from dry_gauge.bench import field
from dry_gauge.bench.instruments import as_readings, half_widths, in_table, read, standing_errors, true_readings
from dry_gauge.bench.machine import Machine
from dry_gauge.bench.plant import Faults
from dry_gauge.bench.solve import solve
from dry_gauge.core.judgement.hypotheses import FAULT_ORDER, MECHANISMS, prior_shares
from dry_gauge.core.judgement.sights import chance_of_yes
from dry_gauge.core.sheet import EarlierSet, Observation, Reading, Sheet
from dry_gauge.core.vocabulary import Fault, Kind, State

Array = NDArray[np.float64]

CORE_READINGS = (
    "outdoor_air_temp", "return_air_temp", "return_air_wet_bulb", "box_air_temp", "supply_air_temp", "suction_pressure",
    "liquid_pressure", "suction_line_temp", "liquid_line_temp", "discharge_line_temp",
)  # fmt: skip
# Further readings, taken together, and how often a thorough visit has them.
MORE_READINGS: tuple[tuple[tuple[str, ...], float], ...] = (
    (("coil_outlet_temp",), 0.85), (("condenser_leaving_air_temp",), 0.8), (("compressor_amps",), 0.8),
    (("drier_inlet_temp", "drier_outlet_temp"), 0.85), (("airflow",), 0.5), (("input_power",), 0.5),
    (("supply_air_wet_bulb",), 0.5), (("external_static_supply", "external_static_return"), 0.5),
    (("standing_pressure", "equalized_ambient_temp"), 0.6),
)  # fmt: skip
SIGHTS_ASKED: Mapping[str, float] = {
    "evaporator_air_proven": 0.85, "condenser_air_proven": 0.85, "filter_dirty": 0.4, "condenser_dirty": 0.4,
    "evaporator_dirty": 0.3, "oil_stain": 0.3, "recently_opened": 0.3, "recently_charged": 0.3, "frost_after_drier": 0.3,
}  # fmt: skip
GLASS_ASKED = {True: 0.95, False: 0.15}
DOOR_ASKED = 0.7
SLIGHT, WORSE = (0.2, 0.4), (0.4, 1.0)  # sizes: worth acting on, though good technicians argue; and what nobody argues about
_SHOWS = 1.5  # times the instrument's 95 % accuracy
_SHOWING = (
    "suction_pressure", "liquid_pressure", "suction_line_temp", "liquid_line_temp", "supply_air_temp",
    "discharge_line_temp", "coil_outlet_temp",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Case:
    """One call: what is on the sheet, what is really wrong, and everything that further checks would show."""

    sheet: Sheet
    truth: Mapping[Fault, float]
    shown: Mapping[str, float]
    """Every reading that the instruments would give, SI."""
    answers: Mapping[str, State]
    """Every observation as it would be answered."""


@dataclass(frozen=True, slots=True)
class Draw:
    """How cases are drawn."""

    style: field.Style = field.ELSEWHERE
    noise: float = 1.0
    earlier: int = 0
    """How many sound days of each unit are on the sheet."""
    alike: int = 0
    """How many other units of its model have a sound day on it."""
    kinds: Sequence[Kind] = tuple(Kind)
    sizes: tuple[float, float] = WORSE
    same_instruments: bool = False
    """Whether the same instruments read each unit every day, and have names."""
    stage: tuple[float, float] = (1.0, 1.0)
    """Share of the full stage in which each runs, drawn between the two; below one its readings say that they are of ``low``."""


def draw_cases(
    n: int, chance: np.random.Generator, how: Draw | None = None, truths: Sequence[frozenset[Fault]] | None = None
) -> Iterator[Case]:
    """Cases of a field, about `n` of them: those that trip, or in which a fault does not show, are left out.

    Parameters
    ----------
    truths : sequence of sets of Fault, optional
        What is wrong in each; drawn by the judgement's own priors if not given.
    """
    how = how or Draw()
    truths = usual_truths(n, chance) if truths is None else truths
    foreign = np.array([Fault.WRONG_REFRIGERANT in truth for truth in truths])
    for which, mistaken in ((np.flatnonzero(~foreign), False), (np.flatnonzero(foreign), True)):
        if which.size:
            yield from _some([truths[int(i)] for i in which], chance, how, mistaken)


def usual_truths(n: int, chance: np.random.Generator) -> list[frozenset[Fault]]:
    """What is wrong on `n` calls, as often as the judgement takes it to be met."""
    shares = prior_shares()
    sets = sorted(shares, key=lambda faults: sorted(faults))
    weights = np.array([shares[faults] for faults in sets])
    return [sets[int(i)] for i in chance.choice(len(sets), n, p=weights / weights.sum())]


def drawn_sizes(truths: Sequence[frozenset[Fault]], chance: np.random.Generator, sizes: tuple[float, float]) -> Faults:
    """A size for each of those faults that has one, a column a call; the same draws every time, however sets are ordered."""
    severity = np.zeros((len(MECHANISMS), len(truths)))
    for column, truth in enumerate(truths):
        for fault in sorted(truth):
            if fault in MECHANISMS:
                severity[MECHANISMS.index(fault), column] = chance.uniform(*sizes)
    return Faults(severity)


def _some(truths: Sequence[frozenset[Fault]], chance: np.random.Generator, how: Draw, mistaken: bool) -> Iterator[Case]:
    n = len(truths)
    drawn = field.draw(n, chance, how.style, how.kinds, mistaken=mistaken)
    faults = drawn_sizes(truths, chance, how.sizes)
    if how.stage != (1.0, 1.0):
        drawn = replace(drawn, weather=drawn.weather.in_low_stage(how.stage, chance))
    machine, weather = drawn.built(), field.warmed(drawn, faults, chance).weather
    solution = solve(machine, weather, faults)
    true = true_readings(machine, weather, faults, solution)
    atmosphere = weather.atmosphere_pa
    stays = standing_errors(true, chance) if how.same_instruments else None
    shown = read(true, atmosphere, chance, how.noise, how.style.tails, stays)
    good = solution.solved & in_table(machine, true) & in_table(machine, shown)
    good &= all_show(machine, drawn, faults, true)
    days = [("", _sound_day(drawn, chance, how, stays)) for _ in range(how.earlier)]
    days += [(f"U-{k + 2}", _sound_day(field.like_units(drawn, chance, how.style), chance, how)) for k in range(how.alike)]
    for i in np.flatnonzero(good).tolist():
        wrong = {
            fault: 1.0 if fault not in MECHANISMS else float(faults.severity[MECHANISMS.index(fault), i]) for fault in truths[i]
        }
        facts = drawn.facts[i]
        if Fault.HIGH_EVAPORATOR_LOAD in wrong and facts.heating:
            continue  # nobody blows too much air through an outdoor coil
        if chance.random() < 0.7:
            facts = field.with_rating(facts, float(shown["rated_load_amps"][i]))
        names = CORE_READINGS + tuple(name for group, share in MORE_READINGS if chance.random() < share for name in group)
        answers = _answers(facts.kind, facts.heating, wrong, chance)
        asked = dict(SIGHTS_ASKED) | {"sight_glass_bubbles": GLASS_ASKED[facts.receiver]}
        if facts.kind.is_walk_in:
            asked["door_open"] = DOOR_ASKED
        observations = tuple(Observation(what, answers[what]) for what, share in asked.items() if chance.random() < share)
        earlier = tuple(
            EarlierSet(f"2026-{4 + day:02d}-02", True, as_readings(then, i, names, float(atmosphere[i])), of_unit=unit)
            for day, (unit, (then, fine)) in enumerate(days)
            if fine[i]
        )
        readings = as_readings(shown, i, names, float(atmosphere[i]))
        if stays:
            readings = _with_names(readings)
            earlier = tuple(replace(day, readings=_with_names(day.readings)) for day in earlier)
        if how.stage != (1.0, 1.0):
            readings = tuple(replace(one, stage="low") for one in readings)
        sheet = Sheet(facts, readings, observations, minutes_running=25.0, earlier=earlier)
        yield Case(sheet, wrong, {name: float(values[i]) for name, values in shown.items()}, answers)


def _sound_day(
    drawn: field.Field, chance: np.random.Generator, how: Draw, stays: Mapping[str, Array] | None = None
) -> tuple[dict[str, Array], NDArray[np.bool_]]:
    """What each unit showed on another day, with nothing wrong."""
    day = field.as_labelled(field.other_day(drawn, chance))
    machine, sound = day.built(), Faults.none(len(day.facts))
    solution = solve(machine, day.weather, sound)
    true = true_readings(machine, day.weather, sound, solution)
    shown = read(true, day.weather.atmosphere_pa, chance, how.noise, how.style.tails, stays)
    return shown, solution.solved & in_table(machine, true) & in_table(machine, shown)


def _with_names(readings: Iterable[Reading]) -> tuple[Reading, ...]:
    """As read with instruments that have names, one for each quantity."""
    return tuple(replace(one, instrument=f"the {one.quantity}'s") for one in readings)


def _answers(kind: Kind, heating: bool, truth: Mapping[Fault, float], chance: np.random.Generator) -> dict[str, State]:
    severity = np.array([[truth.get(fault, 0.0)] for fault in FAULT_ORDER])
    answers = {}
    for what in (*SIGHTS_ASKED, "sight_glass_bubbles", "door_open", "oil_stain", "head_pressure_hunting", "compressor_hot"):
        yes = chance_of_yes(what, severity, heating=heating, freezer=kind is Kind.WALK_IN_FREEZER)
        # The field is no copy of the table: its 'proven' is a little surer, its other answers a little less telling.
        share = 0.5 if yes is None else float(yes[0]) ** 1.25 if "proven" in what else 0.95 * float(yes[0]) + 0.01
        answers[what] = State.YES if chance.random() < share else State.NO
    return answers


def all_show(machine: Machine, drawn: field.Field, faults: Faults, true: Mapping[str, Array]) -> NDArray[np.bool_]:
    """Whether each unit's every fault moves some reading by more than its instrument's accuracy."""
    accuracy = half_widths({name: true[name] for name in _SHOWING}, drawn.weather.atmosphere_pa)
    seen = np.ones(machine.n, dtype=bool)
    for row in range(len(MECHANISMS)):
        with_it = np.flatnonzero(faults.severity[row] > 0)
        if not with_it.size:
            continue
        without = faults.take(with_it).severity.copy()
        without[row] = 0.0
        some, weather = machine.take(with_it), drawn.weather.take(with_it)
        other = solve(some, weather, Faults(without))
        plain = true_readings(some, weather, Faults(without), other)
        moved = np.zeros(with_it.size, dtype=bool)
        for name in _SHOWING:
            moved |= np.abs(true[name][with_it] - plain[name]) > _SHOWS * accuracy[name][with_it]
        seen[with_it] &= moved | ~other.solved
    return seen


def with_more(case: Case, names: Sequence[str], atmosphere_pa: float) -> Sheet:
    """The case's sheet after some more readings or answers were given."""
    shown = {name: np.array([value]) for name, value in case.shown.items()}
    had = {reading.quantity for reading in case.sheet.readings}
    readings = as_readings(shown, 0, tuple(n for n in names if n in shown and n not in had), atmosphere_pa)
    seen = tuple(Observation(name, case.answers[name]) for name in names if name in case.answers)
    return replace(case.sheet, readings=case.sheet.readings + readings, observations=case.sheet.observations + seen)
