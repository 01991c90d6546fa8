"""How fast units lose refrigerant by the shop's own rule: one count for a unit, the book and the list to look at first."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any
from uuid import UUID

from sqlalchemy import Connection

from dry_gauge.core.charge.leak_rate import Addition, LeakRate, Threshold, leak_rates, threshold_of
from dry_gauge.core.charge.mass import GRAM_KG
from dry_gauge.core.local_time import day_of
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.shop import ShopSettings, use_of
from dry_gauge.notebook.subjects.charge_target import ChargeTargetBody, target_from
from dry_gauge.service.notebooks import facts_of
from dry_gauge.store import cylinders as store
from dry_gauge.store import visits


@dataclass(frozen=True, slots=True)
class Losing:
    """A unit's leak rate after each addition, and what the rule makes of it.

    Parameters
    ----------
    full_charge_kg : float or None
        Label, line set and accessories where a target was ever made; else the label; None where neither is known.
    label_only : bool
        No target was made, so line set and accessories are not counted.
    """

    rates: tuple[LeakRate, ...]
    threshold: Threshold | None
    full_charge_kg: float | None
    label_only: bool

    @property
    def over(self) -> bool:
        """Whether the latest rate is above the rule's line."""
        return bool(self.threshold and self.rates and self.rates[-1].yearly > self.threshold.yearly)


def losing(connection: Connection, unit_id: UUID, facts: UnitFacts, settings: ShopSettings) -> Losing:
    """How fast one unit loses refrigerant."""
    added = _additions(connection, unit_id).get(unit_id, ())
    return _counted(added, facts, visits.latest_targets(connection, [unit_id]).get(unit_id), settings)


def all_losing(connection: Connection, settings: ShopSettings, since: date = date.min) -> list[tuple[Any, Losing]]:
    """Every unit to which refrigerant was added since then and whose charge is known, the fastest first."""
    added = {unit: listed for unit, listed in _additions(connection).items() if max(one.on for one in listed) > since}
    targets = visits.latest_targets(connection, list(added))
    found = [
        (unit, _counted(added[unit.id], facts_of(unit.facts), targets.get(unit.id), settings))
        for unit in visits.all_units(connection, list(added))
    ]
    return sorted((pair for pair in found if pair[1].rates), key=lambda pair: -pair[1].rates[-1].yearly)


def _additions(connection: Connection, unit_id: UUID | None = None) -> Mapping[UUID, Sequence[Addition]]:
    found: dict[UUID, list[Addition]] = {}
    for row in store.additions(connection, unit_id):
        found.setdefault(row.unit_id, []).append(Addition(day_of(row.at), int(row.grams) * GRAM_KG))
    return found


def _counted(added: Sequence[Addition], facts: UnitFacts, target: Mapping[str, Any] | None, settings: ShopSettings) -> Losing:
    if facts.more_circuits:  # a target is one circuit's, and the book does not say whose its lines are
        target = None
    full = target_from(ChargeTargetBody.model_validate(target), facts).kg if target else facts.smallest_label_charge_kg
    if not full:
        return Losing((), None, None, True)
    rates = leak_rates(added, full, settings.method)
    return Losing(rates, threshold_of(settings.rule, use_of(facts.kind), facts.refrigerant, full), full, target is None)
