"""The weather at the roof: what it asks of whoever works there, said short, at the moment, once (R74)."""

from __future__ import annotations

from collections.abc import Collection
from enum import StrEnum

from dry_gauge.core.quantities import to_fahrenheit, to_kelvin
from dry_gauge.core.visit.cautions import Caution
from dry_gauge.core.words import Reader, in_percent

THUNDER_MINUTES = 30.0
"""Nobody goes back outdoors sooner after the last thunder (US National Weather Service)."""
HEAT_F, HIGH_HEAT_F = 80.0, 90.0  # heat index: 29 CFR 1910.148 as proposed, 89 FR 70698 (2024)
ASSUMED_HUMIDITY = 0.45
"""Where nobody said; chosen, and said to be assumed."""
_DARK_SOON_MINUTES = 90.0  # chosen: what a repair may take
_FREEZING_F = 35.0  # rain freezes on cold metal a little above freezing (habit)
_OPEN_PANELS = frozenset({"look", "controls", "electrical", "read", "air"})
_LONG_WORK = frozenset({"arrive", "look", "mend", "electrical"})


class Sky(StrEnum):
    """What comes from above."""

    DRY = "dry"
    RAIN = "rain"
    THUNDER = "thunder"
    ICE = "ice"


SKY_WORDS = {Sky.DRY: "dry", Sky.RAIN: "rain", Sky.THUNDER: "thunder", Sky.ICE: "ice or snow"}


def heat_index_k(air_k: float, humidity: float) -> float:
    """How hot it feels in the shade. [K]

    Rothfusz's regression with its two adjustments, and below 80 F the simple average that the US National Weather Service uses
    (Technical Attachment SR 90-23). Sun adds up to 8 K.

    Parameters
    ----------
    air_k : float
        Dry bulb. [K]
    humidity : float
        Relative humidity. [1], 0 to 1

    Raises
    ------
    ValueError
        For a humidity outside of its range.
    """
    if not 0.0 <= humidity <= 1.0:
        raise ValueError("Relative humidity lies between 0 and 1.")
    t, r = to_fahrenheit(air_k), 100.0 * humidity
    simple = 0.5 * (t + 61.0 + (t - 68.0) * 1.2 + r * 0.094)
    if (simple + t) / 2 < 80.0:
        return to_kelvin(simple)
    felt = (
        -42.379
        + 2.04901523 * t
        + 10.14333127 * r
        - 0.22475541 * t * r
        - 6.83783e-3 * t * t
        - 5.481717e-2 * r * r
        + 1.22874e-3 * t * t * r
        + 8.5282e-4 * t * r * r
        - 1.99e-6 * t * t * r * r
    )
    if r < 13.0 and 80.0 <= t <= 112.0:
        felt -= (13.0 - r) / 4.0 * ((17.0 - abs(t - 95.0)) / 17.0) ** 0.5
    elif r > 85.0 and 80.0 <= t <= 87.0:
        felt += (r - 85.0) / 10.0 * (87.0 - t) / 5.0
    return to_kelvin(felt)


def heeded(
    now: Collection[str],
    given: Collection[str],
    reader: Reader,
    *,
    sky: Sky | None = None,
    air_k: float | None = None,
    humidity: float | None = None,
    thunder_minutes: float | None = None,
    thunder_code: str = "",
    dark_in_minutes: float | None = None,
) -> tuple[list[Caution], list[Caution]]:
    """What the weather asks for now: before all other cautions, and after them. Each once a visit; thunder each time it is heard.

    Parameters
    ----------
    now : collection of str
        Stations and work at hand: rain is said where panels stand open, heat and dusk where work begins.
    given : collection of str
        Codes that were acknowledged.
    humidity : float or None
        Outdoors [1]; without it `ASSUMED_HUMIDITY` is taken, and said to be.
    thunder_minutes : float or None
        Since it was heard last; `thunder_code` says which.
    dark_in_minutes : float or None
        Until the end of dusk; below nothing once it is over.
    """
    graver, found = [], []
    if thunder_minutes is not None and thunder_minutes < THUNDER_MINUTES:
        graver.append(
            _said(
                f"thunder_{thunder_code}",
                "Thunder: off the roof, away from metal, into a building or a car. Back "
                f"{THUNDER_MINUTES:.0f} minutes after the last of it.",
            )
        )
    if sky is Sky.RAIN and _OPEN_PANELS & set(now):
        graver.append(
            _said(
                "rain",
                "Rain: no live panel stands open in it and no meter goes in with wet hands. Cover it, or power off and wait.",
            )
        )
    if sky is Sky.ICE or (sky is Sky.RAIN and air_k is not None and to_fahrenheit(air_k) < _FREEZING_F):
        graver.append(_said("ice", "Ice: ladder and roof first. Clear a way, tie off, not alone; or not today."))
    if air_k is not None and _LONG_WORK & set(now):
        found += _hot(air_k, humidity, reader)
    if dark_in_minutes is not None and _LONG_WORK & set(now) and dark_in_minutes < _DARK_SOON_MINUTES:
        left = f"Dark in about {dark_in_minutes:.0f} minutes" if dark_in_minutes >= 1 else "It is dark"
        found.append(_said("dark", f"{left}: nothing begun that cannot stay open, and light for the way down."))
    return [one for one in graver if one.code not in given], [one for one in found if one.code not in given]


def _hot(air_k: float, humidity: float | None, reader: Reader) -> list[Caution]:
    felt_k = heat_index_k(air_k, ASSUMED_HUMIDITY if humidity is None else humidity)
    if to_fahrenheit(felt_k) < HEAT_F:
        return []
    assumed = "" if humidity is not None else f", {in_percent(ASSUMED_HUMIDITY)} humidity assumed"
    felt = f"Feels like {reader.say('temperature', felt_k)} in the shade{assumed}"
    if to_fahrenheit(felt_k) < HIGH_HEAT_F:
        return [_said("heat", f"{felt}: water within reach, rest in the shade when you need it.")]
    return [
        _said(
            "high_heat",
            f"{felt}: a cup of water every 20 minutes, 15 minutes in the shade every two hours at the "
            "least. Dizzy, confused, no more sweat: stop, cool down, call for help.",
        )
    ]


def _said(code: str, words: str) -> Caution:
    return Caution(f"weather_{code}", words, frozenset())
