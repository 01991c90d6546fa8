"""How a fault moves each gap as it grows, as the simulated units show it and as the trade says: small curves side by side.

From nothing at the left to as bad as a unit still runs at the right; the soft edge is how much makes and units differ.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

from dry_gauge.core.judgement.calibration import group_of
from dry_gauge.core.judgement.evidence import GAP_LABELS
from dry_gauge.core.judgement.features import FEATURES
from dry_gauge.core.judgement.hypotheses import BANDS, HABIT_SEVERITIES, HYPOTHESES, SINGLE_SEVERITIES, Hypothesis
from dry_gauge.core.vocabulary import Fault
from dry_gauge.core.words import Reader
from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import add

SHOWN = ("superheat", "subcooling", "evaporator_td", "condenser_split", "air_split", "discharge_superheat")
_WIDTH, _HEIGHT = 300.0, 118.0
_LEFT, _RIGHT, _MIDDLE, _HALF = 12.0, 210.0, 68.0, 38.0


@dataclass(frozen=True, slots=True)
class Trend:
    """How one gap moves as a fault grows: severity, shift and spread (K) by the bench; severity and shift by the trade."""

    points: tuple[tuple[float, float, float], ...]
    habit: tuple[tuple[float, float], ...]


def curves(fault: Fault, group: str) -> dict[str, Trend]:
    """The trend of each gap on one sort of unit."""
    shifts, spreads = group_of(group).shifts, group_of(group).spreads
    rows = [(size, HYPOTHESES.index(Hypothesis(((fault, size),)))) for size in SINGLE_SEVERITIES]
    told = [(size, HYPOTHESES.index(Hypothesis(((fault, size),), by_habit=True))) for size in HABIT_SEVERITIES]
    found = {}
    for name in SHOWN:
        i = FEATURES.index(name)
        if group in ("cooler", "freezer", "box_fixed") and name == "air_split":
            continue
        points = ((0.0, 0.0, 0.0), *((size, float(shifts[row, i]), float(spreads[row, i])) for size, row in rows))
        found[name] = Trend(points, ((0.0, 0.0), *((size, float(shifts[row, i])) for size, row in told)))
    return found


def trend_svg(name: str, trend: Trend, reader: Reader, tallest_k: float, ident: str) -> str:
    """One gap's curve, all of one page to the same scale."""
    points = trend.points
    label = GAP_LABELS[name]
    last_k = points[-1][1]
    middle_k = next(shift for severity, shift, _ in points if severity >= 0.5)
    unit = f"°{reader.temperature_unit}"
    described = f"{label}: {reader.shift(middle_k)} {unit} at medium size, {reader.shift(last_k)} {unit} at full."
    root = svg.picture(_WIDTH, _HEIGHT, "trend", label, described, ident)

    def at(severity: float, shift_k: float) -> tuple[float, float]:
        return _LEFT + severity * (_RIGHT - _LEFT), _MIDDLE - shift_k / tallest_k * _HALF

    add(root, "text", "trend-name", label, x=_LEFT, y=18)
    for (edge, _), (_, words) in pairwise(BANDS):
        x, _y = at(edge, 0.0)
        add(root, "line", "trend-band", x1=x, x2=x, y1=_MIDDLE - _HALF, y2=_MIDDLE + _HALF)
        add(root, "text", "trend-word", words, x=x + 3, y=_MIDDLE + _HALF + 10)
    add(root, "line", "trend-zero", x1=_LEFT, x2=_RIGHT, y1=_MIDDLE, y2=_MIDDLE)
    upper = [at(s, shift + spread) for s, shift, spread in points]
    lower = [at(s, shift - spread) for s, shift, spread in points]
    clip = [(x, min(max(y, _MIDDLE - _HALF - 8), _MIDDLE + _HALF + 8)) for x, y in (*upper, *lower[::-1])]
    add(root, "path", "trend-spread", d="M" + "L".join(f"{x:.5g} {y:.5g}" for x, y in clip) + "Z")
    add(root, "path", "trend-line", d="M" + "L".join(f"{x:.5g} {y:.5g}" for x, y in (at(s, k) for s, k, _ in points)))
    told = (at(size, min(max(shift_k, -tallest_k), tallest_k)) for size, shift_k in trend.habit)
    add(root, "path", "trend-habit", d="M" + "L".join(f"{x:.5g} {y:.5g}" for x, y in told))
    end = at(1.0, last_k)
    words = "about the same" if abs(reader.difference(last_k)) < 1.0 else f"{reader.shift(last_k)} {unit}"
    add(root, "text", "trend-value", words, x=_RIGHT + 8, y=min(max(end[1] + 5, 30), _HEIGHT - 16))
    return svg.written(root)
