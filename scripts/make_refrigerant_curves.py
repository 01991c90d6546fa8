"""Writes core/refrigerants/curves.py: the saturation curves of every catalogue refrigerant, from CoolProp.

Run by hand when the catalogue or CoolProp changes (`.venv/bin/python scripts/make_refrigerant_curves.py`); takes a
minute. Each curve is a polynomial of degree 12 in normalised ln p. CoolProp's blend solver fails or lands on
false roots at ordinary states; the fit goes through the points it solves and that lie on one smooth curve, bridges
the holes between them, lists them in docs/saturation-holes.csv, and refuses a table with an end missing.
"""

from __future__ import annotations

import csv
import sys
from contextlib import suppress
from itertools import combinations
from pathlib import Path

import CoolProp
import CoolProp.CoolProp as CP
import numpy as np
from numpy.polynomial import Chebyshev, Polynomial

from dry_gauge.core.refrigerants.catalogue import CATALOGUE, Refrigerant

ROOT = Path(__file__).resolve().parent.parent
TARGET = ROOT / "src/dry_gauge/core/refrigerants/curves.py"
HOLES = ROOT / "docs/saturation-holes.csv"
REPORT = ROOT / "docs/saturation.md"
CHECKED = np.linspace(-0.997, 0.997, 401)  # off the nodes, where a wiggle between them would show

DEGREE = 12
POINTS = 241  # enough that a hole of a tenth of the range still leaves the fit over-determined
LOWEST_K = (-50.0 - 32) / 1.8 + 273.15
LOWEST_R744_K = (-60.0 - 32) / 1.8 + 273.15
TOP_FRACTION = 0.98  # of the critical temperature: nearer, ln p is no longer smooth in degree 12
SMOOTH_K = 0.002  # a solved point further than this from its neighbours' curve is a false root
COOLPROP_NAMES = {"R-290": "n-Propane", "R-600a": "IsoButane", "R-717": "Ammonia", "R-744": "CarbonDioxide"}


def abstract_state(refrigerant: Refrigerant) -> CP.AbstractState:
    plain = refrigerant.name.replace("-", "")
    if refrigerant.model in ("pure", "pseudo-pure"):
        return CP.AbstractState("HEOS", COOLPROP_NAMES.get(refrigerant.name, plain))
    return CP.AbstractState("HEOS", f"{plain}.mix")


def fill_missing_pairs(refrigerant: Refrigerant) -> None:
    """CoolProp's 'linear' mixing rule for component pairs without fitted parameters."""
    if refrigerant.model != "estimated":
        return
    cas_numbers = [CP.get_fluid_param_string(name, "CAS") for name in mixture_components(refrigerant)]
    for first, second in combinations(cas_numbers, 2):
        with suppress(ValueError):  # raised for a pair that has fitted parameters, which then stay
            CP.apply_simple_mixing_rule(first, second, "linear")


def mixture_components(refrigerant: Refrigerant) -> list[str]:
    names = {"R-600a": "IsoButane", "R-600": "n-Butane", "R-601a": "Isopentane", "R-290": "n-Propane", "R-152a": "R152A"}
    return [names.get(name, name.replace("-", "")) for name, _ in refrigerant.composition]


def top_temperature(state: CP.AbstractState, refrigerant: Refrigerant) -> tuple[float, float]:
    """Highest temperature of the table and the critical (or envelope top) temperature, K."""
    if refrigerant.model in ("pure", "pseudo-pure"):
        critical = state.T_critical()
    else:
        state.build_phase_envelope("none")
        critical = max(state.get_phase_envelope_data().T)
    return TOP_FRACTION * critical, critical


def solve(state: CP.AbstractState, pressure_pa: float, quality: float) -> float:
    try:
        state.update(CP.PQ_INPUTS, pressure_pa, quality)
    except ValueError:
        return np.nan
    return state.T()


def solve_pressure(state: CP.AbstractState, temperature_k: float, quality: float) -> float:
    try:
        state.update(CP.QT_INPUTS, quality, temperature_k)
    except ValueError:
        return np.nan
    return state.p()


def pressure_near(state: CP.AbstractState, temperature_k: float, step_k: float) -> tuple[float, float]:
    """Dew pressure at the first solvable temperature from `temperature_k` going by `step_k`."""
    for i in range(40):
        pressure = solve_pressure(state, temperature_k + i * step_k, 1.0)
        if np.isfinite(pressure):
            return pressure, temperature_k + i * step_k
    raise SystemExit(f"no end of range near {temperature_k:.1f} K")


def smooth_fit(x: np.ndarray, y: np.ndarray) -> tuple[Chebyshev, np.ndarray]:
    """Fit of degree DEGREE through the points that lie on one smooth curve; returns it and their mask."""
    good = np.isfinite(y)
    # Dew and bubble temperatures only rise with pressure: a false root stands far out against a running median.
    rough = Chebyshev.fit(x[good], y[good], 5, domain=[-1, 1])
    for _ in range(4):
        spread = np.median(np.abs(y[good] - rough(x[good]))) * 6 + 0.05
        good &= np.abs(np.nan_to_num(y, nan=1e9) - rough(x)) < spread
        rough = Chebyshev.fit(x[good], y[good], 7, domain=[-1, 1])
    for _ in range(60):
        fit = Chebyshev.fit(x[good], y[good], DEGREE, domain=[-1, 1])
        error = np.where(good, np.abs(y - fit(x)), 0)
        worst = int(np.argmax(error))
        if error[worst] < SMOOTH_K:
            return fit, good
        good[worst] = False
    raise SystemExit(f"cannot find a smooth curve: {error[worst]:.4f} K left")


def main() -> None:
    holes: list[tuple[str, str, float]] = []
    rows: list[str] = []
    report: list[str] = []
    for refrigerant in CATALOGUE:
        fill_missing_pairs(refrigerant)
        state = abstract_state(refrigerant)
        top_k, critical_k = top_temperature(state, refrigerant)
        lowest_k = LOWEST_R744_K if refrigerant.name == "R-744" else LOWEST_K
        low_pa, lowest_k = pressure_near(state, lowest_k, 0.25)
        high_pa, top_k = pressure_near(state, top_k, -0.5)
        middle, half = (np.log(high_pa) + np.log(low_pa)) / 2, (np.log(high_pa) - np.log(low_pa)) / 2
        x = np.cos(np.linspace(np.pi, 0, POINTS))  # dense at the ends, where polynomials go astray
        fields = []
        for side, quality in (("dew", 1.0), ("bubble", 0.0)):
            temperatures = np.array([solve(state, float(np.exp(middle + half * xi)), quality) for xi in x])
            fit, good = smooth_fit(x, temperatures)
            if not (good[:4].any() and good[-4:].any()):
                raise SystemExit(f"{refrigerant.name} {side}: an end of the range is missing")
            if not np.all(np.diff(fit(np.linspace(-1, 1, 2001))) > 0):
                raise SystemExit(f"{refrigerant.name} {side}: not monotone")
            holes += [(refrigerant.name, side, float(np.exp(middle + half * xi))) for xi in x[~good]]
            asked = np.array([solve(state, float(np.exp(middle + half * xi)), quality) for xi in CHECKED])
            open_states = CHECKED[np.isnan(asked)]
            holes += [(refrigerant.name, side, float(np.exp(middle + half * xi))) for xi in open_states]
            error = np.abs(asked - fit(CHECKED))
            report.append(
                f"| {refrigerant.name} | {side} | {refrigerant.model} | {low_pa / 6894.757:.1f} to {high_pa / 6894.757:.1f} |"
                f" {np.nanmax(error):.4f} | {len(CHECKED) - len(open_states)} | {len(open_states)} |\n"
            )
            # The way back, ln p from temperature, starts Newton's method within a kelvin.
            t_low, t_high = float(fit(-1.0)), float(fit(1.0))
            grid = np.linspace(-1, 1, 401)
            t_norm = (2 * fit(grid) - t_low - t_high) / (t_high - t_low)
            back = Chebyshev.fit(t_norm, grid, 7, domain=[-1, 1])
            forward = fit.convert(kind=Polynomial).coef
            inverse = back.convert(kind=Polynomial).coef
            fields += [tuple(float(c) for c in forward), tuple(float(c) for c in inverse), t_low, t_high]
            print(
                f"{refrigerant.name:12} {side:6} {low_pa / 6894.757:8.2f}..{high_pa / 6894.757:8.1f} psia "
                f"{t_low:.1f}..{t_high:.1f} K  holes {int((~good).sum())}  "
                f"worst {np.abs(temperatures - fit(x))[good].max():.5f} K",
                file=sys.stderr,
            )
        numbers = ",\n        ".join(repr(field) for field in fields)
        rows.append(
            f'    "{refrigerant.name}": (\n        {float(middle)!r}, {float(half)!r}, {float(critical_k)!r}, '
            f"{float(low_pa)!r}, {float(high_pa)!r},\n        {numbers},\n    ),\n"
        )
    TARGET.write_text(
        '"""Generated by scripts/make_refrigerant_curves.py; do not edit.\n\n'
        f"CoolProp {CoolProp.__version__}, polynomials of degree {DEGREE} in normalised ln p, lowest power first.\n"
        "Each row: middle and half width of ln p [p in Pa], critical temperature [K], lowest and highest pressure\n"
        "[Pa]; then for dew and for bubble: temperature [K] of x, first guess of x from temperature, and the\n"
        'temperatures [K] at both ends.\n"""\n\n'
        f'COOLPROP_VERSION = "{CoolProp.__version__}"\n\n'
        "Coefficients = tuple[float, ...]\n"
        "CURVES: dict[\n    str,\n    tuple[\n        float, float, float, float, float,\n"
        "        Coefficients, Coefficients, float, float,\n        Coefficients, Coefficients, float, float,\n"
        "    ],\n] = {\n" + "".join(rows) + "}\n"
    )
    HOLES.parent.mkdir(exist_ok=True)
    with HOLES.open("w", newline="") as file:
        writer = csv.writer(file)
        writer.writerow(["refrigerant", "curve", "pressure_pa"])
        writer.writerows((name, side, f"{pressure:.1f}") for name, side, pressure in holes)
    REPORT.write_text(
        "# Saturation curves against CoolProp\n\n"
        f"Written by scripts/make_refrigerant_curves.py with CoolProp {CoolProp.__version__}: 401 pressures over each range,"
        " off the\nnodes of the fit. States that CoolProp does not answer are listed in saturation-holes.csv and bridged"
        " by the curve\nthrough their neighbours.\n\n"
        "| refrigerant | curve | reference | psia | worst, K | answered | not answered |\n"
        "| --- | --- | --- | --- | --- | --- | --- |\n" + "".join(report)
    )
    print(f"{len(holes)} states CoolProp {CoolProp.__version__} did not solve: {HOLES.name}", file=sys.stderr)


if __name__ == "__main__":
    main()
