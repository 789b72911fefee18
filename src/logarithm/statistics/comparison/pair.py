"""PairComparisons: two contenders compared size by size, with who leads where.

They are compared by the logarithm of the ratio of their costs in the same heat. The sizes at which its level clearly
lies on one side show who leads, and between which of them the lead changes. How sure a level is, `errors` says.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from itertools import groupby, pairwise

import numpy as np
from numpy.typing import NDArray

from ...notation.metrics import TIMED
from ...results.pairs import TIE_WITHIN
from ..readings.arrays import Floats, median
from ..readings.series import NONE, Series
from ..uncertainty.level import Level, level_of
from ..uncertainty.repeated_looks import lead_share
from . import exact as exactly
from .crossover import Axis, Crossing, Law, locate

EFFECT = 0.01  # and by how much, so that a tiny difference between many trials is not called a lead
STRONG = 2.0  # so many times what is needed to be clear
NEIGHBOURS = 2  # sizes on either side that help to tell who leads
PLACED = 4  # sizes: of fewer no curve is drawn, and a crossing lies somewhere between two of them
TIED = 2  # of a size, beside -1 and 1 for a leader and 0 for what is not known


@dataclass(frozen=True, slots=True)
class SizeRange:
    """Over sizes `start` to `end` (inclusive, measured), `sign` is -1 where one leads, 1 the other, else 0.

    Where nobody leads it is a tie, or not known.
    """

    start: float
    end: float
    sign: int
    is_tie: bool = False


@dataclass(frozen=True, slots=True)
class PairComparison:
    """Two contenders compared on one family.

    Attributes:
        one, other: their names.
        sizes: those that both were measured at, shape (m,).
        ratio: the typical cost of `one` over that of `other`, shape (m,), with `low` and `high` for 95 %.
        crossings: by rising size.
        zones: who leads over which sizes, by rising size; together they cover all sizes that tell.
        tells: at which sizes both have trials enough for a verdict, shape (m,).
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
    tells: NDArray[np.bool_]
    smooth: Level | None = None

    def zone(self, size: float) -> SizeRange | None:
        """What holds at a size, None beyond those that tell; between two of them what holds at the one below."""
        if not self.zones or not self.zones[0].start <= size <= self.zones[-1].end:
            return None
        return max((each for each in self.zones if each.start <= size), key=lambda each: each.start)

    def sign(self, size: float) -> int:
        """-1 where `one` leads at a size, 1 where `other` does, 0 where that is a tie or not known."""
        found = self.zone(size)
        return found.sign if found is not None else 0

    def _telling(self) -> tuple[Axis, Floats]:
        """The sizes that tell, and the logarithm of the ratio by which leads are judged at them."""
        ratios = np.log(self.ratio[self.tells]) if self.smooth is None else self.smooth.typical[self.tells]
        return Axis.of(self.sizes[self.tells]), ratios

    @property
    def is_closing(self) -> bool:
        """Whether, over the upper half of the sizes that tell, the one behind comes nearer to the leader."""
        axis, ratios = self._telling()
        if len(ratios) < PLACED:
            return False
        upper = axis.positions >= (axis.positions[0] + axis.positions[-1]) / 2
        slope = np.polyfit(axis.positions[upper], ratios[upper], 1)[0] if upper.sum() > 1 else 0.0
        return bool(slope * ratios[-1] < 0)

    def curve(self) -> list[list[float]]:
        """The ratio by which leads are judged, at the sizes that tell: [size, ratio, low, high], with 95 %."""
        if self.smooth is None:
            return [[float(n), *[float(r)] * 3] for n, r in zip(self.sizes, self.ratio, strict=True)]
        ratio, reach = self.smooth.typical, self.smooth.reach()
        three = np.exp(np.stack([ratio, ratio - reach, ratio + reach], axis=1))
        return [[float(n), *map(float, row)] for n, row in zip(self.sizes[self.tells], three[self.tells], strict=True)]

    def log_ratio(self, size: float) -> float | None:
        """The logarithm of the cost of `one` over that of `other`, with the help of neighbouring sizes.

        Between two sizes that tell it lies on a straight line; None beyond them.
        """
        axis, ratios = self._telling()
        if not len(ratios) or not axis.sizes[0] <= size <= axis.sizes[-1]:
            return None
        return float(np.interp(axis.position(size), axis.positions, ratios))

    def spans(self, start: float, end: float) -> tuple[float, float]:
        """Between which values the ratio lies over sizes `start` to `end`, with 95 % at each; 0 and inf of none."""
        here = (self.sizes >= start) & (self.sizes <= end) & self.tells
        if not here.any():
            return 0.0, math.inf
        return float(self.low[here].min()), float(self.high[here].max())

    def within(self, start: float, end: float) -> float:
        """By which share the two differ at most over sizes `start` to `end`, with the help of neighbouring sizes."""
        here = (self.sizes >= start) & (self.sizes <= end) & self.tells
        if not here.any():
            return math.inf
        if self.smooth is None:
            return float(max(self.high[here].max(), (1 / self.low[here]).max())) - 1
        return math.expm1(float((np.abs(self.smooth.typical) + self.smooth.reach())[here].max()))


def pair_of(pairs: Mapping[tuple[str, str], PairComparison], one: str, other: str) -> PairComparison | None:
    """What is known of two contenders, whichever of them it names first."""
    return pairs.get((one, other)) or pairs.get((other, one))


def beaten(pairs: Mapping[tuple[str, str], PairComparison], size: float) -> set[str]:
    """The contenders that another one clearly beats at a size."""
    signs = ((names, each.sign(size)) for names, each in pairs.items())
    return {names[1] if sign < 0 else names[0] for names, sign in signs if sign}


def compare_pair(one: Series, other: Series, law: Law | None = None) -> PairComparison | None:
    """Compare two contenders' costs; None where they have no size in common.

    Args:
        one, other: their costs.
        law: the log ratio of their fitted costs, where growth is known; it helps to place crossings.
    """
    sizes, rows, columns = np.intersect1d(one.sizes, other.sizes, return_indices=True)
    if not len(sizes):
        return None
    names = one.contender, other.contender
    ratios, processes = paired(one, other, rows, columns)
    if one.is_exact and other.is_exact:
        return _exactly(one, other, sizes, median(ratios), law)
    tells = one.tells[rows] & other.tells[columns]
    at = np.flatnonzero(tells)
    axis = Axis.of(sizes[at])
    level = level_of(ratios, processes, one.is_ours and other.is_ours and one.metric in TIMED)
    if len(at):
        every = Axis.of(sizes)
        level = level.scattered(every.positions, every.is_log)
    # A size with too few trials helps no neighbour.
    weights = np.eye(len(sizes))
    weights[np.ix_(at, at)] = smoother(axis.positions)
    smooth = level.through(weights)
    told = smooth.at(at)
    reach = told.reach()
    strength = np.abs(told.typical) / np.maximum(told.reach(lead_share(len(at))), EFFECT)
    signs = np.where(strength > 1, np.sign(told.typical), 0).astype(int)
    signs = _without_flukes(signs, level.typical[at], strength)
    if one.metric not in TIMED:
        signs[np.nanmax(np.abs(ratios[at]), axis=1) == 0] = 0  # counts may be equal each time
    weak = np.where(np.abs(told.typical) > reach, np.sign(told.typical), 0).astype(int)
    signs[(signs == 0) & (np.abs(told.typical) + reach <= math.log1p(TIE_WITHIN))] = TIED
    found, zones = _ranges(names, axis, level.at(at), _Signs(signs, weak, np.sign(told.typical).astype(int)), law)
    ratio, apart = np.exp(level.typical), np.exp(level.reach())
    return PairComparison(*names, sizes, ratio, ratio / apart, ratio * apart, tuple(found), tuple(zones), tells, smooth)


def _exactly(one: Series, other: Series, sizes: Floats, ratios: Floats, law: Law | None) -> PairComparison:
    """Compare counts that repeat."""
    ratio, names = np.exp(ratios), (one.contender, other.contender)
    found = exactly.borders(names, sizes, ratios, law)
    zones = tuple(
        SizeRange(start, end, sign, is_tie=sign == 0) for start, end, sign in exactly.ranges(sizes, ratios, found)
    )
    all_tell = np.ones(len(sizes), dtype=np.bool_)
    return PairComparison(*names, sizes, ratio, ratio, ratio, tuple(found), zones, all_tell)


def paired(
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


def smoother(x: Floats) -> Floats:
    """What makes of levels the straight lines through the sizes around, at each size; shape (m, m).

    Neighbouring sizes tell much the same about who leads; together they tell it more surely. The weights are
    the tricube's: Cleveland, Journal of the American Statistical Association 74 (1979), 829-836.
    """
    if len(x) < 2:
        return np.ones((len(x), len(x)))
    apart, place = x - x[:, None], np.arange(len(x))
    near = np.abs(place - place[:, None]) <= NEIGHBOURS
    reach = 1.5 * np.abs(apart).max(axis=1, keepdims=True, where=near, initial=0.0) + 1e-9
    weights = near * (1 - np.minimum(np.abs(apart) / reach, 1.0) ** 3) ** 3
    # The height at its middle of the line that fits best, by the sums of its normal equations.
    zeroth, first, second = ((weights * apart**power).sum(axis=1, keepdims=True) for power in range(3))
    return np.asarray(weights * (second - apart * first) / (zeroth * second - first**2), dtype=np.float64)


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


@dataclass(frozen=True, slots=True)
class _Signs:
    """Of each size: who clearly leads or that it is a tie; who seems to, with 95 % at this size alone; who is ahead."""

    clear: NDArray[np.int_]
    weak: NDArray[np.int_]
    ahead: NDArray[np.int_]

    def first(self) -> int:
        """The first size of the first lead: a single size before it that is not clear, but where it is ahead, too."""
        at = int(np.flatnonzero(np.abs(self.clear) == 1)[0])
        return 0 if at == 1 and not self.clear[0] and self.ahead[0] == self.clear[1] else at

    def last(self) -> int:
        """The last size of the last lead: the first one from the other end."""
        return len(self.clear) - 1 - _Signs(self.clear[::-1], self.weak[::-1], self.ahead[::-1]).first()


def _ranges(
    names: tuple[str, str], axis: Axis, level: Level, signs: _Signs, law: Law | None
) -> tuple[list[Crossing], list[SizeRange]]:
    """Where the lead changes, and who leads where; a lead goes on from one clear size to the next of the same sign."""
    sizes, clear, weak = axis.sizes, signs.clear, signs.weak
    leads = [int(each) for each in np.flatnonzero(np.abs(clear) == 1)]
    found: list[Crossing] = []
    if not leads:
        return found, [*_undecided(sizes, clear)]
    first, last = signs.first(), signs.last()
    zones = [*_undecided(sizes[:first], clear[:first])]
    start = float(sizes[first])
    for left, right in pairwise(leads):
        sign = int(clear[left])
        between = range(left + 1, right)
        if clear[right] == sign:
            against = [at for at in between if weak[at] == -sign]
            if against:
                zones.append(SizeRange(start, float(sizes[against[0] - 1]), sign))
                zones.append(SizeRange(float(sizes[against[0]]), float(sizes[against[-1]]), 0))
                start = float(sizes[against[-1] + 1])
            continue
        before, after = names if sign < 0 else names[::-1]
        # The lead changes between the last size at which the one seems ahead and the first at which the other does.
        low = float(sizes[max(at for at in (left, *between) if at == left or weak[at] == sign)])
        high = float(sizes[min(at for at in (*between, right) if at == right or weak[at] == -sign)])
        if len(sizes) < PLACED or low > high:
            low, high = float(sizes[left]), float(sizes[right])
            found.append(Crossing(before, after, axis.middle([low, high]), low, high, is_bracket=True))
            zones.append(SizeRange(start, low, sign))
            zones += _undecided(sizes[left + 1 : right], np.where(clear[left + 1 : right] == TIED, TIED, 0))
            start = high
            continue
        at, *ends = (min(max(end, low), high) for end in locate(axis, level, (left, right), law))
        found.append(Crossing(before, after, at, ends[0], ends[1]))
        # A measured size at the border belongs to the one that seems ahead there.
        zones.append(SizeRange(start, at if at < high else math.nextafter(at, -math.inf), sign))
        start = at if at >= high else math.nextafter(at, math.inf)
    zones.append(SizeRange(start, float(sizes[last]), int(clear[leads[-1]])))
    return found, [*zones, *_undecided(sizes[last + 1 :], clear[last + 1 :])]


def _undecided(sizes: Floats, signs: NDArray[np.int_]) -> Iterator[SizeRange]:
    """Ranges of sizes without a leader: ties, and what is not known."""
    for sign, group in groupby(range(len(sizes)), key=lambda at: int(signs[at])):
        rows = list(group)
        yield SizeRange(float(sizes[rows[0]]), float(sizes[rows[-1]]), 0, sign == TIED)
