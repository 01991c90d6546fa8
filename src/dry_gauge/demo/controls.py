"""What the demo's visits found on controls: a rooftop that trips in summer, and stands still since a fire drill."""

from __future__ import annotations

from dry_gauge.core.controls.chain import TEMPLATES
from dry_gauge.core.visit.complaints import Complaint
from dry_gauge.notebook.kind import Body
from dry_gauge.notebook.subjects.call import ComplaintBody
from dry_gauge.notebook.subjects.codes import CodeBody, CodeMeaningBody, NoMoreCodesBody
from dry_gauge.notebook.subjects.control_chain import ChainBody, ChainLink, ChainPointBody, ClosedLinkBody, CoilBody, OpenLinkBody

_OWNERS = {"Building interlock": "the port's fire panel"}
FERRY_CHAIN = ChainBody(
    links=tuple(
        ChainLink(name=link.name, sort=link.sort, after=link.after, place=link.place, owner=_OWNERS.get(link.name, ""))
        for link in TEMPLATES["Rooftop with gas heat"].links
    ),
    taken_from="Rooftop with gas heat",
)
_BOARD = "Norrland main board"

TRIPPED_IN_SUMMER: tuple[Body, ...] = (
    FERRY_CHAIN,
    CodeBody(board=_BOARD, taps_s=(0, 0.5, 1.0, 3.1, 3.6, 4.1), times=2),
    CodeMeaningBody(board=_BOARD, code="3", meaning="High pressure opened twice in a call",
                    first_test="outdoor fan, then the coil's inner side", latches=True),
    CodeMeaningBody(board=_BOARD, code="5", meaning="No call from the building for over a day",
                    first_test="the interlock's owner"),
    NoMoreCodesBody(board=_BOARD),
    OpenLinkBody(link="High-pressure switch", cause="coil dirty"),
    ClosedLinkBody(link="High-pressure switch", cause="coil dirty", how="reset once the coil was washed"),
)  # fmt: skip

STILL_SINCE_THE_DRILL: tuple[Body, ...] = (
    ComplaintBody(sorts=(Complaint.DOES_NOT_RUN,), words="all of it stands still", since="the fire drill this morning"),
    FERRY_CHAIN.model_copy(update={"taken_from": "This unit's own, from an earlier visit"}),
    CoilBody(coil="Compressor contactor", runs=False),
    CoilBody(coil="Blower contactor", runs=False),
    CodeBody(board=_BOARD, taps_s=(0, 0.5, 1.0, 1.5, 2.0, 4.4, 4.9, 5.4, 5.9, 6.4)),
    ChainPointBody(link="Control fuse", volts=25.9),
)
