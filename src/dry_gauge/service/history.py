"""What is known of a unit before anyone arrives: past visits, the last readings, what was left, who changed its card."""

from __future__ import annotations

from uuid import UUID

from sqlalchemy import Connection

from dry_gauge.notebook.subjects.readings import Readings
from dry_gauge.present.scene import CardHistory, History
from dry_gauge.service.notebooks import view_of
from dry_gauge.store import register, visits
from dry_gauge.store.follow_ups import open_follow_ups
from dry_gauge.store.parts import waiting_parts
from dry_gauge.store.people import Someone
from dry_gauge.store.planning import said_later


def card_history(connection: Connection, unit_id: UUID) -> CardHistory:
    """What stands beside one unit card."""
    return CardHistory(
        open_follow_ups(connection, unit_id),
        register.components_of(connection, unit_id),
        register.changes_of(connection, unit_id),
        waiting_parts(connection, unit_id),
        said_later(connection, unit_id),
    )


def history_of(connection: Connection, someone: Someone, unit_id: UUID, but: UUID, limit: int = 6) -> History:
    """The past of one unit.

    Parameters
    ----------
    but : UUID
        The visit under way, which is no past.
    """
    rows = [row for row in visits.visits_of_unit(connection, unit_id, limit + 1) if row.id != but][:limit]
    views = [view_of(connection, row, someone.superheat_school) for row in rows]
    closed = (view for view in views if view.visit.status == "closed" and view.assessment and view.state[Readings].latest)
    return History(views, next(closed, None), card_history(connection, unit_id))
