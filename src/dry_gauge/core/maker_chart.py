"""Coil gaps by the maker's own chart, between the rows that were typed from it."""

from __future__ import annotations

from collections.abc import Sequence
from math import hypot

from dry_gauge.core.quantities import FAHRENHEIT_K
from dry_gauge.core.sheet import CircuitView
from dry_gauge.core.target import Target, around_k

# How far a sound unit may stand from its maker's chart. Chosen: what a chart's rows and a gauge leave open.
_CHART_F = 3.0


def of_maker_chart(view: CircuitView) -> dict[str, Target]:
    """Coil gaps from the maker's chart, between its rows; nothing where today's weather is beyond them."""
    outdoor, indoor = view.get("outdoor_air_temp"), view.entering_indoor_air
    chart, condenser_air, evaporator_air = view.unit.maker_chart, view.entering_condenser_air, view.entering_evaporator_air
    if not (chart and outdoor and indoor and condenser_air and evaporator_air):
        return {}
    saturation, found = view.unit.saturation, {}
    head_pa = _between([(row.outdoor_k, row.indoor_k, row.head_pa) for row in chart], outdoor.value, indoor.value)
    suction_pa = _between([(row.outdoor_k, row.indoor_k, row.suction_pa) for row in chart], outdoor.value, indoor.value)
    if head_pa is not None and saturation.covers_pressure(head_pa):
        aim_k = saturation.condensing_mean_k(head_pa) - condenser_air.value
        found["condenser_split"] = around_k("condenser_split", aim_k, _CHART_F, "maker_chart", "the maker's chart")
    if suction_pa is not None and saturation.covers_pressure(suction_pa):
        aim_k = evaporator_air.value - saturation.evaporating_mean_k(suction_pa)
        found["evaporator_td"] = around_k("evaporator_td", aim_k, _CHART_F, "maker_chart", "the maker's chart")
    return found


_CHART_REACH_K = 5 * FAHRENHEIT_K  # beyond its rows by no more than this


def _between(rows: Sequence[tuple[float, float, float | None]], outdoor_k: float, indoor_k: float) -> float | None:
    """A chart's figure at today's airs: its nearest rows weighted by distance; None where none is near."""
    known = [(row[0], row[1], row[2]) for row in rows if row[2] is not None]
    if not known:
        return None
    for i, now_k in ((0, outdoor_k), (1, indoor_k)):
        ends = [row[i] for row in known]
        if not min(ends) - _CHART_REACH_K <= now_k <= max(ends) + _CHART_REACH_K:
            return None
    steps = [hypot(row[0] - outdoor_k, row[1] - indoor_k) for row in known]
    if min(steps) < 1e-6:
        return known[steps.index(min(steps))][2]
    nearest = sorted(range(len(known)), key=lambda k: steps[k])[:4]
    weights = [1 / steps[k] ** 2 for k in nearest]
    return sum(weight * known[k][2] for weight, k in zip(weights, nearest, strict=True)) / sum(weights)
