"""What can be wrong, in words."""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.core.opening import Repair
from dry_gauge.core.vocabulary import Fault

FAULT_WORDS: Mapping[Fault, str] = {
    Fault.NONE: "Nothing wrong",
    Fault.UNDERCHARGE: "Short of charge",
    Fault.OVERCHARGE: "Too much charge",
    Fault.LOW_EVAPORATOR_AIRFLOW: "Evaporator short of air",
    Fault.HIGH_EVAPORATOR_LOAD: "High evaporator load",
    Fault.LOW_CONDENSER_AIRFLOW: "Condenser short of air",
    Fault.LIQUID_LINE_RESTRICTION: "Liquid line restricted",
    Fault.METERING_UNDERFEEDING: "Metering feeds too little",
    Fault.METERING_OVERFEEDING: "Metering feeds too much",
    Fault.NON_CONDENSABLES: "Air or nitrogen in it",
    Fault.INEFFICIENT_COMPRESSOR: "Compressor not pumping well",
    Fault.WRONG_REFRIGERANT: "Wrong or mixed refrigerant",
}

REPAIR_FOR: Mapping[Fault, Repair] = {
    **dict.fromkeys(Fault, Repair.LEAK_UNKNOWN),
    Fault.OVERCHARGE: Repair.OVERCHARGE,
    Fault.NON_CONDENSABLES: Repair.GAS_WRONG,
    Fault.WRONG_REFRIGERANT: Repair.GAS_WRONG,
    Fault.LIQUID_LINE_RESTRICTION: Repair.DRIER,
    Fault.METERING_UNDERFEEDING: Repair.METERING,
    Fault.METERING_OVERFEEDING: Repair.METERING,
    Fault.INEFFICIENT_COMPRESSOR: Repair.COMPRESSOR,
}
"""What the system would be opened for."""

# Plain words for the page of each fault: what happens, what shows first, what is often mistaken for it.
FAULT_PAGES: dict[Fault, tuple[str, str, str]] = {
    Fault.NONE: (
        "The numbers are what this unit should show in today's weather, as near as instruments and installations go.",
        "Every gap stands inside its band and nothing seen speaks against it.",
        "A complaint may still be true: controls, zoning, drains, electrics and the building read normal on the refrigerant "
        "side.",
    ),
    Fault.UNDERCHARGE: (
        "There is too little refrigerant to keep the liquid line full, so the coil is fed partly with vapour.",
        "With a valve, subcooling goes first while the valve still holds superheat. On a fixed orifice suction falls and "
        "superheat climbs at once. With a receiver nothing shows until it runs empty; then the glass bubbles.",
        "A restriction starves the coil too, but with liquid to spare: low suction with high subcooling is never a lack of "
        "charge. Refrigerant does not wear out: find the leak.",
    ),
    Fault.OVERCHARGE: (
        "Liquid backs up into the condenser and leaves it less face to work with.",
        "Subcooling, head and amps rise; on a fixed orifice superheat falls towards flooding. A receiver hides it until full.",
        "Air in the system looks the same from the gauges: only the unit off and equalised tells them apart. A dirty "
        "condenser raises head without raising subcooling.",
    ),
    Fault.LOW_EVAPORATOR_AIRFLOW: (
        "Too little air brings heat to the evaporator: filter, coil face, wheel, belt, dampers, ice. In heating this is the "
        "outdoor coil.",
        "Suction falls, the gap to the entering air and the air split widen; on a fixed orifice superheat falls too.",
        "Low suction alone is often called low charge, and charge is added on top: prove the air first.",
    ),
    Fault.HIGH_EVAPORATOR_LOAD: (
        "More heat reaches the coil than the entering air explains: too much air on comfort units, an open door or warm "
        "product in a box.",
        "Suction rises and the gap to the air shrinks; on a fixed orifice superheat rises.",
        "A worn compressor also raises suction, but its head and amps fall.",
    ),
    Fault.LOW_CONDENSER_AIRFLOW: (
        "The condenser cannot get rid of its heat: dirt, a dead or backward fan, blown-back air. In heating this is the "
        "indoor coil, and its filter.",
        "Head, the condenser gap, discharge temperature and amps rise; the leaving air is hot or weak; it trips in the heat.",
        "Overcharge and air in the system raise head as well, but raise subcooling with it. Wash before anything is weighed.",
    ),
    Fault.LIQUID_LINE_RESTRICTION: (
        "Something in the liquid line takes pressure before the metering device: drier, screen, kink.",
        "The coil starves while liquid backs up before the obstacle; behind it the line drops in temperature or frosts as "
        "soon as liquid flashes.",
        "An underfeeding valve reads the same without that drop. No drop does not clear the drier while liquid behind it "
        "stays subcooled.",
    ),
    Fault.METERING_UNDERFEEDING: (
        "The metering device passes too little: plugged screen, lost bulb charge, stuck.",
        "Superheat climbs to 15-20 °F and beyond, suction falls, subcooling rises unless there is a receiver.",
        "Lack of charge starves the coil too, but without subcooling to spare.",
    ),
    Fault.METERING_OVERFEEDING: (
        "The metering device passes too much: stuck open, loose bulb, piston too large.",
        "Superheat nears nothing, suction rises, the discharge line runs cool; liquid may reach the compressor.",
        "Overcharge on a fixed orifice also drowns superheat, but with more subcooling.",
    ),
    Fault.NON_CONDENSABLES: (
        "Air or nitrogen in the system sits in the condenser, adds its own pressure and blankets the tubes.",
        "Head and apparent subcooling rise together, the discharge runs hot, the head is restless.",
        "Overcharge looks alike while running. Unit off and equalised, foreign gas stands above bubble at ambient.",
    ),
    Fault.INEFFICIENT_COMPRESSOR: (
        "Worn valves or scrolls, or on a heat pump a leaking reversing valve, let gas slip back.",
        "Suction up and head down together, low ratio, low amps, little capacity.",
        "Light load and an oversized metering device raise suction too; amps and head tell.",
    ),
    Fault.WRONG_REFRIGERANT: (
        "What is in the unit is not what its label or the gauge says, or it is a mixture.",
        "Nothing fits: superheat, subcooling and both gaps contradict each other until the pressures are read by another "
        "refrigerant's curve.",
        "First look whether the gauge was set to the right refrigerant. Identify before anything is added.",
    ),
}
