"""When it gets dark where the shop works."""

from __future__ import annotations

from datetime import datetime, timedelta, timezone

from astral import Observer
from astral.sun import dawn, dusk

from dry_gauge.core.shop import ShopSettings


def dark_at(settings: ShopSettings, now: datetime) -> datetime | None:
    """When civil dusk ends today, and before dawn when it ended; None where the shop did not say where, or it never does."""
    if settings.latitude is None or settings.longitude is None:
        return None
    by_the_sun = timezone(timedelta(hours=settings.longitude / 15))
    place, today = Observer(settings.latitude, settings.longitude), now.astimezone(by_the_sun).date()
    try:
        day = today if now >= dawn(place, today, tzinfo=by_the_sun) else today - timedelta(days=1)
        found: datetime = dusk(place, day, tzinfo=by_the_sun)
    except ValueError:  # near the poles it does not get dark, or not light
        return None
    return found
