"""An adapter between the curb that stands there and the unit that is to stand on it (docs/rules.md, R67).

Plan geometry as in `change_out`: x along the curb's length, y along its width, from its front left outer corner. [m]
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from dry_gauge.core.office.change_out import TAPE_M, Found, NewUnit, Rect, WayRound
from dry_gauge.core.quantities import INCH_M

LEAST_HEIGHT_M = 8 * INCH_M
"""Room for a hand, a screw and a bend (habit)."""


@dataclass(frozen=True, slots=True)
class Transition:
    """One duct from the curb's opening up to the unit's."""

    name: str
    below: Rect
    above: Rect

    @property
    def shift(self) -> tuple[float, float]:
        """How far its middle moves, along and across. [m]"""
        (ax, ay), (bx, by) = _middle(self.above), _middle(self.below)
        return ax - bx, ay - by

    @property
    def run(self) -> float:
        """How far the wall that leans most stands out of the plumb. [m]"""
        below, above = self.below, self.above
        return max(
            abs(above.x - below.x),
            abs(above.x + above.length - below.x - below.length),
            abs(above.y - below.y),
            abs(above.y + above.width - below.y - below.width),
        )


@dataclass(frozen=True, slots=True)
class Adapter:
    """What a sheet-metal shop has to make.

    Parameters
    ----------
    below : Rect
        Inside of its lower end, which goes over the curb.
    above : Rect
        Outside of its upper end, which the unit goes over.
    height : float
        The least: no wall of a duct leans by more than 45 degrees. [m]
    notes : tuple of str
        What has to be asked before it is made.
    """

    below: Rect
    above: Rect
    ducts: Sequence[Transition]
    height: float
    notes: Sequence[str]


def lacking(found: Found, unit: NewUnit) -> tuple[str, ...]:
    """What nobody measured and no adapter can be made without."""
    lacks = {
        "a curb: what stands there is a stand": not found.on_curb,
        "the curb that the new unit is made for": unit.recess is None,
        "the curb's openings": found.base.supply is None or found.base.back is None,
        "the new unit's openings": unit.base.supply is None or unit.base.back is None,
    }
    return tuple(name for name, so in lacks.items() if so)


def adapter_for(found: Found, unit: NewUnit, way: WayRound) -> Adapter | None:
    """The adapter for a unit that stands one way; None where something is lacking."""
    if lacking(found, unit) or unit.recess is None:
        return None
    long, wide = unit.recess if way.quarters % 2 == 0 else unit.recess[::-1]
    length, width = long - 2 * TAPE_M, wide - 2 * TAPE_M
    curb = found.base
    below = Rect(-TAPE_M, -TAPE_M, curb.length + 2 * TAPE_M, curb.width + 2 * TAPE_M)
    above = Rect((curb.length - length) / 2, (curb.width - width) / 2, length, width)
    pairs = (("supply", curb.supply, way.unit.supply), ("return", curb.back, way.unit.back))
    ducts = tuple(Transition(name, low, high.moved(*way.at)) for name, low, high in pairs if low and high)
    leaning = max((duct.run for duct in ducts), default=0.0)
    stepping = max(abs(above.x - below.x), abs(above.y - below.y))
    return Adapter(below, above, ducts, max(LEAST_HEIGHT_M, leaning, stepping), tuple(_notes(found, unit, above, ducts)))


def _notes(found: Found, unit: NewUnit, above: Rect, ducts: Sequence[Transition]) -> Iterator[str]:
    if found.concentric != unit.concentric:
        yield "One has a duct inside the other, the other has them side by side: its inside is the maker's to design."
    for duct, other in ((ducts[0], ducts[1]), (ducts[1], ducts[0])):
        if duct.above.over(other.below) > 0.05 * duct.above.area:
            yield f"The {duct.name} comes up where the {other.name} goes down: the ducts cross inside. Turned, they may not."
    for duct in ducts:
        if not duct.above.within(above, TAPE_M):
            yield f"The unit's {duct.name} reaches over the upper rim: its numbers, or its curb's, are wrong."


def _middle(rect: Rect) -> tuple[float, float]:
    return rect.x + rect.length / 2, rect.y + rect.width / 2
