"""What a page says of itself when it sends or asks: where it stands, what it shows, how long something waited."""

from __future__ import annotations

import re
from datetime import datetime, timedelta

from fastapi import Request

from dry_gauge.notebook.state import LONGEST_WAIT

MOST_CIRCUITS = 8
_FIRST_YEAR, _LAST_YEAR = 1990, 2190  # what migration 0006 holds the table to
_SENDER = re.compile(r"[0-9a-zA-Z-]{1,40}")


def shown_circuit(number: int) -> int:
    """A circuit that a unit may have."""
    return min(max(number, 1), MOST_CIRCUITS)


def circuit_asked(request: Request) -> int:
    """The circuit whose ladder this page shows."""
    number = request.headers.get("x-circuit", "")
    return shown_circuit(int(number)) if number.isdecimal() and len(number) < 4 else 1


def station_asked(request: Request) -> str:
    """The station whose page asks."""
    return request.headers.get("x-station", "")


def seen_until(request: Request) -> int | None:
    """Highest sequence that this page shows; None if it shows none or does not say."""
    seen = request.headers.get("x-seen", "")
    return (int(seen) if seen.isdecimal() and len(seen) < 10 else 0) or None


def page_size(request: Request) -> str | None:
    """The one size this page shows; both if it does not say."""
    return size_named(request.headers.get("x-page", ""))


def size_named(size: str) -> str | None:
    """``desk`` or ``phone``; None for anything else."""
    return size if size in ("desk", "phone") else None


def device_time(request: Request) -> datetime | None:
    """The sender's own clock, if it says: kept beside the server's time, never used for the order."""
    try:
        return possible(datetime.fromisoformat(request.headers.get("x-device-time", "")))
    except ValueError:
        return None


def possible(moment: datetime | None) -> datetime | None:
    """A moment that a device's clock may show and a database gives back; nothing for any other."""
    known = moment is not None and moment.tzinfo is not None and _FIRST_YEAR <= moment.year <= _LAST_YEAR
    return moment if known else None


def waited(request: Request) -> timedelta:
    """How long an entry waited for a connection, by the difference of the sender's clock with itself.

    Pages send milliseconds; those of before sent whole seconds.
    """
    for header, unit in (("x-waited-ms", timedelta(milliseconds=1)), ("x-waited", timedelta(seconds=1))):
        number = request.headers.get(header, "")
        if number.isdecimal() and len(number) < 14:
            return min(int(number) * unit, LONGEST_WAIT)
    return timedelta(0)


def sender_named(sender: str) -> str:
    """Which browser sends, if it has a name: what it sends stays in its own order."""
    return sender if _SENDER.fullmatch(sender) else ""


def sender_of(request: Request) -> str:
    """The browser that sends this."""
    return sender_named(request.headers.get("x-sender", ""))
