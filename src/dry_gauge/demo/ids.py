"""Names of the demo's rows, and the ids that they always get: the same at every seeding."""

from __future__ import annotations

from uuid import NAMESPACE_DNS, UUID, uuid5

_NAMESPACE = uuid5(NAMESPACE_DNS, "saltmarsh.example")
SHOP_ID = uuid5(_NAMESPACE, "shop")


def ident(*names: object) -> UUID:
    """The id of whatever those names tell apart."""
    return uuid5(_NAMESPACE, "/".join(str(name) for name in names))
