"""How much refrigerant belongs in: label, line set, drier, changes; what is in; what a recovery cylinder may hold."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from math import pi

import numpy as np

from dry_gauge.core.charge.mass import OUNCE_KG
from dry_gauge.core.errors import Refused
from dry_gauge.core.quantities import FOOT_M, INCH_M, to_kelvin
from dry_gauge.core.refrigerants.catalogue import CATALOGUE, Refrigerant
from dry_gauge.core.refrigerants.properties import Properties

# Liquid lines of copper as refrigeration tube is sold: outside diameter and wall (ASTM B280). [in.]
LIQUID_LINES: Mapping[str, tuple[float, float]] = {
    "1/4": (1 / 4, 0.030),
    "5/16": (5 / 16, 0.032),
    "3/8": (3 / 8, 0.032),
    "1/2": (1 / 2, 0.032),
    "5/8": (5 / 8, 0.035),
}
# What liquid in a running liquid line is about at: the habit behind the makers' figures. Assumed.
LINE_LIQUID_K = to_kelvin(100)
# A recovery cylinder is filled to 80 % of its volume with liquid at 77 F, whatever the day is (R22; 49 CFR 173.304a, DOT 39).
FULL_SHARE, FILL_AT_K = 0.8, to_kelvin(77)
HOT_VAN_K = to_kelvin(130)
SAYS_FROM, ASKS_FROM = 1.0, 1.10  # shares of the target total (docs/rules.md, R23)
"""Shares of the target total from which the screen says so, and from which it asks why."""
_LONGEST_LINE_M = 300.0


@cache
def liquid_density(refrigerant: Refrigerant, temperature_k: float) -> float:
    """Density of saturated liquid. [kg/m3]

    Parameters
    ----------
    temperature_k : float
        Bubble temperature, within the refrigerant's table.
    """
    properties = Properties([refrigerant])
    position = properties.position_of_temperature(np.array([temperature_k]), dew_share=0.0)
    return float(properties.at(position).bubble_density[0])


def liquid_per_metre(refrigerant: Refrigerant, line: str) -> float:
    """Liquid in a metre of liquid line at 100 F. [kg/m]

    Parameters
    ----------
    line : str
        Outside diameter, one of `LIQUID_LINES`.

    Raises
    ------
    Refused

    Examples
    --------
    >>> from dry_gauge.core.refrigerants.catalogue import find
    >>> round(liquid_per_metre(find("R-410A"), "3/8") * FOOT_M / OUNCE_KG, 2)
    0.52
    """
    if line not in LIQUID_LINES:
        raise Refused(f"{line!r} is no liquid line known here: {', '.join(LIQUID_LINES)}.", "liquid_line")
    outside, wall = LIQUID_LINES[line]
    bore_m = (outside - 2 * wall) * INCH_M
    return liquid_density(refrigerant, LINE_LIQUID_K) * pi * bore_m**2 / 4


@dataclass(frozen=True, slots=True)
class LineSet:
    """A line set as measured. A maker's figure, where there is one, replaces ours. SI."""

    length_m: float
    line: str = "3/8"
    included_m: float = 0.0
    maker_kg_per_m: float | None = None


@dataclass(frozen=True, slots=True)
class TargetPart:
    """One line of how the target is made; `source` says where the figure comes from."""

    name: str
    kg: float
    source: str
    assumed: bool = False


@dataclass(frozen=True, slots=True)
class ChargeTarget:
    """The target and how it is made."""

    parts: tuple[TargetPart, ...]

    @property
    def kg(self) -> float:
        """Total. [kg]"""
        return sum(part.kg for part in self.parts)

    @property
    def assumed(self) -> bool:
        """Whether any part rests on a habit."""
        return any(part.assumed for part in self.parts)


def charge_target(
    refrigerant: Refrigerant,
    label_kg: float,
    line_set: LineSet | None = None,
    drier_kg: float = 0.0,
    changes: Iterable[tuple[str, float]] = (),
) -> ChargeTarget:
    """What belongs in: label, what the line set holds beyond (or short of) the included length, drier, other changes.

    Parameters
    ----------
    label_kg : float
        From the label, above zero. [kg]
    drier_kg : float
        What a filter drier holds that the label does not count. [kg]
    changes : iterable of (str, float)
        A coil or receiver of another size and the like, signed. [kg]

    Raises
    ------
    Refused
        Where nothing, or less, would be left.
    """
    if not label_kg > 0:
        raise Refused("Type the label's charge: the target starts from it.", "label")
    parts = [TargetPart("Label", label_kg, "unit label")]
    if line_set is not None:
        parts.append(_line_part(refrigerant, line_set))
    if drier_kg:
        parts.append(TargetPart("Filter drier", drier_kg, "drier's own figure"))
    parts += [TargetPart(name, kg, "recorded change") for name, kg in changes if kg]
    target = ChargeTarget(tuple(parts))
    if target.kg <= 0:
        raise Refused("Line set and changes take away more than the label holds. Check lengths and signs.", "length")
    return target


def _line_part(refrigerant: Refrigerant, line_set: LineSet) -> TargetPart:
    if not 0 <= line_set.length_m <= _LONGEST_LINE_M or not 0 <= line_set.included_m <= _LONGEST_LINE_M:
        raise Refused("A line set is between 0 and 300 m (1,000 ft) long.", "length")
    beyond = line_set.length_m - line_set.included_m
    name = "Line set beyond what is included" if beyond >= 0 else "Line set shorter than what is included"
    if line_set.maker_kg_per_m is not None:
        return TargetPart(name, beyond * line_set.maker_kg_per_m, "maker's figure")
    per_metre = liquid_per_metre(refrigerant, line_set.line)
    per_foot = f"{per_metre * FOOT_M / OUNCE_KG:.2f} oz/ft ({per_metre * 1000:.0f} g/m)"
    return TargetPart(name, beyond * per_metre, f"{line_set.line} in., {per_foot} of liquid at 100 °F (38 °C)", True)


# -- cylinders -------------------------------------------------------------


def fill_limit_kg(water_capacity_kg: float, candidates: Sequence[Refrigerant] = ()) -> float:
    """Most that a recovery cylinder may hold: 80 % of its volume as liquid at 77 F, always at 77 F. [kg]

    Parameters
    ----------
    water_capacity_kg : float
        Weight of water it holds, stamped on it (WC); a kilogram of water is a litre. [kg]
    candidates : sequence of Refrigerant
        What it may hold; the lightest liquid counts. Nothing known: the lightest of the catalogue.

    Raises
    ------
    Refused

    Examples
    --------
    >>> from dry_gauge.core.quantities import POUND_KG
    >>> from dry_gauge.core.refrigerants.catalogue import find
    >>> round(fill_limit_kg(47.7 * POUND_KG, [find("R-410A")]) / POUND_KG, 1)
    40.4
    """
    if not 0 < water_capacity_kg < 1500:
        raise Refused("The water capacity is stamped on the cylinder's collar, such as WC 47.7.", "water_capacity")
    return FULL_SHARE * water_capacity_kg * min(_fill_density(one) for one in candidates or _LIQUIDS) / 1000


def _fill_density(refrigerant: Refrigerant) -> float:
    return liquid_density(refrigerant, FILL_AT_K)


# Carbon dioxide is no liquid that is recovered at 77 F; ammonia goes another way altogether.
_LIQUIDS = tuple(one for one in CATALOGUE if not one.apart)


def hot_fill_share(water_capacity_kg: float, refrigerant: Refrigerant, held_kg: float) -> float | None:
    """Share of a cylinder's volume that is liquid at 130 F, as in a closed van; None beyond the refrigerant's table."""
    try:
        density = liquid_density(refrigerant, HOT_VAN_K)
    except Refused:
        return None
    return held_kg / (water_capacity_kg * density / 1000)


# -- where the charge stands -----------------------------------------------


_SCALE_DIGIT_KG = 0.003  # what a charging scale's last digit leaves open: 0.1 oz, 2.8 g


@dataclass(frozen=True, slots=True)
class Standing:
    """What is in against what belongs in. [kg]"""

    in_unit_kg: float
    target_kg: float

    @property
    def to_go_kg(self) -> float:
        """Left to add; negative if there is more than the target."""
        return self.target_kg - self.in_unit_kg

    @property
    def is_reached(self) -> bool:
        """Whether it is as near to the target as a scale tells."""
        return abs(self.to_go_kg) <= _SCALE_DIGIT_KG

    @property
    def share(self) -> float:
        """Of the target."""
        return self.in_unit_kg / self.target_kg

    @property
    def says(self) -> bool:
        """Whether there is more than the target total: it is said."""
        return self.share > SAYS_FROM + 0.002  # a scale's last digit is no overcharge

    @property
    def asks(self) -> bool:
        """Whether there is so much more that a reason is asked for."""
        return self.share > ASKS_FROM
