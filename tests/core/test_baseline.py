"""What this unit showed when it was sound moves what is expected of it, and only that."""

from __future__ import annotations

import pytest

from tests.builders import AIR_PROVEN, HEALTHY, TXV, answer, sheet

# A unit that has always run with a hot condenser, however clean.
HOT = HEALTHY | {"liquid_pressure": 410.0, "liquid_line_temp": 108.5}


def with_earlier(values, *earlier):
    document = sheet(TXV, AIR_PROVEN, **values)
    document["earlier"] = [
        {"date": f"2026-05-{day:02d}", "proven": True, "minutes_running": 25, "observations": [],
         "readings": sheet(TXV, **then)["readings"], **more}
        for day, (then, more) in enumerate(earlier, start=1)
    ]  # fmt: skip
    return answer(document)


def chance(found, fault):
    return next(cause["probability"] for cause in found["causes"] if cause["fault"] == fault)


def test_a_habit_that_was_proven_is_no_fault():
    alone = with_earlier(HOT)
    known = with_earlier(HOT, (HOT, {}), (HOT, {}))
    assert "baseline" not in alone
    assert known["baseline"]["visits"] == 2
    assert {"superheat_f", "subcooling_f", "condenser_split_f"} <= set(known["baseline"]["used"])
    assert chance(known, "none") > chance(alone, "none") + 0.2


def test_a_change_from_the_habit_is_seen():
    known = with_earlier(HEALTHY | {"liquid_pressure": 405.0}, (HEALTHY, {}), (HEALTHY, {}), (HEALTHY, {}))
    alone = with_earlier(HEALTHY | {"liquid_pressure": 405.0})
    assert chance(known, "none") <= chance(alone, "none")


@pytest.mark.parametrize("more", [{"proven": False}, {"before_change": True}, {"readings": []}])
def test_sets_that_say_nothing_of_the_sound_unit_are_kept_out(more):
    found = with_earlier(HOT, (HOT, more))
    assert "baseline" not in found
    assert found["causes"] == with_earlier(HOT)["causes"]


def test_more_proven_sets_never_make_the_same_reading_less_ordinary():
    chances = [chance(with_earlier(HOT, *[(HOT, {})] * n), "none") for n in (0, 1, 2, 4)]
    assert chances == sorted(chances)
