"""A made-up unit that does not run: a control chain with one link open, why it opened, and what takes that away."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from dry_gauge.bench.control_board import ControlBoard, Wrong
from dry_gauge.bench.practice.hidden import Hidden, Remedy
from dry_gauge.core.controls.chain import SAFETIES, TEMPLATES, Chain, LinkSort, template_for
from dry_gauge.core.controls.walker import How, Volts
from dry_gauge.core.vocabulary import Fault, Kind

_S = LinkSort
# What opens a link besides itself: why, what takes that away, and what it does to the unit besides.
OPENED_BY: Mapping[LinkSort, tuple[str, Remedy | None, frozenset[Fault]]] = {
    _S.FUSE: ("a short in a load or wire", Remedy.SHORT, frozenset()),
    _S.FLOAT: ("drain blocked", Remedy.DRAIN, frozenset()),
    _S.HIGH_PRESSURE: ("no air over the condenser", None, frozenset({Fault.LOW_CONDENSER_AIRFLOW})),
    _S.LOW_PRESSURE: ("refrigerant lost", None, frozenset({Fault.UNDERCHARGE})),
}
_BROKEN = (_S.SOURCE, _S.THERMOSTAT, _S.PLUG, _S.BOARD, _S.DELAY, _S.COIL, _S.COMMON)
BY_HAND = frozenset({_S.HIGH_PRESSURE, _S.LIMIT})
"""These stay open until somebody resets them."""
_ONLY_TIME = frozenset({_S.PLUG, _S.COMMON})
"""A sound wire that was gone over costs time and nothing else."""
MEND_MINUTES: Mapping[LinkSort, float] = {
    _S.SOURCE: 30,
    _S.FUSE: 3,
    _S.THERMOSTAT: 30,
    _S.PLUG: 20,
    _S.BOARD: 40,
    _S.DELAY: 20,
    _S.COIL: 30,
    _S.COMMON: 20,
}
MEND_MINUTES_ELSE = 25.0


@dataclass(frozen=True, slots=True)
class Dead:
    """What keeps a unit from running.

    Parameters
    ----------
    why : str
        Why the link opened; empty where it is broken itself.
    cure : Remedy or None
        What takes that away; None where nothing does but changing the link.
    """

    chain: Chain
    link: str
    why: str = ""
    cure: Remedy | None = None

    @property
    def words(self) -> str:
        """What is wrong, in words."""
        return f"{self.link} open: {self.why}" if self.why else f"{self.link} is open itself"


def drawn_dead(kind: Kind, chance: np.random.Generator) -> tuple[Dead, frozenset[Fault]]:
    """One link of the way to the compressor's coil, broken or opened by something; and what else is wrong then.

    The cure of what opened it follows from the part behind that fault, where there is one.
    """
    chain = _main_way(TEMPLATES[template_for(kind)])
    links = [link for link in chain.links if link.sort in OPENED_BY or link.sort in _BROKEN]
    link = links[int(chance.integers(len(links)))]
    why, cure, faults = OPENED_BY.get(link.sort, ("", None, frozenset()))
    return Dead(chain, link.name, why, cure), faults


def _main_way(chain: Chain) -> Chain:
    coil = chain.coils[0].name
    way = {*chain.way_to(coil), *(link.name for link in chain.links if link.sort is LinkSort.COMMON and link.after == coil)}
    return Chain(tuple(link for link in chain.links if link.name in way), chain.nominal_v)


@dataclass(frozen=True, slots=True)
class Lamp:
    """A board's lamp: the moments at which it flashes [s], or in words what it does instead."""

    flashes_s: tuple[float, ...]
    words: str


def _lamp_of(board: ControlBoard) -> Lamp:
    flashes = board.lamp_s
    return Lamp(flashes, "" if flashes else "It is lit steadily." if board.fed else "It is dark.")


def lamp_with(chain: Chain, open_link: str) -> Lamp:
    """What the board's lamp does with that link open, and nothing else wrong."""
    return _lamp_of(ControlBoard(chain, Wrong(frozenset({open_link})), np.random.default_rng(0)))


class ChainState:
    """The chain while somebody works on it."""

    def __init__(self, dead: Dead, wrong: Sequence[Hidden]) -> None:
        self.dead, self.bridged = dead, False
        self.cure = dead.cure or (wrong[0].part.cures[0] if dead.why and wrong else None)
        self._board = ControlBoard(dead.chain, Wrong(frozenset({dead.link})), np.random.default_rng(len(dead.link)))
        self._board.call(on=True)
        self._meter = self._board.meter
        self.cause_left = bool(dead.why)
        """Whether what had opened the link is still there."""

    @property
    def closed(self) -> bool:
        """Whether it runs."""
        return not self._meter.open_links

    @property
    def mended(self) -> bool:
        """Whether it runs, and stays so."""
        return self.closed and not self.cause_left and not self.bridged

    @property
    def by_hand(self) -> bool:
        """Whether what is open stays so until somebody resets it."""
        return self._sort in BY_HAND

    def shows(self, sight: str) -> bool:
        """Whether that is seen of what opened it."""
        return sight == "drain_blocked" and self.cure is Remedy.DRAIN and self.cause_left

    @property
    def lamp(self) -> Lamp:
        """What the board's lamp does."""
        return _lamp_of(self._board)

    def volts(self, link: str, how: How) -> Volts:
        """At the far side of a link against common, or across it."""
        return Volts(link, self._meter.read(link, how), how)

    def done(self, remedy: Remedy) -> bool:
        """Something was done to the unit; whether that took away what had opened the link."""
        if remedy is not self.cure or not self.cause_left:
            return False
        self.cause_left = False
        if not self.by_hand and self._sort is not LinkSort.FUSE:
            self._close()
        return True

    def mend(self, link: str) -> str:
        """Mend or change a link; the harm it does, if it does any."""
        sort = self.dead.chain.by_name[link].sort
        if link != self.dead.link or self.closed:
            return "" if sort in _ONLY_TIME else "sound_part"
        if self.cause_left:
            return "fuse_spent" if sort is LinkSort.FUSE else "sound_part"
        self._close()
        return "" if sort is LinkSort.FUSE or not self.dead.why else "sound_part"

    def reset(self) -> bool:
        """Reset what can be reset; whether it opened again at once because of what had opened it."""
        if self.closed or not self.by_hand:
            return False
        if not self.cause_left:
            self._close()
        return self.cause_left

    def bridge(self) -> bool:
        """Put a wire around the safeties; whether it runs by that."""
        if self.closed or self._sort not in SAFETIES:
            return False
        self.bridged = True
        self._close()
        return True

    def comes_back(self) -> None:
        """Whoever comes after takes the bridge off; what had opened the link opens it again."""
        if self.bridged or self.cause_left:
            self._meter.open_links.add(self.dead.link)
        self.bridged = False

    @property
    def _sort(self) -> LinkSort:
        return self.dead.chain.by_name[self.dead.link].sort

    def _close(self) -> None:
        self._meter.open_links.clear()
