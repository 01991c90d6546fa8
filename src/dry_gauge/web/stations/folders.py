"""What lies in a station's folder."""

from __future__ import annotations

from collections.abc import Mapping
from importlib import import_module
from importlib.util import find_spec
from pathlib import Path

from dry_gauge.web.typed import Reads


def forms_of(name: str) -> Mapping[str, Reads]:
    """The forms of the station in that folder; none where it has none of its own."""
    if find_spec(f"dry_gauge.web.stations.{name}.forms") is None:
        return {}
    found: Mapping[str, Reads] = import_module(f"dry_gauge.web.stations.{name}.forms").FORMS
    return found


def template_in(name: str, file: str) -> str:
    """A template of the station in that folder; nothing where it has none."""
    return f"stations/{name}/{file}" if (Path(__file__).parent / name / file).is_file() else ""
