"""The pocket's tools work in the trade's units; here each number goes into its reader's and back. Browsers get the same table."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from dry_gauge.core.charge.mass import OUNCE_KG
from dry_gauge.core.pocket import Answer, Tool, Values, read_values
from dry_gauge.core.quantities import BAR_PA, CFM_M3_S, FOOT_M, INCH_M, POUND_KG, PSI_PA
from dry_gauge.core.words import Reader


@dataclass(frozen=True, slots=True)
class Swap:
    """A trade unit in another one: ``other = trade * scale + offset``. `decimals` is how many more are shown, or fewer."""

    unit: str
    scale: float
    offset: float = 0.0
    decimals: int = 0


_AIR: Mapping[str, Swap] = {
    "°F": Swap("°C", 5 / 9, -160 / 9),
    "°F apart": Swap("K", 5 / 9),
    "ft": Swap("m", FOOT_M),
    "in.": Swap("mm", INCH_M * 1000, decimals=-1),
    "ft²": Swap("m²", FOOT_M**2, decimals=1),
    "cfm": Swap("m³/h", CFM_M3_S * 3600),
    "fpm": Swap("m/s", FOOT_M / 60, decimals=1),
}
SWAPS: Mapping[str, Mapping[str, Swap]] = {
    "C": _AIR,
    "kPa": {"psig": Swap("kPag", PSI_PA / 1e3, decimals=-1), "psi": Swap("kPa", PSI_PA / 1e3)},
    "bar": {"psig": Swap("barg", PSI_PA / BAR_PA, decimals=1), "psi": Swap("bar", PSI_PA / BAR_PA, decimals=1)},
    "kg": {"lb": Swap("kg", POUND_KG, decimals=1), "oz": Swap("g", OUNCE_KG * 1000, decimals=-1),
           "oz/ft": Swap("g/m", OUNCE_KG * 1000 / FOOT_M, decimals=-1)},
}  # fmt: skip
"""By what a reader has chosen: degrees, gauge, weights. Who reads degrees Celsius reads air and lengths in metric units too."""


def chosen(reader: Reader) -> tuple[str, ...]:
    """What this reader has chosen, as names in `SWAPS`."""
    return tuple(name for name in (reader.temperature_unit, reader.pressure_unit, reader.weight_unit) if name in SWAPS)


def _swaps(tool: Tool, reader: Reader) -> dict[str, Swap]:
    if tool.fixed:
        return {}
    return {unit: swap for name in chosen(reader) for unit, swap in SWAPS[name].items()}


def unit_shown(unit: str, tool: Tool, reader: Reader) -> str:
    """The unit in which this reader types or reads a number of a tool, as it is written."""
    swap = _swaps(tool, reader).get(unit)
    return (swap.unit if swap else unit).removesuffix(" apart")


def typed_values(tool: Tool, typed: Mapping[str, str], reader: Reader) -> Values:
    """What this reader typed, in the trade's units.

    Raises
    ------
    Refused
        For what is no number, or no choice.
    """
    swaps, found = _swaps(tool, reader), read_values(tool, typed)
    for field in tool.fields:
        value = found.get(field.name)
        if isinstance(value, float) and (swap := swaps.get(field.unit)) is not None:
            found[field.name] = (value - swap.offset) / swap.scale
    return found


def answers_shown(tool: Tool, answers: Sequence[Answer], reader: Reader) -> list[Answer]:
    """Answers in this reader's units; what stands there only for who reads others is left out."""
    swaps, reads = _swaps(tool, reader), chosen(reader)
    found = []
    for one in answers:
        if one.twin and one.twin in reads:
            continue
        swap = swaps.get(one.unit, Swap(one.unit.removesuffix(" apart"), 1.0))
        found.append(
            replace(
                one, value=one.value * swap.scale + swap.offset, unit=swap.unit, decimals=max(0, one.decimals + swap.decimals)
            )
        )
    return found


def exported_swaps() -> dict[str, object]:
    """The table for browsers."""
    return {
        name: {unit: [swap.unit, swap.scale, swap.offset, swap.decimals] for unit, swap in table.items()}
        for name, table in SWAPS.items()
    }
