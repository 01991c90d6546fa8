"""Forms of Box."""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.core.errors import Refused
from dry_gauge.web.typed import EntryForm, Reads, number, plain, ticked


def _food(form: EntryForm) -> Mapping[str, object]:
    numbers = {"limit": number(form, "limit", "The limit"), "limit_minutes": number(form, "limit_minutes", "Minutes"),
               "warm_for_minutes": number(form, "warm_for_minutes", "Minutes")}  # fmt: skip
    return {"product": form.get("product"), "limit_unit": form.get("limit_unit") or "F",
            **{name: value for name, value in numbers.items() if value is not None}}  # fmt: skip


def _pressure_setting(form: EntryForm) -> Mapping[str, object]:
    names = {"cut_out_psig": "The cut-out", "cut_in_psig": "The cut-in", "coldest_f": "The coldest place", "td_f": "The TD"}
    found = {name: number(form, name, what) for name, what in names.items()}
    for name in ("cut_out_psig", "cut_in_psig"):
        if found[name] is None:
            raise Refused(f"{names[name]} as it was found, in psig.", name)
    return {"way": form.get("way") or "pump_down", **{name: value for name, value in found.items() if value is not None}}


FORMS: Mapping[str, Reads] = {
    "box_mark": lambda form: {"what": form.get("what"), "begins": ticked(form, "begins")},
    "food": _food,
    "food_decision": plain("product", "told", "decision"),
    "box_check": lambda form: {"check": form.get("check"), "good": ticked(form, "good"), "words": form.get("words")},
    "pressure_setting": _pressure_setting,
}
