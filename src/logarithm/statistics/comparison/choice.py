"""Choices: whom to take not knowing the family, and where a hybrid of two should switch.

Both look for the smallest worst case: over families, the largest ratio of a cost to that of the best (the minimax
regret of Savage, Journal of the American Statistical Association 46, 1951, 55-67, on a scale of ratios).
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import numpy as np

from ...notation.sizes import plain
from ...results.pairs import Cutoff, SafeChoice
from ..series import Series
from .crossover import Crossing

STAYS = 1.1  # a choice is not changed for less than this


def safe_choices(stage: str | None, metric: str, families: Sequence[Sequence[Series]]) -> list[SafeChoice]:
    """Whom to choose at each size, by rising size.

    Args:
        stage, metric: which costs these are.
        families: the ranked series of each family.

    Only sizes at which every family was measured count, and only contenders measured there on all of them.
    """
    tables = [_by_size(group) for group in families]
    sizes = sorted(set.intersection(*(set(table) for table in tables))) if tables else []
    found: list[SafeChoice] = []
    for size in sizes:
        worst: dict[str, float] = {}
        for table in tables:
            best = min(table[size].values())
            for name, cost in table[size].items():
                worst[name] = max(worst.get(name, 1.0), cost / best if best else math.inf if cost else 1.0)
        everywhere = [name for name in worst if all(name in table[size] for table in tables)]
        before = found[-1].contender if found else None
        if not everywhere or (before is not None and before not in everywhere):
            break  # beyond this the comparison would be with those that are left only
        name = min(everywhere, key=worst.__getitem__)
        if before is not None and worst[before] < STAYS * worst[name]:
            name = before
        if found and found[-1].contender == name:
            found[-1].end, found[-1].worst = plain(size), max(found[-1].worst, worst[name])
        else:
            found.append(SafeChoice(metric, stage, plain(size), plain(size), name, worst[name]))
    return found


def cutoffs(
    stage: str | None,
    metric: str,
    crossings: Mapping[str, Sequence[Crossing]],
    families: Mapping[str, Sequence[Series]],
) -> list[Cutoff]:
    """The best size for a hybrid of each two contenders of which one overtakes the other.

    Args:
        stage, metric: which costs these are.
        crossings: those measured, by family.
        families: the ranked series of each family.
    """
    pairs: dict[tuple[str, str], dict[str, float]] = {}
    ranked = {each.contender for group in families.values() for each in group}
    for family, group in crossings.items():
        names = [frozenset((each.before, each.after)) for each in group]
        for each in group:
            # One that is overtaken back again is no case for a single cutoff.
            if names.count(frozenset((each.before, each.after))) == 1 and {each.before, each.after} <= ranked:
                pairs.setdefault((each.before, each.after), {})[family] = each.size
    found = []
    every = {family: _by_size(families[family]) for family in crossings}
    for (before, after), at in pairs.items():
        choices = sorted({*at.values(), float(np.exp(np.mean(np.log([*at.values()]))))})
        tables = {family: every[family] for family in at}
        rated = [(_worst(before, after, size, tables), size) for size in choices]
        worst, size = min(rated)
        found.append(Cutoff(metric, stage, before, after, size, worst, [*at]))
    return found


def _worst(before: str, after: str, cutoff: float, tables: dict[str, dict[float, dict[str, float]]]) -> float:
    worst = 1.0
    for table in tables.values():
        for size, costs in table.items():
            if before in costs and after in costs:
                taken = costs[before] if size < cutoff else costs[after]
                worst = max(worst, taken / max(min(costs[before], costs[after]), 1e-12))
    return worst


def _by_size(group: Sequence[Series]) -> dict[float, dict[str, float]]:
    """The typical costs at each size, without those sizes that were measured for some contenders only."""
    table: dict[float, dict[str, float]] = {}
    for each in group:
        for size, cost in zip(each.sizes, each.typical, strict=True):
            table.setdefault(float(size), {})[each.contender] = float(cost)
    reach = {each.contender: (each.sizes[0], each.sizes[-1]) for each in group}
    for size in list(table):
        if any(low <= size <= high and name not in table[size] for name, (low, high) in reach.items()):
            del table[size]
    return table
