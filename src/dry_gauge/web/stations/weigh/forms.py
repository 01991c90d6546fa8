"""Forms of Weigh in: the target, and every pour, in or out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from dry_gauge.core.charge.mass import GRAM_KG, OUNCE_KG
from dry_gauge.core.errors import Refused
from dry_gauge.core.quantities import FOOT_M
from dry_gauge.web.typed import EntryForm, Reads, number, plain, texts, ticked
from dry_gauge.web.weights import grams_of, maybe_grams


def _target(form: EntryForm) -> Mapping[str, object]:
    per = FOOT_M if form.get("length_unit") != "m" else 1.0
    length, included = number(form, "length", "The length"), number(form, "included", "The included length")
    maker = number(form, "maker", "The maker's figure")
    change = form.get("change").strip()
    sign = -1 if change[:1] in "-−–" and change else 1
    found: dict[str, object] = {
        "label_g": grams_of(form.get, "label"),
        "line": form.get("line") or "3/8",
        "line_included_m": 0.0 if included is None else round(included * per, 4),
        "drier_g": maybe_grams(form.get, "drier") or 0,
        "change_words": form.get("change_words"),
    }
    if length is not None:
        found["line_length_m"] = round(length * per, 4)
    if maker is not None:
        # Ounces a foot, or grams a metre: as makers print it.
        found["maker_g_per_m"] = maker if per == 1.0 else maker * OUNCE_KG / GRAM_KG / FOOT_M
    if change:
        unsigned = replace(form, fields={**form.fields, "change": [change.lstrip("-−– ")]})
        found["change_g"] = sign * grams_of(unsigned.get, "change")
    return found


def _movement(form: EntryForm) -> Mapping[str, object]:
    if form.get("weight").strip()[:1] in ("-", "−", "–"):
        raise Refused("A weight cannot be negative. Taking out is recovery: choose that instead of a minus.", "weight")
    return {
        **texts(form, "way", "cylinder", "phase", "reason"),
        "grams": grams_of(form.get, "weight"),
        "hose_g": maybe_grams(form.get, "hose") or 0,
        "converting": ticked(form, "converting"),
    }


def _shown(form: EntryForm) -> dict[str, object]:
    # A scale shows decimals: they are never ounces in disguise.
    return {"gross_g": grams_of(form.get, "gross", ask=False)}


def _pour(form: EntryForm) -> Mapping[str, object]:
    return {
        **texts(form, "way", "cylinder", "phase", "reason"),
        **_shown(form),
        "converting": ticked(form, "converting"),
        "source": form.get("source") or "typed",
    }


def _pour_end(form: EntryForm) -> Mapping[str, object]:
    by_hand = maybe_grams(form.get, "weight")
    amount = _shown(form) if by_hand is None else {"grams": by_hand}
    return {
        **texts(form, "pour", "reason"),
        **amount,
        "hose_g": maybe_grams(form.get, "hose") or 0,
        "source": form.get("source") or "typed",
    }


def _pour_mark(form: EntryForm) -> Mapping[str, object]:
    return {"pour": form.get("pour"), **_shown(form), "source": form.get("source") or "typed"}


FORMS: Mapping[str, Reads] = {
    "charge_target": _target,
    "movement": _movement,
    "pour": _pour,
    "pour_mark": _pour_mark,
    "pour_end": _pour_end,
    "glass": plain("movement", "shows"),
}
