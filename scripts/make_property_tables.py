"""Writes core/refrigerants/tables.py: enthalpy, entropy and density of every catalogue refrigerant, from CoolProp.

Run by hand after `make_refrigerant_curves.py` (`PYTHONPATH=. .venv/bin/python scripts/make_property_tables.py`); takes
some minutes. Saturated properties are polynomials in the curves' own x (normalised ln p); away from saturation each
property leaves its saturated value as ``a(x)*d + b(x)*d/(1 + d/D)``, d being the distance in K, which follows the
falling heat capacity of a vapour closely and can be turned round in closed form.
"""

from __future__ import annotations

import sys
from pathlib import Path

import CoolProp
import CoolProp.CoolProp as CP
import numpy as np
from numpy.polynomial import Chebyshev, Polynomial

from dry_gauge.core.refrigerants.catalogue import CATALOGUE, Refrigerant
from dry_gauge.core.refrigerants.curves import CURVES
from dry_gauge.core.refrigerants.saturation import saturation_of
from scripts.make_refrigerant_curves import abstract_state, fill_missing_pairs

BEND_K = 40.0  # as in core.refrigerants.properties, which reads what this writes
ROOT = Path(__file__).resolve().parent.parent
TARGET = ROOT / "src/dry_gauge/core/refrigerants/tables.py"
REPORT = ROOT / "docs/properties.md"

POINTS = 61
DEGREE_SATURATED, DEGREE_AWAY = 11, 7
SUPERHEATS_K = np.array([2.0, 5, 10, 15, 25, 40, 60, 80, 100])
SUBCOOLINGS_K = np.array([2.0, 5, 10, 20, 30])
SATURATED = ("h_bubble", "h_dew", "s_bubble", "s_dew", "lnrho_bubble", "lnrho_dew")
AWAY = ("h_vapour", "s_vapour", "lnrho_vapour", "h_liquid")
ZERO_C_K = 273.15


def pressure_at(refrigerant: Refrigerant, x: np.ndarray) -> np.ndarray:
    middle, half = CURVES[refrigerant.name][:2]
    return np.exp(np.clip(x, -1 + 1e-9, 1 - 1e-9) * half + middle)


def saturated_states(state: CP.AbstractState, pressures: np.ndarray) -> np.ndarray:
    """Six saturated properties at each pressure; NaN where CoolProp does not answer. One side at a time, in order."""
    found = np.full((6, len(pressures)), np.nan)
    for quality, first in ((1.0, 1), (0.0, 0)):
        for i, pressure in enumerate(pressures):
            try:
                state.update(CP.PQ_INPUTS, float(pressure), quality)
            except ValueError:
                continue
            found[first, i], found[2 + first, i] = state.hmass(), state.smass()
            found[4 + first, i] = np.log(state.rhomass())
    return found


def fit(x: np.ndarray, y: np.ndarray, degree: int, tolerance: float) -> tuple[np.ndarray, float]:
    """Least squares through the points that lie on one smooth curve: power coefficients and the worst error kept."""
    good = np.isfinite(y)
    for _ in range(40):
        curve = Chebyshev.fit(x[good], y[good], degree, domain=[-1, 1])
        error = np.where(good, np.abs(y - curve(x)), 0.0)
        worst = int(np.argmax(error))
        spread = float(np.median(error[good])) * 12 + tolerance
        if error[worst] <= spread or good.sum() < 3 * degree:
            break
        good[worst] = False
    return curve.convert(kind=Polynomial).coef, float(error.max())


def one_phase(state: CP.AbstractState, pressure: float, temperature: float, phase: int) -> tuple[float, float, float]:
    state.specify_phase(phase)
    try:
        state.update(CP.PT_INPUTS, pressure, temperature)
        return state.hmass(), state.smass(), float(np.log(state.rhomass()))
    except ValueError:
        return (np.nan,) * 3
    finally:
        state.unspecify_phase()


def away(distances: np.ndarray, change: np.ndarray) -> np.ndarray:
    """Coefficients a, b of one pressure's departure from saturation."""
    good = np.isfinite(change)
    if good.sum() < 4:
        return np.array([np.nan, np.nan])
    basis = np.stack([distances, distances / (1 + distances / BEND_K)], axis=1)[good]
    return np.linalg.lstsq(basis, change[good], rcond=None)[0]


def tables_of(refrigerant: Refrigerant) -> tuple[dict[str, list[float]], str]:
    fill_missing_pairs(refrigerant)
    saturation = saturation_of(refrigerant)
    x = np.cos(np.linspace(np.pi, 0, POINTS))
    pressures = pressure_at(refrigerant, x)
    state = abstract_state(refrigerant)
    saturated = saturated_states(state, pressures)
    middle, half = CURVES[refrigerant.name][:2]
    zero_x = (np.log(saturation.bubble_pressure_pa(ZERO_C_K)) - middle) / half
    tables: dict[str, list[float]] = {}
    worst: dict[str, float] = {}
    # The usual reference: 200 kJ/kg and 1 kJ/(kg K) for saturated liquid at 0 C.
    shift = {}
    for row, name in ((0, "h_bubble"), (2, "s_bubble")):
        coefficients, _ = fit(x, saturated[row], DEGREE_SATURATED, 50.0 if row == 0 else 0.2)
        shift[name[0]] = (200e3 if row == 0 else 1e3) - Polynomial(coefficients)(zero_x)
    saturated[:2] += shift["h"]
    saturated[2:4] += shift["s"]
    for row, name in enumerate(SATURATED):
        tolerance = {"h": 20.0, "s": 0.1, "l": 2e-4}[name[0]]
        coefficients, worst[name] = fit(x, saturated[row], DEGREE_SATURATED, tolerance)
        tables[name] = [float(f"{c:.9g}") for c in coefficients]
    names = {"h_vapour": 0, "s_vapour": 1, "lnrho_vapour": 2}
    vapour = np.full((3, 2, POINTS), np.nan)
    liquid = np.full((2, POINTS), np.nan)
    state = abstract_state(refrigerant)
    for i, pressure in enumerate(pressures):
        dew, bubble = saturation.dew_temperature_k(float(pressure)), saturation.bubble_temperature_k(float(pressure))
        at_dew = [float(Polynomial(tables[name])(x[i])) for name in ("h_dew", "s_dew", "lnrho_dew")]
        at_dew[0] -= shift["h"]
        at_dew[1] -= shift["s"]
        rows = [one_phase(state, float(pressure), dew + d, CP.iphase_gas) for d in SUPERHEATS_K]
        for k in range(3):
            vapour[k, :, i] = away(SUPERHEATS_K, np.array([row[k] for row in rows]) - at_dew[k])
        at_bubble = float(Polynomial(tables["h_bubble"])(x[i])) - shift["h"]
        rows = [one_phase(state, float(pressure), bubble - d, CP.iphase_liquid) for d in SUBCOOLINGS_K]
        liquid[:, i] = away(SUBCOOLINGS_K, np.array([row[0] for row in rows]) - at_bubble)
    for name in AWAY:
        source = liquid if name == "h_liquid" else vapour[names[name]]
        for part, letter in ((0, "a"), (1, "b")):
            scale = float(np.nanmedian(np.abs(source[part])))
            coefficients, worst[f"{name}_{letter}"] = fit(x, source[part], DEGREE_AWAY, 0.01 * scale)
            tables[f"{name}_{letter}"] = [float(f"{c:.9g}") for c in coefficients]
    return tables, check(refrigerant, state, saturation, tables, shift)


def check(refrigerant: Refrigerant, state, saturation, tables, shift) -> str:
    """Against CoolProp between the nodes, over the states a working unit passes through."""
    top = saturation.critical_temperature_k * 0.93
    worst = {"h vapour": 0.0, "s vapour": 0.0, "rho vapour": 0.0, "h liquid": 0.0}
    asked = answered = 0
    for x in np.linspace(-0.98, 0.93, 23):
        pressure = float(pressure_at(refrigerant, np.array([x]))[0])
        dew, bubble = saturation.dew_temperature_k(pressure), saturation.bubble_temperature_k(pressure)
        if dew > top:
            break

        def value(name: str, d: float, sign: str = "dew", x: float = x) -> float:
            base = {"h_vapour": "h_dew", "s_vapour": "s_dew", "lnrho_vapour": "lnrho_dew", "h_liquid": "h_bubble"}[name]
            a, b = (Polynomial(tables[f"{name}_{letter}"])(x) for letter in "ab")
            return float(Polynomial(tables[base])(x) + a * d + b * d / (1 + d / BEND_K))

        for d in (1.0, 7.5, 20.0, 50.0, 90.0):
            asked += 1
            h, s, lnrho = one_phase(state, pressure, dew + d, CP.iphase_gas)
            if np.isnan(h):
                continue
            answered += 1
            worst["h vapour"] = max(worst["h vapour"], abs(value("h_vapour", d) - h - shift["h"]))
            worst["s vapour"] = max(worst["s vapour"], abs(value("s_vapour", d) - s - shift["s"]))
            worst["rho vapour"] = max(worst["rho vapour"], abs(value("lnrho_vapour", d) - lnrho))
        for d in (1.0, 7.5, 15.0):
            h, _, _ = one_phase(state, pressure, bubble - d, CP.iphase_liquid)
            if np.isfinite(h):
                worst["h liquid"] = max(worst["h liquid"], abs(value("h_liquid", d) - h - shift["h"]))
    return (
        f"| {refrigerant.name} | {refrigerant.model} | {worst['h vapour'] / 1e3:.2f} | {worst['s vapour']:.2f} |"
        f" {worst['rho vapour'] * 100:.2f} | {worst['h liquid'] / 1e3:.2f} | {answered} of {asked} |\n"
    )


def main() -> None:
    rows, report = [], []
    for refrigerant in CATALOGUE:
        tables, line = tables_of(refrigerant)
        print(line, end="", file=sys.stderr)
        report.append(line)
        written = {name: tuple(values) for name, values in tables.items()}
        rows.append(f'    "{refrigerant.name}": {written!r},\n')
    TARGET.write_text(
        '"""Generated by scripts/make_property_tables.py; do not edit.\n\n'
        f"CoolProp {CoolProp.__version__}; polynomials in the curves' x, lowest power first. Enthalpy [J/kg] and entropy\n"
        "[J/(kg K)] from 200 kJ/kg and 1 kJ/(kg K) of saturated liquid at 0 C; ln of density [kg/m3]. `_a` and `_b` give\n"
        'the departure from saturation, see `properties`.\n"""\n\n'
        "TABLES: dict[str, dict[str, tuple[float, ...]]] = {\n" + "".join(rows) + "}\n"
    )
    REPORT.write_text(
        "# Enthalpy, entropy and density against CoolProp\n\n"
        f"Written by scripts/make_property_tables.py with CoolProp {CoolProp.__version__}: worst difference over"
        " superheats of 1 to 90 K and\nsubcoolings of 1 to 15 K, saturated up to 0.93 of the critical temperature.\n\n"
        "| refrigerant | reference | vapour h, kJ/kg | vapour s, J/(kg K) | vapour density, % | liquid h, kJ/kg |"
        " answered |\n| --- | --- | --- | --- | --- | --- | --- |\n" + "".join(report)
    )


if __name__ == "__main__":
    main()
