"""One sheet: readings of one unit typed by anyone, ladder and judgement beside them. No sign-in, nothing kept."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any
from urllib.parse import urlencode

from fastapi import APIRouter, Request, Response
from markupsafe import Markup

from dry_gauge.core.judgement.checks import UNIT_STANDS
from dry_gauge.core.judgement.stops import STOPS
from dry_gauge.core.refrigerants.catalogue import CATALOGUE
from dry_gauge.core.roles import sight_at
from dry_gauge.drawing.geometry import DESK, PHONE
from dry_gauge.drawing.ladder import ladder_svg
from dry_gauge.present.headline import headline
from dry_gauge.present.judge import likelihood_words
from dry_gauge.service.sign_in import within_rate
from dry_gauge.web.asked import page_size
from dry_gauge.web.one_sheet import LOOKED, empty_circuit, judged, typed_sheet, units_asked
from dry_gauge.web.render import fragments, page, reader_of, wants_fragments
from dry_gauge.web.security import engine_of, someone_or_nobody

router = APIRouter()


@router.get("/sheet")
def show_sheet(request: Request) -> Response:
    """The sheet and its answer; while typing only the answer is sent. The address holds all that was typed."""
    someone = someone_or_nobody(request)
    base = reader_of(someone)
    asked = {name: value for name, value in request.query_params.items() if len(value) <= 200}
    reader = units_asked(asked, base)
    typed = typed_sheet(asked, reader)
    address = request.client.host if request.client else "unknown"
    per_minute = request.app.state.settings.api_calls_per_minute
    many = any(row.value for row in typed.rows) and not within_rate(engine_of(request), f"sheet {address}", per_minute * 3)
    circuit, typed, refused = (None, typed, "Many sheets from here in a minute: wait a little.") if many else judged(typed)
    drawn = circuit or (None if refused else empty_circuit(typed))
    drawings = (
        {}
        if drawn is None
        else {
            size: Markup(ladder_svg(drawn, reader, geometry, f"ladder-{size}"))  # noqa: S704  (our own drawing)
            for size, geometry in (("desk", DESK), ("phone", PHONE))
            if page_size(request) in (None, size)
        }
    )
    values: dict[str, Any] = {
        "typed": typed,
        "judged": circuit,
        "refused": refused,
        "units": reader,
        "drawings": drawings,
        "headline": headline(circuit, reader) if circuit else None,
        "STOPS": STOPS,
        "UNIT_STANDS": UNIT_STANDS,
        "likelihood": likelihood_words,
        "signed_in": someone is not None,
        "keeps": _keeps(asked) if someone is None or someone.may_write else "",
    }
    if wants_fragments(request):
        return fragments(request, ("sheet_answer.html", values))
    return page(
        request,
        "sheet.html",
        someone=someone,
        front_door=someone is None,
        catalogue=CATALOGUE,
        looked=[(what, sight_at(what, typed.facts)) for what in LOOKED],
        **values,
    )


def _keeps(asked: Mapping[str, str]) -> str:
    """The address under which a visit begins with what was typed."""
    return "/here?" + urlencode({"sheet": urlencode({name: value for name, value in asked.items() if value})})
