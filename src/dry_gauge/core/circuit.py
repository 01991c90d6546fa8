"""Circuit arithmetic: from what was read on one circuit to every quantity that follows, with its uncertainty.

By role, not by place: in heating the outdoor coil is the evaporator and the indoor coil the condenser.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from dry_gauge.core.air import psychrometrics
from dry_gauge.core.air.airflow import outdoor_share
from dry_gauge.core.errors import Refused
from dry_gauge.core.quantities import FAHRENHEIT_K, Measured
from dry_gauge.core.refrigerants.compression import inlet_quality
from dry_gauge.core.refrigerants.saturation import EVAPORATING_DEW_SHARE
from dry_gauge.core.sheet import CircuitView

# Port drop between discharge and liquid port, as a doubt on every condensing value taken from the wrong one (R3).
DISCHARGE_PORT_DOUBT_K = 3 * FAHRENHEIT_K
OUTDOOR_MOISTURE_DOUBT = 0.006
"""By how much outdoor air holds more or less water than return air, 95 %. [kg/kg] Chosen: desert to coast."""
QUALITY_DOUBT = 0.25
"""Of the doubt of a fixed share, what is left where the inlet's vapour is known. Chosen: temperature against enthalpy bends."""


@dataclass(frozen=True, slots=True)
class Derived:
    """One derived quantity.

    Parameters
    ----------
    name : str
        As in the contract, without its unit suffix.
    dimension : str
        ``temperature``, ``difference``, ``ratio``, ``static``, ``power`` or ``power_ratio``.
    measured : Measured
        In SI; carries its uncertainty and the readings it came from.
    """

    name: str
    dimension: str
    measured: Measured

    @property
    def value(self) -> float:
        """In SI."""
        return self.measured.value

    @property
    def uncertainty(self) -> float:
        """95 % half-width, SI."""
        return self.measured.uncertainty


def derive(view: CircuitView) -> dict[str, Derived]:
    """Everything that can be had from what was read; what cannot be had is absent.

    References
    ----------
    .. [1] docs/rules.md, R1, R2, R4 and R5.
    """
    found: dict[str, Derived] = {}
    for derived in (*_low_side(view), *_high_side(view), *_air_side(view)):
        found[derived.name] = derived
    found |= {derived.name: derived for derived in _gaps(view, found)}
    return found


def _temperature(name: str, measured: Measured) -> Derived:
    return Derived(name, "temperature", measured)


def _difference(name: str, measured: Measured) -> Derived:
    return Derived(name, "difference", measured)


def _low_side(view: CircuitView) -> Iterator[Derived]:
    saturation = view.unit.saturation
    pressure = view.in_table("suction_pressure")
    if pressure:
        p = pressure.value
        dew_slope, bubble_slope = saturation.dew_slope_k_per_pa(p), saturation.bubble_slope_k_per_pa(p)
        yield _temperature("suction_saturation", pressure.through(saturation.dew_temperature_k(p), dew_slope))
        yield _temperature("suction_bubble", pressure.through(saturation.bubble_temperature_k(p), bubble_slope))
        share, doubt = _dew_share(view, p)
        mean_k = share * saturation.dew_temperature_k(p) + (1 - share) * saturation.bubble_temperature_k(p)
        mean = pressure.through(mean_k, share * dew_slope + (1 - share) * bubble_slope)
        yield _temperature("evaporating_mean", mean.doubted("wide glide", doubt) if doubt else mean)
    line = view.get("suction_line_temp", "compressor_suction_temp")
    outlet = view.get("coil_outlet_temp")
    if line and outlet:
        yield _difference("line_gain", line - outlet)


def _dew_share(view: CircuitView, suction_pa: float) -> tuple[float, float]:
    """Share of dew in the evaporating mean, and what it leaves in doubt [K]: on a wide glide from what enters the coil."""
    refrigerant = view.unit.refrigerant
    liquid, line = view.in_table("liquid_pressure", "discharge_pressure"), view.get("liquid_line_temp")
    if not refrigerant.mean_doubt_k or not (liquid and line):
        return EVAPORATING_DEW_SHARE, refrigerant.mean_doubt_k
    quality = inlet_quality(refrigerant, liquid.value, line.value, suction_pa)
    return (1 + quality) / 2, QUALITY_DOUBT * refrigerant.mean_doubt_k


def _high_side(view: CircuitView) -> Iterator[Derived]:
    saturation = view.unit.saturation
    pressure = view.in_table("liquid_pressure", "discharge_pressure")
    if pressure:
        p = pressure.value
        dew_slope, bubble_slope = saturation.dew_slope_k_per_pa(p), saturation.bubble_slope_k_per_pa(p)
        for name, value, slope in (
            ("condensing_bubble", saturation.bubble_temperature_k(p), bubble_slope),
            ("condensing_dew", saturation.dew_temperature_k(p), dew_slope),
            ("condensing_mean", saturation.condensing_mean_k(p), (dew_slope + bubble_slope) / 2),
        ):
            measured = pressure.through(value, slope)
            if view.discharge_port_only:
                measured = measured.doubted("discharge port", DISCHARGE_PORT_DOUBT_K)
            yield _temperature(name, measured)
    before, after = view.get("drier_inlet_temp"), view.get("drier_outlet_temp")
    if before and after:
        yield _difference("drier_drop", before - after)
    discharge, suction = view.get("discharge_pressure", "liquid_pressure"), view.get("suction_pressure")
    hot, line = view.in_table("discharge_pressure", "liquid_pressure"), view.get("discharge_line_temp")
    if hot and line:
        p = hot.value
        dew = hot.through(saturation.dew_temperature_k(p), saturation.dew_slope_k_per_pa(p))
        yield _difference("discharge_superheat", line - dew)
    if discharge and suction:
        ratio = discharge.value / suction.value
        high = discharge.through(ratio, 1 / suction.value)
        low = suction.through(0.0, ratio / suction.value)
        yield Derived("compression_ratio", "ratio", high - low)


def _gaps(view: CircuitView, found: dict[str, Derived]) -> Iterator[Derived]:
    def gap(name: str, upper: Measured | Derived | None, lower: Measured | Derived | None) -> Iterator[Derived]:
        if upper is not None and lower is not None:
            yield _difference(name, _measured(upper) - _measured(lower))

    dew, bubble = found.get("suction_saturation"), found.get("condensing_bubble")
    liquid_line = view.get("liquid_line_temp")
    yield from gap("superheat", view.get("suction_line_temp", "coil_outlet_temp", "compressor_suction_temp"), dew)
    yield from gap("inlet_superheat", view.get("compressor_suction_temp"), dew)
    yield from gap("coil_superheat", view.get("coil_outlet_temp"), dew)
    yield from gap("subcooling", bubble, liquid_line)
    yield from gap("evaporator_td", view.entering_evaporator_air, found.get("evaporating_mean"))
    yield from gap("condenser_split", found.get("condensing_mean"), view.entering_condenser_air)
    yield from gap("liquid_approach", liquid_line, view.entering_condenser_air)


def _measured(item: Measured | Derived) -> Measured:
    return item.measured if isinstance(item, Derived) else item


def return_wet_bulb(view: CircuitView) -> Measured | None:
    """Return wet bulb: read, or from the relative humidity. [K]"""
    wet, dry, humidity = view.get("return_air_wet_bulb"), view.get("return_air_temp"), view.get("return_air_rh")
    if wet and dry and wet.value > dry.value:  # within a probe's error: that air is saturated
        return Measured(dry.value, wet.parts)
    if wet or not (dry and humidity):
        return wet
    pressure_pa = view.unit.atmosphere_pa
    return _through(
        lambda dry_k, share: psychrometrics.wet_bulb_k(dry_k, min(max(share, 0.0), 1.0), pressure_pa),
        (dry, humidity),
        (0.1, 0.005),
    )


def entering_wet_bulb(view: CircuitView) -> Measured | None:
    """Wet bulb of the air that enters the indoor coil. [K]

    Where outdoor air is mixed in, nobody reads how moist that is: it is taken to hold as much water as the return air, give or
    take `OUTDOOR_MOISTURE_DOUBT` for its share.

    References
    ----------
    .. [1] docs/rules.md, R83.
    """
    wet, dry, mixed = return_wet_bulb(view), view.get("return_air_temp"), view.get("mixed_air_temp")
    if not (wet and dry and mixed):
        return wet
    outdoor = view.get("outdoor_air_temp")
    share = outdoor_share(dry, outdoor, mixed) if outdoor else None
    moisture = OUTDOOR_MOISTURE_DOUBT * (min(max(share.value, 0.0), 1.0) if share else 1.0)
    pressure_pa = view.unit.atmosphere_pa

    def wet_bulb(dry_k: float, wet_k: float, mixed_k: float, more: float) -> float:
        ratio = psychrometrics.humidity_ratio(dry_k, min(wet_k, dry_k), pressure_pa) + more
        return psychrometrics.wet_bulb_of_ratio_k(mixed_k, ratio, pressure_pa)

    return _through(wet_bulb, (dry, wet, mixed, Measured(0.0, {"(outdoor moisture)": moisture})), (0.1, 0.1, 0.1, 1e-4))


def _through(formula: Callable[..., float], inputs: tuple[Measured, ...], steps: tuple[float, ...]) -> Measured | None:
    """A formula of several measured numbers; slopes by central difference with `steps`. None where it refuses."""
    values = [measured.value for measured in inputs]
    try:
        result = Measured(formula(*values))
        for i, (measured, step) in enumerate(zip(inputs, steps, strict=True)):
            up, down = list(values), list(values)
            up[i] += step
            down[i] -= step
            result = result + measured.through(0.0, (formula(*up) - formula(*down)) / (2 * step))
    except Refused:
        return None
    return result


def _air_side(view: CircuitView) -> Iterator[Derived]:
    entering, supply = view.entering_indoor_air, view.get("supply_air_temp")
    split = None
    if entering and supply:
        split = supply - entering if view.unit.heating else entering - supply
        yield _difference("air_split", split)
    blown, drawn = view.get("external_static_supply"), view.get("external_static_return")
    if blown and drawn:
        yield Derived("external_static", "static", blown - drawn)
    drop = None if view.unit.heating else _enthalpy_drop(view)
    if drop and split and drop.value > 0:
        sensible = split.value * psychrometrics.AIR_HEAT_J_KG_K
        ratio = sensible / drop.value
        yield Derived(
            "sensible_heat_ratio",
            "ratio",
            split.through(ratio, ratio / split.value if split.value else 0.0) - drop.through(0.0, ratio / drop.value),
        )
    capacity = _capacity(view, drop, split)
    if capacity:
        yield Derived("capacity", "power", capacity)
        power = view.get("input_power")
        if power and power.value > 0:
            ratio = capacity.value / power.value
            yield Derived(
                "eer", "power_ratio", capacity.through(ratio, 1 / power.value) - power.through(0.0, ratio / power.value)
            )


def _enthalpy_drop(view: CircuitView) -> Measured | None:
    """Enthalpy that the indoor coil takes from its air. [J/kg]"""
    dry_in, wet_in = view.entering_indoor_air, entering_wet_bulb(view)
    dry_out, wet_out = view.get("supply_air_temp"), view.get("supply_air_wet_bulb")
    if not (dry_in and wet_in and dry_out and wet_out):
        return None
    pressure_pa = view.unit.atmosphere_pa

    def enthalpy(dry_k: float, wet_k: float) -> float:
        # Within its error a wet bulb may read a little above the dry bulb: that air is saturated.
        return psychrometrics.enthalpy_j_kg(dry_k, min(wet_k, dry_k), pressure_pa)

    entering, leaving = (_through(enthalpy, pair, (0.05, 0.05)) for pair in ((dry_in, wet_in), (dry_out, wet_out)))
    return entering - leaving if entering and leaving else None


def _capacity(view: CircuitView, drop: Measured | None, split: Measured | None) -> Measured | None:
    """Heat moved at the indoor coil: by enthalpy in cooling, by temperature rise in heating. [W]"""
    airflow = view.get("airflow")
    if airflow is None:
        return None
    pressure_pa = view.unit.atmosphere_pa
    if view.unit.heating and split:
        per_difference, difference = psychrometrics.sensible_heat_w(airflow.value, 1.0, pressure_pa), split
    elif drop:
        per_difference, difference = psychrometrics.air_mass_flow_kg_s(airflow.value, pressure_pa), drop
    else:
        return None
    capacity = per_difference * difference.value
    share = capacity / airflow.value if airflow.value else 0.0
    return difference.through(capacity, per_difference) + airflow.through(0.0, share)
