"""The end that nobody announces."""

from __future__ import annotations

import os
import signal
import subprocess

from dry_gauge.demo.cluster import Cluster


def kill_postgres(cluster: Cluster) -> None:
    """The postmaster and all its children, as the kernel would when memory runs out."""
    postmaster = int((cluster._data / "postmaster.pid").read_text().split()[0])
    found = subprocess.run(["pgrep", "-P", str(postmaster)], capture_output=True, text=True, check=False)
    for pid in (postmaster, *map(int, found.stdout.split())):
        os.kill(pid, signal.SIGKILL)
