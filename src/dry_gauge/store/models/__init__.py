"""What is remembered: the tables. Every table of a shop leads with `shop_id`; row-level security sees to the rest."""

from __future__ import annotations

from dry_gauge.store.models.base import Base
from dry_gauge.store.models.office import (
    DecisionRow,
    Job,
    JobPiece,
    OwnerLinkRow,
    OwnerReportRow,
    PartOrder,
    PriceRow,
    ProposalRow,
    VisitHeld,
    VisitResult,
    WarrantyClaim,
    WarrantyRow,
)
from dry_gauge.store.models.practice import PracticeCaseRow, PracticeGameRow
from dry_gauge.store.models.register import (
    Component,
    CylinderRow,
    Instrument,
    MovementRow,
    Photo,
    Site,
    Unit,
    UnitChange,
)
from dry_gauge.store.models.shop import AuditEvent, Person, RateWindow, RecoveryCode, SecondFactor, Shop, WebSession
from dry_gauge.store.models.visits import (
    BoardCode,
    ControlChainRow,
    ControlFinding,
    EntryRow,
    FollowUp,
    ProbeHub,
    ProbeToken,
    SoundDay,
    Visit,
)

__all__ = [
    "AuditEvent",
    "Base",
    "BoardCode",
    "Component",
    "ControlChainRow",
    "ControlFinding",
    "CylinderRow",
    "DecisionRow",
    "EntryRow",
    "FollowUp",
    "Instrument",
    "Job",
    "JobPiece",
    "MovementRow",
    "OwnerLinkRow",
    "OwnerReportRow",
    "PartOrder",
    "Person",
    "Photo",
    "PracticeCaseRow",
    "PracticeGameRow",
    "PriceRow",
    "ProbeHub",
    "ProbeToken",
    "ProposalRow",
    "RateWindow",
    "RecoveryCode",
    "SecondFactor",
    "Shop",
    "Site",
    "SoundDay",
    "Unit",
    "UnitChange",
    "Visit",
    "VisitHeld",
    "VisitResult",
    "WarrantyClaim",
    "WarrantyRow",
    "WebSession",
]
