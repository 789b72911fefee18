"""Standings: which contender leads over which range of sizes, with those that cannot be told apart from it."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping

import numpy as np

from ...notation.places import Place
from ...notation.sizes import plain
from ...results.pairs import Standing
from ..series import Series
from .pair import PairComparison

ROUNDING = 1e-6  # a crossing at 100.00001 is one at 100


def standings(
    place: Place,
    series: list[Series],
    comparisons: Mapping[tuple[str, str], PairComparison],
    failed: Collection[str] = (),
) -> list[Standing]:
    """Who leads where, by rising size.

    Args:
        place: the family, stage and metric.
        series: its ranked contenders.
        comparisons: of these, under (one, other).
        failed: contenders that came to grief, so that others may lead where these have no cost.
    """
    sizes = sorted({float(size) for each in series for size in each.sizes})
    groups: list[tuple[float, float, list[str]]] = []
    last = {each.contender: float(each.sizes[-1]) for each in series}
    for size in sizes:
        # Beyond the last size of a contender that nobody had beaten, nobody can be said to lead.
        if groups and any(last[name] < size and name not in failed for name in groups[-1][2]):
            break
        unbeaten = _unbeaten(size, series, comparisons)
        if groups and groups[-1][2] == unbeaten:
            groups[-1] = (groups[-1][0], size, unbeaten)
        else:
            groups.append((size, size, unbeaten))
    family, stage, metric = place
    made: list[Standing] = []
    for start, end, names in groups:
        leader = min(names, key=lambda name: _mean_cost(name, start, end, series))
        if made:
            border = _border(made[-1].leader, leader, float(made[-1].end), start, comparisons)
            if border is not None:
                border *= 1 - ROUNDING
                made[-1].end = max(math.ceil(border) - 1, made[-1].start)
                start = math.ceil(border)
        tied = [name for name in names if name != leader]
        made.append(Standing(family, metric, stage, plain(start), plain(end), leader, tied))
    for each in made:
        each.within = _within(each, comparisons)
    return made


def _within(standing: Standing, comparisons: Mapping[tuple[str, str], PairComparison]) -> float | None:
    """By which share those tied differ from the leader at most; None where that is not known."""
    names = [(standing.leader, name) for name in standing.tied]
    pairs = [comparisons.get(pair) or comparisons.get(pair[::-1]) for pair in names]
    shares = [math.inf if pair is None else pair.within(standing.start, standing.end) for pair in pairs]
    most = max(shares, default=math.inf)
    return None if math.isinf(most) else most


def _unbeaten(size: float, series: list[Series], comparisons: Mapping[tuple[str, str], PairComparison]) -> list[str]:
    """The contenders whose sizes reach over this one, and that no other one clearly beats there."""
    present = [each.contender for each in series if each.sizes[0] <= size <= each.sizes[-1]]
    beaten = set()
    for (one, other), compared in comparisons.items():
        if one in present and other in present:
            sign = compared.sign(size)
            if sign:
                beaten.add(other if sign < 0 else one)
    return [name for name in present if name not in beaten] or present


def _mean_cost(name: str, start: float, end: float, series: list[Series]) -> float:
    """The mean logarithm of a contender's cost over a range of sizes, as if it had been measured at all of them."""
    own = next(each for each in series if each.contender == name)
    sizes = sorted({float(size) for each in series for size in each.sizes if start <= size <= end})
    return float(np.interp(sizes, own.sizes, np.log(np.maximum(own.typical, 1e-12))).mean())


def _border(
    before: str, after: str, low: float, high: float, comparisons: Mapping[tuple[str, str], PairComparison]
) -> float | None:
    """The crossover of two leaders between two measured sizes, where there is one."""
    compared = comparisons.get((before, after)) or comparisons.get((after, before))
    for crossing in compared.crossings if compared else ():
        if low <= crossing.size <= high and crossing.after == after:
            return crossing.size
    return None
