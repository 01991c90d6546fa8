"""Forms of the plan."""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.core.errors import Refused
from dry_gauge.web.typed import EntryForm, Reads, number, ticked


def _plan(form: EntryForm) -> Mapping[str, object]:
    return {
        "repair": form.get("repair"),
        "compressor_runs": ticked(form, "compressor_runs"),
        "receiver_holds": ticked(form, "receiver_holds"),
    }


def _step(form: EntryForm) -> Mapping[str, object]:
    if form.beside == "pump-down-form":
        rest, minutes = number(form, "rest", "Final pressure"), number(form, "minutes", "The wait")
        if rest is None:
            raise Refused("Type the low side's final pressure: 1 to 2 psig (0.1 bar).", "rest")
        watched = "" if minutes is None else f", watched {minutes:g} min"
        return {"step": form.get("step"), "done": True, "reason": f"to {rest:g} {form.get('unit') or 'psig'}{watched}"}
    return {"step": form.get("step"), "done": ticked(form, "done"), "reason": form.get("reason")}


FORMS: Mapping[str, Reads] = {"sealed_plan": _plan, "step": _step}
