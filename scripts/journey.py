"""Prints which of our files one typed reading passes through, from the request to the answer.

Core and drawing are counted apart: there the way is long because the physics is.
"""

from __future__ import annotations

import re
import sys
import threading
import time
from datetime import datetime
from pathlib import Path
from typing import Any

import uuid6
import uvicorn

import dry_gauge
from dry_gauge.core.quantities import PSI_PA, STANDARD_ATMOSPHERE_PA
from dry_gauge.demo.calls import TODAY
from dry_gauge.demo.cluster import APPLICATION, OWNER
from dry_gauge.demo.ports import free_port
from dry_gauge.demo.shop import PASSWORD, seed
from dry_gauge.store.database import connect
from dry_gauge.web.app import create_app
from dry_gauge.web.settings import Settings
from scripts.bench_live import own_cluster
from tests.web.calls import Browser

SI_PA = 111.37 * PSI_PA + STANDARD_ATMOSPHERE_PA
HOME = str(Path(dry_gauge.__file__).parent) + "/"
TYPED = "111.37"
seen: set[str] = set()
holding: set[str] = set()
looking = False


def note(frame: Any, event: str, _what: object) -> None:
    if not looking or event not in ("call", "return") or not frame.f_code.co_filename.startswith(HOME):
        return
    file = frame.f_code.co_filename.removeprefix(HOME)
    seen.add(file)
    if file not in holding and any(holds(one) for one in list(frame.f_locals.values())):
        holding.add(file)


def holds(one: object) -> bool:
    """Whether the typed number stands there: as typed, as a number in its unit or in SI, or as something's value."""
    if isinstance(one, str):
        return TYPED in one
    number = one if isinstance(one, float) else getattr(one, "value", None)
    return isinstance(number, float) and any(abs(number - like) < 0.01 for like in (float(TYPED), SI_PA))


def main() -> None:
    global looking
    threading.setprofile(note)  # every thread from here on: the server's loop and its workers
    with own_cluster() as cluster:
        owner = connect(cluster.url(OWNER), pool_size=1)
        with owner.begin() as connection:
            seed(connection, datetime.now().astimezone())
        owner.dispose()
        port = free_port()
        app = create_app(Settings(database_url=cluster.url(APPLICATION), secret_key="not secret, only counted with"))
        server = uvicorn.Server(uvicorn.Config(app, port=port, log_level="error"))
        thread = threading.Thread(target=server.run)
        thread.start()
        while not server.started:
            time.sleep(0.05)
        try:
            browser = Browser(f"http://127.0.0.1:{port}")
            browser.sign_in("ines", PASSWORD)
            visit = next(item for item in TODAY if item.unit == "ac2").id
            page = browser.get(f"/visits/{visit}")
            shown = max(int(number) for number in re.findall(r'data-sequence="(\d+)"', page.text))
            for i in range(2):  # the first one also fills caches, which is nobody's usual way
                looking = i == 1
                answer = browser.ask(
                    "POST",
                    f"/visits/{visit}/entries",
                    {
                        "csrftoken": browser.token,
                        "entry_id": str(uuid6.uuid7()),
                        "kind": "reading",
                        "unit": "psig",
                        "quantity": "suction_pressure",
                        "value": TYPED if i else "110",
                    },
                    **{"hx-request": "true", "x-page": "desk", "x-seen": str(shown + i)},
                )
                assert answer.status_code == 200, answer.status_code
            looking = False
        finally:
            server.should_exit = True
            thread.join(10)
    templates = sorted(one for one in seen if one.endswith(".html"))
    python = sorted(seen - set(templates))
    inner = [one for one in python if one.startswith(("core/", "drawing/"))]
    outer = [one for one in python if one not in inner]
    for title, listed in (("templates", templates), ("outside core and drawing", outer), ("core and drawing", inner)):
        held = sum(one in holding for one in listed)
        print(
            f"{len(listed)} {title}, the number itself in {held}",
            *(f"{one}{' *' * (one in holding)}" for one in listed),
            sep="\n  ",
        )


if __name__ == "__main__":
    sys.exit(main())
