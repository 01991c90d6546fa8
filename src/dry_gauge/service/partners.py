"""Indoor and outdoor units with cards of their own that are one system: said once, true for both."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID

import uuid6
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.service import audit
from dry_gauge.service.allowed import unit_here, writer
from dry_gauge.store import register
from dry_gauge.store.people import Someone


def pair_up(connection: Connection, someone: Someone, unit_id: UUID, partner_id: UUID | None, now: datetime) -> None:
    """Say which unit of its site a unit belongs with, or that it stands alone; both cards keep who said so.

    Raises
    ------
    NotHere, NotAllowed
    Refused
        For the unit itself, or one at another site.
    """
    writer(someone, "changes the register")
    unit = unit_here(connection, unit_id)
    partner = unit_here(connection, partner_id) if partner_id else None
    if partner is not None and (partner.id == unit.id or partner.site_id != unit.site_id):
        raise Refused("Choose another unit of this site.", "partner")
    if unit.partner_id == partner_id:
        return
    concerned = {one.id: one for one in (unit, partner) if one is not None}
    for one in list(concerned.values()):
        if one.partner_id is not None:
            left = unit_here(connection, one.partner_id)
            concerned.setdefault(left.id, left)
    register.pair(connection, unit_id, partner_id)
    audit.note(connection, someone, "card_changed", f"{unit.tag}: with {partner.tag if partner else 'no partner'}")
    for one in concerned.values():
        before = unit_here(connection, one.partner_id).tag if one.partner_id else None
        now_with = unit_here(connection, one.id).partner_id
        after = unit_here(connection, now_with).tag if now_with else None
        if before != after:
            register.note_change(
                connection, someone.shop_id, one.id, someone.person_id, uuid6.uuid7(), now, {"partner": [before, after]}
            )
