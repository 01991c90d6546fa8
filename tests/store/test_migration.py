"""A database of the release before opens: the same sheets, assessments, ledgers, books and obstacles for every visit.

`tests/reference/demo_0003.sql.gz` is the demo shop's data as it stood at revision 0003, `demo_0003.json.gz` what that
release made of it. Nothing in it had waited for a connection. What differs since is listed here, with its reason.
"""

from __future__ import annotations

import gzip
import json
import re
from pathlib import Path

import pytest
from sqlalchemy import select, text

from dry_gauge.demo.cluster import APPLICATION, OWNER, SUPERUSER
from dry_gauge.demo.ids import SHOP_ID
from dry_gauge.exchange.assessment import to_json
from dry_gauge.notebook.kind import obstacles
from dry_gauge.notebook.sheets import sheet_before, sheet_of
from dry_gauge.notebook.state import FOLD_VERSION
from dry_gauge.notebook.subjects.movements import Charge, in_unit_g, standing_of
from dry_gauge.notebook.subjects.opening import steps_in
from dry_gauge.service.notebooks import view_of
from dry_gauge.store import cylinders as store
from dry_gauge.store import visits
from dry_gauge.store.database import connect, migrate, see_shop
from dry_gauge.store.models import Visit

REFERENCE = Path(__file__).parent.parent / "reference"


def sheet_json(sheet):
    if sheet is None:
        return None
    readings = [[r.quantity, r.value_si, r.half_width_si, r.minutes, r.circuit, r.stage, r.place] for r in sheet.readings]
    return {
        "readings": sorted(readings, key=str),
        "observations": sorted(([o.what, o.state.value, o.circuit] for o in sheet.observations), key=str),
        "minutes_running": sheet.minutes_running,
        "minutes_since_change": sheet.minutes_since_change,
    }


def rounded(value):
    """Without the last digits, in which sums in another order differ."""
    if isinstance(value, dict):
        return {key: rounded(one) for key, one in value.items()}
    if isinstance(value, list):
        return [rounded(one) for one in value]
    return float(f"{value:.9g}") if isinstance(value, float) else value


def _of_any_rule_set(assessment):
    """What the rules that came since leave as it was: the arithmetic.

    How likely each cause is belongs to a calibration, and the makes taught another one; a closed visit keeps by which it was
    judged.
    """
    blocks = assessment.get("circuits") or {"1": assessment}
    return {
        number: {key: one for key, one in block["derived"].items() if key != "inlet_superheat_f"}
        for number, block in blocks.items()
    }


_ASKED_FOR = re.compile(r"The measurement that failed must be repeated after the last change before .* called fixed. \((.*)\)")


def in_todays_words(words):
    """What the release before said at greater length."""
    return _ASKED_FOR.sub(r"Before this is called fixed, prove: \1.", words)


def shown(view):
    """What a visit amounts to, as JSON."""
    visit, facts = view.state, view.facts
    standing = standing_of(visit, facts)
    return rounded(
        json.loads(
            json.dumps(
                {
                    "sheet": sheet_json(sheet_of(visit, facts).sheet),
                    "before": sheet_json(sheet_before(visit, facts)),
                    "assessment": _of_any_rule_set(to_json(view.assessment)) if view.assessment else None,
                    "ledger": sorted(
                        [m.at.isoformat(), m.way.value, str(m.cylinder), m.grams, m.hose_g] for m in visit[Charge].in_order
                    ),
                    "in_unit_g": in_unit_g(visit),
                    "standing": [standing.in_unit_kg, standing.target_kg] if standing else None,
                    "steps": [[s.step.code, s.progress] for s in steps_in(visit, facts)],
                    # The old release let findings go without a word.
                    "obstacles": sorted(
                        [o.code, o.words, o.firm] for o in obstacles(visit) if o.code not in ("finding", "look_again")
                    ),
                    "status": view.visit.status,
                    "outcome": view.visit.outcome,
                    "summary": view.visit.summary,
                    "entries": visit.entries,
                    "voided": visit.voided,
                    "sequence": view.visit.sequence,
                }
            )
        )
    )


@pytest.fixture(scope="module")
def migrated(cluster):
    """The old data in a database of its own, brought up to date."""
    superuser = connect(cluster.url(SUPERUSER), pool_size=1)
    with superuser.connect() as connection:
        connection.execution_options(isolation_level="AUTOCOMMIT").execute(text(f"CREATE DATABASE old OWNER {OWNER}"))
    superuser.dispose()
    old = {role: cluster.url(role).rsplit("/", 1)[0] + "/old" for role in (SUPERUSER, OWNER, APPLICATION)}
    migrate(old[OWNER], old[APPLICATION], "0003")
    engine = connect(old[SUPERUSER], pool_size=1)
    with engine.begin() as connection:
        connection.exec_driver_sql("SET session_replication_role = replica")  # the dump is in no order of its keys
        connection.exec_driver_sql(gzip.decompress((REFERENCE / "demo_0003.sql.gz").read_bytes()).decode().replace("%", "%%"))
    engine.dispose()
    migrate(old[OWNER], old[APPLICATION])
    engine = connect(old[APPLICATION], pool_size=1)
    yield engine
    engine.dispose()


def test_every_visit_of_the_release_before_opens_as_it_was(migrated):
    before = json.loads(gzip.decompress((REFERENCE / "demo_0003.json.gz").read_bytes()))
    with migrated.begin() as connection:
        see_shop(connection, SHOP_ID)
        ids = connection.execute(select(Visit.id)).scalars().all()
        assert {str(one) for one in ids} == set(before["visits"])
        for visit in ids:
            expected = before["visits"][str(visit)]
            expected["obstacles"] = sorted([code, in_todays_words(words), firm] for code, words, firm in expected["obstacles"])
            if expected["assessment"]:
                expected["assessment"] = _of_any_rule_set(expected["assessment"])
            assert shown(view_of(connection, visits.find_visit(connection, visit), "common")) == rounded(expected)
        assert {one.cylinder.name: one.holds_g for one in store.all_held(connection)} == before["cylinders"]
        lines = [
            [line.at.isoformat(), line.way, line.movement.grams, line.from_cylinder, line.to_cylinder, line.reason]
            for line in store.lines(connection)
        ]
        assert sorted(lines) == sorted(before["book"])
        asked = text("SELECT sort, what, due, done_at IS NULL FROM follow_up ORDER BY 1, 2, 3")
        assert [[str(value) for value in row] for row in connection.execute(asked)] == before["follow_ups"]
    with migrated.begin() as connection:  # folded once, and kept
        see_shop(connection, SHOP_ID)
        touched = select(Visit.fold_version).where(Visit.sequence > 0).distinct()
        assert connection.execute(touched).scalars().all() == [FOLD_VERSION]


def test_entries_stay_and_stand_in_the_order_in_which_they_were_written(migrated):
    with migrated.begin() as connection:
        see_shop(connection, SHOP_ID)
        asked = "SELECT count(*), count(*) FILTER (WHERE written_at > received_at) FROM entry"
        assert tuple(connection.execute(text(asked)).one()) == (327, 0)
