"""What a shop sets for itself: how leaks are counted, recovery vacuums, end points, prices. A lead changes it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from datetime import UTC, datetime

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from sqlalchemy import Connection

from dry_gauge.core.charge.leak_rate import Method
from dry_gauge.core.errors import Refused
from dry_gauge.core.local_time import zones
from dry_gauge.core.office.replacement import ShareSchool
from dry_gauge.core.sealed.vacuum import END_POINTS
from dry_gauge.core.visit.teach import CARDS, LIMIT_WORDS
from dry_gauge.service.allowed import NotAllowed
from dry_gauge.service.settings import keep_settings, shop_settings
from dry_gauge.store.people import Someone
from dry_gauge.web.fields import FORM, Fields
from dry_gauge.web.render import page, reader_of
from dry_gauge.web.security import signed_in
from dry_gauge.web.settings_form import VACUUM_WORDS, settings_in, settings_shown

router = APIRouter(prefix="/register/settings")

_METHOD_WORDS = {Method.ANNUALISING: "each addition, made a year's", Method.ROLLING: "the last twelve months"}
_SHARE_WORDS = {ShareSchool.HALF: "half of a new unit's price", ShareSchool.TWO_THIRDS: "two thirds of a new unit's price"}


def _page(
    request: Request,
    connection: Connection,
    someone: Someone,
    fields: Mapping[str, str] | None = None,
    problem: Refused | None = None,
) -> Response:
    shown = fields or settings_shown(shop_settings(connection), reader_of(someone))
    return page(
        request,
        "register/settings.html",
        status=422 if problem else 200,
        someone=someone,
        fields=defaultdict(str, shown),
        error=problem.message if problem else "",
        error_at=problem.path if problem else "",
        METHODS=_METHOD_WORDS,
        SCHOOLS_OF_VACUUM=[(name, f"{name}: {point.words}") for name, point in END_POINTS.items()],
        ZONES=[("", "that of the server"), *((name, name.replace("_", " ")) for name in zones())],
        now=datetime.now(UTC),
        VACUUM=VACUUM_WORDS[someone.pressure_unit],
        metric=someone.weight_unit == "kg",
        SHARES=_SHARE_WORDS.items(),
        CARDS=CARDS,
        LIMITS=LIMIT_WORDS,
    )


@router.get("")
def show_settings(request: Request) -> Response:
    """The shop's settings."""
    with signed_in(request) as (connection, someone):
        return _page(request, connection, someone)


@router.post("")
def change_settings(request: Request, fields: Fields = FORM) -> Response:
    """A lead sets them anew."""
    with signed_in(request) as (connection, someone):
        if someone.role != "lead":
            raise NotAllowed("Only a lead changes the shop's settings.")
        try:
            keep_settings(connection, someone, settings_in(fields, shop_settings(connection), reader_of(someone)))
        except Refused as refusal:
            return _page(request, connection, someone, fields, refusal)
    return RedirectResponse("/register/settings", 303)
