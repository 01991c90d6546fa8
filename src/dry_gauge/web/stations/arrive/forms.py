"""Forms of Arrive."""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.web.typed import EntryForm, Reads, number, plain


def _weather(form: EntryForm) -> Mapping[str, object]:
    found = {name: number(form, name, what) for name, what in (("temp", "The air's temperature"), ("humidity", "Humidity"))}
    known = {name: value for name, value in found.items() if value is not None}
    sky = {"sky": form.get("sky")} if form.get("sky") else {}
    return {"temp_unit": form.get("temp_unit") or "F", **sky, **known}


FORMS: Mapping[str, Reads] = {
    "complaint": plain("sorts", "words", "since", "who_touched_it", lists=("sorts",)),
    "claim": plain("text", blank=("text",)),
    "claim_check": plain("claim", "true", "how"),
    "task": plain("what"),
    "weather": _weather,
    "task_done": plain("task"),
}
