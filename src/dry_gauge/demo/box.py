"""A cheese cellar's box that came back too warm: how its air and its wheels went on while it was worked on."""

from __future__ import annotations

from dry_gauge.bench.box import Box, pull_down
from dry_gauge.core.box.pull_down import Span
from dry_gauge.core.quantities import to_fahrenheit, to_kelvin
from dry_gauge.notebook.kind import Body
from dry_gauge.notebook.subjects.readings import ReadingBody
from dry_gauge.notebook.subjects.walk_in_box import BoxCheckBody, BoxMarkBody, FoodBody, PressureSettingBody

MINUTES = 110.0
_BOX = Box(
    outdoor_k=to_kelvin(74),
    design_k=to_kelvin(42),
    start_air_k=to_kelvin(55),
    start_product_k=to_kelvin(48),
    cooling_k_min=0.17,
    cooling_slope=0.012,
    leak=0.004,
    product_share=2.0,
    product_link=0.02,
)
_DOOR = Span(41.0, 47.0)


def hot_cooler() -> list[tuple[float, Body]]:
    """Minutes ago, and what was written then."""
    at, air, product = pull_down(_BOX, MINUTES, [_DOOR])
    found: list[tuple[float, Body]] = [
        (MINUTES, FoodBody(product="cheese wheels", limit=45.0, limit_minutes=360, warm_for_minutes=70)),
        (MINUTES - 1, BoxCheckBody(check="fans", good=True)),
        (MINUTES - 1, BoxCheckBody(check="door", good=False, words="closer broken, wedged open at night")),
        (MINUTES - 2, BoxCheckBody(check="ice", good=True)),
        (MINUTES - 2, PressureSettingBody(way="pump_down", cut_out_psig=22, cut_in_psig=26, coldest_f=20)),
        (MINUTES - _DOOR.start, BoxMarkBody(what="door", begins=True)),
        (MINUTES - 47.0, BoxMarkBody(what="door", begins=False)),
    ]
    for i in range(0, len(at), 14):
        found.append((MINUTES - at[i], ReadingBody(quantity="box_air_temp", value=round(to_fahrenheit(air[i]), 1), unit="F")))
        if i % 42 == 0:
            found.append(
                (
                    MINUTES - at[i],
                    ReadingBody(
                        quantity="product_temp", place="cheese wheels", unit="F", value=round(to_fahrenheit(product[i]), 1)
                    ),
                )
            )
    return sorted(found, key=lambda one: -one[0])
