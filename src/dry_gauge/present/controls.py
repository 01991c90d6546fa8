"""Controls: the chain and the next point to measure, what opens a fuse, codes, waits, sensors, defrost, wires."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from uuid import UUID

from dry_gauge.core.controls.chain import HABITS, PLACE_WORDS, SAFETIES, TEMPLATES, Chain, Link, template_for
from dry_gauge.core.controls.defrost import MARK_WORDS, DefrostVerdict, Mark, marks_for
from dry_gauge.core.controls.delays import DELAYS
from dry_gauge.core.controls.fuse_hunt import Hunt, shorted
from dry_gauge.core.controls.walker import How, Walk, walk
from dry_gauge.core.local_time import day_of
from dry_gauge.core.vocabulary import Fault
from dry_gauge.core.words import in_percent
from dry_gauge.notebook.subjects.agenda import Agenda
from dry_gauge.notebook.subjects.control_chain import ChainBody, ControlChain
from dry_gauge.notebook.subjects.controls import OrificeRow
from dry_gauge.notebook.subjects.defrosts import Defrosts
from dry_gauge.notebook.subjects.fuse_hunt import FuseHunt
from dry_gauge.present.codes import BoardRow, boards, known_boards, named_links
from dry_gauge.present.electrical import MeasuredItem
from dry_gauge.present.scene import ControlPast, Scene
from dry_gauge.present.sensing import orifices, sensing
from dry_gauge.present.visit import worst_of

_RULED_OUT = 0.02  # a link that volts leave so little of is not named by its code any more


@dataclass(frozen=True, slots=True)
class Start:
    """A chain to begin with: a template, this unit's own of another visit, a like unit's."""

    key: str
    label: str
    links: int


@dataclass(frozen=True, slots=True)
class ChainRow:
    """One link of the chain as the editor shows it, and its place in the walk."""

    link: Link
    label: str
    state: str
    volts: str
    share: float
    """Of the odds that it is the open one."""


@dataclass(frozen=True, slots=True)
class OpenLink:
    """A link found open that does not carry yet, and why such a link opens."""

    link: Link
    cause: str
    causes: Sequence[str]
    is_safety: bool


@dataclass(frozen=True, slots=True)
class Wait:
    """A wait that is timed: when it ends at the earliest and at the latest."""

    label: str
    not_before: datetime
    latest: datetime


@dataclass(frozen=True, slots=True)
class HuntView:
    """The hunt for what opens a fuse, with ohms beside each suspect."""

    stands: Hunt
    loads: Sequence[tuple[str, float, str]]
    running: bool
    openings: int
    spent: int
    circuit: str
    tried: bool
    found: str


@dataclass(frozen=True, slots=True)
class ControlsView:
    """The station as it stands."""

    chain: Chain | None
    chain_rows: Sequence[ChainRow]
    walk: Walk | None
    starts: Sequence[Start]
    known_chains: Mapping[str, ChainBody | None]
    """Behind the starts ``own`` and ``like``."""
    open_links: Sequence[OpenLink]
    coils: Sequence[tuple[str, bool | None]]
    walk_said: str
    """The walk in one line."""
    never_at_fault: str
    hunt: HuntView | None
    boards: Sequence[BoardRow]
    known_boards: Sequence[str]
    neighbours: Sequence[tuple[UUID, str, str]]
    look_by: date
    """By when a neighbour with the same code is looked at."""
    waits: Sequence[Wait]
    measured: Sequence[MeasuredItem]
    defrost: DefrostVerdict
    marks: Sequence[tuple[Mark, str, bool]]
    has_defrost: bool
    defrost_marks: Sequence[tuple[Mark, float]]
    orifices: Sequence[OrificeRow]
    """The model's own table of orifices, by indoor coil."""


def controls(scene: Scene) -> ControlsView:
    """All of it, the chain first."""
    state, past = scene.view.state[ControlChain], scene.controls
    chain, kind = state.chain, scene.view.facts.kind
    read = boards(scene, past)
    told = named_links(read, chain) if chain else []
    walked = (
        None
        if chain is None
        else walk(
            chain,
            state.volts,
            state.runs,
            state.closed,
            opened_here=past.opened_here,
            opened_on_like=past.opened_on_like,
            told=told,
        )
    )
    defrosts = scene.view.state[Defrosts]
    tapped = {mark for mark, _ in defrosts.sequence}
    has_defrost = kind.is_heat_pump or kind.is_walk_in
    marks = [(mark, MARK_WORDS[mark], mark in tapped) for mark in marks_for(walk_in=kind.is_walk_in)] if has_defrost else []
    return ControlsView(
        chain,
        _rows(state, walked),
        walked,
        _starts(scene, past),
        {"own": past.own_chain, "like": past.like_chain},
        _open_links(state),
        [(coil.name, state.runs.get(coil.name)) for coil in chain.coils] if chain else (),
        _said(state, walked, told),
        _never_at_fault(scene, state),
        _hunt(scene.view.state[FuseHunt]),
        read,
        known_boards(scene, past),
        past.neighbours,
        day_of(scene.now) + timedelta(days=7),
        _waits(scene),
        sensing(scene),
        defrosts.judged(walk_in=kind.is_walk_in),
        marks,
        has_defrost,
        defrosts.sequence,
        orifices(scene),
    )


def docked(view: ControlsView) -> tuple[str, str] | None:
    """What stands at the foot of a phone: the open link, or where to measure next; None without a chain."""
    if view.walk is None or view.walk.all_run:
        return None
    if view.open_links:
        first = view.open_links[0]
        return f"Open: {first.link.name}", "Find why, then close it" if first.is_safety else "Mend it, then say so"
    if view.walk.named:
        return f"Open: {view.walk.named.name}", view.walk_said
    following = view.walk.next
    if following is None:
        return None
    how = "across" if following.how is How.ACROSS else "at"
    return f"Measure {how}: {following.link.name}", PLACE_WORDS[following.link.place].capitalize()


def volts_read(state: ControlChain) -> Mapping[str, float]:
    """What the far side of each link read last. [V]"""
    return {one.link: one.volts for one in state.volts if one.how is How.COMMON}


# -- the chain --------------------------------------------------------------------------


def _rows(state: ControlChain, walked: Walk | None) -> list[ChainRow]:
    if walked is None:
        return []
    read, open_names = volts_read(state), {one.body.link for one in state.still_open}
    return [
        ChainRow(
            link,
            HABITS[link.sort].label,
            "open" if link.name in open_names else walked.shows.get(link.name, "unknown"),
            f"{read[link.name]:g} V" if link.name in read else "",
            walked.belief[link.name],
        )
        for link in walked.chain.links
    ]


def _starts(scene: Scene, past: ControlPast) -> list[Start]:
    found = []
    if past.own_chain:
        found.append(Start("own", "This unit's own, from an earlier visit", len(past.own_chain.links)))
    if past.like_chain:
        found.append(Start("like", f"Of a unit like it: {past.like_unit}", len(past.like_chain.links)))
    fitting = template_for(scene.view.facts.kind)
    names = [fitting, *(name for name in TEMPLATES if name != fitting)]
    return [*found, *(Start(name, name, len(TEMPLATES[name].links)) for name in names)]


def body_of(chain: Chain, taken_from: str) -> ChainBody:
    """A chain as an entry."""
    links = [
        {"name": link.name, "sort": link.sort, "after": link.after, "place": link.place, "owner": link.owner}
        for link in chain.links
    ]
    return ChainBody.model_validate({"nominal_v": chain.nominal_v, "links": links, "taken_from": taken_from})


def _open_links(state: ControlChain) -> list[OpenLink]:
    chain = state.chain
    if chain is None:
        return []
    found = [(chain.by_name.get(one.body.link), one.body.cause) for one in state.still_open]
    return [OpenLink(link, cause, link.causes, link.sort in SAFETIES) for link, cause in found if link]


def _said(state: ControlChain, walked: Walk | None, told: Sequence[str]) -> str:
    if walked is None:
        return "Draw the chain once: its next point to measure is then always known."
    if state.still_open:
        name = state.still_open[-1].body.link
        then = "Find why before it is closed." if state.sort_of(name) in SAFETIES else "Mend it, then say so."
        return f"{name} is open. {then}"
    if walked.named:
        return f"{walked.named.name} is the open one, {in_percent(walked.belief[walked.named.name])} sure."
    still = [] if walked.all_run else [link for link in told if walked.belief[link] > _RULED_OUT]
    return f"The board's code names {' and '.join(still)}. {walked.why}" if still else walked.why


def _never_at_fault(scene: Scene, state: ControlChain) -> str:
    """What may be said of the refrigerant side once the chain was the fault."""
    if not state.closed or state.still_open or not state.runs or not all(state.runs.values()):
        return ""
    names = ", ".join(sorted(state.closed))
    worst = worst_of(scene.view)
    if worst is None or not worst.view.measured:
        return f"It runs again; {names} had stopped it. Nothing was read on the refrigerant side, so nothing is said of it."
    if worst.verdict == "healthy":
        return f"{names} had stopped it. The refrigerant side was never at fault."
    if worst.verdict == "fault" and worst.causes[0].fault is not Fault.NONE:
        return f"{names} had stopped it; the readings name something besides."
    return f"It runs again; {names} had stopped it. The readings have not proven the refrigerant side yet."


# -- fuse ----------------------------------------------------------------------------------


def _hunt(state: FuseHunt) -> HuntView | None:
    stands = state.stands
    if stands is None or state.on is None:
        return None
    body = state.on.body
    loads = []
    for name in body.loads:
        ohms = state.ohms.get(name)
        words = ""
        if ohms:
            bad = shorted(ohms.body.ohms, body.circuit_v, body.fuse_a)
            words = f"{ohms.body.ohms:g} ohm: {'shorted' if bad else 'good ohms, still a suspect until it ran alone'}"
        loads.append((name, stands.belief.get(name, 0.0), words))
    return HuntView(
        stands,
        loads,
        state.running,
        state.openings,
        body.spent,
        f"{body.fuse_a:g} A at {body.circuit_v:g} V",
        bool(state.tries),
        state.ended.body.found if state.ended else "",
    )


# -- waits ---------------------------------------------------------------------------------


def _waits(scene: Scene) -> list[Wait]:
    by_label = {delay.label: delay for delay in DELAYS.values()}
    found = []
    for timer in scene.view.state[Agenda].timers.values():
        delay = by_label.get(timer.body.what)
        if timer.open and delay:
            at = timer.at
            found.append(Wait(delay.label, at + timedelta(minutes=delay.low_min), at + timedelta(minutes=delay.high_min)))
    return found
