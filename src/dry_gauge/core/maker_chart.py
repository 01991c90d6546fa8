"""Coil gaps and superheat by the maker's own chart, between the rows that were typed from it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from math import hypot

from dry_gauge.core.circuit import entering_wet_bulb
from dry_gauge.core.quantities import FAHRENHEIT_K
from dry_gauge.core.sheet import ChartRow, CircuitView
from dry_gauge.core.target import Target, around_k

# How far a sound unit may stand from its maker's chart. Chosen: what a chart's rows and a gauge leave open.
_CHART_F, _CHART_SUPERHEAT_F = 3.0, 5.0


def of_maker_chart(view: CircuitView) -> Iterator[Target]:
    """What the maker's chart says between its rows; nothing where today's weather is beyond them.

    In cooling rows by the indoor air's wet bulb go before those by its dry bulb, which may be of the chart for heating.
    """
    wet = [] if view.unit.heating else [row for row in view.unit.maker_chart if row.by_wet_bulb]
    rows = wet or [row for row in view.unit.maker_chart if not row.by_wet_bulb]
    outdoor, indoor = view.get("outdoor_air_temp"), entering_wet_bulb(view) if wet else view.entering_indoor_air
    if not (rows and outdoor and indoor):
        return

    def today(figure: Callable[[ChartRow], float | None]) -> float | None:
        known = [(row.outdoor_k, row.indoor_k, value) for row in rows if (value := figure(row)) is not None]
        return _between(known, outdoor.value, indoor.value)

    saturation, said = view.unit.saturation, "the maker's chart"
    head_pa, suction_pa = today(lambda row: row.head_pa), today(lambda row: row.suction_pa)
    condenser_air, evaporator_air = view.entering_condenser_air, view.entering_evaporator_air
    if head_pa is not None and condenser_air and saturation.covers_pressure(head_pa):
        aim_k = saturation.condensing_mean_k(head_pa) - condenser_air.value
        yield around_k("condenser_split", aim_k, _CHART_F, "maker_chart", said)
    if suction_pa is not None and evaporator_air and saturation.covers_pressure(suction_pa):
        aim_k = evaporator_air.value - saturation.evaporating_mean_k(suction_pa)
        yield around_k("evaporator_td", aim_k, _CHART_F, "maker_chart", said)
    superheat_k = today(lambda row: row.superheat_k)
    if superheat_k is not None:
        yield around_k("superheat", superheat_k, _CHART_SUPERHEAT_F, "maker_chart", said)


_CHART_REACH_K = 5 * FAHRENHEIT_K  # beyond its rows by no more than this


def _between(known: list[tuple[float, float, float]], outdoor_k: float, indoor_k: float) -> float | None:
    """A chart's figure at today's airs: its nearest rows weighted by distance; None where none is near."""
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
