"""Every unit in which a number may be written: its size, symbol, decimals, and how else people write it. Once, here.

This is where the trade's units come in and go out; inside, everything is SI.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cache

from dry_gauge.core.quantities import (
    BAR_PA,
    CFM_M3_S,
    FAHRENHEIT_K,
    FOOT_M,
    INCH_MERCURY_PA,
    INCH_WATER_PA,
    PSI_PA,
    STANDARD_ATMOSPHERE_PA,
    TON_W,
    ZERO_CELSIUS_K,
    ZERO_FAHRENHEIT_K,
)

MICRON_PA = 133.322387415e-3  # [Pa] a thousandth of a millimetre of mercury at 0 C (NIST SP 811, table B.8)


@dataclass(frozen=True, slots=True)
class Unit:
    """One unit of one dimension: ``si = value * scale + offset``.

    Parameters
    ----------
    name : str
        As in files and on the contract.
    decimals : int
        How many an instrument shows.
    symbol : str
        As a screen writes it; the name where empty.
    aliases : tuple of str
        How else people type it, in lower case without blanks.
    gauge, downward : bool
        `gauge` units count from the local barometer, `downward` ones down from it (inches of vacuum).
    """

    name: str
    dimension: str
    scale: float
    decimals: int = 1
    symbol: str = ""
    aliases: tuple[str, ...] = ()
    offset: float = 0.0
    gauge: bool = False
    downward: bool = False

    @property
    def written(self) -> str:
        """As a screen writes it."""
        return self.symbol or self.name

    def to_si(self, value: float, atmosphere_pa: float = STANDARD_ATMOSPHERE_PA) -> float:
        """The value in SI; pressures become absolute."""
        if self.downward:
            return atmosphere_pa - value * self.scale
        return value * self.scale + self.offset + (atmosphere_pa if self.gauge else 0.0)

    def from_si(self, value_si: float, atmosphere_pa: float = STANDARD_ATMOSPHERE_PA) -> float:
        """The value in this unit, from SI."""
        if self.downward:
            return (atmosphere_pa - value_si) / self.scale
        return (value_si - self.offset - (atmosphere_pa if self.gauge else 0.0)) / self.scale

    def say(self, value_si: float, atmosphere_pa: float = STANDARD_ATMOSPHERE_PA) -> str:
        """The number as an instrument in this unit shows it, without the unit."""
        return f"{self.from_si(value_si, atmosphere_pa):.{self.decimals}f}"


# The first of each dimension is what it is typed and shown in where the reader has chosen nothing else.
_ROWS = (
    Unit("psig", "pressure", PSI_PA, 1, aliases=("psi",), gauge=True),
    Unit("psia", "pressure", PSI_PA, 1),
    Unit("kPag", "pressure", 1e3, 0, aliases=("kpa",), gauge=True),
    Unit("kPaa", "pressure", 1e3, 0),
    Unit("barg", "pressure", BAR_PA, 2, aliases=("bar",), gauge=True),
    Unit("bara", "pressure", BAR_PA, 2),
    Unit("inHg_vac", "pressure", INCH_MERCURY_PA, 1, "in. Hg vacuum", ("inhg",), downward=True),
    Unit("F", "temperature", FAHRENHEIT_K, 1, "°F", ("°f",), ZERO_FAHRENHEIT_K),
    Unit("C", "temperature", 1.0, 1, "°C", ("°c",), ZERO_CELSIUS_K),
    Unit("%", "humidity", 0.01, 0),
    Unit("A", "current", 1.0, 1, aliases=("amps", "amp")),
    Unit("inwc", "static", INCH_WATER_PA, 2, "in. w.c.", ("in.w.c.", "in.wc", "inh2o")),
    Unit("Pa", "static", 1.0, 0),
    Unit("cfm", "airflow", CFM_M3_S, 0),
    Unit("m3/h", "airflow", 1 / 3600, 0, "m³/h", ("m³/h",)),
    Unit("L/s", "airflow", 1e-3, 0),
    Unit("fpm", "velocity", CFM_M3_S / FOOT_M**2, 0),
    Unit("m/s", "velocity", 1.0, 1),
    Unit("cfm/ton", "airflow_per_size", CFM_M3_S / TON_W, 0, "cfm a ton"),
    Unit("m3/h/kW", "airflow_per_size", 1 / 3600 / 1e3, 0, "m³/h a kW"),
    Unit("W", "power", 1.0, 0, aliases=("watts", "watt")),
    Unit("kW", "power", 1e3, 2),
    Unit("V", "voltage", 1.0, 1, aliases=("volts", "volt")),
    Unit("mV", "voltage", 1e-3, 0),
    Unit("uF", "capacitance", 1e-6, 1, "µF", ("mfd", "µf")),
    Unit("ohm", "resistance", 1.0, 1, aliases=("ohms",)),
    Unit("kohm", "resistance", 1e3, 2),
    Unit("Mohm", "resistance", 1e6, 1),
    Unit("rpm", "speed", 1 / 60, 0),
)
UNITS: Mapping[str, Unit] = {unit.name: unit for unit in _ROWS}
_WRITTEN = {key.lower(): unit.name for unit in _ROWS for key in (unit.name, *unit.aliases)}


@cache
def units_of(dimension: str) -> tuple[str, ...]:
    """Names of the units in which a quantity of that dimension may be written."""
    return tuple(unit.name for unit in _ROWS if unit.dimension == dimension)


def unit_for(dimension: str, chosen: Iterable[str] = ()) -> Unit:
    """The unit that a quantity of that dimension is shown in: one that was chosen, else the usual one."""
    listed = units_of(dimension)
    return UNITS[next((name for name in chosen if name in listed), listed[0])]


def as_typed(value: float, unit: str) -> str:
    """A number in the unit in which it was typed, as people write it.

    Examples
    --------
    >>> as_typed(-0.3, "inwc"), as_typed(72, "F")
    ('-0.3 in. w.c.', '72 °F')
    """
    return f"{value:.10g} {UNITS[unit].written if unit in UNITS else unit}"


def unit_named(written: str) -> str | None:
    """The name of a unit as people write it; None for what is no unit."""
    return _WRITTEN.get(written.lower().replace(" ", ""))
