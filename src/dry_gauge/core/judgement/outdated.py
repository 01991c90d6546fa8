"""Readings of a visit that are not of the moment that is judged: taken on the unit's way, or long before the rest."""

from __future__ import annotations

from dry_gauge.core.settling import MOVES_UNTIL_SETTLED, WINDOW_MINUTES, Clocks, settled_at
from dry_gauge.core.sheet import CircuitView, Sheet

BEFORE_IT_SETTLED, LONG_BEFORE = "before it had settled", "over an hour before the rest"
_TOGETHER_MINUTES = 60
_ENDS_OF_THE_CIRCUIT = frozenset(
    {
        "suction_pressure",
        "suction_line_temp",
        "coil_outlet_temp",
        "compressor_suction_temp",
        "liquid_pressure",
        "discharge_pressure",
        "liquid_line_temp",
        "outdoor_air_temp",
        "return_air_temp",
        "return_air_wet_bulb",
        "supply_air_temp",
    }
)
_JUDGED_TOGETHER = _ENDS_OF_THE_CIRCUIT | {"box_air_temp"}
"""A box's air is watched for hours on its own, so it makes nothing else old; it grows old with the rest."""


def outdated(view: CircuitView) -> dict[str, str]:
    """Quantities that have to be read again before anything is judged, each with when it was read instead (R16, R86).

    Only on a sheet that is timed; while a clock still asks for a wait, that is what is said, and nothing is too early yet.
    """
    if not view.sheet.is_timed:
        return {}
    read = {name: at for name, at in view.minutes.items() if at is not None}
    last = max((at for name, at in read.items() if name in _ENDS_OF_THE_CIRCUIT), default=0.0)
    old = {name for name, at in read.items() if name in _JUDGED_TOGETHER and at < last - _TOGETHER_MINUTES}
    settled = settled_at(clocks_of(view.sheet))
    early = (
        set()
        if settled is None
        else {name for name in MOVES_UNTIL_SETTLED & read.keys() if read[name] < settled - WINDOW_MINUTES}
    )
    return {name: BEFORE_IT_SETTLED if name in early else LONG_BEFORE for name in read if name in early | old}


def clocks_of(sheet: Sheet) -> Clocks:
    """What a sheet settles from."""
    return Clocks(
        sheet.minutes_running,
        sheet.minutes_since_change,
        sheet.minutes_since_charge,
        sheet.minutes_since_defrost,
        sheet.unit.heating,
    )
