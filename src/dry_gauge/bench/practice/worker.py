"""Somebody on a made-up call: what they know, the minutes it took, and each step as it was."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from dry_gauge.bench.practice.hidden import REMEDIES, Hidden, Remedy
from dry_gauge.bench.practice.unit import Harm, PracticeCall, PracticeUnit
from dry_gauge.core.judgement.assess import CircuitAssessment, assess
from dry_gauge.core.judgement.checks import RESTART_MINUTES
from dry_gauge.core.sheet import Observation, Reading, Sheet
from dry_gauge.core.vocabulary import QUANTITIES, SIGHTS, State

ARRIVED_MINUTES = 25.0  # the unit runs, and has settled while the tools were carried up
WALK_MINUTES = 1.0
PROVEN = ("evaporator_air_proven", "condenser_air_proven")


@dataclass(frozen=True, slots=True)
class Logged:
    """One step: when it began, what it took, what it showed, what it harmed, and what was known and wrong after it."""

    name: str
    at: float
    minutes: float
    readings: tuple[Reading, ...]
    seen: tuple[Observation, ...]
    harms: tuple[Harm, ...]
    sheet: Sheet
    wrong: tuple[Hidden, ...]


class Worker:
    """What is known is what was read and looked at since the unit was last changed."""

    def __init__(self, call: PracticeCall) -> None:
        self.unit = PracticeUnit(call)
        self.readings: dict[str, Reading] = {}
        self.seen: dict[str, Observation] = {}
        self.checking = self.mending = 0.0
        self.log: list[Logged] = []
        self.for_nothing = 0
        self.must_stop = False
        """Whether the judgement says that it must not run as it is."""

    @property
    def minutes(self) -> float:
        """Since the start."""
        return self.checking + self.mending

    @property
    def sheet(self) -> Sheet:
        """What they know, as a sheet."""
        return Sheet(self.unit.call.facts, tuple(self.readings.values()), tuple(self.seen.values()),
                     minutes_running=ARRIVED_MINUTES)  # fmt: skip

    def judge(self) -> CircuitAssessment:
        """What the judgement says of what they know."""
        found = assess(self.sheet).first
        self.must_stop = bool(found.stops)
        return found

    def ask(self, name: str, asks: Iterable[str], minutes: float, *, stopped: bool = False, running: bool = False) -> None:
        """Read and look at some things; what needs the unit running while it must not is harm."""
        at, harms = self.minutes, len(self.unit.harms)
        if running and self.must_stop:
            self.unit.run_into_stop(at)
        self.checking += minutes + WALK_MINUTES + (RESTART_MINUTES if stopped else 0.0)
        readings, seen = [], []
        for what in asks:
            if what in QUANTITIES:
                reading = self.unit.read(what)
                if reading is not None:
                    self.readings[what] = reading
                    readings.append(reading)
            elif what in SIGHTS:
                self.seen[what] = Observation(what, self.unit.look(what))
                seen.append(self.seen[what])
        self._logged(name, at, readings, seen, harms)

    def do(self, remedy: Remedy) -> None:
        """Do it; what was read before says nothing any more."""
        at, harms = self.minutes, len(self.unit.harms)
        before = self.unit.wrong, self.unit.eased
        self.unit.do(remedy, at)
        self.for_nothing += (self.unit.wrong, self.unit.eased) == before
        self.mending += REMEDIES[remedy].minutes
        self.readings, self.must_stop = {}, False
        self.seen = {what: one for what, one in self.seen.items() if one.state is State.NO and what not in PROVEN}
        self._logged(remedy.value, at, (), (), harms)

    def _logged(self, name: str, at: float, readings: Iterable[Reading], seen: Iterable[Observation], harms: int) -> None:
        harmed = tuple(self.unit.harms[harms:])
        self.log.append(Logged(name, at, self.minutes - at, tuple(readings), tuple(seen), harmed, self.sheet, self.unit.wrong))
