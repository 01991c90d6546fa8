"""How each fault reads: the evidence table of the first judgement, one row a fault, open to argument.

Each cell is how far a gap moves at medium severity, in F, as ``a`` (in proportion to severity) or ``a, b`` (``a*s +
b*s*s``: small at first, then fast, as on a valve that can still open). Rows follow the domain rules, section 7; the
sizes are habits of the trade, to be replaced by the bench's own.
"""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.core.vocabulary import Fault

GAPS = ("superheat", "subcooling", "evaporator_td", "condenser_split", "air_split", "discharge_superheat")

# How well a healthy unit keeps to its aim, one sigma in F: unit to unit, beyond the instruments.
HEALTHY_SIGMA_F = {
    "superheat": 3.5,
    "coil_superheat": 2.5,
    "subcooling": 2.5,
    "evaporator_td": 4.0,
    "condenser_split": 4.5,
    "air_split": 2.2,
    "discharge_superheat": 25.0,
}
# Aims where no target applies: wide, so that they whisper.
FALLBACK_F: Mapping[str, tuple[float, float]] = {
    "superheat": (12, 6),
    "subcooling": (9, 5),
    "evaporator_td": (33, 8),
    "condenser_split": (20, 8),
    "air_split": (19, 5),
    "discharge_superheat": (55, 25),
}
# A fault's size varies from unit to unit by about this share of its shift, one sigma.
SHIFT_SPREAD = 0.4

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
    Fault.UNDERCHARGE: -6.0, Fault.OVERCHARGE: 2.0, Fault.LOW_EVAPORATOR_AIRFLOW: -4.0, Fault.HIGH_EVAPORATOR_LOAD: 2.0,
    Fault.LOW_CONDENSER_AIRFLOW: 8.0, Fault.LIQUID_LINE_RESTRICTION: -6.0, Fault.METERING_UNDERFEEDING: -6.0,
    Fault.METERING_OVERFEEDING: -2.0, Fault.NON_CONDENSABLES: 0.0, Fault.INEFFICIENT_COMPRESSOR: -8.0,
}  # fmt: skip


def signatures(*, fixed: bool, receiver: bool, heating: bool) -> Mapping[Fault, Row]:
    """The table for one sort of unit."""
    table = _RECEIVER if receiver else _FIXED if fixed else _VALVE
    if not heating:
        return table
    return {fault: {**row, "air_split": _l(_HEATING_AIR[fault])} for fault, row in table.items()}


# Prior odds: what a technician's year holds, before this unit is looked at.
PRIOR: Mapping[Fault, float] = {
    Fault.NONE: 0.30,
    Fault.UNDERCHARGE: 0.16,
    Fault.OVERCHARGE: 0.06,
    Fault.LOW_EVAPORATOR_AIRFLOW: 0.13,
    Fault.HIGH_EVAPORATOR_LOAD: 0.04,
    Fault.LOW_CONDENSER_AIRFLOW: 0.12,
    Fault.LIQUID_LINE_RESTRICTION: 0.05,
    Fault.METERING_UNDERFEEDING: 0.05,
    Fault.METERING_OVERFEEDING: 0.03,
    Fault.NON_CONDENSABLES: 0.025,
    Fault.INEFFICIENT_COMPRESSOR: 0.03,
    Fault.WRONG_REFRIGERANT: 0.005,
}

_U, _O, _LE, _HL, _LC = (
    Fault.UNDERCHARGE, Fault.OVERCHARGE, Fault.LOW_EVAPORATOR_AIRFLOW, Fault.HIGH_EVAPORATOR_LOAD,
    Fault.LOW_CONDENSER_AIRFLOW,
)  # fmt: skip
_LL, _MU, _MO, _NC, _IC, _WR = (
    Fault.LIQUID_LINE_RESTRICTION, Fault.METERING_UNDERFEEDING, Fault.METERING_OVERFEEDING, Fault.NON_CONDENSABLES,
    Fault.INEFFICIENT_COMPRESSOR, Fault.WRONG_REFRIGERANT,
)  # fmt: skip

# What seeing something weighs, as natural log of odds against 'nothing wrong': (yes, no) per fault.
Weights = Mapping[Fault, tuple[float, float]]
SIGHT_WEIGHTS: Mapping[str, Weights] = {
    "sight_glass_bubbles": {_U: (1.8, -1.6), _LL: (0.9, -0.4), _IC: (-0.3, 0.0), _O: (-1.0, 0.3)},
    "sight_glass_streaming": {_U: (2.2, -0.8), _LL: (0.9, -0.2), _O: (-1.5, 0.2)},
    "sight_glass_half_empty": {_U: (2.5, -0.6), _O: (-2.0, 0.1)},
    "ice_on_evaporator_even": {_LE: (2.0, -0.1), _U: (0.5, 0.0)},
    "ice_on_evaporator_patchy": {_U: (1.5, 0.0), _LL: (1.2, 0.0), _MU: (1.2, 0.0), _LE: (0.3, 0.0)},
    "frost_after_drier": {_LL: (3.0, -0.3)},
    "frost_at_distributor": {_U: (0.9, 0.0), _MU: (0.9, 0.0), _LL: (0.6, 0.0), _LE: (0.6, 0.0)},
    "suction_line_frosted_to_compressor": {_MO: (1.2, -0.1), _O: (0.6, 0.0), _LE: (1.0, 0.0)},
    "oil_stain": {_U: (1.2, -0.1)},
    "evaporator_dirty": {_LE: (2.0, -0.5)},
    "condenser_dirty": {_LC: (2.0, -0.6)},
    "condenser_air_recirculating": {_LC: (1.8, -0.1)},
    "discharge_air_pulsing": {_LC: (1.5, -0.1)},
    "condenser_fan_stopped": {_LC: (3.5, -0.4)},
    "condenser_fan_reversed": {_LC: (3.0, -0.2)},
    "filter_dirty": {_LE: (1.8, -0.4)},
    "filter_missing": {_HL: (0.5, 0.0), _LE: (0.5, 0.0)},
    "blower_stopped": {_LE: (3.5, -0.3)},
    "blower_belt_slipping": {_LE: (2.2, -0.1)},
    "damper_closed": {_LE: (1.8, -0.1)},
    "door_open": {_HL: (2.0, -0.1)},
    "evaporator_air_proven": {_LE: (-2.5, 0.6)},
    "condenser_air_proven": {_LC: (-2.5, 0.6)},
    "compressor_not_pumping": {_IC: (3.5, -0.2)},
    "compressor_hot": {_U: (0.4, 0.0), _LL: (0.4, 0.0), _MU: (0.4, 0.0), _IC: (0.5, 0.0)},
    "superheat_hunting": {_MU: (0.5, 0.0), _MO: (0.5, 0.0), _U: (0.3, 0.0)},
    "head_pressure_hunting": {_NC: (1.0, 0.0)},
    "high_pressure_trip": {_LC: (1.0, 0.0), _O: (0.7, 0.0), _NC: (0.7, 0.0)},
    "low_pressure_trip": {_U: (0.8, 0.0), _LE: (0.6, 0.0), _LL: (0.6, 0.0), _MU: (0.6, 0.0)},
    "recently_charged": {_O: (1.0, 0.0), _NC: (0.3, 0.0), _WR: (0.8, 0.0)},
    "recently_opened": {_NC: (1.0, 0.0), _LL: (0.5, 0.0), _U: (0.5, 0.0), _WR: (0.5, 0.0)},
}
# Sights that name a place: in heating the indoor ones speak of the condenser and the outdoor ones of the evaporator.
PLACED_SIGHTS = (
    "filter_dirty", "filter_missing", "blower_stopped", "blower_belt_slipping", "damper_closed",
    "condenser_fan_stopped", "condenser_fan_reversed", "discharge_air_pulsing",
)  # fmt: skip
_SWAPPED = {_LE: _LC, _LC: _LE}


def sight_weights(what: str, *, heating: bool) -> Weights:
    """What that observation weighs, by role."""
    weights = SIGHT_WEIGHTS.get(what, {})
    if heating and what in PLACED_SIGHTS:
        return {_SWAPPED.get(fault, fault): weight for fault, weight in weights.items()}
    return weights
