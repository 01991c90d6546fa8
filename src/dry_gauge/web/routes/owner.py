"""Reports for owners: chosen and sent by the shop, read under a link without a sign-in."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Mapping
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

from anyio import to_thread
from babel import negotiate_locale
from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.core.local_time import local
from dry_gauge.exchange.language import Language, language_named, languages
from dry_gauge.service import owners as service
from dry_gauge.service import proposals
from dry_gauge.service.notebooks import as_closed, load
from dry_gauge.service.owners import LinkSigner, NoSuchLink, Opened, TooManyLinks, opened
from dry_gauge.store import owners
from dry_gauge.store.people import Someone
from dry_gauge.store.register import find_photo
from dry_gauge.web.callers import address_of
from dry_gauge.web.fields import FORM, Fields
from dry_gauge.web.handed_out import pdf_file
from dry_gauge.web.owner_offer import problem_words, typed_again
from dry_gauge.web.owner_page import report_pdf, report_pictures, report_values
from dry_gauge.web.paper import press_of
from dry_gauge.web.record import record_pdf, record_values
from dry_gauge.web.render import TEMPLATES, page, reader_of
from dry_gauge.web.routes.offers import answer_of
from dry_gauge.web.security import engine_of, signed_in

router = APIRouter()

# Whoever reads it has only the link: nothing keeps it, lists it, or passes it on.
_UNLISTED = {"x-robots-tag": "noindex, nofollow, noarchive", "referrer-policy": "no-referrer", "cache-control": "no-store"}


def signer_of(request: Request) -> LinkSigner:
    """What writes and knows our links."""
    signer: LinkSigner = request.app.state.links
    return signer


# -- in the shop -----------------------------------------------------------


@router.get("/visits/{visit_id}/report")
def show_report(request: Request, visit_id: UUID, lang: str = "") -> Response:
    """The report as its owner would read it, with what to choose for it and the links that were made."""
    with signed_in(request) as (connection, someone):
        return _report_page(request, connection, someone, visit_id, language_named(lang))


def _report_page(
    request: Request, connection: Connection, someone: Someone, visit_id: UUID, language: Language, error: str = "", at: str = ""
) -> Response:
    view = load(connection, someone, visit_id)
    now, signer = datetime.now(UTC), signer_of(request)
    chosen = owners.chosen_for(connection, visit_id)
    values = report_values(
        connection,
        as_closed(connection, view, someone.superheat_school),
        chosen,
        language,
        reader_of(someone, view.facts),
        someone.shop_name,
        now,
        "/photos/",
    )
    links = [
        (link, f"{request.base_url!s}o/{signer.address(link.id)}", link.is_open(now))
        for link in owners.links_of(connection, visit_id)
    ]
    return page(
        request,
        "owner/desk.html",
        status=422 if error else 200,
        someone=someone,
        language=language,
        chosen=chosen,
        languages=languages().values(),
        links=links,
        DAYS=service.DAYS_OPEN,
        error=error,
        error_at=at,
        photos=list(view.kept.remarks.photos.values()),
        **values,
    )


@router.get("/visits/{visit_id}/report.pdf")
def send_report(request: Request, visit_id: UUID, lang: str = "") -> Response:
    """The report to hand on."""
    with signed_in(request) as (connection, someone):
        view = load(connection, someone, visit_id)
        values = report_values(
            connection,
            as_closed(connection, view, someone.superheat_school),
            owners.chosen_for(connection, visit_id),
            language_named(lang),
            reader_of(someone, view.facts),
            someone.shop_name,
            datetime.now(UTC),
            "/photos/",
        )
        pictures = report_pictures(connection, values)
    return _pdf(report_pdf(press_of(request), values, pictures), "report", values)


def _pdf(made: bytes, what: str, values: Mapping[str, Any]) -> Response:
    visit = values["visit"]
    return pdf_file(made, what, visit.site_name, visit.tag, f"{local(visit.planned_for):%Y-%m-%d}")


@router.get("/visits/{visit_id}/record")
def show_record(request: Request, visit_id: UUID, part: int = 1) -> Response:
    """The whole record, for the office."""
    with signed_in(request) as (connection, someone):
        values = _record(connection, someone, visit_id, part)
        return page(request, "visits/record.html", someone=someone, **values)


@router.get("/visits/{visit_id}/record.pdf")
def send_record(request: Request, visit_id: UUID, part: int = 1) -> Response:
    """A part of the record to hand on."""
    with signed_in(request) as (connection, someone):
        values = _record(connection, someone, visit_id, part)
    what = "record" if values["parts"] == 1 else f"record part {values['part']}"
    return _pdf(record_pdf(press_of(request), values), what, values)


def _record(connection: Connection, someone: Someone, visit_id: UUID, part: int) -> dict[str, Any]:
    view = load(connection, someone, visit_id)
    return record_values(connection, view, someone, reader_of(someone, view.facts), part, someone.now())


@router.post("/visits/{visit_id}/report")
async def choose(request: Request, visit_id: UUID) -> Response:
    """Keep words and pictures for the report."""
    form = await request.form()
    pictures = [str(one) for one in form.getlist("picture")][:200]
    words, lang = str(form.get("words", "")).replace("\0", ""), str(form.get("lang", ""))

    def keep() -> Response:
        with signed_in(request) as (connection, someone):
            try:
                service.choose(connection, someone, visit_id, words, pictures)
            except Refused as refusal:
                return _report_page(request, connection, someone, visit_id, language_named(lang), refusal.message, "words")
        return RedirectResponse(f"/visits/{visit_id}/report?lang={language_named(lang).code}", 303)

    return await to_thread.run_sync(keep)


@router.post("/visits/{visit_id}/links")
def make_link(request: Request, visit_id: UUID, fields: Fields = FORM) -> Response:
    """Make a link for the owner."""
    days = fields.get("days", "")
    with signed_in(request) as (connection, someone):
        language = language_named(fields.get("language", ""))
        try:
            service.make_link(
                connection, someone, visit_id, fields.get("language", ""), int(days) if days.isdecimal() else 0, datetime.now(UTC)
            )
        except Refused as refusal:
            return _report_page(request, connection, someone, visit_id, language, refusal.message, refusal.path)
    return RedirectResponse(f"/visits/{visit_id}/report?lang={language.code}#links", 303)


@router.post("/visits/{visit_id}/links/{link_id}/withdraw")
def withdraw_link(request: Request, visit_id: UUID, link_id: UUID) -> Response:
    """Withdraw a link: nothing can be read under it from now on."""
    with signed_in(request) as (connection, someone):
        service.withdraw(connection, someone, visit_id, link_id, datetime.now(UTC))
    return RedirectResponse(f"/visits/{visit_id}/report#links", 303)


# -- under the link --------------------------------------------------------


def _asked_language(request: Request) -> Language:
    """What a browser that holds no link is likely to read."""
    asked = [one.partition(";")[0].strip() for one in request.headers.get("accept-language", "").split(",")]
    wanted = [code.replace("-", "_") for code in asked if re.fullmatch(r"[A-Za-z]{2,3}(-[A-Za-z0-9]{2,8})*", code)]
    found = negotiate_locale(wanted, list(languages())) if wanted else None
    return language_named((found or "").partition("_")[0])


def nothing_here(request: Request, problem: NoSuchLink | TooManyLinks) -> Response:
    """What a link says that opens nothing; whether it ever did is not told."""
    language, many = _asked_language(request), isinstance(problem, TooManyLinks)
    text = TEMPLATES.get_template("owner/nothing.html").render(say=language.say, lang=language.code, many=many)
    headers = _UNLISTED | ({"retry-after": str(service.GUESS_SECONDS)} if many else {})
    return Response(text, 429 if many else 404, media_type="text/html", headers=headers)


def _read(request: Request, address: str) -> Any:
    return opened(engine_of(request), signer_of(request), address, address_of(request), datetime.now(UTC))


def _values(connection: Connection, found: Opened, address: str) -> dict[str, Any]:
    link, language = found.link, language_named(found.link.language)
    return {
        **report_values(
            connection,
            found.view,
            found.chosen,
            language,
            found.reader,
            link.shop_name,
            datetime.now(UTC),
            f"/o/{address}/pictures/",
        ),
        "address": address,
        "open_until": language.day(local(link.expires_at)),
    }


@router.get("/o/{address}")
def read_report(request: Request, address: str) -> Response:
    """The report, for whoever holds its link, and the options to choose from."""
    with _read(request, address) as (connection, found):
        owners.count_opening(connection, found.link.id, datetime.now(UTC))
        return _owner_page(request, connection, found, address)


def _owner_page(
    request: Request,
    connection: Connection,
    found: Opened,
    address: str,
    problem: str = "",
    at: str = "",
    fields: Mapping[str, str] | None = None,
) -> Response:
    language, values = language_named(found.link.language), _values(connection, found, address)
    values |= {
        "may_decide": values["offer"] is not None,
        "decide_at": f"/o/{address}/decide#choice",
        "problem": problem_words(problem, language) if problem else "",
        "problem_at": at,
        "again": defaultdict(str, typed_again(fields or {})),
        "csrf": request.scope["csrftoken"](),
    }
    text = TEMPLATES.get_template("owner/page.html").render(values)
    return Response(text, 422 if problem else 200, media_type="text/html", headers=_UNLISTED)


@router.post("/o/{address}/decide")
def decide(request: Request, address: str, fields: Fields = FORM) -> Response:
    """What the owner decides under the link."""
    with _read(request, address) as (connection, found):
        link = found.link
        try:
            proposals.decide(
                connection, found.shop_id, link.visit_id, answer_of(fields), link.language, datetime.now(UTC), link_id=link.id
            )
        except Refused as refusal:
            return _owner_page(request, connection, found, address, refusal.message, refusal.path, fields)
        except proposals.Changed:
            return _owner_page(request, connection, found, address, "changed", "chosen", fields)
    return RedirectResponse(f"/o/{address}#choice", 303)


@router.get("/o/{address}/report.pdf")
def read_pdf(request: Request, address: str) -> Response:
    """The report as PDF, for whoever holds its link."""
    with _read(request, address) as (connection, found):
        values = _values(connection, found, address)
        pictures = report_pictures(connection, values)
    answer = _pdf(report_pdf(press_of(request), values, pictures), "report", values)
    answer.headers.update(_UNLISTED)
    return answer


@router.get("/o/{address}/pictures/{photo_id}")
def read_picture(request: Request, address: str, photo_id: UUID) -> Response:
    """A picture that was chosen for the report; no other."""
    with _read(request, address) as (connection, found):
        picture = find_photo(connection, photo_id, small=False) if photo_id in found.chosen.pictures else None
    if picture is None:
        raise NoSuchLink
    return Response(picture, media_type="image/jpeg", headers=_UNLISTED)
