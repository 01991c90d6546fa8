"""What a visit's open pages are told while they look on: worked out once for all who read it the same way.

Pages of one visit, station, circuit and size, whose readers have the same units and rights, share one feed; a hundred of them
cost what one does.
"""

from __future__ import annotations

import asyncio
import json
import time
from collections.abc import AsyncIterator, Sequence
from contextlib import asynccontextmanager
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID

from anyio import to_thread
from sqlalchemy import Connection, Engine
from sqlalchemy.exc import SQLAlchemyError

from dry_gauge.core.judgement.assess import Assessment
from dry_gauge.core.local_time import served
from dry_gauge.core.probes import LatestProbe, is_fresh
from dry_gauge.core.settling import Series
from dry_gauge.core.vocabulary import QUANTITIES
from dry_gauge.present.settling import settling_of
from dry_gauge.present.visit import VisitView, judged_before
from dry_gauge.service import probes as live_probes
from dry_gauge.service.notebooks import load
from dry_gauge.store import samples
from dry_gauge.store.database import see_shop
from dry_gauge.store.people import Someone
from dry_gauge.web.drawings import drawn
from dry_gauge.web.listening import Listener, News
from dry_gauge.web.livedesk import gap_history, numbers
from dry_gauge.web.render import TEMPLATES, reader_of
from dry_gauge.web.stations import station_named
from dry_gauge.web.stations.pictures import ladder
from dry_gauge.web.visit_page import VisitPage

_LOOK_SECONDS = 15.0
_PLOT_MINUTES = 10
_DRAWN_SECONDS, _SERIES_SECONDS = 0.9, 5.0
_MOST_WAITING = 32
_LADDER, _SETTLING = "visits/_ladder.html", "stations/read/settling.html"
MOST_OF_PERSON, MOST_OF_VISIT, MOST_OF_PROCESS = 24, 200, 800
"""Pages that may look on at once. A browser opens six of one address at the most, unless HTTP/2 lets it."""


def event(name: str, data: Any) -> str:
    """One server-sent event."""
    text = data if isinstance(data, str) else json.dumps(data)
    lines = "".join(f"data: {line}\n" for line in text.splitlines() or [""])
    return f"event: {name}\n{lines}\n"


class TooManyPages(Exception):
    """More pages look on than are served; the message says which to close."""


@dataclass(frozen=True, slots=True)
class Looking:
    """What one page looks at."""

    visit_id: UUID
    circuit: int
    size: str | None
    station: str


class Desk:
    """What pages that look at the same show, so that each sample only costs what it changes."""

    def __init__(self, engine: Engine, someone: Someone, looking: Looking) -> None:
        self.engine, self.someone, self.station = engine, someone, station_named(looking.station)
        self.visit_id, self.circuit, self.size = looking.visit_id, looking.circuit, looking.size
        self.view: VisitView | None = None
        self.reader = reader_of(someone)
        self.series: dict[tuple[str, int], list[tuple[float, float]]] = {}
        self.before: Assessment | None = None
        self.drawn_at = self.settled_at = 0.0
        self.speaking = False

    def load(self) -> int:
        """Look at the visit anew; its latest sequence."""
        with self.engine.begin() as connection:
            see_shop(connection, self.someone.shop_id)
            self.view = load(connection, self.someone, self.visit_id)
            self.reader = reader_of(self.someone, self.view.facts)
            self.before = judged_before(self.view)
            if not self.series:
                self.recall(connection)
        return self.view.visit.sequence

    def recall(self, connection: Connection) -> None:
        """The last minutes of samples, for the plot and for drift."""
        since = datetime.now(UTC) - timedelta(minutes=_PLOT_MINUTES)
        for row in samples.recent(connection, self.visit_id, since):
            self.series.setdefault((row.quantity, row.circuit), []).append((float(row.second), row.value_si))

    def live(self) -> list[str]:
        """What the probes show now: numbers, a point of the plot, and now and then ladder and settling."""
        assert self.view is not None
        with self.engine.begin() as connection:
            see_shop(connection, self.someone.shop_id)
            probes = samples.latest(connection, self.visit_id)
        now = datetime.now(UTC)
        self.remember(probes, now)
        self.speaking = any(is_fresh(probe, now) for probe in probes)
        found = live_probes.lay_over(self.view, probes, self.someone.superheat_school, now).assessment
        judged = found.circuits.get(self.circuit, found.first) if found else None
        told = [event("live", numbers(self.view.facts.of_circuit(self.circuit), probes, judged, self.reader, now))]
        if self.station.group:
            told += self.desk()
        elif judged and self.station.pictured is ladder and time.monotonic() - self.drawn_at >= _DRAWN_SECONDS:
            self.drawn_at = time.monotonic()
            drawings = drawn(judged, self.before, self.reader, self.circuit, self.size)
            values = {"drawings": drawings, "view": self.view, "circuit": self.circuit, "oob": True}
            told.append(event("ladder", TEMPLATES.get_template(_LADDER).render(values)))
        if _SETTLING in self.station.live and time.monotonic() - self.settled_at >= _SERIES_SECONDS:
            self.settled_at = time.monotonic()
            told.append(event("fragments", self.settling(now)))
        return told

    def page(self, connection: Connection) -> VisitPage:
        """The page that looks on."""
        assert self.view is not None
        return VisitPage(connection, self.view, self.someone, self.reader, self.station, self.circuit, self.size)

    def desk(self) -> list[str]:
        """What a live scale or vacuum gauge changes at a desk: its picture and the number above it."""
        if not self.station.live or time.monotonic() - self.drawn_at < _DRAWN_SECONDS:
            return []
        self.drawn_at = time.monotonic()
        with self.engine.begin() as connection:
            see_shop(connection, self.someone.shop_id)
            parts = self.page(connection).live()
        texts = (TEMPLATES.get_template(name).render({**values, "oob": True}) for name, values in parts)
        return [event("fragments", "".join(texts))]

    def remember(self, probes: Sequence[LatestProbe], now: datetime) -> None:
        """Keep a point of each probe every few seconds, for as long as the plot is."""
        second = now.timestamp()
        for probe in probes:
            if not is_fresh(probe, now) or probe.value_si is None:
                continue
            line = self.series.setdefault((probe.quantity, probe.circuit), [])
            if not line or second - line[-1][0] >= _SERIES_SECONDS - 0.5:
                line.append((second, probe.value_si))
            while line[0][0] < second - 60 * _PLOT_MINUTES:
                line.pop(0)

    def lines(self, now: datetime) -> dict[str, Series]:
        """This circuit's points by quantity, in minutes before now; what all circuits share comes from wherever it is."""
        return {
            quantity: [((at - now.timestamp()) / 60, value) for at, value in line]
            for (quantity, circuit), line in self.series.items()
            if circuit == self.circuit or (quantity in QUANTITIES and QUANTITIES[quantity].shared)
        }

    def settling(self, now: datetime) -> str:
        """Ready or not, by what the probes did in the last minutes."""
        assert self.view is not None
        found = settling_of(self.view, self.circuit, self.lines(now), now)
        with self.engine.begin() as connection:
            see_shop(connection, self.someone.shop_id)
            values = self.page(connection).progress
        return TEMPLATES.get_template(_SETTLING).render({**values, "settling": found, "oob": True})

    def history(self) -> list[str]:
        """The plot as it was before this page was opened."""
        assert self.view is not None
        now = datetime.now(UTC)
        if not self.series:
            return []
        facts = self.view.facts.of_circuit(self.circuit)
        return [event("history", gap_history(self.lines(now), facts, self.reader, now))]


class Feed:
    """A desk and the pages that it tells."""

    def __init__(self, desk: Desk, listener: Listener) -> None:
        self.desk, self.listener = desk, listener
        self.pages: set[asyncio.Queue[str | None]] = set()
        self.begun: asyncio.Future[None] = asyncio.get_running_loop().create_future()
        self.task = asyncio.create_task(self._run())

    @property
    def sequence(self) -> int:
        """How far the visit is, as far as this feed knows."""
        return self.desk.view.visit.sequence if self.desk.view else 0

    def tell(self, told: str | None) -> None:
        """Tell every page; None ends them, and they ask anew."""
        for queue in self.pages:
            if queue.full():  # a slow page loses the oldest: the next says more
                queue.get_nowait()
            queue.put_nowait(told)

    async def _run(self) -> None:
        try:
            async with self.listener.of_visit(self.desk.visit_id) as news:
                with served(self.desk.someone.time_zone, self.desk.someone.clock):
                    await to_thread.run_sync(self.desk.load)
                    self.begun.set_result(None)
                    while not self.listener.ending:
                        await self._next(news)
        except Exception as problem:
            if not self.begun.done():
                self.begun.set_exception(problem)
            elif not isinstance(problem, SQLAlchemyError):  # PostgreSQL went away; the pages ask anew
                raise
        finally:
            self.begun.cancel()
            self.tell(None)

    async def _next(self, queue: asyncio.Queue[News]) -> None:
        try:
            news = [await asyncio.wait_for(queue.get(), _LOOK_SECONDS)]
        except TimeoutError:
            # A hub that falls silent sends no news of it: what the pages show as live must go all the same.
            for told in await to_thread.run_sync(self.desk.live) if self.desk.speaking else ():
                self.tell(told)
            return
        while not queue.empty():
            news.append(queue.get_nowait())
        if any("samples" not in one for one in news):
            self.tell(event("changed", {"sequence": await to_thread.run_sync(self.desk.load)}))
        if any("sequence" not in one for one in news):
            for told in await to_thread.run_sync(self.desk.live):
                self.tell(told)


class Feeds:
    """The feeds of one process, each for as long as a page has it."""

    def __init__(self, engine: Engine, listener: Listener) -> None:
        self.engine, self.listener = engine, listener
        self.feeds: dict[Any, Feed] = {}
        self.people: list[tuple[UUID, UUID]] = []  # person and visit of each page

    def check_room(self, someone: Someone, looking: Looking) -> None:
        """Whether one more page may look on.

        Raises
        ------
        TooManyPages
        """
        person, visit = someone.person_id, looking.visit_id
        if sum(one == person for one, _ in self.people) >= MOST_OF_PERSON:
            raise TooManyPages("You have too many live pages open. Close some; this one goes on without live readings.")
        if sum(one == visit for _, one in self.people) >= MOST_OF_VISIT or len(self.people) >= MOST_OF_PROCESS:
            raise TooManyPages("Too many pages look on just now. This one goes on without live readings.")

    @asynccontextmanager
    async def join(self, someone: Someone, looking: Looking) -> AsyncIterator[tuple[Feed, asyncio.Queue[str | None]]]:
        """What one page is told, in a queue of its own."""
        key = (looking, someone.shop_id, someone.role, someone.superheat_school, reader_of(someone))
        feed = self.feeds.get(key)
        if feed is None or feed.task.done():
            feed = self.feeds[key] = Feed(Desk(self.engine, someone, looking), self.listener)
        queue: asyncio.Queue[str | None] = asyncio.Queue(_MOST_WAITING)
        mine = (someone.person_id, looking.visit_id)
        feed.pages.add(queue)
        self.people.append(mine)
        try:
            yield feed, queue
        finally:
            self.people.remove(mine)
            feed.pages.discard(queue)
            if not feed.pages:
                feed.task.cancel()
                if self.feeds.get(key) is feed:
                    del self.feeds[key]
