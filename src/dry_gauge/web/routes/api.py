"""The open way in: one reading sheet in, one assessment out. No sign-in, nothing kept."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse
from starlette.concurrency import run_in_threadpool

from dry_gauge.core.errors import Refused
from dry_gauge.core.judgement.assess import assess
from dry_gauge.exchange.assessment import to_json
from dry_gauge.exchange.reading_sheet import parse_sheet
from dry_gauge.exchange.sheet_json import MOST_BYTES, json_schema
from dry_gauge.service.sign_in import within_rate
from dry_gauge.web.security import engine_of

router = APIRouter(prefix="/api/v1")


def problem(status: int, message: str, path: str | None = None, nearest: tuple[str, ...] = ()) -> JSONResponse:
    """A refusal as the contract has it."""
    return JSONResponse({"error": message, "path": path, "nearest": list(nearest)}, status)


@router.get("/schema/reading-sheet.json")
def schema() -> JSONResponse:
    """JSON Schema of the reading sheet."""
    return JSONResponse(json_schema(), media_type="application/schema+json")


@router.post("/assess")
async def assess_sheet(request: Request) -> JSONResponse:
    """Judge one sheet."""
    address = request.client.host if request.client else "unknown"
    per_minute = request.app.state.settings.api_calls_per_minute
    if not await run_in_threadpool(within_rate, engine_of(request), f"assess {address}", per_minute):
        answer = problem(429, f"More than {per_minute} sheets a minute from one address; wait and send again.")
        answer.headers["retry-after"] = "60"
        return answer
    kind = request.headers.get("content-type", "").split(";")[0].strip().lower()
    if kind != "application/json":
        return problem(415, "Send the reading sheet as application/json.")
    raw = bytearray()
    async for chunk in request.stream():
        raw += chunk
        if len(raw) > MOST_BYTES:
            return problem(413, "The sheet is over 256 kB.")
    return await run_in_threadpool(_judged, bytes(raw))


def _judged(raw: bytes) -> JSONResponse:
    try:
        answer: dict[str, Any] = to_json(assess(parse_sheet(raw)))
    except Refused as refusal:
        return problem(422, refusal.message, refusal.path or None, refusal.nearest)
    return JSONResponse(answer)
