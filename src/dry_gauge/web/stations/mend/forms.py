"""Forms of Mend."""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.core.cleaning.coil import FLUID_OUNCE_L
from dry_gauge.core.dimensions import units_of
from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import parse_unit
from dry_gauge.core.vocabulary import QUANTITIES
from dry_gauge.web.typed import EntryForm, Reads, number, parse_number, plain, ticked


def _failed_test(form: EntryForm) -> Mapping[str, object]:
    """The number in the sender's own unit unless another is written behind it."""
    said = dict(plain("quantity", "should", "what", "state")(form))
    if said.get("what") or not form.get("value").strip():
        return said
    quantity = form.get("quantity")
    dimension = QUANTITIES[quantity].dimension if quantity in QUANTITIES else "temperature"
    value, written = parse_number(form.get("value"))
    unit = parse_unit(written, dimension) if written else form.get(f"unit_{dimension}") or units_of(dimension)[0]
    return {**said, "comparator": form.get("comparator"), "value": value, "unit": unit}


_LITRES = {"gal": 3.785411784, "fl oz": FLUID_OUNCE_L, "L": 1.0}


def _cleaning(form: EntryForm) -> Mapping[str, object]:
    volume, dwell, rows = (
        number(form, name, what) for name, what in (("volume", "The can"), ("dwell_minutes", "Minutes"), ("rows", "Rows"))
    )
    if rows is not None and rows != int(rows):
        raise Refused("Rows are counted: 1, 2, 3.", "rows")
    return {
        **plain("coil", "coil_kind", "dirt", "cleaner", "ratio")(form),
        "maker_allows": ticked(form, "maker_allows"),
        **({} if volume is None else {"volume_l": volume * _LITRES.get(form.get("volume_unit"), 1.0)}),
        **({} if dwell is None else {"dwell_minutes": dwell}),
        **({} if rows is None else {"rows": int(rows)}),
    }


def _action(form: EntryForm) -> Mapping[str, object]:
    return {**plain("sort", "words", "against", "part")(form), "read_since": ticked(form, "read_since")}


def _red_tag(form: EntryForm) -> Mapping[str, object]:
    said = plain("danger", "told", "tag", "heard", "how", "signature")(form)
    return {**said, "gas_off": ticked(form, "gas_off")}


FORMS: Mapping[str, Reads] = {
    "cleaning": _cleaning,
    "cleaning_step": plain("cleaning", "step", "place"),
    "action": _action,
    "failed_test": _failed_test,
    "proof": plain("failed_test", "passed", "how"),
    "temporary": plain("sort", "where", "was", "belongs_to", "permission"),
    "restored": plain("change", "how"),
    "trip": plain("event", "switch", "cause"),
    "caution": plain("code"),
    "stood_by": plain("step", "who"),
    "lockout": plain("disconnect", "locked"),
    "red_tag": _red_tag,
    "timer": plain("what", "minutes", "thaw"),
    "timer_end": plain("timer"),
}
