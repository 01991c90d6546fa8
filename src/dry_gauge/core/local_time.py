"""Hours and days by the clock of the shop that is being served.

Moments are kept and compared wherever they come from; only what says an hour or a day asks here. The zone, and how whoever
reads it likes hours said, hold for one request or job, for whoever draws or counts in it, as a locale would. Outside of one the
machine's own zone holds, and so it does where a shop has set none.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from datetime import date, datetime, time, timezone, tzinfo
from functools import lru_cache
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError, available_timezones


@dataclass(slots=True)
class _Served:
    """Shared by all threads and tasks of one request: the first that knows the shop says it to all."""

    zone: tzinfo | None = None
    twelve: bool = False


_NOBODY = _Served()
_SERVED: ContextVar[_Served] = ContextVar("served", default=_NOBODY)


@contextmanager
def served(zone: str = "", hours: str = "24") -> Iterator[None]:
    """One request or job; its zone and hours may be said later, once it is known who asks (`by_clock`)."""
    token = _SERVED.set(_Served(zone_of(zone), hours == "12"))
    try:
        yield
    finally:
        _SERVED.reset(token)


def by_clock(zone: str, hours: str = "24") -> None:
    """From here on in this request or job; nothing outside of one. `hours` are ``24``, or ``12`` with am and pm."""
    one = _SERVED.get()
    if one is not _NOBODY:
        one.zone, one.twelve = zone_of(zone), hours == "12"


@lru_cache(maxsize=64)
def zone_of(name: str) -> tzinfo | None:
    """A zone by its usual name, such as ``America/Denver``; None, the machine's own, for no name or one that is not known."""
    try:
        return ZoneInfo(name) if name else None
    except (ZoneInfoNotFoundError, ValueError, OSError):
        return None


@lru_cache(maxsize=1)
def zones() -> tuple[str, ...]:
    """Zones that are named for a place; what only gives an offset or an older name of a country is left out."""
    regions = {"Africa", "America", "Antarctica", "Arctic", "Asia", "Atlantic", "Australia", "Europe", "Indian", "Pacific"}
    return tuple(sorted(name for name in available_timezones() if name.partition("/")[0] in regions and "/" in name))


def local(moment: datetime) -> datetime:
    """That moment by the shop's clock. Its offset is fixed: differences across a change of clocks stay right."""
    here = moment.astimezone(_SERVED.get().zone)
    offset = here.utcoffset()
    return here if offset is None else here.replace(tzinfo=timezone(offset))


def clock(moment: datetime) -> str:
    """Hour and minute of that moment by the shop's clock, as whoever reads it likes them: ``17:35`` or ``5:35 pm``."""
    here = local(moment)
    return hour_words(here.hour, here.minute) if _SERVED.get().twelve else f"{here:%H:%M}"


def hour_words(hour: int, minute: int | None = None) -> str:
    """An hour of twelve, with its half of the day: ``5 pm``, ``12:05 am``."""
    past = "" if minute is None else f":{minute:02d}"
    return f"{hour % 12 or 12}{past} {'am' if hour % 24 < 12 else 'pm'}"


def axis_hour(hour: int) -> str:
    """A full hour as an axis has it: ``17`` or ``5 pm``."""
    return hour_words(hour) if _SERVED.get().twelve else f"{hour:02d}"


def day_of(moment: datetime) -> date:
    """The shop's day of that moment."""
    return local(moment).date()


def local_at(day: date, hour: time = time()) -> datetime:
    """That hour of a day of the shop's; midnight, unless said."""
    return local(datetime.combine(day, hour, _SERVED.get().zone))
