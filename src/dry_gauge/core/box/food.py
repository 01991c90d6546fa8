"""Food at risk: how long each probed product stood above the limit, and what to tell the owner (R55). Air is not product."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from dry_gauge.core.quantities import FAHRENHEIT_K, to_kelvin

USUAL_LIMIT_K = to_kelvin(41)
"""Cold-held food; the local code decides, and is a setting. [K]"""
THAWS_K = to_kelvin(30)
"""A freezer's food begins to thaw. [K]"""
USUAL_LIMIT_MIN = 240.0
_SOON_SHARE = 0.5  # from half of the time on it is said loudly
_READING_K = 1.0 * FAHRENHEIT_K


@dataclass(frozen=True, slots=True)
class FoodClock:
    """``unknown``, ``sound``, ``warm``, ``soon`` or ``over``; minutes above the limit so far, and what is left of them. [min]"""

    state: str
    above_min: float
    left_min: float | None
    words: str


def food_clock(
    points: Sequence[tuple[float, float]],
    now_min: float,
    limit_k: float,
    limit_min: float,
    *,
    warm_since_min: float | None = None,
) -> FoodClock:
    """How long a product stood above the limit.

    Parameters
    ----------
    points : sequence of (float, float)
        Minutes and its core's temperature; between points it is taken as straight. [min, K]
    now_min : float
        Until now it is taken as at its last point.
    warm_since_min : float or None
        Since when it was warm before the first point, if anybody knows; else it counts from the first point that is. [min]
    """
    if not points:
        return FoodClock("unknown", 0.0, None, "No probe in it: unknown. Air is not product.")
    listed = sorted(points)
    above = sum(_above(*one, *two, limit_k) for one, two in pairwise(listed))
    last_at, last_k = listed[-1]
    warm = last_k > limit_k
    if warm:
        above += max(0.0, now_min - last_at)
    if warm_since_min is not None and listed[0][1] > limit_k:
        above += max(0.0, listed[0][0] - warm_since_min)
    left = limit_min - above
    if left <= 0:
        return FoodClock(
            "over",
            above,
            0.0,
            "Above the limit for longer than is usually held safe. Tell the owner now: they and the local code decide.",
        )
    if not warm:
        near = last_k > limit_k - _READING_K
        words = "At the limit, within what a thermometer is worth." if near else "Below the limit."
        return FoodClock("warm" if above > 0 else "sound", above, left, words)
    if above >= _SOON_SHARE * limit_min:
        return FoodClock("soon", above, left, "Above the limit: save it first, by moving it, ice, or another box.")
    return FoodClock("warm", above, left, "Above the limit: the clock runs.")


def _above(at: float, temp: float, then: float, after: float, limit: float) -> float:
    """Minutes above the limit between two points, on a straight line."""
    span = then - at
    if temp > limit and after > limit:
        return span
    if temp <= limit and after <= limit:
        return 0.0
    share = (limit - temp) / (after - temp)
    return span * (1 - share if after > limit else share)
