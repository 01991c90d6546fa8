"""Waits that belong to a sound control: told from the moment of the call, so that nobody waits or blames in vain (R50)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Delay:
    """One wait: between which minutes it ends, and what it looks like until then."""

    label: str
    low_min: float
    high_min: float
    until: str


DELAYS: Mapping[str, Delay] = {
    "anti_short_cycle": Delay("Anti-short-cycle", 3.0, 5.0, "the compressor stands still although it is called"),
    "delay_on_make": Delay("Delay on make", 0.2, 8.0, "the call is there, the contactor waits; read the knob"),
    "sequencer": Delay("Sequencer, each step", 0.1, 1.9, "strips come in one after the other"),
    "blower_off": Delay("Blower off-delay", 1.0, 1.5, "the blower runs on after the call"),
    "low_pressure_bypass": Delay("Low-pressure bypass in cold", 1.0, 3.0, "suction may stand below its cut-out"),
    "pump_out": Delay("Pump-out", 0.5, 3.0, "it pulls down and stops; up to three times is sound"),
    "ignition": Delay("Ignition and proving", 0.5, 2.0, "purge, spark, flame, then the blower"),
    "soft_lockout": Delay("Lock-out that ends by itself", 60.0, 180.0, "nothing starts; a new call may end it"),
}  # fmt: skip
"""By name (habit; the board's own sheet wins)."""
