"""Practice over HTTP: nothing is given away, nothing real is touched, and odd requests change nothing."""

from __future__ import annotations

import re
from uuid import UUID

import pytest
import uuid6
from sqlalchemy import func, select, text, update

from dry_gauge.bench.practice.hidden import REMEDIES
from dry_gauge.core.vocabulary import Fault
from dry_gauge.service.practice import SHIPPED
from dry_gauge.store.models import EntryRow, PracticeCaseRow, PracticeGameRow, Visit
from tests.web.calls import Browser
from tests.web.test_register import words


@pytest.fixture
def lead(server, shop):
    browser = Browser(server)
    browser.sign_in(shop.logins["lead"])
    return browser


def code_of(browser: Browser, title: str) -> str:
    """The code under which a call is listed."""
    return re.search(rf"{title}</b>.*?<small class=\"mono\">(\w+)</small>", browser.get("/practice").text, re.S)[1]


def begin(browser: Browser, code: str) -> str:
    answer = browser.post("/practice", False, code=code)
    assert answer.status_code == 303, words(answer)
    return answer.headers["location"]


def do(browser: Browser, game: str, *steps: str):
    answer = None
    for step in steps:
        known = re.search(r'name="known" value="(\d+)"', browser.get(game).text)[1]
        answer = browser.post(game, False, step=step, known=known)
        assert answer.status_code == 303, words(answer)
    return answer


def test_the_first_call_is_solved_and_told_and_nothing_real_is_touched(browser, shop, owner):
    def real() -> tuple[int, int]:
        with owner.connect() as connection:
            return tuple(connection.execute(select(func.count()).select_from(table).where(table.shop_id == shop.id)).scalar_one()
                         for table in (Visit, EntryRow))  # fmt: skip

    before = real()
    page = browser.get("/practice")
    assert page.text.count("take it") >= len(SHIPPED) + 1
    game = begin(browser, code_of(browser, SHIPPED[0][0]))
    do(browser, game, "airs", "gauges", "lines")
    assert "psig" in words(browser.get(game))
    do(browser, game, "filter_dirty", "filter", "gauges")
    assert browser.post(game, False, do="commit", **{"fault-low_evaporator_airflow": "yes"}).status_code == 303
    told = words(browser.get(game))
    assert "Named right, and it holds" in told
    assert "the filter is plugged" in told
    assert "showed what it is" in told
    assert real() == before


def test_nothing_is_given_away_before_it_is_said(browser, shop, owner):
    game = begin(browser, code_of(browser, SHIPPED[7][0]))
    with owner.connect() as connection:
        seeds = connection.execute(select(PracticeCaseRow.seed).where(PracticeCaseRow.shop_id == shop.id)).scalars().all()
    listed = browser.get("/practice").text
    shown = browser.get(game).text
    do(browser, game, "airs", "gauges")
    shown += browser.get(game).text
    for text_, secret in ((listed, seeds), (shown, seeds)):
        assert not [seed for seed in secret if seed > 1000 and str(seed) in text_]
    assert "another refrigerant than its label" not in shown
    assert "What was wrong</h2>" not in shown


def test_harm_is_said_at_once_and_counted(browser):
    game = begin(browser, code_of(browser, SHIPPED[0][0]))
    do(browser, game, "airs", "gauges", "gas_in")
    assert "Refrigerant was added while the air was not right" in words(browser.get(game))
    browser.post(game, False, do="commit", **{"fault-undercharge": "yes"})
    told = words(browser.get(game))
    assert "Not what it was, and it comes back in three weeks" in told
    assert "5 points of harm" in told
    assert "named, and was not so" in told


def test_two_windows_do_not_do_a_thing_twice(browser):
    game = begin(browser, code_of(browser, SHIPPED[1][0]))
    assert browser.post(game, False, step="airs", known="0").status_code == 303
    again = browser.post(game, False, step="airs", known="0")
    assert (again.status_code, "in another window" in words(again)) == (422, True)
    assert 'name="known" value="1"' in browser.get(game).text
    assert begin(browser, code_of(browser, SHIPPED[1][0])) == game  # taken again it goes on


@pytest.mark.parametrize(
    ("fields", "said"),
    [({"step": "nonsense", "known": "0"}, "cannot be done"), ({"step": "airs", "known": "many"}, "another window"),
     ({"do": "commit"}, "Tick what you found"), ({"do": "commit", "nothing": "yes"}, "this would be a guess"),
     ({"do": "commit", "fault-undercharge": "yes"}, "this would be a guess")],
)  # fmt: skip
def test_what_cannot_be_is_said_and_changes_nothing(browser, fields, said):
    game = begin(browser, code_of(browser, SHIPPED[2][0]))
    answer = browser.post(game, False, **fields)
    assert (answer.status_code, said in words(answer)) == (422, True)
    assert "0 min" in words(browser.get(game))


def test_codes_levels_and_others_plays(browser, lead, shop, owner):
    browser.get("/practice")
    wrong = (({"code": "nothing"}, "No call of your shop"), ({"level": "9"}, "how hard"), ({"level": "x"}, "how hard"))
    for fields, said in wrong:
        answer = browser.post("/practice", False, **fields)
        assert (answer.status_code, said in words(answer)) == (422, True)
    for level in "1234":
        assert browser.post("/practice", False, level=level).status_code == 303
    code = code_of(browser, SHIPPED[3][0])
    game = begin(browser, code)
    assert lead.get(game).status_code == 404  # not ended: nobody else's
    assert browser.get(f"/practice/{uuid6.uuid7()}").status_code == 404
    with owner.begin() as connection:
        connection.execute(update(PracticeCaseRow).where(PracticeCaseRow.shop_id == shop.id, PracticeCaseRow.code == code)
                           .values(version=0))  # fmt: skip
    refused = browser.post("/practice", False, code=code)
    assert "another version" in words(refused)
    for answer in (browser.get(game), browser.post(game, False, step="airs", known="0")):
        assert (answer.status_code, "another version" in words(answer)) == (422, True)


def test_the_same_code_is_the_same_call_for_everybody(browser, lead):
    code = code_of(browser, SHIPPED[4][0])
    shown = []
    for one in (browser, lead):
        game = begin(one, code)
        do(one, game, "gauges", "airs")
        shown.append(re.findall(r"<dd>([\d.,]+ (?:psig|°F))</dd>", one.get(game).text))
    assert len(shown[0]) > 4
    assert shown[0] == shown[1]


def test_a_lead_composes_a_call_and_sees_how_it_went(browser, lead, server, shop):
    fields = {"do": "compose", "title": "For Tuesday", "kind": "split_ac", "fault-overcharge": "yes"}
    helper = Browser(server)
    helper.sign_in(shop.logins["helper"])
    helper.get("/practice")
    assert helper.post("/practice", False, **fields).status_code == 403
    lead.get("/practice")
    four = {f"fault-{fault.value}": "yes" for fault in list(Fault)[1:5]}
    refused = lead.post("/practice", False, do="compose", title="Too much", **four)
    assert (refused.status_code, "Three things at most" in words(refused)) == (422, True)
    assert 'value="Too much"' in refused.text
    made = lead.post("/practice", False, **fields)
    code = made.headers["location"].split("made=")[1].split("#")[0]
    game = begin(browser, code)
    do(browser, game, "gauges", "lines", "airs", "gas_out", "gauges", "lines")
    browser.post(game, False, do="commit", **{"fault-overcharge": "yes"})
    assert "Named right, and it holds" in words(lead.get(game))
    assert "Ida technician 1 1 1 0" in words(lead.get("/practice"))
    assert "The team" not in words(browser.get("/practice"))


def test_a_play_that_was_left_for_a_week_goes_on_and_a_clock_set_back_does_no_harm(browser, shop, owner):
    game = begin(browser, code_of(browser, SHIPPED[5][0]))
    do(browser, game, "gauges")
    with owner.begin() as connection:
        connection.execute(text("UPDATE practice_game SET begun_at = begun_at + interval '7 days' WHERE shop_id = :shop"),
                           {"shop": shop.id})  # fmt: skip
    do(browser, game, "lines")
    browser.post(game, False, do="commit", nothing="yes")
    assert "What each step was worth" in browser.get(game).text
    assert browser.post(game, False, step="airs", known="2").status_code == 422
    assert browser.post(game, False, do="commit", nothing="yes").status_code == 303  # said twice is said once
    with owner.connect() as connection:
        asked = select(PracticeGameRow.named).where(PracticeGameRow.id == UUID(game.rsplit("/", 1)[1]))
        assert connection.execute(asked).scalar() == []


def test_every_remedy_has_a_button_that_works(browser):
    game = begin(browser, code_of(browser, SHIPPED[0][0]))
    offered = [name for name in re.findall(r'name="step" value="(\w+)"', browser.get(game).text) if name in REMEDIES]
    do(browser, game, *offered)
    assert "Done so far" in browser.get(game).text


def test_what_was_missed_comes_again(browser, shop, owner):
    browser.get("/practice")
    assert browser.post("/practice", False, do="again").status_code == 422
    game = begin(browser, code_of(browser, SHIPPED[0][0]))
    do(browser, game, "gauges")
    browser.post(game, False, do="commit", nothing="yes")
    assert "What I missed, once more" in browser.get("/practice").text
    again = browser.post("/practice", False, do="again")
    assert again.status_code == 303
    with owner.connect() as connection:
        asked = select(PracticeCaseRow.faults).where(PracticeCaseRow.shop_id == shop.id, PracticeCaseRow.title == "Once more")
        assert connection.execute(asked).scalar() == ["low_evaporator_airflow"]
