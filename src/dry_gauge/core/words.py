"""Sentences with numbers in them, kept apart from the units they are read in.

The core says what it found in SI; the same sentence is then read in F or C, psi, kPa or bar.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from dry_gauge.core.charge.mass import forms
from dry_gauge.core.dimensions import UNITS, as_typed, unit_for, units_of
from dry_gauge.core.quantities import FAHRENHEIT_K, STANDARD_ATMOSPHERE_PA, TON_W, ZERO_CELSIUS_K, to_fahrenheit

# Not str.format: a sentence may hold what somebody typed, braces and all.
_NUMBER = re.compile(r"\{(\w+)\}")
_GAUGE_UNITS = {"psi": "psig", "kPa": "kPag", "bar": "barg"}
CHOSEN_DIMENSIONS = ("pressure", "temperature", "static", "airflow")
"""What readers read in the unit that they have chosen; anything else in the unit it was typed in."""
_METRIC_AIR = ("Pa", "m3/h", "m/s", "m3/h/kW")


def counted(number: int, thing: str) -> str:
    """A number of things.

    Examples
    --------
    >>> counted(1, "point"), counted(2, "point")
    ('1 point', '2 points')
    """
    return f"{number} {thing}{'' if number == 1 else 's'}"


def in_percent(share: float, decimals: int = 0) -> str:
    """A share of one as it is written here.

    Examples
    --------
    >>> in_percent(0.124), in_percent(0.124, 1)
    ('12 %', '12.4 %')
    """
    return f"{share * 100:.{decimals}f} %"


@dataclass(frozen=True, slots=True)
class Reader:
    """How someone reads numbers: ``F`` or ``C``; ``psi``, ``kPa`` or ``bar``; ``lb_oz`` or ``kg``; and the barometer there.

    Who reads degrees Celsius reads air in metric units as well.
    """

    temperature_unit: str = "F"
    pressure_unit: str = "psi"
    atmosphere_pa: float = STANDARD_ATMOSPHERE_PA
    weight_unit: str = "lb_oz"
    hours: str = "24"
    """Of a clock: ``24`` or ``12``; what is drawn says them by `core.local_time`."""

    def temperature(self, temperature_k: float) -> float:
        """In the reader's unit, from K."""
        return to_fahrenheit(temperature_k) if self.temperature_unit == "F" else temperature_k - ZERO_CELSIUS_K

    def difference(self, difference_k: float) -> float:
        """A temperature difference in the reader's unit."""
        return difference_k / FAHRENHEIT_K if self.temperature_unit == "F" else difference_k

    def shift(self, difference_k: float) -> str:
        """How far a temperature moved, to the whole degree and with its sign; no move has none."""
        whole = round(self.difference(difference_k))
        return f"{whole:+d}".replace("-", "−") if whole else "0"

    def pressure(self, pressure_pa: float) -> float:
        """Gauge pressure in the reader's unit, from absolute Pa."""
        return UNITS[self.gauge_unit].from_si(pressure_pa, self.atmosphere_pa)

    @property
    def celsius(self) -> bool:
        """Whether temperatures are read in Celsius, and air in metric units with them."""
        return self.temperature_unit == "C"

    @property
    def chosen_units(self) -> tuple[str, ...]:
        """What this reader has chosen instead of the usual: temperature, gauge, and what goes with them."""
        return self.temperature_unit, self.gauge_unit, *(_METRIC_AIR if self.celsius else ())

    def reads(self, unit: str) -> bool:
        """Whether that is the unit in which this reader reads its dimension."""
        return unit_for(UNITS[unit].dimension, self.chosen_units).name == unit

    def own(self, value: float, unit: str) -> str:
        """What was typed in any unit, in this reader's: as it was typed where that is the same."""
        if self.reads(unit):
            return as_typed(value, unit)
        return self.say(UNITS[unit].dimension, UNITS[unit].to_si(value, self.atmosphere_pa))

    def told(self, value: float, unit: str) -> str:
        """What was typed as a record says it: in this reader's unit where they read another, and as it was typed."""
        typed = as_typed(value, unit)
        another = UNITS[unit].dimension in CHOSEN_DIMENSIONS and not self.reads(unit)
        return f"{self.own(value, unit)}, typed {typed}" if another else typed

    @property
    def gauge_unit(self) -> str:
        """Name of the gauge pressure unit, as on a reading sheet."""
        return _GAUGE_UNITS[self.pressure_unit]

    @property
    def pressure_decimals(self) -> int:
        """Decimals that a gauge shows in that unit."""
        return UNITS[self.gauge_unit].decimals

    def say(self, dimension: str, value_si: float) -> str:
        """Number and unit, for a sentence."""
        match dimension:
            case "temperature":
                return f"{_plain(self.temperature(value_si), 1)} °{self.temperature_unit}"
            case "difference":
                return f"{_plain(self.difference(value_si), 1)} °{self.temperature_unit}"
            case "limit":  # a temperature of a rule: nobody measured it to a tenth
                return f"{_plain(self.temperature(value_si), 0)} °{self.temperature_unit}"
            case "margin":  # a difference of a rule
                return f"{_plain(self.difference(value_si), 0)} °{self.temperature_unit}"
            case "pressure":
                return f"{self.pressure(value_si):,.{self.pressure_decimals}f} {self.gauge_unit}"
            case "weight":
                return forms(value_si).kg if self.weight_unit == "kg" else forms(value_si).lb_oz
            case "size":  # of a unit
                return f"{value_si / 1000:.1f} kW" if self.celsius else f"{value_si / TON_W:.1f} ton"
            case "share":
                return in_percent(value_si)
            case known if units_of(known):
                unit = unit_for(known, self.chosen_units)
                return f"{unit.say(value_si)} {unit.written}"
            case _:
                return f"{value_si:.1f}"


def _plain(value: float, decimals: int) -> str:
    """A number without a sign before nothing."""
    return f"{round(value, decimals) + 0.0:.{decimals}f}"


_EVERYBODY = (Reader(), Reader("C", "bar", weight_unit="kg"))


def to_anyone(dimension: str, value_si: float) -> str:
    """Number and unit both ways, for a refusal: who reads it is not known where it is raised.

    Examples
    --------
    >>> to_anyone("limit", 277.6)
    '40 °F (4 °C)'
    """
    usual, metric = (reader.say(dimension, value_si) for reader in _EVERYBODY)
    return f"{usual} ({metric})"


@dataclass(frozen=True, slots=True)
class Phrase:
    """A sentence whose numbers are still in SI.

    Examples
    --------
    >>> gap = Phrase("Superheat is {gap}.", {"gap": ("difference", 10.0)})
    >>> gap.read(Reader()), gap.read(Reader("C"))
    ('Superheat is 18.0 °F.', 'Superheat is 10.0 °C.')
    """

    template: str
    numbers: Mapping[str, tuple[str, float]] = field(default_factory=dict)

    def read(self, reader: Reader) -> str:
        """The sentence in the reader's units."""
        return self._with(reader.say)

    def read_by_anyone(self) -> str:
        """The sentence with each number both ways."""
        return self._with(to_anyone)

    def _with(self, say: Callable[[str, float], str]) -> str:
        said = {name: say(dimension, value) for name, (dimension, value) in self.numbers.items()}
        return _NUMBER.sub(lambda place: said.get(place[1], place[0]), self.template)
