"""Names of our cookies: prefixed and Secure wherever the connection is, plain only over http on loopback.

The prefix makes browsers refuse a cookie unless it is Secure, host-only and for the whole site. Over plain http some browsers
take no Secure cookie even from their own machine; the demo is served there.
"""

from __future__ import annotations

from ipaddress import ip_address

from starlette.types import Scope

SESSION_COOKIE, FORM_COOKIE, DEVICE_COOKIE = "dry-gauge", "dry-gauge-form", "dry-gauge-device"


def is_secure(scope: Scope) -> bool:
    """Whether cookies are Secure: always, but over http on this machine."""
    return scope.get("scheme") != "http" or not _on_loopback(scope)


def cookie_named(name: str, scope: Scope) -> str:
    """A cookie's name as this connection has it."""
    return f"__Host-{name}" if is_secure(scope) else name


LOOPBACK = frozenset({"localhost", "127.0.0.1", "::1"})


def host_of(scope: Scope) -> str:
    """The name under which a request came, without its port."""
    said = str(dict(scope["headers"]).get(b"host", b"").decode("latin-1")).lower()
    return said[1:].partition("]")[0] if said.startswith("[") else said.partition(":")[0]


def _on_loopback(scope: Scope) -> bool:
    return host_of(scope) in LOOPBACK and _is_loopback((scope.get("server") or ("", 0))[0])


def _is_loopback(address: str) -> bool:
    try:
        return ip_address(address).is_loopback
    except ValueError:
        return False
