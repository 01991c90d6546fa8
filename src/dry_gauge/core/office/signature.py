"""A signature as it was drawn: strokes of points in a box, and whether that is more than a dot."""

from __future__ import annotations

import json
from itertools import pairwise
from math import hypot
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from dry_gauge.core.errors import Refused

BOX_WIDTH, BOX_HEIGHT = 600, 200
MOST_POINTS = 6000
LEAST_LENGTH = 80.0
"""The shortest that is taken for a signature, in hundredths of a box's sixth: a dot and a dash are none (chosen)."""
_Point = tuple[Annotated[int, Field(ge=0, le=BOX_WIDTH)], Annotated[int, Field(ge=0, le=BOX_HEIGHT)]]


class Signature(BaseModel):
    """Drawn strokes, or a name typed in their place."""

    model_config = ConfigDict(frozen=True)
    strokes: tuple[tuple[_Point, ...], ...] = ()
    typed: bool = False

    @property
    def length(self) -> float:
        """How much was drawn."""
        return sum(hypot(b[0] - a[0], b[1] - a[1]) for stroke in self.strokes for a, b in pairwise(stroke))

    @property
    def path(self) -> str:
        """The strokes as an SVG path."""
        return "".join("M" + "L".join(f"{x} {y}" for x, y in stroke) for stroke in self.strokes if stroke)


def signature_of(drawn: str, typed: bool) -> Signature:
    """A signature as a form sends it.

    Parameters
    ----------
    drawn : str
        JSON: a list of strokes, each a list of points.

    Raises
    ------
    Refused
        For one dot, nothing, or what no hand draws; unless it is signed by typing the name.
    """
    if typed:
        return Signature(typed=True)
    try:
        found = Signature.model_validate({"strokes": json.loads(drawn) if drawn else []}, strict=False)
    except (ValidationError, ValueError, RecursionError):
        raise Refused("sign", "signature") from None
    if found.length < LEAST_LENGTH or sum(map(len, found.strokes)) > MOST_POINTS:
        raise Refused("sign", "signature")
    return found
