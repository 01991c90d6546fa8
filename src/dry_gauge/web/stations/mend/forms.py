"""Forms of Mend."""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.core.dimensions import units_of
from dry_gauge.core.vocabulary import QUANTITIES
from dry_gauge.web.typed import EntryForm, Reads, parse_number, parse_unit, plain


def _failed_test(form: EntryForm) -> Mapping[str, object]:
    """The number in the sender's own unit unless another is written behind it."""
    said = dict(plain("quantity", "circuit", "should", "what", "state")(form))
    if said.get("what") or not form.get("value").strip():
        return said
    quantity = form.get("quantity")
    dimension = QUANTITIES[quantity].dimension if quantity in QUANTITIES else "temperature"
    value, written = parse_number(form.get("value"))
    unit = parse_unit(written, dimension) if written else form.get(f"unit_{dimension}") or units_of(dimension)[0]
    return {**said, "comparator": form.get("comparator"), "value": value, "unit": unit}


FORMS: Mapping[str, Reads] = {
    "action": plain("sort", "words", "against", "part"),
    "failed_test": _failed_test,
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
