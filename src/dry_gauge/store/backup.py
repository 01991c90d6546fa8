"""A whole installation in one file, and back: PostgreSQL's own dump, photos included.

A backup holds everything but sessions (whoever is signed in signs in again) and the counts that limit trying. It is read as
the owner of the tables, whom row-level security does not bind, in one snapshot: people work on meanwhile.
"""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import tempfile
from pathlib import Path

from sqlalchemy import Engine, make_url, text

from dry_gauge.store.database import connect, connection_arguments, known_revisions, migrate

_LEFT_OUT = ("web_session", "rate_window")
_DEBIAN = Path("/usr/lib/postgresql")


class BackupFailed(RuntimeError):
    """A backup could not be made or brought back; the message says why and what to do."""


def backup(owner_url: str, target: Path) -> int:
    """Write everything to `target`, which appears only once it is complete and was read back; its size in bytes.

    Raises
    ------
    BackupFailed
    OSError
        Where `target` cannot be written.
    """
    target = target.absolute()
    handle, name = tempfile.mkstemp(dir=target.parent, prefix=f".{target.name}.")
    os.close(handle)
    aside = Path(name)
    try:
        left_out = [f"--exclude-table-data={table}" for table in _LEFT_OUT]
        _run("pg_dump", owner_url, "--format=custom", "--no-owner", *left_out, f"--file={aside}")
        read_through(aside)
        with aside.open("rb") as written:
            os.fsync(written.fileno())
        aside.chmod(0o600)  # customers, people and password hashes
        aside.replace(target)
    finally:
        aside.unlink(missing_ok=True)
    return target.stat().st_size


def read_through(source: Path) -> None:
    """Read a backup to its end with PostgreSQL's own tool.

    Raises
    ------
    BackupFailed
        Where it is no backup, or not whole.
    """
    _run("pg_restore", None, "--file=/dev/null", str(source))


def restore(owner_url: str, application_url: str, source: Path) -> str:
    """Bring a backup into an empty database, and its tables up to date; the revision that it held.

    All or nothing: what goes wrong leaves the database empty.

    Raises
    ------
    BackupFailed
        For a database that is not empty, a file that is no backup, another application role, or a later release's backup.
    """
    if not source.is_file():
        raise BackupFailed(f"There is no file '{source}'.")
    held = _revision_in(source)
    if held not in known_revisions():
        raise BackupFailed(f"The backup comes from a later release (revision {held}). Install that one; nothing was changed.")
    engine = connect(owner_url, pool_size=1, patient=True)
    try:
        _only_empty(engine)
        _only_same_role(application_url, source)
        _run("pg_restore", owner_url, "--no-owner", "--single-transaction", "--exit-on-error", str(source))
        migrate(owner_url, application_url)
        return held
    finally:
        engine.dispose()


def _only_empty(engine: Engine) -> None:
    with engine.connect() as connection:
        found = connection.execute(text("SELECT min(tablename) FROM pg_tables WHERE schemaname = 'public'")).scalar()
    if found:
        raise BackupFailed(f"This database holds tables already ('{found}' is one). A backup goes into an empty one.")


def _only_same_role(application_url: str, source: Path) -> None:
    """The rights in a backup name the application's role."""
    role = make_url(application_url).username or ""
    rights = _run("pg_restore", None, "--schema-only", "--file=-", str(source))
    granted = {line.rsplit(" TO ", 1)[1].rstrip(";").strip('"') for line in rights.splitlines() if line.startswith("GRANT ")}
    if granted - {role}:
        raise BackupFailed(
            f"The backup lets in the role {', '.join(sorted(granted - {role}))}, DATABASE_URL names '{role}'. "
            "Give the new database's role the old name."
        )


def _revision_in(source: Path) -> str:
    """The revision that a backup's tables stand at."""
    read_through(source)
    table = _run("pg_restore", None, "--data-only", "--table=alembic_version", "--file=-", str(source))
    found = re.search(r"^COPY public\.alembic_version .*\n(\w+)$", table, re.MULTILINE)
    if found is None:
        raise BackupFailed(f"'{source}' is a dump of something else.")
    return found[1]


def _run(program: str, url: str | None, *arguments: str) -> str:
    environment = dict(os.environ)
    if url is not None:  # the password goes by the environment: others on the machine see command lines
        at = connection_arguments(url)
        named = {
            "PGHOST": "host",
            "PGPORT": "port",
            "PGUSER": "user",
            "PGPASSWORD": "password",
            "PGTARGETSESSIONATTRS": "target_session_attrs",
        }
        environment |= {name: str(at[key]) for name, key in named.items() if key in at}
        arguments = (f"--dbname={at['dbname']}", *arguments)
    done = subprocess.run([_found(program), *arguments], env=environment, capture_output=True, text=True)  # noqa: S603
    if done.returncode != 0:
        words = (done.stderr.strip().splitlines() or [f"{program} failed"])[0]
        raise BackupFailed(words.removeprefix(f"{program}: error: "))
    return done.stdout


def _found(program: str) -> str:
    """The newest of PostgreSQL's tools: an older one refuses a newer server."""
    versions = sorted(_DEBIAN.glob(f"*/bin/{program}"), key=lambda path: float(path.parts[-3]))
    found = str(versions[-1]) if versions else shutil.which(program)
    if found is None:
        raise BackupFailed(f"'{program}' is not installed (Debian: apt-get install postgresql-client).")
    return found
