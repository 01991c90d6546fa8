"""Photos: kept small with the entry that brings them, and shown."""

from __future__ import annotations

from datetime import UTC, datetime
from uuid import UUID

import uuid6
from anyio import to_thread
from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from starlette.datastructures import UploadFile
from starlette.requests import ClientDisconnect

from dry_gauge.core.errors import Refused
from dry_gauge.exchange.pictures import made_small
from dry_gauge.notebook.subjects.remarks import PhotoBody
from dry_gauge.service.append import IdTaken, Sent, append
from dry_gauge.service.notebooks import NotAllowed, NotHere, judged, load
from dry_gauge.store.register import add_photo, change_unit, find_photo
from dry_gauge.store.visits import find_unit
from dry_gauge.web.asked import sender_of, waited
from dry_gauge.web.render import fragments, page, wants_fragments
from dry_gauge.web.security import signed_in
from dry_gauge.web.timeline import timeline_part

router = APIRouter()
_KEPT = "private, max-age=31536000, immutable"


@router.post("/visits/{visit_id}/photos")
async def add(request: Request, visit_id: UUID) -> Response:
    """Keep a photo with the visit; the same photo sent again is one photo."""
    try:
        form = await request.form(max_files=1)
    except ClientDisconnect:
        return Response(status_code=400)
    sent = form.get("photo")
    raw = await sent.read() if isinstance(sent, UploadFile) else b""
    fields = {name: value for name, value in form.items() if isinstance(value, str)}
    return await to_thread.run_sync(lambda: _keep(request, visit_id, raw, fields))


def _keep(request: Request, visit_id: UUID, raw: bytes, fields: dict[str, str]) -> Response:
    error, status = "", 200
    with signed_in(request) as (connection, someone):
        view = load(connection, someone, visit_id)
        try:
            entry_id = UUID(fields.get("entry_id", ""))
            if not raw:
                raise Refused("Choose a photo first.", "photo")
            about = UUID(fields["about"]) if fields.get("about") else None
            body = PhotoBody(photo=entry_id, caption=fields.get("caption", "")[:200], about=about)
            now = datetime.now(UTC)
            picture = made_small(raw)
            entry = Sent(entry_id, body, waited(request), sender_of(request))
            appended, taken = append(connection, someone, visit_id, entry, now)
            if not taken.repeated:
                add_photo(
                    connection, shop_id=someone.shop_id, id=entry_id, unit_id=view.visit.unit_id,
                    person_id=someone.person_id, at=taken.entry.written_at, width=picture.width,
                    height=picture.height, picture=picture.picture, thumbnail=picture.thumbnail,
                )  # fmt: skip
            view = judged(appended.visit, appended.state, someone.superheat_school)
        except (Refused, IdTaken, NotAllowed) as problem:
            error = problem.message if isinstance(problem, Refused) else str(problem)
            status = {IdTaken: 409, NotAllowed: 403}.get(type(problem), 422)
        except ValueError:
            error, status = "This photo came without its id. Reload the page and send it again.", 422
        if not wants_fragments(request):
            if error:
                return page(request, "error.html", status=status, someone=someone, heading="Not kept", words=error,
                            back=f"/visits/{visit_id}")  # fmt: skip
            return RedirectResponse(f"/visits/{visit_id}", 303)
        beside = ("visits/_said_form.html", {"beside": "photo-form", "error": error, "at": datetime.now(UTC)})
        parts = [beside] if error else [beside, timeline_part(connection, view, someone)]
        return fragments(request, *parts, status=status)


@router.post("/units/{unit_id}/photos")
async def add_label_photo(request: Request, unit_id: UUID) -> Response:
    """Keep a photo of the unit's label with its card; the one before stays on record."""
    form = await request.form(max_files=1)
    sent = form.get("photo")
    raw = await sent.read() if isinstance(sent, UploadFile) else b""
    return await to_thread.run_sync(lambda: _keep_label(request, unit_id, raw))


def _keep_label(request: Request, unit_id: UUID, raw: bytes) -> Response:
    with signed_in(request) as (connection, someone):
        unit = find_unit(connection, unit_id)
        if unit is None:
            raise NotHere("There is no such unit in your shop.")
        if not someone.may_write:
            raise NotAllowed("Your role reads along; a technician or lead changes the register.")
        try:
            if not raw:
                raise Refused("Choose a photo first.", "photo")
            picture = made_small(raw)
        except Refused as refusal:
            return page(request, "error.html", status=422, someone=someone, heading="Not kept", words=refusal.message,
                        back=f"/units/{unit_id}")  # fmt: skip
        photo_id, now = uuid6.uuid7(), datetime.now(UTC)
        add_photo(
            connection, shop_id=someone.shop_id, id=photo_id, unit_id=unit_id, person_id=someone.person_id, at=now,
            width=picture.width, height=picture.height, picture=picture.picture, thumbnail=picture.thumbnail,
        )  # fmt: skip
        before = str(unit.label_photo) if unit.label_photo else None
        change_unit(connection, someone.shop_id, unit_id, someone.person_id, uuid6.uuid7(), now,
                    {"label_photo": photo_id}, {"label_photo": [before, str(photo_id)]})  # fmt: skip
    return RedirectResponse(f"/units/{unit_id}", 303)


def _shown(request: Request, photo_id: UUID, small: bool) -> Response:
    with signed_in(request) as (connection, _):
        found = find_photo(connection, photo_id, small=small)
    if found is None:
        raise NotHere("There is no such photo in your shop.")
    return Response(found, media_type="image/jpeg", headers={"cache-control": _KEPT})


@router.get("/photos/{photo_id}")
def show(request: Request, photo_id: UUID) -> Response:
    """A photo."""
    return _shown(request, photo_id, small=False)


@router.get("/photos/{photo_id}/small")
def show_small(request: Request, photo_id: UUID) -> Response:
    """A photo in small."""
    return _shown(request, photo_id, small=True)
