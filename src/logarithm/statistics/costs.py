"""Costs, single trials and failures, as findings show them."""

from __future__ import annotations

import numpy as np

from ..logbook.records import Failure
from ..notation.sizes import plain
from ..results.base import Interval
from ..results.findings import Cost, Costs, FailureFinding, Sample
from ..results.tasks.machine import OTHERS_QUIET
from .comparison.bands import band_of
from .comparison.pairs import PairComparisons, places
from .growth.fit import Growth
from .readings.series import Series

CURVE_POINTS, SAMPLE_MOST = 32, 200


def costs_of(
    series: Series,
    growth: Growth | None,
    reference: str,
    comparisons: PairComparisons,
    counted: Series | None,
    wall: Series | None,
) -> Costs:
    """The costs of a series, size by size.

    Args:
        series: the trials.
        growth: how they grow, for the curve.
        reference: the contender that ratios are against.
        comparisons: the comparisons of all pairs.
        counted: the work behind them.
        wall: the time that passed, where others had the processor for some of it.
    """
    passed = {} if wall is None else dict(zip(wall.sizes.tolist(), wall.typical.tolist(), strict=True))
    low, typical, high = series.quantiles(0.25, 0.5, 0.75)
    against = comparisons[series.place]
    ratios: dict[float, Interval] = {}
    band: list[list[float]] = []
    # How many times as fast: the baseline's cost over this one's.
    swapped = (reference, series.contender) not in against
    found = against.get((series.contender, reference) if swapped else (reference, series.contender))
    if found is not None:
        three = (1 / found.ratio, 1 / found.high, 1 / found.low) if swapped else (found.ratio, found.low, found.high)
        rows = zip(found.sizes, *three, strict=True)
        ratios = {float(n): Interval(value=float(r), low=float(a), high=float(b)) for n, r, a, b in rows}
        band = band_of(found, swapped)
    curve: list[list[float]] = []
    if growth is not None and series.sizes[-1] > growth.since > 0:
        at = np.geomspace(growth.since, series.sizes[-1], CURVE_POINTS)
        at = np.unique(np.round(at)) if growth.exact is not None else at
        curve = [[float(n), float(cost)] for n, cost in zip(at, growth.cost(at), strict=True)]
    return Costs(
        contender=series.contender,
        family=series.family,
        metric=series.metric,
        stage=series.stage,
        points=[
            Cost(
                size=plain(size),
                typical=float(typical[row]),
                low=float(low[row]),
                high=float(high[row]),
                rounds=int(np.isfinite(series.costs[row]).sum()),
                processes=len(np.unique(series.processes[np.isfinite(series.costs[row])])),
                ratio=ratios.get(float(size)),
                wall=_if_longer(passed.get(float(size)), float(typical[row])),
            )
            for row, size in enumerate(series.sizes)
        ],
        fitted=curve,
        work=(
            [[float(n), float(count)] for n, count in zip(counted.sizes, counted.typical, strict=True)]
            if counted is not None and series.metric == "time"
            else []
        ),
        band=band,
    )


def _if_longer(wall: float | None, own: float) -> float | None:
    """The time that passed, where it was clearly longer than own time."""
    return wall if wall is not None and wall > (1 + OTHERS_QUIET) * own else None


def samples_of(series: list[Series], size: float | None) -> list[Sample]:
    """Single trials at one size of each place, at most so many of each contender."""
    made = []
    for group in places(series).values():
        common = set.intersection(*(set(map(float, each.sizes)) for each in group))
        at = size if size is not None else max(common or set(map(float, group[0].sizes)))
        for each in group:
            for row in np.flatnonzero(each.sizes == at):
                values = each.costs[row][np.isfinite(each.costs[row])][:SAMPLE_MOST]
                names = each.contender, each.family, each.metric, each.stage
                made.append(Sample(*names, plain(at), [float(value) for value in values]))
    return made


def failure_of(failure: Failure, series: list[Series]) -> FailureFinding:
    """A failure, with the largest size that is known to work."""
    measured = [
        plain(each.sizes[-1])
        for each in series
        if (each.contender, each.family) == (failure.contender, failure.family) and len(each.sizes)
    ]
    works = [*measured, *([failure.works] if failure.works is not None else [])]
    return FailureFinding(
        contender=failure.contender,
        family=failure.family,
        size=plain(failure.size),
        reason=failure.reason,
        detail=failure.detail,
        works=max((size for size in works if size < failure.size), default=None),
    )
