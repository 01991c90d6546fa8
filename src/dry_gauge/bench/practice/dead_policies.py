"""Ways to work through a unit that does not run, by where the meter goes next."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

import numpy as np

from dry_gauge.bench.practice.dead import BY_HAND, OPENED_BY
from dry_gauge.bench.practice.policies import Played, Player, Policy
from dry_gauge.bench.practice.unit import PracticeCall
from dry_gauge.core.controls.chain import Chain, Link, LinkSort
from dry_gauge.core.controls.walker import How, Walk, walk

_MOST_MENDED = 4
_BY_HABIT = (LinkSort.THERMOSTAT, LinkSort.FUSE, LinkSort.DELAY, LinkSort.BOARD, LinkSort.COIL)
_Place = tuple[str, How]
_Next = Callable[[Walk], _Place | None]


def _chain_of(call: PracticeCall) -> Chain:
    assert call.dead is not None
    return call.dead.chain


def _worked(call: PracticeCall, next_of: Callable[[Chain], _Next]) -> Played:
    """Measure until a link is named, look for what had opened it, mend that and then the link; until it runs."""
    player, chain = Player(call), _chain_of(call)
    still, next_ = {coil.name: False for coil in chain.coils}, next_of(chain)
    mended: list[str] = []
    while not player.unit.runs and not player.spent and len(mended) < _MOST_MENDED:
        found = walk(chain, player.volts, still, mended, here=player.place)
        place = None if found.named else next_(found)
        if place is not None:
            player.measure("volts", *place)
            continue
        link = found.named or found.lead
        mended.append(link.name)
        _mend(player, link)
        next_ = next_of(chain)
    return player.played()


def _mend(player: Player, link: Link) -> None:
    """What opens such a link is looked for and mended first: a new fuse blows again, a new switch opens again."""
    _, cure, faults = OPENED_BY.get(link.sort, ("", None, frozenset()))
    if cure is not None:
        player.do(cure)
    for fault in faults:
        player.mend(fault)
    if not player.unit.runs:
        if link.sort in BY_HAND:
            player.reset("reset")
        else:
            player.mend_link("mend", link.name)


def _cheapest(_: Chain) -> _Next:
    return lambda found: (found.next.link.name, found.next.how) if found.next else None


def _listed(places: Iterator[_Place]) -> _Next:
    return lambda _: next(places, None)


def _points(chain: Chain) -> list[str]:
    return [link.name for link in chain.links if link.sort is not LinkSort.COMMON]


def next_point(call: PracticeCall, _: np.random.Generator) -> Played:
    """Where the walk along the chain leads."""
    return _worked(call, _cheapest)


def along_the_chain(call: PracticeCall, _: np.random.Generator) -> Played:
    """From the source on, link by link."""
    return _worked(call, lambda chain: _listed((name, How.COMMON) for name in _points(chain)))


def any_point(call: PracticeCall, chance: np.random.Generator) -> Played:
    """The same links in an order drawn by chance."""

    def shuffled(chain: Chain) -> _Next:
        names = _points(chain)
        return _listed((names[int(i)], How.COMMON) for i in chance.permutation(len(names)))

    return _worked(call, shuffled)


def reset_and_parts(call: PracticeCall, _: np.random.Generator) -> Played:
    """The habit: reset it, bridge the safeties, then change what is changed most often, until it runs."""
    player, chain = Player(call), _chain_of(call)
    player.reset("reset")
    if not player.unit.runs:
        player.bridge("bridge")
    for sort in _BY_HABIT:
        for link in chain.links:
            if link.sort is sort and not player.unit.runs:
                player.mend_link("mend", link.name)
    return player.played()


DEAD_POLICIES: Mapping[str, tuple[str, Policy]] = {
    "next_point": ("where the walk along the chain leads", next_point),
    "along": ("from the source on, link by link", along_the_chain),
    "any_point": ("the same links, in any order", any_point),
    "parts": ("no meter: reset, bridge, change parts", reset_and_parts),
}
