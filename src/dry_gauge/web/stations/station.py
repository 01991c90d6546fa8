"""What a station is: one row that says what it shows, with which panels, and which kinds of entries its forms send."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.visit.teach import Step
from dry_gauge.present.account import Account
from dry_gauge.present.rail import Stop
from dry_gauge.present.scene import Scene
from dry_gauge.present.visit import VisitView
from dry_gauge.web.stations.folders import forms_of, template_in
from dry_gauge.web.stations.pictures import ladder
from dry_gauge.web.typed import Reads

if TYPE_CHECKING:
    from dry_gauge.web.visit_page import VisitPage


def _nothing(_: Scene) -> None:
    return None


@dataclass(frozen=True, slots=True)
class Station:
    """One station of a visit, or one desk of several that share a stop on the rail.

    Parameters
    ----------
    name, label : str
        In addresses, and on the rail or among its desks.
    shows : callable
        From a scene to a frozen view; its fields are what the panels see.
    needs : frozenset of str
        What the scene must hold for it; see `service.scenes`.
    stop : callable or None
        How far it is, where it has a stop on the rail of its own; `stop_label` where that reads otherwise.
    group : str
        The stop under which several desks stand.
    under : str
        The stop on the rail that stays marked while it is shown, where it is reached from that station's page.
    page, mark : str
        Where its stop leads, if not to its own page.
    key : str
        The letter that leads there.
    body, panel, head, picture, side : str
        Templates: the forms, what frames them, what stands over the picture, the picture (the folder's own, or the ladder),
        and what stands beside it.
    pictured : callable
        What the picture's template needs, from the page.
    pictures_judged : bool
        Whether a reading changes the picture.
    draw : callable or None
        A desk's drawing for a size of page, from its view, the account and the scene.
    draws_nothing : str
        What stands there before there is anything to draw.
    docked : callable or None
        The one thing to know and what comes next, which stay in sight on a phone; without it the verdict does.
    moments : tuple of str
        What is about to be done here besides what the name says: decides which cautions are shown.
    steps : tuple of Step
        Steps with consequence that are done here: a helper sees their cards.
    only : callable or None
        Which units have it on the rail; all of them without.
    live : tuple of str
        Templates that are drawn again while probes speak.
    beside, beside_reading : tuple of str
        Templates beside the forms that are drawn again after any entry, and after a reading.
    offers : mapping of str to object
        What the forms choose from, fixed.
    forms : mapping
        How the kinds that its forms send are read.
    """

    name: str
    label: str
    shows: Callable[[Scene], Any] = _nothing
    needs: frozenset[str] = frozenset()
    stop: Callable[[VisitView], Stop] | None = None
    stop_label: str = ""
    group: str = ""
    under: str = ""
    leads_to: str = ""
    mark: str = ""
    key: str = ""
    body: str = ""
    panel: str = ""
    head: str = ""
    picture: str = ""
    side: str = "visits/_judge.html"
    tab: str = ""
    picture_tab: str = "Ladder"
    side_tab: str = "Judge"
    pictured: Callable[[VisitPage], Mapping[str, Any]] = ladder
    pictures_judged: bool = True
    draw: Callable[[Any, Account | None, Scene, str], str] | None = None
    draws_nothing: str = ""
    docked: Callable[[Scene, Any, Any], tuple[str, str] | None] | None = None
    moments: tuple[str, ...] = ()
    steps: tuple[Step, ...] = ()
    only: Callable[[UnitFacts], bool] | None = None
    live: tuple[str, ...] = ()
    beside: tuple[str, ...] = ()
    beside_reading: tuple[str, ...] = ()
    offers: Mapping[str, object] = field(default_factory=dict)
    forms: Mapping[str, Reads] = field(default_factory=dict)

    def fits(self, facts: UnitFacts) -> bool:
        """Whether such a unit has it."""
        return self.only is None or self.only(facts)

    def __post_init__(self) -> None:
        """What follows from the name, unless the row says otherwise."""
        usual = {
            "tab": self.label,
            "panel": "" if self.leads_to else f"stations/{self.name}/panel.html",
            "picture": template_in(self.name, "picture.html") or "visits/_ladder.html",
        }
        for name, value in usual.items():
            if not getattr(self, name):
                object.__setattr__(self, name, value)
        if not self.forms and not self.leads_to:
            object.__setattr__(self, "forms", forms_of(self.name))

    @property
    def page(self) -> str:
        """The station on whose page it is shown."""
        return self.leads_to or self.name

    @property
    def marked(self) -> str:
        """The stop on the rail that is marked while it is shown."""
        return self.group or self.under or self.name

    @property
    def weighs(self) -> bool:
        """Whether it shows the account of refrigerant in place of the judgement."""
        return "weights" in self.needs
