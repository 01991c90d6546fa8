"""Units out of a table from another program: label data as people wrote it, each line taken or refused with why."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from dry_gauge.core.errors import Refused
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.vocabulary import Kind
from dry_gauge.exchange.sheets_csv import RefusedLine, read_table
from dry_gauge.exchange.unit_card import facts_from_form

COLUMNS = {
    "site": ("customer", "location", "building", "sitio", "cliente"),
    "address": ("street", "dirección", "direccion"),
    "tag": ("unit", "name", "unit tag", "equipo"),
    "serves": ("area", "zone", "room", "zona"),
    "kind": ("type", "sort", "tipo"),
    "refrigerant": ("gas", "refrigerante"),
    "metering": ("valve",),
    "maker": ("manufacturer", "make", "brand", "marca"),
    "model": ("model number", "modelo"),
    "serial": ("serial number", "serie"),
    "made_year": ("year", "año", "ano"),
    "size": ("capacity", "tons", "capacidad"),
    "seer": (),
    "charge_lb": ("charge lb", "pounds"),
    "charge_oz": ("charge oz", "ounces"),
    "charge_kg": ("charge kg", "kg"),
    "rated_load_amps": ("rla", "amps"),
}
_KINDS = {
    "split": Kind.SPLIT_AC, "rooftop": Kind.PACKAGE_AC, "rtu": Kind.PACKAGE_AC, "package": Kind.PACKAGE_AC,
    "heat pump": Kind.SPLIT_HEAT_PUMP, "split heat pump": Kind.SPLIT_HEAT_PUMP, "package heat pump": Kind.PACKAGE_HEAT_PUMP,
    "cooler": Kind.WALK_IN_COOLER, "walk-in cooler": Kind.WALK_IN_COOLER, "freezer": Kind.WALK_IN_FREEZER,
    "walk-in freezer": Kind.WALK_IN_FREEZER,
}  # fmt: skip
_FACTS = ("kind", "refrigerant", "metering", "size", "seer", "charge_lb", "charge_oz", "charge_kg", "rated_load_amps")
_CARD = ("tag", "serves", "maker", "model", "serial")
_LONGEST = 200


@dataclass(frozen=True, slots=True)
class UnitLine:
    """One unit out of a table: its site, its card's columns and its facts."""

    number: int
    site: str
    address: str
    card: Mapping[str, Any]
    facts: Mapping[str, Any]

    @property
    def key(self) -> tuple[str, str]:
        """By which it is known: site and tag, whatever their capitals."""
        return self.site.casefold(), str(self.card["tag"]).casefold()


def units_from(
    raw: bytes, number: Callable[[str], tuple[float, str]], this_year: int
) -> tuple[list[UnitLine], list[RefusedLine]]:
    """Units, and the lines that were refused.

    Parameters
    ----------
    number : callable
        Reads a typed number.

    Raises
    ------
    Refused
        For a file that is no table at all.
    """
    taken: dict[tuple[str, str], UnitLine] = {}
    refused = []
    for line in read_table(raw, COLUMNS):
        try:
            unit = _unit(line.number, line.cells, number, this_year)
            if unit.key in taken:
                raise Refused(f"{unit.card['tag']} at {unit.site} stands twice; the first counts.")
            taken[unit.key] = unit
        except Refused as refusal:
            refused.append(RefusedLine(line.number, "; ".join(filter(None, line.cells.values()))[:120], refusal.message))
    return list(taken.values()), refused


def _unit(place: int, cells: Mapping[str, str], number: Callable[[str], tuple[float, str]], this_year: int) -> UnitLine:
    long = next((name for name, text in cells.items() if len(text) > _LONGEST), None)
    if long:
        raise Refused(f"{long.replace('_', ' ').capitalize()} has more than {_LONGEST} characters.")
    site, tag = cells.get("site", ""), cells.get("tag", "")
    if not site or not tag:
        raise Refused("A unit needs a site and a tag.")
    fields = {name: cells.get(name, "") for name in _FACTS}
    kind = fields["kind"].casefold().replace("_", " ").strip()
    fields["kind"] = _KINDS[kind].value if kind in _KINDS else kind.replace(" ", "_")
    if fields["kind"] not in set(Kind):
        raise Refused(f"{cells.get('kind', '')[:40]!r} is no sort of unit here: {', '.join(_KINDS)}.")
    if not fields["refrigerant"]:
        raise Refused("A unit needs its refrigerant.")
    fields["refrigerant"] = find(fields["refrigerant"]).name
    year = cells.get("made_year", "")
    if year and not (year.isdecimal() and 1950 <= int(year) <= this_year):
        raise Refused(f"{year[:20]!r} is no year between 1950 and {this_year}.")
    if fields["size"] and _bare(fields["size"]) and float(fields["size"]) < 500:
        fields["size"] += " ton"  # a column of small numbers is tons
    facts = facts_from_form(fields, False, number)
    card = {name: cells.get(name, "") for name in _CARD}
    return UnitLine(place, site, cells.get("address", ""), {**card, "made_year": int(year) if year else None}, facts)


def _bare(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True
