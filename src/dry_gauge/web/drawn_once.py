"""Whoever waits to see the same of a visit waits for one drawing of it, made of the newest that was committed until it began.

Judging and drawing is most of what an entry costs. Where several write to one visit and see it the same way, each of their
answers would draw what the next one draws anew.
"""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from typing import Any, TypeVar

from fastapi.concurrency import run_in_threadpool

T = TypeVar("T")
AT_ONCE = 2
"""Drawing waits for nothing, so more only take turns more often; with one, a slow one would hold up every shop."""


@dataclass(slots=True)
class _Drawing:
    """One that has not begun: of the newest state that anybody who waits for it has written."""

    sequence: int
    draw: Callable[[], Any]
    behind: asyncio.Semaphore
    done: asyncio.Future[Any] = field(default_factory=lambda: asyncio.get_running_loop().create_future())


class DrawnOnce:
    """Drawings that are shared, by what they show."""

    def __init__(self) -> None:
        self._room = asyncio.Semaphore(AT_ONCE)
        self._waiting: dict[Hashable, _Drawing] = {}
        self._at_work: dict[Hashable, asyncio.Task[None]] = {}

    async def drawn(self, what: Hashable, sequence: int, draw: Callable[[], T], behind: asyncio.Semaphore) -> T:
        """What `draw` gives in a thread, or what it gives for somebody else who has written later.

        Parameters
        ----------
        what : Hashable
            Everything that the drawing depends on besides the visit's entries.
        sequence : int
            Of the latest entry that `draw` knows.
        behind : asyncio.Semaphore
            The turn at the visit: who waits to write comes first, since that is drawn along.
        """
        waiting = self._waiting.get(what)
        if waiting is None:
            waiting = self._waiting[what] = _Drawing(sequence, draw, behind)
        elif sequence > waiting.sequence:
            waiting.sequence, waiting.draw = sequence, draw
        if what not in self._at_work:
            self._at_work[what] = asyncio.create_task(self._draw_all(what))
        return await asyncio.shield(waiting.done)  # somebody who leaves takes nobody's drawing along

    async def _draw_all(self, what: Hashable) -> None:
        while what in self._waiting:
            async with self._waiting[what].behind:
                pass
            async with self._room:
                drawing = self._waiting.pop(what)  # whoever comes from here on waits for the next one
                try:
                    drawing.done.set_result(await run_in_threadpool(drawing.draw))
                except Exception as problem:
                    drawing.done.set_exception(problem)
        del self._at_work[what]
