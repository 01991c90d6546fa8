"""A unit's life along one line: visits and how they ended, parts, refrigerant in and out, and how far it was from its sort.

Four lanes over one time line. Each visit is a link to it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from itertools import product

from dry_gauge.core.charge.mass import GRAM_KG
from dry_gauge.core.words import Reader, in_percent
from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import Element, add

WIDTH, HEIGHT = 840.0, 264.0
_LEFT, _RIGHT = 132.0, 824.0
_VISITS, _PARTS, _CHARGE, _OWN, _BOTTOM = 30.0, 82.0, 142.0, 206.0, 244.0
_LANE = 24.0
_LEAST_K = 6.0
_NEAR = 170.0
_SHORT = 24
GAPS: Mapping[str, str] = {"superheat": "life-full", "subcooling": "life-hollow"}


@dataclass(frozen=True, slots=True)
class Call:
    """A visit: `ended` is an outcome or a status, `words` what a screen reader says."""

    at: datetime
    ended: str
    words: str
    href: str


@dataclass(frozen=True, slots=True)
class PartMoved:
    """A part that came in or went out."""

    at: datetime
    what: str
    out: bool


@dataclass(frozen=True, slots=True)
class Charged:
    """Refrigerant into the unit, or out of it (below zero). [g]"""

    at: datetime
    grams: int


@dataclass(frozen=True, slots=True)
class Own:
    """How far a circuit's gaps were from what its sort shows that day. [K]"""

    at: datetime
    own_k: Mapping[str, float]
    circuit: int = 1


@dataclass(frozen=True, slots=True)
class Life:
    """What is drawn, each in order of time; `full_g` is the label's charge."""

    calls: Sequence[Call]
    parts: Sequence[PartMoved]
    charged: Sequence[Charged]
    own: Sequence[Own]
    full_g: float | None = None

    @property
    def ends(self) -> tuple[datetime, datetime]:
        """From the first to the last that is known."""
        moments = [one.at for lane in (self.calls, self.parts, self.charged, self.own) for one in lane]
        return min(moments), max(moments)


def life_svg(life: Life, reader: Reader, ident: str) -> str:
    """The drawing, in the reader's units. `life` holds one thing at least."""
    root = svg.picture(WIDTH, HEIGHT, "life", "Its life", _told(life, reader), ident, "group")
    first, last = life.ends
    span = max((last - first).total_seconds(), 86400.0)

    def x(at: datetime) -> float:
        return _LEFT + 14 + (at - first).total_seconds() / span * (_RIGHT - _LEFT - 28)

    for moment, words in _ticks(first, last):
        add(root, "line", "grid", x1=x(moment), x2=x(moment), y1=8, y2=_BOTTOM)
        add(root, "text", "life-tick", words, x=x(moment) + 3, y=_BOTTOM + 15)
    for at, words in ((_VISITS, "Visits"), (_PARTS, "Parts"), (_CHARGE, "Refrigerant"), (_OWN, "Against like units")):
        add(root, "text", "life-lane", words, x=0, y=at + 4)
        add(root, "line", "life-rule", x1=_LEFT, x2=_RIGHT, y1=at, y2=at)
    for one in life.calls:
        link = add(root, "a", f"life-call life-{one.ended}", href=one.href, aria_label=one.words)
        add(link, "rect", "life-touch", x=x(one.at) - 12, y=_VISITS - 20, width=24, height=40)
        _mark(link, one.ended, x(one.at))
    _parts(root, life.parts, x)
    most = max((abs(one.grams) for one in life.charged), default=1)
    for one_charged in life.charged:
        tall = one_charged.grams / most * _LANE
        css = "life-in" if tall > 0 else "life-out"
        add(root, "rect", css, x=x(one_charged.at) - 4, y=_CHARGE - max(tall, 0), width=8, height=max(abs(tall), 2))
    if life.charged:
        add(root, "text", "life-unit", reader.say("weight", most * GRAM_KG), x=0, y=_CHARGE + 19)
    _own(root, life.own, x, reader)
    return svg.written(root)


def _mark(link: Element, ended: str, at: float) -> None:
    """A shape for each ending, so that colour is not needed."""
    if ended in ("fixed", "nothing_wrong"):
        add(link, "circle", "life-mark", cx=at, cy=_VISITS, r=8)
    elif ended in ("waiting", "not_fixed"):
        add(link, "rect", "life-mark", x=at - 8, y=_VISITS - 8, width=16, height=16)
    else:
        add(link, "path", "life-mark", d=f"M{svg.number(at - 9)} {_VISITS:g}l9 -9l9 9l-9 9Z")


def _parts(root: Element, parts: Sequence[PartMoved], x: Callable[[datetime], float]) -> None:
    last = [-_NEAR, -_NEAR]
    for one in parts:
        at = x(one.at)
        point, base = (_PARTS + 8, _PARTS - 6) if one.out else (_PARTS - 8, _PARTS + 6)
        corners = f"M{svg.number(at - 8)} {base:g}H{svg.number(at + 8)}L{svg.number(at)} {point:g}Z"
        add(root, "path", "life-part-out" if one.out else "life-part", d=corners)
        row = min((0, 1), key=lambda i: last[i])
        if at - last[row] < _NEAR:
            continue  # its words would lie on another's; they stand in the list of parts
        last[row] = at
        near_end = at > _RIGHT - _NEAR
        add(
            root,
            "text",
            "life-word",
            one.what[:_SHORT],
            x=at + (-11 if near_end else 11),
            y=_PARTS + (-8 if row else 18),
            text_anchor="end" if near_end else "start",
        )


def _own(root: Element, own: Sequence[Own], x: Callable[[datetime], float], reader: Reader) -> None:
    far = max([_LEAST_K, *(abs(day.own_k[gap]) for day in own for gap in GAPS if gap in day.own_k)])
    add(root, "text", "life-unit", f"± {reader.difference(far):.0f} °{reader.temperature_unit}", x=0, y=_OWN + 19)
    circuits = sorted({day.circuit for day in own})
    for circuit, (gap, css) in product(circuits, GAPS.items()):
        days = [day for day in own if day.circuit == circuit and gap in day.own_k]
        points = [(x(day.at), _OWN - day.own_k[gap] / far * _LANE) for day in days]
        if len(points) > 1:
            add(root, "path", f"life-line {css}", d="M" + "L".join(f"{at:.5g} {y:.5g}" for at, y in points))
        for at, y in points:
            add(root, "circle", css, cx=at, cy=y, r=4)
        if points and len(circuits) > 1:
            add(root, "text", "life-unit", str(circuit), x=points[-1][0] + 7, y=points[-1][1] + 4)


def _ticks(first: datetime, last: datetime) -> Iterator[tuple[datetime, str]]:
    """Years; quarters where the whole is shorter than two."""
    months = 3 if (last - first).days < 730 else 12
    for year in range(first.year, last.year + 1):
        for month in range(1, 13, months):
            moment = first.replace(year=year, month=month, day=1, hour=0, minute=0, second=0, microsecond=0)
            if first <= moment <= last:
                yield moment, str(year) if month == 1 else f"{moment:%b}"


def _told(life: Life, reader: Reader) -> str:
    parts = ", ".join(f"{one.what} {'out' if one.out else 'in'} {one.at:%b %Y}" for one in life.parts) or "none on record"
    taken = sum(one.grams for one in life.charged if one.grams > 0)
    share = f", {in_percent(taken / life.full_g)} of the label's" if life.full_g and taken else ""
    return f"{len(life.calls)} visits; parts: {parts}; refrigerant put in: {reader.say('weight', taken * GRAM_KG)}{share}."
