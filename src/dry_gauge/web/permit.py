"""Whether the compressor may start now, by what the visit knows."""

from __future__ import annotations

from datetime import UTC, datetime

from dry_gauge.core.run_permit import RunPermit, run_permit
from dry_gauge.service.notebooks import VisitView


def permit_of(view: VisitView) -> RunPermit:
    """Whether the compressor may start, and where it is stopped."""
    call = view.state.call
    now = datetime.now(UTC)
    return run_permit(
        view.facts, view.state.states(), [change.body.sort.value for change in call.lifted], call.locked,
        [(now - start).total_seconds() / 60 for start in call.starts], view.state.sealed.opened,
    )  # fmt: skip
