"""The refrigerants a service technician meets: what each is, how it burns, how it must be handled.

Composition and safety group: ASHRAE Standard 34 designations, mass percent. GWP: 100-year values of the IPCC
Fourth Assessment Report (AR4) where it lists the components, as most rules on service refrigerants still count;
HFOs from AR5. A blend's GWP is the mass-weighted mean of its components, as published for the designation.
"""

from __future__ import annotations

from dataclasses import dataclass
from difflib import get_close_matches
from functools import lru_cache

from dry_gauge.core.errors import Refused
from dry_gauge.core.quantities import FAHRENHEIT_K

GWP_SOURCE = "IPCC AR4, 100 years (HFOs: AR5)"


# Each stands in the catalogue once: comparing by identity makes look-ups by refrigerant cheap.
@dataclass(frozen=True, slots=True, eq=False)
class Refrigerant:
    """One refrigerant of the catalogue.

    Parameters
    ----------
    name : str
        Designation as printed on labels, for instance ``R-410A``.
    composition : tuple of (str, float)
        Components with their mass percent; one entry of 100 for a pure fluid.
    safety_group : str
        ``A1``, ``A2L``, ``A3`` or ``B2L`` (ASHRAE 34).
    gwp_100 : int
        Global warming potential over 100 years, CO2 = 1; see `GWP_SOURCE`.
    typical_use, oil : str
        Where it is usually met, and the lubricant usually charged with it.
    model : str
        What the property table was generated from: ``pure``, ``pseudo-pure``, ``mixture`` or ``estimated``
        (a mixture whose missing component pairs were filled by a simple mixing rule).
    mean_doubt_k : float
        By how much more the mean evaporating temperature is doubted, where the glide is too wide for a fixed share of
        dew and bubble. Chosen against the curves of both.
    apart : str
        ``carbon_dioxide`` or ``ammonia`` where it is handled unlike all others: by its own cautions, and not
        recovered into a cylinder with the rest.
    """

    name: str
    composition: tuple[tuple[str, float], ...]
    safety_group: str
    gwp_100: int
    typical_use: str
    oil: str
    model: str = "mixture"
    mean_doubt_k: float = 0.0
    apart: str = ""

    @property
    def met_rank(self) -> int:
        """How often it is met in the field, the commonest 0; all that are seldom met share the last place."""
        return _MET.index(self.name) if self.name in _MET else len(_MET)

    @property
    def is_blend(self) -> bool:
        """Whether it has several components, and so leaves its cylinder as liquid."""
        return len(self.composition) > 1

    @property
    def charge_as_liquid(self) -> bool:
        """Blends are charged as liquid: vapour drawn from the cylinder has another composition."""
        return self.is_blend

    @property
    def estimated(self) -> bool:
        """Whether the properties rest on an estimated mixing rule."""
        return self.model == "estimated"

    @property
    def flammable(self) -> bool:
        """Whether the safety group asks for flammable-refrigerant practice."""
        return not self.safety_group.endswith("1")

    @property
    def caution(self) -> str | None:
        """The caution that its safety group raises, or None."""
        return _CAUTIONS.get(self.apart or self.safety_group)


# The commonest first. Chosen: what stands on roofs and behind walk-ins today.
_MET = (
    "R-410A", "R-22", "R-404A", "R-134a", "R-32", "R-454B", "R-448A", "R-449A", "R-407C", "R-290", "R-507A", "R-407A", "R-513A",
    "R-438A", "R-427A", "R-421A", "R-422D", "R-417A", "R-452A", "R-454C",
)  # fmt: skip

_CAUTIONS = {
    "A2L": "Mildly flammable: tools, hoses, cylinder and detector rated for it; ventilate, no ignition source. "
    "Local code and licensed practice decide.",
    "A3": "Flammable: tools, hoses, cylinder and detector rated for it; ventilate, no ignition source, purge with "
    "nitrogen before any flame. Local code and licensed practice decide.",
    "ammonia": "Toxic and mildly flammable: breathing protection and ventilation; never copper or brass. Licensed practice only.",
    "carbon_dioxide": "Stands above 1,000 psig (69 bar) at 87 °F (31 °C) and turns to dry ice below 60 psig (4.1 bar): never "
    "trap liquid; components rated for it. Licensed practice only.",
}


def _pure(name: str, group: str, gwp: int, use: str, oil: str, apart: str = "") -> Refrigerant:
    return Refrigerant(name, ((name, 100.0),), group, gwp, use, oil, "pure", apart=apart)


def _blend(
    name: str, parts: str, group: str, gwp: int, use: str, oil: str, model: str = "mixture", mean_doubt_f: float = 0.0
) -> Refrigerant:
    """`parts` reads ``R-32 50, R-125 50``."""
    pairs = (part.rsplit(" ", 1) for part in parts.split(", "))
    composition = tuple((who, float(share)) for who, share in pairs)
    return Refrigerant(name, composition, group, gwp, use, oil, model, mean_doubt_f * FAHRENHEIT_K)


_AC, _COLD, _OLD = "comfort cooling", "commercial refrigeration", "older equipment"
_POE, _MO, _AB = "POE", "mineral", "alkylbenzene"

CATALOGUE: tuple[Refrigerant, ...] = (
    _pure("R-12", "A1", 10900, _OLD, _MO),
    _pure("R-22", "A1", 1810, f"{_AC}, {_OLD}", _MO),
    _pure("R-32", "A2L", 675, _AC, _POE),
    _pure("R-134a", "A1", 1430, "coolers, chillers", _POE),
    _pure("R-290", "A3", 3, "self-contained cases", f"{_POE} or {_MO}"),
    _blend("R-401A", "R-22 53, R-152a 13, R-124 34", "A1", 1182, f"R-12 retrofit, {_OLD}", _AB, "estimated"),
    _blend("R-402A", "R-125 60, R-290 2, R-22 38", "A1", 2788, f"R-502 retrofit, {_OLD}", _AB, "estimated"),
    _blend("R-404A", "R-125 44, R-143a 52, R-134a 4", "A1", 3922, _COLD, _POE, "pseudo-pure"),
    _blend("R-407A", "R-32 20, R-125 40, R-134a 40", "A1", 2107, _COLD, _POE),
    _blend("R-407C", "R-32 23, R-125 25, R-134a 52", "A1", 1774, _AC, _POE, "pseudo-pure"),
    _blend("R-407F", "R-32 30, R-125 30, R-134a 40", "A1", 1825, _COLD, _POE),
    _blend("R-407H", "R-32 32.5, R-125 15, R-134a 52.5", "A1", 1495, _COLD, _POE),
    _blend("R-408A", "R-125 7, R-143a 46, R-22 47", "A1", 3152, f"R-502 retrofit, {_OLD}", _AB, "estimated"),
    _blend("R-409A", "R-22 60, R-124 25, R-142b 15", "A1", 1585, f"R-12 retrofit, {_OLD}", _AB, "estimated"),
    _blend("R-410A", "R-32 50, R-125 50", "A1", 2088, _AC, _POE, "pseudo-pure"),
    _blend("R-414B", "R-22 50, R-124 39, R-600a 1.5, R-142b 9.5", "A1", 1362, f"R-12 retrofit, {_OLD}", _AB, "estimated"),
    _blend("R-417A", "R-125 46.6, R-134a 50, R-600 3.4", "A1", 2346, "R-22 retrofit", f"{_MO} or {_POE}"),
    _blend("R-421A", "R-125 58, R-134a 42", "A1", 2631, "R-22 retrofit", f"{_MO} or {_POE}"),
    _blend("R-422D", "R-125 65.1, R-134a 31.5, R-600a 3.4", "A1", 2729, "R-22 retrofit", f"{_MO} or {_POE}"),
    _blend("R-427A", "R-32 15, R-125 25, R-143a 10, R-134a 50", "A1", 2138, "R-22 retrofit", _POE),
    _blend(
        "R-438A",
        "R-32 8.5, R-125 45, R-134a 44.2, R-600 1.7, R-601a 0.6",
        "A1",
        2265,
        "R-22 retrofit",
        f"{_MO} or {_POE}",
        "estimated",
    ),
    _blend("R-448A", "R-32 26, R-125 26, R-134a 21, R-1234ze(E) 7, R-1234yf 20", "A1", 1387, _COLD, _POE),
    _blend("R-449A", "R-32 24.3, R-125 24.7, R-134a 25.7, R-1234yf 25.3", "A1", 1397, _COLD, _POE),
    _blend("R-450A", "R-134a 42, R-1234ze(E) 58", "A1", 604, "coolers, chillers", _POE),
    _blend("R-452A", "R-32 11, R-125 59, R-1234yf 30", "A1", 2140, "transport, low temperature", _POE),
    _blend("R-452B", "R-32 67, R-125 7, R-1234yf 26", "A2L", 698, _AC, _POE),
    _blend("R-454A", "R-32 35, R-1234yf 65", "A2L", 239, _COLD, _POE),
    _blend("R-454B", "R-32 68.9, R-1234yf 31.1", "A2L", 466, _AC, _POE),
    _blend("R-454C", "R-32 21.5, R-1234yf 78.5", "A2L", 148, _COLD, _POE, mean_doubt_f=1.2),
    _blend("R-455A", "R-744 3, R-32 21.5, R-1234yf 75.5", "A2L", 148, _COLD, _POE, mean_doubt_f=3.3),
    _blend("R-466A", "R-32 49, R-125 11.5, R-13I1 39.5", "A1", 733, _AC, _POE),
    _blend("R-502", "R-22 48.8, R-115 51.2", "A1", 4657, f"low temperature, {_OLD}", _MO),
    _blend("R-507A", "R-125 50, R-143a 50", "A1", 3985, _COLD, _POE, "pseudo-pure"),
    _blend("R-513A", "R-1234yf 56, R-134a 44", "A1", 631, "coolers, chillers", _POE),
    _pure("R-600a", "A3", 3, "small self-contained cases", _MO),
    _pure("R-717", "B2L", 0, "industrial cold stores", _MO, "ammonia"),
    _pure("R-744", "A1", 1, "cascade and booster systems", _POE, "carbon_dioxide"),
    _pure("R-1234yf", "A2L", 4, "vehicles, coolers", _POE),
    _pure("R-1234ze(E)", "A2L", 7, "chillers, coolers", _POE),
)


def _key(name: str) -> str:
    key = "".join(name.upper().replace("-", "").split())
    return key[1:] if key.startswith("R") else key


_BY_KEY = {_key(refrigerant.name): refrigerant for refrigerant in CATALOGUE} | {
    "1234ZE": next(refrigerant for refrigerant in CATALOGUE if refrigerant.name == "R-1234ze(E)")
}


@lru_cache(maxsize=256)
def find(name: str) -> Refrigerant:
    """The refrigerant of that name; case, hyphen and spaces do not matter.

    Raises
    ------
    Refused
        For an unknown name, with the nearest known ones.
    """
    refrigerant = _BY_KEY.get(_key(name))
    if refrigerant is None:
        names = {key: known.name for key, known in _BY_KEY.items()}
        nearest = tuple(names[key] for key in get_close_matches(_key(name), names, n=3, cutoff=0.4))
        raise Refused(f"{name!r} is not a refrigerant of the catalogue.", "refrigerant", nearest)
    return refrigerant
