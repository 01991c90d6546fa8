"""Photos are decoded in a process of their own: what a picture does to its decoder harms nobody else."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from typing import TypeVar
from uuid import UUID

from dry_gauge.core.errors import Refused
from dry_gauge.exchange.label_photo import Seen, codes_on, seen_on
from dry_gauge.exchange.pictures import Picture, made_small
from dry_gauge.service.apart import Apart, TooMuch

_T = TypeVar("_T")
_MOST_SECONDS = 60
_BROKEN = "This photo could not be read here. Take it again, or in a smaller size."


class PictureWorker(Apart):
    """Makes photos small."""

    def __init__(self) -> None:
        super().__init__(_MOST_SECONDS)

    def made_small(self, raw: bytes) -> Picture:
        """A photo ready to be kept.

        Raises
        ------
        Refused
            For what is no photo, is broken, has too many pixels, or takes more memory or time than a photo needs.
        """
        if not raw:
            raise Refused("Choose a photo first.", "photo")
        try:
            return self.do(made_small, raw)
        except TooMuch:
            raise Refused(_BROKEN, "photo") from None


_READ_SECONDS = 45
_REMEMBERED = 32


class LabelReader(Apart):
    """Reads what stands on photos; a photo that was read is not read again while it is remembered."""

    def __init__(self) -> None:
        super().__init__(_READ_SECONDS)
        self._seen: OrderedDict[UUID, Seen] = OrderedDict()

    def seen_on(self, photo_id: UUID, picture: bytes) -> Seen:
        """Words and codes on a photo as it is kept.

        Raises
        ------
        Refused
            Where it takes too long, or no text recognizer is installed.
        """
        seen = self._seen.get(photo_id)
        if seen is None:
            seen = self._seen[photo_id] = self._read(seen_on, picture)
            while len(self._seen) > _REMEMBERED:
                self._seen.popitem(last=False)
        return seen

    def codes_on(self, raw: bytes) -> tuple[str, ...]:
        """The texts of bar and QR codes on a photo as it was sent.

        Raises
        ------
        Refused
            For what is no photo, or takes too long.
        """
        if not raw:
            raise Refused("Choose a photo first.", "photo")
        return self._read(_codes_of, raw)

    def _read(self, work: Callable[[bytes], _T], picture: bytes) -> _T:
        try:
            return self.do(work, picture)
        except TooMuch:
            raise Refused("This photo took too long to read. Take it again, with the label filling it.", "photo") from None


def _codes_of(raw: bytes) -> tuple[str, ...]:
    return codes_on(made_small(raw).picture)
