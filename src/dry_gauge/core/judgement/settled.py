"""Whether what was read on a visit is of one settled moment: taken on the unit's way, long before the rest, or still moving."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from dry_gauge.core.settling import MOVES_UNTIL_SETTLED, Clocks, Drift, Series, clock_wait, drifts_of, read_too_early
from dry_gauge.core.sheet import CircuitView, Sheet
from dry_gauge.core.vocabulary import HeadPressureControl

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
    """Quantities that have to be read again first, each with when it was read instead (docs/rules.md, R16 and R86).

    Only on a sheet that is timed; while a clock still asks for a wait, that is what is said, and nothing is too early yet.
    """
    if not view.sheet.is_timed:
        return {}
    read = {name: at for name, at in view.minutes.items() if at is not None}
    last = max((at for name, at in read.items() if name in _ENDS_OF_THE_CIRCUIT), default=0.0)
    old = {name for name, at in read.items() if name in _JUDGED_TOGETHER and at < last - _TOGETHER_MINUTES}
    on_its_way = _on_its_way(view.sheet)
    early = {name for name in MOVES_UNTIL_SETTLED & read.keys() if on_its_way(read[name])}
    return {name: BEFORE_IT_SETTLED if name in early else LONG_BEFORE for name in read if name in early | old}


def _on_its_way(sheet: Sheet) -> Callable[[float], bool]:
    """Whether what was read at a minute was read too early, by clocks that ask for no wait by now."""
    clocks = clocks_of(sheet)
    running = clocks.running
    if running is None or clock_wait(clocks) is not None:
        return lambda minute: False
    return lambda minute: read_too_early(clocks, running - minute)


_OF_SUCTION, _OF_HEAD = frozenset({"suction_saturation", "superheat"}), frozenset({"condensing_saturation", "subcooling"})
_READ_FOR: Mapping[str, tuple[str, ...]] = {
    "suction_saturation": ("suction_pressure",),
    "superheat": ("suction_pressure", "suction_line_temp"),
    "condensing_saturation": ("liquid_pressure",),
    "subcooling": ("liquid_pressure", "liquid_line_temp"),
}


def drifts_in(view: CircuitView, live: Mapping[str, Series] | None = None) -> tuple[Drift, ...]:
    """How saturations and gaps move, by what was read more than once since it may have settled, or by live samples (R16).

    Each quantity's minutes count back from its own latest reading: pressure and line are typed one after the other. What is
    said to hunt, or is cycled by its own control, is not held for moving: a few typed numbers show no mean of it.

    Parameters
    ----------
    live : mapping of str to Series or None
        Samples of live probes by quantity, used in place of readings. [min, SI]
    """
    if live:
        return drifts_of(live, view.unit)
    series: dict[str, Series] = {}
    on_its_way = _on_its_way(view.sheet)
    for name, listed in view.history.items():
        timed = sorted((one.minutes, one.value_si) for one in listed if one.minutes is not None)
        points = [(at, value) for at, value in timed if not on_its_way(at)]
        series[name] = [(at - points[-1][0], value) for at, value in points]
    hunts: frozenset[str] = _OF_SUCTION if view.seen("superheat_hunting") else frozenset()
    if view.seen("head_pressure_hunting") or view.unit.head_pressure_control is HeadPressureControl.FAN_CYCLING:
        hunts |= _OF_HEAD
    return tuple(drift for drift in drifts_of(series, view.unit) if drift.still or drift.quantity not in hunts)


def moving(view: CircuitView) -> dict[str, tuple[str, ...]]:
    """What still moves on a timed sheet, each with what is read again for it."""
    if not view.sheet.is_timed:
        return {}
    return {drift.quantity: _READ_FOR[drift.quantity] for drift in drifts_in(view) if not drift.still}


def clocks_of(sheet: Sheet) -> Clocks:
    """What a sheet settles from."""
    return Clocks(
        sheet.minutes_running,
        sheet.minutes_since_change,
        sheet.minutes_since_charge,
        sheet.minutes_since_defrost,
        sheet.unit.heating,
    )
