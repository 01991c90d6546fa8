"""Numbers that would be ordinary otherwise: with the point moved, in the other unit, under another refrigerant's curve."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from math import hypot

from dry_gauge.core.circuit import Derived
from dry_gauge.core.judgement.oddity import Oddity
from dry_gauge.core.quantities import FAHRENHEIT_K, PSI_PA, ZERO_CELSIUS_K, Measured, to_fahrenheit, to_kelvin
from dry_gauge.core.refrigerants.catalogue import CATALOGUE
from dry_gauge.core.refrigerants.saturation import saturation_of
from dry_gauge.core.sheet import CircuitView
from dry_gauge.core.vocabulary import QUANTITIES, Kind
from dry_gauge.core.words import Phrase

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


def find_slips(view: CircuitView, derived: Mapping[str, Derived]) -> Iterator[Oddity]:
    """Values far from usual that would be usual with the point moved, or in the other unit, and that nothing else supports.

    References
    ----------
    .. [1] docs/rules.md, R6.
    """
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
_INDOORS = (
    "return_air_temp",
    "space_temp",
    "box_air_temp",
    "product_temp",
    "supply_air_temp",
    "suction_line_temp",
    "coil_outlet_temp",
)
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
    numbers = {"typed": ("temperature", typed_k), "meant": ("temperature", meant_k)}
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
        (derived.get("superheat"), _ORDINARY_SUPERHEAT_K)
        if name == "suction_pressure"
        else (derived.get("subcooling"), _ORDINARY_SUBCOOLING_K)
    )
    if gap and least <= gap.value <= most:
        return True
    split, air = derived.get("condenser_split"), derived.get("air_split")
    starved = (split is not None and split.value < _DEAD_SPLIT_K) or (air is not None and air.value < _DEAD_SPLIT_K)
    return name == "suction_pressure" and (starved or view.seen("low_pressure_trip") or view.seen("oil_stain"))


def _pressure_slip(view: CircuitView, derived: Mapping[str, Derived], name: str, measured: Measured) -> Iterator[Oddity]:
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


def find_other_refrigerant(view: CircuitView) -> Iterator[Oddity]:
    """Catalogue refrigerants under which every reading of this circuit would be ordinary: a question, never a fact."""
    suction, high = view.in_table("suction_pressure"), view.in_table("liquid_pressure", "discharge_pressure")
    line = view.get("suction_line_temp", "coil_outlet_temp")
    liquid, condenser_air = view.get("liquid_line_temp"), view.entering_condenser_air
    if not (suction and high and line and liquid):
        return
    low_superheat_f, high_superheat_f = (15, 45) if view.unit.kind in (Kind.WALK_IN_COOLER, Kind.WALK_IN_FREEZER) else (4, 25)
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
