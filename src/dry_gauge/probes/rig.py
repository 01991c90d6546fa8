"""The rest of the simulated set: a cylinder on a scale, and a vacuum gauge on a system that is being evacuated.

Both follow what the visit says. Begin a pour there, and the cylinder grows lighter; say that the pump is on, and the
gauge goes down; shut the valve, and it shows what the system gives off or lets in.
"""

from __future__ import annotations

import random
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from math import pi, sin

from dry_gauge.bench.evacuation import Source, System, step
from dry_gauge.core.dimensions import MICRON_PA
from dry_gauge.core.probes import SCALE, VACUUM
from dry_gauge.core.sealed.vacuum import GAUGE_RANGE_PA

_AIR_PA, _AIR_PSI = 101_325.0, 14.696
_SWEPT_PA = 6000 * MICRON_PA
_SETTLING_KG = 0.001
_WET = Source(2600 * MICRON_PA, 3.0, 40.0)
_LITTLE = Source(330 * MICRON_PA, 5.0)
SYSTEMS: Mapping[str, System] = {
    "tight": System(sources=(_LITTLE,)),
    "wet": System(sources=(_LITTLE, _WET)),
    "leak": System(leak_pa_min=45 * MICRON_PA, sources=(_LITTLE,)),
}
"""What may be wrong with what is evacuated."""


@dataclass
class Rig:
    """A scale and, with a `system`, a vacuum gauge.

    Parameters
    ----------
    gross_kg : float
        The cylinder on the scale, as it is.
    pour_kg_min : float
        How fast refrigerant moves once a pour is on. [kg/min]
    most_kg : float
        No pour moves more than this: someone is at the valve.
    """

    gross_kg: float = 10.4
    pour_kg_min: float = 0.5
    most_kg: float = 1.5
    system: System | None = None
    hold_psig: float | None = None
    """With it, a gauge and a pipe clamp on a system under nitrogen, which follow the weather and lose a little."""
    hold_loss_psi_h: float = 0.0
    pressure_pa: float = _AIR_PA
    pump: str = "off"
    pour: str = ""
    moved_kg: float = 0.0
    chance: random.Random = field(default_factory=lambda: random.Random(7))  # noqa: S311  noise on a gauge

    def follow(self, pump: str, pour: str) -> None:
        """Do what the visit says: ``open``, ``shut``, ``swept`` or ``off``; a pour ``in``, ``out`` or none."""
        if self.system is not None and pump == "swept" and self.pump != "swept":
            # Dry nitrogen carries most of the water out with it.
            drier = tuple(replace(one, store=one.store * 0.1) for one in self.system.sources)
            self.system, self.pressure_pa = replace(self.system, sources=drier), _SWEPT_PA
        if self.pump != "off" and pump == "off":
            self.pressure_pa = _AIR_PA
        if pour != self.pour:
            self.moved_kg = 0.0
        self.pump, self.pour = pump, pour

    def lines(self, second: float) -> list[dict[str, object]]:
        """What both show after one more second, without numbers."""
        room = self.most_kg - self.moved_kg
        if self.pour and room > 0:
            moved = min(self.pour_kg_min / 60, room, self.gross_kg if self.pour == "in" else room)
            self.gross_kg += moved if self.pour == "out" else -moved
            self.moved_kg += moved
        shown = self.gross_kg + self.chance.gauss(0, _SETTLING_KG)
        lines: list[dict[str, object]] = [
            {"t": second, "probe": "Scale", "quantity": SCALE, "value": round(shown, 3), "unit": "kg", "battery": 0.6}
        ]
        if self.hold_psig is not None:
            lines += self._held(second)
        if self.system is None:
            return lines
        if self.pump != "off":
            self.system, self.pressure_pa = step(self.system, self.pressure_pa, 1.0, self.pump == "open")
        shown_pa = self.pressure_pa * (1 + self.chance.gauss(0, 0.006))
        gauge: dict[str, object] = {"t": second, "probe": "Vacuum", "quantity": VACUUM, "unit": "micron", "battery": 0.8}
        if GAUGE_RANGE_PA[0] < shown_pa < GAUGE_RANGE_PA[1]:
            return [*lines, gauge | {"value": round(shown_pa / MICRON_PA)}]
        return [*lines, gauge | {"state": "out_of_range"}]

    def _held(self, second: float) -> list[dict[str, object]]:
        pipe_f = 68.0 + 6.0 * sin(second / 3600 * 2 * pi / 24) + self.chance.gauss(0, 0.05)
        assert self.hold_psig is not None
        absolute = (self.hold_psig - self.hold_loss_psi_h * second / 3600 + _AIR_PSI) * (pipe_f + 459.67) / (68.0 + 459.67)
        return [
            {
                "t": second,
                "probe": "Gauge",
                "quantity": "standing_pressure",
                "value": round(absolute - _AIR_PSI, 1),
                "unit": "psig",
            },
            {"t": second, "probe": "Pipe", "quantity": "equalized_ambient_temp", "value": round(pipe_f, 1), "unit": "F"},
        ]
