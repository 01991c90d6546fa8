"""Airflow by ways that do not know of each other: a traverse of the duct, electric heat, outdoor-air share.

They stand side by side with their error; where they disagree beyond it that is shown, never averaged (R37).
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations, pairwise
from math import hypot, pi, sqrt

from dry_gauge.core.air.psychrometrics import AIR_HEAT_J_KG_K
from dry_gauge.core.dimensions import UNITS
from dry_gauge.core.errors import Refused
from dry_gauge.core.quantities import CFM_M3_S, FAHRENHEIT_K, INCH_M, Measured
from dry_gauge.core.words import counted, to_anyone

# Places of the points as shares of the side or diameter: log-Tchebycheff for a rectangle, log-linear for a round duct
# (ISO 3966:2020, annexes; ASHRAE 111-2008, 7.6).
LOG_TCHEBYCHEFF = {
    5: (0.074, 0.288, 0.500, 0.712, 0.926),
    6: (0.061, 0.235, 0.437, 0.563, 0.765, 0.939),
    7: (0.053, 0.203, 0.366, 0.500, 0.634, 0.797, 0.947),
}
LOG_LINEAR = {6: (0.032, 0.135, 0.321, 0.679, 0.865, 0.968), 8: (0.021, 0.117, 0.184, 0.345, 0.655, 0.816, 0.883, 0.979)}
DIAMETERS = 3
GRID_RULE: Mapping[str, tuple[tuple[float, int], ...]] = {
    "rectangle": ((0.75, 5), (0.90, 6), (99.0, 7)), "round": ((0.25, 6), (99.0, 8)),
}  # fmt: skip
"""Points along a side or a diameter, by what it stays under. [m]"""
TRAVERSE_SHARE, HEAT_SHARE = 0.08, 0.07
"""Half-widths at 95 %, as shares of what they read (habit)."""
TABLE_SHARE = 0.15
"""Half-width at 95 % of what a maker's table says of the blower or coil that stands there (habit)."""
_LEAST_POINTS = 2
_LEAST_DIFFERENCE_K = 10 * FAHRENHEIT_K
_STALLED, _STALLED_SHARE = 0.1, 0.25
_LEAST_HEAT_K = 5 * FAHRENHEIT_K


@dataclass(frozen=True, slots=True)
class Grid:
    """Where to hold the probe: points as shares of width and height, or along each diameter; free area. [m2]"""

    rows: tuple[tuple[tuple[float, float], ...], ...]
    area_m2: float
    round_duct: bool

    @property
    def count(self) -> int:
        """How many points."""
        return sum(len(row) for row in self.rows)


def _points(side_m: float, shape: str) -> int:
    return next(count for below, count in GRID_RULE[shape] if side_m < below)


def rectangle(width_m: float, height_m: float) -> Grid:
    """The grid of a rectangular duct: 5 to 7 points a side by its size, at least 25.

    Raises
    ------
    Refused
        For a side that is no duct's.
    """
    for name, side in (("width", width_m), ("height", height_m)):
        if not 0.05 <= side <= 5.0:
            raise Refused(f"A duct's {name} is between 2 and 200 inches.", name)

    def points(side_m: float) -> tuple[float, ...]:
        return LOG_TCHEBYCHEFF[_points(side_m, "rectangle")]

    rows = tuple(tuple((x, y) for x in points(width_m)) for y in points(height_m))
    return Grid(rows, width_m * height_m, round_duct=False)


def round_duct(diameter_m: float) -> Grid:
    """The grid of a round duct: three diameters of six or eight points.

    Raises
    ------
    Refused
    """
    if not 0.05 <= diameter_m <= 4.0:
        raise Refused("A duct's diameter is between 2 and 150 inches.", "width")
    along = LOG_LINEAR[_points(diameter_m, "round")]
    return Grid(tuple(tuple((x, float(d)) for x in along) for d in range(DIAMETERS)), pi * diameter_m**2 / 4, round_duct=True)


@dataclass(frozen=True, slots=True)
class Traverse:
    """What a traverse gives so far. `warning` where many points stand still."""

    mean_m_s: float
    airflow: Measured
    read: int
    planned: int
    warning: str


def traverse(grid: Grid, velocities_m_s: Sequence[float], free_share: float = 1.0) -> Traverse:
    """Mean velocity times free area. [m/s]

    Parameters
    ----------
    velocities_m_s : sequence of float
        What was read, in the order of the grid, at least half of its points; at none the air goes backwards.
    free_share : float
        Of the area, what is open (a grille's); above 0, at most 1.

    Raises
    ------
    Refused
        For fewer than half the points, or air that goes backwards on average.
    """
    n = len(velocities_m_s)
    if n * 2 < grid.count:
        words = f"{n} of {grid.count} points: a traverse needs at least half. {-(-grid.count // 2) - n} more."
        raise Refused(words, "velocities")
    if n > grid.count:
        raise Refused(f"{counted(n, 'point')}, the grid has {grid.count}.", "velocities")
    if not 0 < free_share <= 1:
        raise Refused("The open area is above 0 and at most 100 %.", "free")
    middle = sum(velocities_m_s) / n
    if middle <= 0:
        raise Refused("The air goes backwards on average: turn the probe, or swap its tubes.", "velocities")
    most = max(velocities_m_s)
    still = sum(v < _STALLED * most for v in velocities_m_s)
    backwards = sum(v < 0 for v in velocities_m_s)
    warning = ""
    if backwards:
        warning = f"{counted(backwards, 'point')} read backwards: a swirl there, or swapped tubes."
    elif still / n >= _STALLED_SHARE:
        warning = f"{still} of {n} points stand nearly still: too close behind a bend. Another place, or trust it less."
    flow = middle * grid.area_m2 * free_share
    share = TRAVERSE_SHARE * (grid.count / n) ** 0.5 * (2 if warning else 1)
    return Traverse(middle, Measured.reading("traverse", flow, share * flow), n, grid.count, warning)


def by_electric_heat(watts: float, rise: Measured, density_kg_m3: float) -> Measured:
    """Airflow from heat that is known: watts over density, heat capacity and rise. [m3/s]

    In the trade's units cfm = 3.412 W / (1.08 dT) at sea level.

    Raises
    ------
    Refused
        Without heat, or with too small a rise to divide by.
    """
    if watts <= 0:
        raise Refused("Watts of the heat are needed.", "watts")
    if rise.value < _LEAST_HEAT_K:
        raise Refused(
            f"The rise is under {to_anyone('margin', _LEAST_HEAT_K)}: too little to divide by. All banks in, probe out "
            "of sight of the strips.",
            "rise",
        )
    flow = watts / (density_kg_m3 * AIR_HEAT_J_KG_K * rise.value)
    return Measured(flow, {"electric heat": HEAT_SHARE * flow, "rise": flow * rise.uncertainty / rise.value})


def check_fan_table(statics: Sequence[float], flows: Sequence[float]) -> None:
    """Whether that is a blower's table: two points at least, more static with less air.

    Raises
    ------
    Refused
    """
    if len(statics) != len(flows) or len(statics) < _LEAST_POINTS:
        raise Refused("A table has two points at least, each with its static and its airflow.", "points")
    if any(later <= former for former, later in pairwise(statics)) or any(more >= less for less, more in pairwise(flows)):
        raise Refused("From point to point the static rises and the airflow falls: write them in that order.", "points")


def by_fan_table(statics_pa: Sequence[float], flows_m3_s: Sequence[float], static: Measured) -> Measured:
    """Airflow at a static that was measured, on a straight line between the points of the blower's table. [m3/s]

    Raises
    ------
    Refused
        For a static outside of the table by more than its own error.
    """
    check_fan_table(statics_pa, flows_m3_s)
    if not statics_pa[0] - static.uncertainty <= static.value <= statics_pa[-1] + static.uncertainty:
        raise Refused("The static lies outside of the blower's table.", "points")
    at = next((i for i, one in enumerate(statics_pa[1:]) if static.value <= one), len(statics_pa) - 2)
    slope = (flows_m3_s[at + 1] - flows_m3_s[at]) / (statics_pa[at + 1] - statics_pa[at])
    flow = flows_m3_s[at] + slope * (static.value - statics_pa[at])
    return static.through(flow, slope) + Measured(0.0, {"fan table": TABLE_SHARE * flow})


def by_drop(flow_m3_s: float, drop_pa: float, drop: Measured) -> Measured:
    """Airflow from what a clean part drops, against what it drops at a known flow: by the square. [m3/s]

    Raises
    ------
    Refused
        Without a drop.
    """
    if drop.value <= drop.uncertainty:
        raise Refused("That part drops no more than its own error.", "drop")
    flow = flow_m3_s * sqrt(drop.value / drop_pa)
    return drop.through(flow, flow / (2 * drop.value)) + Measured(0.0, {"drop table": TABLE_SHARE * flow})


def outdoor_share(back: Measured, outdoor: Measured, mixed: Measured) -> Measured | None:
    """Share of outdoor air in the mixed air. [1] None where return and outdoor differ by less than 10 F."""
    span = back.value - outdoor.value
    if abs(span) < _LEAST_DIFFERENCE_K:
        return None
    share = (back.value - mixed.value) / span
    parts = {
        "return": back.uncertainty * (1 - share) / abs(span),
        "outdoor": outdoor.uncertainty * share / abs(span),
        "mixed": mixed.uncertainty / abs(span),
    }
    return Measured(share, parts)


@dataclass(frozen=True, slots=True)
class Disagreement:
    """Two ways that differ by more than their errors."""

    one: str
    other: str
    share: float


def disagreements(ways: Sequence[tuple[str, Measured]]) -> list[Disagreement]:
    """Every two of them that cannot both be right."""
    return [
        Disagreement(one, other, abs(a.value - b.value) / max(a.value, b.value))
        for (one, a), (other, b) in combinations(ways, 2)
        if abs(a.value - b.value) > hypot(a.uncertainty, b.uncertainty)
    ]


_FACE_FPM = ((1.0, 300.0), (4.0, 500.0))  # by thickness in inches (R36)
_FILTER_SIZE = re.compile(r"\s*(\d+(?:\.\d+)?)\s*[xX×*]\s*(\d+(?:\.\d+)?)(?:\s*[xX×*]\s*(\d+(?:\.\d+)?))?\s*(?:in\.?)?\s*")


@dataclass(frozen=True, slots=True)
class FaceVelocity:
    """Air through the face of a set of filters, and the most that their thickness bears. [m/s]"""

    velocity_m_s: float
    most_m_s: float

    @property
    def is_over(self) -> bool:
        """Whether it is more than they bear."""
        return self.velocity_m_s > self.most_m_s


def face_velocity(airflow_m3_s: float, size: str, count: int) -> FaceVelocity | None:
    """How fast air goes through filters of a size as it is printed, ``20 x 25 x 1`` in inches; None for any other wording.

    Without a third number an inch is assumed.

    References
    ----------
    .. [1] docs/rules.md, R36.
    """
    found = _FILTER_SIZE.fullmatch(size)
    if found is None or count < 1 or float(found[1]) * float(found[2]) <= 0:
        return None
    area_m2 = float(found[1]) * float(found[2]) * INCH_M**2 * count
    (thin, slow), (thick, fast) = _FACE_FPM
    share = min(max((float(found[3] or 1.0) - thin) / (thick - thin), 0.0), 1.0)
    return FaceVelocity(airflow_m3_s / area_m2, (slow + share * (fast - slow)) * UNITS["fpm"].scale)


def cfm(flow_m3_s: float) -> float:
    """In the trade's unit."""
    return flow_m3_s / CFM_M3_S
