"""Tables from other programs and for them: CSV as it comes, whatever its encoding and separator, each line with its number."""

from __future__ import annotations

import csv
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from io import StringIO

from dry_gauge.core.errors import Refused

MOST_LINES, MOST_BYTES = 20_000, 150 * 1024
_SEPARATORS = ";,\t|"


@dataclass(frozen=True, slots=True)
class TableLine:
    """One line: where it stands in the file, and its cells by column."""

    number: int
    cells: Mapping[str, str]


@dataclass(frozen=True, slots=True)
class RefusedLine:
    """One line that was not taken, as it stood, and why."""

    number: int
    text: str
    why: str


def read_table(raw: bytes, columns: Mapping[str, Sequence[str]]) -> list[TableLine]:
    """The lines of a file.

    Parameters
    ----------
    raw : bytes
        As it was sent: UTF-8 with or without a mark, UTF-16, else as Windows writes Western languages.
    columns : mapping of str to sequence of str
        Our columns, each with the headings that mean it; the first is ours.

    Raises
    ------
    Refused
        For what is no table, lacks all of our headings, or is too long.
    """
    if len(raw) > MOST_BYTES:
        raise Refused(f"The file is over {MOST_BYTES // 1024} kB: cut it in two.", "file")
    text = _decoded(raw)
    first = next((line for line in text.splitlines() if line.strip()), "")
    separator = max(_SEPARATORS, key=first.count)
    if not first or (separator not in first and len(columns) > 1):
        raise Refused(f"This is no table: its first line names the columns, such as {'; '.join(columns)}.", "file")
    named = {_plain(heading): column for column, headings in columns.items() for heading in (column, *headings)}
    reader = csv.reader(StringIO(text), delimiter=separator)
    heads: list[str] = []
    found = []
    try:
        for row in reader:
            if not any(cell.strip() for cell in row):
                continue
            if not heads:
                heads = [named.get(_plain(cell), "") for cell in row]
                if not any(heads):
                    known = "; ".join(columns)
                    raise Refused(f"None of its columns is known: {', '.join(row)[:120]}. Name them {known}.", "file")
                continue
            cells = {head: cell.strip() for head, cell in zip(heads, row, strict=False) if head}
            found.append(TableLine(reader.line_num, cells))
            if len(found) > MOST_LINES:
                raise Refused(f"At most {MOST_LINES} lines at once; cut the file in two.", "file")
    except csv.Error as error:
        raise Refused(f"Line {reader.line_num} cannot be read: {error}.", "file") from None
    return found


def _decoded(raw: bytes) -> str:
    if raw.startswith((b"\xff\xfe", b"\xfe\xff")):
        text = raw.decode("utf-16", errors="replace")
    else:
        try:
            text = raw.decode("utf-8-sig")
        except UnicodeDecodeError:
            text = raw.decode("cp1252", errors="replace")
    if "\0" in text:
        raise Refused("This is no text: save it as CSV first.", "file")
    return text


def _plain(heading: str) -> str:
    return "".join(sign for sign in heading.casefold() if sign.isalnum())


def cell(words: str) -> str:
    """Words that a spreadsheet would take for a formula get an apostrophe in front."""
    return f"'{words}" if words[:1] in ("=", "+", "-", "@", "\t", "\r") else words


def table_text(columns: Iterable[str], rows: Iterable[Sequence[object]]) -> str:
    """A table as CSV."""
    out = StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(columns)
    writer.writerows(rows)
    return out.getvalue()
