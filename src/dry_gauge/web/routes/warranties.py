"""A unit's warranties: their clocks, claims with their evidence, and the claim as PDF."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from datetime import UTC, datetime
from functools import partial
from typing import Any
from uuid import UUID

from anyio import to_thread
from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.core.label import dates_in
from dry_gauge.core.local_time import day_of
from dry_gauge.core.office.money import cents_of
from dry_gauge.core.office.warranty import EVIDENCE, KNOWN_BY_US, StartFrom
from dry_gauge.exchange.language import language_named
from dry_gauge.service import warranties as service
from dry_gauge.service.allowed import NotHere, unit_here
from dry_gauge.service.notebooks import load
from dry_gauge.service.settings import shop_settings
from dry_gauge.service.today import today_here
from dry_gauge.store.people import Someone
from dry_gauge.store.register import find_photo
from dry_gauge.store.visits import visits_of_unit
from dry_gauge.store.warranties import find_warranty
from dry_gauge.web.fields import FORM, Fields, day_in, key_in, text_in, whole_in
from dry_gauge.web.handed_out import pdf_file
from dry_gauge.web.paper import paper, press_of
from dry_gauge.web.record import record_values
from dry_gauge.web.render import page, reader_of
from dry_gauge.web.security import signed_in

router = APIRouter(prefix="/units/{unit_id}/warranty")

_START_WORDS = {
    StartFrom.INSTALLED: "it was installed",
    StartFrom.MADE: "it was made: nobody knows when it was installed",
    StartFrom.PAPER: "its paper says so",
}


_MOST_PICTURES = 8
AMOUNTS = {"parts_cents": "Asked for parts", "labour_cents": "Asked for labor", "granted_cents": "Granted"}


@router.get("")
def show_warranties(request: Request, unit_id: UUID) -> Response:
    """Every warranty of a unit."""
    with signed_in(request) as (connection, someone):
        return _page(request, connection, someone, unit_id)


def _page(
    request: Request,
    connection: Connection,
    someone: Someone,
    unit_id: UUID,
    error: str = "",
    at: str = "",
    fields: Mapping[str, str] | None = None,
) -> Response:
    unit, today = unit_here(connection, unit_id), today_here()
    clocks = service.clocks_of(connection, unit_id, today)
    evidence = {claim.id: service.evidence_of(connection, someone, unit, claim) for clock in clocks for claim in clock.claims}
    return page(
        request,
        "register/warranty.html",
        status=422 if error else 200,
        someone=someone,
        unit=unit,
        clocks=clocks,
        evidence=evidence,
        EVIDENCE=EVIDENCE,
        KNOWN=KNOWN_BY_US,
        STARTS=_START_WORDS,
        ANSWERS=service.ANSWERS,
        error=error,
        error_at=at,
        AMOUNTS=AMOUNTS,
        **_money(connection),
        candidates=dates_in(unit.serial or "", today.year),
        visits=visits_of_unit(connection, unit_id, 12),
        fields=defaultdict(str, fields or {}),
    )


def _money(connection: Connection) -> dict[str, Any]:
    currency = shop_settings(connection).currency
    return {"currency": currency, "money": partial(language_named("en").money, currency=currency)}


@router.post("")
def add_warranty(request: Request, unit_id: UUID, fields: Fields = FORM) -> Response:
    """Put a warranty on record, or take one off."""
    with signed_in(request) as (connection, someone):
        try:
            if fields.get("drop"):
                service.drop(connection, someone, unit_id, _id(fields, "drop"))
                return RedirectResponse(f"/units/{unit_id}/warranty", 303)
            texts = {
                "what": text_in(fields, "what", "What it covers", needed=True),
                "whose": text_in(fields, "whose", "Whose it is"),
                "terms": text_in(fields, "terms", "Its terms", longest=600),
            }
            months = (
                whole_in(fields, "parts_months", "Months for parts", 0, 360) or 0,
                whole_in(fields, "labour_months", "Months for labor", 0, 360) or 0,
            )
            service.add(
                connection,
                someone,
                unit_id,
                texts,
                day_in(fields, "starts_on", "Its first day"),
                fields.get("start_from", ""),
                months,
                today_here(),
                key_in(fields),
            )
        except Refused as refusal:
            return _page(request, connection, someone, unit_id, refusal.message, refusal.path, fields)
    return RedirectResponse(f"/units/{unit_id}/warranty", 303)


def _id(fields: Mapping[str, str], name: str) -> UUID:
    try:
        return UUID(fields.get(name, ""))
    except ValueError:
        raise NotHere("There is no such warranty of this unit.") from None


@router.post("/claims")
def begin_claim(request: Request, unit_id: UUID, fields: Fields = FORM) -> Response:
    """Begin a claim."""
    with signed_in(request) as (connection, someone):
        warranty = _id(fields, "warranty")
        try:
            visit = _id(fields, "visit") if fields.get("visit") else None
            failed = text_in(fields, "failed", "What failed", needed=True)
            why = text_in(fields, "why", "What made it fail")
            claim_id = key_in(fields)
            service.claim(connection, someone, unit_id, warranty, failed, why, visit, datetime.now(UTC), claim_id)
        except Refused as refusal:
            return _page(request, connection, someone, unit_id, refusal.message, f"claim-{warranty}", fields)
    return RedirectResponse(f"/units/{unit_id}/warranty#claim-{claim_id}", 303)


@router.post("/claims/{claim_id}")
async def change_claim(request: Request, unit_id: UUID, claim_id: UUID) -> Response:
    """Tick evidence, note that it went out, or what came back."""
    form = await request.form()
    ticked = [str(one) for one in form.getlist("evidence")][:20]
    answer, sent = str(form.get("answer", "")), form.get("sent") == "yes"
    amounts = {name: str(form.get(name, ""))[:24].strip() for name in AMOUNTS}

    def keep() -> Response:
        with signed_in(request) as (connection, someone):
            try:
                cents = {name: _cents(connection, claim_id, name, typed) for name, typed in amounts.items()}
                service.change_claim(connection, someone, unit_id, claim_id, ticked, answer, cents, today_here(), sent=sent)
            except Refused as refusal:
                typed = {f"{name}-{claim_id}": words for name, words in {**amounts, "answer": answer}.items()}
                typed |= {f"{name}-{claim_id}": "ticked" for name in ticked}
                return _page(request, connection, someone, unit_id, refusal.message, refusal.path, typed)
        return RedirectResponse(f"/units/{unit_id}/warranty#claim-{claim_id}", 303)

    return await to_thread.run_sync(keep)


def _cents(connection: Connection, claim_id: UUID, name: str, typed: str) -> int | None:
    try:
        return cents_of(typed, shop_settings(connection).currency) if typed else None
    except Refused as refusal:
        raise Refused(refusal.message, f"{name}-{claim_id}") from None


@router.get("/claims/{claim_id}.pdf")
def send_claim(request: Request, unit_id: UUID, claim_id: UUID) -> Response:
    """The claim to hand on: what failed, the unit, the warranty, its evidence and the readings."""
    with signed_in(request) as (connection, someone):
        unit = unit_here(connection, unit_id)
        claim = service.claim_of(connection, unit_id, claim_id)
        warranty = find_warranty(connection, claim.warranty_id)
        has = service.evidence_of(connection, someone, unit, claim)
        record, pictures = None, {}
        if claim.visit_id:
            view = load(connection, someone, claim.visit_id)
            record = record_values(connection, view, someone, reader_of(someone, view.facts), 1, datetime.now(UTC))
            pictures = {
                str(one.body.photo): found
                for one in record["photos"][:_MOST_PICTURES]
                if (found := find_photo(connection, one.body.photo, small=False))
            }
        values = {
            "unit": unit,
            "claim": claim,
            "warranty": warranty,
            "has": has,
            "EVIDENCE": EVIDENCE,
            "record": record,
            "pictures": pictures,
            **_money(connection),
            "shop_name": someone.shop_name,
            "now": datetime.now(UTC),
            "STARTS": _START_WORDS,
            "clock": next(
                (
                    one
                    for one in service.clocks_of(connection, unit_id, day_of(claim.made_at))
                    if one.warranty.id == claim.warranty_id
                ),
                None,
            ),
        }
    made = paper(press_of(request), "register/claim_pdf.html", values, "proof.css", pictures=pictures)
    return pdf_file(made, "claim", unit.site_name, unit.tag, str(day_of(claim.made_at)))
