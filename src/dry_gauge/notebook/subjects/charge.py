"""Refrigerant in and out by weight: what each entry changes, what is refused, and what it leaves to be seen to."""

from __future__ import annotations

from typing import Any

from dry_gauge.core.charge.amounts import ASKS_FROM, Standing
from dry_gauge.core.charge.mass import GRAM_KG, forms
from dry_gauge.core.charge.waits import charge_waits
from dry_gauge.core.dimensions import UNITS
from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import most_gauge_pa
from dry_gauge.core.words import in_percent
from dry_gauge.notebook.fields import of_circuit
from dry_gauge.notebook.kind import LEAST_REASON, Case, Entry, Kind, Obstacle, VisitState, keeping, kept, still_on, with_one
from dry_gauge.notebook.subjects.actions import ActionSort, changed
from dry_gauge.notebook.subjects.agenda import RECHECKS, RETURNS, Agenda
from dry_gauge.notebook.subjects.charge_target import weight_words
from dry_gauge.notebook.subjects.hold import Holds
from dry_gauge.notebook.subjects.leak import Leaks
from dry_gauge.notebook.subjects.ledger import ChangeSort, Ledger
from dry_gauge.notebook.subjects.movements import (
    INTO_UNIT,
    MOVEMENT_WORDS,
    OUT_OF_UNIT,
    Charge,
    KeptPour,
    Moved,
    MovementBody,
    MovementSort,
    PourBody,
    PourEndBody,
    PourMarkBody,
    RecoveredToBody,
    in_unit_g,
    standing_of,
)
from dry_gauge.notebook.subjects.vacuum import Vacuum

# A scale wanders by this much without anything having moved.
_SCALE_SLACK_G = 15


# -- what each kind changes ------------------------------------------------


_recovered = keeping(Charge, "recovered", lambda body: str(body.circuit or 1))


def _with_moved(visit: VisitState, entry: Entry, moved: Moved) -> VisitState:
    visit = visit.changing(Charge, moved=visit[Charge].moved | {str(entry.id): moved})
    return changed(visit, entry, ActionSort.CHARGE_ADJUSTED)


def _moved(visit: VisitState, entry: Entry, body: MovementBody) -> VisitState:
    said = body.model_dump(include={"way", "cylinder", "grams", "hose_g", "phase", "reason", "converting", "circuit"})
    return _with_moved(visit, entry, Moved(entry_id=entry.id, at=entry.written_at, **said))


def _poured(visit: VisitState, entry: Entry, _: PourBody) -> VisitState:
    return visit.changing(Charge, pours=visit[Charge].pours | {str(entry.id): KeptPour(**kept(entry))})


def _marked(visit: VisitState, entry: Entry, body: PourMarkBody) -> VisitState:
    pour = visit[Charge].pours.get(str(body.pour))
    if pour is None or not pour.open:
        return visit
    pours = with_one(visit[Charge].pours, body.pour, mark_g=body.gross_g, marked_at=entry.written_at)
    return visit.changing(Charge, pours=pours)


def _ended(visit: VisitState, entry: Entry, body: PourEndBody) -> VisitState:
    pour = visit[Charge].pours.get(str(body.pour))
    if pour is None or not pour.open:
        return visit
    grams = body.grams if body.grams is not None else pour.so_far_g(body.gross_g)
    pours = with_one(
        visit[Charge].pours, body.pour, answered_at=entry.written_at, grams=grams, hose_g=body.hose_g, how=body.reason
    )
    visit = visit.changing(Charge, pours=pours)
    if not grams:
        return visit
    said = pour.body
    return _with_moved(
        visit,
        entry,
        Moved(
            entry_id=entry.id,
            at=entry.written_at,
            way=said.way,
            cylinder=said.cylinder,
            grams=grams,
            hose_g=body.hose_g,
            phase=said.phase,
            reason="; ".join(filter(None, dict.fromkeys((said.reason, body.reason)))),
            converting=said.converting,
            poured=True,
            circuit=said.circuit,
        ),
    )


# -- what is refused -------------------------------------------------------


def _check_total(standing: Standing, reason: str) -> None:
    if standing.asks and len(reason) < LEAST_REASON:
        raise Refused(
            f"That makes {in_percent(standing.share)} of the target total of {forms(standing.target_kg).lb_oz}. Above "
            f"{in_percent(ASKS_FROM)} it needs a reason.",
            "reason",
        )


def _check_hose(hose_g: int, grams: int) -> None:
    if hose_g > grams:
        raise Refused("More in the hoses than came out of the cylinder? Check both weights.", "hose")


def _check_way(case: Case[MovementBody] | Case[PourBody], grams: int) -> None:
    body = case.body
    way, reason = body.way, body.reason
    case = case.of_circuit(body.circuit)
    visit = case.visit
    _check_standing(visit, way, reason)
    if way is MovementSort.ADDED and len(reason) < LEAST_REASON and not visit[Leaks].mended:
        raise Refused("Say why it is topped up: a leak nobody looked for comes back.", "reason")
    standing = standing_of(visit, case.facts)
    if way in INTO_UNIT and standing:
        _check_total(Standing(standing.in_unit_kg + grams * GRAM_KG, standing.target_kg), reason)
    _check_waits(case, way, reason, body.circuit)


_WHILE_IT_RUNS = (MovementSort.TRIMMED, MovementSort.ADDED)


def _check_standing(visit: VisitState, way: MovementSort, reason: str) -> None:
    """What does not go with nitrogen or a vacuum in the circuit, or with how it is locked out."""
    into, out_of, evacuated = way in INTO_UNIT, way in OUT_OF_UNIT, visit[Vacuum].on
    if into and visit[Holds].on:
        raise Refused("The system stands under nitrogen: end the hold and evacuate before any refrigerant goes in.", "way")
    if into and evacuated is not None and evacuated.body.what == "system":
        raise Refused("It is still being evacuated: watch it and break the vacuum first, then weigh in.", "way")
    if len(reason) >= LEAST_REASON:
        return
    if out_of and visit[Holds].on:
        raise Refused("It stands under nitrogen, and that would go into the cylinder. End the hold, or say why not.", "reason")
    if way in _WHILE_IT_RUNS and ChangeSort.SAFETY in visit[Ledger].lifted_sorts:
        raise Refused("A safety is bypassed, and this goes in while it runs. Take the bypass out, or say why not.", "reason")
    if way in _WHILE_IT_RUNS and visit[Ledger].red_tags:
        raise Refused("It is red-tagged, and this goes in while it runs. Mend it and take the tag back, or say why.", "reason")
    if way is MovementSort.TRIMMED and visit[Ledger].locked:
        raise Refused("It is locked out, and this goes in while it runs. Unlock it under Mend, or say why not.", "reason")
    if way is MovementSort.WEIGHED_IN and not visit[Ledger].locked and not reason:
        raise Refused("Liquid goes in with the unit off and locked out. Lock it out under Mend, or say why not.", "reason")


def _check_waits(case: Case[MovementBody] | Case[PourBody], way: MovementSort, reason: str, circuit: int | None) -> None:
    """What goes in by the gauges while charge is not to be judged needs a reason, which stands on the record."""
    if way not in _WHILE_IT_RUNS or len(reason) >= LEAST_REASON or case.judged is None:
        return
    number = circuit or 1
    judged = case.judged.circuits.get(number) or case.judged.unread(number)
    waits = charge_waits(case.facts, judged)
    if waits:
        # Numbers stay in the reader's units, on the desk; here only what holds.
        why = "Charge is not to be judged now; see the trim." if waits[0].numbers else waits[0].template
        raise Refused(f"{why} If it goes in all the same, say why.", "reason")


def _movement_fits(case: Case[MovementBody]) -> None:
    _check_way(case, case.body.grams)


def _movement_cannot_be(case: Case[MovementBody]) -> None:
    body = case.body
    _check_hose(body.hose_g, body.grams)


def _pour_fits(case: Case[PourBody]) -> None:
    pouring = case.visit[Charge].pouring
    if pouring:
        raise Refused(f"A pour is on already{of_circuit(pouring.body.circuit)}: end it first, then begin the next.", "way")
    _check_way(case, 0)


def _pour_of(case: Case[PourMarkBody | PourEndBody]) -> dict[str, KeptPour | None]:
    body = case.body
    return {"pour": case.visit[Charge].pours.get(str(body.pour))}


def _mark_fits(case: Case[PourMarkBody]) -> None:
    body, pour = case.body, _pour_of(case)["pour"]
    still_on(pour, "pour")
    if pour is not None:
        _check_scale(pour, body.gross_g)


def _end_cannot_be(case: Case[PourEndBody]) -> None:
    body = case.body
    if body.grams is not None and len(body.reason) < LEAST_REASON:
        raise Refused("Say why the amount is typed and not the scale's: zero lost, cylinder changed.", "reason")
    if body.grams is None and body.gross_g is None:
        raise Refused("Type what the scale shows now.", "gross")


def _end_fits(case: Case[PourEndBody]) -> None:
    body, pour = case.body, _pour_of(case)["pour"]
    still_on(pour, "pour")
    if pour is None:
        return
    if body.grams is None and body.gross_g is not None:
        _check_scale(pour, body.gross_g)
    grams = body.grams if body.grams is not None else pour.so_far_g(body.gross_g)
    _check_hose(body.hose_g, grams)
    own = case.of_circuit(pour.body.circuit)
    standing = standing_of(own.visit, own.facts, pour.body.gross_g) if pour.body.way in INTO_UNIT else None
    if standing:
        inside_kg = standing.in_unit_kg + (grams - body.hose_g) * GRAM_KG
        _check_total(Standing(inside_kg, standing.target_kg), body.reason or pour.body.reason)


def _check_scale(pour: KeptPour, gross_g: int) -> None:
    out = pour.body.way in OUT_OF_UNIT
    last = pour.mark_g if pour.mark_g is not None else pour.body.gross_g
    grew = gross_g - last
    if (-grew if out else grew) > _SCALE_SLACK_G:
        moved, before, now = (forms(grams * GRAM_KG).lb_oz for grams in (pour.so_far_g(), last, gross_g))
        raise Refused(
            f"The scale showed {before} before and {now} now: it cannot get {'lighter' if out else 'heavier'} "
            f"here. Was its zero lost, or another cylinder put on? End this pour with the amount, {moved} by the last "
            "mark, and begin a new one.",
            "gross",
        )


def _no_pressure(case: Case[RecoveredToBody]) -> None:
    body = case.body
    if body.unit not in UNITS or UNITS[body.unit].dimension != "pressure":
        raise Refused(f"{body.unit!r} is no unit of pressure.", "value")
    atmosphere_pa = case.facts.atmosphere_pa
    if not 0 <= UNITS[body.unit].to_si(body.value, atmosphere_pa) <= atmosphere_pa + most_gauge_pa(case.facts.refrigerant):
        raise Refused(f"{body.came_to} is beyond any gauge. In a vacuum, choose its unit and leave the minus out.", "value")


def _nothing_weighed(case: Case[RecoveredToBody]) -> None:
    body = case.body
    charge = case.visit[Charge].of_circuit(body.circuit or 1)
    weighed = any(one.way is MovementSort.RECOVERED for one in charge.moved.values())
    if not weighed and not body.reason:
        raise Refused("Nothing was weighed out yet. Weigh it into a cylinder first; or say why there was nothing.", "reason")


# -- what stays open -------------------------------------------------------


def _still_pouring(visit: VisitState) -> list[Obstacle]:
    return [
        Obstacle("pour", "A pour is still on: read the scale and end it.", str(one.entry_id))
        for one in visit[Charge].pours.values()
        if one.open
    ]


def _topped_up(visit: VisitState) -> list[Obstacle]:
    own = [visit.of_circuit(number) for number in visit[Charge].circuits]
    added = [one for one in own if any(moved.way is MovementSort.ADDED for moved in one[Charge].moved.values())]
    if all(one[Leaks].mended for one in added) or visit[Agenda].booked(RECHECKS):
        return []
    return [Obstacle("top_up", "A top-up hides a leak until the next call: book a recheck.")]


def _left_empty(visit: VisitState) -> list[Obstacle]:
    if visit[Agenda].booked(RETURNS):
        return []
    own = {number: visit.of_circuit(number) for number in visit.circuits}
    return [
        Obstacle("empty", f"It was emptied and nothing was weighed in{of_circuit(number)}: lock it out and book the return.")
        for number, one in own.items()
        if (inside := in_unit_g(one)) is not None and inside <= 0
    ]


# -- how it reads ----------------------------------------------------------


def live_words(source: str) -> str:
    """Marks what a probe showed."""
    return ", live" if source == "probe" else ""


def _movement_said(body: MovementBody, _: VisitState) -> tuple[str, str]:
    said = (weight_words(body.grams), body.phase, body.reason)
    return MOVEMENT_WORDS[body.way] + of_circuit(body.circuit), "; ".join(filter(None, said))


def _end_said(body: PourEndBody, _: VisitState) -> tuple[str, str]:
    by_hand = body.grams is not None
    amount = f"{weight_words(body.grams)} by hand" if body.grams is not None else f"scale {weight_words(body.gross_g or 0)}"
    return "Pour ended", "; ".join(filter(None, (amount + ("" if by_hand else live_words(body.source)), body.reason)))


_PHYSICAL: dict[str, Any] = {"happened": True, "firm": True}
KINDS = (
    Kind(MovementBody, _movement_said, _moved, refuse=_movement_cannot_be, collides=_movement_fits,
         leaves_open=_topped_up, needs="judgement", **_PHYSICAL),
    Kind(PourBody, lambda body, _: (f"{MOVEMENT_WORDS[body.way]}{of_circuit(body.circuit)}: begun",
                                    f"scale {weight_words(body.gross_g)}{live_words(body.source)}"),
         _poured, collides=_pour_fits, leaves_open=_still_pouring, needs="judgement", **_PHYSICAL),
    Kind(PourMarkBody, lambda body, _: ("Scale", f"{weight_words(body.gross_g)}{live_words(body.source)}"), _marked,
         collides=_mark_fits, refers=_pour_of, **_PHYSICAL),
    Kind(PourEndBody, _end_said, _ended, refuse=_end_cannot_be, collides=_end_fits, refers=_pour_of, **_PHYSICAL),
    Kind(RecoveredToBody, lambda body, _: ("Recovered to" + of_circuit(body.circuit),
                                           f"{body.came_to}, {body.appliance.lower()}"),
         _recovered,
         refuse=_no_pressure, collides=_nothing_weighed, leaves_open=_left_empty, **_PHYSICAL),
)  # fmt: skip
