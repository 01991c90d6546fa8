"""A unit over its visits, as it is drawn."""

from __future__ import annotations

import xml.etree.ElementTree as ET

from dry_gauge.core.words import Reader
from dry_gauge.web.history import trends_of
from tests.present.test_kept_off import SOUND, read
from tests.present.test_views import visit_of
from tests.present.test_which_coil import COOLS, HEAT_PUMP, HEATS, IN_HEATING, on_a_heat_pump

SVG = "{http://www.w3.org/2000/svg}"


def drawn(*views):
    """Names of the drawings, and how many visits each shows."""
    roots = [ET.fromstring(one) for one in trends_of(views, Reader())]
    return {root.find(f"{SVG}title").text: len(list(root.iter(f"{SVG}circle"))) for root in roots}


def test_summers_and_winters_of_a_heat_pump_are_drawn_apart():
    summer, winter = on_a_heat_pump(COOLS, *read(SOUND)), on_a_heat_pump(HEATS, *read(IN_HEATING))
    assert drawn(summer, winter) == {}
    both = drawn(summer, winter, summer, winter, winter)
    assert (both["Superheat in cooling"], both["Superheat in heating"]) == (2, 3)
    assert (both["Air split in cooling"], both["Air rise in heating"]) == (2, 3)
    cooled = drawn(*[visit_of(*read(SOUND), unit=HEAT_PUMP)] * 2)
    assert "Superheat" in cooled  # of one mode only, it need not be said
