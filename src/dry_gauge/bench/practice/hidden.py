"""What is really wrong on a made-up call: the part behind each fault, what is seen of it, and what mends it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import Fault


class Remedy(StrEnum):
    """What can be done to a unit."""

    FILTER = "filter"
    EVAPORATOR = "evaporator"
    CONDENSER = "condenser"
    BLOWER = "blower"
    OUTDOOR_FAN = "outdoor_fan"
    DAMPER = "damper"
    CLEARED = "cleared"
    DOOR = "door"
    AIR_DOWN = "air_down"
    GAS_IN = "gas_in"
    GAS_OUT = "gas_out"
    LEAK = "leak"
    DRIER = "drier"
    METERING = "metering"
    RECHARGE = "recharge"
    COMPRESSOR = "compressor"
    DRAIN = "drain"
    SHORT = "short"
    CAPACITOR = "capacitor"


@dataclass(frozen=True, slots=True)
class RemedyRow:
    """One remedy: its words, how long it takes with its own waits, and what it means to have done it for nothing.

    Parameters
    ----------
    minutes : float
        Of work. Habit of the trade.
    rest : float
        Minutes until what was cleaned is dry and the unit has settled again: what is read before then is between two states.
    is_part : bool
        Whether a part goes in that was sound if it was for nothing.
    opens : bool
        Whether the sealed system is opened.
    """

    words: str
    minutes: float
    rest: float = 5.0
    is_part: bool = False
    opens: bool = False


REMEDIES: Mapping[Remedy, RemedyRow] = {
    Remedy.FILTER: RemedyRow("Change the filter", 15),
    Remedy.EVAPORATOR: RemedyRow("Clean the evaporator", 70, 30),
    Remedy.CONDENSER: RemedyRow("Clean the condenser", 50, 20),
    Remedy.BLOWER: RemedyRow("Set the belt, or mend the blower", 45),
    Remedy.OUTDOOR_FAN: RemedyRow("Mend the outdoor fan", 75, is_part=True),
    Remedy.DAMPER: RemedyRow("Open dampers and registers", 20),
    Remedy.CLEARED: RemedyRow("Clear what blows the air back", 25),
    Remedy.DOOR: RemedyRow("Mend door and gasket, bring the load down", 30, 15),
    Remedy.AIR_DOWN: RemedyRow("Slow the blower down", 30),
    Remedy.GAS_IN: RemedyRow("Add refrigerant", 10, 20),
    Remedy.GAS_OUT: RemedyRow("Take refrigerant out", 10, 20),
    Remedy.LEAK: RemedyRow("Recover, find and mend the leak", 90, 20, opens=True),
    Remedy.DRIER: RemedyRow("Recover, change the drier", 80, 20, is_part=True, opens=True),
    Remedy.METERING: RemedyRow("Recover, change the metering device", 120, 20, is_part=True, opens=True),
    Remedy.RECHARGE: RemedyRow("Recover all of it", 30, 20, opens=True),
    Remedy.COMPRESSOR: RemedyRow("Recover, change the compressor", 210, 20, is_part=True, opens=True),
    Remedy.DRAIN: RemedyRow("Clear the drain", 30),
    Remedy.SHORT: RemedyRow("Find the short by halving, and mend it", 40),
    Remedy.CAPACITOR: RemedyRow("Change the run capacitor", 20, is_part=True),
}
CHARGES = frozenset({Remedy.GAS_IN, Remedy.GAS_OUT})
"""After these refrigerant has just gone in or out."""


class Sealing(StrEnum):
    """What follows once the system was opened, in this order."""

    HOLD = "hold_test"
    JOINT = "joint"
    EVACUATE = "evacuation"
    WEIGH_IN = "weigh_in"


SEALING_MINUTES: Mapping[Sealing, float] = {
    Sealing.HOLD: 30.0,
    Sealing.JOINT: 30.0,
    Sealing.EVACUATE: 50.0,
    Sealing.WEIGH_IN: 20.0,
}
"""Habit of the trade."""
FRESH_REST = 20.0


class Motor(StrEnum):
    """What a run capacitor serves."""

    COMPRESSOR = "compressor"
    OUTDOOR_FAN = "outdoor fan"
    BLOWER = "blower"


RATED_UF: Mapping[Motor, float] = {Motor.COMPRESSOR: 45.0, Motor.OUTDOOR_FAN: 5.0, Motor.BLOWER: 7.5}
"""As they are printed. Chosen among usual ones. [uF]"""


@dataclass(frozen=True, slots=True)
class Part:
    """What can be behind a fault.

    Parameters
    ----------
    sights : tuple of str
        What is answered yes of it once it is looked at.
    cures : tuple of Remedy
        What mends it for good.
    eases : tuple of Remedy
        What takes it away for now: it comes back.
    sound : str
        What is heard of it while the unit runs, if it is no slight one; empty where nothing is.
    weak : Motor or None
        Whose run capacitor is weak.
    """

    name: str
    words: str
    sights: tuple[str, ...]
    cures: tuple[Remedy, ...]
    eases: tuple[Remedy, ...] = ()
    sound: str = ""
    weak: Motor | None = None


_LABORS = "The compressor labors: a deep, strained hum."
_FILTER = Part(
    "filter",
    "the filter is plugged",
    ("filter_dirty",),
    (Remedy.FILTER,),
    sound="The blower draws hard; it whistles at the filter's slot.",
)
_INDOOR_COIL = Part("indoor_coil", "the indoor coil is matted", ("evaporator_dirty",), (Remedy.EVAPORATOR,))
_BELT = Part(
    "belt",
    "the blower's belt slips",
    ("blower_belt_slipping",),
    (Remedy.BLOWER,),
    sound="A squeal from the blower, and a slap at each turn of the belt.",
)
_DAMPER = Part(
    "damper", "dampers are shut", ("damper_closed",), (Remedy.DAMPER,), sound="Air whistles at the few registers that are open."
)
_BLOWER_CAPACITOR = Part(
    "blower_capacitor",
    "the blower's run capacitor is weak",
    (),
    (Remedy.CAPACITOR,),
    sound="The blower's motor hums, and never comes up to speed.",
    weak=Motor.BLOWER,
)
_OUTDOOR_COIL = Part("outdoor_coil", "the outdoor coil is plugged", ("condenser_dirty",), (Remedy.CONDENSER,), sound=_LABORS)
_BLOWN_BACK = Part(
    "blown_back", "the outdoor coil breathes its own air", ("condenser_air_recirculating",), (Remedy.CLEARED,), sound=_LABORS
)
_OUTDOOR_FAN = Part(
    "outdoor_fan",
    "the outdoor fan's motor is worn",
    ("discharge_air_pulsing",),
    (Remedy.OUTDOOR_FAN,),
    sound="A dry growl in the outdoor fan's bearings; its blades can nearly be counted.",
)
_FAN_CAPACITOR = Part(
    "fan_capacitor",
    "the outdoor fan's run capacitor is weak",
    ("discharge_air_pulsing",),
    (Remedy.CAPACITOR,),
    sound="The outdoor fan's motor hums, and never comes up to speed.",
    weak=Motor.OUTDOOR_FAN,
)
_BOX_COIL = Part("box_coil", "the box's coil is matted", ("evaporator_dirty",), (Remedy.EVAPORATOR,))
_GURGLES = "It hisses and gurgles at the metering device."
_PARTS: Mapping[Fault, tuple[Part, ...]] = {
    Fault.UNDERCHARGE: (
        Part("oily_leak", "it leaks at a joint, with oil", ("oil_stain",), (Remedy.LEAK,), (Remedy.GAS_IN, Remedy.RECHARGE),
             _GURGLES),
        Part("dry_leak", "it leaks where no oil shows", (), (Remedy.LEAK,), (Remedy.GAS_IN, Remedy.RECHARGE), _GURGLES),
    ),
    Fault.OVERCHARGE: (Part("overfilled", "somebody overfilled it", ("recently_charged",), (Remedy.GAS_OUT, Remedy.RECHARGE),
                            sound=_LABORS),),
    Fault.LIQUID_LINE_RESTRICTION: (Part("drier", "the drier is plugged", ("frost_after_drier",), (Remedy.DRIER,),
                                             sound="It hisses behind the drier."),),
    Fault.METERING_UNDERFEEDING: (Part("starving_valve", "the metering device feeds too little", (), (Remedy.METERING,),
                                        sound="A thin, steady hiss at the metering device."),),
    Fault.METERING_OVERFEEDING: (Part("open_valve", "the metering device feeds too much", (), (Remedy.METERING,),
                                       sound="The compressor knocks hollow now and then, as if it swallowed."),),
    Fault.NON_CONDENSABLES: (Part("air_inside", "air got in when it was opened", ("recently_opened",), (Remedy.RECHARGE,),
                                  sound=_LABORS),),
    Fault.INEFFICIENT_COMPRESSOR: (Part("worn_compressor", "the compressor leaks inside", ("compressor_hot",),
                                        (Remedy.COMPRESSOR,),
                                        sound="A rattle in the compressor; as it stops, a hiss inside it."),),
    Fault.WRONG_REFRIGERANT: (Part("wrong_bottle", "it holds another refrigerant than its label", ("recently_opened",),
                                   (Remedy.RECHARGE,)),),
}  # fmt: skip


def parts_behind(fault: Fault, facts: UnitFacts) -> Sequence[Part]:
    """What can be behind a fault on such a unit, by role: in heating the indoor coil condenses."""
    indoor = (_FILTER, _INDOOR_COIL, _BELT, _DAMPER, _BLOWER_CAPACITOR)
    outdoor = (_OUTDOOR_COIL, _BLOWN_BACK, _OUTDOOR_FAN, _FAN_CAPACITOR)
    if fault is Fault.LOW_EVAPORATOR_AIRFLOW:
        return (_BOX_COIL,) if facts.kind.is_walk_in else outdoor if facts.heating else indoor
    if fault is Fault.LOW_CONDENSER_AIRFLOW:
        return indoor if facts.heating else outdoor
    if fault is Fault.HIGH_EVAPORATOR_LOAD:
        if facts.kind.is_walk_in:
            return (Part("door", "the door stands open, and warm goods came in", ("door_open",), (Remedy.DOOR,)),)
        return (Part("fast_blower", "the blower runs too fast", (), (Remedy.AIR_DOWN,)),)
    return _PARTS[fault]


@dataclass(frozen=True, slots=True)
class Hidden:
    """One thing that is wrong, what is behind it, and how badly: 0 is not at all, 1 as bad as a unit that still runs."""

    fault: Fault
    part: Part
    size: float


BEHIND_PANEL = frozenset({"evaporator_dirty", "blower_belt_slipping"})
"""What is seen only with the panel off, on anything but a box."""
