"""Commands that run an installation: tables, shops, passwords, backups, and whether all is well."""

from __future__ import annotations

import argparse
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import uvicorn
from sqlalchemy.exc import SQLAlchemyError

from dry_gauge.core.errors import Refused
from dry_gauge.service import operations
from dry_gauge.store import backup, database


def add_commands(commands: Any) -> None:
    """Add them to the command line."""
    commands.add_parser("migrate", help="bring the tables up to date").set_defaults(run=_migrate)
    shop = commands.add_parser("create-shop", help="a shop with its first lead; prints the lead's first password")
    shop.add_argument("name")
    shop.add_argument("--login", required=True, help="the lead's login")
    shop.add_argument("--lead", required=True, metavar="NAME", help="the lead's name")
    shop.add_argument("--time-zone", default="", metavar="PLACE", help="where it works: America/Denver; else this machine's")
    shop.set_defaults(run=_create_shop)
    reset = commands.add_parser("reset-password", help="prints a new password and ends that person's sessions")
    reset.add_argument("login")
    reset.add_argument("--second-step-too", action="store_true", help="phone and recovery codes are lost")
    reset.set_defaults(run=_reset_password)
    serve = commands.add_parser("serve", help="serve it, behind a proxy that ends TLS")
    serve.add_argument("--host", default="127.0.0.1")
    serve.add_argument("--port", type=int, default=8000)
    serve.add_argument("--grace", type=int, default=10, metavar="SECONDS", help="how long answers under way may take at the end")
    serve.set_defaults(run=_serve)
    commands.add_parser("check", help="whether this installation is fit to serve").set_defaults(run=_check)
    keep = commands.add_parser("backup", help="everything in one file, photos included")
    keep.add_argument("file", type=Path)
    keep.set_defaults(run=_backup)
    back = commands.add_parser("restore", help="a backup into an empty database")
    back.add_argument("file", type=Path)
    back.set_defaults(run=_restore)


def _environment(*names: str) -> list[str]:
    """Settings of an installation.

    Raises
    ------
    Refused
        Naming what is missing.
    """
    missing = [name for name in names if not os.environ.get(name)]
    if missing:
        raise Refused(f"Set {' and '.join(missing)} in the environment.")
    return [os.environ[name] for name in names]


@contextmanager
def _said() -> Iterator[None]:
    """What a database or a backup answers, as one line."""
    try:
        yield
    except (database.AnotherDatabase, backup.BackupFailed) as problem:
        raise Refused(str(problem)) from None
    except SQLAlchemyError as problem:
        raise Refused(str(problem.__cause__ or problem).splitlines()[0]) from None


def _migrate(_: argparse.Namespace) -> int:
    with _said():
        database.migrate(*_environment("DATABASE_OWNER_URL", "DATABASE_URL"))
    print(f"Tables stand at revision {database.newest_revision()}.")
    return 0


def _create_shop(options: argparse.Namespace) -> int:
    (owner,) = _environment("DATABASE_OWNER_URL")
    with _said():
        engine = database.connect(owner, pool_size=1)
        password = operations.create_shop(engine, options.name, options.login, options.lead, options.time_zone)
    print(f"'{options.login}' signs in with '{password}', and changes it there.")
    return 0


def _reset_password(options: argparse.Namespace) -> int:
    (owner,) = _environment("DATABASE_OWNER_URL")
    with _said():
        engine = database.connect(owner, pool_size=1)
        password = operations.reset_password(engine, options.login, second_step_too=options.second_step_too)
    print(f"'{options.login}' signs in with '{password}' from now on.")
    return 0


def _serve(options: argparse.Namespace) -> int:
    # Whose forwarded addresses are believed is TRUSTED_PROXIES' business, not the server's.
    uvicorn.run(
        "dry_gauge.web.serve:application",
        factory=True,
        host=options.host,
        port=options.port,
        proxy_headers=False,
        access_log=False,
        server_header=False,
        log_config=None,
        timeout_graceful_shutdown=options.grace,
    )
    return 0


def _check(_: argparse.Namespace) -> int:
    found = operations.check(*_environment("DATABASE_URL", "SECRET_KEY"))
    for one in found:
        print(f"{'good' if one.good else 'NOT GOOD'}: {one.words}")
    return 0 if all(one.good for one in found) else 2


def _backup(options: argparse.Namespace) -> int:
    (owner,) = _environment("DATABASE_OWNER_URL")
    with _said():
        size = backup.backup(owner, options.file)
    print(f"{options.file}: {size:,} bytes, read back whole. Keep it where the database is not.")
    return 0


def _restore(options: argparse.Namespace) -> int:
    owner, application = _environment("DATABASE_OWNER_URL", "DATABASE_URL")
    with _said():
        held = backup.restore(owner, application, options.file)
    print(f"Restored from revision {held}; tables stand at {database.newest_revision()}. Everyone signs in again.")
    return 0
