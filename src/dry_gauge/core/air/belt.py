"""Belt and sheaves: what turns how fast, what a turn of the sheave does, and the last turn that the motor bears.

cfm goes with the speed, static with its square, amps with its cube (fan laws) (R38).
"""

from __future__ import annotations

from dataclasses import dataclass

from dry_gauge.core.errors import Refused
from dry_gauge.core.words import in_percent

SLIP = 0.02
"""Of a belt that sits right (habit: 1 to 3 %)."""
_SLIPPING = 0.06  # beyond it the belt slips, or a speed was taken at the other shaft
_WRONG_SHAFT = 0.10


@dataclass(frozen=True, slots=True)
class BeltCheck:
    """Speeds against the sheaves: ``right``, ``slips``, ``other_shaft`` or ``odd``."""

    state: str
    expected_rpm: float
    slip: float
    words: str


def driven_rpm(motor_rpm: float, motor_pitch: float, blower_pitch: float, slip: float = SLIP) -> float:
    """Speed of the blower. [rpm]; pitch diameters in any one unit.

    Raises
    ------
    Refused
        For a speed or a diameter that is not above nothing.
    """
    if min(motor_rpm, motor_pitch, blower_pitch) <= 0:
        raise Refused("Motor speed and both pitch diameters are needed.", "motor_rpm")
    return motor_rpm * motor_pitch / blower_pitch * (1 - slip)


def check(motor_rpm: float, blower_rpm: float, motor_pitch: float, blower_pitch: float) -> BeltCheck:
    """Whether the blower turns as its sheaves say.

    Raises
    ------
    Refused
    """
    ideal = driven_rpm(motor_rpm, motor_pitch, blower_pitch, 0.0)
    slip = 1 - blower_rpm / ideal
    expected = ideal * (1 - SLIP)
    if -0.02 <= slip <= _SLIPPING:
        return BeltCheck("right", expected, slip, "The blower turns as its sheaves say.")
    if abs(blower_rpm / motor_rpm - 1) < _WRONG_SHAFT and abs(motor_pitch / blower_pitch - 1) > 2 * _WRONG_SHAFT:
        return BeltCheck("other_shaft", expected, slip, "That is the motor's own speed: the mark was on its shaft?")
    if slip > _SLIPPING:
        words = f"It slips by {in_percent(slip)}: tension, wear, glaze, a worn groove."
        return BeltCheck("slips", expected, slip, words)
    return BeltCheck("odd", expected, slip, "Faster than its sheaves allow: a pitch diameter or the wrong shaft.")


@dataclass(frozen=True, slots=True)
class Turn:
    """What the blower does with the sheave opened by so many turns; shares of what it does now."""

    turns: float
    pitch: float
    rpm: float
    airflow: float
    static: float
    amps: float
    bears: bool


def turns(
    closed_pitch: float,
    open_pitch: float,
    most_turns: float,
    now_turns: float,
    now_rpm: float,
    now_amps: float,
    full_load_amps: float,
    step: float = 0.5,
) -> list[Turn]:
    """Every half turn of a variable sheave, closed first: pitch falls evenly from closed to fully open.

    Parameters
    ----------
    full_load_amps : float
        At the voltage found. [A]

    Raises
    ------
    Refused
        For a sheave that does not open, or turns beyond its own.
    """
    if not 0 < open_pitch < closed_pitch or most_turns <= 0:
        raise Refused("Pitch diameters closed and fully open, and its turns, stand on the sheave's label.", "open_pitch")
    if not 0 <= now_turns <= most_turns:
        raise Refused(f"It opens by {most_turns:g} turns at most.", "now_turns")
    if min(now_rpm, now_amps, full_load_amps) <= 0:
        raise Refused("Speed, amps and full load amps are needed.", "now_amps")

    def pitch(opened: float) -> float:
        return closed_pitch - (closed_pitch - open_pitch) * opened / most_turns

    here = pitch(now_turns)
    found = []
    for i in range(int(most_turns / step) + 1):
        opened = i * step
        ratio = pitch(opened) / here
        amps = now_amps * ratio**3
        found.append(Turn(opened, pitch(opened), now_rpm * ratio, ratio, ratio**2, amps, amps <= full_load_amps))
    return found


def last_that_bears(found: list[Turn]) -> Turn | None:
    """The most closed turn at which the motor stays below its full load amps."""
    return next((turn for turn in found if turn.bears), None)


def belt_length(centres: float, large: float, small: float) -> float:
    """Length of a belt: 2C + 1.57 (D + d) + (D - d)^2 / 4C, in the unit of the distances.

    Raises
    ------
    Refused
        For shafts closer than the sheaves allow.
    """
    if centres <= 0 or centres * 2 <= large + small:
        raise Refused("The shafts stand further apart than half of both sheaves.", "centres")
    return 2 * centres + 1.57 * (large + small) + (large - small) ** 2 / (4 * centres)


def deflection(span: float) -> float:
    """By how much a belt gives at mid-span: 1/64 of its span."""
    return span / 64
