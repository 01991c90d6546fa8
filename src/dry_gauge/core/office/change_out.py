"""Whether a new unit fits the curb or stand of the old one: each way round, with the number that decides (docs/rules.md, R64).

Plan geometry: x along the curb's length, y along its width, from its front left outer corner. [m]
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from enum import IntEnum

from dry_gauge.core.quantities import INCH_M, POUND_KG
from dry_gauge.core.words import in_percent

TAPE_M = 0.25 * INCH_M
"""What a tape on a roof leaves open, either way (habit)."""
SEALS_M = 1.0 * INCH_M
"""How much narrower than its recess a curb may be and still seal (habit; the maker's drawing wins)."""
COVERS, CROSSES = 0.95, 0.05
"""Share of an opening that must stand over the curb's own, and of it that may stand over the other."""
HEAVIER = 1.05
"""From this share of the old weight on somebody has to look at what carries it (habit; local code goes further)."""


@dataclass(frozen=True, slots=True)
class Rect:
    """A rectangle by its corner and size. [m]"""

    x: float
    y: float
    length: float
    width: float

    @property
    def area(self) -> float:
        """[m2]"""
        return self.length * self.width

    def over(self, other: Rect) -> float:
        """How much of it lies over the other. [m2]"""
        along = min(self.x + self.length, other.x + other.length) - max(self.x, other.x)
        across = min(self.y + self.width, other.y + other.width) - max(self.y, other.y)
        return max(0.0, along) * max(0.0, across)

    def moved(self, dx: float, dy: float) -> Rect:
        """The same elsewhere."""
        return Rect(self.x + dx, self.y + dy, self.length, self.width)

    def within(self, other: Rect, spare: float = 0.0) -> bool:
        """Whether it lies inside the other."""
        return (
            self.x >= other.x - spare
            and self.y >= other.y - spare
            and self.x + self.length <= other.x + other.length + spare
            and self.y + self.width <= other.y + other.width + spare
        )


@dataclass(frozen=True, slots=True)
class Base:
    """A unit's foot, or a curb: its outside, and the openings in it from its front left corner."""

    length: float
    width: float
    supply: Rect | None = None
    back: Rect | None = None

    @property
    def outside(self) -> Rect:
        """From its own corner."""
        return Rect(0.0, 0.0, self.length, self.width)

    def turned(self, quarters: int) -> Base:
        """The same, turned clockwise by quarters of a circle."""
        base = self
        for _ in range(quarters % 4):
            openings = [
                None if one is None else Rect(base.width - one.y - one.width, one.x, one.width, one.length)
                for one in (base.supply, base.back)
            ]
            base = Base(base.width, base.length, *openings)
        return base


@dataclass(frozen=True, slots=True)
class Found:
    """What stands there. `inner` is the curb's opening, from its outer corner; None on a stand."""

    base: Base
    inner: Rect | None
    on_curb: bool = True
    concentric: bool = False
    clear: tuple[float | None, float | None, float | None, float | None] = (None, None, None, None)
    """Free room in front, to the right, behind, to the left. [m]"""
    volts: float | None = None
    phases: int | None = None
    breaker_amps: float | None = None
    weight_kg: float | None = None


@dataclass(frozen=True, slots=True)
class NewUnit:
    """What is to stand there. `recess` is the largest curb that its foot goes over; None where it has none."""

    base: Base
    recess: tuple[float, float] | None = None
    concentric: bool = False
    needs: tuple[float | None, float | None, float | None, float | None] = (None, None, None, None)
    volts: float | None = None
    phases: int | None = None
    min_amps: float | None = None
    most_amps: float | None = None
    weight_kg: float | None = None


class Grade(IntEnum):
    """How good or bad, the better the lower."""

    FITS = 0
    ADAPTER = 1
    MEASURE = 2
    NO = 3


GRADE_WORDS = {
    Grade.FITS: "fits",
    Grade.ADAPTER: "fits with an adapter",
    Grade.MEASURE: "too close to tell: measure again",
    Grade.NO: "does not fit",
}


MARKS = {Grade.FITS: "good", Grade.ADAPTER: "needs attention", Grade.MEASURE: "too close", Grade.NO: "no"}
"""What stands before a reason."""


@dataclass(frozen=True, slots=True)
class Reason:
    """One thing that was compared, in words with its numbers."""

    grade: Grade
    words: str


@dataclass(frozen=True, slots=True)
class WayRound:
    """One way round. `at` is where the unit's corner stands on the curb; `unit` its foot as turned."""

    quarters: int
    unit: Base
    at: tuple[float, float]
    reasons: Sequence[Reason]

    @property
    def grade(self) -> Grade:
        """As good as its worst."""
        return max((one.grade for one in self.reasons), default=Grade.FITS)


@dataclass(frozen=True, slots=True)
class ChangeOut:
    """Every way round, the best first, and what holds whichever way it stands."""

    ways: Sequence[WayRound]
    always: Sequence[Reason]
    unknown: Sequence[str] = field(default_factory=tuple)

    @property
    def best(self) -> WayRound:
        """The best way round."""
        return self.ways[0]

    @property
    def grade(self) -> Grade:
        """Of the best way, with what holds always."""
        return max([self.best.grade, *(one.grade for one in self.always)])


def said(metres: float) -> str:
    """A length as both sides of a counter read it."""
    return f"{metres / INCH_M:.1f} in. ({metres * 100:.1f} cm)"


TURNS = {0: "as the old one stood", 1: "turned a quarter", 2: "turned half around", 3: "turned three quarters"}


def compared(found: Found, unit: NewUnit) -> ChangeOut:
    """Compare what stands there with what is to stand there, all four ways round; on equal grounds turned least."""
    ways = [_way(found, unit, quarters) for quarters in range(4)]
    ways.sort(key=_preferred)
    return ChangeOut(ways, list(_always(found, unit)), _unknown(found, unit))


def _preferred(way: WayRound) -> tuple[bool, bool, int, int, int]:
    """What may go straight on, once it is measured again, before what needs an adapter for sure; then turned least."""
    grades = [one.grade for one in way.reasons]
    return Grade.NO in grades, Grade.ADAPTER in grades, sum(grades), way.quarters % 2, way.quarters


def _way(found: Found, unit: NewUnit, quarters: int) -> WayRound:
    turned = unit.base.turned(quarters)
    at = (found.base.length - turned.length) / 2, (found.base.width - turned.width) / 2
    foot, ducts = _stands(found, unit, turned, quarters), _openings(found, unit, turned, at)
    return WayRound(quarters, turned, at, [*foot, *ducts, *_room(found, unit, turned, at, quarters)])


def _stands(found: Found, unit: NewUnit, turned: Base, quarters: int) -> Iterator[Reason]:
    """Its foot against the curb's outside, or the stand."""
    recess = unit.recess if unit.recess is None or quarters % 2 == 0 else unit.recess[::-1]
    goes_over = recess is not None and found.on_curb
    for i, (name, has, own) in enumerate((("long", found.base.length, turned.length), ("wide", found.base.width, turned.width))):
        limit = recess[i] if recess is not None and goes_over else own
        spare = limit - has
        over = "goes over a curb up to" if goes_over else "is"
        words = f"The {'curb' if found.on_curb else 'stand'} is {said(has)} {name}; the unit {over} {said(limit)}."
        if found.on_curb:
            # A curb that is too large for it is stepped down by an adapter, one that is too small stepped up.
            wrong = Grade.MEASURE if abs(spare) < TAPE_M and goes_over else Grade.FITS
            wrong = Grade.ADAPTER if spare <= -TAPE_M or spare > 2 * SEALS_M else wrong
        else:
            wrong = Grade.NO if spare > TAPE_M else Grade.MEASURE if abs(spare) <= TAPE_M else Grade.FITS
        yield Reason(wrong, words)


def _openings(found: Found, unit: NewUnit, turned: Base, at: tuple[float, float]) -> Iterator[Reason]:
    if not found.on_curb or found.inner is None:
        return
    if found.concentric != unit.concentric:
        has, wants = ("concentric" if one else "side by side" for one in (found.concentric, unit.concentric))
        yield Reason(Grade.ADAPTER, f"The ducts are {has}, the unit's are {wants}.")
        return
    pairs = (
        ("supply", turned.supply, found.base.supply, found.base.back),
        ("return", turned.back, found.base.back, found.base.supply),
    )
    for name, own, same, other in pairs:
        if own is None or same is None:
            continue
        here = own.moved(*at)
        covers, crosses = here.over(same) / min(here.area, same.area), here.over(other) / here.area if other else 0.0
        if crosses > CROSSES:
            words = f"Its {name} would stand over the other duct by {in_percent(crosses)}: the air would mix."
            yield Reason(Grade.ADAPTER, words)
        elif covers < COVERS:
            yield Reason(Grade.ADAPTER, f"Only {in_percent(covers)} of its {name} stands over the curb's.")
        elif not here.within(found.inner, TAPE_M):
            yield Reason(Grade.ADAPTER, f"Its {name} reaches over the curb's rim.")
        else:
            yield Reason(Grade.FITS, f"{in_percent(covers)} of its {name} stands over the curb's.")


_SIDES = ("in front", "to the right", "behind", "to the left")


def _room(found: Found, unit: NewUnit, turned: Base, at: tuple[float, float], quarters: int) -> Iterator[Reason]:
    """Room to work, less what it stands out over the curb. Turned clockwise, its front looks to the left, back, right."""
    out = (-at[1], turned.length - found.base.length - (-at[0]), turned.width - found.base.width - (-at[1]), -at[0])
    for side in range(4):
        place = (side - quarters) % 4  # where that side of the unit looks
        need, has = unit.needs[side], found.clear[place]
        if need is None or has is None:
            continue
        left = has - max(0.0, out[place])
        grade = Grade.FITS if left >= need + TAPE_M else Grade.MEASURE if left > need - TAPE_M else Grade.NO
        yield Reason(
            grade,
            f"It needs {said(need)} at its {('front', 'right', 'back', 'left')[side]}; {said(left)} are free {_SIDES[place]}.",
        )


def _always(found: Found, unit: NewUnit) -> Iterator[Reason]:
    if found.volts and unit.volts:
        off = abs(found.volts - unit.volts) / unit.volts
        grade = Grade.FITS if off <= _VOLTS_OFF else Grade.NO
        yield Reason(grade, f"{found.volts:.0f} V are there, it needs {unit.volts:.0f} V.")
    if found.phases and unit.phases:
        same = found.phases == unit.phases
        words = f"{found.phases} phase{'s' * (found.phases > 1)} there, it needs {unit.phases}."
        yield Reason(Grade.FITS if same else Grade.NO, words)
    if found.breaker_amps and (unit.min_amps or unit.most_amps):
        low, high = unit.min_amps or 0.0, unit.most_amps or found.breaker_amps
        fits = low <= found.breaker_amps <= high
        asks = f"wire for {low:g} A and a breaker of {high:g} A at most"
        words = f"The breaker is {found.breaker_amps:g} A; the plate asks for {asks}."
        yield Reason(Grade.FITS if fits else Grade.ADAPTER, words)
    if found.weight_kg and unit.weight_kg:
        more = unit.weight_kg / found.weight_kg
        words = f"It weighs {unit.weight_kg:.0f} kg ({unit.weight_kg / POUND_KG:.0f} lb), {in_percent(more)} of the old one"
        heavy = more > HEAVIER
        words += ": somebody has to say that the roof bears it." if heavy else "."
        yield Reason(Grade.ADAPTER if heavy else Grade.FITS, words)


# Nominal voltages of one system are named up to so far apart: 208 and 230 are not one, 230 and 240 are.
_VOLTS_OFF = 0.06


def _unknown(found: Found, unit: NewUnit) -> list[str]:
    """What nobody measured and everything hangs on."""
    lacks = {
        "the curb's openings": found.on_curb and (found.base.supply is None or found.base.back is None) and not found.concentric,
        "the new unit's openings": found.on_curb and (unit.base.supply is None or unit.base.back is None) and not unit.concentric,
        "the curb that it is made for": found.on_curb and unit.recess is None,
        "volts and phases": not (found.volts and found.phases and unit.volts and unit.phases),
        "both weights": not (found.weight_kg and unit.weight_kg),
        "room around it": all(one is None for one in found.clear),
    }
    return [name for name, so in lacks.items() if so]
