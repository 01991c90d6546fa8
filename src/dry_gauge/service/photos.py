"""Photos, kept with the entry or the card that they belong to. They come here small already: nothing is locked meanwhile."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID

import uuid6
from sqlalchemy import Connection

from dry_gauge.exchange.clips import Clip
from dry_gauge.exchange.pictures import Picture
from dry_gauge.service.allowed import unit_here, writer
from dry_gauge.service.append import Appended, Sent, Taken, append
from dry_gauge.store.people import Someone
from dry_gauge.store.register import add_photo, change_unit


def keep_photo(
    connection: Connection,
    someone: Someone,
    visit_id: UUID,
    sent: Sent,
    picture: Picture,
    now: datetime,
    clip: Clip | None = None,
) -> tuple[Appended, Taken]:
    """Keep a photo with its entry, or a clip with its still; the same entry sent again keeps no second one.

    Raises
    ------
    NotHere, NotAllowed, Refused, IdTaken
        As `append` does.
    """
    appended, taken = append(connection, someone, visit_id, sent, now)
    if not taken.repeated:
        _add(connection, someone, taken.entry.id, appended.visit.unit_id, taken.entry.written_at, picture, clip)
    return appended, taken


def keep_label_photo(connection: Connection, someone: Someone, unit_id: UUID, picture: Picture, now: datetime) -> None:
    """Keep a photo of a unit's label with its card; the one before stays on record.

    Raises
    ------
    NotHere, NotAllowed
    """
    unit = unit_here(connection, unit_id)
    writer(someone, "changes the register")
    photo_id = uuid6.uuid7()
    _add(connection, someone, photo_id, unit_id, now, picture)
    before = str(unit.label_photo) if unit.label_photo else None
    change_unit(
        connection,
        someone.shop_id,
        unit_id,
        someone.person_id,
        uuid6.uuid7(),
        now,
        {"label_photo": photo_id},
        {"label_photo": [before, str(photo_id)]},
    )


def _add(
    connection: Connection,
    someone: Someone,
    photo_id: UUID,
    unit_id: UUID,
    at: datetime,
    picture: Picture,
    clip: Clip | None = None,
) -> None:
    add_photo(
        connection,
        shop_id=someone.shop_id,
        id=photo_id,
        unit_id=unit_id,
        person_id=someone.person_id,
        at=at,
        width=picture.width,
        height=picture.height,
        picture=picture.picture,
        thumbnail=picture.thumbnail,
        clip_type=clip.media_type if clip else "",
        clip=clip.moving if clip else None,
    )
