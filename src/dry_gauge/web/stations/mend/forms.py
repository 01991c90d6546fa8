"""Forms of Mend."""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.web.typed import Reads, plain

FORMS: Mapping[str, Reads] = {
    "action": plain("sort", "words", "against", "part"),
    "failed_test": plain("quantity", "circuit", "should"),
    "proof": plain("failed_test", "passed", "how"),
    "temporary": plain("sort", "where", "was", "belongs_to", "permission"),
    "restored": plain("change", "how"),
    "trip": plain("event", "switch", "cause"),
    "caution": plain("code"),
    "lockout": plain("disconnect", "locked"),
    "red_tag": plain("danger", "told"),
    "timer": plain("what", "minutes", "thaw"),
    "timer_end": plain("timer"),
}
