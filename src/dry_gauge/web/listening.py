"""What PostgreSQL announces, handed to whoever waits for it: one connection a process, however many pages look on."""

from __future__ import annotations

import asyncio
import json
import logging
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager, suppress
from typing import Any
from uuid import UUID

import psycopg

from dry_gauge.store.database import connection_arguments

CHANNEL = "dry_gauge"
_RETRY_SECONDS = 2.0
_MOST_WAITING = 64

log = logging.getLogger(__name__)
News = dict[str, Any]


class Listener:
    """Subscriptions by visit. Slow readers lose the oldest news: each one only says that something is newer."""

    def __init__(self, url: str) -> None:
        self.at = connection_arguments(url)
        self.waiting: dict[UUID, set[asyncio.Queue[News]]] = {}
        self.ending = False

    @asynccontextmanager
    async def running(self) -> AsyncIterator[None]:
        """Listen for as long as the block runs."""
        task = asyncio.create_task(self._listen())
        try:
            yield
        finally:
            self.ending = True
            task.cancel()
            with suppress(asyncio.CancelledError):
                await task

    @asynccontextmanager
    async def of_visit(self, visit_id: UUID) -> AsyncIterator[asyncio.Queue[News]]:
        """News of one visit, in a queue of one's own."""
        queue: asyncio.Queue[News] = asyncio.Queue(_MOST_WAITING)
        self.waiting.setdefault(visit_id, set()).add(queue)
        try:
            yield queue
        finally:
            self.waiting[visit_id].discard(queue)
            if not self.waiting[visit_id]:
                del self.waiting[visit_id]

    async def _listen(self) -> None:
        while True:
            try:
                async with await psycopg.AsyncConnection.connect(**self.at, autocommit=True) as connection:
                    await connection.execute(f"LISTEN {CHANNEL}")
                    # Whatever was announced while nobody listened: everyone looks again.
                    for visit_id in list(self.waiting):
                        self._tell(visit_id, {"visit": str(visit_id), "missed": True})
                    async for notice in connection.notifies():
                        self._hand_out(notice.payload)
            except psycopg.Error as error:
                log.warning("PostgreSQL is away, listening again soon: %s", error)
                await asyncio.sleep(_RETRY_SECONDS)

    def _hand_out(self, payload: str) -> None:
        try:
            news = json.loads(payload)
            visit_id = UUID(str(news["visit"]))
        except (ValueError, KeyError, TypeError):
            return
        self._tell(visit_id, news)

    def _tell(self, visit_id: UUID, news: News) -> None:
        for queue in self.waiting.get(visit_id, ()):
            if queue.full():
                queue.get_nowait()
            queue.put_nowait(news)
