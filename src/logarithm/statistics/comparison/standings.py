"""Standings: which contender leads over which range of sizes, with those that cannot be told apart from it."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace

import numpy as np

from ..series import Series
from .pair import Duel

ROUNDING = 1e-6  # a crossing at 100.00001 is one at 100


@dataclass(frozen=True, slots=True)
class Reign:
    """`leader` has the lowest cost from `start` to `end`, inclusive; `tied` cannot be told apart from it.

    Those tied differ from the leader by at most the share `within`, as far as is known; infinite where it is not.
    """

    start: float
    end: float
    leader: str
    tied: tuple[str, ...]
    within: float = math.inf


def standings(series: list[Series], duels: Mapping[tuple[str, str], Duel], failed: Collection[str] = ()) -> list[Reign]:
    """Who leads where, by rising size.

    Args:
        series: the ranked contenders of one family, stage and metric.
        duels: their comparisons, under (one, other).
        failed: contenders that came to grief, so that others may lead where these have no cost.

    """
    sizes = sorted({float(size) for each in series for size in each.sizes})
    groups: list[tuple[float, float, list[str]]] = []
    last = {each.contender: float(each.sizes[-1]) for each in series}
    for size in sizes:
        # Beyond the last size of a contender that nobody had beaten, nobody can be said to lead.
        if groups and any(last[name] < size and name not in failed for name in groups[-1][2]):
            break
        unbeaten = _unbeaten(size, series, duels)
        if groups and groups[-1][2] == unbeaten:
            groups[-1] = (groups[-1][0], size, unbeaten)
        else:
            groups.append((size, size, unbeaten))
    reigns: list[Reign] = []
    for start, end, names in groups:
        leader = min(names, key=lambda name: _mean_cost(name, start, end, series))
        if reigns:
            border = _border(reigns[-1].leader, leader, reigns[-1].end, start, duels)
            if border is not None:
                border *= 1 - ROUNDING
                reigns[-1] = Reign(reigns[-1].start, max(math.ceil(border) - 1, reigns[-1].start), *_who(reigns[-1]))
                start = math.ceil(border)
        reigns.append(Reign(start, end, leader, tuple(name for name in names if name != leader)))
    return [replace(reign, within=_within(reign, duels)) for reign in reigns]


def _within(reign: Reign, duels: Mapping[tuple[str, str], Duel]) -> float:
    """By which share those tied differ from the leader at most."""
    pairs = [duels.get((reign.leader, name)) or duels.get((name, reign.leader)) for name in reign.tied]
    return max((math.inf if pair is None else pair.within(reign.start, reign.end) for pair in pairs), default=math.inf)


def _who(reign: Reign) -> tuple[str, tuple[str, ...]]:
    return reign.leader, reign.tied


def _unbeaten(size: float, series: list[Series], duels: Mapping[tuple[str, str], Duel]) -> list[str]:
    """The contenders whose sizes reach over this one, and that no other one clearly beats there."""
    present = [each.contender for each in series if each.sizes[0] <= size <= each.sizes[-1]]
    beaten = set()
    for (one, other), duel in duels.items():
        if one in present and other in present:
            sign = duel.sign(size)
            if sign:
                beaten.add(other if sign < 0 else one)
    return [name for name in present if name not in beaten] or present


def _mean_cost(name: str, start: float, end: float, series: list[Series]) -> float:
    """The mean logarithm of a contender's cost over a range of sizes, as if it had been measured at all of them."""
    own = next(each for each in series if each.contender == name)
    sizes = sorted({float(size) for each in series for size in each.sizes if start <= size <= end})
    return float(np.interp(sizes, own.sizes, np.log(np.maximum(own.typical, 1e-12))).mean())


def _border(before: str, after: str, low: float, high: float, duels: Mapping[tuple[str, str], Duel]) -> float | None:
    """The crossover of two leaders between two measured sizes, where there is one."""
    duel = duels.get((before, after)) or duels.get((after, before))
    for crossing in duel.crossings if duel else ():
        if low <= crossing.size <= high and crossing.after == after:
            return crossing.size
    return None
