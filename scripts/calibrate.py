"""`make calibrate`: writes core/judgement/calibration_data.py and calibration_low_stage.py, what simulated units teach it.

To be run when the bench or the hypotheses change. Beside the one that ships, taught by every make, a calibration for each fold
of makes that it has never seen goes to scripts/folds: `make accuracy` measures with those. Every faulty unit is solved beside its
healthy twin, in the same weather with the same departures from the nameplate; what the two differ by is what the fault does.
Seeds here are never those of `accuracy`.
"""

from __future__ import annotations

import hashlib
import sys
import zlib
from base64 import b85encode
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from pathlib import Path

import numpy as np

from dry_gauge.bench import field
from dry_gauge.bench.instruments import NAMES, as_readings, in_table, misread, true_readings
from dry_gauge.bench.machine import Machine
from dry_gauge.bench.makes import FOLDS, kept
from dry_gauge.bench.plant import Faults
from dry_gauge.bench.solve import solve
from dry_gauge.core.circuit import derive
from dry_gauge.core.judgement.features import CONDITIONS, FEATURE_ROWS, FEATURES, conditions, observe, vapour_step
from dry_gauge.core.judgement.habits import GAPS, habit_f, signatures
from dry_gauge.core.judgement.hypotheses import (
    HYPOTHESES,
    MECHANISMS,
    OTHER_FILLINGS,
    SINGLE_SEVERITIES,
    SIZES_DRAWN,
    Hypothesis,
    Misreading,
    hypotheses_digest,
)
from dry_gauge.core.quantities import FAHRENHEIT_K
from dry_gauge.core.sheet import Sheet
from dry_gauge.core.vocabulary import Kind, Mode
from scripts.bends import bends, evened, unevenness
from scripts.scatter import directions

TARGET = Path(__file__).resolve().parent.parent / "src/dry_gauge/core/judgement/calibration_data.py"
TARGET_LOW = TARGET.with_name("calibration_low_stage.py")
Learnt = dict[str, np.ndarray]
"""Arrays by their names in `calibration.Group`."""
Calibrate = Callable[[str, int | None], Learnt]
FOLDER = Path(__file__).resolve().parent / "folds"
SEED = 20_261_123
HEALTHY_UNITS = 3000
DRAWS = {1: 72, 2: 14, 3: 14}
FILLINGS_DRAWN = 160
LOW_STAGE = (0.55, 0.8)  # of the full stage: two-stage compressors of comfort units, and two beside each other
COMFORT = tuple(kind for kind in Kind if not kind.is_walk_in)
PUMPS = tuple(kind for kind in Kind if kind.is_heat_pump)
BOXES = (Kind.WALK_IN_COOLER, Kind.WALK_IN_FREEZER)
SORTS: dict[str, tuple[Sequence[Kind], Mode, bool]] = {
    "comfort_fixed": (COMFORT, Mode.COOLING, True),
    "comfort_valve": (COMFORT, Mode.COOLING, False),
    "heating_fixed": (PUMPS, Mode.HEATING, True),
    "heating_valve": (PUMPS, Mode.HEATING, False),
    "cooler": ((Kind.WALK_IN_COOLER,), Mode.COOLING, False),
    "freezer": ((Kind.WALK_IN_FREEZER,), Mode.COOLING, False),
    "box_fixed": (BOXES, Mode.COOLING, True),
}


def residuals(
    drawn: field.Field, shown: dict[str, np.ndarray], good: np.ndarray, *, as_filled: bool = False
) -> tuple[np.ndarray, np.ndarray]:
    """Features and conditions of every unit as the judgement would see them; NaN where it would not.

    `as_filled` reads the gauges by what is really in the unit.
    """
    features = np.full((len(good), len(FEATURES)), np.nan)
    context = np.full((len(good), len(CONDITIONS)), np.nan)
    for i in np.flatnonzero(good):
        pressure = float(drawn.weather.atmosphere_pa[i])
        facts = field.with_rating(drawn.facts[i], float(shown["rated_load_amps"][i]))
        filling = drawn.nameplates[i].filled_with
        if as_filled and filling:
            facts = replace(facts, refrigerant=filling)
        view = Sheet(facts, as_readings(shown, i, NAMES, pressure)).circuit(1)
        seen = observe(view, derive(view))
        features[i, seen.at] = seen.values
        context[i] = conditions(view).values
    return features, context


def run(drawn: field.Field, faults: Faults) -> tuple[dict[str, np.ndarray], np.ndarray, Machine]:
    machine = drawn.built()
    solution = solve(machine, drawn.weather, faults)
    shown = true_readings(machine, drawn.weather, faults, solution)
    return shown, solution.solved & in_table(machine, shown), machine


def severities(hypotheses: Sequence[Hypothesis]) -> Faults:
    table = np.zeros((len(MECHANISMS), len(hypotheses)))
    for column, hypothesis in enumerate(hypotheses):
        for fault, severity in hypothesis.faults:
            if fault in MECHANISMS:
                table[MECHANISMS.index(fault), column] = severity
    return Faults(table)


def style(fold: int | None = None) -> field.Style:
    """Units of the makes that a fold learns from, all of whose labels are known."""
    return field.Style(told=1.0, makes=kept(fold))


def sound(healthy: field.Field) -> Learnt:
    """What sound units show, by the conditions; how they differ from that; and in which conditions they differ more."""
    shown, good, _ = run(healthy, Faults.none(len(healthy.facts)))
    features, context = residuals(healthy, shown, good)
    expectation = np.zeros((len(FEATURES), len(CONDITIONS)))
    left = np.full_like(features, np.nan)
    for i in range(len(FEATURES)):
        rows = np.isfinite(features[:, i])
        if rows.sum() < 100:
            continue
        x, y = context[rows], features[rows, i]
        if FEATURE_ROWS[i].by_itself:
            x = x * (np.arange(len(CONDITIONS)) == 0)
        ridge = 1e-3 * rows.sum() * np.eye(len(CONDITIONS))
        ridge[0, 0] = 0
        expectation[i] = np.linalg.solve(x.T @ x + ridge, x.T @ y)
        left[rows, i] = y - x @ expectation[i]
    uneven = unevenness(left, context)
    uneven[[row.by_itself for row in FEATURE_ROWS]] = 0.0
    spread = np.ma.cov(np.ma.masked_invalid(evened(left, context, uneven)).T).filled(0.0)
    spread = np.atleast_2d(spread)
    spread[np.isnan(spread)] = 0.0
    spread[np.diag_indices(len(FEATURES))] = np.where(np.diag(spread) > 0, np.diag(spread), 1e4)
    return {"expectation": expectation, "unit_spread": spread, "uneven": uneven}


def in_low_stage(name: str, fold: int | None) -> Learnt:
    """What sound units of a sort show in their lower stage."""
    kinds, mode, fixed = SORTS[name]
    chance = np.random.default_rng((SEED, len(SORTS) + list(SORTS).index(name), FOLDS if fold is None else fold))
    drawn = field.draw(HEALTHY_UNITS, chance, style(fold), kinds, (mode,), fixed)
    return sound(replace(drawn, weather=drawn.weather.in_low_stage(LOW_STAGE, chance)))


def calibrate(name: str, fold: int | None) -> Learnt:
    kinds, mode, fixed = SORTS[name]
    chance = np.random.default_rng((SEED, list(SORTS).index(name), FOLDS if fold is None else fold))
    drawn_from = style(fold)

    def draw(n: int, mistaken: bool = False) -> field.Field:
        return field.draw(n, chance, drawn_from, kinds, (mode,), fixed, mistaken)

    healthy = sound(draw(HEALTHY_UNITS))
    expectation, spread = healthy["expectation"], healthy["unit_spread"]

    rows = [k for k, hypothesis in enumerate(HYPOTHESES) for _ in range(draws_of(hypothesis))]
    hypotheses = [HYPOTHESES[k] for k in rows]
    foreign = np.array([h.filling is not None for h in hypotheses])
    shifts, before = (np.full((len(rows), len(FEATURES)), np.nan) for _ in range(2))
    around = np.full((len(rows), len(CONDITIONS)), np.nan)
    steps = np.zeros(len(rows))
    for which, mistaken in ((np.flatnonzero(~foreign), False), (np.flatnonzero(foreign), True)):
        chosen = [hypotheses[i] for i in which]
        drawn = draw(len(chosen), mistaken)
        twin = field.as_labelled(drawn)
        drawn = field.warmed(drawn, severities(chosen), chance)
        shown, good, machine = run(drawn, severities(chosen))
        plain, fine, _ = run(twin, Faults.none(len(chosen)))
        for kind in Misreading:
            wrong = np.array([h.misreading is kind for h in chosen])
            if wrong.any():
                size = np.array([h.size for h in chosen])
                misled = misread(shown, kind, size, machine, drawn.weather)
                shown = {key: np.where(wrong, misled[key], shown[key]) for key in shown}
        both = good & fine
        sick, sick_context = residuals(drawn, shown, both, as_filled=mistaken)
        well, well_context = residuals(twin, plain, both)
        steps[which] = [vapour_step(p.refrigerant, p.filled_with or p.refrigerant) for p in drawn.nameplates]
        before[which], around[which] = well, well_context
        shifts[which] = (sick - sick_context @ expectation.T) - (well - well_context @ expectation.T)
    means, scatter = np.zeros((len(HYPOTHESES), len(FEATURES))), np.zeros((len(HYPOTHESES), len(FEATURES)))
    rows_array = np.array(rows)
    usual = np.array([column[np.isfinite(column)].mean() if np.isfinite(column).any() else 0.0 for column in before.T])
    around[np.isnan(around[:, 0])] = np.nanmean(around, axis=0)
    keeps, leans = bends(shifts, before - usual, around, rows_array)
    # From here on: a unit that stood where they usually stand, in usual conditions.
    shifts -= np.nan_to_num((keeps[rows_array] - 1) * (before - usual))
    shifts -= np.einsum("nm,mfc,nc->nf", SIZES_DRAWN[rows_array], leans, around)
    other = np.flatnonzero(foreign)
    filling, filling_scatter = fit_fillings(shifts[other], steps[other])
    for k, hypothesis in enumerate(HYPOTHESES):
        mine = np.flatnonzero(rows_array == k)
        if hypothesis.filling:
            # How a unit runs on another filling follows from how much denser its vapour is than the label's.
            scatter[k] = filling_scatter
            continue
        block = shifts[mine]
        known = np.isfinite(block).sum(axis=0)
        with np.errstate(all="ignore"):
            mean = np.where(known > 0, np.nansum(block, axis=0) / np.maximum(known, 1), np.nan)
            deviation = np.sqrt(np.nansum((block - mean) ** 2, axis=0) / np.maximum(known - 1, 1))
        means[k], scatter[k] = np.nan_to_num(mean), np.nan_to_num(deviation)
        if known.max() < 3 and hypothesis.faults:  # trips in most weather: it then looks like the next lesser one
            means[k], scatter[k] = means[k - 1], scatter[k - 1]
    smooth_singles(means, shifts, rows_array)
    for k, hypothesis in enumerate(HYPOTHESES):
        if hypothesis.by_habit:
            means[k], scatter[k] = as_the_trade_says(hypothesis, name, means, scatter)
    print(
        f"{name}, {'all makes' if fold is None else f'fold {fold}'}: {good.mean():.3f} solved, spread "
        + ", ".join(
            f"{row.name} {np.sqrt(spread[i, i]) / (FAHRENHEIT_K if row.difference else 1):.2f}"
            for i, row in enumerate(FEATURE_ROWS)
        ),
        file=sys.stderr,
    )
    scale = np.maximum(np.sqrt(np.diag(spread)), LEAST_SPREAD)
    together, scatter = directions(means, scatter, shifts, rows_array, scale)
    return healthy | {
        "shifts": means,
        "spreads": scatter,
        "fillings": filling,
        "directions": together,
        "keeps": keeps,
        "usual": usual,
        "leans": leans,
    }


GAP_OF = {"coil_superheat": "superheat", "inlet_superheat": "superheat"} | {gap: gap for gap in GAPS}
LEAST_SPREAD = np.array([row.least_spread for row in FEATURE_ROWS])
HABIT_REACH, HABIT_DOUBT_K = 0.3, 1.0  # by how much units differ in what a fault does to a gap, by the trade


def as_the_trade_says(hypothesis: Hypothesis, name: str, means: np.ndarray, scatter: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Shift and scatter of a fault by the trade's habits; of what they do not speak of, as the bench shows it."""
    ((fault, severity),) = hypothesis.faults
    mine = [HYPOTHESES.index(Hypothesis(((fault, s),))) for s in SINGLE_SEVERITIES]
    shift, spread = (
        np.array([np.interp(severity, SINGLE_SEVERITIES, table[mine, i]) for i in range(len(FEATURES))])
        for table in (means, scatter)
    )
    kinds, mode, fixed = SORTS[name]
    boxes = all(kind.is_walk_in for kind in kinds)
    row = signatures(fixed=fixed, receiver=boxes and not fixed, heating=mode is Mode.HEATING)[fault]
    for i, feature in enumerate(FEATURES):
        if feature in GAP_OF:
            shift[i] = habit_f(row, GAP_OF[feature], severity) * FAHRENHEIT_K
            spread[i] = np.hypot(HABIT_REACH * shift[i], HABIT_DOUBT_K)
    return shift, spread


def smooth_singles(means: np.ndarray, shifts: np.ndarray, rows: np.ndarray) -> None:
    """A fault's shift over its sizes as one curve from nothing; single draws differ more than neighbouring sizes do."""
    for fault in MECHANISMS:
        mine = [HYPOTHESES.index(Hypothesis(((fault, size),))) for size in SINGLE_SEVERITIES]
        sizes = {k: HYPOTHESES[k].faults[0][1] for k in mine}
        drawn = np.flatnonzero(np.isin(rows, mine))
        felt = np.array([sizes[k] for k in rows[drawn]])
        for i in range(len(FEATURES)):
            known = np.isfinite(shifts[drawn, i])
            if known.sum() < 30:
                continue
            x = np.stack([felt, felt**2, felt**3], axis=1)[known]
            y = shifts[drawn, i][known]
            curve = np.linalg.solve(x.T @ x + 0.05 * np.eye(3), x.T @ y)
            for k in mine:
                step = sizes[k]
                means[k, i] = curve @ np.array([step, step**2, step**3])


def fit_fillings(shifts: np.ndarray, steps: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """How a unit runs on another filling, by how much denser its vapour is: coefficients of 1, step, step^2."""
    coefficients, scatter = np.zeros((3, len(FEATURES))), np.zeros(len(FEATURES))
    basis = np.stack([np.ones_like(steps), steps, steps**2], axis=1)
    for i in range(len(FEATURES)):
        rows = np.isfinite(shifts[:, i])
        if rows.sum() < 20:
            continue
        x, y = basis[rows], np.clip(shifts[rows, i], *np.nanpercentile(shifts[rows, i], [3, 97]))
        coefficients[:, i] = np.linalg.solve(x.T @ x + 0.5 * np.eye(3), x.T @ y)
        scatter[i] = np.std(y - x @ coefficients[:, i])
    return coefficients, scatter


def draws_of(hypothesis: Hypothesis) -> int:
    if hypothesis.by_habit:
        return 0
    if hypothesis.misreading:
        return 16
    if not hypothesis.faults:
        return 2
    if hypothesis.filling:
        return FILLINGS_DRAWN // len(OTHER_FILLINGS)
    return DRAWS[len(hypothesis.faults)]


def pack(array: np.ndarray) -> str:
    raw = np.clip(array, -6e4, 6e4).astype("<f2").tobytes()
    return f"({array.shape!r}, {b85encode(zlib.compress(raw, 9)).decode()!r})"


def names() -> str:
    """What the arrays' rows and columns stand for, in order."""
    rows = "".join(
        f"{name} = (\n" + "".join(f'    "{one}",\n' for one in listed) + ")\n"
        for name, listed in (("FEATURE_NAMES", FEATURES), ("CONDITION_NAMES", CONDITIONS))
    )
    return f'{rows}HYPOTHESES_DIGEST = "{hypotheses_digest()}"\n'


def written(blocks: Mapping[str, Learnt], of: str) -> str:
    """A calibration as a module."""
    text = "".join(
        f'    "{name}": {{\n' + "".join(f'        "{array}": {pack(learnt[array])},\n' for array in learnt) + "    },\n"
        for name, learnt in blocks.items()
    )
    ident = hashlib.sha256(text.encode()).hexdigest()[:10]
    return (
        '"""Generated by scripts/calibrate.py; do not edit.\n\n'
        f"For each sort of unit{of} the arrays of `calibration.Group` by name: shape and half-precision numbers,\n"
        'compressed, in base 85.\n"""\n\n'
        f'CALIBRATION_ID = "{ident}"\n{names()}\nPacked = tuple[tuple[int, ...], str]\n\n'
        f"GROUPS: dict[str, dict[str, Packed]] = {{\n{text}}}\n"
    )


def main() -> None:
    folds = (None, *range(FOLDS))
    low_sorts = [name for name, (kinds, _, _) in SORTS.items() if not kinds[0].is_walk_in]
    parts: tuple[tuple[Path, str, str, Calibrate, Sequence[str]], ...] = (
        (TARGET, "fold", "", calibrate, tuple(SORTS)),
        (TARGET_LOW, "low_stage", " in its lower stage", in_low_stage, low_sorts),
    )
    wanted = sys.argv[1:] or [stem for _, stem, *_ in parts]
    FOLDER.mkdir(exist_ok=True)
    with ProcessPoolExecutor() as pool:
        for whole, stem, of, learn, sorts in parts:
            if stem not in wanted:
                continue
            blocks = {fold: {name: pool.submit(learn, name, fold) for name in sorts} for fold in folds}
            for fold in folds:
                target = whole if fold is None else FOLDER / f"{stem}_{fold}.py"
                target.write_text(written({name: block.result() for name, block in blocks[fold].items()}, of))
                print(f"{target.name}, {target.stat().st_size / 1e3:.0f} kB", file=sys.stderr)


if __name__ == "__main__":
    main()
