"""What to look at next, once nothing comes before it: what teaches most for its minutes (see also `first_checks`).

The worth of a check is by how much it is expected to narrow down what is wrong (bits of the distribution over fault
sets), per minute; stopping the unit costs the wait for it to settle again.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache
from math import exp

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.circuit import entering_wet_bulb
from dry_gauge.core.judgement.evidence import GAP_LABELS, Cause
from dry_gauge.core.judgement.features import DIFFERENCES, FEATURES
from dry_gauge.core.judgement.hypotheses import FAULT_ORDER, FAULT_SET, HYPOTHESES, PRESENT
from dry_gauge.core.judgement.inference import Judgement
from dry_gauge.core.judgement.sights import log_chances
from dry_gauge.core.judgement.single_tests import drop_log_likelihood, standing_log_likelihood
from dry_gauge.core.roles import sight_label
from dry_gauge.core.sheet import CircuitView, UnitFacts
from dry_gauge.core.vocabulary import SIGHTS, Fault, Kind, Metering
from dry_gauge.core.words import Phrase, in_percent

Array = NDArray[np.float64]

RESTART_MINUTES = 20.0  # a unit that was stopped has to settle again before anything else can be read
_SETTING_OUT_MINUTES = 1.0  # walking there, and back


NO_WORDS = Phrase("")
UNIT_STANDS = {"running": "unit stays on", "compressor_off": "compressor off, fan on", "off": "unit off"}
"""How the unit stands during a check, in words."""


@dataclass(frozen=True, slots=True)
class Check:
    """One thing to do: its words, what it asks (names of the contract), minutes, what it parts, and how the unit stands
    meanwhile: ``running``, ``compressor_off`` (its fan on) or ``off``.

    `teaches` names the feature, sight or test whose outcome is forecast.
    """

    name: str
    words: str
    asks: tuple[str, ...]
    minutes: int
    unit: str
    teaches: str = ""
    separates: tuple[Fault, ...] = ()
    outcome: Phrase = NO_WORDS
    bits: float = 0.0


@dataclass(frozen=True, slots=True)
class Overturning:
    """The one outcome that would unseat the leading cause."""

    check: str
    phrase: Phrase
    probability: float
    """Of the leading cause, if it came out so."""


def _running(name: str, words: str, asks: tuple[str, ...], minutes: int, teaches: str) -> Check:
    return Check(name, words, asks, minutes, "running", teaches)


# Looking before clamping, clamping before opening.
CHECKS: tuple[Check, ...] = (
    _running("indoor_air", "Prove the indoor coil's air: filter, coil face, wheel, belt, dampers, panels",
             ("evaporator_air_proven",), 5, "evaporator_air_proven"),
    _running("outdoor_air", "Prove the outdoor coil's air: both faces, fan direction, nothing blowing back",
             ("condenser_air_proven",), 4, "condenser_air_proven"),
    _running("condenser_dirt", "Shine a light through the condenser, inner side first", ("condenser_dirty",), 2,
             "condenser_dirty"),
    _running("filter", "Pull the filter and hold it to the light", ("filter_dirty",), 2, "filter_dirty"),
    _running("oil", "Look for oil at joints, valves and coil ends", ("oil_stain",), 4, "oil_stain"),
    _running("opened", "Ask what was done lately: opened, charged, parts changed", ("recently_opened",), 1,
             "recently_opened"),
    _running("frost", "Feel and look along the liquid line behind the drier", ("frost_after_drier",), 2,
             "frost_after_drier"),
    _running("glass", "Look into the sight glass with the unit settled", ("sight_glass_bubbles",), 1,
             "sight_glass_bubbles"),
    _running("door", "Door, gasket and what was loaded in", ("door_open",), 2, "door_open"),
    _running("air_split", "Supply air, past the coil", ("supply_air_temp",), 2, "air_split"),
    _running("static", "External static, supply and return", ("external_static_supply", "external_static_return"), 4,
             "external_static"),
    _running("airflow", "Airflow over the indoor coil", ("airflow",), 10, "airflow"),
    _running("amps", "Compressor amps on the common conductor", ("compressor_amps",), 2, "amps"),
    _running("power", "Input power of the whole unit", ("input_power",), 3, "input_power"),
    _running("leaving_air", "Air leaving the condenser", ("condenser_leaving_air_temp",), 2, "leaving_rise"),
    _running("discharge", "Discharge line, within 6 in. of the compressor", ("discharge_line_temp",), 2,
             "discharge_superheat"),
    _running("suction_bulb", "Coil outlet temperature at the bulb", ("coil_outlet_temp",), 3, "coil_superheat"),
    _running("inlet", "Suction pipe at the compressor", ("compressor_suction_temp",), 2, "inlet_superheat"),
    _running("wet_split", "Supply wet bulb", ("supply_air_wet_bulb",), 3, "wet_split"),
    _running("liquid_line", "Liquid line temperature at the service valve", ("liquid_line_temp",), 2, "subcooling"),
    _running("drier", "The same clamp before and after the drier", ("drier_inlet_temp", "drier_outlet_temp"), 3, "drop"),
    _running("valve_inlet", "The liquid line again, just before the metering device", ("valve_inlet_temp",), 4, "drop"),
    Check("standing", "Unit off and equalized, then pressure and ambient",
          ("standing_pressure", "equalized_ambient_temp"), 25, "off", "standing"),
)  # fmt: skip

# Of checks that are made at a coil: what a box has there; and by role, so that in heating they lead to the other coil.
_IN_A_BOX: Mapping[str, str] = {
    "indoor_air": "Prove the evaporator's air: ice, coil face, every fan, nothing stacked before it",
    "outdoor_air": "Prove the condenser's air: both faces, fan direction, nothing blowing back",
}
_IN_HEATING: Mapping[str, str] = {
    "indoor_air": "Prove the outdoor coil's air: both faces, frost, fan direction, nothing stacked before it",
    "outdoor_air": "Prove the indoor coil's air: filter, coil face, wheel, belt, dampers, registers",
    "condenser_dirt": "Behind the filter: shine a light through the indoor coil",
    "leaving_air": "Air leaving the outdoor coil",
}

_WANTED = 3
CALLED_FROM = 0.5  # a cause below this probability is not a verdict
_LEAST_BITS = 0.004
_NOTABLE = 1e-4  # hypotheses below this weight are not forecast
_MOST_FORECAST = 72
_CUTS = np.linspace(-1.5, 1.5, 7)  # places, in its spread, at which a number's outcomes are told apart
_TOO_WIDE = 60.0  # a feature that this sort of unit does not have

# Rows: nothing wrong, then each fault of `FAULT_ORDER`.
_FAULTS = np.vstack([~PRESENT.any(axis=0), PRESENT]).astype(float)

FAULT_NAMES: dict[Fault, str] = {
    Fault.NONE: "nothing wrong",
    Fault.HIGH_EVAPORATOR_LOAD: "high evaporator load or too much air",
    **{fault: fault.value.replace("_", " ") for fault in FAULT_ORDER if fault is not Fault.HIGH_EVAPORATOR_LOAD},
}


# -- forecasts ----------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class _Outcomes:
    """Where the outcomes of one check stand side by side with the others', and where they part."""

    check: Check
    first: int
    last: int
    cuts: Array
    dimension: str


_DROPS_K = np.array([-1.0, 0.5, 2.0, 4.0, 8.0, 14.0])
_STANDING_K = np.array([-3.0, 0.0, 2.0, 4.0, 7.0, 11.0])
_NO_CUTS = np.array([])
_BITS = 1 / np.log(2.0)


@cache
def _fixed_outcomes(names: tuple[str, ...], heating: bool, freezer: bool) -> tuple[Array, tuple[_Outcomes, ...]]:
    """Sights and tests: chances (hypotheses, outcomes) of all of them side by side, the same on every unit."""
    columns: list[Array] = []
    found: list[_Outcomes] = []
    for check in CHECKS:
        if check.name not in names or check.teaches in FEATURES:
            continue
        first = len(columns)
        cuts, dimension = _NO_CUTS, ""
        if check.teaches in SIGHTS:
            chances = log_chances(check.teaches, heating, freezer)
            if chances is None:
                continue
            columns += [np.exp(chances[0]), np.exp(chances[1])]
        else:
            drop = check.teaches == "drop"
            places = _DROPS_K if drop else _STANDING_K
            likely = [drop_log_likelihood(float(x), 0.6) if drop else standing_log_likelihood(float(x), 0.8) for x in places]
            chance = np.exp(np.stack(likely))
            columns += list(chance / chance.sum(axis=0))
            cuts, dimension = (places[1:] + places[:-1]) / 2, "difference"
        found.append(_Outcomes(check, first, len(columns), cuts, dimension))
    return np.stack(columns, axis=1) if columns else np.zeros((len(HYPOTHESES), 0)), tuple(found)


class _Forecast:
    """The leading hypotheses, thinned, and what each check would show under them."""

    def __init__(self, judgement: Judgement, view: CircuitView, checks: Sequence[Check]) -> None:
        weights = judgement.weights
        kept = np.flatnonzero(weights > _NOTABLE)
        if kept.size > _MOST_FORECAST:
            kept = kept[np.argpartition(-weights[kept], _MOST_FORECAST)[:_MOST_FORECAST]]
        self.judgement, self.unit = judgement, view.unit
        weights = weights[kept] / weights[kept].sum()
        sets = np.unique(FAULT_SET[kept], return_inverse=True)[1]
        in_set = np.zeros((int(sets.max()) + 1, kept.size))
        in_set[sets, np.arange(kept.size)] = 1.0
        faults = _FAULTS[:, kept]
        names = tuple(check.name for check in checks)
        freezer = view.unit.kind is Kind.WALK_IN_FREEZER
        fixed, outcomes = _fixed_outcomes(names, view.unit.heating, freezer)
        read, more = self._read_outcomes(checks, kept, weights, fixed.shape[1])
        self.outcomes: list[_Outcomes] = [*outcomes, *more]
        # All outcomes of all checks side by side: one product each for sets, faults and the outcomes themselves.
        joint = weights[:, None] * np.hstack([fixed[kept], read])
        self._total = joint.sum(axis=0)
        self._after = (faults @ joint) / np.maximum(self._total, 1e-12)
        self.before: Array = faults @ weights
        """Probability of 'nothing wrong' and of each fault now."""
        prior = in_set @ weights
        share = in_set @ joint
        spent = _spread(self._total) - _spread(share).sum(axis=0)
        known = -float(_spread(prior).sum())
        starts = [found.first for found in self.outcomes]
        self.bits: Array = known - np.add.reduceat(spent, starts) if starts else np.zeros(0)

    def _read_outcomes(
        self, checks: Sequence[Check], kept: NDArray[np.intp], weights: Array, offset: int
    ) -> tuple[Array, list[_Outcomes]]:
        """Numbers still to be read: chances (hypotheses, outcomes) side by side."""
        had = {FEATURES[i] for i in self.judgement.observed.at}
        asked = [check for check in checks if check.teaches in FEATURES and check.teaches not in had]
        wanted = np.array([FEATURES.index(check.teaches) for check in asked], dtype=np.intp)
        means, sigmas = self.judgement.forecast(wanted, kept)
        middle = means @ weights
        spread = np.sqrt(((means - middle[:, None]) ** 2 + sigmas**2) @ weights)
        fits = np.flatnonzero(spread < _TOO_WIDE)
        cuts = middle[fits, None] + spread[fits, None] * _CUTS
        below = _normal_cdf((cuts[:, None, :] - means[fits, :, None]) / sigmas[fits, :, None])
        chances = np.empty((*below.shape[:2], _CUTS.size + 1))
        chances[..., 0], chances[..., -1] = below[..., 0], 1 - below[..., -1]
        chances[..., 1:-1] = below[..., 1:] - below[..., :-1]
        width = chances.shape[2]
        found = [
            _Outcomes(
                asked[i],
                offset + row * width,
                offset + (row + 1) * width,
                cuts[row],
                "difference" if asked[i].teaches in DIFFERENCES else "log",
            )
            for row, i in enumerate(fits.tolist())
        ]
        return chances.transpose(1, 0, 2).reshape(kept.size, -1), found

    def left_of(self, row: int) -> Array:
        """What is left of one fault after each outcome that may well come; 1 for those that hardly will."""
        return np.where(self._total > 0.01, self._after[row], 1.0)

    def faults_after(self, i: int) -> tuple[Array, Array]:
        """Probability of 'nothing wrong' and of each fault after each outcome of check `i`, and of the outcome."""
        part = slice(self.outcomes[i].first, self.outcomes[i].last)
        return self._after[:, part], self._total[part]


def _spread(p: Array) -> Array:
    """p log2 p, nothing for nothing."""
    result: Array = p * np.log(np.maximum(p, 1e-15)) * _BITS
    return result


def _normal_cdf(z: Array) -> Array:
    # A logistic follows the normal integral within 0.01, which is plenty for a forecast.
    result: Array = 0.5 + 0.5 * np.tanh(0.851 * z)
    return result


_NAMED = (Fault.NONE, *FAULT_ORDER)


def _explain(ahead: _Forecast, i: int) -> tuple[tuple[Fault, ...], Phrase]:
    """Which faults check `i` parts, and what each end of its outcomes would mean."""
    outcomes, before = ahead.outcomes[i], ahead.before
    check = outcomes.check
    after, total = ahead.faults_after(i)
    swing = ((after - before[:, None]) ** 2) @ total
    parted = tuple(_NAMED[k] for k in np.argsort(-swing)[:4] if swing[k] > 1e-4 and _NAMED[k] is not Fault.NONE)
    if not outcomes.cuts.size:
        return parted, _told({"Yes": _meaning(after[:, 0], before), "No": _meaning(after[:, 1], before)})
    low_end, high_end = _ends(total)
    low, high = _meaning(after @ low_end, before), _meaning(after @ high_end, before)
    cut = float(outcomes.cuts[int(np.flatnonzero(high_end)[0]) - 1])
    label = _TEST_LABELS.get(check.teaches) or GAP_LABELS[check.teaches]
    if outcomes.dimension == "log":
        share = exp(cut - ahead.judgement.expected(check.teaches)) - 1
        at = f"{in_percent(abs(share))} {'above' if share >= 0 else 'below'} what fits here"
        return parted, _told({f"{label} over {at}": high, "Under" if high else f"{label} under {at}": low})
    numbers = {"cut": (outcomes.dimension, cut)}
    return parted, _told({f"{label} over {{cut}}": high, "Under" if high else f"{label} under {{cut}}": low}, numbers)


def _told(meanings: Mapping[str, str], numbers: Mapping[str, tuple[str, float]] | None = None) -> Phrase:
    """What each outcome would mean; one that says nothing is not printed."""
    words = " ".join(f"{outcome}: {meaning}." for outcome, meaning in meanings.items() if meaning)
    return Phrase(words, numbers or {}) if words else NO_WORDS


_TEST_LABELS = {"drop": "Drop along the liquid line", "standing": "Unit off and equal, saturation above the air by"}


def _ends(total: Array) -> tuple[Array, Array]:
    """Weights of the outcomes at the low end and at the high end, parted at the middle of what is expected."""
    below = np.cumsum(total)
    cut = min(max(int(np.searchsorted(below, 0.5)), 0), total.size - 2) + 1
    low, high = total.copy(), total.copy()
    low[cut:], high[:cut] = 0.0, 0.0
    return low / max(low.sum(), 1e-12), high / max(high.sum(), 1e-12)


def _meaning(after: Array, before: Array) -> str:
    gained = int(np.argmax(after - before))
    return f"leans to {FAULT_NAMES[_NAMED[gained]]}" if after[gained] - before[gained] > 0.01 else ""


# -- choice ----------------------------------------------------------------------------


def next_checks(
    view: CircuitView, first: Sequence[Check], causes: Sequence[Cause], judgement: Judgement, *, stays_off: bool = False
) -> tuple[list[Check], Overturning | None]:
    """Up to three checks, best first, and the outcome that would overturn the leading cause.

    Parameters
    ----------
    first : sequence of Check
        What comes before anything is weighed, see `first_checks.first_checks`; where it begins with the unit off or the
        compressor off, nothing that needs it running is asked for after it.
    stays_off : bool
        Whether the unit stays off whatever comes first, as beside a circuit that must not run.
    """
    chosen = list(first[:_WANTED])
    stands = chosen[0].unit if chosen else "off" if stays_off else "running"
    asked = {name for check in chosen for name in check.asks}
    resting = stands != "running"
    ahead = _Forecast(judgement, view, [check for check in CHECKS if not asked & set(check.asks) and _fits(check, view)])
    minutes = [
        found.check.minutes + _SETTING_OUT_MINUTES + (RESTART_MINUTES if found.check.unit == "off" and not resting else 0.0)
        for found in ahead.outcomes
    ]
    ranked = sorted(range(len(minutes)), key=lambda i: -float(ahead.bits[i]) / minutes[i])
    if resting:
        ranked = [i for i in ranked if _at_rest(ahead.outcomes[i].check, stands)]
    for i in ranked[: max(_WANTED - len(chosen), 0)]:
        if ahead.bits[i] < _LEAST_BITS:
            break
        separates, outcome = _explain(ahead, i)
        check = ahead.outcomes[i].check
        chosen.append(
            replace(
                check,
                words=_words_on(view.unit).get(check.name, check.words),
                unit=stands if resting else check.unit,
                separates=separates,
                outcome=outcome,
                bits=float(ahead.bits[i]),
            )
        )
    if len(chosen) > 1 and not chosen[0].asks and not chosen[0].minutes:
        chosen = [*chosen[1:], chosen[0]]  # it says only how the unit stands: what can be done stands before it
    return chosen, None if resting else _overturning(ahead, causes[0].fault)


LOOKED_AT = frozenset({"condenser_dirt", "filter", "oil", "opened", "frost", "door"})
"""What is looked at, or asked, as well with the unit off."""


def _words_on(unit: UnitFacts) -> Mapping[str, str]:
    return _IN_A_BOX if unit.kind.is_walk_in else _IN_HEATING if unit.heating else {}


def _at_rest(check: Check, unit: str) -> bool:
    """Whether it can be done while the unit stands as it has to."""
    return check.name in LOOKED_AT or (check.unit == unit == "off")


def _overturning(ahead: _Forecast, leading: Fault) -> Overturning | None:
    """Of all outcomes that may well come, the one that leaves least of the leading cause."""
    left = ahead.left_of(_NAMED.index(leading))
    best: tuple[float, int, int] | None = None
    for i, outcomes in enumerate(ahead.outcomes):
        k = int(left[outcomes.first : outcomes.last].argmin())
        remains = float(left[outcomes.first + k])
        if remains < CALLED_FROM and (best is None or remains < best[0] - 0.02):
            best = (remains, i, k)
    return best and Overturning(ahead.outcomes[best[1]].check.name, _came_out(ahead, best[1], best[2]), best[0])


def _came_out(ahead: _Forecast, i: int, k: int) -> Phrase:
    outcomes = ahead.outcomes[i]
    check = outcomes.check
    if not outcomes.cuts.size:
        return Phrase(f"{sight_label(check.teaches, ahead.unit)}: {'yes' if k == 0 else 'no'}.")
    label = _TEST_LABELS.get(check.teaches) or GAP_LABELS[check.teaches]
    upper = k >= outcomes.cuts.size / 2
    cut = float(outcomes.cuts[k - 1] if upper else outcomes.cuts[k])
    side = "over" if upper else "under"
    if outcomes.dimension == "log":
        share = exp(cut - ahead.judgement.expected(check.teaches)) - 1
        return Phrase(f"{label} {side} {in_percent(abs(share))} {'above' if share >= 0 else 'below'} what fits here.")
    return Phrase(f"{label} {side} {{cut}}.", {"cut": (outcomes.dimension, cut)})


def _is_far_from_valve(view: CircuitView) -> bool:
    """Whether a line set leads to the metering device, and the drier, which is nearer, was read: what is behind it is left."""
    read = {"liquid_line_temp", "drier_outlet_temp"} <= view.measured.keys()
    return read and view.unit.kind in (Kind.SPLIT_AC, Kind.SPLIT_HEAT_PUMP) and not view.unit.heating


# Checks that not every unit knows; the others can be made on any.
ONLY_WHERE: Mapping[str, Callable[[CircuitView], bool]] = {
    "glass": lambda view: view.unit.receiver,
    "door": lambda view: view.unit.kind.is_walk_in,
    "static": lambda view: not view.unit.kind.is_walk_in,
    "air_split": lambda view: not view.unit.kind.is_walk_in,
    "filter": lambda view: not view.unit.kind.is_walk_in,
    "wet_split": lambda view: not view.unit.kind.is_walk_in and entering_wet_bulb(view) is not None,
    "valve_inlet": _is_far_from_valve,
    "inlet": lambda view: view.unit.kind.is_walk_in or view.unit.heating,
    "amps": lambda view: view.unit.rated_load_amps is not None,
    "power": lambda view: view.unit.nominal_capacity_w is not None,
    "airflow": lambda view: not view.unit.kind.is_walk_in and view.unit.nominal_capacity_w is not None,
    "suction_bulb": lambda view: view.unit.metering not in (Metering.ORIFICE, Metering.CAPILLARY),
}


def _fits(check: Check, view: CircuitView) -> bool:
    """Whether it can be made on this unit, and would tell something that is not known yet."""
    fits = ONLY_WHERE.get(check.name)
    if check.name in view.sheet.out_of_reach or (fits is not None and not fits(view)):
        return False
    return any(name not in view.measured and name not in view.states for name in check.asks)
