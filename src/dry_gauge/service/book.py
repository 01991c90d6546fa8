"""The refrigerant book as it follows the notebook: what a visit's entries move in and out of cylinders.

What an entry moves is compared by value: what changed is taken back and booked anew. Whether a cylinder may give or take
that is asked of the arriving entry alone; what was poured already is booked, short or overfilled, and says so.
"""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from typing import Any
from uuid import UUID

import uuid6
from sqlalchemy import Connection

from dry_gauge.core.charge.cylinders import Account, Held, check_draw, check_fill
from dry_gauge.core.charge.mass import GRAM_KG
from dry_gauge.core.errors import Refused
from dry_gauge.core.local_time import day_of
from dry_gauge.notebook.kind import LEAST_REASON, Body, Case, VisitState
from dry_gauge.notebook.state import WAITED_SECONDS
from dry_gauge.notebook.subjects.movements import INTO_UNIT, OUT_OF_UNIT, Charge, Moved, MovementSort, PourBody
from dry_gauge.service.posted import Posted, Projection
from dry_gauge.store import cylinders as store

SHORT = "More came out than the book had."
OVERFULL = "Filled beyond 80 %: take the surplus out at once."


def held_of(connection: Connection, cylinder: UUID, *, retired: bool = False) -> Held:
    """A cylinder with what it holds.

    Raises
    ------
    Refused
    """
    found = store.all_held(connection, [cylinder])
    if not found:
        raise Refused("Choose the cylinder: what is not weighed against one is not on the book.", "cylinder")
    if found[0].retired and not retired:
        raise Refused(f"{found[0].cylinder.name} is retired.", "cylinder")
    return found[0]


class Book(Projection):
    """The book for as long as one transaction lasts; several entries of it see each other's draws."""

    def __init__(self, posted: Posted) -> None:
        super().__init__(posted)
        self.pending: dict[UUID, int] = {}
        """Grams that earlier entries of this transaction put into each cylinder."""

    def lock(self, before: VisitState, arriving: Sequence[Body]) -> None:
        """Hold every cylinder that may be concerned, in one order, so that two technicians see each other's draws."""
        if not any(body.kind in ("movement", "pour_end", "void") for body in arriving):
            return
        charge = before[Charge]
        named = {one.cylinder for one in charge.moved.values()} | {one.body.cylinder for one in charge.pours.values()}
        named |= {cylinder for body in arriving if (cylinder := getattr(body, "cylinder", None))}
        if named:
            store.lock(self.posted.connection, named)

    def check(self, case: Case[Body], after: VisitState) -> None:
        """Whether the cylinder may give or take what this entry moves; a pour is asked before anything flows.

        Raises
        ------
        Refused
        """
        entry, body = case.entry, case.body
        if isinstance(body, PourBody):
            found: Moved | None = Moved(
                entry_id=entry.id,
                at=entry.written_at,
                way=body.way,
                cylinder=body.cylinder,
                grams=1,
                converting=body.converting,
                circuit=body.circuit,
            )
        else:
            found = after[Charge].moved.get(str(entry.id))
        if found is None:
            return
        happened = entry.waited_seconds > WAITED_SECONDS
        held = held_of(self.posted.connection, found.cylinder, retired=happened)
        try:
            self._may(held, found, day_of(entry.written_at))
        except Refused as refusal:
            # What is in a recovery cylinder already has to be on record, with a word.
            poured_out = found.poured and found.way in OUT_OF_UNIT
            if not happened and not poured_out:
                raise
            if not happened and len(getattr(body, "reason", "").strip()) < LEAST_REASON:
                raise Refused(
                    f"{refusal.message} If it is in already, say so as the reason, then take the surplus out at once.", "reason"
                ) from None
        if not isinstance(body, PourBody):
            into = found.grams if found.way in OUT_OF_UNIT else -found.grams
            self.pending[found.cylinder] = self.pending.get(found.cylinder, 0) + into

    def _may(self, held: Held, moved: Moved, day: date) -> None:
        holds_kg = (held.holds_g + self.pending.get(held.id, 0)) * GRAM_KG
        kg, facts = moved.grams * GRAM_KG, self.posted.facts
        inside = facts.of_circuit(moved.circuit).refrigerant if moved.circuit else None
        refrigerant = inside or facts.holding(held.cylinder.refrigerant)
        if moved.way in OUT_OF_UNIT:
            check_fill(held.cylinder, holds_kg, kg, refrigerant, day)
        else:
            converting = moved.converting or moved.way is MovementSort.LOST
            check_draw(held.cylinder, holds_kg, kg, refrigerant, converting=converting)

    def write(self, before: VisitState, after: VisitState) -> None:
        """Take back what is gone or changed, book what is new or changed."""
        then, now = before[Charge].moved, after[Charge].moved
        if then == now:
            return
        gone = {key for key, one in then.items() if now.get(key) != one}
        new = [one for one in after[Charge].in_order if then.get(str(one.entry_id)) != one]
        connection = self.posted.connection
        store.take_back(connection, [UUID(key) for key in gone], self.posted.now)
        for one in new:
            held = store.all_held(connection, [one.cylinder], retired=True)[0]
            store.book(connection, self._legs(held, one))
            if one.way in OUT_OF_UNIT:
                self._now_known(held, one)

    def _now_known(self, held: Held, filling: Moved) -> None:
        """A filling has arrived: what was taken to be missing because of it is booked again without the count."""
        connection = self.posted.connection
        for short in store.counted_since(connection, held.id, filling.at):
            store.take_back_row(connection, short["id"], self.posted.now)
            missing = -store.all_held(connection, [held.id], retired=True)[0].holds_g
            if missing > 0:
                store.book(connection, [short | {"id": uuid6.uuid7(), "grams": min(missing, short["grams"])}])

    def _legs(self, held: Held, moved: Moved) -> list[dict[str, Any]]:
        """The legs of one movement: into the unit or out of it, what stayed in hoses, and what the book must find first."""
        posted = self.posted
        refrigerant = held.cylinder.refrigerant or posted.facts.refrigerant
        common = {
            "shop_id": posted.someone.shop_id,
            "entry_id": moved.entry_id,
            "visit_id": posted.visit.id,
            "unit_id": posted.visit.unit_id,
            "person_id": posted.someone.person_id,
            "at": moved.at,
            "refrigerant": refrigerant.name,
            "way": moved.way.value,
            "reason": moved.reason,
            "taken_back_at": None,
        }

        def leg(grams: int, origin: Account, goal: Account, **more: Any) -> dict[str, Any]:
            ends = {
                "origin_cylinder": held.id if origin is Account.CYLINDER else None,
                "goal_cylinder": held.id if goal is Account.CYLINDER else None,
            }
            return {**common, "id": uuid6.uuid7(), "grams": grams, "origin": origin.value, "goal": goal.value, **ends, **more}

        if moved.way in OUT_OF_UNIT:
            return [leg(moved.grams, Account.UNIT, Account.CYLINDER, **self._overfull(held, moved))]
        short = max(0, moved.grams - held.holds_g)
        legs = [leg(short, Account.COUNT, Account.CYLINDER, reason=SHORT)] if short else []
        in_unit = moved.grams - moved.hose_g if moved.way in INTO_UNIT else 0
        if in_unit > 0:
            legs.append(leg(in_unit, Account.CYLINDER, Account.UNIT))
        if moved.grams - in_unit > 0:
            legs.append(leg(moved.grams - in_unit, Account.CYLINDER, Account.AIR))
        return legs

    def _overfull(self, held: Held, moved: Moved) -> dict[str, str]:
        try:
            fluid = self.posted.facts.holding(held.cylinder.refrigerant)
            check_fill(held.cylinder, held.holds_g * GRAM_KG, moved.grams * GRAM_KG, fluid, day_of(moved.at))
        except Refused:
            return {"reason": "; ".join(filter(None, (moved.reason, OVERFULL)))[:200]}
        return {}
