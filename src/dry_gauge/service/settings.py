"""The settings of a shop, read and kept."""

from __future__ import annotations

from sqlalchemy import Connection

from dry_gauge.core.shop import ShopSettings
from dry_gauge.core.visit.teach import CARDS, limits_of
from dry_gauge.service import audit
from dry_gauge.store.cylinders import set_settings, settings_of
from dry_gauge.store.people import Someone


def shop_settings(connection: Connection) -> ShopSettings:
    """The settings of the shop that this transaction sees."""
    return ShopSettings.model_validate(settings_of(connection))


def keep_settings(connection: Connection, someone: Someone, settings: ShopSettings) -> None:
    """Set everything anew; what differs is noted."""
    former = shop_settings(connection)
    before, after = (one.model_dump(mode="json") for one in (former, settings))
    set_settings(connection, someone.shop_id, after)
    changed = [
        f"{name.replace('_', ' ')}: {before[name]} to {value}"
        for name, value in after.items()
        if value != before[name] and not isinstance(value, dict)
    ]
    then, now = (limits_of(one.helper_limits) for one in (former, settings))
    changed += [
        f"a helper, {CARDS[step].title.lower()}: {then[step]} to {limit}"
        for step, limit in now.items()
        if limit is not then[step]
    ]
    if changed:
        audit.note(connection, someone, "settings_changed", "; ".join(changed))
