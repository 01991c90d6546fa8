"""A control chain: from where the volts come from, through everything that must be closed, to each coil and back (R46).

A link stands behind one other link, so a chain is a tree that begins at its source. Where a link has an owner of its own (a fire
panel, a building computer) it is theirs to close.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property

from dry_gauge.core.errors import Refused
from dry_gauge.core.vocabulary import Kind

CONTROL_LIMIT_V = 40.0
"""Above it a circuit is not a low-voltage control circuit: nothing stands in for its fuse."""
MOST_LINKS = 40


class LinkSort(StrEnum):
    """What a link is."""

    SOURCE = "source"
    FUSE = "fuse"
    THERMOSTAT = "thermostat"
    FLOAT = "float"
    PHASE_MONITOR = "phase_monitor"
    LOW_PRESSURE = "low_pressure"
    HIGH_PRESSURE = "high_pressure"
    LIMIT = "limit"
    OUTSIDE = "outside"
    BOARD = "board"
    DELAY = "delay"
    PLUG = "plug"
    COIL = "coil"
    COMMON = "common"


class Where(StrEnum):
    """Where its terminals are."""

    PANEL = "panel"
    UNIT = "unit"
    INDOORS = "indoors"
    BUILDING = "building"


@dataclass(frozen=True, slots=True)
class LinkHabit:
    """What is known of a sort of link beforehand.

    Parameters
    ----------
    weight : float
        How often such a link is the open one, against the others (habit).
    place : Where
        Where it usually is.
    causes : tuple of str
        Why it opened: asked before it counts as mended. Only links that open by themselves have any.
    """

    label: str
    weight: float
    place: Where
    causes: tuple[str, ...] = ()


# How often each is the open one: a habit of the trade, to be argued with; a unit's own history weighs more.
HABITS: Mapping[LinkSort, LinkHabit] = {
    LinkSort.SOURCE: LinkHabit("Transformer", 3.0, Where.PANEL),
    LinkSort.FUSE: LinkHabit("Control fuse", 5.0, Where.PANEL, ("a short in a load or wire", "a loose or wrong fuse")),
    LinkSort.THERMOSTAT: LinkHabit("Thermostat or controller", 5.0, Where.INDOORS),
    LinkSort.FLOAT: LinkHabit("Float switch", 6.0, Where.INDOORS, (
        "drain blocked", "trap or slope wrong", "pump dead", "ice thawing into the pan", "the switch itself")),
    LinkSort.PHASE_MONITOR: LinkHabit("Phase monitor", 4.0, Where.PANEL, (
        "a leg lost", "legs unequal", "legs in the wrong order", "the monitor itself")),
    LinkSort.LOW_PRESSURE: LinkHabit("Low-pressure switch", 6.0, Where.UNIT, (
        "refrigerant lost", "no air over the evaporator", "cold weather at the start", "restriction", "the switch itself")),
    LinkSort.HIGH_PRESSURE: LinkHabit("High-pressure switch", 5.0, Where.UNIT, (
        "outdoor fan", "coil dirty", "too much refrigerant", "air in the system", "the switch itself")),
    LinkSort.LIMIT: LinkHabit("Temperature limit", 4.0, Where.UNIT, (
        "no air over the heat", "rollout or blocked vent", "the limit itself")),
    LinkSort.OUTSIDE: LinkHabit("Outside interlock", 5.0, Where.BUILDING, (
        "fire or smoke panel", "building computer", "door, pump or process", "nobody knows yet")),
    LinkSort.BOARD: LinkHabit("Board or relay", 4.0, Where.PANEL),
    LinkSort.DELAY: LinkHabit("Delay or lock-out", 2.0, Where.PANEL),
    LinkSort.PLUG: LinkHabit("Plug, splice or wire", 3.0, Where.UNIT),
    LinkSort.COIL: LinkHabit("Coil", 4.0, Where.PANEL),
    LinkSort.COMMON: LinkHabit("Common wire back", 1.5, Where.PANEL),
}  # fmt: skip
SAFETIES = frozenset(
    {LinkSort.FLOAT, LinkSort.PHASE_MONITOR, LinkSort.LOW_PRESSURE, LinkSort.HIGH_PRESSURE, LinkSort.LIMIT, LinkSort.FUSE}
)
"""Links that open to protect something: closing one again is no repair (R47)."""
PLACE_WORDS: Mapping[Where, str] = {
    Where.PANEL: "at the panel",
    Where.UNIT: "on the unit",
    Where.INDOORS: "indoors",
    Where.BUILDING: "elsewhere in the building",
}


@dataclass(frozen=True, slots=True)
class Link:
    """One link. `after` is the name of the link before it; nothing for the source."""

    name: str
    sort: LinkSort
    after: str = ""
    place: Where = Where.PANEL
    owner: str = ""

    @property
    def causes(self) -> tuple[str, ...]:
        """Why it may have opened by itself; none for what only breaks."""
        return HABITS[self.sort].causes


@dataclass(frozen=True)
class Chain:
    """A whole control chain. Links in order, each behind one that stands before it; names differ.

    Parameters
    ----------
    nominal_v : float
        What its source gives. [V]

    Raises
    ------
    Refused
        Without a source, with a loop, with a link behind none, or with two of one name.
    """

    links: tuple[Link, ...]
    nominal_v: float = 24.0
    by_name: Mapping[str, Link] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "by_name", {link.name: link for link in self.links})
        if len(self.links) < 2:
            raise Refused("A chain has a source and at least one link behind it.", "links")
        if len(self.links) > MOST_LINKS:
            raise Refused(f"At most {MOST_LINKS} links: leave out what cannot open.", "links")
        if len(self.by_name) < len(self.links):
            twice = next(one.name for i, one in enumerate(self.links) if one.name in {other.name for other in self.links[:i]})
            raise Refused(f"Two links are called {twice!r}. Give one of them another name.", "links")
        source = self.links[0]
        if source.sort is not LinkSort.SOURCE or source.after:
            raise Refused("The first link is where the volts come from: the transformer or another source.", "links")
        known = {source.name}
        for link in self.links[1:]:
            if link.sort is LinkSort.SOURCE:
                raise Refused(f"{link.name}: a chain has one source. Draw another chain for another transformer.", "links")
            if link.after not in self.by_name:
                raise Refused(f"{link.name} stands behind {link.after!r}, which is not in the chain.", "links")
            if link.after not in known:
                raise Refused(
                    f"{link.name} stands behind {link.after}, and that behind it: a loop. A link stands behind one "
                    "that is nearer to the source.",
                    "links",
                )
            if self.by_name[link.after].sort in (LinkSort.COIL, LinkSort.COMMON) and link.sort is not LinkSort.COMMON:
                raise Refused(f"{link.name} stands behind {link.after}: only its common wire does.", "links")
            if link.sort is LinkSort.COMMON and self.by_name[link.after].sort is not LinkSort.COIL:
                raise Refused(f"{link.name} stands behind {link.after}: a common wire leads back from a coil.", "links")
            known.add(link.name)

    @property
    def source(self) -> Link:
        """Where the volts come from."""
        return self.links[0]

    @cached_property
    def coils(self) -> tuple[Link, ...]:
        """What the chain is there for."""
        return tuple(link for link in self.links if link.sort is LinkSort.COIL)

    @cached_property
    def _ways(self) -> Mapping[str, tuple[str, ...]]:
        ways: dict[str, tuple[str, ...]] = {}
        for link in self.links:
            ways[link.name] = (*ways.get(link.after, ()), link.name)
        return ways

    def way_to(self, name: str) -> tuple[str, ...]:
        """Names from the source up to and with a link."""
        return self._ways[name]

    def behind(self, name: str) -> frozenset[str]:
        """The link and all that it feeds."""
        return frozenset(one for one, way in self._ways.items() if name in way)

    def branch_of(self, name: str) -> int:
        """How many branches lie between the source's own line and a link, for drawing: 0 on the first line."""
        return self._branches[name]

    @cached_property
    def _branches(self) -> Mapping[str, int]:
        first: dict[str, str] = {}
        found: dict[str, int] = {}
        for link in self.links:
            if not link.after:
                found[link.name] = 0
                continue
            straight = first.setdefault(link.after, link.name) == link.name
            found[link.name] = found[link.after] if straight else max(found[link.after], *found.values()) + 1
        return found


def _chain(*rows: tuple[str, LinkSort] | tuple[str, LinkSort, str], nominal_v: float = 24.0) -> Chain:
    """Links one behind the other, unless a third part names what a link stands behind."""
    links: list[Link] = []
    for row in rows:
        name, sort = row[0], row[1]
        after = row[2] if len(row) > 2 else links[-1].name if links else ""
        links.append(Link(name, sort, after, HABITS[sort].place))
    return Chain(tuple(links), nominal_v)


_S = LinkSort
_SOURCE = (("Transformer", _S.SOURCE), ("Control fuse", _S.FUSE))
TEMPLATES: Mapping[str, Chain] = {
    "Split system": _chain(
        *_SOURCE, ("Thermostat Y", _S.THERMOSTAT), ("Float switch", _S.FLOAT), ("Wire to the outdoor unit", _S.PLUG),
        ("High-pressure switch", _S.HIGH_PRESSURE), ("Low-pressure switch", _S.LOW_PRESSURE), ("Delay", _S.DELAY),
        ("Contactor coil", _S.COIL), ("Common back", _S.COMMON),
    ),
    "Rooftop with gas heat": _chain(
        *_SOURCE, ("Building interlock", _S.OUTSIDE), ("Thermostat Y1", _S.THERMOSTAT), ("Board", _S.BOARD),
        ("Float switch", _S.FLOAT), ("High-pressure switch", _S.HIGH_PRESSURE), ("Low-pressure switch", _S.LOW_PRESSURE),
        ("Compressor contactor", _S.COIL), ("Common back", _S.COMMON),
        ("Thermostat W1", _S.THERMOSTAT, "Building interlock"), ("High limit", _S.LIMIT), ("Rollout switch", _S.LIMIT),
        ("Ignition board", _S.BOARD), ("Gas valve", _S.COIL),
        ("Thermostat G", _S.THERMOSTAT, "Building interlock"), ("Blower contactor", _S.COIL),
    ),
    "Heat pump": _chain(
        *_SOURCE, ("Thermostat Y", _S.THERMOSTAT), ("Float switch", _S.FLOAT), ("Wire to the outdoor unit", _S.PLUG),
        ("Defrost board", _S.BOARD), ("High-pressure switch", _S.HIGH_PRESSURE), ("Low-pressure switch", _S.LOW_PRESSURE),
        ("Delay", _S.DELAY), ("Contactor coil", _S.COIL), ("Common back", _S.COMMON),
        ("Thermostat O", _S.THERMOSTAT, "Control fuse"), ("Reversing valve coil", _S.COIL),
    ),
    "Walk-in with pump-down": _chain(
        ("Control supply", _S.SOURCE), ("Control fuse", _S.FUSE), ("Defrost clock", _S.DELAY), ("Box thermostat", _S.THERMOSTAT),
        ("Liquid solenoid", _S.COIL),
        ("High-pressure switch", _S.HIGH_PRESSURE, "Control fuse"), ("Low-pressure control", _S.LOW_PRESSURE),
        ("Oil safety", _S.LIMIT), ("Contactor coil", _S.COIL), ("Common back", _S.COMMON), nominal_v=230.0,
    ),
    "Three phases with monitor": _chain(
        *_SOURCE, ("Phase monitor", _S.PHASE_MONITOR), ("Thermostat Y1", _S.THERMOSTAT), ("Float switch", _S.FLOAT),
        ("High-pressure switch", _S.HIGH_PRESSURE), ("Low-pressure switch", _S.LOW_PRESSURE), ("Winding limit", _S.LIMIT),
        ("Contactor coil", _S.COIL), ("Common back", _S.COMMON),
    ),
}  # fmt: skip
"""Where a chain begins before it is this unit's own (habit)."""


def template_for(kind: Kind) -> str:
    """The template that comes nearest to a kind of unit."""
    if kind.is_walk_in:
        return "Walk-in with pump-down"
    if kind.is_heat_pump:
        return "Heat pump"
    return "Rooftop with gas heat" if kind is Kind.PACKAGE_AC else "Split system"
