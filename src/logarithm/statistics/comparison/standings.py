"""Standings: which contender leads over which range of sizes, with those tied with it and those of which it is not known."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping, Sequence

import numpy as np

from ...notation.places import Place
from ...notation.sizes import plain
from ...results.pairs import Rival, Standing
from ..arrays import Floats
from ..series import Series
from .pair import TIE_WITHIN, PairComparison

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
    reach = {each.contender: each.sizes[each.tells] for each in series if each.tells.any()}
    groups: list[tuple[float, float, list[str]]] = []
    for size in _shared(reach, comparisons):
        # Beyond the last size of a contender that nobody had beaten, nobody can be said to lead.
        if groups and any(reach[name][-1] < size and name not in failed for name in groups[-1][2]):
            break
        unbeaten = _unbeaten(size, reach, comparisons)
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
        made.append(_standing(family, stage, metric, start, end, leader, names, comparisons))
    return made


def _shared(reach: Mapping[str, Floats], comparisons: Mapping[tuple[str, str], PairComparison]) -> list[float]:
    """The sizes at which whoever reaches so far was measured, of those that have anybody to be compared with.

    A size that only some were measured at says nothing of the others.
    """
    met = {name for pair in comparisons for name in pair} if len(reach) > 1 else {*reach}
    own = {name: {*map(float, sizes)} for name, sizes in reach.items() if name in met}
    every = sorted(set().union(*own.values())) if own else []
    ends = {name: (min(sizes), max(sizes)) for name, sizes in own.items()}
    return [
        size
        for size in every
        if all(size in own[name] or not low <= size <= high for name, (low, high) in ends.items())
    ]


def _standing(
    family: str,
    stage: str | None,
    metric: str,
    start: float,
    end: float,
    leader: str,
    names: Sequence[str],
    comparisons: Mapping[tuple[str, str], PairComparison],
) -> Standing:
    """One range of sizes: who is tied with the leader, and of whom it is not known."""
    made = Standing(family, metric, stage, plain(start), plain(end), leader, [])
    for name in names:
        if name == leader:
            continue
        pair = comparisons.get((name, leader)) or comparisons.get((leader, name))
        within = pair.within(start, end) if pair is not None else math.inf
        if within <= TIE_WITHIN:
            made.tied.append(name)
            made.within = max(made.within or 0.0, within)
            continue
        low, high = pair.spans(start, end) if pair is not None else (0.0, math.inf)
        if pair is not None and pair.one == leader:
            low, high = 1 / high, 1 / low if low else math.inf
        made.rivals.append(Rival(name, low, None if math.isinf(high) else high))
    return made


def _unbeaten(
    size: float, reach: Mapping[str, Floats], comparisons: Mapping[tuple[str, str], PairComparison]
) -> list[str]:
    """The contenders whose sizes reach over this one, and that no other one clearly beats there."""
    present = [name for name, sizes in reach.items() if sizes[0] <= size <= sizes[-1]]
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
