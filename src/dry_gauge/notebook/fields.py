"""What the fields of entries may hold: lengths and ranges, shared by every kind."""

from __future__ import annotations

from typing import Annotated

from pydantic import ConfigDict, Field, StringConstraints

FROZEN = ConfigDict(extra="forbid", frozen=True)

Words = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=4000)]
FewWords = Annotated[str, StringConstraints(strip_whitespace=True, max_length=200)]
SomeWords = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=400)]
Reason = Annotated[str, StringConstraints(strip_whitespace=True, min_length=3, max_length=400)]
Circuit = Annotated[int, Field(ge=1, le=99)]
FULL_DAY_MINUTES = 24 * 60


def of_circuit(circuit: int | None) -> str:
    """Which circuit, behind what it is said of; nothing for the first, which is meant where none is named."""
    return f", circuit {circuit}" if circuit and circuit > 1 else ""
