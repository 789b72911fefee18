"""Choices: whom to take not knowing the family, and where a hybrid of two should switch.

Both look for the smallest worst case: over families, the largest ratio of a cost to that of the best (the minimax
regret of Savage, Journal of the American Statistical Association 46, 1951, 55-67, on a scale of ratios). Costs are
compared as the standings do, with the help of neighbouring sizes. Whom to take is found for all sizes at once, with a
price for each change, so that a single size changes nothing (Viterbi, IEEE Transactions on Information Theory 13, 1967,
260-269).
"""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping, Sequence
from itertools import compress, groupby

import numpy as np

from ...notation.sizes import plain
from ...results.pairs import Cutoff, SafeChoice
from ..readings.arrays import Floats
from .crossover import Axis
from .pair import PairComparison, beaten

CHANGE = 0.3  # a change must save so much, in the logarithm of the worst case, over all sizes after it
Pairs = Mapping[tuple[str, str], PairComparison]


def safe_choices(
    stage: str | None, metric: str, families: Sequence[Pairs], ranked: Collection[str]
) -> list[SafeChoice]:
    """Whom to choose at each size, by rising size; only where all families were measured.

    Args:
        stage, metric: which costs these are.
        families: the comparisons of each family.
        ranked: the contenders that may be chosen.
    """
    pairs = [{names: each for names, each in family.items() if {*names} <= {*ranked}} for family in families]
    names = sorted({name for family in pairs for pair in family for name in pair}, key=[*ranked].index)
    common = [{float(size) for each in family.values() for size in each.sizes[each.tells]} for family in pairs]
    sizes = sorted(set.intersection(*common)) if common else []
    # Rows are sizes; NaN where a contender is not to be had on each family.
    worst = np.array([_regrets(size, pairs, names) for size in sizes]).reshape(len(sizes), len(names))
    missing = np.isnan(worst)
    # Where one is missing that is there again further on, it might be the one to take.
    returning = missing & ~np.logical_and.accumulate(missing[::-1])[::-1]
    told = np.isfinite(worst).any(axis=1) & ~returning.any(axis=1)
    if not told.any() or len(names) < 2:
        return []
    sizes, worst, missing = [*compress(sizes, told)], worst[told], missing[told]
    kept: list[int] = []
    for row, name in enumerate(_path(np.log(np.where(missing, math.inf, worst)))):
        if not math.isfinite(worst[row, name]) or (kept and missing[row, kept[-1]]):
            break  # beyond this the comparison would be with those that are left only
        kept.append(name)
    found = []
    for name, group in groupby(range(len(kept)), key=kept.__getitem__):
        here = [*group]
        ends = plain(sizes[here[0]]), plain(sizes[here[-1]])
        found.append(SafeChoice(metric, stage, *ends, names[name], float(worst[here, name].max())))
    return found


def _regrets(size: float, families: Sequence[Pairs], names: Sequence[str]) -> list[float]:
    """The largest ratio of each contender's cost to that of one that nobody beats, at a size, over all families.

    At least 1; infinite where another one leads on all of them, NaN where it was not measured there on each.
    """
    worst = dict.fromkeys(names, 1.0)
    better: dict[str, list[set[str]]] = {name: [] for name in names}
    for family in families:
        lost = beaten(family, size)
        ahead: dict[str, set[str]] = {}
        for pair, each in family.items():
            log_ratio = each.log_ratio(size)
            if log_ratio is None:
                continue
            for name, other, ratio, leads in (
                (*pair, math.exp(log_ratio), 1),
                (*pair[::-1], 1 / math.exp(log_ratio), -1),
            ):
                ahead.setdefault(name, set())
                if other not in lost:
                    worst[name] = max(worst[name], ratio)
                    ahead[name] |= {other} if each.sign(size) == leads else set()
        for name in names:
            if name in ahead:
                better[name].append(ahead[name])
            else:
                worst[name] = math.nan
    return [math.inf if better[name] and set.intersection(*better[name]) else worst[name] for name in names]


def _path(costs: Floats) -> list[int]:
    """The cheapest way through rows of costs, a column each, where a change of column costs something too."""
    total, back = costs[0], []
    for row in costs[1:]:
        change = float(total.min()) + CHANGE
        stays = total <= change
        back.append(np.where(stays, np.arange(len(row)), int(total.argmin())))
        total = np.where(stays, total, change) + row
    way = [int(total.argmin())]
    for before in reversed(back):
        way.append(int(before[way[-1]]))
    return way[::-1]


def cutoffs(stage: str | None, metric: str, families: Mapping[str, Pairs], ranked: Collection[str]) -> list[Cutoff]:
    """The best size for a hybrid of each two contenders of which one overtakes the other.

    Args:
        stage, metric: which costs these are.
        families: the comparisons of each family.
        ranked: the contenders that may be part of it.
    """
    pairs: dict[tuple[str, str], dict[str, tuple[float, PairComparison]]] = {}
    for family, compared in families.items():
        for names, each in compared.items():
            # One that is overtaken back again is no case for a single cutoff.
            if len(each.crossings) == 1 and {*names} <= {*ranked}:
                only = each.crossings[0]
                pairs.setdefault((only.before, only.after), {})[family] = only.size, each
    found = []
    for (before, after), at in pairs.items():
        sizes = [size for size, _ in at.values()]
        axis = Axis.of(next(each for _, each in at.values()).sizes)
        choices = sorted({*sizes, axis.middle(sizes)})
        rated = [(max(_off(before, size, each) for _, each in at.values()), size) for size in choices]
        worst, size = min(rated)
        found.append(Cutoff(metric, stage, before, after, size, worst, [*at]))
    return found


def _off(before: str, cutoff: float, pair: PairComparison) -> float:
    """The largest ratio of what a hybrid takes to what the better of the two takes, where it switches at a size."""
    sizes = pair.sizes[pair.tells]
    ratios = np.array([pair.log_ratio(float(size)) or 0.0 for size in sizes])
    taken = np.where((sizes < cutoff) == (pair.one == before), ratios, -ratios)
    return float(np.exp(max(taken.max(initial=0.0), 0.0)))
