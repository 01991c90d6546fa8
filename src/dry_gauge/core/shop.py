"""What a shop sets for itself: how leaks are counted, recovery vacuums, end points, prices. Each with a usual value."""

from __future__ import annotations

from typing import Annotated

from pydantic import AliasChoices, BaseModel, ConfigDict, Field

from dry_gauge.core.charge.leak_rate import Method, Rule, Threshold, Use
from dry_gauge.core.office.replacement import ShareSchool
from dry_gauge.core.quantities import POUND_KG, PSI_PA
from dry_gauge.core.visit.teach import Limit
from dry_gauge.core.vocabulary import Kind

_Share = Annotated[float, Field(gt=0, le=2)]
_Kg = Annotated[float, Field(ge=0, le=10_000)]
_Hours = Annotated[float, Field(ge=0, le=8784)]
_Price = Annotated[float, Field(ge=0, le=100)]


class RecoveryRow(BaseModel):
    """To what vacuum a sort of appliance is recovered before it is opened; inches of mercury, 0 is atmospheric."""

    model_config = ConfigDict(frozen=True)
    name: Annotated[str, Field(min_length=1, max_length=80)]
    to_inhg: Annotated[float, Field(ge=0, le=29.9)]


# Certified equipment, appliances other than small ones, as US rules have had them (40 CFR 82.156, table 1). A setting.
_RECOVERY = (
    RecoveryRow(name="High pressure, under 200 lb", to_inhg=0),
    RecoveryRow(name="High pressure, 200 lb and more", to_inhg=10),
    RecoveryRow(name="Medium pressure (R-134a, R-12), under 200 lb", to_inhg=10),
    RecoveryRow(name="Medium pressure (R-134a, R-12), 200 lb and more", to_inhg=15),
    RecoveryRow(name="Very high pressure", to_inhg=0),
    RecoveryRow(name="Low pressure (chillers)", to_inhg=28.9),
    RecoveryRow(name="Opened for a leak: to atmospheric", to_inhg=0),
)


class ShopSettings(BaseModel):
    """Everything with its usual value; the shop checks it against the rule where it works."""

    model_config = ConfigDict(frozen=True, extra="ignore")
    time_zone: Annotated[str, Field(max_length=64)] = ""
    """Where it works, such as ``America/Denver``; empty for the zone of the machine that serves it."""
    rule_name: Annotated[str, Field(max_length=80)] = "Leak rule (check the local one)"
    method: Method = Method.ANNUALISING
    comfort: _Share = 0.10
    commercial: _Share = 0.20
    process: _Share = 0.30
    from_kg: Annotated[_Kg, Field(validation_alias=AliasChoices("from_kg", "above_kg"))] = round(50 * POUND_KG, 3)
    """Shops kept it under its older name until 2026."""
    small_kg: _Kg = round(15 * POUND_KG, 3)
    small_from_gwp: Annotated[int, Field(ge=0, le=20_000)] = 53
    recovery: tuple[RecoveryRow, ...] = _RECOVERY
    vacuum_school: Annotated[str, Field(pattern="^(strict|common)$")] = "strict"
    hold_loss_psi_h: Annotated[float, Field(gt=0, le=20)] = 0.25
    price_per_kg: Annotated[float, Field(ge=0, le=5000)] = 0.0
    currency: Annotated[str, Field(max_length=3)] = ""
    share_school: ShareSchool = ShareSchool.HALF
    full_load_hours: tuple[_Hours, _Hours] = (800, 1600)
    kwh_price: tuple[_Price, _Price] = (0.0, 0.0)
    """In the shop's currency; zeros: not said, and no energy is worked out."""
    food_limit_f: Annotated[float, Field(ge=-20, le=70)] = 41.0
    food_minutes: Annotated[float, Field(gt=0, le=2880)] = 240.0
    """With what a product's food clock begins where nobody says otherwise: the local code decides."""
    latitude: Annotated[float, Field(ge=-90, le=90)] | None = None
    longitude: Annotated[float, Field(ge=-180, le=180)] | None = None
    """About where it works, north and east: when it gets dark there. None: not said, and no daylight is counted. [degrees]"""
    helper_limits: dict[str, Limit] = {}
    """How far a helper goes, by step; what is not set is as usual."""
    leads_second_step: bool = False
    """Whether a lead signs in with a second step, and sets it up before anything else."""

    @property
    def hours(self) -> tuple[float, float]:
        """Full-load hours of a comfort unit a year, low and high."""
        low, high = sorted(self.full_load_hours)
        return low, high

    @property
    def cents_kwh(self) -> tuple[float, float]:
        """The price of a kilowatt-hour, low and high. [hundredths]"""
        low, high = sorted(self.kwh_price)
        return low * 100, high * 100

    @property
    def rule(self) -> Rule:
        """The rule on leaks, as set."""
        shares = {Use.COMFORT: self.comfort, Use.COMMERCIAL: self.commercial, Use.PROCESS: self.process}
        thresholds = tuple(Threshold(use, share, self.from_kg) for use, share in shares.items())
        return Rule(self.rule_name, self.method, thresholds, self.small_kg, self.small_from_gwp)

    @property
    def hold_loss_pa_h(self) -> float:
        """What a tight hold must rule out. [Pa/h]"""
        return self.hold_loss_psi_h * PSI_PA


def use_of(kind: Kind) -> Use:
    """What a unit is for, as rules on leaks sort them."""
    return Use.COMMERCIAL if kind.is_walk_in else Use.COMFORT
