"""The root of all tables, and how they hang on each other."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKeyConstraint
from sqlalchemy.dialects.postgresql import JSONB, TIMESTAMP
from sqlalchemy.orm import DeclarativeBase


class Base(DeclarativeBase):
    """Moments are with time zone, dictionaries are JSON."""

    type_annotation_map = {datetime: TIMESTAMP(timezone=True), dict[str, Any]: JSONB}  # noqa: RUF012


def in_shop(*columns: str, table: str) -> ForeignKeyConstraint:
    """A key into another table of the same shop."""
    return ForeignKeyConstraint(["shop_id", *columns], [f"{table}.shop_id", f"{table}.id"])
