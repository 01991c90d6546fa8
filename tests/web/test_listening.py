"""News from PostgreSQL to the pages that wait: garbage, slow readers, a restart."""

from __future__ import annotations

import asyncio
import json
from uuid import uuid4

import psycopg

from dry_gauge.demo.cluster import APPLICATION
from dry_gauge.web.listening import _MOST_WAITING, CHANNEL, Listener
from tests.web.calls import by_itself


def test_garbage_on_the_channel_is_passed_over_and_others_news_is_not_mine():
    async def scene():
        listener, mine = Listener("postgresql://x"), uuid4()
        async with listener.of_visit(mine) as queue:
            for payload in ("nonsense", "[]", "{}", '{"visit": 7}', json.dumps({"visit": str(uuid4())})):
                listener._hand_out(payload)
            assert queue.empty()
            listener._hand_out(json.dumps({"visit": str(mine), "sequence": 3}))
            assert queue.get_nowait()["sequence"] == 3
        assert listener.waiting == {}  # nobody waits any more

    by_itself(scene())


def test_a_slow_page_loses_the_oldest_news_and_keeps_the_newest():
    async def scene():
        listener, visit = Listener("postgresql://x"), uuid4()
        async with listener.of_visit(visit) as queue:
            for number in range(_MOST_WAITING + 10):
                listener._hand_out(json.dumps({"visit": str(visit), "sequence": number}))
            told = [queue.get_nowait()["sequence"] for _ in range(queue.qsize())]
        assert told == list(range(10, _MOST_WAITING + 10))

    by_itself(scene())


def test_after_a_lost_connection_every_page_is_told_to_look_again(cluster):
    async def scene():
        listener, visit = Listener(cluster.url(APPLICATION)), uuid4()
        async with listener.running(), listener.of_visit(visit) as queue:
            assert (await asyncio.wait_for(queue.get(), 10))["missed"]
            async with await psycopg.AsyncConnection.connect(**listener.at, autocommit=True) as other:
                own = "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE query = %s"
                await other.execute(own, [f"LISTEN {CHANNEL}"])
                assert (await asyncio.wait_for(queue.get(), 10))["missed"]
                await other.execute("SELECT pg_notify(%s, %s)", [CHANNEL, json.dumps({"visit": str(visit), "sequence": 9})])
                assert (await asyncio.wait_for(queue.get(), 10))["sequence"] == 9
        assert listener.ending

    by_itself(scene())
