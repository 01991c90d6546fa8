"""A control chain as links that hang in each other: whole ones carry, a parted one does not, and where to measure next."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from dry_gauge.core.controls.chain import PLACE_WORDS, Link, LinkSort, Where
from dry_gauge.core.controls.walker import How, Walk
from dry_gauge.core.words import in_percent
from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import Element, add

SAID = {"live": "live", "dead": "dead", "unclear": "unclear"}


@dataclass(frozen=True, slots=True)
class Size:
    """How wide the page is, how far rows and branches stand apart."""

    width: float
    step: float
    branch: float
    letters: int
    place_letters: int
    bar: float
    """Length of the bar that shows odds; none where there is no room."""


DESK = Size(560, 46, 34, 30, 44, 64)
PHONE = Size(370, 46, 20, 22, 30, 0)
_TOP, _LEFT, _HALF = 30.0, 34.0, 15.0
_MOST_BRANCHES = 3  # further ones lie on the last


def chain_svg(walk: Walk, volts: Mapping[str, float], opened: Sequence[str], size: Size, ident: str) -> str:
    """The whole chain.

    Parameters
    ----------
    volts : mapping of str to float
        What the far side of each link read last. [V]
    opened : sequence of str
        Links that were found open and do not carry yet.
    """
    chain = walk.chain
    height = _TOP + size.step * len(chain.links) + 6
    told = "; ".join(f"{link.name} {_told(walk, link, opened)}" for link in chain.links)
    root = svg.picture(size.width, height, "chain", "Control chain", f"{told}.", ident)
    rows = {link.name: _TOP + size.step * i for i, link in enumerate(chain.links)}
    for link in chain.links:
        if link.after:
            _joint(root, walk, chain.by_name[link.after], link, rows, size)
    for link in chain.links:
        _link(root, walk, link, rows[link.name], volts.get(link.name), opened, size)
    return svg.written(root)


def _x(walk: Walk, link: Link, size: Size) -> float:
    return _LEFT + size.branch * min(walk.chain.branch_of(link.name), _MOST_BRANCHES)


def _told(walk: Walk, link: Link, opened: Sequence[str]) -> str:
    if link.name in opened:
        return "open"
    known = walk.shows.get(link.name)
    return SAID[known] if known else f"unknown, {_share(walk.belief[link.name])} of the odds"


def _joint(root: Element, walk: Walk, before: Link, link: Link, rows: Mapping[str, float], size: Size) -> None:
    """What joins a link to the one it stands behind."""
    x_before, x = _x(walk, before, size), _x(walk, link, size)
    y_before, y = rows[before.name] + _HALF, rows[link.name] - _HALF
    css = f"chain-joint {_flow(walk, before)}"
    if x_before == x:
        add(root, "line", css, x1=x, x2=x, y1=y_before, y2=y)
    else:
        add(root, "path", css, d=f"M{x_before + _HALF - 4:g} {rows[before.name] + 6:g}H{x:g}V{y:g}")


def _flow(walk: Walk, link: Link) -> str:
    return {"live": "carries", "dead": "still"}.get(walk.shows.get(link.name, ""), "unknown")


def _link(root: Element, walk: Walk, link: Link, y: float, volts: float | None, opened: Sequence[str], size: Size) -> None:
    x = _x(walk, link, size)
    parted = link.name in opened or (walk.named is not None and walk.named.name == link.name)
    css = "parted" if parted else _flow(walk, link)
    if link.place is Where.BUILDING or link.owner:
        add(root, "rect", "chain-theirs", x=x - _HALF - 6, y=y - _HALF - 4, width=2 * _HALF + 12, height=2 * _HALF + 8, rx=4)
    if link.sort is LinkSort.COIL:
        add(root, "circle", f"chain-link coil {css}", cx=x, cy=y, r=_HALF - 2)
    elif link.sort is LinkSort.SOURCE:
        add(root, "rect", f"chain-link source {css}", x=x - _HALF, y=y - _HALF + 3, width=2 * _HALF, height=2 * _HALF - 6)
    elif parted:
        add(
            root,
            "path",
            "chain-link parted",
            d=f"M{x - 9:g} {y - 4:g}v-5a9 9 0 0 1 18 0v5M{x - 9:g} {y + 4:g}v5a9 9 0 0 0 18 0v-5",
        )
    else:
        add(root, "rect", f"chain-link {css}", x=x - 9, y=y - _HALF, width=18, height=2 * _HALF, rx=9)
    if parted:
        add(root, "path", "chain-cross", d=f"M{x + 14:g} {y - 6:g}l12 12m0-12l-12 12")
    next_here = walk.next is not None and walk.next.link.name == link.name
    text_x = _LEFT + size.branch * _branches(walk) + 40
    add(root, "text", "chain-name next" if next_here else "chain-name", svg.shortened(link.name, size.letters), x=text_x, y=y - 2)
    where = link.owner or PLACE_WORDS[link.place]
    add(root, "text", "chain-place", svg.shortened(where, size.place_letters), x=text_x, y=y + 15)
    _state(root, walk, link, y, volts, parted=parted, size=size)
    if next_here and walk.next is not None:
        _probe(root, x, y, across=walk.next.how is How.ACROSS)


def _branches(walk: Walk) -> int:
    """How many branches the names stand off for."""
    return min(max(walk.chain.branch_of(link.name) for link in walk.chain.links), _MOST_BRANCHES)


def _state(root: Element, walk: Walk, link: Link, y: float, volts: float | None, *, parted: bool, size: Size) -> None:
    """At the right: volts where they were read, else how likely it is the open one."""
    right = size.width - 10
    if parted:
        add(root, "text", "chain-volts parted", "open", x=right, y=y + 6, text_anchor="end")
        return
    known = walk.shows.get(link.name)
    if known is not None:
        words = f"{volts:.0f} V" if volts is not None else SAID[known]
        add(
            root,
            "text",
            f"chain-volts {_flow(walk, link)}",
            f"{words}{'' if known != 'unclear' else ' ?'}",
            x=right,
            y=y + 6,
            text_anchor="end",
        )
        return
    share = walk.belief[link.name]
    if size.bar:
        add(root, "rect", "chain-odds-ground", x=right - size.bar, y=y - 3, width=size.bar, height=6)
        add(root, "rect", "chain-odds", x=right - size.bar, y=y - 3, width=max(1.0, size.bar * share), height=6)
        right -= size.bar + 8
    add(root, "text", "chain-share", _share(share), x=right, y=y + 5, text_anchor="end")


def _share(share: float) -> str:
    return "<1 %" if share < 0.01 else in_percent(share)


def _probe(root: Element, x: float, y: float, *, across: bool) -> None:
    """Where the probe goes next: at the far side, or at both."""
    for at in (y - _HALF, y + _HALF) if across else (y + _HALF,):
        add(root, "path", "chain-probe", d=f"M{x - 30:g} {at - 8:g}l18 8l-18 8z")
