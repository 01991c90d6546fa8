"""Labels: ours to print and to scan, and the maker's, read from a photo field by field and taken over only by hand."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

import segno
from anyio import to_thread
from fastapi import APIRouter, Request, Response
from fastapi.responses import JSONResponse, RedirectResponse
from markupsafe import Markup
from sqlalchemy import Connection
from starlette.datastructures import UploadFile

from dry_gauge.core.errors import Refused
from dry_gauge.core.label_text import Field, fields_in
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.exchange.unit_card import form_from_facts
from dry_gauge.service.allowed import unit_here, writer
from dry_gauge.service.photos import keep_label_photo
from dry_gauge.service.pictures import LabelReader, PictureWorker
from dry_gauge.store.people import Someone
from dry_gauge.store.register import find_photo, photo_size, search
from dry_gauge.store.visits import find_unit
from dry_gauge.web.fields import FORM, Fields
from dry_gauge.web.render import page
from dry_gauge.web.routes.cards import card_page, fields_of_card
from dry_gauge.web.security import signed_in
from dry_gauge.web.weights import grams_of

router = APIRouter()

FIELD_WORDS = {
    "model": "Model", "serial": "Serial", "maker": "Maker", "refrigerant": "Refrigerant", "charge": "Label charge",
    "rated_load_amps": "Rated load amps", "seer": "SEER", "size": "Size", "made_year": "Made in",
}  # fmt: skip
_OURS = re.compile(r"/units/([0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12})/?$", re.IGNORECASE)
_CAMERA = {"permissions-policy": "camera=(self), geolocation=(), microphone=()"}


@router.get("/units/{unit_id}/label")
def show_label(request: Request, unit_id: UUID) -> Response:
    """A label to print and stick on the unit: scanning it opens the card."""
    with signed_in(request) as (connection, someone):
        unit = unit_here(connection, unit_id)
        address = f"{str(request.base_url).rstrip('/')}/units/{unit_id}"
        code = segno.make(address, error="m", micro=False).svg_inline(
            scale=5, border=2, svgclass="qr", lineclass=None, omitsize=True
        )
        return page(request, "register/label.html", someone=someone, unit=unit, code=Markup(code), address=address)  # noqa: S704


# -- the maker's label, from a photo -----------------------------------------------------------------


@router.post("/units/{unit_id}/photos")
async def add_label_photo(request: Request, unit_id: UUID) -> Response:
    """Keep a photo of the unit's label with its card, and read it; the one before stays on record."""
    raw = await _photo_sent(request)
    return await to_thread.run_sync(lambda: _keep_label(request, unit_id, raw))


async def _photo_sent(request: Request) -> bytes:
    """The photo of a form: who sends it is asked before its megabytes are read."""
    await to_thread.run_sync(lambda: _known(request))
    form = await request.form(max_files=1)
    sent = form.get("photo")
    return await sent.read() if isinstance(sent, UploadFile) else b""


def _known(request: Request) -> Someone:
    with signed_in(request) as (_, someone):
        return someone


def _keep_label(request: Request, unit_id: UUID, raw: bytes) -> Response:
    someone = _known(request)
    pictures: PictureWorker = request.app.state.pictures
    try:
        picture = pictures.made_small(raw)
    except Refused as refusal:
        return page(
            request,
            "error.html",
            status=422,
            someone=someone,
            heading="Not kept",
            words=refusal.message,
            back=f"/units/{unit_id}",
        )
    with signed_in(request) as (connection, someone):
        keep_label_photo(connection, someone, unit_id, picture, datetime.now(UTC))
    return RedirectResponse(f"/units/{unit_id}/label-photo", 303)


@router.get("/units/{unit_id}/label-photo")
def show_label_photo(request: Request, unit_id: UUID) -> Response:
    """What the photo of the label may say, to be compared."""
    return _label_page(request, unit_id, {})


def _label_page(request: Request, unit_id: UUID, typed: Mapping[str, str], wrong: Refused | None = None) -> Response:
    with signed_in(request) as (connection, someone):
        writer(someone, "changes the register")
        unit = unit_here(connection, unit_id)
        picture = find_photo(connection, unit.label_photo, small=False) if unit.label_photo else None
        size = photo_size(connection, unit.label_photo) if unit.label_photo else (1, 1)
    if picture is None:
        return RedirectResponse(f"/units/{unit_id}#label", 303)
    reader: LabelReader = request.app.state.labels
    found: Sequence[Field] = ()
    turned = 0
    try:
        seen = reader.seen_on(unit.label_photo, picture)
        found, turned = fields_in(seen.words, seen.codes, datetime.now(UTC).year), seen.turned
    except Refused as refusal:
        wrong = wrong or refusal
    card = fields_of_card(unit, someone) | {"charge": _charge_said(unit, someone)}
    return page(
        request,
        "register/label_photo.html",
        status=422 if typed and wrong else 200,
        someone=someone,
        unit=unit,
        found=found,
        typed=typed,
        problem=wrong,
        size=size,
        turned=turned,
        WORDS=FIELD_WORDS,
        card=card,
    )


def _charge_said(unit: Any, someone: Someone) -> str:
    card = form_from_facts(unit.facts, celsius=False, kilograms=someone.weight_unit == "kg")
    if card.get("charge_kg"):
        return f"{card['charge_kg']} kg"
    return f"{card['charge_lb']} lb {card['charge_oz']} oz" if card.get("charge_lb") else ""


@router.post("/units/{unit_id}/label-photo")
def take_from_label(request: Request, unit_id: UUID, fields: Fields = FORM) -> Response:
    """Carry what was ticked over into the card's form, where it is seen once more before it is kept."""
    with signed_in(request) as (connection, someone):
        writer(someone, "changes the register")
        unit = unit_here(connection, unit_id)
        try:
            taken = _taken(fields, someone)
        except Refused as refusal:
            problem = refusal
        else:
            card = fields_of_card(unit, someone)
            if taken:
                card["label_from"] = card["label_from"] or "its own label"
            return card_page(request, someone, card | taken, None, unit, from_label=tuple(taken))
    return _label_page(request, unit_id, fields, problem)


def _taken(fields: Mapping[str, str], someone: Someone) -> dict[str, str]:
    """What was ticked, as fields of the card's form.

    Raises
    ------
    Refused
        Naming the field.
    """
    taken = {name: fields.get(name, "").strip()[:200] for name in FIELD_WORDS if fields.get(f"take-{name}")}
    empty = next((name for name, text in taken.items() if not text), None)
    if empty is not None:
        raise Refused("This is ticked and empty. Write what the label says, or take the tick away.", empty)
    if "refrigerant" in taken:
        try:
            taken["refrigerant"] = find(taken["refrigerant"]).name
        except Refused as refusal:
            raise Refused(refusal.message, "refrigerant") from None
    if "charge" in taken:
        grams = grams_of(lambda name: taken.get(name, ""), "charge")
        del taken["charge"]
        weight = {"charge_kg": "", "charge_lb": "", "charge_oz": ""}
        taken |= weight | form_from_facts({"label_charge_g": grams}, False, someone.weight_unit == "kg")
        for name in ("maker_chart", "more_circuits"):
            taken.pop(name, None)
    return taken


# -- a code to scan -----------------------------------------------------------------


@router.get("/scan")
def show_scan(request: Request) -> Response:
    """Scan a unit's label: ours, or the bar code on the maker's."""
    with signed_in(request) as (_, someone):
        return _scan_page(request, someone)


def _scan_page(request: Request, someone: Someone, words: str = "", code: str = "", units: Sequence[Any] = ()) -> Response:
    answer = page(
        request,
        "register/scan.html",
        status=422 if words and not units else 200,
        someone=someone,
        words=words,
        code=code,
        units=units,
    )
    answer.headers.update(_CAMERA)
    return answer


@router.post("/scan/photos")
async def scan(request: Request) -> Response:
    """A photo with a code, or a frame of the camera: to the unit that it names."""
    raw = await _photo_sent(request)
    return await to_thread.run_sync(lambda: _scanned(request, raw))


def _scanned(request: Request, raw: bytes) -> Response:
    frame = "application/json" in request.headers.get("accept", "")
    someone = _known(request)
    labels: LabelReader = request.app.state.labels
    try:
        codes = labels.codes_on(raw)
    except Refused as refusal:
        return JSONResponse({"seen": ""}) if frame else _scan_page(request, someone, refusal.message)
    if not codes:
        words = "No bar or QR code can be made out. Hold the phone square to it, a hand's breadth away, and out of the glare."
        return JSONResponse({"seen": ""}) if frame else _scan_page(request, someone, words)
    with signed_in(request) as (connection, someone):
        units, words = _named_by(connection, codes)
    if len(units) == 1:
        to = f"/units/{units[0].id}"
        return JSONResponse({"seen": codes[0], "to": to}) if frame else RedirectResponse(to, 303)
    return JSONResponse({"seen": codes[0], "words": words}) if frame else _scan_page(request, someone, words, codes[0], units)


def _named_by(connection: Connection, codes: Sequence[str]) -> tuple[Sequence[Any], str]:
    """The units that codes name, and what is to be said where that is not one."""
    for code in codes:
        if (ours := _OURS.search(code)) is not None:
            unit = find_unit(connection, UUID(ours[1]))
            if unit is not None:
                return [unit], ""
            return [], "This label names a unit that is not in your shop: it is another shop's, or from before a move."
    for code in codes:
        text = code.strip()
        if 4 <= len(text) <= 60 and (units := search(connection, text, 8)):
            return units, f"{text} stands on more than one card: which unit is it?"
    return [], f"The code says {codes[0][:60]}. No unit of the shop has that as its serial or model."
