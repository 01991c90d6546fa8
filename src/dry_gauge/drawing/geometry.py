"""Where things stand on a ladder: the sizes of the two pages, and from temperature to height."""

from __future__ import annotations

from dataclasses import dataclass

from dry_gauge.core.quantities import FAHRENHEIT_K, to_kelvin
from dry_gauge.drawing.rungs import Contents


@dataclass(frozen=True, slots=True)
class Geometry:
    """Where things stand on one size of page. Pixels."""

    width: float
    height: float
    columns: dict[str, tuple[float, float]]
    gutters: dict[str, tuple[float, float]]  # stem x, band x
    plate_slots: dict[str, tuple[float, ...]]
    axis_x: float
    plate_width: float
    label_height: float = 35.0
    plate_height: float = 58.0
    head: float = 30.0
    foot: float = 14.0
    edge: float = 44.0
    stem: float = 9.0
    band: float = 17.0
    errors: bool = True
    small: bool = False


DESK = Geometry(
    width=606, height=560,
    columns={"air": (84, 166), "low": (212, 296), "high": (424, 506)},
    gutters={"split": (62, 38), "a": (176, 190), "b": (304, 318), "b2": (390, 404), "c": (514, 528)},
    plate_slots={"split": (86, 214, 340), "a": (214, 86, 340), "b": (340, 214, 426, 86), "b2": (340, 214, 426),
                 "c": (514, 426, 340)},
    axis_x=34, plate_width=84,
)  # fmt: skip
PHONE = Geometry(
    width=374, height=596,
    columns={"air": (56, 118), "low": (146, 210), "high": (268, 330)},
    gutters={"split": (42, 26), "a": (122, 132), "b": (214, 224), "b2": (250, 258), "c": (334, 344)},
    plate_slots={"split": (56, 146, 214), "a": (146, 56, 214), "b": (242, 146, 268, 56), "b2": (242, 146, 214),
                 "c": (294, 268, 214)},
    axis_x=24, plate_width=80, label_height=31, plate_height=50, edge=40, stem=8, band=13, errors=False, small=True,
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Scale:
    """Temperature to height."""

    top_k: float
    bottom_k: float
    top_y: float
    bottom_y: float

    def y(self, temperature_k: float) -> float:
        """Height of a temperature on the page."""
        share = (self.top_k - temperature_k) / (self.top_k - self.bottom_k)
        return self.top_y + share * (self.bottom_y - self.top_y)


def fit(contents: Contents, geometry: Geometry, ghost: Contents | None = None) -> Scale:
    """A scale on which every rung and band is inside, with room for labels at both ends."""
    shown = [rung.temperature_k for rung in (*contents.rungs, *(ghost.rungs if ghost else ()))]
    shown += [rung.bubble_k for rung in contents.rungs if rung.bubble_k is not None]
    for gap in contents.gaps:
        shown += [gap.tip_k, *(gap.band_k or ())]
    shown += [edge for missing in contents.missing if missing.zone_k for edge in missing.zone_k]
    low, high = (min(shown), max(shown)) if shown else (to_kelvin(35), to_kelvin(115))
    least = 60 * FAHRENHEIT_K
    if high - low < least:
        low, high = (low + high - least) / 2, (low + high + least) / 2
    break_room = 46 if contents.discharge else 0
    top, bottom = geometry.head + geometry.edge + break_room, geometry.height - geometry.foot - geometry.edge
    return Scale(high, low, top, bottom)
