"""A row under the id that its form brought along: a form that was sent twice makes one."""

from __future__ import annotations

from typing import Any

from sqlalchemy import Connection, literal_column
from sqlalchemy.dialects.postgresql import insert

from dry_gauge.store.models import Base


def add_once(connection: Connection, kind: type[Base], /, **values: Any) -> bool:
    """Keep a row of a shop; False where it was kept before."""
    added = insert(kind).values(values).on_conflict_do_nothing(index_elements=["shop_id", "id"])
    return connection.execute(added.returning(literal_column("1"))).first() is not None
