"""Options for an owner: put together from the price list, offered, and decided on the spot."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Mapping
from dataclasses import replace
from datetime import UTC, datetime
from uuid import UUID

import uuid6
from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from pydantic import ValidationError
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.core.office.money import LineSort, Per, cents_of
from dry_gauge.core.office.offer import OfferLine, Option, OptionSort
from dry_gauge.exchange.language import language_named, languages
from dry_gauge.service import audit
from dry_gauge.service import proposals as service
from dry_gauge.service.allowed import trained
from dry_gauge.service.notebooks import load
from dry_gauge.service.proposals import Answer, Changed
from dry_gauge.service.settings import shop_settings
from dry_gauge.store import prices, proposals
from dry_gauge.store.people import Someone
from dry_gauge.store.proposals import Proposal
from dry_gauge.web.fields import FORM, Fields, text_in
from dry_gauge.web.owner_offer import offer_values, problem_words, shown, typed_again
from dry_gauge.web.render import page, reader_of
from dry_gauge.web.security import signed_in
from dry_gauge.web.typed import parse_number

router = APIRouter(prefix="/visits/{visit_id}/options")

_SORT_WORDS = {
    OptionSort.REPAIR: "Repair",
    OptionSort.REPAIR_MORE: "Repair, and more",
    OptionSort.ASSEMBLY: "A whole assembly for the part",
    OptionSort.REPLACE: "New unit",
}


@router.get("")
def show_options(request: Request, visit_id: UUID, lang: str = "") -> Response:
    """The options that are being put together, and what was offered and decided."""
    with signed_in(request) as (connection, someone):
        return _page(request, connection, someone, visit_id, lang)


def _page(
    request: Request,
    connection: Connection,
    someone: Someone,
    visit_id: UUID,
    lang: str = "",
    error: str = "",
    at: str = "",
    fields: Mapping[str, str] | None = None,
    problem: str = "",
    problem_at: str = "",
) -> Response:
    view = load(connection, someone, visit_id)
    language, reader, settings = language_named(lang), reader_of(someone, view.facts), shop_settings(connection)
    draft = proposals.latest_proposal(connection, visit_id, offered=False)
    offered = offer_values(connection, visit_id, language, reader)
    last = proposals.latest_proposal(connection, visit_id, offered=True)
    building = draft or last or Proposal(uuid6.uuid7(), visit_id, datetime.now(UTC), None, settings.currency, [], {}, "")
    facts = service.facts_for(connection, view, settings, datetime.now(UTC))
    draft_shown = shown(replace(building, facts=facts.model_dump(mode="json")), language, reader)
    return page(
        request,
        "owner/options.html",
        status=422 if error or problem else 200,
        someone=someone,
        visit=view.visit,
        draft=draft,
        draft_shown=draft_shown,
        draft_options=[Option.model_validate(one) for one in building.options],
        lang=language.code,
        languages=languages().values(),
        say=language.say,
        SORTS=_SORT_WORDS.items(),
        prices=prices.all_prices(connection),
        LINE_SORTS=list(LineSort),
        PERS=list(Per),
        error=error,
        error_at=at,
        fields=defaultdict(str, fields or {}),
        settings=settings,
        decide_at=f"/visits/{visit_id}/options/decide",
        may_decide=someone.is_trained and offered["offer"] is not None,
        problem=problem,
        problem_at=problem_at,
        again=defaultdict(str, typed_again(fields or {})),
        facts=facts,
        **offered,
    )


def _changing(
    request: Request, visit_id: UUID, fields: Mapping[str, str], change: Callable[[Connection, Someone, Proposal], str]
) -> Response:
    """Change the draft, and show it again; what is refused is shown with what was typed."""
    with signed_in(request) as (connection, someone):
        try:
            where = change(connection, someone, service.draft_of(connection, someone, visit_id, datetime.now(UTC)))
        except Refused as refusal:
            return _page(request, connection, someone, visit_id, fields.get("lang", ""), refusal.message, refusal.path, fields)
    return RedirectResponse(f"/visits/{visit_id}/options?lang={language_named(fields.get('lang', '')).code}#{where}", 303)


@router.post("")
def keep_option(request: Request, visit_id: UUID, fields: Fields = FORM) -> Response:
    """Add an option, change it, or take it out."""

    def change(connection: Connection, _: Someone, draft: Proposal) -> str:
        place = int(fields["place"]) if fields.get("place", "").isdecimal() else None
        if fields.get("drop") and place is not None:
            service.drop_option(connection, draft, place)
            return "build"
        lines = Option.model_validate(draft.options[place]).lines if place is not None and place < len(draft.options) else ()
        service.keep_option(connection, draft, place, service.option_from(fields, lines, _seer(fields)))
        return f"option-{len(draft.options) if place is None else place}"

    return _changing(request, visit_id, fields, change)


def _seer(fields: Mapping[str, str]) -> float | None:
    if not fields.get("new_seer", "").strip():
        return None
    try:
        value, unit = parse_number(fields["new_seer"])
    except Refused as refusal:
        raise Refused(f"SEER: {refusal.message}", "new_seer") from None
    if unit or not 5 <= value <= 40:
        raise Refused("SEER of a new unit lies between 5 and 40.", "new_seer")
    return value


@router.post("/lines")
def keep_line(request: Request, visit_id: UUID, fields: Fields = FORM) -> Response:
    """Add a line to an option, from the list or typed; or take one out."""

    def change(connection: Connection, someone: Someone, draft: Proposal) -> str:
        place = int(fields["place"]) if fields.get("place", "").isdecimal() else -1
        if fields.get("drop", "").isdecimal():
            service.drop_line(connection, draft, place, int(fields["drop"]))
        else:
            service.add_line(connection, draft, place, _line(connection, fields, place))
        return f"option-{place}"

    return _changing(request, visit_id, fields, change)


def _line(connection: Connection, fields: Mapping[str, str], place: int) -> OfferLine:
    try:
        thousandths = _thousandths(fields.get("quantity", "") or "1")
        if fields.get("price"):
            return service.line_from(connection, UUID(fields["price"]), thousandths)
        what = text_in(fields, "what", "What it is for", needed=True)
        sort = fields.get("sort", "")
        cents = cents_of(fields.get("cents", ""), shop_settings(connection).currency)
        found = OfferLine.model_validate(
            {
                "sort": sort or "other",
                "what": what,
                "per": fields.get("per") or "each",
                "thousandths": thousandths,
                "cents_each": cents,
            },
            strict=False,
        )
        _ = found.line.cents
        return found
    except ValidationError:
        raise Refused("Choose what sort of line it is, and for what its price is.", f"line-{place}") from None
    except Refused as refusal:
        raise Refused(refusal.message, f"line-{place}") from None
    except ValueError:
        raise Refused("Choose a price of the list.", f"line-{place}") from None


def _thousandths(text: str) -> int:
    value, unit = parse_number(text)
    if unit or not 0 < value <= 10_000:
        raise Refused("A quantity is a number above zero and up to 10,000, without a unit.", "quantity")
    return round(value * 1000)


@router.post("/offer")
def offer(request: Request, visit_id: UUID, fields: Fields = FORM) -> Response:
    """Offer the draft: from now on it stays as it is, and stands under the owner's link."""

    def change(connection: Connection, someone: Someone, draft: Proposal) -> str:
        service.offer(connection, someone, draft, load(connection, someone, visit_id), datetime.now(UTC))
        return "choice"

    return _changing(request, visit_id, fields, change)


@router.post("/decide")
def decide(request: Request, visit_id: UUID, fields: Fields = FORM) -> Response:
    """What the owner decides on the spot, on the technician's screen."""
    lang = fields.get("lang", "")
    with signed_in(request) as (connection, someone):
        trained(someone, "records what an owner decides")
        load(connection, someone, visit_id)
        language = language_named(lang)
        try:
            kept = service.decide(
                connection,
                someone.shop_id,
                visit_id,
                answer_of(fields),
                language.code,
                datetime.now(UTC),
                person_id=someone.person_id,
            )
        except (Refused, Changed) as refusal:
            name, where = ("changed", "chosen") if isinstance(refusal, Changed) else (refusal.message, refusal.path)
            return _page(
                request,
                connection,
                someone,
                visit_id,
                lang,
                fields=fields,
                problem=problem_words(name, language),
                problem_at=where,
            )
        audit.note(connection, someone, "decision_taken", f"by {kept.name}")
    return RedirectResponse(f"/visits/{visit_id}/options?lang={language.code}#choice", 303)


def answer_of(fields: Mapping[str, str]) -> Answer:
    """An answer as a form sends it; ids that cannot be are as good as none."""

    def ident(name: str) -> UUID | None:
        try:
            return UUID(fields.get(name, ""))
        except ValueError:
            return None

    return Answer(
        ident("decision_id") or uuid6.uuid7(),
        ident("proposal"),
        fields.get("chosen", ""),
        fields.get("name", ""),
        fields.get("signature", ""),
        fields.get("typed") == "yes",
        fields.get("read") == "yes",
        fields.get("words", ""),
    )
