"""What a shop sets for itself: how leaks are counted, recovery vacuums, end points, prices. A lead changes it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from pydantic import ValidationError
from sqlalchemy import Connection

from dry_gauge.core.charge.leak_rate import Method
from dry_gauge.core.charge.mass import GRAM_KG
from dry_gauge.core.errors import Refused
from dry_gauge.core.office.replacement import ShareSchool
from dry_gauge.core.quantities import POUND_KG
from dry_gauge.core.sealed.vacuum import END_POINTS
from dry_gauge.core.shop import ShopSettings
from dry_gauge.core.visit.teach import CARDS, LIMIT_WORDS, limits_of
from dry_gauge.service.allowed import NotAllowed
from dry_gauge.service.settings import keep_settings, shop_settings
from dry_gauge.store.people import Someone
from dry_gauge.web.fields import FORM, Fields
from dry_gauge.web.render import page
from dry_gauge.web.security import signed_in
from dry_gauge.web.typed import parse_number
from dry_gauge.web.weights import grams_of

router = APIRouter(prefix="/register/settings")

_METHOD_WORDS = {Method.ANNUALISING: "each addition, made a year's", Method.ROLLING: "the last twelve months"}
_SCHOOL_WORDS = {ShareSchool.HALF: "half", ShareSchool.TWO_THIRDS: "two thirds"}
_LABELS = {
    "rule_name": "The rule's name",
    "comfort": "Comfort",
    "commercial": "Commercial refrigeration",
    "process": "Process",
    "from_kg": "Full charge from which it applies",
    "small_kg": "Where a lower charge counts, that charge",
    "small_from_gwp": "Refrigerants above this GWP",
    "hold_loss_psi_h": "Loss that a tight hold must rule out",
    "food_limit_f": "Food's limit",
    "food_minutes": "Minutes above food's limit",
    "latitude": "Latitude",
    "longitude": "Longitude",
    "price_per_kg": "Price",
    "currency": "Currency",
    "hours_low": "Hours at full load, at least",
    "hours_high": "Hours at full load, at most",
    "kwh_low": "A kilowatt-hour, at least",
    "kwh_high": "A kilowatt-hour, at most",
    "full_load_hours": "Hours at full load",
    "kwh_price": "The price of a kilowatt-hour",
}


def _fields(settings: ShopSettings, metric: bool) -> dict[str, str]:
    """The settings as the form shows them."""
    kg = 1.0 if metric else POUND_KG
    return {
        "rule_name": settings.rule_name, "method": settings.method.value, "comfort": f"{settings.comfort * 100:g}",
        "commercial": f"{settings.commercial * 100:g}", "process": f"{settings.process * 100:g}",
        "from_kg": f"{round(settings.from_kg / kg, 2):g}", "small_kg": f"{round(settings.small_kg / kg, 2):g}",
        "small_from_gwp": str(settings.small_from_gwp), "vacuum_school": settings.vacuum_school,
        "hold_loss_psi_h": f"{settings.hold_loss_psi_h:g}", "price_per_kg": f"{round(settings.price_per_kg * kg, 2):g}",
        "currency": settings.currency, "food_limit_f": f"{settings.food_limit_f:g}", "food_minutes": f"{settings.food_minutes:g}",
        **{name: "" if degrees is None else f"{degrees:g}"
           for name, degrees in (("latitude", settings.latitude), ("longitude", settings.longitude))},
        "recovery": "\n".join(f"{row.name} = {row.to_inhg:g}" for row in settings.recovery),
        "share_school": settings.share_school.value,
        **{f"{name}_{end}": f"{value:g}" for name, pair in (("hours", settings.full_load_hours), ("kwh", settings.kwh_price))
           for end, value in zip(("low", "high"), pair, strict=True)},
        "leads_second_step": "yes" if settings.leads_second_step else "",
        **{f"limit_{step}": limit.value for step, limit in limits_of(settings.helper_limits).items()},
    }  # fmt: skip


def _read(fields: Mapping[str, str], metric: bool) -> ShopSettings:
    """The settings from the form.

    Raises
    ------
    Refused
    """

    def number(name: str) -> float:
        try:
            value, written = parse_number(fields.get(name, ""))
        except Refused as refusal:
            raise Refused(f"{_LABELS[name]}: {refusal.message}", name) from None
        if written:
            raise Refused(f"{_LABELS[name]}: only a number, without {written!r}.", name)
        return value

    def weight(name: str) -> float:
        get = {name: fields.get(name, ""), f"{name}_unit": "kg" if metric else "lb"}
        return grams_of(lambda key: get.get(key, ""), name, ask=False) * GRAM_KG

    rows = []
    for line in filter(None, (line.strip() for line in fields.get("recovery", "").splitlines())):
        name, equals, value = line.rpartition("=")
        try:
            inches, written = parse_number(value if equals else "")
            if written.casefold().replace(" ", "") not in ("", "inhg", "in.hg"):
                raise Refused(f"{written!r} is another unit.")
            rows.append({"name": name.strip(), "to_inhg": inches})
        except Refused:
            raise Refused(f"{line[:60]!r}: write it as 'appliance = inches of mercury'.", "recovery") from None
    kg = 1.0 if metric else POUND_KG
    try:
        return ShopSettings.model_validate({
            "rule_name": fields.get("rule_name", "").strip(), "method": fields.get("method"),
            **{name: number(name) / 100 for name in ("comfort", "commercial", "process")},
            "from_kg": weight("from_kg"), "small_kg": weight("small_kg"), "small_from_gwp": round(number("small_from_gwp")),
            "vacuum_school": fields.get("vacuum_school"), "hold_loss_psi_h": number("hold_loss_psi_h"),
            "price_per_kg": number("price_per_kg") / kg, "currency": fields.get("currency", "").strip(), "recovery": tuple(rows),
            "share_school": fields.get("share_school", ShareSchool.HALF), "food_limit_f": number("food_limit_f"),
            "food_minutes": number("food_minutes"),
            **{name: number(name) if fields.get(name, "").strip() else None for name in ("latitude", "longitude")},
            "leads_second_step": fields.get("leads_second_step") == "yes",
            "helper_limits": {step: fields.get(f"limit_{step}", card.usual) for step, card in CARDS.items()},
            "full_load_hours": (number("hours_low"), number("hours_high")), "kwh_price": (number("kwh_low"), number("kwh_high")),
        })  # fmt: skip
    except ValidationError as error:
        where = str(error.errors()[0]["loc"][0])
        label = _LABELS.get(where, "The table of vacuums" if where == "recovery" else where.replace("_", " "))
        raise Refused(f"{label} is out of its range, or missing.", where) from None


def _page(
    request: Request,
    connection: Connection,
    someone: Someone,
    fields: Mapping[str, str] | None = None,
    error: str = "",
    at: str = "",
) -> Response:
    metric = someone.weight_unit == "kg"
    shown = fields or _fields(shop_settings(connection), metric)
    return page(request, "register/settings.html", status=422 if error else 200, someone=someone, fields=defaultdict(str, shown),
                error=error, error_at=at, METHODS=_METHOD_WORDS, END_POINTS=END_POINTS, metric=metric,
                SCHOOLS=_SCHOOL_WORDS, CARDS=CARDS, LIMITS=LIMIT_WORDS)  # fmt: skip


@router.get("")
def show_settings(request: Request) -> Response:
    """The shop's settings."""
    with signed_in(request) as (connection, someone):
        return _page(request, connection, someone)


@router.post("")
def change_settings(request: Request, fields: Fields = FORM) -> Response:
    """A lead sets them anew."""
    with signed_in(request) as (connection, someone):
        if someone.role != "lead":
            raise NotAllowed("Only a lead changes the shop's settings.")
        try:
            keep_settings(connection, someone, _read(fields, someone.weight_unit == "kg"))
        except Refused as refusal:
            return _page(request, connection, someone, fields, refusal.message, refusal.path or "")
    return RedirectResponse("/register/settings", 303)
