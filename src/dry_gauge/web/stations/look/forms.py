"""Forms of Look."""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.web.typed import Reads, plain

FORMS: Mapping[str, Reads] = {"observation": plain("what", "state"), "condition": plain("condition", "on")}
