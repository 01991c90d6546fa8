"""What an installation sets from outside, all through the environment."""

from __future__ import annotations

import os
from collections.abc import Mapping
from dataclasses import dataclass

from dry_gauge.service.operations import LEAST_SECRET, is_weak


@dataclass(frozen=True, slots=True)
class Settings:
    """Where the database is, what signs tokens, and limits."""

    database_url: str
    secret_key: str
    api_calls_per_minute: int = 60
    patterns: bool = False
    """Whether the pattern pages are served: in development, never in an installation."""

    @classmethod
    def from_environment(cls, environment: Mapping[str, str] = os.environ) -> Settings:
        """Read DATABASE_URL, SECRET_KEY, API_CALLS_PER_MINUTE and PATTERNS.

        Raises
        ------
        SystemExit
            Naming the variable that is missing, not a number, or a secret that can be guessed.
        """
        missing = [name for name in ("DATABASE_URL", "SECRET_KEY") if not environment.get(name)]
        if missing:
            raise SystemExit(f"Set {' and '.join(missing)} in the environment ('make demo' does it for you).")
        if is_weak(environment["SECRET_KEY"]):
            raise SystemExit(f"SECRET_KEY is too weak: at least {LEAST_SECRET} random characters, such as from "
                             "python -c 'import secrets; print(secrets.token_urlsafe(48))'.")  # fmt: skip
        calls = environment.get("API_CALLS_PER_MINUTE", "60")
        if not calls.isdecimal() or int(calls) < 1:
            raise SystemExit(f"API_CALLS_PER_MINUTE must be a whole number above zero; got {calls!r}.")
        return cls(environment["DATABASE_URL"], environment["SECRET_KEY"], int(calls), environment.get("PATTERNS") == "1")
