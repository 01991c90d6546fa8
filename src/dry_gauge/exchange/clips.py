"""Clips in: some seconds of picture and sound, recorded small in the browser and kept as they were recorded."""

from __future__ import annotations

import binascii
import re
from base64 import b64decode
from dataclasses import dataclass

from dry_gauge.core.errors import Refused

MOST_SECONDS = 30
ENDINGS = {"video/webm": "webm", "video/mp4": "mp4"}
"""By the media types that are kept, how their files end."""
_MOST_BYTES = 12 * 1024 * 1024
_STILL = "data:image/jpeg;base64,"
# Where cameras write the place into a file of their own (ISO 6709 in QuickTime's and 3GPP's boxes); a browser that records
# writes none. Longer than what comes about by chance in megabytes of picture.
_PLACE = re.compile(rb"\xa9xyz..\x15\xc7[+-]\d|loci\0\0\0\0|com\.apple\.quicktime\.location", re.DOTALL)
# Photos that are wrapped the same way: they are no clips.
_STILLS = (b"heic", b"heix", b"heim", b"heis", b"mif1", b"msf1", b"avif", b"avis")
_RECORD_IT = "Record it here, under 'Record a clip': it stays small, and the place is left out."


@dataclass(frozen=True, slots=True)
class Clip:
    """A recording as it is kept, and what sort it is."""

    media_type: str
    moving: bytes


def clip_of(raw: bytes) -> Clip | None:
    """What was sent, if it is a recording; None for anything else, a photo for one.

    Raises
    ------
    Refused
        For one of more than 12 MB, or one that holds the place where it was taken.
    """
    if raw.startswith(b"\x1a\x45\xdf\xa3"):
        media_type = "video/webm"
    elif raw[4:8] == b"ftyp" and raw[8:12] not in _STILLS:
        media_type = "video/mp4"
    else:
        return None
    if len(raw) > _MOST_BYTES:
        raise Refused(f"This clip is over {_MOST_BYTES // 2**20} MB. {_RECORD_IT}", "photo")
    if _PLACE.search(raw):
        raise Refused(f"This clip holds the place where it was taken. {_RECORD_IT}", "photo")
    return Clip(media_type, raw)


def still_of(text: str) -> bytes:
    """The picture that stands for a clip, as the browser that recorded it sends it along. JPEG

    Raises
    ------
    Refused
        Where none came.
    """
    try:
        if text.startswith(_STILL):
            return b64decode(text.removeprefix(_STILL), validate=True)
    except binascii.Error:
        pass
    raise Refused(f"This clip came without a picture that stands for it. {_RECORD_IT}", "photo")


def seconds_of(text: str) -> float:
    """How long a clip is said to be. [s]

    Raises
    ------
    Refused
        For what is no length of a clip.
    """
    try:
        seconds = float(text)
    except ValueError:
        seconds = 0.0
    if not 0 < seconds <= MOST_SECONDS + 1:
        raise Refused(f"A clip is {MOST_SECONDS} s long at the most. {_RECORD_IT}", "photo")
    return seconds
