"""The notice that goes with a red tag: what is not safe, that it stays off, and who was told."""

from __future__ import annotations

from uuid import UUID

from fastapi import APIRouter, Request, Response
from markupsafe import Markup

from dry_gauge.core.errors import Refused
from dry_gauge.core.local_time import local
from dry_gauge.core.office.signature import signature_of
from dry_gauge.drawing.signed import signed_svg
from dry_gauge.exchange.language import language_named
from dry_gauge.notebook.kind import in_time
from dry_gauge.notebook.subjects.ledger import Ledger, RedTagBody
from dry_gauge.service.allowed import NotHere
from dry_gauge.service.notebooks import load
from dry_gauge.store.visits import find_unit, people_of_visit
from dry_gauge.web.handed_out import pdf_file
from dry_gauge.web.owner_page import styled
from dry_gauge.web.paper import paper, press_of
from dry_gauge.web.security import signed_in

router = APIRouter()


@router.get("/visits/{visit_id}/red-tag.pdf")
def send_notice(request: Request, visit_id: UUID, lang: str = "") -> Response:
    """The notice, a page for each tag."""
    language = language_named(lang)
    with signed_in(request) as (connection, someone):
        view = load(connection, someone, visit_id)
        unit = find_unit(connection, view.visit.unit_id)
        people = people_of_visit(connection, visit_id)
    tags = in_time(view.state[Ledger].red_tags.values())
    if not tags:
        raise NotHere("There is no red tag on this visit.")
    values = {
        "tags": [(tag, _signature(tag.body, i)) for i, tag in enumerate(tags)],
        "say": language.say,
        "lang": language.code,
        "visit": view.visit,
        "unit": unit,
        "people": people,
        "shop_name": someone.shop_name,
        "day_of": lambda moment: language.day(local(moment)),
    }
    made = paper(press_of(request), "owner/red_tag_pdf.html", values, "owner.css", "proof.css")
    return pdf_file(made, "red tag", view.visit.site_name, view.visit.tag)


def _signature(body: RedTagBody, place: int) -> Markup:
    try:
        signature = signature_of(body.signature, typed=not body.signature)
    except Refused:  # of an earlier form
        return Markup("")
    return styled(signed_svg(signature, body.told, f"signed-{place}"))
