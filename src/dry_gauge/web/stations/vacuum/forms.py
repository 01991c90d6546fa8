"""Forms of Vacuum."""

from __future__ import annotations

import re
from collections.abc import Mapping

from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import typed_number
from dry_gauge.web.typed import EntryForm, Reads, plain, texts, ticks

_THOUSANDS = re.compile(r"\d{1,3}(?:[, ]\d{3})+")


def _microns(text: str, field: str, what: str) -> float:
    """Microns are whole, so that a comma or a blank before three digits stands in the thousands."""
    whole = text.strip()
    return typed_number(re.sub("[, ]", "", whole) if _THOUSANDS.fullmatch(whole) else whole, field, what)


def _evacuation(form: EntryForm) -> Mapping[str, object]:
    typed = form.get("target_micron")
    target = _microns(typed, "target_micron", "The target") if typed.strip() else None
    found: dict[str, object] = {
        "what": form.get("what") or "system",
        "school": form.get("school") or "strict",
        **texts(form, "gauge", "gauge_at", "hoses"),
        **ticks(form, "cores_out", "water_suspected", "charge_kept", "triple"),
    }
    if target is not None:
        found["target_micron"] = target
    if form.get("done_by"):
        found["done_by"] = form.get("done_by")
    return found


def _point(form: EntryForm) -> Mapping[str, object]:
    typed = form.get("micron")
    if not any(sign.isdigit() for sign in typed):
        raise Refused("Type microns, such as 412. A gauge at its end shows nothing: wait.", "micron")
    return {"evacuation": form.get("evacuation"), "micron": _microns(typed, "micron", "What the gauge shows")}


FORMS: Mapping[str, Reads] = {
    "evacuation": _evacuation,
    "vacuum_point": _point,
    "vacuum_event": plain("evacuation", "event", "reason"),
}
