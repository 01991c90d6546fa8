"""Forms of Leak."""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.web.typed import EntryForm, Reads, number, plain


def _cure(form: EntryForm) -> Mapping[str, object]:
    months = number(form, "months", "The expected life")
    found: dict[str, object] = {"leak": form.get("leak"), "cure": form.get("cure"), "part": form.get("part")}
    return found | ({} if months is None else {"months": int(months)})


FORMS: Mapping[str, Reads] = {"leak_place": plain("place", "result", "method", "words"), "leak_cure": _cure}
