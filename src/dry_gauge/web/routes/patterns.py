"""Pattern pages, in development only: what a station shows, part by part, with made-up data."""

from __future__ import annotations

from fastapi import APIRouter, HTTPException, Request, Response

from dry_gauge.web.patterns import STATES, pattern
from dry_gauge.web.render import page
from dry_gauge.web.stations import BY_NAME
from dry_gauge.web.visit_page import page_values

router = APIRouter(prefix="/-/patterns")


@router.get("/")
def list_patterns(request: Request) -> Response:
    """Every station in every state."""
    return page(request, "patterns/index.html", stations=BY_NAME, states=list(STATES))


@router.get("/{station}/{state}")
def show_pattern(request: Request, station: str, state: str) -> Response:
    """One station's parts."""
    if station not in BY_NAME or state not in STATES:
        raise HTTPException(404)
    shows = pattern(BY_NAME[station], state)
    found = shows.station
    parts = dict.fromkeys((found.panel, found.picture, found.side, "visits/_dock.html", "visits/_stations.html"))
    return page(request, "patterns/show.html", someone=shows.someone, parts=list(parts), state=state, **page_values(shows))
