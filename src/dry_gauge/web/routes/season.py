"""The season: what is due by month, neighbours without a plan, what to bring for the next calls."""

from __future__ import annotations

from datetime import UTC, datetime

from fastapi import APIRouter, Request, Response

from dry_gauge.core.local_time import local
from dry_gauge.service.season import season
from dry_gauge.web.render import page, reader_of
from dry_gauge.web.security import signed_in

router = APIRouter()


@router.get("/season")
def show_season(request: Request) -> Response:
    """The year ahead as it stands."""
    with signed_in(request) as (connection, someone):
        view = season(connection, reader_of(someone), local(datetime.now(UTC)))
        return page(request, "season.html", someone=someone, season=view)
