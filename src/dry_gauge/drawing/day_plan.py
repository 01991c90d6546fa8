"""Days as they are planned: a lane for each person, calls along the hours of a day or the days of a week.

Each call is a link to its form and carries what a script needs to move it: where it stands and how far a step is.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dry_gauge.core.local_time import axis_hour
from dry_gauge.core.office.hours import FIRST_HOUR, FULL_MINUTES, LAST_HOUR, STEP_MINUTES
from dry_gauge.core.words import counted
from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import Element, add


@dataclass(frozen=True, slots=True)
class Block:
    """One call as it is drawn.

    Parameters
    ----------
    at : int
        Minutes from midnight; in a week from the first midnight, as clocks count.
    clock, title, words : str
        Its time, its unit and place, its complaint.
    along : bool
        Whether the lane is that of somebody who goes along.
    """

    ident: str
    href: str
    lane: int
    at: int
    minutes: int
    clock: str
    title: str
    place: str
    words: str
    status: str
    movable: bool
    chosen: bool = False
    along: bool = False


@dataclass(frozen=True, slots=True)
class LaneHead:
    """Whose lane it is, and how full."""

    ident: str
    name: str
    load: str
    over: bool


@dataclass(frozen=True, slots=True)
class Sheet:
    """A size of page: how long an hour or a day is, how wide a lane, and whether time runs down."""

    step: float
    lane: float
    gutter: float
    head: float
    down: bool


DAY_DESK = Sheet(78.0, 74.0, 132.0, 26.0, False)
DAY_PHONE = Sheet(46.0, 0.0, 48.0, 40.0, True)
PHONE_WIDTH = 366.0
WEEK_DESK = Sheet(152.0, 0.0, 132.0, 26.0, False)
_WEEK_ROW, _WEEK_GAP = 40.0, 6.0
_NARROW = 90.0
_INDENT = 10.0
# How wide letters are on average, by what they say: seen on the page, in its pixels.
_LETTER = {"plan-clock": 7.2, "plan-place": 6.6, "plan-words": 6.6}


def load_words(minutes: int, days: int = 1) -> tuple[str, bool]:
    """How full a lane is, and whether that is more work than so many days hold, of a week five."""
    hours, rest = divmod(minutes, 60)
    return (f"{hours} h" + (f" {rest}" if rest else "")) if minutes else "free", minutes > FULL_MINUTES * min(days, 5)


def _described(heads: Sequence[LaneHead], blocks: Sequence[Block]) -> str:
    return f"{counted(len(blocks), 'call')}, {len(heads)} {'person' if len(heads) == 1 else 'people'}"


def day_svg(title: str, heads: Sequence[LaneHead], blocks: Sequence[Block], sheet: Sheet, now: int | None, ident: str) -> str:
    """One day.

    Parameters
    ----------
    now : int or None
        Minutes from midnight, where it is that day.
    """
    lane = sheet.lane or (PHONE_WIDTH - sheet.gutter) / max(1, len(heads))
    long, across = sheet.gutter if not sheet.down else sheet.head, sheet.head if not sheet.down else sheet.gutter
    ends = long + sheet.step * (LAST_HOUR - FIRST_HOUR), across + lane * len(heads)
    width, height = (ends[1], ends[0] + 8) if sheet.down else (ends[0] + 8, ends[1])
    root = svg.picture(width, height, "plan-picture", title, _described(heads, blocks), ident, role="group")
    root.set("data-step", svg.number(sheet.step / 60))
    root.set("data-lane", svg.number(lane))
    root.set("data-down", "yes" if sheet.down else "no")
    root.set("data-by", str(STEP_MINUTES))

    def along(minute: float) -> float:
        return long + min(max(minute - FIRST_HOUR * 60, 0), (LAST_HOUR - FIRST_HOUR) * 60) * sheet.step / 60

    def line(css: str, first: tuple[float, float], last: tuple[float, float]) -> None:
        (x1, y1), (x2, y2) = ((a[::-1] if sheet.down else a) for a in (first, last))
        add(root, "line", css, x1=x1, y1=y1, x2=x2, y2=y2)

    for hour in range(FIRST_HOUR, LAST_HOUR + 1):
        at = along(hour * 60)
        line("plan-hour", (at, across), (at, ends[1]))
        if hour < LAST_HOUR:
            x, y = (across - 6, at + 13) if sheet.down else (at + 4, across - 8)
            add(root, "text", "plan-tick", axis_hour(hour), x=x, y=y, text_anchor="end" if sheet.down else "start")
    for place, head in enumerate(heads):
        edge = across + lane * place
        line("plan-lane", (0 if not sheet.down else long, edge), (ends[0], edge))
        _head(root, head, edge, lane, sheet)
    line("plan-lane", (0, ends[1]), (ends[0], ends[1]))
    for block in blocks:
        start = along(block.at)
        size = max(along(block.at + block.minutes) - start, 26.0), lane - 6
        at, edge = start + 1, across + lane * block.lane + 3
        box = (edge, at, size[1], size[0] - 2) if sheet.down else (at, edge, size[0] - 2, size[1])
        _block(root, block, box, ident)
    if now is not None and FIRST_HOUR * 60 <= now <= LAST_HOUR * 60:
        line("plan-now", (along(now), across), (along(now), ends[1]))
    return svg.written(root)


def week_svg(
    title: str, heads: Sequence[LaneHead], days: Sequence[str], blocks: Sequence[Block], today: int | None, ident: str
) -> str:
    """A week: days side by side, each lane as high as its fullest day.

    Parameters
    ----------
    today : int or None
        Which of the days it is.
    """
    sheet, minutes = WEEK_DESK, 24 * 60
    stacked: dict[tuple[int, int], list[Block]] = {}
    for block in blocks:
        stacked.setdefault((block.lane, block.at // minutes), []).append(block)
    rows = [max([len(stacked.get((lane, day), ())) for day in range(len(days))] + [1]) for lane in range(len(heads))]
    tops = [sheet.head + sum(row * _WEEK_ROW + _WEEK_GAP for row in rows[:lane]) for lane in range(len(heads) + 1)]
    width = sheet.gutter + sheet.step * len(days) + 8
    root = svg.picture(width, tops[-1], "plan-picture", title, _described(heads, blocks), ident, role="group")
    root.set("data-step", svg.number(sheet.step / minutes))
    root.set("data-lane", "0")  # lanes differ in height: by dragging only the day changes
    root.set("data-down", "no")
    root.set("data-by", str(minutes))
    if today is not None:
        add(root, "rect", "plan-today", x=sheet.gutter + today * sheet.step, y=0, width=sheet.step, height=tops[-1])
    for day, words in enumerate(days):
        x = sheet.gutter + day * sheet.step
        add(root, "line", "plan-hour", x1=x, y1=0, x2=x, y2=tops[-1])
        add(root, "text", "plan-tick", words, x=x + 6, y=sheet.head - 8)
    for lane, head in enumerate(heads):
        add(root, "line", "plan-lane", x1=0, y1=tops[lane], x2=width - 8, y2=tops[lane])
        _head(root, head, tops[lane], tops[lane + 1] - tops[lane], sheet)
    for (lane, day), listed in stacked.items():
        for place, block in enumerate(listed):
            x, y = sheet.gutter + day * sheet.step + 3, tops[lane] + place * _WEEK_ROW + 3
            _block(root, block, (x, y, sheet.step - 6, _WEEK_ROW - 3), ident)
    return svg.written(root)


def _head(root: Element, head: LaneHead, edge: float, lane: float, sheet: Sheet) -> None:
    css = "plan-load over" if head.over else "plan-load"
    if sheet.down:
        first = head.name.split(" ")[0]
        add(root, "text", "plan-who", first, x=edge + lane / 2, y=15, text_anchor="middle")
        add(root, "text", css, head.load, x=edge + lane / 2, y=32, text_anchor="middle")
    else:
        add(root, "text", "plan-who", head.name, x=0, y=edge + 22)
        add(root, "text", css, head.load, x=0, y=edge + 40)


def _block(root: Element, block: Block, box: tuple[float, float, float, float], ident: str) -> None:
    x, y, width, height = box
    css = f"plan-call {block.status}{' chosen' if block.chosen else ''}{' along' if block.along else ''}"
    link = add(root, "a", css, href=block.href, id=f"{ident}-{block.ident}", aria_label=_spoken(block))
    for name, value in (
        ("call", block.ident),
        ("at", str(block.at)),
        ("lane", str(block.lane)),
        ("minutes", str(block.minutes)),
        ("movable", "yes" if block.movable else "no"),
    ):
        link.set(f"data-{name}", value)
    add(link, "title", text=_spoken(block))
    frame = add(link, "svg", x=x, y=y, width=width, height=height)  # a wider letter than usual is cut off
    add(frame, "rect", "plan-box", x=0.5, y=0.5, width=width - 1, height=height - 1)
    add(frame, "rect", "plan-edge", x=0, y=0, width=5, height=height)
    # Where there is little room, the axis says which half of the day it is.
    named = [block.clock.split(" ")[0], block.title] if width < _NARROW else [f"{block.clock} {block.title}"]
    lines = [*(("plan-clock", words) for words in named), ("plan-place", block.place), ("plan-words", block.words)]
    for place, (css, text) in enumerate(lines):
        if 16 + 17 * place <= height - 2:
            most = int((width - _INDENT - 2) / _LETTER[css])
            add(frame, "text", css, _shortened(text, most), x=_INDENT, y=16 + 17 * place)


def _shortened(text: str, most: int) -> str:
    """A number at the end of a unit's tag stays: it is what tells it from its neighbour."""
    front, _, number = text.rpartition(" ")
    if len(text) <= most or not number.isdigit():
        return svg.shortened(text, most)
    return f"{svg.shortened(front, most - len(number) - 1)} {number}"


def _spoken(block: Block) -> str:
    state = {"planned": "planned", "open": "under way", "closed": "closed"}.get(block.status, block.status)
    return f"{block.clock}, {block.title}, {block.place}, {block.minutes} minutes, {state}. {block.words}".strip()
