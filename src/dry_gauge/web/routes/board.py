"""The board: today's calls in order, and what is still open from before."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from fastapi import APIRouter, Request, Response
from markupsafe import Markup

from dry_gauge.core.local_time import day_of, local
from dry_gauge.core.office.hours import bounds
from dry_gauge.core.words import Reader
from dry_gauge.present.headline import Headline
from dry_gauge.present.underway import in_short
from dry_gauge.present.visit import VisitRow, VisitView
from dry_gauge.service.notebooks import view_of
from dry_gauge.service.opening import Next, next_visits
from dry_gauge.store.follow_ups import open_follow_ups
from dry_gauge.store.people import Someone
from dry_gauge.store.proposals import decided_since, undecided
from dry_gauge.store.visits import all_units, closed_with_something_open, open_visits_before, visits_between
from dry_gauge.web.drawings import fingerprint
from dry_gauge.web.render import page, reader_of
from dry_gauge.web.security import signed_in
from dry_gauge.web.visit_page import pages_before, pages_of

router = APIRouter()

_DECIDED_FOR = timedelta(days=3)
_MOST_LEFT_OPEN = 3  # each is ten pages to fetch


@dataclass(frozen=True, slots=True)
class Call:
    """One call on the board."""

    visit: VisitRow
    headline: Headline
    drawing: Markup
    entries: int
    complaint: str


def call_of(view: VisitView, someone: Someone, *, width: int = 150, height: int = 200) -> Call:
    """A visit in small: its verdict and its fingerprint."""
    visit = view.visit
    circuit, words = in_short(view, reader_of(someone, view.facts))
    empty = circuit is None or not circuit.view.measured
    title = f"{visit.site_name}, {visit.tag}"
    drawing = fingerprint(None if empty else circuit, title, visit.id, width=width, height=height, past=visit.status == "closed")
    return Call(visit, words, drawing, view.state.entries, view.complaint)


def _ahead(
    today: Sequence[VisitView], left_open: Sequence[VisitView], following: Collection[Next], someone: Someone
) -> list[str]:
    """Pages that are kept before there is no signal: of somebody's own calls that are not closed, and to begin one more there."""
    calls = [*_own(today, someone), *_own(left_open, someone)[:_MOST_LEFT_OPEN]]
    pages = ["/sheet", *(address for view in calls for address in pages_of(view))]
    return [*pages, "/here", *(address for visit in following for address in pages_before(visit))] if following else pages


def _own(views: Sequence[VisitView], someone: Someone) -> list[VisitView]:
    return [view for view in views if view.visit.status != "closed" and _goes_there(someone, view.visit)]


def _goes_there(someone: Someone, visit: VisitRow) -> bool:
    return visit.technician_id == someone.person_id or visit.along == someone.name


@router.get("/")
def show_board(request: Request) -> Response:
    """Today as it stands."""
    with signed_in(request) as (connection, someone):
        now = local(datetime.now(UTC))
        midnight, next_midnight = bounds(day_of(now))
        today = visits_between(connection, midnight, next_midnight)
        views = [view_of(connection, visit, someone.superheat_school) for visit in today]
        calls = [call_of(view, someone) for view in views]
        left_open = [view_of(connection, visit, someone.superheat_school) for visit in open_visits_before(connection, midnight)]
        earlier = [call_of(view, someone, width=132, height=64) for view in left_open]
        left = open_follow_ups(connection, most=12)
        units = all_units(connection)
        counts = {status: sum(call.visit.status == status for call in calls) for status in ("closed", "open", "planned")}
        return page(
            request,
            "board.html",
            someone=someone,
            today=now,
            calls=calls,
            earlier=earlier,
            counts=counts,
            units=units,
            left=left,
            day=day_of(now),
            opened_after=closed_with_something_open(connection),
            decided=decided_since(connection, midnight - _DECIDED_FOR),
            undecided=undecided(connection),
            ahead=_ahead(views, left_open, next_visits(connection, someone).values(), someone),
            ticks=[f"{Reader(someone.temperature_unit).temperature(k):.0f}" for k in AXIS_K],
        )


# Where the fingerprints' grid lines stand, top first. [K]
AXIS_K = [(f + 459.67) / 1.8 for f in (120, 100, 80, 60, 40, 20, 0)]
