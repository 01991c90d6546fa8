"""One page a fault: what it is, how it shows, what it is mistaken for, and how the simulated units move with it."""

from __future__ import annotations

from fastapi import APIRouter, Request, Response

from dry_gauge.core.judgement.evidence import LIKELIHOODS
from dry_gauge.core.judgement.faults import FAULT_WORDS, FAULTS
from dry_gauge.core.vocabulary import Fault
from dry_gauge.web.drawings import SORTS, trends
from dry_gauge.web.render import page, reader_of
from dry_gauge.web.security import someone_or_nobody

router = APIRouter(prefix="/why")


@router.get("/{fault}")
def show_why(request: Request, fault: Fault, sort: str = "comfort_valve") -> Response:
    """A fault in plain words, with its trends on one sort of unit."""
    sort = sort if sort in SORTS else "comfort_valve"
    someone = someone_or_nobody(request)
    return page(
        request, "why.html", someone=someone, front_door=someone is None, fault=fault.value, words=FAULT_WORDS[fault],
        about=FAULTS[fault].page, likelihoods=LIKELIHOODS, sort=sort, sorts=SORTS,
        pictures=list(trends(fault, sort, reader_of(someone))),
    )  # fmt: skip
