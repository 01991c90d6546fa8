"""Words, pictures, and cautions that were read."""

from __future__ import annotations

from typing import Annotated, Literal
from uuid import UUID

from pydantic import Field

from dry_gauge.core.visit.cautions import BY_CODE
from dry_gauge.notebook.fields import FewWords, Words
from dry_gauge.notebook.kind import Body, Entry, Kept, Kind, Part, VisitState, kept


class NoteBody(Body):
    """Plain words."""

    kind: Literal["note"] = "note"
    text: Words


class PhotoBody(Body):
    """A photo kept with the visit, or a clip that it is the still of, and the entry it belongs to."""

    kind: Literal["photo"] = "photo"
    photo: UUID
    caption: FewWords = ""
    about: UUID | None = None
    seconds: Annotated[float, Field(allow_inf_nan=False, gt=0, le=60)] | None = None
    """How long it moves; nothing of a photo."""


class CautionBody(Body):
    """A caution was read and acknowledged."""

    kind: Literal["caution"] = "caution"
    code: FewWords


class Remarks(Part):
    """Photos by the entry's id, cautions by code."""

    notes: int = 0
    photos: dict[str, Kept[PhotoBody]] = {}
    cautions: dict[str, Kept[CautionBody]] = {}


def _noted(visit: VisitState, _entry: Entry, _body: NoteBody) -> VisitState:
    return visit.changing(Remarks, notes=visit[Remarks].notes + 1)


def _photo(visit: VisitState, entry: Entry, _: PhotoBody) -> VisitState:
    return visit.changing(Remarks, photos=visit[Remarks].photos | {str(entry.id): Kept[PhotoBody](**kept(entry))})


def _caution(visit: VisitState, entry: Entry, body: CautionBody) -> VisitState:
    read = visit[Remarks].cautions | {body.code: Kept[CautionBody](**kept(entry))}
    return visit.changing(Remarks, cautions=read)


def _caution_said(body: CautionBody, _: VisitState) -> tuple[str, str]:
    return "Caution read", BY_CODE[body.code].words if body.code in BY_CODE else body.code


KINDS = (
    Kind(NoteBody, lambda body, _: ("Note", body.text), _noted),
    Kind(PhotoBody, lambda body, _: (f"Clip, {body.seconds:.0f} s" if body.seconds else "Photo", body.caption), _photo),
    Kind(CautionBody, _caution_said, _caution),
)
