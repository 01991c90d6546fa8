"""What can be wrong, a row each: its words, how often it is met and with what, what is seen of it, what mends it.

A new fault is a name in `vocabulary.Fault`, a row here, its mechanism on the bench, and a new calibration.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from dry_gauge.core.sealed.opening import Repair
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import IN_A_BOX, SIGHTS, Fault


@dataclass(frozen=True, slots=True)
class Shows:
    """How a fault shows in one observation.

    Parameters
    ----------
    full : float
        How often the answer is 'yes' with the fault at full size; None of it where it only `hides`.
    early : bool
        It shows from the first, not only from about half size on.
    hides : float
        Share of the observation's 'yes' that the fault takes away.
    """

    full: float = 0.0
    early: bool = False
    hides: float = 0.0


@dataclass(frozen=True, slots=True)
class FaultRow:
    """One fault, by role: a plugged indoor filter in heating is low condenser airflow.

    Parameters
    ----------
    words : str
        As a verdict says it.
    page : tuple of str
        For its page: what happens, what shows first, what it is mistaken for.
    prior : float
        How often it is met on units that are looked at closely, against the other faults. Habit of the trade.
    met_with : frozenset of Fault
        Met together more often than chance: one hides the other, or the cure of one made the other. Each pair once.
    sights : mapping of str to Shows
        What is seen of it. Habits, stated so that they can be argued with.
    repair : Repair
        What the system would be opened for.
    remedy, remedy_minutes : str, int
        The first thing that is done once the fault is sure. Habit of the trade.
    heating_words, heating_remedy : str
        The same where the coils have changed roles, if that makes another place of it.
    mechanism : bool
        Whether it has a size and a mechanism on the bench; a wrong refrigerant is another filling instead.
    """

    fault: Fault
    words: str
    page: tuple[str, str, str]
    prior: float = 0.0
    met_with: frozenset[Fault] = frozenset()
    sights: Mapping[str, Shows] = field(default_factory=dict)
    repair: Repair = Repair.LEAK_UNKNOWN
    remedy: str = ""
    remedy_minutes: int = 20
    heating_words: str = ""
    heating_remedy: str = ""
    mechanism: bool = True


_ROWS = (
    FaultRow(
        Fault.NONE, "Nothing wrong", mechanism=False,
        page=(
            "The numbers are what this unit should show in today's weather, as near as instruments and "
            "installations go.",
            "Every gap stands inside its band and nothing seen speaks against it.",
            "A complaint may still be true: controls, zoning, drains, electrics and the building read normal on "
            "the refrigerant side.",
        ),
    ),
    FaultRow(
        Fault.UNDERCHARGE, "Short of charge",
        page=(
            "There is too little refrigerant to keep the liquid line full, so the coil is fed partly with vapor.",
            "With a valve, subcooling goes first while the valve still holds superheat. On a fixed orifice "
            "suction falls and superheat climbs at once. With a receiver nothing shows until it runs empty; then "
            "the glass bubbles.",
            "A restriction starves the coil too, but with liquid to spare: low suction with high subcooling is "
            "never a lack of charge. Refrigerant does not wear out: find the leak.",
        ),
        prior=2.0, repair=Repair.LEAK_UNKNOWN,
        remedy="Find the leak before anything is added",
        met_with=frozenset({
            Fault.LOW_EVAPORATOR_AIRFLOW, Fault.HIGH_EVAPORATOR_LOAD, Fault.LOW_CONDENSER_AIRFLOW,
            Fault.INEFFICIENT_COMPRESSOR,
        }),
        sights={
            "sight_glass_bubbles": Shows(0.95, early=True), "sight_glass_streaming": Shows(0.75),
            "sight_glass_half_empty": Shows(0.5), "ice_on_evaporator_even": Shows(0.1),
            "ice_on_evaporator_patchy": Shows(0.25), "frost_at_distributor": Shows(0.25),
            "oil_stain": Shows(0.35, early=True), "compressor_hot": Shows(0.3), "superheat_hunting": Shows(0.2),
            "low_pressure_trip": Shows(0.35), "recently_charged": Shows(0.2, early=True), "recently_opened": Shows(0.2),
        },
    ),
    FaultRow(
        Fault.OVERCHARGE, "Too much charge",
        page=(
            "Liquid backs up into the condenser and leaves it less face to work with.",
            "Subcooling, head and amps rise; on a fixed orifice superheat falls towards flooding. A receiver "
            "hides it until full.",
            "Air in the system looks the same from the gauges: only the unit off and equalized tells them apart. "
            "A dirty condenser raises head without raising subcooling.",
        ),
        prior=1.2, repair=Repair.OVERCHARGE,
        remedy="Recover what is too much, by weight, and read again",
        met_with=frozenset({
            Fault.LOW_EVAPORATOR_AIRFLOW, Fault.LOW_CONDENSER_AIRFLOW,
        }),
        sights={
            "sight_glass_bubbles": Shows(hides=0.8), "sight_glass_streaming": Shows(hides=0.8),
            "sight_glass_half_empty": Shows(hides=0.8), "suction_line_frosted_to_compressor": Shows(0.15),
            "high_pressure_trip": Shows(0.25), "recently_charged": Shows(0.4, early=True),
        },
    ),
    FaultRow(
        Fault.LOW_EVAPORATOR_AIRFLOW, "Evaporator short of air",
        page=(
            "Too little air brings heat to the evaporator: filter, coil face, wheel, belt, dampers, ice. In "
            "heating this is the outdoor coil.",
            "Suction falls, the gap to the entering air and the air split widen; on a fixed orifice superheat "
            "falls too.",
            "Low suction alone is often called low charge, and charge is added on top: prove the air first.",
        ),
        prior=1.7, repair=Repair.LEAK_UNKNOWN,
        remedy="Give the evaporator its air back: filter, coil face, wheel, belt; then read again",
        heating_words="Outdoor coil short of air",
        heating_remedy="Give the outdoor coil its air back: frost, face, fan, what stands before it; then read again",
        met_with=frozenset({
            Fault.LOW_CONDENSER_AIRFLOW, Fault.LIQUID_LINE_RESTRICTION, Fault.METERING_UNDERFEEDING,
            Fault.METERING_OVERFEEDING, Fault.NON_CONDENSABLES, Fault.INEFFICIENT_COMPRESSOR,
        }),
        sights={
            "ice_on_evaporator_even": Shows(0.45), "ice_on_evaporator_patchy": Shows(0.06),
            "frost_at_distributor": Shows(0.2), "suction_line_frosted_to_compressor": Shows(0.4),
            "evaporator_dirty": Shows(0.5, early=True), "filter_dirty": Shows(0.55, early=True),
            "filter_missing": Shows(0.03), "blower_stopped": Shows(0.12), "blower_belt_slipping": Shows(0.14),
            "damper_closed": Shows(0.2, early=True), "low_pressure_trip": Shows(0.2),
            "evaporator_air_proven": Shows(0.91, early=True),
        },
    ),
    FaultRow(
        Fault.HIGH_EVAPORATOR_LOAD, "High evaporator load",
        page=(
            "More heat reaches the coil than the entering air explains: too much air on comfort units, an open "
            "door or warm product in a box.",
            "Suction rises and the gap to the air shrinks; on a fixed orifice superheat rises.",
            "A worn compressor also raises suction, but its head and amps fall.",
        ),
        prior=0.9, repair=Repair.LEAK_UNKNOWN,
        remedy="See to the load: doors, what was brought in, air from outside; then read again", remedy_minutes=15,
        met_with=frozenset({
            Fault.LOW_CONDENSER_AIRFLOW,
        }),
        sights={
            "filter_missing": Shows(0.25), "door_open": Shows(0.6, early=True), "evaporator_air_proven": Shows(0.15),
        },
    ),
    FaultRow(
        Fault.LOW_CONDENSER_AIRFLOW, "Condenser short of air",
        page=(
            "The condenser cannot get rid of its heat: dirt, a dead or backward fan, blown-back air. In heating "
            "this is the indoor coil, and its filter.",
            "Head, the condenser gap, discharge temperature and amps rise; the leaving air is hot or weak; it "
            "trips in the heat.",
            "Overcharge and air in the system raise head as well, but raise subcooling with it. Wash before "
            "anything is weighed.",
        ),
        prior=1.7, repair=Repair.LEAK_UNKNOWN,
        remedy="Give the condenser its air back: wash it, fan, what blows back; then read again", remedy_minutes=30,
        heating_words="Indoor coil short of air",
        heating_remedy="Give the indoor coil its air back: filter, coil face, wheel, belt, registers; then read again",
        met_with=frozenset({
            Fault.LIQUID_LINE_RESTRICTION, Fault.METERING_UNDERFEEDING, Fault.METERING_OVERFEEDING,
            Fault.NON_CONDENSABLES, Fault.INEFFICIENT_COMPRESSOR,
        }),
        sights={
            "condenser_dirty": Shows(0.65, early=True), "condenser_air_recirculating": Shows(0.15),
            "discharge_air_pulsing": Shows(0.15), "condenser_fan_stopped": Shows(0.3),
            "condenser_fan_reversed": Shows(0.1), "compressor_hot": Shows(0.25), "head_pressure_hunting": Shows(0.08),
            "high_pressure_trip": Shows(0.4), "condenser_air_proven": Shows(0.91, early=True),
        },
    ),
    FaultRow(
        Fault.LIQUID_LINE_RESTRICTION, "Liquid line restricted",
        page=(
            "Something in the liquid line takes pressure before the metering device: drier, screen, kink.",
            "The coil starves while liquid backs up before the obstacle; behind it the line drops in temperature "
            "or frosts as soon as liquid flashes.",
            "An underfeeding valve reads the same without that drop. No drop does not clear the drier while "
            "liquid behind it stays subcooled. A line through a hot attic starves the coil as well: there the liquid is "
            "warmer before the metering device than at the condenser.",
        ),
        prior=1.0, repair=Repair.DRIER,
        remedy="Plan the opening: drier, screen or kink", remedy_minutes=10,
        sights={
            "sight_glass_bubbles": Shows(0.55), "sight_glass_streaming": Shows(0.35),
            "sight_glass_half_empty": Shows(0.1), "ice_on_evaporator_patchy": Shows(0.2),
            "frost_after_drier": Shows(0.45), "frost_at_distributor": Shows(0.2), "compressor_hot": Shows(0.3),
            "superheat_hunting": Shows(0.15), "low_pressure_trip": Shows(0.35), "recently_opened": Shows(0.2),
        },
    ),
    FaultRow(
        Fault.METERING_UNDERFEEDING, "Metering feeds too little",
        page=(
            "The metering device passes too little: plugged screen, lost bulb charge, stuck.",
            "Superheat climbs to 15-20 °F (8-11 °C) and beyond, suction falls, subcooling rises unless there is a receiver.",
            "Lack of charge starves the coil too, but without subcooling to spare.",
        ),
        prior=1.0, repair=Repair.METERING,
        remedy="Bulb, screen and adjustment first; then plan the opening for a new device",
        sights={
            "ice_on_evaporator_patchy": Shows(0.2), "frost_at_distributor": Shows(0.3), "compressor_hot": Shows(0.3),
            "superheat_hunting": Shows(0.2), "low_pressure_trip": Shows(0.3), "recently_opened": Shows(0.12),
        },
    ),
    FaultRow(
        Fault.METERING_OVERFEEDING, "Metering feeds too much",
        page=(
            "The metering device passes too much: stuck open, loose bulb, piston too large.",
            "Superheat nears nothing, suction rises, the discharge line runs cool; liquid may reach the "
            "compressor.",
            "Overcharge on a fixed orifice also drowns superheat, but with more subcooling.",
        ),
        prior=0.9, repair=Repair.METERING,
        remedy="Bulb contact, insulation and adjustment first; then plan the opening for a new device",
        sights={
            "suction_line_frosted_to_compressor": Shows(0.5), "superheat_hunting": Shows(0.3),
        },
    ),
    FaultRow(
        Fault.NON_CONDENSABLES, "Air or nitrogen in it",
        page=(
            "Air or nitrogen in the system sits in the condenser, adds its own pressure and blankets the tubes.",
            "Head and apparent subcooling rise together, the discharge runs hot, the head is restless.",
            "Overcharge looks alike while running. Unit off and equalized, foreign gas stands above bubble at "
            "ambient.",
        ),
        prior=0.9, repair=Repair.GAS_WRONG,
        remedy="Plan the opening: recover, evacuate, weigh in", remedy_minutes=10,
        sights={
            "head_pressure_hunting": Shows(0.35), "high_pressure_trip": Shows(0.3), "recently_charged": Shows(0.15),
            "recently_opened": Shows(0.35, early=True),
        },
    ),
    FaultRow(
        Fault.INEFFICIENT_COMPRESSOR, "Compressor not pumping well",
        page=(
            "Worn valves or scrolls, or on a heat pump a leaking reversing valve, let gas slip back.",
            "Suction up and head down together, low ratio, low amps, little capacity.",
            "Light load and an oversized metering device raise suction too; amps and head tell.",
        ),
        prior=0.9, repair=Repair.COMPRESSOR,
        remedy="Prove it once more by amps and both pressures; then plan the opening",
        sights={
            "compressor_not_pumping": Shows(0.2), "compressor_hot": Shows(0.4),
        },
    ),
    FaultRow(
        Fault.WRONG_REFRIGERANT, "Wrong or mixed refrigerant",
        page=(
            "What is in the unit is not what its label or the gauge says, or it is a mixture.",
            "Nothing fits: superheat, subcooling and both gaps contradict each other until the pressures are read "
            "by another refrigerant's curve.",
            "First look whether the gauge was set to the right refrigerant. Identify before anything is added.",
        ),
        prior=0.8, repair=Repair.GAS_WRONG,
        remedy="Identify what is in it; recover all of it, nothing is added", remedy_minutes=30, mechanism=False,
        sights={
            "sight_glass_bubbles": Shows(0.2), "recently_charged": Shows(0.35), "recently_opened": Shows(0.25),
        },
    ),
)  # fmt: skip
FAULTS: Mapping[Fault, FaultRow] = {row.fault: row for row in _ROWS}
assert tuple(FAULTS) == tuple(Fault), "a row for every fault, in their order"
FAULT_WORDS: Mapping[Fault, str] = {fault: row.words for fault, row in FAULTS.items()}


def fault_words(fault: Fault, unit: UnitFacts) -> str:
    """A fault as a verdict on that unit says it: in heating a coil is called by where it stands."""
    row = FAULTS[fault]
    return (unit.heating and row.heating_words) or row.words


# How often a 'yes' comes on a unit with nothing wrong.
SIGHT_BASES: Mapping[str, float] = {
    "evaporator_air_proven": 0.06, "condenser_air_proven": 0.06, "sight_glass_bubbles": 0.06,
    "sight_glass_streaming": 0.04, "sight_glass_half_empty": 0.02, "ice_on_evaporator_even": 0.01,
    "ice_on_evaporator_patchy": 0.01, "frost_after_drier": 0.004, "frost_at_distributor": 0.04,
    "suction_line_frosted_to_compressor": 0.04, "oil_stain": 0.05, "evaporator_dirty": 0.07, "condenser_dirty": 0.1,
    "condenser_air_recirculating": 0.02, "discharge_air_pulsing": 0.01, "condenser_fan_stopped": 0.004,
    "condenser_fan_reversed": 0.003, "filter_dirty": 0.1, "filter_missing": 0.02, "blower_stopped": 0.003,
    "blower_belt_slipping": 0.01, "damper_closed": 0.03, "door_open": 0.06, "compressor_not_pumping": 0.003,
    "compressor_hot": 0.08, "superheat_hunting": 0.08, "head_pressure_hunting": 0.03, "high_pressure_trip": 0.02,
    "low_pressure_trip": 0.02, "recently_charged": 0.08, "recently_opened": 0.06,
}  # fmt: skip


def in_its_words(sentence: str, unit: UnitFacts) -> str:
    """What a notebook says of a sight or a fault without knowing on what, as such a unit calls it."""
    if unit.kind.is_walk_in:
        own = {SIGHTS[what].label: words for what, words in IN_A_BOX.items() if what in SIGHTS}
    else:
        own = {row.words: row.heating_words for row in FAULTS.values() if unit.heating and row.heating_words}
    for usual, words in own.items():
        sentence = sentence.replace(usual, words).replace(usual.lower(), words.lower())
    return sentence
