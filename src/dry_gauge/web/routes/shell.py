"""What keeps the pages alive without a signal: the service worker, the page it falls back to, and a fresh form token."""

from __future__ import annotations

import hashlib
import json
from functools import lru_cache
from hmac import compare_digest
from typing import Annotated

from fastapi import APIRouter, Header, HTTPException, Request, Response
from fastapi.responses import JSONResponse
from prometheus_client import CONTENT_TYPE_LATEST
from sqlalchemy import text

from dry_gauge.store.database import newest_revision
from dry_gauge.web.render import STATIC, page, static_url
from dry_gauge.web.security import engine_of, signed_in
from dry_gauge.web.styles import STYLE_SHEET

router = APIRouter()

_FONTS = ("b612-latin-400-normal", "b612-latin-700-normal", "b612-mono-latin-400-normal")
_SHELL = (
    "vendor/bulma.trimmed.css",
    STYLE_SHEET,
    "charts.css",
    "vendor/htmx.min.js",
    "vendor/idb.js",
    "mark.svg",
    *sorted(f"scripts/{one.name}" for one in (STATIC / "scripts").glob("*.js")),
)


@lru_cache(maxsize=1)
def worker_text() -> str:
    """The service worker with the addresses of this version's shell."""
    files = [static_url(name) for name in _SHELL]
    files += [f"/static/vendor/{font}.woff2" for font in _FONTS] + ["/offline"]
    script = (STATIC / "sw.js").read_text()
    version = hashlib.sha256((json.dumps(files) + script).encode()).hexdigest()[:10]
    return script.replace("__VERSION__", version).replace("__FILES__", json.dumps(files))


@router.get("/sw.js")
def service_worker() -> Response:
    """The service worker; it must stand at the root to see every page."""
    return Response(worker_text(), media_type="text/javascript", headers={"cache-control": "no-cache"})


@router.get("/offline")
def offline(request: Request) -> Response:
    """Shown where there is no signal and the page was never open here."""
    return page(
        request,
        "error.html",
        heading="No connection",
        back="/",
        words="This page was not open on this device before. Without a signal the visits work that you opened, and once you saw "
        "the board your calls of the day, a visit to the other units there, and one sheet; what you enter is kept, and sent or "
        "judged when the signal returns.",
    )


@router.get("/healthz")
def alive() -> JSONResponse:
    """Whether this process answers."""
    return JSONResponse({"status": "alive"})


@router.get("/readyz")
def ready(request: Request) -> JSONResponse:
    """Whether it can serve: the database answers, and stands at these migrations."""
    with engine_of(request).begin() as connection:  # ended by a commit: see `looking`
        at = connection.execute(text("SELECT version_num FROM alembic_version")).scalar_one_or_none()
    good = at == newest_revision()
    return JSONResponse({"status": "ready" if good else "wrong revision", "revision": at}, 200 if good else 503)


@router.get("/metrics")
def metrics(request: Request, authorization: Annotated[str, Header()] = "") -> Response:
    """This process's numbers, for whoever has the installation's METRICS_TOKEN."""
    wanted = f"Bearer {request.app.state.settings.metrics_token}"
    if not request.app.state.settings.metrics_token or not compare_digest(authorization.encode(), wanted.encode()):
        raise HTTPException(404)
    return Response(request.app.state.numbers.written(), media_type=CONTENT_TYPE_LATEST)


@router.get("/me/token")
def form_token(request: Request) -> Response:
    """A form token for entries that waited longer than the page's own lived."""
    with signed_in(request):
        return JSONResponse({"token": request.scope["csrftoken"]()}, headers={"cache-control": "no-store"})
