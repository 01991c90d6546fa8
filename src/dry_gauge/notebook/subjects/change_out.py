"""A survey for a change-out: what stands there, and what is to stand there; the latest of each counts. Lengths in inches."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from dry_gauge.core.errors import Refused
from dry_gauge.core.office.change_out import Base, ChangeOut, Found, NewUnit, Rect, compared
from dry_gauge.core.quantities import INCH_M, POUND_KG
from dry_gauge.notebook.fields import FewWords
from dry_gauge.notebook.kind import Body, Case, Entry, Kept, Kind, Part, VisitState, kept

_Length = Annotated[float, Field(gt=0, le=1200, allow_inf_nan=False)]
_Offset = Annotated[float, Field(ge=0, le=1200, allow_inf_nan=False)]
_Amps = Annotated[float, Field(gt=0, le=2000, allow_inf_nan=False)]
_Volts = Annotated[float, Field(gt=20, le=1000, allow_inf_nan=False)]
_Pounds = Annotated[float, Field(gt=0, le=40_000, allow_inf_nan=False)]
Opening = tuple[_Offset, _Offset, _Length, _Length]
"""From the left, from the front, length, width. [in.]"""
Sides = tuple[_Offset | None, _Offset | None, _Offset | None, _Offset | None]
"""In front, to the right, behind, to the left. [in.]"""


def _inside(what: str, field: str, opening: Opening | None, length: float, width: float) -> None:
    if opening is None:
        return
    left, front, long, wide = opening
    if left + long > length + _TAPE_IN or front + wide > width + _TAPE_IN:
        reach, most = f"{left + long:g} by {front + wide:g} in.", f"{length:g} by {width:g} in."
        words = f"The {what} opening reaches to {reach}, beyond {most}: measure again, or write the unit behind the numbers."
        raise Refused(words, field)


_TAPE_IN = 0.5


class SurveyBody(Body):
    """What stands there."""

    kind: Literal["survey"] = "survey"
    stands: Literal["curb", "stand"] = "curb"
    length_in: _Length
    width_in: _Length
    inner_length_in: _Length | None = None
    inner_width_in: _Length | None = None
    height_in: _Length | None = None
    supply_in: Opening | None = None
    return_in: Opening | None = None
    """From the curb's outer front left corner."""
    concentric: bool = False
    clear_in: Sides = (None, None, None, None)
    volts: _Volts | None = None
    phases: Literal[1, 3] | None = None
    breaker_amps: _Amps | None = None
    disconnect: FewWords = ""
    gas: FewWords = ""
    drain: FewWords = ""
    way: FewWords = ""
    """How something so heavy gets there."""
    weight_lb: _Pounds | None = None

    @property
    def found(self) -> Found:
        """To be compared."""
        inner = None
        if self.stands == "curb":
            long, wide = self.inner_length_in or self.length_in - _RIM_IN, self.inner_width_in or self.width_in - _RIM_IN
            inner = _rect(((self.length_in - long) / 2, (self.width_in - wide) / 2, long, wide))
        base = Base(self.length_in * INCH_M, self.width_in * INCH_M, _rect(self.supply_in), _rect(self.return_in))
        return Found(
            base,
            inner,
            self.stands == "curb",
            self.concentric,
            _sides(self.clear_in),
            self.volts,
            self.phases,
            self.breaker_amps,
            _kg(self.weight_lb),
        )


_RIM_IN = 3.0  # what both rims of a curb take away where nobody measured inside (habit, assumed)


class NewUnitBody(Body):
    """What is to stand there."""

    kind: Literal["new_unit"] = "new_unit"
    maker: FewWords = ""
    model: FewWords = ""
    length_in: _Length
    width_in: _Length
    recess_length_in: _Length | None = None
    recess_width_in: _Length | None = None
    supply_in: Opening | None = None
    return_in: Opening | None = None
    """From its front left corner, seen from above."""
    concentric: bool = False
    needs_in: Sides = (None, None, None, None)
    volts: _Volts | None = None
    phases: Literal[1, 3] | None = None
    min_amps: _Amps | None = None
    most_amps: _Amps | None = None
    weight_lb: _Pounds | None = None

    @property
    def unit(self) -> NewUnit:
        """To be compared."""
        recess = None
        if self.recess_length_in and self.recess_width_in:
            recess = self.recess_length_in * INCH_M, self.recess_width_in * INCH_M
        base = Base(self.length_in * INCH_M, self.width_in * INCH_M, _rect(self.supply_in), _rect(self.return_in))
        needs, weight = _sides(self.needs_in), _kg(self.weight_lb)
        return NewUnit(base, recess, self.concentric, needs, self.volts, self.phases, self.min_amps, self.most_amps, weight)


def _rect(opening: tuple[float, float, float, float] | None) -> Rect | None:
    return None if opening is None else Rect(*(one * INCH_M for one in opening))


def _sides(sides: Sides) -> tuple[float | None, float | None, float | None, float | None]:
    front, right, behind, left = (None if one is None else one * INCH_M for one in sides)
    return front, right, behind, left


def _kg(pounds: float | None) -> float | None:
    return None if pounds is None else pounds * POUND_KG


class Survey(Part):
    """The latest of each."""

    there: Kept[SurveyBody] | None = None
    new: Kept[NewUnitBody] | None = None

    @property
    def compared(self) -> ChangeOut | None:
        """The two against each other; None before both are there."""
        return None if self.there is None or self.new is None else compared(self.there.body.found, self.new.body.unit)


def _surveyed(visit: VisitState, entry: Entry, _: SurveyBody) -> VisitState:
    return visit.changing(Survey, there=Kept[SurveyBody](**kept(entry)))


def _wanted(visit: VisitState, entry: Entry, _: NewUnitBody) -> VisitState:
    return visit.changing(Survey, new=Kept[NewUnitBody](**kept(entry)))


def _curb_is_possible(case: Case[SurveyBody]) -> None:
    body = case.body
    for inner, outer, name in ((body.inner_length_in, body.length_in, "long"), (body.inner_width_in, body.width_in, "wide")):
        if inner is not None and inner >= outer:
            raise Refused(
                f"The curb is {inner:g} in. {name} inside and {outer:g} in. outside: that cannot be.",
                "inner_length" if name == "long" else "inner_width",
            )
    _inside("supply", "supply", body.supply_in, body.length_in, body.width_in)
    _inside("return", "return", body.return_in, body.length_in, body.width_in)


def _unit_is_possible(case: Case[NewUnitBody]) -> None:
    body = case.body
    for recess, outer, name in ((body.recess_length_in, body.length_in, "long"), (body.recess_width_in, body.width_in, "wide")):
        if recess is not None and recess > outer:
            raise Refused(
                f"It goes over a curb {recess:g} in. {name} and is {outer:g} in. {name} itself: that cannot be.",
                "recess_length" if name == "long" else "recess_width",
            )
    _inside("supply", "supply", body.supply_in, body.length_in, body.width_in)
    _inside("return", "return", body.return_in, body.length_in, body.width_in)


_OTHER_UNITS = {2.54: "cm", 25.4: "mm"}


def _same_units(case: Case[NewUnitBody]) -> None:
    """A unit that is larger than its curb by just what parts inches from centimetres was measured in those."""
    there = case.visit[Survey].there
    if there is None:
        return
    for factor, unit in _OTHER_UNITS.items():
        ratios = (case.body.length_in / there.body.length_in / factor, case.body.width_in / there.body.width_in / factor)
        if all(_NEAR[0] < ratio < _NEAR[1] for ratio in ratios):
            words = f"That is {factor:g} times what stands there: is it in {unit}? Write {unit} behind each number."
            raise Refused(words, "length")


_NEAR = (0.85, 1.25)
KINDS = (
    Kind(SurveyBody, lambda body, _: ("Survey", f"{body.stands}, {body.length_in:g} x {body.width_in:g} in."), _surveyed,
         refuse=_curb_is_possible),
    Kind(NewUnitBody, lambda body, _: ("New unit", " ".join(filter(None, (body.maker, body.model))) + f" {body.length_in:g} x "
                                       f"{body.width_in:g} in."), _wanted, refuse=_unit_is_possible, collides=_same_units),
)  # fmt: skip
