"""A control chain as it behaves: volts at every point with links open, coils that pull in or not, meters that err.

Feeds the walker's figures, tests, and what is practised. The random generator is given.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import accumulate

import numpy as np

from dry_gauge.core.controls.chain import HABITS, Chain, Link, LinkSort, Where
from dry_gauge.core.controls.walker import How

_SUPPLY_SHARE = (1.0, 1.15)  # a transformer gives its nominal volts and a little more
_MIDDLE = tuple(sort for sort in LinkSort if sort not in (LinkSort.SOURCE, LinkSort.COIL, LinkSort.COMMON))


@dataclass
class DeadUnit:
    """A chain with links open; a coil pulls in where everything up to it, itself and its way back carry.

    Parameters
    ----------
    ghost, slip : float
        How often a dead wire shows volts, and how often a number is mistyped.
    """

    chain: Chain
    open_links: set[str]
    rng: np.random.Generator
    ghost: float = 0.0
    slip: float = 0.0
    supply_v: float = field(init=False)

    def __post_init__(self) -> None:
        self.supply_v = self.chain.nominal_v * self.rng.uniform(*_SUPPLY_SHARE)

    def pulls_in(self, coil: str) -> bool:
        """Whether that coil works."""
        return not self.open_links & {*self.chain.way_to(coil), *self._back_of(coil)}

    @property
    def runs(self) -> Mapping[str, bool]:
        """By coil whether it pulls in."""
        return {coil.name: self.pulls_in(coil.name) for coil in self.chain.coils}

    def first_open(self, coil: str) -> str | None:
        """The first link on the way of a coil that does not carry."""
        return next((name for name in (*self.chain.way_to(coil), *self._back_of(coil)) if name in self.open_links), None)

    def volts(self, at: str, how: How) -> float:
        """What a sound meter shows there. [V]"""
        link = self.chain.by_name[at]
        if how is How.ACROSS:
            fed = not self._open_before(at)
            if at not in self.open_links or not fed:
                return 0.0
            # Its far side finds common through a coil that is whole; else it floats.
            return self.supply_v if self._returns(link) else 0.0
        if link.sort is LinkSort.COMMON:
            coil = link.after
            lives = not self.open_links & set(self.chain.way_to(coil)) and at in self.open_links
            return self.supply_v if lives else 0.0
        way = self.chain.way_to(at)[:-1] if link.sort is LinkSort.COIL else self.chain.way_to(at)
        return 0.0 if self.open_links & set(way) else self.supply_v

    def read(self, at: str, how: How) -> float:
        """What is written down: ghosts and slips of the pen among it. [V]"""
        volts = self.volts(at, how)
        if volts == 0.0 and self.rng.random() < self.ghost:
            volts = self.rng.uniform(3, 0.9 * self.supply_v)
        if self.rng.random() < self.slip:
            return float(self.rng.choice([volts / 10, volts * 10, 0.0, self.supply_v]))
        return float(round(volts, 1))

    def _back_of(self, coil: str) -> tuple[str, ...]:
        return tuple(link.name for link in self.chain.links if link.sort is LinkSort.COMMON and link.after == coil)

    def _open_before(self, at: str) -> bool:
        return bool(self.open_links & set(self.chain.way_to(at)[:-1]))

    def _returns(self, link: Link) -> bool:
        if link.sort is LinkSort.COIL:
            return not self.open_links & set(self._back_of(link.name))
        coils = [coil.name for coil in self.chain.coils if link.name in self.chain.way_to(coil.name)]
        behind = self.chain.behind(link.name) - {link.name}
        return any(not self.open_links & ((set(self.chain.way_to(coil)) & behind) | set(self._back_of(coil))) for coil in coils)


def chance_chain(links: int, rng: np.random.Generator) -> Chain:
    """A chain of so many links on the way to its main coil, places in stretches, at times with a branch."""
    sorts = [LinkSort.SOURCE, *rng.choice(_MIDDLE, links - 3), LinkSort.COIL, LinkSort.COMMON]
    rows: list[Link] = []
    place = Where.PANEL
    for i, sort in enumerate(sorts):
        if rng.random() < 0.3:
            place = Where(rng.choice(list(Where)))
        rows.append(Link(f"{HABITS[LinkSort(sort)].label} {i}", LinkSort(sort), rows[-1].name if rows else "", place))
    if links >= 8 and rng.random() < 0.5:
        off = rows[int(rng.integers(1, links - 4))]
        rows += [Link("Branch relay", LinkSort.BOARD, off.name, place), Link("Branch coil", LinkSort.COIL, "Branch relay")]
    return Chain(tuple(rows))


def chance_open(chain: Chain, count: int, rng: np.random.Generator) -> set[str]:
    """Which links are open on the way to the main coil: half by habit, half anywhere."""
    main = chain.coils[0]
    names = [*chain.way_to(main.name), *(link.name for link in chain.links if link.sort is LinkSort.COMMON)]
    habits = np.array([HABITS[chain.by_name[name].sort].weight for name in names])
    shares = 0.5 * habits / habits.sum() + 0.5 / len(names)
    return set(rng.choice(names, size=count, replace=False, p=shares))


def dead_coils(unit: DeadUnit) -> Iterable[str]:
    """Coils that do not pull in."""
    return (coil for coil, does in unit.runs.items() if not does)


def blinks(digits: Sequence[int], rounds: int, pace_s: float, digit_gap: float = 2.6, round_gap: float = 6.0) -> list[float]:
    """Moments at which a board's lamp flashes a code, from the first on; gaps in paces. [s]"""
    gaps: list[float] = []
    for one in range(rounds):
        for i, digit in enumerate(digits):
            gaps += [pace_s] * (digit - 1)
            if i < len(digits) - 1:
                gaps.append(digit_gap * pace_s)
        if one < rounds - 1:
            gaps.append(round_gap * pace_s)
    return list(accumulate(gaps, initial=0.0))
