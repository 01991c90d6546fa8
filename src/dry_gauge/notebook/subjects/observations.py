"""What was looked at, listened to or felt."""

from __future__ import annotations

from collections.abc import Collection
from typing import Annotated, Literal

from pydantic import AfterValidator

from dry_gauge.core.intake import make_observation
from dry_gauge.core.vocabulary import OLDER_SIGHTS, SIGHTS, State
from dry_gauge.notebook.fields import Circuit
from dry_gauge.notebook.kind import Body, Case, Entry, Kept, Kind, Part, VisitState, in_time


class ObservationBody(Body):
    """One answer."""

    kind: Literal["observation"] = "observation"
    what: Annotated[str, AfterValidator(lambda what: OLDER_SIGHTS.get(what, what))]
    state: State
    circuit: Circuit | None = None


class Observations(Part):
    """The latest answers; keys read ``what/circuit``, circuit 0 where none was named."""

    latest: dict[str, Kept[ObservationBody]] = {}
    found: dict[str, Kept[ObservationBody]] = {}
    """What was answered yes first and not denied since, also where something done made the answer stale."""

    def of(self, what: str, circuit: int | None = None) -> Kept[ObservationBody] | None:
        """The latest answer to that question."""
        return self.latest.get(f"{what}/{circuit or 0}")

    def states(self) -> dict[str, State]:
        """Answers so far, by name: of several circuits the one that was given last."""
        return {one.body.what: one.body.state for one in in_time(self.latest.values())}

    def without(self, what: Collection[str]) -> Observations:
        """The same without those answers, of the whole unit."""
        stale = {f"{name}/0" for name in what}
        return self.model_copy(update={"latest": {key: one for key, one in self.latest.items() if key not in stale}})


def seen(visit: VisitState, entry: Entry, body: ObservationBody) -> VisitState:
    """The visit after an answer, given or following from another entry."""
    one = Kept[ObservationBody](entry_id=entry.id, at=entry.written_at, body=body)
    key, found = f"{body.what}/{body.circuit or 0}", visit[Observations].found
    if body.state is State.YES and (key not in found or key not in visit[Observations].latest):
        found = found | {key: one}
    elif body.state is State.NO:
        found = {name: other for name, other in found.items() if name != key}
    return visit.changing(Observations, latest=visit[Observations].latest | {key: one}, found=found)


def _looked(visit: VisitState, entry: Entry, body: ObservationBody) -> VisitState:
    return seen(visit, entry, body)


def _unknown(case: Case[ObservationBody]) -> None:
    body = case.body
    make_observation(body.what, body.state)


KINDS = (
    Kind(ObservationBody, lambda body, _: (SIGHTS[body.what].label, body.state.value.replace("_", " ")), _looked,
         refuse=_unknown),
)  # fmt: skip
