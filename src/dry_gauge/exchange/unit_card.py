"""A unit card as people fill it in: label data as it is written on labels, unknown left empty, and into the card's JSON."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from typing import Any

from pydantic import ValidationError

from dry_gauge.core.charge.mass import forms, understood_weight
from dry_gauge.core.dimensions import UNITS
from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import difference_k, height_m, in_unit
from dry_gauge.core.label import capacity_btuh
from dry_gauge.core.quantities import FAHRENHEIT_K, FOOT_M, POUND_KG, TON_BTUH
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.exchange.reading_sheet import unit_from
from dry_gauge.exchange.sheet_json import UnitJson

_TEXTS = ("kind", "refrigerant", "metering", "evaporator_class", "head_pressure_control", "compressor_control")
_NUMBERS = ("seer", "rated_load_amps")
_DECIMALS = 2  # finer than any label
_ELEVATION = {False: "elevation_ft", True: "elevation_m"}
"""The field, by whether it is typed in metres."""
_MORE_THAN_POUNDS = re.compile(r"oz|ounce|g\b", re.IGNORECASE)
_GRAMS_PER_POUND = POUND_KG * 1000
_TEMPERATURES = {"design_box_temp": "design_box_temp_f", "discharge_limit": "discharge_limit_f", "head_setting": "head_setting_f"}
_PRESSURES = {"high_pressure_cutout": "high_pressure_cutout_psig", "low_pressure_cutout": "low_pressure_cutout_psig"}
_FIELD_OF = {fact: field for field, fact in (*_TEMPERATURES.items(), *_PRESSURES.items())}
_SHOWN_IN: Mapping[str, tuple[str, ...]] = {
    "label_charge_g": ("charge_lb", "charge_oz", "charge_kg"), "nominal_capacity_btuh": ("size",),
    "elevation_ft": tuple(_ELEVATION.values()), "target_subcooling_f": ("target_subcooling",),
    "target_superheat_f": ("target_superheat",), "maker_chart": ("maker_chart",), "more_circuits": ("more_circuits",),
    **{fact: (field,) for field, fact in (*_TEMPERATURES.items(), *_PRESSURES.items())},
}  # fmt: skip
"""By fact the fields that show it, converted and rounded."""
_QUARTER_TON_BTUH = TON_BTUH / 4
_WORDS = {
    "kind": "Choose what sort of unit it is.",
    "seer": "SEER is a number above zero.",
    "label_charge_g": "The label's charge is above zero.",
    "rated_load_amps": "Rated load amps are a number above zero.",
    "elevation_ft": "Elevation lies between -1,500 and 20,000 ft (-450 and 6,100 m).",
    "high_pressure_cutout_psig": "The high-pressure cut-out is above zero.",
    "low_pressure_cutout_psig": "The low-pressure cut-out is a gauge pressure; in a vacuum it is negative.",
}


def facts_from_form(
    fields: Mapping[str, str], celsius: bool, number: Callable[[str], tuple[float, str]], gauge_unit: str = "psig"
) -> dict[str, Any]:
    """The card's JSON from a form; what is empty is unknown.

    Parameters
    ----------
    celsius : bool
        Whether bare temperatures, differences and heights are in C, K and m.
    number : callable
        Reads a typed number, and the unit that is written behind it.
    gauge_unit : str
        In which bare pressures are.

    Raises
    ------
    Refused
        Naming the field.
    """

    degrees, height = ("C", "m") if celsius else ("F", "ft")

    def temperature(value: float, unit: str) -> float:
        return in_unit(value, unit, degrees, "F")

    def pressure(value: float, unit: str) -> float:
        return in_unit(value, unit, gauge_unit, "psig")

    def difference(value: float, unit: str) -> float:
        return difference_k(value, unit, degrees) / FAHRENHEIT_K

    as_said: tuple[tuple[str, str, Callable[[float, str], float]], ...] = (
        ("seer", "seer", _bare),
        ("rated_load_amps", "rated_load_amps", lambda value, unit: in_unit(value, unit, "A", "A")),
        ("size", "nominal_capacity_btuh", capacity_btuh),
        (_ELEVATION[celsius], "elevation_ft", lambda value, unit: height_m(value, unit, height) / FOOT_M),
        ("target_subcooling", "target_subcooling_f", difference),
        ("target_superheat", "target_superheat_f", difference),
        *((name, fact, temperature) for name, fact in _TEMPERATURES.items()),
        *((name, fact, pressure) for name, fact in _PRESSURES.items()),
    )
    facts: dict[str, Any] = {name: fields[name].strip() for name in _TEXTS if fields.get(name, "").strip()}
    for name, fact, read in as_said:
        if text := fields.get(name, "").strip():
            try:
                facts[fact] = round(read(*number(text)), _DECIMALS)
            except Refused as refusal:
                raise Refused(refusal.message, name) from None
    facts |= _label_charge(fields)
    if rows := _chart(fields.get("maker_chart", ""), celsius, gauge_unit, number):
        facts["maker_chart"] = rows
    if more := _more_circuits(fields.get("more_circuits", "")):
        facts["more_circuits"] = more
    if fields.get("receiver") in ("yes", "no"):
        facts["receiver"] = fields["receiver"] == "yes"
    _refuse_what_cannot_be(facts, celsius)
    return facts


def _label_charge(fields: Mapping[str, str]) -> dict[str, float]:
    if fields.get("charge_oz", "").strip() and _MORE_THAN_POUNDS.search(fields.get("charge_lb", "")):
        raise Refused("Ounces stand in both fields: write 6 lb 4 oz in the first, or 6 and 4.", "charge_oz")
    grams = _grams(*(_weight(fields.get(f"charge_{unit}", ""), unit) for unit in ("lb", "oz", "kg")))
    return {} if grams is None else {"label_charge_g": round(grams, 1)}


def _refuse_what_cannot_be(facts: Mapping[str, Any], celsius: bool) -> None:
    try:
        unit_from(UnitJson.model_validate(facts, strict=False))
    except ValidationError as error:
        name = str(error.errors()[0]["loc"][0])
        words = _WORDS.get(name, f"{name.replace('_', ' ').capitalize()} cannot be so.")
        raise Refused(words, _ELEVATION[celsius] if name == "elevation_ft" else _FIELD_OF.get(name, name)) from None
    except Refused as refusal:
        raise Refused(refusal.message, (refusal.path or "").removeprefix("unit."), refusal.nearest) from None


_CHART_COLUMNS = ("outdoor_f", "indoor_f", "suction_psig", "head_psig", "superheat_f")
_WET_BULB = re.compile(r"(?<=\d)\s*wb\b", re.IGNORECASE)


def _chart(text: str, celsius: bool, gauge_unit: str, number: Callable[[str], tuple[float, str]]) -> list[dict[str, Any]]:
    """The maker's chart from lines of numbers: outdoor air, indoor air, suction, head, superheat; a dash is not given.

    Indoor air is its dry bulb; with 'wb' behind it, its wet bulb.

    Raises
    ------
    Refused
        Naming the line.
    """
    degrees = "C" if celsius else "F"
    rows = []
    for i, line in enumerate(filter(None, map(str.strip, text.splitlines())), start=1):
        cells = re.split(r"[\s,;|]+", _WET_BULB.sub("wb", line))
        if not len(_CHART_COLUMNS) - 1 <= len(cells) <= len(_CHART_COLUMNS):
            raise Refused(
                f"Line {i} of the chart: outdoor air, indoor air, suction, head and, where it has it, superheat; a "
                "dash for what is not given.",
                "maker_chart",
            )
        row: dict[str, Any] = {}
        for name, cell in zip(_CHART_COLUMNS, cells, strict=False):
            if cell in ("-", "–"):
                continue
            try:
                if name == "superheat_f":
                    row[name] = round(difference_k(*number(cell), degrees) / FAHRENHEIT_K, 2)
                elif name == "indoor_f" and _WET_BULB.search(cell):
                    row |= {name: round(in_unit(*number(_WET_BULB.sub("", cell)), degrees, "F"), 2), "indoor_is": "wet_bulb"}
                else:
                    usual, wanted = (degrees, "F") if name.endswith("_f") else (gauge_unit, "psig")
                    row[name] = round(in_unit(*number(cell), usual, wanted), 2)
            except Refused as refusal:
                raise Refused(f"Line {i} of the chart: {refusal.message}", "maker_chart") from None
        if not {"outdoor_f", "indoor_f"} <= row.keys():
            raise Refused(f"Line {i} of the chart needs outdoor and indoor air.", "maker_chart")
        if {"suction_psig", "head_psig"} <= row.keys() and row["suction_psig"] >= row["head_psig"]:
            raise Refused(f"Line {i} of the chart: suction is not below head. Are the two swapped?", "maker_chart")
        rows.append(row)
    return rows


def _more_circuits(text: str) -> list[dict[str, Any]]:
    """Circuits after the first from lines of a number, a charge and a refrigerant: 2  6 lb 2 oz  R-410A; either may be left out.

    Raises
    ------
    Refused
        Naming the line.
    """
    found: dict[int, dict[str, Any]] = {}
    for i, line in enumerate(filter(None, map(str.strip, text.splitlines())), start=1):
        parts = re.fullmatch(r"([2-8])(?:[.:]\s*|\s+|$)(.*?)\s*((?:\bR-?\d\S*)?)", line, re.IGNORECASE)
        if parts is None:
            raise Refused(f"Line {i} of the circuits begins with its number, 2 to 8: 2  6 lb 2 oz  R-410A.", "more_circuits")
        number, weight, refrigerant = int(parts[1]), parts[2].strip(" ,;"), parts[3]
        if number in found:
            raise Refused(f"Line {i}: circuit {number} is there twice.", "more_circuits")
        row: dict[str, Any] = {"circuit": number}
        try:
            if weight:
                row["label_charge_g"] = round(_sure_kg(weight) * 1000, 1)
            if refrigerant:
                row["refrigerant"] = find(refrigerant).name
        except Refused as refusal:
            raise Refused(f"Line {i} of the circuits: {refusal.message}", "more_circuits") from None
        found[number] = row
    return [found[number] for number in sorted(found)]


def _sure_kg(weight: str) -> float:
    understood = understood_weight(weight, "lb")
    if understood.instead_kg is not None:
        said, instead = forms(understood.kg).lb_oz, forms(understood.instead_kg).lb_oz
        raise Refused(f"{weight} is {said}, or was {instead} meant? Write it in pounds and ounces.")
    return understood.kg


def _more_circuits_said(facts: Mapping[str, Any], kilograms: bool) -> str:
    lines = []
    for row in facts.get("more_circuits") or ():
        grams = row.get("label_charge_g")
        weight = "" if not grams else f"{grams / 1000:g} kg" if kilograms else forms(grams / 1000).lb_oz
        lines.append("  ".join(filter(None, (str(row["circuit"]), weight, row.get("refrigerant")))))
    return "\n".join(lines)


def _bare(value: float, unit: str) -> float:
    if unit and unit.upper() != "SEER":
        raise Refused(f"Only a number, without {unit!r}.")
    return value


def _weight(text: str, unit: str) -> float | None:
    """A weight as it was written: 6.7, 6 lb 4 oz, 2.9 kg; a bare number is in `unit`. [g]"""
    try:
        return understood_weight(text, unit).kg * 1000 if text.strip() else None
    except Refused as refusal:
        raise Refused(refusal.message, f"charge_{unit}") from None


def _grams(pounds: float | None, ounces: float | None, kilograms: float | None) -> float | None:
    """A charge from what was typed as pounds, as ounces and as kilograms, each in grams. [g]

    Raises
    ------
    Refused
        For both at once, or for ounces that are a pound or more beside pounds.
    """
    if kilograms is not None and (pounds is not None or ounces is not None):
        raise Refused("Give the charge in pounds and ounces or in kilograms, not in both.", "charge_kg")
    if kilograms is not None:
        return kilograms
    if pounds is None and ounces is None:
        return None
    if ounces is not None and pounds and not 0 <= ounces < _GRAMS_PER_POUND:
        raise Refused("Ounces beside pounds lie between 0 and 16: 6.7 lb is 6 lb 11.2 oz.", "charge_oz")
    return (pounds or 0.0) + (ounces or 0.0)


def facts_changed(
    facts: Mapping[str, Any], fields: Mapping[str, str], shown: Mapping[str, str], before: Mapping[str, Any]
) -> dict[str, Any]:
    """The facts of a form; those whose fields say what they were shown with stay what they were, to the last digit."""

    def said(form: Mapping[str, str], name: str) -> list[str]:
        return [line.strip() for line in form.get(name, "").strip().splitlines()]

    same = {
        fact: before[fact]
        for fact, names in _SHOWN_IN.items()
        if fact in before and all(said(fields, name) == said(shown, name) for name in names)
    }
    return {**facts, **same}


def size_said(btuh: float) -> str:
    """A size in tons where it is a whole number of quarters, else in Btu/h."""
    return f"{btuh / TON_BTUH:g} ton" if btuh % _QUARTER_TON_BTUH == 0 else f"{btuh:.0f} Btu/h"


def form_from_facts(facts: Mapping[str, Any], celsius: bool, kilograms: bool, gauge_unit: str = "psig") -> dict[str, str]:
    """The form's fields as the card stands."""
    shown = {name: str(facts[name]) for name in _TEXTS if facts.get(name)}
    shown |= {name: f"{facts[name]:g}" for name in _NUMBERS if facts.get(name) is not None}
    if facts.get("elevation_ft") is not None:
        shown[_ELEVATION[celsius]] = f"{facts['elevation_ft'] * FOOT_M:.0f}" if celsius else f"{facts['elevation_ft']:g}"
    if facts.get("nominal_capacity_btuh"):
        shown["size"] = size_said(facts["nominal_capacity_btuh"])
    if facts.get("label_charge_g"):
        if kilograms:
            shown["charge_kg"] = f"{facts['label_charge_g'] / 1000:g}"
        else:
            tenths = round(facts["label_charge_g"] / _GRAMS_PER_POUND * 160)
            shown["charge_lb"], shown["charge_oz"] = str(tenths // 160), f"{tenths % 160 / 10:g}"

    def difference(fahrenheit: float) -> str:
        return f"{round(fahrenheit * (FAHRENHEIT_K if celsius else 1), 1):g}"

    for name in ("target_subcooling", "target_superheat"):
        if facts.get(f"{name}_f") is not None:
            shown[name] = difference(facts[f"{name}_f"])

    def degrees(fahrenheit: float) -> str:
        return f"{round((fahrenheit - 32) / 1.8 if celsius else fahrenheit, 1):g}"

    def gauge(psig: float) -> str:
        return f"{round(UNITS[gauge_unit].from_si(UNITS['psig'].to_si(psig)), 2):g}"

    shown |= {name: degrees(facts[fact]) for name, fact in _TEMPERATURES.items() if facts.get(fact) is not None}
    shown |= {name: gauge(facts[fact]) for name, fact in _PRESSURES.items() if facts.get(fact) is not None}
    shown["maker_chart"] = "\n".join(
        " ".join(
            [
                degrees(row["outdoor_f"]),
                degrees(row["indoor_f"]) + ("wb" if row.get("indoor_is") == "wet_bulb" else ""),
                *("-" if row.get(name) is None else gauge(row[name]) for name in ("suction_psig", "head_psig")),
                *([] if row.get("superheat_f") is None else [difference(row["superheat_f"])]),
            ]
        )
        for row in facts.get("maker_chart") or ()
    )
    shown["more_circuits"] = _more_circuits_said(facts, kilograms)
    if facts.get("receiver") is not None:
        shown["receiver"] = "yes" if facts["receiver"] else "no"
    return shown
