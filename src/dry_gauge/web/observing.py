"""What whoever runs an installation can see of it: a line of JSON for each request, and numbers in the usual text format.

A line names who asked by id, never what was typed: no query strings, no bodies, no parameters of statements.
"""

from __future__ import annotations

import logging
import re
import secrets
import time
from typing import Any

from prometheus_client import CollectorRegistry, Counter, Gauge, Histogram, generate_latest
from pythonjsonlogger.json import JsonFormatter
from sqlalchemy import Engine
from starlette.types import ASGIApp, Message, Receive, Scope, Send

REQUEST_ID = "dry-gauge.request-id"
SOMEONE = "dry-gauge.someone"
"""Where the scope says who is signed in: shop and person."""

_log = logging.getLogger("dry_gauge.requests")
# PostgreSQL repeats in these lines what stood in a row.
_ROW = re.compile(r"^(DETAIL|CONTEXT):.*$|\$argon2id\$\S+", re.MULTILINE)
_QUIET = frozenset({"/healthz", "/readyz", "/metrics"})
_BUCKETS = (0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1.0, 2.5, 5.0, 10.0)


class _Line(JsonFormatter):
    """A line of JSON without what a row of the database holds."""

    def formatException(self, ei: Any) -> str:
        """A trace without what stood in a row."""
        trace: str | list[str] = super().formatException(ei)
        return _ROW.sub("(withheld)", trace if isinstance(trace, str) else "\n".join(trace))

    def process_log_record(self, log_data: dict[str, Any]) -> dict[str, Any]:
        """The same for the words themselves."""
        return {key: _ROW.sub("(withheld)", value) if isinstance(value, str) else value for key, value in log_data.items()}


def log_lines(level: str) -> None:
    """Let everything that is logged go to standard error, a line of JSON each.

    Parameters
    ----------
    level : str
        Of Python's names, such as 'INFO' (each request) or 'WARNING' (what went wrong).
    """
    handler = logging.StreamHandler()
    handler.setFormatter(
        _Line(
            ["asctime", "levelname", "name", "message"], rename_fields={"asctime": "at", "levelname": "level", "name": "logger"}
        )
    )
    logging.basicConfig(level=level.upper(), handlers=[handler], force=True)


class Numbers:
    """What one process counts. Each process is asked by itself."""

    def __init__(self, engine: Engine) -> None:
        self.registry = CollectorRegistry()
        self.requests = Counter("dry_gauge_requests", "Requests answered", ["method", "route", "status"], registry=self.registry)
        self.seconds = Histogram(
            "dry_gauge_request_seconds",
            "Seconds to the whole answer, streams left out",
            ["route"],
            buckets=_BUCKETS,
            registry=self.registry,
        )
        self.under_way = Gauge(
            "dry_gauge_requests_under_way", "Requests being answered, streams among them", registry=self.registry
        )
        self.streams = Gauge("dry_gauge_streams", "Live pages that look on", registry=self.registry)
        connections = Gauge("dry_gauge_database_connections", "Connections in use", registry=self.registry)
        pool: Any = engine.pool
        connections.set_function(pool.checkedout)

    def written(self) -> bytes:
        """Everything, in the text format of scrapers."""
        return generate_latest(self.registry)


class Observed:
    """Gives each request a name, counts it, and writes its line."""

    def __init__(self, app: ASGIApp, numbers: Numbers) -> None:
        self.app, self.numbers = app, numbers

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass one request through."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        name = scope[REQUEST_ID] = secrets.token_hex(8)
        status, streams, began = 500, False, time.perf_counter()

        async def send_named(message: Message) -> None:
            nonlocal status, streams
            if message["type"] == "http.response.start":
                status = message["status"]
                kinds = (value for key, value in message["headers"] if key == b"content-type")
                streams = any(kind.startswith(b"text/event-stream") for kind in kinds)
                message = {**message, "headers": [*message["headers"], (b"x-request-id", name.encode())]}
            await send(message)

        try:
            with self.numbers.under_way.track_inprogress():
                await self.app(scope, receive, send_named)
        finally:
            self._written(scope, name, status, time.perf_counter() - began, streams)

    def _written(self, scope: Scope, name: str, status: int, seconds: float, streams: bool) -> None:
        route = getattr(scope.get("route"), "path", "") or ("/static" if scope["path"].startswith("/static/") else "none")
        method = scope["method"] if scope["method"] in ("GET", "HEAD", "POST") else "other"
        self.numbers.requests.labels(method, route, status).inc()
        if not streams:
            self.numbers.seconds.labels(route).observe(seconds)
        if route in _QUIET or route == "/static":
            return
        shop, person = scope.get(SOMEONE, ("", ""))
        level = logging.WARNING if status >= 500 else logging.INFO
        _log.log(
            level,
            "%s %s",
            method,
            route,
            extra={
                "request_id": name,
                "status": status,
                "ms": round(seconds * 1000, 1),
                "shop": str(shop),
                "person": str(person),
            },
        )
