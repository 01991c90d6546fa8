"""What this unit showed when it was sound moves what is expected of it, and only that."""

from __future__ import annotations

import json

import pytest

from dry_gauge.core.circuit import derive
from dry_gauge.core.judgement.features import FEATURES
from dry_gauge.core.judgement.inference import weigh
from dry_gauge.core.words import Reader
from dry_gauge.exchange.reading_sheet import parse_sheet
from dry_gauge.present.judge import measured_against
from tests.builders import AIR_PROVEN, HEALTHY, TXV, answer, judged, sheet

# A unit that has always run with a hot condenser, however clean.
HOT = HEALTHY | {"liquid_pressure": 410.0, "liquid_line_temp": 108.5}


def document_with(values, *earlier):
    document = sheet(TXV, AIR_PROVEN, **values)
    document["earlier"] = [
        {
            "date": f"2026-05-{day:02d}",
            "proven": True,
            "minutes_running": 25,
            "observations": [],
            "readings": sheet(TXV, **then)["readings"],
            **more,
        }
        for day, (then, more) in enumerate(earlier, start=1)
    ]
    return document


def with_earlier(values, *earlier):
    return answer(document_with(values, *earlier))


def chance(found, fault):
    return next(cause["probability"] for cause in found["causes"] if cause["fault"] == fault)


def test_a_habit_that_was_proven_is_no_fault():
    alone = with_earlier(HOT)
    known = with_earlier(HOT, (HOT, {}), (HOT, {}))
    assert "baseline" not in alone
    assert known["baseline"]["visits"] == 2
    assert {"superheat_f", "subcooling_f", "condenser_split_f"} <= set(known["baseline"]["used"])
    assert chance(known, "none") > chance(alone, "none") + 0.15


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


# The same unit with a condenser gap of its own: what a day showed, off by so much head.
def day(head):
    pressure, line = HEALTHY["liquid_pressure"] + head, HEALTHY["liquid_line_temp"] + head / 4
    return HEALTHY | {"liquid_pressure": pressure, "liquid_line_temp": line}


def gap(document):
    sheet = parse_sheet(json.dumps(document).encode())
    return weigh(sheet.circuit(1), derive(sheet.circuit(1))).sound("condenser_split")


def test_one_bad_set_of_three_is_outvoted_and_two_that_contradict_teach_little():
    def own(*heads):
        return gap(document_with(HEALTHY, *[(day(head), {}) for head in heads]))

    good, outvoted = own(30, 30, 30), own(30, -60, 30)
    general, contradicted = own(), own(60, -60)
    assert abs(outvoted[0] - good[0]) < 0.25 * abs(good[0] - general[0])
    assert abs(contradicted[0] - general[0]) < 0.3 * general[2]
    assert good[1] < 0.8 * good[2]
    assert contradicted[1] > good[1] * 1.1


def with_clamp(values, name, *thens):
    """The same instruments on every day but the liquid line's clamp: that is `name` today, and on the days as they say."""
    document = document_with(values, *[(then, {}) for then, _ in thens])
    for readings, clamp in (
        (document["readings"], name),
        *((one["readings"], by) for one, (_, by) in zip(document["earlier"], thens, strict=True)),
    ):
        for reading in readings:
            if reading["quantity"] == "liquid_line_temp":
                reading["instrument"] = clamp
    return document


def subcooling(document):
    sheet = parse_sheet(json.dumps(document).encode())
    found = weigh(sheet.circuit(1), derive(sheet.circuit(1)))
    picture = found.pictures[0]
    return picture.sigma[list(picture.at).index(FEATURES.index("subcooling"))], found.sound("subcooling")[0]


def test_an_instrument_that_read_the_unit_before_is_wrong_in_the_same_way():
    days = [(HEALTHY, "clamp 2"), (HEALTHY, "Clamp 2")]
    same, other = (subcooling(with_clamp(HEALTHY, name, *days)) for name in ("CLAMP 2", "clamp 3"))
    assert same[0] < 0.9 * other[0]  # what is left to doubt
    # One day by another instrument, or by one that nobody named, and it is no more than any.
    for mixed in ("clamp 3", ""):
        assert subcooling(with_clamp(HEALTHY, "clamp 2", (HEALTHY, "clamp 2"), (HEALTHY, mixed))) == other
    assert subcooling(with_clamp(HEALTHY, "", (HEALTHY, ""), (HEALTHY, ""))) == other
    # What it always shows is the unit's to it: further of the way that the days stood off is believed.
    off = HEALTHY | {"liquid_line_temp": HEALTHY["liquid_line_temp"] - 4}
    own, strange = (subcooling(with_clamp(off, name, (off, "clamp 2"), (off, "clamp 2")))[1] for name in ("clamp 2", "clamp 3"))
    assert own > strange > same[1]


def test_what_moves_one_way_through_every_visit_is_no_habit():
    """A slow leak must not teach itself as normal."""
    losing = [HEALTHY | {"liquid_line_temp": HEALTHY["liquid_line_temp"] + lost} for lost in (0, 3, 6)]
    found = with_earlier(HEALTHY | {"liquid_line_temp": HEALTHY["liquid_line_temp"] + 9}, *[(then, {}) for then in losing])
    assert found["baseline"]["drift"] == ["subcooling_f"]
    steady = with_earlier(HEALTHY, *[(HEALTHY, {})] * 3)
    assert steady["baseline"]["drift"] == []


@pytest.mark.parametrize("number", range(1, 13))
def test_any_number_of_sets_is_taken(number):
    found = with_earlier(HEALTHY, *[(HEALTHY, {})] * number)
    assert found["baseline"]["visits"] == number
    assert chance(found, "none") > 0.8


# -- other units of its model ---------------------------------------------------------


def among(*days_of):
    """The condenser gap that a sound unit would show, with hot days of these units on the sheet; its own has no name."""
    return gap(document_with(HEALTHY, *[(day(30), {"unit": unit}) for unit in days_of]))


def test_units_of_its_model_say_less_than_its_own_days_and_one_of_them_counts_once():
    general = among()
    own, other, twice, two = among(""), among("RTU-2"), among("RTU-2", "RTU-2"), among("RTU-2", "RTU-3")
    assert general[0] < other[0] < two[0] < own[0]
    assert own[1] < two[1] < other[1] < general[1]
    assert twice[0] - other[0] < 0.6 * (two[0] - other[0])
    assert among("", "", "RTU-2")[1] <= among("", "")[1]


def test_a_unit_of_its_model_never_says_how_its_ducts_are():
    with_static = HEALTHY | {"external_static_supply": 0.4, "external_static_return": -0.5}
    document = document_with(with_static, (with_static, {"unit": "RTU-2"}))
    view = parse_sheet(json.dumps(document).encode()).circuit(1)
    alone = parse_sheet(json.dumps(document | {"earlier": []}).encode()).circuit(1)
    here, there = (weigh(one, derive(one)).sound("external_static") for one in (view, alone))
    assert here == there


def test_units_of_its_model_are_named_in_the_answer():
    found = with_earlier(HOT, (HOT, {"unit": "RTU-2"}), (HOT, {"unit": "RTU-3"}))
    assert found["baseline"]["visits"] == 0
    assert found["baseline"]["like_units"] == ["RTU-2", "RTU-3"]


# -- circuits of one unit -----------------------------------------------------------


def two_circuits(first, second):
    unit = TXV | {"kind": "package_ac"}
    document = sheet(unit, AIR_PROVEN)
    document["readings"] = [
        one | {"circuit": number} if one["quantity"] not in AIR else one
        for number, values in ((1, first), (2, second))
        for one in sheet(unit, **values)["readings"]
        if number == 1 or one["quantity"] not in AIR
    ]
    return document


AIR = {"outdoor_air_temp", "return_air_temp", "return_air_wet_bulb", "supply_air_temp"}
UNLIKE = HEALTHY | {"liquid_line_temp": HEALTHY["liquid_line_temp"] - 2.0}


def test_a_sound_neighbour_says_what_this_unit_is_like_and_is_named():
    beside = judged(two_circuits(UNLIKE, UNLIKE))
    alone = judged(sheet(TXV | {"kind": "package_ac"}, AIR_PROVEN, **UNLIKE)).first
    here = beside.circuits[1]
    assert [number for number, *_ in here.judgement.baseline.siblings] == [2]
    assert abs(here.judgement.expected("subcooling") - here.derived["subcooling"].value) < abs(
        alone.judgement.expected("subcooling") - alone.derived["subcooling"].value
    )
    said = [one.phrase.read(Reader()) for cause in here.causes for one in (*cause.evidence_for, *cause.evidence_against)]
    assert any("Circuit 2 on the same air shows" in words for words in said)


def test_a_neighbour_never_clears_what_both_stand_in():
    for gap in ("evaporator_td", "condenser_split", "air_split"):
        beside = judged(two_circuits(UNLIKE, UNLIKE)).circuits[1].judgement
        alone = judged(sheet(TXV | {"kind": "package_ac"}, AIR_PROVEN, **UNLIKE)).first.judgement
        assert beside.sound(gap) == alone.sound(gap)


def test_a_sick_neighbour_is_no_reference():
    short = HEALTHY | {"liquid_line_temp": HEALTHY["liquid_line_temp"] + 7.0, "liquid_pressure": HEALTHY["liquid_pressure"] - 10}
    impossible = short | {"liquid_pressure": HEALTHY["liquid_pressure"] - 40}
    for other in (short, impossible):
        assert judged(two_circuits(HEALTHY, other)).circuits[1].judgement.baseline is None


CHART = {"outdoor_f": 90, "indoor_f": 63, "indoor_is": "wet_bulb", "suction_psig": 120, "head_psig": 425}
BY_CHART = HEALTHY | {"liquid_pressure": 425.0, "liquid_line_temp": 110.0}


def charted(values, *rows, stage=None, control="two_stage"):
    document = sheet(TXV | {"maker_chart": list(rows), "compressor_control": control}, AIR_PROVEN, **values)
    for one in document["readings"]:
        one["stage"] = stage
    return judged(document).first


def test_what_the_makers_chart_gives_is_what_a_sound_unit_of_its_model_shows():
    known, alone = charted(BY_CHART, CHART), charted(BY_CHART)
    assert (known.verdict, alone.verdict) == ("healthy", "not_enough")
    assert known.causes[0].probability > alone.causes[0].probability + 0.3
    # Towards the chart's gap of 29 F by more than half, and not all the way: units of a model differ.
    usual, expected, given = (
        one * 1.8
        for one in (
            alone.judgement.sound("condenser_split")[0],
            known.judgement.sound("condenser_split")[0],
            known.targets["condenser_split"].aim_k,
        )
    )
    assert (usual + given) / 2 < expected < given
    assert measured_against(known) == "Measured against its maker's chart, besides units like it."
    assert measured_against(alone) == ""


@pytest.mark.parametrize("how", [{"stage": "low"}, {"control": "inverter"}])
def test_what_stands_off_the_chart_is_no_sound_unit_and_less_than_full_speed_is_not_on_it(how):
    assert charted(HEALTHY, CHART).verdict == "not_enough"
    part, plain = charted(BY_CHART, CHART, **how), charted(BY_CHART, **how)
    assert [cause.probability for cause in part.causes] == [cause.probability for cause in plain.causes]


def test_its_own_sound_days_go_before_the_chart():
    document = document_with(HEALTHY, (HEALTHY, {}), (HEALTHY, {}))
    own = judged(document).first.judgement.sound("condenser_split")[0]
    document["unit"]["maker_chart"] = [CHART]
    both = judged(document).first.judgement.sound("condenser_split")[0]
    assert own < both < own + 3 / 1.8  # the chart's own gap lies 10 F above
