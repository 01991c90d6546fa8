"""`make demo`, `make stop`, `make reset`: a cluster, the tables, the demo shop and a server, in the foreground."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
import urllib.request
from datetime import datetime
from pathlib import Path

from dry_gauge.demo.cluster import APPLICATION, OWNER, Cluster, ClusterFailed
from dry_gauge.demo.ports import is_free
from dry_gauge.demo.shop import PASSWORD, NotTheDemo, fed_visits, is_empty, plan_today, seed
from dry_gauge.store.database import connect, migrate

VAR = Path(os.environ.get("DRY_GAUGE_VAR") or Path(__file__).resolve().parents[3] / "var").resolve()
PID_FILE = VAR / "server.pid"
FIRST_PORT = 8000
_START_SECONDS = 30


def main() -> int:
    """Run, stop or reset the demo."""
    what = sys.argv[1] if len(sys.argv) > 1 else "run"
    cluster = Cluster(VAR / "postgresql")
    try:
        match what:
            case "run":
                return run(cluster)
            case "stop":
                stop_server()
                cluster.stop()
                print("Stopped. The data stays in var/.")
            case "reset":
                stop_server()
                cluster.remove()
                print("Removed everything in var/; 'make demo' starts anew.")
            case _:
                print(f"'{what}' is not run, stop or reset.", file=sys.stderr)
                return 2
    except (ClusterFailed, NotTheDemo) as problem:
        print(problem, file=sys.stderr)
        return 1
    return 0


def run(cluster: Cluster) -> int:
    """Start everything, print the address, and wait for Ctrl-C."""
    stop_server()
    environment = dict(os.environ)
    own_cluster = "DATABASE_URL" not in environment
    if own_cluster:
        print("Starting PostgreSQL ...", flush=True)
        cluster.start()
        environment |= {
            "DATABASE_URL": cluster.url(APPLICATION),
            "DATABASE_OWNER_URL": cluster.url(OWNER),
            "SECRET_KEY": cluster.application_secret,
        }
    elif not (environment.get("DATABASE_OWNER_URL") and environment.get("SECRET_KEY")):
        print("With DATABASE_URL set, set DATABASE_OWNER_URL and SECRET_KEY too.", file=sys.stderr)
        return 2
    prepare(environment)
    port = port_from(int(environment.get("PORT", FIRST_PORT)))
    server = subprocess.Popen(
        [sys.executable, "-m", "dry_gauge.cli", "serve", "--port", str(port), "--grace", "2"],
        env={"LOG_LEVEL": "WARNING", **environment},
    )
    PID_FILE.write_text(str(server.pid))

    def end(*_: object) -> None:
        server.terminate()

    signal.signal(signal.SIGINT, end)
    signal.signal(signal.SIGTERM, end)
    address = f"http://127.0.0.1:{port}"
    probes: list[subprocess.Popen[bytes]] = []
    if wait_until_up(address, server):
        probes = start_probes(address, environment)
        print(
            f"\nDry Gauge is at {address}\nSign in as 'ines' (technician), 'maren' (lead) or 'odile' (reads along), "
            f"password '{PASSWORD}'.\nCtrl-C stops it, or 'make stop' from elsewhere.",
            flush=True,
        )
    status = server.wait()
    for hub in probes:
        hub.terminate()
    PID_FILE.unlink(missing_ok=True)
    if own_cluster:
        cluster.stop()
    print("Stopped. The data stays in var/.")
    return 0 if status in (0, -signal.SIGTERM, -signal.SIGINT, -signal.SIGKILL) else status


def prepare(environment: dict[str, str]) -> None:
    """Tables up to date; the demo shop if there is no shop yet; calls for today."""
    migrate(environment["DATABASE_OWNER_URL"], environment["DATABASE_URL"])
    owner = connect(environment["DATABASE_OWNER_URL"], pool_size=1)
    now = datetime.now().astimezone()
    with owner.begin() as connection:
        if is_empty(connection):
            print("Loading the demo shop ...", flush=True)
            seed(connection, now)
        plan_today(connection, now)
    owner.dispose()


def start_probes(address: str, environment: dict[str, str]) -> list[subprocess.Popen[bytes]]:
    """Simulated probes on some of the open visits."""
    owner = connect(environment["DATABASE_OWNER_URL"], pool_size=1)
    with owner.begin() as connection:
        fed = fed_visits(connection)
    owner.dispose()
    return [
        subprocess.Popen(
            [
                sys.executable,
                "-m",
                "dry_gauge.cli",
                "probes",
                "--server",
                address,
                "--visit",
                str(one.visit),
                "--token",
                one.token,
                *one.options,
                "--seconds",
                "28800",
                "--patience",
                "15",
            ],
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        for one in fed
    ]


def port_from(wanted: int) -> int:
    """That port, or the next free one."""
    found = next((port for port in range(wanted, wanted + 100) if is_free(port)), None)
    if found is None:
        raise ClusterFailed(f"No free port from {wanted} to {wanted + 99}; set PORT to another.")
    return found


def wait_until_up(address: str, server: subprocess.Popen[bytes]) -> bool:
    """Whether the server answers before it ends or time runs out."""
    for _ in range(_START_SECONDS * 10):
        if server.poll() is not None:
            return False
        try:
            urllib.request.urlopen(f"{address}/sign-in", timeout=1).close()  # noqa: S310  our own loopback server
            return True
        except OSError:
            time.sleep(0.1)
    return False


def stop_server() -> None:
    """End an earlier demo server, if the recorded process is still that."""
    try:
        pid = int(PID_FILE.read_text())
        command = Path(f"/proc/{pid}/cmdline").read_bytes()
    except (OSError, ValueError):
        return
    if b"dry_gauge.cli\0serve" not in command:
        return
    os.kill(pid, signal.SIGTERM)
    for _ in range(100):
        if not Path(f"/proc/{pid}").exists():
            break
        time.sleep(0.1)
    PID_FILE.unlink(missing_ok=True)


if __name__ == "__main__":
    sys.exit(main())
