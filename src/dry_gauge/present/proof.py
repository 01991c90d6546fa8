"""The proof sheet: the sealed work of a visit and its final readings. What was not done is missing, never left out."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from dry_gauge.core.judgement.assess import CircuitAssessment
from dry_gauge.core.judgement.evidence import GAP_LABELS
from dry_gauge.core.words import Reader
from dry_gauge.notebook.subjects.hold import HoldView
from dry_gauge.notebook.subjects.readings import Readings
from dry_gauge.notebook.subjects.running import Running
from dry_gauge.notebook.subjects.vacuum import EvacuationView
from dry_gauge.present.hold import HoldSection, hold
from dry_gauge.present.proving import gap_said
from dry_gauge.present.scene import Scene
from dry_gauge.present.vacuum import evacuations_of
from dry_gauge.present.visit import VisitView, circuit_of, judged_otherwise

_GAPS = ("superheat", "coil_superheat", "subcooling", "evaporator_td", "condenser_split", "air_split", "discharge_superheat")


@dataclass(frozen=True, slots=True)
class Final:
    """One gap as it was read last, with its band and where that comes from."""

    name: str
    found: str
    band: str
    source: str


@dataclass(frozen=True, slots=True)
class Proof:
    """Everything the sheet shows besides the account."""

    rigs: Sequence[EvacuationView]
    systems: Sequence[EvacuationView]
    holds: Sequence[HoldView]
    rates: Mapping[str, str]
    sections: Sequence[HoldSection]
    finals: Sequence[Final]
    otherwise: Sequence[Final]
    read_at: datetime | None


def proof(scene: Scene) -> Proof:
    """The sheet of the circuit that is shown."""
    scene = scene.of_circuit()
    pulled, held = evacuations_of(scene), hold(scene)
    return Proof(
        [one for one in pulled if one.kept.body.what == "rig"],
        [one for one in pulled if one.kept.body.what == "system"],
        held.holds,
        held.rates,
        held.sections,
        finals(scene.view, scene.reader, scene.circuit),
        finals_otherwise(scene.view, scene.reader, scene.circuit),
        scene.view.state[Running].read_at,
    )


def finals(view: VisitView, reader: Reader, circuit: int = 1) -> list[Final]:
    """The gaps that were read last."""
    judged = circuit_of(view, circuit) if view.state[Readings].latest else None
    return _finals(judged, reader) if judged else []


def finals_otherwise(view: VisitView, reader: Reader, circuit: int = 1) -> list[Final]:
    """Those that a heat pump was read in its other mode."""
    judged = judged_otherwise(view)
    return _finals(judged.circuits[circuit], reader) if judged and circuit in judged.circuits else []


def _finals(judged: CircuitAssessment, reader: Reader) -> list[Final]:
    found = []
    for name in _GAPS:
        derived, target = judged.derived.get(name), judged.targets.get(name)
        if derived is None:
            continue
        band = source = ""
        if target is not None:
            band = f"{reader.difference(target.low_k):.1f} to {reader.say('difference', target.high_k)}"
            source = target.source.read(reader) + (", assumed" if target.assumed else "")
            source += f"; {target.indication_only.read(reader)}" if target.indication_only else ""
        found.append(Final(GAP_LABELS.get(name, name.replace("_", " ")), gap_said(derived, reader), band, source))
    return found
