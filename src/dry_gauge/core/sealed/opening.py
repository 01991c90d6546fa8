"""Opening a sealed system: which way fits this unit and this repair, step by step, with kit, waits and cautions."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from dry_gauge.core.sheet import UnitFacts


class Repair(StrEnum):
    """What the system is opened for."""

    LEAK_LOW = "leak_low"
    LEAK_HIGH = "leak_high"
    LEAK_UNKNOWN = "leak_unknown"
    METERING = "metering"
    DRIER = "drier"
    COMPRESSOR = "compressor"
    GAS_WRONG = "gas_wrong"
    OVERCHARGE = "overcharge"
    TOP_UP = "top_up"


REPAIR_WORDS = {
    Repair.LEAK_LOW: "Leak on the low side",
    Repair.LEAK_HIGH: "Leak on the high side",
    Repair.LEAK_UNKNOWN: "Leak, place not known",
    Repair.METERING: "Metering device or distributor",
    Repair.DRIER: "Drier or restriction in the liquid line",
    Repair.COMPRESSOR: "Compressor",
    Repair.GAS_WRONG: "Air in it, or the wrong refrigerant",
    Repair.OVERCHARGE: "Too much in it",
    Repair.TOP_UP: "Charge by weight, without opening",
}


class Way(StrEnum):
    """How the refrigerant is kept from where the work is."""

    PUMP_DOWN = "pump_down"
    RECOVER = "recover"
    REMOVE_SOME = "remove_some"
    WEIGH_ONLY = "weigh_only"


WAY_WORDS = {
    Way.PUMP_DOWN: "Pump down into the receiver",
    Way.RECOVER: "Recover it all",
    Way.REMOVE_SOME: "Recover a part, by weight",
    Way.WEIGH_ONLY: "Weigh in; nothing is opened",
}


@dataclass(frozen=True, slots=True)
class Step:
    """One card: what to do, where it is recorded, how long it takes, and what it needs."""

    code: str
    title: str
    words: str
    minutes: int
    kit: tuple[str, ...] = ()
    desk: str = ""
    """Station on which it is recorded."""
    moments: tuple[str, ...] = ()
    locked: bool = False
    """Whether the unit must not be able to start."""
    runs: bool = False
    """Whether the compressor runs in it."""


@dataclass(frozen=True, slots=True)
class Plan:
    """The way and its steps; `why` says what decided it, `not_this` why the other way is out."""

    way: Way
    steps: tuple[Step, ...]
    why: str
    not_this: str = ""

    @property
    def minutes(self) -> int:
        """All waits and work, roughly."""
        return sum(step.minutes for step in self.steps)

    @property
    def kit(self) -> tuple[str, ...]:
        """Everything it needs, once each."""
        return tuple(dict.fromkeys(item for step in self.steps for item in step.kit))


_S = Step
_LOCK = _S(
    "lock",
    "Lock out, prove dead",
    "Every disconnect that feeds it; a system that is open or in a vacuum must not start.",
    5,
    ("lock and tag", "meter"),
    "mend",
    locked=True,
)
_RECOVER = _S(
    "recover",
    "Recover",
    "Cylinder on the scale, right type, in date, below its limit. Liquid first, then vapor, to "
    "the required vacuum; wait and see that it stays.",
    35,
    ("recovery machine", "recovery cylinder", "scale", "short hoses"),
    "recover",
    ("recover",),
    True,
)
_PUMP_DOWN = _S(
    "pump_down",
    "Pump down",
    "Shut the receiver outlet, run with someone at the switch, watch the head. Stop at 1 "
    "to 2 psig (0.1 bar) on the low side, never a vacuum with a known leak. Then shut the discharge side and wait: "
    "rising means boil-off, pull once more.",
    15,
    ("gauges", "valve key"),
    "recover",
    ("recover",),
    runs=True,
)
_BRAZE = _S(
    "braze",
    "Mend, nitrogen flowing",
    "Pressure off, a small flow of dry nitrogen through, wet rag on valves, fire watch.",
    40,
    ("dry nitrogen", "regulator with relief", "flow meter", "rods", "extinguisher"),
    "leak",
    ("braze", "open_system"),
    True,
)
_CLOSE_UP = _S(
    "close_up",
    "New drier, cores, caps",
    "Whatever was open gets a new drier (bi-flow on a heat pump), new cores, seals and caps. Skipping one needs a reason.",
    15,
    ("filter drier", "valve cores", "caps and seals"),
    "leak",
    ("open_system",),
    True,
)
_HOLD = _S(
    "hold",
    "Hold under nitrogen",
    "In stages, up to what the label allows for the weaker side. Vacuum gauge off.",
    60,
    ("dry nitrogen", "regulator with relief", "gauge", "clamp"),
    "hold",
    ("nitrogen",),
    True,
)
_EVACUATE = _S(
    "evacuate",
    "Evacuate and watch",
    "Rig blanked off and proven first. Cores out, short wide hoses, gauge at the far end. Then shut off and watch ten minutes.",
    60,
    ("vacuum pump", "fresh oil", "vacuum gauge", "core tool", "wide hoses"),
    "vacuum",
    (),
    True,
)
_WEIGH = _S(
    "weigh",
    "Weigh in liquid, unit off",
    "Into the liquid line, crankcase heater on first. What does not go in is metered through the suction later, running.",
    15,
    ("scale", "refrigerant"),
    "weigh",
    ("open_system",),
    True,
)
_UNLOCK = _S(
    "start",
    "Unlock, start, settle",
    "Valves open, caps on, fans proven, then start and wait for the clock.",
    20,
    (),
    "mend",
    runs=True,
)
_TRIM = _S(
    "trim",
    "Trim and prove",
    "Small steps by the scale, a wait after each. Then the failed measurement again.",
    30,
    ("scale", "refrigerant"),
    "weigh",
    ("read",),
    runs=True,
)
_REMOVE = _S(
    "remove",
    "Recover a part",
    "Into a recovery cylinder by weight; never to the air. Clean the condenser first in a heat wave.",
    20,
    ("recovery machine", "recovery cylinder", "scale"),
    "recover",
    ("recover",),
)
_SEARCH = _S(
    "search",
    "Search",
    "Oil first, then likeliest places; each passed, failed or not reached.",
    30,
    ("detector", "bubbles", "mirror and light"),
    "leak",
    ("read",),
)
_LEAKS = frozenset({Repair.LEAK_LOW, Repair.LEAK_HIGH, Repair.LEAK_UNKNOWN})
# Parts that stand between the receiver's valve and the compressor: the pumped-down side.
_BEHIND_RECEIVER = frozenset({Repair.LEAK_LOW, Repair.METERING, Repair.DRIER})


def plan_of(facts: UnitFacts, repair: Repair, compressor_runs: bool = True, receiver_holds: bool = True) -> Plan:
    """The sequence that fits.

    Parameters
    ----------
    compressor_runs : bool
        Whether it can pump at all.
    receiver_holds : bool
        Whether the receiver is known to hold the whole charge at 80 %.
    """
    if repair is Repair.TOP_UP:
        return Plan(Way.WEIGH_ONLY, (_SEARCH, _TRIM), "Nothing is opened; what is added is weighed, with its reason.")
    if repair is Repair.OVERCHARGE:
        return Plan(Way.REMOVE_SOME, (_REMOVE, _TRIM), "Removing is recovery: weighed, never vented.")
    mend = (_BRAZE, _CLOSE_UP, _HOLD, _EVACUATE)
    first = (_SEARCH,) if repair in _LEAKS else ()
    against = _against_pump_down(facts, repair, compressor_runs, receiver_holds)
    if not against:
        steps = (*first, _PUMP_DOWN, _LOCK, *mend, _UNLOCK, _TRIM)
        return Plan(Way.PUMP_DOWN, steps, "The work is on the low side and the receiver holds the charge: no need to recover.")
    steps = (*first, _LOCK, _RECOVER, *mend, _WEIGH, _UNLOCK, _TRIM)
    why = "All of it comes out, is weighed, and goes back as weighed."
    return Plan(Way.RECOVER, steps, why, against if repair in _BEHIND_RECEIVER else "")


def _against_pump_down(facts: UnitFacts, repair: Repair, compressor_runs: bool, receiver_holds: bool) -> str:
    """Why a pump-down is out; nothing if it fits."""
    if repair not in _BEHIND_RECEIVER:
        return "The work is not behind the receiver's valve."
    if not facts.receiver:
        return "It has no receiver to pump down into."
    if facts.refrigerant.flammable:
        return "Flammable refrigerant: recover, unless the maker gives a pump-down procedure."
    if not compressor_runs:
        return "The compressor does not pump."
    if not receiver_holds:
        return "The receiver is not known to hold the whole charge at 80 %."
    return ""
