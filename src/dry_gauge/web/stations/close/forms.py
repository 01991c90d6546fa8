"""Forms of Close."""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.web.typed import EntryForm, Reads, number, plain


def _season(form: EntryForm) -> Mapping[str, object]:
    months = number(form, "months", "Months")
    return {**plain("part", "surroundings")(form), **({} if months is None else {"months": months})}


FORMS: Mapping[str, Reads] = {
    "season": _season,
    "follow_up": plain("sort", "what", "due"),
    "follow_up_done": plain("follow_up", "how"),
    "finding_end": plain("what", "way", "reason"),
    "closing": plain("outcome", "summary", "override"),
}
