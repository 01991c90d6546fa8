"""Numbers that cannot be, or hardly can: each with a sentence that says what to check before anything is judged."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import hypot

from dry_gauge.core.air.static_profile import LOW_PA, USUAL_LIMIT_PA
from dry_gauge.core.circuit import Derived
from dry_gauge.core.judgement.flooding import find_flooding
from dry_gauge.core.judgement.stops import find_no_liquid
from dry_gauge.core.quantities import (
    FAHRENHEIT_K,
    PSI_PA,
    ZERO_CELSIUS_K,
    Measured,
    to_fahrenheit,
    to_kelvin,
)
from dry_gauge.core.refrigerants.catalogue import CATALOGUE
from dry_gauge.core.refrigerants.saturation import saturation_of
from dry_gauge.core.sheet import MOIST_PAIRS, CircuitView
from dry_gauge.core.targets import Target
from dry_gauge.core.vocabulary import QUANTITIES, Kind
from dry_gauge.core.words import Phrase


@dataclass(frozen=True, slots=True)
class Oddity:
    """Something odd: its code, a sentence, and the readings it is about; `holds` where nothing is judged meanwhile."""

    code: str
    phrase: Phrase
    readings: tuple[str, ...]
    holds: bool = True


def find_oddities(view: CircuitView, derived: Mapping[str, Derived], targets: Mapping[str, Target]) -> list[Oddity]:
    """Everything about these readings that asks for a second look.

    References
    ----------
    .. [1] docs/rules.md, R6 and R8.
    """
    oddities = [
        *_beyond_table(view),
        *_suction_line(view, derived),
        *_flooding(view, derived, targets),
        *_liquid_line(view, derived),
        *_air(view, derived),
        *_condensing(view, derived),
        *_pressures(view, derived),
        *_no_liquid(view, derived),
        *_static(view, derived),
        *_moist_air(view),
        *_instruments(view),
        *_stages(view),
        *_slips(view, derived),
    ]
    codes = {oddity.code for oddity in oddities}
    if codes & {"suction_line_below_saturation", "liquid_line_above_saturation", "condensing_below_outdoor"}:
        oddities += _other_refrigerant(view)
    if view.discharge_port_only:
        oddities.append(
            Oddity(
                "discharge_port_used",
                Phrase(
                    "Condensing values come from the discharge port, which reads high by the condenser's drop: 3 °F "
                    "of doubt was added."
                ),
                ("discharge_pressure",),
            )
        )
    return oddities


def _t(value_k: float) -> tuple[str, float]:
    return ("temperature", value_k)


def _suction_line(view: CircuitView, derived: Mapping[str, Derived]) -> Iterator[Oddity]:
    for name in ("superheat", "coil_superheat"):
        gap = derived.get(name)
        if gap is None or gap.value > 0:
            continue
        bubble, dew = derived["suction_bubble"].value, derived["suction_saturation"].value
        line = gap.value + dew
        if line + gap.uncertainty < bubble:
            yield Oddity(
                "suction_line_below_saturation",
                Phrase(
                    "The suction line at {line} is colder than saturation, {dew}: check the refrigerant selected, that the "
                    "clamp is on the right pipe, gauge zero and elevation.",
                    {"line": _t(line), "dew": _t(dew)},
                ),
                gap.measured.sources,
            )
            return


def _flooding(view: CircuitView, derived: Mapping[str, Derived], targets: Mapping[str, Target]) -> Iterator[Oddity]:
    found = find_flooding(view, derived, targets)
    if found:
        yield Oddity("flooding", found.phrase, found.readings)


def _beyond_table(view: CircuitView) -> Iterator[Oddity]:
    """Pressures that the refrigerant's table does not cover: kept, and what they mean."""
    saturation, name = view.unit.saturation, view.unit.refrigerant.name
    for quantity in ("liquid_pressure", "discharge_pressure", "suction_pressure", "standing_pressure"):
        read = view.get(quantity)
        if read is None or saturation.covers_pressure(read.value):
            continue
        if read.value > saturation.highest_pressure_pa:
            words = f"{{read}} is above the table of {name}: no superheat or subcooling from it. Nothing runs at this."
            if view.unit.refrigerant.apart == "carbon_dioxide":
                words = f"{{read}} is above the critical pressure of {name}: no saturation there. The maker's chart decides."
        elif quantity == "standing_pressure":
            words = f"{{read}} standing is below the table of {name}: no liquid is left. Find the leak before anything goes in."
        else:
            words = f"{{read}} is below the table of {name}: starved, pumped down or in a vacuum. No superheat from it."
        yield Oddity("pressure_beyond_table", Phrase(words, {"read": ("pressure", read.value)}), (quantity,))


def _no_liquid(view: CircuitView, derived: Mapping[str, Derived]) -> Iterator[Oddity]:
    found = find_no_liquid(view, derived)
    if found:
        yield Oddity("no_liquid", found.phrase, found.readings)


def _moist_air(view: CircuitView) -> Iterator[Oddity]:
    for place, dry_name, wet_name in MOIST_PAIRS:
        dry, wet = view.get(dry_name), view.get(wet_name)
        if dry and wet and wet.value > dry.value:
            over = wet - dry
            yield Oddity(
                "wet_bulb_above_dry_bulb",
                Phrase(
                    f"{place} wet bulb reads {{over}} above the dry bulb: the air is saturated, or a probe reads off. Put both "
                    "side by side.",
                    {"over": ("difference", over.value)},
                ),
                (wet_name, dry_name),
                holds=over.value > over.uncertainty,
            )


def _stages(view: CircuitView) -> Iterator[Oddity]:
    if view.mixed_stages:
        names = " and ".join(view.mixed_stages)
        yield Oddity(
            "stage_mixed",
            Phrase(f"Read in stages {names}, in none of them enough: hold one stage, read both pressures and lines in it."),
            tuple(name for name in view.missing_readings),
        )


def _liquid_line(view: CircuitView, derived: Mapping[str, Derived]) -> Iterator[Oddity]:
    gap = derived.get("subcooling")
    if gap and gap.value + gap.uncertainty < 0:
        yield Oddity(
            "liquid_line_above_saturation",
            Phrase(
                "The liquid line is {gap} warmer than its bubble point: clamp on the hot-gas line, in the sun or "
                "after another part; refrigerant, gauge or elevation wrong; or it is not all liquid.",
                {"gap": ("difference", -gap.value)},
            ),
            gap.measured.sources,
        )
    approach = derived.get("liquid_approach")
    if approach and approach.value <= 0:
        yield Oddity(
            "approach_not_positive",
            Phrase(
                "The liquid line is not warmer than the air that cools it ({gap}): check both sensors, sun on the "
                "air probe first.",
                {"gap": ("difference", approach.value)},
            ),
            approach.measured.sources,
        )


def _air(view: CircuitView, derived: Mapping[str, Derived]) -> Iterator[Oddity]:
    split = derived.get("air_split")
    if split and not view.unit.heating and split.value + split.uncertainty < 0:
        yield Oddity(
            "supply_warmer_than_return",
            Phrase(
                "Supply air is {gap} warmer than return air in cooling: probes swapped, or heat is on.",
                {"gap": ("difference", -split.value)},
            ),
            split.measured.sources,
        )
    outdoor, leaving = view.get("outdoor_air_temp"), view.get("condenser_leaving_air_temp")
    witnesses = [one for one in (leaving, view.get("liquid_line_temp")) if one and outdoor and one.value > outdoor.value]
    if outdoor and outdoor.value > to_kelvin(125) and not witnesses:
        yield _hot_probe(outdoor, ())
    elif outdoor and leaving and not view.unit.heating and (leaving - outdoor).value < -(leaving - outdoor).uncertainty:
        yield _hot_probe(outdoor, leaving.sources)


def _hot_probe(outdoor: Measured, others: tuple[str, ...]) -> Oddity:
    return Oddity(
        "outdoor_probe_hot",
        Phrase(
            "Outdoor air at {air} is hotter than the rest allows: shade the probe, off the roof, in the air that "
            "enters the coil.",
            {"air": _t(outdoor.value)},
        ),
        (*outdoor.sources, *others),
    )


def _condensing(view: CircuitView, derived: Mapping[str, Derived]) -> Iterator[Oddity]:
    split = derived.get("condenser_split")
    if split and split.value + split.uncertainty < 0:
        yield Oddity(
            "condensing_below_outdoor",
            Phrase(
                "Condensing saturation is {gap} below the air that cools it: hoses swapped, unit off, or the "
                "refrigerant is another.",
                {"gap": ("difference", -split.value)},
            ),
            split.measured.sources,
        )


def _pressures(view: CircuitView, derived: Mapping[str, Derived]) -> Iterator[Oddity]:
    low, high = view.get("suction_pressure"), view.high_pressure
    if low and high and (low - high).value > (low - high).uncertainty:
        yield Oddity(
            "low_side_above_high_side",
            Phrase(
                "Suction {low} is above the high side, {high}: hoses swapped, or the two fields.",
                {"low": ("pressure", low.value), "high": ("pressure", high.value)},
            ),
            (*low.sources, *high.sources),
        )
    suction, outdoor = derived.get("suction_saturation"), view.get("outdoor_air_temp")
    if view.unit.heating and suction and outdoor and suction.value > outdoor.value + suction.uncertainty:
        yield Oddity(
            "vapour_valve_in_heating",
            Phrase(
                "'Suction' saturates at {dew}, above outdoor air: in heating the large service valve carries "
                "discharge gas. Read suction at the common suction port.",
                {"dew": _t(suction.value)},
            ),
            (*suction.measured.sources, "outdoor_air_temp"),
        )


def _static(view: CircuitView, derived: Mapping[str, Derived]) -> Iterator[Oddity]:
    for name, wrong_sign, what in (
        ("external_static_supply", -1, "Supply static is negative"),
        ("external_static_return", 1, "Return static is positive"),
    ):
        read = view.get(name)
        if read and read.value * wrong_sign > read.uncertainty:
            yield Oddity(
                "static_sign",
                Phrase(
                    f"{what} ({{value}}): written without its sign, tubes swapped, or really so?",
                    {"value": ("static", read.value)},
                ),
                (name,),
            )
            return
    static = derived.get("external_static")
    if static is None or view.unit.kind.is_walk_in:
        return
    numbers = {"static": ("static", static.value), "high": ("static", USUAL_LIMIT_PA)}
    if static.value - static.uncertainty > USUAL_LIMIT_PA:
        words = "External static {static} is above {high}, what most labels allow: filter, coil, dampers, registers."
        yield Oddity("static_high", Phrase(words, numbers), static.measured.sources)
    elif static.value + static.uncertainty < LOW_PA:
        words = "External static {static} is too low to be right: filter missing, panel open, slow blower, a probe misplaced?"
        yield Oddity("static_low", Phrase(words, numbers), static.measured.sources)


def _instruments(view: CircuitView) -> Iterator[Oddity]:
    for readings in view.disagreeing:
        quantity = QUANTITIES[readings[0].quantity]
        low, high = (pick(reading.value_si for reading in readings) for pick in (min, max))
        yield Oddity(
            "instruments_disagree",
            Phrase(
                f"Two instruments on {quantity.label.lower()} disagree beyond their accuracy, {{low}} and {{high}}: "
                "neither is used until one is explained.",
                {"low": (quantity.dimension, low), "high": (quantity.dimension, high)},
            ),
            (quantity.name,),
        )


# Saturation temperatures between which a running unit usually works. [K]
_USUAL_SUCTION_K = {
    "comfort": (to_kelvin(-10), to_kelvin(65)),
    "heating": (to_kelvin(-30), to_kelvin(60)),
    "cooler": (to_kelvin(-15), to_kelvin(60)),
    "freezer": (to_kelvin(-55), to_kelvin(45)),
}
_USUAL_CONDENSING_K = (to_kelvin(50), to_kelvin(150))


def _usual_suction_k(view: CircuitView) -> tuple[float, float]:
    kind = view.unit.kind
    if kind.is_walk_in:
        return _USUAL_SUCTION_K["freezer" if kind is Kind.WALK_IN_FREEZER else "cooler"]
    return _USUAL_SUCTION_K["heating" if view.unit.heating else "comfort"]


def _slips(view: CircuitView, derived: Mapping[str, Derived]) -> Iterator[Oddity]:
    """Values far from usual that would be usual with the point moved, or in the other unit, and that nothing else supports."""
    for name, measured in view.measured.items():
        quantity = QUANTITIES[name]
        if quantity.dimension == "temperature" and quantity.usual_si:
            low, high = quantity.usual_si
            if view.unit.kind.is_walk_in is False and name in ("return_air_temp", "supply_air_temp", "space_temp"):
                low = to_kelvin(40 if name != "supply_air_temp" else 25)
            if low <= measured.value <= high:
                continue
            typed_f = to_fahrenheit(measured.value)
            other = _other_temperature(quantity.label, typed_f, low, high, _witnesses_k(view, derived, name))
            if other:
                yield Oddity(*other, (name,))
        elif name in ("suction_pressure", "liquid_pressure", "discharge_pressure"):
            yield from _pressure_slip(view, derived, name, measured)


# What would read much the same as each, where the number is right.
_INDOORS = ("return_air_temp", "space_temp", "box_air_temp", "product_temp", "supply_air_temp", "suction_line_temp",
            "coil_outlet_temp")  # fmt: skip
_LIQUID = ("liquid_line_temp", "drier_inlet_temp", "drier_outlet_temp", "valve_inlet_temp", "condenser_leaving_air_temp")
_WITNESSES: Mapping[str, tuple[str, ...]] = {
    **dict.fromkeys(("return_air_temp", "space_temp", "box_air_temp", "product_temp", "supply_air_temp"), _INDOORS),
    **dict.fromkeys(("return_air_wet_bulb", "supply_air_wet_bulb"), ("return_air_temp", "supply_air_temp", "space_temp")),
    **dict.fromkeys(("suction_line_temp", "coil_outlet_temp", "compressor_suction_temp"), (*_INDOORS, "compressor_suction_temp")),
    **dict.fromkeys(_LIQUID, (*_LIQUID, "outdoor_air_temp")),
    "outdoor_air_temp": (*_LIQUID, "equalized_ambient_temp"),
    "equalized_ambient_temp": ("outdoor_air_temp", "return_air_temp", "box_air_temp"),
}
_SATURATIONS: Mapping[str, str] = {
    **dict.fromkeys((*_LIQUID, "outdoor_air_temp"), "condensing_mean"),
    **dict.fromkeys(("suction_line_temp", "coil_outlet_temp", "compressor_suction_temp"), "evaporating_mean"),
}
_NEARER = 0.6  # of the way to the other meaning: nearer than that a witness supports what was typed


def _witnesses_k(view: CircuitView, derived: Mapping[str, Derived], name: str) -> list[float]:
    """What was read near by and would be near this number if it is right. [K]"""
    found = [view.measured[other].value for other in _WITNESSES.get(name, ()) if other != name and other in view.measured]
    saturation = derived.get(_SATURATIONS.get(name, ""))
    if saturation:
        found.append(saturation.value)
    if name == "outdoor_air_temp" and view.unit.heating and "evaporating_mean" in derived:
        found = [derived["evaporating_mean"].value]
    return found


def _other_temperature(
    label: str, typed_f: float, low_k: float, high_k: float, witnesses_k: Sequence[float]
) -> tuple[str, Phrase] | None:
    """Of the readings that would be usual, the one nearest the middle; None where another reading supports what was typed."""
    middle_k, typed_k = (low_k + high_k) / 2, to_kelvin(typed_f)
    candidates = [
        ("looks_like_other_unit", typed_f + ZERO_CELSIUS_K),
        ("slipped_decimal", to_kelvin(typed_f * 10)),
        ("slipped_decimal", to_kelvin(typed_f / 10)),
    ]
    usual = [candidate for candidate in candidates if low_k <= candidate[1] <= high_k]
    if not usual:
        return None
    code, meant_k = min(usual, key=lambda candidate: abs(candidate[1] - middle_k))
    if any(abs(witness - typed_k) < _NEARER * abs(witness - meant_k) for witness in witnesses_k):
        return None
    numbers = {"typed": _t(typed_k), "meant": _t(meant_k)}
    if code == "looks_like_other_unit":
        return code, Phrase(
            f"{label} {{typed}} is unlikely here; the same number in Celsius would be {{meant}}. Which unit was the probe in?",
            numbers,
        )
    return code, Phrase(f"{label} {{typed}} is unlikely here; did you mean {{meant}}?", numbers)


# Between these a line over its saturation is ordinary enough to support the pressure. [K]
_ORDINARY_SUPERHEAT_K = (-3 * FAHRENHEIT_K, 45 * FAHRENHEIT_K)
_ORDINARY_SUBCOOLING_K = (-3 * FAHRENHEIT_K, 30 * FAHRENHEIT_K)
_DEAD_SPLIT_K = 8 * FAHRENHEIT_K


def _pressure_supported(view: CircuitView, derived: Mapping[str, Derived], name: str) -> bool:
    """Whether another reading says the same as this pressure: its line, the other side, or air that is hardly cooled."""
    gap, (least, most) = (
        (derived.get("superheat"), _ORDINARY_SUPERHEAT_K) if name == "suction_pressure"
        else (derived.get("subcooling"), _ORDINARY_SUBCOOLING_K)
    )  # fmt: skip
    if gap and least <= gap.value <= most:
        return True
    split, air = derived.get("condenser_split"), derived.get("air_split")
    starved = (split is not None and split.value < _DEAD_SPLIT_K) or (air is not None and air.value < _DEAD_SPLIT_K)
    return name == "suction_pressure" and (starved or view.seen("low_pressure_trip") or view.seen("oil_stain"))


def _pressure_slip(
    view: CircuitView, derived: Mapping[str, Derived], name: str, measured: Measured
) -> Iterator[Oddity]:
    saturation, atmosphere_pa = view.unit.saturation, view.unit.atmosphere_pa
    low_k, high_k = _usual_suction_k(view) if name == "suction_pressure" else _USUAL_CONDENSING_K

    def usual(pressure_pa: float) -> bool:
        return saturation.covers_pressure(pressure_pa) and low_k <= saturation.dew_temperature_k(pressure_pa) <= high_k

    if usual(measured.value) or _pressure_supported(view, derived, name):
        return
    gauge_pa = measured.value - atmosphere_pa
    candidates = (
        ("slipped_decimal", gauge_pa * 10 + atmosphere_pa, "with the point moved"),
        ("slipped_decimal", gauge_pa / 10 + atmosphere_pa, "with the point moved"),
        ("looks_like_other_unit", gauge_pa / (PSI_PA / 1e3) + atmosphere_pa, "read as kPa"),
        ("looks_like_other_unit", gauge_pa * (PSI_PA / 1e3) + atmosphere_pa, "read as psi"),
    )
    for code, pressure_pa, how in candidates:
        if gauge_pa > 0 and usual(pressure_pa):
            yield Oddity(
                code,
                Phrase(
                    f"{QUANTITIES[name].label} {{typed}} is unlikely for a running unit; {how} it would be {{meant}}. Look at "
                    "the gauge again.",
                    {"typed": ("pressure", measured.value), "meant": ("pressure", pressure_pa)},
                ),
                (name,),
            )
            return


def _other_refrigerant(view: CircuitView) -> Iterator[Oddity]:
    """Catalogue refrigerants under which every reading of this circuit would be ordinary: a question, never a fact."""
    suction, high = view.in_table("suction_pressure"), view.in_table("liquid_pressure", "discharge_pressure")
    line = view.get("suction_line_temp", "coil_outlet_temp")
    liquid, condenser_air = view.get("liquid_line_temp"), view.entering_condenser_air
    if not (suction and high and line and liquid):
        return
    low_superheat_f, high_superheat_f = (
        (15, 45) if view.unit.kind in (Kind.WALK_IN_COOLER, Kind.WALK_IN_FREEZER) else (4, 25)
    )
    fits = []
    for refrigerant in CATALOGUE:
        saturation = saturation_of(refrigerant)
        if refrigerant is view.unit.refrigerant or not all(
            saturation.covers_pressure(pressure.value) for pressure in (suction, high)
        ):
            continue
        superheat = line.value - saturation.dew_temperature_k(suction.value)
        subcooling = saturation.bubble_temperature_k(high.value) - liquid.value
        split = saturation.condensing_mean_k(high.value) - condenser_air.value if condenser_air else 20 * FAHRENHEIT_K
        if (
            low_superheat_f <= superheat / FAHRENHEIT_K <= high_superheat_f
            and 4 <= subcooling / FAHRENHEIT_K <= 18
            and 8 <= split / FAHRENHEIT_K <= 35
        ):
            fit = hypot(subcooling / FAHRENHEIT_K - 10, split / FAHRENHEIT_K - 20)
            fits.append((refrigerant.met_rank, fit, refrigerant.name))
    if fits:
        names = " or ".join(name for _, _, name in sorted(fits)[:3])
        yield Oddity(
            "other_refrigerant_fits",
            Phrase(
                f"As {view.unit.refrigerant.name} this cannot be; as {names} the same readings would be ordinary. "
                "What does the label say, and what did the gauge use?"
            ),
            (*suction.sources, *high.sources, *line.sources, *liquid.sources),
        )
