"""A coil to be cleaned: what its metal bears, how a can is mixed, how long it dwells (R57)."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from dry_gauge.core.errors import Refused

DWELL_MIN = (5.0, 10.0)
"""How long a cleaner stands, never until it is dry (habit; the can's own label wins)."""
DRY_RUN_MIN = 20.0
"""How long a wet coil runs before it is read (habit: 20 to 30)."""
FLUID_OUNCE_L = 0.0295735
"""A US fluid ounce. [L]"""
PLACES = ("top", "middle", "bottom")
"""Where water is seen to run through, no foam to come, light to shine."""


class CoilKind(StrEnum):
    """What it is made of."""

    COPPER_ALUMINIUM = "copper_aluminium"
    SPINE_FIN = "spine_fin"
    MICRO_CHANNEL = "micro_channel"
    COATED = "coated"


class Cleaner(StrEnum):
    """What goes on it."""

    WATER = "water"
    NEUTRAL = "neutral"
    ALKALINE = "alkaline"
    BRIGHTENER = "brightener"
    ACID = "acid"


COIL_WORDS: Mapping[CoilKind, str] = {
    CoilKind.COPPER_ALUMINIUM: "copper tube, aluminum fin",
    CoilKind.SPINE_FIN: "spine fin",
    CoilKind.MICRO_CHANNEL: "all-aluminum, micro-channel",
    CoilKind.COATED: "coated",
}
CLEANER_WORDS: Mapping[Cleaner, str] = {
    Cleaner.WATER: "water only",
    Cleaner.NEUTRAL: "neutral cleaner",
    Cleaner.ALKALINE: "alkaline cleaner",
    Cleaner.BRIGHTENER: "strong alkaline brightener",
    Cleaner.ACID: "acid",
}
_ONLY_THEIR_MAKER = frozenset({CoilKind.MICRO_CHANNEL, CoilKind.COATED})
_EATS_FINS = frozenset({Cleaner.BRIGHTENER, Cleaner.ACID})


@dataclass(frozen=True, slots=True)
class Allowed:
    """``yes``, ``with_care`` or ``no``, and why."""

    state: str
    why: str


def may_clean(coil: CoilKind, cleaner: Cleaner, *, maker_allows: bool = False) -> Allowed:
    """Whether a cleaner may go on a coil.

    Parameters
    ----------
    maker_allows : bool
        Whether the coil's maker names this very cleaner.
    """
    if cleaner is Cleaner.WATER:
        return Allowed("yes", "Low pressure, square to the fins.")
    if coil in _ONLY_THEIR_MAKER:
        if maker_allows and cleaner not in _EATS_FINS:
            return Allowed("yes", "Its maker allows it.")
        if cleaner is Cleaner.NEUTRAL:
            return Allowed("with_care", "Neutral, short, well rinsed; better what its maker names.")
        metal = "All-aluminium" if coil is CoilKind.MICRO_CHANNEL else "A coating"
        return Allowed("no", f"{metal} takes only what its maker allows: water or a neutral cleaner. This eats it.")
    if cleaner in _EATS_FINS:
        if maker_allows:
            return Allowed("with_care", "Its maker allows it: rarely, short, all of it rinsed out. It eats fins.")
        return Allowed("no", "A brightener or acid eats fins: only where the coil's maker allows it.")
    return Allowed("yes", "As the can says.")


_RATIO = re.compile(r"\s*(\d+(?:[.,]\d+)?)\s*(:|to|in|/)\s*(\d+(?:[.,]\d+)?)\s*", re.IGNORECASE)


def mixture(ratio: str, volume_l: float) -> tuple[float, float]:
    """Cleaner and water for a can: '1:10', '1 to 10' and '10:1' are one part in eleven, '1 in 10' is one in ten. [L]

    Raises
    ------
    Refused
    """
    found = _RATIO.fullmatch(ratio)
    if not found:
        raise Refused(f"{ratio!r} is no ratio: write it as on the can, such as 1:10.", "ratio")
    less, more = sorted(float(found[part].replace(",", ".")) for part in (1, 3))
    if less <= 0 or volume_l <= 0:
        raise Refused("A ratio has two parts above nothing, such as 1:10.", "ratio")
    cleaner = volume_l * less / (more if found[2].lower() == "in" else less + more)
    return cleaner, volume_l - cleaner


KIT = (
    "water on site, and its pressure",
    "hose, nozzle, coupling",
    "a sprayer for this cleaner",
    "a ladder to both sides",
    "bags and tape for the electrics",
    "a place for the rinse water to go",
)
"""Asked for before anything gets wet."""
