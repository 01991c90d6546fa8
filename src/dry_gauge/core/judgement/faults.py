"""What can be wrong, in words."""

from __future__ import annotations

from collections.abc import Mapping

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
