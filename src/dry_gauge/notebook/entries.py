"""Every kind that a technician can put into a visit's notebook, gathered from the subjects.

An entry's id is made by whoever writes it (UUIDv7), so that sending it again does no harm. A correction voids an
entry and adds another; both stay visible.
"""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules
from typing import Annotated, Any, Union

from pydantic import Field, TypeAdapter

from dry_gauge.notebook import subjects
from dry_gauge.notebook.kind import KINDS, Body, Kind, Part


def _gathered() -> tuple[list[Kind[Any]], dict[str, type[Part]]]:
    kinds: list[Kind[Any]] = []
    parts: dict[str, type[Part]] = {}
    for found in iter_modules(subjects.__path__):
        module = import_module(f"{subjects.__name__}.{found.name}")
        kinds += getattr(module, "KINDS", ())  # a part that others look at may stand in a file of its own
        parts |= {
            name.lower(): part
            for name, part in vars(module).items()
            if isinstance(part, type) and issubclass(part, Part) and part.__module__ == module.__name__
        }
    return kinds, parts


_KINDS, PARTS = _gathered()
KINDS.update({kind.name: kind for kind in _KINDS})
assert len(KINDS) == len(_KINDS), "two kinds are stored under one name"
# The union is made at run time: a subject's file is found by itself.
_ANY: Any = Annotated[Union[tuple(kind.body for kind in _KINDS)], Field(discriminator="kind")]  # noqa: UP007
BODY: TypeAdapter[Body] = TypeAdapter(_ANY)
"""Reads any body by its kind."""
