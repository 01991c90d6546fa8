"""The pocket's small tools: a few numbers in, an answer while typing, without a visit.

Numbers go in and come out in the trade's units, which every field and answer names; `core/pocket_units.py` has them in others.
The same tools run in the browser (`static/scripts/pocket.js`), for where there is no signal; both are held to the same values.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from math import inf, isfinite, pi, sqrt

from dry_gauge.core.air.belt import SLIP, belt_length, deflection, driven_rpm
from dry_gauge.core.charge.amounts import LINE_LIQUID_K, LIQUID_LINES, fill_limit_kg, liquid_density, liquid_per_metre
from dry_gauge.core.charge.mass import OUNCE_KG
from dry_gauge.core.controls.thermistor import CURVES as THERMISTORS
from dry_gauge.core.electrical.capacitor import under_load_uf
from dry_gauge.core.electrical.supply import imbalance
from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import typed_number
from dry_gauge.core.quantities import (
    FOOT_M,
    INCH_M,
    POUND_KG,
    PSI_PA,
    STANDARD_ATMOSPHERE_PA,
    ZERO_CELSIUS_K,
    atmospheric_pressure_pa,
    to_fahrenheit,
    to_kelvin,
)
from dry_gauge.core.refrigerants.catalogue import CATALOGUE, find
from dry_gauge.core.refrigerants.saturation import saturation_of
from dry_gauge.core.targets import orifice_target_superheat_f

Values = Mapping[str, float | str]


@dataclass(frozen=True, slots=True)
class Field:
    """One thing to type, or to choose where there are choices; what is not needed may stay empty."""

    name: str
    label: str
    unit: str = ""
    choices: tuple[str, ...] = ()
    usual: str = ""
    needed: bool = True


@dataclass(frozen=True, slots=True)
class Answer:
    """One number of an answer, with how many decimals are shown.

    `twin`: it says another one again, for who has not chosen that unit (`core/pocket_units.py`).
    """

    label: str
    value: float
    unit: str
    decimals: int = 1
    twin: str = ""


@dataclass(frozen=True, slots=True)
class Tool:
    """One tool: its fields, what it answers, where that is from. A `fixed` one is about its units, whoever reads it."""

    name: str
    label: str
    fields: tuple[Field, ...]
    work_out: Callable[[Values], list[Answer]]
    source: str
    fixed: bool = False

    def answers(self, values: Values) -> list[Answer]:
        """What it answers.

        Raises
        ------
        Refused, OutOfRange, ValueError
            For what is lacking, what cannot be, or what leads beyond any number.
        """
        try:
            found = self.work_out(values)
        except (OverflowError, ZeroDivisionError):
            found = [Answer("", inf, "")]
        if not all(isfinite(one.value) for one in found):
            raise Refused("That is beyond any measure.")
        return found


def _number(values: Values, name: str) -> float | None:
    value = values.get(name)
    return value if isinstance(value, float) else None


def _needed(values: Values, name: str) -> float:
    value = _number(values, name)
    if value is None:
        raise Refused("Type a number.", name)
    return value


def _positive(values: Values, name: str) -> float:
    value = _needed(values, name)
    if value <= 0:
        raise Refused("Above nothing.", name)
    return value


def _barometer_pa(values: Values) -> float:
    """Local air pressure at an elevation in feet; at sea level where none was typed. [Pa]"""
    feet = _number(values, "elevation") or 0.0
    if not -1500 <= feet <= 20_000:
        raise Refused("Elevation lies between -1,500 and 20,000 ft (-450 and 6,100 m).", "elevation")
    return atmospheric_pressure_pa(feet * FOOT_M)


def _both(label: str, temperature_k: float) -> list[Answer]:
    return [
        Answer(label, to_fahrenheit(temperature_k), "°F"),
        Answer(f"{label}, metric", temperature_k - ZERO_CELSIUS_K, "°C", twin="C"),
    ]


def _saturation(values: Values) -> list[Answer]:
    curve = saturation_of(find(str(values["refrigerant"])))
    atmosphere_pa = _barometer_pa(values)
    psig, fahrenheit = _number(values, "pressure"), _number(values, "temperature")
    if psig is None and fahrenheit is None:
        raise Refused("A pressure or a temperature.", "pressure")
    found = []
    if psig is not None:
        pressure_pa = psig * PSI_PA + atmosphere_pa
        found += _both("Dew, for superheat", curve.dew_temperature_k(pressure_pa))
        found += _both("Bubble, for subcooling", curve.bubble_temperature_k(pressure_pa))
    if fahrenheit is not None:
        kelvin = to_kelvin(fahrenheit)
        found += [
            Answer("Dew pressure", (curve.dew_pressure_pa(kelvin) - atmosphere_pa) / PSI_PA, "psig"),
            Answer("Bubble pressure", (curve.bubble_pressure_pa(kelvin) - atmosphere_pa) / PSI_PA, "psig"),
        ]
    return found


def _target_superheat(values: Values) -> list[Answer]:
    aim_f, why_not = orifice_target_superheat_f(_needed(values, "wet_bulb"), _needed(values, "outdoor"))
    if why_not:
        raise Refused(f"No target: {why_not.read_by_anyone()}.", "wet_bulb")
    return [
        Answer("Target superheat at the orifice", aim_f, "°F apart"),
        Answer("Target superheat, metric", aim_f / 1.8, "K", twin="C"),
    ]


def _weight(values: Values) -> list[Answer]:
    parts = [(_number(values, name), scale) for name, scale in (("pounds", POUND_KG), ("ounces", OUNCE_KG), ("kilograms", 1.0))]
    if all(value is None for value, _ in parts):
        raise Refused("Pounds, ounces or kilograms.", "pounds")
    kg = sum((value or 0.0) * scale for value, scale in parts)
    if kg < 0:
        raise Refused("Above nothing.", "pounds")
    ounces = kg / OUNCE_KG
    return [
        Answer("Whole pounds", float(int(ounces / 16 + 1e-9)), "lb", 0),
        Answer("and ounces", max(ounces - 16 * int(ounces / 16 + 1e-9), 0.0), "oz", 1),
        Answer("Decimal pounds", kg / POUND_KG, "lb", 3),
        Answer("Kilograms", kg, "kg", 3),
    ]


def _line_set(values: Values) -> list[Answer]:
    per_metre = liquid_per_metre(find(str(values["refrigerant"])), str(values["line"]))
    more_ft = _positive(values, "length") - (_number(values, "included") or 0.0)
    ounces = per_metre * more_ft * FOOT_M / OUNCE_KG
    return [
        Answer("The line holds", per_metre * FOOT_M / OUNCE_KG, "oz/ft", 2),
        Answer("Add for the line", ounces, "oz"),
        Answer("Add, metric", ounces * OUNCE_KG * 1000, "g", 0, twin="kg"),
    ]


def _cylinder(values: Values) -> list[Answer]:
    limit_lb = fill_limit_kg(_positive(values, "capacity") * POUND_KG, [find(str(values["refrigerant"]))]) / POUND_KG
    tare = _number(values, "tare")
    return [
        Answer("Holds at most", limit_lb, "lb"),
        *([Answer("Stop at, on the scale", limit_lb + tare, "lb")] if tare is not None else []),
    ]


def _nitrogen(values: Values) -> list[Answer]:
    start_pa = _needed(values, "pressure") * PSI_PA + STANDARD_ATMOSPHERE_PA
    ratio = to_kelvin(_needed(values, "now")) / to_kelvin(_needed(values, "then"))
    if start_pa <= 0 or ratio <= 0:
        raise Refused("Below a vacuum, or below absolute zero.", "pressure")
    end = (start_pa * ratio - STANDARD_ATMOSPHERE_PA) / PSI_PA
    return [Answer("The same gas now shows", end, "psig"), Answer("Weather alone did", end - _needed(values, "pressure"), "psi")]


def _capacitor(values: Values) -> list[Answer]:
    value = under_load_uf(_positive(values, "amps"), _positive(values, "volts"), float(values["hertz"]))
    rated = _number(values, "rated")
    return [Answer("Under load", value, "µF"), *([Answer("Of its rating", 100 * value / rated, "%", 0)] if rated else [])]


def _strips(values: Values) -> list[Answer]:
    phases = sqrt(3.0) if values["phases"] == "3" else 1.0
    volts = _positive(values, "volts")
    kilowatts = (_positive(values, "amps") - (_number(values, "blower") or 0.0)) * volts * phases / 1000
    plate, plate_v = _number(values, "plate"), _number(values, "plate_volts")
    found = [Answer("Heat", kilowatts, "kW", 2)]
    if plate and plate_v:
        found.append(Answer("Of the banks at these volts", 100 * kilowatts / (plate * (volts / plate_v) ** 2), "%", 0))
    return found


def _imbalance(values: Values) -> list[Answer]:
    share = imbalance([_positive(values, name) for name in ("l1_l2", "l2_l3", "l3_l1")])
    return [Answer("Imbalance", 100 * share, "%"), Answer("Motors run hotter by about", 2 * (100 * share) ** 2, "%", 0)]


def _heat_airflow(values: Values) -> list[Answer]:
    rise = _positive(values, "rise")
    density = _barometer_pa(values) / STANDARD_ATMOSPHERE_PA
    return [Answer("Airflow", 3.412 * _positive(values, "watts") / (1.08 * density * rise), "cfm", 0)]


def _duct(values: Values) -> list[Answer]:
    width, height = _positive(values, "width"), _number(values, "height")
    feet2 = (width * height if height else pi * width**2 / 4) / 144
    return [Answer("Area", feet2, "ft²", 2), Answer("Airflow", feet2 * _positive(values, "velocity"), "cfm", 0)]


def _belt(values: Values) -> list[Answer]:
    small, large = _positive(values, "motor_pitch"), _positive(values, "blower_pitch")
    found = [Answer("Blower", driven_rpm(_positive(values, "motor_rpm"), small, large), "rpm", 0)]
    centres = _number(values, "centres")
    if centres:
        found += [
            Answer("Belt length", belt_length(centres, max(small, large), min(small, large)), "in."),
            Answer("Deflection at mid-span", deflection(centres), "in.", 2),
        ]
    return found


def _thermistor(values: Values) -> list[Answer]:
    curve = THERMISTORS[str(values["curve"])]
    ohms, fahrenheit = _number(values, "ohms"), _number(values, "temperature")
    if ohms is None and fahrenheit is None:
        raise Refused("Ohms or a temperature.", "ohms")
    if fahrenheit is not None and not -100 <= fahrenheit <= 400:
        raise Refused("A thermistor of controls reads from -100 to 400 °F (-73 to 204 °C).", "temperature")
    found = _both("Temperature", curve.temperature_k(ohms)) if ohms is not None else []
    return found + ([Answer("Should read", curve.ohms(to_kelvin(fahrenheit)), "Ω", 0)] if fahrenheit is not None else [])


REFRIGERANTS = tuple(one.name for one in CATALOGUE)
_REFRIGERANT = Field("refrigerant", "Refrigerant", choices=REFRIGERANTS, usual="R-410A")


def _fields(*rows: tuple[str, str, str]) -> tuple[Field, ...]:
    """Fields by name, label and unit; a label that ends in a question mark may stay empty."""
    return tuple(Field(name, label.rstrip("?"), unit, needed=not label.endswith("?")) for name, label, unit in rows)


TOOLS: tuple[Tool, ...] = (
    Tool("saturation", "Saturation, also without signal",
         (_REFRIGERANT, *_fields(("pressure", "Pressure?", "psig"), ("temperature", "Temperature?", "°F"),
                                 ("elevation", "Elevation?", "ft"))),
         _saturation, "curves from CoolProp; a label or chart wins"),
    Tool("superheat", "Target superheat", _fields(("wet_bulb", "Return wet bulb", "°F"), ("outdoor", "Outdoor dry bulb", "°F")),
         _target_superheat,
         "fixed orifice: (3 WB - 80 - ODB) / 2 in °F, at 350 to 450 cfm a ton (169 to 217 m³/h a kW); the maker's chart wins"),
    Tool("weight", "Pounds, ounces, kilograms",
         _fields(("pounds", "Pounds?", "lb"), ("ounces", "Ounces?", "oz"), ("kilograms", "Kilograms?", "kg")), _weight,
         "16 ounces a pound; 1 lb is 0.45359237 kg", fixed=True),
    Tool("line", "Line set",
         (_REFRIGERANT, Field("line", "Liquid line", "inch", tuple(LIQUID_LINES), "3/8"),
          *_fields(("length", "Length", "ft"), ("included", "Included by the maker?", "ft"))), _line_set,
         "liquid at 100 °F (38 °C) in the bore; the maker's figure wins"),
    Tool("cylinder", "Cylinder limit",
         (_REFRIGERANT, *_fields(("capacity", "Water capacity, WC", "lb"), ("tare", "Tare?", "lb"))), _cylinder,
         "80 % of its volume as liquid at 77 °F (25 °C)"),
    Tool("nitrogen", "Nitrogen and weather",
         _fields(("pressure", "Pressure then", "psig"), ("then", "Temperature then", "°F"), ("now", "Temperature now", "°F")),
         _nitrogen, "absolute pressure goes with absolute temperature"),
    Tool("capacitor", "Capacitor under load",
         (*_fields(("amps", "Amps in its wire", "A"), ("volts", "Volts across it", "V"), ("rated", "Printed?", "µF")),
          Field("hertz", "Mains", "Hz", ("60", "50"), "60")), _capacitor, "I / (2 pi f V)"),
    Tool("strips", "Strip heat",
         (*_fields(("amps", "Whole", "A"), ("blower", "Blower of it?", "A"), ("volts", "Volts", "V"), ("plate", "Banks?", "kW"),
                   ("plate_volts", "At?", "V")), Field("phases", "Phases", "", ("1", "3"), "1")), _strips,
         "power goes by volts squared"),
    Tool("imbalance", "Voltage imbalance",
         _fields(("l1_l2", "L1 to L2", "V"), ("l2_l3", "L2 to L3", "V"), ("l3_l1", "L3 to L1", "V")), _imbalance,
         "greatest deviation over the mean; over 2 % a finding, over 5 % nothing runs"),
    Tool("heat", "Airflow by electric heat",
         _fields(("watts", "Heat", "W"), ("rise", "Rise", "°F apart"), ("elevation", "Elevation?", "ft")), _heat_airflow,
         "3.412 W / (1.08 dT) in cfm and °F, by the air's density"),
    Tool("duct", "Airflow by velocity",
         _fields(("width", "Width, or diameter", "in."), ("height", "Height?", "in."), ("velocity", "Mean velocity", "fpm")),
         _duct,
         "area times mean velocity; without a height the duct is round"),
    Tool("belt", "Belt and sheaves",
         _fields(("motor_rpm", "Motor", "rpm"), ("motor_pitch", "Motor pitch", "in."), ("blower_pitch", "Blower pitch", "in."),
                 ("centres", "Between shafts?", "in.")), _belt, "less 2 % of slip; 1/64 of the span"),
    Tool("thermistor", "Thermistor",
         (Field("curve", "Curve", "", tuple(THERMISTORS), "10k type II"),
          *_fields(("ohms", "Ohms?", "Ω"), ("temperature", "Temperature?", "°F"))), _thermistor,
         "Steinhart and Hart through 0, 25 and 50 °C; ±3 °F (±1.7 K)"),
)  # fmt: skip
BY_NAME: Mapping[str, Tool] = {tool.name: tool for tool in TOOLS}


def read_values(tool: Tool, typed: Mapping[str, str]) -> dict[str, float | str]:
    """What was typed as numbers and choices; nothing for what stays empty.

    Raises
    ------
    Refused
        For what is no number, or no choice.
    """
    found: dict[str, float | str] = {}
    for field in tool.fields:
        text = typed.get(field.name, "").strip()
        if field.choices:
            found[field.name] = text or field.usual
            if found[field.name] not in field.choices:
                raise Refused("Choose one of those listed.", field.name)
        elif text:
            value = typed_number(text, field.name)
            if not abs(value) < 1e9:
                raise Refused("That is beyond any measure.", field.name)
            found[field.name] = value
    return found


def exported() -> dict[str, object]:
    """Coefficients that the browser's tools need, by tool."""
    saturation: dict[str, Sequence[object]] = {}
    for one in CATALOGUE:
        saturation[one.name] = saturation_of(one).exported()
    return {
        "saturation": saturation,
        "fill_density": {one.name: fill_limit_kg(1.0, [one]) / 0.8 for one in CATALOGUE},
        "line_density": {one.name: liquid_density(one, LINE_LIQUID_K) for one in CATALOGUE},
        "bores_m": {name: (outside - 2 * wall) * INCH_M for name, (outside, wall) in LIQUID_LINES.items()},
        "thermistors": {name: [curve.a, curve.b, curve.c] for name, curve in THERMISTORS.items()},
        "slip": SLIP,
    }
