"""A row of simulated units: what was built, in what weather it runs, what is wrong with it.

Every array has one element a unit. Sizes are not given but follow from a design point, as a maker's would: `size`
chooses displacement, coils, metering and charge so that the unit meets its nameplate there.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields, replace
from typing import Self

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.judgement.hypotheses import MECHANISMS, felt
from dry_gauge.core.quantities import STANDARD_ATMOSPHERE_PA
from dry_gauge.core.refrigerants.catalogue import Refrigerant
from dry_gauge.core.vocabulary import Fault, HeadPressureControl, Kind, Metering, Mode

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Nameplate:
    """One unit as it would be ordered, before the spread of manufacture and installation. SI, differences in K."""

    kind: Kind
    refrigerant: Refrigerant
    mode: Mode = Mode.COOLING
    metering: Metering = Metering.TXV
    receiver: bool = False
    capacity_w: float = 10_550.0
    evaporator_td_k: float = 19.4
    condenser_split_k: float = 11.1
    design_superheat_k: float = 5.5
    design_subcooling_k: float = 5.5
    design_box_k: float | None = None
    head_pressure_control: HeadPressureControl = HeadPressureControl.NONE
    filled_with: Refrigerant | None = None
    """What is really in it, where that is not what the label says."""


class Rows:
    """Arrays whose last axis runs over units."""

    __slots__ = ()

    def take(self, which: NDArray[np.intp]) -> Self:
        """Some of the units, in the order given."""
        return type(self)(*(getattr(self, field.name)[..., which] for field in fields(self)))  # type: ignore[arg-type]


@dataclass(frozen=True, slots=True)
class Habits(Rows):
    """How far each unit departs from the textbook, as factors about 1 unless said: manufacture, age, installation."""

    evaporator_airflow: Array
    condenser_airflow: Array
    evaporator_surface: Array
    condenser_surface: Array
    displacement: Array
    isentropic: Array
    superheat_set: Array
    charge: Array
    metering: Array
    line_gain: Array
    line_drop: Array
    volume: Array
    amps: Array

    @classmethod
    def textbook(cls, n: int) -> Habits:
        """No departure at all."""
        return cls(*(np.ones(n) for _ in fields(cls)))

    @classmethod
    def drawn(cls, n: int, chance: np.random.Generator, spread: float = 1.0, tails: float | None = None) -> Habits:
        """Drawn about the textbook.

        Parameters
        ----------
        spread : float
            Multiplies every standard deviation.
        tails : float, optional
            Degrees of freedom of Student's t in place of a normal draw, at the same spread.
        """
        found = {}
        for name, sigma in _SIGMA.items():
            draw = chance.standard_normal(n)
            if tails:
                draw /= np.sqrt(chance.chisquare(tails, n) / (tails - 2))
            found[name] = np.exp(np.clip(sigma * spread * draw, -2.6 * sigma * spread, 2.6 * sigma * spread))
        return cls(**found)


# Unit to unit, one sigma of the logarithm. Airflow as commissioned is the loosest; displacement hardly varies.
_SIGMA: Mapping[str, float] = {
    "evaporator_airflow": 0.06,
    "condenser_airflow": 0.05,
    "evaporator_surface": 0.10,
    "condenser_surface": 0.08,
    "displacement": 0.025,
    "isentropic": 0.04,
    "superheat_set": 0.16,
    "charge": 0.02,
    "metering": 0.05,
    "line_gain": 0.35,
    "line_drop": 0.30,
    "volume": 0.12,
    "amps": 0.05,
}


# Chosen: what fans of two-stage comfort units do in low.
_INDOOR_IN_LOW, _OUTDOOR_IN_LOW = (0.6, 1.0), (0.7, 1.0)


@dataclass(frozen=True, slots=True)
class Weather(Rows):
    """What the unit meets today. [K]; humidity as wet bulb indoors; `frost` is the share of outdoor coil face iced."""

    outdoor_k: Array
    return_k: Array
    return_wet_bulb_k: Array
    atmosphere_pa: Array
    stage: Array
    """Share of the compressor's full stage, 1 when there is one only."""
    frost: Array
    indoor_fan: Array
    outdoor_fan: Array
    """Share of their full air; some units slow both with the compressor, others neither."""

    @classmethod
    def of(
        cls,
        outdoor_k: Sequence[float] | Array,
        return_k: Sequence[float] | Array,
        return_wet_bulb_k: Sequence[float] | Array,
        **more: Array,
    ) -> Weather:
        """Sea level, full stage, no frost unless said."""
        n = len(outdoor_k)
        return cls(
            np.asarray(outdoor_k, float),
            np.asarray(return_k, float),
            np.asarray(return_wet_bulb_k, float),
            more.get("atmosphere_pa", np.full(n, STANDARD_ATMOSPHERE_PA)),
            more.get("stage", np.ones(n)),
            more.get("frost", np.zeros(n)),
            more.get("indoor_fan", np.ones(n)),
            more.get("outdoor_fan", np.ones(n)),
        )

    def in_low_stage(self, shares: tuple[float, float], chance: np.random.Generator) -> Weather:
        """The same with every compressor held in a lower stage, its share of the full one drawn between those two.

        Fans follow as they are built: belts and one-speed motors not at all, others by as much as the compressor or more.
        """
        n = len(self.stage)
        return replace(
            self,
            stage=chance.uniform(*shares, n),
            indoor_fan=chance.uniform(*_INDOOR_IN_LOW, n),
            outdoor_fan=chance.uniform(*_OUTDOOR_IN_LOW, n),
        )


@dataclass(frozen=True, slots=True)
class Faults(Rows):
    """Severity of every mechanism in every unit: 0 is none, 1 as bad as a unit that still runs; see `MECHANISMS`."""

    severity: Array

    @classmethod
    def none(cls, n: int) -> Faults:
        """Nothing wrong anywhere."""
        return cls(np.zeros((len(MECHANISMS), n)))

    @classmethod
    def of(cls, n: int, **severities: float | Array) -> Faults:
        """By the contract's names, a number for all units or an array."""
        table = np.zeros((len(MECHANISMS), n))
        for name, severity in severities.items():
            table[MECHANISMS.index(Fault(name))] = severity
        return cls(table)

    def __getitem__(self, fault: Fault) -> Array:
        """How far the mechanism has gone, so that a size means the same of every fault; see `felt`."""
        return felt(fault, self.size(fault))

    def size(self, fault: Fault) -> Array:
        """Its severity as it stands."""
        size: Array = self.severity[MECHANISMS.index(fault)]
        return size

    def scaled(self, share: float) -> Faults:
        """All severities times `share`: a way to walk from a healthy unit to a sick one."""
        return Faults(self.severity * share)
