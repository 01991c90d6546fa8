"""Which day it is for the shop that is served."""

from __future__ import annotations

from datetime import UTC, date, datetime

from dry_gauge.core.local_time import day_of


def today_here() -> date:
    """The shop's day by the server's clock."""
    return day_of(datetime.now(UTC))
