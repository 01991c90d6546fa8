"""What this unit showed when it was sound: its own habit, learnt from sets of readings on other days.

Two sound units differ by more than one unit differs from itself. Of the variance between sound units a share stays with the
unit (`FeatureRow.standing`), the rest changes with the day; each instrument adds its own. A unit's offset has its posterior from
all of its proven sets, and what is left of the spread today is that posterior's variance and one day's.

A set is not believed because it was marked. One that the others contradict is outvoted, two that contradict each other teach
little, one alone teaches no more than a sound unit may be off, and what moves one way from visit to visit is taken as it was at
first: a slow leak must not teach itself as normal.

An instrument that reads the unit today as it did on its sound days is wrong in the same way, which then is no doubt at all: most
of its error is taken as the unit's own (R79).

Another circuit of the same unit that is judged sound today is a reference too, a weaker one, and only for what the two do not
share: it says nothing about the air that both stand in (R45). Weaker still are sound days of other units of the same model: they
tell what the model has in common (`FeatureRow.of_model`), and from there the unit's own days go on (R77). So does the maker's
chart, where its rows reach today's weather (R84).
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from functools import lru_cache
from itertools import chain, pairwise

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.circuit import Derived, derive
from dry_gauge.core.judgement.features import FEATURE_ROWS, FEATURES, Conditions, Observed, conditions, observe
from dry_gauge.core.sheet import CircuitView, EarlierSet, Sheet, UnitFacts
from dry_gauge.core.target import Target

Array = NDArray[np.float64]

# Chosen, each with what it guards against.
_AGEING = 0.15
"""Of the variance between units, what a year adds to an older set: coils foul, charges settle."""
_OUTVOTED = 2.5
"""Sigmas from the others' middle at which a set counts half."""
_MOST_OFF = 2.0
"""Spreads between units: further off, one set alone is believed no more."""
_DRIFT = 3.0
"""Sigmas over which a one-way way through all visits is no chance."""
_LEAST_DRIFT_VISITS = 3

_SIBLING = 0.5
"""Of the variance between units, what another circuit of the same unit has in common with this one."""
_NOT_SHARED = frozenset({"superheat", "coil_superheat", "inlet_superheat", "subcooling", "discharge_superheat", "amps"})

_STAYS = 0.7
"""Of the variance of an instrument's error, what stays with it from day to day; the rest is how it was put on."""
DAILY = (1 - _STAYS) ** 0.5
"""Of an instrument's error, one sigma, what is of its day alone."""

_STANDING = np.array([row.standing for row in FEATURE_ROWS])
_OF_MODEL = np.array([row.of_model for row in FEATURE_ROWS])

Day = tuple[Observed, Conditions, float]
"""What was seen, in which weather, and how many years before the latest."""

DayThen = tuple[EarlierSet, CircuitView, Mapping[str, Derived]]
"""A proven set, the circuit as it was then, and its gaps."""


@dataclass(frozen=True, slots=True)
class Charted:
    """What a chart gives for today's weather: feature by place, value and its variance; and that weather."""

    values: tuple[tuple[int, float, float], ...]
    context: Conditions

    def off(self, expectation: Array) -> dict[int, tuple[float, float]]:
        """How far each stands off what a sound unit of its sort would show, and its variance."""
        return {i: (value - float(expectation[i] @ self.context.values), error2) for i, value, error2 in self.values}


@dataclass(frozen=True, slots=True)
class Drift:
    """A feature that went one way through every visit, today's among them; by how much in all. [its own unit]"""

    feature: str
    by: float
    visits: int


@dataclass(frozen=True, slots=True)
class _Learnt:
    """What the sets say of one feature: what each stands off, and shift and share of spread, of all and of the first alone."""

    values: list[float]
    noise2: list[float]
    together: tuple[float, float]
    at_first: tuple[float, float]


@dataclass(frozen=True, slots=True, eq=False)
class Baseline:
    """The proven sets of one circuit.

    `siblings` are circuits of the same unit that are sound today, by number; `alike` the sound days of other units of its model,
    by the unit's name; `chart` what its maker's chart says for today's weather; `same` the readings that one instrument took
    today and on every own sound day that has them.
    """

    sets: tuple[Day, ...]
    siblings: tuple[tuple[int, Observed, Conditions], ...] = ()
    alike: Mapping[str, tuple[Day, ...]] = field(default_factory=dict)
    chart: Charted | None = None
    same: frozenset[str] = frozenset()
    learnt: dict[tuple[int, frozenset[str]], dict[int, _Learnt]] = field(default_factory=dict, repr=False)

    @property
    def visits(self) -> int:
        """How many days."""
        return len(self.sets)

    @property
    def used(self) -> tuple[str, ...]:
        """Features that at least one of its own sets shows; where it has none, one of its like units'."""
        seen = {int(i) for observed, _, _ in self.sets or chain(*self.alike.values()) for i in observed.at}
        return tuple(FEATURES[i] for i in sorted(seen) if _STANDING[i])

    def read_by(self, instruments: Mapping[str, str]) -> Baseline:
        """The same reference for who reads with these instruments today, by the name of what each reads."""
        same = frozenset(source for source, name in instruments.items() if self._always(source, name))
        return replace(self, same=same) if same else self

    def _always(self, source: str, name: str) -> bool:
        then = [observed.instruments.get(source) for observed, _, _ in self.sets if source in observed.errors]
        return bool(then) and all(one == name for one in then)

    def habit(
        self, expectation: Array, at: NDArray[np.intp], spread: Array, today: Array | None = None
    ) -> tuple[Array, Array, tuple[Drift, ...]]:
        """By how much this unit stands off what its sort would show, and what is left of the spread between units.

        Parameters
        ----------
        expectation : ndarray, shape (features, conditions)
            What a sound unit of its sort shows.
        at : ndarray of int, shape (d,)
            The features that are asked for.
        spread : ndarray, shape (features,)
            How far two sound units differ, one sigma.
        today : ndarray, shape (d,), optional
            What stands off today, for drifts.

        Returns
        -------
        shift, left : ndarray, shape (d,)
            In the feature's own unit; and the share of the spread, one sigma, that stays.
        drifts : tuple of Drift
        """
        known = self._learnt(expectation, spread)
        shift, left = np.zeros(len(at)), np.ones(len(at))
        drifts = []
        for k, i in enumerate(at.tolist()):
            one = known.get(i)
            if one is None:
                continue
            drift = _drift(FEATURES[i], one, None if today is None else float(today[k]))
            if drift is not None:
                drifts.append(drift)
            shift[k], left[k] = one.at_first if drift is not None else one.together
        return shift, left, tuple(drifts)

    def _learnt(self, expectation: Array, spread: Array) -> dict[int, _Learnt]:
        """What the sets say of each feature, worked out once for each sort of unit."""
        key = id(expectation), self.same  # a sort's own, which lasts as long as the process
        if key not in self.learnt:
            own = [(observed, context) for observed, context, _ in self.sets]
            off, error2 = _off(own, expectation)
            stays2 = _STAYS * _errors2(own, self.same)
            beside, beside2 = _off([(observed, context) for _, observed, context in self.siblings], expectation)
            models = [
                (_off([day[:2] for day in days], expectation), np.array([age for *_, age in days]))
                for days in self.alike.values()
            ]
            years = np.array([age for _, _, age in self.sets])
            charted = {} if self.chart is None else self.chart.off(expectation)
            found = {}
            for i, name in enumerate(FEATURES):
                unit2, standing = float(spread[i] ** 2), float(_STANDING[i])
                if not standing:  # today's own: other days say nothing of it
                    continue
                read, near = np.isfinite(off[:, i]), np.isfinite(beside[:, i]) & (name in _NOT_SHARED)
                model = _of_model(
                    [(their[:, i], error[:, i], ages) for (their, error), ages in models],
                    charted.get(i),
                    float(_OF_MODEL[i]),
                    standing,
                    unit2,
                )
                if not (read.any() or near.any() or model):
                    continue
                day2 = error2[read, i] - stays2[read, i]
                values, noise2 = off[read, i], day2 + (1 - standing + _AGEING * years[read]) * unit2
                all_values = np.concatenate([values, beside[near, i]])
                all_noise2 = np.concatenate([noise2, beside2[near, i] + (1 - _SIBLING) * unit2])
                mean, variance = model or (0.0, standing * unit2)
                start = mean, variance + (float(stays2[read, i].mean()) if read.any() else 0.0)
                together = _habit(all_values, all_noise2, start, standing, unit2)
                first = _habit(values[:1], noise2[:1], start, standing, unit2) if values.size else together
                found[i] = _Learnt(values.tolist(), noise2.tolist(), together, first)
            self.learnt[key] = found
        return self.learnt[key]

    def beside(self, feature: str) -> dict[int, float]:
        """What sound circuits of the same unit show in a feature today, by number. [the feature's own unit]"""
        i = FEATURES.index(feature)
        if feature not in _NOT_SHARED:
            return {}
        return {
            number: float(observed.values[place[0]])
            for number, observed, _ in self.siblings
            if (place := np.flatnonzero(observed.at == i)).size
        }


def _off(seen: Sequence[tuple[Observed, Conditions]], expectation: Array) -> tuple[Array, Array]:
    """What each set stands off, and its instruments' variance; NaN where a set does not show a feature."""
    off = np.full((len(seen), len(FEATURES)), np.nan)
    for row, (observed, context) in enumerate(seen):
        off[row, observed.at] = observed.values - expectation[observed.at] @ context.values
    return off, _errors2(seen)


def _errors2(seen: Sequence[tuple[Observed, Conditions]], of: frozenset[str] | None = None) -> Array:
    """Variance that instruments add to each set's features: all of them, or those of some readings."""
    found = np.zeros((len(seen), len(FEATURES)))
    for row, (observed, _) in enumerate(seen):
        parts = (part**2 for source, part in observed.errors.items() if of is None or source in of)
        found[row, observed.at] = sum(parts, np.zeros(len(observed.at)))
    return found


def beside(own: Baseline | None, siblings: Sequence[tuple[int, Observed, Conditions]]) -> Baseline | None:
    """The same reference with circuits of the same unit that are sound today."""
    return replace(own or Baseline(()), siblings=tuple(siblings), learnt={}) if siblings else own


def by_chart(own: Baseline | None, targets: Iterable[Target], context: Conditions) -> Baseline | None:
    """The same reference with what the maker's chart says for today's weather, where it is no mere hint (R84)."""
    said = tuple(
        (FEATURES.index(one.name), one.aim_k, ((one.high_k - one.low_k) / 4) ** 2)
        for one in targets
        if one.rule == "maker_chart" and one.indication_only is None
    )
    return replace(own or Baseline(()), chart=Charted(said, context), learnt={}) if said else own


def _habit(values: Array, noise2: Array, start: tuple[float, float], standing: float, unit2: float) -> tuple[float, float]:
    """Shift of a unit, and the share of the spread between units that is left, one sigma.

    `start` is the mean and variance of what stays with the unit, before its own sets say anything.
    """
    shift, variance = start
    if values.size:
        off, variance = _posterior(values - shift, noise2, variance, unit2**0.5)
        shift += off
    return shift, min(1.0, variance / unit2 + 1 - standing) ** 0.5


def _of_model(
    units: Sequence[tuple[Array, Array, Array]], charted: tuple[float, float] | None, share: float, standing: float, unit2: float
) -> tuple[float, float] | None:
    """Mean and variance of what stays with a unit, from what is known of its model; None where nothing is.

    Each of `units` is what another of its model stood off on its days, its instruments' variances, and the days' ages in years. A
    unit counts once: several days of one say more of that one, not of its model. `charted` is what the maker's chart stands off,
    and its variance: it is of no single unit.
    """
    means, noise2 = ([], []) if charted is None else ([charted[0]], [charted[1]])
    for values, error2, years in units:
        read = np.isfinite(values)
        if read.any():
            day2 = error2[read] + (1 - standing + _AGEING * years[read]) * unit2
            means.append(float(np.average(values[read], weights=1 / day2)))
            noise2.append(float(1 / (1 / day2).sum()) + (standing - share) * unit2)
    if not means or not share:
        return None
    mean, variance = _posterior(np.array(means), np.array(noise2), share * unit2, unit2**0.5)
    return mean, variance + (standing - share) * unit2


def _posterior(values: Array, noise2: Array, standing2: float, spread: float) -> tuple[float, float]:
    """Mean and variance of a unit's offset, of variance `standing2` between units, from what its sets say."""
    sigma = np.sqrt(noise2)
    trust = np.ones(len(values))
    for _ in range(4 if len(values) > 2 else 0):  # outvoted: the further from the others' middle, the less a set weighs
        middle = _weighted_middle(values, trust / noise2)
        trust = 1 / (1 + ((values - middle) / (_OUTVOTED * sigma)) ** 4)
    weight = trust / noise2
    mean = float((weight * values).sum() / weight.sum())
    # Sets that disagree by more than their noise say less than they seem to.
    excess = float((weight * (values - mean) ** 2).sum() / max(len(values) - 1, 1)) if len(values) > 1 else 1.0
    precision = float(weight.sum()) / max(1.0, excess)
    variance = 1 / (1 / standing2 + precision)
    most = _MOST_OFF * spread if len(values) == 1 else np.inf
    return float(np.clip(variance * precision * mean, -most, most)), variance


def _weighted_middle(values: Array, weight: Array) -> float:
    order = np.argsort(values)
    reached = np.cumsum(weight[order])
    half = reached[-1] / 2
    i = int(np.searchsorted(reached, half))
    if i + 1 < len(values) and np.isclose(reached[i], half):
        return float(values[order[i : i + 2]].mean())
    return float(values[order[i]])


def _drift(feature: str, one: _Learnt, today: float | None) -> Drift | None:
    """One way through every visit, further than chance goes."""
    way = one.values if today is None else [*one.values, today]
    if len(one.values) < 2 or len(way) < _LEAST_DRIFT_VISITS:
        return None
    by = way[-1] - way[0]
    rises = by > 0
    if any((later > sooner) is not rises or later == sooner for sooner, later in pairwise(way)):
        return None
    if abs(by) < _DRIFT * (one.noise2[0] + one.noise2[-1]) ** 0.5:
        return None
    return Drift(feature, by, len(way))


def days_of(view: CircuitView) -> tuple[DayThen, ...]:
    """The proven sets that speak for this circuit as it is now, oldest first, and what each showed of it."""
    return _days(view.unit, _speaking(view), view.number, view.low_stage)


def baseline_of(view: CircuitView) -> Baseline | None:
    """What those sets teach of this circuit; None where there is none."""
    return _baseline(view.unit, _speaking(view), view.number, view.low_stage)


def _speaking(view: CircuitView) -> tuple[EarlierSet, ...]:
    return tuple(one for one in view.sheet.earlier if one.proven and not one.before_change)


@lru_cache(maxsize=128)
def _days(unit: UnitFacts, speaking: tuple[EarlierSet, ...], number: int, low_stage: bool) -> tuple[DayThen, ...]:
    views = [(one, Sheet(unit, one.readings, one.observations).circuit(number)) for one in speaking]
    found = [(one, then, derive(then)) for one, then in views if then.measured and then.low_stage == low_stage]
    return tuple(sorted(found, key=lambda row: (_day(row[0].date), row[0].of_unit)))


@lru_cache(maxsize=128)
def _baseline(unit: UnitFacts, speaking: tuple[EarlierSet, ...], number: int, low_stage: bool) -> Baseline | None:
    seen = [(one, observe(then, derived), then) for one, then, derived in _days(unit, speaking, number, low_stage)]
    seen = [row for row in seen if row[1].at.size]
    if not seen:
        return None
    latest = _day(seen[-1][0].date)
    days: dict[str, list[Day]] = {}
    for one, observed, then in seen:
        days.setdefault(one.of_unit, []).append((observed, conditions(then), (latest - _day(one.date)) / 365.25))
    own = tuple(days.pop("", ()))
    return Baseline(own, alike={whose: tuple(theirs) for whose, theirs in days.items()})


def _day(written: str) -> int:
    """A date as a number of days; one that cannot be read counts as the first of all."""
    try:
        return date.fromisoformat(written[:10]).toordinal()
    except ValueError:
        return 1


def names_used(features: Sequence[str], differences: Sequence[str]) -> tuple[str, ...]:
    """Features as the contract writes them."""
    return tuple(f"{name}_f" if name in differences else name for name in features)
