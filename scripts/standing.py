"""How much of what two sound units differ by stays with the unit, day after day: printed, for `FeatureRow.standing`.

Simulated units, each run on several days; what is left of each feature once the weather is taken out is split into the part
that is the unit's own and the part that changes with the day.
"""

from __future__ import annotations

import numpy as np

from dry_gauge.bench import field
from dry_gauge.bench.plant import Faults
from dry_gauge.core.judgement.calibration import group_of
from dry_gauge.core.judgement.features import FEATURES
from scripts.calibrate import SORTS, residuals, run, style

UNITS, DAYS, SEED = 250, 6, 20_261_127


def main() -> None:
    chance = np.random.default_rng(SEED)
    print(f"{'':22}" + "".join(f"{name:>16}" for name in SORTS))
    shares = {}
    for name, (kinds, mode, fixed) in SORTS.items():
        drawn = field.draw(UNITS, chance, style(), kinds, (mode,), fixed)
        left = []
        for _ in range(DAYS):
            day = field.other_day(drawn, chance)
            shown, good, _ = run(day, Faults.none(UNITS))
            features, context = residuals(day, shown, good)
            left.append(features - context @ group_of(name).expectation.T)
        days = np.array(left)  # days, units, features
        whole = np.isfinite(days).sum(axis=0) >= 3
        within = np.where(whole, np.nanvar(days, axis=0, ddof=1), np.nan)
        mean = np.where(whole, np.nanmean(days, axis=0), np.nan)
        between = np.nanvar(mean, axis=0) - np.nanmean(within, axis=0) / DAYS
        total = between + np.nanmean(within, axis=0)
        shares[name] = np.where(np.isfinite(total) & (total > 0), np.maximum(between, 0) / total, np.nan)
    for i, feature in enumerate(FEATURES):
        row = [shares[name][i] for name in SORTS]
        print(f"{feature:22}" + "".join(f"{one:16.2f}" for one in row) + f"   least {np.nanmin(row):.2f}")


if __name__ == "__main__":
    main()
