"""The shop's tables of board codes: looked at, changed, taken from a file and given out."""

from __future__ import annotations

from base64 import b64encode
from collections import defaultdict
from collections.abc import Mapping
from datetime import UTC, datetime

from anyio import to_thread
from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.exchange.codes_csv import COLUMNS, LONGEST, code_line, codes_to
from dry_gauge.service import board_codes as service
from dry_gauge.service.board_codes import Import
from dry_gauge.store import controls
from dry_gauge.store.people import Someone
from dry_gauge.web.fields import FORM, Fields, table_sent
from dry_gauge.web.handed_out import csv_file
from dry_gauge.web.render import page
from dry_gauge.web.security import signed_in

router = APIRouter(prefix="/register/codes")


def _page(
    request: Request,
    connection: Connection,
    someone: Someone,
    refusal: Refused | None = None,
    fields: Mapping[str, str] | None = None,
    found: Import | None = None,
    raw: bytes = b"",
) -> Response:
    boards: dict[str, list[controls.CodeOfBoard]] = {}
    for one in controls.tables(connection):
        boards.setdefault(one.board.casefold(), []).append(one)
    return page(
        request,
        "register/codes.html",
        status=422 if refusal else 200,
        someone=someone,
        boards=list(boards.values()),
        error=refusal.message if refusal else "",
        error_at=refusal.path if refusal else "",
        fields=defaultdict(str, fields or {}),
        found=found,
        raw=b64encode(raw).decode(),
        COLUMNS=list(COLUMNS),
        LONGEST=LONGEST,
    )


@router.get("")
def show_codes(request: Request) -> Response:
    """All tables, with how often each code was read."""
    with signed_in(request) as (connection, someone):
        return _page(request, connection, someone)


@router.get(".csv")
def send_codes(request: Request) -> Response:
    """All tables as CSV."""
    with signed_in(request) as (connection, _):
        text = codes_to(controls.meanings_of(connection))
    return csv_file(text, "board-codes")


@router.post("")
def keep_code(request: Request, fields: Fields = FORM) -> Response:
    """Add a line or change one; or take it off."""
    now = datetime.now(UTC)
    with signed_in(request) as (connection, someone):
        try:
            if fields.get("drop"):
                service.drop(connection, someone, fields.get("board", ""), fields["drop"], now)
            else:
                service.keep(connection, someone, code_line(fields), now)
        except Refused as refusal:
            return _page(request, connection, someone, refusal, fields)
    return RedirectResponse("/register/codes", 303)


@router.post("/file")
async def look_at_file(request: Request) -> Response:
    """Show what a file would do to the tables; nothing is changed yet."""
    raw, taking = await table_sent(request)

    def answer() -> Response:
        with signed_in(request) as (connection, someone):
            try:
                found = service.looked_at(connection, raw)
                if taking:
                    service.take(connection, someone, found, datetime.now(UTC))
                    return RedirectResponse("/register/codes", 303)
            except Refused as refusal:
                return _page(request, connection, someone, refusal)
            return _page(request, connection, someone, found=found, raw=raw)

    return await to_thread.run_sync(answer)
