"""What is seen on a unit, drawn small: each thing as it is in order, and as it is when something is wrong with it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from math import cos, pi, sin

from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import Element, add

_WIDE, _HIGH = 140.0, 84.0
_LAMP_WIDE, _LAMP_HIGH = 340.0, 56.0
_Drawn = Callable[[Element, bool], None]


def sight_svg(what: str, found: bool, ident: str) -> str:
    """The picture of one thing that was looked at; empty for what has none."""
    draw = _PICTURES.get(what)
    if draw is None:
        return ""
    told = "Yes, as drawn." if found else "No, as drawn."
    root = svg.picture(_WIDE, _HIGH, "sight-picture", what.replace("_", " "), told, ident)
    draw(root, found)
    return svg.written(root)


def lamp_svg(flashes_s: Sequence[float], ident: str) -> str:
    """A lamp's flashes along time, as somebody who watches it would note them: a bar for each, the pauses as long as they are."""
    root = svg.picture(_LAMP_WIDE, _LAMP_HIGH, "sight-picture lamp-strip", "lamp", "Flashes along time, as drawn.", ident)
    whole = max(flashes_s[-1], 1.0)
    add(root, "line", "sight-line", x1=6, x2=_LAMP_WIDE - 6, y1=_LAMP_HIGH - 12, y2=_LAMP_HIGH - 12)
    for at in flashes_s:
        x = 10 + (_LAMP_WIDE - 24) * at / whole
        add(root, "rect", "sight-mark", x=x - 2, y=10, width=5, height=_LAMP_HIGH - 24)
    return svg.written(root)


def _box(root: Element, x: float, y: float, width: float, height: float, css: str = "sight-line") -> None:
    add(root, "rect", css, x=x, y=y, width=width, height=height)


def _path(root: Element, d: str, css: str = "sight-line") -> None:
    add(root, "path", css, d=d)


def _spots(
    root: Element, x: float, y: float, width: float, height: float, across: int, down: int, css: str = "sight-mark"
) -> None:
    """Spots spread over a field, each a little off its place: always the same."""
    for i in range(across):
        for j in range(down):
            off = (i * 7 + j * 13) % 5 - 2
            add(
                root,
                "circle",
                css,
                cx=x + (i + 0.5) * width / across + off,
                cy=y + (j + 0.5) * height / down - off / 2,
                r=2 + (i + j) % 3,
            )


def _filter(root: Element, found: bool) -> None:
    _box(root, 30, 8, 80, 68)
    for i in range(1, 8):
        _path(root, f"M{30 + i * 10} 8v68")
    if found:
        _box(root, 31, 9, 78, 66, "sight-mat")
        _spots(root, 32, 10, 76, 64, 9, 6)
    else:
        _path(root, "M4 42h22M114 42h22M128 36l8 6-8 6", "sight-air")


def _coil(root: Element, found: bool) -> None:
    for i in range(17):
        _path(root, f"M{22 + i * 6} 10v64")
    for y in (20, 42, 64):
        _path(root, f"M14 {y}h112", "sight-pipe")
    if found:
        _path(root, "M20 12c12-6 18 8 30 2s20-4 30 2 22-6 40 0v30c-10 8-24-2-36 4s-22-6-34 0-20-2-30 2z", "sight-mat")
        _spots(root, 22, 14, 96, 32, 10, 3)


def _air(root: Element, found: bool) -> None:
    _box(root, 62, 8, 16, 68, "sight-pipe")
    for y in (20, 42, 64):
        reach = 18 if found and y != 42 else 44
        _path(root, f"M10 {y}h{40 if not found else 24}", "sight-air")
        _path(root, f"M86 {y}h{reach - 6}m-6-5l8 5-8 5", "sight-air" if not found or y == 42 else "sight-faint")


def _belt(root: Element, found: bool) -> None:
    add(root, "circle", "sight-line", cx=32, cy=46, r=12)
    add(root, "circle", "sight-line", cx=102, cy=40, r=26)
    _path(root, "M30 34Q66 36 98 14M34 58Q66 78 106 66" if found else "M30 34L98 14M30 58L98 66", "sight-pipe")
    if found:
        _spots(root, 20, 64, 44, 16, 6, 2)


def _damper(root: Element, found: bool) -> None:
    _path(root, "M6 18h128M6 66h128")
    _path(root, "M70 18v48" if found else "M44 42h52", "sight-pipe")
    _path(root, "M10 42h44" if found else "M10 30h118m-8-5l8 5-8 5", "sight-faint" if found else "sight-air")


def _door(root: Element, found: bool) -> None:
    _box(root, 24, 8, 92, 70)
    _path(root, "M50 78V14l26-6v70z" if found else "M50 78V14h34v64", "sight-pipe")
    if found:
        _path(root, "M96 60h30m-8-5l8 5-8 5M126 30h-30m8-5l-8 5 8 5", "sight-air")


def _recirculating(root: Element, found: bool) -> None:
    _box(root, 44, 30, 52, 46)
    if found:
        _path(root, "M70 26V10h50v40h-18m8-6l-8 6 8 6M70 10H20v40h18m-8-6l8 6-8 6", "sight-air")
        _path(root, "M4 4h132", "sight-pipe")
    else:
        _path(root, "M70 26V4m-6 8l6-8 6 8M14 52h24m-8-6l8 6-8 6M126 52h-24m8-6l-8 6 8 6", "sight-air")


def _fan(root: Element, found: bool) -> None:
    add(root, "circle", "sight-line", cx=70, cy=42, r=36)
    if found:  # single blades can be told apart
        for i in range(3):
            turn = 2 * pi * i / 3 + 0.4
            x, y = 70 + 30 * cos(turn), 42 + 30 * sin(turn)
            _path(
                root,
                f"M70 42Q{svg.number(70 + 22 * cos(turn + 0.6))} {svg.number(42 + 22 * sin(turn + 0.6))} "
                f"{svg.number(x)} {svg.number(y)}z",
                "sight-mat",
            )
    else:
        for r in (10, 17, 24, 31):
            add(root, "circle", "sight-faint", cx=70, cy=42, r=r)


def _oil(root: Element, found: bool) -> None:
    _path(root, "M6 30h128M6 46h128")
    _box(root, 56, 24, 28, 28, "sight-pipe")
    if found:
        _path(root, "M60 52c-4 14 2 24 10 24s16-8 12-24z", "sight-mat")
        _path(root, "M70 78v4", "sight-pipe")


def _drier(root: Element, found: bool) -> None:
    _path(root, "M4 42h34M102 42h34", "sight-pipe")
    _path(root, "M38 36l10-14h44l10 14v12l-10 14H48l-10-14z")
    _path(root, "M62 32h16m-5-5l7 5-7 5")
    if found:
        for x in (96, 106, 116, 126):
            _path(root, f"M{x} 30v24M{x - 5} 36l10 12M{x + 5} 36l-10 12", "sight-air")


def _glass(root: Element, found: bool) -> None:
    _path(root, "M4 36h30M106 36h30M4 48h30M106 48h30")
    add(root, "circle", "sight-pipe", cx=70, cy=42, r=34)
    if found:
        for i, (x, y) in enumerate(((56, 30), (70, 24), (84, 32), (62, 46), (78, 44), (54, 58), (70, 60), (86, 56))):
            add(root, "circle", "sight-line", cx=x, cy=y, r=4 + i % 3)


def _compressor(root: Element, found: bool) -> None:
    _path(root, "M44 74V30q0-18 26-18t26 18v44zM96 26h26M96 60h26")
    if found:
        for x in (54, 70, 86):
            _path(root, f"M{x} 66q-6-7 0-14t0-14", "sight-warm")


def _opened(root: Element, found: bool) -> None:
    _path(root, "M6 58h128M6 70h128")
    _path(root, "M58 58V34h24v24M62 34V20h16v14", "sight-pipe")
    if found:  # bright metal, a fresh wrench mark
        _path(root, "M62 26l16-4M62 31l16-4M92 22l10-8M96 32h14M92 42l10 8", "sight-air")
    else:
        _spots(root, 54, 12, 32, 20, 5, 3, "sight-dust")


def _tag(root: Element, found: bool) -> None:
    _path(root, "M30 10q-20 12 6 22")
    _path(root, "M34 22h78v48H34l-10-12V34z", "sight-pipe")
    for y in (36, 46, 56):
        _path(root, f"M46 {y}h{54 if found else 10}", "sight-line" if found else "sight-faint")


def _pan(root: Element, found: bool) -> None:
    _path(root, "M16 24v44h108V24M124 60h14")
    if found:
        _path(root, "M17 32q9-6 18 0t18 0 18 0 18 0 18 0 16 0v35H17z", "sight-water")
    else:
        _path(root, "M30 62h20M70 64h26", "sight-faint")


def _sound(root: Element, found: bool) -> None:
    _path(root, "M14 30q-8 12 0 24M24 24q-14 18 0 36", "sight-pipe")
    _path(root, "M36 42q6-10 12 0t12 0 12 0 12 0 12 0 12 0 12 0 12 0", "sight-faint" if found else "sight-air")
    if found:
        _path(root, "M60 42l4-30 5 56 5-44 4 26 3-8", "sight-air")


_PICTURES: Mapping[str, _Drawn] = {
    "evaporator_air_proven": lambda root, proven: _air(root, not proven),
    "condenser_air_proven": lambda root, proven: _air(root, not proven),
    "filter_dirty": _filter, "evaporator_dirty": _coil, "condenser_dirty": _coil, "blower_belt_slipping": _belt,
    "damper_closed": _damper, "door_open": _door, "condenser_air_recirculating": _recirculating, "discharge_air_pulsing": _fan,
    "oil_stain": _oil, "frost_after_drier": _drier, "sight_glass_bubbles": _glass, "compressor_hot": _compressor,
    "recently_opened": _opened, "recently_charged": _tag, "drain_blocked": _pan,
    "unusual_sound": _sound,
}  # fmt: skip
