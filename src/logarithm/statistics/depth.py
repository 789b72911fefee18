"""A logbook in depth: everything that was tried for one growth, two contenders size by size, lines of code."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from ..errors import LogarithmError
from ..notation import words
from ..notation.sizes import plain
from ..results.base import Interval
from ..results.tasks.depth import (
    Candidate,
    GrowthInDepth,
    GrowthsInDepth,
    Lines,
    PairInDepth,
    PairsInDepth,
    SizeFit,
    SizeRatio,
)
from .forecasts import fitted
from .growth.fit import Growth
from .maps.depth import map_pairs
from .readings.series import Series
from .work.lines import lines

if TYPE_CHECKING:
    from .analysis import Analysis


def pairs_in_depth(analysis: Analysis, contenders: Sequence[str] = (), families: Sequence[str] = ()) -> PairsInDepth:
    """Two contenders in depth: every crossover, who leads where, the ratio at each size.

    Args:
        analysis: of the logbook.
        contenders: two, one against all others, or all pairs.
        families: all where there are none.

    Raises:
        LogarithmError: where no two were measured at the same sizes.
    """
    logbook = analysis.logbook
    if logbook.slices:
        return map_pairs(analysis, contenders, families)
    findings, comparisons = analysis.findings(contenders=contenders), analysis.comparisons(contenders)
    made = []
    for pair in findings.pairs:
        names, asked = {pair.one, pair.other}, set(contenders)
        if (families and pair.family not in families) or (asked and not names & asked):
            continue
        if len(contenders) > 1 and not names <= asked:
            continue
        found = comparisons[pair.place][pair.one, pair.other]
        rows = zip(found.sizes, found.ratio, found.low, found.high, strict=True)
        ratios = [SizeRatio(plain(n), Interval(float(r), float(low), float(high))) for n, r, low, high in rows]
        where = pair.place
        crossovers = [
            each for each in findings.crossovers if each.place == where and {each.before, each.after} == names
        ]
        made.append(PairInDepth(pair, crossovers, ratios))
    if not made:
        raise LogarithmError(f"{logbook.path} has no two contenders measured at the same sizes to compare there")
    axis = words.axis(findings.study.axis)
    return PairsInDepth(str(logbook.path), axis, made)


def growth_in_depth(analysis: Analysis, contenders: Sequence[str] = (), families: Sequence[str] = ()) -> GrowthsInDepth:
    """Growth in depth: every order that was tried, residuals and local exponents by size.

    Raises:
        AnalysisError: where nothing can be fitted.
    """
    curves = [_curve(series, found) for series, found in fitted(analysis, contenders, families)]
    return GrowthsInDepth(str(analysis.logbook.path), curves)


def _curve(series: Series, found: Growth) -> GrowthInDepth:
    names = series.key
    weights = {str(fit.order): weight for fit, weight in found.plausible}
    others = [fit for fit in found.candidates if str(fit.order) not in weights]
    slopes = np.gradient(np.log(series.typical), np.log(series.sizes))
    costs = found.cost(series.sizes)
    exponent = found.exponent
    return GrowthInDepth(
        *names,
        candidates=[
            Candidate(
                *names,
                order=str(fit.order),
                weight=weights.get(str(fit.order), 0.0),
                fixed=fit.fixed,
                linear=fit.linear,
                scale=fit.scale,
                miss=fit.miss,
                misfit=fit.misfit,
            )
            for fit in [*(fit for fit, _ in found.plausible), *others]
        ],
        sizes=[
            SizeFit(plain(n), float(y), float(y / c - 1) if n >= found.since else None, float(slope))
            for n, y, c, slope in zip(series.sizes, series.typical, costs, slopes, strict=True)
        ],
        exponent=Interval(exponent.value, exponent.low, exponent.high),
        law=Interval(exponent.value, exponent.law_low, exponent.law_high),
        advice=found.advice,
    )


def lines_in_depth(analysis: Analysis, contenders: Sequence[str] = (), families: Sequence[str] = ()) -> Lines:
    """Which lines of the code the growth of some contenders comes from.

    Raises:
        LogarithmError: where lines were not counted.
    """
    path = str(analysis.logbook.path)
    found = [
        each
        for each in lines(analysis.logbook)
        if (not contenders or each.contender in contenders) and (not families or each.family in families)
    ]
    if not found:
        raise LogarithmError(f"{path} has no counts by line: measure with --metric steps")
    return Lines(path, found)
