"""Forms of the plan."""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.web.typed import EntryForm, Reads, ticked


def _plan(form: EntryForm) -> Mapping[str, object]:
    return {"repair": form.get("repair"), "compressor_runs": ticked(form, "compressor_runs"),
            "receiver_holds": ticked(form, "receiver_holds")}  # fmt: skip


def _step(form: EntryForm) -> Mapping[str, object]:
    return {"step": form.get("step"), "done": ticked(form, "done"), "reason": form.get("reason")}


FORMS: Mapping[str, Reads] = {
    "sealed_plan": _plan,
    "step": _step,
}
