"""What the files of an archive hold, as JSON Schema: written with each archive, so that it explains itself."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from dry_gauge.notebook.entries import BODY

_ROWS: Mapping[str, Any] = {"type": "array", "items": {"type": "object"}}


def _document(name: str, **properties: Any) -> dict[str, Any]:
    wanted = {"format": {"const": f"dry-gauge/{name}"}, "version": {"const": 1}, **properties}
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": name,
        "type": "object",
        "properties": wanted,
        "required": sorted(wanted),
    }


def schemas(of_shop: Iterable[str], of_unit: Iterable[str], of_visit: Iterable[str]) -> dict[str, dict[str, Any]]:
    """By name: ``shop`` (its people without passwords), ``unit`` (its card as the register has it) and ``visit``.

    Parameters
    ----------
    of_shop, of_unit, of_visit : iterable of str
        The tables whose rows come along with each; of a visit, ``entry`` among them.
    """
    card = {"type": "object", "required": ["id", "site_id", "tag", "facts"], "properties": {"facts": {"type": "object"}}}
    bodies = entry_schema()
    definitions = bodies.pop("$defs", {})
    entry = {
        "type": "object",
        "required": ["id", "sequence", "person_id", "written_at", "received_at", "body"],
        "properties": {"sequence": {"type": "integer"}, "written_at": {"type": "string", "format": "date-time"}, "body": bodies},
    }
    visit = {"type": "object", "required": ["id", "unit_id", "technician_id", "planned_for", "status"]}
    entries = {"entry": {"type": "array", "items": entry}}
    return {
        "shop": _document("shop", shop={"type": "object"}, people=_ROWS, **dict.fromkeys(of_shop, _ROWS)),
        "unit": _document("unit", unit=card, **dict.fromkeys(of_unit, _ROWS)),
        "visit": _document("visit", visit=visit, **dict.fromkeys(of_visit, _ROWS) | entries) | {"$defs": definitions},
    }


def entry_schema() -> dict[str, Any]:
    """What an entry says, for every kind."""
    return BODY.json_schema()
