"""Versions of one job: each step against the version before and against the first, from trials of the same heats."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from ...notation.sizes import plain
from ...results.base import Interval
from ...results.findings import GrowthFinding
from ...results.versions import VersionStep
from ..comparison.pair import PairComparison, pair_of
from ..comparison.pairs import PairComparisons, places
from ..readings.series import Series, shared_sizes

Pairs = Mapping[tuple[str, str], PairComparison]


def versions_of(
    names: Sequence[str], series: list[Series], comparisons: PairComparisons, growth: Sequence[GrowthFinding]
) -> Iterator[VersionStep]:
    """What each version brought, place by place, in the order of the versions.

    Args:
        names: of the versions, the first one first.
        series: their costs.
        comparisons: of all pairs.
        growth: how each cost grows.
    """
    orders = {each.key: each.order for each in growth}
    for place, group in places(series).items():
        there = {each.contender: each for each in group if each.contender in names}
        own = [there[name] for name in names if name in there]
        if len(own) < 2:
            continue
        # Where too few trials tell of any size, costs stand without a factor.
        shared = shared_sizes(each.sizes[each.tells] for each in own) or shared_sizes(each.sizes for each in own)
        if not shared:
            continue
        size = max(shared)
        pairs = comparisons.get(place, {})
        for at, each in enumerate(own):
            before = _factor(pairs, own[at - 1].contender, each.contender, size) if at else None
            first = _factor(pairs, own[0].contender, each.contender, size) if at else None
            pair = pair_of(pairs, own[at - 1].contender, each.contender) if at else None
            yield VersionStep(
                contender=each.contender,
                family=place[0],
                stage=place[1],
                metric=place[2],
                size=plain(size),
                cost=float(each.typical[each.sizes == size][0]),
                before=before,
                first=first,
                is_clear=pair is not None and bool(pair.sign(size)),
                order=orders.get(each.key),
            )


def _factor(pairs: Pairs, then: str, now: str, size: float) -> Interval | None:
    """The cost of a version over that of an earlier one at a size; None where they were not compared there."""
    pair = pair_of(pairs, then, now)
    row = None if pair is None else next((row for row in pair.curve() if row[0] == size), None)
    if pair is None or row is None:
        return None
    ratio, low, high = row[1:]
    return Interval(ratio, low, high) if pair.one == now else Interval(1 / ratio, 1 / high, 1 / low)
