"""Time that passes in a test: everything a visit holds is moved back, as if it had been written that much earlier."""

from __future__ import annotations

from datetime import timedelta
from uuid import UUID

from sqlalchemy import Engine, text

_MOVED = (
    "UPDATE entry SET received_at = received_at - :by, written_at = written_at - :by, device_time = device_time - :by "
    "WHERE visit_id = :visit",
    "UPDATE sample SET at = at - :by WHERE visit_id = :visit",
    "UPDATE movement SET at = at - :by WHERE visit_id = :visit",
)


def let_pass(owner: Engine, visit: UUID, *, minutes: float = 0.0, hours: float = 0.0) -> None:
    """Let so much time pass on one visit; its state is folded again when it is next touched."""
    by = timedelta(minutes=minutes, hours=hours)
    with owner.begin() as connection:
        for statement in _MOVED:
            connection.execute(text(statement), {"by": by, "visit": visit})
        connection.execute(text("UPDATE visit SET fold_version = 0 WHERE id = :visit"), {"visit": visit})
