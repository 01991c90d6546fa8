"""What a server runs: `dry-gauge serve`."""

from __future__ import annotations

import gc
import os

# Our matrices are small: more threads for one product only take the processor from another request. Read by numpy when it
# is imported, so it comes first.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

from starlette.types import ASGIApp

from dry_gauge.web.app import create_app
from dry_gauge.web.observing import log_lines
from dry_gauge.web.settings import Settings


def application() -> ASGIApp:
    """The application as the environment sets it."""
    log_lines(os.environ.get("LOG_LEVEL", "INFO"))
    application = create_app(Settings.from_environment())
    # What is loaded now stays for good: the collector need not walk it again while a technician waits.
    gc.collect()
    gc.freeze()
    gc.set_threshold(20_000, 20, 50)
    return application
