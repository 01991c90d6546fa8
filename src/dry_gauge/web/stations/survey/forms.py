"""Forms of Survey: lengths as a tape shows them, each in its own unit if one is written behind it."""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.core.charge.mass import WEIGHT_UNITS
from dry_gauge.core.errors import Refused
from dry_gauge.notebook.subjects.change_out import NewUnitBody
from dry_gauge.web.typed import EntryForm, Reads, number, parse_number, texts, ticked

_INCHES = {
    **dict.fromkeys(("", "in", "in.", '"', "inch", "inches"), 1.0),
    "ft": 12.0,
    "'": 12.0,
    "cm": 1 / 2.54,
    "mm": 1 / 25.4,
    "m": 100 / 2.54,
}
_PARTS = ("from_left", "from_front", "long", "wide")
_SIDES = ("front", "right", "behind", "left")


def _inches(form: EntryForm, field: str, what: str) -> float | None:
    """A length; without a unit behind it in the one that the form names."""
    text = form.get(field).strip()
    if not text:
        return None
    try:
        value, unit = parse_number(text)
    except Refused as refusal:
        raise Refused(f"{what}: {refusal.message}", field) from None
    unit = unit.casefold() or form.get("unit")
    if unit not in _INCHES:
        raise Refused(f"{what}: {unit!r} is no unit of length here. Write in, ft, cm, mm or m.", field)
    return round(value * _INCHES[unit], 3)


def _needed(form: EntryForm, field: str, what: str) -> float:
    found = _inches(form, field, what)
    if found is None:
        raise Refused(f"{what} is needed: nothing can be compared without it.", field)
    return found


def _opening(form: EntryForm, name: str) -> dict[str, object]:
    """An opening by its distance from the left and the front, and its size: all four, or none."""
    parts = {part: _inches(form, f"{name}_{part}", f"{name.capitalize()}, {part.replace('_', ' ')}") for part in _PARTS}
    given = {part: value for part, value in parts.items() if value is not None}
    if not given:
        return {}
    if len(given) < len(parts):
        lacks = next(part for part, value in parts.items() if value is None)
        raise Refused(f"The {name} opening is told by four numbers: {lacks.replace('_', ' ')} is missing.", f"{name}_{lacks}")
    return {f"{name}_in": tuple(given.values())}


def _sides(form: EntryForm, prefix: str, name: str) -> dict[str, object]:
    found = tuple(_inches(form, f"{prefix}_{side}", f"Room {side}") for side in _SIDES)
    return {} if all(one is None for one in found) else {name: found}


def _numbers(form: EntryForm, **names: str) -> dict[str, object]:
    found = {name: number(form, name, what) for name, what in names.items()}
    return {name: value for name, value in found.items() if value is not None}


def _pounds(form: EntryForm) -> dict[str, object]:
    """Its weight: a bare number is in the form's unit, or in pounds."""
    text = form.get("weight_lb").strip()
    if not text:
        return {}
    try:
        value, unit = parse_number(text)
    except Refused as refusal:
        raise Refused(f"Its weight: {refusal.message}", "weight_lb") from None
    scale = WEIGHT_UNITS.get(unit.casefold().removesuffix("s") or form.get("weight_unit") or "lb")
    if scale is None:
        raise Refused(f"Its weight: {unit!r} is no unit of weight here. Write lb or kg.", "weight_lb")
    return {"weight_lb": round(value * scale / WEIGHT_UNITS["lb"], 1)}


def _phases(form: EntryForm) -> dict[str, object]:
    return {"phases": int(form.get("phases"))} if form.get("phases") in ("1", "3") else {}


def _survey(form: EntryForm) -> Mapping[str, object]:
    inner = {f"inner_{side}_in": _inches(form, f"inner_{side}", f"Inside, {side}") for side in ("length", "width")}
    inner["height_in"] = _inches(form, "height", "Height")
    return {
        "stands": form.get("stands") or "curb",
        "length_in": _needed(form, "length", "Its length outside"),
        "width_in": _needed(form, "width", "Its width outside"),
        "concentric": ticked(form, "concentric"),
        **{name: value for name, value in inner.items() if value is not None},
        **_opening(form, "supply"),
        **_opening(form, "return"),
        **_sides(form, "clear", "clear_in"),
        **_phases(form),
        **_numbers(form, volts="Volts", breaker_amps="The breaker"),
        **_pounds(form),
        **texts(form, "disconnect", "gas", "drain", "way"),
    }


def _new_unit(form: EntryForm) -> Mapping[str, object]:
    recess = {f"recess_{side}_in": _inches(form, f"recess_{side}", f"Curb, {side}") for side in ("length", "width")}
    return {
        "length_in": _needed(form, "length", "Its length"),
        "width_in": _needed(form, "width", "Its width"),
        "concentric": ticked(form, "concentric"),
        **{name: value for name, value in recess.items() if value is not None},
        **_opening(form, "supply"),
        **_opening(form, "return"),
        **_sides(form, "needs", "needs_in"),
        **_phases(form),
        **_numbers(form, volts="Volts", min_amps="Ampacity", most_amps="The largest breaker"),
        **_pounds(form),
        **texts(form, "maker", "model"),
    }


def as_typed(body: NewUnitBody) -> dict[str, str]:
    """The form's fields that say this again, in inches."""
    said: dict[str, object] = {
        "maker": body.maker,
        "model": body.model,
        "unit": "in",
        "length": body.length_in,
        "width": body.width_in,
        "recess_length": body.recess_length_in,
        "recess_width": body.recess_width_in,
        "concentric": "yes" if body.concentric else "",
        "volts": body.volts,
        "phases": body.phases,
        "min_amps": body.min_amps,
        "most_amps": body.most_amps,
        "weight_lb": body.weight_lb,
    }
    for name, opening in (("supply", body.supply_in), ("return", body.return_in)):
        said |= {f"{name}_{part}": value for part, value in zip(_PARTS, opening or (), strict=False)}
    said |= {f"needs_{side}": value for side, value in zip(_SIDES, body.needs_in, strict=True)}
    known = {name: value for name, value in said.items() if value not in (None, "")}
    return {name: f"{value:g}" if isinstance(value, float) else str(value) for name, value in known.items()}


FORMS: Mapping[str, Reads] = {"survey": _survey, "new_unit": _new_unit}
