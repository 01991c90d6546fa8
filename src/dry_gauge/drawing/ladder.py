"""The temperature ladder: rungs are temperatures, gaps between them are what is judged, each beside its target.

Hatch is where it should land, dots are what is lacking, a hollow stem is too much, a soft end is uncertainty. Colour
only repeats what shape and words say.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from math import ceil, floor

from dry_gauge.core.judgement.assess import CircuitAssessment
from dry_gauge.core.words import Reader
from dry_gauge.drawing import svg
from dry_gauge.drawing.geometry import DESK, Geometry, fit
from dry_gauge.drawing.placing import Box, RungLabel, Slot, free_place, label_tops
from dry_gauge.drawing.rungs import Contents, Gap, Missing, Rung, contents_of
from dry_gauge.drawing.svg import Element, add

SIDES = ("air", "low", "high")
COLUMN_NAMES = {"air": "Air", "low": "Low side", "high": "High side"}

STANDING_WORDS = {
    "right": "right",
    "short": "short {off}",
    "long": "long {off}",
    "close": "too close",
    "check": "check probe",
    "unjudged": "not judged low",
    "untargeted": "no target",
}


def ladder_svg(
    circuit: CircuitAssessment,
    reader: Reader,
    geometry: Geometry = DESK,
    ident: str = "ladder",
    before: CircuitAssessment | None = None,
) -> str:
    """The ladder of one judged circuit, in the reader's units; `before` stands behind it as a ghost."""
    return _Ladder(contents_of(circuit), reader, geometry, ident, contents_of(before) if before else None).draw()


_LETTER = 6.1
"""Of a rung's name, how wide a letter is on average [px]: on a phone some names are longer than their column."""
_WAS_HEIGHT = 15.0
"""Of the line under a plate that says what its gap was before the last change."""


class _Ladder:
    def __init__(self, contents: Contents, reader: Reader, geometry: Geometry, ident: str, ghost: Contents | None = None) -> None:
        self.contents, self.reader, self.geometry, self.ident = contents, reader, geometry, ident
        self.ghost = ghost
        self.was = {gap.name: gap.gap.value for gap in ghost.gaps} if ghost else {}
        self.scale = fit(contents, geometry, ghost)
        self.obstacles: list[Box] = []
        self.root = svg.picture(
            geometry.width,
            geometry.height,
            "ladder ladder-small" if geometry.small else "ladder",
            "Temperature ladder",
            self.described(),
            ident,
        )

    # The order of drawing is the order on paper: grounds, marks, words on top.
    def draw(self) -> str:
        svg.hatch(self.root, f"{self.ident}-hatch", 5 if self.geometry.small else 6)
        svg.fades(self.root, self.ident, SIDES)
        self.axis()
        self.columns()
        for missing in self.contents.missing:
            if missing.zone_k:
                self.landing_zone(missing)
        self.ghosts()
        for gap in self.contents.gaps:
            self.bracket(gap)
        for rung in self.contents.rungs:
            self.bar(rung, self.scale.y(rung.temperature_k))
        self.discharge()
        self.rung_labels()
        self.slots()
        self.plates()
        return svg.written(self.root)

    def described(self) -> str:
        """What the picture says, in words."""
        reader = self.reader
        parts = [f"{rung.label} {reader.say('temperature', rung.temperature_k)}" for rung in self.contents.rungs]
        for gap in self.contents.gaps:
            parts.append(f"{gap.label} {reader.say('difference', gap.gap.value)}, {self.standing_words(gap)}")
            if gap.own is not None:
                low, high = (f"{reader.difference(edge):.0f}" for edge in gap.own)
                parts[-1] += f", on its own sound days {low} to {high}"
        parts += [f"{missing.label} not read" for missing in self.contents.missing]
        parts += [
            f"{rung.label} was {reader.say('temperature', rung.temperature_k)} before the last change"
            for rung in (self.ghost.rungs if self.ghost else ())
        ]
        return "; ".join(parts) + "." if parts else "Nothing read yet."

    def standing_words(self, gap: Gap) -> str:
        return STANDING_WORDS[gap.stands].format(off=f"{self.reader.difference(gap.off_k):.1f}")

    # -- grounds -----------------------------------------------------------------

    def axis(self) -> None:
        g, s = self.geometry, self.scale
        add(self.root, "text", "axis-unit", f"°{self.reader.temperature_unit}", x=g.axis_x, y=g.head - 12, text_anchor="end")
        slope = (s.top_k - s.bottom_k) / (s.bottom_y - s.top_y)
        top = s.top_k + (s.top_y - self.axis_top) * slope
        bottom = s.bottom_k - (g.height - g.foot - s.bottom_y) * slope
        high, low = self.reader.temperature(top), self.reader.temperature(bottom)
        step = next(step for step in (5, 10, 20, 50, 100, 200, 500, 1e9) if (high - low) / step <= 11)
        staff, grid = "", ""
        tick = floor(low / step) * step
        while tick < high:
            ends = [min(max(tick + part * step, low), high) for part in (0, 0.5)]
            y, half = (s.bottom_y - (end - self.reader.temperature(s.bottom_k)) * self.pixels_per_unit for end in ends)
            # The staff: every second half step is filled, so that distances can be counted.
            staff += f"M{g.axis_x + 2:.4g} {y:.5g}V{half:.5g}h5V{y:.5g}z"
            if low <= tick:
                grid += f"M{g.axis_x + 8:.4g} {y:.5g}H{g.width:.4g}"
                if y > self.axis_top + 6:
                    add(self.root, "text", "tick", svg.number(tick), x=g.axis_x - 2, y=y + 4, text_anchor="end")
            tick += step
        add(self.root, "path", "grid", d=grid)
        add(self.root, "path", "staff", d=staff)
        add(self.root, "line", "staff-line", x1=g.axis_x + 6.5, x2=g.axis_x + 6.5, y1=self.axis_top, y2=g.height - g.foot)

    @property
    def axis_top(self) -> float:
        return self.geometry.head + (52 if self.contents.discharge else 0)

    @property
    def pixels_per_unit(self) -> float:
        s = self.scale
        return (s.bottom_y - s.top_y) / (self.reader.temperature(s.top_k) - self.reader.temperature(s.bottom_k))

    def columns(self) -> None:
        g = self.geometry
        for side, (left, right) in g.columns.items():
            name = COLUMN_NAMES[side]
            add(self.root, "text", f"column-name {side}-text", name, x=left, y=g.head - 12)
            add(
                self.root,
                "rect",
                f"column {side}-ground",
                x=left,
                y=g.head,
                width=right - left,
                height=g.height - g.head - g.foot,
            )
            for x in (left, right):
                add(self.root, "line", f"rail {side}-mark", x1=x, x2=x, y1=g.head, y2=g.height - g.foot)

    def landing_zone(self, missing: Missing) -> None:
        assert missing.zone_k
        g = self.geometry
        left, right = g.columns[missing.column]
        bottom, top = (self.scale.y(edge) for edge in missing.zone_k)
        add(self.root, "rect", x=left, y=top, width=right - left, height=bottom - top, fill=f"url(#{self.ident}-hatch)")
        for y in (top, bottom):
            add(self.root, "line", f"zone-edge {missing.column}-mark", x1=left - 4, x2=right + 4, y1=y, y2=y)
        self.obstacles.append(Box(left, top, right - left, bottom - top))

    def ghosts(self) -> None:
        """Where each rung stood before the last change, and an arrow to where it stands now."""
        now = {(rung.name, rung.column): rung.temperature_k for rung in self.contents.rungs}
        for rung in self.ghost.rungs if self.ghost else ():
            left, right = self.geometry.columns[rung.column]
            y = self.scale.y(rung.temperature_k)
            add(self.root, "line", f"ghost {rung.column}-mark", x1=left - 4, x2=right + 4, y1=y, y2=y)
            new_k = now.get((rung.name, rung.column))
            end = y if new_k is None else self.scale.y(new_k)
            if abs(end - y) > 14:
                x, way = right - 8, 1 if end > y else -1
                tip = end - way * 6
                d = f"M{x:.5g} {y:.5g}V{tip:.5g}m-4 {-5 * way}l4 {5 * way}l4 {-5 * way}"
                add(self.root, "path", f"ghost-way {rung.column}-mark", d=d)

    # -- marks -----------------------------------------------------------------

    def bar(self, rung: Rung, y: float) -> None:
        left, right = self.geometry.columns[rung.column]
        left, right = left - 4, right + 4
        css = f"{rung.column}-mark"
        if rung.bubble_k is not None:
            below = self.scale.y(rung.bubble_k)
            add(self.root, "rect", f"tape {rung.column}-fill", x=left + 4, y=y, width=right - left - 8, height=below - y)
            add(self.root, "line", f"bubble {css}", x1=left, x2=right, y1=below, y2=below)
            self.obstacles.append(Box(left, below - 2, right - left, 4))
        if rung.from_pressure:
            for dy in (-2.2, 2.2):
                add(self.root, "line", f"bar-double {css}", x1=left, x2=right, y1=y + dy, y2=y + dy)
        else:
            add(self.root, "line", f"bar {css}", x1=left, x2=right, y1=y, y2=y)
        self.obstacles.append(Box(left, y - 4, right - left, 8))

    def discharge(self) -> None:
        rung, g = self.contents.discharge, self.geometry
        if rung is None:
            return
        left, right = g.columns["high"]
        y = g.head + 42
        self.bar(rung, y)
        for x in (*g.columns["high"], g.axis_x + 6):
            add(self.root, "path", "axis-break", d=f"M{x - 6:g} {y + 11:g}l12 -6M{x - 6:g} {y + 15:g}l12 -6")
        self.label(Box(left + 3, y - 38, right - left - 6, g.label_height), rung.label, rung.temperature_k, "high", True)

    def bracket(self, gap: Gap) -> None:
        g, s = self.geometry, self.scale
        stem_x, band_x = g.gutters[gap.gutter]
        base_y, tip_y = s.y(gap.base_k), s.y(gap.tip_k)
        self.leader(gap, base_y, stem_x)
        self.band(gap, band_x)
        self.own_band(gap, band_x)
        self.stem(gap, stem_x, base_y, tip_y)
        self.lacking(gap, stem_x, tip_y)
        foot = (stem_x - 3, stem_x + g.stem + 3)
        add(self.root, "line", f"foot {gap.side}-mark", x1=foot[0], x2=foot[1], y1=base_y, y2=base_y)
        add(self.root, "line", "tip", x1=foot[0] - 1, x2=foot[1] + 1, y1=tip_y, y2=tip_y)
        top, bottom = min(base_y, tip_y), max(base_y, tip_y)
        self.obstacles.append(Box(stem_x - 2, top - 2, g.stem + 4, bottom - top + 4))
        # Lit when a sentence of the judgement that rests on this gap is pointed at.
        add(self.root, "rect", "halo", x=stem_x - 6, y=top - 5, width=g.stem + 12, height=bottom - top + 10, data_gap=gap.name)

    def leader(self, gap: Gap, base_y: float, stem_x: float) -> None:
        """From the rung to a gutter that does not touch its column."""
        left, right = self.geometry.columns[gap.base_column]
        edge = right + 4 if stem_x > right else left - 4
        if abs(stem_x - edge) > 16:
            add(self.root, "line", f"leader {gap.side}-mark", x1=edge, x2=stem_x, y1=base_y, y2=base_y)

    def band(self, gap: Gap, x: float) -> None:
        if gap.band_k is None:
            return
        bottom, top = (self.scale.y(edge) for edge in gap.band_k)
        width = self.geometry.band
        add(self.root, "rect", x=x, y=top, width=width, height=max(1.0, bottom - top), fill=f"url(#{self.ident}-hatch)")
        for y in (top, bottom):
            add(self.root, "line", "band-edge", x1=x - 1, x2=x + width + 1, y1=y, y2=y)
        self.obstacles.append(Box(x, top, width, bottom - top))

    def own_band(self, gap: Gap, x: float) -> None:
        """Where this very unit stood on its sound days: a clasp inside the general band, or alone where there is none."""
        if gap.own_k is None:
            return
        bottom, top = (self.scale.y(edge) for edge in gap.own_k)
        left, right = x + 1, x + self.geometry.band - 1
        add(self.root, "path", "own-band", d=f"M{left:.5g} {top:.5g}H{right:.5g}V{bottom:.5g}H{left:.5g}")
        self.obstacles.append(Box(x, top, self.geometry.band, bottom - top))

    def stem(self, gap: Gap, x: float, base_y: float, tip_y: float) -> None:
        """Solid from the base, soft over the uncertainty at the tip, hollow past the band."""
        error = gap.gap.uncertainty / (self.scale.top_k - self.scale.bottom_k) * (self.scale.bottom_y - self.scale.top_y)
        way = 1 if tip_y > base_y else -1
        error = min(error, abs(tip_y - base_y))
        solid_end = tip_y - way * error
        limit = solid_end
        if gap.stands == "long" and gap.band_k:
            far = self.scale.y(gap.band_k[0] if way > 0 else gap.band_k[1])
            limit = far if (solid_end - far) * way > 0 else solid_end
        self.vertical(f"{gap.side}-fill", x, base_y, limit)
        if limit != solid_end:
            y = min(limit, solid_end)
            add(
                self.root,
                "rect",
                f"hollow {gap.side}-mark",
                x=x + 0.75,
                y=y,
                width=self.geometry.stem - 1.5,
                height=abs(solid_end - limit),
            )
        if error > 0.5:
            gradient = f"url(#{self.ident}-{gap.side}-{'d' if way > 0 else 'u'})"
            add(
                self.root,
                "rect",
                x=x,
                y=min(solid_end, tip_y + way * error),
                width=self.geometry.stem,
                height=2 * error,
                fill=gradient,
            )

    def vertical(self, css: str, x: float, y1: float, y2: float) -> None:
        add(self.root, "rect", css, x=x, y=min(y1, y2), width=self.geometry.stem, height=abs(y2 - y1))

    def lacking(self, gap: Gap, x: float, tip_y: float) -> None:
        if gap.stands not in ("short", "check") or gap.band_k is None:
            return
        near_k = gap.band_k[0] if gap.direction > 0 else gap.band_k[1]
        middle = x + self.geometry.stem / 2
        add(self.root, "line", "lacking", x1=middle, x2=middle, y1=tip_y, y2=self.scale.y(near_k))

    # -- words -----------------------------------------------------------------

    def rung_labels(self) -> None:
        g = self.geometry
        for side, (left, right) in g.columns.items():
            rungs = [rung for rung in self.contents.rungs if rung.column == side]
            marks = [(self.scale.y(rung.temperature_k), rung.label, rung.temperature_k) for rung in rungs]
            marks += [(self.scale.y(r.bubble_k), "bubble", r.bubble_k) for r in rungs if r.bubble_k is not None]
            top = self.axis_top if side == "high" and self.contents.discharge else g.head
            tops = label_tops([RungLabel(y, g.label_height) for y, _, _ in marks], top + 2, g.height - g.foot)
            for (y, label, temperature_k), label_top in zip(marks, tops, strict=True):
                box = Box(left + 3, label_top, right - left - 6, g.label_height)
                self.label(box, label, temperature_k, side, above=label_top + g.label_height / 2 < y)
                middle = label_top + g.label_height / 2
                if abs(middle - y) > g.label_height:
                    add(self.root, "line", f"pointer {side}-mark", x1=right + 2, x2=right - 4, y1=y, y2=middle)

    def label(self, box: Box, name: str, temperature_k: float, side: str, above: bool) -> None:
        value = f"{self.reader.temperature(temperature_k):.1f}"
        name_y, value_y = (0.36, 0.9) if above else (0.94, 0.47)  # the value stands next to the bar
        add(self.root, "text", f"rung-name {side}-text", name, x=box.x, y=box.y + box.height * name_y)
        add(self.root, "text", "rung-value", value, x=box.x, y=box.y + box.height * value_y)
        self.obstacles.append(replace(box, width=max(box.width, _LETTER * len(name))))

    def slots(self) -> None:
        """Dashed slots for what was not read and has no place to land; then the words of the landing zones."""
        g = self.geometry
        for missing in self.contents.missing:
            left, right = g.columns[missing.column]
            width, height = right - left - 4, g.label_height - 2
            wanted = g.height - g.foot
            if missing.zone_k:
                wanted = sum(self.scale.y(edge) for edge in missing.zone_k) / 2
            obstacles = self.obstacles
            if missing.zone_k:  # its own hatch is no obstacle, the rest of the column is
                obstacles = [box for box in obstacles if not (box.x == left and box.y < wanted < box.bottom)]
            box = free_place(wanted, width, height, [Slot(left + 2)], obstacles, g.head + 2, g.height - g.foot - 2)
            if box is None:
                continue
            if missing.zone_k:
                low, high = (f"{self.reader.temperature(edge):.0f}" for edge in missing.zone_k)
                first, second = missing.label, f"{low} to {high}"
                add(self.root, "rect", "zone-plate", x=box.x, y=box.y, width=box.width, height=box.height)
            else:
                first, second = missing.label, "not read"
                add(self.root, "rect", f"slot {missing.column}-mark", x=box.x, y=box.y, width=box.width, height=box.height)
            for line, share in ((first, 0.42), (second, 0.85)):
                add(self.root, "text", f"slot-text {missing.column}-text", line, x=box.x + 5, y=box.y + height * share)
            self.obstacles.append(box)

    def plates(self) -> None:
        """Short gaps first: a long one finds room elsewhere more easily."""
        g = self.geometry
        for gap in sorted(self.contents.gaps, key=lambda gap: abs(gap.gap.value)):
            base_y, tip_y = self.scale.y(gap.base_k), self.scale.y(gap.tip_k)
            slots = [Slot(x, 30.0 * i) for i, x in enumerate(g.plate_slots[gap.gutter])]
            wanted = (base_y + tip_y) / 2
            box = self.plate_place(wanted, slots, _WAS_HEIGHT if gap.name in self.was else 0.0)
            stem_x = g.gutters[gap.gutter][0]
            if not min(base_y, tip_y) - g.plate_height / 2 <= box.y + box.height / 2 <= max(base_y, tip_y) + (g.plate_height / 2):
                near_y = box.y if box.y > max(base_y, tip_y) else box.bottom
                end_y = min(max(near_y, min(base_y, tip_y)), max(base_y, tip_y))
                x = min(max(stem_x + g.stem / 2, box.x), box.right)
                add(self.root, "line", "plate-leader", x1=stem_x + g.stem / 2, y1=end_y, x2=x, y2=near_y)
            self.plate(gap, box)
            self.obstacles.append(box)

    def plate_place(self, wanted: float, slots: Sequence[Slot], more: float) -> Box:
        """Where a plate fits that is higher than the usual one by `more`."""
        g = self.geometry
        whole = g.plate_height + more
        for width, height in ((g.plate_width, whole), (g.plate_width - 12, whole - 4)):
            box = free_place(wanted, width, height, slots, self.obstacles, g.head + 2, g.height - g.foot)
            if box:
                return box
        # Nothing free in its own slots: anywhere on the page, still touching nothing.
        anywhere = [Slot(x) for x in range(ceil(g.axis_x + 10), floor(g.width - g.plate_width), 12)]
        box = free_place(wanted, g.plate_width - 12, whole - 4, anywhere, self.obstacles, g.head, g.height, 0)
        return box or Box(slots[0].x, min(max(wanted, g.head), g.height - whole), g.plate_width, whole)

    def plate(self, gap: Gap, box: Box) -> None:
        group = add(self.root, "g", f"plate stands-{gap.stands}", data_gap=gap.name)
        height = box.height
        if gap.name in self.was:
            height -= _WAS_HEIGHT
            was = f"was {self.reader.difference(self.was[gap.name]):.0f}".replace("-", "−")
            add(group, "text", "plate-was", was, x=box.x, y=box.bottom - 3)
        add(group, "text", "plate-name", gap.label, x=box.x, y=box.y + height * 0.21)
        value = f"{round(self.reader.difference(gap.gap.value), 1) + 0.0:.1f}".replace("-", "−")  # no minus nothing
        line = add(group, "text", "plate-value", value, x=box.x, y=box.y + height * 0.60)
        if self.geometry.errors:
            error = f" ±{self.reader.difference(gap.gap.uncertainty):.1f}"
            add(line, "tspan", "plate-error", error)
        self.glyph(group, gap.stands, box.x, box.y + height * 0.72)
        add(group, "text", "plate-words", self.standing_words(gap), x=box.x + 17, y=box.y + height * 0.93)

    def glyph(self, group: Element, stands: str, x: float, y: float) -> None:
        """The bracket itself in small: a stem and its target, told apart without colour."""
        stem = {"right": 9, "short": 5, "long": 13, "close": 9, "check": 7}.get(stands, 0)
        if stem:
            dashed = " dashed" if stands == "check" else ""
            add(group, "line", f"glyph{dashed}", x1=x + 2, x2=x + 2, y1=y + 13, y2=y + 13 - stem)
        filled = "glyph-full" if stands == "right" else "glyph-hollow"
        add(group, "rect", filled, x=x + 6.5, y=y + 2, width=7, height=6)
