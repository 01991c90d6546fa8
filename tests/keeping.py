"""One entry kept and judged at once, as a page would show it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from uuid import UUID

from sqlalchemy import Connection

from dry_gauge.notebook.kind import Body, Entry
from dry_gauge.present.visit import VisitView
from dry_gauge.service.append import Sent, append
from dry_gauge.service.notebooks import judged
from dry_gauge.store.people import Someone


@dataclass(frozen=True)
class Shown:
    """What became of an entry, and the visit after it."""

    entry: Entry
    view: VisitView
    repeated: bool
    late: bool
    taken_back: Entry | None


def keep_one(
    connection: Connection,
    someone: Someone,
    visit: UUID,
    entry_id: UUID,
    body: Body,
    now: datetime,
    device_time: datetime | None = None,
    waited: float = 0,
    sender: str = "",
) -> Shown:
    sent = Sent(entry_id, body, timedelta(seconds=waited), sender, device_time)
    appended, taken = append(connection, someone, visit, sent, now)
    return Shown(taken.entry, judged(appended.visit, appended.state, "common"), taken.repeated, taken.late, taken.taken_back)
