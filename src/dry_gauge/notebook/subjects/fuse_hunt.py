"""What opens a control fuse: a breaker in its place, loads lifted and put back by halves, fuses spent."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from dry_gauge.core.controls.fuse_hunt import Hunt, Try, check_substitute, hunt
from dry_gauge.core.errors import Refused
from dry_gauge.notebook.fields import SomeWords
from dry_gauge.notebook.kind import Body, Case, Entry, Kept, Kind, Obstacle, Part, VisitState, Weight, kept
from dry_gauge.notebook.subjects.agenda import RETURNS, Agenda
from dry_gauge.notebook.subjects.control_chain import LinkName
from dry_gauge.notebook.subjects.ledger import ChangeSort, set_aside, taken_back_up

BREAKER = "Breaker in place of the control fuse"
_Loads = Annotated[tuple[LinkName, ...], Field(max_length=24)]


class FuseHuntBody(Body):
    """A hunt begins: the circuit, its fuse, the breaker that stands in for it, and what it feeds."""

    kind: Literal["fuse_hunt"] = "fuse_hunt"
    circuit_v: Annotated[float, Field(allow_inf_nan=False, gt=0, le=1000)]
    fuse_a: Annotated[float, Field(allow_inf_nan=False, gt=0, le=100)]
    breaker_a: Annotated[float, Field(allow_inf_nan=False, gt=0, le=100)]
    loads: _Loads
    spent: Annotated[int, Field(ge=0, le=50)] = 0
    """Fuses that were used up before."""


class FuseTryBody(Body):
    """Powered once with these loads connected, all others lifted: did it hold?"""

    kind: Literal["fuse_try"] = "fuse_try"
    connected: _Loads = ()
    held: bool


class LoadOhmsBody(Body):
    """Ohms of one load, its wires off."""

    kind: Literal["load_ohms"] = "load_ohms"
    load: SomeWords
    ohms: Annotated[float, Field(allow_inf_nan=False, ge=0, le=1e9)]


class FuseEndBody(Body):
    """The fuse is back in place and everything is connected again; what it was, as far as known."""

    kind: Literal["fuse_end"] = "fuse_end"
    found: SomeWords


class FuseHunt(Part):
    """The latest hunt, its tries in order, ohms by load."""

    on: Kept[FuseHuntBody] | None = None
    tries: tuple[Kept[FuseTryBody], ...] = ()
    ohms: dict[str, Kept[LoadOhmsBody]] = {}
    ended: Kept[FuseEndBody] | None = None

    @property
    def running(self) -> bool:
        """Whether one is on."""
        return self.on is not None and self.ended is None

    @property
    def stands(self) -> Hunt | None:
        """Suspects now; None where no hunt is on."""
        if self.on is None:
            return None
        tries = [Try(frozenset(one.body.connected), one.body.held) for one in self.tries]
        ohms = {name: one.body.ohms for name, one in self.ohms.items()}
        return hunt(self.on.body.loads, tries, ohms, self.on.body.circuit_v, self.on.body.fuse_a)

    @property
    def openings(self) -> int:
        """How often it opened while it was hunted."""
        return sum(not one.body.held for one in self.tries)


def _wire(load: str) -> str:
    return f"Wire of {load}"


def _begun(visit: VisitState, entry: Entry, _: FuseHuntBody) -> VisitState:
    visit = visit.changing(FuseHunt, on=Kept[FuseHuntBody](**kept(entry)), tries=(), ohms={}, ended=None)
    return set_aside(visit, entry, ChangeSort.OTHER, BREAKER)


def _tried(visit: VisitState, entry: Entry, body: FuseTryBody) -> VisitState:
    state = visit[FuseHunt]
    loads = state.on.body.loads if state.on else ()
    before = set(state.tries[-1].body.connected) if state.tries else set(loads)
    for load in loads:
        if load in before and load not in body.connected:
            visit = set_aside(visit, entry, ChangeSort.UNPLUGGED, _wire(load))
    visit = taken_back_up(visit, entry, {_wire(load) for load in body.connected}, "connected for the hunt")
    return visit.changing(FuseHunt, tries=(*state.tries, Kept[FuseTryBody](**kept(entry))))


def _measured(visit: VisitState, entry: Entry, body: LoadOhmsBody) -> VisitState:
    return visit.changing(FuseHunt, ohms=visit[FuseHunt].ohms | {body.load: Kept[LoadOhmsBody](**kept(entry))})


def _over(visit: VisitState, entry: Entry, _: FuseEndBody) -> VisitState:
    state = visit[FuseHunt]
    wires = {_wire(load) for load in state.on.body.loads} if state.on else set()
    visit = taken_back_up(visit, entry, {BREAKER, *wires}, "fuse in, everything connected")
    return visit.changing(FuseHunt, ended=Kept[FuseEndBody](**kept(entry)))


# -- what is refused --------------------------------------------------------------------


def _begins(case: Case[FuseHuntBody]) -> None:
    body = case.body
    check_substitute(body.circuit_v, body.fuse_a, body.breaker_a)
    if len(body.loads) < 2:
        raise Refused("Name at least two loads that hang on this fuse, one a line.", "loads")
    if len(set(body.loads)) < len(body.loads):
        raise Refused("Each load once, please: two alike cannot be told apart.", "loads")


def _on(case: Case[FuseTryBody] | Case[LoadOhmsBody] | Case[FuseEndBody]) -> None:
    if not case.visit[FuseHunt].running:
        raise Refused("No hunt is on: begin one with the loads of this fuse.", "connected")


def _tries(case: Case[FuseTryBody]) -> None:
    _on(case)
    on = case.visit[FuseHunt].on
    unknown = set(case.body.connected) - set(on.body.loads if on else ())
    if unknown:
        raise Refused(f"{sorted(unknown)[0]!r} is none of the loads of this fuse.", "connected")


def _measures(case: Case[LoadOhmsBody]) -> None:
    _on(case)
    on = case.visit[FuseHunt].on
    if on and case.body.load not in on.body.loads:
        raise Refused(f"{case.body.load!r} is none of the loads of this fuse.", "load")


def _still_hunting(visit: VisitState) -> list[Obstacle]:
    state = visit[FuseHunt]
    if not state.running or state.on is None or visit[Agenda].booked(RETURNS):
        return []
    words = "The hunt for what opens the fuse has not ended: say what it was, or book the return."
    return [Obstacle("fuse_hunt", words, str(state.on.entry_id), weight=Weight.PROOF)]


def _tried_said(body: FuseTryBody, _: VisitState) -> tuple[str, str]:
    return "Held" if body.held else "Opened again", f"with {', '.join(body.connected) or 'every load lifted'}"


KINDS = (
    Kind(FuseHuntBody, lambda body, _: ("Hunt for what opens the fuse",
                                        f"{body.fuse_a:g} A at {body.circuit_v:g} V; {', '.join(body.loads)}"),
         _begun, refuse=_begins, leaves_open=_still_hunting, sweeps=True),
    Kind(FuseTryBody, _tried_said, _tried, collides=_tries, happened=True, sweeps=True),
    Kind(LoadOhmsBody, lambda body, _: (f"Ohms, {body.load}", f"{body.ohms:g}"), _measured, collides=_measures),
    Kind(FuseEndBody, lambda body, _: ("The fuse is back", body.found), _over, collides=_on, happened=True, sweeps=True),
)  # fmt: skip
