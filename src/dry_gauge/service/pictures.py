"""Photos are decoded in a process of their own: what a picture does to its decoder harms nobody else."""

from __future__ import annotations

from dry_gauge.core.errors import Refused
from dry_gauge.exchange.pictures import Picture, made_small
from dry_gauge.service.apart import Apart, TooMuch

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
