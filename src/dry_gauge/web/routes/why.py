"""What teaches: cards of steps with consequence, and a page for each fault with how the simulated units move with it."""

from __future__ import annotations

from fastapi import APIRouter, Request, Response

from dry_gauge.core.judgement.evidence import LIKELIHOODS
from dry_gauge.core.judgement.faults import FAULT_WORDS, FAULTS
from dry_gauge.core.visit.cautions import DEFERS
from dry_gauge.core.visit.teach import CARDS, LIMIT_WORDS, limits_of
from dry_gauge.core.vocabulary import Fault
from dry_gauge.service.settings import shop_settings
from dry_gauge.web.drawings import SORTS, trends
from dry_gauge.web.render import page, reader_of
from dry_gauge.web.security import signed_in, someone_or_nobody

router = APIRouter()


@router.get("/teach")
def show_teach_cards(request: Request) -> Response:
    """Steps with consequence, and how far a helper goes in this shop."""
    with signed_in(request) as (connection, someone):
        return page(
            request,
            "teach.html",
            someone=someone,
            CARDS=CARDS,
            LIMITS=LIMIT_WORDS,
            defers=DEFERS,
            limits=limits_of(shop_settings(connection).helper_limits),
        )


@router.get("/why/{fault}")
def show_why(request: Request, fault: Fault, sort: str = "comfort_valve") -> Response:
    """A fault in plain words, with its trends on one sort of unit."""
    sort = sort if sort in SORTS else "comfort_valve"
    someone = someone_or_nobody(request)
    return page(
        request,
        "why.html",
        someone=someone,
        front_door=someone is None,
        fault=fault.value,
        words=FAULT_WORDS[fault],
        about=FAULTS[fault].page,
        likelihoods=LIKELIHOODS,
        sort=sort,
        sorts=SORTS,
        pictures=list(trends(fault, sort, reader_of(someone))),
    )
