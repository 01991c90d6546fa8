"""The refrigerant book as CSV, for an authority, an auditor or a spreadsheet: every movement, and a year's sums."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime
from typing import Protocol
from uuid import UUID

from dry_gauge.core.charge.cylinders import Account, Movement, YearBook
from dry_gauge.core.quantities import POUND_KG
from dry_gauge.exchange.sheets_csv import cell, table_text

_GRAMS_PER_POUND = POUND_KG * 1000
_MOVEMENT_COLUMNS = (
    "at",
    "refrigerant",
    "grams",
    "pounds",
    "from",
    "to",
    "site",
    "unit",
    "way",
    "reason",
    "person",
    "taken_back_at",
    "movement_id",
    "visit_id",
)
_YEAR_COLUMNS = (
    "refrigerant",
    "opening_g",
    "bought_g",
    "recovered_g",
    "charged_g",
    "reclaimed_g",
    "lost_g",
    "counted_g",
    "closing_g",
    "adds_up",
)


class BookLine(Protocol):
    """One movement with the names an outsider needs."""

    @property
    def id(self) -> UUID: ...
    @property
    def at(self) -> datetime: ...
    @property
    def movement(self) -> Movement: ...
    @property
    def way(self) -> str: ...
    @property
    def reason(self) -> str: ...
    @property
    def person(self) -> str: ...
    @property
    def tag(self) -> str: ...
    @property
    def site_name(self) -> str: ...
    @property
    def from_cylinder(self) -> str: ...
    @property
    def to_cylinder(self) -> str: ...
    @property
    def visit_id(self) -> UUID | None: ...
    @property
    def taken_back_at(self) -> datetime | None: ...


def movements_csv(lines: Iterable[BookLine]) -> str:
    """Every movement, what was taken back among it; grams are whole, pounds are the same weight in decimals."""
    rows = []
    for line in lines:
        moved = line.movement
        rows.append(
            (
                line.at.isoformat(timespec="seconds"),
                moved.refrigerant,
                moved.grams,
                f"{moved.grams / _GRAMS_PER_POUND:.3f}",
                _place(moved.origin, line.from_cylinder),
                _place(moved.goal, line.to_cylinder),
                cell(line.site_name),
                cell(line.tag),
                line.way,
                cell(line.reason),
                cell(line.person),
                line.taken_back_at.isoformat(timespec="seconds") if line.taken_back_at else "",
                line.id,
                line.visit_id or "",
            )
        )
    return table_text(_MOVEMENT_COLUMNS, rows)


def year_csv(books: Iterable[YearBook]) -> str:
    """A year's sums by refrigerant, grams."""
    rows = [
        (
            one.refrigerant,
            one.opening,
            one.bought,
            one.recovered,
            one.charged,
            one.reclaimed,
            one.lost,
            one.counted,
            one.closing,
            "yes" if one.adds_up else "no",
        )
        for one in books
    ]
    return table_text(_YEAR_COLUMNS, rows)


def _place(place: Account, cylinder: str) -> str:
    return cell(cylinder) if place is Account.CYLINDER else place.value
