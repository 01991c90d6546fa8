"""Sites, units, their parts and the shop's instruments."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date, datetime, timedelta
from typing import Any
from uuid import UUID

from sqlalchemy import Connection, String, and_, bindparam, cast, func, insert, or_, select, update
from sqlalchemy.orm import aliased

from dry_gauge.store.models import Component, Instrument, Person, Photo, Site, Unit, UnitChange, Visit, of_model
from dry_gauge.store.once import add_once


def components_of(connection: Connection, unit_id: UUID) -> Sequence[Any]:
    """Parts that are in a unit and were in it, latest first."""
    return connection.execute(
        select(Component.id, Component.what, Component.details, Component.installed_on, Component.removed_on)
        .where(Component.unit_id == unit_id)
        .order_by(Component.removed_on.isnot(None), Component.installed_on.desc().nulls_last(), Component.what)
    ).all()


def add_component(connection: Connection, **values: Any) -> bool:
    """Put a part into a unit; False where it was put in before."""
    return add_once(connection, Component, **values)


def remove_component(connection: Connection, unit_id: UUID, component_id: UUID, day: date) -> None:
    """A part was taken out; it stays on record."""
    connection.execute(
        update(Component)
        .where(Component.unit_id == unit_id, Component.id == component_id, Component.removed_on.is_(None))
        .values(removed_on=day)
    )


def changes_of(connection: Connection, unit_id: UUID, limit: int = 20) -> Sequence[Any]:
    """Who changed what on the unit card, latest first."""
    return connection.execute(
        select(UnitChange.at, UnitChange.changed, Person.name)
        .join(Person, (Person.shop_id == UnitChange.shop_id) & (Person.id == UnitChange.person_id))
        .where(UnitChange.unit_id == unit_id)
        .order_by(UnitChange.at.desc())
        .limit(limit)
    ).all()


def instruments_of(connection: Connection, *, retired: bool = False) -> Sequence[Any]:
    """The shop's instruments by name."""
    asked = select(
        Instrument.id,
        Instrument.name,
        Instrument.dimension,
        Instrument.accuracy,
        Instrument.unit,
        Instrument.range_low,
        Instrument.range_high,
        Instrument.calibrated_until,
        Instrument.retired,
    ).order_by(Instrument.retired, Instrument.dimension, Instrument.name)
    return connection.execute(asked if retired else asked.where(Instrument.retired.is_(False))).all()


def add_instrument(connection: Connection, **values: Any) -> bool:
    """Register an instrument; False where it was before."""
    return add_once(connection, Instrument, **values)


def change_instrument(connection: Connection, instrument_id: UUID, **values: Any) -> None:
    """Calibrated anew, or retired."""
    connection.execute(update(Instrument).where(Instrument.id == instrument_id).values(**values))


def all_sites(connection: Connection) -> Sequence[Any]:
    """The shop's sites by name."""
    return connection.execute(select(Site.id, Site.name, Site.address, Site.access).order_by(Site.name)).all()


def find_site(connection: Connection, site_id: UUID) -> Any:
    """One site."""
    return connection.execute(select(Site.id, Site.name, Site.address, Site.access).where(Site.id == site_id)).one_or_none()


def units_of_site(connection: Connection, site_id: UUID) -> Sequence[Any]:
    """The units of one site by tag."""
    return connection.execute(
        select(Unit.id, Unit.tag, Unit.serves, Unit.model, Unit.partner, Unit.partner_id, Unit.facts)
        .where(Unit.site_id == site_id)
        .order_by(Unit.tag)
    ).all()


def like_units(connection: Connection, unit_id: UUID) -> Sequence[Any]:
    """Other units of the same model on the same site, by tag."""
    own = aliased(Unit)
    return connection.execute(
        select(Unit.id, Unit.tag)
        .join(own, (own.shop_id == Unit.shop_id) & (own.site_id == Unit.site_id) & (own.id != Unit.id))
        .where(own.id == unit_id, of_model(Unit, own.model))
        .order_by(Unit.tag)
    ).all()


def add_site(connection: Connection, **values: Any) -> bool:
    """Register a site; False where it was before."""
    return add_once(connection, Site, **values)


def change_site(connection: Connection, site_id: UUID, **values: Any) -> None:
    """Change a site."""
    connection.execute(update(Site).where(Site.id == site_id).values(**values))


def add_unit(connection: Connection, **values: Any) -> bool:
    """Register a unit; False where it was before."""
    return add_once(connection, Unit, **values)


def change_unit(
    connection: Connection,
    shop_id: UUID,
    unit_id: UUID,
    person_id: UUID,
    change_id: UUID,
    at: datetime,
    values: Mapping[str, Any],
    changed: Mapping[str, Any],
) -> None:
    """Change a unit card, and keep what it said before."""
    connection.execute(update(Unit).where(Unit.id == unit_id).values(**values))
    note_change(connection, shop_id, unit_id, person_id, change_id, at, changed)


def note_change(
    connection: Connection,
    shop_id: UUID,
    unit_id: UUID,
    person_id: UUID,
    change_id: UUID,
    at: datetime,
    changed: Mapping[str, Any],
) -> None:
    """Keep what a unit card said before, and what it says now."""
    connection.execute(
        insert(UnitChange).values(
            shop_id=shop_id, id=change_id, unit_id=unit_id, person_id=person_id, at=at, changed=dict(changed)
        )
    )


def pair(connection: Connection, unit_id: UUID, partner_id: UUID | None) -> None:
    """Two units belong together from now on, and to nobody else; None parts a unit from its partner."""
    ends = [unit_id] if partner_id is None else [unit_id, partner_id]
    connection.execute(update(Unit).where(or_(Unit.id.in_(ends), Unit.partner_id.in_(ends))).values(partner_id=None))
    if partner_id is not None:
        for one, other in ((unit_id, partner_id), (partner_id, unit_id)):
            connection.execute(update(Unit).where(Unit.id == one).values(partner_id=other))


def search(connection: Connection, words: str, limit: int = 40) -> Sequence[Any]:
    """Units whose site, tag, place, model, serial or notes hold every word."""
    asked = select(
        Unit.id, Unit.tag, Unit.serves, Unit.model, Unit.serial, Site.id.label("site_id"), Site.name.label("site_name")
    ).join(Site, (Site.shop_id == Unit.shop_id) & (Site.id == Unit.site_id))
    for word in words.split()[:6]:
        plain = word.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")  # a percent sign is a sign here
        fits = f"%{plain}%"
        columns = (Site.name, Site.address, Unit.tag, Unit.serves, Unit.maker, Unit.model, Unit.serial, Unit.card_notes)
        asked = asked.where(or_(*(column.ilike(fits) for column in columns)))
    return connection.execute(asked.order_by(Site.name, Unit.tag).limit(limit)).all()


_OPEN_VISIT = (
    select(Visit.id).where(Visit.unit_id == Unit.id, Visit.shop_id == Unit.shop_id)
    .where(or_(Visit.status == "open", and_(Visit.status == "planned", Visit.planned_for.between(
        bindparam("midnight"), bindparam("next_midnight")), Visit.called_off.is_(None))))
    .order_by(Visit.planned_for.desc()).limit(1).scalar_subquery()
)  # fmt: skip
_LAST_VISIT = (
    select(func.max(Visit.planned_for))
    .where(Visit.unit_id == Unit.id, Visit.shop_id == Unit.shop_id)
    .where(Visit.status != "planned")
    .scalar_subquery()
)
_TO_VISIT = select(
    Unit.id,
    Unit.tag,
    Unit.serves,
    Unit.facts["refrigerant"].as_string().label("refrigerant"),
    Site.name.label("site_name"),
    Unit.facts,
    _OPEN_VISIT.label("open_visit"),
    _LAST_VISIT.label("last_visit"),
).join(Site, (Site.shop_id == Unit.shop_id) & (Site.id == Unit.site_id))


def _sites_of_the_day(person_id: UUID) -> Any:
    called, there = aliased(Visit), aliased(Unit)
    return (
        select(there.site_id)
        .join(called, (called.shop_id == there.shop_id) & (called.unit_id == there.id))
        .where(called.planned_for.between(bindparam("midnight"), bindparam("next_midnight")), called.called_off.is_(None))
        .where(called.status != "closed", or_(called.technician_id == person_id, called.along_id == person_id))
    )


def units_beside(connection: Connection, person_id: UUID, midnight: datetime, limit: int = 4) -> Sequence[Any]:
    """Units without an open visit at the sites of somebody's calls of the day: whoever is there is asked to look at one more."""
    asked = _TO_VISIT.where(Unit.site_id.in_(_sites_of_the_day(person_id)), _OPEN_VISIT.is_(None))
    return connection.execute(asked.order_by(Site.name, Unit.tag).limit(limit), _day(midnight)).all()


def _day(midnight: datetime) -> dict[str, datetime]:
    return {"midnight": midnight, "next_midnight": midnight + timedelta(days=1)}


def units_to_visit(connection: Connection, person_id: UUID, words: str, midnight: datetime, limit: int = 8) -> Sequence[Any]:
    """Units that fit all words, with the visit that is open, or planned today.

    Without words those of the sites where somebody has calls, others of today, and those visited last.
    """
    if words.strip():
        ids = [unit.id for unit in search(connection, words, limit)]
        asked = _TO_VISIT.where(Unit.id.in_(ids)).order_by(Site.name, Unit.tag)
    else:
        beside = Unit.site_id.in_(_sites_of_the_day(person_id))
        known = _TO_VISIT.where(or_(_OPEN_VISIT.is_not(None), _LAST_VISIT.is_not(None), beside))
        asked = known.order_by(~beside, _OPEN_VISIT.is_(None), _LAST_VISIT.desc().nulls_last()).limit(limit)
    return connection.execute(asked, _day(midnight)).all()


def sites_named_like(connection: Connection, words: str, limit: int = 4) -> list[str]:
    """Names of sites that hold these words."""
    asked = select(Site.name).where(Site.name.icontains(words.strip(), autoescape=True)).order_by(Site.name)
    return list(connection.execute(asked.limit(limit)).scalars())


def site_named(connection: Connection, name: str) -> UUID | None:
    """The site of exactly that name, whatever its capitals."""
    found: UUID | None = connection.execute(select(Site.id).where(func.lower(Site.name) == name.lower()).limit(1)).scalar()
    return found


def unit_of_model(connection: Connection, model: str) -> Any:
    """The unit of exactly that model whose card says most."""
    return connection.execute(
        select(Unit.id, Unit.tag, Unit.maker, Unit.model, Unit.facts, Site.name.label("site_name"))
        .join(Site, (Site.shop_id == Unit.shop_id) & (Site.id == Unit.site_id))
        .where(of_model(Unit, model))
        .order_by(func.length(cast(Unit.facts, String)).desc())
        .limit(1)
    ).one_or_none()


def chart_of_model(connection: Connection, model: str, but: UUID | None = None) -> Any:
    """The maker's chart as another unit of that model has it on its card, with whose it is; None where nobody typed one."""
    typed = Unit.facts["maker_chart"]
    asked = (
        select(Unit.tag, Site.name.label("site_name"), typed.label("chart"))
        .join(Site, (Site.shop_id == Unit.shop_id) & (Site.id == Unit.site_id))
        .where(of_model(Unit, model), Unit.id.is_distinct_from(but), typed[0]["outdoor_f"].isnot(None))
        .order_by(func.length(cast(typed, String)).desc(), Unit.tag)
        .limit(1)
    )
    return connection.execute(asked).one_or_none()


def usual_refrigerants(connection: Connection) -> list[str]:
    """What the shop's units hold, most first."""
    name = Unit.facts["refrigerant"].as_string()
    return [row[0] for row in connection.execute(select(name, func.count()).group_by(name).order_by(func.count().desc(), name))]


def add_photo(connection: Connection, **values: Any) -> None:
    """Keep a photo."""
    connection.execute(insert(Photo).values(**values))


def photo_size(connection: Connection, photo_id: UUID) -> tuple[int, int]:
    """Width and height of a photo. [px]"""
    row = connection.execute(select(Photo.width, Photo.height).where(Photo.id == photo_id)).one()
    return row.width, row.height


def find_photo(connection: Connection, photo_id: UUID, *, small: bool) -> bytes | None:
    """One photo's bytes, as JPEG."""
    column = Photo.thumbnail if small else Photo.picture
    found: bytes | None = connection.execute(select(column).where(Photo.id == photo_id)).scalar_one_or_none()
    return found


def find_clip(connection: Connection, photo_id: UUID) -> tuple[str, bytes] | None:
    """The clip that a photo stands for, and its media type; None where it stands for itself."""
    row = connection.execute(select(Photo.clip_type, Photo.clip).where(Photo.id == photo_id)).one_or_none()
    return (row.clip_type, bytes(row.clip)) if row and row.clip else None
