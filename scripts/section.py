"""One section of docs/accuracy.md put in its place, or what stands before them all: the others stay as they are."""

from __future__ import annotations

import re
from collections.abc import Sequence
from pathlib import Path

TARGET = Path(__file__).resolve().parent.parent / "docs/accuracy.md"


def around(text: str) -> None:
    """Write what is measured first; sections that other scripts have written stand behind it as they are."""
    found = re.findall(r"^## .*?(?=^## |\Z)", TARGET.read_text(), re.M | re.S) if TARGET.exists() else []
    theirs = [one.strip() for one in found if re.match(r"## .*\n\nWritten by `", one)]
    TARGET.write_text("\n\n".join([text.rstrip(), *theirs]) + "\n")


def put(heading: str, parts: Sequence[str]) -> None:
    """Replace the section of that heading, or add it at the end."""
    whole = "\n\n".join([f"## {heading}", *parts]) + "\n"
    text = TARGET.read_text()
    found = re.search(rf"^## {re.escape(heading)}\n.*?(?=^## |\Z)", text, re.M | re.S)
    if found:
        after = text[found.end() :]
        text = text[: found.start()] + whole + (f"\n{after}" if after else "")
    else:
        text = f"{text.rstrip()}\n\n{whole}"
    TARGET.write_text(text)
