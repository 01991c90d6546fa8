"""Practice over HTTP: nothing is given away, nothing real is touched, and odd requests change nothing."""

from __future__ import annotations

import re
from uuid import UUID

import numpy as np
import pytest
import uuid6
from sqlalchemy import func, insert, select, text, update

from dry_gauge.bench.practice import game
from dry_gauge.bench.practice.debrief import sound_way
from dry_gauge.bench.practice.hidden import REMEDIES
from dry_gauge.core.vocabulary import Fault
from dry_gauge.service.practice_cases import SHIPPED
from dry_gauge.store.models import EntryRow, PracticeCaseRow, PracticeGameRow, Visit, VisitResult
from tests.web.calls import Browser
from tests.web.test_register import words


@pytest.fixture
def lead(server, shop):
    browser = Browser(server)
    browser.sign_in(shop.logins["lead"])
    return browser


def game_of(owner, shop, code: str) -> str:
    with owner.connect() as connection:
        asked = select(PracticeGameRow.id).where(PracticeGameRow.shop_id == shop.id, PracticeGameRow.code == code)
        return f"/practice/{connection.execute(asked).scalar_one()}"


def code_of(browser: Browser, title: str) -> str:
    """The code under which a call is listed."""
    return re.search(rf"{title}</b>.*?<small class=\"mono\">(\w+)</small>", browser.get("/practice").text, re.S)[1]


def begin(browser: Browser, code: str, **fields: str) -> str:
    """The address of its notebook."""
    answer = browser.post("/practice", False, code=code, **fields)
    assert answer.status_code == 303, words(answer)
    return answer.headers["location"].split("?")[0]


def known(browser: Browser, visit: str) -> str:
    return re.search(r'name="known" value="(\d+)"', browser.get(visit).text)[1]


def do(browser: Browser, visit: str, *steps: str):
    answer, before = None, int(known(browser, visit))
    for done, step in enumerate(steps):
        answer = browser.post("/practice/hand", False, step=step, known=str(before + done), at="read")
        assert answer.status_code == 303, words(answer)
    return answer


def say(browser: Browser, *named: str, told: str = "") -> str:
    """The address of how it went."""
    answer = browser.post("/practice/say", False, told=told, **dict(zip(("first", "second", "third"), named, strict=False)))
    assert answer.status_code == 303, words(answer)
    return answer.headers["location"]


def test_the_first_call_is_solved_at_the_stations_and_nothing_real_is_touched(browser, shop, owner):
    def real() -> tuple[int, int]:
        with owner.connect() as connection:
            return tuple(
                connection.execute(select(func.count()).select_from(table).where(table.shop_id == shop.id)).scalar_one()
                for table in (Visit, EntryRow)
            )

    before = real()
    page = browser.get("/practice")
    assert page.text.count("take it") >= len(SHIPPED) + 1
    visit = begin(browser, code_of(browser, SHIPPED[0][0]))
    do(browser, visit, "airs", "gauges", "lines", "filter_dirty")
    shown = words(browser.get(f"{visit}?at=read"))
    assert "Held against the light nothing comes through" in shown
    assert "22 min" in shown
    assert "psig" in shown
    do(browser, visit, "filter", "wait_5", "gauges", "lines", "airs", "evaporator_air_proven")
    told = words(browser.get(say(browser, "low_evaporator_airflow", told="The filter was full.")))
    assert "Named right, and it holds" in told
    assert "the filter is plugged" in told
    assert "showed what it is" in told
    assert "The filter was full." in told
    assert real() == before


def test_what_is_done_costs_minutes_and_the_notebook_goes_by_the_plays_own_clock(browser, shop, owner):
    visit = begin(browser, code_of(browser, SHIPPED[1][0]))
    do(browser, visit, "gauges", "wait_30", "lines")
    with owner.connect() as connection:
        entries = connection.execute(
            select(EntryRow.written_at, EntryRow.body).where(EntryRow.visit_id == UUID(visit[8:])).order_by(EntryRow.sequence)
        ).all()
    read = [one.written_at for one in entries if one.body["kind"] == "reading"]
    assert {round((moment - entries[0].written_at).total_seconds() / 60) for moment in read} == {7, 42}


def test_real_pages_wait_until_the_call_is_left_and_what_waits_for_one_name_is_not_the_others(browser, shop):
    real = f"/visits/{shop.visit}"
    mine = browser.get("/practice").text
    visit = begin(browser, code_of(browser, SHIPPED[0][0]))
    for address in ("/", "/register/people", "/plan", "/cylinders", "/me"):
        answer = browser.get(address)
        assert (answer.status_code, "Not while you practice" in words(answer)) == (409, True), address
    assert browser.get(real).status_code == 404
    note = {"csrftoken": browser.token, "entry_id": str(uuid6.uuid7()), "kind": "note", "text": "written elsewhere"}
    me = re.compile(r'data-me="([\w-]+)"')
    assert me.search(mine)[1] == me.search(browser.get("/practice").text)[1] != me.search(browser.get(visit).text)[1]
    waited = browser.ask("POST", f"{visit}/entries", note, **{"x-writer": me.search(mine)[1]})
    assert waited.status_code == 401
    assert browser.post("/practice/leave", False).status_code == 303
    assert browser.get(real).status_code == 200
    assert browser.get(visit).status_code == 404
    assert begin(browser, code_of(browser, SHIPPED[0][0])) == visit  # it waited


def test_whose_units_are_changed_while_they_practise_has_them_changed(browser):
    visit = begin(browser, code_of(browser, SHIPPED[0][0]))
    do(browser, visit, "airs")
    browser.post("/me/preferences", False, temperature_unit="C", to=visit)
    assert re.search(r"Outdoor air \d+\.\d °C", words(browser.get(visit)))
    browser.post("/practice/leave", False)
    assert 'name="temperature_unit" value="C"' in browser.get("/practice").text
    browser.post("/me/preferences", False, temperature_unit="F", to="/")


def test_the_judgement_helps_as_it_was_chosen(browser):
    visit = begin(browser, code_of(browser, SHIPPED[1][0]), help="asked")
    do(browser, visit, "airs", "gauges", "lines")
    judge = f"{visit}?at=judge"
    assert "Yours to judge" in browser.get(judge).text
    assert 'class="causes"' not in browser.get(judge).text
    do(browser, visit, "judge")
    assert 'class="causes"' in browser.get(judge).text
    do(browser, visit, "wait_5")
    assert 'class="causes"' not in browser.get(judge).text
    browser.post("/practice/leave", False)
    hidden = begin(browser, code_of(browser, SHIPPED[2][0]), help="hidden")
    assert 'name="step" value="judge"' not in browser.get(hidden).text
    refused = browser.post("/practice/hand", False, step="judge", known="0", at="read")
    assert (refused.status_code, "cannot be done" in words(refused)) == (422, True)
    browser.post("/practice/leave", False)
    shown = begin(browser, code_of(browser, SHIPPED[3][0]), help="shown")
    do(browser, shown, "airs", "gauges", "lines")
    assert 'class="causes"' in browser.get(f"{shown}?at=judge").text


def test_a_dead_unit_is_walked_mended_and_proven(browser, shop, owner):
    visit = begin(browser, code_of(browser, "Nothing moves outside"))
    with owner.connect() as connection:
        asked = select(PracticeCaseRow.seed).where(
            PracticeCaseRow.shop_id == shop.id, PracticeCaseRow.title == "Nothing moves outside"
        )
        seed = connection.execute(asked).scalar_one()
    call = game.call_for(game.CaseSpec(seed, game.DEAD_LEVEL), np.random.default_rng(seed))
    do(browser, visit, "gauges")
    assert "It does not run" in words(browser.get(visit))
    way = [one.name for one in sound_way(call)]
    do(browser, visit, *[step for step in way if step.startswith(("volts", "across"))])
    shown = words(browser.get(f"{visit}?at=controls"))
    assert call.dead.link in shown
    do(browser, visit, *way[[step.startswith(("volts", "across")) for step in way].index(False) :])
    named = [f"link:{call.dead.link}", *(one.fault.value for one in call.wrong)]
    told = words(browser.get(say(browser, *named)))
    assert "Named right, and it holds" in told
    assert call.dead.words in told


def test_a_boards_lamp_is_watched_and_its_code_looked_up(browser):
    visit = begin(browser, code_of(browser, "Nothing moves outside"))
    do(browser, visit, "lamp")
    shown = browser.get(f"{visit}?at=controls").text
    assert "lamp-strip" in shown
    assert "1-2" in shown
    assert "High-pressure switch open" in shown
    assert "It flashes, stops, and begins again" in shown
    board = browser.get(f"{visit}?at=controls").text
    assert "Outdoor fan and coil, then reset it once" in board
    assert "The board's code names High-pressure switch" in words(browser.get(f"{visit}?at=controls"))


def test_nothing_is_given_away_before_it_is_said(browser, shop, owner):
    visit = begin(browser, code_of(browser, SHIPPED[7][0]))
    with owner.connect() as connection:
        seeds = connection.execute(select(PracticeCaseRow.seed).where(PracticeCaseRow.shop_id == shop.id)).scalars().all()
    listed = browser.get("/practice").text
    shown = browser.get(visit).text
    do(browser, visit, "airs", "gauges")
    shown += "".join(browser.get(f"{visit}?at={station}").text for station in ("look", "read", "judge", "mend", "close"))
    shown += browser.get("/practice/say").text + browser.get(f"{visit}/sheet.json").text
    for text_, secret in ((listed, seeds), (shown, seeds)):
        assert not [seed for seed in secret if seed > 1000 and str(seed) in text_]
    assert "another refrigerant than its label" not in shown
    assert "What was wrong</h2>" not in shown


def test_harm_is_said_at_once_and_counted(browser):
    visit = begin(browser, code_of(browser, SHIPPED[0][0]))
    do(browser, visit, "airs", "gauges", "gas_in")
    assert "Refrigerant was added while the air was not right" in words(browser.get(visit))
    told = words(browser.get(say(browser, "undercharge")))
    assert "Not what it was, and it comes back in three weeks" in told
    assert "5 points of harm" in told
    assert "named, and was not so" in told


def test_two_windows_do_not_do_a_thing_twice(browser):
    visit = begin(browser, code_of(browser, SHIPPED[1][0]))
    assert browser.post("/practice/hand", False, step="airs", known="0", at="read").status_code == 303
    again = browser.post("/practice/hand", False, step="airs", known="0", at="read")
    assert (again.status_code, "in another window" in words(again)) == (422, True)
    assert known(browser, visit) == "1"
    assert begin(browser, code_of(browser, SHIPPED[1][0])) == visit  # taken again it goes on


@pytest.mark.parametrize(
    ("path", "fields", "said"),
    [
        ("hand", {"step": "nonsense", "known": "0"}, "cannot be done"),
        ("hand", {"step": "comeback", "known": "0"}, "cannot be done"),
        ("hand", {"step": "airs", "known": "many"}, "another window"),
        ("say", {}, "Choose what is to be mended first"),
        ("say", {"first": "nothing"}, "this would be a guess"),
        ("say", {"first": "undercharge"}, "this would be a guess"),
    ],
)
def test_what_cannot_be_is_said_and_changes_nothing(browser, path, fields, said):
    visit = begin(browser, code_of(browser, SHIPPED[2][0]))
    answer = browser.post(f"/practice/{path}", False, told="It is hot.", **fields)
    assert (answer.status_code, said in words(answer)) == (422, True)
    if path == "say":
        assert "It is hot." in answer.text
    assert known(browser, visit) == "0"
    browser.post("/practice/leave", False)
    assert browser.post(f"/practice/{path}", False, **fields).status_code in (303, 404, 422)


@pytest.mark.parametrize("named", [("nonsense",), ("undercharge", "undercharge"), ("link:Control fuse",)])
def test_what_is_named_stands_on_the_list_once(browser, named):
    do(browser, begin(browser, code_of(browser, SHIPPED[1][0])), "gauges")
    answer = browser.post("/practice/say", False, **dict(zip(("first", "second"), named, strict=False)))
    assert (answer.status_code, "Name each thing once" in words(answer)) == (422, True)


def test_what_was_only_eased_comes_back_and_is_gone_on_with(browser, lead):
    lead.get("/practice")
    made = lead.post("/practice", False, do="compose", title="Short", kind="split_ac", **{"fault-undercharge": "yes"})
    visit = begin(browser, made.headers["location"].split("made=")[1].split("#")[0])
    do(browser, visit, "gauges", "lines", "gas_in")
    told = browser.get(say(browser, "undercharge")).text
    assert "it comes back in three weeks" in told
    again = re.search(r'name="comeback" value="([\w-]+)"', told)[1]
    back = browser.post("/practice", False, comeback=again)
    there = back.headers["location"].split("?")[0]
    assert there != visit
    assert "Three weeks later" in words(browser.get(there))
    do(browser, there, "leak", "joint", "hold_test", "evacuation", "weigh_in", "wait_15", "wait_5", "gauges", "lines")
    sealed = words(browser.get(f"{there}?at=vacuum"))
    assert "Watch 1: tight" in sealed
    assert "Named right, and it holds" in words(browser.get(say(browser, "undercharge")))
    assert lead.post("/practice", False, comeback=again).status_code == 404
    assert browser.post("/practice", False, comeback=str(uuid6.uuid7())).status_code == 404


def test_a_closed_visit_becomes_a_call_without_its_names(browser, lead, shop, owner):
    with owner.begin() as connection:
        found = {
            "shop_id": shop.id,
            "visit_id": shop.visit,
            "unit_id": shop.unit,
            "closed_at": func.now(),
            "outcome": "fixed",
            "causes": ["filter_dirty", "compressor_noise"],
            "parts": [],
        }
        connection.execute(insert(VisitResult).values(found))
    page = words(lead.get("/practice"))
    assert "evaporator short of air" in page
    made = lead.post("/practice", False, do="like", like=str(shop.visit), title="One of ours")
    assert made.status_code == 303
    visit = begin(browser, made.headers["location"].split("made=")[1].split("#")[0])
    assert "Test shop" not in browser.get(visit).text.replace("Test shop, technician", "")
    do(browser, visit, "airs")
    assert "Named right" in words(browser.get(say(browser, "low_evaporator_airflow")))
    for like in ("nonsense", str(uuid6.uuid7()), ""):
        refused = lead.post("/practice", False, do="like", like=like)
        assert (refused.status_code, "whose cause is known" in words(refused)) == (422, True)
    assert browser.post("/practice", False, do="like", like=str(shop.visit)).status_code == 403


def test_a_notebook_that_was_closed_takes_no_more_and_nothing_is_half_done(browser, shop, owner):
    visit = begin(browser, code_of(browser, SHIPPED[4][0]))
    do(browser, visit, "gauges")
    with owner.begin() as connection:
        closed = {"status": "closed", "closed_at": func.now()}
        connection.execute(update(Visit).where(Visit.id == UUID(visit[8:])).values(closed))
    answer = browser.post("/practice/hand", False, step="lines", known="1", at="read")
    assert (answer.status_code, known(browser, visit)) == (422, "1")
    assert "it comes back" in words(browser.get(say(browser, "undercharge")))


def test_a_notebook_that_is_gone_is_written_anew(browser, shop, owner):
    code = code_of(browser, SHIPPED[3][0])
    visit = begin(browser, code)
    do(browser, visit, "gauges", "lines")
    before = re.findall(r"[\d.]+ psig", words(browser.get(f"{visit}?at=read")))
    browser.post("/practice/leave", False)
    with owner.begin() as connection:
        connection.execute(update(PracticeGameRow).where(PracticeGameRow.shop_id == shop.id).values(visit_id=uuid6.uuid7()))
    again = begin(browser, code)
    assert again != visit
    assert re.findall(r"[\d.]+ psig", words(browser.get(f"{again}?at=read"))) == before


def test_codes_levels_and_others_plays(browser, lead, shop, owner):
    browser.get("/practice")
    wrong = (({"code": "nothing"}, "No call of your shop"), ({"level": "9"}, "how hard"), ({"level": "x"}, "how hard"))
    for fields, said in wrong:
        answer = browser.post("/practice", False, **fields)
        assert (answer.status_code, said in words(answer)) == (422, True)
    for level in "12345":
        assert browser.post("/practice", False, level=level).status_code == 303
    code = code_of(browser, SHIPPED[3][0])
    begin(browser, code)
    game = game_of(owner, shop, code)
    assert lead.get(game).status_code == 404  # not ended: nobody else's
    assert browser.get(f"/practice/{uuid6.uuid7()}").status_code == 404
    with owner.begin() as connection:
        connection.execute(
            update(PracticeCaseRow).where(PracticeCaseRow.shop_id == shop.id, PracticeCaseRow.code == code).values(version=0)
        )
    refused = browser.post("/practice", False, code=code)
    assert "another version" in words(refused)
    for answer in (browser.get(game), browser.post("/practice/hand", False, step="airs", known="0")):
        assert (answer.status_code, "another version" in words(answer)) == (422, True)


def test_the_same_code_is_the_same_call_for_everybody(browser, lead):
    code = code_of(browser, SHIPPED[4][0])
    shown = []
    for one in (browser, lead):
        visit = begin(one, code)
        do(one, visit, "gauges", "airs")
        shown.append(re.findall(r"[\d.,]+ (?:psig|°F)", words(one.get(f"{visit}?at=read"))))
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
    visit = begin(browser, code)
    do(browser, visit, "gauges", "lines", "airs", "gas_out", "wait_30", "gauges", "lines")
    game = say(browser, "overcharge")
    assert "Named right, and it holds" in words(lead.get(game))
    assert re.search(r"Ida technician 1 1 1 \d", words(lead.get("/practice")))
    assert "The team" not in words(browser.get("/practice"))
    both = lead.post("/practice", False, do="compose", dead="yes", **{"fault-overcharge": "yes"})
    assert (both.status_code, "tick nothing besides" in words(both)) == (422, True)
    assert lead.post("/practice", False, do="compose", dead="yes", title="It stands").status_code == 303


def test_a_play_that_was_left_for_a_week_goes_on_and_a_clock_set_back_does_no_harm(browser, shop, owner):
    code = code_of(browser, SHIPPED[5][0])
    visit = begin(browser, code)
    do(browser, visit, "gauges")
    for days in (7, -9):
        with owner.begin() as connection:
            moved = text("UPDATE practice_game SET begun_at = begun_at + :days * interval '1 day' WHERE shop_id = :shop")
            connection.execute(moved, {"shop": shop.id, "days": days})
        do(browser, visit, "lines")
    game = say(browser, "nothing")
    assert "What each step was worth" in browser.get(game).text
    assert browser.post("/practice/hand", False, step="airs", known="2").status_code == 404
    assert browser.post("/practice/say", False, first="nothing").status_code == 404  # said twice is said once
    with owner.connect() as connection:
        asked = select(PracticeGameRow.named).where(PracticeGameRow.id == UUID(game.rsplit("/", 1)[1]))
        assert connection.execute(asked).scalar() == []


@pytest.mark.parametrize("title", [SHIPPED[0][0], "Nothing moves outside"])
def test_everything_that_is_offered_works(browser, title):
    visit = begin(browser, code_of(browser, title))
    offered = [
        one
        for one in re.findall(r'name="step" value="(\w+)"', browser.get(visit).text)
        if title == SHIPPED[0][0] or one not in REMEDIES
    ]
    assert len(offered) > 40
    do(browser, visit, *offered)
    assert str(len(offered)) == known(browser, visit)


def test_who_only_reads_plays_nothing(server, shop, lead):
    reader = Browser(server)
    reader.sign_in(shop.logins["read_only"])
    assert reader.post("/practice", False, code=code_of(lead, SHIPPED[0][0])).status_code == 403


def test_what_was_missed_comes_again(browser, shop, owner):
    browser.get("/practice")
    assert browser.post("/practice", False, do="again").status_code == 422
    visit = begin(browser, code_of(browser, SHIPPED[0][0]))
    do(browser, visit, "gauges")
    say(browser, "nothing")
    assert "What is due again (1)" in browser.get("/practice").text
    again = browser.post("/practice", False, do="again")
    assert again.status_code == 303
    with owner.connect() as connection:
        asked = select(PracticeCaseRow.faults).where(PracticeCaseRow.shop_id == shop.id, PracticeCaseRow.title == "Once more")
        assert connection.execute(asked).scalar() == ["low_evaporator_airflow"]
