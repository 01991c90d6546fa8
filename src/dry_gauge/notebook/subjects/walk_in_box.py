"""A walk-in box: doors and defrosts while it pulls down, what stands in it, how it is set, and what the owner decides."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Annotated, Literal

from pydantic import Field

from dry_gauge.core.box.food import USUAL_LIMIT_K, USUAL_LIMIT_MIN, FoodClock, food_clock
from dry_gauge.core.box.pull_down import LONGEST_SILENCE_MIN, Forecast, Span, forecast
from dry_gauge.core.dimensions import UNITS, as_typed
from dry_gauge.core.errors import Refused
from dry_gauge.core.quantities import to_kelvin
from dry_gauge.notebook.fields import FewWords, SomeWords
from dry_gauge.notebook.kind import Body, Case, Entry, Kept, Kind, Obstacle, Part, VisitState, Weight, keeping, kept
from dry_gauge.notebook.subjects.agenda import RETURNS, Agenda
from dry_gauge.notebook.subjects.readings import Earlier, Readings

CHECKS = {
    "fans": "Every fan turns, and the right way",
    "ice": "Coil free of ice, front and back",
    "defrost": "Defrost clock right: times, how long, how it ends",
    "drain": "Drain runs, its heater warm",
    "door": "Door closes by itself, frame heater warm",
    "gasket": "Gasket tight all around",
    "curtain": "Curtain whole",
    "stacking": "Nothing stacked against the coil or its return",
    "solenoid": "Solenoid and pump-down: shuts, pulls down, stays",
    "head_control": "Head-pressure control set for winter",
    "bypass": "Low-pressure bypass in cold: waits and ends",
    "king_valve": "King valve open, stem cap on",
}
"""What is looked at in a box, in this order."""
_Temp = Annotated[float, Field(allow_inf_nan=False, ge=-100, le=200)]
_Psig = Annotated[float, Field(allow_inf_nan=False, ge=-14.6, le=1500)]


class BoxMarkBody(Body):
    """A door opens or shuts, a defrost begins or ends: what is read meanwhile is no pull-down."""

    kind: Literal["box_mark"] = "box_mark"
    what: Literal["door", "defrost"]
    begins: bool


class FoodBody(Body):
    """What is known of a product beforehand: its limit, and since when it is warm."""

    kind: Literal["food"] = "food"
    product: SomeWords
    limit: _Temp = 41.0
    limit_unit: Literal["F", "C"] = "F"
    limit_minutes: Annotated[float, Field(gt=0, le=2880)] = USUAL_LIMIT_MIN
    warm_for_minutes: Annotated[float, Field(ge=0, le=10_000)] | None = None
    """How long it had been warm when this was written, if anybody knows."""


class FoodDecisionBody(Body):
    """What the owner decided about a product, once told."""

    kind: Literal["food_decision"] = "food_decision"
    product: SomeWords
    told: SomeWords
    decision: Literal["kept", "moved", "discarded", "undecided"]


class BoxCheckBody(Body):
    """One thing looked at in the box."""

    kind: Literal["box_check"] = "box_check"
    check: FewWords
    good: bool
    words: FewWords = ""


class PressureSettingBody(Body):
    """A low-pressure control as it was found, gauge, and how the box is run by it. [psig]"""

    kind: Literal["pressure_setting"] = "pressure_setting"
    way: Literal["pump_down", "thermostat"]
    cut_out_psig: _Psig
    cut_in_psig: _Psig
    coldest_f: _Temp | None = None
    """The coldest place it can stand in. [F]"""
    td_f: Annotated[float, Field(gt=0, le=60)] | None = None


class WalkInBox(Part):
    """Marks in order; the rest by product or check."""

    marks: tuple[Kept[BoxMarkBody], ...] = ()
    foods: dict[str, Kept[FoodBody]] = {}
    decisions: dict[str, Kept[FoodDecisionBody]] = {}
    checks: dict[str, Kept[BoxCheckBody]] = {}
    settings: dict[str, Kept[PressureSettingBody]] = {}

    def lasting(self, what: str) -> bool:
        """Whether a door stands open or a defrost runs."""
        last = next((one for one in reversed(self.marks) if one.body.what == what), None)
        return last is not None and last.body.begins

    def spans(self, since: datetime) -> list[Span]:
        """Doors and defrosts, minutes from a moment."""
        found: list[Span] = []
        begun: dict[str, float] = {}
        for one in self.marks:
            at, what = (one.at - since).total_seconds() / 60, one.body.what
            if one.body.begins:
                begun.setdefault(what, at)
            elif what in begun:
                found.append(Span(begun.pop(what), at, what))
        return [*found, *(Span(at, None, what) for what, at in begun.items())]


DECISIONS = {"kept": "keeps it", "moved": "moves it", "discarded": "throws it away", "undecided": "has not decided"}


def trail_k(visit: VisitState, key: str) -> Sequence[tuple[datetime, float]]:
    """How a box's air or a product went on, all of it. [K]"""
    return [(one.at, _kelvin(one)) for one in visit[Readings].trails.get(key, ())]


def lately(trail: Sequence[tuple[datetime, float]]) -> Sequence[tuple[datetime, float]]:
    """The part of a trail since the last long silence."""
    silence = timedelta(minutes=LONGEST_SILENCE_MIN)
    start = next((i for i in range(len(trail) - 1, 0, -1) if trail[i][0] - trail[i - 1][0] > silence), 0)
    return trail[start:]


def _kelvin(one: Earlier) -> float:
    return UNITS[one.unit].to_si(one.value)


def products_in(visit: VisitState) -> tuple[str, ...]:
    """Products that were probed or spoken of."""
    probed = [key.partition("/")[2] or "product" for key in visit[Readings].trails if key.startswith("product_temp/")]
    return tuple(dict.fromkeys([*probed, *(one.body.product for one in visit[WalkInBox].foods.values())]))


def product_trail(visit: VisitState, product: str) -> Sequence[tuple[datetime, float]]:
    """The temperatures of one product's core. [K]"""
    return trail_k(visit, f"product_temp/{'' if product == 'product' else product}") or trail_k(visit, f"product_temp/{product}")


def forecast_of(visit: VisitState, trail: Sequence[tuple[datetime, float]], aim_k: float, *, product: bool = False) -> Forecast:
    """Where it is going. A product hardly feels a door or a defrost: only the air is taken without them."""
    if not trail:
        return Forecast("few", "Two points at least, a few minutes apart.")
    since = trail[0][0]
    points = [((at - since).total_seconds() / 60, temp) for at, temp in trail]
    return forecast(points, aim_k, () if product else visit[WalkInBox].spans(since))


def clock_of(
    visit: VisitState,
    product: str,
    now: datetime,
    usual_limit_k: float = USUAL_LIMIT_K,
    trail: Sequence[tuple[datetime, float]] | None = None,
) -> FoodClock:
    """How long a product stood above its limit, by its own trail unless a fuller one is given."""
    known = visit[WalkInBox].foods.get(product.casefold())
    trail = product_trail(visit, product) if trail is None else trail
    since = trail[0][0] if trail else now
    points = [((at - since).total_seconds() / 60, temp) for at, temp in trail]
    warm_since = None
    limit_k, limit_min = usual_limit_k, USUAL_LIMIT_MIN
    if known:
        limit_k, limit_min = UNITS[known.body.limit_unit].to_si(known.body.limit), known.body.limit_minutes
        if known.body.warm_for_minutes is not None:
            warm_since = (known.at - since).total_seconds() / 60 - known.body.warm_for_minutes
    return food_clock(points, (now - since).total_seconds() / 60, limit_k, limit_min, warm_since_min=warm_since)


def _marked(visit: VisitState, entry: Entry, _: BoxMarkBody) -> VisitState:
    return visit.changing(WalkInBox, marks=(*visit[WalkInBox].marks, Kept[BoxMarkBody](**kept(entry)))[-200:])


# -- what is refused --------------------------------------------------------------------


def _only_boxes(case: Case[Body]) -> None:
    if not case.facts.kind.is_walk_in:
        raise Refused("This unit has no box.", "what")


def _food_checked(case: Case[FoodBody]) -> None:
    limit = UNITS[case.body.limit_unit].to_si(case.body.limit)
    if not to_kelvin(-20) <= limit <= to_kelvin(70):
        raise Refused("A limit for food lies between -20 and 70 °F (-29 and 21 °C).", "limit")


def _check_known(case: Case[BoxCheckBody]) -> None:
    if case.body.check not in CHECKS:
        raise Refused("That is none of the checks of a box.", "check")


# -- what stays open ------------------------------------------------------------------------


def _food_open(visit: VisitState) -> list[Obstacle]:
    state, found = visit[WalkInBox], []
    for product in products_in(visit):
        trail = product_trail(visit, product)
        if not trail or product.casefold() in state.decisions:
            continue
        clock = clock_of(visit, product, trail[-1][0])
        if clock.state in ("soon", "over"):
            words = f"{product.capitalize()}: {clock.above_min:.0f} min above its limit. Tell the owner; keep what they decide."
            found.append(Obstacle("food", words, weight=Weight.SAFETY))
    return found


def _still_lasting(visit: VisitState) -> list[Obstacle]:
    state = visit[WalkInBox]
    words = {"door": "The box's door is still marked open.", "defrost": "A defrost is still marked as running."}
    return [Obstacle("box_mark", words[what], weight=Weight.ERRAND) for what in words if state.lasting(what)]


def _wrong_checks(visit: VisitState) -> list[Obstacle]:
    if visit[Agenda].booked(RETURNS):
        return []
    wrong = [
        (one, f"Not so: {CHECKS[name].lower()}{f' ({one.body.words})' if one.body.words else ''}.")
        for name, one in visit[WalkInBox].checks.items()
        if not one.body.good and name in CHECKS
    ]
    return [
        Obstacle("box_check", f"{words} Mend it, or book the return.", str(one.entry_id), weight=Weight.PROOF)
        for one, words in wrong
    ]


# -- how it is said -------------------------------------------------------------------------


def _mark_said(body: BoxMarkBody, _: VisitState) -> tuple[str, str]:
    words = {("door", True): "open", ("door", False): "shut", ("defrost", True): "begins", ("defrost", False): "ends"}
    return ("Door of the box" if body.what == "door" else "Defrost of the box"), words[body.what, body.begins]


def _food_said(body: FoodBody, _: VisitState) -> tuple[str, str]:
    warm = f", warm for {body.warm_for_minutes:g} min" if body.warm_for_minutes is not None else ""
    return f"Food: {body.product}", f"limit {as_typed(body.limit, body.limit_unit)} for {body.limit_minutes:g} min{warm}"


def _setting_said(body: PressureSettingBody, _: VisitState) -> tuple[str, str]:
    way = "pump-down" if body.way == "pump_down" else "as thermostat"
    return "Low-pressure control", f"{way}: out {body.cut_out_psig:g}, in {body.cut_in_psig:g} psig"


KINDS = (
    Kind(BoxMarkBody, _mark_said, _marked, refuse=_only_boxes, leaves_open=_still_lasting, happened=True),
    Kind(FoodBody, _food_said, keeping(WalkInBox, "foods", lambda body: body.product.casefold()), _food_checked,
         leaves_open=_food_open),
    Kind(FoodDecisionBody, lambda body, _: (f"Food: {body.product}", f"{body.told} {DECISIONS[body.decision]}"),
         keeping(WalkInBox, "decisions", lambda body: body.product.casefold())),
    Kind(BoxCheckBody, lambda body, _: (CHECKS.get(body.check, body.check), "; ".join(
        filter(None, ("so it is" if body.good else "not so", body.words)))),
        keeping(WalkInBox, "checks", lambda body: body.check), _check_known, leaves_open=_wrong_checks),
    Kind(PressureSettingBody, _setting_said, keeping(WalkInBox, "settings", lambda body: "unit"), refuse=_only_boxes),
)  # fmt: skip
