"""Ways to work through a made-up call without a person: what each costs in minutes, does in harm, and leaves behind.

All judge by the judgement, besides the habit; they differ in what they look at next, and in what they do about it.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from dry_gauge.bench.practice.hidden import BEHIND_PANEL, RATED_UF, REMEDIES, Part, Remedy, parts_behind
from dry_gauge.bench.practice.unit import AIR_OF_COIL, PANEL_SETTLES, PracticeCall
from dry_gauge.bench.practice.worker import CAPACITOR_MINUTES, Logged, Worker
from dry_gauge.core.electrical.capacitor import USUAL_TOLERANCE
from dry_gauge.core.judgement.assess import CircuitAssessment
from dry_gauge.core.judgement.checks import CALLED_FROM, CHECKS, Check
from dry_gauge.core.roles import swapped
from dry_gauge.core.vocabulary import AIR_FAULTS, Fault, State

MOST_MINUTES, MOST_STEPS = 900.0, 60
_MOST_TIMES = 2
_DEAR_FROM = 0.8  # from this probability on a part is bought or a system opened without a further look (chosen)
_GAUGES = ("gauges", ("suction_pressure", "liquid_pressure"), 6.0)
LOOK_MINUTES = 2.0


@dataclass(frozen=True, slots=True)
class Played:
    """One call worked through.

    Parameters
    ----------
    checking, mending : float
        Minutes of each.
    harm : int
        Points of all harm done.
    held : bool
        Whether it is still right in three weeks.
    for_nothing : int
        Things done that mended nothing.
    """

    checking: float
    mending: float
    harm: int
    held: bool
    steps: int
    for_nothing: int
    log: tuple[Logged, ...]


class Player(Worker):
    """A worker who goes by a policy: what was done how often, and what was mended already."""

    def __init__(self, call: PracticeCall) -> None:
        super().__init__(call)
        self.done: dict[str, int] = {}
        self.tried: set[Fault] = set()

    @property
    def spent(self) -> bool:
        """Whether the day is over."""
        return self.minutes > MOST_MINUTES or len(self.log) > MOST_STEPS

    def is_new(self, check: Check) -> bool:
        """Whether it asks for something and was not done twice already, or mends what was not mended yet."""
        fault = _to_mend(check)
        return fault not in self.tried if fault else bool(check.asks) and self.done.get(check.name, 0) < _MOST_TIMES

    def ask(self, name: str, asks: Sequence[str], minutes: float, *, stopped: bool = False, running: bool = False) -> None:
        """Read and look at some things."""
        self.done[name] = self.done.get(name, 0) + 1
        if self.unit.panel_off and not BEHIND_PANEL & set(asks):
            self.panel("panel_on", off=False)
            self.wait(PANEL_SETTLES, "")
        super().ask(name, asks, minutes, stopped=stopped, running=running)

    def do(self, remedy: Remedy) -> None:
        """Do it, wait until the unit has settled, and look at everything anew."""
        if self.unit.panel_off:
            self.panel("panel_on", off=False)
        super().do(remedy)
        if REMEDIES[remedy].opens:
            self.seal_up()
        self.wait(REMEDIES[remedy].rest, "")
        self.done = {}

    def mend(self, fault: Fault) -> None:
        """Look for what is behind a fault, and mend that; where nothing shows, what is behind it most often."""
        self.tried.add(fault)
        parts = parts_behind(fault, self.unit.call.facts)
        for sight in dict.fromkeys(sight for part in parts for sight in part.sights) if len(parts) > 1 else ():
            self.ask(f"look_{sight}", (sight,), LOOK_MINUTES)
            if self.seen[sight].state is State.YES:
                self.do(self._among([part for part in parts if sight in part.sights], parts).cures[0])
                return
        self.do(self._among([part for part in parts if not part.sights] or parts, parts).cures[0])

    def _among(self, likely: Sequence[Part], parts: Sequence[Part]) -> Part:
        """Which of some parts it is: no motor is changed, and no capacitor, before its capacitor was measured."""
        if any(part.weak for part in likely):
            self.measure_capacitors("capacitors", CAPACITOR_MINUTES)
            measured = dict(self.log[-1].capacitors)
            for part in likely:
                if part.weak and measured.get(part.weak, RATED_UF[part.weak]) < (1 - USUAL_TOLERANCE) * RATED_UF[part.weak]:
                    return part
        return next((part for part in likely if not part.weak), parts[0])

    def played(self) -> Played:
        """How it went."""
        unit, log = self.unit, tuple(self.log)
        return Played(self.checking, self.mending, unit.harm, unit.held, len(log), self.for_nothing, log)


Policy = Callable[[PracticeCall, np.random.Generator], Played]


def _believed(found: CircuitAssessment, player: Player) -> Fault | None:
    """What is likely enough to be mended once nothing is left to look at: air first, and nothing twice.

    What costs a part or an open system has to be likelier than what a brush mends.
    """
    likely = []
    for fault in Fault:
        if fault is Fault.NONE or fault in player.tried:
            continue
        rows = [REMEDIES[part.cures[0]] for part in parts_behind(fault, player.unit.call.facts) if not part.weak]
        needed = _DEAR_FROM if any(row.is_part or row.opens for row in rows) else CALLED_FROM
        if found.judgement.probability(fault) >= needed:
            likely.append(fault)
    return min(likely, key=lambda fault: (fault not in AIR_FAULTS, -found.judgement.probability(fault)), default=None)


def _to_mend(check: Check) -> Fault | None:
    return Fault(check.name.removeprefix("remedy_")) if check.name.startswith("remedy_") else None


def _air_to_mend(player: Player) -> Fault | None:
    """The air that was looked at and is not in order."""
    denied = [name for name in AIR_OF_COIL if name in player.seen and player.seen[name].state is State.NO]
    if not denied:
        return None
    return AIR_OF_COIL[swapped(denied[0], heating=player.unit.call.facts.heating)]


def follow_next_check(call: PracticeCall, _: np.random.Generator) -> Played:
    """Do what stands first among the next checks, until nothing is left to do."""
    player = Player(call)
    while not player.spent:
        found = player.judge()
        if found.verdict == "healthy":
            break
        check = next((one for one in found.next_checks if player.is_new(one)), None)
        fault = _to_mend(check) if check else _believed(found, player)
        if check is not None and check.name == "air_unproven" and check.unit == "off":
            fault = _air_to_mend(player) or fault
        if fault is not None:
            player.mend(fault)
        elif check is not None:
            asks = tuple(swapped(name, heating=call.facts.heating) for name in check.asks)
            player.ask(check.name, asks, check.minutes, stopped=check.name == "standing" and not found.stops)
        elif "suction_pressure" not in player.readings:
            player.ask(*_GAUGES)  # a charge that gauges would take a share of: nothing else is left
        else:
            break
    return player.played()


# The order that is taught: the outside of the unit, the air, then gauges, lines and what is left.
TEXTBOOK: tuple[tuple[str, tuple[str, ...], float, bool], ...] = (
    ("airs", ("outdoor_air_temp", "return_air_temp", "return_air_wet_bulb", "box_air_temp", "supply_air_temp"), 6, False),
    (*_GAUGES, False),
    ("lines", ("suction_line_temp", "liquid_line_temp"), 4, False),
    *((check.name, check.asks, float(check.minutes), check.unit == "off") for check in CHECKS
      if check.name not in ("air_split", "liquid_line")),
)  # fmt: skip


def _in_order(call: PracticeCall, order: Sequence[tuple[str, tuple[str, ...], float, bool]]) -> Played:
    """Go through a list; mend what the judgement is sure of; at its end what it takes to be likely. Then from the start."""
    player = Player(call)
    left = list(order)
    while not player.spent:
        if not left:
            fault = _air_to_mend(player) or _believed(player.judge(), player)
            if fault is None:
                break
            player.mend(fault)
            left = list(order)
            continue
        name, asks, minutes, stopped = left.pop(0)
        player.ask(name, asks, minutes, stopped=stopped, running=not stopped)
        if "suction_pressure" not in player.readings:
            continue
        found = player.judge()
        sure = next((one for one in found.next_checks if _to_mend(one) and player.is_new(one)), None)
        fault = _air_to_mend(player) or (_to_mend(sure) if sure else None)
        if fault is not None:
            player.mend(fault)
            left = list(order)
        elif found.verdict == "healthy":
            break
    return player.played()


def in_textbook_order(call: PracticeCall, _: np.random.Generator) -> Played:
    """The order that is taught, whatever was found so far."""
    return _in_order(call, TEXTBOOK)


def in_any_order(call: PracticeCall, chance: np.random.Generator) -> Played:
    """The same things in an order drawn by chance."""
    return _in_order(call, [TEXTBOOK[int(i)] for i in chance.permutation(len(TEXTBOOK))])


def gauges_and_gas(call: PracticeCall, _: np.random.Generator) -> Played:
    """The habit that ruins compressors: gauges first, and gas in where the suction is low or the line is warm."""
    player = Player(call)
    for _round in range(3):
        for name, asks, minutes, stopped in TEXTBOOK[:3]:
            player.ask(name, asks, minutes, stopped=stopped, running=True)
        found = player.judge()
        superheat, target = found.derived.get("superheat"), found.targets.get("superheat")
        if superheat is None or target is None:
            break
        if superheat.measured.value > target.high_k:
            player.do(Remedy.GAS_IN)
        elif superheat.measured.value < target.low_k:
            player.do(Remedy.GAS_OUT)
        else:
            break
    return player.played()


POLICIES: dict[str, tuple[str, Policy]] = {
    "next_check": ("what stands first among the next checks", follow_next_check),
    "textbook": ("the order that is taught", in_textbook_order),
    "random": ("the same, in any order", in_any_order),
    "gauges_and_gas": ("gauges first, gas where the line is warm", gauges_and_gas),
}
