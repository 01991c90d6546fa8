"""A defrost as it went: when it was called, shifted, melted and ended, by temperature or by time, and what that says (R51)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from dry_gauge.core.quantities import to_kelvin

LONGEST_MIN = 10.0
"""A heat pump's board ends a defrost after so many minutes, melted or not (habit)."""
_LONGEST_BOX_MIN = 40.0
_SENSOR_CLOSES_K = to_kelvin(32)
_SENSOR_OPENS_K = (to_kelvin(50), to_kelvin(75))
_FAN_WAITS_BELOW_K = to_kelvin(30)


class Mark(StrEnum):
    """What is tapped while it goes."""

    CALLED = "called"
    VALVE = "valve"
    FAN_STOPPED = "fan_stopped"
    FAN_RUNS_ON = "fan_runs_on"
    HEATERS = "heaters"
    MELTING = "melting"
    ENDED_BY_TEMPERATURE = "ended_by_temperature"
    ENDED_BY_TIME = "ended_by_time"
    FANS_BACK = "fans_back"
    CLEAR = "clear"
    ICE_LEFT = "ice_left"


MARK_WORDS: Mapping[Mark, str] = {
    Mark.CALLED: "called, or forced",
    Mark.VALVE: "valve shifts",
    Mark.FAN_STOPPED: "fan stops",
    Mark.FAN_RUNS_ON: "fan runs on",
    Mark.HEATERS: "heaters draw amps",
    Mark.MELTING: "melts, steam",
    Mark.ENDED_BY_TEMPERATURE: "ended by temperature",
    Mark.ENDED_BY_TIME: "ended by time",
    Mark.FANS_BACK: "fans back",
    Mark.CLEAR: "coil clear",
    Mark.ICE_LEFT: "ice left",
}
ENDS = frozenset({Mark.ENDED_BY_TEMPERATURE, Mark.ENDED_BY_TIME})
_FOR_HEAT_PUMPS = (
    Mark.CALLED,
    Mark.VALVE,
    Mark.FAN_STOPPED,
    Mark.FAN_RUNS_ON,
    Mark.MELTING,
    Mark.ENDED_BY_TEMPERATURE,
    Mark.ENDED_BY_TIME,
    Mark.CLEAR,
    Mark.ICE_LEFT,
)
_FOR_BOXES = (
    Mark.CALLED,
    Mark.FAN_STOPPED,
    Mark.FAN_RUNS_ON,
    Mark.HEATERS,
    Mark.MELTING,
    Mark.ENDED_BY_TEMPERATURE,
    Mark.ENDED_BY_TIME,
    Mark.FANS_BACK,
    Mark.CLEAR,
    Mark.ICE_LEFT,
)


def marks_for(*, walk_in: bool) -> tuple[Mark, ...]:
    """What such a unit's defrost can show."""
    return _FOR_BOXES if walk_in else _FOR_HEAT_PUMPS


@dataclass(frozen=True, slots=True)
class DefrostVerdict:
    """How it stands: ``none``, ``running``, ``good``, ``short`` (ice left) or ``asks``; words, and what to look at, in order."""

    state: str
    words: str
    then: tuple[str, ...] = ()
    minutes: float | None = None


def judge_defrost(
    marks: Sequence[tuple[Mark, float]], *, walk_in: bool, sensor_k: float | None = None, heater_amps: float | None = None
) -> DefrostVerdict:
    """What one defrost says.

    Parameters
    ----------
    marks : sequence of (Mark, float)
        In order, minutes from its call.
    sensor_k : float or None
        The coil sensor before it, or its switch's place. [K]
    heater_amps : float or None
        A walk-in's heaters, all of them. [A]
    """
    if not marks:
        return DefrostVerdict("none", "")
    seen = dict(reversed([(mark, at) for mark, at in marks]))
    last = marks[-1]
    ended = next(((mark, at) for mark, at in marks if mark in ENDS), None)
    if ended is None:
        longest = _LONGEST_BOX_MIN if walk_in else LONGEST_MIN
        words = f"Defrost, {last[1]:.0f} min so far; its longest is about {longest:.0f}."
        return DefrostVerdict("running", words, _while_it_runs(seen, sensor_k, heater_amps, walk_in=walk_in))
    how, minutes = ended
    ice = Mark.ICE_LEFT in seen
    odd = _odd(seen, how, minutes, walk_in=walk_in)
    if how is Mark.ENDED_BY_TIME and ice:
        return DefrostVerdict(
            "short",
            f"Ended by time after {minutes:.0f} min with ice left: too little heat reached the ice.",
            (*odd, *_too_little(seen, walk_in=walk_in)),
            minutes,
        )
    if ice:
        words = f"Ended by temperature after {minutes:.0f} min with ice left: the sensor is warm before the ice is gone."
        why = ("Sensor's place and its clip", "Wind, or a bare end that warms first")
        return DefrostVerdict("short", words, (*odd, *why), minutes)
    if how is Mark.ENDED_BY_TIME:
        words = f"Ended by time after {minutes:.0f} min, the coil clear: does its sensor open at all?"
        return DefrostVerdict("asks", words, (*odd, "Sensor: ohms or contact at the end"), minutes)
    clear = ", the coil clear" if Mark.CLEAR in seen else ""
    if odd:
        return DefrostVerdict("asks", f"Ended by temperature after {minutes:.0f} min{clear}.", odd, minutes)
    asks = () if Mark.CLEAR in seen else ("Is the coil clear? Tap it.",)
    return DefrostVerdict("good", f"Ended by temperature after {minutes:.0f} min{clear}: as it should.", asks, minutes)


def _while_it_runs(
    seen: Mapping[Mark, float], sensor_k: float | None, heater_amps: float | None, *, walk_in: bool
) -> tuple[str, ...]:
    found = []
    if sensor_k is not None and sensor_k > _SENSOR_CLOSES_K and not walk_in:
        found.append("The coil sensor was above 32 °F (0 °C): a board would not have begun by itself.")
    if Mark.FAN_RUNS_ON in seen:
        found.append("The fan blows the heat away: relay or board.")
    if walk_in and heater_amps is not None and heater_amps < 0.2:
        found.append("Heaters draw nothing: contactor, fuse, limit, or their wires.")
    if not walk_in and Mark.VALVE not in seen:
        found.append("Did the valve shift? A whoosh, and the suction line warms.")
    return tuple(found)


def _odd(seen: Mapping[Mark, float], how: Mark, minutes: float, *, walk_in: bool) -> tuple[str, ...]:
    found = []
    if not walk_in and Mark.VALVE not in seen:
        found.append("Nobody saw the valve shift: coil and slide of the reversing valve")
    if Mark.FAN_RUNS_ON in seen:
        found.append("The fan ran on: relay or board")
    if walk_in and Mark.HEATERS not in seen:
        found.append("Heaters' amps were not read")
    if how is Mark.ENDED_BY_TEMPERATURE and minutes < 1.0:
        found.append("It ended within a minute: sensor open, or not iced")
    return tuple(found)


def _too_little(seen: Mapping[Mark, float], *, walk_in: bool) -> tuple[str, ...]:
    if walk_in:
        return (
            "Heaters, each one's amps",
            "Termination's place and setting, 50 to 55 °F (10 to 13 °C)",
            "How many a day, and for how long",
            "Door, gasket and drain: where the water comes from",
        )
    return (
        "Charge: read it in heating, settled",
        "Air over the indoor coil: where the heat comes from",
        "Did the valve shift fully",
        "Sensor's place, and wind on the coil",
        "Then the board's relay and timing",
    )


def out_of_order(marks: Sequence[Mark], following: Mark) -> str:
    """Why a mark cannot follow what was tapped; nothing where it can."""
    over = any(mark in ENDS for mark in marks)
    after = frozenset({Mark.FANS_BACK, Mark.CLEAR, Mark.ICE_LEFT})
    if not marks and following is not Mark.CALLED:
        return "Tap the call first: the clock runs from it."
    if over and following not in (*after, Mark.CALLED):
        return "That defrost has ended. Tap 'called' to begin another."
    if not over and following in (Mark.CLEAR, Mark.FANS_BACK):
        return "It has not ended yet: say first how it ended."
    return ""
