"""What is said of something that was not kept, and with which status."""

from __future__ import annotations

from dataclasses import dataclass

from dry_gauge.core.errors import Refused
from dry_gauge.service.append import IdTaken
from dry_gauge.web.weights import Doubtful


@dataclass(frozen=True, slots=True)
class Refusal:
    """Why an entry was not kept; and, where it could be meant in two ways, what to choose from."""

    error: str
    status: int
    choices: tuple[tuple[str, str], ...] = ()
    field: str = ""


def refusal_of(problem: Exception) -> Refusal:
    """What to say of an entry that was not kept."""
    match problem:
        case Doubtful():
            return Refusal(problem.message, 422, problem.choices, problem.path)
        case Refused():
            return Refusal(problem.message, 422)
        case IdTaken():
            return Refusal(str(problem), 409)
        case _:
            return Refusal(str(problem), 403)
