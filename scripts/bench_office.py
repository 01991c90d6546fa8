"""Pages over a whole shop, measured: 600 units, a year of 2,000 visits."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from datetime import datetime

from sqlalchemy import text

from dry_gauge.demo.cluster import APPLICATION, OWNER
from dry_gauge.demo.ids import SHOP_ID
from dry_gauge.demo.ports import free_port
from dry_gauge.demo.shop import PASSWORD, seed
from dry_gauge.store.database import connect
from scripts import bench_live
from tests.conftest import start_server
from tests.web.calls import Browser

UNITS, VISITS = 600, 2000
PAGES = ("/", "/watch", "/plan/held", "/plan", "/season")
TIMES = 31

# Units as the demo's are, each with three or four visits over a year: one in twenty took refrigerant, one in
# forty did not hold, the head of one unit in sixteen climbs.
_FILL = (
    """INSERT INTO unit (shop_id, id, site_id, tag, serves, maker, model, made_year, facts)
       SELECT DISTINCT ON (n) shop_id, md5('unit' || n)::uuid, site_id, 'U-' || n, serves, maker, model, made_year, facts
       FROM unit, generate_series(1, :units) AS n ORDER BY n, md5(unit.id::text || n)""",
    """INSERT INTO visit (shop_id, id, unit_id, technician_id, call_id, planned_for, status, summary, closed_at, outcome)
       SELECT :shop, md5('visit' || n)::uuid, md5('unit' || 1 + n % :units)::uuid, (SELECT id FROM person WHERE login = 'ines'),
              md5('visit' || n)::uuid, now() - n * interval '260 minutes', 'closed', 'looked over',
              now() - n * interval '260 minutes' + interval '1 hour', 'fixed'
       FROM generate_series(1, :visits) AS n""",
    """INSERT INTO visit_result SELECT :shop, id, unit_id, closed_at, outcome,
              jsonb_build_array((ARRAY['low_charge', 'condenser_airflow', 'indoor_airflow', 'restriction', 'overcharge',
                                       'condenser_dirty', 'filter_dirty', 'metering'])[1 + floor(random() * 8)]), '["contactor"]'
       FROM visit WHERE summary = 'looked over' AND id NOT IN (SELECT visit_id FROM visit_result)""",
    """INSERT INTO visit_held SELECT :shop, md5('held' || id::text)::uuid, id, technician_id, closed_at + interval '20 days',
              random() > 0.025, '', '' FROM visit WHERE summary = 'looked over'""",
    """INSERT INTO sound_day (shop_id, visit_id, unit_id, at, earned, why, shown, gaps)
       SELECT :shop, id, unit_id, closed_at, true, '', '{}'::jsonb, jsonb_build_object('1', jsonb_build_object('residuals',
              jsonb_build_object('superheat', random() * 3, 'subcooling', random() * 3, 'condenser_split',
                                 CASE WHEN unit_id::text < '1' THEN extract(epoch FROM closed_at - now()) / 2e6 ELSE random() END,
                                 'evaporator_td', random(), 'air_split', random()))) FROM visit WHERE summary = 'looked over'""",
    """INSERT INTO movement (shop_id, id, visit_id, unit_id, person_id, at, refrigerant, grams, origin, goal, origin_cylinder)
       SELECT :shop, md5('movement' || id::text)::uuid, id, unit_id, technician_id, closed_at, 'R-410A', 300, 'cylinder', 'unit',
              (SELECT id FROM cylinder LIMIT 1) FROM visit WHERE summary = 'looked over' AND random() < 0.05""",
)


def main(line: Callable[..., None]) -> None:
    """Fill a shop of its own and ask for each page in turn."""
    print(f"A shop of {UNITS} units and {VISITS:,} visits")
    with bench_live.own_cluster() as cluster:
        owner = connect(cluster.url(OWNER), pool_size=1)
        with owner.begin() as connection:
            seed(connection, datetime.now().astimezone())
            for statement in _FILL:
                connection.execute(text(statement), {"shop": SHOP_ID, "units": UNITS, "visits": VISITS})
        with owner.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
            connection.execute(text("ANALYZE"))
        owner.dispose()
        port = free_port()
        server = start_server(cluster.url(APPLICATION), port)
        try:
            time.sleep(2.5)
            browser = Browser(f"http://127.0.0.1:{port}")
            browser.sign_in("maren", PASSWORD)
            for path in PAGES:
                spent = []
                for _ in range(TIMES):
                    start = time.perf_counter()
                    assert browser.get(path).status_code == 200, path
                    spent.append(time.perf_counter() - start)
                line(f"GET {path}", f"{statistics.median(spent) * 1e3:.0f} ms", "under 150")
        finally:
            server.terminate()
            server.wait(10)
