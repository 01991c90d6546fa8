"""Samples of live probes: a table partitioned by day, and how far each hub has come."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

from sqlalchemy import Connection, Uuid, bindparam, text
from sqlalchemy.dialects.postgresql import JSONB

from dry_gauge.core.probes import LatestProbe, Sample

RETAINED_DAYS = 30

_MAKE_TOKEN = text("SELECT make_probe_token(:hash, :visit, :person, :lifetime)")
_OPEN_TOKEN = text("SELECT shop_id, visit_id FROM open_probe_token(:hash)")
_KEEP_DAYS = text("SELECT keep_sample_days(:retained)")


def make_token(connection: Connection, token_hash: bytes, visit_id: UUID, person_id: UUID, lifetime: timedelta) -> None:
    """Let the bearer of a token feed one visit."""
    connection.execute(_MAKE_TOKEN, {"hash": token_hash, "visit": visit_id, "person": person_id, "lifetime": lifetime})


_TOKENS = text("""
    SELECT t.id, p.name, t.made_at, t.expires_at FROM probe_tokens_of(:visit) t
    LEFT JOIN person p ON p.id = t.person_id ORDER BY t.made_at
""")
_END_TOKEN = text("SELECT end_probe_token(:visit, :ended)")


def tokens_of(connection: Connection, visit_id: UUID) -> Sequence[Any]:
    """The tokens that feed a visit, who made each, and until when it is good."""
    return connection.execute(_TOKENS, {"visit": visit_id}).all()


def end_token(connection: Connection, visit_id: UUID, token_id: UUID) -> bool:
    """End a token at once; False where there is no such."""
    return bool(connection.execute(_END_TOKEN, {"visit": visit_id, "ended": token_id}).scalar())


def open_token(connection: Connection, token_hash: bytes) -> tuple[UUID, UUID] | None:
    """Shop and visit that a token opens; the rest of the transaction then sees that shop's rows."""
    row = connection.execute(_OPEN_TOKEN, {"hash": token_hash}).one_or_none()
    return None if row is None else (row.shop_id, row.visit_id)


def keep_days(connection: Connection, retained: int = RETAINED_DAYS) -> int:
    """Make the partitions of the days ahead and drop the old ones; how many were dropped."""
    return int(connection.execute(_KEEP_DAYS, {"retained": retained}).scalar_one())


_HUB = text("""
    INSERT INTO probe_hub (shop_id, visit_id, hub) VALUES (:shop_id, :visit_id, :hub)
    ON CONFLICT (shop_id, visit_id, hub) DO UPDATE SET seen_at = now() RETURNING acknowledged, latest
""")
_ADD = text("""
    INSERT INTO sample (shop_id, visit_id, at, hub, n, probe, quantity, circuit, value_si, state)
    SELECT :shop_id, :visit_id, at, :hub, n, probe, quantity, circuit, value_si, state
    FROM unnest(CAST(:at AS timestamptz[]), CAST(:n AS bigint[]), CAST(:probe AS varchar[]), CAST(:quantity AS varchar[]),
                CAST(:circuit AS smallint[]), CAST(:value_si AS double precision[]), CAST(:state AS varchar[]))
         AS given (at, n, probe, quantity, circuit, value_si, state)
""")
_ADVANCE = text("""
    WITH told AS (SELECT pg_notify('dry_gauge', json_build_object('visit', :visit_id, 'samples', true)::text))
    UPDATE probe_hub SET acknowledged = :acknowledged, latest = :latest, seen_at = now()
    FROM told WHERE shop_id = :shop_id AND visit_id = :visit_id AND hub = :hub
""").bindparams(bindparam("latest", type_=JSONB), bindparam("visit_id", type_=Uuid))


def lock_hub(connection: Connection, shop_id: UUID, visit_id: UUID, hub: str) -> tuple[int, dict[str, Any]]:
    """How far a hub has come and its latest samples; until the transaction ends nobody else moves it."""
    row = connection.execute(_HUB, {"shop_id": shop_id, "visit_id": visit_id, "hub": hub}).one()
    return row.acknowledged, row.latest


def add(
    connection: Connection,
    shop_id: UUID,
    visit_id: UUID,
    hub: str,
    samples: Sequence[Sample],
    at: Sequence[datetime],
    acknowledged: int,
    latest: dict[str, Any],
) -> None:
    """Keep samples, move the hub on, and tell whoever looks at the visit."""
    of_hub = {"shop_id": shop_id, "visit_id": visit_id, "hub": hub}
    if samples:
        connection.execute(
            _ADD,
            of_hub
            | {
                "at": list(at),
                "n": [one.n for one in samples],
                "probe": [one.probe for one in samples],
                "quantity": [one.quantity for one in samples],
                "circuit": [one.circuit for one in samples],
                "value_si": [one.value_si for one in samples],
                "state": [one.state.value for one in samples],
            },
        )
    connection.execute(_ADVANCE, of_hub | {"acknowledged": acknowledged, "latest": latest})


_LATEST = text("SELECT hub, latest FROM probe_hub WHERE visit_id = :visit_id ORDER BY hub")


def latest(connection: Connection, visit_id: UUID) -> list[LatestProbe]:
    """The latest sample of every probe on a visit."""
    found = []
    for row in connection.execute(_LATEST, {"visit_id": visit_id}):
        for probe, kept in row.latest.items():
            found.append(LatestProbe(row.hub, probe, **{**kept, "at": datetime.fromisoformat(kept["at"])}))
    return found


_RECENT = text("""
    SELECT quantity, circuit, extract(epoch FROM max(at)) AS second, avg(value_si) AS value_si
    FROM sample
    WHERE visit_id = :visit_id AND at > :since AND value_si IS NOT NULL
    GROUP BY quantity, circuit, floor(extract(epoch FROM at) / :step) ORDER BY 3
""")


def recent(connection: Connection, visit_id: UUID, since: datetime, step_seconds: int = 5) -> list[Any]:
    """Samples since a moment, averaged over a few seconds: quantity, circuit, second, value in SI."""
    asked = {"visit_id": visit_id, "since": since, "step": step_seconds}
    return list(connection.execute(_RECENT, asked))


_OF_ONE = text("""
    SELECT at, value_si FROM sample
    WHERE visit_id = :visit_id AND quantity = :quantity AND at > :since AND value_si IS NOT NULL ORDER BY at
""")


def of_one(connection: Connection, visit_id: UUID, quantity: str, since: datetime) -> list[tuple[datetime, float]]:
    """Every sample of one quantity since a moment, in order: when, and the value in SI."""
    asked = {"visit_id": visit_id, "quantity": quantity, "since": since}
    return [(row.at, row.value_si) for row in connection.execute(_OF_ONE, asked)]
