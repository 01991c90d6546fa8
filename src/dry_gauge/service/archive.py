"""A whole shop into one file, and out of one into an empty shop: every row with its id, photos and readings with it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from csv import writer
from datetime import datetime
from io import StringIO
from json import dumps, loads
from typing import IO, Any
from uuid import UUID, uuid5

from pydantic import ValidationError
from sqlalchemy import Connection
from sqlalchemy.exc import DataError, IntegrityError

from dry_gauge.core.errors import Refused
from dry_gauge.exchange.archive import ArchiveReader, ArchiveWriter
from dry_gauge.exchange.clips import ENDINGS
from dry_gauge.exchange.schemas import schemas
from dry_gauge.exchange.sheets_csv import cell
from dry_gauge.service import audit
from dry_gauge.service.notebooks import load
from dry_gauge.service.passwords import nobodys_hash
from dry_gauge.store import archive as store
from dry_gauge.store import planning
from dry_gauge.store.database import newest_revision
from dry_gauge.store.people import Someone

NOT_EMPTY = "This shop holds sites, units, visits, cylinders or prices already. An archive goes into an empty shop."
Tell = Callable[[int, int, str], None]
"""How far it is: done, of all, in words."""
Pdf = Callable[[Connection, Someone, UUID], bytes]
_NEVER_FOLDED = 0  # a state that comes along is not believed: entries are
_READING_COLUMNS = ("visit_id", "at", "quantity", "value", "unit", "circuit", "place", "person_id", "entry_id", "taken_back")


def export(connection: Connection, someone: Someone, target: IO[bytes], now: datetime, tell: Tell, pdf: Pdf | None) -> None:
    """Write the shop into a file.

    Parameters
    ----------
    pdf : callable or None
        Makes a closed visit's report for its owner; None leaves those out.
    """
    units, visits = store.ids_of(connection, "unit"), store.ids_of(connection, "visit")
    of_all, done = len(units) + len(visits), 0
    archive = ArchiveWriter(target)
    archive.add_json(
        "shop.json",
        {
            "format": "dry-gauge/shop",
            "version": 1,
            "shop": store.shop_row(connection),
            "people": store.people_rows(connection),
            **{name: store.rows_of(connection, name) for name in (*store.FIRST, *store.LAST)},
        },
    )
    for name, schema in schemas((*store.FIRST, *store.LAST), store.OF_UNIT, store.OF_VISIT).items():
        archive.add_json(f"schemas/{name}.schema.json", schema)
    for unit_id in units:
        document = _document(connection, "unit", unit_id, store.OF_UNIT)
        archive.add_json(f"units/{unit_id}.json", document)
        for photo in document["photo"]:
            for column, held in store.picture_of(connection, UUID(photo["id"])).items():
                archive.add(_photo_file(photo, column), held, packed=True)
        done += 1
        tell(done, of_all, "units")
    readings = StringIO()
    table = writer(readings, lineterminator="\r\n")
    table.writerow(_READING_COLUMNS)
    for visit_id in visits:
        document = _document(connection, "visit", visit_id, store.OF_VISIT)
        archive.add_json(f"visits/{visit_id}.json", document)
        table.writerows(_readings(document))
        samples = [dict(zip(store.SAMPLE_COLUMNS, row, strict=True)) for row in store.samples_of(connection, visit_id)]
        if samples:
            archive.add(f"samples/{visit_id}.jsonl", "".join(dumps(one, allow_nan=False) + "\n" for one in samples).encode())
        if pdf is not None and document["visit"]["status"] == "closed":
            archive.add(f"reports/{visit_id}.pdf", pdf(connection, someone, visit_id), packed=True)
        done += 1
        tell(done, of_all, "visits")
    archive.add("readings.csv", readings.getvalue().encode())
    counts = {"units": len(units), "visits": len(visits)}
    archive.close(made_at=now.isoformat(), revision=newest_revision(), shop=someone.shop_name, **counts)
    audit.note(connection, someone, "archive_made", f"{len(units)} units, {len(visits)} visits")


def _photo_file(photo: Mapping[str, Any], column: str) -> str:
    if column == "clip":
        ending = ENDINGS.get(str(photo["clip_type"]))
        if ending is None:
            raise Refused(f"A clip of the sort {photo['clip_type']!r} cannot be opened here; {', '.join(ENDINGS)} are.", "file")
    else:
        ending = {"picture": "jpg", "thumbnail": "small.jpg"}[column]
    return f"photos/{UUID(photo['id'])}.{ending}"


def _document(connection: Connection, sort: str, ident: UUID, tables: Sequence[str]) -> dict[str, Any]:
    """A unit or a visit with everything that belongs to it."""
    own = {sort: store.rows_of(connection, sort, id=ident)[0]}
    return {
        "format": f"dry-gauge/{sort}",
        "version": 1,
        **own,
        **{name: store.rows_of(connection, name, **{f"{sort}_id": ident}) for name in tables},
    }


def _readings(document: Mapping[str, Any]) -> Iterator[tuple[object, ...]]:
    taken_back = {entry["voids"] for entry in document["entry"] if entry["voids"]}
    for entry in document["entry"]:
        body = entry["body"]
        if body.get("kind") == "reading":
            yield (
                document["visit"]["id"],
                entry["written_at"],
                body.get("quantity"),
                body.get("value"),
                body.get("unit"),
                body.get("circuit", ""),
                cell(str(body.get("place") or "")),
                entry["person_id"],
                entry["id"],
                "yes" if entry["id"] in taken_back else "",
            )


def take_in(connection: Connection, someone: Someone, source: IO[bytes], tell: Tell) -> str:
    """Take an archive into the shop, which holds nothing yet: all of it, or nothing. What became of it, in words.

    Raises
    ------
    Refused
    """
    archive = ArchiveReader(source)
    if not store.is_empty(connection):
        raise Refused(NOT_EMPTY, "file")
    units, visits = archive.under("units"), archive.under("visits")
    of_all = len(archive.files) + len(units) + len(visits)
    for done in archive.check():
        tell(done, of_all, "looking whether it is whole")
    try:
        renamed = _rows_in(connection, someone, archive, units, visits, of_all, tell)
    except (KeyError, TypeError, ValueError, AttributeError, IntegrityError, DataError) as problem:
        detail = str(getattr(problem, "orig", problem)).splitlines()[0][:160] if str(problem) else type(problem).__name__
        raise Refused(f"The archive holds something that does not fit: {detail}. Nothing was taken.", "file") from None
    audit.note(connection, someone, "archive_taken", f"{len(units)} units, {len(visits)} visits")
    also = f" {', '.join(renamed)}: those logins were taken, so they have new ones." if renamed else ""
    return (
        f"{len(units)} units and {len(visits)} visits are here. Nobody of the archive has a password yet: give each a "
        f"new one under People. Links that owners were sent stay with the old shop.{also}"
    )


def _rows_in(
    connection: Connection, someone: Someone, archive: ArchiveReader, units: list[str], visits: list[str], of_all: int, tell: Tell
) -> list[str]:
    shop, shop_id, done = archive.object("shop.json"), someone.shop_id, len(archive.files)
    renamed = []
    for person in shop["people"]:
        login = store.add_person(connection, someone.person_id, person, nobodys_hash())
        renamed += [f"{person['name']} is {login}"] if login != person["login"] else []
    store.set_settings(connection, shop["shop"]["settings"])
    for name in store.FIRST:
        store.add_rows(connection, shop_id, name, shop.get(name, []))
    for file in units:
        document = archive.object(file)
        store.add_rows(connection, shop_id, "unit", [document["unit"]])
        for name in store.OF_UNIT:
            if name == "photo":
                for photo in document["photo"]:
                    columns = ("picture", "thumbnail", *(("clip",) if photo.get("clip_type") else ()))
                    held = {column: archive.read(_photo_file(photo, column)) for column in columns}
                    store.add_photo(connection, shop_id, photo, held)
            else:
                store.add_rows(connection, shop_id, name, document[name])
        done += 1
        tell(done, of_all, "units")
    for file in visits:
        document = archive.object(file)
        never_folded = {"fold_version": _NEVER_FOLDED} if document["entry"] else {}
        store.add_rows(connection, shop_id, "visit", [{**document["visit"], **never_folded}])
        for name in store.OF_VISIT:
            store.add_rows(connection, shop_id, name, [_own_links(shop_id, name, row) for row in document[name]])
        _open(connection, someone, UUID(document["visit"]["id"]), file)
        done += 1
        tell(done, of_all, "visits")
    for file in archive.under("samples"):
        rows = [loads(line) for line in archive.read(file).decode().splitlines()]
        store.add_samples(connection, shop_id, UUID(file.removeprefix("samples/").removesuffix(".jsonl")), rows)
    for name in store.LAST:
        store.add_rows(connection, shop_id, name, shop.get(name, []))
    return renamed


def _open(connection: Connection, someone: Someone, visit_id: UUID, file: str) -> None:
    """Open a visit once, from its entries: what cannot be shown here is refused now, and not on somebody's screen later."""
    try:
        view = load(connection, someone, visit_id)
        for later in planning.said_later(connection, view.visit.unit_id).values():
            str(later.said)
    except (KeyError, TypeError, ValueError) as problem:
        detail = f" ({problem.errors()[0]['msg'][:120]})" if isinstance(problem, ValidationError) else ""
        raise Refused(
            f"{file} cannot be opened here: its unit's card or an entry says what this release does not know{detail}. "
            "Install the release that the archive comes from. Nothing was taken.",
            "file",
        ) from None


def _own_links(shop_id: UUID, name: str, row: dict[str, Any]) -> dict[str, Any]:
    """The same row, a link's id made this shop's own: under the old one nothing opens here."""
    column = {"owner_link": "id", "decision": "link_id"}.get(name, "")
    return {**row, column: own_link_id(shop_id, row[column])} if row.get(column) else row


def own_link_id(shop_id: UUID, link_id: str) -> str:
    """What becomes of a link's id in another shop."""
    return str(uuid5(shop_id, link_id))
