"""Photos and clips: kept small with the entry that brings them, and shown."""

from __future__ import annotations

import os
from tempfile import NamedTemporaryFile
from uuid import UUID

from anyio import to_thread
from fastapi import APIRouter, Request, Response
from fastapi.responses import FileResponse, RedirectResponse
from starlette.background import BackgroundTask
from starlette.datastructures import UploadFile
from starlette.requests import ClientDisconnect

from dry_gauge.core.errors import Refused
from dry_gauge.exchange.clips import clip_of, seconds_of, still_of
from dry_gauge.notebook.subjects.remarks import PhotoBody
from dry_gauge.service.allowed import NotAllowed, NotHere
from dry_gauge.service.append import IdTaken, Sent
from dry_gauge.service.notebooks import as_seen_by, judged
from dry_gauge.service.photos import keep_photo
from dry_gauge.service.pictures import PictureWorker
from dry_gauge.store.people import Someone
from dry_gauge.store.register import find_clip, find_photo
from dry_gauge.web.asked import sender_of, waited
from dry_gauge.web.refusals import refusal_of
from dry_gauge.web.render import Fragment, fragments, page, wants_fragments
from dry_gauge.web.security import looking, signed_in
from dry_gauge.web.timeline import timeline_part

router = APIRouter()
# Browsers show a picture or a clip by itself in a page of their own making, with styles of theirs in it.
_VIEWER = "default-src 'none'; img-src 'self'; media-src 'self'; style-src 'unsafe-inline'; frame-ancestors 'none'"
_HEADERS = {"cache-control": "private, max-age=31536000, immutable", "content-security-policy": _VIEWER}


@router.post("/visits/{visit_id}/photos")
async def add(request: Request, visit_id: UUID) -> Response:
    """Keep a photo with the visit; the same photo sent again is one photo."""
    await to_thread.run_sync(lambda: _known(request))
    try:
        form = await request.form(max_files=1)
    except ClientDisconnect:
        return Response(status_code=400)
    sent = form.get("photo")
    raw = await sent.read() if isinstance(sent, UploadFile) else b""
    fields = {name: value for name, value in form.items() if isinstance(value, str)}
    return await to_thread.run_sync(lambda: _keep(request, visit_id, raw, fields))


def _known(request: Request) -> Someone:
    """Who sends it: before its megabytes are read."""
    with signed_in(request) as (_, someone):
        return someone


def _keep(request: Request, visit_id: UUID, raw: bytes, fields: dict[str, str]) -> Response:
    someone = _known(request)
    try:
        entry_id = UUID(fields.get("entry_id", ""))
        about = UUID(fields["about"]) if fields.get("about") else None
    except ValueError:
        return _answer(request, someone, visit_id, 422, "This photo came without its id. Reload the page and send it again.")
    try:
        clip = clip_of(raw)
        seconds = seconds_of(fields.get("seconds", "")) if clip else None
        picture = _worker(request).made_small(still_of(fields.get("still", "")) if clip else raw)
        body = PhotoBody(photo=entry_id, caption=fields.get("caption", "")[:200], about=about, seconds=seconds)
        sent = Sent(entry_id, body, waited(request), sender_of(request))
        with signed_in(request) as (connection, someone):
            appended, _ = keep_photo(connection, someone, visit_id, sent, picture, someone.now(), clip)
    except (Refused, IdTaken, NotAllowed) as problem:
        refusal = refusal_of(problem)
        return _answer(request, someone, visit_id, refusal.status, refusal.error)
    with looking(request, someone) as connection:
        view = as_seen_by(someone, judged(appended.visit, appended.state, someone.superheat_school))
        return _answer(request, someone, visit_id, 200, "", timeline_part(connection, view, someone))


def _worker(request: Request) -> PictureWorker:
    worker: PictureWorker = request.app.state.pictures
    return worker


def _answer(request: Request, someone: Someone, visit_id: UUID, status: int, error: str, *parts: Fragment) -> Response:
    if wants_fragments(request):
        beside = ("visits/_said_form.html", {"beside": "photo-form", "error": error, "at": someone.now()})
        return fragments(request, beside, *parts, status=status)
    if error:
        return page(
            request, "error.html", status=status, someone=someone, heading="Not kept", words=error, back=f"/visits/{visit_id}"
        )
    return RedirectResponse(f"/visits/{visit_id}", 303)


def _shown(request: Request, photo_id: UUID, small: bool) -> Response:
    with signed_in(request) as (connection, _):
        found = find_photo(connection, photo_id, small=small)
    if found is None:
        raise NotHere("There is no such photo in your shop.")
    return Response(found, media_type="image/jpeg", headers=_HEADERS)


@router.get("/photos/{photo_id}")
def show(request: Request, photo_id: UUID) -> Response:
    """A photo."""
    return _shown(request, photo_id, small=False)


@router.get("/photos/{photo_id}/clip")
def show_clip(request: Request, photo_id: UUID) -> Response:
    """What moves and sounds: in the browser's own player, which asks for it in ranges."""
    with signed_in(request) as (connection, _):
        found = find_clip(connection, photo_id)
    if found is None:
        raise NotHere("There is no such clip in your shop.")
    media_type, moving = found
    with NamedTemporaryFile(delete=False) as file:
        file.write(moving)
    return FileResponse(file.name, media_type=media_type, headers=_HEADERS, background=BackgroundTask(os.unlink, file.name))


@router.get("/photos/{photo_id}/small")
def show_small(request: Request, photo_id: UUID) -> Response:
    """A photo in small."""
    return _shown(request, photo_id, small=True)
