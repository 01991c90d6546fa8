"""Where a typed or sent number becomes a reading in SI, or is refused in a sentence that helps.

Forms, files and API all come through here, so that one number is refused for one reason in one wording.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from difflib import get_close_matches
from math import isfinite

from dry_gauge.core.dimensions import UNITS, Unit, unit_named, units_of
from dry_gauge.core.errors import Refused
from dry_gauge.core.quantities import FOOT_M, PSI_PA
from dry_gauge.core.refrigerants.catalogue import Refrigerant
from dry_gauge.core.sheet import Observation, Reading, UnitFacts
from dry_gauge.core.vocabulary import OLDER_SIGHTS, QUANTITIES, SIGHTS, Quantity, State, default_half_width_si

_LEAST_ABSOLUTE_PA = 1.0  # a pressure gauge's best vacuum, 29.9 in. Hg, is seventy times that (chosen)
_MOST_GAUGE_PA, _MOST_GAUGE_CO2_PA = 1500 * PSI_PA, 3000 * PSI_PA


def most_gauge_pa(refrigerant: Refrigerant) -> float:
    """Gauge pressure above which a number is a slip, whatever happened to the unit. [Pa]"""
    return _MOST_GAUGE_CO2_PA if refrigerant.apart == "carbon_dioxide" else _MOST_GAUGE_PA


_NUMBER = re.compile(r"[-+]?\s*(?:\d+(?:[.,]\d+)*[.,]?|[.,]\d+)")


def typed_number(text: str, path: str = "value", what: str = "") -> float:
    """A number as people type it, with a decimal comma as well.

    Parameters
    ----------
    text : str
        Digits, without a unit.
    path : str
        The field, for a refusal.
    what : str
        What the number is of; what was typed is named where empty.

    Raises
    ------
    Refused
        For what is no number, and for a comma before three digits: a thousand, or thousandths?
    """
    typed = text.strip().replace("−", "-").replace("–", "-")
    short = typed if len(typed) <= 24 else typed[:21] + "..."
    if not _NUMBER.fullmatch(typed):
        words = f"{what} is a number, such as 44." if what else f"{short!r} is not a number. Type digits, such as 72.5."
        raise Refused(words, path)
    digits = typed.replace(" ", "")
    if "," in digits:
        whole, _, rest = digits.rpartition(",")
        if "." in digits or "," in whole or len(rest) == 3:
            raise Refused(f"{short!r} can be read two ways: write {digits.replace(',', '')} or use a decimal point.", path)
        digits = f"{whole}.{rest}"
    if digits.count(".") > 1:
        raise Refused(f"{short!r} has more than one decimal point.", path)
    return float(digits)


def unknown(what: str, name: str, known: Iterable[str], path: str, *, show_all: bool = False) -> Refused:
    """The refusal of an unknown name, with the nearest known ones (or all of a short list)."""
    names = tuple(known)
    close = tuple(get_close_matches(name, names, n=3, cutoff=0.4))
    nearest = names if show_all and (len(names) <= 4 or not close) else close
    hint = f" Did you mean {' or '.join(nearest)}?" if nearest else ""
    return Refused(f"{name!r} is not a known {what}.{hint}", path, nearest)


def parse_unit(written: str, dimension: str) -> str:
    """The contract's name of a unit as people write it.

    Raises
    ------
    Refused
    """
    name = unit_named(written)
    if name is None or UNITS[name].dimension != dimension:
        raise unknown("unit here", written, units_of(dimension), "unit", show_all=True)
    return name


def in_unit(value: float, written: str, usual: str, wanted: str) -> float:
    """A typed number in the unit that is wanted: from the one written behind it, or from the usual one. Gauge at sea level.

    Raises
    ------
    Refused
        For what is no unit of that dimension.
    """
    name = parse_unit(written or usual, UNITS[wanted].dimension)
    return value if name == wanted else UNITS[wanted].from_si(UNITS[name].to_si(value))


def difference_k(value: float, written: str, usual: str) -> float:
    """A typed difference of temperatures, in the degrees written behind it or in the usual ones. [K]

    Raises
    ------
    Refused
    """
    name = "C" if written.upper() == "K" else parse_unit(written or usual, "temperature")
    return value * UNITS[name].scale


_HEIGHTS_M = {
    **dict.fromkeys(("ft", "ft.", "feet", "foot", "'"), FOOT_M),
    **dict.fromkeys(("m", "metres", "metre", "meters", "meter"), 1),
}


def height_m(value: float, written: str, usual: str) -> float:
    """A typed elevation, in feet or metres. [m]

    Raises
    ------
    Refused
    """
    scale = _HEIGHTS_M.get(written.lower() or usual)
    if scale is None:
        raise Refused(f"{written!r} is no unit of height here. Write ft or m.", "unit")
    return value * scale


def make_reading(
    facts: UnitFacts,
    quantity: str,
    value: float,
    unit: str,
    accuracy: float | None = None,
    minutes: float | None = None,
    circuit: int | None = None,
    stage: str | int | None = None,
    place: str | None = None,
    instrument: str = "",
) -> Reading:
    """One reading in SI, checked against what it can be on this unit.

    Parameters
    ----------
    facts : UnitFacts
        For its refrigerant's table and its elevation.
    quantity, unit : str
        Names of the contract.
    value, accuracy : float
        In `unit`; the accuracy is a 95 % half-width, the usual instrument's where None.

    Raises
    ------
    Refused
        For an unknown quantity, a unit that does not fit it, or a value that cannot be; the path names the argument.
    """
    known = QUANTITIES.get(quantity)
    if known is None:
        raise unknown("quantity", quantity, QUANTITIES, "quantity")
    measured_in = _unit(known, unit)
    if not isfinite(value):
        raise Refused("The value must be a finite number.", "value")
    value_si = measured_in.to_si(value, facts.atmosphere_pa)
    _check_value(known, value_si, f"{value:,.10g} {unit}", facts)
    half_width_si = (
        default_half_width_si(known, value_si, facts.atmosphere_pa) if accuracy is None else accuracy * measured_in.scale
    )
    return Reading(quantity, value_si, half_width_si, minutes, circuit, None if stage is None else str(stage), place, instrument)


def _unit(quantity: Quantity, name: str) -> Unit:
    fitting = units_of(quantity.dimension)
    unit = UNITS.get(name)
    if unit is None:
        raise unknown("unit", name, fitting, "unit", show_all=True)
    if unit.dimension != quantity.dimension:
        raise Refused(f"{quantity.name} is not measured in {name}; it takes {' or '.join(fitting)}.", "unit", fitting)
    return unit


def _check_value(quantity: Quantity, value_si: float, typed: str, facts: UnitFacts) -> None:
    match quantity.dimension:
        case "temperature" if value_si < 0:
            raise Refused(f"{typed} is below absolute zero.", "value")
        case "pressure" if value_si < _LEAST_ABSOLUTE_PA:
            how_much = "zero or less" if value_si <= 0 else "next to nothing"
            raise Refused(f"{typed} is an absolute pressure of {how_much}; no gauge can show it.", "value")
        case "pressure" if value_si - facts.atmosphere_pa > (most := most_gauge_pa(facts.refrigerant)):
            raise Refused(
                f"{typed} is above {most / PSI_PA:,.0f} psig, more than any part of this unit holds: is the decimal "
                "point in place, and is it the unit the gauge showed?",
                "value",
            )
        case "pressure":
            return  # also beyond the refrigerant's table: the number is the evidence
        case "humidity" if not quantity.least_si <= value_si <= quantity.most_si:
            raise Refused(f"A relative humidity of {typed} is outside 0 to 103 %.", "value")
        case _ if not quantity.least_si <= value_si <= quantity.most_si:
            raise Refused(f"{typed} is beyond anything an instrument shows for {quantity.label.lower()}.", "value")


def make_observation(what: str, state: State, circuit: int | None = None) -> Observation:
    """One observation.

    Raises
    ------
    Refused
        For an unknown one, with the nearest known names.
    """
    name = OLDER_SIGHTS.get(what, what)
    if name not in SIGHTS:
        raise unknown("observation", what, SIGHTS, "what")
    return Observation(name, state, circuit)
