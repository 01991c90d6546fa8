"""Judging by a fold's calibration: one that has never seen some of the makes."""

from __future__ import annotations

import importlib.util
import sys
from pathlib import Path

FOLDER = Path(__file__).resolve().parent / "folds"
_NAME = "dry_gauge.core.judgement.calibration_data"


def use(fold: int) -> None:
    """Let this process judge by a fold's calibration; to be called before anything of the judgement is imported.

    Raises
    ------
    RuntimeError
        If the judgement has its calibration already.
    """
    if _NAME in sys.modules:
        raise RuntimeError("The judgement is loaded already: a fold has to be chosen before.")
    spec = importlib.util.spec_from_file_location(_NAME, FOLDER / f"fold_{fold}.py")
    if spec is None or spec.loader is None:
        raise RuntimeError(f"Fold {fold} is not calibrated: run `make calibrate`.")
    module = importlib.util.module_from_spec(spec)
    sys.modules[_NAME] = module
    spec.loader.exec_module(module)
