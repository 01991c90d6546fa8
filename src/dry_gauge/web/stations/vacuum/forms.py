"""Forms of Vacuum."""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.core.errors import Refused
from dry_gauge.web.typed import EntryForm, Reads, number, plain, texts, ticks


def _evacuation(form: EntryForm) -> Mapping[str, object]:
    target = number(form, "target_micron", "The target")
    found: dict[str, object] = {
        "what": form.get("what") or "system", "school": form.get("school") or "strict",
        **texts(form, "gauge", "gauge_at", "hoses"), **ticks(form, "cores_out", "water_suspected", "charge_kept", "triple"),
    }  # fmt: skip
    if target is not None:
        found["target_micron"] = target
    if form.get("done_by"):
        found["done_by"] = form.get("done_by")
    return found


def _point(form: EntryForm) -> Mapping[str, object]:
    text = form.get("micron").replace(",", "").replace(" ", "")
    try:
        return {"evacuation": form.get("evacuation"), "micron": float(text)}
    except ValueError:
        raise Refused("Type microns, such as 412. A gauge at its end shows nothing: wait.", "micron") from None


FORMS: Mapping[str, Reads] = {
    "evacuation": _evacuation,
    "vacuum_point": _point,
    "vacuum_event": plain("evacuation", "event", "reason"),
}
