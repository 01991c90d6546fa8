"""Ports on loopback for servers that are started here.

They lie below those that the system gives to outgoing connections: whoever tries again and again whether a server is up may
be given its very port, then speaks with itself, and the server finds it taken.
"""

from __future__ import annotations

import socket
from secrets import SystemRandom

_BELOW_THE_SYSTEMS_OWN = range(20_000, 32_000)  # Linux gives out 32,768 and up


def is_free(port: int) -> bool:
    """Whether nobody listens there."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return False
        return True


def free_port() -> int:
    """Some port that is free.

    Raises
    ------
    OSError
        Where a hundred in a row were taken.
    """
    for port in SystemRandom().sample(_BELOW_THE_SYSTEMS_OWN, 100):
        if is_free(port):
            return port
    raise OSError("No free port was found on loopback.")
