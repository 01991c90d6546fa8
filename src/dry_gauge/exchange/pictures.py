"""Photos in: made small, turned upright, and rid of everything the camera wrote into them, place included."""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass

from PIL import Image, ImageOps, UnidentifiedImageError

from dry_gauge.core.errors import Refused

LONGEST_SIDE = 1600
THUMBNAIL_SIDE = 240
_MOST_PIXELS = 120_000_000
# What is decoded whole takes three bytes a pixel, and as much again while it is turned and made small; a JPEG decodes small.
_MOST_DECODED = 40_000_000
_FORMATS = ("JPEG", "PNG", "WEBP", "GIF", "BMP", "TIFF")


@dataclass(frozen=True, slots=True)
class Picture:
    """A photo as it is kept: JPEG, in two sizes."""

    width: int
    height: int
    picture: bytes
    thumbnail: bytes


def made_small(raw: bytes) -> Picture:
    """A photo ready to be kept.

    Raises
    ------
    Refused
        For what is no photo, one that is broken, or one with more pixels than can be decoded here: 120 million of a JPEG, 40
        million of others.
    """
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            opened = Image.open(io.BytesIO(raw), formats=_FORMATS)
        if opened.width * opened.height > (_MOST_PIXELS if opened.format == "JPEG" else _MOST_DECODED):
            raise Refused("This photo has too many pixels. Take it again in a smaller size.", "photo")
        opened.draft("RGB", (LONGEST_SIDE, LONGEST_SIDE))  # JPEG decodes small from the start
        upright = ImageOps.exif_transpose(opened).convert("RGB")
    except UnidentifiedImageError:
        raise Refused("This is not a photo that can be kept: send JPEG, PNG or WebP.", "photo") from None
    except Refused:
        raise
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise Refused("This photo is broken or cut off. Take it again.", "photo") from None
    upright.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
    small = upright.copy()
    small.thumbnail((THUMBNAIL_SIDE, THUMBNAIL_SIDE))
    return Picture(upright.width, upright.height, _jpeg(upright, 82), _jpeg(small, 76))


def _jpeg(image: Image.Image, quality: int) -> bytes:
    """A new file with nothing but pixels in it."""
    out = io.BytesIO()
    image.save(out, "JPEG", quality=quality, optimize=True, comment=b"")  # else the old file's comment goes along
    return out.getvalue()
