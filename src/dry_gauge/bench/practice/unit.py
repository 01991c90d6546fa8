"""A unit on a made-up call: it answers in its present state, every step takes its minutes, and some do harm.

The rules of harm are those of the trade that the stop lines and gates stand for (docs/rules.md, R70): refrigerant into bad
air or an iced coil, sound parts changed, a unit left running against a stop.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from math import exp

import numpy as np

from dry_gauge.bench.instruments import half_widths, in_table, true_readings
from dry_gauge.bench.machine import Machine
from dry_gauge.bench.plant import Faults, Weather
from dry_gauge.bench.practice.dead import ChainState, Dead
from dry_gauge.bench.practice.hidden import FRESH_REST, RATED_UF, REMEDIES, Hidden, Motor, Remedy, Sealing, parts_behind
from dry_gauge.bench.solve import solve
from dry_gauge.core.judgement.hypotheses import MECHANISMS
from dry_gauge.core.roles import swapped
from dry_gauge.core.sheet import Reading, UnitFacts
from dry_gauge.core.vocabulary import AIR_FAULTS, QUANTITIES, Fault, State, default_half_width_si

HARM_WORDS: Mapping[str, str] = {
    "gas_on_bad_air": "Refrigerant was added while the air was not right: the compressor gets liquid once it is.",
    "overfilled": "Refrigerant was added to a unit that was not short of it.",
    "leak_left": "What leaked out was filled up and the leak left: it is gone again in weeks.",
    "sound_part": "A sound part was changed.",
    "opened_for_nothing": "The system was opened for nothing.",
    "ran_into_stop": "It was kept running against a stop.",
    "fuse_spent": "The fuse blew again: what had blown it is still there.",
    "bridged": "A safety was bridged, and the unit ran without it.",
    "not_evacuated": "It was charged with air still in it.",
}
HARM_POINTS: Mapping[str, int] = {
    "gas_on_bad_air": 3,
    "overfilled": 2,
    "leak_left": 2,
    "sound_part": 2,
    "opened_for_nothing": 1,
    "ran_into_stop": 1,
    "fuse_spent": 1,
    "bridged": 3,
    "not_evacuated": 2,
}
"""How grave each is, against the others. Chosen (R70)."""
_MOST_COUNTED = 3
_AT_REST = frozenset(
    {"outdoor_air_temp", "return_air_temp", "return_air_wet_bulb", "box_air_temp", "standing_pressure", "equalized_ambient_temp"}
)
AIR_OF_COIL: Mapping[str, Fault] = {
    "evaporator_air_proven": Fault.LOW_EVAPORATOR_AIRFLOW,
    "condenser_air_proven": Fault.LOW_CONDENSER_AIRFLOW,
}
"""What a coil's air is proven against, by role."""
SEEN_RUNNING = frozenset(
    {
        "evaporator_air_proven",
        "condenser_air_proven",
        "sight_glass_bubbles",
        "frost_after_drier",
        "compressor_hot",
        "unusual_sound",
    }
)
"""What shows only while it runs."""
HEARD_FROM = 0.35
"""From which size a fault is heard. Chosen."""
_WEAK_LEFT, _WEAK_LOST = 0.7, 0.3
_SCATTER = 0.01
"""What a weak capacitor still holds at no size, how much less at the whole, and how sound ones scatter. Chosen."""
PANEL_TAKES = 0.35
"""How much of its air a coil loses while the panel behind it is off, as the size of a fault. Chosen (R71)."""
PANEL_SETTLES = 4.0
"""Minutes until readings follow a panel. Chosen."""
_NO_MORE = 0.01
_CLOSE_TO = 3.0  # a change is 95 % through after its rest
_OF_THE_CHARGE = (Fault.UNDERCHARGE, Fault.OVERCHARGE, Fault.NON_CONDENSABLES, Fault.WRONG_REFRIGERANT)
AIR_LEFT, LEAK_LEFT = 0.6, 0.6
"""Sizes of what is left by leaving out the evacuation, and by a joint that is not tight. Chosen."""
TOO_MUCH_ADDED = 0.5
"""Size of the overcharge that adding to a unit makes which is not short. Chosen."""


@dataclass(frozen=True, slots=True)
class Harm:
    """Something that a step did and should not have."""

    code: str
    at_minutes: float

    @property
    def points(self) -> int:
        """How grave it is."""
        return HARM_POINTS[self.code]


@dataclass(frozen=True, slots=True)
class Opened:
    """A system that was opened: whether its joints are tight, and whether there is air in it."""

    tight: bool
    air: bool = True


@dataclass(frozen=True, slots=True, eq=False)
class PracticeCall:
    """A call before anything is done: the unit, its weather, what is wrong, and how its instruments read. Like no other.

    Parameters
    ----------
    machine, labelled, weather
        Of one unit, as it is filled, and as its label says.
    errors : mapping of str to float
        Of each instrument in standard deviations: reading again shows the same.
    missed : frozenset of str
        What whoever looks does not see the first time.
    dead : Dead or None
        What keeps it from running, on a unit that does not.
    loose : bool
        Whether the first joint that is made on it is not tight.
    """

    facts: UnitFacts
    machine: Machine
    labelled: Machine
    weather: Weather
    wrong: tuple[Hidden, ...]
    errors: Mapping[str, float]
    missed: frozenset[str] = frozenset()
    dead: Dead | None = None
    loose: bool = False


class PracticeUnit:
    """The unit while somebody works on it. What is asked costs nothing here: whoever plays pays the minutes."""

    def __init__(self, call: PracticeCall) -> None:
        self.call = call
        self.wrong: tuple[Hidden, ...] = call.wrong
        self.eased: tuple[Hidden, ...] = ()
        """What was taken away for now and comes back."""
        self.harms: list[Harm] = []
        self.chain = ChainState(call.dead, call.wrong) if call.dead else None
        self.panel_off = False
        self.opened: Opened | None = None
        self._joints = 0
        self._looked: set[str] = set()
        self._state: _State | None = None
        self._before: Mapping[str, float] = {}
        self._turned_at, self._rest = 0.0, 0.0

    @property
    def faults(self) -> frozenset[Fault]:
        """What is wrong now."""
        return frozenset(one.fault for one in self.wrong)

    @property
    def harm(self) -> int:
        """Points of all harm done."""
        return sum(one.points for one in self.harms)

    @property
    def held(self) -> bool:
        """Whether it is still right in three weeks."""
        return self.opened is None and not self.wrong and not self.eased and (self.chain is None or self.chain.mended)

    @property
    def runs(self) -> bool:
        """Whether it runs: its control chain and its pipes are closed, and no safety stops it."""
        return self.opened is None and (self.chain is None or self.chain.closed) and self._now().holds

    def settled(self, at_minutes: float) -> bool:
        """Whether what was changed last has settled by then."""
        return at_minutes >= self._turned_at + self._rest

    def read(self, quantity: str, at_minutes: float) -> Reading | None:
        """What the instrument shows then; None where such a unit has no such quantity, or not while it stands."""
        if not self.runs and (quantity not in _AT_REST or (self.opened and quantity == "standing_pressure")):
            return None
        value = self._shown(at_minutes).get(quantity, float("nan"))
        if not np.isfinite(value):
            return None
        atmosphere_pa = float(self.call.weather.atmosphere_pa[0])
        return Reading(quantity, value, default_half_width_si(QUANTITIES[quantity], value, atmosphere_pa))

    def look(self, what: str) -> State:
        """What is seen; an air path is proven only where nothing is wrong with it. What is missed once is seen the next time."""
        if what in SEEN_RUNNING and not self.runs:
            return State.NOT_SEEN
        missed = what in self.call.missed and what not in self._looked
        self._looked.add(what)
        if what in AIR_OF_COIL:  # by place, while the fault is named by role
            short = AIR_OF_COIL[swapped(what, heating=self.call.facts.heating)]
            return State.NO if short in self.faults else State.YES
        shown = any(what in one.part.sights for one in self.wrong)
        if what == "unusual_sound":
            shown = bool(self.sounds)
        if what == "sight_glass_bubbles":
            shown = bool(self.faults & {Fault.UNDERCHARGE, Fault.LIQUID_LINE_RESTRICTION})
        shown = shown or (self.chain is not None and self.chain.shows(what))
        return State.YES if shown and not missed else State.NO

    @property
    def sounds(self) -> tuple[str, ...]:
        """What is heard of it that stands out, while it runs."""
        loud = (one.part.sound for one in self.wrong if one.size >= HEARD_FROM and one.part.sound)
        return tuple(dict.fromkeys(loud)) if self.runs else ()

    def capacitor_uf(self, motor: Motor) -> float:
        """What the run capacitor of a motor measures on the bench. [uF]"""
        weak = next((one for one in self.wrong if one.part.weak is motor), None)
        holds = _WEAK_LEFT - _WEAK_LOST * weak.size if weak else 1.0
        scatter = sum(self.call.errors.values()) * (1 + list(Motor).index(motor)) % 2 - 1  # always the same, and no one's
        return RATED_UF[motor] * (holds + _SCATTER * scatter)

    def do(self, remedy: Remedy, at_minutes: float) -> Sequence[Harm]:
        """Do something to it, done by then; what it mends is mended, what it harms is told."""
        if remedy is Remedy.GAS_IN and self.opened is not None:
            return self.seal(Sealing.WEIGH_IN, at_minutes)[1]
        before, ran = self._shown(at_minutes), self.runs
        cured = [one for one in self.wrong if remedy in one.part.cures]
        eased = [one for one in self.wrong if remedy in one.part.eases]
        of_chain = self.chain is not None and self.chain.done(remedy)
        found = [Harm(code, at_minutes) for code in self._harm(remedy, cured, eased, of_chain=of_chain)]
        self.harms += found
        left = [one for one in self.wrong if one not in cured and one not in eased]
        if remedy is Remedy.GAS_IN and not eased:
            left = [*_without(left, Fault.OVERCHARGE), self._left(Fault.OVERCHARGE, TOO_MUCH_ADDED)]
        self.wrong, self.eased = tuple(left), (*self.eased, *eased)
        if remedy is Remedy.LEAK:
            self.eased = _without(self.eased, Fault.UNDERCHARGE)
        if REMEDIES[remedy].opens:
            leaks = any(one.fault is Fault.UNDERCHARGE for one in (*self.wrong, *self.eased))
            self.opened = Opened(tight=not leaks and not (self.call.loose and self._joints == 0))
            self._joints += 1
        self._turned(before if ran else {}, at_minutes, REMEDIES[remedy].rest)
        return found

    def seal(self, step: Sealing, at_minutes: float) -> tuple[str, Sequence[Harm]]:
        """Go on with an opened system; what that shows (``tight``, ``falls``, ``stays``, ``rises``, or nothing), and its harm."""
        opened = self.opened
        if opened is None:
            return "", []
        match step:
            case Sealing.HOLD:
                return "tight" if opened.tight else "falls", []
            case Sealing.JOINT:
                self.opened = Opened(tight=True)
                self.wrong, self.eased = _without(self.wrong, Fault.UNDERCHARGE), _without(self.eased, Fault.UNDERCHARGE)
                return "", []
            case Sealing.EVACUATE:
                self.opened = Opened(opened.tight, air=not opened.tight)
                return "stays" if opened.tight else "rises", []
            case Sealing.WEIGH_IN:
                return "", self._weighed_in(opened, at_minutes)

    def _weighed_in(self, opened: Opened, at_minutes: float) -> Sequence[Harm]:
        codes = ["not_evacuated"] * opened.air + ["leak_left"] * (not opened.tight)
        found = [Harm(code, at_minutes) for code in codes]
        self.wrong, self.eased = _without(self.wrong, *_OF_THE_CHARGE), _without(self.eased, *_OF_THE_CHARGE)
        if opened.air:
            self.wrong = (*self.wrong, self._left(Fault.NON_CONDENSABLES, AIR_LEFT))
        if not opened.tight:
            self.eased = (*self.eased, self._left(Fault.UNDERCHARGE, LEAK_LEFT))
        self.harms += found
        self.opened = None
        self._turned({}, at_minutes, FRESH_REST)
        return found

    def _left(self, fault: Fault, size: float) -> Hidden:
        return Hidden(fault, parts_behind(fault, self.call.facts)[0], size)

    def set_panel(self, *, off: bool, at_minutes: float) -> None:
        """Take the panel off, or put it back: without it the fan does not draw all of its air through the coil."""
        if off != self.panel_off:
            before = self._shown(at_minutes)
            self.panel_off = off
            self._turned(before, at_minutes, PANEL_SETTLES)

    def mend_link(self, link: str, at_minutes: float) -> None:
        """Mend or change a link of the control chain."""
        assert self.chain is not None
        code = self.chain.mend(link)
        self.harms += [Harm(code, at_minutes)] * bool(code)

    def bridge(self, at_minutes: float) -> None:
        """Put a wire around a safety that is open."""
        if self.chain is not None and self.chain.bridge():
            self.harms.append(Harm("bridged", at_minutes))

    def comes_back(self) -> None:
        """Three weeks later: what was only eased is there again, and a bridge is off."""
        self.wrong, self.eased = (*self.wrong, *self.eased), ()
        self.panel_off, self._looked = False, set()
        if self.chain is not None:
            self.chain.comes_back()
        self._state, self._before = None, {}

    def reset(self, at_minutes: float) -> None:
        """Reset what has opened, and start it: what stands behind it is not mended by that."""
        if (self.chain is not None and self.chain.reset()) or not self._now().holds:
            self.run_into_stop(at_minutes)

    def run_into_stop(self, at_minutes: float) -> None:
        """It runs on although it must not; counted a few times at most."""
        if sum(one.code == "ran_into_stop" for one in self.harms) < _MOST_COUNTED:
            self.harms.append(Harm("ran_into_stop", at_minutes))

    def _harm(self, remedy: Remedy, cured: Sequence[Hidden], eased: Sequence[Hidden], *, of_chain: bool) -> list[str]:
        codes = []
        if remedy is Remedy.GAS_IN:
            if self.faults & AIR_FAULTS:
                codes.append("gas_on_bad_air")
            codes.append("leak_left" if eased else "overfilled")
        if not cured and not eased and not of_chain:
            codes += ["sound_part"] * REMEDIES[remedy].is_part + ["opened_for_nothing"] * REMEDIES[remedy].opens
        return codes

    def _turned(self, before: Mapping[str, float], at_minutes: float, rest: float) -> None:
        self._before, self._state = before, None
        self._turned_at, self._rest = at_minutes, rest

    def _shown(self, at_minutes: float) -> Mapping[str, float]:
        """What every instrument shows then: between what it was and what it comes to, by how long ago it was changed."""
        now, left = self._now().shown, exp(-_CLOSE_TO * max(at_minutes - self._turned_at, 0.0) / max(self._rest, 1e-9))
        if not self._before or left < _NO_MORE:
            return now
        return {name: value + (self._before.get(name, value) - value) * left for name, value in now.items()}

    def _now(self) -> _State:
        """What it comes to in the present state."""
        if self._state is None:
            self._state = _comes_to(self.call, self.wrong, self.panel_off)
        return self._state


@lru_cache(maxsize=512)  # a play is gone through from its start again and again
def _comes_to(call: PracticeCall, wrong: tuple[Hidden, ...], panel_off: bool) -> _State:
    foreign = any(one.fault is Fault.WRONG_REFRIGERANT for one in wrong)
    machine, faults = call.machine if foreign else call.labelled, _severities(call, wrong, panel_off)
    solution = solve(machine, call.weather, faults)
    true = true_readings(machine, call.weather, faults, solution)
    spread = half_widths(true, call.weather.atmosphere_pa)
    shown = {
        name: float(values[0]) + call.errors.get(name, 0.0) * float(spread[name][0]) / 2 if name in spread else float(values[0])
        for name, values in true.items()
    }
    for wet, dry in (("return_air_wet_bulb", "return_air_temp"), ("supply_air_wet_bulb", "supply_air_temp")):
        shown[wet] = min(shown[wet], shown[dry])
    return _State(shown, bool(solution.solved[0] and in_table(machine, true)[0]))


def _severities(call: PracticeCall, wrong: Sequence[Hidden], panel_off: bool) -> Faults:
    severity = np.zeros((len(MECHANISMS), 1))
    for one in wrong:
        if one.fault in MECHANISMS:
            severity[MECHANISMS.index(one.fault), 0] = one.size
    if panel_off:
        row = MECHANISMS.index(Fault.LOW_CONDENSER_AIRFLOW if call.facts.heating else Fault.LOW_EVAPORATOR_AIRFLOW)
        severity[row, 0] = min(severity[row, 0] + PANEL_TAKES, 1.0)
    return Faults(severity)


def _without(hidden: Sequence[Hidden], *faults: Fault) -> tuple[Hidden, ...]:
    return tuple(one for one in hidden if one.fault not in faults)


@dataclass(frozen=True, slots=True)
class _State:
    """What a unit comes to: what its instruments show, and whether it holds itself in operation."""

    shown: Mapping[str, float]
    holds: bool
