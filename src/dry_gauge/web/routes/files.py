"""Everything out in one file, and into an empty shop; units from a table."""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Iterator
from datetime import UTC, datetime
from typing import IO
from uuid import UUID

from anyio import to_thread
from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse, StreamingResponse
from sqlalchemy import Connection
from starlette.datastructures import UploadFile

from dry_gauge.core.errors import Refused
from dry_gauge.core.local_time import local
from dry_gauge.exchange.units_csv import COLUMNS
from dry_gauge.service import jobs as service
from dry_gauge.service import units_table
from dry_gauge.service.archive import NOT_EMPTY
from dry_gauge.service.jobs import JobWorker
from dry_gauge.service.units_table import UnitImport
from dry_gauge.store import archive, jobs
from dry_gauge.store.database import see_shop
from dry_gauge.store.people import Someone
from dry_gauge.web.fields import FORM, Fields, table_sent
from dry_gauge.web.render import fragments, page, wants_fragments
from dry_gauge.web.security import engine_of, signed_in
from dry_gauge.web.typed import parse_number

router = APIRouter(prefix="/register/files")
tables = APIRouter(prefix="/register/units-table")


def _worker(request: Request) -> JobWorker:
    worker: JobWorker = request.app.state.jobs
    return worker


@router.get("")
def show_files(request: Request) -> Response:
    """What was asked for and how far it is."""
    with signed_in(request) as (connection, someone):
        return _page(request, connection, someone)


def _page(request: Request, connection: Connection, someone: Someone, error: str = "") -> Response:
    shown = jobs.latest_jobs(connection)
    # Asked of what is shown: a job that ends between two questions would be shown as going on, and never looked at again.
    values = {"jobs": shown, "under_way": any(job.under_way for job in shown)}
    if wants_fragments(request) and not error:
        return fragments(request, ("register/_jobs.html", {**values, "me": someone}))
    return page(
        request,
        "register/files.html",
        status=422 if error else 200,
        someone=someone,
        error=error,
        is_empty=archive.is_empty(connection),
        **values,
    )


@router.post("/out")
def ask_out(request: Request, fields: Fields = FORM) -> Response:
    """Ask for everything in one file."""
    with signed_in(request) as (connection, someone):
        try:
            service.ask(connection, someone, service.OUT, {"pdfs": fields.get("pdfs") == "yes"}, datetime.now(UTC))
        except Refused as refusal:
            return _page(request, connection, someone, refusal.message)
    _worker(request).wake()
    return RedirectResponse("/register/files", 303)


@router.get("/{job_id}.zip")
def send_archive(request: Request, job_id: UUID) -> Response:
    """A file that was made."""
    with signed_in(request) as (connection, someone):
        job = service.made_by(connection, someone, job_id)
        shop_id = someone.shop_id

    def sent() -> Iterator[bytes]:
        with engine_of(request).connect() as connection:
            see_shop(connection, shop_id)
            yield from jobs.pieces(connection, job_id, "made")

    headers = {"content-disposition": f'attachment; filename="{job.name}"'}
    return StreamingResponse(sent(), media_type="application/zip", headers=headers)


@router.post("/archive")
async def take_in(request: Request) -> Response:
    """Take a file in; the shop is empty."""
    form = await request.form(max_files=1)
    sent = form.get("file")
    file: IO[bytes] | None = sent.file if isinstance(sent, UploadFile) else None

    def answer() -> Response:
        with signed_in(request) as (connection, someone):
            try:
                if file is None:
                    raise Refused("Choose a file first.", "file")
                if not archive.is_empty(connection):
                    raise Refused(NOT_EMPTY, "file")
                service.ask(connection, someone, service.IN, {}, datetime.now(UTC), file)
            except Refused as refusal:
                return _page(request, connection, someone, refusal.message)
        _worker(request).wake()
        return RedirectResponse("/register/files", 303)

    return await to_thread.run_sync(answer)


# -- units from a table ----------------------------------------------------


@tables.get("")
def show_table(request: Request) -> Response:
    """Where a table of units is sent."""
    with signed_in(request) as (_, someone):
        return _table_page(request, someone)


def _table_page(
    request: Request, someone: Someone, error: str = "", found: UnitImport | None = None, raw: bytes = b""
) -> Response:
    return page(
        request,
        "register/units_table.html",
        status=422 if error else 200,
        someone=someone,
        error=error,
        found=found,
        COLUMNS=list(COLUMNS),
        raw=b64encode(raw).decode(),
    )


@tables.post("")
async def look_at_table(request: Request) -> Response:
    """Show what a table would do; or put its units on cards."""
    raw, taking = await table_sent(request)

    def answer() -> Response:
        with signed_in(request) as (connection, someone):
            try:
                found = units_table.looked_at(connection, raw, parse_number, local(datetime.now(UTC)).year)
            except Refused as refusal:
                return _table_page(request, someone, refusal.message)
            if taking:
                units_table.take(connection, someone, found)
                return RedirectResponse("/register", 303)
            return _table_page(request, someone, found=found, raw=raw)

    return await to_thread.run_sync(answer)
