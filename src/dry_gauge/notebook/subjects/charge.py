"""Refrigerant in and out by weight: what was poured, what moved, what is in, and how empty it was recovered.

Weights are whole grams, so that a ledger of them comes out even.
"""

from __future__ import annotations

from datetime import datetime
from enum import StrEnum
from typing import Annotated, Any, Literal
from uuid import UUID

from pydantic import BaseModel, ConfigDict, Field

from dry_gauge.core.charge.amounts import ASKS_FROM, Standing
from dry_gauge.core.charge.mass import GRAM_KG, forms, slipped
from dry_gauge.core.charge.waits import charge_waits
from dry_gauge.core.dimensions import UNITS
from dry_gauge.core.errors import Refused
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.notebook.fields import FewWords
from dry_gauge.notebook.kind import (
    LEAST_REASON,
    Answered,
    Body,
    Case,
    Entry,
    Kept,
    Kind,
    Obstacle,
    Part,
    VisitState,
    kept,
    still_on,
    with_one,
)
from dry_gauge.notebook.subjects.actions import ActionSort, changed
from dry_gauge.notebook.subjects.agenda import RECHECKS, RETURNS, Agenda
from dry_gauge.notebook.subjects.charge_target import MOST_GRAMS, Grams, target_of, weight_words
from dry_gauge.notebook.subjects.hold import Holds
from dry_gauge.notebook.subjects.leak import Leaks
from dry_gauge.notebook.subjects.ledger import Ledger
from dry_gauge.notebook.subjects.vacuum import Vacuum

Shown = Annotated[int, Field(ge=0, le=MOST_GRAMS)]
"""What a scale shows."""
_HoseGrams = Annotated[int, Field(ge=0, le=5000)]
# A scale wanders by this much without anything having moved.
_SCALE_SLACK_G = 15


class MovementSort(StrEnum):
    """Which way refrigerant goes, and why."""

    RECOVERED = "recovered"
    REMOVED = "removed"
    WEIGHED_IN = "weighed_in"
    TRIMMED = "trimmed"
    ADDED = "added"
    LOST = "lost"


MOVEMENT_WORDS = {
    MovementSort.RECOVERED: "Recovered",
    MovementSort.REMOVED: "Taken out to trim",
    MovementSort.WEIGHED_IN: "Weighed in, unit off",
    MovementSort.TRIMMED: "Trimmed, running",
    MovementSort.ADDED: "Topped up",
    MovementSort.LOST: "Lost from hoses",
}
OUT_OF_UNIT = frozenset({MovementSort.RECOVERED, MovementSort.REMOVED})
INTO_UNIT = frozenset({MovementSort.WEIGHED_IN, MovementSort.TRIMMED, MovementSort.ADDED})


class MovementBody(Body):
    """A weight that went from a cylinder into the unit, back, or from the hoses into the air."""

    kind: Literal["movement"] = "movement"
    way: MovementSort
    grams: Grams
    cylinder: UUID
    phase: Literal["liquid", "vapour", ""] = ""
    hose_g: _HoseGrams = 0
    """Of it, what stayed in the hoses and is not in the unit."""
    reason: FewWords = ""
    converting: bool = False


class PourBody(Body):
    """A pour begins: the cylinder's weight on the scale before."""

    kind: Literal["pour"] = "pour"
    way: MovementSort
    cylinder: UUID
    gross_g: Shown
    phase: Literal["liquid", "vapour", ""] = ""
    reason: FewWords = ""
    converting: bool = False
    source: Literal["typed", "probe"] = "typed"


class PourMarkBody(Body):
    """What the scale shows in the middle of a pour: kept, so that a dead phone or scale loses no more than since."""

    kind: Literal["pour_mark"] = "pour_mark"
    pour: UUID
    gross_g: Shown
    source: Literal["typed", "probe"] = "typed"


class PourEndBody(Body):
    """A pour ends: the scale after; or, where the scale lost its zero, the amount with a reason."""

    kind: Literal["pour_end"] = "pour_end"
    pour: UUID
    gross_g: Shown | None = None
    grams: Annotated[int, Field(ge=0, le=MOST_GRAMS)] | None = None
    hose_g: _HoseGrams = 0
    reason: FewWords = ""
    source: Literal["typed", "probe"] = "typed"


class RecoveredToBody(Body):
    """The end of a recovery: the vacuum that was reached and stayed, by the shop's table."""

    kind: Literal["recovered_to"] = "recovered_to"
    appliance: FewWords
    value: Annotated[float, Field(allow_inf_nan=False)]
    unit: FewWords
    minutes_held: Annotated[float, Field(allow_inf_nan=False, ge=0, le=1440)] = 0.0
    reason: FewWords = ""


class KeptPour(Answered[PourBody]):
    """A pour: its latest mark, and how many grams it moved once it has ended."""

    mark_g: int | None = None
    marked_at: datetime | None = None
    grams: int | None = None
    hose_g: int = 0

    def so_far_g(self, gross_g: int | None = None) -> int:
        """Moved up to what the scale shows now, or up to the last mark; never less than nothing."""
        if self.grams is not None:
            return self.grams
        shown = gross_g if gross_g is not None else self.mark_g
        if shown is None:
            return 0
        out = self.body.gross_g - shown
        return max(0, -out if self.body.way in OUT_OF_UNIT else out)


class Moved(BaseModel):
    """Grams that moved, whether typed or poured: what the ledger counts."""

    model_config = ConfigDict(frozen=True)
    entry_id: UUID
    at: datetime
    way: MovementSort
    cylinder: UUID
    grams: int
    hose_g: int = 0
    phase: str = ""
    reason: str = ""
    converting: bool = False
    poured: bool = False
    """It is where the scale says already; typed amounts may still be refused."""

    @property
    def into_unit_g(self) -> int:
        """What the unit gained; negative if it lost."""
        if self.way in OUT_OF_UNIT:
            return -self.grams
        return self.grams - self.hose_g if self.way in INTO_UNIT else 0


class Charge(Part):
    """Pours and movements by the entry's id."""

    pours: dict[str, KeptPour] = {}
    moved: dict[str, Moved] = {}
    recovered_to: Kept[RecoveredToBody] | None = None

    @property
    def pouring(self) -> KeptPour | None:
        """The pour that is on; of several the first."""
        return min((one for one in self.pours.values() if one.open), key=lambda one: (one.at, one.entry_id), default=None)

    @property
    def in_order(self) -> tuple[Moved, ...]:
        """What moved, oldest first."""
        return tuple(sorted(self.moved.values(), key=lambda one: (one.at, one.entry_id)))

    @property
    def recovered_g(self) -> int:
        """Taken out, in all."""
        return sum(one.grams for one in self.moved.values() if one.way in OUT_OF_UNIT)

    @property
    def put_in_g(self) -> int:
        """Put in, in all, without what stayed in hoses."""
        return sum(one.into_unit_g for one in self.moved.values() if one.way in INTO_UNIT)


# -- what it amounts to ----------------------------------------------------


def emptied_at(visit: VisitState) -> datetime | None:
    """When the unit was emptied: a recovery ended, or an evacuation began that leaves no charge in a receiver."""
    recovered = visit[Charge].recovered_to
    if recovered:
        return recovered.at
    return min((one.at for one in visit[Vacuum].of_system if not one.body.charge_kept), default=None)


def in_unit_g(visit: VisitState) -> int | None:
    """What is in the unit by this visit's weights; None where it was never emptied, so that nobody knows."""
    since = emptied_at(visit)
    if since is None:
        return None
    return sum(one.into_unit_g for one in visit[Charge].moved.values() if one.at >= since)


def in_unit_kg(visit: VisitState, gross_g: int | None = None) -> float | None:
    """The same, the pour that is on counted up to what the scale shows. [kg]"""
    known = in_unit_g(visit)
    if known is None:
        return None
    pour = visit[Charge].pouring
    on = pour.so_far_g(gross_g) if pour else 0
    if pour and pour.body.way in OUT_OF_UNIT:
        on = -on
    return (known + on) * GRAM_KG


def standing_of(visit: VisitState, facts: UnitFacts, gross_g: int | None = None) -> Standing | None:
    """In the unit against the target; None where either is not known."""
    target, inside = target_of(visit, facts), in_unit_kg(visit, gross_g)
    return None if target is None or inside is None else Standing(inside, target.kg)


def expected_kg(visit: VisitState, facts: UnitFacts, way: MovementSort) -> float | None:
    """About what a movement of that sort should be, to catch pounds typed as ounces. [kg]"""
    standing = standing_of(visit, facts)
    match way:
        case MovementSort.RECOVERED:
            return facts.label_charge_kg
        case MovementSort.WEIGHED_IN:
            return standing.to_go_kg if standing and standing.to_go_kg > 0 else facts.label_charge_kg
        case _:
            return None


def slip_in(visit: VisitState, facts: UnitFacts, way: MovementSort, grams: int) -> tuple[str, str] | None:
    """The units that were probably mixed up in a movement: written, meant."""
    return slipped(grams * GRAM_KG, expected_kg(visit, facts, way))


# -- what each kind changes ------------------------------------------------


def _recovered(visit: VisitState, entry: Entry, _: RecoveredToBody) -> VisitState:
    return visit.changing(Charge, recovered_to=Kept[RecoveredToBody](**kept(entry)))


def _with_moved(visit: VisitState, entry: Entry, moved: Moved) -> VisitState:
    visit = visit.changing(Charge, moved=visit[Charge].moved | {str(entry.id): moved})
    return changed(visit, entry, ActionSort.CHARGE_ADJUSTED)


def _moved(visit: VisitState, entry: Entry, body: MovementBody) -> VisitState:
    said = body.model_dump(include={"way", "cylinder", "grams", "hose_g", "phase", "reason", "converting"})
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
    pours = with_one(visit[Charge].pours, body.pour, answered_at=entry.written_at, grams=grams, hose_g=body.hose_g,
                     how=body.reason)  # fmt: skip
    visit = visit.changing(Charge, pours=pours)
    if not grams:
        return visit
    said = pour.body
    return _with_moved(visit, entry, Moved(
        entry_id=entry.id, at=entry.written_at, way=said.way, cylinder=said.cylinder, grams=grams, hose_g=body.hose_g,
        phase=said.phase, reason="; ".join(filter(None, dict.fromkeys((said.reason, body.reason)))),
        converting=said.converting, poured=True,
    ))  # fmt: skip


# -- what is refused -------------------------------------------------------


def _check_total(standing: Standing, reason: str) -> None:
    if standing.asks and len(reason) < LEAST_REASON:
        raise Refused(f"That makes {standing.share * 100:.0f} % of the target total of {forms(standing.target_kg).lb_oz}. Above "
                      f"{ASKS_FROM * 100:.0f} % it needs a reason.", "reason")  # fmt: skip


def _check_hose(hose_g: int, grams: int) -> None:
    if hose_g > grams:
        raise Refused("More in the hoses than came out of the cylinder? Check both weights.", "hose")


def _check_way(case: Case[Body], way: MovementSort, reason: str, grams: int) -> None:
    visit = case.visit
    if way in INTO_UNIT and visit[Holds].on:
        raise Refused(
            "The system stands under nitrogen: end the hold and evacuate before any refrigerant goes in.", "way"
        )
    if way is MovementSort.WEIGHED_IN and not visit[Ledger].locked and not reason:
        raise Refused(
            "Liquid goes in with the unit off and locked out. Lock it out under Mend, or say why not.", "reason"
        )
    if way is MovementSort.ADDED and len(reason) < LEAST_REASON and not visit[Leaks].mended:
        raise Refused("Say why it is topped up: a leak nobody looked for comes back.", "reason")
    standing = standing_of(visit, case.facts)
    if way in INTO_UNIT and standing:
        _check_total(Standing(standing.in_unit_kg + grams * GRAM_KG, standing.target_kg), reason)
    _check_waits(case, way, reason)


def _check_waits(case: Case[Body], way: MovementSort, reason: str) -> None:
    """What goes in by the gauges while charge is not to be judged needs a reason, which stands on the record."""
    if way not in (MovementSort.TRIMMED, MovementSort.ADDED) or len(reason) >= LEAST_REASON or case.judged is None:
        return
    waits = charge_waits(case.facts, case.judged.first)
    if waits:
        # Numbers stay in the reader's units, on the desk; here only what holds.
        why = "Charge is not to be judged now; see the trim." if waits[0].numbers else waits[0].template
        raise Refused(f"{why} If it goes in all the same, say why.", "reason")


def _movement_fits(case: Case[MovementBody]) -> None:
    body = case.body
    _check_way(case, body.way, body.reason, body.grams)


def _movement_cannot_be(case: Case[MovementBody]) -> None:
    body = case.body
    _check_hose(body.hose_g, body.grams)


def _pour_fits(case: Case[PourBody]) -> None:
    body = case.body
    if case.visit[Charge].pouring:
        raise Refused("A pour is on already: end it first, then begin the next.", "way")
    _check_way(case, body.way, body.reason, 0)


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
    standing = standing_of(case.visit, case.facts, pour.body.gross_g) if pour.body.way in INTO_UNIT else None
    if standing:
        inside_kg = standing.in_unit_kg + (grams - body.hose_g) * GRAM_KG
        _check_total(Standing(inside_kg, standing.target_kg), body.reason or pour.body.reason)


def _check_scale(pour: KeptPour, gross_g: int) -> None:
    out = pour.body.way in OUT_OF_UNIT
    last = pour.mark_g if pour.mark_g is not None else pour.body.gross_g
    grew = gross_g - last
    if (-grew if out else grew) > _SCALE_SLACK_G:
        moved, before, now = (forms(grams * GRAM_KG).lb_oz for grams in (pour.so_far_g(), last, gross_g))
        raise Refused(f"The scale showed {before} before and {now} now: it cannot get {'lighter' if out else 'heavier'} "
                      f"here. Was its zero lost, or another cylinder put on? End this pour with the amount, {moved} by the last "
                      "mark, and begin a new one.", "gross")  # fmt: skip


def _no_pressure(case: Case[RecoveredToBody]) -> None:
    body = case.body
    if body.unit not in UNITS or UNITS[body.unit].dimension != "pressure":
        raise Refused(f"{body.unit!r} is no unit of pressure.", "value")


def _nothing_weighed(case: Case[RecoveredToBody]) -> None:
    body = case.body
    weighed = any(one.way is MovementSort.RECOVERED for one in case.visit[Charge].moved.values())
    if not weighed and not body.reason:
        raise Refused(
            "Nothing was weighed out yet. Weigh it into a cylinder first; or say why there was nothing.", "reason"
        )


# -- what stays open -------------------------------------------------------


def _still_pouring(visit: VisitState) -> list[Obstacle]:
    return [Obstacle("pour", "A pour is still on: read the scale and end it.", str(one.entry_id))
            for one in visit[Charge].pours.values() if one.open]  # fmt: skip


def _topped_up(visit: VisitState) -> list[Obstacle]:
    added = any(one.way is MovementSort.ADDED for one in visit[Charge].moved.values())
    if not added or visit[Leaks].mended or visit[Agenda].booked(RECHECKS):
        return []
    return [Obstacle("top_up", "A top-up hides a leak until the next call: book a recheck.")]


def _left_empty(visit: VisitState) -> list[Obstacle]:
    if emptied_at(visit) is None or visit[Charge].put_in_g > 0 or visit[Agenda].booked(RETURNS):
        return []
    return [Obstacle("empty", "It was emptied and nothing was weighed in: lock it out and book the return.")]


# -- how it reads ----------------------------------------------------------


def live_words(source: str) -> str:
    """Marks what a probe showed."""
    return ", live" if source == "probe" else ""


def _movement_said(body: MovementBody, _: VisitState) -> tuple[str, str]:
    return MOVEMENT_WORDS[body.way], "; ".join(filter(None, (weight_words(body.grams), body.phase, body.reason)))


def _end_said(body: PourEndBody, _: VisitState) -> tuple[str, str]:
    by_hand = body.grams is not None
    amount = f"{weight_words(body.grams)} by hand" if body.grams is not None else f"scale {weight_words(body.gross_g or 0)}"
    return "Pour ended", "; ".join(filter(None, (amount + ("" if by_hand else live_words(body.source)), body.reason)))


_PHYSICAL: dict[str, Any] = {"happened": True, "firm": True}
KINDS = (
    Kind(MovementBody, _movement_said, _moved, refuse=_movement_cannot_be, collides=_movement_fits,
         leaves_open=_topped_up, needs="judgement", **_PHYSICAL),
    Kind(PourBody, lambda body, _: (f"{MOVEMENT_WORDS[body.way]}: begun",
                                    f"scale {weight_words(body.gross_g)}{live_words(body.source)}"),
         _poured, collides=_pour_fits, leaves_open=_still_pouring, needs="judgement", **_PHYSICAL),
    Kind(PourMarkBody, lambda body, _: ("Scale", f"{weight_words(body.gross_g)}{live_words(body.source)}"), _marked,
         collides=_mark_fits, refers=_pour_of, **_PHYSICAL),
    Kind(PourEndBody, _end_said, _ended, refuse=_end_cannot_be, collides=_end_fits, refers=_pour_of, **_PHYSICAL),
    Kind(RecoveredToBody, lambda body, _: ("Recovered to", f"{body.value:g} {body.unit}, {body.appliance.lower()}"),
         _recovered,
         refuse=_no_pressure, collides=_nothing_weighed, leaves_open=_left_empty, **_PHYSICAL),
)  # fmt: skip
