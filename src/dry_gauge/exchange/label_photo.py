"""Words and codes on a photo: Debian's text recognizer and a decoder of bar and QR codes, behind our own plain types."""

from __future__ import annotations

import io
import os
from dataclasses import dataclass
from statistics import fmean
from typing import Any

import pytesseract
import zxingcpp
from PIL import Image, ImageOps, ImageStat

from dry_gauge.core.errors import Refused
from dry_gauge.core.label_text import Box, Code, Word

_LANGUAGES = "eng+spa"
_SECONDS = 20
_SPARSE = "--psm 11"  # text in no order: plates are tables
_LEAST_SURE = 0.2  # below, the recogniser sees letters in scratches and rivets
_UPRIGHT_WORDS = 4  # with fewer words of some length it is tried turned


@dataclass(frozen=True, slots=True)
class Seen:
    """What a photo shows."""

    words: tuple[Word, ...]
    codes: tuple[Code, ...]
    turned: int = 0
    """By how much the photo had to be turned to be read. [degrees, clockwise]"""


def can_read() -> bool:
    """Whether the text recognizer and its languages are installed."""
    try:
        return set(_LANGUAGES.split("+")) <= set(pytesseract.get_languages())
    except pytesseract.TesseractNotFoundError:
        return False


def seen_on(picture: bytes) -> Seen:
    """Words and codes on a photo as it is kept.

    Raises
    ------
    Refused
        Where the text recognizer is not installed.
    """
    image = ImageOps.autocontrast(Image.open(io.BytesIO(picture)).convert("L"), cutoff=1)
    codes = tuple(Code(code.text, _around(code.position)) for code in zxingcpp.read_barcodes(image) if code.text.strip())
    for code in codes:  # bars beside writing are taken for a table's rules, and nothing near them is read
        around = (code.box.left - 4, code.box.top - 4, code.box.right + 4, code.box.bottom + 4)
        image.paste(ImageStat.Stat(image).median[0], around)
    words = _words(image)
    if _weight(words) >= _UPRIGHT_WORDS:
        return Seen(words, codes)
    turned = _turned(image)
    again = _words(image.rotate(-turned, expand=True)) if turned else ()
    return Seen(again, codes, turned) if _weight(again) > _weight(words) else Seen(words, codes)


def _turned(image: Image.Image) -> int:
    """By how much writing has to be turned to stand upright, as far as it can be told. [degrees, clockwise]"""
    try:
        return int(pytesseract.image_to_osd(image, timeout=_SECONDS, output_type=pytesseract.Output.DICT)["rotate"])
    except (pytesseract.TesseractError, RuntimeError):
        return 0  # too few letters to tell


def codes_on(picture: bytes) -> tuple[str, ...]:
    """Only the texts of bar and QR codes on a photo."""
    return tuple(code.text for code in zxingcpp.read_barcodes(Image.open(io.BytesIO(picture)).convert("L")) if code.text.strip())


def _words(image: Image.Image) -> tuple[Word, ...]:
    os.environ["OMP_THREAD_LIMIT"] = "1"  # its threads wait for one another longer than they work
    try:
        table: dict[str, list[Any]] = pytesseract.image_to_data(
            image, lang=_LANGUAGES, config=_SPARSE, timeout=_SECONDS, output_type=pytesseract.Output.DICT
        )
    except (pytesseract.TesseractNotFoundError, pytesseract.TesseractError):
        raise Refused("The text recognizer is not installed on this server. Type what the label says.", "photo") from None
    except RuntimeError:
        raise Refused("This photo takes too long to read. Take it again, closer, with the label filling it.", "photo") from None
    lines: dict[tuple[int, int, int], int] = {}
    words = []
    rows = zip(
        *(table[name] for name in ("text", "conf", "left", "top", "width", "height", "block_num", "par_num", "line_num")),
        strict=True,
    )
    for text, sure, left, top, width, height, *where in rows:
        if text.strip() and float(sure) >= 100 * _LEAST_SURE:
            block, paragraph, line = where
            number = lines.setdefault((block, paragraph, line), len(lines))
            words.append(Word(text.strip(), float(sure) / 100, Box(left, top, left + width, top + height), number))
    return tuple(words)


def _weight(words: tuple[Word, ...]) -> float:
    """How many words of some length were read, each by how surely."""
    long = [word.sure for word in words if len(word.text) > 2]
    return len(long) * fmean(long) ** 2 if long else 0.0


def _around(position: Any) -> Box:
    corners = (position.top_left, position.top_right, position.bottom_left, position.bottom_right)
    across, down = [corner.x for corner in corners], [corner.y for corner in corners]
    return Box(min(across), min(down), max(across), max(down))
