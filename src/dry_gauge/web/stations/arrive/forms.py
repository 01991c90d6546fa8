"""Forms of Arrive."""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.web.typed import Reads, plain

FORMS: Mapping[str, Reads] = {
    "complaint": plain("sorts", "words", "since", "who_touched_it", lists=("sorts",)),
    "claim": plain("text", blank=("text",)),
    "claim_check": plain("claim", "true", "how"),
    "task": plain("what"),
    "task_done": plain("task"),
}
