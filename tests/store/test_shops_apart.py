"""Row-level security: a query that forgets its filter sees one shop; and what the application may never do."""

from __future__ import annotations

from datetime import UTC, datetime

import pytest
import uuid6
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import insert, select, text
from sqlalchemy.exc import DBAPIError, ProgrammingError

from dry_gauge.demo.cluster import OWNER
from dry_gauge.notebook.subjects.remarks import NoteBody
from dry_gauge.service.allowed import NotHere
from dry_gauge.service.cylinders import ByHand, book_by_hand
from dry_gauge.service.notebooks import load
from dry_gauge.store import cylinders
from dry_gauge.store.database import WrongRole, check_role, connect
from dry_gauge.store.models import Base, CylinderRow, EntryRow, MovementRow, Person, Shop, Site, Unit, Visit
from tests.keeping import keep_one

TABLES = (Shop, Person, Site, Unit, Visit, EntryRow, CylinderRow, MovementRow)


@pytest.mark.parametrize("table", TABLES, ids=lambda table: table.__tablename__)
def test_a_query_without_a_filter_sees_its_own_shop_only(make_shop, as_shop, table):
    mine, other = make_shop(), make_shop()
    for shop in (mine, other):
        with as_shop(shop) as connection:
            keep_one(connection, shop.someone(), shop.visit, uuid6.uuid7(), NoteBody(text="seen"), datetime.now(UTC))
            blue = uuid6.uuid7()
            cylinders.add_cylinder(connection, shop_id=shop.id, id=blue, name="Blue", kind="in_use", refrigerant="R-410A")
            book_by_hand(connection, shop.someone(), blue, ByHand("bought", 9000), datetime.now(UTC))
    with as_shop(mine) as connection:
        key = table.id if table is Shop else table.shop_id
        assert set(connection.execute(select(key)).scalars()) == {mine.id}


@pytest.mark.parametrize("table", TABLES, ids=lambda table: table.__tablename__)
def test_without_a_shop_nothing_is_seen(shop, engine, table):
    with engine.begin() as connection:
        assert connection.execute(select(table.id)).all() == []


def test_a_row_of_another_shop_cannot_be_written(make_shop, as_shop):
    mine, other = make_shop(), make_shop()
    with pytest.raises(ProgrammingError, match="row-level security"), as_shop(mine) as connection:
        connection.execute(
            insert(Visit).values(
                shop_id=other.id,
                id=uuid6.uuid7(),
                call_id=uuid6.uuid7(),
                unit_id=other.unit,
                planned_for=datetime.now(UTC),
                technician_id=other.people["technician"],
            )
        )


def test_a_forged_id_of_another_shop_is_simply_not_there(make_shop, as_shop):
    mine, other = make_shop(), make_shop()
    with as_shop(mine) as connection:
        with pytest.raises(NotHere):
            load(connection, mine.someone(), other.visit)
        with pytest.raises(NotHere):
            keep_one(connection, mine.someone(), other.visit, uuid6.uuid7(), NoteBody(text="x"), datetime.now(UTC))


@pytest.mark.parametrize(
    "statement",
    [
        "UPDATE entry SET body = '{}'",
        "DELETE FROM entry",
        "SELECT * FROM web_session",
        "UPDATE person SET role = 'lead'",
        "UPDATE person SET password_hash = ''",
        "DELETE FROM visit",
        "TRUNCATE entry",
        "UPDATE movement SET grams = 1",
        "DELETE FROM movement",
        "DELETE FROM cylinder",
    ],
)
def test_what_the_application_may_not_do_the_database_refuses(shop, as_shop, statement):
    with pytest.raises(DBAPIError, match="permission denied"), as_shop(shop) as connection:
        connection.execute(text(statement))


def test_the_owner_is_refused_as_application(cluster):
    engine = connect(cluster.url(OWNER), pool_size=1)
    with pytest.raises(WrongRole, match="owns the tables"):
        check_role(engine)
    engine.dispose()


def written_here(name, kind, _):
    """The days of samples are made as they come."""
    return not (kind == "table" and name.startswith("sample"))


def test_models_and_migrations_say_the_same(owner):
    with owner.connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection, opts={"include_name": written_here}), Base.metadata) == []
