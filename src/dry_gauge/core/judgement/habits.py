"""How each fault reads, by the habits of the trade: the judgement's second teacher, which owes nothing to the bench.

Simulated units are one physics, however many makes they have; what technicians say a fault looks like is another opinion, and
where the two differ nobody knows which unit stands before one. Each cell is how far a gap moves, in F, as ``a`` (in proportion
to size) or ``a, b`` (``a*s + b*s*s``), where 1 is a fault of medium size.
"""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.core.vocabulary import Fault

GAPS = ("superheat", "subcooling", "evaporator_td", "condenser_split", "air_split", "discharge_superheat")

Shift = tuple[float, float]
Row = Mapping[str, Shift]


def _row(superheat: Shift, subcooling: Shift, td: Shift, split: Shift, air: Shift, discharge: Shift) -> Row:
    return dict(zip(GAPS, (superheat, subcooling, td, split, air, discharge), strict=True))


def _l(shift: float) -> Shift:
    return (shift, 0.0)


_FIXED: dict[Fault, Row] = {
    Fault.UNDERCHARGE: _row(_l(15), _l(-7), _l(8), _l(-4), _l(-5), _l(20)),
    Fault.OVERCHARGE: _row(_l(-7), _l(8), _l(-2), _l(5), _l(0), _l(-10)),
    Fault.LOW_EVAPORATOR_AIRFLOW: _row(_l(-7), _l(1), _l(8), _l(-3), _l(6), _l(-5)),
    Fault.HIGH_EVAPORATOR_LOAD: _row(_l(8), _l(-1), _l(-6), _l(2), _l(-4), _l(5)),
    Fault.LOW_CONDENSER_AIRFLOW: _row(_l(-5), _l(0), _l(1), _l(12), _l(-2), _l(5)),
    Fault.LIQUID_LINE_RESTRICTION: _row(_l(18), _l(6), _l(12), _l(-3), _l(-6), _l(25)),
    Fault.METERING_UNDERFEEDING: _row(_l(18), _l(6), _l(12), _l(-3), _l(-6), _l(25)),
    Fault.METERING_OVERFEEDING: _row(_l(-9), _l(-4), _l(-6), _l(1), _l(-2), _l(-20)),
    Fault.NON_CONDENSABLES: _row(_l(-4), _l(9), _l(-1), _l(11), _l(-1), _l(12)),
    Fault.INEFFICIENT_COMPRESSOR: _row(_l(-2), _l(-3), _l(-10), _l(-8), _l(-8), _l(5)),
}
_VALVE: dict[Fault, Row] = _FIXED | {
    Fault.UNDERCHARGE: _row((1, 4), _l(-7), (1, 2.5), _l(-4), (0, -2), (3, 5)),
    Fault.OVERCHARGE: _row(_l(0), _l(8), _l(0), _l(5), _l(0), _l(0)),
    Fault.LOW_EVAPORATOR_AIRFLOW: _row(_l(-2), _l(1), _l(8), _l(-3), _l(6), _l(-5)),
    Fault.HIGH_EVAPORATOR_LOAD: _row((1, 1), _l(0), _l(-6), _l(2), _l(-4), _l(0)),
    Fault.LOW_CONDENSER_AIRFLOW: _row(_l(0), _l(0), _l(0), _l(12), _l(-2), _l(10)),
    Fault.LIQUID_LINE_RESTRICTION: _row((8, 5), _l(6), (5, 4), _l(-3), (-2, -3), _l(18)),
    Fault.METERING_UNDERFEEDING: _row((10, 5), _l(6), (5, 4), _l(-3), (-2, -3), _l(18)),
    Fault.METERING_OVERFEEDING: _row(_l(-8), _l(-2), _l(-6), _l(1), _l(-2), _l(-18)),
    Fault.NON_CONDENSABLES: _row(_l(0), _l(9), _l(0), _l(11), _l(-1), _l(12)),
    Fault.INEFFICIENT_COMPRESSOR: _row(_l(0), _l(-2), _l(-10), _l(-8), _l(-8), _l(5)),
}
_RECEIVER: dict[Fault, Row] = _VALVE | {
    Fault.UNDERCHARGE: _row((2, 6), _l(-5), (1, 4), _l(-2), _l(0), (3, 8)),
    Fault.OVERCHARGE: _row(_l(0), _l(6), _l(0), _l(5), _l(0), _l(0)),
    Fault.LOW_EVAPORATOR_AIRFLOW: _row(_l(-2), _l(1), _l(6), _l(-2), _l(0), _l(-5)),
    Fault.HIGH_EVAPORATOR_LOAD: _row((1, 2), _l(0), _l(4), _l(3), _l(0), _l(0)),
    Fault.LIQUID_LINE_RESTRICTION: _row((8, 5), _l(1), (4, 3), _l(-3), _l(0), _l(15)),
    Fault.METERING_UNDERFEEDING: _row((9, 5), _l(1), (4, 3), _l(-3), _l(0), _l(15)),
    Fault.METERING_OVERFEEDING: _row(_l(-6), _l(-1), _l(-4), _l(1), _l(0), _l(-15)),
    Fault.NON_CONDENSABLES: _row(_l(0), _l(6), _l(0), _l(10), _l(0), _l(12)),
    Fault.INEFFICIENT_COMPRESSOR: _row(_l(0), _l(-1), _l(-6), _l(-6), _l(0), _l(5)),
}
# By role the refrigerant side reads alike in heating; the indoor air split is then the condenser's.
_HEATING_AIR = {
    Fault.UNDERCHARGE: -6.0,
    Fault.OVERCHARGE: 2.0,
    Fault.LOW_EVAPORATOR_AIRFLOW: -4.0,
    Fault.HIGH_EVAPORATOR_LOAD: 2.0,
    Fault.LOW_CONDENSER_AIRFLOW: 8.0,
    Fault.LIQUID_LINE_RESTRICTION: -6.0,
    Fault.METERING_UNDERFEEDING: -6.0,
    Fault.METERING_OVERFEEDING: -2.0,
    Fault.NON_CONDENSABLES: 0.0,
    Fault.INEFFICIENT_COMPRESSOR: -8.0,
}


MEDIUM = 0.45
"""Severity of a fault of medium size; sizes of the table go on from there in proportion."""


def habit_f(row: Row, gap: str, severity: float) -> float:
    """How far a gap moves at a severity, by one fault's row. [F]"""
    linear, curved = row[gap]
    size = severity / MEDIUM
    return size * linear + size * size * curved


def signatures(*, fixed: bool, receiver: bool, heating: bool) -> Mapping[Fault, Row]:
    """The table for one sort of unit."""
    table = _RECEIVER if receiver else _FIXED if fixed else _VALVE
    if not heating:
        return table
    # The outdoor coil's gap is about a third of a comfort coil's, and so is what a fault does to it.
    return {
        fault: {**row, "air_split": _l(_HEATING_AIR[fault]), "evaporator_td": (row["evaporator_td"][0] / 3, 0.0)}
        for fault, row in table.items()
    }
