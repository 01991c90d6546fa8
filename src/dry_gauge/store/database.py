"""The one door to PostgreSQL: engines, migrations, and the check that the application's role cannot see too much."""

from __future__ import annotations

from pathlib import Path
from time import monotonic
from typing import Any
from uuid import UUID

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import URL, Connection, Engine, create_engine, event, make_url, text
from sqlalchemy.exc import DisconnectionError

MIGRATIONS = Path(__file__).parent / "migrations"


class WrongRole(RuntimeError):
    """The application was given a database role that row-level security does not bind."""


# What answers people gives up: a server that does not answer, a statement that runs away, a row that somebody holds, a
# transaction that was left lying. A free connection is waited for as long as a person would.
_CONNECT_SECONDS, _POOL_SECONDS = 5, 8
# A server that vanished without a word, its power or its line gone, is noticed within half a minute.
_ALIVE = {"keepalives_idle": 10, "keepalives_interval": 5, "keepalives_count": 3, "tcp_user_timeout": 25_000}
_LIMITS = "-c statement_timeout=30s -c lock_timeout=5s -c idle_in_transaction_session_timeout=60s"


def _address(url: str) -> URL:
    return make_url(url).set(drivername="postgresql+psycopg")


def connection_arguments(url: str) -> dict[str, Any]:
    """The same address for what speaks to the driver itself; several hosts with ports among them."""
    address = _address(url)
    named = address.get_dialect()().create_connect_args(address)[1]
    return {key: value for key, value in named.items() if key != "context"} | _ALIVE


def connect(url: str, *, pool_size: int = 10, patient: bool = False, pooled: bool = False) -> Engine:
    """An engine for `url`; any ``postgresql://`` address works, psycopg 3 is used.

    Parameters
    ----------
    patient : bool
        For work that nobody waits for: migrations, seeding. Without limits in time.
    pooled : bool
        The address is a pooler's that lends a connection for each transaction: nothing is prepared there, and the limits in
        time are the role's (`docs/operations.md`).
    """
    address = _address(url)
    limits: dict[str, Any] = {} if patient else {"options": _LIMITS}
    if pooled:
        limits = {"prepare_threshold": None}
    engine = create_engine(
        address,
        pool_size=pool_size,
        max_overflow=pool_size,
        pool_timeout=_POOL_SECONDS,
        hide_parameters=True,  # what was typed belongs in no log
        connect_args={"connect_timeout": _CONNECT_SECONDS, **_ALIVE, **limits},
    )
    _ping_after_idling(engine)
    return engine


_REST_SECONDS = 2.0


def _ping_after_idling(engine: Engine) -> None:
    """Try a connection that has rested for a while before it is used: PostgreSQL may have restarted meanwhile.

    Not each time, as `pool_pre_ping` would: while a technician types, that is a round trip for nothing.
    """

    @event.listens_for(engine, "checkin")
    def rest(_: Any, record: Any) -> None:
        record.info["rests_since"] = monotonic()

    @event.listens_for(engine, "checkout")
    def wake(connection: Any, record: Any, _: Any) -> None:
        if monotonic() - record.info.get("rests_since", monotonic()) < _REST_SECONDS:
            return
        try:
            engine.dialect.do_ping(connection)
        except engine.dialect.loaded_dbapi.Error as error:
            raise DisconnectionError from error  # the pool then makes a new one


def migrate(owner_url: str, application_url: str, revision: str = "head") -> None:
    """Bring the tables up to date (or to a revision) as their owner, and let the application's role in."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.attributes["application_role"] = make_url(application_url).username
    engine = connect(owner_url, pool_size=1, patient=True)
    with engine.begin() as connection:
        _not_somebody_elses(connection)
        # Two servers starting at once: the second waits here and finds nothing left to do.
        connection.execute(text("SELECT pg_advisory_xact_lock(hashtext('dry_gauge migrations'))"))
        config.attributes["connection"] = connection
        command.upgrade(config, revision)
    engine.dispose()


class AnotherDatabase(RuntimeError):
    """The database holds tables that are not ours, and none that are."""


def _not_somebody_elses(connection: Connection) -> None:
    found = connection.execute(
        text(
            "SELECT count(*) FILTER (WHERE tablename = 'alembic_version') AS ours, count(*) AS tables, "
            "min(tablename) AS first FROM pg_tables WHERE schemaname = 'public'"
        )
    ).one()
    if found.tables and not found.ours:
        raise AnotherDatabase(
            f"This database holds other tables ('{found.first}' is one) and none of Dry Gauge's. Make an empty one for it."
        )


def _revisions() -> ScriptDirectory:
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    return ScriptDirectory.from_config(config)


def newest_revision() -> str:
    """The revision that these migrations lead to."""
    return _revisions().get_current_head() or ""


def known_revisions() -> frozenset[str]:
    """Every revision that these migrations pass."""
    return frozenset(one.revision for one in _revisions().walk_revisions())


def revision_of(connection: Connection) -> str | None:
    """The revision that a database stands at; None where it was never migrated."""
    return MigrationContext.configure(connection).get_current_revision()


_SEE = text("SELECT set_config('dry_gauge.shop_id', :shop_id, true)")


def see_shop(connection: Connection, shop_id: UUID) -> None:
    """For the rest of the transaction, see that shop's rows: for work that goes on after someone has signed in."""
    connection.execute(_SEE, {"shop_id": str(shop_id)})


def check_role(engine: Engine) -> None:
    """Refuse to run as an owner, a superuser or a role that bypasses row-level security.

    Raises
    ------
    WrongRole
    """
    with engine.connect() as connection:
        found = connection.execute(
            text(
                "SELECT rolname, rolsuper, rolbypassrls,"
                " EXISTS (SELECT 1 FROM pg_class WHERE relname = 'entry' AND relowner = pg_roles.oid) AS owns"
                " FROM pg_roles WHERE rolname = current_user"
            )
        ).one()
    problems = [
        words
        for holds, words in (
            (found.rolsuper, "is a superuser"),
            (found.rolbypassrls, "bypasses row-level security"),
            (found.owns, "owns the tables"),
        )
        if holds
    ]
    if problems:
        raise WrongRole(
            f"The database role '{found.rolname}' of DATABASE_URL {' and '.join(problems)}, so one shop could see "
            "another's rows. Give the application a plain role, and the owner's address in DATABASE_OWNER_URL."
        )
