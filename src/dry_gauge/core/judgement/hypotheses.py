"""Everything the judgement considers: nothing wrong, each fault by severity, plausible pairs, common threes, misreadings.

One long row of hypotheses, in an order that the calibration shares: `HYPOTHESES[0]` is 'nothing wrong'.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from hashlib import sha256
from itertools import combinations, product

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.judgement.faults import FAULTS
from dry_gauge.core.vocabulary import Fault

F = Fault
MECHANISMS = tuple(fault for fault, row in FAULTS.items() if row.mechanism)
"""Faults with a size and a mechanism on the bench; a wrong refrigerant is another filling instead."""
SINGLE_SEVERITIES = (0.125, 0.25, 0.375, 0.5, 0.625, 0.75, 0.875, 1.0)
PAIR_SEVERITIES = (0.3, 0.65, 1.0)
TRIPLE_SEVERITIES = PAIR_SEVERITIES[:2]  # of three at their worst nothing runs long enough to be read
HABIT_SEVERITIES = (0.3, 0.45, 0.65, 0.85)
# What is found in a system whose label says something else, or selected on a gauge by mistake.
OTHER_FILLINGS = (
    "R-22", "R-134a", "R-404A", "R-407A", "R-407C", "R-410A", "R-32", "R-454B", "R-448A", "R-449A", "R-290", "R-422D",
    "R-12", "R-409A",
)  # fmt: skip

# Sizes are even in effect: from about 0.2 a fault is worth acting on (7 % of capacity, or 5 F of a gap), from about 0.4 it costs
# twice that, from 0.65 a third of the capacity and more; 1 is as bad as a unit that still runs (docs/accuracy.md prints them).
_FELT: Mapping[Fault, float] = {
    F.OVERCHARGE: 1.2,
    F.LOW_EVAPORATOR_AIRFLOW: 0.85,
    F.LOW_CONDENSER_AIRFLOW: 0.85,
    F.LIQUID_LINE_RESTRICTION: 0.6,
    F.METERING_UNDERFEEDING: 1.6,
    F.METERING_OVERFEEDING: 1.4,
    F.NON_CONDENSABLES: 0.8,
    F.INEFFICIENT_COMPRESSOR: 1.25,
}
BANDS = ((0.35, "slight"), (0.65, "moderate"), (9.0, "severe"))


def felt(fault: Fault, severity: NDArray[np.float64]) -> NDArray[np.float64]:
    """How far a mechanism has gone at a size: what share of the most that the bench knows."""
    share: NDArray[np.float64] = severity ** _FELT.get(fault, 1.0)
    return share


def charge_lost(severity: NDArray[np.float64]) -> NDArray[np.float64]:
    """Share of the working charge that an undercharge of a size has lost: from a sixteenth at 0.2 to nearly empty at 1."""
    lost: NDArray[np.float64] = 0.72 * severity**1.5
    return lost


def charge_added(severity: NDArray[np.float64]) -> NDArray[np.float64]:
    """Share of the charge by which an overcharge of a size is too much, without what a receiver takes up."""
    added: NDArray[np.float64] = 0.54 * felt(F.OVERCHARGE, severity)
    return added


_IMPOSSIBLE = {
    frozenset(pair)
    for pair in (
        (F.UNDERCHARGE, F.OVERCHARGE), (F.METERING_UNDERFEEDING, F.METERING_OVERFEEDING),
        (F.LOW_EVAPORATOR_AIRFLOW, F.HIGH_EVAPORATOR_LOAD),
        # Told apart by nothing when both are there: either is the answer.
        (F.LIQUID_LINE_RESTRICTION, F.METERING_UNDERFEEDING),
    )
}  # fmt: skip
PAIRS = tuple(pair for pair in combinations(MECHANISMS, 2) if frozenset(pair) not in _IMPOSSIBLE)
TRIPLES = tuple(
    tuple(sorted((F.LOW_EVAPORATOR_AIRFLOW, F.LOW_CONDENSER_AIRFLOW, charge), key=MECHANISMS.index))
    for charge in (F.UNDERCHARGE, F.OVERCHARGE)
)
"""Three at once as they are met: both coils never cleaned, and the charge touched by someone who saw only the gauges."""


class Misreading(StrEnum):
    """Ways in which a healthy unit is read as a sick one."""

    LOOSE_SUCTION_CLAMP = "loose_suction_clamp"
    LOOSE_LIQUID_CLAMP = "loose_liquid_clamp"
    DISCHARGE_PORT = "discharge_port"
    PROBE_IN_SUN = "probe_in_sun"
    DRY_SOCK = "dry_sock"


MISREADING_SIZES = (0.1, 0.5, 0.9)


@dataclass(frozen=True, slots=True)
class Hypothesis:
    """One thing that may be so: faults with their severities, or a misreading; neither for 'nothing wrong'.

    `by_habit` is the same fault as the trade describes it (`habits`), not as the bench shows it.
    """

    faults: tuple[tuple[Fault, float], ...] = ()
    misreading: Misreading | None = None
    size: float = 0.0
    filling: str | None = None
    by_habit: bool = False


def _all() -> tuple[Hypothesis, ...]:
    found = [Hypothesis()]
    found += [Hypothesis(((fault, s),)) for fault in MECHANISMS for s in SINGLE_SEVERITIES]
    found += [Hypothesis(((a, s), (b, t))) for a, b in PAIRS for s in PAIR_SEVERITIES for t in PAIR_SEVERITIES]
    found += [
        Hypothesis(tuple(zip(triple, sizes, strict=True))) for triple in TRIPLES for sizes in product(TRIPLE_SEVERITIES, repeat=3)
    ]
    found += [Hypothesis(((F.WRONG_REFRIGERANT, 1.0),), filling=name) for name in OTHER_FILLINGS]
    found += [Hypothesis(misreading=kind, size=size) for kind in Misreading for size in MISREADING_SIZES]
    found += [Hypothesis(((fault, s),), by_habit=True) for fault in MECHANISMS for s in HABIT_SEVERITIES]
    return tuple(found)


HYPOTHESES = _all()

FAULT_ORDER = tuple(fault for fault in Fault if fault is not F.NONE)


def _severities() -> NDArray[np.float64]:
    table = np.zeros((len(FAULT_ORDER), len(HYPOTHESES)))
    for column, hypothesis in enumerate(HYPOTHESES):
        for fault, severity in hypothesis.faults:
            table[FAULT_ORDER.index(fault), column] = severity
    return table


FIRST_FILLING = next(i for i, hypothesis in enumerate(HYPOTHESES) if hypothesis.filling)
SEVERITY = _severities()
"""Severity of each fault of `FAULT_ORDER` under each hypothesis."""
PRESENT = SEVERITY > 0


def _sizes_drawn() -> NDArray[np.float64]:
    drawn = np.array([not hypothesis.by_habit and not hypothesis.filling for hypothesis in HYPOTHESES])
    rows = [FAULT_ORDER.index(fault) for fault in MECHANISMS]
    sizes: NDArray[np.float64] = (SEVERITY[rows] * drawn).T
    return sizes


SIZES_DRAWN = _sizes_drawn()
"""Size of each of `MECHANISMS` under each hypothesis whose shift the bench knows; shape (hypotheses, mechanisms)."""


def _fault_sets() -> NDArray[np.intp]:
    """Number of the fault set that each hypothesis belongs to: what a verdict distinguishes."""
    numbers: dict[object, int] = {}
    which = [
        numbers.setdefault((hypothesis.misreading, *sorted(fault for fault, _ in hypothesis.faults)), len(numbers))
        for hypothesis in HYPOTHESES
    ]
    return np.array(which, dtype=np.intp)


FAULT_SET = _fault_sets()

# What a technician meets on units that are looked at closely. Shares of all sheets.
NOTHING_WRONG = 0.30
SINGLE_SHARE = 0.48
PAIR_SHARE = 0.205
TRIPLE_SHARE = 0.015
MISREADING_SHARE = 0.02
_COMMON: Mapping[Fault, float] = {fault: row.prior for fault, row in FAULTS.items() if fault is not Fault.NONE}
_OFTEN = {frozenset({fault, other}) for fault, row in FAULTS.items() for other in row.met_with}
_SELDOM = 0.05  # any other pair, against those


def prior_shares() -> dict[frozenset[Fault], float]:
    """Share of each set of faults among the sheets that come to be judged; they add up to one."""
    total = sum(_COMMON.values())
    shares: dict[frozenset[Fault], float] = {frozenset(): NOTHING_WRONG}
    shares |= {frozenset([fault]): SINGLE_SHARE * weight / total for fault, weight in _COMMON.items()}
    weights = {
        frozenset(pair): _COMMON[pair[0]] * _COMMON[pair[1]] * (1.0 if frozenset(pair) in _OFTEN else _SELDOM) for pair in PAIRS
    }
    total = sum(weights.values())
    shares |= {pair: PAIR_SHARE * weight / total for pair, weight in weights.items()}
    return shares | {frozenset(triple): TRIPLE_SHARE / len(TRIPLES) for triple in TRIPLES}


# Slight faults are met as often, but seldom bring a technician: their share of a single fault's sheets.
_CALLED_FOR = {0.125: 0.3, 0.25: 0.65}


def _log_prior() -> NDArray[np.float64]:
    shares = prior_shares()
    counts: dict[object, float] = {}
    keys = [hypothesis.misreading or frozenset(fault for fault, _ in hypothesis.faults) for hypothesis in HYPOTHESES]
    shared = [_CALLED_FOR.get(hypothesis.faults[0][1], 1.0) if len(hypothesis.faults) == 1 else 1.0 for hypothesis in HYPOTHESES]
    for key, share in zip(keys, shared, strict=True):
        counts[key] = counts.get(key, 0.0) + share
    misread = MISREADING_SHARE / len(Misreading)
    weights = [
        share * (misread if isinstance(key, Misreading) else (1 - MISREADING_SHARE) * shares[key]) / counts[key]
        for key, share in zip(keys, shared, strict=True)
    ]
    result: NDArray[np.float64] = np.log(np.array(weights))
    return result


LOG_PRIOR = _log_prior()


def hypotheses_digest() -> str:
    """What the hypotheses are and in which order, in a few letters."""
    return sha256("\n".join(map(repr, HYPOTHESES)).encode()).hexdigest()[:16]
