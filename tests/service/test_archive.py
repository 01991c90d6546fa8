"""A whole shop out and in again: every row of every table, photos and samples; and what is no archive changes nothing."""

from __future__ import annotations

import io
import json
import shutil
import tempfile
import zipfile
from datetime import UTC, datetime
from pathlib import Path
from uuid import UUID

import jsonschema
import pytest
import uuid6
from sqlalchemy import insert, select, text

from dry_gauge.core.errors import Refused
from dry_gauge.demo.cluster import APPLICATION, OWNER, Cluster
from dry_gauge.demo.ids import SHOP_ID
from dry_gauge.demo.shop import seed
from dry_gauge.exchange.archive import ArchiveWriter
from dry_gauge.service import archive as service
from dry_gauge.service import owners
from dry_gauge.service.notebooks import view_of
from dry_gauge.store import archive as store
from dry_gauge.store.database import connect, migrate, see_shop
from dry_gauge.store.models import Base, DecisionRow, Person, Photo, Shop
from dry_gauge.store.people import someone_of
from dry_gauge.store.visits import find_visit

NOW = datetime.now(UTC)


def untold(done, of_all, words):
    assert 0 <= done <= of_all


@pytest.fixture(scope="module")
def installation():
    """An installation of its own with the demo shop in it, and what the demo has none of."""
    directory = Path(tempfile.mkdtemp(prefix="dry-gauge-archive-"))
    directory.chmod(0o755)
    cluster = Cluster(directory / "cluster", durable=False)
    cluster.start()
    migrate(cluster.url(OWNER), cluster.url(APPLICATION))
    owner, engine = connect(cluster.url(OWNER), pool_size=2, patient=True), connect(cluster.url(APPLICATION), pool_size=4)
    with owner.begin() as connection:
        seed(connection, datetime.now().astimezone())
    with engine.begin() as connection:
        maren = lead_of(connection, SHOP_ID)
        visit = store.ids_of(connection, "visit")[0]
        unit = store.ids_of(connection, "unit")[0]
        photo = {"unit_id": unit, "person_id": maren.person_id, "at": NOW, "width": 3, "height": 2}
        pictures = {
            "picture": bytes(range(256)),
            "thumbnail": b"\xff\x00",
            "clip": b"\x1a\x45\xdf\xa3",
            "clip_type": "video/webm",
        }
        connection.execute(insert(Photo).values(shop_id=SHOP_ID, id=uuid6.uuid7(), **photo, **pictures))
        sample = {
            "at": NOW,
            "hub": "h",
            "n": 7,
            "probe": "p",
            "quantity": "suction_pressure",
            "circuit": 1,
            "value_si": 0.1 + 0.2,
            "state": "ok",
        }
        store.add_samples(connection, SHOP_ID, visit, [sample])
        link = owners.make_link(connection, maren, visit, "es", 30, NOW)
        owners.choose(connection, maren, visit, 'Words with "quotes", ñ and 🔧', [])
        proposal = connection.execute(text("SELECT id, visit_id FROM proposal")).one()
        signed = {"strokes": [[[1, 2], [3, 4]]], "typed": False}
        connection.execute(
            insert(DecisionRow).values(
                shop_id=SHOP_ID,
                id=uuid6.uuid7(),
                proposal_id=proposal.id,
                visit_id=proposal.visit_id,
                at=NOW,
                chosen=1,
                name="Ada",
                risks=["old"],
                signature=signed,
                words="",
                language="en",
                link_id=link,
            )
        )
    yield owner, engine
    owner.dispose()
    engine.dispose()
    cluster.remove()
    shutil.rmtree(directory, ignore_errors=True)


def lead_of(connection, shop_id):
    see_shop(connection, shop_id)
    asked = select(Person.id).where(Person.role == "lead", Person.shop_id == shop_id).order_by(Person.login).limit(1)
    return someone_of(connection, connection.execute(asked).scalar_one())


def empty_shop(owner):
    shop_id = uuid6.uuid7()
    with owner.begin() as connection:
        connection.execute(insert(Shop).values(id=shop_id, name="Another yard"))
        connection.execute(
            insert(Person).values(
                shop_id=shop_id, id=uuid6.uuid7(), login=f"lead-{shop_id.hex[-8:]}", name="Lead", role="lead", password_hash="x"
            )
        )
    return shop_id


@pytest.fixture(scope="module")
def made(installation):
    """The archive of the demo shop."""
    with installation[1].begin() as connection:
        someone = lead_of(connection, SHOP_ID)
        file = io.BytesIO()
        service.export(connection, someone, file, NOW, untold, lambda *_: b"%PDF made")
    return file.getvalue()


def take_in(installation, raw, shop_id=None):
    owner, engine = installation
    shop_id = shop_id or empty_shop(owner)
    with engine.begin() as connection:
        service.take_in(connection, lead_of(connection, shop_id), io.BytesIO(raw), untold)
    return shop_id


def everything(engine, shop_id):
    """Every archived row of a shop."""
    with engine.begin() as connection:
        see_shop(connection, shop_id)
        names = ("unit", "visit", *store.FIRST, *store.OF_UNIT, *store.OF_VISIT, *store.LAST)
        found = {name: store.rows_of(connection, name) for name in names}
        found["photos"] = [store.picture_of(connection, UUID(row["id"])) for row in found["photo"]]
        found["samples"] = [list(store.samples_of(connection, visit)) for visit in store.ids_of(connection, "visit")]
        found["people"] = {row["id"]: row for row in store.people_rows(connection)}
        found["settings"] = store.shop_row(connection)["settings"]
    return found


def test_every_table_is_taken_along_or_left_out_for_a_reason():
    archived = {"unit", "visit", *store.FIRST, *store.OF_UNIT, *store.OF_VISIT, *store.LAST}
    assert archived | store.LEFT_OUT.keys() == set(Base.metadata.tables)
    assert not archived & store.LEFT_OUT.keys()


def test_a_shop_goes_out_and_in_with_nothing_lost(installation, made):
    shop_id = take_in(installation, made)
    before, after = everything(installation[1], SHOP_ID), everything(installation[1], shop_id)
    assert sum(len(rows) for name, rows in before.items() if name in Base.metadata.tables) > 500
    for name in ("entry", "photo", "movement", "owner_link", "decision", "part_order", "price", "sound_day"):
        assert before[name], name  # nothing proves nothing
    links = {row["id"]: service.own_link_id(shop_id, row["id"]) for row in before["owner_link"]}
    before["owner_link"] = [{**row, "id": links[row["id"]]} for row in before["owner_link"]]
    before["decision"] = [{**row, "link_id": links.get(row["link_id"])} for row in before["decision"]]
    # What was done to either shop since is its own: the trail's last lines.
    own = ("archive_made", "archive_taken")
    for found in (before, after):
        found["audit_event"] = [row for row in found["audit_event"] if row["what"] not in own]
    for name, rows in before.items():
        if name == "people":
            for ident, row in rows.items():  # logins were taken here: nothing else is another
                login = after["people"][ident]["login"]
                assert after["people"][ident] == {**row, "login": login}
                assert login == f"{row['login']}-2"
        else:
            assert after[name] == rows, name


def test_the_notebooks_fold_to_the_same_in_the_new_shop(installation, made):
    shop_id = take_in(installation, made)
    with installation[1].begin() as connection:
        for shop in (SHOP_ID, shop_id):
            see_shop(connection, shop)
            views = [view_of(connection, find_visit(connection, ident), "common") for ident in store.ids_of(connection, "visit")]
            if shop == SHOP_ID:
                before = [(view.state, view.complaint) for view in views]
        assert [(view.state, view.complaint) for view in views] == before


def test_the_archive_explains_itself(made):
    with zipfile.ZipFile(io.BytesIO(made)) as opened:
        names = opened.namelist()
        schemas = {name: json.loads(opened.read(f"schemas/{name}.schema.json")) for name in ("shop", "unit", "visit")}
        jsonschema.validate(json.loads(opened.read("shop.json")), schemas["shop"])
        for folder, name in (("units/", "unit"), ("visits/", "visit")):
            files = [one for one in names if one.startswith(folder)]
            assert files
            validator = jsonschema.Draft202012Validator(schemas[name])
            for one in files:
                validator.validate(json.loads(opened.read(one)))
        lines = opened.read("readings.csv").decode().splitlines()
        assert len(lines) > 200
        assert lines[0].startswith("visit_id,at,quantity,value,unit")
        assert any(one.startswith("reports/") for one in names)
        assert "password" not in opened.read("shop.json").decode()


def rewritten(made, change):
    """The same archive with one file of it changed."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(made)) as source, zipfile.ZipFile(out, "w") as target:
        for name in source.namelist():
            content = change(name, source.read(name))
            if content is not None:
                target.writestr(name, content)
    return out.getvalue()


def newer(name, content):
    return json.dumps({**json.loads(content), "version": 2}).encode() if name == "manifest.json" else content


def without_a_visit(name, content):
    return None if name.startswith("visits/") and name < "visits/4" else content


def changed(name, content):
    return content.replace(b"Tern", b"Turn") if name == "shop.json" else content


@pytest.mark.parametrize(
    ("raw", "says"),
    [
        (lambda made: made[: len(made) // 2], "cut off"),
        (lambda made: b"", "no archive"),
        (lambda made: b"PK\x03\x04", "cut off"),
        (lambda made: rewritten(made, newer), "later release"),
        (lambda made: rewritten(made, without_a_visit), "is missing"),
        (lambda made: rewritten(made, changed), "not as it was written"),
        (lambda made: made[:-200] + b"\0" * 200, "cut off"),
        (lambda made: rewritten(made, lambda name, content: None if name == "manifest.json" else content), "no list"),
        (lambda made: rewritten(made, lambda name, content: b"[]" if name == "manifest.json" else content), "cannot be read"),
    ],
)
def test_what_is_no_whole_archive_changes_nothing(installation, made, raw, says):
    shop_id = empty_shop(installation[0])
    with pytest.raises(Refused, match=says):
        take_in(installation, raw(made), shop_id)
    with installation[1].begin() as connection:
        see_shop(connection, shop_id)
        assert store.is_empty(connection)
        assert len(store.people_rows(connection)) == 1


def edited(made, folder, change):
    """The same archive with something else in its first file of a folder that can be changed, and a list that says so."""
    out, found = io.BytesIO(), False
    writer = ArchiveWriter(out)
    with zipfile.ZipFile(io.BytesIO(made)) as source:
        about = json.loads(source.read("manifest.json"))
        for name in about["files"]:
            content = source.read(name)
            if name.startswith(folder) and not found:
                document = json.loads(content)
                found = change(document)
                content = json.dumps(document).encode()
            writer.add(name, content)
    assert found
    writer.close(**{key: value for key, value in about.items() if key not in ("format", "version", "files")})
    return out.getvalue()


def of_another_kind(document):
    for entry in document["entry"]:
        entry["body"]["kind"] = "prophecy"
    return bool(document["entry"])


def of_another_refrigerant(document):
    document["unit"]["facts"]["refrigerant"] = "R-9"
    return True


def came_back_with(document):
    for row in document["visit_held"]:
        row["held"], row["symptom"] = False, "sulks"
    return bool(document["visit_held"])


def with_a_page_for_a_clip(document):
    for row in document["photo"]:
        row["clip_type"] = "text/html"
    return bool(document["photo"])


@pytest.mark.parametrize(
    ("folder", "change"),
    [
        ("visits/", of_another_kind),
        ("units/", of_another_refrigerant),
        ("visits/", came_back_with),
        ("units/", with_a_page_for_a_clip),
    ],
)
def test_what_could_never_be_shown_here_is_refused_while_it_comes_in(installation, made, folder, change):
    shop_id = empty_shop(installation[0])
    with pytest.raises(Refused, match="cannot be opened here"):
        take_in(installation, edited(made, folder, change), shop_id)
    with installation[1].begin() as connection:
        see_shop(connection, shop_id)
        assert store.is_empty(connection)


def test_a_state_that_comes_along_is_made_from_the_entries_anew(installation, made):
    def forged(document):
        document["visit"]["state"] = {}
        return bool(document["entry"])

    shop_id = take_in(installation, edited(made, "visits/", forged))
    states = [{row["id"]: row["state"] for row in everything(installation[1], one)["visit"]} for one in (shop_id, SHOP_ID)]
    assert states[0] == states[1]


def test_somebody_of_an_older_archive_comes_in_without_what_it_did_not_know(installation):
    owner, engine = installation
    shop_id = empty_shop(owner)
    with engine.begin() as connection:
        lead = lead_of(connection, shop_id)
        kept = {**store.people_rows(connection)[0], "id": str(uuid6.uuid7()), "login": "older", "theme": "night"}
        del kept["clock"]
        store.add_person(connection, lead.person_id, kept, "!")
        found = {row["id"]: row for row in store.people_rows(connection)}[kept["id"]]
    assert (found["theme"], found["clock"]) == ("night", "")


def test_it_goes_into_an_empty_shop_only(installation, made):
    with pytest.raises(Refused, match="empty shop"):
        take_in(installation, made, SHOP_ID)
