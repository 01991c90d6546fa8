"""A power meter on the supply and a rev counter at the blower, as they would stand on a simulated unit.

A leg that is lost shows what comes back through the motor's windings, and the two that are left carry the load of three; low
volts draw more amps; a belt that slips turns the blower slower than its sheaves say.
"""

from __future__ import annotations

import random
from collections.abc import Mapping
from dataclasses import dataclass, field
from math import sqrt

from dry_gauge.core.probes import METER

_PAIR_V = {1: 240.0, 3: 208.0}  # usual supplies
_TO_GROUND = {1: 0.5, 3: 1 / sqrt(3.0)}
_BACK_FED = 0.55  # of the pair's volts, through a running motor's windings (habit)
_LOW = 0.86  # of its volts: under the 10 % that motors bear. Chosen.
_FACTOR = 0.86  # of a loaded motor (habit)
_BLOWER_RPM = 940.0  # by its sheaves. Chosen.
_NOISE = 0.002  # of what is shown, second by second. Chosen.
SUPPLIES = ("sound", "lost_leg", "unbalanced", "low")
"""How a supply may be."""


@dataclass
class Meter:
    """What volts, amps and watts a unit's supply shows, and how fast its blower turns.

    Parameters
    ----------
    phases : int
        1 or 3.
    supply : str
        One of `SUPPLIES`; a leg is lost, or lags behind, only of three.
    slip : float
        What the belt loses of the blower's speed. [1]
    """

    phases: int = 1
    supply: str = "sound"
    slip: float = 0.0
    chance: random.Random = field(default_factory=lambda: random.Random(11))  # noqa: S311  noise on a meter

    def __post_init__(self) -> None:
        """See what it is told.

        Raises
        ------
        ValueError
        """
        if self.phases not in _PAIR_V or self.supply not in SUPPLIES or not 0 <= self.slip < 1:
            raise ValueError(f"A meter has 1 or 3 phases, a supply that is {', '.join(SUPPLIES)}, and a slip from 0 to 1.")
        if self.phases == 1 and self.supply in ("lost_leg", "unbalanced"):
            raise ValueError("Only three phases lose a leg or lie apart.")

    @property
    def pairs_v(self) -> dict[str, float]:
        """Volts of each pair."""
        whole = _PAIR_V[self.phases] * (_LOW if self.supply == "low" else 1.0)
        if self.phases == 1:
            return {"l1_l2": whole}
        third = _BACK_FED if self.supply == "lost_leg" else 0.94 if self.supply == "unbalanced" else 1.0
        return {"l1_l2": whole, "l2_l3": whole * third, "l3_l1": whole * (third if self.supply == "lost_leg" else 1.0)}

    def legs_a(self, amps: float) -> dict[str, float]:
        """Amps of each leg of a motor that draws so many on a sound supply. [A]"""
        drawn = amps / (_LOW if self.supply == "low" else 1.0)
        if self.phases == 1:
            return {"l1": drawn, "l2": drawn}
        if self.supply == "lost_leg":
            return {"l1": drawn * sqrt(3.0), "l2": drawn * sqrt(3.0), "l3": 0.0}
        apart = 0.12 if self.supply == "unbalanced" else 0.0
        return {"l1": drawn * (1 + apart), "l2": drawn, "l3": drawn * (1 - apart)}

    def shown(self, amps: float) -> Mapping[str, tuple[float, str]]:
        """Every number of both by quantity, with its unit; `amps` as the motor draws them on a sound supply. [A]"""
        pairs, legs = self.pairs_v, self.legs_a(amps)
        ground = pairs["l1_l2"] * _TO_GROUND[self.phases]
        watts = sum(legs.values()) / len(legs) * pairs["l1_l2"] * (sqrt(3.0) if self.phases == 3 else 1.0) * _FACTOR
        turning = _BLOWER_RPM * (1 - self.slip) if amps > 0 else 0.0
        return {
            **{f"volts_{name}": (volts, "V") for name, volts in pairs.items()},
            **{
                f"volts_{leg}_ground": (ground * (_BACK_FED if leg == "l3" and self.supply == "lost_leg" else 1.0), "V")
                for leg in legs
            },
            **{f"amps_{leg}": (drawn, "A") for leg, drawn in legs.items()},
            "watts": (watts, "W"),
            "rpm": (turning, "rpm"),
        }

    def lines(self, second: float, amps: float) -> list[dict[str, object]]:
        """One second's samples, without their numbers."""
        return [
            {
                "t": second,
                "probe": "Tach" if name == "rpm" else f"Meter, {METER[name].label}",
                "quantity": name,
                "unit": unit,
                "value": round(value * (1 + self.chance.gauss(0, _NOISE)), 0 if unit in ("W", "rpm") else 1),
                "battery": 0.7,
            }
            for name, (value, unit) in self.shown(amps).items()
        ]
