"""Leak rate over time: what was added, as a yearly share of the full charge, and what a rule makes of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from enum import StrEnum

from dry_gauge.core.charge.mass import GRAM_KG
from dry_gauge.core.errors import Refused
from dry_gauge.core.refrigerants.catalogue import Refrigerant

_YEAR_DAYS = 365
_ROUNDED_KG = 0.5 * GRAM_KG  # charges are kept in whole grams: 50 lb on a label is no less than a rule's 50 lb


class Method(StrEnum):
    """How a shop counts; it uses one for all its units."""

    ANNUALISING = "annualising"
    ROLLING = "rolling"


class Use(StrEnum):
    """What a unit is for, as rules on leaks sort them."""

    COMFORT = "comfort"
    COMMERCIAL = "commercial"
    PROCESS = "process"


@dataclass(frozen=True, slots=True)
class Threshold:
    """A rule's line: the yearly share above which it acts, and the full charge from which it applies, that size included. [kg]"""

    use: Use
    yearly: float
    from_kg: float


@dataclass(frozen=True, slots=True)
class Rule:
    """A rule by its name, as the shop has set it: checked against local law by the shop, not by us."""

    name: str
    method: Method
    thresholds: tuple[Threshold, ...]
    small_charge_kg: float | None = None
    """For refrigerants above `gwp_from`, the charge from which it applies, where that differs."""
    gwp_from: int | None = None


@dataclass(frozen=True, slots=True)
class Addition:
    """Refrigerant put in to replace what was lost; what was put in after a recovery is not an addition."""

    on: date
    kg: float


@dataclass(frozen=True, slots=True)
class LeakRate:
    """A yearly rate after one addition.

    Parameters
    ----------
    yearly : float
        Share of the full charge.
    first : bool
        No earlier addition is on record, so a whole year is assumed.
    days : int
        Over which it was counted.
    """

    on: date
    yearly: float
    days: int
    first: bool
    method: Method


def leak_rates(additions: Sequence[Addition], full_charge_kg: float, method: Method) -> tuple[LeakRate, ...]:
    """The rate after each addition, in order of time.

    Parameters
    ----------
    full_charge_kg : float
        Label, line set and accessories. [kg]

    Raises
    ------
    Refused

    References
    ----------
    .. [1] 40 CFR 82.152, 'leak rate': the annualizing method and the rolling average method.

    Examples
    --------
    >>> from datetime import date
    >>> two = [Addition(date(2026, 1, 1), 1.0), Addition(date(2026, 7, 1), 1.0)]
    >>> [round(rate.yearly, 3) for rate in leak_rates(two, 10.0, Method.ANNUALISING)]
    [0.1, 0.202]
    """
    if not full_charge_kg > 0:
        raise Refused("The full charge is not known: put the label's charge on the unit card.", "label_charge")
    listed = sorted((one for one in additions if one.kg > 0), key=lambda one: one.on)
    by_day: dict[date, float] = {}
    for one in listed:
        by_day[one.on] = by_day.get(one.on, 0.0) + one.kg
    found: list[LeakRate] = []
    before: date | None = None
    for on, kg in by_day.items():
        if method is Method.ANNUALISING:
            days = _YEAR_DAYS if before is None else min((on - before).days, _YEAR_DAYS)
            yearly = kg / full_charge_kg * _YEAR_DAYS / days
        else:
            days = _YEAR_DAYS
            since = on - timedelta(days=_YEAR_DAYS)
            yearly = sum(one for day, one in by_day.items() if since < day <= on) / full_charge_kg
        found.append(LeakRate(on, yearly, days, before is None, method))
        before = on
    return tuple(found)


def threshold_of(rule: Rule, use: Use, refrigerant: Refrigerant, full_charge_kg: float) -> Threshold | None:
    """The threshold that applies to a unit, or None where the rule leaves it alone."""
    found = next((one for one in rule.thresholds if one.use is use), None)
    if found is None:
        return None
    from_kg = found.from_kg
    if rule.small_charge_kg is not None and rule.gwp_from is not None and refrigerant.gwp_100 > rule.gwp_from:
        from_kg = min(from_kg, rule.small_charge_kg)
    return found if full_charge_kg > from_kg - _ROUNDED_KG else None
