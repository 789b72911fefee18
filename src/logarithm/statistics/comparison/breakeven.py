"""Break-even: how many uses repay a dearer build.

With build costs B and costs of a use U, the dearer build of one contender is repaid after

    uses = (B_dearer - B_cheaper) / (U_cheaper - U_dearer)

Whose build is dearer, and whose use is cheaper, is what the standings of the two stages say. Costs are taken with the
help of neighbouring sizes. The interval of this ratio of differences comes from its numerator and denominator by
Fieller's theorem (Fieller, Journal of the Royal Statistical Society B 16, 1954, 175-185), which is exact for normal
errors and says so where there is no upper end.
"""

from __future__ import annotations

import math

import numpy as np

from ...notation.sizes import plain
from ...results.pairs import AT_ONCE, NEVER, OPEN, PAYS, Breakeven
from ..readings.series import Series
from ..uncertainty.level import level_of
from .crossover import Axis
from .pair import PairComparison, smoother

SURE = 1.96
ONE_USE = 1.0

Pair = tuple[Series, Series]


def breakeven(builds: Pair, uses: Pair, compared: tuple[PairComparison, PairComparison]) -> list[Breakeven]:
    """Break-even of two contenders at every size that tells of both.

    Args:
        builds: their costs of building.
        uses: their costs of a use, in the same order.
        compared: their builds and their uses, compared.
    """
    built, used = (each.sizes[each.tells] for each in compared)
    sizes = np.intersect1d(built, used)
    costs = {each: _smoothed(each) for each in (*builds, *uses)}
    found = []
    for size in map(float, sizes):
        # Below zero where the first one's is cheaper.
        build, use = (each.sign(size) for each in compared)
        first = builds[0].contender
        signs = [sign if each.one == first else -sign for sign, each in zip((build, use), compared, strict=True)]
        build, use = signs
        at = builds[0].family, plain(size)
        if not use:
            dearer = 0 if build >= 0 else 1
            found.append(Breakeven(*at, *_names(builds, dearer), None, None, None, OPEN))
        elif build == use:
            # Whoever is cheaper to use is cheaper to build as well.
            found.append(Breakeven(*at, *_names(builds, 0 if build > 0 else 1), None, None, None, NEVER))
        else:
            saving = 0 if use < 0 else 1
            extra = _less(costs[builds[saving]][size], costs[builds[1 - saving]][size])
            saved = _less(costs[uses[1 - saving]][size], costs[uses[saving]][size])
            found.append(_repaid(at, _names(builds, saving), extra, saved, is_dearer=build != 0))
    return found


def _names(builds: Pair, dearer: int) -> tuple[str, str]:
    return builds[dearer].contender, builds[1 - dearer].contender


def _smoothed(series: Series) -> dict[float, tuple[float, float]]:
    """The cost at each size that tells, with the help of its neighbours, and its standard error."""
    rows = np.flatnonzero(series.tells)
    sizes, logs = series.sizes[rows], np.log(series.costs[rows])
    there = np.isfinite(logs).any(axis=0)
    axis = Axis.of(sizes)
    level = level_of(logs[:, there], series.processes[there], series.is_ours).scattered(axis.positions, axis.is_log)
    level = level.through(smoother(axis.positions))
    costs = np.exp(level.typical)
    # Student's t in terms of the normal law that the interval is made from.
    error = level.reach() / SURE
    return {float(n): (float(y), float(y * e)) for n, y, e in zip(sizes, costs, error, strict=True)}


def _less(one: tuple[float, float], other: tuple[float, float]) -> tuple[float, float]:
    return one[0] - other[0], math.hypot(one[1], other[1])


def _repaid(
    at: tuple[str, int | float],
    names: tuple[str, str],
    extra: tuple[float, float],
    saved: tuple[float, float],
    is_dearer: bool,
) -> Breakeven:
    """After how many uses the one that is cheaper to use is ahead."""
    if saved[0] <= 0:
        return Breakeven(*at, *names, None, None, None, OPEN)
    uses = max(extra[0], 0.0) / saved[0]
    # Fieller: the values r for which extra - r * saved may be nil.
    a = saved[0] ** 2 - SURE**2 * saved[1] ** 2
    b = extra[0] * saved[0]
    c = extra[0] ** 2 - SURE**2 * extra[1] ** 2
    root = math.sqrt(max(b * b - a * c, 0.0))
    if a <= 0:  # the saving may be nil, so there is no upper end
        return Breakeven(*at, *names, uses, max(0.0, (b - root) / a) if a else None, None, OPEN)
    low, high = max(0.0, (b - root) / a) if is_dearer else 0.0, max(0.0, (b + root) / a)
    if high < ONE_USE:
        return Breakeven(*at, *names, 0.0, 0.0, high, AT_ONCE)
    return Breakeven(*at, *names, uses, low, high, PAYS)
