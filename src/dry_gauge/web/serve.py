"""What a server runs: `uvicorn --factory dry_gauge.web.serve:application`."""

from __future__ import annotations

from starlette.types import ASGIApp

from dry_gauge.web.app import create_app
from dry_gauge.web.settings import Settings


def application() -> ASGIApp:
    """The application as the environment sets it."""
    return create_app(Settings.from_environment())
