"""The unit card: what is known, what is not, and every visit it had."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from uuid import UUID

import uuid6
from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from sqlalchemy import Connection

from dry_gauge.core.charge.mass import GRAM_KG, forms
from dry_gauge.core.errors import Refused
from dry_gauge.core.local_time import day_of
from dry_gauge.present.card import card_rows
from dry_gauge.present.sound_days import days_shown
from dry_gauge.service import audit
from dry_gauge.service.allowed import NotAllowed, NotHere, unit_here, writer
from dry_gauge.service.cylinders import unit_book
from dry_gauge.service.history import card_history
from dry_gauge.service.notebooks import facts_of, view_of
from dry_gauge.service.opening import next_visits, open_known
from dry_gauge.service.partners import pair_up
from dry_gauge.service.settings import shop_settings
from dry_gauge.service.today import today_here
from dry_gauge.store import register, sound_days
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import visits_of_unit
from dry_gauge.web.asked import waited
from dry_gauge.web.fields import FORM, Fields, day_in, key_in, text_in
from dry_gauge.web.history import life_of, trends_of
from dry_gauge.web.one_sheet import keep_sheet
from dry_gauge.web.render import page, reader_of, visit_url
from dry_gauge.web.routes.board import call_of
from dry_gauge.web.security import signed_in

router = APIRouter(prefix="/units")

_INSTEAD = {"yes": "right then", "no": "not right then", "rule": "as the rule has it"}


@router.get("/{unit_id}")
def show_unit(request: Request, unit_id: UUID) -> Response:
    """One unit."""
    with signed_in(request) as (connection, someone):
        return _unit_page(request, connection, someone, unit_id)


def _unit_page(
    request: Request,
    connection: Connection,
    someone: Someone,
    unit_id: UUID,
    part: Fields | None = None,
    problem: Refused | None = None,
) -> Response:
    """A unit's page; after a part that could not be kept with what was typed and what is wrong with it."""
    unit = unit_here(connection, unit_id)
    facts = facts_of(unit.facts)
    views = [view_of(connection, visit, someone.superheat_school) for visit in visits_of_unit(connection, unit_id)]
    settings = shop_settings(connection)
    calls = [call_of(view, someone, width=132, height=64) for view in views]
    reader, history = reader_of(someone), card_history(connection, unit_id)
    book = unit_book(connection, unit_id, facts, settings)
    full_g = book.losing.full_charge_kg / GRAM_KG if book.losing.full_charge_kg else None
    others = [one for one in register.units_of_site(connection, unit.site_id) if one.id != unit_id]
    partner = next((one for one in others if one.id == unit.partner_id), None)
    typed = {name: (part or {}).get(name, "") for name in ("what", "details", "installed_on")}
    life = life_of(views, history.components, book.lines, sound_days.off_its_sort(connection, unit_id), full_g, reader)
    return page(
        request,
        "unit.html",
        status=422 if problem else 200,
        someone=someone,
        part=typed,
        problem=problem,
        unit=unit,
        facts=facts,
        rows=card_rows(facts, reader),
        life=life,
        calls=calls,
        history=history,
        trends=trends_of(views, reader),
        book=book,
        settings=settings,
        forms=forms,
        GRAM_KG=GRAM_KG,
        metric=someone.weight_unit == "kg",
        sound_days=days_shown(sound_days.of_unit(connection, unit_id)),
        INSTEAD=_INSTEAD,
        others=others,
        partner=partner,
        alike=register.like_units(connection, unit_id),
        following=next_visits(connection, someone).get(unit_id),
    )


@router.post("/{unit_id}/components")
def change_components(request: Request, unit_id: UUID, fields: Fields = FORM) -> Response:
    """Put a part in, or take one out."""
    with signed_in(request) as (connection, someone):
        writer(someone, "changes the register")
        unit = unit_here(connection, unit_id)
        if fields.get("remove"):
            try:
                register.remove_component(connection, unit_id, UUID(fields["remove"]), today_here())
                audit.note(connection, someone, "part_taken_out", f"{unit.site_name}, {unit.tag}")
            except ValueError:
                raise NotHere("There is no such part.") from None
        else:
            try:
                what = text_in(fields, "what", "What part it is", needed=True)
                if register.add_component(
                    connection,
                    shop_id=someone.shop_id,
                    id=key_in(fields),
                    unit_id=unit_id,
                    what=what,
                    details=text_in(fields, "details", "Details"),
                    installed_on=_put_in(fields, unit.made_year),
                ):
                    audit.note(connection, someone, "part_put_in", f"{unit.site_name}, {unit.tag}: {what}")
            except Refused as problem:
                return _unit_page(request, connection, someone, unit_id, fields, problem)
    return RedirectResponse(f"/units/{unit_id}#parts", 303)


def _put_in(fields: Fields, made_year: int | None) -> date | None:
    """The day a part was put in: not before its unit was made, and not in the future."""
    day = day_in(fields, "installed_on", "Put in on")
    if day is None:
        return None
    if made_year is not None and day.year < made_year:
        raise Refused(
            f"The unit was made in {made_year}: a part is not older in it. Correct the day, or the year on the card.",
            "installed_on",
        )
    if day > today_here() + timedelta(days=1):
        raise Refused("That day is still to come: note a part once it is in.", "installed_on")
    return day


@router.post("/{unit_id}/partner")
def choose_partner(request: Request, unit_id: UUID, fields: Fields = FORM) -> Response:
    """Say which unit of the site it belongs with."""
    with signed_in(request) as (connection, someone):
        chosen = fields.get("partner", "")
        try:
            pair_up(connection, someone, unit_id, UUID(chosen) if chosen else None, datetime.now(UTC))
        except Refused as problem:
            return _unit_page(request, connection, someone, unit_id, problem=problem)
        except ValueError:
            raise NotHere("There is no such unit in your shop.") from None
    return RedirectResponse(f"/units/{unit_id}#card-title", 303)


@router.post("/{unit_id}/sound-days")
def mark_sound_day(request: Request, unit_id: UUID, fields: Fields = FORM) -> Response:
    """A lead says whether the unit was right at the end of a visit; open visits are judged by it from now on."""
    with signed_in(request) as (connection, someone):
        if someone.role != "lead":
            raise NotAllowed("Only a lead says whether a unit was right then.")
        days = {str(day.visit_id): day for day in sound_days.of_unit(connection, unit_id)}
        day, said = days.get(fields.get("visit", "")), fields.get("right", "")
        if day is None or said not in _INSTEAD:
            raise NotHere("There is no such day of this unit.")
        sound_days.mark(connection, day.visit_id, None if said == "rule" else said == "yes")
        audit.note(connection, someone, "sound_day_marked", f"{day_of(day.at)}: {_INSTEAD[said]}")
    return RedirectResponse(f"/units/{unit_id}#sound-days", 303)


@router.post("/{unit_id}/visits")
def open_visit(request: Request, unit_id: UUID, fields: Fields = FORM) -> Response:
    """Open a visit to this unit now, or when it was begun without a signal."""
    try:
        visit_id = UUID(fields.get("visit_id", ""))
    except ValueError:
        visit_id = uuid6.uuid7()
    with signed_in(request) as (connection, someone):
        open_known(connection, someone, unit_id, visit_id, waited(request))
        keep_sheet(connection, someone, visit_id, fields)
    if request.headers.get("x-quiet"):
        return Response(status_code=204)
    return RedirectResponse(visit_url(visit_id, "arrive"), 303)
