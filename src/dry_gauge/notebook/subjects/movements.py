"""Refrigerant in and out by weight: what is said of it, what a visit keeps of it, and what that amounts to.

Weights are whole grams, so that a ledger of them comes out even.
"""

from __future__ import annotations

from datetime import datetime
from enum import StrEnum
from typing import Annotated, Literal, Self
from uuid import UUID

from pydantic import BaseModel, ConfigDict, Field

from dry_gauge.core.charge.amounts import Standing
from dry_gauge.core.charge.mass import GRAM_KG, slipped
from dry_gauge.core.dimensions import as_typed
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.notebook.fields import Circuit, FewWords
from dry_gauge.notebook.kind import Answered, Body, Kept, Part, VisitState, in_time
from dry_gauge.notebook.subjects.charge_target import MOST_GRAMS, Grams, target_of
from dry_gauge.notebook.subjects.vacuum import Vacuum

Shown = Annotated[int, Field(ge=0, le=MOST_GRAMS)]
"""What a scale shows."""
_HoseGrams = Annotated[int, Field(ge=0, le=5000)]


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
    circuit: Circuit | None = None


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
    circuit: Circuit | None = None


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
    circuit: Circuit | None = None

    @property
    def came_to(self) -> str:
        """The pressure at which it came to rest, as its gauge showed it."""
        return as_typed(self.value, self.unit)


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
    circuit: int | None = None

    @property
    def into_unit_g(self) -> int:
        """What the unit gained; negative if it lost."""
        if self.way in OUT_OF_UNIT:
            return -self.grams
        return self.grams - self.hose_g if self.way in INTO_UNIT else 0


class Charge(Part):
    """Pours and movements by the entry's id; by circuit where its recovery came to rest."""

    pours: dict[str, KeptPour] = {}
    moved: dict[str, Moved] = {}
    recovered: dict[str, Kept[RecoveredToBody]] = {}

    @property
    def circuits(self) -> frozenset[int]:
        """Circuits that hold, or held, what was weighed."""
        named = {one.circuit or 1 for one in self.moved.values()} | {one.body.circuit or 1 for one in self.pours.values()}
        return frozenset(named | {int(number) for number in self.recovered})

    def of_circuit(self, number: int) -> Self:
        """What went into one circuit and came out of it."""
        return self.model_copy(
            update={
                "pours": {key: one for key, one in self.pours.items() if (one.body.circuit or 1) == number},
                "moved": {key: one for key, one in self.moved.items() if (one.circuit or 1) == number},
                "recovered": {key: one for key, one in self.recovered.items() if key == str(number)},
            }
        )

    @property
    def recovered_to(self) -> Kept[RecoveredToBody] | None:
        """Where the recovery came to rest; of several circuits the latest."""
        return in_time(self.recovered.values())[-1] if self.recovered else None

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


def moved_in(charge: Charge) -> list[tuple[int, MovementSort, int]]:
    """Grams by circuit and way, what stayed in hoses left out."""
    found = []
    for number in sorted(charge.circuits):
        moved = charge.of_circuit(number).moved.values()
        for way in MOVEMENT_WORDS:
            grams = sum(one.grams - (one.hose_g if way in INTO_UNIT else 0) for one in moved if one.way is way)
            if grams:
                found.append((number, way, grams))
    return found


# -- what it amounts to, of a visit as one circuit has it -------------------


def emptied_at(visit: VisitState) -> datetime | None:
    """When the circuit was emptied: a recovery ended, or an evacuation began that leaves no charge in a receiver."""
    recovered = visit[Charge].recovered_to
    if recovered:
        return recovered.at
    return min((one.at for one in visit[Vacuum].of_system if not one.body.charge_kept), default=None)


def in_unit_g(visit: VisitState) -> int | None:
    """What is in the circuit by this visit's weights; None where it was never emptied, so that nobody knows."""
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
    """In the circuit against the target; None where either is not known."""
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
