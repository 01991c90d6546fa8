"""What an installation sets from outside, all through the environment."""

from __future__ import annotations

import os
from collections.abc import Mapping
from dataclasses import dataclass
from ipaddress import ip_network

from dry_gauge.service.operations import LEAST_SECRET, is_weak


@dataclass(frozen=True, slots=True)
class Settings:
    """Where the database is, what signs tokens, and limits."""

    database_url: str
    secret_key: str
    api_calls_per_minute: int = 60
    trusted_proxies: str = ""
    """Addresses and networks, with commas between, whose X-Forwarded-For and X-Forwarded-Proto are believed; empty: nobody's."""
    listen_url: str = ""
    """The database itself, to listen at, where `database_url` is a pooler's; empty: there is no pooler."""
    allowed_hosts: tuple[str, ...] = ()
    """Names under which it is reached, besides this machine's own."""
    metrics_token: str = ""
    """Who may ask for /metrics, as a bearer; empty: nobody."""
    patterns: bool = False
    """Whether the pattern pages are served: in development, never in an installation."""

    @classmethod
    def from_environment(cls, environment: Mapping[str, str] = os.environ) -> Settings:
        """Read DATABASE_URL, SECRET_KEY, API_CALLS_PER_MINUTE, TRUSTED_PROXIES, DATABASE_LISTEN_URL, ALLOWED_HOSTS,
        METRICS_TOKEN and PATTERNS.

        Raises
        ------
        SystemExit
            Naming the variable that is missing, or not what it should be, or a secret that can be guessed.
        """
        missing = [name for name in ("DATABASE_URL", "SECRET_KEY") if not environment.get(name)]
        if missing:
            raise SystemExit(f"Set {' and '.join(missing)} in the environment ('make demo' does it for you).")
        if is_weak(environment["SECRET_KEY"]):
            raise SystemExit(
                f"SECRET_KEY is too weak: at least {LEAST_SECRET} random characters, such as from "
                "python -c 'import secrets; print(secrets.token_urlsafe(48))'."
            )
        calls = environment.get("API_CALLS_PER_MINUTE", "60")
        if not calls.isdecimal() or int(calls) < 1:
            raise SystemExit(f"API_CALLS_PER_MINUTE must be a whole number above zero; got {calls!r}.")
        proxies = environment.get("TRUSTED_PROXIES", "").strip()
        for one in filter(None, (part.strip() for part in proxies.split(","))):
            try:
                ip_network(one)
            except ValueError:
                raise SystemExit(
                    f"TRUSTED_PROXIES: {one!r} is neither an address nor a network; write 127.0.0.1 or "
                    "10.0.0.0/8, with commas between. '*' is not taken: anybody could write any address."
                ) from None
        patterns = environment.get("PATTERNS") == "1"
        metrics = environment.get("METRICS_TOKEN", "")
        if metrics and is_weak(metrics):
            raise SystemExit(f"METRICS_TOKEN is too weak: at least {LEAST_SECRET} random characters.")
        hosts = tuple(filter(None, (one.strip() for one in environment.get("ALLOWED_HOSTS", "").split(","))))
        return cls(
            environment["DATABASE_URL"],
            environment["SECRET_KEY"],
            int(calls),
            proxies,
            environment.get("DATABASE_LISTEN_URL", ""),
            hosts,
            metrics,
            patterns,
        )
