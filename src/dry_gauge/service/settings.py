"""The settings of a shop, read and kept."""

from __future__ import annotations

from uuid import UUID

from sqlalchemy import Connection

from dry_gauge.core.shop import ShopSettings
from dry_gauge.store.cylinders import set_settings, settings_of


def shop_settings(connection: Connection) -> ShopSettings:
    """The settings of the shop that this transaction sees."""
    return ShopSettings.model_validate(settings_of(connection))


def keep_settings(connection: Connection, shop_id: UUID, settings: ShopSettings) -> None:
    """Set everything anew."""
    set_settings(connection, shop_id, settings.model_dump(mode="json"))
