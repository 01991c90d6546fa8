"""Whoever writes to one visit takes turns before a thread is taken, so that one visit's lock never holds up other shops.

Entries of a visit go through its row's lock anyway; waiting for it here costs no thread and no connection.
"""

from __future__ import annotations

import asyncio
import re
from collections.abc import Awaitable, Callable
from contextlib import AsyncExitStack

from fastapi import Request
from starlette.types import ASGIApp, Receive, Scope, Send

AT_ONCE = 3
"""One interpreter works on one thing at a time: with more, threads take turns more often and everyone waits longer (measured: 32
clients on four visits, 58 answers a second with 3, 50 with 6)."""
MOST_WAITING = 200
_VISIT = re.compile(r"/visits/([^/]+)/(?!photos)")
_TURN = "dry_gauge.turn"

Refuse = Callable[[Scope, Send], Awaitable[None]]


async def turn_over(request: Request) -> asyncio.Semaphore:
    """What this request writes is committed: the next one need not wait for its answer.

    Returns the turn at its visit: whoever takes it now comes after all who wait to write.
    """
    turn: asyncio.Semaphore
    turn, held = request.scope[_TURN]
    await held.aclose()
    return turn


class TakingTurns:
    """Lets one changing request of a visit through at a time, and few of all; too many that wait are told to come again."""

    def __init__(self, app: ASGIApp, refuse: Refuse) -> None:
        self.app, self.refuse = app, refuse
        self.working = asyncio.Semaphore(AT_ONCE)
        self.turns: dict[str, tuple[asyncio.Semaphore, list[None]]] = {}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass one request through."""
        found = _VISIT.match(scope["path"]) if scope["type"] == "http" and scope["method"] == "POST" else None
        if found is None:
            await self.app(scope, receive, send)
            return
        visit = found[1].replace("-", "").lower()  # an id may be written in several ways
        turn, there = self.turns.setdefault(visit, (asyncio.Semaphore(1), []))
        if len(there) >= MOST_WAITING:
            await self.refuse(scope, send)
            return
        there.append(None)
        try:
            async with AsyncExitStack() as held:
                await held.enter_async_context(turn)
                await held.enter_async_context(self.working)
                scope[_TURN] = turn, held
                await self.app(scope, receive, send)
        finally:
            there.pop()
            if not there:
                del self.turns[visit]
