"""A visit as an append-only list of typed entries, and what it adds up to. Pure."""

# The kinds are gathered before anything here is used.
from dry_gauge.notebook import entries as entries
