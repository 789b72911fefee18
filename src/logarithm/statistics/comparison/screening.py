"""Screening a crowd: of hundreds of contenders, which pairs are worth a full comparison.

Users ask who leads, and how all compare with the baseline. A contender whose typical cost at every size is far above
the least one leads nowhere, and its place among others that lead nowhere is no answer to anything. So those that come
near to the least cost anywhere are compared with each other, everyone with the baseline, and no one else in full.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import combinations

import numpy as np

from ..readings.arrays import median
from ..readings.series import Series

CROWD = 24  # contenders of one place: fewer are all compared with each other
NEAR = 0.1  # in the logarithm of the cost, above the least one
ERRORS = 4.0  # and so many robust standard errors
LEADERS_MOST = 16


def pairs_of(
    group: Sequence[Series], reference: str = "", named: Sequence[str] = ()
) -> Iterator[tuple[Series, Series]]:
    """The pairs of a place that are worth a full comparison: all of them, unless it is a crowd.

    Args:
        group: the series of one family, stage and metric.
        reference: the contender that others are compared with.
        named: contenders that were asked for by name.
    """
    if len(group) <= CROWD:
        yield from combinations(group, 2)
        return
    leaders = {each.contender for each in leaders_of(group)} | set(named)
    for one, other in combinations(group, 2):
        names = {one.contender, other.contender}
        if names <= leaders or reference in names:
            yield one, other


def leaders_of(group: Sequence[Series]) -> list[Series]:
    """Those of a crowd that may lead at some size, those that come nearest to it first."""
    sizes = np.unique(np.concatenate([each.sizes for each in group]))
    levels = np.full((len(group), len(sizes)), np.inf)
    errors = np.zeros_like(levels)
    for row, each in enumerate(group):
        logs = np.log(np.maximum(each.costs, 1e-12))
        at = np.searchsorted(sizes, each.sizes)
        middle = median(logs)
        levels[row, at] = middle
        count = np.maximum(np.isfinite(logs).sum(axis=1), 1)
        errors[row, at] = 1.4826 * median(np.abs(logs - middle[:, None])) / np.sqrt(count)
    least = levels.min(axis=0)
    off = np.where(np.isfinite(levels), levels - least, np.inf)
    nearest = (off - ERRORS * np.hypot(errors, errors[levels.argmin(axis=0), np.arange(len(sizes))])).min(axis=1)
    # Whoever is least somewhere is one of them, however many there are.
    first = set(levels.argmin(axis=0).tolist())
    ranked = sorted(range(len(group)), key=lambda row: (row not in first, nearest[row]))
    many = max(LEADERS_MOST, len(first))
    return [group[row] for row in ranked[:many] if row in first or nearest[row] <= NEAR]
