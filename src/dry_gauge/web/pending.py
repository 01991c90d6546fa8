"""A plain form that was sent after the session had ended: carried through the sign-in, field by field, and sent again then."""

from __future__ import annotations

from typing import Annotated
from urllib.parse import urlsplit

from pydantic import BaseModel, ConfigDict, Field, ValidationError

_NOT_CARRIED = frozenset({"csrftoken", "password"})
_SAID = ("value", "state", "text", "minutes_ago", "what", "name", "words", "summary", "kind")


def safe_path(wanted: str) -> str:
    """A path of this site to go on to; anything else becomes the board."""
    parts = urlsplit(wanted)
    plain = wanted.startswith("/") and not wanted.startswith(("//", "/\\")) and not (parts.scheme or parts.netloc)
    return wanted if plain else "/"


class Pending(BaseModel):
    """Where a form was going, and its fields as they were typed."""

    model_config = ConfigDict(frozen=True)
    action: Annotated[str, Field(max_length=300)]
    fields: Annotated[tuple[tuple[str, str], ...], Field(max_length=120)]

    @classmethod
    def of(cls, path: str, fields: list[tuple[str, object]]) -> Pending | None:
        """What a request was sending; None where nothing of it can be carried."""
        texts = tuple((name, value) for name, value in fields if isinstance(value, str) and name not in _NOT_CARRIED)
        return cls(action=path, fields=texts[:120]) if texts else None

    @classmethod
    def read(cls, text: str) -> Pending | None:
        """As a sign-in page sends it back; what nobody of ours has written is nothing."""
        try:
            found = cls.model_validate_json(text) if text else None
        except ValidationError:
            return None
        return found if found is not None and safe_path(found.action) == found.action else None

    @property
    def written(self) -> str:
        """For the sign-in page to send back."""
        return self.model_dump_json()

    @property
    def said(self) -> str:
        """In a few words, so that whoever signs in knows what waits."""
        typed = dict(self.fields)
        value = next((typed[name] for name in _SAID if typed.get(name)), "what you typed")
        about = typed.get("quantity") or typed.get("what") or typed.get("kind") or ""
        return f"{value[:60]} {about.replace('_', ' ') if about != value else ''}".strip()
