"""When it gets dark where the shop works."""

from __future__ import annotations

from datetime import datetime, timedelta, timezone

from astral import Observer
from astral.sun import dusk

from dry_gauge.core.shop import ShopSettings


def dark_at(settings: ShopSettings, now: datetime) -> datetime | None:
    """When civil dusk ends on the day in which it is now there; None where the shop did not say where, or it never does."""
    if settings.latitude is None or settings.longitude is None:
        return None
    by_the_sun = timezone(timedelta(hours=settings.longitude / 15))
    try:
        found: datetime = dusk(Observer(settings.latitude, settings.longitude), now.astimezone(by_the_sun).date(),
                               tzinfo=by_the_sun)  # fmt: skip
    except ValueError:  # near the poles it does not get dark, or not light
        return None
    return found
