"""Cylinders and the refrigerant book of the shop: stock, what each cylinder holds, a year's sums, units over the rule's line."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, date, datetime
from typing import Any
from uuid import UUID

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from markupsafe import Markup
from sqlalchemy import Connection

from dry_gauge.core.charge.amounts import hot_fill_share
from dry_gauge.core.charge.cylinders import KIND_WORDS, CylinderKind, Held, limit_kg
from dry_gauge.core.charge.mass import GRAM_KG, WEIGHT_UNITS, forms
from dry_gauge.core.errors import Refused
from dry_gauge.core.local_time import local_at
from dry_gauge.core.quantities import PSI_PA
from dry_gauge.core.refrigerants.catalogue import CATALOGUE, find
from dry_gauge.core.words import in_percent
from dry_gauge.drawing.cylinder_level import level_svg
from dry_gauge.exchange.book_csv import movements_csv, year_csv
from dry_gauge.service import audit
from dry_gauge.service.allowed import NotHere, trained
from dry_gauge.service.cylinders import ByHand, book_by_hand, stock, year_books
from dry_gauge.service.leak_rates import all_losing
from dry_gauge.service.settings import shop_settings
from dry_gauge.service.today import today_here
from dry_gauge.store import cylinders as store
from dry_gauge.store.people import Someone
from dry_gauge.web.fields import FORM, Fields, day_in, key_in, text_in, whole_in
from dry_gauge.web.handed_out import csv_file
from dry_gauge.web.render import page
from dry_gauge.web.security import signed_in
from dry_gauge.web.weights import Doubtful, grams_of

router = APIRouter(prefix="/cylinders")

_HAND_WORDS = {
    "bought": "Bought, filled by the supplier",
    "weighed": "Weighed: it holds",
    "moved": "Moved into another cylinder",
    "reclaimed": "Returned to the reclaimer",
    "lost": "Lost to the air",
}
_SERVICE_CLASSES = (240, 260, 300, 400, 500)
_HOT_SHARE = 0.9


@dataclass(frozen=True, slots=True)
class Shown:
    """A cylinder as the page shows it."""

    held: Held
    drawing: Any
    room_kg: float | None
    notes: tuple[str, ...]


def _shown(held: Held, today: date) -> Shown:
    cylinder, holds_kg = held.cylinder, held.holds_g * GRAM_KG
    most = limit_kg(cylinder)
    recovery = cylinder.kind is CylinderKind.RECOVERY
    notes = []
    overdue = cylinder.retest_by is not None and cylinder.retest_by < today
    if overdue:
        notes.append(f"test was due {cylinder.retest_by:%d %b %Y}: not to be filled")
    if recovery and most is None:
        notes.append("water capacity not on record: it cannot be filled")
    if recovery and most and holds_kg > 0.95 * most:
        notes.append("full: take it back")
    hot = None
    if cylinder.water_capacity_kg and cylinder.refrigerant:
        hot = hot_fill_share(cylinder.water_capacity_kg, cylinder.refrigerant, holds_kg)
    if hot and hot > (_HOT_SHARE if recovery else 1.0):  # what a supplier filled is the supplier's fill
        notes.append(f"{in_percent(hot)} full of liquid at 130 °F (54 °C): keep it out of a hot van")
    if recovery and cylinder.refrigerant is None:
        notes.append("mixed or unknown: to the reclaimer only")
    if held.holds_g < 0:
        notes.append("the book says less than nothing: weigh it")
    room = max(0.0, most - holds_kg) if recovery and most is not None and not overdue else None
    drawing = Markup(level_svg(holds_kg, most, recovery=recovery, ident=f"level-{held.id}"))  # noqa: S704
    return Shown(held, drawing, room, tuple(notes))


def _year(text: str) -> int:
    this = today_here().year
    return int(text) if text.isdecimal() and 2000 <= int(text) <= this else this


def _years(year: int) -> list[int]:
    """Years to leaf to: those around one, none to come."""
    return [one for one in range(year - 2, year + 2) if one <= today_here().year]


def _span(year: int) -> tuple[datetime, datetime]:
    return local_at(date(year, 1, 1)), local_at(date(year + 1, 1, 1))


# -- the shop --------------------------------------------------------------


def _index(
    request: Request,
    connection: Connection,
    someone: Someone,
    fields: Mapping[str, str],
    year: int,
    refusal: Refused | None = None,
) -> Response:
    held = store.all_held(connection)
    settings = shop_settings(connection)
    return page(
        request,
        "cylinders/index.html",
        status=422 if refusal else 200,
        someone=someone,
        fields=defaultdict(str, fields),
        error=refusal.message if refusal else "",
        error_at=refusal.path if refusal else "",
        cylinders=[_shown(one, today_here()) for one in held],
        stock=stock(held),
        KINDS=KIND_WORDS,
        refrigerants=CATALOGUE,
        classes=_SERVICE_CLASSES,
        year=year,
        years=_years(year),
        books=year_books(connection, *_span(year)),
        settings=settings,
        forms=forms,
        GRAM_KG=GRAM_KG,
        metric=someone.weight_unit == "kg",
        shown_kg=WEIGHT_UNITS["kg" if someone.weight_unit == "kg" else "lb"],
        losing=all_losing(connection, settings),
    )


@router.get("")
def show_cylinders(request: Request, year: str = "") -> Response:
    """Stock, cylinders, the year's book, and units that lose refrigerant."""
    with signed_in(request) as (connection, someone):
        return _index(request, connection, someone, {}, _year(year))


@router.post("")
def add_cylinder(request: Request, fields: Fields = FORM) -> Response:
    """Register a cylinder."""
    with signed_in(request) as (connection, someone):
        trained(someone, "changes the book")
        try:
            values = _stamped(fields)
            values["name"] = text_in(fields, "name", "A name", needed=True, longest=60)
            key = key_in(fields)
            if store.name_taken(connection, values["name"], key):
                raise Refused(f"There is a cylinder called {values['name']} already.", "name")
        except Refused as refusal:
            return _index(request, connection, someone, fields, _year(""), refusal)
        store.add_cylinder(connection, shop_id=someone.shop_id, id=key, **values)
    return RedirectResponse(f"/cylinders/{key}", 303)


def _stamped(fields: Mapping[str, str]) -> dict[str, Any]:
    """What is stamped on a cylinder and who keeps it.

    Raises
    ------
    Refused
    """
    kind = fields.get("kind", "")
    if kind not in [one.value for one in CylinderKind]:
        raise Refused("Choose what sort of cylinder it is.", "kind")
    name = fields.get("refrigerant", "").strip()
    if not name and kind != CylinderKind.RECOVERY.value:
        raise Refused("Choose its refrigerant; only a recovery cylinder may be mixed or empty of a name.", "refrigerant")
    pounds = whole_in(fields, "service_psi", "The service pressure", 50, 3000)
    return {
        "kind": kind,
        "refrigerant": find(name).name if name else "",
        "tare_g": _maybe_weight(fields, "tare"),
        "water_capacity_g": _maybe_weight(fields, "water"),
        "service_pressure_pa": None if pounds is None else pounds * PSI_PA,
        "retest_by": day_in(fields, "retest_by", "The test date"),
        "for_flammables": fields.get("for_flammables") == "yes",
        "refillable": kind == CylinderKind.RECOVERY.value or fields.get("refillable") == "yes",
        "keeper": text_in(fields, "keeper", "Who has it", longest=80),
    }


def _maybe_weight(fields: Mapping[str, str], name: str) -> int | None:
    if not fields.get(name, "").strip() and not fields.get(f"{name}_oz", "").strip():
        return None
    return grams_of(lambda key: fields.get(key, ""), name, ask=False)  # stamped in decimals


@router.get("/book.csv")
def movements_file(request: Request, year: str = "") -> Response:
    """A year's movements."""
    with signed_in(request) as (connection, _):
        start, end = _span(_year(year))
        moved = store.lines(connection, since=start, until=end, limit=1_000_000)
        return csv_file(movements_csv(moved), f"refrigerant-{start.year}")


@router.get("/year.csv")
def year_file(request: Request, year: str = "") -> Response:
    """A year's sums."""
    with signed_in(request) as (connection, _):
        start, end = _span(_year(year))
        return csv_file(year_csv(year_books(connection, start, end)), f"refrigerant-sums-{start.year}")


# -- one cylinder ----------------------------------------------------------


def _find(connection: Connection, cylinder_id: UUID) -> Held:
    found = store.all_held(connection, [cylinder_id])
    if not found:
        raise NotHere("There is no such cylinder in your shop.")
    return found[0]


def _one(
    request: Request,
    connection: Connection,
    someone: Someone,
    held: Held,
    fields: Mapping[str, str],
    refusal: Refused | None = None,
) -> Response:
    lines = store.lines(connection, cylinder_id=held.id)
    balance, shown = 0, []
    for line in lines:
        gained = line.movement.grams * ((line.movement.goal_key == str(held.id)) - (line.movement.origin_key == str(held.id)))
        balance += 0 if line.taken_back_at else gained
        shown.append((line, gained, balance))
    doubt = refusal if isinstance(refusal, Doubtful) else None
    return page(
        request,
        "cylinders/one.html",
        status=422 if refusal else 200,
        someone=someone,
        held=held,
        lines=shown[::-1],
        shown=_shown(held, today_here()),
        fields=defaultdict(str, fields),
        error=refusal.message if refusal else "",
        choices=doubt.choices if doubt else (),
        HANDS=_HAND_WORDS,
        KINDS=KIND_WORDS,
        others=[one for one in store.all_held(connection) if one.id != held.id and one.cylinder.kind is CylinderKind.RECOVERY],
        forms=forms,
        GRAM_KG=GRAM_KG,
        metric=someone.weight_unit == "kg",
        PSI_PA=PSI_PA,
    )


@router.get("/{cylinder_id}")
def show_cylinder(request: Request, cylinder_id: UUID) -> Response:
    """A cylinder with every movement of it."""
    with signed_in(request) as (connection, someone):
        return _one(request, connection, someone, _find(connection, cylinder_id), {})


@router.post("/{cylinder_id}/book")
def book(request: Request, cylinder_id: UUID, fields: Fields = FORM) -> Response:
    """Bought, weighed, returned or lost."""
    with signed_in(request) as (connection, someone):
        trained(someone, "changes the book")
        held = _find(connection, cylinder_id)
        said = dict(fields)
        if said.get("choose"):  # one of two meanings was chosen
            said |= {"weight": said["choose"], "weight_oz": "", "sure": said["choose"]}
        try:
            grams = grams_of(lambda key: said.get(key, ""), "weight")
            if said.get("what") == "weighed" and said.get("with_cylinder") == "yes":
                if held.tare_g is None:
                    raise Refused("Its tare is not on record: put that on first, or type what it holds.", "weight")
                if grams < held.tare_g:
                    tare = forms(held.tare_g * GRAM_KG).lb_oz
                    raise Refused(f"That is less than its tare of {tare}. Check the scale.", "weight")
                grams -= held.tare_g
            into = UUID(said["into"]) if said.get("what") == "moved" and said.get("into") else None
            done = ByHand(said.get("what", ""), grams, said.get("reason", ""), into, key_in(fields))
            book_by_hand(connection, someone, cylinder_id, done, datetime.now(UTC))
        except Refused as refusal:
            return _one(request, connection, someone, held, fields, refusal)
        except ValueError:
            return _one(request, connection, someone, held, fields, Refused("Choose the other cylinder.", "into"))
    return RedirectResponse(f"/cylinders/{cylinder_id}", 303)


@router.post("/{cylinder_id}")
def change_cylinder(request: Request, cylinder_id: UUID, fields: Fields = FORM) -> Response:
    """Tested anew, given to someone, in use now, tare or capacity read, retired."""
    with signed_in(request) as (connection, someone):
        trained(someone, "changes the book")
        held = _find(connection, cylinder_id)
        try:
            changes: dict[str, Any] = {
                "keeper": text_in(fields, "keeper", "Who has it", longest=80),
                "retest_by": day_in(fields, "retest_by", "The test date"),
            }
            for name, column in (("tare", "tare_g"), ("water", "water_capacity_g")):
                if (grams := _maybe_weight(fields, name)) is not None:
                    changes[column] = grams
            if fields.get("open") == "yes" and held.cylinder.kind is CylinderKind.NEW:
                changes["kind"] = CylinderKind.IN_USE.value
            if fields.get("mixed") == "yes" and held.cylinder.kind is CylinderKind.RECOVERY:
                changes["refrigerant"] = ""
            if fields.get("retired") == "yes":
                if held.holds_g > 0:
                    raise Refused("By the book it still holds something: book that out first, then retire it.", "retired")
                changes["retired"] = True
        except Refused as refusal:
            return _one(request, connection, someone, held, fields, refusal)
        store.change_cylinder(connection, cylinder_id, **changes)
        audit.note(connection, someone, "cylinder_changed", f"{held.cylinder.name}: {', '.join(changes)}".replace("_", " "))
    return RedirectResponse("/cylinders" if changes.get("retired") else f"/cylinders/{cylinder_id}", 303)
