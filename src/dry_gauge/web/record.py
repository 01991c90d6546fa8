"""A visit's record for the office, in the words of the trade: every number, every cause weighed, every entry. Page and PDF."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from math import ceil
from typing import Any

from sqlalchemy import Connection

from dry_gauge.core.judgement.assess import RULE_SET, CircuitAssessment
from dry_gauge.core.vocabulary import QUANTITIES
from dry_gauge.core.words import Reader
from dry_gauge.notebook.kind import in_time
from dry_gauge.notebook.subjects.readings import Readings, is_of_other_mode
from dry_gauge.notebook.subjects.remarks import Remarks
from dry_gauge.present.closing import outline_of
from dry_gauge.present.proof import Final, finals, finals_otherwise
from dry_gauge.present.time_spent import time_on, time_said
from dry_gauge.present.visit import VisitView
from dry_gauge.service.apart import Apart
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import find_unit, moments_of, people_of_visit, record_lines
from dry_gauge.web.paper import paper
from dry_gauge.web.timeline import told_to

PART = 400
"""Entries that stand in one part: a record of any length comes in parts, each set in a few seconds (measured: about 8)."""
_CAUSES = 4


@dataclass(frozen=True, slots=True)
class Judged:
    """One circuit as it was judged last."""

    number: int
    circuit: CircuitAssessment
    gaps: list[Final]
    otherwise: list[Final]


def record_values(
    connection: Connection, view: VisitView, someone: Someone, reader: Reader, part: int, now: datetime
) -> dict[str, Any]:
    """Everything that one part of the record shows; the first also holds what all entries add up to.

    Parameters
    ----------
    part : int
        From 1; beyond the last it is the last.
    """
    parts = max(1, ceil(view.state.entries / PART))
    part = min(max(part, 1), parts)
    rows = record_lines(connection, view.visit.id, skip=(part - 1) * PART, rows=PART)
    readings = view.state[Readings]
    circuits = view.assessment.circuits if view.assessment and readings.latest else {}
    return {
        "view": view,
        "visit": view.visit,
        "unit": find_unit(connection, view.visit.unit_id),
        "units": reader,
        "now": now,
        "people": people_of_visit(connection, view.visit.id) or [view.visit.technician],
        "shop_name": someone.shop_name,
        "QUANTITIES": QUANTITIES,
        "RULE_SET": RULE_SET,
        "part": part,
        "parts": parts,
        "outline": outline_of(view, reader),
        "judged": [
            Judged(number, circuit, finals(view, reader, number), finals_otherwise(view, reader, number))
            for number, circuit in circuits.items()
        ],
        "read_now": [one for one in in_time(readings.latest.values()) if not is_of_other_mode(view.state, one)],
        "read_otherwise": [
            one for one in in_time((*readings.latest.values(), *readings.otherwise.values())) if is_of_other_mode(view.state, one)
        ],
        "read_before": in_time(readings.before.values()),
        "CAUSES_SHOWN": _CAUSES,
        "photos": [
            (one, ": ".join(filter(None, told_to(one.body, view, reader))))
            for one in in_time(view.state[Remarks].photos.values())
        ],
        "time": time_said(time_on(view, moments_of(connection, view.visit.id))),
        "record_rows": [(row, told_to(row.entry.body, view, reader)) for row in rows],
    }


def record_pdf(press: Apart, values: Mapping[str, Any]) -> bytes:
    """One part of the record as PDF."""
    return paper(press, "visits/record_pdf.html", values, "proof.css")
