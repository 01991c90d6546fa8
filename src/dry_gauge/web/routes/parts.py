"""Parts on their way to units."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from datetime import UTC, datetime
from uuid import UUID

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.core.local_time import local
from dry_gauge.service import parts as service
from dry_gauge.service.today import today_here
from dry_gauge.store import parts
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import all_units
from dry_gauge.web.fields import FORM, Fields, day_in, key_in, text_in, whole_in
from dry_gauge.web.render import page
from dry_gauge.web.security import signed_in

router = APIRouter(prefix="/parts")


def _page(
    request: Request,
    connection: Connection,
    someone: Someone,
    fields: Mapping[str, str] | None = None,
    error: str = "",
    at: str = "",
) -> Response:
    return page(
        request,
        "plan/parts.html",
        status=422 if error else 200,
        someone=someone,
        parts=parts.waiting_parts(connection),
        units=all_units(connection),
        fields=defaultdict(str, fields or {}),
        error=error,
        error_at=at,
        today=today_here(),
    )


@router.get("")
def show_parts(request: Request, unit: str = "", visit: str = "") -> Response:
    """Every part that is not in yet."""
    with signed_in(request) as (connection, someone):
        return _page(request, connection, someone, {"unit": unit, "visit": visit})


@router.post("")
def want_part(request: Request, fields: Fields = FORM) -> Response:
    """Note a part that a unit needs."""
    with signed_in(request) as (connection, someone):
        try:
            texts = {
                "what": text_in(fields, "what", "The part", needed=True),
                "number": text_in(fields, "number", "The number"),
                "from_whom": text_in(fields, "from_whom", "From whom"),
                "other_piece": text_in(fields, "other_piece", "The other piece"),
            }
            pieces = whole_in(fields, "pieces", "How many", 1, 99) or 1
            try:
                unit_id = UUID(fields.get("unit", ""))
                visit_id = UUID(fields["visit"]) if fields.get("visit") else None
            except ValueError:
                raise Refused("Choose the unit.", "unit") from None
            service.want(connection, someone, unit_id, texts, pieces, visit_id, datetime.now(UTC), key_in(fields))
        except Refused as refusal:
            return _page(request, connection, someone, fields, refusal.message, refusal.path)
    return RedirectResponse("/parts", 303)


@router.post("/{part_id}")
def step_part(request: Request, part_id: UUID, fields: Fields = FORM) -> Response:
    """Take a part a step on."""
    with signed_in(request) as (connection, someone):
        try:
            day = day_in(fields, "day", "The day") or today_here()
            expected = day_in(fields, "expected_on", "The day on which it is expected")
            part = service.step(connection, someone, part_id, fields.get("to", ""), day, expected, text_in(fields, "why", "Why"))
        except Refused as refusal:
            return _page(request, connection, someone, fields, refusal.message, f"{refusal.path}-{part_id}")
    if fields.get("to") == "booked" and part.return_for:
        return RedirectResponse(f"/plan?day={local(part.return_for):%Y-%m-%d}&call={part.return_visit}#call", 303)
    return RedirectResponse(f"/parts#part-{part_id}", 303)
