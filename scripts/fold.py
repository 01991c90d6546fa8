"""Judging by a fold's calibration: one that has never seen some of the makes."""

from __future__ import annotations

import importlib.util
import pickle
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

from dry_gauge.bench.makes import FOLDS

FOLDER = Path(__file__).resolve().parent / "folds"
_ROOM = "dry_gauge.core.judgement"
_FILES = {"calibration_data": "fold", "calibration_low_stage": "low_stage"}


def use(fold: int) -> None:
    """Let this process judge by a fold's calibration; to be called before anything of the judgement is imported.

    Raises
    ------
    RuntimeError
        If the judgement has its calibration already.
    """
    for name, stem in _FILES.items():
        _use(f"{_ROOM}.{name}", FOLDER / f"{stem}_{fold}.py")


def _use(name: str, file: Path) -> None:
    if name in sys.modules:
        raise RuntimeError("The judgement is loaded already: a fold has to be chosen before.")
    spec = importlib.util.spec_from_file_location(name, file)
    if spec is None or spec.loader is None or not file.exists():
        raise RuntimeError(f"{file.name} is not calibrated: run `make calibrate`.")
    module = importlib.util.module_from_spec(spec)
    sys.modules[name] = module
    spec.loader.exec_module(module)


def counted(script: str, function: str) -> list[Any]:
    """What that function of a script left in its file for every fold, each in a process of its own that judges by the fold.

    Raises
    ------
    RuntimeError
        If one of them failed; it says itself why.
    """
    call = (
        f"import sys; from scripts.fold import use; use(int(sys.argv[1])); from scripts.{script} import {function}; "
        f"{function}(int(sys.argv[1]), sys.argv[2])"
    )
    with tempfile.TemporaryDirectory() as folder:
        targets = [Path(folder) / str(fold) for fold in range(FOLDS)]
        running = [subprocess.Popen([sys.executable, "-c", call, str(fold), str(target)]) for fold, target in enumerate(targets)]
        exits = [process.wait() for process in running]
        if any(exits):
            raise RuntimeError("A fold could not be measured: see above.")
        return [pickle.loads(target.read_bytes()) for target in targets]  # written just now, by ourselves
