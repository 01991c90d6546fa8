"""What each gap should be on this unit, by which rule, with its tolerance and where the figure comes from.

A figure from the unit's own label wins. A habit that stands in for something unknown says 'assumed'. Rules are stated
in Fahrenheit, as the trade states them, and leave this file in K.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import replace
from math import hypot

from dry_gauge.core.air import psychrometrics
from dry_gauge.core.circuit import entering_wet_bulb
from dry_gauge.core.efficiency import split_by_seer_f
from dry_gauge.core.errors import Refused
from dry_gauge.core.maker_chart import of_maker_chart
from dry_gauge.core.quantities import CFM_M3_S, CFM_PER_TON, FAHRENHEIT_K, TON_W, to_fahrenheit, to_kelvin
from dry_gauge.core.sheet import CircuitView
from dry_gauge.core.target import NotApplicable, Target, around_k, band_f, not_applicable
from dry_gauge.core.vocabulary import EvaporatorClass, HeadPressureControl, Kind, School
from dry_gauge.core.words import Phrase


def _limit_f(limit_f: float) -> tuple[str, float]:
    """A temperature of a rule, for a sentence."""
    return "limit", to_kelvin(limit_f)


def _outside(what: str, low_f: float, high_f: float, so: str) -> Phrase:
    return Phrase(f"{what} outside {{low}} to {{high}}{so}", {"low": _limit_f(low_f), "high": _limit_f(high_f)})


SUPERHEAT_TOLERANCE_F = {School.COMMON: 5.0, School.STRICT: 3.0}
SUBCOOLING_TOLERANCE_F = 3.0
ASSUMED_SUBCOOLING_F = 10.0


def find_targets(view: CircuitView) -> tuple[dict[str, Target], list[NotApplicable]]:
    """Targets of one circuit, and those it does not have.

    References
    ----------
    .. [1] docs/rules.md, R9 to R13; assumed habits: contract of the assessment.
    """
    found: dict[str, Target] = {}
    missing: list[NotApplicable] = []
    if view.unit.modulates and not view.seen("stage_held"):
        held = "its compressor modulates: hold it in the maker's test mode first"
        return {}, [not_applicable(name, held) for name in ("superheat", "subcooling", "condenser_split", "air_split")]
    sources: tuple[Iterable[Target | NotApplicable], ...] = (
        (_heating(view),)
        if view.unit.heating
        else (
            _superheat(view),
            _inlet_superheat(view),
            _coil_superheat(view),
            _subcooling(view),
            _evaporator_td(view),
            _condenser_split(view),
            _air_split(view),
        )
    )
    for source in sources:
        for item in source:
            if isinstance(item, Target):
                found[item.name] = item
            else:
                missing.append(item)
    charted = {target.name: target for target in of_maker_chart(view)}
    found |= charted
    if view.low_stage:
        found = {name: _in_low_stage(target) for name, target in found.items()}
    return found, [one for one in missing if one.target not in charted]


# What a lower stage does not move: the valve's hold, and what a box is built for.
_OF_ANY_STAGE = frozenset({"valve_hold_superheat", "walk_in_coil_superheat", "compressor_inlet_superheat", "receiver_glass"})


def _in_low_stage(target: Target) -> Target:
    if target.rule in _OF_ANY_STAGE or target.indication_only:
        return target
    return replace(target, indication_only=Phrase("read in a lower stage; the figure is for the full one"))


# -- heating -----------------------------------------------------------------


# What is usual where outdoor air was read, at 17 F and per F above it (docs/rules.md, R31).
_HEATING_LOW_F = 17.0
_HEATING_SPLIT_F, _HEATING_RISE_F = (23.0, 0.4, 7.0), (21.0, 0.2, 5.0)


def _heating(view: CircuitView) -> Iterator[Target]:
    source = "habit for heating; the maker's heating chart decides"
    for name, low_f, high_f in (("superheat", 2, 12), ("coil_superheat", 2, 12), ("subcooling", 4, 15), ("evaporator_td", 8, 18)):
        yield band_f(name, low_f, high_f, "heating_default", source, assumed=True)
    outdoor = view.get("outdoor_air_temp")
    if outdoor is None:
        return
    above_f = to_fahrenheit(outdoor.value) - _HEATING_LOW_F
    for name, (base_f, per_f, half_f) in (("condenser_split", _HEATING_SPLIT_F), ("air_split", _HEATING_RISE_F)):
        aim_k = (base_f + per_f * above_f) * FAHRENHEIT_K
        by_weather = f"habit for heating at this outdoor air; {source.partition('; ')[2]}"
        yield around_k(name, aim_k, half_f, "heating_default", by_weather, assumed=True)


# -- superheat -----------------------------------------------------------------


def _label_superheat(view: CircuitView, name: str) -> Target | None:
    label_k = view.unit.target_superheat_k
    if label_k is None:
        return None
    school = view.sheet.superheat_school
    target = around_k(name, label_k, SUPERHEAT_TOLERANCE_F[school], "label_superheat", "the unit's own label or chart")
    return replace(target, school=school)


def _superheat(view: CircuitView) -> Iterator[Target | NotApplicable]:
    label = _label_superheat(view, "superheat")
    metering = view.unit.metering
    if label:
        yield label
    elif view.unit.kind.is_walk_in:
        if view.get("suction_line_temp") is None and view.get("coil_outlet_temp") is not None:
            yield replace(_walk_in_coil(view), name="superheat")
        else:
            yield band_f("superheat", 20, 40, "valve_hold_superheat", "at the compressor of a walk-in")
    elif metering is None:
        yield not_applicable("superheat", "metering device not known: look whether it is a valve or a fixed orifice")
    elif metering.is_fixed:
        yield from _orifice_superheat(view)
    elif view.get("suction_line_temp") is None and view.get("coil_outlet_temp") is not None:
        yield replace(_valve_coil(), name="superheat")
    else:
        yield band_f("superheat", 5, 20, "valve_hold_superheat", "the valve holds it; at the service valve")


def _inlet_superheat(view: CircuitView) -> Iterator[Target]:
    if view.unit.kind.is_walk_in:
        yield band_f(
            "inlet_superheat", 20, 40, "compressor_inlet_superheat", "habit for walk-ins; the maker's figure wins", assumed=True
        )


def orifice_target_superheat_f(wet_bulb_f: float, outdoor_f: float) -> tuple[float, Phrase | None]:
    """Superheat that a fixed orifice should show [F], and why it does not hold in this weather, where it does not."""
    aim_f = (3 * wet_bulb_f - 80 - outdoor_f) / 2
    reasons = (
        (outdoor_f < 55, "outdoor air below {limit}", _limit_f(55)),
        (outdoor_f > 115, "outdoor air above {limit}", _limit_f(115)),
        (wet_bulb_f < 50, "return wet bulb below {limit}", _limit_f(50)),
        (wet_bulb_f > 76, "return wet bulb above {limit}", _limit_f(76)),
        (aim_f < 5, "target below {limit}: not chargeable by superheat in this weather, weigh in", ("margin", 5 * FAHRENHEIT_K)),
    )
    return aim_f, next((Phrase(why, {"limit": limit}) for holds, why, limit in reasons if holds), None)


def _orifice_superheat(view: CircuitView) -> Iterator[Target | NotApplicable]:
    wet, outdoor = entering_wet_bulb(view), view.get("outdoor_air_temp")
    if not (wet and outdoor):
        return
    aim_f, why_not = orifice_target_superheat_f(to_fahrenheit(wet.value), to_fahrenheit(outdoor.value))
    if why_not is None and not 350 <= (_cfm_per_ton(view) or 400) <= 450:
        why_not = Phrase("airflow outside {low} to {high}", {"low": _per_ton(350), "high": _per_ton(450)})
    if why_not:
        yield NotApplicable("superheat", why_not)
        return
    school = view.sheet.superheat_school
    target = around_k(
        "superheat",
        aim_f * FAHRENHEIT_K,
        SUPERHEAT_TOLERANCE_F[school],
        "orifice_target_superheat",
        "return wet bulb and outdoor dry bulb",
    )
    yield replace(target, school=school, uncertainty_k=hypot(1.5 * wet.uncertainty, 0.5 * outdoor.uncertainty))


def _walk_in_coil(view: CircuitView) -> Target:
    freezer = view.unit.kind is Kind.WALK_IN_FREEZER
    low, high, what = (4, 8, "freezer") if freezer else (6, 10, "cooler")
    return band_f("coil_superheat", low, high, "walk_in_coil_superheat", f"{what} coil near its design box temperature")


def _valve_coil() -> Target:
    target = band_f("coil_superheat", 5, 15, "valve_hold_superheat", "the valve holds it; at the coil outlet")
    return replace(target, aim_k=10 * FAHRENHEIT_K)


def _coil_superheat(view: CircuitView) -> Iterator[Target | NotApplicable]:
    if view.unit.kind.is_walk_in:
        yield _walk_in_coil(view)
    elif view.unit.metering is not None and not view.unit.metering.is_fixed:
        yield _valve_coil()
    else:
        yield not_applicable("coil_superheat", "judged at the service valve on a fixed orifice")


# -- subcooling -----------------------------------------------------------------


def _subcooling(view: CircuitView) -> Iterator[Target | NotApplicable]:
    unit = view.unit
    if unit.target_subcooling_k is not None:
        target = around_k(
            "subcooling", unit.target_subcooling_k, SUBCOOLING_TOLERANCE_F, "label_subcooling", "the unit's own label"
        )
    elif unit.receiver:
        yield band_f("subcooling", 2, 10, "receiver_glass", "leaving a receiver; the sight glass is the charge target")
        return
    elif unit.metering is not None and unit.metering.is_fixed:
        yield not_applicable("subcooling", "on a fixed orifice it is an effect; superheat is the target")
        return
    else:
        target = around_k(
            "subcooling",
            ASSUMED_SUBCOOLING_F * FAHRENHEIT_K,
            SUBCOOLING_TOLERANCE_F,
            "assumed_subcooling",
            "no label value",
            assumed=True,
        )
    yield replace(target, indication_only=_subcooling_weather(view))


def _indoors(view: CircuitView) -> str:
    """Which air that is, as a sentence names it."""
    return "mixed air" if view.get("mixed_air_temp") else "return air"


def _subcooling_weather(view: CircuitView) -> Phrase | None:
    """Why subcooling may not be charged by today, judged only by the air that was read."""
    for read, low_f, high_f, what in (
        (view.get("outdoor_air_temp"), 65, 105, "outdoor air"),
        (view.entering_indoor_air, 70, 80, _indoors(view)),
    ):
        if read and not view.unit.kind.is_walk_in and not low_f <= to_fahrenheit(read.value) <= high_f:
            return _outside(what, low_f, high_f, ": weigh in, or take it as an indication only")
    return None


# -- coils and air -----------------------------------------------------------------


def _cfm_per_ton(view: CircuitView) -> float | None:
    airflow, capacity_w = view.get("airflow"), view.unit.nominal_capacity_w
    if airflow is None or not capacity_w:
        return None
    return airflow.value / CFM_M3_S / (capacity_w / TON_W)


def _per_ton(cfm: float) -> tuple[str, float]:
    """Airflow for the size of a unit, for a sentence."""
    return "airflow_per_size", cfm * CFM_M3_S / TON_W


def _evaporator_td(view: CircuitView) -> Iterator[Target]:
    unit = view.unit
    if unit.kind is Kind.WALK_IN_FREEZER:
        yield band_f("evaporator_td", 7, 13, "td_by_box", "freezer coil, by habit", assumed=True)
    elif unit.kind is Kind.WALK_IN_COOLER:
        bands = {
            EvaporatorClass.HIGH_HUMIDITY: (8, 12, "high humidity"),
            EvaporatorClass.GENERAL: (12, 15, "general"),
            EvaporatorClass.LOW_HUMIDITY: (15, 20, "low humidity or work room"),
        }
        low, high, what = bands[unit.evaporator_class or EvaporatorClass.GENERAL]
        known = unit.evaporator_class is not None
        yield band_f("evaporator_td", low, high, "td_by_box", f"evaporator class {what}", assumed=not known)
    else:
        cfm_per_ton = _cfm_per_ton(view)
        aim_f = 35 - (min(max(cfm_per_ton or CFM_PER_TON, 300.0), 500.0) - CFM_PER_TON) / 10
        words = "no airflow read: {air}" if cfm_per_ton is None else "{air}"
        source = Phrase(words, {"air": _per_ton(cfm_per_ton or CFM_PER_TON)})
        target = around_k("evaporator_td", aim_f * FAHRENHEIT_K, 5, "td_by_airflow", source, assumed=True)
        yield replace(target, indication_only=_td_weather(view))


def _td_weather(view: CircuitView) -> Phrase | None:
    for read, low_f, high_f, what in (
        (view.get("outdoor_air_temp"), 80, 105, "outdoor air"),
        (view.entering_indoor_air, 73, 82, _indoors(view)),
    ):
        if read and not low_f <= to_fahrenheit(read.value) <= high_f:
            return _outside(what, low_f, high_f, ": a first look only")
    return None


def _condenser_split(view: CircuitView) -> Iterator[Target | NotApplicable]:
    unit, outdoor = view.unit, view.get("outdoor_air_temp")
    outdoor_f = to_fahrenheit(outdoor.value) if outdoor else None
    if unit.kind.is_walk_in:
        controlled = unit.head_pressure_control not in (None, HeadPressureControl.NONE)
        if controlled and outdoor_f is not None and outdoor_f < 65:
            held = "head-pressure control holds the head in this weather: compare with its setting"
            yield not_applicable("condenser_split", held)
            return
        low, high, what = (10, 20, "low") if unit.kind is Kind.WALK_IN_FREEZER else (15, 30, "medium")
        yield band_f("condenser_split", low, high, "split_by_efficiency", f"{what}-temperature condenser, by habit")
        return
    if unit.seer is None:
        target = around_k("condenser_split", 20 * FAHRENHEIT_K, 10, "split_by_efficiency", "SEER not known", assumed=True)
    else:
        aim_f = split_by_seer_f(unit.seer)
        target = around_k("condenser_split", aim_f * FAHRENHEIT_K, 5, "split_by_efficiency", f"SEER {unit.seer:g}")
    weather_holds = outdoor_f is None or 65 <= outdoor_f <= 105
    if not weather_holds or view.low_stage or view.seen("coil_wet"):
        target = replace(
            target,
            high_side_only=True,
            indication_only=_outside("outdoor air", 65, 105, ", wet coil or low stage: only 'too high' may be judged"),
        )
    yield target


def _air_split(view: CircuitView) -> Iterator[Target | NotApplicable]:
    if view.unit.kind.is_walk_in:
        yield not_applicable("air_split", "a walk-in is judged by its coil temperature difference")
        return
    dry, wet, outdoor = view.entering_indoor_air, entering_wet_bulb(view), view.get("outdoor_air_temp")
    if not (dry and wet and outdoor):
        return
    try:
        split_k = psychrometrics.expected_air_split_k(
            dry.value, min(wet.value, dry.value), outdoor.value, view.unit.atmosphere_pa
        )
    except Refused as refusal:
        yield not_applicable("air_split", refusal.message)
        return
    source = Phrase(f"{_indoors(view)}, its wet bulb, outdoor air, {{air}}", {"air": _per_ton(CFM_PER_TON)})
    yield around_k("air_split", split_k, 3, "coil_model_split", source)
