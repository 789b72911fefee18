"""Break-even: how many uses repay a dearer build.

With build costs B and costs of a use U, the dearer build of one contender is repaid after

    uses = (B_dearer - B_cheaper) / (U_cheaper - U_dearer)

The interval of this ratio of differences comes from its numerator and denominator by Fieller's theorem (Fieller,
Journal of the Royal Statistical Society B 16, 1954, 175-185), which is exact for normal errors and says so where
there is no upper end.
"""

from __future__ import annotations

import math

import numpy as np

from ...notation.sizes import plain
from ...results.pairs import Breakeven
from ..series import Series
from ..uncertainty.level import level_of

SURE = 1.96


def breakeven(builds: tuple[Series, Series], uses: tuple[Series, Series]) -> list[Breakeven]:
    """Break-even of two contenders at every size that both were measured at.

    Args:
        builds: their costs of building.
        uses: their costs of a use, in the same order.
    """
    sizes = builds[0].sizes
    for each in (builds[1], *uses):
        sizes = np.intersect1d(sizes, each.sizes)
    build_levels, use_levels = [_levels(each) for each in builds], [_levels(each) for each in uses]
    found = []
    for size in map(float, sizes):
        build = [levels[size] for levels in build_levels]
        use = [levels[size] for levels in use_levels]
        dearer = 0 if build[0][0] >= build[1][0] else 1
        names = builds[dearer].contender, builds[1 - dearer].contender
        extra = _less(build[dearer], build[1 - dearer])
        saved = _less(use[1 - dearer], use[dearer])
        found.append(_repaid(builds[0].family, size, names, extra, saved))
    return found


def _levels(series: Series) -> dict[float, tuple[float, float]]:
    """The typical cost at each size, and its standard error."""
    logs = np.log(series.costs)
    level = level_of(logs, series.processes, series.is_ours)
    costs = np.exp(level.typical)
    # Student's t in terms of the normal law that the interval is made from.
    error = level.reach() / SURE
    return {float(n): (float(y), float(y * e)) for n, y, e in zip(series.sizes, costs, error, strict=True)}


def _less(one: tuple[float, float], other: tuple[float, float]) -> tuple[float, float]:
    return one[0] - other[0], math.hypot(one[1], other[1])


def _repaid(
    family: str, size: float, names: tuple[str, str], extra: tuple[float, float], saved: tuple[float, float]
) -> Breakeven:
    at = family, plain(size)
    if extra[0] <= SURE * extra[1]:  # the builds cannot be told apart: whoever is used more cheaply pays at once
        if abs(saved[0]) <= SURE * saved[1]:
            return Breakeven(*at, *names, None, None, None, "open")
        better = names if saved[0] > 0 else names[::-1]
        return Breakeven(*at, *better, 0.0, 0.0, max(0.0, (extra[0] + SURE * extra[1]) / abs(saved[0])), "at once")
    if saved[0] <= -SURE * saved[1]:
        return Breakeven(*at, *names, None, None, None, "never")
    if saved[0] <= 0:
        return Breakeven(*at, *names, None, None, None, "open")
    uses = extra[0] / saved[0]
    # Fieller: the values r for which extra - r * saved may be nil.
    a = saved[0] ** 2 - SURE**2 * saved[1] ** 2
    b = extra[0] * saved[0]
    c = extra[0] ** 2 - SURE**2 * extra[1] ** 2
    root = math.sqrt(max(b * b - a * c, 0.0))
    if a <= 0:  # the saving may be nil, so there is no upper end
        return Breakeven(*at, *names, uses, (b - root) / a if a else None, None, "open")
    return Breakeven(*at, *names, uses, max(0.0, (b - root) / a), (b + root) / a, "pays")
