"""What was looked at, listened to or felt."""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime
from typing import Annotated, Literal

from pydantic import AfterValidator

from dry_gauge.core.intake import make_observation
from dry_gauge.core.visit.survey import is_finding
from dry_gauge.core.vocabulary import OLDER_SIGHTS, SIGHTS, State
from dry_gauge.notebook.fields import Circuit
from dry_gauge.notebook.kind import Body, Case, Entry, Kept, Kind, Part, VisitState, in_time


class ObservationBody(Body):
    """One answer. Coils are named by where they stand, ``evaporator`` the indoor one, also of a heat pump that heats."""

    kind: Literal["observation"] = "observation"
    what: Annotated[str, AfterValidator(lambda what: OLDER_SIGHTS.get(what, what))]
    state: State
    circuit: Circuit | None = None


class Observations(Part):
    """The latest answers; keys read ``what/circuit``, circuit 0 where none was named."""

    latest: dict[str, Kept[ObservationBody]] = {}
    found: dict[str, Kept[ObservationBody]] = {}
    """What was answered yes first and not denied since, also where something done made the answer stale."""

    @property
    def circuits(self) -> frozenset[int]:
        """Circuits that an answer names."""
        return frozenset(one.body.circuit for one in self.latest.values() if one.body.circuit)

    def of(self, what: str, circuit: int | None = None) -> Kept[ObservationBody] | None:
        """The answer to that question for one circuit, else for the unit; without a circuit the gravest of all."""
        if circuit is not None:
            return self.latest.get(f"{what}/{circuit}") or self.latest.get(f"{what}/0")
        listed = in_time(one for one in self.latest.values() if one.body.what == what)
        return max(listed, key=lambda one: is_finding(what, one.body.state), default=None)

    def states(self) -> dict[str, State]:
        """Answers so far, by name: of several circuits the gravest."""
        found: dict[str, State] = {}
        for one in in_time(self.latest.values()):
            if not is_finding(one.body.what, found.get(one.body.what, State.NOT_SEEN)):
                found[one.body.what] = one.body.state
        return found

    def without(self, what: Collection[str], until: datetime) -> Observations:
        """The same without those answers, of whichever circuit, that were given up to then."""
        stays = {key: one for key, one in self.latest.items() if one.body.what not in what or one.at > until}
        return self.model_copy(update={"latest": stays})


def seen(visit: VisitState, entry: Entry, body: ObservationBody) -> VisitState:
    """The visit after an answer, given or following from another entry; one given later stands against it."""
    if any(other.at > entry.written_at and _covers(body, other.body) for other in visit[Observations].latest.values()):
        return visit
    one = Kept[ObservationBody](entry_id=entry.id, at=entry.written_at, body=body)
    key, found, latest = f"{body.what}/{body.circuit or 0}", visit[Observations].found, visit[Observations].latest
    if body.state is not State.NOT_SEEN:
        first = {key: found[key] if key in found and key in latest else one} if body.state is State.YES else {}
        found = {name: other for name, other in found.items() if not _covers(body, other.body)} | first
    latest = {name: other for name, other in latest.items() if not _covers(body, other.body)}
    return visit.changing(Observations, latest=latest | {key: one}, found=found)


def _covers(body: ObservationBody, other: ObservationBody) -> bool:
    """Whether an answer takes the place of an earlier one.

    One for the unit speaks for each of its circuits. One for the first circuit replaces what was said before a second
    one was known: without a number the first circuit was meant, as with readings.
    """
    same = body.circuit is None or other.circuit == body.circuit or (body.circuit == 1 and other.circuit is None)
    return other.what == body.what and same


def _looked(visit: VisitState, entry: Entry, body: ObservationBody) -> VisitState:
    return seen(visit, entry, body)


def _unknown(case: Case[ObservationBody]) -> None:
    body = case.body
    make_observation(body.what, body.state)


def sight_label(what: str, circuit: int | None) -> str:
    """What is looked at, with its circuit where one was named."""
    return SIGHTS[what].label + (f", circuit {circuit}" if circuit else "")


def _said(body: ObservationBody, _: VisitState) -> tuple[str, str]:
    return sight_label(body.what, body.circuit), body.state.value.replace("_", " ")


KINDS = (Kind(ObservationBody, _said, _looked, refuse=_unknown),)
