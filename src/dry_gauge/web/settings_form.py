"""The shop's settings as a form: shown in the units of whoever sets them, and read again from what was typed."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from pydantic import ValidationError

from dry_gauge.core.charge.mass import GRAM_KG
from dry_gauge.core.dimensions import UNITS
from dry_gauge.core.errors import Refused
from dry_gauge.core.local_time import zones
from dry_gauge.core.office.replacement import ShareSchool
from dry_gauge.core.quantities import POUND_KG, PSI_PA, STANDARD_ATMOSPHERE_PA
from dry_gauge.core.shop import RecoveryRow, ShopSettings
from dry_gauge.core.visit.teach import CARDS, limits_of
from dry_gauge.core.words import Reader
from dry_gauge.web.typed import parse_number
from dry_gauge.web.weights import grams_of

_SHARES = ("comfort", "commercial", "process")
_WEIGHTS = ("from_kg", "small_kg")
_PLAIN = ("small_from_gwp", "food_minutes")
_MAYBE = ("latitude", "longitude")
_CONVERTED = ("price_per_kg", "food_limit_f", "hold_loss_psi_h")
_IN_READERS_UNITS = (*_WEIGHTS, *_CONVERTED)
"""Shown in another unit than they are kept in, and rounded there."""
_PAIRS = {"full_load_hours": ("hours_low", "hours_high"), "kwh_price": ("kwh_low", "kwh_high")}
_LABELS = {
    "time_zone": "Time zone",
    "rule_name": "The rule's name",
    "comfort": "Comfort",
    "commercial": "Commercial refrigeration",
    "process": "Process",
    "from_kg": "Full charge from which it applies",
    "small_kg": "Where a lower charge counts, that charge",
    "small_from_gwp": "Refrigerants above this GWP",
    "hold_loss_psi_h": "Loss that a tight hold must rule out",
    "food_limit_f": "Food's limit",
    "food_minutes": "Minutes above food's limit",
    "latitude": "Latitude",
    "longitude": "Longitude",
    "price_per_kg": "Price",
    "currency": "Currency",
    "hours_low": "Hours at full load, low end",
    "hours_high": "Hours at full load, high end",
    "kwh_low": "A kilowatt-hour, low end",
    "kwh_high": "A kilowatt-hour, high end",
    "full_load_hours": "Hours at full load",
    "kwh_price": "The price of a kilowatt-hour",
    "recovery": "The table of vacuums",
    "method": "How it is counted",
    "vacuum_school": "When an evacuation is done",
    "share_school": "From where a repair is worth a second thought",
}
_BOUNDS = {"ge": "at least {}", "gt": "above {}", "le": "at most {}", "lt": "below {}", "max_length": "at most {} letters"}


def settings_shown(settings: ShopSettings, reader: Reader) -> dict[str, str]:
    """The settings as the form shows them to this reader."""
    numbers = (*_SHARES, *_PLAIN, *_IN_READERS_UNITS)
    return {
        **{name: _shown(name, getattr(settings, name), reader) for name in numbers},
        **{name: "" if (degrees := getattr(settings, name)) is None else f"{degrees:g}" for name in _MAYBE},
        **{
            name: f"{value:g}"
            for pair, names in _PAIRS.items()
            for name, value in zip(names, getattr(settings, pair), strict=True)
        },
        **{f"limit_{step}": limit.value for step, limit in limits_of(settings.helper_limits).items()},
        "time_zone": settings.time_zone,
        "rule_name": settings.rule_name,
        "method": settings.method.value,
        "vacuum_school": settings.vacuum_school,
        "share_school": settings.share_school.value,
        "currency": settings.currency,
        "recovery": "\n".join(_vacuum_shown(row, reader) for row in settings.recovery),
        "leads_second_step": "yes" if settings.leads_second_step else "",
    }


def _shown(name: str, kept: float, reader: Reader) -> str:
    """A number as it is kept, in the reader's unit; the same one back by `_kept`, but for what is rounded here."""
    pound = 1.0 if reader.weight_unit == "kg" else POUND_KG
    match name:
        case "comfort" | "commercial" | "process":
            return f"{kept * 100:g}"
        case "from_kg" | "small_kg":
            return f"{round(kept / pound, 2):g}"
        case "price_per_kg":
            return f"{round(kept * pound, 2):g}"
        case "food_limit_f":
            return f"{round(reader.temperature(UNITS['F'].to_si(kept)), 1):g}"
        case "hold_loss_psi_h":
            return f"{kept * PSI_PA / UNITS[reader.gauge_unit].scale:.3g}"
        case _:
            return f"{kept:g}"


def _kept(name: str, typed: float, reader: Reader) -> float:
    match name:
        case "comfort" | "commercial" | "process":
            return typed / 100
        case "price_per_kg":
            return typed / (1.0 if reader.weight_unit == "kg" else POUND_KG)
        case "food_limit_f":
            return UNITS["F"].from_si(UNITS[reader.temperature_unit].to_si(typed))
        case "hold_loss_psi_h":
            return typed * UNITS[reader.gauge_unit].scale / PSI_PA
        case _:
            return typed


def settings_in(fields: Mapping[str, str], now: ShopSettings, reader: Reader) -> ShopSettings:
    """The settings as the form says them; what stands there as it was shown stays what it was `now`, to the last digit.

    Raises
    ------
    Refused
        Naming the field.
    """
    number = _numbers_of(fields)
    shown = settings_shown(now, reader)
    values: dict[str, Any] = {
        **{name: _kept(name, number(name), reader) for name in (*_SHARES, *_CONVERTED)},
        **{name: _weight(fields, name, reader) for name in _WEIGHTS},
        **{name: getattr(now, name) for name in _IN_READERS_UNITS if fields.get(name, "").strip() == shown[name]},
        **{name: number(name) if fields.get(name, "").strip() else None for name in _MAYBE},
        **{pair: tuple(number(name) for name in names) for pair, names in _PAIRS.items()},
        **{name: fields.get(name, "").strip() for name in ("rule_name", "currency", "method", "vacuum_school")},
        "time_zone": _zone(fields.get("time_zone", "")),
        "small_from_gwp": round(number("small_from_gwp")),
        "food_minutes": number("food_minutes"),
        "recovery": _vacuums(fields.get("recovery", ""), now, reader),
        "share_school": fields.get("share_school", ShareSchool.HALF),
        "leads_second_step": fields.get("leads_second_step") == "yes",
        "helper_limits": {step: fields.get(f"limit_{step}", card.usual) for step, card in CARDS.items()},
    }
    try:
        return ShopSettings.model_validate(values)
    except ValidationError as error:
        raise _refusal(error, reader) from None


def _numbers_of(fields: Mapping[str, str]) -> Callable[[str], float]:
    def number(name: str) -> float:
        try:
            value, written = parse_number(fields.get(name, ""))
        except Refused as refusal:
            raise Refused(f"{_LABELS[name]}: {refusal.message}", name) from None
        if written:
            raise Refused(f"{_LABELS[name]}: only a number, without {written!r}.", name)
        return value

    return number


def _weight(fields: Mapping[str, str], name: str, reader: Reader) -> float:
    get = {name: fields.get(name, ""), f"{name}_unit": "kg" if reader.weight_unit == "kg" else "lb"}
    return grams_of(lambda key: get.get(key, ""), name, ask=False) * GRAM_KG


def _zone(typed: str) -> str:
    if typed and typed not in zones():
        raise Refused(f"{_LABELS['time_zone']} is none of the list.", "time_zone")
    return typed


# By which unit a shop's people read a vacuum, with the decimals it takes; the first is the one that is kept.
_VACUUM_UNITS = {"psi": ("inHg_vac", 1), "kPa": ("kPaa", 1), "bar": ("bara", 3)}
VACUUM_WORDS = {
    "psi": "inches of mercury; 0 is atmospheric",
    "kPa": "kPa absolute; 101.3 is atmospheric",
    "bar": "bar absolute; 1.013 is atmospheric",
}
"""How a line of the table of vacuums ends, by the reader's unit of pressure."""
_MOST_INHG = 29.9
_WRITTEN_AS = {"inhg": "inHg_vac", "in.hg": "inHg_vac", "kpa": "kPaa", "kpaa": "kPaa", "bar": "bara", "bara": "bara"}


def _vacuum_shown(row: RecoveryRow, reader: Reader) -> str:
    unit, decimals = _VACUUM_UNITS[reader.pressure_unit]
    shown = UNITS[unit].from_si(UNITS["inHg_vac"].to_si(row.to_inhg, STANDARD_ATMOSPHERE_PA), STANDARD_ATMOSPHERE_PA)
    return f"{row.name} = {row.to_inhg if unit == 'inHg_vac' else round(shown, decimals):g}"


def _vacuums(text: str, now: ShopSettings, reader: Reader) -> tuple[dict[str, Any] | RecoveryRow, ...]:
    """The table as it was typed; a line that stands as it was shown stays what it was."""
    unit, _ = _VACUUM_UNITS[reader.pressure_unit]
    shown = {_vacuum_shown(row, reader): row for row in now.recovery}
    rows: list[dict[str, Any] | RecoveryRow] = []
    for line in filter(None, (line.strip() for line in text.splitlines())):
        name, equals, value = line.rpartition("=")
        try:
            number, written = parse_number(value if equals else "")
            typed_in = UNITS[_WRITTEN_AS[written.casefold().replace(" ", "")] if written else unit]
        except (Refused, KeyError):
            raise Refused(
                f"{line[:60]!r}: write it as 'appliance = {VACUUM_WORDS[reader.pressure_unit].split(';')[0]}'.", "recovery"
            ) from None
        inches = UNITS["inHg_vac"].from_si(typed_in.to_si(number, STANDARD_ATMOSPHERE_PA), STANDARD_ATMOSPHERE_PA)
        # What was rounded for its reader is atmospheric still.
        inches = number if typed_in.downward else 0.0 if abs(inches) < 0.05 else round(inches, 2)
        if not typed_in.downward and not 0 <= inches <= _MOST_INHG:
            raise Refused(f"{line[:60]!r} is above atmospheric, or no pressure at all.", "recovery")
        rows.append(shown.get(line) or {"name": name.strip(), "to_inhg": inches})
    return tuple(rows)


def _refusal(error: ValidationError, reader: Reader) -> Refused:
    """What is out of which range, in the reader's unit."""
    first = error.errors()[0]
    name, *within = map(str, first["loc"])
    label = _LABELS.get(name, name.replace("_", " ").capitalize())
    place = name
    if name == "recovery" and within:
        label = f"{label}, line {int(within[0]) + 1}"
    elif name in _PAIRS and within:
        place = _PAIRS[name][int(within[0])]
        label = _LABELS[place]
    elif name == "helper_limits" and within:
        place = f"limit_{within[0]}"
        label = next(card.title for step, card in CARDS.items() if step == within[0])
    limits = first.get("ctx", {})
    for bound, words in _BOUNDS.items():
        if bound in limits:
            return Refused(f"{label}: {words.format(_shown(name, limits[bound], reader))}.", place)
    return Refused(f"{label} is missing, or none of the list.", place)
