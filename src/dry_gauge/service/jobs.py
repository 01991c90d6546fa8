"""Work that takes minutes is done beside the requests: one piece at a time in each process, told of while it goes on.

A process that dies loses its piece to another one after two minutes; what it had written is not committed.
"""

from __future__ import annotations

import logging
import tempfile
import threading
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from time import monotonic
from typing import IO
from uuid import UUID

import uuid6
from sqlalchemy import Connection, Engine
from sqlalchemy.exc import SQLAlchemyError

from dry_gauge.core.errors import Refused
from dry_gauge.core.local_time import by_clock, local, served
from dry_gauge.service import archive
from dry_gauge.service.allowed import NotAllowed, NotHere
from dry_gauge.service.archive import Pdf, Tell
from dry_gauge.store import jobs
from dry_gauge.store.database import see_shop
from dry_gauge.store.jobs import JobRow
from dry_gauge.store.people import Someone, someone_of

OUT, IN = "archive_out", "archive_in"
KEPT_FOR = timedelta(days=7)
_POLL_SECONDS, _TELL_SECONDS = 4.0, 1.0
_SPOOL_BYTES = 32 * 1024 * 1024
_log = logging.getLogger(__name__)


def ask(
    connection: Connection, someone: Someone, sort: str, asked: Mapping[str, bool], now: datetime, given: IO[bytes] | None = None
) -> UUID:
    """Ask for an archive out or in.

    Raises
    ------
    NotAllowed, Refused
        While another one of the shop is under way.
    """
    if someone.role != "lead":
        raise NotAllowed("Only a lead exports or imports the shop.")
    if jobs.any_under_way(connection):
        raise Refused("One is under way already. It ends by itself; then ask again.", "file")
    if given is not None and not given.read(1):
        raise Refused("Choose a file first.", "file")
    jobs.drop_older(connection, now - KEPT_FOR)
    job_id = uuid6.uuid7()
    jobs.add_job(
        connection, shop_id=someone.shop_id, id=job_id, person_id=someone.person_id, sort=sort, asked=dict(asked), made_at=now
    )
    if given is not None:
        given.seek(0)
        jobs.keep_pieces(connection, someone.shop_id, job_id, "given", given)
    return job_id


def made_by(connection: Connection, someone: Someone, job_id: UUID) -> JobRow:
    """A job whose file is there to be fetched.

    Raises
    ------
    NotHere, NotAllowed
    """
    if someone.role != "lead":
        raise NotAllowed("Only a lead exports the shop.")
    job = jobs.find_job(connection, job_id)
    if job is None or job.state != "done" or job.sort != OUT:
        raise NotHere("There is no such file, or not any more.")
    return job


@dataclass(frozen=True, slots=True)
class _Claimed:
    shop_id: UUID
    job: JobRow


class JobWorker:
    """One thread that does what waits, whichever shop asked for it."""

    def __init__(self, engine: Engine, pdf: Pdf) -> None:
        self._engine, self._pdf = engine, pdf
        self._wake, self._stop = threading.Event(), threading.Event()
        self._thread = threading.Thread(target=self._run, name="jobs", daemon=True)

    def start(self) -> None:
        """Begin to look for work."""
        self._thread.start()

    def wake(self) -> None:
        """Something was asked for just now."""
        self._wake.set()

    def close(self) -> None:
        """Look for no more; what is under way ends with the process and is begun anew elsewhere."""
        self._stop.set()
        self._wake.set()

    def _run(self) -> None:
        while not self._stop.is_set():
            try:
                claimed = self._claim()
            except SQLAlchemyError:  # PostgreSQL is away
                claimed = None
            if claimed is None:
                self._wake.wait(_POLL_SECONDS)
                self._wake.clear()
                continue
            self._do(claimed)

    def _claim(self) -> _Claimed | None:
        with self._engine.begin() as connection:
            found = jobs.claim(connection)
            if found is None:
                return None
            see_shop(connection, found[0])
            job = jobs.find_job(connection, found[1])
        return None if job is None else _Claimed(found[0], job)

    def _do(self, claimed: _Claimed) -> None:
        try:
            with served():
                words, name = self._done(claimed)
            self._end(claimed, "done", words, name)
        except Refused as refusal:
            self._end(claimed, "failed", refusal.message)
        except Exception:
            _log.exception("A job failed")
            self._end(claimed, "failed", "Something went wrong on our side. Nothing was changed; ask again.")

    def _end(self, claimed: _Claimed, state: str, words: str, name: str = "") -> None:
        try:
            with self._engine.begin() as connection:
                see_shop(connection, claimed.shop_id)
                jobs.end(connection, claimed.job.id, state, words, name)
                jobs.drop_pieces(connection, claimed.job.id, "given")
        except SQLAlchemyError:
            _log.warning("A job's end could not be noted; it is begun anew.")

    def _done(self, claimed: _Claimed) -> tuple[str, str]:
        job = claimed.job
        with tempfile.SpooledTemporaryFile(_SPOOL_BYTES) as file, self._engine.connect() as connection:
            # What is written out is the shop at one moment.
            connection = connection.execution_options(isolation_level="REPEATABLE READ")
            for limit in ("statement_timeout", "idle_in_transaction_session_timeout"):
                connection.exec_driver_sql(f"SET LOCAL {limit} = '10min'")
            see_shop(connection, claimed.shop_id)
            someone = someone_of(connection, job.person_id)
            if someone is None or someone.role != "lead":
                raise Refused("Whoever asked for it is no lead any more.")
            by_clock(someone.time_zone, someone.clock)
            tell = self._teller(claimed)
            if job.sort == IN:
                for piece in jobs.pieces(connection, job.id, "given"):
                    file.write(piece)
                file.seek(0)
                words = archive.take_in(connection, someone, file, tell)
                connection.commit()
                return words, ""
            now = datetime.now(UTC)
            archive.export(connection, someone, file, now, tell, self._pdf if job.asked.get("pdfs") else None)
            file.seek(0)
            size = jobs.keep_pieces(connection, claimed.shop_id, job.id, "made", file)
            connection.commit()
            return f"{size / 1e6:.1f} MB, kept for {KEPT_FOR.days} days", f"dry-gauge-{local(now):%Y-%m-%d}.zip"

    def _teller(self, claimed: _Claimed) -> Tell:
        told = monotonic()

        def tell(done: int, of_all: int, words: str) -> None:
            nonlocal told
            if monotonic() - told < _TELL_SECONDS:
                return
            told = monotonic()
            with self._engine.begin() as connection:
                see_shop(connection, claimed.shop_id)
                jobs.tell(connection, claimed.job.id, done, of_all, words)

        return tell
