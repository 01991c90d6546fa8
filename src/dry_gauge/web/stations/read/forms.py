"""Forms of Read, and of the judgement beside it."""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import parse_unit
from dry_gauge.core.judgement.assess import JUDGED_BY
from dry_gauge.core.vocabulary import QUANTITIES
from dry_gauge.web.typed import EntryForm, Reads, number, parse_number, plain, ticked


def _reading(form: EntryForm) -> Mapping[str, object]:
    value, written = parse_number(form.get("value"))
    quantity, unit = form.get("quantity"), form.get("unit")
    if written and quantity in QUANTITIES:
        unit = parse_unit(written, QUANTITIES[quantity].dimension)
    more: dict[str, object] = {name: form.get(name) for name in ("place", "instrument", "source") if form.get(name)}
    if form.beside == "fan-form" and not form.get("place").strip():
        raise Refused("Say which fan: left, north, second from the door.", "place")
    if form.get("rated"):
        more["rated"] = number(form, "rated", "The plate's amps")
    return {"quantity": quantity, "value": value, "unit": unit, **more}


def _clock(form: EntryForm) -> Mapping[str, object]:
    minutes, written = parse_number(form.get("minutes_ago"))
    if written and written.lower().rstrip(".") not in ("m", "min", "minutes", "minute"):
        raise Refused("Type minutes, such as 18.", "minutes_ago")
    return {"event": form.get("event"), "minutes_ago": minutes}


def _mode(form: EntryForm) -> Mapping[str, object]:
    return {"mode": form.get("mode"), "read_since": ticked(form, "read_since")}


def _override(form: EntryForm) -> Mapping[str, object]:
    return {"fault": form.get("fault"), "reason": form.get("reason"), "rule_set": JUDGED_BY}


FORMS: Mapping[str, Reads] = {
    "reading": _reading,
    "clock": _clock,
    "override": _override,
    "released": plain("reading", "reason", blank=("reason",)),
    "aside": plain("warning", "basis", "reason", blank=("reason",)),
    "out_of_reach": plain("check"),
    "mode": _mode,
    "stage": plain("commanded", "actual", "witness"),
    "in_use": plain("dimension", "instrument", "accuracy", "unit", "low", "high"),
    "note": plain("text", blank=("text",)),
    "void": plain("voids", "reason"),
    "explained": plain("clash", "reason", blank=("reason",)),
}
