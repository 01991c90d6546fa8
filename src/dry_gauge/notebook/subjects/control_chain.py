"""The control chain of this unit: its links, volts along it, coils that pull in or not, the link found open and why."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, StringConstraints

from dry_gauge.core.controls.chain import SAFETIES, Chain, Link, LinkSort, Where
from dry_gauge.core.controls.walker import How, Volts
from dry_gauge.core.errors import Refused
from dry_gauge.notebook.fields import FROZEN, FewWords
from dry_gauge.notebook.kind import Body, Case, Entry, Kept, Kind, Obstacle, Part, VisitState, Weight, in_time, kept
from dry_gauge.notebook.subjects.agenda import RECHECKS, RETURNS, Agenda

LinkName = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60)]


class ChainLink(BaseModel):
    """One link as it is drawn: behind which it stands, where it is, whose it is where it is not this unit's."""

    model_config = FROZEN
    name: LinkName
    sort: LinkSort
    after: str = ""
    place: Where = Where.PANEL
    owner: FewWords = ""


class ChainBody(Body):
    """The chain of this unit from here on. `taken_from` says where it came from: a template, this unit, a like one."""

    kind: Literal["chain"] = "chain"
    nominal_v: Annotated[float, Field(allow_inf_nan=False, ge=5, le=600)] = 24.0
    links: tuple[ChainLink, ...]
    taken_from: FewWords = ""

    @property
    def chain(self) -> Chain:
        """As the walker reads it.

        Raises
        ------
        Refused
        """
        return Chain(tuple(Link(one.name, one.sort, one.after, one.place, one.owner) for one in self.links), self.nominal_v)


class ChainPointBody(Body):
    """Volts at the far side of a link against the source's common, or across it."""

    kind: Literal["chain_point"] = "chain_point"
    link: LinkName
    volts: Annotated[float, Field(allow_inf_nan=False, ge=0, le=1000)]
    how: How = How.COMMON


class CoilBody(Body):
    """Whether a coil pulls in, so whether what it switches runs."""

    kind: Literal["coil"] = "coil"
    coil: LinkName
    runs: bool


class OpenLinkBody(Body):
    """This link is the open one, and why it opened as far as that is known."""

    kind: Literal["open_link"] = "open_link"
    link: LinkName
    cause: FewWords = ""


class ClosedLinkBody(Body):
    """It carries again: mended, reset, or closed by its owner. What was measured behind it counts no more."""

    kind: Literal["closed_link"] = "closed_link"
    link: LinkName
    cause: FewWords = ""
    how: FewWords = ""


class ControlChain(Part):
    """The chain, what was measured since the last link was closed, and the links found open, by name."""

    drawn: Kept[ChainBody] | None = None
    points: tuple[Kept[ChainPointBody], ...] = ()
    coils: dict[str, Kept[CoilBody]] = {}
    opened: dict[str, Kept[OpenLinkBody]] = {}
    closed: dict[str, Kept[ClosedLinkBody]] = {}

    @property
    def chain(self) -> Chain | None:
        """The chain; None before it is drawn."""
        return self.drawn.body.chain if self.drawn else None

    @property
    def volts(self) -> tuple[Volts, ...]:
        """What was measured, in order."""
        return tuple(Volts(one.body.link, one.body.volts, one.body.how) for one in self.points)

    @property
    def runs(self) -> dict[str, bool]:
        """By coil whether it pulls in."""
        return {name: one.body.runs for name, one in self.coils.items()}

    @property
    def still_open(self) -> tuple[Kept[OpenLinkBody], ...]:
        """Links found open that do not carry yet, oldest first."""
        return tuple(
            one
            for one in in_time(self.opened.values())
            if one.body.link not in self.closed or self.closed[one.body.link].at < one.at
        )

    def sort_of(self, link: str) -> LinkSort | None:
        """What a link is; None where it is not in the chain."""
        found = next((one for one in self.drawn.body.links if one.name == link), None) if self.drawn else None
        return found.sort if found else None

    def cause_of(self, link: str) -> str:
        """Why a link opened, as far as anyone said."""
        said = [one.body.cause for one in (self.closed.get(link), self.opened.get(link)) if one]
        return next(filter(None, said), "")


MOST_POINTS = 200
"""Points that are kept in the state; the walker needs far fewer."""


def _drawn(visit: VisitState, entry: Entry, body: ChainBody) -> VisitState:
    names, before = {one.name for one in body.links}, visit[ControlChain]
    coils = {one.name for one in body.links if one.sort is LinkSort.COIL}
    return visit.changing(
        ControlChain,
        drawn=Kept[ChainBody](**kept(entry)),
        points=tuple(one for one in before.points if one.body.link in names),
        coils={name: one for name, one in before.coils.items() if name in coils},
    )


def _measured(visit: VisitState, entry: Entry, _: ChainPointBody) -> VisitState:
    points = (*visit[ControlChain].points, Kept[ChainPointBody](**kept(entry)))
    return visit.changing(ControlChain, points=points[-MOST_POINTS:])


def _coil(visit: VisitState, entry: Entry, body: CoilBody) -> VisitState:
    return visit.changing(ControlChain, coils=visit[ControlChain].coils | {body.coil: Kept[CoilBody](**kept(entry))})


def _opened(visit: VisitState, entry: Entry, body: OpenLinkBody) -> VisitState:
    opened = visit[ControlChain].opened | {body.link: Kept[OpenLinkBody](**kept(entry))}
    return visit.changing(ControlChain, opened=opened)


def _closed(visit: VisitState, entry: Entry, body: ClosedLinkBody) -> VisitState:
    before = visit[ControlChain]
    chain = before.chain
    stale = chain.behind(body.link) if chain and body.link in chain.by_name else frozenset()
    return visit.changing(
        ControlChain,
        closed=before.closed | {body.link: Kept[ClosedLinkBody](**kept(entry))},
        points=tuple(one for one in before.points if one.body.link not in stale),
        coils={name: one for name, one in before.coils.items() if name not in stale},
    )


# -- what is refused --------------------------------------------------------------------


def _no_chain(case: Case[ChainBody]) -> None:
    if not any(one.sort is LinkSort.COIL for one in case.body.chain.links):
        raise Refused("A chain ends at a coil: a contactor, a relay, a valve.", "links")


def _in_chain(case: Case[ChainPointBody] | Case[OpenLinkBody] | Case[ClosedLinkBody]) -> None:
    _known(case.visit, case.body.link, "link")


def _coil_in_chain(case: Case[CoilBody]) -> None:
    _known(case.visit, case.body.coil, "coil")


def _known(visit: VisitState, name: str, field: str) -> None:
    state = visit[ControlChain]
    if state.drawn is None:
        raise Refused("Draw the chain first, or begin with a template.", field)
    if state.sort_of(name) is None:
        raise Refused(f"{name!r} is not in this chain any more.", field)


# -- what stays open ------------------------------------------------------------------------


def _still_open(visit: VisitState) -> list[Obstacle]:
    if visit[Agenda].booked(RETURNS):
        return []
    return [
        Obstacle(
            "open_link", f"Found open: {one.body.link}. Close it, or book the return.", str(one.entry_id), weight=Weight.PROOF
        )
        for one in visit[ControlChain].still_open
    ]


def _without_cause(visit: VisitState) -> list[Obstacle]:
    state = visit[ControlChain]
    if visit[Agenda].booked(RECHECKS):
        return []
    return [
        Obstacle(
            "safety_cause",
            f"{name} opened and nobody knows why. Closing it is no repair: find the cause, or book a recheck.",
            str(one.entry_id),
            weight=Weight.PROOF,
        )
        for name, one in sorted(state.closed.items())
        if state.sort_of(name) in SAFETIES and not state.cause_of(name)
    ]


# -- how it is said -------------------------------------------------------------------------


def _chain_said(body: ChainBody, _: VisitState) -> tuple[str, str]:
    known = f"; {body.taken_from}" if body.taken_from else ""
    return "Control chain", f"{len(body.links)} links, {body.nominal_v:g} V{known}"


def _point_said(body: ChainPointBody, _: VisitState) -> tuple[str, str]:
    return f"{'Across' if body.how is How.ACROSS else 'At'} {body.link}", f"{body.volts:g} V"


def _closed_said(body: ClosedLinkBody, _: VisitState) -> tuple[str, str]:
    return f"{body.link} carries again", "; ".join(filter(None, (body.how, body.cause)))


KINDS = (
    Kind(ChainBody, _chain_said, _drawn, _no_chain, sweeps=True),
    Kind(ChainPointBody, _point_said, _measured, collides=_in_chain),
    Kind(CoilBody, lambda body, _: (body.coil, "pulls in" if body.runs else "does not pull in"), _coil, collides=_coil_in_chain),
    Kind(OpenLinkBody, lambda body, _: ("Found open", "; ".join(filter(None, (body.link, body.cause)))), _opened,
         collides=_in_chain, leaves_open=_still_open),
    Kind(ClosedLinkBody, _closed_said, _closed, collides=_in_chain, leaves_open=_without_cause, happened=True, sweeps=True),
)  # fmt: skip
