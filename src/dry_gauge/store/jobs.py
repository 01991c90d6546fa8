"""Work that takes minutes: asked for, claimed, told of, and its result in pieces."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import IO, Any
from uuid import UUID

from sqlalchemy import Connection, Select, delete, func, insert, select, text, update

from dry_gauge.store.models import Job, JobPiece, Person

PIECE_BYTES = 512 * 1024


@dataclass(frozen=True, slots=True)
class JobRow:
    """One piece of work as it stands."""

    id: UUID
    person_id: UUID
    sort: str
    asked: dict[str, Any]
    made_at: datetime
    state: str
    done: int
    of_all: int
    words: str
    name: str
    ended_at: datetime | None
    asked_by: str

    @property
    def under_way(self) -> bool:
        """Whether it still has to end."""
        return self.state in ("waiting", "going")


_JOBS: Select[*tuple[Any, ...]] = select(
    Job.id,
    Job.person_id,
    Job.sort,
    Job.asked,
    Job.made_at,
    Job.state,
    Job.done,
    Job.of_all,
    Job.words,
    Job.name,
    Job.ended_at,
    Person.name,
).join(Person, (Person.shop_id == Job.shop_id) & (Person.id == Job.person_id))
_CLAIM = text("SELECT shop_id, id FROM claim_job()")


def add_job(connection: Connection, **values: Any) -> None:
    """Ask for something."""
    connection.execute(insert(Job).values(values))


def claim(connection: Connection) -> tuple[UUID, UUID] | None:
    """The shop and the job that is to be done next, whoever's; it is ours for as long as we tell of it."""
    row = connection.execute(_CLAIM).one_or_none()
    return None if row is None else (row.shop_id, row.id)


def find_job(connection: Connection, job_id: UUID) -> JobRow | None:
    """One job of the shop."""
    row = connection.execute(_JOBS.where(Job.id == job_id)).one_or_none()
    return None if row is None else JobRow(*row)


def latest_jobs(connection: Connection, limit: int = 8) -> Sequence[JobRow]:
    """The shop's jobs, the latest first."""
    return [JobRow(*row) for row in connection.execute(_JOBS.order_by(Job.made_at.desc()).limit(limit))]


def any_under_way(connection: Connection) -> bool:
    """Whether the shop has one that still has to end."""
    asked = select(func.count()).select_from(Job).where(Job.state.in_(("waiting", "going")))
    return connection.execute(asked).scalar_one() > 0


def tell(connection: Connection, job_id: UUID, done: int, of_all: int, words: str) -> None:
    """How far it is; whoever does not tell for two minutes has lost it."""
    values = {"done": done, "of_all": of_all, "words": words, "seen_at": func.now()}
    connection.execute(update(Job).where(Job.id == job_id).values(values))


def end(connection: Connection, job_id: UUID, state: str, words: str, name: str = "") -> None:
    """It is over: ``done`` or ``failed``."""
    connection.execute(update(Job).where(Job.id == job_id).values(state=state, words=words, name=name, ended_at=func.now()))


def keep_pieces(connection: Connection, shop_id: UUID, job_id: UUID, part: str, source: IO[bytes]) -> int:
    """Keep a file with a job, in place of what was; its size in bytes."""
    connection.execute(delete(JobPiece).where(JobPiece.job_id == job_id, JobPiece.part == part))
    size = 0
    for n, piece in enumerate(iter(lambda: source.read(PIECE_BYTES), b"")):
        connection.execute(insert(JobPiece).values(shop_id=shop_id, job_id=job_id, part=part, n=n, piece=piece))
        size += len(piece)
    return size


def pieces(connection: Connection, job_id: UUID, part: str) -> Iterator[bytes]:
    """A file of a job, a piece at a time."""
    n = 0
    while True:
        asked = select(JobPiece.piece).where(JobPiece.job_id == job_id, JobPiece.part == part, JobPiece.n == n)
        piece = connection.execute(asked).scalar()
        if piece is None:
            return
        yield bytes(piece)
        n += 1


def drop_pieces(connection: Connection, job_id: UUID, part: str) -> None:
    """A file that is not needed any more."""
    connection.execute(delete(JobPiece).where(JobPiece.job_id == job_id, JobPiece.part == part))


def drop_older(connection: Connection, before: datetime) -> None:
    """Jobs that ended before then, with their files."""
    connection.execute(delete(Job).where(Job.ended_at < before))
