"""A unit's controls as they behave over time: power, call, safeties, relays and delays, and what its board flashes.

What may be wrong: links that are open, safeties that open some time after the start, a welded contactor, a coil that shorts, a
lost leg, a sensor out of its range, a reversing valve that stays where it is. Time moves by `run`; nothing here knows a clock.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from dry_gauge.bench.control_chain import DeadUnit, blinks
from dry_gauge.core.controls.chain import Chain, LinkSort
from dry_gauge.core.controls.delays import DELAYS

BOARD = "Made-up board"
CODES: Mapping[str, tuple[str, str, bool]] = {
    "1-2": ("High-pressure switch open", "Outdoor fan and coil, then reset it once", True),
    "1-3": ("Low-pressure switch open", "Both pressures standing", False),
    "2-1": ("Supply: a leg is missing", "Pairs at the line side, then at the load side", False),
    "2-3": ("Sensor out of its range", "Its plug, then its ohms at a known temperature", False),
    "3-1": ("Locked out after three trips", "The code before it says which", True),
    "3-2": ("Runs without a call", "Contacts of the contactor, power off", False),
}
"""What its lamp flashes: meaning, first test, and whether it stays until the power is taken off."""
_SAFETY_CODES = {LinkSort.HIGH_PRESSURE: "1-2", LinkSort.LOW_PRESSURE: "1-3", LinkSort.PHASE_MONITOR: "2-1"}
_BY_HAND = frozenset({LinkSort.HIGH_PRESSURE, LinkSort.LIMIT})
_SHORT_CYCLE_S = 60 * DELAYS["anti_short_cycle"].low_min
_BLOWER_OFF_S = 60 * DELAYS["blower_off"].low_min
_SELF_RESET_S = 60.0
_MOST_TRIPS, _WINDOW_S = 3, 3600.0
_PACE_S = 0.5


@dataclass(frozen=True, slots=True)
class Wrong:
    """What is wrong with the controls.

    Parameters
    ----------
    opens_after_s : mapping of str to float
        Safeties that open so long after each start: what they guard against is still there. [s]
    shorts : str
        The coil that shorts: its fuse opens as soon as it is fed.
    """

    open_links: frozenset[str] = frozenset()
    opens_after_s: Mapping[str, float] = field(default_factory=dict)
    welded: bool = False
    shorts: str = ""
    lost_leg: bool = False
    bad_sensor: bool = False
    stuck_valve: bool = False


class ControlBoard:
    """The controls while time goes by.

    Parameters
    ----------
    chain : Chain
        Its first coil is the compressor's.
    """

    def __init__(self, chain: Chain, wrong: Wrong, chance: np.random.Generator) -> None:
        self.chain, self.wrong = chain, wrong
        self.meter = DeadUnit(chain, set(wrong.open_links), chance)
        self.second = 0.0
        self.calls = self.heats = self.locked = False
        self.pulled_in = self.blower = False
        self._started, self._stopped, self._call_ended = 0.0, 0.0, -_BLOWER_OFF_S
        self._trips: list[float] = []
        self._opened_at: dict[str, float] = {}
        if wrong.lost_leg:
            self.meter.open_links |= self._of(LinkSort.PHASE_MONITOR)

    @property
    def valve_shifted(self) -> bool:
        """Whether the reversing valve stands as for heating."""
        return self.heats and not self.wrong.stuck_valve

    @property
    def compressor_runs(self) -> bool:
        """Whether the compressor turns: two legs make it hum and no more."""
        return self.pulled_in and not self.wrong.lost_leg

    @property
    def code(self) -> str:
        """What the board flashes; empty where it has nothing to say."""
        if self.locked:
            return "3-1"
        if self.wrong.welded and not self.calls:
            return "3-2"
        for link in self.chain.links:
            if link.name in self.meter.open_links and link.sort in _SAFETY_CODES:
                return _SAFETY_CODES[link.sort]
        return "2-1" if self.wrong.lost_leg else "2-3" if self.wrong.bad_sensor else ""

    @property
    def fed(self) -> bool:
        """Whether the board has its volts: nothing before it is open."""
        boards = self._of(LinkSort.BOARD) & set(self.chain.way_to(self.chain.coils[0].name))
        return not any(self.meter.open_links & set(self.chain.way_to(board)[:-1]) for board in boards)

    @property
    def lamp_s(self) -> tuple[float, ...]:
        """Moments at which its lamp flashes over three rounds; none where it stands steady or dark. [s]"""
        return tuple(blinks([int(digit) for digit in self.code.split("-")], 3, _PACE_S)) if self.fed and self.code else ()

    def call(self, *, on: bool, heating: bool = False) -> None:
        """The thermostat calls, or no longer."""
        if self.calls and not on:
            self._call_ended = self.second
        self.calls, self.heats = on, heating and on

    def cut_power(self) -> None:
        """Power off and on again: a lock-out is gone, and the wait begins anew; what opens by hand stays open."""
        self.locked, self._trips, self._stopped = False, [], self.second
        self.pulled_in = False

    def reset(self, link: str) -> None:
        """Close a safety that stays open until somebody does."""
        if link in self._opened_at:
            self._close(link)

    def run(self, seconds: int) -> None:
        """So long."""
        for _ in range(seconds):
            self._second()

    def _second(self) -> None:
        self.second += 1.0
        if self.wrong.shorts and self.calls and self.meter.first_open(self.wrong.shorts) is None:
            self.meter.open_links |= self._of(LinkSort.FUSE)
        for link in [name for name in self._opened_at if self.chain.by_name[name].sort not in _BY_HAND]:
            if self.second - self._opened_at[link] >= _SELF_RESET_S:
                self._close(link)
        waited = self.second - self._stopped >= _SHORT_CYCLE_S
        closed = self.meter.pulls_in(self.chain.coils[0].name)
        wants = (self.calls and closed and not self.locked and (waited or self.pulled_in)) or self.wrong.welded
        if wants and not self.pulled_in:
            self._started = self.second
        if self.pulled_in and not wants:
            self._stopped = self.second
        self.pulled_in = wants
        self.blower = self.calls or self.second - self._call_ended < _BLOWER_OFF_S
        if self.pulled_in:
            self._watch()

    def _watch(self) -> None:
        for link, after in self.wrong.opens_after_s.items():
            if link not in self._opened_at and self.second - self._started >= after:
                self._opened_at[link] = self.second
                self.meter.open_links.add(link)
                self._trips = [at for at in self._trips if self.second - at < _WINDOW_S] + [self.second]
                self.locked = len(self._trips) >= _MOST_TRIPS

    def _close(self, link: str) -> None:
        del self._opened_at[link]
        if link not in self.wrong.open_links:
            self.meter.open_links.discard(link)

    def _of(self, sort: LinkSort) -> set[str]:
        return {link.name for link in self.chain.links if link.sort is sort}
