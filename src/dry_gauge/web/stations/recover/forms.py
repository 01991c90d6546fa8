"""Forms of Recover; pours are those of Weigh in."""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.core.errors import Refused
from dry_gauge.web.typed import EntryForm, Reads, number


def _recovered_to(form: EntryForm) -> Mapping[str, object]:
    value = number(form, "value", "The vacuum")
    if value is None:
        raise Refused("Type the pressure it held in the end: 0 on the gauge, or the vacuum that it reached.", "value")
    return {
        "appliance": form.get("appliance"),
        "value": value,
        "unit": form.get("unit") or "psig",
        "reason": form.get("reason"),
        "minutes_held": number(form, "minutes_held", "The wait") or 0.0,
    }


FORMS: Mapping[str, Reads] = {"recovered_to": _recovered_to}
