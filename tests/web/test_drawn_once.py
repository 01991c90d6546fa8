"""One drawing for everybody who waits to see the same: the newest, whoever leaves, and forms of each page's own."""

from __future__ import annotations

import asyncio
import threading
import time
from collections.abc import Callable
from functools import partial
from types import SimpleNamespace

import uuid6
from bs4 import BeautifulSoup
from sqlalchemy import text

from dry_gauge.demo.cluster import APPLICATION
from dry_gauge.store.database import connect
from dry_gauge.store.visits import find_visit
from dry_gauge.web.drawn_once import DrawnOnce
from dry_gauge.web.security import looking
from tests.web.calls import Browser, by_itself, read


class Desk:
    """Draws slowly, and remembers what."""

    def __init__(self) -> None:
        self.drawn: list[int] = []
        self.may_go_on = threading.Event()

    def draw(self, sequence: int) -> int:
        self.drawn.append(sequence)
        assert self.may_go_on.wait(60)
        return sequence


async def _until(fact: Callable[[], bool]) -> None:
    async with asyncio.timeout(60):
        while not fact():
            await asyncio.sleep(0.005)


def test_who_comes_while_something_is_drawn_gets_the_newest_in_one_drawing():
    desk = Desk()

    async def play() -> tuple[list[int], int]:
        drawings, turn = DrawnOnce(), asyncio.Semaphore(1)

        def ask(what: str, sequence: int) -> asyncio.Task[int]:
            return asyncio.create_task(drawings.drawn(what, sequence, partial(desk.draw, sequence), behind=turn))

        first = ask("a", 1)
        await _until(lambda: desk.drawn == [1])
        later = [ask("a", sequence) for sequence in (2, 4, 3)]
        other = ask("b", 9)
        await asyncio.sleep(0)
        later[0].cancel()  # its page was closed
        desk.may_go_on.set()
        assert await first == 1
        return [await one for one in later[1:]], await other

    assert by_itself(play()) == ([4, 4], 9)
    assert sorted(desk.drawn) == [1, 4, 9]


def test_who_waits_to_write_comes_before_the_drawing():
    desk = Desk()
    desk.may_go_on.set()

    async def play() -> int:
        drawings, turn = DrawnOnce(), asyncio.Semaphore(1)
        await turn.acquire()
        first = asyncio.create_task(drawings.drawn("a", 1, partial(desk.draw, 1), behind=turn))
        for _ in range(5):
            await asyncio.sleep(0)
        assert not desk.drawn
        second = asyncio.create_task(drawings.drawn("a", 2, partial(desk.draw, 2), behind=turn))
        await asyncio.sleep(0)
        turn.release()
        assert await first == 2
        return await second

    assert by_itself(play()) == 2
    assert desk.drawn == [2]


def test_a_drawing_that_fails_fails_for_all_and_the_next_is_drawn():
    def fail() -> None:
        raise ZeroDivisionError

    async def play() -> int:
        drawings, turn = DrawnOnce(), asyncio.Semaphore(1)
        found = await asyncio.gather(*(drawings.drawn("a", 1, fail, behind=turn) for _ in range(3)), return_exceptions=True)
        assert [type(one) for one in found] == [ZeroDivisionError] * 3
        return await drawings.drawn("a", 2, lambda: 7, behind=turn)

    assert by_itself(play()) == 7


def test_two_who_write_at_once_see_both_readings_in_forms_of_their_own(server, shop, owner):
    pages = [Browser(server), Browser(server)]
    for page, role in zip(pages, ("technician", "lead"), strict=True):
        page.sign_in(shop.logins[role])
        page.get(f"/visits/{shop.visit}")
    assert read(pages[0], shop, "95", "outdoor_air_temp", "F").status_code == 200  # both pages show one entry
    answers: dict[str, BeautifulSoup] = {}

    def write(page: Browser, quantity: str, value: str) -> None:
        fields = {
            "csrftoken": page.token,
            "entry_id": str(uuid6.uuid7()),
            "kind": "reading",
            "quantity": quantity,
            "value": value,
            "unit": "psig",
        }
        answer = page.ask("POST", f"/visits/{shop.visit}/entries", fields, **{"hx-request": "true", "x-seen": "1"})
        assert answer.status_code == 200, answer.text
        answers[page.token] = BeautifulSoup(answer.text, "html.parser")

    with owner.begin() as lock:  # both have come before either is kept
        lock.execute(text("SELECT 1 FROM visit WHERE id = :id FOR UPDATE"), {"id": shop.visit})
        writing = [
            threading.Thread(target=write, args=(page, *typed))
            for page, typed in zip(pages, (("suction_pressure", "118"), ("liquid_pressure", "298")), strict=True)
        ]
        for one in writing:
            one.start()
        time.sleep(2)
    for one in writing:
        one.join(60)
    ids: list[str] = []
    for page in pages:
        forms = answers[page.token].select("form:has(input[name=entry_id])")
        assert {form.select_one("input[name=csrftoken]")["value"] for form in forms} == {page.token}
        ids += [form.select_one("input[name=entry_id]")["value"] for form in forms]
        shown = answers[page.token].select_one("#timeline-head")["data-seen"]
        lines = [int(line["data-sequence"]) for line in answers[page.token].select("li[data-sequence]")]
        assert lines == list(range(int(shown), 1, -1))  # all of what it says that it shows
        assert all(answers[page.token].select(f"#said-{quantity} .kept") for quantity in ("suction_pressure", "liquid_pressure"))
    assert len(ids) >= 4
    assert len(set(ids)) == len(ids)
    drawn = [[part.get_text() for part in answers[page.token].select("#judge, #dock")] for page in pages]
    assert drawn[0] == drawn[1]


def test_an_id_may_be_written_in_several_ways(browser, shop):
    browser.get(f"/visits/{shop.visit}")
    for written in (shop.visit.hex, str(shop.visit).upper(), f"{{{shop.visit}}}"):
        answer = browser.post(
            f"/visits/{written}/entries",
            entry_id=str(uuid6.uuid7()),
            kind="reading",
            unit="psig",
            quantity="suction_pressure",
            value="118",
        )
        assert answer.status_code == 200, written


def test_what_is_asked_for_every_drawing_is_prepared_once(cluster, shop):
    """Planned anew each time, a visit would cost the database several times what it takes to read it."""
    engine = connect(cluster.url(APPLICATION), pool_size=1)
    request = SimpleNamespace(app=SimpleNamespace(state=SimpleNamespace(engine=engine)))
    for _ in range(8):
        with looking(request, shop.someone()) as connection:
            assert find_visit(connection, shop.visit)
    with engine.connect() as connection:
        prepared = connection.execute(text("SELECT statement FROM pg_prepared_statements")).scalars().all()
    engine.dispose()
    assert any("FROM visit" in statement for statement in prepared)
