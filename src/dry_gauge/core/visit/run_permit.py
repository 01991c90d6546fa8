"""Before the compressor starts: no stop line, fans proven, nothing bypassed; and where it is stopped again."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from dry_gauge.core.judgement.stops import Stop
from dry_gauge.core.quantities import to_kelvin
from dry_gauge.core.refrigerants.saturation import saturation_of
from dry_gauge.core.roles import swapped
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import State
from dry_gauge.core.words import Phrase

# Where no more charge goes in: a share of the cut-out, else a condensing mean (docs/rules.md, R32).
_NO_MORE_SHARE, _NO_MORE_CONDENSING_K = 0.90, to_kelvin(140)
# Comfort coils freeze over below this evaporating mean (docs/rules.md, R27).
_COLD_EVAPORATOR_K = to_kelvin(28)
SHORT_CYCLE_STARTS, SHORT_CYCLE_MINUTES = 3, 15


@dataclass(frozen=True, slots=True)
class RunPermit:
    """What stands in the way of a start, and where to stop. Pressures are absolute [Pa].

    `stop_head_pa` is where no more charge goes in, `by_cutout` whether the card's own cut-out gave it. None where no line
    is known: near the critical point, and for the suction in heating.
    """

    missing: tuple[Phrase, ...]
    stop_head_pa: float | None
    by_cutout: bool
    stop_suction_pa: float | None
    short_cycling: bool

    @property
    def granted(self) -> bool:
        """Whether nothing stands in the way."""
        return not self.missing


def run_permit(
    facts: UnitFacts,
    states: Mapping[str, State],
    open_changes: Collection[str],
    locked: Collection[str],
    minutes_between_starts: Collection[float],
    system_open: bool = False,
    stops: Sequence[Stop] = (),
    fan_is_held: bool = False,
    pumped_down: bool = False,
    red_tags: Sequence[str] = (),
) -> RunPermit:
    """What to see to before a start.

    Parameters
    ----------
    states : mapping of str to State
        Observations by name, as a visit has them: by place.
    open_changes : collection of str
        Kinds of temporary changes still in place.
    locked : collection of str
        Disconnects locked out.
    minutes_between_starts : collection of float
        How long before now each start on record was.
    system_open : bool
        Whether the refrigerant side stands open, under nitrogen or in a vacuum.
    stops : sequence of Stop
        What the readings and sights say against running.
    fan_is_held : bool
        Whether a condenser fan that stands still is stopped by its own control.
    pumped_down : bool
        Whether the charge stands behind the receiver's valve.
    red_tags : sequence of str
        What it was tagged for as unsafe.
    """
    missing = [stop.phrase for stop in stops]
    # The coil that condenses: without its air the head climbs to the cut-out within a minute or two.
    unproven = states.get(swapped("condenser_air_proven", heating=facts.heating)) is not State.YES
    if unproven and not fan_is_held and not any(stop.code == "fan_dead" for stop in stops):
        fan = "indoor fan" if facts.heating else "condenser's fan"
        missing.append(Phrase(f"Prove the {fan} first: fan before compressor."))
    if "safety" in open_changes and not any(stop.code == "safety_bridged" for stop in stops):
        missing.append(Phrase("A safety is bypassed: take the bypass out before it runs."))
    if system_open:
        missing.append(Phrase("The system is open, under nitrogen or in a vacuum: it must not start."))
    if pumped_down:
        missing.append(Phrase("Pumped down: open the receiver's outlet and the discharge valve first."))
    missing += [Phrase(f"Red tag: {danger}. It stays off until that is mended and the tag is taken back.") for danger in red_tags]
    if locked:
        missing.append(Phrase(f"Locked out: {', '.join(sorted(locked))}."))
    recent = sum(minutes <= SHORT_CYCLE_MINUTES for minutes in minutes_between_starts)
    head, by_cutout = _no_more_above(facts)
    return RunPermit(tuple(missing), head, by_cutout, suction_stop_pa(facts), recent >= SHORT_CYCLE_STARTS)


def _no_more_above(facts: UnitFacts) -> tuple[float | None, bool]:
    """Head from which no more charge goes in, and whether the cut-out on the card gave it. [Pa]"""
    if facts.high_pressure_cutout_pa is not None:
        return facts.atmosphere_pa + _NO_MORE_SHARE * (facts.high_pressure_cutout_pa - facts.atmosphere_pa), True
    saturation = saturation_of(facts.refrigerant)
    if facts.refrigerant.apart == "carbon_dioxide" or saturation.temperature_range_k[1] <= _NO_MORE_CONDENSING_K:
        return None, False
    ends = saturation.dew_pressure_pa(_NO_MORE_CONDENSING_K), saturation.bubble_pressure_pa(_NO_MORE_CONDENSING_K)
    return sum(ends) / 2, False


def suction_stop_pa(facts: UnitFacts) -> float | None:
    """Suction at which it is stopped: a comfort coil freezes over, a box is at its cut-out; None in heating. [Pa]"""
    if facts.heating:
        return None
    if facts.kind.is_walk_in:
        return facts.atmosphere_pa if facts.low_pressure_cutout_pa is None else facts.low_pressure_cutout_pa
    saturation = saturation_of(facts.refrigerant)
    return (saturation.dew_pressure_pa(_COLD_EVAPORATOR_K) + saturation.bubble_pressure_pa(_COLD_EVAPORATOR_K)) / 2
