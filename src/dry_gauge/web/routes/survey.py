"""The survey of a change-out as a sheet for the supplier."""

from __future__ import annotations

import re
from datetime import UTC, datetime
from uuid import UUID

from fastapi import APIRouter, Request, Response
from markupsafe import Markup

from dry_gauge.core.office.change_out import MARKS
from dry_gauge.drawing.change_out import change_out_svg
from dry_gauge.notebook.subjects.change_out import Survey
from dry_gauge.present.scene import Scene
from dry_gauge.present.survey import survey
from dry_gauge.service.allowed import NotHere
from dry_gauge.service.notebooks import load
from dry_gauge.store.visits import find_unit
from dry_gauge.web.paper import by_day, paper, press_of
from dry_gauge.web.render import reader_of
from dry_gauge.web.security import signed_in
from dry_gauge.web.stations.pictures import shown

router = APIRouter()


@router.get("/visits/{visit_id}/survey.pdf")
def send_survey(request: Request, visit_id: UUID) -> Response:
    """The sheet."""
    now = datetime.now(UTC)
    with signed_in(request) as (connection, someone):
        view = load(connection, someone, visit_id)
        unit = find_unit(connection, view.visit.unit_id)
    found, part = survey(Scene(view, reader_of(someone, view.facts), now)), view.state[Survey]
    if found.change_out is None or found.there is None or part.there is None:
        raise NotHere("Measure both first: what stands there, and what is to stand there.")
    drawn = change_out_svg(found.there.found, found.change_out.best, found.verdict, 560.0, "survey")
    plan = Markup(drawn.replace("<title", f"<style>{by_day('survey.css')}</style><title", 1))  # noqa: S704  our own drawing
    values = {**shown(found), "plan": plan, "visit": view.visit, "unit": unit, "shop_name": someone.shop_name, "now": now,
              "measured": part.there.at, "GRADES": MARKS}  # fmt: skip
    name = re.sub(r"[^a-z0-9]+", "-", f"survey {view.visit.site_name} {view.visit.tag}".lower()).strip("-")
    made = paper(press_of(request), "visits/survey_pdf.html", values, "proof.css", "survey.css")
    return Response(made, media_type="application/pdf", headers={"content-disposition": f'inline; filename="{name}.pdf"'})
