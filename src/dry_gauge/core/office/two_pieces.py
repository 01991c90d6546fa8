"""Parts that come in two: when one is ordered, it is asked about the other, since a second trip costs more than the piece."""

from __future__ import annotations

from collections.abc import Mapping

# Word in what is ordered, and what usually belongs to it. Habits of the trade, stated so that they can be argued with.
PAIRS: Mapping[str, str] = {
    "compressor": "contactor, capacitor and drier",
    "fan motor": "blade and capacitor",
    "blower motor": "wheel, belt or capacitor",
    "motor": "capacitor",
    "coil": "the other slab, and the metering device",
    "valve": "power head, or body",
    "board": "harness and sensor",
    "drier": "cores or sight glass",
    "contactor": "capacitor",
    "pulley": "belt and the other pulley",
    "belt": "a spare",
    "igniter": "flame sensor",
}  # fmt: skip


def other_piece(what: str) -> str:
    """What usually belongs to a part; nothing where it stands alone. The longest word that fits decides."""
    said = what.casefold()
    fitting = [word for word in PAIRS if word in said]
    return PAIRS[max(fitting, key=len)] if fitting else ""
