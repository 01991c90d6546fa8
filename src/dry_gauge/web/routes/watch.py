"""Units to look at first."""

from __future__ import annotations

from datetime import UTC, datetime

from fastapi import APIRouter, Request, Response
from markupsafe import Markup

from dry_gauge.core.local_time import local
from dry_gauge.core.office.watch import LEAST_DRIFT_K, Urgency
from dry_gauge.drawing.drift import drift_svg
from dry_gauge.service.watch import Watched, watched
from dry_gauge.web.render import page, reader_of
from dry_gauge.web.security import signed_in

router = APIRouter()

_TITLES = {
    Urgency.LEAKS_OVER: "Leaks over the line",
    Urgency.CAME_BACK: "Came back",
    Urgency.NOT_FIXED: "Not fixed",
    Urgency.REPEATS: "Repeats",
    Urgency.DRIFTS: "Drifts",
    Urgency.LEAKS: "Leaks",
    Urgency.OVERDUE: "Overdue",
    Urgency.OLD: "Old",
}


@router.get("/watch")
def show_watch(request: Request) -> Response:
    """Every unit that something speaks for, the most urgent first."""
    with signed_in(request) as (connection, someone):
        units = watched(connection, reader_of(someone), local(datetime.now(UTC)))
        groups = [(title, [unit for unit in units if unit.urgency is urgency]) for urgency, title in _TITLES.items()]
        return page(
            request,
            "watch.html",
            someone=someone,
            groups=[(title, group) for title, group in groups if group],
            drawings={unit.unit_id: _drawing(unit) for unit in units if unit.drift},
            count=len(units),
            least_drift_k=LEAST_DRIFT_K,
        )


def _drawing(unit: Watched) -> Markup:
    drift = unit.drift
    assert drift is not None
    drawn = drift_svg(drift.label, drift.words, drift.days, drift.own_k, drift.line_k, f"drift-{unit.unit_id}")
    return Markup(drawn)  # noqa: S704
