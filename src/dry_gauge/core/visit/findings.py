"""What is wrong once it is seen: it ends mended, booked or accepted, never by leaving.

Judged causes are no findings: they are likely, not seen. Signs that only speak for a cause (bubbles, frost, hunting) and what
another list ends (trips, jumpers, open panels) are not here.
"""

from __future__ import annotations

FINDINGS = frozenset({
    "filter_dirty", "filter_missing", "evaporator_dirty", "condenser_dirty", "condenser_fan_stopped", "condenser_fan_reversed",
    "condenser_air_recirculating", "blower_stopped", "blower_belt_slipping", "damper_closed", "oil_stain", "drain_blocked",
    "ice_on_evaporator_even", "ice_on_evaporator_patchy", "compressor_not_pumping", "bearing_worn", "plug_loose", "tubes_rubbing",
    "blade_unsafe", "heat_exchanger_cracked", "carbon_monoxide", "refrigerant_indoors", "safety_bridged", "rotation_reversed",
    "water_at_electrics", "burnt_parts", "ground_missing",
})  # fmt: skip
"""Observations that name something wrong."""

FIRM_FINDINGS = frozenset(
    {
        "blade_unsafe",
        "heat_exchanger_cracked",
        "carbon_monoxide",
        "refrigerant_indoors",
        "safety_bridged",
        "water_at_electrics",
        "burnt_parts",
        "ground_missing",
    }
)
"""Of them those that nobody accepts: mended, or the unit locked out or tagged (docs/rules.md, R33)."""

COMBUSTION_FINDINGS = frozenset({"heat_exchanger_cracked", "carbon_monoxide"})
"""They are safe only with the gas off, a tag on, and somebody told who signed, refused, or was not there (R65)."""
