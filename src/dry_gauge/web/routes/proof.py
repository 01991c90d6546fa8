"""The proof sheet of a visit: on the screen, and as PDF."""

from __future__ import annotations

from uuid import UUID

from fastapi import APIRouter, Request, Response

from dry_gauge.core.local_time import local
from dry_gauge.service.notebooks import load
from dry_gauge.web.handed_out import pdf_file
from dry_gauge.web.paper import press_of
from dry_gauge.web.proof import proof_pdf, proof_values
from dry_gauge.web.render import page, reader_of
from dry_gauge.web.security import signed_in

router = APIRouter(prefix="/visits/{visit_id}")


@router.get("/proof")
def show_proof(request: Request, visit_id: UUID) -> Response:
    """The sheet."""
    with signed_in(request) as (connection, someone):
        view = load(connection, someone, visit_id)
        values = proof_values(connection, view, someone, reader_of(someone, view.facts), someone.now())
        return page(request, "visits/proof.html", someone=someone, **values)


@router.get("/proof.pdf")
def send_proof(request: Request, visit_id: UUID) -> Response:
    """The sheet to hand on."""
    with signed_in(request) as (connection, someone):
        view = load(connection, someone, visit_id)
        values = proof_values(connection, view, someone, reader_of(someone, view.facts), someone.now())
    day = local(view.visit.planned_for)
    return pdf_file(proof_pdf(press_of(request), values), "proof", view.visit.site_name, view.visit.tag, f"{day:%Y-%m-%d}")
