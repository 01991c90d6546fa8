"""Somebody on a made-up call: what they know, the minutes it took, and each step as it was."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import lru_cache

from dry_gauge.bench.practice.dead import MEND_MINUTES, MEND_MINUTES_ELSE, Lamp
from dry_gauge.bench.practice.hidden import BEHIND_PANEL, CHARGES, REMEDIES, SEALING_MINUTES, Hidden, Motor, Remedy, Sealing
from dry_gauge.bench.practice.unit import AIR_OF_COIL, Harm, PracticeCall, PracticeUnit
from dry_gauge.core.controls.chain import Where
from dry_gauge.core.controls.walker import WAY_MINUTES, How, Volts
from dry_gauge.core.judgement.assess import CircuitAssessment, assess
from dry_gauge.core.judgement.checks import RESTART_MINUTES
from dry_gauge.core.roles import by_role
from dry_gauge.core.sheet import Observation, Reading, Sheet
from dry_gauge.core.vocabulary import QUANTITIES, SIGHTS, State

ARRIVED_MINUTES = 25.0  # the unit runs, and has settled while the tools were carried up
WALK_MINUTES = 1.0
PANEL_MINUTES = 2.0
RESET_MINUTES = 3.0
BRIDGE_MINUTES = 2.0
VOLTS_MINUTES = 1.0
CAPACITOR_MINUTES = 10.0


_assessed = lru_cache(maxsize=1024)(assess)  # a play is gone through from its start again and again


@dataclass(frozen=True, slots=True)
class Logged:
    """One step: when it began, what it took, what it showed, what it harmed, and what was known and wrong after it.

    Parameters
    ----------
    panel_off, settled, runs : bool
        How the unit stood at its end: what is read with the panel off, or too soon, says little of it.
    """

    name: str
    at: float
    minutes: float
    readings: tuple[Reading, ...]
    seen: tuple[Observation, ...]
    harms: tuple[Harm, ...]
    sheet: Sheet
    wrong: tuple[Hidden, ...]
    volts: tuple[Volts, ...] = ()
    panel_off: bool = False
    settled: bool = True
    runs: bool = True
    shows: str = ""
    """What a hold or an evacuation showed: ``tight``, ``falls``, ``stays`` or ``rises``."""
    lamp: Lamp | None = None
    """What the board's lamp did, where it was watched."""
    sounds: tuple[str, ...] = ()
    """What stood out of what was heard, where it was listened to."""
    capacitors: tuple[tuple[Motor, float], ...] = ()
    """What run capacitors measured. [uF]"""

    @property
    def end(self) -> float:
        """When it was done."""
        return self.at + self.minutes


class Worker:
    """What is known is what was read and looked at since the unit was last changed."""

    def __init__(self, call: PracticeCall) -> None:
        self.unit = PracticeUnit(call)
        self.readings: dict[str, Reading] = {}
        self.seen: dict[str, Observation] = {}
        self.volts: list[Volts] = []
        self.place = Where.PANEL
        self.checking = self.mending = 0.0
        self.log: list[Logged] = []
        self.for_nothing = 0
        self.must_stop = False
        """Whether the judgement says that it must not run as it is."""
        self._changed_at: float | None = None
        self._charged_at: float | None = None

    @property
    def minutes(self) -> float:
        """Since the start."""
        return self.checking + self.mending

    @property
    def sheet(self) -> Sheet:
        """What they know, as a sheet: its observations by role, while they looked by place."""
        facts = self.unit.call.facts
        seen = sorted(self.seen.values(), key=lambda one: one.what == "condenser_air_recirculating")
        return Sheet(
            facts,
            tuple(self.readings.values()),
            tuple(Observation(*by_role(one.what, one.state, heating=facts.heating)) for one in seen),
            minutes_running=ARRIVED_MINUTES,
            minutes_since_change=self._since(self._changed_at),
            minutes_since_charge=self._since(self._charged_at),
        )

    def _since(self, moment: float | None) -> float | None:
        return None if moment is None else self.minutes - moment

    def judge(self) -> CircuitAssessment:
        """What the judgement says of what they know."""
        found = _assessed(self.sheet).first
        self.must_stop = bool(found.stops)
        return found

    def ask(self, name: str, asks: Sequence[str], minutes: float, *, stopped: bool = False, running: bool = False) -> None:
        """Read and look at some things; what needs the unit running while it must not is harm."""
        at, harms = self.minutes, len(self.unit.harms)
        if running and self.must_stop:
            self.unit.run_into_stop(at)
        self.checking += minutes + WALK_MINUTES + (RESTART_MINUTES if stopped else 0.0)
        if BEHIND_PANEL & set(asks) and not self.unit.call.facts.kind.is_walk_in and not self.unit.panel_off:
            self.checking += PANEL_MINUTES
            self.unit.set_panel(off=True, at_minutes=self.minutes)
        readings, seen = [], []
        for what in asks:
            if what in QUANTITIES:
                reading = self.unit.read(what, self.minutes)
                if reading is not None:
                    self.readings[what] = reading
                    readings.append(reading)
            elif what in SIGHTS:
                self.seen[what] = Observation(what, self.unit.look(what))
                seen.append(self.seen[what])
        sounds = self.unit.sounds if any(one.what == "unusual_sound" and one.state is State.YES for one in seen) else ()
        self._logged(name, at, harms, readings, seen, sounds=sounds)

    def do(self, remedy: Remedy) -> None:
        """Do it; what was read before says nothing any more."""
        at, harms = self.minutes, len(self.unit.harms)
        before = self._left
        self.mending += REMEDIES[remedy].minutes
        self.unit.do(remedy, self.minutes)
        self.for_nothing += self._left == before
        self._is_another()
        if remedy in CHARGES:
            self._charged_at = self.minutes
        self._logged(remedy.value, at, harms)

    @property
    def _left(self) -> tuple[object, ...]:
        """What is still wrong, on its chain as well."""
        return self.unit.wrong, self.unit.eased, self.unit.chain is not None and self.unit.chain.cause_left

    def seal(self, step: Sealing) -> str:
        """Go on with the opened system; what that shows."""
        at, harms = self.minutes, len(self.unit.harms)
        self.mending += SEALING_MINUTES[step]
        shows, _ = self.unit.seal(step, self.minutes)
        if step is Sealing.WEIGH_IN:
            self._is_another()
            self._charged_at = self.minutes
        self._logged(step.value, at, harms, shows=shows)
        return shows

    def seal_up(self) -> None:
        """All that follows once the system was opened: held, and its joint made anew until it holds; evacuated; weighed in."""
        while self.seal(Sealing.HOLD) == "falls":
            self.seal(Sealing.JOINT)
        self.seal(Sealing.EVACUATE)
        self.seal(Sealing.WEIGH_IN)

    def wait(self, minutes: float, name: str = "wait") -> None:
        """Wait; a step of its own where it has a name."""
        at = self.minutes
        self.mending += minutes
        if name:
            self._logged(name, at, len(self.unit.harms))

    def come_back(self, name: str) -> None:
        """Called again three weeks later: nothing that was known counts any more."""
        at = self.minutes
        self.unit.comes_back()
        self.readings, self.seen, self.volts, self.must_stop = {}, {}, [], False
        self._changed_at = self._charged_at = None
        self._logged(name, at, len(self.unit.harms))

    def panel(self, name: str, *, off: bool) -> None:
        """Take the panel off, or put it back."""
        at = self.minutes
        self.mending += PANEL_MINUTES
        self.unit.set_panel(off=off, at_minutes=self.minutes)
        self._logged(name, at, len(self.unit.harms))

    def measure(self, name: str, link: str, how: How = How.COMMON) -> None:
        """Volts at the far side of a link against common, or across it, with the way there."""
        assert self.unit.chain is not None
        at, place = self.minutes, self.unit.chain.dead.chain.by_name[link].place
        self.checking += VOLTS_MINUTES + abs(WAY_MINUTES[place] - WAY_MINUTES[self.place])
        self.place = place
        self.volts.append(self.unit.chain.volts(link, how))
        self._logged(name, at, len(self.unit.harms), volts=(self.volts[-1],))

    def measure_capacitors(self, name: str, minutes: float) -> None:
        """Stop it, discharge the run capacitors, measure each, and start it again."""
        at = self.minutes
        motors = [motor for motor in Motor if not (motor is Motor.BLOWER and self.unit.call.facts.kind.is_walk_in)]
        self.checking += minutes + WALK_MINUTES + RESTART_MINUTES
        self._logged(name, at, len(self.unit.harms), capacitors=tuple((motor, self.unit.capacitor_uf(motor)) for motor in motors))

    def watch_lamp(self, name: str, minutes: float) -> None:
        """Watch the board's lamp for three rounds."""
        assert self.unit.chain is not None
        at = self.minutes
        self.checking += minutes + WALK_MINUTES
        self._logged(name, at, len(self.unit.harms), lamp=self.unit.chain.lamp)

    def mend_link(self, name: str, link: str) -> None:
        """Mend or change a link of the control chain."""
        assert self.unit.chain is not None
        at, harms = self.minutes, len(self.unit.harms)
        self.mending += MEND_MINUTES.get(self.unit.chain.dead.chain.by_name[link].sort, MEND_MINUTES_ELSE)
        self.unit.mend_link(link, self.minutes)
        self.for_nothing += not self.unit.chain.closed
        self._tried_to_run(name, at, harms)

    def reset(self, name: str) -> None:
        """Reset what has opened, and start it."""
        at, harms = self.minutes, len(self.unit.harms)
        self.mending += RESET_MINUTES
        self.unit.reset(at)
        self._tried_to_run(name, at, harms)

    def bridge(self, name: str) -> None:
        """Put a wire around the safeties to make it run."""
        at, harms = self.minutes, len(self.unit.harms)
        self.mending += BRIDGE_MINUTES
        self.unit.bridge(at)
        self._tried_to_run(name, at, harms)

    def _tried_to_run(self, name: str, at: float, harms: int) -> None:
        self.volts = []
        self._logged(name, at, harms)

    def _is_another(self) -> None:
        self.readings, self.volts, self.must_stop, self._changed_at = {}, [], False, self.minutes
        self.seen = {what: one for what, one in self.seen.items() if one.state is State.NO and what not in AIR_OF_COIL}

    def _logged(
        self,
        name: str,
        at: float,
        harms: int,
        readings: Iterable[Reading] = (),
        seen: Iterable[Observation] = (),
        volts: tuple[Volts, ...] = (),
        shows: str = "",
        lamp: Lamp | None = None,
        sounds: tuple[str, ...] = (),
        capacitors: tuple[tuple[Motor, float], ...] = (),
    ) -> None:
        unit = self.unit
        self.log.append(
            Logged(
                name,
                at,
                self.minutes - at,
                tuple(readings),
                tuple(seen),
                tuple(unit.harms[harms:]),
                self.sheet,
                unit.wrong,
                volts,
                unit.panel_off,
                unit.settled(self.minutes),
                unit.runs,
                shows,
                lamp,
                sounds,
                capacitors,
            )
        )
