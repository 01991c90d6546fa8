"""Whether the unit has settled, from what was read more than once on this visit, and from live samples if there are any."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime

from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import make_reading
from dry_gauge.core.refrigerants.saturation import saturation_of
from dry_gauge.core.settling import Drift, Settling, drift_of, settled
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import State
from dry_gauge.notebook.state import KeptReading, VisitState

Series = Sequence[tuple[float, float]]
"""Minutes and values in SI, rising in time."""
_AFTER_THAW_MINUTES = 20.0
_USUAL_MINUTES = 15.0


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


def drifts_of(series: Mapping[str, Series], facts: UnitFacts) -> tuple[Drift, ...]:
    """Drift of both saturations, superheat and subcooling, as far as pressures and lines were read repeatedly."""
    saturation = saturation_of(facts.refrigerant)
    found: list[Drift | None] = []
    for name, pressure, line, curve, sign in (
        ("suction_saturation", "suction_pressure", "suction_line_temp", saturation.dew_temperature_k, 1),
        ("condensing_saturation", "liquid_pressure", "liquid_line_temp", saturation.bubble_temperature_k, -1),
    ):
        points = [(t, curve(p)) for t, p in series.get(pressure, ()) if saturation.covers_pressure(p)]
        found.append(drift_of(name, [t for t, _ in points], [k for _, k in points]))
        lines = list(series.get(line, ()))
        if len(points) >= 2 and len(lines) >= 2:
            gaps = [(t, sign * (_at(lines, t) - k)) for t, k in points if lines[0][0] - 0.5 <= t <= lines[-1][0] + 0.5]
            found.append(
                drift_of("superheat" if sign > 0 else "subcooling", [t for t, _ in gaps], [k for _, k in gaps])
            )
    return tuple(drift for drift in found if drift is not None)


def _at(points: Series, minute: float) -> float:
    """The value at a minute: of the nearest reading."""
    return min(points, key=lambda point: abs(point[0] - minute))[1]


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
