"""Static pressure along the air path: what each part costs, what the whole costs, and which part eats the budget.

Pressures against the room, read along the way of the air. What is usual is a habit of the trade and is said so (R29) (R36).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from dry_gauge.core.quantities import INCH_WATER_PA, Measured
from dry_gauge.core.words import Phrase

POINTS = (
    "external_static_return", "static_after_filter", "static_after_coil", "static_after_blower", "external_static_supply",
)  # fmt: skip
"""In the order of the air; a coil stands before the blower or behind it, so that one of the two middle ones is read."""
USUAL_LIMIT_PA = 0.5 * INCH_WATER_PA
"""External static that most labels allow, where the card has none (assumed)."""
LOW_PA = 0.2 * INCH_WATER_PA
"""Under about this a ducted unit at its nominal air asks (habit)."""


@dataclass(frozen=True, slots=True)
class Drop:
    """What one part of the path costs, and what is usual for it (habit). [Pa]"""

    part: str
    pa: Measured
    usual_pa: tuple[float, float]
    dirty_pa: float

    @property
    def is_over(self) -> bool:
        """Above what even a loaded one costs, beyond its error."""
        return self.pa.value - self.pa.uncertainty > self.dirty_pa


@dataclass(frozen=True, slots=True)
class StaticProfile:
    """The path as it was measured. `band` is ``low``, ``within``, ``high`` or nothing where the total is not known."""

    drops: tuple[Drop, ...]
    total_pa: Measured | None
    limit_pa: float
    limit_assumed: bool
    band: str
    eats: str
    reasons: tuple[Phrase, ...]


def _in(low: float, high: float) -> tuple[float, float]:
    return low * INCH_WATER_PA, high * INCH_WATER_PA


# Usual, and from where on it is a finding (habit). [Pa]
_USUAL: Mapping[str, tuple[tuple[float, float], float]] = {
    "return duct": (_in(0.05, 0.10), 0.20 * INCH_WATER_PA),
    "filter": (_in(0.05, 0.15), 0.25 * INCH_WATER_PA),
    "coil": (_in(0.15, 0.30), 0.40 * INCH_WATER_PA),
    "supply duct": (_in(0.10, 0.15), 0.25 * INCH_WATER_PA),
}


_UNSIGNED = Phrase("Before the blower air is drawn: those pressures are below zero. Written without the sign, or tubes swapped?")


def static_profile(points: Mapping[str, Measured], label_limit_pa: float | None = None) -> StaticProfile:
    """The path from what was read of it.

    Parameters
    ----------
    points : mapping of str to Measured
        Of `POINTS`, against the room, signed: before the blower below zero. [Pa]
    label_limit_pa : float, optional
        External static that the label allows.
    """
    wrong = [name for name in POINTS[:3] if name in points and points[name].value > points[name].uncertainty]
    before, behind = points.get("external_static_return"), points.get("external_static_supply")
    filtered, coiled, blown = (points.get(f"static_after_{name}") for name in ("filter", "coil", "blower"))
    zero = Measured(0.0)
    steps = {
        "return duct": zero - before if before else None,
        "filter": before - filtered if before and filtered else None,
        "coil": blown - behind if blown and behind else filtered - coiled if filtered and coiled else None,
        "supply duct": behind,
    }
    drops = tuple(Drop(part, pa, *_USUAL[part]) for part, pa in steps.items() if pa is not None)
    total = behind - before if before and behind else None
    limit = label_limit_pa or USUAL_LIMIT_PA
    band = "" if total is None else _band(total, limit)
    eats = max((drop for drop in drops if drop.is_over), key=lambda drop: drop.pa.value / drop.dirty_pa, default=None)
    return StaticProfile(
        drops,
        total,
        limit,
        label_limit_pa is None,
        band,
        eats.part if eats else "",
        (*([_UNSIGNED] if wrong else []), *_reasons(band, drops, eats)),
    )


def _band(total: Measured, limit_pa: float) -> str:
    if total.value - total.uncertainty > limit_pa:
        return "high"
    return "low" if total.value + total.uncertainty < LOW_PA else "within"


def _reasons(band: str, drops: tuple[Drop, ...], eats: Drop | None) -> list[Phrase]:
    by_part = {drop.part: drop for drop in drops}
    over = sorted((drop for drop in drops if drop.is_over), key=lambda drop: -drop.pa.value / drop.dirty_pa)
    found = [
        Phrase(
            f"The {drop.part} costs {{drop}}: usual is {{low}} to {{most}}, and over {{high}} it is a finding.",
            {
                "drop": ("static", drop.pa.value),
                "low": ("static", drop.usual_pa[0]),
                "most": ("static", drop.usual_pa[1]),
                "high": ("static", drop.dirty_pa),
            },
        )
        for drop in over
    ]
    if band == "high":
        supply, back = by_part.get("supply duct"), by_part.get("return duct")
        if supply and back and eats is None:
            on_supply = supply.pa.value > back.pa.value
            side = "supply: registers, dampers, duct" if on_supply else "return: grille, filter, duct"
            found.append(Phrase(f"Most of it is on the {side}."))
    elif band == "low":
        if eats is not None and eats.part in ("filter", "coil"):
            words = f"Little reaches the duct because the {eats.part} inside the cabinet eats it: clean it, then read all again."
            found.append(Phrase(words))
        else:
            words = (
                "Too little to be right at this unit's air: filter or panel out, coil or return blocked before the probe, "
                "a slow or dirty wheel, an open or fallen duct."
            )
            found.append(Phrase(words))
    return found
