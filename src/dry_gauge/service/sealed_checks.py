"""What is refused of the sealed work, each with what to do instead. Rules that only look at the notebook and the card."""

from __future__ import annotations

from uuid import UUID

from dry_gauge.core.charge import ASKS_FROM, Standing
from dry_gauge.core.errors import Refused
from dry_gauge.core.leak_search import BY_CODE, METHOD_WORDS
from dry_gauge.core.mass import GRAM_KG, forms
from dry_gauge.core.quantities import UNITS
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vacuum import Rise
from dry_gauge.notebook import sealed as s
from dry_gauge.notebook.entries import Body
from dry_gauge.notebook.sealed_state import KeptEvacuation, KeptPour, SealedState
from dry_gauge.notebook.sealed_work import check_hold_reading, evacuation_of, hold_of, standing_of, target_from
from dry_gauge.notebook.state import VisitState

_LEAST_REASON = 3


def refers_to(sealed: SealedState, body: Body) -> list[tuple[str, object]]:
    """What an entry of the sealed work refers to, by field; None where it is not there."""
    match body:
        case s.PourMarkBody() | s.PourEndBody():
            return [("pour", sealed.pours.get(str(body.pour)))]
        case s.HoldReadingBody() | s.HoldEndBody():
            return [("hold", sealed.holds.get(str(body.hold)))]
        case s.VacuumPointBody() | s.VacuumEventBody() | s.TraceBody():
            return [("evacuation", sealed.evacuations.get(str(body.evacuation)))]
        case s.LeakCureBody():
            return [("leak", _leak(sealed, body.leak))]
        case _:
            return []


def _leak(sealed: SealedState, leak: UUID) -> object:
    return next(
        (kept for kept in sealed.places.values() if kept.entry_id == leak and kept.body.result == "failed"), None
    )


def check_sealed(state: VisitState, facts: UnitFacts, body: Body) -> None:
    """Refuse what the sealed work cannot be.

    Raises
    ------
    Refused
    """
    sealed = state.sealed
    match body:
        case s.StepBody() if not body.done and len(body.reason) < _LEAST_REASON:
            raise Refused("Say why it is left out: the reason goes on the record.", "reason")
        case s.ChargeTargetBody():
            target_from(body, facts)  # refuses what cannot be
        case s.MovementBody():
            _check_way(state, facts, body.way, body.reason, body.grams)
            _check_hose(body.hose_g, body.grams)
        case s.PourBody():
            if sealed.pouring:
                raise Refused("A pour is on already: end it first, then begin the next.", "way")
            _check_way(state, facts, body.way, body.reason, 0)
        case s.PourMarkBody() | s.PourEndBody():
            _check_pour(state, facts, body)
        case s.RecoveredToBody():
            _check_recovered(sealed, body)
        case s.LeakPlaceBody():
            if body.place not in BY_CODE:
                raise Refused("Choose the place.", "place")
            if body.method and body.method not in METHOD_WORDS:
                raise Refused("Choose how it was searched.", "method")
            if body.result == "not_reached" and len(body.words) < _LEAST_REASON:
                raise Refused("Say what kept you from it, so that the next one knows.", "words")
        case s.LeakCureBody() if body.cure == "patch" and body.months is None:
            raise Refused("Say how many months a patch is expected to last: it is looked at again before.", "months")
        case s.HoldBody():
            _check_hold(sealed, body)
        case s.HoldReadingBody():
            check_hold_reading(body, facts)
            _ended(sealed.holds.get(str(body.hold)), "hold")
        case s.HoldEndBody():
            _check_hold_end(sealed, facts, body)
        case s.EvacuationBody() if sealed.evacuating:
            raise Refused("An evacuation is on already: break it, or take it back, first.", "what")
        case s.VacuumPointBody() | s.TraceBody():
            _check_vacuum(sealed, sealed.evacuations.get(str(body.evacuation)))
        case s.VacuumEventBody():
            _check_event(sealed, body)


def _ended(kept: object, field: str) -> None:
    if kept is not None and not getattr(kept, "open", True):
        raise Refused("That is over. Begin a new one.", field)


def _check_way(state: VisitState, facts: UnitFacts, way: s.Way, reason: str, grams: int) -> None:
    sealed, call = state.sealed, state.call
    if way in s.INTO_UNIT and sealed.holding:
        raise Refused(
            "The system stands under nitrogen: end the hold and evacuate before any refrigerant goes in.", "way"
        )
    if way is s.Way.WEIGHED_IN and not call.locked and not reason:
        raise Refused(
            "Liquid goes in with the unit off and locked out. Lock it out under Mend, or say why not.", "reason"
        )
    if way is s.Way.ADDED and len(reason) < _LEAST_REASON:
        raise Refused("Say why it is topped up: a leak nobody looked for comes back.", "reason")
    standing = standing_of(sealed, facts)
    if way in s.INTO_UNIT and standing:
        _check_total(Standing(standing.in_unit_kg + grams * GRAM_KG, standing.target_kg), reason)


def _check_total(standing: Standing, reason: str) -> None:
    if standing.asks and len(reason) < _LEAST_REASON:
        raise Refused(f"That makes {standing.share * 100:.0f} % of the target total of {forms(standing.target_kg).lb_oz}. Above "
                      f"{ASKS_FROM * 100:.0f} % it needs a reason.", "reason")  # fmt: skip


def _check_hose(hose_g: int, grams: int) -> None:
    if hose_g > grams:
        raise Refused("More in the hoses than came out of the cylinder? Check both weights.", "hose")


def _check_pour(state: VisitState, facts: UnitFacts, body: s.PourMarkBody | s.PourEndBody) -> None:
    pour = state.sealed.pours.get(str(body.pour))
    if pour is None:
        return
    _ended(pour, "pour")
    by_hand = isinstance(body, s.PourEndBody) and body.grams is not None
    if isinstance(body, s.PourEndBody) and by_hand and len(body.reason) < _LEAST_REASON:
        raise Refused("Say why the amount is typed and not the scale's: zero lost, cylinder changed.", "reason")
    if isinstance(body, s.PourEndBody) and not by_hand and body.gross_g is None:
        raise Refused("Type what the scale shows now.", "gross")
    if not by_hand and body.gross_g is not None:
        _check_scale(pour, body.gross_g)
    if isinstance(body, s.PourEndBody):
        grams = body.grams if body.grams is not None else pour.so_far_g(body.gross_g)
        _check_hose(body.hose_g, grams)
        if pour.body.way in s.INTO_UNIT:
            standing = standing_of(state.sealed, facts, pour.body.gross_g)
            if standing:
                _check_total(Standing(standing.in_unit_kg + (grams - body.hose_g) * GRAM_KG, standing.target_kg),
                             body.reason or pour.body.reason)  # fmt: skip


# A scale wanders by this much without anything having moved.
_SCALE_SLACK_G = 15


def _check_scale(pour: KeptPour, gross_g: int) -> None:
    out = pour.body.way in s.OUT_OF_UNIT
    start = pour.body.gross_g
    last = pour.mark_g if pour.mark_g is not None else start
    grew = gross_g - last
    wrong_way = (-grew if out else grew) > _SCALE_SLACK_G
    if wrong_way:
        moved, before, now = (forms(grams * GRAM_KG).lb_oz for grams in (pour.so_far_g(), last, gross_g))
        raise Refused(f"The scale showed {before} before and {now} now: it cannot get {'lighter' if out else 'heavier'} "
                      f"here. Was its zero lost, or another cylinder put on? End this pour with the amount, {moved} by the last "
                      "mark, and begin a new one.", "gross")  # fmt: skip


def _check_recovered(sealed: SealedState, body: s.RecoveredToBody) -> None:
    if body.unit not in UNITS or UNITS[body.unit].dimension != "pressure":
        raise Refused(f"{body.unit!r} is no unit of pressure.", "value")
    if not any(one.way is s.Way.RECOVERED for one in sealed.moved.values()) and not body.reason:
        raise Refused(
            "Nothing was weighed out yet. Weigh it into a cylinder first; or say why there was nothing.", "reason"
        )


def _check_hold(sealed: SealedState, body: s.HoldBody) -> None:
    if body.gas != "nitrogen":
        raise Refused("Only dry nitrogen, through a regulator with relief. Oxygen or compressed air with oil explodes; "
                      "refrigerant does not follow the arithmetic.", "gas")  # fmt: skip
    if not body.vacuum_gauge_off:
        raise Refused(
            "Take the vacuum gauge off, or valve it off, first: pressure destroys it. Then tick it.", "vacuum_gauge_off"
        )
    if body.unit not in UNITS or UNITS[body.unit].dimension != "pressure":
        raise Refused(f"{body.unit!r} is no unit of pressure.", "limit")
    on = sealed.evacuating
    if on is not None and on.body.what == "system":
        raise Refused("The system is being evacuated: break the vacuum first.", "section")
    if any(one.open and one.body.section.casefold() == body.section.casefold() for one in sealed.holds.values()):
        raise Refused("That section is held already; give this one another name.", "section")


def _check_hold_end(sealed: SealedState, facts: UnitFacts, body: s.HoldEndBody) -> None:
    kept = sealed.holds.get(str(body.hold))
    if kept is None:
        return
    _ended(kept, "hold")
    found = hold_of(str(body.hold), kept, facts).verdict
    says = found.verdict.value if found else "too_soon"
    if body.verdict != says and len(body.reason) < _LEAST_REASON:
        words = says.replace("_", " ")
        raise Refused(f"The arithmetic says '{words}'. Another verdict is yours, and needs a reason.", "reason")


def _check_vacuum(sealed: SealedState, kept: KeptEvacuation | None) -> None:
    _ended(kept, "evacuation")
    if kept is not None and kept.body.what == "system" and sealed.holding:
        raise Refused("The system stands under nitrogen: a vacuum gauge there is destroyed, and shows nothing. End the hold "
                      "first.", "micron")  # fmt: skip


def _check_event(sealed: SealedState, body: s.VacuumEventBody) -> None:
    kept = sealed.evacuations.get(str(body.evacuation))
    if kept is None:
        return
    _ended(kept, "evacuation")
    if body.event is s.VacuumEvent.ISOLATED and kept.state not in (s.VacuumEvent.PUMP_ON, s.VacuumEvent.OPENED):
        raise Refused("The pump has to pull before the valve is shut.", "event")
    if body.event is s.VacuumEvent.BROKEN and kept.sweeps_left and len(body.reason) < _LEAST_REASON:
        raise Refused(f"Three pulls were planned: {kept.sweeps_left} to sweep with dry nitrogen yet. Do that, or say why not.",
                      "reason")  # fmt: skip
    if body.event is s.VacuumEvent.BROKEN and kept.body.what == "system":
        last = evacuation_of(str(body.evacuation), kept).last
        if (last is None or last.verdict is not Rise.TIGHT) and len(body.reason) < _LEAST_REASON:
            says = (
                "nothing was watched with the valve shut" if last is None else f"the watch says '{last.verdict.value}'"
            )
            raise Refused(
                f"Breaking it now leaves it unproven: {says.replace('_', ' ')}. Watch it, or say why not.", "reason"
            )
