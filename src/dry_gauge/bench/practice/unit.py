"""A unit on a made-up call: it answers in its present state, every step takes its minutes, and some do harm.

The rules of harm are those of the trade that the stop lines and gates stand for (docs/rules.md, R70): refrigerant into bad
air or an iced coil, sound parts changed, a unit left running against a stop.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from dry_gauge.bench.instruments import half_widths, true_readings
from dry_gauge.bench.machine import Machine
from dry_gauge.bench.plant import Faults, Weather
from dry_gauge.bench.practice.hidden import REMEDIES, Hidden, Remedy, parts_behind
from dry_gauge.bench.solve import solve
from dry_gauge.core.judgement.hypotheses import MECHANISMS
from dry_gauge.core.sheet import Reading, UnitFacts
from dry_gauge.core.vocabulary import AIR_FAULTS, QUANTITIES, Fault, State, default_half_width_si

HARM_WORDS: Mapping[str, str] = {
    "gas_on_bad_air": "Refrigerant was added while the air was not right: the compressor gets liquid once it is.",
    "overfilled": "Refrigerant was added to a unit that was not short of it.",
    "leak_left": "What leaked out was filled up and the leak left: it is gone again in weeks.",
    "sound_part": "A sound part was changed.",
    "opened_for_nothing": "The system was opened for nothing.",
    "ran_into_stop": "It was kept running against a stop.",
}
HARM_POINTS: Mapping[str, int] = {"gas_on_bad_air": 3, "overfilled": 2, "leak_left": 2, "sound_part": 2, "opened_for_nothing": 1,
                                   "ran_into_stop": 1}  # fmt: skip
"""How grave each is, against the others. Chosen (R70)."""
_MOST_COUNTED = 3
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
class PracticeCall:
    """A call before anything is done: the unit, its weather, what is wrong, and how its instruments read.

    Parameters
    ----------
    machine, labelled, weather
        Of one unit, as it is filled, and as its label says.
    errors : mapping of str to float
        Of each instrument in standard deviations: reading again shows the same.
    missed : frozenset of str
        What whoever looks does not see the first time.
    """

    facts: UnitFacts
    machine: Machine
    labelled: Machine
    weather: Weather
    wrong: tuple[Hidden, ...]
    errors: Mapping[str, float]
    missed: frozenset[str] = frozenset()


class PracticeUnit:
    """The unit while somebody works on it. What is asked costs nothing here: whoever plays pays the minutes."""

    def __init__(self, call: PracticeCall) -> None:
        self.call = call
        self.wrong: tuple[Hidden, ...] = call.wrong
        self.eased: tuple[Hidden, ...] = ()
        """What was taken away for now and comes back."""
        self.harms: list[Harm] = []
        self._looked: set[str] = set()
        self._shown: dict[str, float] | None = None

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
        return not self.wrong and not self.eased

    def read(self, quantity: str) -> Reading | None:
        """What the instrument shows now; None where such a unit has no such quantity."""
        value = self._readings().get(quantity, float("nan"))
        if not np.isfinite(value):
            return None
        atmosphere_pa = float(self.call.weather.atmosphere_pa[0])
        return Reading(quantity, value, default_half_width_si(QUANTITIES[quantity], value, atmosphere_pa))

    def look(self, what: str) -> State:
        """What is seen; an air path is proven only where nothing is wrong with it. What is missed once is seen the next time."""
        missed = what in self.call.missed and what not in self._looked
        self._looked.add(what)
        if what == "evaporator_air_proven":
            return State.NO if Fault.LOW_EVAPORATOR_AIRFLOW in self.faults else State.YES
        if what == "condenser_air_proven":
            return State.NO if Fault.LOW_CONDENSER_AIRFLOW in self.faults else State.YES
        shown = any(what in one.part.sights for one in self.wrong)
        if what == "sight_glass_bubbles":
            shown = bool(self.faults & {Fault.UNDERCHARGE, Fault.LIQUID_LINE_RESTRICTION})
        return State.YES if shown and not missed else State.NO

    def do(self, remedy: Remedy, at_minutes: float) -> Sequence[Harm]:
        """Do something to it; what it mends is mended, what it harms is told."""
        cured = [one for one in self.wrong if remedy in one.part.cures]
        eased = [one for one in self.wrong if remedy in one.part.eases]
        found = [Harm(code, at_minutes) for code in self._harm(remedy, cured, eased)]
        self.harms += found
        left = [one for one in self.wrong if one not in cured and one not in eased]
        if remedy is Remedy.GAS_IN and not eased:
            left = [one for one in left if one.fault is not Fault.OVERCHARGE]
            left.append(Hidden(Fault.OVERCHARGE, parts_behind(Fault.OVERCHARGE, self.call.facts)[0], TOO_MUCH_ADDED))
        self.wrong, self.eased = tuple(left), (*self.eased, *eased)
        if remedy is Remedy.LEAK:
            self.eased = tuple(one for one in self.eased if one.fault is not Fault.UNDERCHARGE)
        self._shown = None
        return found

    def run_into_stop(self, at_minutes: float) -> None:
        """It runs on although it must not; counted a few times at most."""
        if sum(one.code == "ran_into_stop" for one in self.harms) < _MOST_COUNTED:
            self.harms.append(Harm("ran_into_stop", at_minutes))

    def _harm(self, remedy: Remedy, cured: Sequence[Hidden], eased: Sequence[Hidden]) -> list[str]:
        codes = []
        if remedy is Remedy.GAS_IN:
            if self.faults & AIR_FAULTS:
                codes.append("gas_on_bad_air")
            codes.append("leak_left" if eased else "overfilled")
        elif remedy is Remedy.RECHARGE and eased:
            codes.append("leak_left")
        if not cured and not eased:
            codes += ["sound_part"] * REMEDIES[remedy].is_part + ["opened_for_nothing"] * REMEDIES[remedy].opens
        return codes

    def _readings(self) -> dict[str, float]:
        """What every instrument shows in the present state."""
        if self._shown is None:
            call = self.call
            machine = call.machine if Fault.WRONG_REFRIGERANT in self.faults else call.labelled
            true = true_readings(machine, call.weather, self._faults(), solve(machine, call.weather, self._faults()))
            spread = half_widths(true, call.weather.atmosphere_pa)
            self._shown = {
                name: float(values[0]) + call.errors.get(name, 0.0) * float(spread[name][0]) / 2 if name in spread
                else float(values[0])
                for name, values in true.items()
            }  # fmt: skip
            for wet, dry in (("return_air_wet_bulb", "return_air_temp"), ("supply_air_wet_bulb", "supply_air_temp")):
                self._shown[wet] = min(self._shown[wet], self._shown[dry])
        return self._shown

    def _faults(self) -> Faults:
        severity = np.zeros((len(MECHANISMS), 1))
        for one in self.wrong:
            if one.fault in MECHANISMS:
                severity[MECHANISMS.index(one.fault), 0] = one.size
        return Faults(severity)


