"""Forms of Box."""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import difference_k
from dry_gauge.core.quantities import FAHRENHEIT_K
from dry_gauge.web.typed import EntryForm, Reads, number, number_in, plain, ticked


def _food(form: EntryForm) -> Mapping[str, object]:
    numbers = {
        "limit": number(form, "limit", "The limit"),
        "limit_minutes": number(form, "limit_minutes", "Minutes"),
        "warm_for_minutes": number(form, "warm_for_minutes", "Minutes"),
    }
    return {
        "product": form.get("product"),
        "limit_unit": form.get("limit_unit") or "F",
        **{name: value for name, value in numbers.items() if value is not None},
    }


def _pressure_setting(form: EntryForm) -> Mapping[str, object]:
    found = {
        "cut_out_psig": number_in(form, "cut_out_psig", "The cut-out", "psig", typed_in="pressure_unit"),
        "cut_in_psig": number_in(form, "cut_in_psig", "The cut-in", "psig", typed_in="pressure_unit"),
        "coldest_f": number_in(form, "coldest_f", "The coldest place", "F", typed_in="temperature_unit"),
        "td_f": _td_f(form),
    }
    for name, what in (("cut_out_psig", "The cut-out"), ("cut_in_psig", "The cut-in")):
        if found[name] is None:
            raise Refused(f"{what} as it was found on its scale.", name)
    return {"way": form.get("way") or "pump_down", **{name: value for name, value in found.items() if value is not None}}


def _td_f(form: EntryForm) -> float | None:
    """A difference: it has no zero to move."""
    td = number(form, "td_f", "The TD")
    return None if td is None else difference_k(td, form.get("temperature_unit"), "F") / FAHRENHEIT_K


FORMS: Mapping[str, Reads] = {
    "box_mark": lambda form: {"what": form.get("what"), "begins": ticked(form, "begins")},
    "food": _food,
    "food_decision": plain("product", "told", "decision"),
    "box_check": lambda form: {"check": form.get("check"), "good": ticked(form, "good"), "words": form.get("words")},
    "pressure_setting": _pressure_setting,
}
