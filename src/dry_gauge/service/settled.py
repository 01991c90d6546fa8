"""Whether the unit has settled, from what was read more than once on this visit, and from live samples if there are any."""

from __future__ import annotations

from bisect import bisect
from collections.abc import Mapping, Sequence
from datetime import datetime

from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import make_reading
from dry_gauge.core.refrigerants.saturation import saturation_of
from dry_gauge.core.settling import LIMITS_K, Drift, Settling, drift_of, settled
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import State
from dry_gauge.notebook.state import KeptReading, VisitState

Series = Sequence[tuple[float, float]]
"""Minutes and values in SI, rising in time."""
_AFTER_THAW_MINUTES = 20.0
_USUAL_MINUTES = 15.0
_TOGETHER_MINUTES = 0.5


def series_of(kept: KeptReading, facts: UnitFacts) -> Series:
    """A reading with those before it, minutes counted back from the latest."""
    points = []
    for at, value, unit in (
        *((one.at, one.value, one.unit) for one in kept.earlier),
        (kept.at, kept.body.value, kept.body.unit),
    ):
        try:
            si = make_reading(facts, kept.body.quantity, value, unit).value_si
        except Refused:
            continue
        points.append(((at - kept.at).total_seconds() / 60, si))
    return points


def gaps_over_time(series: Mapping[str, Series], facts: UnitFacts) -> dict[str, Series]:
    """Both saturations, superheat, subcooling and air split at the times at which they can be had.

    Saturations are temperatures, the rest differences; a pressure goes with the line read nearest to it. [min, K]
    """
    saturation = saturation_of(facts.refrigerant)
    found: dict[str, Series] = {}
    for name, gap, pressure, line, curve, sign in (
        ("suction_saturation", "superheat", "suction_pressure", "suction_line_temp", saturation.dew_temperature_k, 1),
        (
            "condensing_saturation",
            "subcooling",
            "liquid_pressure",
            "liquid_line_temp",
            saturation.bubble_temperature_k,
            -1,
        ),
    ):
        points = [(t, curve(p)) for t, p in series.get(pressure, ()) if saturation.covers_pressure(p)]
        found[name] = points
        found[gap] = [(t, sign * (value - k)) for t, k, value in _beside(points, series.get(line, ()))]
    rise = -1 if facts.heating else 1
    air = _beside(series.get("return_air_temp", ()), series.get("supply_air_temp", ()))
    found["air_split"] = [(t, rise * (entering - supply)) for t, entering, supply in air]
    return found


def _beside(points: Series, others: Series) -> list[tuple[float, float, float]]:
    """Each point with the other series' value nearest in time, where that was read in the same half minute or between."""
    times = [t for t, _ in others]
    found = []
    for t, value in points:
        if not times or not times[0] - _TOGETHER_MINUTES <= t <= times[-1] + _TOGETHER_MINUTES:
            continue
        i = bisect(times, t)
        nearest = min((j for j in (i - 1, i) if 0 <= j < len(times)), key=lambda j: abs(times[j] - t))
        found.append((t, value, others[nearest][1]))
    return found


def drifts_of(series: Mapping[str, Series], facts: UnitFacts) -> tuple[Drift, ...]:
    """Drift of both saturations, superheat and subcooling, as far as pressures and lines were read repeatedly."""
    gaps = gaps_over_time(series, facts)
    found = (drift_of(name, [t for t, _ in gaps[name]], [k for _, k in gaps[name]]) for name in LIMITS_K)
    return tuple(drift for drift in found if drift is not None)


def settling_of(
    state: VisitState, facts: UnitFacts, live: Mapping[str, Series] | None = None, since_read: float = 0.0
) -> Settling:
    """The answer for a visit as it stands.

    Parameters
    ----------
    live : mapping of str to Series or None
        Samples of live probes by quantity, used in place of typed readings.
    since_read : float
        Minutes since the latest reading, where the clock runs on while probes are live.
    """
    series: Mapping[str, Series] = live or {
        kept.body.quantity: series_of(kept, facts) for kept in state.readings.values() if kept.earlier
    }
    states = state.states()
    longer = any(
        states.get(what) is State.YES for what in ("recently_charged", "recently_defrosted", "recently_opened")
    )
    return settled(
        drifts_of(series, facts), _minutes(state, "started_at", since_read), _minutes(state, "changed_at", since_read),
        _AFTER_THAW_MINUTES if longer else _USUAL_MINUTES,
    )  # fmt: skip


def _minutes(state: VisitState, since: str, more: float) -> float | None:
    moment: datetime | None = getattr(state, since)
    if moment is None or state.last_read_at is None:
        return None
    return max(0.0, (state.last_read_at - moment).total_seconds() / 60 + more)
