"""The survey of a change-out as sheets: for the supplier of the unit, and for who makes the adapter."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any
from uuid import UUID

from fastapi import APIRouter, Request, Response
from markupsafe import Markup

from dry_gauge.core.office.change_out import MARKS, said
from dry_gauge.drawing.adapter import adapter_svg
from dry_gauge.drawing.change_out import change_out_svg
from dry_gauge.notebook.subjects.change_out import Survey
from dry_gauge.present.scene import Scene
from dry_gauge.present.survey import SurveyView, survey
from dry_gauge.service.allowed import NotHere
from dry_gauge.service.notebooks import load
from dry_gauge.store.visits import find_unit
from dry_gauge.web.handed_out import pdf_file
from dry_gauge.web.paper import by_day, paper, press_of
from dry_gauge.web.render import reader_of
from dry_gauge.web.security import signed_in
from dry_gauge.web.stations.pictures import shown

router = APIRouter()
_STYLE = "../stations/survey/style.css"  # what the station shows is printed too


@router.get("/visits/{visit_id}/survey.pdf")
def send_survey(request: Request, visit_id: UUID) -> Response:
    """The sheet."""
    found, values = _measured(request, visit_id)
    assert found.there is not None
    assert found.change_out is not None
    drawn = change_out_svg(found.there.found, found.change_out.best, found.verdict, 560.0, "survey")
    return _sheet(request, "survey", "visits/survey_pdf.html", {**values, "plan": _styled(drawn)})


@router.get("/visits/{visit_id}/adapter.pdf")
def send_adapter(request: Request, visit_id: UUID) -> Response:
    """What the sheet-metal shop has to make, where the unit needs an adapter."""
    found, values = _measured(request, visit_id)
    if found.adapter is None:
        lacks = ", ".join(found.adapter_lacks)
        raise NotHere(f"Nobody can make an adapter without {lacks}." if lacks else "It needs no adapter the way it stands best.")
    plan = _styled(adapter_svg(found.adapter, 460.0, "adapter"))
    return _sheet(request, "adapter", "visits/adapter_pdf.html", {**values, "plan": plan, "said": said})


def _measured(request: Request, visit_id: UUID) -> tuple[SurveyView, dict[str, Any]]:
    """The survey, and what every sheet says of it.

    Raises
    ------
    NotHere
        Before both were measured.
    """
    with signed_in(request) as (connection, someone):
        now = someone.now()
        view = load(connection, someone, visit_id)
        unit = find_unit(connection, view.visit.unit_id)
    found, part = survey(Scene(view, reader_of(someone, view.facts), now)), view.state[Survey]
    if found.change_out is None or part.there is None:
        raise NotHere("Measure both first: what stands there, and what is to stand there.")
    return found, {
        **shown(found),
        "visit": view.visit,
        "unit": unit,
        "shop_name": someone.shop_name,
        "now": now,
        "measured": part.there.at,
        "GRADES": MARKS,
    }


def _styled(drawn: str) -> Markup:
    return Markup(drawn.replace("<title", f"<style>{by_day(_STYLE)}</style><title", 1))  # noqa: S704  our own drawing


def _sheet(request: Request, sort: str, template: str, values: Mapping[str, Any]) -> Response:
    visit = values["visit"]
    made = paper(press_of(request), template, values, "proof.css", _STYLE)
    return pdf_file(made, sort, visit.site_name, visit.tag)
