"""Where the work can hurt someone: a caution at the moment it applies, once a visit, deferring to code and licence."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from dry_gauge.core.sheet import UnitFacts

DEFERS = "Local code and licensed practice come first."


@dataclass(frozen=True, slots=True)
class Caution:
    """A few words, and the moments at which they are shown."""

    code: str
    words: str
    moments: frozenset[str]


def _caution(code: str, words: str, *moments: str) -> Caution:
    return Caution(code, words, frozenset(moments))


# The graver first: of two that are due at once that one is shown.
# Moments: what is about to be done. `look` and `arrive` are the stations, the rest are sorts of work.
CAUTIONS = (
    _caution("combustion", "Cracked heat exchanger or rollout: gas off, heat off, red tag, and tell them about carbon monoxide "
             "in writing.", "combustion"),
    _caution("bypass", "A bypassed safety is never left: it is on the ledger now and blocks closing the visit.", "bypass"),
    _caution("loose_blade", "A cracked or loose blade or a rubbing wheel is off and locked out until it is replaced. No "
             "acceptance makes it safe.", "blade"),
    _caution("ammonia", "R-717: no copper or brass, and nobody alone with it.", "read_ammonia", "open_system_ammonia"),
    _caution("carbon_dioxide", "R-744 stands above 1,000 psig (69 bar) at 87 °F (31 °C) and turns to dry ice "
             "below 60 psig (4.1 bar): never trap liquid.", "read_carbon_dioxide", "open_system_carbon_dioxide"),
    _caution("flammable", "This refrigerant burns. Ventilate, no spark or flame near, detector on, and hoses, pump, recovery "
             "machine and cylinder rated for it. Purge with nitrogen before any flame.", "read_flammable",
             "open_system_flammable"),
    _caution("lock_out", "Lock out every disconnect that feeds it and prove it dead before hands go in. Fans start on "
             "their own.", "look", "fan", "electrical", "mend"),
    _caution("live", "Live panels only by those trained for it: insulated tools, one hand, nothing loose.", "electrical"),
    _caution("capacitor", "A capacitor holds its charge after the power is off: discharge it and prove it.", "electrical",
             "fan"),
    _caution("nitrogen", "Nitrogen only through a regulator with relief, never above the label's test pressure; never "
             "oxygen or compressed air.", "nitrogen"),
    _caution("brazing", "No pressure left inside, nitrogen flowing, vent open. Fire watch, extinguisher, sprinklers, and look "
             "behind the joint for wires.", "braze"),
    _caution("roof", "Ladder tied, three points of contact, back from the edge. Heat: water, shade, someone who knows "
             "where you are.", "arrive_roof"),
    _caution("frostbite", "Escaping refrigerant freezes skin and eyes: gloves and glasses before a hose goes on. In a closed "
             "room it displaces air.", "read", "open_system"),
    _caution("recovery", "Recovery cylinder: right type, in date, on the scale, 80 % and no more.", "recover"),
    _caution("short_cycle", "Starting again and again hurts the compressor: wait for its delay, and find out why.",
             "short_cycle"),
    _caution("water_electrics", "Ice becomes water: protect electrics and the ceiling below, and watch for ice that falls.",
             "thaw"),
    _caution("hot_parts", "Discharge lines and compressors burn; bearings too.", "read"),
    _caution("cleaner", "Cleaner: gloves and eyes, only what the coil's maker allows (micro-channel takes little), rinse it "
             "all out, keep it away from air intakes.", "wash"),
    _caution("food", "Above 41 °F (5 °C) for four hours is the usual limit for cold-held food. Say so early; the local code "
             "and the owner decide about the product.", "food"),
)  # fmt: skip
BY_CODE = {caution.code: caution for caution in CAUTIONS}


def cautions_at(moments: Collection[str], facts: UnitFacts, given: Collection[str]) -> tuple[Caution, ...]:
    """The cautions that apply now and have not been acknowledged on this visit.

    Parameters
    ----------
    moments : collection of str
        What is about to be done; the refrigerant adds its own.
    given : collection of str
        Codes already acknowledged.
    """
    refrigerant = facts.refrigerant
    kinds = [*(["flammable"] if refrigerant.flammable else []), *([refrigerant.apart] if refrigerant.apart else [])]
    applies = set(moments) | {f"{moment}_{kind}" for moment in moments for kind in kinds}
    return tuple(caution for caution in CAUTIONS if caution.moments & applies and caution.code not in given)
