"""How hours are said where a shop works, for whoever has not chosen."""

from __future__ import annotations

from functools import lru_cache

from babel import Locale, UnknownLocaleError
from babel.core import get_global

_WORLD = "001"
_NO_COUNTRY = {_WORLD, "ZZ"}


@lru_cache(maxsize=64)
def usual_clock(time_zone: str) -> str:
    """``12``, with am and pm, or ``24``, as people of that zone's country write a time. [CLDR, by Babel]

    ``24`` also for a zone that lies in no country, or is not known.
    """
    country = get_global("zone_territories").get(time_zone, _WORLD)
    try:
        pattern = "" if country in _NO_COUNTRY else Locale.parse(f"und_{country}").time_formats["short"].pattern
    except UnknownLocaleError:
        pattern = ""
    return "12" if "a" in pattern else "24"
