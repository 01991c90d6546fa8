"""What a live probe says: tools that no reading sheet has, samples, and the latest of each probe."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from dry_gauge.core.charge.mass import WEIGHT_UNITS
from dry_gauge.core.dimensions import MICRON_PA
from dry_gauge.core.electrical.supply import LEGS, PAIRS, pair_words

STALE_SECONDS = 12.0
"""A probe that was silent for longer shows nothing."""
SCALE = "scale_weight"
VACUUM = "vacuum_level"


@dataclass(frozen=True, slots=True)
class Tool:
    """Something a hub reads that no reading sheet has: its units, in SI, and the most that it may show."""

    label: str
    units: Mapping[str, float]
    least_si: float
    most_si: float
    shown_in: str = ""
    """The unit in which it is shown as it is; the sealed desks say theirs in words of their own."""


_VOLTS, _AMPS = {"V": 1.0}, {"A": 1.0}
METER: Mapping[str, Tool] = {
    **{f"volts_{pair}": Tool(f"Volts {pair_words(pair)}", _VOLTS, 0.0, 1000.0, "V") for pair in PAIRS},
    **{f"volts_{leg}_ground": Tool(f"Volts {pair_words(leg)} to ground", _VOLTS, 0.0, 1000.0, "V") for leg in LEGS},
    **{f"amps_{leg}": Tool(f"Amps {pair_words(leg)}", _AMPS, 0.0, 5000.0, "A") for leg in LEGS},
    "watts": Tool("Power", {"W": 1.0, "kW": 1000.0}, 0.0, 5e6, "W"),
    "rpm": Tool("Speed", {"rpm": 1.0}, 0.0, 100_000.0, "rpm"),
}
"""A power meter and a rev counter: what they show fills the forms of Electrical and Air, it is never a reading by itself."""
TOOLS: Mapping[str, Tool] = {
    SCALE: Tool("Scale", WEIGHT_UNITS, -1000.0, 1000.0),
    VACUUM: Tool("Vacuum gauge", {"micron": MICRON_PA, "Pa": 1.0, "mbar": 100.0, "torr": 1000 * MICRON_PA}, 0.0, 2e5),
    **METER,
}


class ProbeState(StrEnum):
    """How a probe is."""

    OK = "ok"
    OUT_OF_RANGE = "out_of_range"
    WEAK = "weak"
    OFF = "off"


@dataclass(frozen=True, slots=True)
class Sample:
    """One sample that made sense, in SI; `value_si` is None where the probe had nothing to say."""

    n: int
    t: float
    probe: str
    quantity: str
    circuit: int
    value_si: float | None
    value: float | None
    unit: str
    state: ProbeState
    battery: float | None


@dataclass(frozen=True, slots=True)
class LatestProbe:
    """A probe's latest sample."""

    hub: str
    probe: str
    quantity: str
    circuit: int
    value_si: float | None
    value: float | None
    unit: str
    state: str
    battery: float | None
    at: datetime


def is_fresh(probe: LatestProbe, now: datetime) -> bool:
    """Whether a probe still speaks, and says something."""
    return probe.value_si is not None and (now - probe.at).total_seconds() < STALE_SECONDS


def live_among(probes: Iterable[LatestProbe], quantities: Iterable[str], now: datetime) -> list[LatestProbe]:
    """Probes that speak now, in the order of those quantities."""
    listed = list(probes)
    return [probe for name in quantities for probe in listed if probe.quantity == name and is_fresh(probe, now)]
