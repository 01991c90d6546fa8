"""Entries of the sealed work as the timeline writes them."""

from __future__ import annotations

from dry_gauge.core.leak_search import BY_CODE, METHOD_WORDS
from dry_gauge.core.mass import GRAM_KG, forms
from dry_gauge.core.opening import REPAIR_WORDS
from dry_gauge.notebook import sealed as s
from dry_gauge.notebook.entries import Body


def weight(grams: int) -> str:
    """In pounds and ounces and in kilograms, so that a slip shows."""
    found = forms(grams * GRAM_KG)
    return f"{found.lb_oz}, {found.kg}"


def sealed_said(body: Body) -> tuple[str, str] | None:
    """What, and how it read; None for other entries."""
    match body:
        case s.SealedPlanBody():
            return "Opened for", REPAIR_WORDS[body.repair].lower()
        case s.StepBody():
            return f"Step: {body.step.replace('_', ' ')}", "done" if body.done else f"left out: {body.reason}"
        case s.ChargeTargetBody():
            line = f", line set {body.line_length_m:.1f} m of {body.line}" if body.line_length_m is not None else ""
            return "Charge target", f"label {weight(body.label_g)}{line}"
        case s.MovementBody():
            return s.WAY_LABELS[body.way], "; ".join(filter(None, (weight(body.grams), body.phase, body.reason)))
        case s.PourBody():
            return f"{s.WAY_LABELS[body.way]}: begun", f"scale {weight(body.gross_g)}{_live(body.source)}"
        case s.PourMarkBody():
            return "Scale", f"{weight(body.gross_g)}{_live(body.source)}"
        case s.PourEndBody():
            amount = f"{weight(body.grams)} by hand" if body.grams is not None else f"scale {weight(body.gross_g or 0)}"
            return "Pour ended", "; ".join(filter(None, (amount + _live(body.source), body.reason)))
        case s.RecoveredToBody():
            return "Recovered to", f"{body.value:g} {body.unit}, {body.appliance.lower()}"
        case s.LeakPlaceBody():
            place = BY_CODE[body.place].label if body.place in BY_CODE else body.place
            words = (body.result.replace("_", " "), METHOD_WORDS.get(body.method, "").lower(), body.words)
            return place, ", ".join(filter(None, words))
        case s.LeakCureBody():
            lasts = f", expected to last {body.months} months" if body.months else ""
            return s.CURE_WORDS[body.cure], f"{body.part}{lasts}".strip(", ")
    return _held_or_pulled(body)


def _held_or_pulled(body: Body) -> tuple[str, str] | None:
    match body:
        case s.HoldBody():
            limit = f", limit {body.limit:g} {body.unit}" if body.limit else ", no limit on the label"
            return "Hold begun", f"{body.section}{limit}"
        case s.HoldReadingBody():
            stage = "on the way up, " if body.stage else ""
            live = _live(body.source)
            return "Hold", f"{stage}{body.pressure:g} {body.pressure_unit} at {body.temp:g} {body.temp_unit}{live}"
        case s.HoldEndBody():
            return "Hold ended", "; ".join(filter(None, (body.verdict.replace("_", " "), body.reason)))
        case s.EvacuationBody():
            return "Rig to be proven" if body.what == "rig" else "Evacuation begun", body.gauge
        case s.VacuumPointBody():
            return "Vacuum", f"{body.micron:,.0f} microns"
        case s.VacuumEventBody():
            return s.EVENT_WORDS[body.event], body.reason
        case s.TraceBody():
            return (
                "Vacuum, live",
                f"{len(body.micron)} points to {body.micron[-1]:,.0f} microns" if body.micron else "no points",
            )
        case _:
            return None


def _live(source: str) -> str:
    return ", live" if source == "probe" else ""
