"""Where was searched for a leak, what was found, and what was done about it."""

from __future__ import annotations

from typing import Annotated, Literal, Self
from uuid import UUID

from pydantic import Field

from dry_gauge.core.errors import Refused
from dry_gauge.core.sealed.leak_search import BY_CODE, METHOD_WORDS
from dry_gauge.notebook.fields import Circuit, FewWords, of_circuit
from dry_gauge.notebook.kind import LEAST_REASON, Body, Case, Entry, Kept, Kind, Obstacle, Part, VisitState, in_time, kept
from dry_gauge.notebook.subjects.agenda import RECHECKS, RETURNS, Agenda


class LeakPlaceBody(Body):
    """A place searched: passed, failed or not reached."""

    kind: Literal["leak_place"] = "leak_place"
    place: FewWords
    result: Literal["passed", "failed", "not_reached"]
    method: FewWords = ""
    words: FewWords = ""
    """Where exactly: which bend, which flare. Two leaks at one place are two."""
    circuit: Circuit | None = None


class LeakCureBody(Body):
    """What was done about a leak. A patch has an expected life and is looked at again."""

    kind: Literal["leak_cure"] = "leak_cure"
    leak: UUID
    cure: Literal["tightened", "joint", "new_part", "patch", "isolated"]
    part: FewWords = ""
    months: Annotated[int, Field(ge=1, le=240)] | None = None


CURE_WORDS = {
    "tightened": "Tightened",
    "joint": "Joint redone",
    "new_part": "New part",
    "patch": "Patched for now",
    "isolated": "Shut off, not mended",
}
# A spanner opens nothing, nor does a valve that is shut.
_OPENS_NOTHING = frozenset({"tightened", "isolated"})
_LASTS = frozenset({"tightened", "joint", "new_part"})


class Leaks(Part):
    """By place the latest search of it, and every leak found there; cures by the leak's entry."""

    places: dict[str, Kept[LeakPlaceBody]] = {}
    cures: dict[str, Kept[LeakCureBody]] = {}

    @property
    def circuits(self) -> frozenset[int]:
        """Circuits that were searched."""
        return frozenset(one.body.circuit or 1 for one in self.places.values())

    def of_circuit(self, number: int) -> Self:
        """What was searched along one circuit, and the cures of its leaks."""
        elsewhere = {str(one.entry_id) for one in self.places.values() if (one.body.circuit or 1) != number}
        return self.model_copy(
            update={
                "places": {key: one for key, one in self.places.items() if str(one.entry_id) not in elsewhere},
                "cures": {key: one for key, one in self.cures.items() if key not in elsewhere},
            }
        )

    def with_result(self, result: str) -> tuple[str, ...]:
        """Places with that result."""
        return tuple(sorted({one.body.place for one in self.places.values() if one.body.result == result}))

    @property
    def opened_for(self) -> bool:
        """Whether the system was opened for one of the cures."""
        return any(one.body.cure not in _OPENS_NOTHING for one in self.cures.values())

    @property
    def mended(self) -> bool:
        """Whether a leak was mended for good and none is left."""
        return not self.to_mend and any(one.body.cure in _LASTS for one in self.cures.values())

    @property
    def searched(self) -> frozenset[str]:
        """Places that were searched, whatever came of it."""
        return frozenset(one.body.place for one in self.places.values())

    def at(self, place: str) -> tuple[Kept[LeakPlaceBody], ...]:
        """What was found at one place, the latest first."""
        return tuple(reversed(in_time(one for one in self.places.values() if one.body.place == place)))

    @property
    def to_mend(self) -> tuple[Kept[LeakPlaceBody], ...]:
        """Leaks that were found and have no cure yet."""
        return tuple(
            one for _, one in sorted(self.places.items()) if one.body.result == "failed" and str(one.entry_id) not in self.cures
        )


def place_words(code: str) -> str:
    """A place as it is written."""
    return BY_CODE[code].label if code in BY_CODE else code


def _searched(visit: VisitState, entry: Entry, body: LeakPlaceBody) -> VisitState:
    """A leak stands beside the others of its place; any other result speaks for the place of that circuit as a whole."""
    places, whole = visit[Leaks].places, f"{body.place}/{body.circuit or 1}"
    key = whole
    if body.result == "failed":
        key = f"{whole}/{body.words.casefold()}"
        places = {name: one for name, one in places.items() if name != whole}
    else:
        places = {name: one for name, one in places.items() if name != whole and not name.startswith(f"{whole}/")}
    return visit.changing(Leaks, places=places | {key: Kept[LeakPlaceBody](**kept(entry))})


def _cured(visit: VisitState, entry: Entry, body: LeakCureBody) -> VisitState:
    cures = visit[Leaks].cures | {str(body.leak): Kept[LeakCureBody](**kept(entry))}
    return visit.changing(Leaks, cures=cures)


def _unknown_place(case: Case[LeakPlaceBody]) -> None:
    body = case.body
    if body.place not in BY_CODE:
        raise Refused("Choose the place.", "place")
    if body.method and body.method not in METHOD_WORDS:
        raise Refused("Choose how it was searched.", "method")
    if body.result == "not_reached" and len(body.words) < LEAST_REASON:
        raise Refused("Say what kept you from it, so that the next one knows.", "words")


def _patch_without_end(case: Case[LeakCureBody]) -> None:
    body = case.body
    if body.cure == "patch" and body.months is None:
        raise Refused("Say how many months a patch is expected to last: it is looked at again before.", "months")


def _leak_of(case: Case[LeakCureBody]) -> dict[str, object]:
    body = case.body
    failed = (one for one in case.visit[Leaks].places.values() if one.body.result == "failed")
    return {"leak": next((one for one in failed if one.entry_id == body.leak), None)}


def _not_mended(visit: VisitState) -> list[Obstacle]:
    if visit[Agenda].booked(RETURNS):
        return []
    return [
        Obstacle("leak", f"Leak not mended: {_where(leak.body)}. Mend it, or book the return.", str(leak.entry_id))
        for leak in visit[Leaks].to_mend
    ]


def _patched(visit: VisitState) -> list[Obstacle]:
    patch = any(cure.body.cure == "patch" for cure in visit[Leaks].cures.values())
    if not patch or visit[Agenda].booked(RECHECKS):
        return []
    return [Obstacle("patch", "A patch is temporary: book its recheck.")]


def _where(body: LeakPlaceBody) -> str:
    return f"{place_words(body.place)}{f', {body.words}' if body.words else ''}{of_circuit(body.circuit)}"


def _place_said(body: LeakPlaceBody, _: VisitState) -> tuple[str, str]:
    words = (body.result.replace("_", " "), METHOD_WORDS.get(body.method, "").lower(), body.words)
    return place_words(body.place) + of_circuit(body.circuit), ", ".join(filter(None, words))


def _cure_said(body: LeakCureBody, _: VisitState) -> tuple[str, str]:
    lasts = f", expected to last {body.months} months" if body.months else ""
    return CURE_WORDS[body.cure], f"{body.part}{lasts}".strip(", ")


KINDS = (
    Kind(LeakPlaceBody, _place_said, _searched, refuse=_unknown_place, leaves_open=_not_mended),
    Kind(LeakCureBody, _cure_said, _cured, refuse=_patch_without_end, refers=_leak_of, leaves_open=_patched),
)
