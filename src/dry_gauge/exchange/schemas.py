"""What the files of an archive hold, as JSON Schema: written with each archive, so that it explains itself."""

from __future__ import annotations

from collections.abc import Callable, Mapping
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


def unit_schema() -> dict[str, Any]:
    """One unit: its card as the register has it, parts, changes, warranties, photos."""
    row = {"type": "object", "required": ["id", "site_id", "tag", "facts"], "properties": {"facts": {"type": "object"}}}
    return _document("unit", unit=row, component=_ROWS, unit_change=_ROWS, warranty=_ROWS, photo=_ROWS)


def visit_schema() -> dict[str, Any]:
    """One visit: its row, every entry of its notebook, and what followed from it."""
    bodies = entry_schema()
    definitions = bodies.pop("$defs", {})
    entry = {
        "type": "object",
        "required": ["id", "sequence", "person_id", "written_at", "received_at", "body"],
        "properties": {"sequence": {"type": "integer"}, "written_at": {"type": "string", "format": "date-time"}, "body": bodies},
    }
    row = {"type": "object", "required": ["id", "unit_id", "technician_id", "planned_for", "status"]}
    others = (
        "follow_up",
        "sound_day",
        "control_chain",
        "control_finding",
        "board_code",
        "owner_report",
        "owner_link",
        "proposal",
        "decision",
        "visit_result",
        "visit_held",
    )
    document = _document("visit", visit=row, entry={"type": "array", "items": entry}, **dict.fromkeys(others, _ROWS))
    return {**document, "$defs": definitions}


def entry_schema() -> dict[str, Any]:
    """What an entry says, for every kind."""
    return BODY.json_schema()


def shop_schema() -> dict[str, Any]:
    """The shop, its people without passwords, and everything that belongs to no single unit."""
    listed = ("people", "site", "instrument", "cylinder", "price", "movement", "part_order", "warranty_claim", "audit_event")
    return _document("shop", shop={"type": "object"}, **dict.fromkeys(listed, _ROWS))


SCHEMAS: Mapping[str, Callable[[], dict[str, Any]]] = {"shop": shop_schema, "unit": unit_schema, "visit": visit_schema}
