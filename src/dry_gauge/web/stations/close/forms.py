"""Forms of Close."""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.web.typed import Reads, plain

FORMS: Mapping[str, Reads] = {
    "follow_up": plain("sort", "what", "due"),
    "follow_up_done": plain("follow_up", "how"),
    "finding_end": plain("what", "circuit", "way", "reason"),
    "closing": plain("outcome", "summary", "override"),
}
