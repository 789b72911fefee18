"""PairComparisons: two contenders compared size by size, with who leads where.

They are compared by the logarithm of the ratio of their costs in the same heat. The sizes at which its level clearly
lies on one side show who leads, and between which of them the lead changes. How sure a level is, `errors` says.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ...notation.metrics import TIMED
from ..arrays import Floats
from ..series import NONE, Series
from ..uncertainty.level import Level, level_of
from ..uncertainty.repeated_looks import lead_share
from . import exact as exactly
from .crossover import Axis, Crossing, Law, locate

EFFECT = 0.01  # and by how much, so that a tiny difference between many trials is not called a lead
STRONG = 2.0  # so many times what is needed to be clear
NEIGHBOURS = 2  # sizes on either side that help to tell who leads


@dataclass(frozen=True, slots=True)
class SizeRange:
    """Over sizes `start` to `end` (inclusive, measured), `sign` is -1 where one leads, 1 the other, 0 for a tie."""

    start: float
    end: float
    sign: int


@dataclass(frozen=True, slots=True)
class PairComparison:
    """Two contenders compared on one family.

    Attributes:
        one, other: their names.
        sizes: those that both were measured at, shape (m,).
        ratio: the typical cost of `one` over that of `other`, shape (m,), with `low` and `high` for 95 %.
        crossings: by rising size.
        zones: who leads over which sizes, by rising size; together they cover all sizes.
        smooth: the log ratio at each size with the help of its neighbours, by which leads are judged; None of counts.

    """

    one: str
    other: str
    sizes: Floats
    ratio: Floats
    low: Floats
    high: Floats
    crossings: tuple[Crossing, ...]
    zones: tuple[SizeRange, ...]
    smooth: Level | None = None

    def sign(self, size: float) -> int:
        """-1 where `one` leads at a size, 1 where `other` does, 0 where they cannot be told apart."""
        for zone in self.zones:
            if zone.start <= size <= zone.end:
                return zone.sign
        return 0

    def within(self, start: float, end: float) -> float:
        """By which share the two differ at most, with 95 % at each size, over sizes `start` to `end`."""
        here = (self.sizes >= start) & (self.sizes <= end)
        if not here.any():
            return math.inf
        return float(max(self.high[here].max(), (1 / self.low[here]).max())) - 1


def compare_pair(one: Series, other: Series, law: Law | None = None) -> PairComparison | None:
    """Compare two contenders' costs; None where they have no size in common.

    Args:
        one, other: their costs.
        law: the log ratio of their fitted costs, where growth is known; it helps to place crossings.
    """
    sizes, rows, columns = np.intersect1d(one.sizes, other.sizes, return_indices=True)
    if not len(sizes):
        return None
    axis = Axis.of(sizes)
    ratios, processes = _paired(one, other, rows, columns)
    if one.is_exact and other.is_exact:
        return _exactly(one, other, sizes, np.nanmedian(ratios, axis=1), law)
    level = level_of(ratios, processes, one.is_ours and other.is_ours and one.metric in TIMED)
    smooth = level.through(_smoother(axis.positions))
    strength = np.abs(smooth.typical) / np.maximum(smooth.reach(lead_share(len(sizes))), EFFECT)
    signs = np.where(strength > 1, np.sign(smooth.typical), 0).astype(int)
    signs = _without_flukes(signs, level.typical, strength)
    if one.metric not in TIMED:
        signs[np.nanmax(np.abs(ratios), axis=1) == 0] = 0  # counts may be equal each time
    found = _crossings((one.contender, other.contender), axis, level, signs, law)
    ratio, reach = np.exp(level.typical), np.exp(level.reach())
    zones = _zones(sizes, signs, [crossing.size for crossing in found])
    return PairComparison(
        one.contender, other.contender, sizes, ratio, ratio / reach, ratio * reach, found, zones, smooth
    )


def _exactly(one: Series, other: Series, sizes: Floats, ratios: Floats, law: Law | None) -> PairComparison:
    """Compare counts that repeat."""
    ratio, names = np.exp(ratios), (one.contender, other.contender)
    found = exactly.borders(names, sizes, ratios, law)
    zones = tuple(SizeRange(*leading) for leading in exactly.ranges(sizes, ratios, found))
    return PairComparison(*names, sizes, ratio, ratio, ratio, tuple(found), zones)


def _paired(
    one: Series, other: Series, rows: NDArray[np.intp], columns: NDArray[np.intp]
) -> tuple[Floats, NDArray[np.int32]]:
    """Log ratios of the heats that both took part in, and the process of each heat.

    A size with hardly any such heat gets the ratio of the medians.
    """
    _, left, right = np.intersect1d(one.heats, other.heats, return_indices=True)
    costs, others = one.costs[np.ix_(rows, left)], other.costs[np.ix_(columns, right)]
    none = ((costs <= 0) | (others <= 0)).any(axis=1, keepdims=True) * NONE
    ratios = np.log(costs + none) - np.log(others + none)
    processes = one.processes[left]
    bare = np.isfinite(ratios).sum(axis=1) == 0
    if bare.any():
        unpaired = np.log(one.typical[rows]) - np.log(other.typical[columns])
        ratios = np.concatenate([ratios, np.where(bare, unpaired, np.nan)[:, None]], axis=1)
        processes = np.append(processes, np.int32(0))
    there = np.isfinite(ratios).any(axis=0)
    return np.asarray(ratios[:, there], dtype=np.float64), processes[there]


def _smoother(x: Floats) -> Floats:
    """What makes of levels the straight lines through the sizes around, at each size; shape (m, m).

    Neighbouring sizes tell much the same about who leads; together they tell it more surely. The weights are
    the tricube's: Cleveland, Journal of the American Statistical Association 74 (1979), 829-836.
    """
    made = np.zeros((len(x), len(x)))
    for index in range(len(x)):
        near = np.arange(max(0, index - NEIGHBOURS), min(len(x), index + NEIGHBOURS + 1))
        reach = 1.5 * float(np.abs(x[near] - x[index]).max()) + 1e-9
        weight = (1 - (np.abs(x[near] - x[index]) / reach) ** 3) ** 3
        design = np.vander(x[near] - x[index], 2 if len(near) > 2 else 1)
        line = np.linalg.pinv(design * np.sqrt(weight)[:, None]) * np.sqrt(weight)
        made[index, near] = line[-1]
    return made


def _without_flukes(signs: NDArray[np.int_], typical: Floats, strength: Floats) -> NDArray[np.int_]:
    """A single size against both its neighbours is noise, as is one barely clear size among many that are not."""
    kept = signs.copy()
    clear = np.flatnonzero(signs)
    for position, index in enumerate(clear):
        neighbours = [signs[clear[at]] for at in (position - 1, position + 1) if 0 <= at < len(clear)]
        if len(neighbours) == 2 and all(sign == -signs[index] for sign in neighbours):
            kept[index] = 0
        beside = [at for at in (index - 1, index + 1) if 0 <= at < len(signs)]
        barely = len(signs) > 3 and strength[index] < STRONG
        if barely and beside and all(signs[at] == 0 and np.sign(typical[at]) == -signs[index] for at in beside):
            kept[index] = 0
    return kept


def _crossings(
    names: tuple[str, str],
    axis: Axis,
    level: Level,
    signs: NDArray[np.int_],
    law: Law | None,
) -> tuple[Crossing, ...]:
    found = []
    for left, right in pairwise(np.flatnonzero(signs)):
        if signs[left] == signs[right]:
            continue
        size, low, high = locate(axis, level, (int(left), int(right)), law)
        before, after = names if signs[left] < 0 else names[::-1]
        found.append(Crossing(before, after, size, low, high))
    return tuple(found)


def _zones(sizes: Floats, signs: NDArray[np.int_], crossings: list[float]) -> tuple[SizeRange, ...]:
    """Who leads where: from one clear size to the next of the same sign, split at crossings, ties at the ends."""
    clear = np.flatnonzero(signs)
    if not len(clear):
        return (SizeRange(float(sizes[0]), float(sizes[-1]), 0),)
    zones = []
    if clear[0] > 1:
        zones.append(SizeRange(float(sizes[0]), float(sizes[clear[0] - 1]), 0))
    start = float(sizes[clear[0]] if clear[0] > 1 else sizes[0])
    sign = int(signs[clear[0]])
    for crossing in crossings:
        zones.append(SizeRange(start, crossing, sign))
        start, sign = math.nextafter(crossing, math.inf), -sign
    last = int(clear[-1])
    end = len(sizes) - 1 if len(sizes) - 1 - last <= 1 else last
    zones.append(SizeRange(start, float(sizes[end]), sign))
    if end < len(sizes) - 1:
        zones.append(SizeRange(float(sizes[end + 1]), float(sizes[-1]), 0))
    return tuple(zones)
