"""The shop's price list: looked at, changed, taken from a file and given out."""

from __future__ import annotations

from base64 import b64encode
from collections import defaultdict
from collections.abc import Mapping
from functools import partial
from uuid import UUID

from anyio import to_thread
from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.core.office.money import LineSort, Per, cents_of
from dry_gauge.exchange.language import language_named
from dry_gauge.exchange.price_csv import COLUMNS, Price, prices_to
from dry_gauge.service import prices as service
from dry_gauge.service.prices import Import
from dry_gauge.service.settings import shop_settings
from dry_gauge.store import prices
from dry_gauge.store.people import Someone
from dry_gauge.web.fields import FORM, Fields, table_sent, text_in, whole_in
from dry_gauge.web.handed_out import csv_file
from dry_gauge.web.render import page
from dry_gauge.web.security import signed_in

router = APIRouter(prefix="/register/prices")


def _page(
    request: Request,
    connection: Connection,
    someone: Someone,
    error: str = "",
    at: str = "",
    fields: Mapping[str, str] | None = None,
    found: Import | None = None,
    raw: bytes = b"",
) -> Response:
    settings = shop_settings(connection)
    return page(
        request,
        "register/prices.html",
        status=422 if error else 200,
        someone=someone,
        prices=prices.all_prices(connection),
        currency=settings.currency,
        money=partial(language_named("en").money, currency=settings.currency),
        SORTS=list(LineSort),
        PERS=list(Per),
        COLUMNS=list(COLUMNS),
        error=error,
        error_at=at,
        fields=defaultdict(str, fields or {}),
        found=found,
        raw=b64encode(raw).decode(),
    )


@router.get("")
def show_prices(request: Request) -> Response:
    """The list."""
    with signed_in(request) as (connection, someone):
        return _page(request, connection, someone)


@router.get(".csv")
def send_prices(request: Request) -> Response:
    """The list as CSV."""
    with signed_in(request) as (connection, _):
        text = prices_to(prices.all_prices(connection))
    return csv_file(text, "prices")


@router.post("")
def keep_price(request: Request, fields: Fields = FORM) -> Response:
    """Add a price or change one; or take it off the list."""
    with signed_in(request) as (connection, someone):
        try:
            if fields.get("retire"):
                service.retire(connection, someone, UUID(fields["retire"]))
                return RedirectResponse("/register/prices", 303)
            service.keep(connection, someone, _price(fields, shop_settings(connection).currency))
        except Refused as refusal:
            return _page(request, connection, someone, refusal.message, refusal.path, fields)
        except ValueError:
            return _page(request, connection, someone, "There is no such price any more.")
    return RedirectResponse("/register/prices", 303)


def _price(fields: Mapping[str, str], currency: str) -> Price:
    code = text_in(fields, "code", "The code", needed=True, longest=60)
    what = text_in(fields, "what", "What it is for", needed=True)
    cents, on_hand = cents_of(fields.get("price", ""), currency), whole_in(fields, "on_hand", "On hand", 0, 99_999)
    return Price(code, what, fields.get("sort", ""), fields.get("per", ""), cents, on_hand)


@router.post("/file")
async def look_at_file(request: Request) -> Response:
    """Show what a file would do to the list; nothing is changed yet."""
    raw, taking = await table_sent(request)

    def answer() -> Response:
        with signed_in(request) as (connection, someone):
            try:
                found = service.looked_at(connection, raw, shop_settings(connection).currency)
                if taking:
                    service.take(connection, someone, found)
                    return RedirectResponse("/register/prices", 303)
            except Refused as refusal:
                return _page(request, connection, someone, refusal.message, "file")
            return _page(request, connection, someone, found=found, raw=raw)

    return await to_thread.run_sync(answer)
