"""What the weather asks for: heat by its index, thunder, rain over open panels, dusk; each once."""

from __future__ import annotations

from datetime import UTC, datetime

import pytest

from dry_gauge.core.quantities import to_fahrenheit, to_kelvin
from dry_gauge.core.shop import ShopSettings
from dry_gauge.core.visit.weather import Sky, heat_index_k, heeded
from dry_gauge.core.words import Reader
from dry_gauge.service.daylight import dark_at


# US National Weather Service, Heat Index Chart (shade, light wind), rounded to whole degrees.
@pytest.mark.parametrize(
    ("air_f", "humidity", "felt_f"), [(80, 40, 80), (86, 90, 105), (90, 50, 95), (96, 50, 108), (100, 40, 109), (104, 55, 137)]
)
def test_the_heat_index_is_the_weather_services(air_f, humidity, felt_f):
    assert to_fahrenheit(heat_index_k(to_kelvin(air_f), humidity / 100)) == pytest.approx(felt_f, abs=1.3)


def test_a_cool_day_feels_as_it_is_and_humidity_has_its_range():
    assert to_fahrenheit(heat_index_k(to_kelvin(60), 0.5)) == pytest.approx(59, abs=1.5)
    with pytest.raises(ValueError, match="between 0 and 1"):
        heat_index_k(to_kelvin(90), 45)


def said(now=("look",), given=(), **known):
    first, last = heeded(now, given, Reader(), **known)
    return [one.code for one in first], [one.code for one in last]


@pytest.mark.parametrize(
    ("known", "first", "last"),
    [
        ({"air_k": to_kelvin(76), "humidity": 0.5}, [], []),
        ({"air_k": to_kelvin(84), "humidity": 0.5}, [], ["weather_heat"]),
        ({"air_k": to_kelvin(95)}, [], ["weather_high_heat"]),
        ({"sky": Sky.RAIN}, ["weather_rain"], []),
        ({"sky": Sky.RAIN, "air_k": to_kelvin(33)}, ["weather_rain", "weather_ice"], []),
        ({"thunder_minutes": 29.0, "thunder_code": "1"}, ["weather_thunder_1"], []),
        ({"thunder_minutes": 30.0}, [], []),
        ({"dark_in_minutes": 91.0}, [], []),
        ({"dark_in_minutes": 40.0}, [], ["weather_dark"]),
    ],
)
def test_it_is_said_at_its_moment(known, first, last):
    assert said(**known) == (first, last)
    assert said(given=[*first, *last], **known) == ([], [])


def test_rain_is_said_where_panels_stand_open_and_thunder_anew_each_time():
    assert said(("close",), sky=Sky.RAIN) == ([], [])
    assert said(given=["weather_thunder_1"], thunder_minutes=2.0, thunder_code="2") == (["weather_thunder_2"], [])
    words = heeded(("look",), (), Reader(), air_k=to_kelvin(95))[1][0].words
    assert "45 % humidity assumed" in words


# 2026-06-20 at 39.74 N, 104.99 W: civil dusk at 21:04 by the clock there, six hours behind (US Naval Observatory).
@pytest.mark.parametrize("hour", [15, 2])
def test_it_gets_dark_where_the_shop_is(hour):
    now = datetime(2026, 6, 20 if hour == 15 else 21, hour, tzinfo=UTC)  # 9 in the morning there, and 8 in the evening
    dusk = dark_at(ShopSettings(latitude=39.74, longitude=-104.99), now)
    assert abs((dusk - datetime(2026, 6, 21, 3, 4, tzinfo=UTC)).total_seconds()) < 240
    before_dawn = dark_at(ShopSettings(latitude=39.74, longitude=-104.99), datetime(2026, 6, 21, 9, tzinfo=UTC))
    assert before_dawn == dusk  # at 3 in the morning there it is dark since then
    assert dark_at(ShopSettings(), now) is None
    assert dark_at(ShopSettings(latitude=78, longitude=15), now) is None  # it stays light there in June
