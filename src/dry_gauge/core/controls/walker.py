"""Which link is open: belief from habits, history and what was measured, and the cheapest next point (R46).

One probe stands on the source's common, the other goes along the chain. A hypothesis is the first link on the way that does not
carry; what stands behind it is dead whatever its own state. Readings may be wrong: a dead wire shows ghost volts, a number is
mistyped, so belief shrinks with each and never jumps. Volts across a link speak for it alone.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from math import log2

from dry_gauge.core.controls.chain import HABITS, PLACE_WORDS, Chain, Link, LinkSort, Where
from dry_gauge.core.words import in_percent

# Read as live from this share of the source's volts on, as dead up to so many volts; between them nobody knows.
_LIVE_SHARE, _DEAD_V = 0.70, 1.5
_LOW_UNDER_LOAD_V = 20.0  # of a 24 V source with its coil pulled in (domain: a finding)
# What a reading says where the point is live, and where it is dead: ghosts and slips of the pen (habit:
# one in twenty, one in fifty).
_SAYS_LIVE = {"live": 0.965, "dead": 0.02, "unclear": 0.015}
_SAYS_DEAD = {"live": 0.02, "dead": 0.92, "unclear": 0.06}
# Across the open link stand the source's volts, unless a second open link further on hides them: so often (habit).
_SECOND_OPEN = 0.15
_MENDED_AGAIN = 0.05  # how likely, against before, that a link just mended is the next open one
_BY_CHANCE = 0.15  # that another coil stands still for a reason of its own: open too, or not called
_NOT_ON_THE_WAY = 0.01  # a link on no way to a coil that stands still explains nothing
SURE = 0.985
"""From this belief on a link is named."""
_AGAIN_AND_UNIT, _AGAIN_ON_LIKE = 2.0, 0.4
_TOLD = 12.0  # how much likelier a link is that the board's code names (habit)
_POINT_MINUTES = 0.5
WAY_MINUTES = {Where.PANEL: 0.0, Where.UNIT: 1.0, Where.INDOORS: 4.0, Where.BUILDING: 8.0}
"""How far each place is from the panel. [min] Chosen."""


class How(StrEnum):
    """How a point is measured."""

    COMMON = "common"
    ACROSS = "across"


@dataclass(frozen=True, slots=True)
class Volts:
    """One measurement: at the far side of a link against common, or across it; `volts` [V]."""

    link: str
    volts: float
    how: How = How.COMMON


@dataclass(frozen=True, slots=True)
class Point:
    """One thing to measure next, what it costs, and what it would tell. [min, bit]"""

    link: Link
    how: How
    minutes: float
    bits: float


@dataclass(frozen=True, slots=True)
class Walk:
    """Where the walk stands.

    Parameters
    ----------
    belief : mapping of str to float
        By link, how likely it is the first that does not carry; adds up to one.
    shows : mapping of str to str
        By link what its far side showed last: ``live``, ``dead`` or ``unclear``.
    named : Link or None
        The open link, once it is sure.
    next : Point or None
        What to measure next; None where everything runs or nothing would tell more.
    notes : tuple of str
        What was odd: volts behind a dead link, ghost volts, another circuit's volts, a source that is pulled down.
    all_run : bool
        Whether every coil pulls in.
    """

    chain: Chain
    belief: Mapping[str, float]
    shows: Mapping[str, str]
    named: Link | None
    next: Point | None
    notes: tuple[str, ...]
    all_run: bool = False

    @property
    def lead(self) -> Link:
        """The likeliest open link so far."""
        return max(self.chain.links, key=lambda link: self.belief[link.name])

    @property
    def why(self) -> str:
        """The next point in a line."""
        if self.next is None:
            return "Everything it is there for runs." if self.all_run else "Nothing more to measure along this chain."
        if self.next.how is How.ACROSS:
            return f"Across {self.next.link.name}: its volts there prove that it is this one."
        if self.next.link.name in self.shows:
            return f"{self.next.link.name} once more: one slip of the pen would decide here."
        where = PLACE_WORDS[self.next.link.place]
        before = sum(self.belief[name] for name in self.chain.way_to(self.next.link.name))
        return f"{in_percent(before)} of the odds lie up to here, {where}; likeliest so far: {self.lead.name}."


def classed(volts: float, nominal_v: float) -> str:
    """What a reading says: ``live``, ``dead``, or ``unclear`` between them and far above."""
    if volts <= _DEAD_V:
        return "dead"
    return "live" if _LIVE_SHARE * nominal_v <= volts <= 1.35 * nominal_v else "unclear"


def slip_of(volts: float, nominal_v: float) -> float | None:
    """The number that was meant where a decimal point slipped: 26 for 2.6 or 260; None where none did. [V]"""
    for meant in (volts * 10, volts / 10):
        if 0.85 * nominal_v <= meant <= 1.2 * nominal_v:
            return meant
    return None


def walk(
    chain: Chain,
    measured: Sequence[Volts],
    runs: Mapping[str, bool] | None = None,
    mended: Iterable[str] = (),
    here: Where | None = None,
    opened_here: Mapping[str, int] | None = None,
    opened_on_like: Mapping[str, int] | None = None,
    told: Collection[str] = (),
) -> Walk:
    """Where the open link is, by all that is known.

    Parameters
    ----------
    measured : sequence of Volts
        In the order in which they were taken, since the last mending; an unknown link is left out.
    runs : mapping of str to bool
        By coil whether it pulls in.
    mended : iterable of str
        Links that were just put right.
    here : Where or None
        Where the technician stands; by default where the last point was.
    opened_here, opened_on_like : mapping of str to int
        How often each link was the open one before, on this unit and on others of its model.
    told : collection of str
        Links that a code of the board names. Codes can be old: measured volts still decide.
    """
    known = [one for one in measured if one.link in chain.by_name]
    runs = {name: does for name, does in (runs or {}).items() if name in chain.by_name}
    all_run = bool(runs) and all(runs.get(coil.name) for coil in chain.coils)
    weights = _prior(chain, runs, frozenset(mended), opened_here or {}, opened_on_like or {})
    weights = {name: weight * (_TOLD if name in told else 1.0) for name, weight in weights.items()}
    odds: dict[_Case, float] = {}
    for name, weight in weights.items():
        odds[name, False], odds[name, True] = weight * (1 - _SECOND_OPEN), weight * _SECOND_OPEN
    for one in known:
        odds = _after(chain, odds, one.link, one.how, classed(one.volts, chain.nominal_v))
    odds = _normal(odds)
    belief = _by_link(odds)
    shows = {one.link: classed(one.volts, chain.nominal_v) for one in known if one.how is How.COMMON}
    shows |= {name: "live" for coil, does in runs.items() if does for name in chain.way_to(coil)}
    lead = max(chain.links, key=lambda link: belief[link.name])
    named = lead if belief[lead.name] >= SURE and known and not all_run else None
    stands = here or (chain.by_name[known[-1].link].place if known else Where.PANEL)
    following = None if named or all_run else _next(chain, odds, stands)
    return Walk(chain, belief, shows, named, following, _notes(chain, known, shows), all_run)


def _prior(
    chain: Chain,
    runs: Mapping[str, bool],
    mended: frozenset[str],
    opened_here: Mapping[str, int],
    opened_on_like: Mapping[str, int],
) -> dict[str, float]:
    still = [coil for coil, does in runs.items() if not does]
    may_stand = still or [coil.name for coil in chain.coils if coil.name not in runs]
    carries = {name for coil, does in runs.items() if does for name in chain.way_to(coil)}
    carries |= {link.name for link in chain.links if link.sort is LinkSort.COMMON and link.after in carries}
    weights = {}
    for link in chain.links:
        weight = HABITS[link.sort].weight
        weight *= 1 + _AGAIN_AND_UNIT * opened_here.get(link.name, 0) + _AGAIN_ON_LIKE * opened_on_like.get(link.name, 0)
        explains = sum(_on_the_way(chain, link, coil) for coil in may_stand)
        if not explains:
            weight *= _NOT_ON_THE_WAY
        elif still:  # what several have in common explains them all; one coil's own link leaves the others to chance
            weight *= _BY_CHANCE ** (len(still) - explains)
        if link.name in carries:
            weight *= _NOT_ON_THE_WAY
        if link.name in mended:
            weight *= _MENDED_AGAIN
        weights[link.name] = weight
    return weights


def _on_the_way(chain: Chain, link: Link, coil: str) -> bool:
    return link.name in chain.way_to(coil) or (link.sort is LinkSort.COMMON and link.after == coil)


def _carries(chain: Chain, open_link: str, at: str) -> bool:
    """Whether the far side of a link shows volts against common while `open_link` is the open one."""
    link = chain.by_name[at]
    if link.sort is LinkSort.COMMON:  # the coil's other side: live only where the way back is open
        return open_link == at
    # A coil's point is the terminal that feeds it: it is live although the coil itself is dead.
    way = chain.way_to(at)[:-1] if link.sort is LinkSort.COIL else chain.way_to(at)
    return open_link not in way


_Case = tuple[str, bool]
"""The first open link, and whether another is open behind it."""


def _likelihood(chain: Chain, case: _Case, at: str, how: How) -> Mapping[str, float]:
    open_link, another = case
    if how is How.ACROSS:
        return _SAYS_LIVE if open_link == at and not another else _SAYS_DEAD
    return _SAYS_LIVE if _carries(chain, open_link, at) else _SAYS_DEAD


def _after(chain: Chain, odds: Mapping[_Case, float], at: str, how: How, said: str) -> dict[_Case, float]:
    return {case: weight * _likelihood(chain, case, at, how)[said] for case, weight in odds.items()}


def _normal(odds: Mapping[_Case, float]) -> dict[_Case, float]:
    whole = sum(odds.values()) or 1.0
    return {case: weight / whole for case, weight in odds.items()}


def _by_link(odds: Mapping[_Case, float]) -> dict[str, float]:
    found: dict[str, float] = {}
    for (name, _), weight in odds.items():
        found[name] = found.get(name, 0.0) + weight
    return found


def _bits(odds: Mapping[_Case, float]) -> float:
    """Doubt about which link it is; whether another is open does not matter yet. [bit]"""
    return -sum(share * log2(share) for share in _by_link(odds).values() if share > 0)


def _next(chain: Chain, odds: Mapping[_Case, float], here: Where) -> Point | None:
    """The point that tells most for its minutes."""
    now = _bits(odds)
    points = []
    for link in chain.links:
        for how in How:
            if how is How.ACROSS and link.sort in (LinkSort.SOURCE, LinkSort.COMMON):
                continue  # neither has a side of its own to the circuit
            left = 0.0
            for said in _SAYS_LIVE:
                joint = _after(chain, odds, link.name, how, said)
                left += sum(joint.values()) * _bits(_normal(joint))
            minutes = _POINT_MINUTES + abs(WAY_MINUTES[link.place] - WAY_MINUTES[here])
            points.append(Point(link, how, minutes, now - left))
    best = max(points, key=lambda point: point.bits / _cost(point.minutes))
    return best if best.bits > 1e-3 else None


def _cost(minutes: float) -> float:
    # A measurement is never worth much less for a walk: halving well beats staying near (docs/accuracy.md, the walker).
    return float((2.0 + minutes) ** 0.5)


def _notes(chain: Chain, known: Sequence[Volts], shows: Mapping[str, str]) -> tuple[str, ...]:
    found = []
    for link in chain.links:
        dead = [name for name in chain.way_to(link.name)[:-1] if shows.get(name) == "dead"]
        if shows.get(link.name) == "live" and dead and link.sort is not LinkSort.COMMON:
            found.append(
                f"{link.name} is live behind {dead[-1]}, which is dead: read both again on the source's own "
                "common. If both stay, it is fed from elsewhere."
            )
            break
    last = known[-1] if known else None
    if last is not None and classed(last.volts, chain.nominal_v) == "unclear":
        meant = slip_of(last.volts, chain.nominal_v)
        if meant is not None:
            found.append(f"{last.volts:g} V at {last.link}: is it {meant:g}? Read it again.")
        elif last.volts > chain.nominal_v:
            found.append(f"{last.volts:g} V at {last.link} is not this circuit's {chain.nominal_v:g} V: which two points?")
        else:
            found.append(
                f"{last.volts:g} V at {last.link} may be ghost volts of an open wire: put a load across the probes "
                "and read again."
            )
    if chain.nominal_v <= 30:
        low = next(
            (
                one
                for one in known
                if one.how is How.COMMON
                and _DEAD_V < one.volts < _LOW_UNDER_LOAD_V
                and classed(one.volts, chain.nominal_v) == "live"
            ),
            None,
        )
        if low is not None:
            found.append(f"{low.volts:g} V at {low.link}: a coil or a short pulls the transformer below 20 V.")
    return tuple(found)
