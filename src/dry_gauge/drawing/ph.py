"""The measured cycle on log pressure over enthalpy, with the dome, and the cycle this unit should be running today.

Solid is what was measured, dashed what fits here; numbers sit at the corners, in the order of the flow.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import log

import numpy as np

from dry_gauge.core.judgement.assess import CircuitAssessment
from dry_gauge.core.quantities import BTU_PER_LB_J_KG, PSI_PA
from dry_gauge.core.refrigerants.properties import Properties
from dry_gauge.core.refrigerants.saturation import EVAPORATING_DEW_SHARE
from dry_gauge.core.words import Reader
from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import Element, add

Place = Callable[[float, float], tuple[float, float]]

WIDTH, HEIGHT = 606.0, 560.0
_LEFT, _RIGHT, _TOP, _BOTTOM = 64.0, 590.0, 40.0, 500.0
_APEX_SHARE = 0.55  # where a dome's top stands between its sides, by eye
_EFFICIENCY = 0.68  # isentropic, where no discharge line was read

_WANTED = {
    "suction_pressure": "suction pressure", "suction_line_temp": "suction line", "liquid_pressure": "liquid pressure",
    "liquid_line_temp": "liquid line",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Corner:
    """One state of a cycle: name, absolute pressure [Pa], enthalpy [J/kg]."""

    name: str
    pressure_pa: float
    enthalpy: float


def missing(circuit: CircuitAssessment) -> list[str]:
    """What has to be read before there is a cycle to draw, in words."""
    view = circuit.view
    have = {
        "suction_pressure": view.get("suction_pressure"),
        "suction_line_temp": view.get("suction_line_temp", "compressor_suction_temp", "coil_outlet_temp"),
        "liquid_pressure": view.high_pressure,
        "liquid_line_temp": view.get("liquid_line_temp"),
    }
    return [words for name, words in _WANTED.items() if have[name] is None]


def cycles(circuit: CircuitAssessment) -> tuple[list[Corner], list[Corner]]:
    """The measured corners and the expected ones; the latter empty where the air that was read does not fix them."""
    view, judgement = circuit.view, circuit.judgement
    suction, high = view.get("suction_pressure"), view.high_pressure
    line = view.get("suction_line_temp", "compressor_suction_temp", "coil_outlet_temp")
    liquid = view.get("liquid_line_temp")
    if not (suction and high and line and liquid):
        return [], []
    properties = Properties([view.unit.refrigerant])
    discharge = view.get("discharge_pressure", "liquid_pressure")
    hot = view.get("discharge_line_temp")
    measured = _cycle(
        properties,
        suction.value,
        line.value,
        discharge.value if discharge else high.value,
        hot.value if hot else None,
        high.value,
        liquid.value,
    )
    entering, outside = view.entering_evaporator_air, view.entering_condenser_air
    if not (entering and outside):
        return measured, []
    low_x, high_x = (
        properties.position_of_temperature(np.array([temperature_k]), share)
        for temperature_k, share in (
            (entering.value - judgement.expected("evaporator_td"), EVAPORATING_DEW_SHARE),
            (outside.value + judgement.expected("condenser_split"), 0.5),
        )
    )
    p_low, p_high = float(properties.pressure_pa(low_x)[0]), float(properties.pressure_pa(high_x)[0])
    low, top = properties.at_each(low_x, high_x)
    fits = _cycle(
        properties,
        p_low,
        float(low.dew_k[0]) + max(judgement.expected("superheat"), 0.0),
        p_high,
        float(top.dew_k[0]) + max(judgement.expected("discharge_superheat"), 0.0),
        p_high,
        float(top.bubble_k[0]) - max(judgement.expected("subcooling"), 0.0),
    )
    return measured, fits


def _cycle(
    properties: Properties,
    suction_pa: float,
    suction_k: float,
    discharge_pa: float,
    discharge_k: float | None,
    liquid_pa: float,
    liquid_k: float,
) -> list[Corner]:
    low, top, high = properties.at_each(*(properties.position(np.array([p])) for p in (suction_pa, discharge_pa, liquid_pa)))
    superheat = np.maximum(suction_k - low.dew_k, 0.0)
    h_suction = low.vapour_enthalpy(superheat)
    if discharge_k is None:
        ideal = top.vapour_enthalpy(top.superheat_at_entropy_k(low.vapour_entropy(superheat)))
        h_discharge = h_suction + (ideal - h_suction) / _EFFICIENCY
    else:
        h_discharge = top.vapour_enthalpy(np.maximum(discharge_k - top.dew_k, 0.0))
    h_liquid = high.liquid_enthalpy(np.maximum(high.bubble_k - liquid_k, 0.0))
    corners = (
        ("suction", suction_pa, h_suction),
        ("discharge", discharge_pa, h_discharge),
        ("liquid", liquid_pa, h_liquid),
        ("coil inlet", suction_pa, h_liquid),
    )
    return [Corner(name, pressure, float(enthalpy[0])) for name, pressure, enthalpy in corners]


def ph_svg(circuit: CircuitAssessment, reader: Reader, ident: str = "ph") -> str:
    """The picture; with less than a cycle only the dome, and words for what is missing."""
    measured, fits = cycles(circuit)
    lacking = missing(circuit)
    said = f"{circuit.view.unit.refrigerant.name}: " + (
        f"not read yet: {', '.join(lacking)}." if lacking else "measured cycle and the one that fits here."
    )
    root = svg.picture(WIDTH, HEIGHT, "ph", "Pressure over enthalpy", said, ident)
    properties = Properties([circuit.view.unit.refrigerant])
    x = np.linspace(-0.98, 0.995, 70)[:, None]
    dome = properties.at(x)
    pressures = properties.pressure_pa(x)[:, 0]
    bubble, dew = dome.bubble_enthalpy[:, 0], dome.dew_enthalpy[:, 0]
    hot = [corner.enthalpy for corner in (*measured, *fits)]
    left, right = float(bubble[10]), max([float(dew.max()) * 1.0 + 45e3, *(h + 12e3 for h in hot)])
    shown = [corner.pressure_pa for corner in (*measured, *fits)]
    bottom = min([float(pressures[12]), *(0.8 * p for p in shown)])
    top = float(pressures[-1]) * 1.25

    def at(enthalpy: float, pressure_pa: float) -> tuple[float, float]:
        across = (enthalpy - left) / (right - left)
        up = (log(pressure_pa) - log(bottom)) / (log(top) - log(bottom))
        return _LEFT + across * (_RIGHT - _LEFT), _BOTTOM - up * (_BOTTOM - _TOP)

    _axes(root, reader, left, right, bottom, top, at)
    inside = pressures >= bottom
    left_side = [at(float(h), float(p)) for h, p in zip(bubble[inside], pressures[inside], strict=True) if h >= left]
    right_side = [at(float(h), float(p)) for h, p in zip(dew[inside], pressures[inside], strict=True)]
    cap = _closed_by_eye(left_side[-2:], right_side[-2:])
    add(root, "path", "dome", d=f"{_path(left_side)}{cap}{_path(right_side[::-1]).replace('M', 'L', 1)}")
    if fits:
        add(root, "path", "cycle-fits", d=_path([at(c.enthalpy, c.pressure_pa) for c in fits]) + "Z")
    if measured:
        add(root, "path", "cycle", d=_path([at(c.enthalpy, c.pressure_pa) for c in measured]) + "Z")
        _corners(root, circuit, reader, measured, at)
    else:
        middle = (left_side[0][0] + right_side[0][0]) / 2
        asked = [", ".join(lacking[i : i + 2]) for i in range(0, len(lacking), 2)]
        for i, words in enumerate(("To close the cycle read", *asked)):
            add(root, "text", "ph-note", words, x=middle, y=_BOTTOM - 72 + 22 * i, text_anchor="middle")
    if fits:
        _legend(root)
    return svg.written(root)


def _closed_by_eye(left: Sequence[tuple[float, float]], right: Sequence[tuple[float, float]]) -> str:
    """The top of the dome, above the tables near the critical point: each side goes on as it came and rounds off."""
    (x1, y1), (x2, y2) = left[-1], right[-1]
    apex_x, apex_y = x1 + _APEX_SHARE * (x2 - x1), _TOP + 0.15 * (y1 - _TOP)

    def goes_on(side: Sequence[tuple[float, float]]) -> tuple[float, float]:
        (x0, y0), (x, y) = side
        rise = 0.7 * (y - apex_y)
        return x + (x - x0) * rise / max(y0 - y, 1e-6), y - rise

    (out_x, out_y), (back_x, back_y) = goes_on(left), goes_on(right)
    up = f"C{out_x:.5g} {out_y:.5g} {(out_x + apex_x) / 2:.5g} {apex_y:.5g} {apex_x:.5g} {apex_y:.5g}"
    down = f"C{(back_x + apex_x) / 2:.5g} {apex_y:.5g} {back_x:.5g} {back_y:.5g} {x2:.5g} {y2:.5g}"
    return up + down


def _path(points: Sequence[tuple[float, float]]) -> str:
    return "M" + "L".join(f"{x:.5g} {y:.5g}" for x, y in points)


def _axes(root: Element, reader: Reader, left: float, right: float, bottom: float, top: float, at: Place) -> None:
    imperial = reader.temperature_unit == "F"
    unit, scale = ("Btu/lb", BTU_PER_LB_J_KG) if imperial else ("kJ/kg", 1e3)
    step = next(s for s in (5, 10, 20, 50, 100, 200, 500) if (right - left) / scale / s < 8)
    tick = (int(left / scale / step) + 1) * step
    while tick * scale < right:
        x, _ = at(tick * scale, bottom)
        add(root, "line", "ph-grid", x1=x, x2=x, y1=_TOP, y2=_BOTTOM)
        add(root, "text", "tick", f"{tick:g}", x=x, y=_BOTTOM + 18, text_anchor="middle")
        tick += step
    add(root, "text", "axis-unit", f"enthalpy, {unit}", x=_RIGHT, y=_BOTTOM + 40, text_anchor="end")
    absolute, pressure_unit = (
        (PSI_PA, "psia")
        if reader.pressure_unit == "psi"
        else (1e3, "kPa abs")
        if reader.pressure_unit == "kPa"
        else (1e5, "bar abs")
    )
    for decade in (0.1, 1.0, 10.0, 100.0, 1000.0, 10000.0):
        for part in (1, 2, 5):
            pressure = decade * part * absolute
            if bottom < pressure < top:
                _, y = at(left, pressure)
                add(root, "line", "ph-grid", x1=_LEFT, x2=_RIGHT, y1=y, y2=y)
                add(root, "text", "tick", f"{decade * part:g}", x=_LEFT - 8, y=y + 4, text_anchor="end")
    add(root, "text", "axis-unit", f"pressure, {pressure_unit}", x=_LEFT - 50, y=_TOP - 18)


def _corners(root: Element, circuit: CircuitAssessment, reader: Reader, measured: Sequence[Corner], at: Place) -> None:
    view = circuit.view
    temperatures = {
        "suction": view.get("suction_line_temp", "compressor_suction_temp", "coil_outlet_temp"),
        "discharge": view.get("discharge_line_temp"),
        "liquid": view.get("liquid_line_temp"),
    }
    places = {
        "suction": (8, 22, "start"),
        "discharge": (0, -12, "end"),
        "liquid": (-8, -12, "start"),
        "coil inlet": (6, 22, "start"),
    }
    for i, corner in enumerate(measured, 1):
        x, y = at(corner.enthalpy, corner.pressure_pa)
        add(root, "circle", "ph-corner", cx=x, cy=y, r=5)
        dx, dy, anchor = places[corner.name]
        if corner.name == "coil inlet":
            add(root, "text", "ph-name", f"{i} coil inlet", x=x + dx, y=y + dy, text_anchor=anchor)
            continue
        read = temperatures[corner.name]
        number = reader.say("temperature", read.value) if read else "estimated"
        add(root, "text", "ph-name", f"{i} {corner.name} {number}", x=min(x + dx, _RIGHT), y=y + dy, text_anchor=anchor)


def _legend(root: Element) -> None:
    y = _BOTTOM + 40
    add(root, "line", "cycle", x1=_LEFT, x2=_LEFT + 34, y1=y - 5, y2=y - 5)
    add(root, "text", "ph-note", "measured", x=_LEFT + 42, y=y)
    add(root, "line", "cycle-fits", x1=_LEFT + 130, x2=_LEFT + 164, y1=y - 5, y2=y - 5)
    add(root, "text", "ph-note", "fits here today", x=_LEFT + 172, y=y)


__all__ = ["Corner", "cycles", "missing", "ph_svg"]
